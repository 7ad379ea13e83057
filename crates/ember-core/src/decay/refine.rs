//! Joint non-linear least squares over damped exponentials, and the standard errors that the Fisher information allows.
//!
//! A hard-struck head sounds higher at first: its stretching adds tension in proportion to the energy of the motion. A tone
//! may therefore carry a bend, an excess of pitch that dies away as that energy does.

use super::courses::{Drawn, Samples, weighted};
pub use super::courses::{Exponential, Stretch};
use super::normal::Normal;
use super::polish::series;
use nalgebra::{DMatrix, DVector};
use num_complex::Complex64;
use std::f64::consts::PI;
use std::ops::Range;

/// Decay rates that a step may lead to, 1/s.
const RATES: std::ops::Range<f64> = -20.0..1000.0;

/// How far a fit goes: until a step gains less than this part of what is left.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Until {
    /// A few steps: enough to see what is clearly no tone.
    Glanced,
    /// To within about half a standard error: enough to see which tones are none. Those would wander on for long.
    Rough,
    /// To within less than a tenth of one.
    Exact,
}

impl Until {
    fn gain(self) -> f64 {
        match self {
            Self::Glanced | Self::Rough => 1e-3,
            Self::Exact => 1e-5,
        }
    }

    /// Steps after which it ends in any case.
    fn most_steps(self) -> usize {
        match self {
            Self::Glanced => 3,
            // With six, one close pair in thirty was lost.
            Self::Rough => 8,
            Self::Exact => 25,
        }
    }
}

/// Amplitudes by linear least squares for fixed `(hz, decay)`.
pub fn with_amplitudes(stretch: &Stretch, poles: &[(f64, f64)]) -> Option<Vec<Exponential>> {
    let mut tones: Vec<Exponential> = poles.iter().map(|(hz, decay)| Exponential::at(*hz, *decay)).collect();
    if tones.is_empty() {
        return Some(tones);
    }
    let steps = steps(stretch, &tones);
    let normal = DMatrix::from_fn(tones.len(), tones.len(), |a, b| series(steps[a].conj() * steps[b], stretch.signal.len())[0]);
    let courses = Drawn::of(stretch, &tones).courses;
    let right = DVector::from_iterator(
        tones.len(),
        courses.iter().map(|course| weighted::<1>(stretch, stretch.all(), course, &stretch.samples)[0]),
    );
    let amplitudes = normal.lu().solve(&right)?;
    for (tone, amplitude) in tones.iter_mut().zip(amplitudes.iter()) {
        tone.amplitude = *amplitude;
    }
    Some(tones)
}

/// Gauss-Newton with Levenberg-Marquardt damping over all real parameters of every tone: four, or five with its bend.
/// Returns the Bayesian information criterion of the fit; infinite where there is too little to fit.
pub fn refine(stretch: &Stretch, tones: &mut [Exponential], bends: bool, until: Until) -> f64 {
    let each = if bends { 5 } else { 4 };
    let parameters = each * tones.len();
    let equations = 2 * stretch.signal.len();
    if tones.is_empty() || equations <= parameters {
        return f64::INFINITY;
    }
    let mut damping = 1e-3;
    let (mut drawn, mut trial_drawn) = (Drawn::of(stretch, tones), Drawn::default());
    let mut normal = Normal::zeros(parameters);
    let mut gradient = vec![0.0; parameters];
    let mut moved_on = true;
    for _ in 0..until.most_steps() {
        // After a step that was refused everything is still as it was.
        if moved_on {
            linearize(stretch, stretch.all(), tones, &drawn, each, &mut normal, &mut gradient);
        }
        let Some(step) = normal.solve(damping, &gradient) else { break };
        let trial: Vec<Exponential> = tones.iter().enumerate().map(|(k, tone)| moved(tone, &step[each * k..each * (k + 1)])).collect();
        // A tone that explains next to nothing may run away, and would take the certainty of all others with it.
        let sane = trial.iter().all(|tone| RATES.contains(&tone.decay) && tone.hz.abs() < 0.5 * stretch.rate);
        if sane {
            trial_drawn.redraw(stretch, &trial);
        }
        moved_on = sane && trial_drawn.error <= drawn.error;
        if moved_on {
            let gained = drawn.error - trial_drawn.error;
            tones.copy_from_slice(&trial);
            std::mem::swap(&mut drawn, &mut trial_drawn);
            damping = (damping * 0.3).max(1e-12);
            if gained <= until.gain() * drawn.error {
                // So small a step leaves the normal matrix, and with it the standard errors, as they are.
                moved_on = false;
                break;
            }
        } else {
            damping *= 6.0;
            if damping > 1e8 {
                break;
            }
        }
    }
    if moved_on {
        linearize(stretch, stretch.all(), tones, &drawn, each, &mut normal, &mut gradient);
    }
    // Two real equations a sample; filtered noise repeats itself, so each counts for less than one.
    let repeats = (stretch.rate / stretch.noise_bandwidth).max(1.0);
    let variance = drawn.error / (equations - parameters) as f64 * repeats;
    for (k, tone) in tones.iter_mut().enumerate() {
        tone.alone_sd = (variance / normal.diagonal(each * k + 2)).sqrt();
    }
    if until == Until::Glanced {
        // Which are clearly none is told by `alone_sd`; of the others only whether they can be told from one another.
        if normal.is_positive() {
            tones.iter_mut().for_each(|tone| tone.amplitude_sd = tone.alone_sd);
        }
    } else if let Some(inverse) = normal.inverse_diagonal() {
        for (k, tone) in tones.iter_mut().enumerate() {
            let sd = |i: usize| (variance * inverse[each * k + i]).sqrt();
            tone.hz_sd = sd(0);
            tone.decay_sd = sd(1);
            tone.amplitude_sd = sd(2).max(sd(3));
        }
    }
    let count = equations as f64 / repeats;
    count * (drawn.error / count).max(1e-300).ln() + parameters as f64 * count.ln()
}

