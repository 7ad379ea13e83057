//! Set lists: songs in their order, with breaks and the seconds between them.

use crate::named::Named;
use crate::{Refused, Store, StoreError};
use ember_core::damping::Placement;
use ember_core::plain_name;
use ember_words::{Said, Text, text};
use serde::{Deserialize, Serialize};

/// What a drum is to have on it in one song, whatever else would be better.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pin {
    /// Number of the drum.
    pub drum_id: i64,
    /// Empty: open.
    pub placements: Vec<Placement>,
}

/// A drum that stays in its case tonight and is played in one song in the place of another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StandIn {
    /// Number of the drum that is played.
    pub drum_id: i64,
    /// Number of the one in whose place it stands.
    pub for_id: i64,
}

/// One line of a set list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Entry {
    /// A song.
    Song {
        /// Number of the song.
        song_id: i64,
        /// Seconds there are before it; null: as many as usual.
        #[serde(default)]
        gap_s: Option<f64>,
        /// Drums whose setup is settled.
        #[serde(default)]
        pins: Vec<Pin>,
        /// Ids of the drums that are not played in this song.
        #[serde(default)]
        #[cfg_attr(feature = "schema", schema(required = false))]
        out: Vec<i64>,
        /// Drums that are played in the place of others.
        #[serde(default)]
        #[cfg_attr(feature = "schema", schema(required = false))]
        instead: Vec<StandIn>,
        /// How the drums are in the plan that the player keeps to; empty where none is kept to.
        #[serde(default)]
        #[cfg_attr(feature = "schema", schema(required = false))]
        kept: Vec<Pin>,
        /// It was played tonight: nothing can be changed in it any more.
        #[serde(default)]
        #[cfg_attr(feature = "schema", schema(required = false))]
        played: bool,
    },
    /// A break.
    Break {
        /// What it is called.
        #[serde(deserialize_with = "name")]
        title: String,
        /// Time that it takes, s.
        seconds: f64,
    },
}

impl Entry {
    /// Whether a drum would stand in its own place, in two places, or two in one.
    fn swaps_badly(&self) -> bool {
        let Self::Song { instead, .. } = self else { return false };
        let named: Vec<i64> = instead.iter().flat_map(|swap| [swap.drum_id, swap.for_id]).collect();
        (0..named.len()).any(|at| named[..at].contains(&named[at]))
    }

    /// The drums that are played in the place of others in it.
    pub fn instead(&self) -> &[StandIn] {
        match self {
            Self::Song { instead, .. } => instead,
            Self::Break { .. } => &[],
        }
    }

    /// A song with nothing settled, `gap_s` after the one before it.
    pub fn of(song_id: i64, gap_s: Option<f64>) -> Self {
        Self::Song { song_id, gap_s, pins: Vec::new(), out: Vec::new(), instead: Vec::new(), kept: Vec::new(), played: false }
    }
}

/// A set list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetList {
    /// What it is called.
    #[serde(deserialize_with = "name")]
    pub name: String,
    /// Seconds there usually are between two songs.
    pub gap_s: f64,
    /// Songs and breaks in their order.
    pub entries: Vec<Entry>,
    /// Number of the kit that it is played on; null for tonight's.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = false))]
    pub kit_id: Option<i64>,
    /// The night on which it is played, as "2026-11-30"; null where none is said.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = false))]
    pub date: Option<String>,
}

/// How the drums are in one line of a set list, in a plan that is kept to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct KeptLine {
    /// Line of the set list, from 0.
    pub entry: usize,
    /// How each drum is in it.
    pub setups: Vec<Pin>,
}

/// A set list with its number.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptSetList {
    /// Its number.
    pub id: i64,
    /// The set list.
    #[serde(flatten)]
    pub set_list: SetList,
}

/// Reads a name without what cannot be seen.
fn name<'de, D: serde::Deserializer<'de>>(deserializer: D) -> Result<String, D::Error> {
    String::deserialize(deserializer).map(|text| plain_name(&text))
}

/// Longest time between two songs, s.
const MOST_S: f64 = 4.0 * 3600.0;
const MOST_ENTRIES: usize = 300;

/// Why a set list cannot be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidSetList {
    /// It has no name, or one that is too long.
    #[said("Give the set list a name of 1 to 80 letters.")]
    Name,
    /// It has more lines than any evening.
    #[said("A set list has at most {MOST_ENTRIES} lines.")]
    TooManyLines,
    /// A drum stands in for itself, or for several.
    #[said("A drum stands in for one other drum in a song, and not for itself.")]
    StandIn,
    /// Nobody waits for so long between songs.
    #[said("The time between songs must be between 0 s and 4 hours.")]
    Time,
    /// A break's title is too long.
    #[said("A break's title has at most 80 letters.")]
    BreakTitle,
}

