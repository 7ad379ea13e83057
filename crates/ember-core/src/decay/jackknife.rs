//! How far decay rates move when parts of the sound are left out. Fisher's information tells what noise does to a fit of tones that are
//! all there; it knows nothing of a tone that was not found, a pair taken for one, or a pitch that still falls. Those pull different parts
//! of the sound different ways, so the doubt that they leave shows once each part in turn is left out: the jackknife over groups (J. W.
//! Tukey, Ann. Math. Stat. 29, 1958), one step of Gauss-Newton for each (J. G. MacKinnon & H. White, J. Econometrics 29, 1985).

use super::courses::{Drawn, Samples, Stretch};
use super::damped_sinusoid::DampedSinusoid;
use super::refine::linearize;
use crate::numeric::NormalEquations;
use std::ops::Range;

/// Parts of a stretch, each of which tells as much about the decay.
const PARTS: usize = 8;

/// The jackknife's standard errors (1/s) of decay rates. `tones`: the best fit of `stretch`, with bends if `bends`. Infinite where all that
/// is known about a tone is in one part.
pub(super) fn decay_doubts(stretch: &Stretch, tones: &[DampedSinusoid], bends: bool) -> Vec<f64> {
    let each = if bends { 5 } else { 4 };
    let size = each * tones.len();
    let drawn = Drawn::of(stretch, tones);
    let mut whole = NormalEquations::zeros(size);
    let equations = |part: Range<usize>| {
        let (mut normal, mut gradient) = (NormalEquations::zeros(size), vec![0.0; size]);
        linearize(stretch, part, tones, &drawn, each, &mut normal, &mut gradient);
        whole.matrix.iter_mut().zip(&normal.matrix).for_each(|(whole, part)| *whole += part);
        (normal, gradient)
    };
    let parts: Vec<(NormalEquations, Vec<f64>)> = parts(stretch, &drawn.courses).into_iter().map(equations).collect();
    let mut squares = vec![0.0; tones.len()];
    let count = parts.len() as f64;
    for (mut rest, gradient) in parts {
        rest.matrix.iter_mut().zip(&whole.matrix).for_each(|(part, whole)| *part = whole - *part);
        // At the best fit the whole's gradient is zero, and the rest's that of the part the other way round.
        let moves = rest.solve(0.0, &gradient);
        for (k, sum) in squares.iter_mut().enumerate() {
            *sum += moves.as_ref().map_or(f64::INFINITY, |moves| moves[each * k + 1].powi(2));
        }
    }
    squares.iter().map(|sum| (sum * (count - 1.0) / count).sqrt()).collect()
}

/// Parts of a stretch that tell as much each about how fast tones of these `courses` decay.
fn parts(stretch: &Stretch, courses: &[Samples]) -> Vec<Range<usize>> {
    let mut tells = vec![0.0; stretch.all().len()];
    for course in courses {
        let energy: Vec<f64> = stretch.all().map(|four| course.energy(four)).collect();
        let middle = energy.iter().enumerate().map(|(four, energy)| four as f64 * energy).sum::<f64>() / energy.iter().sum::<f64>();
        let about: Vec<f64> = energy.iter().enumerate().map(|(four, energy)| energy * (four as f64 - middle).powi(2)).collect();
        let all: f64 = about.iter().sum();
        tells.iter_mut().zip(about).for_each(|(sum, about)| *sum += about / all);
    }
    let each = tells.iter().sum::<f64>() / PARTS as f64;
    let (mut parts, mut first, mut told) = (Vec::with_capacity(PARTS), 0, 0.0);
    for (four, more) in tells.iter().enumerate() {
        told += more;
        if told >= each * (parts.len() + 1) as f64 {
            parts.push(first..four + 1);
            first = four + 1;
        }
    }
    if first < tells.len() {
        parts.push(first..tells.len());
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::decay::refine::{Until, refine};
    use num_complex::Complex64;
    use rand::{Rng, SeedableRng, rngs::StdRng};
    use std::f64::consts::PI;

    const RATE: f64 = 320.0;

    /// Jackknife's and Fisher's standard errors, and what the decay rate is off by, where one tone is fitted to `tones` (Hz, 1/s, amplitude)
    /// in noise of 0.01.
    fn errors(tones: &[(f64, f64, f64)], seed: u64) -> [f64; 3] {
        let mut rng = StdRng::seed_from_u64(seed);
        let mut normal = || (0..12).map(|_| rng.random_range(-0.5..0.5)).sum::<f64>();
        let sound = |n: usize| -> Complex64 {
            let t = n as f64 / RATE;
            tones.iter().map(|(hz, decay, amplitude)| *amplitude * (Complex64::new(-decay, 2.0 * PI * hz) * t).exp()).sum()
        };
        let signal: Vec<Complex64> = (0..240).map(|n| sound(n) + 0.01 * Complex64::new(normal(), normal())).collect();
        let stretch = Stretch::new(&signal, RATE, RATE, 15.0);
        let mut fitted = vec![DampedSinusoid::at(tones[0].0, tones[0].1)];
        refine(&stretch, &mut fitted, false, Until::Exact);
        [decay_doubts(&stretch, &fitted, false)[0], fitted[0].decay_sd, (fitted[0].decay - tones[0].1).abs()]
    }

    fn median(mut values: Vec<f64>) -> f64 {
        values.sort_by(f64::total_cmp);
        values[values.len() / 2]
    }

    #[test]
    fn where_nothing_is_missed_it_is_what_fishers_information_tells() {
        let ratio =
            median((0..60).map(|seed| errors(&[(7.0, 12.0, 1.0)], seed)).map(|[jackknife, fisher, _]| jackknife / fisher).collect());
        assert!((0.8..1.25).contains(&ratio), "{ratio}");
    }

    #[test]
    fn where_a_tone_was_missed_it_is_of_the_size_of_the_error() {
        let all: Vec<[f64; 3]> = (0..60).map(|seed| errors(&[(7.0, 12.0, 1.0), (10.0 + 0.2 * seed as f64, 30.0, 0.2)], seed)).collect();
        let off = |of: usize| median(all.iter().map(|errors| errors[2] / errors[of]).collect());
        assert!(off(0) < 1.5 && off(1) > 2.5, "{} {}", off(0), off(1));
    }
}
