//! How far a sound is from what is wanted.

use super::steps::Steps;
use super::wanted::Wanted;
use crate::decay::{Dynamic, DynamicSummary, TakeSummary};
use crate::tone::{DecayProfile, HeardBy, Partial, RING_ABOVE_BODY};
use crate::venue::{OctavePlace, at_hz};
use ember_words::{Words, text, words};
use serde::{Deserialize, Serialize};

/// A ring that is heard for less than this is no matter beside any body, s; and a body that is heard for less counts as this (from experience, no
/// published source).
const BESIDE_FROM_S: f64 = 0.08;
const BESIDE_LEAST_S: f64 = 0.15;
/// A decay time may be off by its own standard error, or by as much as the player's own strikes differ, before it is called wrong, but by no more than
/// this part: a poor take excuses nothing.
const MOST_SPREAD: f64 = 0.2;
/// A step in lost attack that counts as much, dB (from experience, no published source).
const ATTACK_STEP_DB: f64 = 1.0;
/// Up to this many steps off, all is well.
const FITS_WITHIN: f64 = 1.0;

/// Which figure is off.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Aspect {
    /// The body is heard for too long.
    BodyLong,
    /// The body is not heard for long enough.
    BodyShort,
    /// The ring is heard for too long.
    RingLong,
    /// The ring is heard too long for how long the body is heard. Only what this adds to `RingLong` is counted. Older files hold a share of
    /// overtones in its place.
    #[serde(alias = "ring_share")]
    RingBesideBody,
    /// Too much attack is given up.
    AttackLost,
}

/// How near a sound comes to what is wanted.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Fit {
    /// As wanted.
    In,
    /// Off, but by less than is heard, or than the take's own strikes differ.
    Nearly,
    /// Off by more than is heard.
    #[default]
    Off,
}

/// One figure that misses what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Verdict {
    /// What is off.
    pub aspect: Aspect,
    /// How far off, in steps that are just noticed.
    pub steps: f64,
    /// The same as a sentence.
    pub sentence: Words,
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
    /// The same as a sentence.
    pub sentence: Words,
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
    /// How long the ring may be heard beside this body, s; null where any length will do.
    #[serde(default)]
    pub ring_length_most_s: Option<f64>,
    /// All steps off together; 0 is perfect.
    pub misfit: f64,
    /// Older files say only whether it fits; there this is `off`. What is shown is always assessed anew.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub fit: Fit,
    /// Whether it is in or nearly so.
    pub fits: bool,
    /// What is heard to be off, worst first.
    pub off: Vec<Verdict>,
    /// What no muffling can change: the room.
    #[serde(default)]
    pub room: Option<RoomNote>,
    /// Where the pitch lies outside what is usual: a matter for tuning. No part of the misfit.
    #[serde(default)]
    pub pitch: Option<Words>,
}

/// The parts of a sound that a wish looks at, worked out once so that the sound can be held against many songs.
#[derive(Debug, Clone, PartialEq)]
pub struct Tails {
    body: Option<Tail>,
    /// Everything above the body, low to high.
    above: Vec<Tail>,
    attack_lost_db: Option<f64>,
}

/// The drum with nothing on it, as it was measured: from it the wish knows how much body there is to leave.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenSound {
    /// How long body and ring last.
    pub tails: Tails,
    /// Level of a strike's loudest partial, dBFS; none where it was not measured.
    pub strike_dbfs: Option<f64>,
    /// How it sounds at each dynamic at which it was played.
    pub played: Vec<Played>,
}

/// A drum at one dynamic, as it was measured.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Played {
    pub dynamic: Dynamic,
    /// Level against a medium strike, dB.
    pub level_db: f64,
    /// How many times as long its body lasts as over all strikes.
    pub times: f64,
}

/// A dynamic of which fewer strikes were used says too little about itself.
const FEWEST_STRIKES: usize = 2;
/// A length that differs by more than this between dynamics was measured badly: it counts as this.
const MOST_TIMES: f64 = 2.0;

