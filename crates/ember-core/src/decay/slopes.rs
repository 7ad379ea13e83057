//! Whether a sound decays along one slope or two, as from a drum into the room behind it.
//!
//! The energy of a sound with two decays in noise is a sum of two exponentials and a constant (N. Xiang & P. M. Goggans, J. Acoust.
//! Soc. Am. 110, 2001, fit its backward integral, whose errors hang together; here the energy itself is fitted, block by block). Both
//! decay times are looked for on a grid and then in ever smaller steps; for each pair the three shares follow from least squares
//! over relative errors, none below zero, and the pair counts by its errors in level (dB): those cannot hide a misfit at the start
//! behind the scatter of a long tail.

use crate::signal::energy as energy_of;
use crate::units::LN_1000;
use nalgebra::{Matrix3, Vector3};
use serde::{Deserialize, Serialize};
use wide::f64x4;

const BLOCK_S: f64 = 0.01;
/// Decay times looked for, s, and how many on the grid.
const SHORTEST_S: f64 = 0.04;
const LONGEST_S: f64 = 8.0;
const GRID: usize = 22;
/// Steps from there to the best, as parts of a decay time: those over every second four blocks, and those over all.
const COARSE_STEPS: [f64; 2] = [0.12, 0.05];
const FINE_STEPS: [f64; 3] = [0.02, 0.008, 0.003];
/// Blocks on either side over which a block's weight is smoothed.
const SMOOTH: usize = 4;
/// Levels against the usual one are not taken for smaller than this.
const LEAST: f64 = 1e-9;
/// What a second slope must leave at most of the squared error that one leaves.
const CLEARLY_BETTER: f64 = 0.8;
/// A bend is one where the decay times differ by this ratio and the slow one begins so far below the fast one, dB.
const APART: f64 = 1.6;
const BELOW_DB: std::ops::Range<f64> = -45.0..-4.0;
/// The slow slope must be seen for so many dB before the noise has it.
const SEEN_DB: f64 = 6.0;

/// One straight part of a decay.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Slope {
    /// Time to fall 60 dB, s.
    pub t60_s: f64,
    /// Its level at the hit against the first slope's, dB.
    pub level_db: f64,
    /// The same as it is, drawn back to the hit, dBFS (RMS).
    pub level_dbfs: f64,
}

/// One slope, or the fast and the slow one, of `sound` (from the hit on, full scale 1). None where nothing stands out of the noise.
pub fn slopes(sound: &[f32], rate: f64) -> Vec<Slope> {
    let block = ((rate * BLOCK_S) as usize).max(1);
    let step_s = block as f64 / rate;
    let energy: Vec<f64> = sound.chunks_exact(block).map(energy_of).collect();
    let Some(peak) = (0..energy.len()).max_by(|a, b| energy[*a].total_cmp(&energy[*b])) else { return Vec::new() };
    // The stick's own sound is neither drum nor room.
    let from = peak + (0.015 / step_s) as usize;
    let Some(curve) = Curve::new(energy.get(from..).unwrap_or_default(), step_s) else { return Vec::new() };
    let grid: Vec<f64> = (0..GRID).map(|i| SHORTEST_S * (LONGEST_S / SHORTEST_S).powf(i as f64 / (GRID - 1) as f64)).collect();
    let coarse = curve.thinned();
    let best = |fits: &mut dyn Iterator<Item = Fit>| fits.min_by(|a, b| a.error.total_cmp(&b.error)).map(|fit| fit.t60_s);
    let nearer = |start| coarse.nearer(start, &COARSE_STEPS).and_then(|fit| curve.nearer(fit.t60_s, &FINE_STEPS));
    let one = best(&mut grid.iter().filter_map(|t| coarse.fit(*t, *t))).and_then(nearer);
    let Some(one) = one else { return Vec::new() };
    let back = from as f64 * step_s;
    let at_hit = |share: f64, t60: f64| share * (2.0 * LN_1000 / t60 * back).exp();
    let dbfs = |share: f64, t60: f64| 10.0 * (at_hit(share, t60) / block as f64).max(1e-20).log10();
    let single = vec![Slope { t60_s: one.t60_s.0, level_db: 0.0, level_dbfs: dbfs(one.shares[0], one.t60_s.0) }];
    let pairs = grid.iter().flat_map(|fast| grid.iter().filter(move |slow| **slow > 1.2 * fast).map(move |slow| (*fast, *slow)));
    let two = best(&mut pairs.filter_map(|(fast, slow)| coarse.fit(fast, slow))).and_then(nearer);
    let Some(two) = two else { return single };
    let (fast, slow) = two.t60_s;
    let level_db = 10.0 * (at_hit(two.shares[1], slow) / at_hit(two.shares[0], fast).max(1e-300)).log10();
    // Where the slow slope takes over from the fast one it must still stand out of the noise.
    let takes_over = (two.shares[0] / two.shares[1].max(1e-300)).max(1.0).ln() / (2.0 * LN_1000 * (1.0 / fast - 1.0 / slow)).max(1e-9);
    let there = two.shares[1] * (-2.0 * LN_1000 / slow * takes_over).exp();
    let above_noise_db = 10.0 * (there / two.shares[2].max(1e-300)).log10();
    let bends = two.error < CLEARLY_BETTER * one.error && slow > APART * fast && BELOW_DB.contains(&level_db) && above_noise_db > SEEN_DB;
    if !bends {
        return single;
    }
    vec![
        Slope { t60_s: fast, level_db: 0.0, level_dbfs: dbfs(two.shares[0], fast) },
        Slope { t60_s: slow, level_db, level_dbfs: dbfs(two.shares[1], slow) },
    ]
}

