//! How far a sound is from what is wanted.

use super::steps::Steps;
use super::wanted::Wanted;
use crate::decay::{DecayProfile, HeardBy, Partial, RING_ABOVE_BODY, RING_FROM_S};
use crate::venue::{OctavePlace, at_hz};
use serde::{Deserialize, Serialize};

/// A step in ring share that counts as much: strikes of one real tom differ by more than that (from experience, no published source).
const SHARE_STEP: f64 = 0.12;
/// Shares are of what sounds from here on, s: where no overtone is heard for so long, there is nothing to have a share of.
const SHARE_FROM_S: f64 = RING_FROM_S;
/// A step in lost attack that counts as much, dB (from experience, no published source).
const ATTACK_STEP_DB: f64 = 1.0;
/// Up to this many steps off, all is well.
const FITS_WITHIN: f64 = 1.0;

/// Which figure is off.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Aspect {
    BodyLong,
    BodyShort,
    RingLong,
    RingShare,
    AttackLost,
}

/// One figure that misses what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Verdict {
    pub aspect: Aspect,
    /// How far off, in steps that are just noticed.
    pub steps: f64,
    pub sentence: String,
}

/// The room rings on where the drum itself is gone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomNote {
    /// Pitch of the partial that is heard longest, Hz.
    pub hz: f64,
    /// How long the drum alone is heard there, s.
    pub alone_s: f64,
    /// How long it is heard in the room, s.
    pub in_room_s: f64,
    pub sentence: String,
}

/// A sound held against what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Assessment {
    /// How long the body is heard at the song's hardest, s.
    pub body_length_s: Option<f64>,
    /// The same at its softest.
    #[serde(default)]
    pub body_length_softest_s: Option<f64>,
    /// How long the overtone that is heard longest is heard at the song's hardest, s.
    pub ring_length_s: Option<f64>,
    /// Its pitch, Hz.
    pub ring_length_hz: Option<f64>,
    /// Whether it is the ring: another overtone may be heard longer than the one that rings most.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub longest_is_ring: bool,
    /// Share of overtones in what sounds on, 0 to 1; null where none of them is heard long enough to have one.
    pub ring_share: Option<f64>,
    /// All steps off together; 0 is perfect.
    pub misfit: f64,
    pub fits: bool,
    /// What is off, worst first.
    pub off: Vec<Verdict>,
    /// What no muffling can change: the room.
    #[serde(default)]
    pub room: Option<RoomNote>,
    /// Where the pitch lies outside what is usual: a matter for tuning. No part of the misfit.
    #[serde(default)]
    pub pitch: Option<String>,
}

/// The parts of a sound that a wish looks at, worked out once so that the sound can be held against many songs.
#[derive(Debug, Clone, PartialEq)]
pub struct Tails {
    body: Option<Tail>,
    overtones: Vec<Tail>,
    ring_share: Option<f64>,
    attack_lost_db: Option<f64>,
}

/// One partial with its place among the octaves.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Tail {
    hz: f64,
    level_db: f64,
    t60_s: f64,
    place: OctavePlace,
}

impl Tail {
    fn new(partial: &Partial) -> Option<Self> {
        partial.t60_s.map(|t60_s| Self { hz: partial.hz, level_db: partial.level_db, t60_s, place: OctavePlace::of(partial.hz) })
    }

    /// [`audible_length`](super::wanted::audible_length), with the place worked out before.
    fn length_s(&self, wanted: &Wanted, louder_db: f64) -> f64 {
        ((self.level_db + louder_db - self.place.on(&wanted.threshold_db)) / 60.0 * self.t60_s).max(0.0)
    }
}

/// The figures that a wish looks at; none where a sound has none.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Heard {
    /// How long the body is heard at the song's hardest and at its softest, s.
    pub body_s: Option<f64>,
    pub body_softest_s: Option<f64>,
    /// How long the overtone is heard that is heard longest, s.
    pub ring_s: Option<f64>,
    pub ring_share: Option<f64>,
    pub attack_lost_db: Option<f64>,
}

impl Heard {
    /// The overtones' share, where any of them is heard for long enough to have one.
    fn heard_share(&self) -> Option<f64> {
        self.ring_share.filter(|_| self.ring_s.is_some_and(|ring_s| ring_s > SHARE_FROM_S))
    }

