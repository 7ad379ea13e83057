//! One captured strike, measured: decay of the whole, partials, profile, and what is wrong with it.

use super::broadband::{Broadband, DecayCurve, NoiseFloor};
use super::partials::{Partial, PartialFinder};
use super::profile::DecayProfile;
use super::span::Span;
use crate::drum::label_modes;
use crate::signal::{CapturedStrike, Decimator, Ending, LowPass};
use crate::units::{cents, decibels, median};
use serde::{Deserialize, Serialize};

/// What kind of hit it was.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum StrikeKind {
    Single,
    /// Two hits within 40 ms.
    Flam,
    /// Much softer than the other strikes of its take.
    Ghost,
}

/// Something wrong with a strike.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Warning {
    Clipped,
    TooNoisy,
    CutOff,
    Flam,
    Ghost,
    Dropout,
    NotAStrike,
    NoBody,
}

impl Warning {
    /// What happened and what to do about it, for the person at the drum.
    pub fn advice(self) -> &'static str {
        match self {
            Self::Clipped => "Too loud for the input: it was clipped. Turn the input down or move the microphone away, then hit again.",
            Self::TooNoisy => "Too much noise around it. Hit harder, come closer with the microphone, or wait for quiet.",
            Self::CutOff => "Cut off before it had decayed. Let the drum ring out before the next hit.",
            Self::Flam => "Two hits at once. Hit once and lift the stick.",
            Self::Ghost => "Much softer than the others. Hit as hard as before.",
            Self::Dropout => "The computer lost some of the sound. Close other programs and hit again.",
            Self::NotAStrike => "This does not start like a strike on a drum. Talk, handling and music are left out.",
            Self::NoBody => "No clear note was found in it. Move the microphone nearer to the head and hit again.",
        }
    }
}

/// Everything measured on one strike.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StrikeMeasurement {
    /// Time of the hit since the start of the recording, s.
    pub onset_s: f64,
    /// Loudest sample, dB against full scale.
    pub peak_dbfs: f64,
    /// Level of the loudest partial at the hit, dBFS (RMS); null in data from before it was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub partial_dbfs: Option<f64>,
    pub kind: StrikeKind,
    pub broadband: Broadband,
    /// Low to high.
    pub partials: Vec<Partial>,
    pub profile: DecayProfile,
    /// A strike with any of these is named but not used.
    pub warnings: Vec<Warning>,
}

/// Longest time from hit to loudest that a stick or beater makes, s.
const SLOWEST_RISE_S: f64 = 0.045;
/// Peak above the noise below which a decay cannot be followed, dB.
const LEAST_RANGE_DB: f64 = 30.0;
/// A strike must have fallen this far before it is cut off, dB.
const LEAST_FALL_DB: f64 = 25.0;
/// A partial nearer to the body than this hides its glide, Hz.
const GLIDE_CLEAR_HZ: f64 = 70.0;
/// Steps in which a buzz is followed, from when and for how long at most, s; and how far above the noise's power it must begin.
const BUZZ_STEP_S: f64 = 0.005;
const BUZZ_FROM_S: f64 = 0.02;
const BUZZ_LONGEST_S: f64 = 1.2;
const BUZZ_CLEAR: f64 = 60.0;
/// A strike this far below the median of its take is a ghost note, dB.
pub const GHOST_DB: f64 = 18.0;

/// Measures strikes of one sample rate.
pub struct StrikeAnalyzer {
    rate: f64,
    finder: PartialFinder,
    glide: Decimator,
    stick: LowPassRest,
}

impl StrikeAnalyzer {
    /// For `rate` samples a second.
    pub fn new(rate: f64) -> Self {
        let finder = PartialFinder::new(rate);
        let (_, slow_rate) = finder.slow(&[]);
        let factor = (slow_rate / 800.0).round() as usize;
        Self { rate, finder, glide: Decimator { filter: LowPass::new(25.0, 95.0, 60.0, slow_rate), factor }, stick: LowPassRest::new(rate) }
    }

