//! Which membrane mode a measured partial is likeliest to be.

use crate::numeric::bessel_zero;
use crate::tone::Mode;
use crate::tone::{HeardBy, Partial};
use std::sync::LazyLock;

/// (m, n, zero) of the modes that still lie far enough apart to be told from one another, low to high.
static CANDIDATES: LazyLock<Vec<(usize, usize, f64)>> = LazyLock::new(|| {
    let mut zeros: Vec<(usize, usize, f64)> = [(1, 1), (2, 1), (0, 2), (3, 1), (1, 2), (4, 1), (2, 2), (0, 3), (5, 1), (3, 2), (6, 1)]
        .iter()
        .map(|&(m, n)| (m, n, bessel_zero(m, n)))
        .collect();
    zeros.sort_by(|a, b| a.2.total_cmp(&b.2));
    zeros
});

const TOLERANCE: f64 = 0.035;
/// Where (1,1) may lie against the body, and where it usually does: 1.59 on an ideal membrane, moved by the lower head's
/// pitch, air load and the air between the heads (common practice, no published source).
const FIRST_RING: std::ops::Range<f64> = 1.2..2.1;
const USUAL_FIRST_RING: f64 = 1.55;
const FIRST_RING_LN_SD: f64 = 0.15;
const WEAKEST_DB: f64 = -50.0;

/// Labels `partials` (low to high): the body is (0,1); the others are matched to the ratios of an ideal membrane, whose scale
/// is the one that explains most of what is loud. A partial that fits none keeps no label.
pub fn label_modes(partials: &mut [Partial]) {
    let Some(body) = HeardBy::Partials.body(partials) else { return };
    let body_hz = partials[body].hz;
    let scale = partials
        .iter()
        .filter(|p| FIRST_RING.contains(&(p.hz / body_hz)))
        .map(|p| p.hz / CANDIDATES[0].2)
        .max_by(|a, b| explained(partials, body_hz, *a).total_cmp(&explained(partials, body_hz, *b)));
    partials[body].tone = Some(Mode::alone(0, 1).into());
    let Some(scale) = scale else { return };
    let matches: Vec<Option<usize>> = partials.iter().map(|p| if p.hz > 1.15 * body_hz { nearest(p.hz / scale) } else { None }).collect();
    for (candidate, (m, n, zero)) in CANDIDATES.iter().enumerate() {
        let mut fitting: Vec<usize> = (0..partials.len()).filter(|i| matches[*i] == Some(candidate)).collect();
        fitting.sort_by(|a, b| (partials[*a].hz / scale - zero).abs().total_cmp(&(partials[*b].hz / scale - zero).abs()));
        // Modes with nodal diameters come in pairs.
        for i in fitting.into_iter().take(if *m == 0 { 1 } else { 2 }) {
            partials[i].tone = Some(Mode::alone(*m as u8, *n as u8).into());
        }
    }
}

/// What `scale` explains: loudness of the partials that fall on a mode, weighed by how usual it would be.
fn explained(partials: &[Partial], body_hz: f64, scale: f64) -> f64 {
    let unusual = (scale * CANDIDATES[0].2 / body_hz / USUAL_FIRST_RING).ln() / FIRST_RING_LN_SD;
    let fitting: f64 = partials
        .iter()
        .filter(|p| p.hz > 1.15 * body_hz)
        .filter_map(|p| nearest(p.hz / scale).map(|i| (p, CANDIDATES[i].2)))
        .map(|(p, zero)| (p.level_db - WEAKEST_DB).max(0.0) * (1.0 - ((p.hz / scale / zero - 1.0) / TOLERANCE).powi(2)))
        .sum();
    fitting * (-0.5 * unusual * unusual).exp()
}

/// The candidate that `zero` belongs to, if it is clearly one.
fn nearest(zero: f64) -> Option<usize> {
    let distance = |i: usize| (zero / CANDIDATES[i].2 - 1.0).abs();
    let best = (0..CANDIDATES.len()).min_by(|a, b| distance(*a).total_cmp(&distance(*b)))?;
    let gap = (0..CANDIDATES.len()).filter(|i| *i != best).map(|i| (CANDIDATES[i].2 / CANDIDATES[best].2 - 1.0).abs()).fold(1.0, f64::min);
    (distance(best) < TOLERANCE.min(0.5 * gap)).then_some(best)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tom_with_a_lowered_body_and_a_stranger_is_labelled() {
        let partial =
            |hz: f64, level_db: f64| Partial { hz, t60_s: Some(0.8), t60_sd_s: Some(0.01), t60_scatter_s: None, level_db, tone: None };
        // Scale from (1,1) = 190 Hz; the body lies lower than an ideal membrane's would, 233 Hz belongs to nothing.
        let mut partials =
            vec![partial(112.0, 0.0), partial(190.0, -6.0), partial(222.0, -30.0), partial(255.5, -8.0), partial(317.0, -15.0)];
        label_modes(&mut partials);
        let labels: Vec<Option<String>> = partials.iter().map(|p| p.tone.map(|tone| tone.to_string())).collect();
        assert_eq!(labels, [Some("(0,1)"), Some("(1,1)"), None, Some("(2,1)"), Some("(3,1)")].map(|name| name.map(String::from)));
    }
}
