//! The bench: all that is known about one drum, wanted of it and done to it.

use crate::snapshot::DrumSnapshot;
use crate::takes::{TAKES_AT_A_TIME, TakeRow, as_promised, sounding, take_row, with_tones};
use crate::views::{TakeView, TreatmentView};
use ember_core::damping::{DeviceKind, Open, RingsOn};
use ember_core::drum::{Drum, HeadSide, Struck, split_pairs};
use ember_core::plan::{CheckedFigure, Doubt, check};
use ember_core::target::Wanted;
use ember_core::tone::{MetalSound, Partial};
use ember_core::tuning::{FEWEST_LUGS, across};
use ember_store::{KeptDrum, KeptTake, KeptTreatment, Store, StoreError};
use ember_words::{Joined, Text, Words, words};
use serde::Serialize;
use utoipa::ToSchema;

/// Beats a second that are heard as such: slower ones are one long swell, faster ones two tones.
const BEATING: std::ops::Range<f64> = 1.0..14.0;

/// One drum with everything about it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Bench {
    /// The drum.
    pub drum: KeptDrum,
    /// What is wanted of it tonight.
    pub wanted: Wanted,
    /// The open drum: the take that the treatment started from, or the newest one. Null where it was not measured.
    pub open: Option<TakeView>,
    /// Whether rods were turned after the drum was last heard as it is now.
    pub turned_since: bool,
    /// What is on the drum now.
    pub treatment: Option<TreatmentView>,
    /// The newest take with the treatment on that counts.
    pub found: Option<TakeView>,
    /// A newer one of which it is in doubt whether the treatment was on at all; null once the user has said whether it counts.
    pub in_doubt: Option<TakeInDoubt>,
    /// The overtone that rings most with the treatment on, where that is not the open drum's ring.
    pub rings_on: Option<RingsOn>,
    /// Expected beside found; null until both are there.
    pub check: Option<Vec<CheckedFigure>>,
    /// What an uneven head does to the sound, and which lugs it points to; null where no pair of the ring is split.
    pub split_note: Option<Words>,
    /// The newest takes, newest first; older ones come from `takes`.
    pub takes: Vec<TakeRow>,
    /// How many there are in all.
    pub takes_in_all: usize,
    /// Every way to strike a cymbal, with how it was heard last with nothing on it; empty for a drum.
    pub ways_to_strike: Vec<StruckRow>,
    /// What is to be asked of a cymbal whose wash sounds on over many bars, a sentence; null where there is nothing to ask.
    pub wash_note: Option<Words>,
}

/// A take that waits for a word of the user before it counts.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakeInDoubt {
    /// Number of the take.
    pub take_id: i64,
    /// What speaks against it.
    pub doubt: Doubt,
    /// What speaks against it.
    pub sentence: Text,
}

/// How a cymbal was heard last in one of the ways to strike it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct StruckRow {
    /// Which way it is.
    pub struck: Struck,
    /// As it is said of a sound.
    pub words: Text,
    /// Whether it is the way that counts now.
    pub now: bool,
    /// How it was heard; null where it was not yet.
    pub heard: Option<MetalSound>,
}

/// Every way to strike `drum`, with how it was heard last with nothing on it; empty for what is not metal.
fn ways_to_strike(store: &Store, drum: &KeptDrum) -> Result<Vec<StruckRow>, StoreError> {
    let ways = drum.drum.kind.ways_to_strike();
    if ways.is_empty() {
        return Ok(Vec::new());
    }
    let takes = store.newest_by_state(drum.id)?;
    let row = |struck: &Struck| {
        let heard_as = Drum { struck: Some(*struck), ..drum.drum.clone() }.heard_as();
        let take = takes.iter().find(|take| take.heard_as == heard_as);
        let heard = take.and_then(|take| MetalSound::of(&take.partials));
        StruckRow { struck: *struck, words: struck.words(), now: drum.drum.how_struck() == Some(*struck), heard }
    };
    Ok(ways.iter().map(row).collect())
}

