//! One captured strike, measured: decay of the whole, partials, profile, and what is wrong with it.

use super::broadband::{Broadband, DecayCurve, NoiseFloor};
use super::buzz::LowPassRest;
use super::dynamic::Dynamic;
use super::envelope::{Envelope, mean_square};
use super::faults::{clipped, dropped_out, resolution, second_hit};
use super::input::{Hiss, Stopped, Stopper, speech_limit_hz, stopped};
use super::levels::{BandLevels, Compared};
use super::octaves::{octave_partials, room_behind};
use super::partials::PartialFinder;
use super::slopes::{Slope, slopes};
use super::span::Span;
use super::spectrum::octave_spectrum;
use super::whose::Voice;
use crate::drum::label_modes;
use crate::signal::{CapturedStrike, Decimator, Ending, LowPass};
use crate::tone::DecayProfile;
use crate::tone::HeardBy;
use crate::tone::Partial;
use crate::units::{cents, decibels};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};
use std::panic::{AssertUnwindSafe, catch_unwind};

/// What kind of hit it was.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum StrikeKind {
    /// One hit.
    #[default]
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
    /// It went beyond the ceiling.
    Clipped,
    /// Noise hides its decay.
    TooNoisy,
    /// It was cut off before it had fallen far enough.
    CutOff,
    /// Two hits in one.
    Flam,
    /// Far softer than the others.
    Ghost,
    /// A piece of it is missing.
    Dropout,
    /// It is no strike on a drum.
    NotAStrike,
    /// None of its tones is clearly its body.
    NoBody,
    /// A gate ended it.
    Gated,
    /// The input's gain followed it.
    LevelControlled,
    /// A hand ended it.
    DampedByHand,
    /// Another drum was struck.
    OtherDrum,
    /// It was no softer or harder than what it was asked to differ from.
    SameLevel,
    /// The program failed on it.
    Unmeasured,
}

/// Something about a strike that does not spoil its figures.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Remark {
    /// A room sounds behind it.
    RoomTail,
    /// It came through a connection made for speech.
    MadeForSpeech,
    /// Another drum rings along.
    SecondDrum,
    /// It was stopped, and counts as far as it went.
    Stopped,
    /// Some of its tones fall at two paces.
    SeveralSlopes,
    /// Its level was held together by a compressor.
    Compressed,
}

impl Remark {
    /// What it is and what to do about it.
    pub fn advice(self) -> Text {
        match self {
            Self::RoomTail => {
                text!("A room is heard behind the drum. Body and ring are the drum’s; come closer with the microphone to hear less of it.")
            }
            Self::MadeForSpeech => {
                text!(
                    "Nothing is heard above the voice: the microphone or its connection was made for speech. Attack and buzz are not to be trusted."
                )
            }
            Self::Compressed => {
                text!(
                    "The recording turns itself down after each hit and comes up again, as a compressor does: lengths come out too long. Turn it off, then hit again."
                )
            }
            Self::SeveralSlopes => {
                text!("Some of its tones fade fast at first and slowly later. Lengths are those of what is heard while it is loud.")
            }
            Self::Stopped => {
                text!("Its end was cut, faded or damped. What came before counts; slow tones are known better when a hit may ring out.")
            }
            Self::SecondDrum => text!("Another drum rings along. Lay a hand or a cloth on it while you measure this one."),
        }
    }
}

impl Warning {
    /// What happened and what to do about it, for the person at the drum.
    pub fn advice(self) -> Text {
        match self {
            Self::Clipped => {
                text!("Too loud for the input: it was clipped. Turn the input down or move the microphone away, then hit again.")
            }
            Self::TooNoisy => text!("Too much noise around it. Hit harder, come closer with the microphone, or wait for quiet."),
            Self::CutOff => text!("Cut off before it had decayed. Let the drum ring out before the next hit."),
            Self::Flam => text!("Two hits at once. Hit once and lift the stick."),
            Self::Ghost => text!("Much softer than the others. Hit as hard as before."),
            Self::Dropout => text!("The computer lost some of the sound. Close other programs and hit again."),
            Self::NotAStrike => text!("This does not start or end like a strike on a drum. Talk, clicks, handling and music are left out."),
            Self::Gated => {
                text!("A noise gate cut the sound off. Turn gates and noise reduction off in the input’s settings, then hit again.")
            }
            Self::LevelControlled => {
                text!("The input turns itself down for loud sounds. Turn automatic gain off in the input’s settings, then hit again.")
            }
            Self::DampedByHand => text!("Something stopped the head before it had decayed. Take hand and stick away and let it ring."),
            Self::OtherDrum => text!("This sounds like another drum of your kit. Hit the one that is asked for."),
            Self::SameLevel => text!("As loud as the strikes before. Hit clearly harder than those."),
            Self::Unmeasured => text!("Soft Ember failed on this one and left it out. Its sound is kept; hit again."),
            Self::NoBody => text!("No clear note was found in it. Move the microphone nearer to the head and hit again."),
        }
    }
}

