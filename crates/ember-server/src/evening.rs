//! A set list worked out on the kit as it is measured. Setups are kept from one question to the next: only what changed is
//! screened again.

use crate::learning::{Learning, Measured};
use ember_core::Patience;
use ember_core::damping::{DeviceKind, Learned, Placement};
use ember_core::decay::Partial;
use ember_core::drum::{Drum, Role};
use ember_core::plan::{Limits, Screened, Settled, Setup, ShelfItem, Sound, choose, validate_layout};
use ember_core::target::{Liking, OpenSound, Situation, Wanted};
use ember_core::venue::Venue;
use ember_store::{Entry, KeptDrum, KeptPreset, KeptSetList, KeptSong, KeptTake, Pin, Scene, Store, StoreError};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// A song in its place.
pub struct Slot {
    /// Line of the set list, from 0.
    pub entry: usize,
    pub song: KeptSong,
    pub genre: String,
    /// Seconds there are before it.
    pub gap_s: f64,
    /// Title of the break before it.
    pub after_break: Option<String>,
}

/// A drum as far as it is known.
pub struct KnownDrum {
    pub drum: KeptDrum,
    open: Option<KeptTake>,
    /// What is on it, with the newest strikes like that.
    found: Option<(Vec<Placement>, KeptTake)>,
    /// What the player gave names to, the newest first.
    named: Vec<(String, Vec<Placement>)>,
}

impl KnownDrum {
    /// The name that the player gave to `placements`; none where there is none.
    pub fn name_of(&self, placements: &[Placement]) -> Option<&str> {
        self.named.iter().find(|(_, named)| named == placements).map(|(name, _)| name.as_str())
    }
}

/// Setups with names that an evening looks at on each drum.
const MOST_NAMED: usize = 8;

/// All that an evening needs, out of the store.
pub struct EveningQuestion {
    pub set_list: KeptSetList,
    pub slots: Vec<Slot>,
    /// Songs of the list that were removed.
    pub missing: usize,
    pub drums: Vec<KnownDrum>,
    pub shelf: Vec<ShelfItem>,
    limits: Limits,
    venue: Option<Venue>,
    /// How the player's own lengths lie to the book's, by part of the kit and genre, where anything was said.
    likings: HashMap<(Role, String), Liking>,
    presets: Vec<KeptPreset>,
    measured: Measured,
    /// How strong the devices are, as learned; set by [`learn`](Self::learn).
    learned: Arc<Learned>,
}

