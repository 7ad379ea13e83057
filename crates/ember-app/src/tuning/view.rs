//! A head as the Tune place shows it: its newest round, what to turn next, and what was learned.

use ember_core::drum::{Drum, Head, HeadSide};
use ember_core::tuning::{
    FEWEST_LUGS, Goal, HeadPair, Influence, NextTurns, Note, TurnedHead, WireAdvice, crosswise, head_from_lugs, head_pair, lugs_from_head,
    next_turns, tension, wire_advice,
};
use ember_core::units::cents;
use ember_store::{KeptDrum, KeptRound, KeptUneven, Store, StoreError, trials, turned_in_all};
use ember_words::{Text, Words, text, words};
use serde::Serialize;
use std::f64::consts::PI;
use utoipa::ToSchema;

/// Doubt of a head's own pitch from that of its lugs, cents: air load moves them apart otherwise than on an ideal membrane; and of
/// tension, as a part of it (both from experience, no source).
const HEAD_SD_CENTS: f64 = 40.0;
const TENSION_SD: f64 = 0.1;
/// What each rod was turned from finger-tight by the end of the seating guide, eighths.
const SEATED_EIGHTHS: i32 = 2;
/// A head whose lugs lie below this part of where such lugs usually are was begun finger-tight (from experience, no source).
const SLACK: f64 = 0.6;
const UNEVEN: Text = text!("Deliberately uneven. Its lugs are not to be evened; the way back stands below.");

/// What a head's lugs say about the whole head.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct HeadPitch {
    /// Mean of the lugs, Hz.
    pub lug_hz: f64,
    /// The note nearest to it.
    pub lug_note: Note,
    /// The head's own lowest pitch with the other head held still, Hz.
    pub head_hz: f64,
    /// The note nearest to it.
    pub head_note: Note,
    /// Doubt of the lugs' mean, cents.
    pub sd_cents: f64,
    /// Doubt of the head's own pitch, which is worked out from theirs, cents.
    pub head_sd_cents: f64,
    /// Membrane tension, N/m, and what each rod holds, N. Null without rods round the hoop.
    pub tension_n_per_m: f64,
    /// What each rod holds, N; null without rods round the hoop.
    pub rod_n: Option<f64>,
    /// Doubt of both, as a part of them.
    pub tension_sd: f64,
}

/// One head under the tuning key.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Tuning {
    /// The drum.
    pub drum: KeptDrum,
    /// Which head.
    pub side: HeadSide,
    /// Null where this head is off.
    pub head: Option<Head>,
    /// The word for the drum's other head, which is held still while this one is tapped; null where it is off.
    pub other_head: Option<Text>,
    /// How many lugs it has.
    pub lugs: usize,
    /// Whether one bolt, or next to it, pulls its whole hoop.
    pub one_bolt: bool,
    /// Crosswise: numbers from 0, clockwise from the first.
    pub order: Vec<usize>,
    /// Pitch that the lugs are to have, Hz. Null: even at the pitch the head has.
    pub wanted_hz: Option<f64>,
    /// Where the lugs of such a head usually are, Hz.
    pub usual_lug_hz: f64,
    /// Rounds on this head, newest first.
    pub rounds: Vec<KeptRound>,
    /// What the lugs say of the whole head; null until it was tapped.
    pub pitch: Option<HeadPitch>,
    /// Null until a round is complete enough, and after turns until they are heard.
    pub next: Option<NextTurns>,
    /// Rounds of turns that the advice has learned from.
    pub learned_from: usize,
    /// Both heads together; null where there is no lower head or the batter was not tapped.
    pub pair: Option<HeadPair>,
    /// Body of the open drum as it was last measured since its rods were last turned, Hz and s.
    pub measured_body_hz: Option<f64>,
    /// T60 of the same, s.
    pub measured_body_t60_s: Option<f64>,
    /// Snare wires by how long they buzz; null without wires or before the open drum was measured.
    pub wires: Option<WireAdvice>,
    /// Whether its rods are let down on purpose.
    pub uneven: bool,
    /// How the head stands, in one sentence.
    pub headline: Words,
    /// What an uneven head does to the sound; null where it is even.
    pub split_note: Option<Words>,
}