    /// Measures `strike`. Never fails: what cannot be known is `None`, what is wrong is in `warnings`.
    pub fn measure(&self, strike: &CapturedStrike) -> StrikeMeasurement {
        let sound = &strike.samples[strike.onset_index..];
        let before = &strike.samples[..strike.onset_index.saturating_sub((0.004 * self.rate) as usize)];
        let peak = sound.iter().fold(0f64, |most, x| most.max(f64::from(x.abs())));
        let peak_dbfs = decibels(peak).max(-200.0);
        let floor = match strike.ending {
            Ending::Decayed => NoiseFloor::Tail,
            _ if before.len() as f64 > 0.01 * self.rate => NoiseFloor::Before(mean_square(before)),
            _ => NoiseFloor::Before(0.0),
        };
        let curve = DecayCurve::new(sound, self.rate, floor);
        let envelope = Envelope::new(sound, self.rate);
        let fall_20_s = envelope.fall(20.0, curve.noise);
        let fall_40_s = envelope.fall(40.0, curve.noise);
        let (slow, slow_rate) = self.finder.slow(&strike.samples);
        let onset = strike.onset_index as f64 / self.rate;
        let shortest = self.finder.shortest_settle_s();
        let settle = (0.5 * fall_20_s.unwrap_or(0.1)).clamp(shortest, 0.12f64.max(shortest));
        let clipped_to = clipped(sound, peak);
        let span = Span {
            onset_s: onset,
            settle_s: settle,
            clipped_s: clipped_to.map_or(0.0, |index| index as f64 / self.rate),
            length_s: sound.len() as f64 / self.rate,
            // 20 dB are a hundredth of the energy.
            energy_rate: 100f64.ln() / fall_20_s.unwrap_or(0.2).max(0.02),
        };
        let (mut partials, loudest) = self.finder.find_in(&strike.samples, &slow, &span);
        label_modes(&mut partials);
        let mut profile = DecayProfile::of_partials(&partials);
        profile.fall_20_s = fall_20_s;
        profile.fall_40_s = fall_40_s;
        profile.attack_index_db = attack_index(sound, self.rate);
        profile.glide_cents =
            profile.body_hz.filter(|hz| stands_alone(&partials, *hz)).and_then(|hz| self.glide(&slow, slow_rate, onset, hz));
        profile.buzz_share = self.stick.buzz_share(sound, before, self.rate);
        profile.buzz_s = self.stick.buzz_s(sound, before, self.rate);

        let mut warnings = Vec::new();
        if clipped_to.is_some() {
            warnings.push(Warning::Clipped);
        }
        if dropped_out(sound, peak) {
            warnings.push(Warning::Dropout);
        }
        if curve.range_db < LEAST_RANGE_DB {
            warnings.push(Warning::TooNoisy);
        }
        if strike.ending != Ending::Decayed && envelope.fallen_db() < LEAST_FALL_DB {
            warnings.push(Warning::CutOff);
        }
        let kind = if second_hit(sound, self.rate) { StrikeKind::Flam } else { StrikeKind::Single };
        if kind == StrikeKind::Flam {
            warnings.push(Warning::Flam);
        }
        if envelope.peak_at_s() > SLOWEST_RISE_S {
            warnings.push(Warning::NotAStrike);
        } else if profile.body_t60_s.is_none() {
            warnings.push(Warning::NoBody);
        }
        let partial_dbfs = (!partials.is_empty()).then(|| decibels(loudest / std::f64::consts::SQRT_2));
        StrikeMeasurement {
            onset_s: strike.onset_s,
            peak_dbfs,
            partial_dbfs,
            kind,
            broadband: curve.evaluate(),
            partials,
            profile,
            warnings,
        }
    }

    /// Fall of the body's pitch from about 50 ms after the hit to the settled `hz`, from its phase.
    fn glide(&self, slow: &[f64], slow_rate: f64, onset: f64, hz: f64) -> Option<f64> {
        let tone = self.glide.baseband(slow, hz);
        let rate = slow_rate / self.glide.factor as f64;
        let from = ((onset + self.glide.filter.reach_s() + 0.004) * rate).ceil() as usize;
        let part = tone.get(from..from + (0.02 * rate) as usize + 2)?;
        let turn: num_complex::Complex64 = part.windows(2).map(|pair| pair[1] * pair[0].conj()).sum();
        let early = hz + turn.arg() * rate / (2.0 * std::f64::consts::PI);
        (early > 0.0 && turn.norm() > 0.0).then(|| cents(hz, early))
    }
}

/// Whether no other partial is near enough to `hz` to disturb its phase.
fn stands_alone(partials: &[Partial], hz: f64) -> bool {
    let own = partials.iter().filter(|p| p.hz == hz).map(|p| p.level_db).fold(0.0, f64::min);
    partials.iter().all(|p| p.hz == hz || (p.hz - hz).abs() > GLIDE_CLEAR_HZ || p.level_db < own - 20.0)
}

/// Splits off what lies above 2 kHz, by taking away what lies below.
struct LowPassRest {
    filter: Decimator,
}

impl LowPassRest {
    fn new(rate: f64) -> Self {
        let stop = (2600f64).min(0.48 * rate);
        Self { filter: Decimator { filter: LowPass::new(0.6 * stop, stop, 60.0, rate), factor: 1 } }
    }