    /// Steps off by aspect, in the order of [`Aspect`].
    pub fn steps(&self, wanted: &Wanted) -> [Steps; 5] {
        let long = |length: Option<f64>, most: f64| length.map_or(Steps::NONE, |length| Steps::of_length_over(length, most));
        let short = |length: Option<f64>, least: f64| length.map_or(Steps::NONE, |length| Steps::of_length_over(least, length));
        let over = |figure: Option<f64>, most: f64, step: f64| figure.map_or(Steps::NONE, |figure| Steps::over(figure, most, step));
        [
            long(self.body_s, wanted.body_length_most_s),
            short(self.body_softest_s, wanted.body_length_least_s),
            long(self.ring_s, wanted.ring_length_most_s),
            over(self.heard_share(), wanted.ring_share_most, SHARE_STEP),
            over(self.attack_lost_db, wanted.attack_loss_most_db, ATTACK_STEP_DB),
        ]
    }
}

/// What was found of [`Tails`] in one song.
struct Found {
    /// The overtones' share, where they are heard long enough to have one.
    ring_share: Option<f64>,
    /// Pitch and length of the overtone that is heard longest.
    ring: Option<(f64, f64)>,
    body_s: Option<f64>,
    body_softest_s: Option<f64>,
    /// Steps off by aspect, in the order of [`Aspect`].
    steps: [Steps; 5],
}

impl Tails {
    /// Of `partials`, the `profile` made of them, whose body is looked at, and the attack that a treatment is expected to take, dB.
    pub fn new(partials: &[Partial], profile: &DecayProfile, attack_lost_db: Option<f64>) -> Self {
        let named = profile.body_hz.and_then(|hz| partials.iter().position(|partial| partial.hz == hz));
        let body = named.or_else(|| HeardBy::Partials.body(partials));
        let from = body.map_or(f64::INFINITY, |i| RING_ABOVE_BODY * partials[i].hz);
        Self {
            body: body.and_then(|i| Tail::new(&partials[i])),
            overtones: partials.iter().filter(|p| p.hz >= from).filter_map(Tail::new).collect(),
            ring_share: profile.ring_share,
            attack_lost_db,
        }
    }

    /// All steps off together. Without a body the rest is counted: whether that fits is for [`assess`] to say.
    pub fn misfit(&self, wanted: &Wanted) -> Steps {
        self.held_against(wanted).steps.into_iter().sum()
    }

    fn held_against(&self, wanted: &Wanted) -> Found {
        let body_s = self.body.map(|body| body.length_s(wanted, wanted.hardest_db));
        let body_softest_s = self.body.map(|body| body.length_s(wanted, wanted.softest_db));
        let heard = self.overtones.iter().map(|tail| (tail.hz, tail.length_s(wanted, wanted.hardest_db)));
        let ring = heard.reduce(|longest, other| if other.1 > longest.1 { other } else { longest });
        let ring_s = ring.map(|(_, length)| length);
        let heard = Heard { body_s, body_softest_s, ring_s, ring_share: self.ring_share, attack_lost_db: self.attack_lost_db };
        let steps = heard.steps(wanted);
        Found { ring_share: heard.heard_share(), ring, body_s, body_softest_s, steps }
    }
}

/// Holds `partials` and the `profile` made of them against `wanted`. `attack_lost_db`: what a treatment is expected to take.
pub fn assess(partials: &[Partial], profile: &DecayProfile, wanted: &Wanted, attack_lost_db: Option<f64>) -> Assessment {
    let tails = Tails::new(partials, profile, attack_lost_db);
    let found = tails.held_against(wanted);
    let aspects = [Aspect::BodyLong, Aspect::BodyShort, Aspect::RingLong, Aspect::RingShare, Aspect::AttackLost];
    let mut off: Vec<Verdict> = aspects
        .into_iter()
        .zip(found.steps)
        .filter(|(_, steps)| *steps > Steps::NONE)
        .map(|(aspect, steps)| Verdict { aspect, steps: steps.get(), sentence: sentence(aspect, &tails, &found, wanted) })
        .collect();
    off.sort_by(|a, b| b.steps.total_cmp(&a.steps));
    let misfit = off.iter().fold(0.0, |sum, verdict| sum + verdict.steps);
    Assessment {
        body_length_s: found.body_s,
        body_length_softest_s: found.body_softest_s,
        ring_length_s: found.ring.map(|(_, length)| length),
        ring_length_hz: found.ring.map(|(hz, _)| hz),
        longest_is_ring: found.ring.is_some_and(|(hz, _)| profile.ring_hz == Some(hz)),
        ring_share: found.ring_share,
        misfit,
        fits: tails.body.is_some() && misfit <= FITS_WITHIN,
        off,
        room: room_note(partials, wanted),
        pitch: tails.body.and_then(|body| pitch_note(body.hz, wanted)),
    }
}