/// Reads a head's tuning.
pub fn tuning(store: &Store, drum_id: i64, side: HeadSide) -> Result<Tuning, StoreError> {
    let drum = store.drum_with_heads(drum_id)?;
    let lugs = usize::from(drum.drum.lugs);
    let head = head_of(&drum.drum, side);
    let rounds = store.rounds(drum_id, side)?;
    let wanted_hz = store.wanted_hz(drum_id, side)?;
    let usual_lug_hz = lugs_from_head(drum.drum.usual_batter_hz());
    let uneven = store.newest_uneven(drum_id, side)?;
    let influence = Influence::learned(lugs, usual_lug_hz, &trials(&rounds, &breaks(uneven.as_ref())));
    let uneven = uneven.is_some_and(|uneven| uneven.ended_at.is_none());
    let newest = rounds.first();
    let next = match newest.zip(head).filter(|(round, _)| round.turned.is_none() && !uneven) {
        Some((round, head)) => {
            let turned = Turned { drum: &drum.drum, head, influence: &influence, usual_lug_hz };
            turned.next(round, &rounds, store.seated_seq(drum_id, side)?, wanted_hz.map_or(Goal::Even, Goal::Pitch))
        }
        None => None,
    };
    let take = store.newest_take(drum_id, None)?;
    // What was measured before a rod was last turned is of another tuning.
    let turned = store.last_turned(drum_id)?;
    let measured = take.as_ref().filter(|take| take.seq > turned).map(|take| &take.summary.profile);
    let (measured_body_hz, measured_body_t60_s) = (measured.and_then(|p| p.body_hz), measured.and_then(|p| p.body_t60_s));
    let pair = match lug_hz(store, drum_id, HeadSide::Batter)? {
        Some(batter) => head_pair(&drum.drum, batter, lug_hz(store, drum_id, HeadSide::Lower)?, measured_body_t60_s),
        None => None,
    };
    Ok(Tuning {
        side,
        head,
        other_head: other_head(&drum.drum, side),
        lugs,
        one_bolt: drum.drum.has_one_bolt(),
        order: crosswise(lugs),
        wanted_hz,
        usual_lug_hz,
        pitch: newest.zip(head).and_then(|(round, head)| head_pitch(&drum.drum, round, head)),
        headline: if uneven { UNEVEN.words() } else { headline(newest, next.as_ref(), wanted_hz, head.is_some()) },
        split_note: newest.and_then(split_note),
        next,
        learned_from: influence.trials(),
        pair,
        measured_body_hz,
        measured_body_t60_s,
        wires: take.and_then(|take| wire_advice(&drum.drum, take.summary.profile.buzz_s?, take.summary.spread.buzz_s)),
        uneven,
        rounds,
        drum,
    })
}

/// A head with what is known of its rods.
struct Turned<'a> {
    drum: &'a Drum,
    head: Head,
    influence: &'a Influence,
    usual_lug_hz: f64,
}

impl Turned<'_> {
    /// What to turn after the newest of `rounds`, if it is complete enough. `seated`: when the head was seated by the guide, in the order of all
    /// that happened.
    fn next(&self, newest: &KeptRound, rounds: &[KeptRound], seated: Option<i64>, goal: Goal) -> Option<NextTurns> {
        let lugs = usize::from(self.drum.lugs);
        let since_then: Vec<KeptRound> = rounds.iter().filter(|round| round.seq > seated.unwrap_or(0)).cloned().collect();
        // The guide ends with its quarter turn on each rod.
        let begun = if seated.is_some() { SEATED_EIGHTHS } else { 0 };
        let since: Vec<i32> = turned_in_all(&since_then, lugs).into_iter().map(|eighths| eighths + begun).collect();
        let is_slack = |hz: f64| hz < SLACK * self.usual_lug_hz;
        let begun_slack = rounds.last().is_some_and(|first| first.pitches.mean_hz.is_some_and(is_slack));
        let turned = TurnedHead {
            drum: self.drum,
            head: self.head,
            influence: self.influence,
            // Only of a head that was begun finger-tight is it known how far its rods are turned.
            since_seated: (begun_slack || seated.is_some()).then_some(since.as_slice()),
        };
        // One or two lugs may be missing, having no rod or no room to tap.
        let enough = newest.pitches.lugs.len() + 2 >= lugs || newest.complete();
        if enough { next_turns(&turned, &newest.lug_hz(), newest.sd_cents(), goal) } else { None }
    }
}

/// What the lugs of `round` say about all of `head`.
fn head_pitch(drum: &Drum, round: &KeptRound, head: Head) -> Option<HeadPitch> {
    let lug_hz = round.pitches.mean_hz?;
    let head_hz = head_from_lugs(lug_hz);
    let tension_n_per_m = tension(drum, head, head_hz);
    let rim = 2.0 * PI * drum.radius();
    Some(HeadPitch {
        lug_hz,
        lug_note: Note::nearest(lug_hz),
        head_hz,
        head_note: Note::nearest(head_hz),
        sd_cents: round.sd_cents(),
        head_sd_cents: HEAD_SD_CENTS.hypot(round.sd_cents()),
        tension_n_per_m,
        rod_n: (drum.lugs > 1).then(|| tension_n_per_m * rim / f64::from(drum.lugs)),
        tension_sd: TENSION_SD,
    })
}

