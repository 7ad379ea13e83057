//! Joint non-linear least squares over damped exponentials, and the standard errors that the Fisher information allows.
//!
//! A hard-struck head sounds higher at first: its stretching adds tension in proportion to the energy of the motion. A tone
//! may therefore carry a bend, an excess of pitch that dies away as that energy does.

pub use super::courses::Stretch;
use super::courses::{Drawn, Samples, weighted};
use super::damped_sinusoid::DampedSinusoid;
use super::polish::series;
use crate::numeric::{Descent, LeastSquares, NormalEquations, descend};
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
    fn descent(self) -> Descent {
        let (most_steps, least_gain) = match self {
            Self::Glanced => (3, 1e-3),
            // With six steps, one close pair in thirty was lost.
            Self::Rough => (8, 1e-3),
            Self::Exact => (25, 1e-5),
        };
        Descent { damping: 1e-3, eased: 0.3, raised: 6.0, most_steps, least_gain }
    }
}

/// Amplitudes by linear least squares for fixed `(hz, decay)`.
pub fn with_amplitudes(stretch: &Stretch, poles: &[(f64, f64)]) -> Option<Vec<DampedSinusoid>> {
    let mut tones: Vec<DampedSinusoid> = poles.iter().map(|(hz, decay)| DampedSinusoid::at(*hz, *decay)).collect();
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

/// Least squares over all real parameters of every tone: four, or five with its bend. Returns the Bayesian information criterion of the fit; infinite where there is too little to fit.
pub fn refine(stretch: &Stretch, tones: &mut [DampedSinusoid], bends: bool, until: Until) -> f64 {
    let each = if bends { 5 } else { 4 };
    let parameters = each * tones.len();
    let equations = 2 * stretch.signal.len();
    if tones.is_empty() || equations <= parameters {
        return f64::INFINITY;
    }
    let mut normal = NormalEquations::zeros(parameters);
    let drawn = Drawn::of(stretch, tones);
    let mut fitted = Fitted { stretch, tones, each, drawn, trial: Vec::new(), trial_drawn: Drawn::default() };
    // Where tones cannot be told from one another, what was reached until then stands.
    descend(&mut fitted, until.descent(), &mut normal);
    let error = fitted.drawn.error;
    // Two real equations a sample; filtered noise repeats itself, so each counts for less than one.
    let repeats = (stretch.rate / stretch.noise_bandwidth).max(1.0);
    let variance = error / (equations - parameters) as f64 * repeats;
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
    count * (error / count).max(1e-300).ln() + parameters as f64 * count.ln()
}

/// Tones on their way to the least sum of squares.
struct Fitted<'a, 'b> {
    stretch: &'a Stretch<'a>,
    tones: &'b mut [DampedSinusoid],
    /// Parameters of each tone.
    each: usize,
    drawn: Drawn,
    trial: Vec<DampedSinusoid>,
    trial_drawn: Drawn,
}

impl LeastSquares for Fitted<'_, '_> {
    fn linearize(&mut self, normal: &mut NormalEquations, gradient: &mut [f64]) {
        linearize(self.stretch, self.stretch.all(), self.tones, &self.drawn, self.each, normal, gradient);
    }

    fn error(&self) -> f64 {
        self.drawn.error
    }

    fn look_at(&mut self, step: &[f64]) -> Option<f64> {
        let each = self.each;
        self.trial = self.tones.iter().enumerate().map(|(k, tone)| moved(tone, &step[each * k..each * (k + 1)])).collect();
        // A tone that explains next to nothing may run away, and would take the certainty of all others with it.
        if !self.trial.iter().all(|tone| RATES.contains(&tone.decay) && tone.hz.abs() < 0.5 * self.stretch.rate) {
            return None;
        }
        self.trial_drawn.redraw(self.stretch, &self.trial);
        Some(self.trial_drawn.error)
    }

    fn go_there(&mut self) {
        self.tones.copy_from_slice(&self.trial);
        std::mem::swap(&mut self.drawn, &mut self.trial_drawn);
    }
}

fn moved(tone: &DampedSinusoid, step: &[f64]) -> DampedSinusoid {
    DampedSinusoid {
        hz: tone.hz + step[0],
        decay: tone.decay + step[1],
        amplitude: tone.amplitude + Complex64::new(step[2], step[3]),
        bend: tone.bend + step.get(4).copied().unwrap_or(0.0),
        ..*tone
    }
}

/// Sum of squares that `tones` leave of `stretch`.
pub(super) fn squared_error(stretch: &Stretch, tones: &[DampedSinusoid]) -> f64 {
    Drawn::of(stretch, tones).error
}

fn steps(stretch: &Stretch, tones: &[DampedSinusoid]) -> Vec<Complex64> {
    tones.iter().map(|tone| tone.step(stretch.rate)).collect()
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
    tones: &[DampedSinusoid],
    drawn: &Drawn,
    each: usize,
    normal: &mut NormalEquations,
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
            let mut tones: Vec<DampedSinusoid> = (0..3).map(|k| DampedSinusoid::at(hz[k], decay[k])).collect();
            let equations = |tones: &[DampedSinusoid]| {
                let (mut normal, mut gradient) = (NormalEquations::zeros(12), vec![0.0; 12]);
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
