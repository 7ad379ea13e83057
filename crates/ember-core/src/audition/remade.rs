//! A recorded strike with the decays and pitches that are expected.
//!
//! The strike is split into bands, one a group of partials, whose filters add up to one: with nothing changed it comes out as it went
//! in. Each band then fades as its group's expected energy does against its measured one, and its pitch moves along. What no partial
//! explains (the stick, wires, the fall of the pitch) stays in its band and fades with it, so that the drum is still recognised. The room's noise
//! does not: what fades with the band is put back.

use super::background::background;
use super::courses::{Course, above, courses};
use crate::tone::Partial;
use crate::units::amplitude;
use num_complex::Complex64;
use rayon::prelude::*;
use realfft::RealFftPlanner;
use std::f64::consts::PI;

/// The widest that filters on either side of a band pass into each other, Hz.
const WIDEST_HZ: f64 = 60.0;
/// Up to which the stretch above the highest partial begins, Hz over it.
const ABOVE_HZ: f64 = 80.0;
/// A change sets in over this time after the hit, s.
const SETS_IN_S: f64 = 0.003;
/// Samples over which a gain runs straight.
const EVERY: usize = 32;
/// Silence behind the sound, so that nothing comes round to its beginning, s.
const SILENCE_S: f64 = 0.3;
/// From the hit on for so long sounds are matched, s.
const MATCHED_S: f64 = 0.1;

/// What is to change.
pub struct Change<'a> {
    /// Partials as the model has them now, and as they should become.
    pub before: &'a [Partial],
    /// Partials after it.
    pub after: &'a [Partial],
    /// Attack given up, dB: taken from what lies above all partials, where the stick is heard.
    pub attack_lost_db: f64,
}

/// `samples` (full scale 1, `rate` a second, hit at `onset_index`), re-made. As long as it was; what lies before the hit is unchanged but
/// for what filters smear.
pub fn remade(samples: &[f32], rate: f64, onset_index: usize, change: &Change) -> Vec<f32> {
    let courses = courses(change.before, change.after);
    if courses.is_empty() {
        return samples.to_vec();
    }
    let size = (samples.len() + (SILENCE_S * rate) as usize).next_power_of_two();
    let mut planner = RealFftPlanner::<f64>::new();
    let (forward, inverse) = (planner.plan_fft_forward(size), planner.plan_fft_inverse(size));
    let mut padded: Vec<f64> = samples.iter().map(|x| f64::from(*x)).chain(std::iter::repeat_n(0.0, size - samples.len())).collect();
    let mut spectrum = forward.make_output_vec();
    // Lengths are the transform's own, so it cannot fail.
    let _ = forward.process(&mut padded, &mut spectrum);
    let bin_hz = rate / size as f64;
    let edges = Edges::between(&courses);
    let noise = background(samples, rate, onset_index, size);
    let back = |spectrum: &[Complex64], turn: Complex64, band: usize| -> Vec<f64> {
        let mut part: Vec<Complex64> =
            spectrum.iter().enumerate().map(|(bin, value)| value * turn * edges.share(band, bin as f64 * bin_hz) / size as f64).collect();
        // A real sound has neither phase at 0 Hz nor at half the rate.
        part[0].im = 0.0;
        part[size / 2].im = 0.0;
        let mut out = inverse.make_output_vec();
        let _ = inverse.process(&mut part, &mut out);
        out
    };
    let above_decay = above(&courses);
    let attack = amplitude(-change.attack_lost_db);
    let bands: Vec<Vec<f64>> = (0..=courses.len())
        .into_par_iter()
        .map(|band| {
            let course = courses.get(band);
            let plain = Complex64::new(1.0, 0.0);
            let mut real = back(&spectrum, plain, band);
            let noise = noise.as_ref().map(|noise| back(noise, plain, band));
            let moves_hz = course.map_or(0.0, |course| course.moves_hz);
            let quarter = if moves_hz == 0.0 { Vec::new() } else { back(&spectrum, Complex64::new(0.0, -1.0), band) };
            let gain = |index: usize| {
                let t = index as f64 / rate;
                let gain = course.map_or_else(|| attack * (-above_decay * t).exp(), |course| course.gain(t));
                1.0 + (gain - 1.0) * (t / SETS_IN_S).min(1.0)
            };
            let step = Complex64::from_polar(1.0, 2.0 * PI * moves_hz / rate);
            let mut turn = Complex64::new(1.0, 0.0);
            // Gains change slowly: between every so many samples they run straight.
            for first in (onset_index..samples.len()).step_by(EVERY) {
                let (from, to) = (gain(first - onset_index), gain(first - onset_index + EVERY));
                for n in first..(first + EVERY).min(samples.len()) {
                    let here = from + (to - from) * (n - first) as f64 / EVERY as f64;
                    real[n] = here * if quarter.is_empty() { real[n] } else { real[n] * turn.re - quarter[n] * turn.im };
                    // Noise that went and noise that comes are not alike, so their powers add up to what it was.
                    real[n] += noise.as_ref().map_or(0.0, |noise| noise[n] * (1.0 - here * here).max(0.0).sqrt());
                    turn *= step;
                }
            }
            real
        })
        .collect();
    (0..samples.len()).map(|n| bands.iter().map(|band| band[n]).sum::<f64>() as f32).collect()
}