impl OpenSound {
    /// From the `partials` and the `summary` of a take of the open drum.
    pub fn new(partials: &[Partial], summary: &TakeSummary) -> Self {
        let medium = summary.dynamics.iter().find(|of| of.dynamic == Dynamic::Medium).map(|of| of.peak_dbfs);
        let played = |of: &DynamicSummary| {
            let times = of.profile.body_t60_s.zip(summary.profile.body_t60_s).map_or(1.0, |(of, all)| of / all);
            let level_db = medium.map_or(of.dynamic.level_db(), |medium| of.peak_dbfs - medium);
            Played { dynamic: of.dynamic, level_db, times: times.clamp(1.0 / MOST_TIMES, MOST_TIMES) }
        };
        Self {
            tails: Tails::new(partials, &summary.profile, None),
            strike_dbfs: summary.partial_dbfs,
            played: summary.dynamics.iter().filter(|of| of.strikes_used >= FEWEST_STRIKES).map(played).collect(),
        }
    }

    /// How it sounds at `dynamic`: as usual where that was not measured.
    pub(super) fn at(open: Option<&Self>, dynamic: Dynamic) -> Played {
        let measured = open.and_then(|open| open.played.iter().find(|played| played.dynamic == dynamic));
        measured.copied().unwrap_or(Played { dynamic, level_db: dynamic.level_db(), times: 1.0 })
    }
}

/// One partial with its place among the octaves.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Tail {
    hz: f64,
    level_db: f64,
    t60_s: f64,
    /// Relative standard error of the decay time, or how much it differs between strikes, whichever is more.
    spread: f64,
    place: OctavePlace,
}

impl Tail {
    fn new(partial: &Partial) -> Option<Self> {
        let t60_s = partial.t60_s?;
        let between_strikes = partial.t60_sd_s.unwrap_or(0.0).max(partial.t60_scatter_s.unwrap_or(0.0));
        let spread = (between_strikes / t60_s).min(MOST_SPREAD);
        Some(Self { hz: partial.hz, level_db: partial.level_db, t60_s, spread, place: OctavePlace::of(partial.hz) })
    }

    /// How long it is heard, s, as [`Wanted::audible`] has it, with the place worked out before: so much louder, and so many times as long as usual.
    fn length_s(&self, wanted: &Wanted, (louder_db, times): (f64, f64)) -> f64 {
        ((self.level_db + louder_db - self.place.on(&wanted.threshold_db)) / 60.0 * self.t60_s * times).max(0.0)
    }
}

/// The figures that a wish looks at; none where a sound has none.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Heard {
    /// How long the body is heard at the song's hardest and at its softest, s.
    pub body_s: Option<f64>,
    /// How long the body is heard at the song's softest, s; none where it is not known.
    pub body_softest_s: Option<f64>,
    /// How long the overtone is heard that is heard longest, s.
    pub ring_s: Option<f64>,
    /// The body's length that the ring is held against, s; none where it is not known.
    pub beside_ring_s: Option<f64>,
    /// Attack given up, dB.
    pub attack_lost_db: Option<f64>,
}

/// Aspects in the order in which their steps stand.
const ASPECTS: [Aspect; 5] = [Aspect::BodyLong, Aspect::BodyShort, Aspect::RingLong, Aspect::RingBesideBody, Aspect::AttackLost];

impl Heard {
    /// How long the ring may be heard for the body's sake, s.
    fn ring_beside_body_most_s(&self, wanted: &Wanted) -> Option<f64> {
        let ring_s = self.ring_s.filter(|ring_s| *ring_s > BESIDE_FROM_S);
        let (_, body_s, times) = (ring_s?, self.beside_ring_s?, wanted.ring_over_body_most?);
        Some(times * body_s.max(BESIDE_LEAST_S))
    }