fn moved(tone: &Exponential, step: &[f64]) -> Exponential {
    Exponential {
        hz: tone.hz + step[0],
        decay: tone.decay + step[1],
        amplitude: tone.amplitude + Complex64::new(step[2], step[3]),
        bend: tone.bend + step.get(4).copied().unwrap_or(0.0),
        ..*tone
    }
}

/// Sum of squares that `tones` leave of `stretch`.
pub(super) fn squared_error(stretch: &Stretch, tones: &[Exponential]) -> f64 {
    Drawn::of(stretch, tones).error
}

fn steps(stretch: &Stretch, tones: &[Exponential]) -> Vec<Complex64> {
    tones.iter().map(|tone| (Complex64::new(-tone.decay, 2.0 * PI * tone.hz) / stretch.rate).exp()).collect()
}

/// What a slope is weighted with beside its tone's course: nothing, time, or the time in which its bend turns it.
const PLAIN: usize = 0;
const TIMED: usize = 1;
const BENT: usize = 2;

/// Normal matrix and gradient over the `fours` of samples. Of each tone, in this order: pitch, decay rate, real and imaginary part of
/// the amplitude, bend. Each slope is a number times the tone's course times one of three weights, so that all products of two tones come
/// from six sums.
pub(super) fn linearize(
    stretch: &Stretch,
    fours: Range<usize>,
    tones: &[Exponential],
    drawn: &Drawn,
    each: usize,
    normal: &mut Normal,
    gradient: &mut [f64],
) {
    let slopes: Vec<[(Complex64, usize); 5]> = tones
        .iter()
        .map(|tone| {
            let turned = Complex64::new(0.0, 2.0 * PI) * tone.amplitude;
            [(turned, TIMED), (-tone.amplitude, TIMED), (Complex64::new(1.0, 0.0), PLAIN), (Complex64::i(), PLAIN), (turned, BENT)]
        })
        .collect();
    let straight = each == 4 && tones.iter().all(|tone| tone.bend == 0.0);
    let steps = steps(stretch, tones);
    for a in 0..tones.len() {
        for b in 0..=a {
            let sums = if straight {
                straight_sums(stretch, &fours, steps[a].conj() * steps[b])
            } else {
                sums(stretch, fours.clone(), &drawn.courses[a], &drawn.courses[b])
            };
            for (i, (g, p)) in slopes[a].iter().take(each).enumerate() {
                for (j, (h, q)) in slopes[b].iter().take(each).enumerate() {
                    let value = (g.conj() * h * sums[*p][*q]).re;
                    normal.set(each * a + i, each * b + j, value);
                }
            }
        }
        let against = weighted::<3>(stretch, fours.clone(), &drawn.courses[a], &drawn.left);
        for (i, (g, p)) in slopes[a].iter().take(each).enumerate() {
            gradient[each * a + i] = (g.conj() * against[*p]).re;
        }
    }
}

/// Sums of conj(a) b, weighted with the products of two weights.
fn sums(stretch: &Stretch, fours: Range<usize>, a: &Samples, b: &Samples) -> [[Complex64; 3]; 3] {
    let [plain, timed, bent, twice, both, bent_twice] = weighted::<6>(stretch, fours, a, b);
    [[plain, timed, bent], [timed, twice, both], [bent, both, bent_twice]]
}

/// The same where both are straight, as closed forms; `step`: how their product goes on from sample to sample.
fn straight_sums(stretch: &Stretch, fours: &Range<usize>, step: Complex64) -> [[Complex64; 3]; 3] {
    let first = 4 * fours.start;
    let [plain, timed, squared] = series(step, stretch.signal.len().min(4 * fours.end) - first);
    let (power, first) = (step.powi(first as i32), first as f64);
    let squared = power * (squared + timed * (2.0 * first) + plain * (first * first)) / stretch.rate.powi(2);
    let (plain, timed) = (power * plain, power * (timed + plain * first) / stretch.rate);
    let none = Complex64::default();
    [[plain, timed, none], [timed, squared, none], [none; 3]]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// The closed sums against those over all samples, which a bend too small to matter calls for.
        #[test]
        fn straight_tones_give_the_same_normal_equations_either_way(
            hz in prop::collection::vec(-60f64..60.0, 3), decay in prop::collection::vec(2f64..90.0, 3), turn in 0f64..6.0, fours in 0usize..51,
        ) {
            let signal: Vec<Complex64> = (0..202).map(|n| Complex64::from_polar(1.0, 0.1 * turn * f64::from(n))).collect();
            let stretch = Stretch::new(&signal, 320.0, 140.0, 15.0);
            let mut tones: Vec<Exponential> = (0..3).map(|k| Exponential::at(hz[k], decay[k])).collect();
            let equations = |tones: &[Exponential]| {
                let (mut normal, mut gradient) = (Normal::zeros(12), vec![0.0; 12]);
                linearize(&stretch, fours..51, tones, &Drawn::of(&stretch, tones), 4, &mut normal, &mut gradient);
                (DMatrix::from_row_slice(12, 12, &normal.matrix).lower_triangle(), DVector::from_vec(gradient))
            };
            let (normal, gradient) = equations(&tones);
            tones[0].bend = 1e-12;
            let (plain_normal, plain_gradient) = equations(&tones);
            prop_assert!((&normal - &plain_normal).amax() < 1e-6 * plain_normal.amax());
            prop_assert!((&gradient - &plain_gradient).amax() < 1e-6 * plain_gradient.amax());
        }
    }
}
