//! The order in which things happened. The clock may be set back or forward in between, so that it only says when, never what came first.

use crate::{Store, StoreError};
use rusqlite::Connection;

/// A clock this far behind what was recorded last was changed, ms: a few seconds are set right by every system now and then.
const JUMP_MS: i64 = 60_000;

/// The next number in the order of what happens.
pub(crate) fn next(connection: &Connection) -> Result<i64, StoreError> {
    let mut statement = connection.prepare_cached("UPDATE sequence SET last = last + 1 WHERE id = 1 RETURNING last")?;
    Ok(statement.query_row([], |row| row.get(0))?)
}

impl Store {
    /// How far the clock, which says `now`, stands behind what was recorded last (both ms); `None` where it does not.
    pub fn clock_is_behind_by(&self, now: i64) -> Result<Option<i64>, StoreError> {
        let mut statement =
            self.connection.prepare_cached("SELECT max(begun_at) FROM (SELECT begun_at FROM take ORDER BY id DESC LIMIT 50)")?;
        let newest: Option<i64> = statement.query_row([], |row| row.get(0))?;
        Ok(newest.map(|newest| newest - now).filter(|behind| *behind > JUMP_MS))
    }
}