    /// Time for what lies up there to fall 20 dB once the stick's own sound is over, by backward integration; none where it does not
    /// stand far enough out of the noise to be followed.
    fn buzz_s(&self, sound: &[f32], before: &[f32], rate: f64) -> Option<f64> {
        let blocks = |samples: &[f32]| -> Vec<f64> {
            let input: Vec<f64> = samples.iter().map(|x| f64::from(*x)).collect();
            let low = self.filter.real(&input);
            let high: Vec<f32> = input.iter().zip(low).map(|(all, low)| (all - low) as f32).collect();
            high.chunks_exact(((BUZZ_STEP_S * rate) as usize).max(1)).map(mean_square).collect()
        };
        let steps = blocks(&sound[..sound.len().min((BUZZ_LONGEST_S * rate) as usize)]);
        // The filter reaches beyond both ends of what it is given.
        let quiet = blocks(before);
        let noise = if quiet.len() >= 6 { median(&quiet[1..quiet.len() - 2])? } else { median(&steps[steps.len() * 9 / 10..])? };
        let from = (BUZZ_FROM_S / BUZZ_STEP_S) as usize;
        let steps = steps.get(from..)?;
        if *steps.first()? < BUZZ_CLEAR * noise {
            return None;
        }
        let end = steps.iter().position(|power| *power < 2.0 * noise).unwrap_or(steps.len());
        let left = |at: usize| steps[at..end].iter().map(|power| (power - noise).max(0.0)).sum::<f64>();
        let all = left(0);
        (1..=end).find(|at| left(*at) <= 0.01 * all).map(|at| at as f64 * BUZZ_STEP_S)
    }

    fn buzz_share(&self, sound: &[f32], before: &[f32], rate: f64) -> Option<f64> {
        let from = (0.05 * rate) as usize;
        let part = sound.get(from..((0.4 * rate) as usize).min(sound.len()))?;
        let noise_part = if before.len() as f64 > 0.02 * rate { before } else { sound.get(sound.len() * 9 / 10..)? };
        let power = |samples: &[f32]| {
            let input: Vec<f64> = samples.iter().map(|x| f64::from(*x)).collect();
            let low = self.filter.real(&input);
            let margin = self.filter.filter.half_len().min(input.len() / 4);
            let inner = margin..input.len() - margin;
            let high: f64 = inner.clone().map(|i| (input[i] - low[i]).powi(2)).sum();
            let all: f64 = inner.clone().map(|i| input[i].powi(2)).sum();
            let n = inner.len().max(1) as f64;
            (high / n, all / n)
        };
        let (high, all) = power(part);
        let (noise_high, noise_all) = power(noise_part);
        let (high, all) = ((high - noise_high).max(0.0), all - noise_all);
        (all > 0.0 && part.len() as f64 > 0.1 * rate).then(|| (high / all).min(1.0))
    }
}

/// Level over time in steps of 2.5 ms over windows of 10 ms.
struct Envelope {
    energy: Vec<f64>,
    step_s: f64,
}

impl Envelope {
    fn new(sound: &[f32], rate: f64) -> Self {
        let step = ((0.0025 * rate) as usize).max(1);
        let blocks: Vec<f64> = sound.chunks_exact(step).map(mean_square).collect();
        let energy = (0..blocks.len()).map(|i| blocks[i..(i + 4).min(blocks.len())].iter().sum::<f64>() / 4.0).collect();
        Self { energy, step_s: step as f64 / rate }
    }

    fn peak(&self) -> (usize, f64) {
        self.energy.iter().copied().enumerate().max_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0, 0.0))
    }

    fn peak_at_s(&self) -> f64 {
        self.peak().0 as f64 * self.step_s
    }

    /// Last time at which the level is within `db` of the loudest; none where noise of mean square `noise` hides it.
    fn fall(&self, db: f64, noise: f64) -> Option<f64> {
        let level = self.peak().1 * 10f64.powf(-db / 10.0);
        if level < 4.0 * noise || self.energy.last().is_none_or(|last| *last > level) {
            return None;
        }
        self.energy.iter().rposition(|e| *e >= level).map(|i| (i + 1) as f64 * self.step_s)
    }

    fn fallen_db(&self) -> f64 {
        let last: Vec<f64> = self.energy.iter().rev().skip(4).take(8).copied().collect();
        10.0 * (self.peak().1 / median(&last).unwrap_or(1.0).max(1e-20)).log10()
    }
}

fn mean_square(samples: &[f32]) -> f64 {
    samples.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / samples.len().max(1) as f64
}

fn attack_index(sound: &[f32], rate: f64) -> Option<f64> {
    let early = sound.get(..(0.01 * rate) as usize)?;
    let late = sound.get(early.len()..(0.2 * rate) as usize)?;
    let energy = |part: &[f32]| mean_square(part) * part.len() as f64;
    (energy(late) > 0.0).then(|| 10.0 * (energy(early) / energy(late)).max(1e-12).log10())
}