/// A sound with its hit.
#[derive(Clone, Copy)]
pub struct Struck<'a> {
    /// The samples, full scale 1.
    pub samples: &'a [f32],
    /// Index of the hit in the samples.
    pub onset_index: usize,
    /// Samples a second.
    pub rate: f64,
}

impl Struck<'_> {
    /// Mean square of its first tenth of a second.
    fn power(&self) -> f64 {
        let count = (MATCHED_S * self.rate) as usize;
        self.samples.iter().skip(self.onset_index).take(count).map(|x| f64::from(*x).powi(2)).sum::<f64>() / count.max(1) as f64
    }
}

/// Factor that makes `sound` as loud as `reference` over the first tenth of a second from the hit: ears take the louder one for the
/// better one.
pub fn matching_gain(sound: Struck, reference: Struck) -> f64 {
    let (own, wanted) = (sound.power(), reference.power());
    if own > 0.0 && wanted > 0.0 { (wanted / own).sqrt() } else { 1.0 }
}

/// Where bands meet: (Hz, half the width over which they pass into each other).
struct Edges(Vec<(f64, f64)>);

impl Edges {
    fn between(courses: &[Course]) -> Self {
        let meet = |low: f64, high: f64| (0.5 * (low + high), (0.35 * (high - low)).min(WIDEST_HZ));
        let mut edges: Vec<(f64, f64)> = courses.windows(2).map(|pair| meet(pair[0].hz, pair[1].hz)).collect();
        let highest = courses.last().map_or(0.0, |course| course.hz);
        edges.push((highest + ABOVE_HZ, 0.5 * ABOVE_HZ));
        Self(edges)
    }

    /// Part of what lies at `hz` that belongs to `band`; all bands' add up to 1.
    fn share(&self, band: usize, hz: f64) -> f64 {
        let below = |index: usize| match self.0.get(index) {
            Some((edge, half)) => 0.5 + 0.5 * (0.5 * PI * ((edge - hz) / half).clamp(-1.0, 1.0)).sin(),
            None => 1.0,
        };
        below(band) - if band == 0 { 0.0 } else { below(band - 1) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::decay_rate;
    use proptest::prelude::*;
    use rand::rngs::StdRng;
    use rand::{Rng, SeedableRng};

    const RATE: f64 = 48_000.0;
    const ONSET: usize = 2400;

    fn partial(hz: f64, t60: f64, level_db: f64) -> Partial {
        Partial { hz, t60_s: Some(t60), t60_sd_s: None, t60_scatter_s: None, level_db, tone: None }
    }

    fn sound(partials: &[Partial]) -> Vec<f32> {
        let at = |n: usize| {
            let t = (n as f64 - ONSET as f64) / RATE;
            let tone = |p: &Partial| 0.2 * amplitude(p.level_db) * (-decay_rate(p.t60_s.unwrap()) * t).exp() * (2.0 * PI * p.hz * t).sin();
            if t < 0.0 { 0.0 } else { partials.iter().map(tone).sum::<f64>() as f32 }
        };
        (0..72_000).map(at).collect()
    }

    fn off_db(a: &[f32], b: &[f32]) -> f64 {
        let energy = |x: &mut dyn Iterator<Item = f64>| x.map(|x| x * x).sum::<f64>();
        let off = energy(&mut a.iter().zip(b).map(|(a, b)| f64::from(a - b)));
        10.0 * (off / energy(&mut b.iter().map(|x| f64::from(*x)))).max(1e-30).log10()
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(12))]
        /// With nothing changed a strike comes out as it went in.
        #[test]
        fn nothing_changed_is_the_strike_itself(low in 70f64..200.0, high in 260f64..700.0, t60 in 0.2f64..1.2) {
            let partials = [partial(low, t60, 0.0), partial(high, 0.5 * t60, -6.0)];
            let strike = sound(&partials);
            let same = remade(&strike, RATE, ONSET, &Change { before: &partials, after: &partials, attack_lost_db: 0.0 });
            prop_assert!(off_db(&same, &strike) < -90.0, "{}", off_db(&same, &strike));
        }

        /// Tones with other decay times and pitches come out as such tones would have been recorded (closed form).
        #[test]
        fn changed_tones_are_those_that_were_asked_for(
            low in 80f64..180.0, high in 300f64..700.0, shorter in 0.25f64..1.0, flatter in 0.97f64..1.0,
        ) {
            let before = [partial(low, 0.9, 0.0), partial(high, 0.6, -6.0)];
            let after = [partial(low * flatter, 0.9 * shorter, 0.0), partial(high * flatter, 0.6 * shorter, -6.0)];
            let made = remade(&sound(&before), RATE, ONSET, &Change { before: &before, after: &after, attack_lost_db: 0.0 });
            let wanted = sound(&after);
            // The hit itself is smeared by filters; from 20 ms on it is the tone that was asked for.
            let from = ONSET + (0.02 * RATE) as usize;
            let off = off_db(&made[from..], &wanted[from..]);
            prop_assert!(off < -18.0, "{off} dB");
        }
    }