impl SetList {
    /// Checks names and figures; whether its songs are there is for the store.
    pub fn validate(&self) -> Result<(), InvalidSetList> {
        if self.name.trim().is_empty() || self.name.chars().count() > 80 {
            return Err(InvalidSetList::Name);
        }
        if self.entries.len() > MOST_ENTRIES {
            return Err(InvalidSetList::TooManyLines);
        }
        if self.entries.iter().any(Entry::swaps_badly) {
            return Err(InvalidSetList::StandIn);
        }
        let times = self.entries.iter().filter_map(|entry| match entry {
            Entry::Song { gap_s, .. } => *gap_s,
            Entry::Break { seconds, .. } => Some(*seconds),
        });
        if times.chain([self.gap_s]).any(|seconds| !(0.0..=MOST_S).contains(&seconds)) {
            return Err(InvalidSetList::Time);
        }
        if self.entries.iter().any(|entry| matches!(entry, Entry::Break { title, .. } if title.chars().count() > 80)) {
            return Err(InvalidSetList::BreakTitle);
        }
        Ok(())
    }
}

impl Named for SetList {
    const TABLE: &'static str = "set_list";
    const WORD: Text = text!("set list");

    fn name(&self) -> &str {
        &self.name
    }
}

impl Store {
    /// All set lists by name.
    pub fn set_lists(&self) -> Result<Vec<KeptSetList>, StoreError> {
        Ok(self.all_named()?.into_iter().map(|(id, set_list)| KeptSetList { id, set_list }).collect())
    }

    /// The set list with this number.
    pub fn set_list(&self, id: i64) -> Result<KeptSetList, StoreError> {
        Ok(KeptSetList { id, set_list: self.one_named(id)? })
    }

    /// Adds a set list.
    pub fn add_set_list(&mut self, set_list: &SetList) -> Result<KeptSetList, StoreError> {
        self.check_songs(set_list)?;
        let id = self.add_named(set_list)?;
        self.set_list(id)
    }

    /// Changes a set list.
    pub fn change_set_list(&mut self, id: i64, set_list: &SetList) -> Result<KeptSetList, StoreError> {
        self.check_songs(set_list)?;
        self.change_named(id, set_list)?;
        self.set_list(id)
    }

    /// Removes a set list at `gone_at` (ms since 1970), or brings it back. Its songs stay.
    pub fn set_set_list_gone(&mut self, id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        self.set_gone::<SetList>(id, gone_at)
    }

    /// Keeps to the plan that has the drums as `lines` say, in place of any that was kept to before; with none, plans are free again and nothing
    /// counts as played.
    pub fn keep_plan(&mut self, id: i64, lines: &[KeptLine]) -> Result<KeptSetList, StoreError> {
        self.mend_set_list(id, |at, entry| {
            if let Entry::Song { kept, played, .. } = entry {
                *kept = lines.iter().find(|line| line.entry == at).map(|line| line.setups.clone()).unwrap_or_default();
                *played &= !kept.is_empty();
            }
        })
    }

    /// The first `lines` lines were played, and no other.
    pub fn set_played(&mut self, id: i64, lines: usize) -> Result<KeptSetList, StoreError> {
        self.mend_set_list(id, |at, entry| {
            if let Entry::Song { played, .. } = entry {
                *played = at < lines;
            }
        })
    }

    fn mend_set_list(&mut self, id: i64, mend: impl Fn(usize, &mut Entry)) -> Result<KeptSetList, StoreError> {
        let mut kept = self.set_list(id)?;
        kept.set_list.entries.iter_mut().enumerate().for_each(|(at, entry)| mend(at, entry));
        self.change_named(id, &kept.set_list)?;
        Ok(kept)
    }

    /// Its night must be a day of the calendar, and every song must have been there once: removed ones keep their place, for they may come back.
    fn check_songs(&self, set_list: &SetList) -> Result<(), StoreError> {
        let is_day = |date: &str| self.connection.query_row("SELECT date(?1) IS ?1", [date], |row| row.get::<_, bool>(0));
        if let Some(date) = &set_list.date
            && !is_day(date)?
        {
            return Err(Refused::NoDay.into());
        }
        let mut statement = self.connection.prepare_cached("SELECT count(*) FROM song WHERE id = ?1")?;
        for entry in &set_list.entries {
            if let Entry::Song { song_id, .. } = entry
                && statement.query_row([song_id], |row| row.get::<_, i64>(0))? == 0
            {
                return Err(StoreError::NotFound { what: text!("song"), id: *song_id });
            }
        }
        Ok(())
    }
}