    /// Steps off by aspect, in the order of [`ASPECTS`].
    pub fn steps(&self, wanted: &Wanted) -> [Steps; 5] {
        let long = |length: Option<f64>, most: f64| length.map_or(Steps::NONE, |length| Steps::of_length_over(length, most));
        let ring_long = long(self.ring_s, wanted.ring_length_most_s);
        let beside = self.ring_beside_body_most_s(wanted).map_or(Steps::NONE, |most| long(self.ring_s, most));
        [
            long(self.body_s, wanted.body_length_most_s),
            self.body_softest_s.map_or(Steps::NONE, |length| Steps::of_length_under(length, wanted.body_length_least_s)),
            ring_long,
            Steps::new(beside.get() - ring_long.get()),
            self.attack_lost_db.map_or(Steps::NONE, |db| Steps::over(db, wanted.attack_loss_most_db, ATTACK_STEP_DB)),
        ]
    }

    /// Whether no figure is beyond its limit, heard or not.
    fn is_in(&self, wanted: &Wanted) -> bool {
        let within = |figure: Option<f64>, most: f64| figure.is_none_or(|figure| figure <= most);
        within(self.body_s, wanted.body_length_most_s)
            && self.body_softest_s.is_none_or(|length| length >= wanted.body_length_least_s)
            && within(self.ring_s, wanted.ring_length_most_s)
            && self.ring_beside_body_most_s(wanted).is_none_or(|most| within(self.ring_s, most))
            && within(self.attack_lost_db, wanted.attack_loss_most_db)
    }
}

/// What was found of [`Tails`] in one song.
struct Found {
    heard: Heard,
    /// The tones of which body and ring are heard longest.
    body: Option<Tail>,
    ring: Option<Tail>,
    /// Steps off by aspect, in the order of [`ASPECTS`].
    steps: [Steps; 5],
}

impl Found {
    /// Whether a figure is off by less than its standard error, or than the player's strikes differ: nobody corrects what the next strike does otherwise.
    fn is_chance(&self, aspect: Aspect, wanted: &Wanted) -> bool {
        let spread = |tail: &Option<Tail>| tail.map_or(0.0, |tail| tail.spread);
        let within = |length: Option<f64>, limit: f64, spread: f64| length.is_some_and(|length| (length - limit).abs() <= spread * length);
        match aspect {
            Aspect::BodyLong => within(self.heard.body_s, wanted.body_length_most_s, spread(&self.body)),
            Aspect::BodyShort => within(self.heard.body_softest_s, wanted.body_length_least_s, spread(&self.body)),
            Aspect::RingLong => within(self.heard.ring_s, wanted.ring_length_most_s, spread(&self.ring)),
            Aspect::RingBesideBody => {
                let most = self.heard.ring_beside_body_most_s(wanted).unwrap_or(0.0);
                within(self.heard.ring_s, most, spread(&self.ring).hypot(spread(&self.body)))
            }
            Aspect::AttackLost => false,
        }
    }
}

impl Tails {
    /// Of `partials`, the `profile` made of them, whose body is looked at, and the attack that a treatment is expected to take, dB.
    pub fn new(partials: &[Partial], profile: &DecayProfile, attack_lost_db: Option<f64>) -> Self {
        let named = profile.body_hz.and_then(|hz| partials.iter().position(|partial| partial.hz == hz));
        let body = named.or_else(|| HeardBy::Partials.body(partials));
        let from = body.map_or(f64::INFINITY, |i| RING_ABOVE_BODY * partials[i].hz);
        let mut above: Vec<Tail> = partials.iter().filter(|p| p.hz >= from).filter_map(Tail::new).collect();
        above.sort_by(|a, b| a.hz.total_cmp(&b.hz));
        Self { body: body.and_then(|i| Tail::new(&partials[i])), above, attack_lost_db }
    }

    /// All steps off together. Without a body the rest is counted: whether that fits is for [`assess`] to say.
    pub fn misfit(&self, wanted: &Wanted) -> Steps {
        self.held_against(wanted).steps.into_iter().sum()
    }

    /// Whether nothing is heard to be off.
    pub fn fits(&self, wanted: &Wanted) -> bool {
        self.body.is_some() && self.misfit(wanted).get() <= FITS_WITHIN
    }

