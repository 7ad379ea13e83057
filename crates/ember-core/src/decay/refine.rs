//! Joint non-linear least squares over damped exponentials, and the standard errors that the Fisher information allows.
//!
//! A hard-struck head sounds higher at first: its stretching adds tension in proportion to the energy of the motion. A tone
//! may therefore carry a bend, an excess of pitch that dies away as that energy does.

use super::polish::series;
use nalgebra::{DMatrix, DVector};
use num_complex::Complex64;
use std::f64::consts::PI;

/// One damped exponential `amplitude * exp((-decay + 2 pi i hz) t)`, bent by `bend * exp(-bend_rate t)` Hz.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Exponential {
    pub hz: f64,
    /// Amplitude decay rate, 1/s.
    pub decay: f64,
    pub amplitude: Complex64,
    /// Excess of pitch at time 0, Hz.
    pub bend: f64,
    /// Standard error of `decay`, 1/s.
    pub decay_sd: f64,
    /// Standard error of `hz`, Hz.
    pub hz_sd: f64,
    /// Standard error of the amplitude's magnitude.
    pub amplitude_sd: f64,
    /// The same if no other tone were there to be mistaken for this one.
    pub alone_sd: f64,
}

impl Exponential {
    /// A tone of which nothing is known but where it may lie.
    pub fn at(hz: f64, decay: f64) -> Self {
        let unknown = f64::INFINITY;
        let amplitude = Complex64::new(1.0, 0.0);
        Self { hz, decay, amplitude, bend: 0.0, decay_sd: unknown, hz_sd: unknown, amplitude_sd: unknown, alone_sd: unknown }
    }

    /// The tone at amplitude 1 over all samples of `stretch`.
    fn course(&self, stretch: &Stretch) -> Vec<Complex64> {
        let step = (Complex64::new(-self.decay, 2.0 * PI * self.hz) / stretch.rate).exp();
        let mut value = Complex64::new(1.0, 0.0);
        let straight = (0..stretch.signal.len()).map(|_| {
            let here = value;
            value *= step;
            here
        });
        if self.bend == 0.0 {
            return straight.collect();
        }
        straight.zip(&stretch.bent_time).map(|(value, time)| value * Complex64::from_polar(1.0, 2.0 * PI * self.bend * time)).collect()
    }
}

/// Decay rates that a step may lead to, 1/s.
const RATES: std::ops::Range<f64> = -20.0..1000.0;

/// Samples to fit and what is known about them.
pub struct Stretch<'a> {
    pub signal: &'a [Complex64],
    /// Samples a second; the first one is at time 0.
    pub rate: f64,
    /// Two-sided width of the noise that the filters let through, Hz.
    noise_bandwidth: f64,
    /// Integral of a bend's course up to each sample, s.
    bent_time: Vec<f64>,
}

impl<'a> Stretch<'a> {
    /// `bend_rate`: rate at which bends die away, 1/s.
    pub fn new(signal: &'a [Complex64], rate: f64, noise_bandwidth: f64, bend_rate: f64) -> Self {
        let bent_time = (0..signal.len()).map(|n| -(-bend_rate * n as f64 / rate).exp_m1() / bend_rate).collect();
        Self { signal, rate, noise_bandwidth, bent_time }
    }
}

/// Amplitudes by linear least squares for fixed `(hz, decay)`.
pub fn with_amplitudes(stretch: &Stretch, poles: &[(f64, f64)]) -> Option<Vec<Exponential>> {
    let mut tones: Vec<Exponential> = poles.iter().map(|(hz, decay)| Exponential::at(*hz, *decay)).collect();
    if tones.is_empty() {
        return Some(tones);
    }
    let courses: Vec<Vec<Complex64>> = tones.iter().map(|tone| tone.course(stretch)).collect();
    let basis = DMatrix::from_fn(stretch.signal.len(), tones.len(), |n, k| courses[k][n]);
    let right = basis.adjoint() * DVector::from_column_slice(stretch.signal);
    let amplitudes = (basis.adjoint() * &basis).lu().solve(&right)?;
    for (tone, amplitude) in tones.iter_mut().zip(amplitudes.iter()) {
        tone.amplitude = *amplitude;
    }
    Some(tones)
}

