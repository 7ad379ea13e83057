//! Where the knobs of a drum's channel begin: from the tones and lengths that its microphone heard, what the microphone is there for, and how far the
//! drum stands above what the others send into it.

use super::role::Microphone;
use ember_words::{Words, words};
use serde::{Deserialize, Serialize};

/// What is known of the drum at a close microphone.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChannelHeard {
    /// What the microphone is there for.
    pub microphone: Microphone,
    /// Whether another microphone stands on the drum's other side, so that the two share the work.
    pub has_partner: bool,
    /// Pitch of the body, Hz, and its time to fall 60 dB, s.
    pub body: Option<(f64, f64)>,
    /// The same of the ring.
    pub ring: Option<(f64, f64)>,
    /// Loudest sample of a full stroke, dBFS; none where it is not known in this channel.
    pub peak_dbfs: Option<f64>,
    /// How far the drum's hits stand above what the others send into its microphone.
    pub over_bleed: Option<OverBleed>,
    /// Quarter notes a minute, where a song is played.
    pub bpm: Option<f64>,
}

/// Levels in a drum's own microphone, against its full stroke, dB.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverBleed {
    /// The softest stroke that is no ghost note: nine in ten are louder.
    pub stroke_db: f64,
    /// The softest ghost note, in the same way; null where none is played.
    pub ghost_db: Option<f64>,
    /// What the rest of the kit sends: 19 in 20 hits send less.
    pub bleed_db: f64,
}

/// A knob.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Knob {
    /// Lows below are taken away.
    HighPass,
    /// A pitch is turned down.
    Cut,
    /// A pitch that stays as it is.
    Leave,
    /// Where the stick or beater is.
    Attack,
    /// The gate opens above this level.
    GateThreshold,
    /// It stays open for so long.
    GateHold,
    /// It closes in this time.
    GateRelease,
    /// No gate.
    NoGate,
    /// The compressor takes hold after this time.
    CompressorAttack,
    /// It lets go in this time.
    CompressorRelease,
}

/// Where one knob begins, and why.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ToneSetting {
    /// Which knob it is.
    pub knob: Knob,
    /// Its pitch, Hz.
    pub hz: Option<f64>,
    /// Its gain, dB, or for a gate's threshold its level, dBFS.
    pub db: Option<f64>,
    /// How narrow it is: pitch over width.
    pub q: Option<f64>,
    /// Its time, s.
    pub time_s: Option<f64>,
    /// Whether it comes from what was measured; else it is where one usually begins.
    pub measured: bool,
    /// Why, as a sentence.
    pub why: Words,
}

impl ToneSetting {
    fn new(knob: Knob, measured: bool, why: Words) -> Self {
        Self { knob, hz: None, db: None, q: None, time_s: None, measured, why }
    }

    /// The knob and where it begins, as one types it into a mixer.
    pub fn says(&self) -> Words {
        let (hz, db, q) = (self.hz.unwrap_or_default(), self.db.unwrap_or_default(), self.q.unwrap_or_default());
        let ms = 1000.0 * self.time_s.unwrap_or_default();
        match self.knob {
            Knob::HighPass => words!("High pass at {hz:.0} Hz"),
            Knob::Cut => {
                let less_db = -db;
                words!("Cut {hz:.0} Hz by {less_db:.0} dB, Q {q:.1}")
            }
            Knob::Leave => words!("Leave {hz:.0} Hz"),
            Knob::Attack => words!("Attack is around {hz:.0} Hz"),
            Knob::GateThreshold if self.db.is_some() => {
                let under_db = -db;
                words!("Gate opens at −{under_db:.0} dBFS")
            }
            Knob::GateThreshold => words!("Gate"),
            Knob::GateHold => words!("Hold {ms:.0} ms"),
            Knob::GateRelease => words!("Release {ms:.0} ms"),
            Knob::NoGate => words!("No gate"),
            Knob::CompressorAttack => words!("Compressor attack {ms:.0} ms"),
            Knob::CompressorRelease => words!("Compressor release {ms:.0} ms"),
        }
    }

    fn at(self, hz: f64) -> Self {
        Self { hz: Some(hz), ..self }
    }

    fn by(self, db: f64, q: f64) -> Self {
        Self { db: Some(db), q: Some(q), ..self }
    }

