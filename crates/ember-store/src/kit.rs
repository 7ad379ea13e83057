//! Drums: all that a player has or plays. Which of them stand together is a kit's matter.

use crate::damaged::text;
use crate::{Refused, Store, StoreError};
use ember_core::drum::Drum;
use ember_words::text;
use rusqlite::{Connection, Row};
use serde::{Deserialize, Serialize};

/// A drum with its number.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptDrum {
    /// Its number.
    pub id: i64,
    /// What is known about it.
    #[serde(flatten)]
    pub drum: Drum,
}

fn read(row: &Row) -> rusqlite::Result<(i64, String)> {
    Ok((row.get(0)?, text(row, 1)?))
}

fn with_content((id, content): (i64, String)) -> Result<KeptDrum, StoreError> {
    Ok(KeptDrum { id, drum: serde_json::from_str(&content).map_err(|error| StoreError::from(error).of_row(text!("drum"), id))? })
}

pub(crate) fn add(connection: &Connection, drum: &Drum) -> Result<(), StoreError> {
    let content = serde_json::to_string(drum)?;
    connection.execute("INSERT INTO drum (position, content) SELECT coalesce(max(position), 0) + 1, ?1 FROM drum", [content])?;
    Ok(())
}

impl Store {
    /// All drums of all kits, and those in none, in the order in which they came.
    pub fn all_drums(&self) -> Result<Vec<KeptDrum>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT id, content FROM drum ORDER BY position, id")?;
        let rows = statement.query_map([], read)?.collect::<Result<Vec<_>, _>>()?;
        self.readable(text!("drum"), rows.into_iter().map(|row| (row.0, with_content(row))))
    }

    /// The drum with this number.
    pub fn drum(&self, id: i64) -> Result<KeptDrum, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT id, content FROM drum WHERE id = ?1")?;
        with_content(statement.query_row([id], read).map_err(StoreError::missing(text!("drum"), id))?)
    }

    /// The same where it has heads to be handled, or a sentence about why not.
    pub fn drum_with_heads(&self, id: i64) -> Result<KeptDrum, StoreError> {
        let drum = self.drum(id)?;
        match drum.drum.kind.has_heads() {
            true => Ok(drum),
            false => Err(Refused::NoHeads { name: drum.drum.name, kind: drum.drum.kind }.into()),
        }
    }

    /// Puts `drum` in place of what was known about drum `id`.
    pub fn change_drum(&mut self, id: i64, drum: &Drum) -> Result<KeptDrum, StoreError> {
        let before = self.drum(id)?.drum;
        if before.kind.is_metal() != drum.kind.is_metal() && self.newest_take(id, None)?.is_some() {
            return Err(Refused::MeasuredAs { was: before.kind, is: drum.kind }.into());
        }
        self.connection.execute("UPDATE drum SET content = ?2 WHERE id = ?1", (id, serde_json::to_string(drum)?))?;
        self.drum(id)
    }

    /// Removes the drum from all kits, and everything measured on it.
    pub fn remove_drum(&mut self, id: i64) -> Result<(), StoreError> {
        let removed = self.even_on_a_full_disk(|store| Ok(store.connection.execute("DELETE FROM drum WHERE id = ?1", [id])?))?;
        if removed == 0 { Err(StoreError::NotFound { what: text!("drum"), id }) } else { Ok(()) }
    }
}