/// Gauss-Newton with Levenberg-Marquardt damping over all real parameters of every tone: four, or five with its bend.
/// Returns the Bayesian information criterion of the fit; infinite where there is too little to fit.
pub fn refine(stretch: &Stretch, tones: &mut [Exponential], bends: bool) -> f64 {
    let each = if bends { 5 } else { 4 };
    let parameters = each * tones.len();
    let equations = 2 * stretch.signal.len();
    if tones.is_empty() || equations <= parameters {
        return f64::INFINITY;
    }
    let mut damping = 1e-3;
    let mut error = squared_error(stretch, tones);
    let mut normal = DMatrix::zeros(parameters, parameters);
    let mut gradient = DVector::zeros(parameters);
    let mut moved_on = true;
    for _ in 0..25 {
        // After a step that was refused everything is still as it was.
        if moved_on {
            linearize(stretch, tones, each, &mut normal, &mut gradient);
        }
        let mut damped = normal.clone();
        for i in 0..parameters {
            damped[(i, i)] *= 1.0 + damping;
        }
        let Some(step) = damped.cholesky().map(|c| c.solve(&gradient)) else { break };
        let trial: Vec<Exponential> =
            tones.iter().enumerate().map(|(k, tone)| moved(tone, &step.as_slice()[each * k..each * (k + 1)])).collect();
        // A tone that explains next to nothing may run away, and would take the certainty of all others with it.
        let sane = trial.iter().all(|tone| RATES.contains(&tone.decay) && tone.hz.abs() < 0.5 * stretch.rate);
        let trial_error = if sane { squared_error(stretch, &trial) } else { f64::INFINITY };
        moved_on = trial_error <= error;
        if moved_on {
            let gained = error - trial_error;
            tones.copy_from_slice(&trial);
            error = trial_error;
            damping = (damping * 0.3).max(1e-12);
            if gained <= 1e-6 * error {
                break;
            }
        } else {
            damping *= 6.0;
            if damping > 1e8 {
                break;
            }
        }
    }
    linearize(stretch, tones, each, &mut normal, &mut gradient);
    // Two real equations a sample; filtered noise repeats itself, so each counts for less than one.
    let repeats = (stretch.rate / stretch.noise_bandwidth).max(1.0);
    let variance = error / (equations - parameters) as f64 * repeats;
    for (k, tone) in tones.iter_mut().enumerate() {
        tone.alone_sd = (variance / normal[(each * k + 2, each * k + 2)]).sqrt();
    }
    if let Some(inverse) = normal.try_inverse() {
        for (k, tone) in tones.iter_mut().enumerate() {
            let sd = |i: usize| (variance * inverse[(each * k + i, each * k + i)].max(0.0)).sqrt();
            tone.hz_sd = sd(0);
            tone.decay_sd = sd(1);
            tone.amplitude_sd = sd(2).max(sd(3));
        }
    }
    let count = equations as f64 / repeats;
    count * (error / count).max(1e-300).ln() + parameters as f64 * count.ln()
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
    let mut residual = stretch.signal.to_vec();
    for tone in tones {
        for (left, value) in residual.iter_mut().zip(tone.course(stretch)) {
            *left -= tone.amplitude * value;
        }
    }
    residual.iter().map(|x| x.norm_sqr()).sum()
}

fn linearize(stretch: &Stretch, tones: &[Exponential], each: usize, normal: &mut DMatrix<f64>, gradient: &mut DVector<f64>) {
    if each == 4 && tones.iter().all(|tone| tone.bend == 0.0) {
        return linearize_straight(stretch, tones, normal, gradient);
    }
    normal.fill(0.0);
    gradient.fill(0.0);
    let courses: Vec<Vec<Complex64>> = tones.iter().map(|tone| tone.course(stretch)).collect();
    let size = each * tones.len();
    // Real and imaginary parts lie apart, so that the inner sum runs over plain slices: this is where measuring spends its time.
    let (mut re, mut im) = (vec![0.0; size], vec![0.0; size]);
    for (n, x) in stretch.signal.iter().enumerate() {
        let t = n as f64 / stretch.rate;
        let mut residual = *x;
        for (k, (tone, course)) in tones.iter().zip(&courses).enumerate() {
            let factor = course[n];
            let value = tone.amplitude * factor;
            residual -= value;
            let turned = value * Complex64::new(0.0, 2.0 * PI);
            let slopes = [turned * t, -value * t, factor, factor * Complex64::i(), turned * stretch.bent_time[n]];
            for (slot, slope) in slopes.iter().take(each).enumerate() {
                (re[each * k + slot], im[each * k + slot]) = (slope.re, slope.im);
            }
        }
        for i in 0..size {
            gradient[i] += re[i] * residual.re + im[i] * residual.im;
            let column = &mut normal.as_mut_slice()[i * size..=i * size + i];
            for ((sum, re_j), im_j) in column.iter_mut().zip(&re).zip(&im) {
                *sum += re[i] * re_j + im[i] * im_j;
            }
        }
    }
    for i in 0..size {
        for j in 0..i {
            normal[(i, j)] = normal[(j, i)];
        }
    }
}