/// Four blocks that follow each other: each is as good as none behind the last one.
type Four = f64x4;

/// Energy block by block, in fours.
struct Curve {
    /// What a block's error is relative to (one over it, 0 behind the last block), the energy against it, and the logarithm of that.
    points: Vec<(Four, Four, Four)>,
    /// Blocks from four to four.
    apart: i32,
    step_s: f64,
}

/// Two slopes over noise: decay times, shares (energy a block of each slope at first, and of the noise) and squared error of the level.
#[derive(Clone, Copy)]
struct Fit {
    t60_s: (f64, f64),
    shares: Vector3<f64>,
    error: f64,
}

impl Curve {
    fn new(energy: &[f64], step_s: f64) -> Option<Self> {
        if energy.len() < 12 || energy.iter().all(|e| *e == 0.0) {
            return None;
        }
        let least = 1e-12 * energy.iter().copied().fold(0.0, f64::max);
        let log: Vec<f64> = energy.iter().map(|e| e.max(least).ln()).collect();
        let smooth = |n: usize| {
            let part = &log[n.saturating_sub(SMOOTH.min(energy.len() - 1 - n))..(n + SMOOTH.min(n) + 1).min(log.len())];
            (part.iter().sum::<f64>() / part.len() as f64).exp()
        };
        let usual: Vec<f64> = (0..energy.len()).map(smooth).collect();
        let fours = |value: &dyn Fn(usize) -> f64, beyond: f64| -> Vec<Four> {
            let lane = |n: usize| if n < energy.len() { value(n) } else { beyond };
            (0..energy.len()).step_by(4).map(|n| Four::from(std::array::from_fn(|k| lane(n + k)))).collect()
        };
        let against = |n: usize| energy[n] / usual[n];
        let weights = fours(&|n| 1.0 / usual[n], 0.0);
        let (levels, logs) = (fours(&against, 0.0), fours(&|n| against(n).max(LEAST).ln(), LEAST.ln()));
        Some(Self {
            points: weights.into_iter().zip(levels).zip(logs).map(|((weight, level), log)| (weight, level, log)).collect(),
            apart: 4,
            step_s,
        })
    }

    /// Every second four of a long one: enough to see where on a grid the best fit lies.
    fn thinned(&self) -> Self {
        let every = if self.points.len() < 24 { 1 } else { 2 };
        Self { points: self.points.iter().copied().step_by(every).collect(), apart: self.apart * every as i32, step_s: self.step_s }
    }

    /// Shares that fit best with these decay times; equal ones stand for one slope.
    fn fit(&self, fast: f64, slow: f64) -> Option<Fit> {
        let one = fast == slow;
        // From block to block a slope falls by the same factor.
        let course = |t60: f64| {
            let falls = (-2.0 * LN_1000 / t60 * self.step_s).exp();
            (Four::from([1.0, falls, falls.powi(2), falls.powi(3)]), Four::splat(falls.powi(self.apart)))
        };
        let ((fast_first, fast_falls), (slow_first, slow_falls)) = (course(fast), course(slow));
        let slow_first = if one { Four::ZERO } else { slow_first };
        let (mut fast_now, mut slow_now) = (fast_first, slow_first);
        let mut sums = [Four::ZERO; 9];
        for &(weight, level, _) in &self.points {
            let (a, b) = (fast_now * weight, slow_now * weight);
            for (sum, term) in sums.iter_mut().zip([a * a, a * b, a * weight, b * b, b * weight, weight * weight, a * level, b * level]) {
                *sum += term;
            }
            sums[8] += weight * level;
            fast_now *= fast_falls;
            slow_now *= slow_falls;
        }
        let [aa, ab, a1, bb, b1, one_one, a, b, c] = sums.map(|sum| sum.reduce_add());
        let (normal, right) = (Matrix3::new(aa, ab, a1, ab, bb, b1, a1, b1, one_one), Vector3::new(a, b, c));
        // Without a share that came out below zero it is fitted once more; the noise goes before a slope.
        for without in [&[][..], &[2], &[1], &[1, 2]] {
            let (mut part, mut target) = (normal, right);
            let none = if one { &[1][..] } else { &[] };
            for index in without.iter().chain(none) {
                part.row_mut(*index).fill(0.0);
                part.column_mut(*index).fill(0.0);
                (part[(*index, *index)], target[*index]) = (1.0, 0.0);
            }
            if let Some(shares) = part.lu().solve(&target).filter(|shares| shares.iter().all(|share| *share >= 0.0)) {
                let [of_fast, of_slow, of_noise] = [shares[0], shares[1], shares[2]].map(Four::splat);
                let (mut fast_now, mut slow_now, mut error) = (fast_first, slow_first, Four::ZERO);
                for &(weight, _, log) in &self.points {
                    let level = (of_fast * fast_now + of_slow * slow_now + of_noise) * weight;
                    let off = level.max(Four::splat(LEAST)).ln() - log;
                    error += off * off;
                    fast_now *= fast_falls;
                    slow_now *= slow_falls;
                }
                return Some(Fit { t60_s: (fast, slow), shares, error: error.reduce_add() });
            }
        }
        None
    }

