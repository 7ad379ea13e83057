//! All that an evening needs, read from the store in one go.

use super::page::NamedDrum;
use crate::learning::{Learning, Measured};
use crate::snapshot::open_take;
use ember_core::damping::{DeviceKind, Learned, Placement};
use ember_core::drum::{Drum, Role};
use ember_core::plan::{Limits, Settled, Setup, ShelfItem, validate_layout};
use ember_core::target::{Liking, OpenSound, Situation, TimeKeeper, Wanted};
use ember_core::venue::Venue;
use ember_store::{Entry, KeptDrum, KeptPreset, KeptSetList, KeptSong, KeptTake, KitDrum, Pin, Scene, StandIn, Store, StoreError};
use ember_words::{Words, words};
use std::collections::HashMap;
use std::sync::Arc;

/// A song in its place.
pub struct Slot {
    /// Line of the set list, from 0.
    pub entry: usize,
    pub song: KeptSong,
    pub genre: Words,
    /// Seconds there are before it.
    pub gap_s: f64,
    /// Title of the break before it.
    pub after_break: Option<String>,
    /// Drums that are played in it in the place of others.
    pub instead: Vec<StandIn>,
}

/// A drum as far as it is known.
pub struct KnownDrum {
    pub drum: KeptDrum,
    /// Whether it stays in its case but for songs in which it stands in for another.
    pub in_case: bool,
    pub(super) open: Option<KeptTake>,
    /// What is on it, with the newest strikes like that.
    pub(super) found: Option<(Vec<Placement>, KeptTake)>,
    /// What the player gave names to, the newest first.
    pub(super) named: Vec<(String, Vec<Placement>)>,
}

impl KnownDrum {
    fn read(store: &Store, (drum, at): (KeptDrum, KitDrum), shelf: &[ShelfItem], limits: &Limits) -> Result<Self, StoreError> {
        let open = open_take(store, drum.id)?;
        // A trial of the other end is no setup to play with.
        let found = match store.treatment_on(drum.id)?.filter(|on| on.plan.front.is_none()) {
            Some(on) => store.newest_take(drum.id, Some(on.id))?.map(|take| (on.plan.placements, take)),
            None => None,
        };
        let mut named: Vec<(String, Vec<Placement>)> = Vec::new();
        for kept in store.treatments(drum.id, MOST_NAMED)?.into_iter().filter(|kept| kept.plan.front.is_none()) {
            let placements = kept.plan.placements;
            let is_new = !placements.is_empty() && named.len() < MOST_NAMED && named.iter().all(|(_, other)| *other != placements);
            if let Some(name) = kept.name.filter(|_| is_new && at_hand(&drum.drum, &placements, shelf, limits)) {
                named.push((name, placements));
            }
        }
        Ok(Self { in_case: at.in_case, drum, open, found, named })
    }

    /// The name that the player gave to `placements`; none where there is none.
    pub fn name_of(&self, placements: &[Placement]) -> Option<&str> {
        self.named.iter().find(|(_, named)| named == placements).map(|(name, _)| name.as_str())
    }
}

/// Setups with names that an evening looks at on each drum.
const MOST_NAMED: usize = 8;

/// All that an evening needs, out of the store.
pub struct EveningQuestion {
    /// The set list.
    pub set_list: KeptSetList,
    /// The songs in their places.
    pub slots: Vec<Slot>,
    /// Songs of the list that were removed.
    pub missing: usize,
    /// What else there is to say, a sentence each.
    pub notes: Vec<Words>,
    /// Drums of the kit that stay in their cases, but for songs in which they stand in for others.
    pub in_cases: Vec<KeptDrum>,
    /// The drums that take part.
    pub drums: Vec<KnownDrum>,
    /// What is owned.
    pub shelf: Vec<ShelfItem>,
    pub(super) limits: Limits,
    venue: Option<Venue>,
    /// The kit's cymbals that keep time, where the band was measured there.
    time_keepers: Vec<TimeKeeper>,
    /// How the player's own lengths lie to the book's, by part of the kit and genre, where anything was said.
    likings: HashMap<(Role, String), Liking>,
    presets: Vec<KeptPreset>,
    measured: Measured,
    /// How strong the devices are, as learned; set by [`learn`](Self::learn).
    pub(super) learned: Arc<Learned>,
}

