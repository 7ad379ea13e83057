//! Rods let down on purpose, and when they were back.

use crate::damaged::text;
use crate::tuning::{side_code, side_of};
use crate::{Refused, Store, StoreError, order};
use ember_core::drum::HeadSide;
use ember_core::tuning::UnevenRecipe;
use ember_words::text;
use rusqlite::{OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};

/// Rods let down on purpose.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptUneven {
    /// Its number.
    pub id: i64,
    /// Number of the drum.
    pub drum_id: i64,
    /// Which head.
    pub side: HeadSide,
    /// What was let down.
    pub recipe: UnevenRecipe,
    /// Milliseconds since 1970, UTC, as the clock said.
    pub begun_at: i64,
    /// Its place in the order of all that happened, whatever the clock said.
    pub begun_seq: i64,
    /// Eighths of a turn on each rod in hoop order.
    pub eighths: Vec<i32>,
    /// When the rods were back; null while the head is uneven.
    pub ended_at: Option<i64>,
    /// The same in the order of all that happened.
    pub ended_seq: Option<i64>,
}

const COLUMNS: &str = "id, drum_id, side, recipe, begun_at, eighths, ended_at, begun_seq, ended_seq";
type Texts = (String, String, String);

fn read(row: &Row) -> rusqlite::Result<(KeptUneven, Texts)> {
    let uneven = KeptUneven {
        id: row.get(0)?,
        drum_id: row.get(1)?,
        side: HeadSide::Batter,
        recipe: UnevenRecipe::ThreeDown,
        begun_at: row.get(4)?,
        eighths: Vec::new(),
        ended_at: row.get(6)?,
        begun_seq: row.get(7)?,
        ended_seq: row.get(8)?,
    };
    Ok((uneven, (text(row, 2)?, text(row, 3)?, text(row, 5)?)))
}

fn with_texts((mut uneven, (side, recipe, eighths)): (KeptUneven, Texts)) -> Result<KeptUneven, StoreError> {
    uneven.side = side_of(&side)?;
    uneven.recipe = serde_json::from_value(serde_json::Value::String(recipe))?;
    uneven.eighths = serde_json::from_str(&eighths)?;
    Ok(uneven)
}

impl Store {
    /// Says that the rods of a head were let down by `eighths` at `begun_at`.
    pub fn begin_uneven(
        &mut self,
        drum_id: i64,
        side: HeadSide,
        recipe: UnevenRecipe,
        eighths: &[i32],
        begun_at: i64,
    ) -> Result<KeptUneven, StoreError> {
        self.drum(drum_id)?;
        if self.newest_uneven(drum_id, side)?.is_some_and(|newest| newest.ended_at.is_none()) {
            return Err(Refused::UnevenAlready.into());
        }
        let recipe = serde_json::to_value(recipe)?;
        self.connection.execute(
            "INSERT INTO uneven (drum_id, side, recipe, begun_at, eighths, begun_seq) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
            params![drum_id, side_code(side), recipe.as_str(), begun_at, serde_json::to_string(eighths)?, order::next(&self.connection)?],
        )?;
        self.uneven(self.connection.last_insert_rowid())
    }

    /// What was let down, by its number.
    pub fn uneven(&self, id: i64) -> Result<KeptUneven, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM uneven WHERE id = ?1"))?;
        with_texts(statement.query_row([id], read).map_err(StoreError::missing(text!("uneven tuning"), id))?)
    }

    /// What was last let down on purpose on the head that is on the drum now.
    pub fn newest_uneven(&self, drum_id: i64, side: HeadSide) -> Result<Option<KeptUneven>, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!(
            "SELECT {COLUMNS} FROM uneven WHERE drum_id = ?1 AND side = ?2 AND gone_at IS NULL
             AND begun_seq > coalesce((SELECT max(seq) FROM head_change
                 WHERE head_change.drum_id = ?1 AND head_change.side = ?2 AND head_change.gone_at IS NULL), 0)
             ORDER BY begun_seq DESC LIMIT 1"
        ))?;
        statement.query_row((drum_id, side_code(side)), read).optional()?.map(with_texts).transpose()
    }

    /// Says when the rods were back, or that they are not after all.
    pub fn set_uneven_ended(&mut self, id: i64, ended_at: Option<i64>) -> Result<KeptUneven, StoreError> {
        let ended_seq = ended_at.map(|_| order::next(&self.connection)).transpose()?;
        self.connection.execute("UPDATE uneven SET ended_at = ?2, ended_seq = ?3 WHERE id = ?1", (id, ended_at, ended_seq))?;
        self.uneven(id)
    }

    /// Says that it was never done, or that it was after all.
    pub fn set_uneven_gone(&mut self, id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        match self.connection.execute("UPDATE uneven SET gone_at = ?2 WHERE id = ?1", (id, gone_at))? {
            0 => Err(StoreError::NotFound { what: text!("uneven tuning"), id }),
            _ => Ok(()),
        }
    }
}