    /// How long the body is heard at the song's softest, s.
    pub fn body_softest_s(&self, wanted: &Wanted) -> Option<f64> {
        self.held_against(wanted).heard.body_softest_s
    }

    fn held_against(&self, wanted: &Wanted) -> Found {
        let ring_from_hz = self.body.map_or(0.0, |body| wanted.ring_above_body * body.hz);
        let (beside, over) = self.above.split_at(self.above.partition_point(|tail| tail.hz < ring_from_hz));
        let (hard, soft) = ((wanted.hardest_db, wanted.hardest_times), (wanted.softest_db, wanted.softest_times));
        let longest = |a: Tail, b: Tail| if b.length_s(wanted, hard) > a.length_s(wanted, hard) { b } else { a };
        let body = self.body.map(|body| beside.iter().copied().fold(body, longest));
        let ring = over.iter().copied().reduce(longest);
        let length = |tail: Option<Tail>| tail.map(|tail| tail.length_s(wanted, hard));
        let softest = |tail: &Tail| tail.length_s(wanted, soft);
        let heard = Heard {
            body_s: length(body),
            body_softest_s: self.body.map(|body| beside.iter().map(softest).fold(softest(&body), f64::max)),
            ring_s: length(ring),
            beside_ring_s: length(body),
            attack_lost_db: self.attack_lost_db,
        };
        Found { steps: heard.steps(wanted), heard, body, ring }
    }
}

/// Holds `partials` and the `profile` made of them against `wanted`. `attack_lost_db`: what a treatment is expected to take.
pub fn assess(partials: &[Partial], profile: &DecayProfile, wanted: &Wanted, attack_lost_db: Option<f64>) -> Assessment {
    let tails = Tails::new(partials, profile, attack_lost_db);
    let found = tails.held_against(wanted);
    let mut off: Vec<Verdict> = ASPECTS
        .into_iter()
        .zip(found.steps)
        .filter(|(_, steps)| *steps > Steps::NONE)
        .map(|(aspect, steps)| Verdict { aspect, steps: steps.get(), sentence: sentence(aspect, &found, wanted) })
        .collect();
    off.sort_by(|a, b| b.steps.total_cmp(&a.steps));
    let misfit = off.iter().fold(0.0, |sum, verdict| sum + verdict.steps);
    let by_more_than_chance =
        off.iter().filter(|verdict| !found.is_chance(verdict.aspect, wanted)).map(|verdict| verdict.steps).sum::<f64>();
    let fit = match () {
        () if tails.body.is_none() || by_more_than_chance > FITS_WITHIN => Fit::Off,
        () if found.heard.is_in(wanted) => Fit::In,
        () => Fit::Nearly,
    };
    let beside_most = found.heard.ring_beside_body_most_s(wanted).unwrap_or(f64::INFINITY);
    Assessment {
        body_length_s: found.heard.body_s,
        body_length_softest_s: found.heard.body_softest_s,
        ring_length_s: found.heard.ring_s,
        ring_length_hz: found.ring.map(|ring| ring.hz),
        longest_is_ring: found.ring.is_some_and(|ring| profile.ring_hz == Some(ring.hz)),
        ring_length_most_s: Some(wanted.ring_length_most_s.min(beside_most)).filter(|_| !wanted.left_alone),
        misfit,
        fit,
        fits: fit != Fit::Off,
        off,
        room: room_note(partials, wanted),
        pitch: tails.body.and_then(|body| pitch_note(body.hz, wanted)),
    }
}