impl EveningQuestion {
    /// Reads all of it in one go.
    pub fn read(store: &Store, set_list_id: i64) -> Result<Self, StoreError> {
        let set_list = store.set_list(set_list_id)?;
        let Scene { limits, venue, .. } = store.scene()?;
        let (presets, shelf) = (store.presets()?, store.shelf()?);
        let (mut slots, missing) = slots(store, &set_list, &presets)?;
        let known = |drum: (KeptDrum, KitDrum)| KnownDrum::read(store, drum, &shelf, &limits);
        let stand_ins: Vec<i64> = slots.iter().flat_map(|slot| &slot.instead).map(|swap| swap.drum_id).collect();
        let all = store.drums_of_kit(set_list.set_list.kit_id)?.into_iter().filter(|(drum, _)| !drum.drum.plays_along);
        let all: Vec<(KeptDrum, KitDrum)> = all.collect();
        let in_cases = all.iter().filter(|(_, at)| at.in_case).map(|(drum, _)| drum.clone()).collect();
        let plays_tonight = |(drum, at): &(KeptDrum, KitDrum)| !at.in_case || stand_ins.contains(&drum.id);
        let drums = all.into_iter().filter(plays_tonight).map(known).collect::<Result<Vec<_>, _>>()?;
        // One that is not in the kit any more stands in for nothing.
        let plays = |id: i64| drums.iter().any(|known| known.drum.id == id);
        slots.iter_mut().for_each(|slot| slot.instead.retain(|swap| plays(swap.drum_id) && plays(swap.for_id)));
        Ok(Self {
            likings: likings(store, &drums, &slots)?,
            notes: double_bookings(store, &set_list)?,
            in_cases,
            measured: store.device_tests()?,
            time_keepers: store.time_keepers(set_list.set_list.kit_id, venue.as_ref())?,
            learned: Arc::new(Learned::from_trials(&[])),
            slots,
            missing,
            drums,
            shelf,
            limits,
            venue,
            presets,
            set_list,
        })
    }

    /// Takes what tests taught into account.
    pub fn learn(&mut self, learning: &Learning) {
        self.learned = learning.of_tests(&self.measured, &self.shelf);
    }

    /// What each song leaves room for on `drum`.
    pub fn wishes(&self, drum: &KnownDrum) -> Vec<Wanted> {
        let open = drum.open.as_ref().map(|take| OpenSound::new(&take.partials, &take.summary));
        let preset = |code: &str| {
            let of = |code: &str| self.presets.iter().find(|kept| kept.preset.code == code).map(|kept| &kept.preset);
            of(code).or_else(|| of(ember_core::target::NO_GENRE)).unwrap_or(&self.presets[0].preset)
        };
        let wanted = |slot: &Slot| {
            let music = &slot.song.song.music;
            let situation = Situation { preset: preset(&music.genre), music, venue: self.venue.as_ref(), time_keepers: &self.time_keepers };
            let liking = self.likings.get(&(drum.drum.drum.kind.role(), music.genre.clone())).cloned();
            Wanted::new(&situation, &drum.drum.drum, open.as_ref()).as_liked(liking, open.as_ref())
        };
        self.slots.iter().map(wanted).collect()
    }

    /// A drum that takes part.
    pub(super) fn named(&self, drum_id: i64) -> Option<NamedDrum> {
        let known = self.drums.iter().find(|known| known.drum.id == drum_id)?;
        Some(NamedDrum { drum_id, name: known.drum.drum.name.clone() })
    }

    /// The drum in whose place drum `drum_id` is played in song `song` of those in their order.
    pub(super) fn stands_in_for(&self, song: usize, drum_id: i64) -> Option<NamedDrum> {
        let swap = self.slots[song].instead.iter().find(|swap| swap.drum_id == drum_id)?;
        self.named(swap.for_id)
    }

    /// The drum that is played in its place there.
    pub(super) fn replaced_by(&self, song: usize, drum_id: i64) -> Option<NamedDrum> {
        let swap = self.slots[song].instead.iter().find(|swap| swap.for_id == drum_id)?;
        self.named(swap.drum_id)
    }

    /// What is settled of `drum` in each song, among its `setups`.
    pub fn settled(&self, drum: &KnownDrum, setups: &[Setup]) -> Vec<Settled> {
        let at = |placements: Option<&[Placement]>| placements.and_then(|pin| setups.iter().position(|setup| setup.placements == pin));
        let one = |slot: &Slot| match &self.set_list.set_list.entries[slot.entry] {
            Entry::Song { pins, out, kept, played, .. } => {
                let replaced = slot.instead.iter().any(|swap| swap.for_id == drum.drum.id);
                let stays = drum.in_case && slot.instead.iter().all(|swap| swap.drum_id != drum.drum.id);
                let out = out.contains(&drum.drum.id) || replaced || stays;
                Settled { pin: at(of_drum(pins, drum)), out, kept: at(of_drum(kept, drum)), played: *played }
            }
            Entry::Break { .. } => Settled::default(),
        };
        self.slots.iter().map(one).collect()
    }

    /// What `drum` is pinned to or kept with in some song: it must be among the setups.
    pub(super) fn settled_placements(&self, drum: &KnownDrum) -> Vec<Vec<Placement>> {
        let of_line = |entry: &Entry| match entry {
            Entry::Song { pins, kept, .. } => [pins, kept].iter().filter_map(|all| of_drum(all, drum).map(<[Placement]>::to_vec)).collect(),
            Entry::Break { .. } => Vec::new(),
        };
        self.set_list.set_list.entries.iter().flat_map(of_line).collect()
    }
}