fn sentence(aspect: Aspect, tails: &Tails, found: &Found, wanted: &Wanted) -> String {
    let over = |length: Option<f64>, limit: f64| say_seconds((length.unwrap_or(0.0) - limit).abs());
    match aspect {
        Aspect::BodyLong => format!("Body lasts {} too long.", over(found.body_s, wanted.body_length_most_s)),
        Aspect::BodyShort => format!("Body is {} too short.", over(found.body_softest_s, wanted.body_length_least_s)),
        Aspect::RingLong => {
            let (hz, length) = found.ring.unwrap_or_default();
            format!("Rings {} too long at {hz:.0} Hz.", over(Some(length), wanted.ring_length_most_s))
        }
        Aspect::RingShare => format!(
            "{:.0} % of what sounds on is overtones; {:.0} % is the most wanted.",
            100.0 * tails.ring_share.unwrap_or(0.0),
            100.0 * wanted.ring_share_most
        ),
        Aspect::AttackLost => format!(
            "Takes {:.1} dB of the attack; {:.1} dB is the most wanted.",
            tails.attack_lost_db.unwrap_or(0.0),
            wanted.attack_loss_most_db
        ),
    }
}

/// Says where the room is what is heard: there the tail outlasts what is wanted of ring or body by more than a muffled drum could mend.
fn room_note(partials: &[Partial], wanted: &Wanted) -> Option<RoomNote> {
    let room = wanted.room?;
    let most = wanted.ring_length_most_s.max(wanted.body_length_most_s);
    let (partial, t60, in_room_s) = partials
        .iter()
        .filter_map(|p| {
            let t60 = p.t60_s?;
            Some((p, t60, room.heard_s(p.hz, above(p, wanted), t60)))
        })
        .max_by(|a, b| a.2.total_cmp(&b.2))?;
    let alone_s = (above(partial, wanted) / 60.0 * t60).max(0.0);
    (in_room_s > most && in_room_s > 1.25 * alone_s).then(|| RoomNote {
        hz: partial.hz,
        alone_s,
        in_room_s,
        sentence: format!(
            "The room rings on: at {:.0} Hz the drum alone is gone after {}, in this room after {}. A drum half as long would leave {}: the rest is the room’s.",
            partial.hz,
            say_seconds(alone_s),
            say_seconds(in_room_s),
            say_seconds(room.heard_s(partial.hz, above(partial, wanted), 0.5 * t60))
        ),
    })
}

/// How far `partial` stands above what covers it at the song's hardest, dB.
fn above(partial: &Partial, wanted: &Wanted) -> f64 {
    partial.level_db + wanted.hardest_db - at_hz(&wanted.threshold_db, partial.hz)
}

fn pitch_note(hz: f64, wanted: &Wanted) -> Option<String> {
    let (low, high) = (wanted.pitch_low_hz, wanted.pitch_high_hz);
    let way = match hz {
        hz if hz < low => "Lower",
        hz if hz > high => "Higher",
        _ => return None,
    };
    Some(format!("{way} than usual here: body at {hz:.0} Hz, usually {low:.0} to {high:.0} Hz. Tuning changes that, muffling hardly."))
}

/// A time in a sentence: "85 ms", "0.31 s".
fn say_seconds(value: f64) -> String {
    if value < 0.1 { format!("{:.0} ms", 1000.0 * value) } else { format!("{value:.2} s") }
}

#[cfg(test)]
mod tests {
    use super::super::preset::built_in_preset;
    use super::super::song::Music;
    use super::super::wanted::Situation;
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::venue::RoomTail;
    use proptest::prelude::*;

    fn wanted(genre: &str, bpm: f64, kind: DrumKind) -> Wanted {
        let situation = Situation { preset: built_in_preset(genre).unwrap(), music: &Music::new(genre, bpm), venue: None };
        Wanted::new(&situation, &BenchDrum::usual(kind), None)
    }

    fn partial(hz: f64, t60: f64, level_db: f64) -> Partial {
        Partial { hz, t60_s: Some(t60), t60_sd_s: None, level_db, tone: None }
    }

    fn assessed(partials: &[Partial], wanted: &Wanted) -> Assessment {
        assess(partials, &DecayProfile::of_partials(partials), wanted, None)
    }

