//! One kit, many songs: a setup for each song and drum, so that misfit and changing cost least together.

mod change;
mod packing;
mod setups;
mod solver;

pub use change::{Change, Move};
use ember_words::{Text, Words, text};
pub use packing::{Packed, packing};
pub use setups::{MOST_SETUPS, Setup, Sound, choose};

use super::ShelfItem;
use super::weight::effort;
use crate::Patience;
use crate::damping::{DeviceKind, Placement};
use crate::target::{Steps, Wanted, assess};
use change::devices;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use solver::{Choices, Habits, Looks, Tableau, Way};

/// What a second of changing in front of the audience is worth, in steps (from experience, no published source).
const STEPS_PER_SECOND: f64 = 1.0 / 20.0;
/// Where changing is to cost nothing it still decides between equals.
const HARDLY: f64 = 1e-4;

/// What a drum costs in each song in which it is heard to be off, besides the steps it is off (from experience, no published source).
const HEARD_FAULT: f64 = 4.0;
/// What it costs where a drum is left otherwise in a song than in the plan that the player keeps to, in steps: less than a fault that is heard, more
/// than what is a little better (from experience, no published source).
const OTHERWISE_THAN_KEPT: f64 = 3.0;
/// In a few looks: how many, what each drum that is changed costs besides its seconds and what one more look must be worth, in steps; a quarter of
/// each gap is left (from experience, no published source).
const HABITS: Habits = Habits { most: 4, per_change: 1.0, per_look: 3.0, part_of_gap: 0.75 };

/// How an evening is weighed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Weighing {
    /// One setup for all songs.
    OneSetup,
    /// The kit in a few looks that songs share, changed only where that is worth it and the time between songs allows.
    FewLooks,
    /// Each song as it should be, however long the change takes.
    NoCompromise,
}

impl Weighing {
    /// All weighings.
    pub const ALL: [Self; 3] = [Self::OneSetup, Self::FewLooks, Self::NoCompromise];
}

/// One drum that takes part.
pub struct EveningDrum<'a> {
    /// The setups to choose from.
    pub setups: &'a [Setup],
    /// By song.
    pub wishes: &'a [Wanted],
    /// By song: what is settled already.
    pub settled: Vec<Settled>,
}

/// What is settled of one drum in one song before the evening is worked out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Settled {
    /// The setup it is pinned to.
    pub pin: Option<usize>,
    /// The drum is not played in this song.
    pub out: bool,
    /// The setup of the plan that the player keeps to.
    pub kept: Option<usize>,
    /// The song was played: nothing can be changed in it.
    pub played: bool,
}

impl Settled {
    /// The only setup that there can be.
    fn only(self) -> Option<usize> {
        let played = if self.played { self.kept } else { None };
        self.pin.filter(|_| !self.out).or(played)
    }
}

impl EveningDrum<'_> {
    /// Whether one has to get up and walk round to the front of the drum to go from `from` to `to`.
    fn is_done_in_front(&self, from: &Setup, to: &Setup) -> bool {
        let change = Change::between(&from.placements, &to.placements);
        let moved = change.moved.iter().flat_map(|moved| [&moved.from, &moved.to]);
        change.take_off.iter().chain(&change.put_on).chain(moved).any(Placement::is_reached_from_the_front)
    }
}

/// An evening.
pub struct Evening<'a> {
    /// The drums that take part.
    pub drums: Vec<EveningDrum<'a>>,
    /// Seconds there are before each song; what is before the first one does not count.
    pub gaps_s: Vec<f64>,
    /// Seconds of them that go by while one drum is put in the place of another.
    pub swaps_s: Vec<f64>,
    /// By song: whether there is a break before it, in which one can get to the front of a kick.
    pub breaks: Vec<bool>,
    /// What is owned.
    pub shelf: &'a [ShelfItem],
    /// How long the answer is waited for.
    pub patience: Patience<'a>,
}

/// One drum in one song.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Cell {
    /// Which of the drum's setups.
    pub setup: usize,
    /// Steps off the song's wish.
    pub misfit: f64,
    /// Whether it fits.
    pub fits: bool,
    /// What is off most, a sentence; null where nothing is.
    pub off: Option<Words>,
    /// What is heard of the room rather than the drum, a sentence.
    pub room: Option<Words>,
    /// Whether the player settled it.
    pub pinned: bool,
    /// The drum is not played in this song: nothing is off, and there is time to change it for the next.
    pub out: bool,
    /// What is done to it before the song; null where it stays as it is.
    pub change: Option<Change>,
}