/// Everything measured on one strike.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StrikeMeasurement {
    /// Time of the hit since the start of the recording, s.
    pub onset_s: f64,
    /// Loudest sample, dB against full scale.
    pub peak_dbfs: f64,
    /// Level of the loudest partial at the hit, dBFS (RMS); null in data from before it was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub partial_dbfs: Option<f64>,
    /// Which kind it is.
    pub kind: StrikeKind,
    /// How the whole sound decays.
    pub broadband: Broadband,
    /// Low to high.
    pub partials: Vec<Partial>,
    /// The few figures that it comes down to.
    pub profile: DecayProfile,
    /// A strike with any of these is named but not used.
    pub warnings: Vec<Warning>,
    /// What does not spoil it.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub remarks: Vec<Remark>,
    /// How hard it was asked for; null where no dynamic was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dynamic: Option<Dynamic>,
    /// Why its sound ends where it does; null in data from before it was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ending: Option<Ending>,
    /// What was measured of it.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub heard_by: HeardBy,
    /// Energy in each octave of [`crate::signal::OCTAVES_HZ`] that the rate carries, against all of it, dB; empty in data from before it was kept.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub spectrum_db: Vec<f64>,
    /// Whether its sound was coded with loss: then the hiss of the place comes and goes as the codec has bits for it, and says nothing.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub coded: bool,
    /// Version of the measuring method ([`METHOD`]); 0 in data from before it was kept.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub method: u32,
}

/// Version of the measuring method: goes up with each change that moves figures, so that takes measured before can be read again.
pub const METHOD: u32 = 9;

impl StrikeMeasurement {
    /// The strike as it was captured, from its `samples` kept and the index of the hit in them.
    pub fn captured(&self, samples: Vec<f32>, sample_rate: f64, onset_index: usize) -> CapturedStrike {
        // Before it was kept, only strikes that were cut off said how they ended.
        let usual = if self.warnings.contains(&Warning::CutOff) { Ending::NextStrike } else { Ending::Decayed };
        let onset_index = onset_index.min(samples.len());
        CapturedStrike { sample_rate, onset_s: self.onset_s, samples, onset_index, ending: self.ending.unwrap_or(usual) }
    }

    /// How it sounds.
    pub fn voice(&self) -> Voice<'_> {
        Voice { partials: &self.partials, spectrum_db: &self.spectrum_db }
    }

    /// With the doubt that gain leaves which went down by `dip_db` after the hit: coming up again while a partial is followed, it makes it longer by
    /// that part of what it falls by.
    fn compressed_by(mut self, dip_db: Option<f64>) -> Self {
        let Some(dip_db) = dip_db else { return self };
        for partial in &mut self.partials {
            partial.t60_sd_s = partial.t60_s.zip(partial.t60_sd_s).map(|(t60_s, sd_s)| sd_s.hypot(t60_s * dip_db / FOLLOWED_DB));
        }
        self.remarks.push(Remark::Compressed);
        self
    }

    /// This measurement made again from the same sound: what others said of it, and not the sound, stands.
    pub fn again(&self, again: StrikeMeasurement) -> StrikeMeasurement {
        let said = [Warning::OtherDrum, Warning::SameLevel].into_iter().filter(|warning| self.warnings.contains(warning));
        let noted = [Remark::SecondDrum].into_iter().filter(|note| self.remarks.contains(note));
        let mut again = StrikeMeasurement { dynamic: self.dynamic, ..again };
        again.warnings.extend(said);
        again.remarks.extend(noted);
        again
    }
}

