//! Two microphones on one drum, held against each other.
//!
//! Which comes first and by how much is read off the cross-correlation of what arrives first, its spectrum partly whitened: the generalised
//! cross-correlation of Knapp & Carter, IEEE Trans. ASSP 24 (1976), with the phase transform's weight to the power 1/2, so that a drum's own tones do not
//! outvote its attack. The sign of its peak is the polarity. What a sum gains follows from the cross-spectrum in closed form:
//! |A + B|^2 = |A|^2 + |B|^2 + 2 Re A B*.

use crate::physics::SPEED_OF_SOUND;
use crate::signal::transform::{inverse, real_forward};
use crate::signal::{OCTAVES_HZ, octave_edges_hz};
use ember_words::{Text, Words, words};
use num_complex::Complex64;
use serde::{Deserialize, Serialize};

/// What is looked at begins so long before a hit, s.
const BEFORE_S: f64 = 0.006;
/// Length of the attack that is compared, from its onset at the nearer microphone, s (from experience, no published source).
const ATTACK_S: f64 = 0.012;
/// Furthest that the second microphone is later or earlier, s: some five metres, and three.
const LATER_S: f64 = 0.015;
const EARLIER_S: f64 = 0.009;
/// So much of a hit is summed, s.
const SUMMED_S: f64 = 0.25;
/// What is correlated lies between these, Hz.
const BAND_HZ: (f64, f64) = (60.0, 8000.0);
/// Exponent of the phase transform's weight.
const WHITENED: f64 = 0.5;
/// What arrives first must be as alike as this for polarity and arrival to be known (a part of what two like sounds have).
const ALIKE: f64 = 0.3;
/// Octaves that a sum is judged by: the drum's tone, of which a wrong polarity takes most.
const JUDGED_HZ: std::ops::RangeInclusive<f64> = 60.0..=600.0;
/// An octave that lies further under the loudest one says nothing, dB.
const HEARD_DB: f64 = -20.0;
/// A change is worth making from so many dB on, and the simpler one is taken where the other gains no more than this.
const WORTH_DB: f64 = 1.5;
/// Up to this distance the advice is to move the microphone; beyond it, to delay its channel, cm.
const CARRIED_CM: f64 = 30.0;
/// Nothing cancels further than this, dB.
const FLOOR_DB: f64 = -40.0;

/// Whether two microphones move the same way when the drum is hit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Polarity {
    /// They do.
    Same,
    /// One goes up where the other goes down.
    Opposite,
}

/// What makes two microphones add up best.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Fix {
    /// Nothing: they add up as they are.
    Leave,
    /// The second one's polarity is turned over.
    Flip,
    /// The earlier one is delayed, or one of them moved.
    Delay,
    /// Both.
    FlipAndDelay,
}

impl Fix {
    const ALL: [Self; 4] = [Self::Leave, Self::Flip, Self::Delay, Self::FlipAndDelay];
}

/// What the sum of both gains in an octave, against what two unlike sounds of their levels give, dB: 3 where both are alike, far under 0 where they cancel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OctaveSum {
    /// Middle of the octave, Hz.
    pub hz: f64,
    /// Its level in both together, against the loudest octave, dB.
    pub level_db: f64,
    /// As they are.
    pub as_is_db: f64,
    /// With the second one turned over.
    pub flipped_db: f64,
    /// With the earlier one delayed, so that both come at once.
    pub delayed_db: f64,
    /// With both.
    pub flipped_and_delayed_db: f64,
}

impl OctaveSum {
    /// What it gains with `fix`, dB.
    pub fn with(&self, fix: Fix) -> f64 {
        match fix {
            Fix::Leave => self.as_is_db,
            Fix::Flip => self.flipped_db,
            Fix::Delay => self.delayed_db,
            Fix::FlipAndDelay => self.flipped_and_delayed_db,
        }
    }
}