/// When rods were turned otherwise than by reported turns, in the order of all that happened.
pub fn breaks(uneven: Option<&KeptUneven>) -> Vec<i64> {
    uneven.map_or_else(Vec::new, |uneven| [Some(uneven.begun_seq), uneven.ended_seq].into_iter().flatten().collect())
}

/// Mean pitch of a head's lugs by its newest round, Hz.
pub fn lug_hz(store: &Store, drum_id: i64, side: HeadSide) -> Result<Option<f64>, StoreError> {
    Ok(store.rounds(drum_id, side)?.iter().find_map(|round| round.pitches.mean_hz))
}

/// The head on `side`, if it is on.
pub fn head_of(drum: &Drum, side: HeadSide) -> Option<Head> {
    match side {
        HeadSide::Batter => Some(drum.batter),
        HeadSide::Lower => drum.lower,
    }
}

/// The word for the other head than the one on `side`, if it is on.
fn other_head(drum: &Drum, side: HeadSide) -> Option<Text> {
    match side {
        HeadSide::Batter => drum.lower.map(|_| drum.kind.lower_head_word()),
        HeadSide::Lower => Some(text!("batter head")),
    }
}

fn headline(newest: Option<&KeptRound>, next: Option<&NextTurns>, wanted_hz: Option<f64>, on: bool) -> Words {
    let Some(round) = newest.filter(|_| on) else {
        return if on { words!("Not tapped yet.") } else { words!("This head is off.") };
    };
    let spread = round.pitches.spread_cents.unwrap_or(0.0);
    match next {
        _ if round.turned.is_some() => words!("Turned. Tap a round again to hear what it did."),
        _ if round.pitches.too_uneven => {
            words!("So uneven that no lug has a pitch of its own. Slacken all rods to finger-tight and seat the head anew.")
        }
        _ if round.lugs < FEWEST_LUGS => one_bolt(round, next, wanted_hz),
        None if !round.complete() => words!("{} of {} lugs heard. Go on with the round.", round.pitches.lugs.len(), round.lugs),
        Some(next) if next.done && wanted_hz.is_some() => words!("At its pitch, and even within {spread:.0} cents."),
        Some(next) if next.done => words!("Even within {spread:.0} cents."),
        _ => match (wanted_hz, round.pitches.mean_hz) {
            (Some(wanted), Some(mean)) if cents(wanted, mean).abs() > spread.max(10.0) => {
                let off = cents(wanted, mean);
                words!(
                    "{:.0} cents too {}; lugs differ by {spread:.0} cents.",
                    off.abs(),
                    if off > 0.0 { text!("high") } else { text!("low") }
                )
            }
            _ => words!("Lugs differ by {spread:.0} cents."),
        },
    }
}

/// One bolt pulls the whole hoop alike: there is nothing to be even.
fn one_bolt(round: &KeptRound, next: Option<&NextTurns>, wanted_hz: Option<f64>) -> Words {
    match (round.pitches.mean_hz, wanted_hz) {
        (None, _) => words!("No pitch was heard. Tap it again."),
        (Some(hz), None) => words!("Heard at {hz:.1} Hz."),
        (Some(_), Some(_)) if next.is_some_and(|next| next.done) => words!("At its pitch, as near as half turns go."),
        (Some(hz), Some(wanted)) => {
            let off = cents(wanted, hz);
            words!("{:.0} cents too {}.", off.abs(), if off > 0.0 { text!("high") } else { text!("low") })
        }
    }
}

/// What the two tones of an uneven head sound like, and where they come from.
fn split_note(round: &KeptRound) -> Option<Words> {
    let split = round.pitches.split?;
    let apart = cents(split.low_hz, split.high_hz);
    if apart < 8.0 || round.lugs < FEWEST_LUGS {
        return None;
    }
    let lug = split.tightest_at_lug.round() as usize % round.lugs;
    let across = (lug + round.lugs.div_ceil(2)) % round.lugs;
    Some(words!(
        "The ring is split into {:.1} and {:.1} Hz and beats {:.1} times a second, because the head is tighter along the line from lug {} to lug {} than across it.",
        split.low_hz,
        split.high_hz,
        split.high_hz - split.low_hz,
        lug.min(across) + 1,
        lug.max(across) + 1
    ))
}