/// Longest time from hit to loudest that a stick or beater makes, s.
const SLOWEST_RISE_S: f64 = 0.045;
/// The same for a cymbal, which builds up, s.
const SLOWEST_RISE_OF_METAL_S: f64 = 0.15;
/// A metronome's click falls 40 dB in less, and no drum does, s (from experience, no published source).
const CLICK_S: f64 = 0.04;
/// Peak above the noise below which a decay cannot be followed, dB.
const LEAST_RANGE_DB: f64 = 30.0;
/// A strike must have fallen this far before it is cut off, dB.
const LEAST_FALL_DB: f64 = 25.0;
/// A partial nearer to the body than this hides its glide, Hz.
const GLIDE_CLEAR_HZ: f64 = 70.0;
/// A decay is followed over about this much, dB.
const FOLLOWED_DB: f64 = 30.0;
/// A strike this far below the median of its take is a ghost note, dB.
pub const GHOST_DB: f64 = 18.0;

/// Measures strikes of one sample rate.
pub struct StrikeAnalyzer {
    pub(super) rate: f64,
    pub(super) finder: PartialFinder,
    glide: Decimator,
    stick: LowPassRest,
    heard_by: HeardBy,
    coded: bool,
}

impl StrikeAnalyzer {
    /// For drums, at `rate` samples a second.
    pub fn new(rate: f64) -> Self {
        Self::hearing(rate, HeardBy::Partials)
    }

    /// For what is heard by its tones or by octaves.
    pub fn hearing(rate: f64, heard_by: HeardBy) -> Self {
        let finder = PartialFinder::new(rate);
        let (_, slow_rate) = finder.slow(&[]);
        let factor = (slow_rate / 800.0).round() as usize;
        Self {
            rate,
            finder,
            glide: Decimator { filter: LowPass::new(25.0, 95.0, 60.0, slow_rate), factor },
            stick: LowPassRest::new(rate),
            heard_by,
            coded: false,
        }
    }

    /// For sound that was coded with loss, if `coded`.
    pub fn of_coded_sound(self, coded: bool) -> Self {
        Self { coded, ..self }
    }

    /// Measures `strike`. Never fails: what cannot be known is `None`, what is wrong is in `warnings`. Should the program itself be at
    /// fault, that is a warning on this strike and no harm to those before and after it.
    pub fn measure(&self, strike: &CapturedStrike) -> StrikeMeasurement {
        // Nothing is shared that a panic could leave half done: the analyzer is only read.
        catch_unwind(AssertUnwindSafe(|| self.measured(strike))).unwrap_or_else(|_| self.unmeasured(strike))
    }

    /// What is told of a strike that the program failed on.
    fn unmeasured(&self, strike: &CapturedStrike) -> StrikeMeasurement {
        let peak = strike.samples.iter().fold(0f32, |most, x| most.max(x.abs()));
        StrikeMeasurement {
            onset_s: strike.onset_s,
            peak_dbfs: decibels(f64::from(peak)).max(-200.0),
            warnings: vec![Warning::Unmeasured],
            ending: Some(strike.ending),
            heard_by: self.heard_by,
            coded: self.coded,
            method: METHOD,
            ..StrikeMeasurement::default()
        }
    }

    /// Measures only what came before `strike` was `stopped` by a gate, an editor or a hand.
    fn until_stopped(&self, strike: &CapturedStrike, stopped: Stopped) -> StrikeMeasurement {
        let end = strike.onset_index + (stopped.at_s * self.rate) as usize;
        let samples = strike.samples[..end.min(strike.samples.len())].to_vec();
        let mut measurement = self.measured(&CapturedStrike { samples, ending: Ending::NextStrike, ..*strike });
        measurement.ending = Some(strike.ending);
        if !measurement.warnings.is_empty() {
            // What came before does not tell enough: then what stopped it is what is wrong.
            measurement.warnings.retain(|warning| *warning != Warning::CutOff);
            measurement.warnings.insert(0, warning_of(stopped.by));
        }
        measurement.remarks.push(Remark::Stopped);
        measurement
    }

