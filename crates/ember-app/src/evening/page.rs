//! The evening as it is told: one setup for each song and drum, in three weighings.

use super::cache::SetupCache;
use super::question::{EveningQuestion, KnownDrum, all_drums};
use crate::views::counted;
use ember_core::Patience;
use ember_core::damping::{Placement, device_info};
use ember_core::drum::{Drum, DrumKind};
use ember_core::plan::{Change, Evening, EveningDrum, EveningPlan, Look, Packed, SecondBest, Setup, ShelfItem, Weighing, packing};
use ember_core::target::Wanted;
use ember_store::{KeptDrum, KeptSong};
use ember_words::{Joined, Say, Words, words};
use rayon::prelude::*;
use serde::Serialize;
use std::sync::Arc;
use utoipa::ToSchema;

/// A way to leave a drum, in words.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SetupView {
    /// "open", "2 gel pads".
    pub words: Words,
    /// What the player called it; null where it has no name.
    pub name: Option<String>,
    /// What lies where.
    pub placements: Vec<Placement>,
    /// Each device with its amount and place.
    pub devices: Vec<Words>,
    /// The same in two parts, so that what only goes to another place can be told.
    pub things: Vec<PlacedThing>,
    /// Whether the drum was measured like this; else its sound is predicted.
    pub measured: bool,
}

/// A device and where it goes.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct PlacedThing {
    /// "gel pad", "tape, two strips, 160 x 25 mm".
    pub what: Words,
    /// "at 2 o'clock, its middle 30 mm from the hoop".
    pub place: Words,
}

/// A drum that takes part.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct EveningDrumView {
    /// Number of the drum.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
    /// Which kind it is.
    pub kind: DrumKind,
    /// The setups to choose from.
    pub setups: Vec<SetupView>,
}

/// A song in its place.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct EveningSong {
    /// Line of the set list, from 0.
    pub entry: usize,
    /// The song.
    pub song: KeptSong,
    /// Name of its genre.
    pub genre: Words,
    /// Seconds there are before it, breaks included.
    pub gap_s: f64,
    /// Title of the break before it.
    pub after_break: Option<String>,
}

/// What is done to one drum between two songs, in words.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ChangeView {
    /// What comes off, as "2 gel pads", with its place where others of its kind stay on; null where nothing comes off.
    pub take_off: Option<Words>,
    /// Each device with its amount and place.
    pub put_on: Vec<Words>,
    /// Each device that stays on the drum, with the place it goes to.
    pub moved: Vec<Words>,
    /// Time that it takes, s.
    pub seconds: f64,
}

/// One drum in one song.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct CellView {
    /// Which of the drum's setups, from 0.
    pub setup: usize,
    /// Just noticed steps off the song's wish.
    pub misfit: f64,
    /// Whether it fits.
    pub fits: bool,
    /// What is off most, a sentence.
    pub off: Option<Words>,
    /// What is heard of the room rather than the drum, a sentence.
    pub room: Option<Words>,
    /// Whether the player settled it.
    pub pinned: bool,
    /// The drum is not played in this song: nothing is off.
    pub out: bool,
    /// The drum in whose place it is played; null where it is in nobody's.
    pub stands_in_for: Option<NamedDrum>,
    /// The drum that is played in its place; null where none is.
    pub replaced_by: Option<NamedDrum>,
    /// What is done before the song; null where it stays as it is.
    pub change: Option<ChangeView>,
}

/// A drum by its number and name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct NamedDrum {
    /// Its number.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
}

/// A drum that stays in its case.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct InCase {
    /// Its number.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
    /// Which kind it is.
    pub kind: DrumKind,
}

/// A drum that is put in the place of another before a song.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SwapView {
    /// Name of the drum that is put up.
    pub on: String,
    /// Name of the one that goes.
    pub off: String,
}

/// One song's setups.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct RowView {
    /// Drums that are put in the place of others before it.
    pub swaps: Vec<SwapView>,
    /// Which look it is played in; null where songs share none.
    pub look: Option<usize>,
    /// In the order of the drums.
    pub cells: Vec<CellView>,
    /// Seconds that all changes before it take together.
    pub change_s: f64,
    /// Seconds by which they take longer than there are.
    pub over_s: f64,
    /// Devices needed beyond what is on the shelf.
    pub missing: Vec<String>,
}

