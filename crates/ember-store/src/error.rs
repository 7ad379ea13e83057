//! What can go wrong with the store.

use crate::Refused;
use ember_words::{Said, Text, Words, words};
use rusqlite::ErrorCode;
use std::path::PathBuf;

/// Why the store could not do what was asked. Each is a sentence for the person at the page.
#[derive(Debug, thiserror::Error, Said)]
pub enum StoreError {
    /// It is not there, or not any more.
    #[said("There is no {what} {id}.")]
    NotFound {
        /// What it is.
        what: Text,
        /// Its number.
        id: i64,
    },
    /// It would break a rule of the data.
    #[said(transparent)]
    Refused(#[from] Refused),
    /// One row is damaged and cannot be read; what else is kept can be.
    #[said("The {what} {id} cannot be read: its place in the data file is damaged. Everything else is as it was.")]
    Damaged {
        /// What it is.
        what: Text,
        /// Its number.
        id: i64,
    },
    /// The disk is full.
    #[said("The disk with the data is full. Make room on it, or let old sound go under Storage; what was kept before is safe.")]
    Full,
    /// The data can only be read.
    #[said("The data file can only be read here, so nothing new is kept. Give this user the right to write it, and start again.")]
    ReadOnly,
    /// Another program works with the data.
    #[said("{}", in_use(.address.as_deref()))]
    InUse {
        /// Where it answers; none where that is not known.
        address: Option<String>,
    },
    /// A database, but not one of Soft Ember's.
    #[said("{} belongs to another program. Choose another file with --data.", .0.display())]
    Foreign(PathBuf),
    /// Not a database at all.
    #[said("{} is not a data file of Soft Ember. Choose another file with --data.", .0.display())]
    NotData(PathBuf),
    /// The data is from a newer program.
    #[said("{} was made by a newer Soft Ember (its data is of version {found}, this program knows {known}). Use the newer program.", .path.display())]
    Newer {
        /// Where it is.
        path: PathBuf,
        /// Version of the data.
        found: i64,
        /// The newest version that this program knows.
        known: i64,
    },
    #[said(
        "The data file is damaged. Stop Soft Ember and start it again: what can still be read is then put into a new file, and the damaged one is kept."
    )]
    /// The file is damaged.
    Corrupt,
    /// A file could not be used.
    #[said("The file {} cannot be read or written: {error}.", .path.display())]
    File {
        /// Where it is.
        path: PathBuf,
        /// What the system says.
        error: std::io::Error,
    },
    /// Something else that SQLite says.
    #[said("The data file could not be read or written: {}.", .0.to_string())]
    Sqlite(rusqlite::Error),
    /// The data could not be brought up to date.
    #[said("The data file could not be brought up to date: {}. It is as it was; a copy lies beside it.", .0.to_string())]
    Migration(#[from] rusqlite_migration::Error),
    /// Something kept is no JSON of its kind.
    #[said("The data file holds something unreadable: {}.", .0.to_string())]
    Json(#[from] serde_json::Error),
}

fn in_use(address: Option<&str>) -> Words {
    match address {
        Some(address) => words!("Soft Ember is already running with this data, at {address} - open that page, or stop it there first."),
        None => words!("Another program is working with this data file. Stop it first, or choose another file with --data."),
    }
}

impl From<rusqlite::Error> for StoreError {
    fn from(error: rusqlite::Error) -> Self {
        match error.sqlite_error_code() {
            Some(ErrorCode::DiskFull) => Self::Full,
            Some(ErrorCode::ReadOnly) => Self::ReadOnly,
            Some(ErrorCode::DatabaseCorrupt | ErrorCode::NotADatabase) => Self::Corrupt,
            Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => Self::InUse { address: None },
            _ => Self::Sqlite(error),
        }
    }
}

impl StoreError {
    /// [`NotFound`](Self::NotFound) for an empty answer, anything else as it is.
    pub(crate) fn missing(what: Text, id: i64) -> impl Fn(rusqlite::Error) -> Self {
        move |error| match error {
            rusqlite::Error::QueryReturnedNoRows => Self::NotFound { what, id },
            other => other.into(),
        }
    }

    /// [`Damaged`](Self::Damaged) for a row whose content cannot be read, anything else as it is.
    pub(crate) fn of_row(self, what: Text, id: i64) -> Self {
        match self {
            Self::Json(_) => Self::Damaged { what, id },
            other => other,
        }
    }
}
