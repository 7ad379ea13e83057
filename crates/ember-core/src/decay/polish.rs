//! All partials of a strike fitted together to the whole sound, from as soon after the hit as the sound is nothing but partials.
//!
//! Bands see a strike only from when their filters have settled, which for short partials is late: what is lost by then cannot be
//! got back. Here the sound keeps its width, so that it can be fitted from a millisecond on. The least squares are over
//! pitch, decay rate and amplitude of every tone; all sums over products of exponentials are closed forms of geometric series, so a
//! step costs one pass over the sound a tone.

use super::damped_sinusoid::DampedSinusoid;
use crate::numeric::{Descent, LeastSquares, NormalEquations, Stop, descend};
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};
use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};
use std::f64::consts::PI;

/// Sound to be fitted.
pub struct Sound<'a> {
    pub samples: &'a [f64],
    /// Samples a second.
    pub rate: f64,
    /// Two-sided width of the noise in it, Hz.
    pub noise_bandwidth: f64,
}

/// Decay rates that a step may lead to, 1/s.
const RATES: std::ops::Range<f64> = -3.0..700.0;
/// Its last step gains so little that it moves nothing by more than a hundredth of a standard error.
const DESCENT: Descent = Descent { damping: 1e-4, eased: 0.2, raised: 8.0, most_steps: 12, least_gain: 2e-6 };
/// Series of ratios nearer to 1 than this are summed by halves: the closed form would lose its digits.
const NEAR_ONE: f64 = 3e-3;

impl Sound<'_> {
    /// Fits `tones` (pitches and decay rates near the truth). Returns the residual's mean square, or `None` where they cannot be told
    /// from one another or run away.
    pub fn fit(&self, tones: &mut [DampedSinusoid]) -> Option<f64> {
        let (size, count) = (4 * tones.len(), self.samples.len());
        if tones.is_empty() || count < 2 * size {
            return None;
        }
        self.set_amplitudes(tones)?;
        let left = self.residual(tones);
        let mut fitted =
            Fitted { sound: self, error: energy(&left), left, tones, trial: Vec::new(), trial_left: Vec::new(), trial_error: 0.0 };
        let mut normal = NormalEquations::zeros(size);
        if descend(&mut fitted, DESCENT, &mut normal) == Stop::Degenerate {
            return None;
        }
        let error = fitted.error;
        let repeats = (self.rate / self.noise_bandwidth).max(1.0);
        let variance = error / (count - size) as f64 * repeats;
        let inverse = normal.inverse_diagonal()?;
        for (k, tone) in tones.iter_mut().enumerate() {
            let sd = |i: usize| (variance * inverse[4 * k + i]).sqrt();
            tone.hz_sd = sd(3) / (2.0 * PI);
            tone.decay_sd = sd(2);
            tone.amplitude_sd = sd(0).max(sd(1));
        }
        Some(error / count as f64)
    }

    /// Mean squares over the first `count` samples, of the sound and of what `tones` leave of it, and of what they leave after those.
    pub fn split_residual(&self, tones: &[DampedSinusoid], count: usize) -> (f64, f64, f64) {
        let left = self.residual(tones);
        let mean = |part: &[f64]| energy(part) / part.len().max(1) as f64;
        (mean(&self.samples[..count]), mean(&left[..count]), mean(&left[count..]))
    }

    fn set_amplitudes(&self, tones: &mut [DampedSinusoid]) -> Option<()> {
        let amplitudes = FixedTones::new(tones, self.rate, self.samples.len())?.amplitudes(self.samples).1;
        for (k, tone) in tones.iter_mut().enumerate() {
            tone.amplitude = Complex64::new(amplitudes[2 * k], amplitudes[2 * k + 1]);
        }
        Some(())
    }

    fn residual(&self, tones: &[DampedSinusoid]) -> Vec<f64> {
        Arch::new().dispatch(Residual { sound: self, tones })
    }
}

/// Tones on their way to the least sum of squares.
struct Fitted<'a, 'b> {
    sound: &'a Sound<'a>,
    tones: &'b mut [DampedSinusoid],
    left: Vec<f64>,
    error: f64,
    trial: Vec<DampedSinusoid>,
    trial_left: Vec<f64>,
    trial_error: f64,
}

impl LeastSquares for Fitted<'_, '_> {
    fn linearize(&mut self, normal: &mut NormalEquations, gradient: &mut [f64]) {
        linearize(self.sound.rate, self.tones, &self.left, normal, gradient);
    }