/// A way through the evening.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct EveningPlanView {
    /// How much changing counts against sounding right.
    pub weighing: Weighing,
    /// States of the whole kit that songs share, from the most open to the deadest.
    pub looks: Vec<Look>,
    /// In the order of the songs.
    pub rows: Vec<RowView>,
    /// Just noticed steps off, some of the doubt, and what treatments take away, all songs and drums together.
    pub steps: f64,
    /// Drums in songs that fit, of how many.
    pub fitting: usize,
    /// Drums in songs, of which those fit.
    pub cells: usize,
    /// Seconds of changing after the first song began.
    pub change_s: f64,
    /// Changes in all.
    pub changes: usize,
    /// Gaps that are too short.
    pub late: usize,
    /// The next best way; null where it is not known.
    pub second_best: Option<SecondBest>,
    /// Nothing made of these setups costs less.
    pub proved: bool,
    /// Steps by which something may still be better where that is not proved.
    pub at_most_better: f64,
    /// What to take along.
    pub packing: Vec<Packed>,
}

/// A set list worked out.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct EveningView {
    /// Number of the set list that is played; null where it is none.
    pub set_list_id: i64,
    /// Drums that take part, in playing order.
    pub drums: Vec<EveningDrumView>,
    /// Drums of the kit that stay in their cases, and could stand in for others of their kind.
    pub in_cases: Vec<InCase>,
    /// The songs, in their order.
    pub songs: Vec<EveningSong>,
    /// By weighing; empty where there is nothing to choose.
    pub plans: Vec<EveningPlanView>,
    /// What is left out and why, a sentence each.
    pub notes: Vec<Words>,
}

/// A drum with its setups and wishes.
type Playing<'a> = (&'a KnownDrum, Arc<Vec<Setup>>, Vec<Wanted>);

/// Works a set list out: for each song and drum a setup, in three weighings.
pub fn evening(question: &EveningQuestion, cache: &SetupCache, patience: Patience) -> EveningView {
    let mut notes = question.notes.clone();
    match question.missing {
        0 => {}
        1 => notes.push(words!("One song of this list was removed; it is left out.")),
        many => notes.push(words!("{many} songs of this list were removed; they are left out.")),
    }
    let mut playing: Vec<Playing> = Vec::new();
    if !question.slots.is_empty() {
        let answers: Vec<_> = question
            .drums
            .par_iter()
            .map(|known| {
                let wishes = question.wishes(known);
                (known, cache.setups(question, known, &wishes, patience), wishes)
            })
            .collect();
        for (known, setups, wishes) in answers {
            match setups {
                Ok(setups) => playing.push((known, setups, wishes)),
                Err(error) => notes.push(error.words()),
            }
        }
    }
    let evening = Evening {
        drums: playing
            .iter()
            .map(|(known, setups, wishes)| EveningDrum { setups, wishes, settled: question.settled(known, setups) })
            .collect(),
        breaks: question.slots.iter().map(|slot| slot.after_break.is_some()).collect(),
        gaps_s: question.slots.iter().map(|slot| slot.gap_s).collect(),
        swaps_s: (0..question.slots.len()).map(|song| SWAP_S * swaps(question, song).len() as f64).collect(),
        shelf: &question.shelf,
        patience,
    };
    let plans: Vec<EveningPlan> = Weighing::ALL.into_par_iter().filter_map(|weighing| evening.plan(weighing)).collect();
    if patience.is_over() {
        notes.push(words!("Working it out took too long and was ended: something better may be possible."));
    }
    let setups: Vec<&[Setup]> = playing.iter().map(|(_, setups, _)| setups.as_slice()).collect();
    let songs = question.slots.iter().map(|slot| EveningSong {
        entry: slot.entry,
        song: slot.song.clone(),
        genre: slot.genre.clone(),
        gap_s: slot.gap_s,
        after_break: slot.after_break.clone(),
    });
    EveningView {
        set_list_id: question.set_list.id,
        in_cases: question.in_cases.iter().map(in_case).collect(),
        songs: songs.collect(),
        plans: plans.iter().map(|plan| plan_view(plan, question, &playing, packing(plan, &setups, &all_drums(question)))).collect(),
        drums: playing.iter().map(|(known, setups, _)| drum_view(known, setups)).collect(),
        notes,
    }
}

/// Time to put one drum in the place of another that stands ready, s (common practice, no published source: a change takes seconds).
const SWAP_S: f64 = 5.0;

