//! Decay of the whole sound by backward integration (M. R. Schroeder, J. Acoust. Soc. Am. 37, 1965), cut off where the
//! noise begins and compensated for what is cut (Lundeby et al., Acustica 81, 1995), evaluated as in ISO 3382-1/-2.

use super::envelope::mean_square;
use crate::numeric::Regression;
use crate::units::LN_1000;
use serde::{Deserialize, Serialize};

const BLOCK_S: f64 = 0.005;

/// Decay of the whole sound. `None`: the recording does not reach far enough above its noise to tell.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Broadband {
    /// Early decay time: 0 to -10 dB, extrapolated to 60 dB, s.
    pub edt_s: Option<f64>,
    /// -5 to -25 dB, extrapolated to 60 dB, s.
    pub t20_s: Option<f64>,
    /// -5 to -35 dB, extrapolated to 60 dB, s.
    pub t30_s: Option<f64>,
    /// Level of what is left when the strike has gone, dBFS (RMS).
    pub noise_floor_dbfs: Option<f64>,
    /// Degree of non-linearity, 1000 (1 - r^2), over the range of T30 (else T20): over 10 the decay is no straight line.
    pub nonlinearity_permille: Option<f64>,
    /// Curvature, 100 (T30 / T20 - 1): over 10 the decay bends, as from drum to room.
    pub curvature_percent: Option<f64>,
    /// How far the loudest 5 ms stand above the noise, dB.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub range_db: Option<f64>,
}

/// Where the noise of a recording is taken from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum NoiseFloor {
    /// From the recording itself: its end, and what Lundeby's method finds behind the decay.
    Tail,
    /// The end still sounds; the mean square before the strike (full scale 1) is the best that is known.
    Before(f64),
}

/// Backward-integrated decay of one strike.
#[derive(Debug, Clone)]
pub struct DecayCurve {
    /// Level of the energy still to come, dB against all of it, one value each `step_s`.
    pub level_db: Vec<f64>,
    /// Time between two values, s.
    pub step_s: f64,
    /// Mean square of the noise (full scale 1).
    pub noise: f64,
    /// How far the loudest 5 ms stand above the noise, dB.
    pub range_db: f64,
}

impl DecayCurve {
    /// Integrates `samples` (from the hit on, full scale 1) backwards.
    pub fn new(samples: &[f32], rate: f64, floor: NoiseFloor) -> Self {
        let block = ((rate * BLOCK_S) as usize).max(1);
        let step_s = block as f64 / rate;
        let energy: Vec<f64> = samples.chunks_exact(block).map(mean_square).collect();
        let peak = energy.iter().copied().fold(1e-30, f64::max);
        let (noise, end, rate_per_s) = truncation(&energy, step_s, floor);
        let end = end.clamp(1, energy.len().max(1));
        // Behind the cut an exponential decay is assumed to go on from the last level.
        let last = energy.get(end.saturating_sub(3)..end.min(energy.len())).map_or(0.0, mean);
        let mut remaining = (last - noise).max(0.0) / (rate_per_s * step_s).max(1e-9);
        let mut curve: Vec<f64> = energy[..end.min(energy.len())]
            .iter()
            .rev()
            .map(|value| {
                remaining += (value - noise).max(0.0);
                remaining
            })
            .collect();
        curve.reverse();
        let all = curve.first().copied().unwrap_or(0.0).max(1e-30);
        let level_db = curve.iter().map(|value| 10.0 * (value / all).max(1e-20).log10()).collect();
        Self { level_db, step_s, noise, range_db: 10.0 * (peak / noise.max(1e-20)).log10() }
    }

    /// The decay times this curve can support: ISO 3382-1 asks for 10 dB between the evaluated range and the noise.
    pub fn evaluate(&self) -> Broadband {
        let fit = |from: f64, to: f64| (self.range_db >= 10.0 - to).then(|| self.fit(from, to)).flatten();
        let t20 = fit(-5.0, -25.0);
        let t30 = fit(-5.0, -35.0);
        Broadband {
            edt_s: fit(0.0, -10.0).map(|f| f.0),
            t20_s: t20.map(|f| f.0),
            t30_s: t30.map(|f| f.0),
            noise_floor_dbfs: (self.noise > 0.0).then(|| 10.0 * self.noise.log10()),
            nonlinearity_permille: t30.or(t20).map(|f| f.1),
            range_db: (self.noise > 0.0).then_some(self.range_db),
            curvature_percent: t20.zip(t30).map(|(a, b)| 100.0 * (b.0 / a.0 - 1.0)),
        }
    }

    /// Decay time from a line through the curve between two levels (dB), and its non-linearity in permille.
    fn fit(&self, from: f64, to: f64) -> Option<(f64, f64)> {
        let start = self.level_db.iter().position(|level| *level <= from)?;
        let end = self.level_db.iter().position(|level| *level <= to)?;
        let points = &self.level_db[start..=end];
        if points.len() < 3 {
            return None;
        }
        let line = Regression::evenly(points)?;
        (line.slope < 0.0).then(|| (-60.0 * self.step_s / line.slope, 1000.0 * (1.0 - line.r_squared)))
    }
}

