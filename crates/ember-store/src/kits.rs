//! Kits: which of a player's drums stand together, in playing order. A drum may be in several kits; what was measured on it stays with the drum.

use crate::kit::{KeptDrum, add};
use crate::named::{Named, update};
use crate::{Refused, Store, StoreError};
use ember_core::drum::Drum;
use ember_core::plain_name;
use ember_words::{Said, Text, text};
use rusqlite::Connection;
use serde::{Deserialize, Serialize};

/// Most drums that a kit has: more than anybody carries.
pub const MOST_DRUMS: usize = 40;

/// Most letters of a group's name.
const MOST_GROUP_LETTERS: usize = 24;

/// A drum in its place in a kit.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitDrum {
    /// Number of the drum.
    pub drum_id: i64,
    /// Whether it stays in its case, so that another one can stand in its place.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub in_case: bool,
    /// The group that begins with it, "Snares" perhaps; null where it stands in the one before it.
    #[serde(default)]
    pub group: Option<String>,
}

impl KitDrum {
    /// A drum that is set up.
    pub fn set_up(drum_id: i64) -> Self {
        Self { drum_id, in_case: false, group: None }
    }
}

/// A kit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Kit {
    /// What it is called.
    #[serde(deserialize_with = "name")]
    pub name: String,
    /// Its drums, in playing order.
    pub drums: Vec<KitDrum>,
    /// Whether it is somebody else's, the house kit of a club perhaps: nothing of it is opened, cut or left sticky.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub borrowed: bool,
    /// Number of the venue whose house kit it is; null where it is none's.
    #[serde(default)]
    pub venue_id: Option<i64>,
}

/// A kit with its number.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptKit {
    /// Its number.
    pub id: i64,
    /// The kit.
    #[serde(flatten)]
    pub kit: Kit,
}

/// Reads a name without what cannot be seen.
fn name<'de, D: serde::Deserializer<'de>>(deserializer: D) -> Result<String, D::Error> {
    String::deserialize(deserializer).map(|text| plain_name(&text))
}

/// Why a kit cannot be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidKit {
    /// It has no name, or one that is too long.
    #[said("Give the kit a name of 1 to 60 letters.")]
    Name,
    /// It has more drums than are reckoned with.
    #[said("A kit has at most {MOST_DRUMS} drums and cymbals. Put the others into a kit of their own.")]
    TooManyDrums,
    /// A group has no name, or one that is too long.
    #[said("Give the group a name of 1 to {MOST_GROUP_LETTERS} letters.")]
    GroupName,
    /// A drum is in it twice.
    #[said("A drum stands in a kit once.")]
    Twice,
}

impl Kit {
    /// Checks its name and how many drums it has; whether they are there is for the store.
    pub fn validate(&self) -> Result<(), InvalidKit> {
        if self.name.trim().is_empty() || self.name.chars().count() > 60 {
            return Err(InvalidKit::Name);
        }
        if self.drums.len() > MOST_DRUMS {
            return Err(InvalidKit::TooManyDrums);
        }
        if self
            .drums
            .iter()
            .filter_map(|at| at.group.as_ref())
            .any(|name| name.trim().is_empty() || name.chars().count() > MOST_GROUP_LETTERS)
        {
            return Err(InvalidKit::GroupName);
        }
        let twice = |at: usize| self.drums[..at].iter().any(|before| before.drum_id == self.drums[at].drum_id);
        if (0..self.drums.len()).any(twice) {
            return Err(InvalidKit::Twice);
        }
        Ok(())
    }

    /// The same with `drum_id` at its end, if it is not in it yet.
    fn with(mut self, drum_id: i64) -> Self {
        if self.drums.iter().all(|drum| drum.drum_id != drum_id) {
            self.drums.push(KitDrum::set_up(drum_id));
        }
        self
    }
}

impl Named for Kit {
    const TABLE: &'static str = "kit";
    const WORD: Text = text!("kit");

    fn name(&self) -> &str {
        &self.name
    }
}

/// Puts drums `ids` at the end of `kit`, or refuses where they are too many.
fn put_into(connection: &Connection, kit: Option<KeptKit>, ids: &[i64]) -> Result<(), StoreError> {
    // Without any kit, as in a file that was mended, all drums are played.
    let Some(KeptKit { id, kit }) = kit else { return Ok(()) };
    let kit = ids.iter().fold(kit, |kit, drum_id| kit.with(*drum_id));
    kit.validate().map_err(Refused::from)?;
    update(connection, id, &kit)
}

impl Store {
    /// Adds `drum` at the end of tonight's kit.
    pub fn add_drum(&mut self, drum: &Drum) -> Result<KeptDrum, StoreError> {
        let added = self.add_drums(std::slice::from_ref(drum))?;
        added.into_iter().next().ok_or_else(|| rusqlite::Error::QueryReturnedNoRows.into())
    }

