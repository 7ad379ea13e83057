//! Everything Soft Ember keeps, in one SQLite file: the kit, the shelf, venues, songs, set lists, genres, tonight, takes with
//! their strikes' sound, treatments, rounds of tuning, and
//! changes of heads. Write-ahead logging with full synchronisation: what was acknowledged survives a crash.

mod error;
mod fronts;
mod heads;
mod kit;
mod named;
mod presets;
mod set_lists;
mod shelf;
mod songs;
mod takes;
mod tonight;
mod treatments;
mod tuning;
mod uneven;
mod venues;

pub use error::StoreError;
pub use heads::HeadChange;
pub use kit::KeptDrum;
pub use presets::{KeptPreset, Origin};
pub use set_lists::{Entry, KeptSetList, Pin, SetList};
pub use songs::KeptSong;
pub use takes::{KeptStrike, KeptTake, NewStrike, Source};
pub use tonight::{KeptTonight, Scene};
pub use treatments::{KeptTreatment, MeasuredTreatment};
pub use tuning::{KeptRound, KeptTap, trials, turned_in_all};
pub use uneven::KeptUneven;
pub use venues::KeptVenue;

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
        let steps = vec![
            M::up(include_str!("../migrations/0001_first.sql")),
            M::up(include_str!("../migrations/0002_tonight.sql")),
            M::up(include_str!("../migrations/0003_tune.sql")),
            M::up(include_str!("../migrations/0004_heads.sql")),
            M::up(include_str!("../migrations/0005_heart.sql")),
            M::up(include_str!("../migrations/0006_front.sql")),
            M::up(include_str!("../migrations/0007_nothing_bought.sql")),
        ];
        Migrations::new(steps).to_latest(&mut connection)?;
        // Set after the migrations: it has no effect inside their transaction.
        connection.pragma_update(None, "foreign_keys", true)?;
        Ok(Self { connection })
    }
}