    /// A dead drum is nearly all overtones at the very start; of a tail that nobody hears there is no share.
    #[test]
    fn a_dead_drum_is_not_told_its_share_of_overtones() {
        let dead = [partial(120.0, 0.06, -12.0), partial(338.0, 0.11, 0.0)];
        let wanted = Wanted { threshold_db: [-30.0; 7], body_length_least_s: 0.0, ..wanted("rock", 120.0, DrumKind::Tom) };
        let found = assessed(&dead, &wanted);
        assert!(DecayProfile::of_partials(&dead).ring_share.is_some_and(|share| share > 0.9));
        assert!(found.ring_share.is_none() && found.off.is_empty(), "{:?}", found.off);
        let ringing = [partial(120.0, 0.06, -12.0), partial(338.0, 0.4, 0.0)];
        assert!(assessed(&ringing, &wanted).off.iter().any(|verdict| verdict.aspect == Aspect::RingShare));
    }

    #[test]
    fn a_ring_twice_too_long_is_named_with_its_pitch_and_size() {
        let partials = [partial(120.0, 0.6, 0.0), partial(338.0, 1.2, -4.0)];
        let wanted = Wanted {
            threshold_db: [-34.0; 7],
            ring_length_most_s: 0.3,
            body_length_least_s: 0.1,
            body_length_most_s: 0.5,
            ring_share_most: 0.95,
            pitch_low_hz: 130.0,
            pitch_high_hz: 150.0,
            ..wanted("rock", 120.0, DrumKind::Tom)
        };
        let found = assessed(&partials, &wanted);
        assert_eq!(found.off.len(), 1);
        assert_eq!(found.off[0].sentence, "Rings 0.30 s too long at 338 Hz.");
        assert!((found.off[0].steps - 2f64.ln() / 1.05f64.ln()).abs() < 0.1 && !found.fits);
        assert!(found.pitch.unwrap().starts_with("Lower than usual here: body at 120 Hz, usually 130 to 150 Hz."));
        assert!(assess(&partials, &DecayProfile::default(), &wanted, Some(6.0)).off.iter().any(|off| off.aspect == Aspect::AttackLost));
    }

    #[test]
    fn a_long_room_is_said_to_be_the_room() {
        let partials = [partial(120.0, 0.5, 0.0), partial(240.0, 0.4, -6.0)];
        let dry = wanted("rock", 120.0, DrumKind::Tom);
        assert_eq!(assessed(&partials, &dry).room, None);
        let hall = Wanted { room: Some(RoomTail { t60_s: [Some(4.0); 7], reverberant_db: 0.0 }), ..dry };
        let note = assessed(&partials, &hall).room.unwrap();
        assert!(note.in_room_s > 1.0 && note.alone_s < 0.3, "{note:?}");
        assert!(note.sentence.contains("the rest is the room’s"));
        // The drum's own verdict does not change: the room is not its to fix.
        assert_eq!(assessed(&partials, &hall).misfit, assessed(&partials, &Wanted { room: None, ..hall }).misfit);
    }

    fn tom(body_t60: f64, ring_t60: f64, ring_db: f64) -> Vec<Partial> {
        vec![partial(120.0, body_t60, 0.0), partial(190.0, ring_t60, ring_db)]
    }

    proptest! {
        #[test]
        fn a_longer_or_louder_ring_is_never_nearer_to_the_wish(t60 in 0.2f64..2.0, more in 1.0f64..2.0, db in -20f64..0.0, up in 0f64..6.0) {
            let wanted = wanted("rock", 120.0, DrumKind::Tom);
            let misfit = |partials: &[Partial]| assessed(partials, &wanted).misfit;
            let before = misfit(&tom(0.5, t60, db));
            prop_assert!(misfit(&tom(0.5, more * t60, db)) >= before - 1e-9);
            prop_assert!(misfit(&tom(0.5, t60, (db + up).min(0.0))) >= before - 1e-9);
        }

        #[test]
        fn misfit_is_the_sum_of_what_is_said_to_be_off(body in 0.05f64..3.0, ring in 0.05f64..3.0, db in -20f64..0.0) {
            let found = assessed(&tom(body, ring, db), &wanted("funk", 102.0, DrumKind::Snare));
            prop_assert!((found.misfit - found.off.iter().map(|v| v.steps).sum::<f64>()).abs() < 1e-9);
            prop_assert!(found.off.windows(2).all(|pair| pair[0].steps >= pair[1].steps), "worst first");
            prop_assert_eq!(found.fits, found.misfit <= FITS_WITHIN);
            prop_assert!(found.off.iter().all(|verdict| verdict.sentence.ends_with('.')));
        }
    }

    #[test]
    fn a_drum_without_a_body_is_never_called_fitting() {
        assert!(!assessed(&[], &wanted("rock", 120.0, DrumKind::Tom)).fits);
    }
}
