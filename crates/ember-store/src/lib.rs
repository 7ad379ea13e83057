//! Everything Soft Ember keeps, in one SQLite file: the kit, the shelf, tonight, takes with their strikes' sound, and
//! treatments. Write-ahead logging with full synchronisation: what was acknowledged survives a crash.

mod error;
mod kit;
mod shelf;
mod takes;
mod tonight;
mod treatments;

pub use error::StoreError;
pub use kit::KeptDrum;
pub use takes::{KeptStrike, KeptTake, NewStrike, Source};
pub use tonight::KeptTonight;
pub use treatments::KeptTreatment;

use rusqlite::Connection;
use rusqlite_migration::{M, Migrations};
use std::path::Path;

/// An open database.
pub struct Store {
    connection: Connection,
}

impl Store {
    /// Opens the file at `path`, making or bringing it up to date as needed.
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        Self::prepare(Connection::open(path)?)
    }

    /// A store that is gone when it is closed, for tests.
    pub fn in_memory() -> Result<Self, StoreError> {
        Self::prepare(Connection::open_in_memory()?)
    }

    fn prepare(mut connection: Connection) -> Result<Self, StoreError> {
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        Migrations::new(vec![M::up(include_str!("../migrations/0001_first.sql"))]).to_latest(&mut connection)?;
        // Set after the migrations: it has no effect inside their transaction.
        connection.pragma_update(None, "foreign_keys", true)?;
        Ok(Self { connection })
    }
}