/// Two microphones, held against each other.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MicrophonePair {
    /// Hits that were looked at.
    pub hits: usize,
    /// Whether they move the same way; null where what arrives first is too unlike to tell.
    pub polarity: Option<Polarity>,
    /// How much later the second one hears the drum, s; negative where it hears it sooner. Null likewise.
    pub later_s: Option<f64>,
    /// The same as a difference of paths in air, m.
    pub farther_m: Option<f64>,
    /// How alike what arrives first is, from 0 to 1.
    pub likeness: f64,
    /// What their sum gains, by octave, low to high.
    pub sums: Vec<OctaveSum>,
    /// What makes them add up best.
    pub fix: Fix,
    /// How much that gains in the drum's own octaves, dB.
    pub gain_db: f64,
    /// What to do, as a sentence.
    pub sentence: Words,
}

/// Holds the channels `first` and `second` (full scale 1, `rate` samples a second) against each other on the hits that begin at `hits`, of a drum that the
/// first one stands nearer to. They are called by their names. Both are taken as equally loud, as a mixer's faders make them.
pub fn check_pair(first: (&[f32], Text), second: (&[f32], Text), hits: &[usize], rate: f64) -> MicrophonePair {
    let found = arrival(first.0, second.0, hits, rate);
    let known = found.filter(|found| found.likeness >= ALIKE);
    let later_s = known.map(|found| found.later_s);
    let sums = sums(first.0, second.0, hits, rate, later_s.unwrap_or(0.0));
    let (fix, gain_db) = if known.is_some() { best(&sums) } else { (Fix::Leave, 0.0) };
    let polarity = known.map(|found| if found.sign > 0.0 { Polarity::Same } else { Polarity::Opposite });
    MicrophonePair {
        hits: hits.len(),
        polarity,
        later_s,
        farther_m: later_s.map(|later_s| later_s * SPEED_OF_SOUND),
        likeness: found.map_or(0.0, |found| found.likeness),
        sentence: sentence((first.1, second.1), hits.len(), later_s, fix, &sums),
        sums,
        fix,
        gain_db,
    }
}

/// The peak of the cross-correlation.
#[derive(Debug, Clone, Copy)]
struct Arrival {
    later_s: f64,
    sign: f64,
    likeness: f64,
}

fn arrival(first: &[f32], second: &[f32], hits: &[usize], rate: f64) -> Option<Arrival> {
    let samples = |seconds: f64| (seconds * rate).round() as usize;
    let length = samples(BEFORE_S + ATTACK_S + LATER_S + EARLIER_S).next_power_of_two().max(256) * 2;
    let mut cross = vec![Complex64::ZERO; length / 2 + 1];
    for hit in hits {
        let a = spectrum(&attack(first, *hit, (samples(BEFORE_S), samples(ATTACK_S)), rate), length);
        let b = spectrum(&attack(second, *hit, (samples(BEFORE_S + EARLIER_S), samples(ATTACK_S + LATER_S)), rate), length);
        // What the second one's piece begins earlier is a delay of the first one.
        for (sum, (a, b)) in cross.iter_mut().zip(a.iter().zip(&b)) {
            *sum += b * a.conj();
        }
    }
    let mut whitened: Vec<Complex64> = vec![Complex64::ZERO; length];
    let mut all = 0.0;
    for (bin, value) in cross.iter().enumerate() {
        let hz = bin as f64 * rate / length as f64;
        if hz >= BAND_HZ.0 && hz <= BAND_HZ.1 && value.norm() > 0.0 {
            whitened[bin] = value / value.norm().powf(WHITENED);
            all += whitened[bin].norm();
        }
    }
    if all <= 0.0 {
        return None;
    }
    inverse(length).process(&mut whitened);
    // Half of a real spectrum went back: its real part is half of the correlation.
    let at = |lag: isize| whitened[lag.rem_euclid(length as isize) as usize].re / all;
    let offset = samples(EARLIER_S) as isize;
    let lags = offset - samples(EARLIER_S) as isize..=offset + samples(LATER_S) as isize;
    let peak = lags.max_by(|a, b| at(*a).abs().total_cmp(&at(*b).abs()))?;
    let (before, here, after) = (at(peak - 1).abs(), at(peak).abs(), at(peak + 1).abs());
    let bend = before - 2.0 * here + after;
    let off = if bend < 0.0 { (0.5 * (before - after) / bend).clamp(-0.5, 0.5) } else { 0.0 };
    Some(Arrival { later_s: ((peak - offset) as f64 + off) / rate, sign: at(peak).signum(), likeness: at(peak).abs() })
}