    fn lasting(self, time_s: f64) -> Self {
        Self { time_s: Some(time_s), ..self }
    }
}

/// A high pass of the second order takes no more than this from the body, dB.
const TAKEN_FROM_BODY_DB: f64 = 0.5;
/// A kick's inner microphone leaves what lies below to the outer one, Hz (common practice, no published source).
const INNER_KICK_FROM_HZ: f64 = 80.0;
/// A ring that outlasts the body is cut by as many dB as let both fall by [`HEARD_TO_DB`] in the same time. Less than the least cut is not heard; more than the
/// most takes away what lies beside the ring.
const HEARD_TO_DB: f64 = 40.0;
const LEAST_CUT_DB: f64 = 2.0;
const MOST_CUT_DB: f64 = 9.0;
/// No cut takes more than this from the body, dB; a ring is cut as broadly as that allows, for its pitch moves from hit to hit.
const CUT_FROM_BODY_DB: f64 = -0.5;
const QS: [f64; 6] = [4.0, 6.0, 8.0, 12.0, 16.0, 24.0];
/// Where drums sound like boxes, and how much is taken there to begin with (common practice, no published source); not so near to the ring (ratio).
const BOX_DB: f64 = -3.0;
const BOX_Q: f64 = 1.5;
const APART_FROM_BOX: f64 = 1.3;
/// Hits must stand so far above the bleed for a gate to tell them apart, dB.
const GATE_NEEDS_DB: f64 = 8.0;
/// A gate closes while the body falls by this, dB.
const CLOSES_OVER_DB: f64 = 20.0;
/// It is open at least so long, s: the stick alone.
const LEAST_HOLD_S: f64 = 0.04;
/// A compressor lets the stick through, s (common practice, no published source).
const STICK_S: f64 = 0.015;
const BEATER_S: f64 = 0.02;
/// It lets go while the body falls by this, dB, and before the next eighth note.
const LETS_GO_OVER_DB: f64 = 20.0;

/// Corner (Hz) of a Butterworth high pass of the second order that takes [`TAKEN_FROM_BODY_DB`] at `body_hz`: its power there is
/// 1 / (1 + (corner / pitch)^4) (Butterworth, Experimental Wireless 7, 1930).
fn corner_below(body_hz: f64) -> f64 {
    body_hz * (10f64.powf(TAKEN_FROM_BODY_DB / 10.0) - 1.0).powf(0.25)
}

/// Gain (dB) at `hz` of a peaking filter that has `db` at `at_hz` and is `q` narrow: (s^2 + s A / q + 1) / (s^2 + s / (A q) + 1) with A^2 the gain, the
/// analog prototype of mixers' bells (Zoelzer, Digital Audio Signal Processing, ch. 5, from memory).
fn bell_db(at_hz: f64, db: f64, q: f64, hz: f64) -> f64 {
    let (x, a) = (hz / at_hz, 10f64.powf(db / 40.0));
    let apart = (1.0 - x * x).powi(2);
    10.0 * ((apart + (x * a / q).powi(2)) / (apart + (x / (a * q)).powi(2))).log10()
}

/// The knobs of a close microphone's channel, in the order of a channel strip. Only what is known is said: without a body there is no gate and no length.
pub fn tone_to_begin_with(heard: &ChannelHeard) -> Vec<ToneSetting> {
    let mut settings = Vec::new();
    settings.extend(high_pass(heard));
    settings.extend(leave(heard));
    settings.extend(ring(heard));
    settings.extend(boxiness(heard));
    settings.push(attack(heard.microphone));
    settings.extend(gate(heard));
    settings.extend(compressor(heard));
    settings
}

fn high_pass(heard: &ChannelHeard) -> Option<ToneSetting> {
    let setting = |hz: f64, measured: bool, why: Words| Some(ToneSetting::new(Knob::HighPass, measured, why).at(hz));
    match heard.microphone {
        Microphone::KickIn if heard.has_partner => {
            setting(INNER_KICK_FROM_HZ, false, words!("The mic outside has the lows; this one has the beater."))
        }
        // The wires lie above the drum's own note.
        Microphone::SnareBottom => {
            let (body_hz, _) = heard.body?;
            setting(body_hz, true, words!("The wires lie above the drum’s own note; the top mic has that."))
        }
        _ => {
            let (body_hz, _) = heard.body?;
            setting(corner_below(body_hz), true, words!("Below the body there is only rumble and the rest of the kit."))
        }
    }
}