/// Samples in a row at exactly the loudest value: what a wave only does against a ceiling.
const CEILING_RUN: usize = 4;
/// A smooth top that is rounded to whole steps is left by one step; a ceiling is left by more.
const CEILING_STEPS: f32 = 2.5;
/// So near to full scale a run of equal samples is a ceiling however it is left.
const FULL_SCALE: f32 = 0.98;

/// Index behind the last sample that stood at a ceiling; none where there is no ceiling.
fn clipped(sound: &[f32], peak: f64) -> Option<usize> {
    let peak = peak as f32;
    let step = resolution(sound);
    let mut at = 0usize;
    for run in sound.chunk_by(|a, b| a == b) {
        let (before, after) = (at.checked_sub(1).map(|i| sound[i]), sound.get(at + run.len()));
        at += run.len();
        if run.len() >= CEILING_RUN && run[0].abs() == peak {
            let left_by = |other: f32| (run[0] - other).abs() > CEILING_STEPS * step;
            if peak >= FULL_SCALE || before.is_some_and(left_by) || after.is_some_and(|x| left_by(*x)) {
                return sound.iter().rposition(|x| x.abs() >= peak - step).map(|last| last + 1);
            }
        }
    }
    None
}

/// The step in which the recording was rounded: the smallest difference between neighbours.
fn resolution(sound: &[f32]) -> f32 {
    sound.windows(2).map(|pair| (pair[1] - pair[0]).abs()).filter(|step| *step > 0.0).fold(f32::INFINITY, f32::min)
}

/// 64 exact zeros while the drum is still loud, and louder than the recording's own steps.
fn dropped_out(sound: &[f32], peak: f64) -> bool {
    let level = (0.01 * peak as f32).max(4.0 * resolution(sound));
    let Some(last) = sound.iter().rposition(|x| x.abs() > level) else { return false };
    let mut zeros = 0;
    sound[..last].iter().any(|x| {
        zeros = if *x == 0.0 { zeros + 1 } else { 0 };
        zeros >= 64
    })
}

/// A second stick sound 10 to 40 ms after the first, nearly as loud and after a clear dip.
fn second_hit(sound: &[f32], rate: f64) -> bool {
    let step = ((0.001 * rate) as usize).max(1);
    let high: Vec<f64> = sound
        .get(..((0.045 * rate) as usize).min(sound.len()))
        .unwrap_or_default()
        .windows(3)
        .map(|w| (f64::from(w[2]) - 2.0 * f64::from(w[1]) + f64::from(w[0])).powi(2))
        .collect();
    let blocks: Vec<f64> = high.chunks(step).map(|part| part.iter().sum::<f64>()).collect();
    let smooth: Vec<f64> = blocks.windows(3).map(|w| w.iter().sum::<f64>()).collect();
    let Some(first) = smooth.get(..8).map(|part| part.iter().copied().fold(0.0, f64::max)) else { return false };
    (10..smooth.len()).any(|i| {
        let dip = smooth[3..i].iter().copied().fold(f64::INFINITY, f64::min);
        smooth[i] > 0.1 * first && smooth[i] > 10.0 * dip
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tone(hz: f64, rate: f64, size: f64, bits: i32) -> Vec<f32> {
        let steps = 2f64.powi(bits - 1);
        let wave = |n: usize| size * (2.0 * std::f64::consts::PI * hz * n as f64 / rate).sin() * (-(n as f64) / rate / 0.2).exp();
        (0..(0.2 * rate) as usize).map(|n| ((wave(n) * steps).round() / steps) as f32).collect()
    }

    fn peak(sound: &[f32]) -> f64 {
        sound.iter().fold(0f64, |most, x| most.max(f64::from(x.abs())))
    }

    proptest! {
        #[test]
        fn a_smooth_top_is_no_ceiling_at_any_pitch_rate_and_resolution(
            hz in 35f64..900.0, rate in prop::sample::select(vec![16_000.0, 48_000.0, 192_000.0]),
            size in 0.26f64..0.97, bits in prop::sample::select(vec![8, 16, 24]),
        ) {
            let sound = tone(hz, rate, size, bits);
            prop_assert!(clipped(&sound, peak(&sound)).is_none());
            prop_assert!(!dropped_out(&sound, peak(&sound)));
        }

        #[test]
        fn a_ceiling_is_seen_at_full_scale_and_below(hz in 60f64..900.0, ceiling in 0.2f32..1.0) {
            let sound: Vec<f32> = tone(hz, 48_000.0, 2.0, 24).iter().map(|x| x.clamp(-ceiling, ceiling)).collect();
            prop_assert!(clipped(&sound, peak(&sound)).is_some());
        }
    }

    #[test]
    fn a_hole_in_a_loud_sound_is_a_dropout() {
        let mut sound = tone(200.0, 48_000.0, 0.5, 24);
        sound[2000..2100].fill(0.0);
        assert!(dropped_out(&sound, peak(&sound)));
    }
}
