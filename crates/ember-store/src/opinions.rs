//! What the player says of drums as they sound, and does about them.

use crate::damaged::text;
use crate::{Store, StoreError};
use ember_core::drum::Role;
use ember_core::target::Evidence;
use ember_words::text;

/// How a part of a kit is written in the file.
fn code(role: Role) -> &'static str {
    match role {
        Role::Snare => "snare",
        Role::Tom => "tom",
        Role::FloorTom => "floor_tom",
        Role::Kick => "kick",
        Role::Cymbal => "cymbal",
        Role::HiHat => "hi_hat",
    }
}

impl Store {
    /// Keeps what was said of a drum that plays `role` in `genre`, or done about it; its number.
    pub fn add_opinion(&mut self, role: Role, genre: &str, said: &Evidence, at: i64) -> Result<i64, StoreError> {
        self.connection.execute(
            "INSERT INTO opinion (role, genre, said, said_at) VALUES (?1, ?2, ?3, ?4)",
            (code(role), genre, serde_json::to_string(said)?, at),
        )?;
        Ok(self.connection.last_insert_rowid())
    }

    /// All that was said of drums that play `role` in `genre`, and done about them, in its order. What cannot be read is left out.
    pub fn opinions(&self, role: Role, genre: &str) -> Result<Vec<Evidence>, StoreError> {
        let mut statement = self
            .connection
            .prepare_cached("SELECT said FROM opinion WHERE role = ?1 AND genre = ?2 AND forgotten_at IS NULL ORDER BY id")?;
        let rows = statement.query_map((code(role), genre), |row| text(row, 0))?.collect::<Result<Vec<_>, _>>()?;
        Ok(rows.iter().filter_map(|said| serde_json::from_str(said).ok()).collect())
    }

    /// Takes one opinion back.
    pub fn remove_opinion(&mut self, id: i64) -> Result<(), StoreError> {
        match self.connection.execute("DELETE FROM opinion WHERE id = ?1", [id])? {
            0 => Err(StoreError::NotFound { what: text!("opinion"), id }),
            _ => Ok(()),
        }
    }

    /// Takes back what taking a treatment off told.
    pub fn remove_deeds_of(&mut self, treatment_id: i64) -> Result<(), StoreError> {
        self.connection.execute("DELETE FROM opinion WHERE json_extract(said, '$.treatment_id') = ?1", [treatment_id])?;
        Ok(())
    }

    /// Forgets all that was said of drums that play `role` in `genre`.
    pub fn forget_opinions(&mut self, role: Role, genre: &str, at: i64) -> Result<(), StoreError> {
        let forget = "UPDATE opinion SET forgotten_at = ?3 WHERE role = ?1 AND genre = ?2 AND forgotten_at IS NULL";
        self.connection.execute(forget, (code(role), genre, at))?;
        Ok(())
    }

    /// Brings back what was forgotten last.
    pub fn recall_opinions(&mut self, role: Role, genre: &str) -> Result<(), StoreError> {
        let recall = "UPDATE opinion SET forgotten_at = NULL WHERE role = ?1 AND genre = ?2
            AND forgotten_at = (SELECT max(forgotten_at) FROM opinion WHERE role = ?1 AND genre = ?2)";
        self.connection.execute(recall, (code(role), genre))?;
        Ok(())
    }
}