fn leave(heard: &ChannelHeard) -> Option<ToneSetting> {
    if heard.microphone == Microphone::SnareBottom || (heard.microphone == Microphone::KickIn && heard.has_partner) {
        return None;
    }
    let (body_hz, _) = heard.body?;
    Some(ToneSetting::new(Knob::Leave, true, words!("This is the drum’s note. Cut it, and the drum is gone.")).at(body_hz))
}

/// The ring, where it outlasts the body.
fn ring(heard: &ChannelHeard) -> Option<ToneSetting> {
    let ((body_hz, body_s), (ring_hz, ring_s)) = heard.body.zip(heard.ring)?;
    let cut_db = -(HEARD_TO_DB * (1.0 - body_s / ring_s)).min(MOST_CUT_DB);
    if cut_db > -LEAST_CUT_DB {
        return None;
    }
    let leaves_the_body = |q: &&f64| bell_db(ring_hz, cut_db, **q, body_hz) >= CUT_FROM_BODY_DB;
    let q = QS.iter().find(leaves_the_body)?;
    let longer_s = ring_s - body_s;
    let why = words!(
        "It rings {longer_s:.2} s longer than the body. The cut takes it out of this microphone only: overheads and room keep it, muffling takes it everywhere."
    );
    Some(ToneSetting::new(Knob::Cut, true, why).at(ring_hz).by(cut_db, *q))
}

/// Where a drum of this microphone usually sounds like a box, Hz.
fn box_hz(microphone: Microphone) -> Option<f64> {
    match microphone {
        Microphone::KickIn | Microphone::KickOut => Some(350.0),
        Microphone::Tom => Some(500.0),
        Microphone::FloorTom => Some(400.0),
        Microphone::SnareTop => Some(450.0),
        _ => None,
    }
}

fn boxiness(heard: &ChannelHeard) -> Option<ToneSetting> {
    let hz = box_hz(heard.microphone)?;
    let takes_from_the_body = heard.body.is_some_and(|(body_hz, _)| bell_db(hz, BOX_DB, BOX_Q, body_hz) < CUT_FROM_BODY_DB);
    let is_the_ring = heard.ring.is_some_and(|(ring_hz, _)| (ring_hz / hz).ln().abs() < APART_FROM_BOX.ln());
    // It would be the drum's own note that is cut, or the ring once more.
    if takes_from_the_body || is_the_ring {
        return None;
    }
    let why = words!("If it sounds like a box: sweep around here, and stop where it opens up.");
    Some(ToneSetting::new(Knob::Cut, false, why).at(hz).by(BOX_DB, BOX_Q))
}

fn attack(microphone: Microphone) -> ToneSetting {
    let (hz, why) = match microphone {
        Microphone::KickIn => (3500.0, words!("Here is the beater. Cut all highs from a kick, and its punch is gone.")),
        Microphone::KickOut => (2500.0, words!("Less is enough here: the beater is in the mic inside.")),
        Microphone::SnareBottom => (7000.0, words!("Here are the wires.")),
        Microphone::SnareTop => (5000.0, words!("Here is the stick.")),
        _ => (4500.0, words!("Here is the stick.")),
    };
    ToneSetting::new(Knob::Attack, false, why).at(hz)
}