fn mean(values: &[f64]) -> f64 {
    values.iter().sum::<f64>() / values.len().max(1) as f64
}

/// Noise (mean square), index of the block to stop at, and the late energy decay rate (1/s), after Lundeby et al.:
/// a line through the decay is extended into the noise, and the noise measured again behind the crossing, until both rest.
fn truncation(energy: &[f64], step_s: f64, floor: NoiseFloor) -> (f64, usize, f64) {
    let blocks = energy.len();
    // A strike that begins within one block of a recording's end has no decay to follow.
    if blocks == 0 {
        return (1e-20, 0, LN_1000);
    }
    let tail = &energy[blocks - (blocks / 10).max(1).min(blocks)..];
    let mut noise = match floor {
        NoiseFloor::Tail => mean(tail),
        NoiseFloor::Before(noise) => noise.min(mean(tail)),
    }
    .max(1e-20);
    let mut crossing = blocks;
    let mut rate = LN_1000;
    let peak = energy.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |(i, _)| i);
    for _ in 0..6 {
        // The late part: from 25 dB above where the line leaves the noise (by 6 dB) down to there.
        let stop = energy.iter().rposition(|e| *e > 4.0 * noise).map_or(peak, |i| i.min(crossing));
        let top = energy[stop.min(blocks - 1)].max(4.0 * noise) * 316.0;
        let start = (peak..stop).rev().find(|&i| energy[i] > top).unwrap_or(peak);
        if stop < start + 3 {
            break;
        }
        let (slope, intercept) = line(&energy[start..=stop], noise);
        if slope >= 0.0 {
            break;
        }
        rate = -slope / step_s;
        if floor != NoiseFloor::Tail {
            break;
        }
        let next = start + (((noise.ln() - intercept) / slope).max(1.0)) as usize;
        let next = next.min(blocks);
        // 10 dB of decay further on only noise is left.
        let behind = next.saturating_add((2.3 / -slope) as usize).min(blocks.saturating_sub(blocks / 10 + 1));
        noise = mean(&energy[behind..]).max(1e-20);
        if next.abs_diff(crossing) <= 1 {
            crossing = next;
            break;
        }
        crossing = next;
    }
    (noise, crossing, rate)
}

/// Least-squares line through the logarithm of `energy` with the noise taken off: slope per block, value at the first.
fn line(energy: &[f64], noise: f64) -> (f64, f64) {
    let y: Vec<f64> = energy.iter().map(|e| (e - noise).max(0.25 * noise).max(1e-20).ln()).collect();
    Regression::evenly(&y).map_or((f64::NAN, f64::NAN), |line| (line.slope, line.at(0.0)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::{amplitude, decay_rate};
    use proptest::prelude::*;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    fn noisy_decay(t60: f64, noise_db: f64, seconds: f64, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed);
        let noise = amplitude(noise_db) * 3f64.sqrt();
        (0..(48_000.0 * seconds) as usize)
            .map(|n| {
                let t = n as f64 / 48_000.0;
                let tone = (-decay_rate(t60) * t).exp() * (2.0 * std::f64::consts::PI * 211.0 * t).sin();
                (0.7 * tone + noise * rng.random_range(-1.0..1.0)) as f32
            })
            .collect()
    }

    #[test]
    fn a_strike_that_begins_at_the_very_end_of_a_recording_has_no_decay_and_harms_nothing() {
        for length in 0..600 {
            for floor in [NoiseFloor::Tail, NoiseFloor::Before(1e-9)] {
                let curve = DecayCurve::new(&vec![0.5; length], 48_000.0, floor);
                assert_eq!(curve.evaluate().t20_s, None, "{length} samples");
            }
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(40))]
        #[test]
        fn an_exponential_decay_in_noise_gives_its_own_decay_time(t60 in 0.15f64..1.5, noise_db in -85f64..-58.0, seed in 0u64..1000) {
            let curve = DecayCurve::new(&noisy_decay(t60, noise_db, 1.6 * t60 + 0.5, seed), 48_000.0, NoiseFloor::Tail);
            let found = curve.evaluate();
            let t20 = found.t20_s.expect("enough range for T20");
            prop_assert!((t20 / t60 - 1.0).abs() < 0.05, "T20 {t20} for {t60} at {noise_db} dB");
            prop_assert!((found.noise_floor_dbfs.unwrap() - noise_db).abs() < 1.5);
            prop_assert!(found.nonlinearity_permille.unwrap() < 10.0);
        }
    }

    #[test]
    fn too_little_above_the_noise_gives_nothing_rather_than_a_guess() {
        let found = DecayCurve::new(&noisy_decay(0.6, -28.0, 1.5, 3), 48_000.0, NoiseFloor::Tail).evaluate();
        assert_eq!((found.t20_s, found.t30_s), (None, None));
    }
}