    fn measured(&self, strike: &CapturedStrike) -> StrikeMeasurement {
        let look = FirstLook::new(strike, self.rate, self.floor(strike));
        let dip_db = look.hiss.as_ref().filter(|_| strike.ending == Ending::Decayed && !self.coded).and_then(Hiss::gain_dip_db);
        if let Some(stopped) = look.stopped.filter(|stopped| stopped.fallen_db >= LEAST_FALL_DB) {
            return self.until_stopped(strike, stopped).compressed_by(dip_db);
        }
        let (slow, slow_rate) = self.finder.slow(&strike.samples);
        let span = self.span(&look);
        // Partials take about half of the time; what does not need them is worked out beside them.
        let (Compared { mut partials, loudest, several_slopes }, (buzz, whole, spectrum_db)) = rayon::join(
            || self.partials(strike, &slow, slow_rate, &span),
            || (self.stick.split(look.sound, look.before), slopes(look.sound, self.rate), octave_spectrum(look.sound, self.rate)),
        );
        let by_tones = self.heard_by.by_tones();
        if by_tones {
            label_modes(&mut partials);
        }
        let about = DecayProfile::about(&partials, self.heard_by.body(&partials));
        let has_glide = |hz: &f64| by_tones && stands_alone(&partials, *hz);
        let profile = DecayProfile {
            fall_20_s: look.fall_20_s,
            fall_40_s: look.fall_40_s,
            attack_index_db: attack_index(look.sound, self.rate),
            glide_cents: about.body_hz.filter(has_glide).and_then(|hz| self.glide(&slow, slow_rate, span.onset_s, hz)),
            buzz_share: buzz.share(),
            buzz_s: buzz.length_s(),
            ..about
        };
        let kind = if second_hit(look.sound, self.rate) { StrikeKind::Flam } else { StrikeKind::Single };
        StrikeMeasurement {
            onset_s: strike.onset_s,
            peak_dbfs: decibels(look.peak).max(-200.0),
            partial_dbfs: (!partials.is_empty()).then(|| decibels(loudest / std::f64::consts::SQRT_2)),
            kind,
            warnings: self.warnings(strike, &look, kind, profile.body_t60_s.is_some()),
            remarks: self.remarks(strike, &look, &whole, several_slopes),
            broadband: look.curve.evaluate(),
            partials,
            profile,
            dynamic: None,
            ending: Some(strike.ending),
            heard_by: self.heard_by,
            spectrum_db,
            coded: self.coded,
            method: METHOD,
        }
        .compressed_by(dip_db)
    }

    /// The stretch of the strike in which partials are looked for.
    fn span(&self, look: &FirstLook) -> Span {
        let shortest = self.finder.shortest_settle_s();
        Span {
            onset_s: look.onset_s,
            settle_s: (0.5 * look.fall_20_s.unwrap_or(0.1)).clamp(shortest, 0.12f64.max(shortest)),
            clipped_s: look.clipped_to.map_or(0.0, |index| index as f64 / self.rate),
            length_s: look.sound.len() as f64 / self.rate,
            // 20 dB are a hundredth of the energy.
            energy_rate: 100f64.ln() / look.fall_20_s.unwrap_or(0.2).max(0.02),
        }
    }

    fn partials(&self, strike: &CapturedStrike, slow: &[f64], slow_rate: f64, span: &Span) -> Compared {
        match self.heard_by {
            HeardBy::Partials | HeardBy::OneHead => {
                let (partials, loudest) = self.finder.find_in(&strike.samples, slow, span);
                BandLevels::new(slow, slow_rate, span.onset_s, strike.ending == Ending::Decayed).compare(partials, loudest)
            }
            HeardBy::Octaves => {
                let (partials, loudest) = octave_partials(&strike.samples, strike.onset_index, self.rate, self.floor(strike));
                Compared { partials, loudest, several_slopes: false }
            }
        }
    }

    /// What speaks against using the strike.
    fn warnings(&self, strike: &CapturedStrike, look: &FirstLook, kind: StrikeKind, has_body: bool) -> Vec<Warning> {
        let by_tones = self.heard_by.by_tones();
        let rises_slowly = look.envelope.peak_at_s() > if by_tones { SLOWEST_RISE_S } else { SLOWEST_RISE_OF_METAL_S };
        let clicks = by_tones && look.fall_40_s.is_some_and(|fall| fall < CLICK_S);
        let is_no_strike = rises_slowly || clicks;
        let cut_off = strike.ending != Ending::Decayed && look.envelope.fallen_db() < LEAST_FALL_DB;
        let held_down = look.hiss.as_ref().is_some_and(Hiss::is_held_down);
        let mut warnings = Vec::new();
        warnings.extend(look.clipped_to.map(|_| Warning::Clipped));
        warnings.extend(dropped_out(look.sound, look.peak, look.step).then_some(Warning::Dropout));
        warnings.extend((look.curve.range_db < LEAST_RANGE_DB).then_some(Warning::TooNoisy));
        warnings.extend(look.stopped.map(|stopped| warning_of(stopped.by)));
        warnings.extend(held_down.then_some(Warning::LevelControlled));
        warnings.extend(cut_off.then_some(Warning::CutOff));
        warnings.extend((kind == StrikeKind::Flam).then_some(Warning::Flam));
        warnings.extend(is_no_strike.then_some(Warning::NotAStrike));
        warnings.extend((!is_no_strike && !has_body).then_some(Warning::NoBody));
        warnings
    }

