//! What is played tonight, and what the player rules out.

use crate::{Store, StoreError};
use ember_core::plan::Limits;
use ember_core::target::Tonight;
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};

/// Tonight with its limits.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptTonight {
    #[serde(flatten)]
    pub tonight: Tonight,
    #[serde(flatten)]
    pub limits: Limits,
}

impl Store {
    /// What was last chosen; a plain rock evening before anything was.
    pub fn tonight(&self) -> Result<KeptTonight, StoreError> {
        let kept = self
            .connection
            .query_row("SELECT genre, bpm, clear_surface, nothing_inside FROM tonight", [], |row| {
                Ok(KeptTonight {
                    tonight: Tonight { genre: row.get(0)?, bpm: row.get(1)? },
                    limits: Limits { clear_surface: row.get(2)?, nothing_inside: row.get(3)? },
                })
            })
            .optional()?;
        Ok(kept.unwrap_or_else(|| KeptTonight { tonight: Tonight { genre: "rock".into(), bpm: 118.0 }, limits: Limits::default() }))
    }

    pub fn set_tonight(&mut self, kept: &KeptTonight) -> Result<(), StoreError> {
        self.connection.execute(
            "INSERT OR REPLACE INTO tonight (id, genre, bpm, clear_surface, nothing_inside) VALUES (1, ?1, ?2, ?3, ?4)",
            (&kept.tonight.genre, kept.tonight.bpm, kept.limits.clear_surface, kept.limits.nothing_inside),
        )?;
        Ok(())
    }
}
