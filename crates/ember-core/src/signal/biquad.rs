//! A second-order section for splitting a live stream into a few bands.

use pulp::{Arch, Simd, WithSimd};
use std::f64::consts::PI;

/// `N` band-passes with 0 dB at their centres, side by side (bilinear transform of the analogue prototype; common practice, after the
/// "Audio EQ Cookbook" note published by the W3C Audio Working Group).
#[derive(Debug, Clone)]
pub struct BandPasses<const N: usize> {
    b0: [f64; N],
    a1: [f64; N],
    a2: [f64; N],
    x: [f64; 2],
    y: [[f64; N]; 2],
    /// Samples since what has died away was ended.
    since: u32,
}

/// What dies away would end in numbers too small to be fast; so often, in samples, it is ended.
const TIDY_EVERY: u32 = 256;

impl<const N: usize> BandPasses<N> {
    /// Each passes roughly `low` to `high` Hz of `bands` at `rate` samples a second.
    pub fn new(bands: [(f64, f64); N], rate: f64) -> Self {
        let (mut b0, mut a1, mut a2) = ([0.0; N], [0.0; N], [0.0; N]);
        for (i, (low, high)) in bands.into_iter().enumerate() {
            let high = high.min(0.45 * rate);
            let low = low.min(0.5 * high);
            let centre = (low * high).sqrt();
            let w = 2.0 * PI * centre / rate;
            let alpha = w.sin() * (high - low) / (2.0 * centre);
            let a0 = 1.0 + alpha;
            (b0[i], a1[i], a2[i]) = (alpha / a0, -2.0 * w.cos() / a0, (1.0 - alpha) / a0);
        }
        Self { b0, a1, a2, x: [0.0; 2], y: [[0.0; N]; 2], since: 0 }
    }

    /// What each lets through of the next sample.
    pub fn push(&mut self, sample: f64) -> [f64; N] {
        let fresh = sample - self.x[1];
        let [last, older] = self.y;
        let mut out = [0.0; N];
        for i in 0..N {
            // What waits for the last value comes last.
            out[i] = (self.b0[i] * fresh - self.a2[i] * older[i]) - self.a1[i] * last[i];
        }
        self.x = [sample, self.x[0]];
        self.y = [out, last];
        self.since += 1;
        if self.since == TIDY_EVERY {
            self.since = 0;
            self.y.iter_mut().flatten().filter(|y| y.abs() < 1e-30).for_each(|y| *y = 0.0);
        }
        out
    }

    /// Energy (sum of squares) of what each lets through of the next `samples`.
    pub fn energies(&mut self, samples: &[f32]) -> [f64; N] {
        Arch::new().dispatch(Energies { filters: self, samples })
    }
}

struct Energies<'a, const N: usize> {
    filters: &'a mut BandPasses<N>,
    samples: &'a [f32],
}

impl<const N: usize> WithSimd for Energies<'_, N> {
    type Output = [f64; N];

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> [f64; N] {
        let BandPasses { b0, a1, a2, x, y, .. } = self.filters;
        let [mut last, mut older] = *y;
        let mut energies = [0.0; N];
        for sample in self.samples {
            let sample = f64::from(*sample);
            let fresh = sample - x[1];
            *x = [sample, x[0]];
            let mut out = [0.0; N];
            for i in 0..N {
                // What waits for the last value comes last.
                out[i] = (b0[i] * fresh - a2[i] * older[i]) - a1[i] * last[i];
                energies[i] += out[i] * out[i];
            }
            (last, older) = (out, last);
        }
        *y = [last, older].map(|values| values.map(|y| if y.abs() < 1e-30 { 0.0 } else { y }));
        energies
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn energies_are_those_of_what_is_let_through_however_the_samples_come() {
        let bands = [(30.0, 150.0), (600.0, 2400.0)];
        let samples: Vec<f32> = (0..1000).map(|n| ((n * n) % 97) as f32 / 97.0 - 0.5).collect();
        let (mut one, mut all) = (BandPasses::new(bands, 8000.0), BandPasses::new(bands, 8000.0));
        let mut wanted = [0.0; 2];
        for x in &samples {
            wanted.iter_mut().zip(one.push(f64::from(*x))).for_each(|(sum, y)| *sum += y * y);
        }
        let mut found = [0.0; 2];
        for part in samples.chunks(77) {
            found.iter_mut().zip(all.energies(part)).for_each(|(sum, energy)| *sum += energy);
        }
        assert!(wanted.iter().zip(&found).all(|(a, b)| *a > 0.1 && (a / b - 1.0).abs() < 1e-9), "{wanted:?} {found:?}");
    }
}
