//! Linear-phase low-pass filters that also thin the samples out.

use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};
use std::f64::consts::PI;
use std::ops::{AddAssign, Mul};

/// Kaiser-windowed sinc low-pass with an odd number of taps, unit gain at 0 Hz.
#[derive(Debug, Clone)]
pub struct LowPass {
    taps: Vec<f64>,
    rate: f64,
}

impl LowPass {
    /// Passes up to `pass` Hz and stops from `stop` Hz by `attenuation` dB (over 50), at `rate` samples a second.
    /// Length and shape after Kaiser's formulas (Oppenheim & Schafer, Discrete-Time Signal Processing, 7.5.3).
    pub fn new(pass: f64, stop: f64, attenuation: f64, rate: f64) -> Self {
        let width = 2.0 * PI * (stop - pass) / rate;
        let order = ((attenuation - 8.0) / (2.285 * width)).ceil() as usize;
        let half = order.div_ceil(2);
        let beta = 0.1102 * (attenuation - 8.7);
        let cutoff = (pass + stop) / rate;
        let mut taps: Vec<f64> = (0..=2 * half)
            .map(|i| {
                let n = i as f64 - half as f64;
                let sinc = if n == 0.0 { cutoff } else { (PI * cutoff * n).sin() / (PI * n) };
                let t = n / half as f64;
                sinc * bessel_i0(beta * (1.0 - t * t).max(0.0).sqrt()) / bessel_i0(beta)
            })
            .collect();
        let sum: f64 = taps.iter().sum();
        taps.iter_mut().for_each(|tap| *tap /= sum);
        Self { taps, rate }
    }

    /// Samples on either side of the centre tap: what must be known around an output sample.
    pub fn half_len(&self) -> usize {
        self.taps.len() / 2
    }

    /// All of `input` filtered, in single precision: off by some -120 dB of the loudest nearby, in half the time.
    pub fn single(&self, input: &[f32]) -> Vec<f32> {
        let taps: Vec<f32> = self.taps.iter().map(|tap| *tap as f32).collect();
        Arch::new().dispatch(Smoothed { taps: &taps, input })
    }

    /// Seconds on either side of an output sample that reach into it.
    pub fn reach_s(&self) -> f64 {
        self.half_len() as f64 / self.rate
    }

    /// Bandwidth (Hz, two-sided) of the white noise that gets through.
    pub fn noise_bandwidth(&self) -> f64 {
        self.rate * self.taps.iter().map(|tap| tap * tap).sum::<f64>()
    }

    /// What the filter does to a damped exponential `exp((2 pi i hz - decay) t)` once it lies wholly inside.
    pub fn gain(&self, hz: f64, decay: f64) -> Complex64 {
        let half = self.half_len() as f64;
        let s = Complex64::new(-decay, 2.0 * PI * hz) / self.rate;
        // Horner's rule over exp(-s): one product a tap instead of an exponential.
        let step = (-s).exp();
        self.taps.iter().rev().fold(Complex64::default(), |sum, tap| sum * step + tap) * (s * half).exp()
    }
}

/// A [`LowPass`] that keeps one sample in `factor`.
#[derive(Debug, Clone)]
pub struct Decimator {
    /// The low pass before it.
    pub filter: LowPass,
    /// So many samples become one.
    pub factor: usize,
}

impl Decimator {
    /// Output sample `i` is centred on input sample `i * factor`; outside the input is silence.
    pub fn real(&self, input: &[f64]) -> Vec<f64> {
        if self.factor == 1 {
            return Arch::new().dispatch(Smoothed { taps: &self.filter.taps, input });
        }
        Arch::new().dispatch(Filtered { decimator: self, input })
    }

    /// Output sample `i`.
    #[inline(always)]
    fn at(&self, input: &[f64], i: usize) -> f64 {
        let first = (i * self.factor) as isize - self.filter.half_len() as isize;
        let skip = (-first).max(0) as usize;
        dot(&input[first.max(0) as usize..], &self.filter.taps[skip..])
    }

    /// Shifts `centre` Hz down to 0 Hz, filters and thins out. The phase reference is input sample 0.
    pub fn baseband(&self, input: &[f64], centre: f64) -> Vec<Complex64> {
        let step = Complex64::from_polar(1.0, -2.0 * PI * centre / self.filter.rate);
        let mut phase = Complex64::new(1.0, 0.0);
        let (mut re, mut im) = (Vec::with_capacity(input.len()), Vec::with_capacity(input.len()));
        for x in input {
            re.push(phase.re * x);
            im.push(phase.im * x);
            phase *= step;
        }
        self.real(&re).into_iter().zip(self.real(&im)).map(|(re, im)| Complex64::new(re, im)).collect()
    }
}

/// [`Decimator::real`] for the widest instructions that the processor has.
struct Filtered<'a> {
    decimator: &'a Decimator,
    input: &'a [f64],
}

impl WithSimd for Filtered<'_> {
    type Output = Vec<f64>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Vec<f64> {
        let Self { decimator, input } = self;
        let count = input.len().div_ceil(decimator.factor);
        let mut out = Vec::with_capacity(count);
        // Loops rather than closures: what is called out of line is not made for the wide instructions.
        for i in 0..count {
            out.push(decimator.at(input, i));
        }
        out
    }
}