/// The same for tones that are not bent: each slope is g n^p z^n, and the sums over products of two are closed forms, so that only the
/// gradient runs over the samples. Here measuring spends most of its time.
fn linearize_straight(stretch: &Stretch, tones: &[Exponential], normal: &mut DMatrix<f64>, gradient: &mut DVector<f64>) {
    let one = Complex64::new(1.0, 0.0);
    let steps: Vec<Complex64> = tones.iter().map(|tone| (Complex64::new(-tone.decay, 2.0 * PI * tone.hz) / stretch.rate).exp()).collect();
    let slopes: Vec<[(Complex64, usize); 4]> = tones
        .iter()
        .map(|tone| {
            let c = tone.amplitude / stretch.rate;
            [(Complex64::new(0.0, 2.0 * PI) * c, 1), (-c, 1), (one, 0), (Complex64::i(), 0)]
        })
        .collect();
    for a in 0..tones.len() {
        for b in 0..=a {
            let sums = series(steps[a].conj() * steps[b], stretch.signal.len());
            for (i, (g, p)) in slopes[a].iter().enumerate() {
                for (j, (h, q)) in slopes[b].iter().enumerate() {
                    let value = (g.conj() * h * sums[p + q]).re;
                    normal[(4 * a + i, 4 * b + j)] = value;
                    normal[(4 * b + j, 4 * a + i)] = value;
                }
            }
        }
    }
    let mut residual = stretch.signal.to_vec();
    for (tone, step) in tones.iter().zip(&steps) {
        let mut value = tone.amplitude;
        for left in &mut residual {
            *left -= value;
            value *= step;
        }
    }
    for (k, step) in steps.iter().enumerate() {
        let (mut value, mut plain, mut timed) = (one, Complex64::default(), Complex64::default());
        let step = step.conj();
        for (n, left) in residual.iter().enumerate() {
            let here = value * left;
            plain += here;
            timed += here * n as f64;
            value *= step;
        }
        for (i, (g, p)) in slopes[k].iter().enumerate() {
            gradient[4 * k + i] = (g.conj() * if *p == 0 { plain } else { timed }).re;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// The closed sums against those over all samples, which a bend too small to matter calls for.
        #[test]
        fn straight_tones_give_the_same_normal_equations_either_way(
            hz in prop::collection::vec(-60f64..60.0, 3), decay in prop::collection::vec(2f64..90.0, 3), turn in 0f64..6.0,
        ) {
            let signal: Vec<Complex64> = (0..200).map(|n| Complex64::from_polar(1.0, 0.1 * turn * f64::from(n))).collect();
            let stretch = Stretch::new(&signal, 320.0, 140.0, 15.0);
            let mut tones: Vec<Exponential> = (0..3).map(|k| Exponential::at(hz[k], decay[k])).collect();
            let equations = |tones: &[Exponential]| {
                let (mut normal, mut gradient) = (DMatrix::zeros(12, 12), DVector::zeros(12));
                linearize(&stretch, tones, 4, &mut normal, &mut gradient);
                (normal, gradient)
            };
            let (normal, gradient) = equations(&tones);
            tones[0].bend = 1e-12;
            let (plain_normal, plain_gradient) = equations(&tones);
            prop_assert!((&normal - &plain_normal).amax() < 1e-6 * plain_normal.amax());
            prop_assert!((&gradient - &plain_gradient).amax() < 1e-6 * plain_gradient.amax());
        }
    }
}
