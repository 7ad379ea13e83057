//! A head as the Tune place shows it: its newest round, what to turn next, and what was learned.

use ember_core::drum::{Drum, Head, HeadSide};
use ember_core::tuning::{
    Goal, HeadPair, Influence, NextTurns, Note, TurnedHead, crosswise, head_from_lugs, head_pair, lugs_from_head, next_turns, tension,
};
use ember_core::units::cents;
use ember_store::{KeptDrum, KeptRound, Store, StoreError, trials, turned_in_all};
use serde::Serialize;
use std::f64::consts::PI;
use utoipa::ToSchema;

/// What a head's lugs say about the whole head.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct HeadPitch {
    /// Mean of the lugs, Hz.
    pub lug_hz: f64,
    pub lug_note: Note,
    /// The head's own lowest pitch with the other head held still, Hz.
    pub head_hz: f64,
    pub head_note: Note,
    /// Doubt of both, cents.
    pub sd_cents: f64,
    /// Membrane tension, N/m, and what each rod holds, N. Null without rods round the hoop.
    pub tension_n_per_m: f64,
    pub rod_n: Option<f64>,
}

/// One head under the tuning key.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Tuning {
    pub drum: KeptDrum,
    pub side: HeadSide,
    /// Null where this head is off.
    pub head: Option<Head>,
    pub lugs: usize,
    /// Crosswise: numbers from 0, clockwise from the first.
    pub order: Vec<usize>,
    /// Pitch that the lugs are to have, Hz. Null: even at the pitch the head has.
    pub wanted_hz: Option<f64>,
    /// Where the lugs of such a head usually are, Hz.
    pub usual_lug_hz: f64,
    /// Rounds on this head, newest first.
    pub rounds: Vec<KeptRound>,
    pub pitch: Option<HeadPitch>,
    /// Null until a round is complete enough, and after turns until they are heard.
    pub next: Option<NextTurns>,
    /// Rounds of turns that the advice has learned from.
    pub learned_from: usize,
    /// Both heads together; null where there is no lower head or the batter was not tapped.
    pub pair: Option<HeadPair>,
    /// Body of the drum as it was last measured, Hz.
    pub measured_body_hz: Option<f64>,
    /// How the head stands, in one sentence.
    pub headline: String,
    /// What an uneven head does to the sound; null where it is even.
    pub split_note: Option<String>,
}

/// Reads a head's tuning.
pub fn tuning(store: &Store, drum_id: i64, side: HeadSide) -> Result<Tuning, StoreError> {
    let drum = store.drum(drum_id)?;
    let lugs = usize::from(drum.drum.lugs);
    let head = head_of(&drum.drum, side);
    let rounds = store.rounds(drum_id, side)?;
    let wanted_hz = store.wanted_hz(drum_id, side)?;
    let usual_lug_hz = lugs_from_head(drum.drum.usual_batter_hz());
    let known = trials(&rounds);
    let influence = Influence::learned(lugs, usual_lug_hz, &known);
    let newest = rounds.first();
    let next = match (newest, head) {
        (Some(round), Some(head)) if round.turned.is_none() => {
            let since = turned_in_all(&rounds, lugs);
            let begun_slack = rounds.last().is_some_and(|first| first.pitches.mean_hz.is_some_and(|hz| hz < 0.6 * usual_lug_hz));
            let turned = TurnedHead {
                drum: &drum.drum,
                head,
                influence: &influence,
                // Only of a head that was begun finger-tight is it known how far its rods are turned.
                since_seated: begun_slack.then_some(since.as_slice()),
            };
            let goal = wanted_hz.map_or(Goal::Even, Goal::Pitch);
            // One or two lugs may be missing, having no rod or no room to tap.
            let enough = round.pitches.lugs.len() + 2 >= lugs || round.complete();
            if enough { next_turns(&turned, &round.lug_hz(), round.sd_cents(), goal) } else { None }
        }
        _ => None,
    };
    let pitch = newest.zip(head).and_then(|(round, head)| {
        let lug_hz = round.pitches.mean_hz?;
        let head_hz = head_from_lugs(lug_hz);
        let tension_n_per_m = tension(&drum.drum, head, head_hz);
        let rim = 2.0 * PI * drum.drum.radius();
        Some(HeadPitch {
            lug_hz,
            lug_note: Note::nearest(lug_hz),
            head_hz,
            head_note: Note::nearest(head_hz),
            sd_cents: round.sd_cents(),
            tension_n_per_m,
            rod_n: (lugs > 1).then(|| tension_n_per_m * rim / lugs as f64),
        })
    });
    let headline = headline(newest, next.as_ref(), wanted_hz, head.is_some());
    let split_note = newest.and_then(split_note);
    let learned_from = influence.trials();
    let order = crosswise(lugs);
    let pair = match lug_hz(store, drum_id, HeadSide::Batter)? {
        Some(batter) => head_pair(&drum.drum, batter, lug_hz(store, drum_id, HeadSide::Lower)?),
        None => None,
    };
    let measured_body_hz = store.newest_take(drum_id, None)?.and_then(|take| take.summary.profile.body_hz);
    Ok(Tuning {
        drum,
        side,
        head,
        lugs,
        order,
        wanted_hz,
        usual_lug_hz,
        rounds,
        pitch,
        next,
        learned_from,
        pair,
        measured_body_hz,
        headline,
        split_note,
    })
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

fn headline(newest: Option<&KeptRound>, next: Option<&NextTurns>, wanted_hz: Option<f64>, on: bool) -> String {
    let Some(round) = newest.filter(|_| on) else {
        return if on { "Not tapped yet.".into() } else { "This head is off.".into() };
    };
    let spread = round.pitches.spread_cents.unwrap_or(0.0);
    match next {
        _ if round.turned.is_some() => "Turned. Tap a round again to hear what it did.".into(),
        _ if round.pitches.too_uneven => {
            "So uneven that no lug has a pitch of its own. Slacken all rods to finger-tight and seat the head anew.".into()
        }
        None if !round.complete() => format!("{} of {} lugs heard. Go on with the round.", round.pitches.lugs.len(), round.lugs),
        Some(next) if next.done && wanted_hz.is_some() => format!("At its pitch, and even within {spread:.0} cents."),
        Some(next) if next.done => format!("Even within {spread:.0} cents."),
        _ => match (wanted_hz, round.pitches.mean_hz) {
            (Some(wanted), Some(mean)) if cents(wanted, mean).abs() > spread.max(10.0) => {
                let off = cents(wanted, mean);
                format!("{:.0} cents too {}; lugs differ by {spread:.0} cents.", off.abs(), if off > 0.0 { "high" } else { "low" })
            }
            _ => format!("Lugs differ by {spread:.0} cents."),
        },
    }
}

/// What the two tones of an uneven head sound like, and where they come from.
fn split_note(round: &KeptRound) -> Option<String> {
    let split = round.pitches.split?;
    let apart = cents(split.low_hz, split.high_hz);
    if apart < 8.0 || round.lugs < 4 {
        return None;
    }
    let lug = split.tightest_at_lug.round() as usize % round.lugs;
    let across = (lug + round.lugs.div_ceil(2)) % round.lugs;
    Some(format!(
        "The ring is split into {:.1} and {:.1} Hz and beats {:.1} times a second, because the head is tighter along the line from lug {} to lug {} than across it.",
        split.low_hz,
        split.high_hz,
        split.high_hz - split.low_hz,
        lug.min(across) + 1,
        lug.max(across) + 1
    ))
}