    fn error(&self) -> f64 {
        self.error
    }

    fn look_at(&mut self, step: &[f64]) -> Option<f64> {
        self.trial = self.tones.iter().enumerate().map(|(k, tone)| moved(tone, &step[4 * k..4 * k + 4])).collect();
        let sane = |tone: &DampedSinusoid| RATES.contains(&tone.decay) && tone.hz > 0.0 && tone.hz < 0.5 * self.sound.rate;
        if !self.trial.iter().all(sane) {
            return None;
        }
        self.trial_left = self.sound.residual(&self.trial);
        self.trial_error = energy(&self.trial_left);
        Some(self.trial_error)
    }

    fn go_there(&mut self) {
        self.tones.copy_from_slice(&self.trial);
        std::mem::swap(&mut self.left, &mut self.trial_left);
        self.error = self.trial_error;
    }
}

/// Normal matrix and gradient at `rate` samples a second. Of each tone, in this order: real and imaginary part of the amplitude, decay rate,
/// angular frequency. Each slope is Re(g n^p z^n); so is each inner product half the real part of two series.
fn linearize(rate: f64, tones: &[DampedSinusoid], residual: &[f64], normal: &mut NormalEquations, gradient: &mut [f64]) {
    let count = residual.len();
    let steps: Vec<Complex64> = tones.iter().map(|tone| tone.step(rate)).collect();
    let slopes: Vec<[(Complex64, usize); 4]> = tones
        .iter()
        .map(|tone| {
            let c = tone.amplitude / rate;
            [(Complex64::new(1.0, 0.0), 0), (Complex64::i(), 0), (-c, 1), (Complex64::i() * c, 1)]
        })
        .collect();
    for a in 0..tones.len() {
        for b in 0..=a {
            let (same, across) = (series(steps[a] * steps[b], count), series(steps[a] * steps[b].conj(), count));
            for (i, (g, p)) in slopes[a].iter().enumerate() {
                for (j, (h, q)) in slopes[b].iter().enumerate() {
                    let value = 0.5 * (g * h * same[p + q] + g * h.conj() * across[p + q]).re;
                    normal.set(4 * a + i, 4 * b + j, value);
                }
            }
        }
    }
    for (k, step) in steps.iter().enumerate() {
        let [plain, timed] = Arch::new().dispatch(Against::<true> { step: *step, residual });
        for (i, (g, p)) in slopes[k].iter().enumerate() {
            gradient[4 * k + i] = (g * if *p == 0 { plain } else { timed }).re;
        }
    }
}

/// Tones of which pitches and decay rates stand, to be held against more than one sound of `count` samples.
pub struct FixedTones {
    steps: Vec<Complex64>,
    factor: Cholesky<f64, Dyn>,
    count: usize,
}

impl FixedTones {
    /// `None` where they cannot be told from one another.
    pub fn new(tones: &[DampedSinusoid], rate: f64, count: usize) -> Option<Self> {
        let steps: Vec<Complex64> = tones.iter().map(|tone| tone.step(rate)).collect();
        if count < 4 * steps.len() {
            return None;
        }
        let mut normal = DMatrix::zeros(2 * steps.len(), 2 * steps.len());
        for a in 0..steps.len() {
            for b in 0..=a {
                let (same, across) = (series(steps[a] * steps[b], count)[0], series(steps[a] * steps[b].conj(), count)[0]);
                // Of Re(z^n) and Re(i z^n).
                let [[rr, ri], [ir, ii]] =
                    [[same + across, Complex64::i() * (same - across)], [Complex64::i() * (same + across), across - same]];
                for (row, column, value) in [(0, 0, rr), (0, 1, ri), (1, 0, ir), (1, 1, ii)] {
                    normal[(2 * a + row, 2 * b + column)] = 0.5 * value.re;
                    normal[(2 * b + column, 2 * a + row)] = 0.5 * value.re;
                }
            }
        }
        Some(Self { steps, factor: normal.cholesky()?, count })
    }

    /// Inner products with `samples`, and the amplitudes (real and imaginary parts in turn) that explain most of them.
    fn amplitudes(&self, samples: &[f64]) -> (DVector<f64>, DVector<f64>) {
        let sums: Vec<Complex64> =
            self.steps.iter().map(|step| Arch::new().dispatch(Against::<false> { step: *step, residual: samples })[0]).collect();
        let right = DVector::from_iterator(2 * sums.len(), sums.iter().flat_map(|sum| [sum.re, -sum.im]));
        let solved = self.factor.solve(&right);
        (right, solved)
    }