    /// Adds all of `drums` at the end of tonight's kit, or none of them.
    pub fn add_drums(&mut self, drums: &[Drum]) -> Result<Vec<KeptDrum>, StoreError> {
        let mut kept = Vec::new();
        let kit = self.kit_tonight()?;
        let transaction = self.connection.transaction()?;
        for drum in drums {
            add(&transaction, drum)?;
            kept.push(KeptDrum { id: transaction.last_insert_rowid(), drum: drum.clone() });
        }
        put_into(&transaction, kit, &kept.iter().map(|drum| drum.id).collect::<Vec<_>>())?;
        transaction.commit()?;
        Ok(kept)
    }

    /// All kits by name.
    pub fn kits(&self) -> Result<Vec<KeptKit>, StoreError> {
        Ok(self.all_named()?.into_iter().map(|(id, kit)| KeptKit { id, kit }).collect())
    }

    /// The kit with this number.
    pub fn kit(&self, id: i64) -> Result<KeptKit, StoreError> {
        Ok(KeptKit { id, kit: self.one_named(id)? })
    }

    /// The kit that is played tonight: the one that was chosen, or the first. None where there is none at all, as in a file that was mended.
    pub fn kit_tonight(&self) -> Result<Option<KeptKit>, StoreError> {
        let chosen = self.tonight()?.kit_id.and_then(|id| self.kit(id).ok());
        if chosen.is_some() {
            return Ok(chosen);
        }
        let first = self
            .connection
            .prepare_cached("SELECT min(id) FROM kit WHERE gone_at IS NULL")?
            .query_row([], |row| row.get::<_, Option<i64>>(0))?;
        first.map(|id| self.kit(id)).transpose()
    }

    /// The drums of tonight's kit in playing order, with those that stay in their cases.
    pub fn kit_drums(&self) -> Result<Vec<(KeptDrum, KitDrum)>, StoreError> {
        self.drums_of_kit(None)
    }

    /// The drums of `kit` in playing order; all drums where there is no kit.
    fn drums_of(&self, kit: Option<KeptKit>) -> Result<Vec<(KeptDrum, KitDrum)>, StoreError> {
        let mut all = self.all_drums()?;
        let Some(KeptKit { kit, .. }) = kit else {
            return Ok(all.into_iter().map(|drum| (KitDrum::set_up(drum.id), drum)).map(|(at, drum)| (drum, at)).collect());
        };
        // A drum that was removed, or whose row is damaged, leaves its place empty.
        let take = |at: &KitDrum| Some((all.swap_remove(all.iter().position(|drum| drum.id == at.drum_id)?), at.clone()));
        Ok(kit.drums.iter().filter_map(take).collect())
    }

    /// The drums that are set up tonight, in playing order.
    pub fn drums(&self) -> Result<Vec<KeptDrum>, StoreError> {
        self.set_up(self.kit_tonight()?)
    }

    /// The drums of kit `id`, or of tonight's, in playing order, with those that stay in their cases.
    pub fn drums_of_kit(&self, id: Option<i64>) -> Result<Vec<(KeptDrum, KitDrum)>, StoreError> {
        let kit = match id.map(|id| self.kit(id)) {
            Some(Ok(kit)) => Some(kit),
            Some(Err(StoreError::NotFound { .. })) | None => self.kit_tonight()?,
            Some(Err(error)) => return Err(error),
        };
        self.drums_of(kit)
    }

    fn set_up(&self, kit: Option<KeptKit>) -> Result<Vec<KeptDrum>, StoreError> {
        Ok(self.drums_of(kit)?.into_iter().filter(|(_, at)| !at.in_case).map(|(drum, _)| drum).collect())
    }

    /// Adds a kit.
    pub fn add_kit(&mut self, kit: &Kit) -> Result<KeptKit, StoreError> {
        self.check_kit(kit)?;
        let id = self.add_named(kit)?;
        self.kit(id)
    }

    /// Changes a kit: its name, its drums and their order.
    pub fn change_kit(&mut self, id: i64, kit: &Kit) -> Result<KeptKit, StoreError> {
        self.check_kit(kit)?;
        self.change_named(id, kit)?;
        self.kit(id)
    }

    /// Removes a kit at `gone_at` (ms since 1970), or brings it back. Its drums stay with all that was measured on them.
    pub fn set_kit_gone(&mut self, id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        if gone_at.is_some() && self.kits()?.iter().all(|kept| kept.id == id) {
            return Err(Refused::OnlyKit.into());
        }
        self.set_gone::<Kit>(id, gone_at)
    }

    /// Its drums and its venue must be there.
    fn check_kit(&self, kit: &Kit) -> Result<(), StoreError> {
        kit.validate().map_err(Refused::from)?;
        kit.drums.iter().try_for_each(|drum| self.drum(drum.drum_id).map(|_| ()))?;
        kit.venue_id.map(|id| self.venue(id)).transpose()?;
        Ok(())
    }
}
