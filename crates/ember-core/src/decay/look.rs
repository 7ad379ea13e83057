//! One strike looked at closely: its level over time, the slopes in it, octave bands, the pace of its partials, and a waterfall.

use super::broadband::DecayCurve;
use super::envelope::Envelope;
use super::octaves::{OctaveDecay, is_octave, octaves, room_tail};
use super::slopes::{Slope, slopes};
use super::strike::{StrikeAnalyzer, StrikeMeasurement};
use super::tracked::{AROUND_HZ, PLAUSIBLE_S, filter_around, paces};
use super::waterfall::{Waterfall, waterfall};
use crate::signal::{CapturedStrike, Decimator, LowPass};
use crate::tone::{HeardBy, Partial};
use ember_words::{Words, text, words};
use serde::{Deserialize, Serialize};

/// Values of the level that are kept of each 10 ms.
const EVERY: usize = 4;
/// Paces that differ by less than this part are the same.
const SAME_PACE: f64 = 0.12;

/// What can be seen in one strike.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StrikeLook {
    /// Time from one level to the next, s; the first is that of the hit.
    pub step_s: f64,
    /// Level over 10 ms, dBFS (RMS).
    pub level_dbfs: Vec<f64>,
    /// Level of what is left when the strike has gone, dBFS (RMS).
    pub noise_dbfs: Option<f64>,
    /// The slopes of the whole sound: one, or a fast and a slow one.
    pub slopes: Vec<Slope>,
    /// Decay time of a room heard behind the drum, s; null where none is.
    pub room_t60_s: Option<f64>,
    /// How each octave decays.
    pub octaves: Vec<OctaveDecay>,
    /// One for each partial, low to high.
    pub paces: Vec<PartialPace>,
    /// How its spectrum falls away.
    pub waterfall: Waterfall,
    /// What it comes to, in words.
    pub sentences: Vec<Words>,
}

/// How fast a partial falls at first and later.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartialPace {
    /// Pitch, Hz.
    pub hz: f64,
    /// Time to fall 60 dB, from all of its decay, s.
    pub t60_s: Option<f64>,
    /// The same at the pace of its first 14 dB.
    pub early_t60_s: Option<f64>,
    /// The same at the pace of what follows, down to 36 dB.
    pub late_t60_s: Option<f64>,
    /// Why paces are not given.
    pub reason: Option<Words>,
}

impl StrikeAnalyzer {
    /// Looks closely at `strike`, measured as `measured`.
    pub fn look(&self, strike: &CapturedStrike, measured: &StrikeMeasurement) -> StrikeLook {
        let sound = &strike.samples[strike.onset_index.min(strike.samples.len())..];
        let floor = self.floor(strike);
        let curve = DecayCurve::new(sound, self.rate, floor);
        let envelope = Envelope::new(sound, self.rate);
        let slopes = slopes(sound, self.rate);
        let octaves = octaves(&strike.samples, strike.onset_index, self.rate, floor);
        // A cymbal's own octaves agree and bend as a room's would.
        let by_tones = measured.heard_by.by_tones();
        let room_t60_s = slopes.first().filter(|_| by_tones).and_then(|drum| room_tail(&octaves, drum.t60_s));
        let paces = self.paces(strike, measured);
        let level = |power: &f64| (100.0 * power.max(1e-12).log10()).round() / 10.0;
        StrikeLook {
            step_s: envelope.step_s * EVERY as f64,
            level_dbfs: envelope.energy.iter().step_by(EVERY).map(level).collect(),
            noise_dbfs: (curve.noise > 1e-12).then(|| level(&curve.noise)),
            sentences: sentences(&slopes, room_t60_s, &paces, measured),
            slopes,
            room_t60_s,
            octaves,
            paces,
            waterfall: waterfall(&strike.samples, strike.onset_index, self.rate),
        }
    }

    fn paces(&self, strike: &CapturedStrike, measured: &StrikeMeasurement) -> Vec<PartialPace> {
        let (slow, slow_rate) = self.finder.slow(&strike.samples);
        let factor = (slow_rate / 800.0).round() as usize;
        let rate = slow_rate / factor as f64;
        let filters = AROUND_HZ.map(|(pass, stop)| Decimator { filter: LowPass::new(pass, stop, 55.0, slow_rate), factor });
        let partials = &measured.partials;
        let one = |(index, partial): (usize, &Partial)| {
            let bare = PartialPace { hz: partial.hz, t60_s: partial.t60_s, early_t60_s: None, late_t60_s: None, reason: None };
            if is_octave(partial) {
                return PartialPace {
                    reason: Some(words!("An octave holds many tones, each with a pace of its own: see its slopes.")),
                    ..bare
                };
            }
            let Some(which) = filter_around(partials, index) else {
                return PartialPace {
                    reason: Some(words!("Another partial lies too near, or is so loud that this one cannot be followed alone.")),
                    ..bare
                };
            };
            let filter = &filters[which];
            let from = ((strike.onset_index as f64 / self.rate + filter.filter.reach_s() + 0.004) * rate).ceil() as usize;
            let tone = filter.baseband(&slow, partial.hz);
            let found = paces(tone.get(from..).unwrap_or_default(), rate);
            let plausible = |time: Option<f64>| time.filter(|time| PLAUSIBLE_S.contains(time));
            let (early_t60_s, late_t60_s) = (plausible(found.early_t60_s), plausible(found.late_t60_s));
            let reason = (early_t60_s.is_none() || late_t60_s.is_none()).then(|| words!("It does not stand far enough out of the noise."));
            PartialPace { early_t60_s, late_t60_s, reason, ..bare }
        };
        partials.iter().enumerate().map(one).collect()
    }
}

fn sentences(slopes: &[Slope], room_t60_s: Option<f64>, paces: &[PartialPace], measured: &StrikeMeasurement) -> Vec<Words> {
    let mut said = Vec::new();
    match (slopes, room_t60_s) {
        ([fast, slow], Some(room)) => said.push(words!(
            "Two slopes: {:.2} s first, then {:.2} s from {:.0} dB below. Several octaves agree on {room:.2} s, so that is the room, which no muffling changes.",
            fast.t60_s, slow.t60_s, -slow.level_db
        )),
        ([fast, slow], None) => said.push(words!(
            "Two slopes: {:.2} s first, then {:.2} s from {:.0} dB below: {} when the others have gone.",
            fast.t60_s,
            slow.t60_s,
            -slow.level_db,
            if measured.heard_by == HeardBy::Octaves { text!("its slowest octaves ring on") } else { text!("the drum’s own slowest notes stay") }
        )),
        (_, Some(room)) => said.push(words!("Behind the drum a room of {room:.2} s is heard in several octaves; no muffling changes it.")),
        ([one], None) => said.push(words!("One slope: the whole sound falls 60 dB in {:.2} s.", one.t60_s)),
        _ => said.push(words!("It does not stand far enough out of the noise to see a slope.")),
    }
    let body = measured.profile.body_hz.and_then(|hz| paces.iter().find(|pace| pace.hz == hz));
    if let Some((early, late)) = body.and_then(|body| Some((body.early_t60_s?, body.late_t60_s?))) {
        said.push(if early < late * (1.0 - SAME_PACE) {
            words!("The body falls faster at first: at the pace of {early:.2} s, later of {late:.2} s. Struck softer it would last longer from the start.")
        } else if late < early * (1.0 - SAME_PACE) {
            words!("The body falls slower at first: at the pace of {early:.2} s, later of {late:.2} s.")
        } else {
            words!("The body falls at the same pace from loud to soft: {early:.2} s at first, {late:.2} s later.")
        });
    }
    said
}