/// The songs of `set_list` in their places, and how many of its songs were removed.
fn slots(store: &Store, set_list: &KeptSetList, presets: &[KeptPreset]) -> Result<(Vec<Slot>, usize), StoreError> {
    let (mut slots, mut missing) = (Vec::new(), 0);
    let (mut extra_s, mut after_break) = (0.0, None);
    for (entry, line) in set_list.set_list.entries.iter().enumerate() {
        let (song_id, gap_s) = match line {
            Entry::Break { title, seconds } => {
                extra_s += seconds;
                after_break = Some(title.clone());
                continue;
            }
            Entry::Song { song_id, gap_s, .. } => (*song_id, *gap_s),
        };
        let song = match store.song(song_id) {
            Ok(song) => song,
            Err(StoreError::NotFound { .. }) => {
                missing += 1;
                continue;
            }
            Err(error) => return Err(error),
        };
        let genre = presets.iter().find(|kept| kept.preset.code == song.song.music.genre);
        slots.push(Slot {
            entry,
            genre: genre.map_or_else(|| words!("General"), |kept| kept.preset.said_name()),
            song,
            gap_s: std::mem::take(&mut extra_s) + gap_s.unwrap_or(set_list.set_list.gap_s),
            after_break: after_break.take(),
            instead: line.instead().to_vec(),
        });
    }
    Ok((slots, missing))
}

/// Drums of the list's kit that play elsewhere on the same night, a sentence each.
fn double_bookings(store: &Store, list: &KeptSetList) -> Result<Vec<Words>, StoreError> {
    let Some(date) = &list.set_list.date else { return Ok(Vec::new()) };
    let tonight = store.kit_tonight()?.map(|kit| kit.id);
    let kit = |list: &KeptSetList| list.set_list.kit_id.or(tonight);
    let others = store.set_lists()?.into_iter().filter(|other| other.id != list.id && other.set_list.date.as_ref() == Some(date));
    let set_up = |list: &KeptSetList| -> Result<Vec<KeptDrum>, StoreError> {
        let drums = store.drums_of_kit(list.set_list.kit_id)?.into_iter();
        Ok(drums.filter(|(_, at)| !at.in_case).map(|(drum, _)| drum).collect())
    };
    let own = set_up(list)?;
    let mut notes = Vec::new();
    for other in others.filter(|other| kit(other) != kit(list)) {
        let there = set_up(&other)?;
        let both = own.iter().filter(|drum| there.iter().any(|other| other.id == drum.id));
        let names: Vec<&str> = both.map(|drum| drum.drum.name.as_str()).collect();
        if !names.is_empty() {
            notes.push(words!(
                "On the same night “{}” is played on another kit that has these too: {}.",
                other.set_list.name,
                names.join(", ")
            ));
        }
    }
    Ok(notes)
}

/// How the player's own lengths lie to the book's, for each part of the kit in each genre that is played.
fn likings(store: &Store, drums: &[KnownDrum], slots: &[Slot]) -> Result<HashMap<(Role, String), Liking>, StoreError> {
    let mut likings = HashMap::new();
    for role in drums.iter().map(|known| known.drum.drum.kind.role()) {
        for genre in slots.iter().map(|slot| &slot.song.song.music.genre) {
            if let Some(liking) = Liking::of(&store.opinions(role, genre)?) {
                likings.insert((role, genre.clone()), liking);
            }
        }
    }
    Ok(likings)
}

/// What `pins` say of `drum`, where it still fits it.
fn of_drum<'a>(pins: &'a [Pin], drum: &KnownDrum) -> Option<&'a [Placement]> {
    let fits = |pin: &&Pin| pin.placements.iter().all(|placement| placement.validate(&drum.drum.drum).is_ok());
    pins.iter().filter(|pin| pin.drum_id == drum.drum.id).find(fits).map(|pin| pin.placements.as_slice())
}

/// Whether `placements` fit `drum`, are on the shelf, and may be used tonight.
fn at_hand(drum: &Drum, placements: &[Placement], shelf: &[ShelfItem], limits: &Limits) -> bool {
    let used = |device: DeviceKind| placements.iter().filter(|placement| placement.device == device).count();
    let owned = |device: DeviceKind| shelf.iter().find(|item| item.device == device).map_or(0, |item| item.count as usize);
    let may = |placement: &Placement| limits.allows_placed(placement) && used(placement.device) <= owned(placement.device);
    validate_layout(drum, placements).is_ok() && placements.iter().all(may)
}

/// Drums of the kit as they are, for the packing list.
pub fn all_drums(question: &EveningQuestion) -> Vec<&Drum> {
    question.drums.iter().map(|known| &known.drum.drum).collect()
}