    /// Mean square of what these tones leave of `samples`, their amplitudes at their best.
    pub fn unexplained(&self, samples: &[f64]) -> f64 {
        let samples = &samples[..self.count.min(samples.len())];
        let (right, solved) = self.amplitudes(samples);
        (energy(samples) - right.dot(&solved)).max(0.0) / samples.len() as f64
    }
}

/// Four powers of `step` that follow each other, real and imaginary parts, and the step from each to the one four samples on: each
/// product would have to wait for the one before it otherwise.
#[inline(always)]
fn four_powers(first: Complex64, step: Complex64) -> ([f64; 4], [f64; 4], Complex64) {
    let square = step * step;
    let powers = [first, first * step, first * square, first * square * step];
    (powers.map(|z| z.re), powers.map(|z| z.im), square * square)
}

#[inline(always)]
fn go_on(re: &mut [f64; 4], im: &mut [f64; 4], far: Complex64) {
    for lane in 0..4 {
        (re[lane], im[lane]) = (re[lane] * far.re - im[lane] * far.im, re[lane] * far.im + im[lane] * far.re);
    }
}

/// What tones leave of a sound.
struct Residual<'a> {
    sound: &'a Sound<'a>,
    tones: &'a [DampedSinusoid],
}

impl WithSimd for Residual<'_> {
    type Output = Vec<f64>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Vec<f64> {
        let mut left = self.sound.samples.to_vec();
        for tone in self.tones {
            let (mut re, mut im, far) = four_powers(tone.amplitude, tone.step(self.sound.rate));
            let (whole, end) = left.as_chunks_mut::<4>();
            for x in whole {
                for lane in 0..4 {
                    x[lane] -= re[lane];
                }
                go_on(&mut re, &mut im, far);
            }
            for (x, re) in end.iter_mut().zip(re) {
                *x -= re;
            }
        }
        left
    }
}

/// Sums of step^n residual(n) and, where `TIMED`, n step^n residual(n).
struct Against<'a, const TIMED: bool> {
    step: Complex64,
    residual: &'a [f64],
}

impl<const TIMED: bool> WithSimd for Against<'_, TIMED> {
    type Output = [Complex64; 2];

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> [Complex64; 2] {
        let (mut re, mut im, far) = four_powers(Complex64::new(1.0, 0.0), self.step);
        let mut n = [0.0, 1.0, 2.0, 3.0];
        let mut sums = [[0.0; 4]; 4];
        let (whole, end) = self.residual.as_chunks::<4>();
        for left in whole {
            for lane in 0..4 {
                let (x, y) = (re[lane] * left[lane], im[lane] * left[lane]);
                sums[0][lane] += x;
                sums[1][lane] += y;
                if TIMED {
                    sums[2][lane] += n[lane] * x;
                    sums[3][lane] += n[lane] * y;
                    n[lane] += 4.0;
                }
            }
            go_on(&mut re, &mut im, far);
        }
        for (lane, left) in end.iter().enumerate() {
            let (x, y) = (re[lane] * left, im[lane] * left);
            for (sum, value) in sums.iter_mut().zip([x, y, n[lane] * x, n[lane] * y]) {
                sum[lane] += value;
            }
        }
        let [plain_re, plain_im, timed_re, timed_im] = sums.map(|lanes| lanes.iter().sum());
        [Complex64::new(plain_re, plain_im), Complex64::new(timed_re, timed_im)]
    }
}

fn energy(samples: &[f64]) -> f64 {
    samples.iter().map(|x| x * x).sum()
}

fn moved(tone: &DampedSinusoid, step: &[f64]) -> DampedSinusoid {
    DampedSinusoid {
        hz: tone.hz + step[3] / (2.0 * PI),
        decay: tone.decay + step[2],
        amplitude: tone.amplitude + Complex64::new(step[0], step[1]),
        ..*tone
    }
}

/// Sums of w^n, n w^n and n^2 w^n over n from 0 to `count` - 1.
pub(super) fn series(w: Complex64, count: usize) -> [Complex64; 3] {
    let one = Complex64::new(1.0, 0.0);
    if (one - w).norm_sqr() < NEAR_ONE * NEAR_ONE {
        return series_near_one(w, count);
    }
    // From sums over all n less those from `count` on, which are the same series shifted.
    let away = one / (one - w);
    let all = [away, w * away * away, w * (one + w) * away * away * away];
    let (last, n) = (w.powi(count as i32), count as f64);
    [all[0] - last * all[0], all[1] - last * (all[1] + all[0] * n), all[2] - last * (all[2] + all[1] * (2.0 * n) + all[0] * (n * n))]
}