/// A state of the whole kit that songs share.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Look {
    /// What it is called.
    pub name: Words,
    /// By drum: which of its setups.
    pub setups: Vec<usize>,
}

/// One song.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Row {
    /// Which look it is played in; null where there are none.
    pub look: Option<usize>,
    /// In the order of the drums.
    pub cells: Vec<Cell>,
    /// Seconds that all changes before it take together.
    pub change_s: f64,
    /// Seconds by which they take longer than there are; 0 where they fit.
    pub over_s: f64,
    /// Devices that this song needs beyond what is on the shelf.
    pub missing: Vec<ShelfItem>,
}

/// Where two ways differ.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Difference {
    /// Which song, from 0.
    pub song: usize,
    /// Which drum, from 0.
    pub drum: usize,
    /// The setup there in the second best way.
    pub setup: usize,
}

/// The next best way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SecondBest {
    /// What it costs more, in steps.
    pub more: f64,
    /// Where it differs.
    pub differs: Vec<Difference>,
}

/// A way through the evening.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EveningPlan {
    /// How much changing counts against sounding right.
    pub weighing: Weighing,
    /// From the most open to the deadest; empty where songs share none.
    pub looks: Vec<Look>,
    /// One after the other.
    pub rows: Vec<Row>,
    /// Steps off, some of the doubt, and what treatments take away, all songs and drums together.
    pub steps: f64,
    /// Drums in songs that come within what is noticed of the wish, and how many there are.
    pub fitting: usize,
    /// Drums in songs, all together.
    pub cells: usize,
    /// Seconds of changing after the first song began.
    pub change_s: f64,
    /// Drums that are changed after the first song began.
    pub changes: usize,
    /// Gaps that are too short for what is to be done in them.
    pub late: usize,
    /// The next best way; null where it is not known.
    pub second_best: Option<SecondBest>,
    /// Nothing made of these setups costs less. Else the search was cut short, and `at_most_better` says what may have been missed.
    pub proved: bool,
    /// Steps by which something may still be better; 0 where it is proved.
    pub at_most_better: f64,
    /// The search took too long and was ended.
    pub cut_short: bool,
}

