//! Everything Soft Ember keeps, in one SQLite file: drums and kits, the shelf, venues, songs, set lists, genres, tonight, takes with
//! their strikes' sound, treatments, rounds of tuning, and
//! changes of heads. Write-ahead logging with full synchronisation: what was acknowledged survives a crash.

#![warn(missing_docs)]
#![cfg_attr(not(test), warn(clippy::too_many_lines))]

mod copies;
mod damaged;
mod error;
mod file;
mod fronts;
mod heads;
mod kit;
mod kits;
mod learned;
mod named;
mod opinions;
mod order;
mod places;
mod presets;
mod refused;
mod room;
mod salvage;
mod schema;
mod set_lists;
mod shelf;
mod songs;
mod takes;
mod tonight;
mod treatments;
mod tuning;
mod uneven;
mod venues;

pub use copies::{DataCopy, Reason};
pub use damaged::DamagedRow;
pub use error::StoreError;
pub use file::Contents;
pub use heads::HeadChange;
pub use kit::KeptDrum;
pub use kits::{InvalidKit, KeptKit, Kit, KitDrum, MOST_DRUMS};
pub use presets::{KeptPreset, Origin};
pub use refused::Refused;
pub use room::{DiskRoom, DrumRoom, LEAST_FREE_BYTES, Thinned, Thinning};
pub use salvage::Salvaged;
pub use set_lists::{Entry, InvalidSetList, KeptLine, KeptSetList, Pin, SetList, StandIn};
pub use songs::KeptSong;
pub use takes::{KeptStrike, KeptTake, NewStrike, Source};
pub use tonight::{KeptTonight, Scene};
pub use treatments::{KeptTreatment, MeasuredTreatment};
pub use tuning::{KeptRound, KeptTap, trials, turned_in_all};
pub use uneven::KeptUneven;
pub use venues::KeptVenue;

use rusqlite::Connection;
use std::cell::RefCell;
use std::collections::BTreeSet;
use std::path::PathBuf;

/// An open database.
pub struct Store {
    connection: Connection,
    /// Where it is; none in memory.
    path: Option<PathBuf>,
    /// Held as long as this lives, so that no other program works with the file.
    lock: Option<file::Lock>,
    read_only: bool,
    /// What mending came to, where the file was damaged when it was opened.
    salvaged: Option<Salvaged>,
    /// Rows that could not be read.
    damaged: RefCell<BTreeSet<DamagedRow>>,
    tests: RefCell<treatments::KnownTests>,
}

impl Store {
    /// What mending came to, where the file was damaged when it was opened.
    pub fn salvaged(&self) -> Option<&Salvaged> {
        self.salvaged.as_ref()
    }
}