/// What is put in the place of what before song `song`, of those in their order.
fn swaps(question: &EveningQuestion, song: usize) -> Vec<SwapView> {
    let before = song.checked_sub(1).map_or(&[][..], |before| &question.slots[before].instead);
    let now = &question.slots[song].instead;
    let name = |id: i64| question.named(id).map(|drum| drum.name).unwrap_or_default();
    let goes_up = now.iter().filter(|swap| !before.contains(swap)).map(|swap| SwapView { on: name(swap.drum_id), off: name(swap.for_id) });
    // Where yet another one comes up in the same place, that is the swap.
    let back = before.iter().filter(|swap| now.iter().all(|other| other.for_id != swap.for_id));
    let comes_back = back.map(|swap| SwapView { on: name(swap.for_id), off: name(swap.drum_id) });
    goes_up.chain(comes_back).collect()
}

fn in_case(drum: &KeptDrum) -> InCase {
    InCase { drum_id: drum.id, name: drum.drum.name.clone(), kind: drum.drum.kind }
}

fn drum_view(known: &KnownDrum, setups: &[Setup]) -> EveningDrumView {
    let drum = &known.drum.drum;
    let setup = |setup: &Setup| SetupView {
        words: counted(&setup.placements),
        name: known.name_of(&setup.placements).map(str::to_string),
        devices: setup.placements.iter().map(|placement| spelled_out(placement, drum)).collect(),
        things: setup.placements.iter().map(|placement| thing(placement, drum)).collect(),
        placements: setup.placements.clone(),
        measured: setup.measured,
    };
    EveningDrumView { drum_id: known.drum.id, name: drum.name.clone(), kind: drum.kind, setups: setups.iter().map(setup).collect() }
}

/// "gel pad at 2 o'clock, its middle 30 mm from the hoop", "tape, two strips, 160 x 25 mm, at 9 o'clock, its middle 20 mm from the hoop".
fn spelled_out(placement: &Placement, drum: &Drum) -> Words {
    let PlacedThing { what, place } = thing(placement, drum);
    if device_info(placement.device).amounts.len() == 1 { words!("{what} {place}") } else { words!("{what}, {place}") }
}

fn thing(placement: &Placement, drum: &Drum) -> PlacedThing {
    let what = match device_info(placement.device).amounts {
        [_] => placement.name(),
        _ => words!("{}, {}", placement.name(), placement.amount_name()),
    };
    PlacedThing { what, place: placement.place(drum) }
}

fn plan_view(plan: &EveningPlan, question: &EveningQuestion, playing: &[Playing], packing: Vec<Packed>) -> EveningPlanView {
    // Of several things on a drum it must be said which one comes off; where all do, what they are is enough.
    let off = |change: &Change, on: usize, drum: &Drum| match change.take_off.as_slice() {
        [] => None,
        all if all.len() == on && !all.iter().any(|placement| placement.device.is_tuning()) => Some(counted(all)),
        some => Some(Words::list(Joined::Semicolon, some.iter().map(|placement| spelled_out(placement, drum)))),
    };
    let change = |change: &Change, on: usize, drum: &Drum| ChangeView {
        take_off: off(change, on, drum),
        put_on: change.put_on.iter().map(|placement| spelled_out(placement, drum)).collect(),
        moved: change.moved.iter().map(|moved| spelled_out(&moved.to, drum)).collect(),
        seconds: change.seconds,
    };
    let on_before = |song: usize, d: usize| match song {
        0 => 0,
        _ => playing[d].1[plan.rows[song - 1].cells[d].setup].placements.len(),
    };
    let rows = plan.rows.iter().enumerate().map(|(song, row)| RowView {
        swaps: swaps(question, song),
        look: row.look,
        cells: row
            .cells
            .iter()
            .zip(playing)
            .enumerate()
            .map(|(d, (cell, (known, ..)))| CellView {
                setup: cell.setup,
                misfit: cell.misfit,
                fits: cell.fits,
                off: cell.off.clone(),
                room: cell.room.clone(),
                pinned: cell.pinned,
                out: cell.out,
                stands_in_for: question.stands_in_for(song, known.drum.id),
                replaced_by: question.replaced_by(song, known.drum.id),
                change: cell.change.as_ref().map(|it| change(it, on_before(song, d), &known.drum.drum)),
            })
            .collect(),
        change_s: row.change_s,
        over_s: row.over_s,
        missing: row.missing.iter().map(|item: &ShelfItem| format!("{} {}", item.count, item.name())).collect(),
    });
    EveningPlanView {
        weighing: plan.weighing,
        looks: plan.looks.clone(),
        rows: rows.collect(),
        steps: plan.steps,
        fitting: plan.fitting,
        cells: plan.cells,
        change_s: plan.change_s,
        changes: plan.changes,
        late: plan.late,
        second_best: plan.second_best.clone(),
        proved: plan.proved,
        at_most_better: plan.at_most_better,
        packing,
    }
}