/// A gate between hits and bleed, open as long as the body is above its threshold.
fn gate(heard: &ChannelHeard) -> Vec<ToneSetting> {
    let Some((over, (_, body_s))) = heard.over_bleed.zip(heard.body) else { return Vec::new() };
    let softest_db = over.ghost_db.map_or(over.stroke_db, |ghost_db| ghost_db.min(over.stroke_db));
    let passes_all = softest_db - over.bleed_db >= GATE_NEEDS_DB;
    let passes_db = if passes_all { softest_db } else { over.stroke_db };
    let gap_db = passes_db - over.bleed_db;
    if gap_db < GATE_NEEDS_DB {
        let why = if gap_db > 0.0 {
            words!(
                "The rest of the kit comes within {gap_db:.0} dB of the softest stroke: a gate would chatter. Muffle the drum instead, or move the mic."
            )
        } else {
            words!(
                "The rest of the kit is louder here than the softest stroke: no gate can tell them apart. Muffle the drum instead, or move the mic."
            )
        };
        return vec![ToneSetting::new(Knob::NoGate, true, why)];
    }
    let threshold_db = over.bleed_db + 0.5 * gap_db;
    let under_db = -threshold_db;
    let why = if passes_all {
        words!("{under_db:.0} dB under a full stroke: half way between the softest hit and the rest of the kit.")
    } else {
        words!(
            "{under_db:.0} dB under a full stroke. Ghost notes are as soft as the rest of the kit here: they are lost. Do without a gate if you want them."
        )
    };
    let above_s = body_s * under_db / 60.0;
    let hold_s = above_s.max(LEAST_HOLD_S);
    vec![
        ToneSetting { db: heard.peak_dbfs.map(|peak_dbfs| peak_dbfs + threshold_db), ..ToneSetting::new(Knob::GateThreshold, true, why) },
        ToneSetting::new(Knob::GateHold, true, words!("As long as the body of a full stroke stays above that.")).lasting(hold_s),
        ToneSetting::new(Knob::GateRelease, true, words!("It closes as the drum falls, so that the note is not cut."))
            .lasting(body_s * CLOSES_OVER_DB / 60.0),
    ]
}