/// What of `samples` lies about a hit, faded in and out.
fn attack(samples: &[f32], hit: usize, (before, after): (usize, usize), rate: f64) -> Vec<f64> {
    let fade = (0.002 * rate).max(1.0);
    let length = before + after;
    (0..length)
        .map(|n| {
            let sample = (hit + n).checked_sub(before).and_then(|index| samples.get(index)).copied().unwrap_or(0.0);
            let edge = (n as f64 / fade).min((length - n) as f64 / fade).min(1.0);
            f64::from(sample) * edge
        })
        .collect()
}

fn spectrum(samples: &[f64], length: usize) -> Vec<Complex64> {
    let plan = real_forward(length);
    let mut input = samples.to_vec();
    input.resize(length, 0.0);
    let mut output = plan.make_output_vec();
    // The lengths are those of the plan.
    let _ = plan.process(&mut input, &mut output);
    output
}

/// Gains of the sum by octave, both at one level, the first one delayed by `later_s` where it is delayed.
fn sums(first: &[f32], second: &[f32], hits: &[usize], rate: f64, later_s: f64) -> Vec<OctaveSum> {
    let samples = |seconds: f64| (seconds * rate).round() as usize;
    let length = samples(BEFORE_S + SUMMED_S + LATER_S).next_power_of_two();
    let bins = length / 2 + 1;
    let (mut ea, mut eb, mut cross) = (vec![0.0; bins], vec![0.0; bins], vec![Complex64::ZERO; bins]);
    for hit in hits {
        let about = (samples(BEFORE_S), samples(SUMMED_S + LATER_S));
        let (a, b) = (spectrum(&attack(first, *hit, about, rate), length), spectrum(&attack(second, *hit, about, rate), length));
        for bin in 0..bins {
            ea[bin] += a[bin].norm_sqr();
            eb[bin] += b[bin].norm_sqr();
            cross[bin] += b[bin] * a[bin].conj();
        }
    }
    let octaves: Vec<(f64, f64, f64, [f64; 2])> = OCTAVES_HZ
        .iter()
        .enumerate()
        .map(|(index, hz)| {
            let (low, high) = octave_edges_hz(index);
            let range = (low * length as f64 / rate).ceil() as usize..((high * length as f64 / rate) as usize).min(bins - 1) + 1;
            let turned = |bin: usize| cross[bin] * Complex64::cis(2.0 * std::f64::consts::PI * bin as f64 * rate / length as f64 * later_s);
            let together = [range.clone().map(|bin| cross[bin].re).sum(), range.clone().map(|bin| turned(bin).re).sum()];
            (*hz, ea[range.clone()].iter().sum(), eb[range].iter().sum(), together)
        })
        .collect();
    let (all_a, all_b): (f64, f64) = (octaves.iter().map(|octave| octave.1).sum(), octaves.iter().map(|octave| octave.2).sum());
    if all_a <= 0.0 || all_b <= 0.0 {
        return Vec::new();
    }
    // As loud as each other.
    let scale = (all_a / all_b).sqrt();
    let level = |(_, a, b, _): &(f64, f64, f64, [f64; 2])| a + scale * scale * b;
    let loudest = octaves.iter().map(level).fold(0.0, f64::max);
    let sum = |octave: &(f64, f64, f64, [f64; 2])| {
        let apart = level(octave);
        let gain = |sign: f64, together: f64| {
            let part = 1.0 + 2.0 * sign * scale * together / apart;
            (10.0 * part.max(1e-12).log10()).max(FLOOR_DB)
        };
        OctaveSum {
            hz: octave.0,
            level_db: (10.0 * (apart / loudest).max(1e-12).log10()).max(FLOOR_DB),
            as_is_db: gain(1.0, octave.3[0]),
            flipped_db: gain(-1.0, octave.3[0]),
            delayed_db: gain(1.0, octave.3[1]),
            flipped_and_delayed_db: gain(-1.0, octave.3[1]),
        }
    };
    octaves.iter().filter(|octave| level(octave) > 0.0).map(sum).collect()
}