/// The same from those over half as many, and half of those: closed forms would lose their digits here.
fn series_near_one(w: Complex64, count: usize) -> [Complex64; 3] {
    let one = Complex64::new(1.0, 0.0);
    let (mut n, mut power, mut sums) = (0.0, one, [Complex64::default(); 3]);
    for bit in (0..usize::BITS - count.leading_zeros()).rev() {
        // The second half is the first with n more in each term.
        let shifted = [sums[0], sums[1] + sums[0] * n, sums[2] + sums[1] * (2.0 * n) + sums[0] * (n * n)];
        sums.iter_mut().zip(shifted).for_each(|(sum, more)| *sum += power * more);
        (n, power) = (2.0 * n, power * power);
        if count >> bit & 1 == 1 {
            sums.iter_mut().zip([one, one * n, one * (n * n)]).for_each(|(sum, more)| *sum += power * more);
            (n, power) = (n + 1.0, power * w);
        }
    }
    sums
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn closed_sums_are_the_plain_ones(decay in 0f64..0.05, angle in -3.0f64..3.0, near in any::<bool>(), count in 5usize..400) {
            let nearer = if near { 1e-3 } else { 1.0 };
            let w = Complex64::from_polar(1.0 - nearer * decay, nearer * angle);
            let closed = series(w, count);
            for (power, sum) in closed.iter().enumerate() {
                let plain: Complex64 = (0..count).map(|n| w.powi(n as i32) * (n as f64).powi(power as i32)).sum();
                prop_assert!((sum - plain).norm() < 1e-6 * (1.0 + (count as f64).powi(power as i32 + 1)), "{power}: {sum} {plain}");
            }
        }

        /// What fixed tones leave, without drawing them, is what is left once they are drawn.
        #[test]
        fn what_fixed_tones_leave_is_what_is_left_of_the_sound(
            hz in prop::collection::vec(60f64..900.0, 3), decay in prop::collection::vec(3f64..60.0, 3),
            samples in prop::collection::vec(-1f64..1.0, 300),
        ) {
            let rate = 3200.0;
            let mut sorted = hz.clone();
            sorted.sort_by(f64::total_cmp);
            prop_assume!(sorted.windows(2).all(|pair| pair[1] - pair[0] > 15.0));
            let mut tones: Vec<DampedSinusoid> = hz.iter().zip(&decay).map(|(hz, decay)| DampedSinusoid::at(*hz, *decay)).collect();
            let sound = Sound { samples: &samples, rate, noise_bandwidth: rate };
            sound.set_amplitudes(&mut tones).unwrap();
            let drawn = energy(&sound.residual(&tones)) / samples.len() as f64;
            let left = FixedTones::new(&tones, rate, samples.len()).unwrap().unexplained(&samples);
            prop_assert!((left - drawn).abs() < 1e-9, "{left} {drawn}");
        }

        #[test]
        fn tones_without_noise_are_found_exactly(
            hz in prop::collection::vec(60f64..900.0, 3), decay in prop::collection::vec(3f64..60.0, 3), off in -1.0f64..1.0,
        ) {
            let mut hz = hz;
            hz.sort_by(f64::total_cmp);
            prop_assume!(hz.windows(2).all(|pair| pair[1] - pair[0] > 25.0));
            let rate = 6400.0;
            let samples: Vec<f64> = (0..4000)
                .map(|n| (0..3).map(|k| (-decay[k] * n as f64 / rate).exp() * (2.0 * PI * hz[k] * n as f64 / rate + k as f64).sin()).sum())
                .collect();
            let mut tones: Vec<DampedSinusoid> = (0..3).map(|k| DampedSinusoid::at(hz[k] + 0.5 * off, decay[k] * (1.0 + 0.1 * off))).collect();
            let left = Sound { samples: &samples, rate, noise_bandwidth: rate }.fit(&mut tones).unwrap();
            prop_assert!(left < 1e-12, "{left}");
            for (k, tone) in tones.iter().enumerate() {
                prop_assert!((tone.hz - hz[k]).abs() < 1e-4 && (tone.decay / decay[k] - 1.0).abs() < 1e-4, "{tone:?}");
            }
        }
    }
}