    /// Where a drum has gone sooner, the room is as loud as it was, in each third of an octave.
    #[test]
    fn the_rooms_noise_stays() {
        let (before, after) =
            ([partial(120.0, 0.6, 0.0), partial(300.0, 0.5, -6.0)], [partial(120.0, 0.15, 0.0), partial(300.0, 0.1, -6.0)]);
        let mut last = 0.0;
        let mut random = StdRng::seed_from_u64(7);
        // Noise that falls with frequency, as a room's does.
        let mut hiss = || {
            last = 0.9 * last + 1e-3 * (random.random::<f64>() - 0.5);
            last as f32
        };
        let strike: Vec<f32> = sound(&before).iter().map(|x| x + hiss()).collect();
        let made = remade(&strike, RATE, ONSET, &Change { before: &before, after: &after, attack_lost_db: 0.0 });
        let level = |samples: &[f32], hz: f64| {
            let band = samples.chunks_exact(480).map(|piece| {
                let sum: Complex64 = piece
                    .iter()
                    .enumerate()
                    .map(|(n, x)| f64::from(*x) * Complex64::from_polar(1.0, -2.0 * PI * hz * n as f64 / RATE))
                    .sum();
                sum.norm_sqr()
            });
            10.0 * band.sum::<f64>().log10()
        };
        // The untouched drum is 80 dB down behind this.
        let (was, is) = (&strike[48_000..], &made[48_000..]);
        for hz in [120.0, 300.0, 500.0, 2_000.0, 8_000.0] {
            let off = level(is, hz) - level(was, hz);
            assert!(off.abs() < 3.0, "{hz} Hz: {off} dB");
        }
    }

    #[test]
    fn sounds_are_matched_over_their_first_tenth_of_a_second() {
        let (loud, soft) = (sound(&[partial(120.0, 0.9, 0.0)]), sound(&[partial(120.0, 0.9, -6.0)]));
        let loud = Struck { samples: &loud, onset_index: ONSET, rate: RATE };
        let gain = matching_gain(Struck { samples: &soft, ..loud }, loud);
        assert!((20.0 * gain.log10() - 6.0).abs() < 0.01, "{gain}");
        assert_eq!(matching_gain(Struck { samples: &[0.0; 5000], ..loud }, loud), 1.0);
        // At half the rate it is as loud, not half as loud.
        let thinned: Vec<f32> = soft.iter().step_by(2).copied().collect();
        let gain = matching_gain(Struck { samples: &thinned, onset_index: ONSET / 2, rate: RATE / 2.0 }, loud);
        assert!((20.0 * gain.log10() - 6.0).abs() < 0.1, "{gain}");
    }

    #[test]
    fn without_partials_a_strike_stays_as_it_is() {
        let strike = sound(&[partial(120.0, 0.9, 0.0)]);
        assert_eq!(remade(&strike, RATE, ONSET, &Change { before: &[], after: &[], attack_lost_db: 3.0 }), strike);
    }
}