impl Evening<'_> {
    /// The best way. `None` without songs or drums.
    pub fn plan(&self, weighing: Weighing) -> Option<EveningPlan> {
        if self.gaps_s.is_empty() || self.drums.is_empty() {
            return None;
        }
        let costs = self.costs();
        let tableau = self.tableau(&costs, weighing);
        let in_looks = (weighing == Weighing::FewLooks).then(|| self.in_looks(&tableau)).flatten();
        let solution = match (&in_looks, weighing) {
            (Some(Looks { way, cost, bound, .. }), _) => {
                solver::Solution { way: way.clone(), cost: *cost, bound: *bound, second: None, proved: *cost <= *bound + HARDLY }
            }
            (None, Weighing::OneSetup) => {
                let solution = self.unchanging(&tableau).solve(self.patience)?;
                let spread = |way: &Way| self.through(way.first().map_or(&[][..], Vec::as_slice));
                solver::Solution { way: spread(&solution.way), second: solution.second.map(|(way, cost)| (spread(&way), cost)), ..solution }
            }
            (None, Weighing::FewLooks | Weighing::NoCompromise) => tableau.solve(self.patience)?,
        };
        let steps = |way: &Way| {
            let of = |(song, setups): (usize, &Vec<usize>)| {
                setups.iter().enumerate().filter_map(|(d, s)| costs[d][song][*s]).sum::<Steps>().get()
            };
            way.iter().enumerate().map(of).sum::<f64>()
        };
        let second_best = solution
            .second
            .map(|(way, cost)| SecondBest { more: (cost - solution.cost).max(0.0), differs: differences(&solution.way, &way) });
        let (looks, played) = in_looks.map_or((Vec::new(), Vec::new()), |looks| self.named(&looks));
        let rows = self.rows(&solution.way, &played);
        let cells: Vec<&Cell> = rows.iter().flat_map(|row| &row.cells).filter(|cell| !cell.out).collect();
        Some(EveningPlan {
            weighing,
            looks,
            steps: steps(&solution.way),
            fitting: cells.iter().filter(|cell| cell.fits).count(),
            cells: cells.len(),
            change_s: rows.iter().skip(1).fold(0.0, |sum, row| sum + row.change_s),
            changes: rows.iter().skip(1).flat_map(|row| &row.cells).filter(|cell| cell.change.is_some()).count(),
            late: rows.iter().filter(|row| row.over_s > 0.0).count(),
            second_best,
            proved: solution.proved,
            at_most_better: (solution.cost - solution.bound).max(0.0),
            cut_short: self.patience.is_over(),
            rows,
        })
    }

    /// The evening in a few looks, of which the best one alone is the first.
    fn in_looks(&self, tableau: &Tableau) -> Option<Looks> {
        let one = self.unchanging(tableau).solve(self.patience)?;
        Some(tableau.in_looks(one.way.first()?.clone(), HABITS, self.patience))
    }

    /// The looks that are played, from the most open to the deadest, and which of them each song is played in.
    fn named(&self, looks: &Looks) -> (Vec<Look>, Vec<usize>) {
        let damped = |look: &usize| -> f64 {
            let of = |(drum, setup): (&EveningDrum, &usize)| Some(drum.setups.first()?.length()?.ln() - drum.setups[*setup].length()?.ln());
            self.drums.iter().zip(&looks.looks[*look]).filter_map(of).sum()
        };
        let mut used: Vec<usize> = (0..looks.looks.len()).filter(|look| looks.played.contains(look)).collect();
        used.sort_by(|a, b| damped(a).total_cmp(&damped(b)));
        let is_open =
            |look: usize| self.drums.iter().zip(&looks.looks[look]).all(|(drum, setup)| drum.setups[*setup].placements.is_empty());
        let first = if used.first().is_some_and(|look| is_open(*look)) { text!("Open") } else { text!("Light") };
        let names: &[Text] = match used.len() {
            1 => &[text!("All evening")],
            2 => &[first, text!("Tight")],
            3 => &[first, text!("Tight"), text!("Dead")],
            _ => &[first, text!("Medium"), text!("Tight"), text!("Dead")],
        };
        let played = looks.played.iter().map(|look| used.iter().position(|used| used == look).unwrap_or(0)).collect();
        let named = used.iter().zip(names).map(|(look, name)| Look { name: (*name).into(), setups: looks.looks[*look].clone() });
        (named.collect(), played)
    }

    /// By drum, song and setup.
    fn costs(&self) -> Vec<Vec<Vec<Option<Steps>>>> {
        let of = |drum: &EveningDrum| {
            drum.wishes
                .par_iter()
                .zip(&drum.settled)
                .map(|(wanted, settled)| {
                    let cost = |(s, setup): (usize, &Setup)| match settled.only() {
                        Some(only) if only != s => None,
                        _ if settled.out => Some(Steps::new(0.0)),
                        _ => Some(setup.cost(wanted)),
                    };
                    drum.setups.iter().enumerate().map(cost).collect()
                })
                .collect()
        };
        self.drums.par_iter().map(of).collect()
    }

    fn tableau(&self, costs: &[Vec<Vec<Option<Steps>>>], weighing: Weighing) -> Tableau {
        let (per_second, to_begin) = match weighing {
            Weighing::OneSetup | Weighing::FewLooks => (STEPS_PER_SECOND, 1.0),
            Weighing::NoCompromise => (HARDLY, HARDLY),
        };
        // What is heard to be off counts most.
        let weighed = |drum: &EveningDrum, song: usize, costs: &[Option<Steps>]| -> Vec<f64> {
            let Settled { out, kept, .. } = drum.settled[song];
            let one = |(s, (setup, cost)): (usize, (&Setup, &Option<Steps>))| {
                let fault = if out || setup.prospect.expected.fits(&drum.wishes[song]) { 0.0 } else { HEARD_FAULT };
                let otherwise = if !out && kept.is_some_and(|kept| kept != s) { OTHERWISE_THAN_KEPT } else { 0.0 };
                cost.map_or(f64::INFINITY, |cost| cost.get() + fault + otherwise)
            };
            drum.setups.iter().zip(costs).enumerate().map(one).collect()
        };
        let drums = self.drums.iter().zip(costs).map(|(drum, cost)| Choices {
            cost: cost.iter().enumerate().map(|(song, costs)| weighed(drum, song, costs)).collect(),
            start: drum.setups.iter().map(|setup| to_begin * effort(&setup.placements)).collect(),
            change_s: drum
                .setups
                .iter()
                .map(|a| drum.setups.iter().map(|b| Change::between(&a.placements, &b.placements).seconds).collect())
                .collect(),
            in_front: drum.setups.iter().map(|a| drum.setups.iter().map(|b| drum.is_done_in_front(a, b)).collect()).collect(),
            uses: drum.setups.iter().map(|setup| devices(&setup.placements)).collect(),
        });
        Tableau {
            drums: drums.collect(),
            gaps_s: match weighing {
                Weighing::NoCompromise => vec![f64::INFINITY; self.gaps_s.len()],
                Weighing::OneSetup | Weighing::FewLooks => {
                    self.gaps_s.iter().zip(&self.swaps_s).map(|(gap_s, swap_s)| (gap_s - swap_s).max(0.0)).collect()
                }
            },
            breaks: self.breaks.clone(),
            owned: DeviceKind::ALL.map(|kind| self.shelf.iter().filter(|item| item.device == kind).map(|item| item.count).sum()).to_vec(),
            per_second,
        }
    }

    /// All songs that are not pinned as one: what they cost together decides.
    fn unchanging(&self, tableau: &Tableau) -> Tableau {
        let drums = tableau.drums.iter().zip(&self.drums).map(|(choices, drum)| {
            let together = |setup: usize| {
                let free = choices.cost.iter().zip(&drum.settled).filter(|(_, settled)| settled.only().is_none());
                free.map(|(cost, _)| cost[setup]).sum::<f64>()
            };
            Choices { cost: vec![(0..drum.setups.len()).map(together).collect()], ..choices.clone() }
        });
        Tableau { drums: drums.collect(), gaps_s: vec![f64::INFINITY], breaks: vec![true], ..tableau.clone() }
    }

    /// The same setups in every song, but for the pinned ones and those played already.
    fn through(&self, setups: &[usize]) -> Way {
        let song = |i: usize| self.drums.iter().zip(setups).map(|(drum, setup)| drum.settled[i].only().unwrap_or(*setup)).collect();
        (0..self.gaps_s.len()).map(song).collect()
    }

    fn rows(&self, way: &Way, played: &[usize]) -> Vec<Row> {
        (0..way.len())
            .map(|song| {
                let cells: Vec<Cell> = self.drums.iter().enumerate().map(|(d, drum)| cell(drum, song, d, way)).collect();
                let change_s =
                    cells.iter().filter_map(|cell| cell.change.as_ref()).fold(self.swaps_s[song], |sum, change| sum + change.seconds);
                let on = self.drums.iter().zip(&way[song]).flat_map(|(drum, setup)| drum.setups[*setup].placements.clone());
                let used = devices(&on.collect::<Vec<Placement>>());
                let owned = |kind: DeviceKind| self.shelf.iter().filter(|item| item.device == kind).map(|item| item.count).sum::<u32>();
                let made = |kind: DeviceKind| self.shelf.iter().find(|item| item.device == kind).and_then(|item| item.made);
                let missing = DeviceKind::ALL
                    .into_iter()
                    .zip(used)
                    .map(|(device, used)| ShelfItem { count: used.saturating_sub(owned(device)), made: made(device), device })
                    .filter(|item| item.count > 0)
                    .collect();
                Row {
                    look: played.get(song).copied(),
                    cells,
                    over_s: if song == 0 { 0.0 } else { (change_s - self.gaps_s[song]).max(0.0) },
                    change_s,
                    missing,
                }
            })
            .collect()
    }
}

