//! Rows that cannot be read: set aside and named, while everything else works on.

use crate::{Store, StoreError};
use ember_words::{Text, Words};
use rusqlite::Row;
use rusqlite::types::ValueRef;
use serde::{Deserialize, Serialize};

/// A row that cannot be read. It stays in the file as it is.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DamagedRow {
    /// "take", "song".
    pub what: Words,
    /// Its number.
    pub id: i64,
}

impl Store {
    /// What has been read of rows, without those that are damaged: they are noted, and left out of the answer.
    pub(crate) fn readable<T>(&self, what: Text, rows: impl Iterator<Item = (i64, Result<T, StoreError>)>) -> Result<Vec<T>, StoreError> {
        let mut read = Vec::new();
        for (id, row) in rows {
            match row {
                Ok(row) => read.push(row),
                Err(StoreError::Json(_) | StoreError::Damaged { .. }) => self.set_aside(what, id),
                Err(error) => return Err(error),
            }
        }
        Ok(read)
    }

    /// Notes that a row cannot be read.
    pub(crate) fn set_aside(&self, what: Text, id: i64) {
        self.damaged.borrow_mut().insert(DamagedRow { what: what.into(), id });
    }

    /// Rows that could not be read since the file was opened.
    pub fn damaged_rows(&self) -> Vec<DamagedRow> {
        self.damaged.borrow().iter().cloned().collect()
    }
}

/// The text in column `index` of a row. A letter that has gone bad is replaced rather than losing all the others with it.
pub(crate) fn text(row: &Row, index: usize) -> rusqlite::Result<String> {
    Ok(optional_text(row, index)?.unwrap_or_default())
}

/// The same where there may be none.
pub(crate) fn optional_text(row: &Row, index: usize) -> rusqlite::Result<Option<String>> {
    Ok(match row.get_ref(index)? {
        ValueRef::Text(bytes) => Some(String::from_utf8_lossy(bytes).into_owned()),
        _ => None,
    })
}