    /// What is to be known about the strike, and does not spoil it. `whole`: the slopes of the whole sound.
    fn remarks(&self, strike: &CapturedStrike, look: &FirstLook, whole: &[Slope], several_slopes: bool) -> Vec<Remark> {
        // A room shows as a second slope in several octaves; they are looked at only where the whole bends.
        let behind = |drum: &Slope| room_behind(&strike.samples, strike.onset_index, self.rate, drum.t60_s);
        // A cymbal's own octaves decay along many slopes.
        let has_room = self.heard_by.by_tones() && whole.len() > 1 && whole.first().and_then(behind).is_some();
        let made_for_speech = speech_limit_hz(look.before, look.sound, self.rate).is_some();
        let mut remarks = Vec::new();
        remarks.extend(several_slopes.then_some(Remark::SeveralSlopes));
        remarks.extend(has_room.then_some(Remark::RoomTail));
        remarks.extend(made_for_speech.then_some(Remark::MadeForSpeech));
        remarks
    }

    /// Where the noise behind `strike` is taken from.
    pub(super) fn floor(&self, strike: &CapturedStrike) -> NoiseFloor {
        let before = &strike.samples[..strike.onset_index.saturating_sub((0.004 * self.rate) as usize)];
        match strike.ending {
            Ending::Decayed => NoiseFloor::Tail,
            _ if before.len() as f64 > 0.01 * self.rate => NoiseFloor::Before(mean_square(before)),
            _ => NoiseFloor::Before(0.0),
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

/// What a strike tells before its partials are looked for.
struct FirstLook<'a> {
    /// From the hit on, and what was before it.
    sound: &'a [f32],
    before: &'a [f32],
    onset_s: f64,
    peak: f64,
    curve: DecayCurve,
    envelope: Envelope,
    stopped: Option<Stopped>,
    /// Resolution of the samples.
    step: f32,
    hiss: Option<Hiss>,
    fall_20_s: Option<f64>,
    fall_40_s: Option<f64>,
    /// Index in `sound` of the last sample at the ceiling.
    clipped_to: Option<usize>,
}

impl<'a> FirstLook<'a> {
    fn new(strike: &'a CapturedStrike, rate: f64, floor: NoiseFloor) -> Self {
        let sound = &strike.samples[strike.onset_index..];
        let before = &strike.samples[..strike.onset_index.saturating_sub((0.004 * rate) as usize)];
        let peak = f64::from(sound.iter().fold(0f32, |most, x| if x.abs() > most { x.abs() } else { most }));
        let curve = DecayCurve::new(sound, rate, floor);
        let envelope = Envelope::new(sound, rate);
        let step = resolution(sound);
        Self {
            stopped: stopped(&envelope, curve.noise),
            hiss: Hiss::new(before, sound, rate, step),
            fall_20_s: envelope.fall(20.0, curve.noise),
            fall_40_s: envelope.fall(40.0, curve.noise),
            clipped_to: clipped(sound, peak, step),
            onset_s: strike.onset_index as f64 / rate,
            sound,
            before,
            peak,
            curve,
            envelope,
            step,
        }
    }
}

fn warning_of(stopper: Stopper) -> Warning {
    match stopper {
        Stopper::Gate => Warning::Gated,
        Stopper::Hand => Warning::DampedByHand,
    }
}

/// Whether no other partial is near enough to `hz` to disturb its phase.
fn stands_alone(partials: &[Partial], hz: f64) -> bool {
    let own = partials.iter().filter(|p| p.hz == hz).map(|p| p.level_db).fold(0.0, f64::min);
    partials.iter().all(|p| p.hz == hz || (p.hz - hz).abs() > GLIDE_CLEAR_HZ || p.level_db < own - 20.0)
}

fn attack_index(sound: &[f32], rate: f64) -> Option<f64> {
    let early = sound.get(..(0.01 * rate) as usize)?;
    let late = sound.get(early.len()..(0.2 * rate) as usize)?;
    let energy = |part: &[f32]| mean_square(part) * part.len() as f64;
    (energy(late) > 0.0).then(|| 10.0 * (energy(early) / energy(late)).max(1e-12).log10())
}