/// Reads the bench.
pub fn bench(store: &Store, drum_id: i64) -> Result<Bench, StoreError> {
    let DrumSnapshot { drum, scene, wanted, on, open, found, turned_since } = DrumSnapshot::read(store, drum_id)?;
    let open = open.map(|open| with_tones(open, &drum.drum));
    let found = found.zip(on.as_ref()).map(|(found, on)| as_promised(found, &on.plan.expected));
    let check = match (&open, &on, &found) {
        (Some(open), Some(on), Some(found)) => Some(check(sounding(open), &on.plan.expected, sounding(found))),
        _ => None,
    };
    let rings_on = open.as_ref().zip(found.as_ref()).and_then(|(open, found)| {
        Open { partials: &open.partials, profile: &open.summary.profile }.rings_on(&open.partials, &found.partials)
    });
    let now = if on.is_some() { found.as_ref() } else { open.as_ref() };
    let wash_note = now.and_then(|now| wanted.wash_note(&now.partials, &scene.tonight.music));
    let (takes, takes_in_all) = store.takes(drum_id, None, TAKES_AT_A_TIME)?;
    let view = |take: KeptTake| Ok::<_, StoreError>(TakeView::new(take.clone(), store.strikes(take.id)?, &wanted));
    Ok(Bench {
        split_note: match found.as_ref().or(open.as_ref()) {
            Some(take) if !is_uneven_on_purpose(on.as_ref()) => split_note(store, drum_id, &take.partials)?,
            _ => None,
        },
        in_doubt: in_doubt(store, on.as_ref())?,
        takes: takes.into_iter().map(|take| take_row(store, take)).collect::<Result<_, _>>()?,
        open: open.map(view).transpose()?,
        found: found.map(view).transpose()?,
        treatment: on.map(|on| TreatmentView::new(on, &drum.drum, &wanted)),
        check,
        rings_on,
        ways_to_strike: ways_to_strike(store, &drum)?,
        wash_note,
        turned_since,
        takes_in_all,
        drum,
        wanted,
    })
}

fn in_doubt(store: &Store, on: Option<&KeptTreatment>) -> Result<Option<TakeInDoubt>, StoreError> {
    let take = on.map(|on| store.take_in_doubt(on.id)).transpose()?.flatten();
    Ok(take.and_then(|take| take.doubt.map(|doubt| TakeInDoubt { take_id: take.id, doubt, sentence: doubt.sentence() })))
}

/// Whether rods were let down on purpose, so that the head is meant to be uneven.
fn is_uneven_on_purpose(on: Option<&KeptTreatment>) -> bool {
    on.is_some_and(|on| on.plan.placements.iter().any(|placement| placement.device == DeviceKind::SlackLugs))
}

/// The slowest of the beats that are heard as such, with where the taps say that the head is tighter.
fn split_note(store: &Store, drum_id: i64, partials: &[Partial]) -> Result<Option<Words>, StoreError> {
    let Some(pair) = split_pairs(partials).into_iter().find(|pair| BEATING.contains(&pair.beat_hz())) else { return Ok(None) };
    let rounds = store.rounds(drum_id, HeadSide::Batter)?;
    // A round from before turns tells nothing about now.
    let tapped = rounds.first().filter(|round| round.turned.is_none() && round.lugs >= FEWEST_LUGS);
    let where_ = match tapped.and_then(|round| Some((round.pitches.split?, round.lugs))) {
        Some((split, lugs)) => {
            let lug = split.tightest_at_lug.round() as usize % lugs;
            let other = across(lug, lugs);
            words!("Its taps say: tighter from lug {} to lug {}.", lug.min(other) + 1, lug.max(other) + 1)
        }
        None => words!("Tap its lugs in Tune to see where."),
    };
    Ok(Some(Words::list(Joined::Space, [pair.sentence(), where_])))
}
