//! What tests taught, kept so that it need not be worked out again at every start. What it is made of is not this crate's matter: it is a
//! text, with a key that says from which tests it was made.

use crate::{MeasuredTreatment, Store, StoreError};
use rusqlite::OptionalExtension;
use std::hash::{DefaultHasher, Hash, Hasher};

impl Store {
    /// A key that changes with everything that is learned from `tests`, and with `besides`.
    pub fn key_of_tests(&self, tests: &[MeasuredTreatment], besides: &str) -> Result<String, StoreError> {
        let mut hasher = DefaultHasher::new();
        besides.hash(&mut hasher);
        let mut revision = self.connection.prepare_cached("SELECT revision FROM take WHERE id = ?1")?;
        for test in tests {
            serde_json::to_string(&test.drum)?.hash(&mut hasher);
            for take in [test.open.id, test.found.id] {
                (test.treatment.id, take, revision.query_row([take], |row| row.get::<_, i64>(0))?).hash(&mut hasher);
            }
        }
        Ok(format!("{:016x}", hasher.finish()))
    }

    /// What was kept under `key`, if that is what was kept last.
    pub fn learned(&self, key: &str) -> Result<Option<String>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT content FROM learned WHERE key = ?1")?;
        Ok(statement.query_row([key], |row| row.get(0)).optional()?)
    }

    /// Keeps `content` under `key`, in place of what was kept before.
    pub fn keep_learned(&mut self, key: &str, content: &str) -> Result<(), StoreError> {
        if !self.is_read_only() {
            self.connection.execute("INSERT OR REPLACE INTO learned (id, key, content) VALUES (1, ?1, ?2)", (key, content))?;
        }
        Ok(())
    }
}