    /// The best fit near `start`.
    fn nearer(&self, start: (f64, f64), steps: &[f64]) -> Option<Fit> {
        let one = start.0 == start.1;
        let mut best = self.fit(start.0, start.1)?;
        for step in steps.iter().copied() {
            let ways: &[(f64, f64)] = if one {
                &[(step, step), (-step, -step)]
            } else {
                &[(step, 0.0), (-step, 0.0), (0.0, step), (0.0, -step), (step, step), (-step, -step), (step, -step), (-step, step)]
            };
            loop {
                let (fast, slow) = best.t60_s;
                let tried = ways.iter().filter_map(|(a, b)| self.fit(fast * (1.0 + a), slow * (1.0 + b)));
                match tried.min_by(|a, b| a.error.total_cmp(&b.error)) {
                    Some(better) if better.error < best.error * (1.0 - 1e-6) => best = better,
                    _ => break,
                }
            }
        }
        Some(best)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::decay_rate;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    const RATE: f64 = 48_000.0;

    fn gauss(rng: &mut StdRng) -> f64 {
        (0..12).map(|_| rng.random_range(-0.5..0.5)).sum()
    }

    /// A drum of a few partials of `drum_s`, noise of the room decaying in `room_s` so many dB below, and noise that stays.
    fn sound(drum_s: f64, room_s: f64, room_db: f64, noise_db: f64, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed);
        let body_hz = rng.random_range(90.0..180.0);
        let partials: Vec<(f64, f64)> = [1.0, 1.59, 2.14, 2.65].iter().map(|part| (body_hz * part, rng.random_range(0.0..6.0))).collect();
        let power: f64 = partials.len() as f64 / 2.0;
        (0..(2.4 * RATE) as usize)
            .map(|n| {
                let t = n as f64 / RATE;
                let drum: f64 = partials.iter().map(|(hz, phase)| (2.0 * std::f64::consts::PI * hz * t + phase).sin()).sum();
                let room = (power * 10f64.powf(room_db / 10.0)).sqrt() * gauss(&mut rng);
                let noise = power.sqrt() * 10f64.powf(noise_db / 20.0) * gauss(&mut rng);
                (0.2 * (drum * (-decay_rate(drum_s) * t).exp() + room * (-decay_rate(room_s) * t).exp() + noise)) as f32
            })
            .collect()
    }

    /// Wanted: a drum of 0.25 s with a room of 0.9 s 20 dB down, both within 15 %.
    #[test]
    fn drum_and_room_are_told_apart() {
        let mut off = Vec::new();
        for seed in 0..40 {
            let found = slopes(&sound(0.25, 0.9, -20.0, -60.0, seed), RATE);
            assert_eq!(found.len(), 2, "seed {seed}: {found:?}");
            off.push((found[0].t60_s / 0.25 - 1.0).abs().max((found[1].t60_s / 0.9 - 1.0).abs()));
            assert!((found[1].level_db + 20.0).abs() < 3.0, "seed {seed}: {found:?}");
            // Four partials of amplitude 0.2: a mean square of 0.08.
            assert!((found[0].level_dbfs - 10.0 * 0.08f64.log10()).abs() < 3.0, "seed {seed}: {found:?}");
        }
        off.sort_by(f64::total_cmp);
        println!("drum and room: off by {:.1} % in the median, {:.1} % at worst", 100.0 * off[20], 100.0 * off[39]);
        assert!(off[39] < 0.15);
    }

    #[test]
    fn one_decay_is_one_slope_at_any_length_and_noise() {
        for seed in 0..40 {
            let mut rng = StdRng::seed_from_u64(1000 + seed);
            let (t60, noise_db) = (rng.random_range(0.15..1.4), rng.random_range(-75.0..-40.0));
            let found = slopes(&sound(t60, t60, -300.0, noise_db, seed), RATE);
            assert_eq!(found.len(), 1, "T60 {t60}, noise {noise_db} dB: {found:?}");
            assert!((found[0].t60_s / t60 - 1.0).abs() < 0.1, "T60 {t60}, noise {noise_db} dB: {found:?}");
        }
    }

    #[test]
    fn nothing_and_silence_have_no_slope() {
        assert!(slopes(&[], RATE).is_empty() && slopes(&[0.0; 48_000], RATE).is_empty() && slopes(&[0.5; 100], RATE).is_empty());
    }
}