impl EveningQuestion {
    pub fn read(store: &Store, set_list_id: i64) -> Result<Self, StoreError> {
        let set_list = store.set_list(set_list_id)?;
        let Scene { tonight, venue, .. } = store.scene()?;
        let (presets, shelf) = (store.presets()?, store.shelf()?);
        let (mut slots, mut missing) = (Vec::new(), 0);
        let (mut extra_s, mut after_break) = (0.0, None);
        for (entry, line) in set_list.set_list.entries.iter().enumerate() {
            match line {
                Entry::Break { title, seconds } => {
                    extra_s += seconds;
                    after_break = Some(title.clone());
                }
                Entry::Song { song_id, gap_s, .. } => match store.song(*song_id) {
                    Ok(song) => {
                        let genre = presets.iter().find(|kept| kept.preset.code == song.song.music.genre);
                        slots.push(Slot {
                            entry,
                            genre: genre.map_or_else(|| "General".into(), |kept| kept.preset.name.clone()),
                            song,
                            gap_s: extra_s + gap_s.unwrap_or(set_list.set_list.gap_s),
                            after_break: after_break.take(),
                        });
                        extra_s = 0.0;
                    }
                    Err(StoreError::NotFound { .. }) => missing += 1,
                    Err(error) => return Err(error),
                },
            }
        }
        let known = |drum: KeptDrum| {
            let on = store.treatment_on(drum.id)?;
            let open = match &on {
                Some(on) => Some(store.take(on.open_take_id)?),
                None => store.newest_take(drum.id, None)?,
            };
            // A trial of the other end is no setup to play with.
            let found = match on.filter(|on| on.plan.front.is_none()) {
                Some(on) => store.newest_take(drum.id, Some(on.id))?.map(|take| (on.plan.placements, take)),
                None => None,
            };
            let mut named: Vec<(String, Vec<Placement>)> = Vec::new();
            for kept in store.treatments(drum.id, MOST_NAMED)?.into_iter().filter(|kept| kept.plan.front.is_none()) {
                let placements = kept.plan.placements;
                let is_new = !placements.is_empty() && named.len() < MOST_NAMED && named.iter().all(|(_, other)| *other != placements);
                if let Some(name) = kept.name.filter(|_| is_new && at_hand(&drum.drum, &placements, &shelf, &tonight.limits)) {
                    named.push((name, placements));
                }
            }
            Ok::<_, StoreError>(KnownDrum { drum, open, found, named })
        };
        let drums = store.drums()?.into_iter().map(known).collect::<Result<Vec<_>, _>>()?;
        let measured = store.device_tests()?;
        let mut likings = HashMap::new();
        for role in drums.iter().map(|known: &KnownDrum| known.drum.drum.kind.role()) {
            for genre in slots.iter().map(|slot: &Slot| &slot.song.song.music.genre) {
                if let Some(liking) = Liking::of(&store.opinions(role, genre)?) {
                    likings.insert((role, genre.clone()), liking);
                }
            }
        }
        Ok(Self {
            likings,
            measured,
            learned: Arc::new(Learned::from_trials(&[])),
            slots,
            missing,
            drums,
            shelf,
            limits: tonight.limits,
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
            let situation = Situation { preset: preset(&music.genre), music, venue: self.venue.as_ref() };
            let liking = self.likings.get(&(drum.drum.drum.kind.role(), music.genre.clone())).cloned();
            Wanted::new(&situation, &drum.drum.drum, open.as_ref()).as_liked(liking, open.as_ref())
        };
        self.slots.iter().map(wanted).collect()
    }

    /// What is settled of `drum` in each song, among its `setups`.
    pub fn settled(&self, drum: &KnownDrum, setups: &[Setup]) -> Vec<Settled> {
        let at = |placements: Option<&[Placement]>| placements.and_then(|pin| setups.iter().position(|setup| setup.placements == pin));
        let one = |slot: &Slot| match &self.set_list.set_list.entries[slot.entry] {
            Entry::Song { pins, out, kept, played, .. } => {
                Settled { pin: at(of_drum(pins, drum)), out: out.contains(&drum.drum.id), kept: at(of_drum(kept, drum)), played: *played }
            }
            Entry::Break { .. } => Settled::default(),
        };
        self.slots.iter().map(one).collect()
    }

    /// What `drum` is pinned to or kept with in some song: it must be among the setups.
    fn settled_placements(&self, drum: &KnownDrum) -> Vec<Vec<Placement>> {
        let of_line = |entry: &Entry| match entry {
            Entry::Song { pins, kept, .. } => [pins, kept].iter().filter_map(|all| of_drum(all, drum).map(<[Placement]>::to_vec)).collect(),
            Entry::Break { .. } => Vec::new(),
        };
        self.set_list.set_list.entries.iter().flat_map(of_line).collect()
    }
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
    let may = |placement: &Placement| limits.rule_out(placement.device).is_none() && used(placement.device) <= owned(placement.device);
    validate_layout(drum, placements).is_ok() && placements.iter().all(may)
}

fn sound(take: &KeptTake) -> Sound {
    Sound { partials: take.partials.clone(), profile: take.summary.profile.clone() }
}

/// Setups worked out before, by drum.
#[derive(Default)]
pub struct SetupCache {
    kept: Mutex<HashMap<i64, Kept>>,
}

struct Kept {
    screened_for: String,
    screened: Arc<Screened>,
    chosen_for: String,
    chosen: Arc<Vec<Setup>>,
}

impl SetupCache {
    /// The setups of `drum` to choose from, or a sentence about why there are none.
    pub fn setups(
        &self,
        question: &EveningQuestion,
        drum: &KnownDrum,
        wishes: &[Wanted],
        patience: Patience,
    ) -> Result<Arc<Vec<Setup>>, String> {
        let name = &drum.drum.drum.name;
        let Some(open) = &drum.open else {
            return Err(format!("{name}: not measured open yet. Hit it on the bench."));
        };
        let strengths = question.learned.on(&drum.drum.drum);
        let known = DeviceKind::ALL.map(|kind| strengths.of(kind)).to_vec();
        let screened_for = as_key(&(&drum.drum.drum, &open.partials, &question.shelf, question.limits, known, strengths.own_tones()));
        let mut known = vec![(Vec::new(), sound(open))];
        known.extend(drum.found.iter().map(|(placements, take)| (placements.clone(), sound(take))));
        let named = drum.named.iter().map(|(_, placements)| placements.clone());
        let must: Vec<_> = question.settled_placements(drum).into_iter().chain(named).collect();
        let partials: Vec<&[Partial]> = known.iter().map(|(_, sound)| sound.partials.as_slice()).collect();
        let chosen_for = as_key(&(&partials, &must, wishes, drum.found.as_ref().map(|(placements, _)| placements)));
        let before = self.locked(|kept| {
            kept.get(&drum.drum.id)
                .filter(|kept| kept.screened_for == screened_for)
                .map(|kept| (kept.screened.clone(), (kept.chosen_for == chosen_for).then(|| kept.chosen.clone())))
        });
        let screened = match before {
            Some((_, Some(chosen))) => return Ok(chosen),
            Some((screened, None)) => screened,
            None => {
                let screened = Screened::new(&drum.drum.drum, &open.partials, &question.shelf, &question.limits, &strengths);
                Arc::new(
                    screened
                        .ok_or_else(|| format!("{name}: no clear body was found in its strikes. Measure it again, closer to the head."))?,
                )
            }
        };
        let chosen = Arc::new(choose(&screened, &known, &must, wishes, patience));
        // What was cut short would be taken for the best later on.
        if patience.is_over() {
            return Ok(chosen);
        }
        let kept = Kept { screened_for, screened, chosen_for, chosen: chosen.clone() };
        self.locked(|all| all.insert(drum.drum.id, kept));
        Ok(chosen)
    }

    fn locked<T>(&self, work: impl FnOnce(&mut HashMap<i64, Kept>) -> T) -> T {
        work(&mut self.kept.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// What something depends on, to tell whether it changed.
fn as_key(of: &impl serde::Serialize) -> String {
    serde_json::to_string(of).unwrap_or_default()
}

/// Drums of the kit as they are, for the packing list.
pub fn all_drums(question: &EveningQuestion) -> Vec<&Drum> {
    question.drums.iter().map(|known| &known.drum.drum).collect()
}