fn sentence(aspect: Aspect, found: &Found, wanted: &Wanted) -> Words {
    let Found { heard, ring, .. } = found;
    let over = |length: Option<f64>, limit: f64| say_seconds((length.unwrap_or(0.0) - limit).abs());
    let ring_hz = ring.map_or(0.0, |ring| ring.hz);
    match aspect {
        Aspect::BodyLong => words!("Body lasts {} too long.", over(heard.body_s, wanted.body_length_most_s)),
        Aspect::BodyShort => words!("Body is {} too short.", over(heard.body_softest_s, wanted.body_length_least_s)),
        Aspect::RingLong => words!("Rings {} too long at {ring_hz:.0} Hz.", over(heard.ring_s, wanted.ring_length_most_s)),
        Aspect::RingBesideBody => words!(
            "Too much ring for so little body: {} at {ring_hz:.0} Hz, {} at most.",
            say_seconds(heard.ring_s.unwrap_or(0.0)),
            say_seconds(heard.ring_beside_body_most_s(wanted).unwrap_or(0.0))
        ),
        Aspect::AttackLost => words!(
            "Takes {:.1} dB of the attack; {:.1} dB is the most wanted.",
            heard.attack_lost_db.unwrap_or(0.0),
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
        sentence: words!(
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

fn pitch_note(hz: f64, wanted: &Wanted) -> Option<Words> {
    let (low, high) = (wanted.pitch_low_hz, wanted.pitch_high_hz);
    let way = match hz {
        hz if hz < low => text!("Lower"),
        hz if hz > high => text!("Higher"),
        _ => return None,
    };
    Some(words!("{way} than usual here: body at {hz:.0} Hz, usually {low:.0} to {high:.0} Hz. Tuning changes that, muffling hardly."))
}

/// A time in a sentence: "85 ms", "0.31 s".
fn say_seconds(value: f64) -> Words {
    if value < 0.1 { words!("{:.0} ms", 1000.0 * value) } else { words!("{value:.2} s") }
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
        let situation =
            Situation { preset: built_in_preset(genre).unwrap(), music: &Music::new(genre, bpm), venue: None, time_keepers: &[] };
        Wanted::new(&situation, &BenchDrum::usual(kind), None)
    }

    fn partial(hz: f64, t60: f64, level_db: f64) -> Partial {
        Partial { hz, t60_s: Some(t60), t60_sd_s: None, t60_scatter_s: None, level_db, tone: None }
    }

    fn assessed(partials: &[Partial], wanted: &Wanted) -> Assessment {
        assess(partials, &DecayProfile::of_partials(partials), wanted, None)
    }

    /// A dead drum is nearly all overtones at the very start; where both are covered, nothing is heard beside anything.
    #[test]
    fn a_dead_drum_is_not_told_its_overtones_and_a_drum_that_only_rings_is() {
        let dead = [partial(120.0, 0.06, -12.0), partial(338.0, 0.11, 0.0)];
        let wanted = Wanted { threshold_db: [-30.0; 7], body_length_least_s: 0.0, ..wanted("rock", 120.0, DrumKind::Tom) };
        let found = assessed(&dead, &wanted);
        assert!(found.fit == Fit::In && found.off.is_empty(), "{:?}", found.off);
        // 0.45 s of ring on 0.2 s of body, where the song by itself leaves room for both.
        let ringing = [partial(120.0, 0.4, 0.0), partial(338.0, 0.9, 0.0)];
        let roomy = Wanted { ring_length_most_s: 2.0, body_length_most_s: 2.0, ring_over_body_most: Some(1.0), ..wanted };
        let found = assessed(&ringing, &roomy);
        assert_eq!(found.off.iter().map(|verdict| verdict.aspect).collect::<Vec<_>>(), [Aspect::RingBesideBody]);
        assert_eq!(found.off[0].sentence, "Too much ring for so little body: 0.45 s at 338 Hz, 0.20 s at most.");
        assert!(assessed(&ringing, &Wanted { ring_over_body_most: None, ..roomy }).off.is_empty());
    }

    /// What is off by less than is heard, or than the strikes differ, is nearly right (common practice, no published source).
    #[test]
    fn what_is_not_heard_to_be_off_is_nearly_right() {
        let wanted = Wanted {
            threshold_db: [-60.0; 7],
            ring_length_most_s: 0.3,
            ring_over_body_most: None,
            body_length_least_s: 0.2,
            body_length_most_s: 0.5,
            ..wanted("rock", 120.0, DrumKind::Tom)
        };
        let fit = |body_s: f64, ring_s: f64| assessed(&[partial(120.0, body_s, 0.0), partial(338.0, ring_s, 0.0)], &wanted).fit;
        assert_eq!([fit(0.4, 0.3), fit(0.2, 0.1)], [Fit::In; 2]);
        // 25 ms of 0.3 s, and 8 % of 0.5 s.
        assert_eq!([fit(0.4, 0.32), fit(0.18, 0.1), fit(0.53, 0.1)], [Fit::Nearly; 3]);
        assert_eq!([fit(0.4, 0.36), fit(0.15, 0.1), fit(0.6, 0.1)], [Fit::Off; 3]);
        let unsure = [partial(120.0, 0.4, 0.0), Partial { t60_sd_s: Some(0.06), ..partial(338.0, 0.36, 0.0) }];
        let found = assessed(&unsure, &wanted);
        assert!(found.fit == Fit::Nearly && found.misfit > FITS_WITHIN, "it is not known so well: {found:?}");
        // The median of many strikes is known well, and yet each is otherwise.
        let played = Partial { t60_sd_s: Some(0.01), t60_scatter_s: Some(0.07), ..partial(338.0, 0.36, 0.0) };
        let found = assessed(&[partial(120.0, 0.4, 0.0), played.clone()], &wanted);
        assert_eq!(found.fit, Fit::Nearly, "its strikes differ by as much");
        let far = Partial { t60_s: Some(0.5), ..played };
        assert_eq!(assessed(&[partial(120.0, 0.4, 0.0), far], &wanted).fit, Fit::Off);
    }

    /// A kick's low tones are one note (common practice, no published source).
    #[test]
    fn a_kicks_second_low_tone_is_part_of_its_note() {
        let sound = [partial(56.0, 0.6, 0.0), partial(96.0, 0.9, -3.0), partial(180.0, 0.2, -6.0)];
        let [kick, tom] = [DrumKind::Kick, DrumKind::Tom].map(|kind| assessed(&sound, &wanted("rock", 118.0, kind)));
        assert_eq!((kick.ring_length_hz, tom.ring_length_hz), (Some(180.0), Some(96.0)));
        assert_eq!(kick.body_length_s, tom.ring_length_s, "the note lasts as long as the longest of them");
    }

    /// Plans are kept with what they were held against: files of the first versions must stay readable.
    #[test]
    fn assessments_of_older_files_are_read() {
        let old = r#"{"body_length_s": 0.4, "ring_length_s": 0.6, "ring_length_hz": 220.0, "ring_share": 0.7, "misfit": 3.5, "fits": false,
            "off": [{"aspect": "ring_share", "steps": 3.5, "sentence": "70 % of what sounds on is overtones; 45 % is the most wanted."}]}"#;
        let read: Assessment = serde_json::from_str(old).unwrap();
        assert_eq!((read.fit, read.off[0].aspect, read.ring_length_most_s), (Fit::Off, Aspect::RingBesideBody, None));
    }

    #[test]
    fn a_ring_twice_too_long_is_named_with_its_pitch_and_size() {
        let partials = [partial(120.0, 0.6, 0.0), partial(338.0, 1.2, -4.0)];
        let wanted = Wanted {
            threshold_db: [-34.0; 7],
            ring_length_most_s: 0.3,
            body_length_least_s: 0.1,
            body_length_most_s: 0.5,
            ring_over_body_most: None,
            pitch_low_hz: 130.0,
            pitch_high_hz: 150.0,
            ..wanted("rock", 120.0, DrumKind::Tom)
        };
        let found = assessed(&partials, &wanted);
        assert_eq!(found.off.len(), 1);
        assert_eq!(found.off[0].sentence, "Rings 0.30 s too long at 338 Hz.");
        assert!((found.off[0].steps - (0.6f64 / 0.325).ln() / 1.05f64.ln()).abs() < 0.1 && !found.fits);
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
            prop_assert!(found.off.iter().all(|verdict| verdict.sentence.ends_with(".")));
        }
    }

    #[test]
    fn a_drum_without_a_body_is_never_called_fitting() {
        assert!(!assessed(&[], &wanted("rock", 120.0, DrumKind::Tom)).fits);
    }
}
