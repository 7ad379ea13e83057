//! What openings that were measured before and after teach about how much they take.

use super::openings::{FrontPredictor, OPENING_LN_SD};
use crate::drum::{Drum, Front};
use crate::numeric::LogNormal;
use crate::tone::nearest;
use crate::tone::{DecayProfile, Partial};
use rayon::prelude::*;

/// A drum measured before and after its other end was closed otherwise.
#[derive(Debug, Clone, PartialEq)]
pub struct FrontTrial {
    /// The drum as it was before, measured.
    pub drum: Drum,
    /// Partials before it.
    pub before: Vec<Partial>,
    /// The drum's figures before it.
    pub before_profile: DecayProfile,
    /// How the other end is closed.
    pub front: Front,
    /// Partials after it.
    pub after: Vec<Partial>,
}

/// Doubt of one comparison: model and measurement together, of a decay time's logarithm (docs/METHOD.md).
const TRIAL_LN_SD: f64 = 0.15;
/// The grid on which the posterior is worked out reaches so many standard deviations of the prior either way, in so many steps; at every so many
/// of them the body is followed, and between those its decay time's logarithm is taken as straight.
const WIDTH: f64 = 3.0;
const GRID: usize = 64;
const FOLLOWED_EVERY: usize = 8;
/// How far a found body may lie from the expected pitch, as a part of it.
const SAME_BODY: f64 = 0.25;

/// What openings take, against what they are thought to, after `trials`: Bayes's rule on a
/// grid, with the body's decay time of each trial as its evidence.
pub fn opening_strength(trials: &[FrontTrial]) -> LogNormal {
    let point = |i: usize| WIDTH * OPENING_LN_SD * (2.0 * i as f64 / GRID as f64 - 1.0);
    let points: Vec<f64> = (0..=GRID).map(point).collect();
    let mut log_weight: Vec<f64> = points.iter().map(|x| -0.5 * (x / OPENING_LN_SD).powi(2)).collect();
    for trial in trials {
        let Some(predictor) = FrontPredictor::new(&trial.drum, &trial.before, &trial.before_profile) else { continue };
        // The body that was found must be the one that is meant, or the trial tells nothing.
        let Some((hz, _)) = predictor.body(&trial.front, 0.0) else { continue };
        let found = nearest(&trial.after, hz).filter(|p| (p.hz / hz - 1.0).abs() < SAME_BODY).and_then(|p| p.t60_s);
        let Some(found) = found else { continue };
        let bodies: Vec<Option<f64>> = (0..=GRID / FOLLOWED_EVERY)
            .into_par_iter()
            .map(|k| predictor.body(&trial.front, point(k * FOLLOWED_EVERY)).map(|(_, t60_s)| t60_s.ln()))
            .collect();
        let expected_ln = |i: usize| {
            let (k, on) = (i / FOLLOWED_EVERY, (i % FOLLOWED_EVERY) as f64 / FOLLOWED_EVERY as f64);
            let here = bodies[k]?;
            Some(here + on * (bodies.get(k + 1).copied().flatten().unwrap_or(here) - here))
        };
        for (i, weight) in log_weight.iter_mut().enumerate() {
            // Student's t with four degrees of freedom: a bad take moves little.
            let off = expected_ln(i).map_or(f64::MAX.sqrt(), |expected| (found.ln() - expected) / TRIAL_LN_SD);
            *weight -= 2.5 * (1.0 + off * off / 4.0).ln();
        }
    }
    let most = log_weight.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let weights: Vec<f64> = log_weight.iter().map(|x| (x - most).exp()).collect();
    let all: f64 = weights.iter().sum();
    let mean = points.iter().zip(&weights).map(|(x, w)| x * w).sum::<f64>() / all;
    let variance = points.iter().zip(&weights).map(|(x, w)| (x - mean).powi(2) * w).sum::<f64>() / all;
    LogNormal { ln: mean, sd: variance.sqrt() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::tone::Tone;

    fn partial(hz: f64, t60_s: f64, mode: &str) -> Partial {
        Partial { hz, t60_s: Some(t60_s), t60_sd_s: Some(0.01), t60_scatter_s: None, level_db: 0.0, tone: Tone::read(mode) }
    }

    #[test]
    fn trials_draw_the_strength_to_what_was_found_and_a_mistake_does_not() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        let before = vec![partial(62.0, 0.8, "(0,1)"), partial(93.0, 0.9, "(1,1)"), partial(125.0, 0.7, "(2,1)")];
        let before_profile = DecayProfile::of_partials(&before);
        let front = Front::usual_port(6.0, 22.0);
        let predictor = FrontPredictor::new(&drum, &before, &before_profile).unwrap();
        let trial = |t60_s: f64, hz: f64| FrontTrial {
            drum: drum.clone(),
            before: before.clone(),
            before_profile: before_profile.clone(),
            front: front.clone(),
            after: vec![partial(hz, t60_s, "(0,1)")],
        };
        let (hz, _) = predictor.body(&front, 0.0).unwrap();
        let (_, strong) = predictor.body(&front, 0.6).unwrap();
        let LogNormal { ln: mean, sd } = opening_strength(&[trial(strong, hz), trial(strong, hz)]);
        assert!((0.4..0.65).contains(&mean) && sd < 0.5 * OPENING_LN_SD, "{mean} {sd}");
        let prior = opening_strength(&[]);
        assert!(prior.ln.abs() < 1e-9 && (prior.sd / OPENING_LN_SD - 1.0).abs() < 0.05, "{prior:?}");
        // A body at another pitch is another body; a decay time out of all reason moves little.
        assert_eq!(opening_strength(&[trial(strong, 3.0 * hz)]), prior);
        let mistaken = opening_strength(&[trial(strong, hz), trial(strong, hz), trial(0.02, hz)]).ln;
        assert!((mistaken - mean).abs() < 0.35, "{mistaken} after {mean}");
    }
}