/// Every sample filtered: several go side by side along the taps, so that none has to be added up by itself. Outside the input is silence.
struct Smoothed<'a, T> {
    taps: &'a [T],
    input: &'a [T],
}

impl<T: Copy + Default + Mul<Output = T> + AddAssign> WithSimd for Smoothed<'_, T> {
    type Output = Vec<T>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Vec<T> {
        const TOGETHER: usize = 32;
        let Self { taps, input } = self;
        let half = taps.len() / 2;
        let mut out = Vec::with_capacity(input.len());
        while out.len() < input.len() {
            let i = out.len();
            if i >= half && i - half + taps.len() + TOGETHER <= input.len() {
                let mut sums = [T::default(); TOGETHER];
                for (tap, part) in taps.iter().zip(input[i - half..].windows(TOGETHER)) {
                    for lane in 0..TOGETHER {
                        sums[lane] += *tap * part[lane];
                    }
                }
                out.extend(sums);
            } else {
                let mut sum = T::default();
                for (tap, x) in taps[half.saturating_sub(i)..].iter().zip(&input[i.saturating_sub(half)..]) {
                    sum += *tap * *x;
                }
                out.push(sum);
            }
        }
        out
    }
}

/// Sum of products as far as the shorter one goes, in several sums side by side: in strict order a processor can only add one by one.
#[inline(always)]
fn dot(a: &[f64], b: &[f64]) -> f64 {
    const LANES: usize = 8;
    let count = a.len().min(b.len());
    let ((a, a_end), (b, b_end)) = (a[..count].as_chunks::<LANES>(), b[..count].as_chunks::<LANES>());
    let mut sums = [0.0; LANES];
    for (a, b) in a.iter().zip(b) {
        for lane in 0..LANES {
            sums[lane] += a[lane] * b[lane];
        }
    }
    sums.iter().sum::<f64>() + a_end.iter().zip(b_end).map(|(a, b)| a * b).sum::<f64>()
}

/// Modified Bessel function of the first kind, order 0, by its power series (Abramowitz & Stegun 9.6.12).
fn bessel_i0(x: f64) -> f64 {
    let mut term = 1.0;
    let mut sum = 1.0;
    for k in 1..60 {
        term *= (x / 2.0 / k as f64).powi(2);
        sum += term;
        if term < 1e-16 * sum {
            break;
        }
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn passes_the_pass_band_and_stops_the_stop_band() {
        let filter = LowPass::new(60.0, 140.0, 70.0, 3200.0);
        for hz in [0.0, 30.0, 60.0] {
            assert!((filter.gain(hz, 0.0).norm() - 1.0).abs() < 1e-3, "{hz} Hz");
        }
        for hz in [140.0, 400.0, 1500.0] {
            assert!(filter.gain(hz, 0.0).norm() < 5e-4, "{hz} Hz");
        }
    }

    /// Whether samples are worked out one by one or several side by side, each is the sum over all taps; beyond both ends there is silence.
    #[test]
    fn every_sample_is_the_sum_over_all_taps() {
        let input: Vec<f64> = (0..301).map(|n| f64::from((n * n) % 17) - 8.0).collect();
        for factor in [1, 3] {
            let decimator = Decimator { filter: LowPass::new(100.0, 400.0, 60.0, 3200.0), factor };
            let out = decimator.real(&input);
            assert_eq!(out.len(), input.len().div_ceil(factor));
            for (i, out) in out.iter().enumerate() {
                let first = (i * factor) as isize - decimator.filter.half_len() as isize;
                let at = |k: usize| usize::try_from(first + k as isize).ok().and_then(|n| input.get(n)).copied().unwrap_or(0.0);
                let wanted: f64 = decimator.filter.taps.iter().enumerate().map(|(k, tap)| tap * at(k)).sum();
                assert!((out - wanted).abs() < 1e-12, "{factor}, {i}: {out} for {wanted}");
            }
        }
        let filter = LowPass::new(100.0, 400.0, 60.0, 3200.0);
        let single = filter.single(&input.iter().map(|x| *x as f32).collect::<Vec<f32>>());
        let double = Decimator { filter, factor: 1 }.real(&input);
        assert!(single.len() == double.len() && single.iter().zip(&double).all(|(a, b)| (f64::from(*a) - b).abs() < 1e-5));
    }

    #[test]
    fn a_damped_tone_comes_out_as_the_gain_says() {
        let rate = 3200.0;
        let filter = LowPass::new(60.0, 140.0, 70.0, rate);
        let (hz, decay) = (212.0, 9.0);
        let input: Vec<f64> = (0..3200).map(|n| 2.0 * (-decay * n as f64 / rate).exp() * (2.0 * PI * hz * n as f64 / rate).cos()).collect();
        let decimator = Decimator { filter, factor: 10 };
        let out = decimator.baseband(&input, 190.0);
        let gain = decimator.filter.gain(22.0, decay);
        for i in [20usize, 60] {
            let t = i as f64 * 10.0 / rate;
            let expected = gain * Complex64::from_polar((-decay * t).exp(), 2.0 * PI * 22.0 * t);
            assert!((out[i] - expected).norm() < 2e-3, "{} against {expected}", out[i]);
        }
    }
}
