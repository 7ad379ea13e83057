//! What tests taught, kept so that it need not be worked out again at every start. What it is made of is not this crate's matter: it is a
//! text, with a key that says from which tests it was made.

use crate::{Store, StoreError};
use rusqlite::OptionalExtension;

impl Store {
    /// What was kept last, with its key.
    pub fn learned(&self) -> Result<Option<(String, String)>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT key, content FROM learned WHERE id = 1")?;
        Ok(statement.query_row([], |row| Ok((row.get(0)?, row.get(1)?))).optional()?)
    }

    /// Keeps `content` under `key`, in place of what was kept before. Where nothing can be written it is worked out again at the next start.
    pub fn keep_learned(&mut self, key: &str, content: &str) -> Result<(), StoreError> {
        if !self.is_read_only() {
            self.connection.execute("INSERT OR REPLACE INTO learned (id, key, content) VALUES (1, ?1, ?2)", (key, content))?;
        }
        Ok(())
    }
}