fn cell(drum: &EveningDrum, song: usize, index: usize, way: &Way) -> Cell {
    let setup = &drum.setups[way[song][index]];
    let open: Vec<Placement> = Vec::new();
    let before = if song == 0 { &open } else { &drum.setups[way[song - 1][index]].placements };
    let change = Change::between(before, &setup.placements);
    let lost = (!setup.placements.is_empty()).then_some(setup.attack_lost_db);
    let found = assess(&setup.sound.partials, &setup.sound.profile, &drum.wishes[song], lost);
    let Settled { out, pin, .. } = drum.settled[song];
    Cell {
        setup: way[song][index],
        misfit: if out { 0.0 } else { found.misfit },
        fits: out || found.fits,
        off: found.off.into_iter().next().map(|worst| worst.sentence).filter(|_| !out),
        room: found.room.map(|room| room.sentence).filter(|_| !out),
        pinned: pin.is_some(),
        out,
        change: (!change.is_none()).then_some(change),
    }
}

fn differences(best: &Way, second: &Way) -> Vec<Difference> {
    let mut found = Vec::new();
    for (song, (best, second)) in best.iter().zip(second).enumerate() {
        for (drum, (best, second)) in best.iter().zip(second).enumerate() {
            if best != second {
                found.push(Difference { song, drum, setup: *second });
            }
        }
    }
    found
}
