//! The drums of the kit, in playing order.

use crate::{Store, StoreError};
use ember_core::drum::{Drum, DrumKind, Head};
use rusqlite::{Row, params};
use serde::{Deserialize, Serialize};

/// A drum with its number.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptDrum {
    pub id: i64,
    #[serde(flatten)]
    pub drum: Drum,
}

const COLUMNS: &str = "id, name, kind, diameter_in, depth_in, lugs, batter_film_mil, lower_film_mil";

fn read(row: &Row) -> rusqlite::Result<(KeptDrum, String)> {
    let drum = Drum {
        name: row.get(1)?,
        kind: DrumKind::Snare,
        diameter_in: row.get(3)?,
        depth_in: row.get(4)?,
        lugs: row.get(5)?,
        batter: Head { film_mil: row.get(6)? },
        lower: row.get::<_, Option<f64>>(7)?.map(|film_mil| Head { film_mil }),
    };
    Ok((KeptDrum { id: row.get(0)?, drum }, row.get(2)?))
}

fn with_kind((mut kept, kind): (KeptDrum, String)) -> Result<KeptDrum, StoreError> {
    kept.drum.kind = serde_json::from_value(serde_json::Value::String(kind))?;
    Ok(kept)
}

/// The word stored for `kind`: the same as in JSON.
fn kind_code(kind: DrumKind) -> Result<String, StoreError> {
    match serde_json::to_value(kind)? {
        serde_json::Value::String(code) => Ok(code),
        other => Err(StoreError::Refused(format!("{other} is no kind of drum."))),
    }
}

impl Store {
    /// All drums in playing order.
    pub fn drums(&self) -> Result<Vec<KeptDrum>, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM drum ORDER BY position, id"))?;
        let rows = statement.query_map([], read)?.collect::<Result<Vec<_>, _>>()?;
        rows.into_iter().map(with_kind).collect()
    }

    pub fn drum(&self, id: i64) -> Result<KeptDrum, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM drum WHERE id = ?1"))?;
        with_kind(statement.query_row([id], read).map_err(StoreError::missing("drum", id))?)
    }

    /// Adds `drum` at the end of the kit.
    pub fn add_drum(&mut self, drum: &Drum) -> Result<KeptDrum, StoreError> {
        self.connection.execute(
            "INSERT INTO drum (position, name, kind, diameter_in, depth_in, lugs, batter_film_mil, lower_film_mil)
             SELECT coalesce(max(position), 0) + 1, ?1, ?2, ?3, ?4, ?5, ?6, ?7 FROM drum",
            params![
                drum.name,
                kind_code(drum.kind)?,
                drum.diameter_in,
                drum.depth_in,
                drum.lugs,
                drum.batter.film_mil,
                drum.lower.map(|head| head.film_mil)
            ],
        )?;
        self.drum(self.connection.last_insert_rowid())
    }

    /// Puts `drum` in place of what was known about drum `id`.
    pub fn change_drum(&mut self, id: i64, drum: &Drum) -> Result<KeptDrum, StoreError> {
        self.connection.execute(
            "UPDATE drum SET name = ?2, kind = ?3, diameter_in = ?4, depth_in = ?5, lugs = ?6, batter_film_mil = ?7, lower_film_mil = ?8
             WHERE id = ?1",
            params![
                id,
                drum.name,
                kind_code(drum.kind)?,
                drum.diameter_in,
                drum.depth_in,
                drum.lugs,
                drum.batter.film_mil,
                drum.lower.map(|head| head.film_mil)
            ],
        )?;
        self.drum(id)
    }

    /// Removes the drum and everything measured on it.
    pub fn remove_drum(&mut self, id: i64) -> Result<(), StoreError> {
        match self.connection.execute("DELETE FROM drum WHERE id = ?1", [id])? {
            0 => Err(StoreError::NotFound { what: "drum", id }),
            _ => Ok(()),
        }
    }
}