/// The simplest change of those that gain most in the drum's own octaves, and what it gains there.
fn best(sums: &[OctaveSum]) -> (Fix, f64) {
    let judged = |fix: Fix| {
        let of = sums.iter().filter(|sum| JUDGED_HZ.contains(&sum.hz) && sum.level_db > HEARD_DB);
        let (with, apart) = of.fold((0.0, 0.0), |(with, apart), sum| {
            let energy = 10f64.powf(sum.level_db / 10.0);
            (with + energy * 10f64.powf(sum.with(fix) / 10.0), apart + energy)
        });
        if apart > 0.0 { (10.0 * (with / apart).max(1e-12).log10()).max(FLOOR_DB) } else { 0.0 }
    };
    let as_is = judged(Fix::Leave);
    let most = Fix::ALL.map(judged).into_iter().fold(f64::NEG_INFINITY, f64::max);
    let fix = Fix::ALL.into_iter().find(|fix| judged(*fix) >= most - WORTH_DB).unwrap_or(Fix::Leave);
    (fix, judged(fix) - as_is)
}

fn sentence((first, second): (Text, Text), hits: usize, later_s: Option<f64>, fix: Fix, sums: &[OctaveSum]) -> Words {
    let Some(later_s) = later_s.filter(|_| hits > 0) else {
        return match hits {
            0 => words!("No hit was heard in “{first}”. Hit that drum a few times by itself."),
            _ => words!(
                "What “{first}” and “{second}” hear is too unlike to tell. Hit that drum a few times by itself, and check that both are plugged in."
            ),
        };
    };
    let heard = sums.iter().filter(|sum| sum.level_db > HEARD_DB && JUDGED_HZ.contains(&sum.hz));
    let gained = heard.max_by(|a, b| (a.with(fix) - a.as_is_db).total_cmp(&(b.with(fix) - b.as_is_db)));
    let (gain, hz) = gained.map_or((0.0, 0.0), |sum| (sum.with(fix) - sum.as_is_db, sum.hz));
    let (earlier, ms, cm) = (if later_s > 0.0 { first } else { second }, 1000.0 * later_s.abs(), 100.0 * SPEED_OF_SOUND * later_s.abs());
    match fix {
        Fix::Leave => words!("Leave “{first}” and “{second}” as they are: they add up."),
        Fix::Flip => words!("Flip the polarity of “{second}”: the sum gains {gain:.0} dB at {hz:.0} Hz."),
        // Nobody carries a close microphone a metre away.
        Fix::Delay if cm > CARRIED_CM => words!("Delay “{earlier}” by {ms:.2} ms ({cm:.0} cm): the sum gains {gain:.0} dB at {hz:.0} Hz."),
        Fix::Delay => words!("Delay “{earlier}” by {ms:.2} ms, or move it {cm:.0} cm away: the sum gains {gain:.0} dB at {hz:.0} Hz."),
        Fix::FlipAndDelay => {
            words!(
                "Flip the polarity of “{second}” and delay “{earlier}” by {ms:.2} ms ({cm:.0} cm): the sum gains {gain:.0} dB at {hz:.0} Hz."
            )
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::hits;
    use super::*;
    use ember_words::text;
    use proptest::prelude::*;
    use std::f64::consts::PI;

    const RATE: f64 = 48_000.0;

    /// Four hits of a drum with a click, as heard `later_s` later and `times` as strong.
    fn heard(later_s: f64, times: f64, hz: f64) -> Vec<f32> {
        let mut sound = vec![0.0f32; 3 * 48_000];
        let mut random = 12_345u64;
        let mut noise = move || {
            random = random.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (random >> 11) as f64 / (1u64 << 53) as f64 - 0.5
        };
        for hit in 0..4 {
            let begins = 0.3 + 0.6 * f64::from(hit) + later_s;
            for (n, sample) in sound.iter_mut().enumerate() {
                let t = n as f64 / RATE - begins;
                if (0.0..0.5).contains(&t) {
                    let rise = 1.0 - (-t / 0.0004).exp();
                    let click = (-t / 0.0015).exp() * (2.0 * PI * 1900.0 * t).sin();
                    let overtones =
                        (2.0 * PI * 1.59 * hz * t).sin() * (-t / 0.08).exp() + 0.6 * (2.0 * PI * 2.14 * hz * t).sin() * (-t / 0.06).exp();
                    *sample +=
                        (times * rise * (0.3 * (-t / 0.12).exp() * (2.0 * PI * hz * t).sin() + 0.15 * overtones + 0.3 * click)) as f32;
                }
            }
        }
        sound.iter_mut().for_each(|sample| *sample += (2e-4 * noise()) as f32);
        sound
    }

    fn checked(a: &[f32], b: &[f32]) -> MicrophonePair {
        check_pair((a, text!("snare top")), (b, text!("snare bottom")), &hits(a, RATE, 12), RATE)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// Two like sounds: the path between them and their signs are what they are, to a hundredth of a millisecond.
        #[test]
        fn polarity_and_arrival_of_like_sounds_are_right(later_ms in -2.0f64..12.0, strong in 0.05f64..3.0, up: bool, hz in 60.0f64..300.0) {
            let times = if up { strong } else { -strong };
            let found = checked(&heard(0.0, 1.0, hz), &heard(later_ms / 1000.0, times, hz));
            prop_assert_eq!(found.hits, 4);
            prop_assert_eq!(found.polarity, Some(if up { Polarity::Same } else { Polarity::Opposite }));
            prop_assert!((1000.0 * found.later_s.unwrap() - later_ms).abs() < 0.02, "{:?} for {}", found.later_s, later_ms);
        }
    }

    /// Lag in samples and sign of the largest value of `scipy.signal.correlate` (SciPy 1.17.1) over the same sounds without noise.
    #[test]
    fn arrival_and_polarity_are_those_of_a_reference_library() {
        for (later_s, times, hz, lag, sign) in
            [(0.0037, -0.4, 200.0, 178.0, -1.0), (0.0112, 0.7, 90.0, 538.0, 1.0), (-0.0016, -1.3, 260.0, -77.0, -1.0)]
        {
            let found = checked(&heard(0.0, 1.0, hz), &heard(later_s, times, hz));
            assert!((found.later_s.unwrap() * RATE - lag).abs() < 1.0, "{found:?}");
            assert_eq!(found.polarity, Some(if sign > 0.0 { Polarity::Same } else { Polarity::Opposite }));
        }
    }

    /// Two equal sounds in phase add 3 dB to what unlike ones would, a flip of one takes all; half a period apart it is the other way round.
    #[test]
    fn sums_are_those_of_the_closed_form() {
        let sound = heard(0.0, 1.0, 250.0);
        let alike = checked(&sound, &sound);
        assert!(alike.sums.iter().all(|sum| (sum.as_is_db - 3.01).abs() < 0.02 && sum.flipped_db < -30.0), "{:?}", alike.sums);
        assert_eq!(alike.fix, Fix::Leave);
        let upside_down = checked(&sound, &heard(0.0, -0.5, 250.0));
        assert!(upside_down.fix == Fix::Flip && upside_down.gain_db > 20.0, "{upside_down:?}");
        assert!(upside_down.sentence.starts_with("Flip the polarity of “snare bottom”: the sum gains"), "{}", upside_down.sentence);
        // A period of 4 ms and 2 ms between them: what is in phase at the source cancels at 250 Hz.
        let late = checked(&sound, &heard(0.002, 1.0, 250.0));
        let at_250 = late.sums.iter().find(|sum| sum.hz == 250.0).unwrap();
        assert!(at_250.as_is_db < -3.0 && at_250.flipped_db > 1.0 && at_250.delayed_db > 2.9, "{at_250:?}");
    }

    #[test]
    fn what_is_unlike_or_silent_is_not_guessed_at() {
        let sound = heard(0.0, 1.0, 200.0);
        let mut random = 7u64;
        let noise: Vec<f32> = (0..sound.len())
            .map(|_| {
                random = random.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
                ((random >> 11) as f64 / (1u64 << 53) as f64 - 0.5) as f32
            })
            .collect();
        let unlike = checked(&sound, &noise);
        assert!(unlike.polarity.is_none() && unlike.later_s.is_none() && unlike.fix == Fix::Leave, "{unlike:?}");
        let silent = checked(&sound, &vec![0.0; sound.len()]);
        assert!(silent.polarity.is_none() && silent.sums.is_empty() && silent.sentence.contains("plugged in"));
        let nothing = checked(&vec![0.0; sound.len()], &sound);
        assert!(nothing.hits == 0 && nothing.sentence.contains("No hit was heard"));
    }
}