fn compressor(heard: &ChannelHeard) -> Vec<ToneSetting> {
    let Some((_, body_s)) = heard.body else { return Vec::new() };
    let is_kick = matches!(heard.microphone, Microphone::KickIn | Microphone::KickOut);
    let begins = words!("Late enough for the stick to get through first.");
    let of_body_s = body_s * LETS_GO_OVER_DB / 60.0;
    let eighth_s = heard.bpm.map(|bpm| 30.0 / bpm);
    let (release_s, why) = match eighth_s {
        Some(eighth_s) if eighth_s < of_body_s => (eighth_s, words!("It lets go before the next eighth note at tonight’s tempo.")),
        _ => (of_body_s, words!("While the body falls by 20 dB: faster pumps, slower takes from the next stroke.")),
    };
    vec![
        ToneSetting::new(Knob::CompressorAttack, false, begins).lasting(if is_kick { BEATER_S } else { STICK_S }),
        ToneSetting::new(Knob::CompressorRelease, true, why).lasting(release_s),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tom() -> ChannelHeard {
        ChannelHeard {
            microphone: Microphone::Tom,
            has_partner: false,
            body: Some((140.0, 0.6)),
            ring: Some((260.0, 0.9)),
            peak_dbfs: Some(-9.0),
            over_bleed: Some(OverBleed { stroke_db: -8.0, ghost_db: None, bleed_db: -26.0 }),
            bpm: Some(120.0),
        }
    }

    fn of(heard: &ChannelHeard, knob: Knob) -> Option<ToneSetting> {
        tone_to_begin_with(heard).into_iter().find(|setting| setting.knob == knob)
    }

    /// Gains (dB) of bells of -6 dB at 260 Hz with the analog polynomials above, by `scipy.signal.freqs` (SciPy 1.17.1): how narrow, at which pitch.
    const BELLS: [(f64, f64, f64); 10] = [
        (4.0, 140.0, -0.2233),
        (4.0, 240.0, -4.2128),
        (4.0, 255.0, -5.8480),
        (4.0, 260.0, -6.0000),
        (4.0, 400.0, -0.4680),
        (12.0, 140.0, -0.0258),
        (12.0, 240.0, -1.3219),
        (12.0, 255.0, -4.8851),
        (12.0, 260.0, -6.0000),
        (12.0, 400.0, -0.0565),
    ];

    /// The same library's `butter(2, 2 pi corner, 'highpass', analog=True)` with its corner at 82.81 Hz has -0.50152 dB at 140 Hz.
    #[test]
    fn filters_are_those_of_the_reference_library() {
        let corner = corner_below(140.0) * ((10f64.powf(0.050_152) - 1.0) / (10f64.powf(0.05) - 1.0)).powf(0.25);
        assert!((corner - 82.81).abs() < 0.001, "{corner}");
        for (q, hz, db) in BELLS {
            assert!((bell_db(260.0, -6.0, q, hz) - db).abs() < 0.001, "{q} {hz}: {}", bell_db(260.0, -6.0, q, hz));
        }
    }

    #[test]
    fn a_ringing_tom_gets_its_ring_cut_and_keeps_its_note() {
        let cut = of(&tom(), Knob::Cut).unwrap();
        assert!(cut.measured && cut.hz == Some(260.0) && cut.db == Some(-9.0), "{cut:?}");
        assert!(of(&tom(), Knob::HighPass).unwrap().hz.unwrap() < 140.0);
        // 17 dB under a full stroke, which the body crosses after 17 / 60 of its time.
        let (threshold, hold) = (of(&tom(), Knob::GateThreshold).unwrap(), of(&tom(), Knob::GateHold).unwrap());
        assert!((threshold.db.unwrap() + 26.0).abs() < 1e-9 && (hold.time_s.unwrap() - 0.17).abs() < 1e-9, "{threshold:?} {hold:?}");
        let short = ChannelHeard { ring: Some((260.0, 0.5)), ..tom() };
        assert!(tone_to_begin_with(&short).iter().all(|setting| setting.hz != Some(260.0)), "a ring that ends first is left");
    }

    #[test]
    fn a_gate_that_cannot_tell_hits_from_bleed_is_not_advised() {
        let in_bleed = ChannelHeard { over_bleed: Some(OverBleed { stroke_db: -8.0, ghost_db: None, bleed_db: -12.0 }), ..tom() };
        assert!(of(&in_bleed, Knob::NoGate).is_some() && of(&in_bleed, Knob::GateThreshold).is_none());
        let ghosts = ChannelHeard { over_bleed: Some(OverBleed { stroke_db: -8.0, ghost_db: Some(-24.0), bleed_db: -26.0 }), ..tom() };
        assert!(of(&ghosts, Knob::GateThreshold).unwrap().why.to_string().contains("Ghost notes"));
    }

    #[test]
    fn the_two_kick_microphones_share_the_work() {
        let inside = ChannelHeard { microphone: Microphone::KickIn, has_partner: true, body: Some((60.0, 0.4)), ..tom() };
        assert_eq!(of(&inside, Knob::HighPass).unwrap().hz, Some(INNER_KICK_FROM_HZ));
        let alone = ChannelHeard { has_partner: false, ..inside };
        assert!(of(&alone, Knob::HighPass).unwrap().hz.unwrap() < 60.0, "alone it keeps the lows");
        let unknown = ChannelHeard { body: None, ring: None, ..alone };
        assert!(tone_to_begin_with(&unknown).iter().all(|setting| !setting.measured), "of what was not heard nothing is said");
    }

    proptest! {
        /// Whatever was heard: high pass and cuts together take no more than 1.5 dB from the body, gates open between bleed and hits, and no time is longer
        /// than the body lasts.
        #[test]
        fn no_setting_takes_the_note(
            body_hz in 40.0..300.0f64, body_s in 0.05..2.0f64, over in 1.1..4.0f64, ring_s in 0.05..3.0f64, stroke in -14.0..-2.0f64, bleed in -60.0..0.0f64,
            microphone in prop::sample::select(vec![Microphone::KickOut, Microphone::SnareTop, Microphone::Tom, Microphone::FloorTom]),
        ) {
            let heard = ChannelHeard {
                microphone,
                body: Some((body_hz, body_s)),
                ring: Some((body_hz * over, ring_s)),
                over_bleed: Some(OverBleed { stroke_db: stroke, ghost_db: None, bleed_db: bleed }),
                ..tom()
            };
            let settings = tone_to_begin_with(&heard);
            let lost: f64 = settings.iter().map(|setting| match setting.knob {
                Knob::Cut => bell_db(setting.hz.unwrap(), setting.db.unwrap(), setting.q.unwrap(), body_hz),
                Knob::HighPass => -10.0 * (1.0 + (setting.hz.unwrap() / body_hz).powi(4)).log10(),
                _ => 0.0,
            }).sum();
            prop_assert!(lost >= 2.0 * CUT_FROM_BODY_DB - TAKEN_FROM_BODY_DB - 1e-9, "{lost}");
            for setting in &settings {
                prop_assert!(setting.time_s.is_none_or(|time_s| time_s > 0.0 && time_s <= body_s.max(LEAST_HOLD_S)), "{setting:?}");
                if setting.knob == Knob::GateThreshold {
                    let under = setting.db.unwrap() + 9.0;
                    prop_assert!(bleed < under && under < stroke, "{setting:?}");
                }
            }
        }
    }
}
