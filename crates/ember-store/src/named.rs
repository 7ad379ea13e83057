//! Things with a name that are kept whole: venues, songs, set lists. Each has a table of the same shape.

use crate::damaged::text;
use crate::{Store, StoreError};
use ember_words::Text;
use rusqlite::{Connection, Row};
use serde::{Serialize, de::DeserializeOwned};

/// Something kept in a table of its own.
pub(crate) trait Named: Serialize + DeserializeOwned {
    /// Table, which is also the word for it.
    const TABLE: &'static str;
    const WORD: Text;
    fn name(&self) -> &str;
}

/// A row as it is read: number and content.
fn read(row: &Row) -> rusqlite::Result<(i64, String)> {
    Ok((row.get(0)?, text(row, 1)?))
}

fn parsed<T: Named>((id, content): (i64, String)) -> Result<(i64, T), StoreError> {
    Ok((id, serde_json::from_str(&content).map_err(|error| StoreError::from(error).of_row(T::WORD, id))?))
}

pub(crate) fn insert<T: Named>(connection: &Connection, thing: &T) -> Result<i64, StoreError> {
    let found_by = thing.name().to_lowercase();
    let mut statement = connection.prepare_cached(&format!("INSERT INTO {} (found_by, content) VALUES (?1, ?2)", T::TABLE))?;
    statement.execute((found_by, serde_json::to_string(thing)?))?;
    Ok(connection.last_insert_rowid())
}

pub(crate) fn update<T: Named>(connection: &Connection, id: i64, thing: &T) -> Result<(), StoreError> {
    let found_by = thing.name().to_lowercase();
    let mut statement =
        connection.prepare_cached(&format!("UPDATE {} SET found_by = ?2, content = ?3 WHERE id = ?1 AND gone_at IS NULL", T::TABLE))?;
    match statement.execute((id, found_by, serde_json::to_string(thing)?))? {
        0 => Err(StoreError::NotFound { what: T::WORD, id }),
        _ => Ok(()),
    }
}

impl Store {
    /// All of them by name.
    pub(crate) fn all_named<T: Named>(&self) -> Result<Vec<(i64, T)>, StoreError> {
        let mut statement =
            self.connection.prepare_cached(&format!("SELECT id, content FROM {} WHERE gone_at IS NULL ORDER BY found_by, id", T::TABLE))?;
        let rows = statement.query_map([], read)?.collect::<Result<Vec<_>, _>>()?;
        self.readable(T::WORD, rows.into_iter().map(|row| (row.0, parsed(row))))
    }

    /// Those whose name holds `search`, by name, at most `limit` of them behind the one with the number `after`, and how many there are in all. A place
    /// in the list and no count, so that nothing is passed over or told twice when something comes or goes meanwhile.
    pub(crate) fn some_named<T: Named>(
        &self,
        search: &str,
        after: Option<i64>,
        limit: usize,
    ) -> Result<(Vec<(i64, T)>, usize), StoreError> {
        let search = search.trim().to_lowercase();
        let matching = format!("FROM {} WHERE gone_at IS NULL AND instr(found_by, ?1) > 0", T::TABLE);
        let all: i64 = self.connection.prepare_cached(&format!("SELECT count(*) {matching}"))?.query_row([&search], |row| row.get(0))?;
        if let Some(id) = after
            && !self.connection.prepare_cached(&format!("SELECT 1 FROM {} WHERE id = ?1", T::TABLE))?.exists([id])?
        {
            return Err(StoreError::NotFound { what: T::WORD, id });
        }
        let behind = format!("(?2 IS NULL OR (found_by, id) > (SELECT found_by, id FROM {} WHERE id = ?2))", T::TABLE);
        let mut statement =
            self.connection.prepare_cached(&format!("SELECT id, content {matching} AND {behind} ORDER BY found_by, id LIMIT ?3"))?;
        let rows = statement.query_map((&search, after, limit as i64), read)?.collect::<Result<Vec<_>, _>>()?;
        Ok((self.readable(T::WORD, rows.into_iter().map(|row| (row.0, parsed(row))))?, all as usize))
    }

    /// One of them, removed ones not counted.
    pub(crate) fn one_named<T: Named>(&self, id: i64) -> Result<T, StoreError> {
        let mut statement =
            self.connection.prepare_cached(&format!("SELECT id, content FROM {} WHERE id = ?1 AND gone_at IS NULL", T::TABLE))?;
        parsed(statement.query_row([id], read).map_err(StoreError::missing(T::WORD, id))?).map(|(_, thing)| thing)
    }

    pub(crate) fn add_named<T: Named>(&mut self, thing: &T) -> Result<i64, StoreError> {
        insert(&self.connection, thing)
    }

    pub(crate) fn change_named<T: Named>(&mut self, id: i64, thing: &T) -> Result<(), StoreError> {
        update(&self.connection, id, thing)
    }

    /// Marks one as removed at `gone_at`, or brings it back.
    pub(crate) fn set_gone<T: Named>(&mut self, id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        match self.connection.execute(&format!("UPDATE {} SET gone_at = ?2 WHERE id = ?1", T::TABLE), (id, gone_at))? {
            0 => Err(StoreError::NotFound { what: T::WORD, id }),
            _ => Ok(()),
        }
    }
}
