//! Mending a damaged data file: whatever can still be read is put into a new file, row by row, and the damaged one is kept beside it. So a
//! byte that has gone bad costs at most the row it is in.

mod pages;

use crate::StoreError;
use crate::copies::{self, Reason};
use crate::places::{beside, io};
use crate::schema::{known_mark, known_version, make_tables};
use pages::{FoundRow, Pages};
use rusqlite::types::Value;
use rusqlite::{Connection, ErrorCode, params_from_iter};
use serde::{Deserialize, Serialize};
use std::collections::{HashMap, HashSet};
use std::fs::File;
use std::io::Read;
use std::path::Path;

/// What mending came to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Salvaged {
    /// Where the damaged file is kept.
    pub kept_at: String,
    /// Rows that were read.
    pub rows: usize,
    /// Rows that could not be, as far as they could be told, by table.
    pub lost: Vec<String>,
    /// Rows that were taken from the newest copy instead.
    pub from_copy: usize,
}

/// A table of the new file.
struct Table {
    name: String,
    columns: Vec<Column>,
    without_ids: bool,
}

struct Column {
    kind: String,
    not_null: bool,
    has_default: bool,
    key: bool,
    is_json: bool,
}

/// Mends the file at `path` where `sound` finds it damaged. A file that is none of Soft Ember's is refused.
pub(crate) fn if_needed(path: &Path, sound: impl FnOnce() -> Result<bool, StoreError>) -> Result<Option<Salvaged>, StoreError> {
    match std::fs::metadata(path) {
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(None),
        Err(error) => return Err(io(path)(error)),
        Ok(about) if about.len() == 0 => return Ok(None),
        Ok(_) => {}
    }
    let mut beginning = Vec::new();
    File::open(path).and_then(|file| file.take(65_536).read_to_end(&mut beginning)).map_err(io(path))?;
    let is_database = beginning.starts_with(b"SQLite format 3\0");
    let is_ours = ["CREATE TABLE strike", "CREATE TABLE tuning_round", "CREATE TABLE take"]
        .iter()
        .any(|sql| beginning.windows(sql.len()).any(|window| window == sql.as_bytes()));
    if !is_database && !is_ours {
        return Err(StoreError::NotData(path.into()));
    }
    match sound() {
        Ok(true) => Ok(None),
        Ok(false) => mend(path).map(Some),
        // Something in the header has gone bad, and what it says of the file with it.
        Err(StoreError::Corrupt | StoreError::Sqlite(_)) if is_ours => mend(path).map(Some),
        Err(StoreError::Corrupt) => Err(StoreError::NotData(path.into())),
        Err(error) => Err(error),
    }
}

fn mend(path: &Path) -> Result<Salvaged, StoreError> {
    // What is still in the write-ahead log belongs to the file, if SQLite can still put it there.
    if let Ok(connection) = Connection::open(path) {
        let _ = connection.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()));
    }
    let anew = beside(path, ".anew");
    remove_with_log(&anew)?;
    let (rows, lost) = read_into(path, &anew)?;
    let from_copy = fill_from_copy(path, &anew)?;
    File::open(&anew).and_then(|file| file.sync_all()).map_err(io(&anew))?;
    let kept_at = copies::new_name(path, Reason::Damaged)?;
    std::fs::rename(path, &kept_at).map_err(io(path))?;
    for ending in ["-wal", "-shm"] {
        let log = beside(path, ending);
        if log.exists() {
            std::fs::rename(&log, beside(&kept_at, ending)).map_err(io(&log))?;
        }
    }
    std::fs::rename(&anew, path).map_err(io(&anew))?;
    Ok(Salvaged { kept_at: kept_at.display().to_string(), rows, lost, from_copy })
}

fn remove_with_log(path: &Path) -> Result<(), StoreError> {
    for ending in ["", "-wal", "-shm"] {
        let name = beside(path, ending);
        match std::fs::remove_file(&name) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(io(&name)(error)),
            _ => {}
        }
    }
    Ok(())
}

/// Puts every row that can be read into a new file at `to`. How many there were, and which were lost.
fn read_into(path: &Path, to: &Path) -> Result<(usize, Vec<String>), StoreError> {
    let mut pages = File::open(path).and_then(Pages::new).map_err(io(path))?;
    // A damaged pointer may lead from the schema's first page to one of another table: that page is still to be read as what it is.
    let schema: Vec<(String, String, u32, String)> = pages.rows(1, false, &mut HashSet::new()).into_iter().filter_map(schema_row).collect();
    let mut seen = HashSet::from([1]);
    let mut connection = Connection::open(to)?;
    connection.pragma_update(None, "auto_vacuum", "INCREMENTAL")?;
    // The tables come from this program, not from the damaged file; what rows a new one begins with is theirs to say.
    make_tables(&mut connection, version_of(&schema, path))?;
    for table in tables(&connection)? {
        connection.execute(&format!("DELETE FROM {}", table.name), [])?;
    }
    connection.pragma_update(None, "foreign_keys", false)?;
    connection.pragma_update(None, "application_id", mark_of(path))?;
    let tables = tables(&connection)?;
    let transaction = connection.transaction()?;
    let (mut count, mut lost) = (0, Vec::new());
    let mut put = |table: &Table, row: &FoundRow| -> Result<(), StoreError> {
        match insert(&transaction, table, row)? {
            true => count += 1,
            false => lost.push(if table.without_ids { table.name.clone() } else { format!("{} {}", table.name, row.id) }),
        }
        Ok(())
    };
    for (_, name, root, _) in schema.iter().filter(|(kind, ..)| kind == "table") {
        let Some(table) = tables.iter().find(|table| table.name == *name) else { continue };
        for row in pages.rows(*root, table.without_ids, &mut seen) {
            put(table, &row)?;
        }
    }
    // Pages that no tree leads to any more, because the page above them is damaged, are told by the shape of their rows.
    let free = pages.free();
    for number in (2..=pages.count).filter(|number| !seen.contains(number) && !free.contains(number)).collect::<Vec<_>>() {
        for row in pages.rows_of_leaf(number) {
            if let [table] = fitting(&tables, &row).as_slice() {
                put(table, &row)?;
            }
        }
    }
    // Where the order stood is known from what was ordered, should its own row be lost.
    if tables.iter().any(|table| table.name == "sequence") {
        transaction.execute_batch(
            "INSERT INTO sequence SELECT 1, max(seq) FROM (SELECT coalesce(max(seq), 0) AS seq FROM take UNION ALL SELECT coalesce(max(seq), 0) FROM treatment
                UNION ALL SELECT coalesce(max(seq), 0) FROM head_change UNION ALL SELECT coalesce(max(seq), 0) FROM tuning_round)
             WHERE true ON CONFLICT (id) DO UPDATE SET last = max(last, excluded.last)",
        )?;
    }
    // Where no kit is left, all drums make one.
    if tables.iter().any(|table| table.name == "kit") {
        transaction.execute_batch(
            "INSERT INTO kit (id, found_by, content) SELECT 1, 'my kit', json_object('name', 'My kit', 'drums',
                 (SELECT json_group_array(json_object('drum_id', id)) FROM (SELECT id FROM drum ORDER BY position, id)))
             WHERE NOT EXISTS (SELECT 1 FROM kit)",
        )?;
    }
    transaction.commit()?;
    Ok((count, lost))
}

/// Kind, name, root page and SQL of a row of the schema.
fn schema_row(row: FoundRow) -> Option<(String, String, u32, String)> {
    match row.values.as_slice() {
        [Value::Text(kind), Value::Text(name), _, Value::Integer(root), Value::Text(sql), ..] => {
            Some((kind.clone(), name.clone(), u32::try_from(*root).ok()?, sql.clone())).filter(|_| !name.starts_with("sqlite_"))
        }
        _ => None,
    }
}

/// The mark in the header of the file at `path` that says whose it is.
fn mark_of(path: &Path) -> i64 {
    let mut head = [0; 72];
    match File::open(path).and_then(|mut file| file.read_exact(&mut head)) {
        Ok(()) => known_mark(i64::from(u32::from_be_bytes([head[68], head[69], head[70], head[71]]))),
        Err(_) => known_mark(0),
    }
}

/// The version of the data that its tables show, where its own number may be damaged.
fn version_of(schema: &[(String, String, u32, String)], path: &Path) -> i64 {
    let has = |table: &str| schema.iter().any(|(_, name, ..)| name == table);
    let number = File::open(path).ok().and_then(|mut file| {
        let mut head = [0; 64];
        file.read_exact(&mut head).ok()?;
        Some(i64::from(u32::from_be_bytes([head[60], head[61], head[62], head[63]])))
    });
    match number {
        Some(number) if (1..known_version()).contains(&number) && !has("sequence") => number,
        _ => known_version(),
    }
}

fn tables(connection: &Connection) -> Result<Vec<Table>, StoreError> {
    let mut statement = connection.prepare("SELECT name, sql FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")?;
    let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<Vec<(String, String)>, _>>()?;
    rows.into_iter()
        .map(|(name, sql)| {
            let mut statement =
                connection.prepare("SELECT name, type, \"notnull\", dflt_value IS NOT NULL, pk FROM pragma_table_info(?1)")?;
            let column = |row: &rusqlite::Row| {
                let name: String = row.get(0)?;
                Ok(Column {
                    is_json: sql.contains(&format!("json_valid({name})")),
                    kind: row.get(1)?,
                    not_null: row.get(2)?,
                    has_default: row.get(3)?,
                    key: row.get::<_, i64>(4)? > 0,
                })
            };
            let columns = statement.query_map([&name], column)?.collect::<Result<_, _>>()?;
            Ok(Table { without_ids: sql.contains("WITHOUT ROWID"), name, columns })
        })
        .collect()
}

/// Whether the row could be put in: it must keep the table's rules, and what is there already stays.
fn insert(connection: &Connection, table: &Table, row: &FoundRow) -> Result<bool, StoreError> {
    if row.values.is_empty() || row.values.len() > table.columns.len() {
        return Ok(false);
    }
    let value = |(index, value): (usize, &Value)| match value {
        // The number of a row stands beside it, not in it.
        Value::Null if table.columns[index].key && !table.without_ids => Value::Integer(row.id),
        value => value.clone(),
    };
    let values: Vec<Value> = row.values.iter().enumerate().map(value).collect();
    let places = vec!["?"; values.len()].join(", ");
    let mut names = connection.prepare_cached("SELECT name FROM pragma_table_info(?1)")?;
    let names: Vec<String> = names.query_map([&table.name], |row| row.get(0))?.take(values.len()).collect::<Result<_, _>>()?;
    let sql = format!("INSERT OR IGNORE INTO {} ({}) VALUES ({places})", table.name, names.join(", "));
    match connection.prepare_cached(&sql)?.execute(params_from_iter(values)) {
        Ok(put) => Ok(put == 1),
        Err(error) if matches!(error.sqlite_error_code(), Some(ErrorCode::ConstraintViolation | ErrorCode::TypeMismatch)) => Ok(false),
        Err(error) => Err(error.into()),
    }
}

/// Words that only the content of these has: tables of the same shape.
const TELLING: [(&str, &str); 4] = [("venue", "\"room\""), ("song", "\"title\""), ("set_list", "\"entries\""), ("kit", "\"drums\"")];

/// Tables that `row` may be of.
fn fitting<'a>(tables: &'a [Table], row: &FoundRow) -> Vec<&'a Table> {
    let fits = |column: &Column, value: &Value| match value {
        Value::Null => column.key || !column.not_null,
        Value::Integer(_) => column.kind == "INTEGER" && !column.key || column.kind == "REAL",
        Value::Real(_) => column.kind == "REAL",
        Value::Text(text) if column.is_json => column.kind == "TEXT" && text.starts_with(['{', '[', '"']),
        Value::Text(text) => column.kind == "TEXT" && !text.starts_with('{'),
        Value::Blob(_) => column.kind == "BLOB",
    };
    let tells = |table: &Table| match TELLING.iter().find(|(name, _)| *name == table.name) {
        Some((_, word)) => row.values.iter().any(|value| matches!(value, Value::Text(text) if text.contains(word))),
        None => true,
    };
    let could_be = |table: &&Table| {
        let (here, left) = table.columns.split_at(row.values.len().min(table.columns.len()));
        !table.without_ids
            && row.values.len() <= table.columns.len()
            && here.iter().zip(&row.values).all(|(column, value)| fits(column, value))
            && left.iter().all(|column| !column.not_null || column.has_default)
            && tells(table)
    };
    tables.iter().filter(could_be).collect()
}

/// Takes rows that others refer to from the newest copy, where they are lost. How many.
fn fill_from_copy(path: &Path, to: &Path) -> Result<usize, StoreError> {
    let Some(copy) = copies::list(path).into_iter().find(|copy| copy.reason != Reason::Damaged) else { return Ok(0) };
    let connection = Connection::open(to)?;
    connection.pragma_update(None, "foreign_keys", false)?;
    if connection.execute("ATTACH ?1 AS copy", [&copy.path]).is_err() {
        return Ok(0);
    }
    let mut filled = 0;
    // What is filled in may refer to more that is lost.
    for _ in 0..4 {
        let mut statement = connection.prepare("SELECT \"table\", rowid, parent, fkid FROM pragma_foreign_key_check")?;
        let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))?;
        let missing: Vec<(String, Option<i64>, String, i64)> = rows.collect::<Result<_, _>>()?;
        let mut wanted: HashMap<String, HashSet<i64>> = HashMap::new();
        for (table, row, parent, key) in missing {
            let column: Result<String, _> =
                connection.query_row("SELECT \"from\" FROM pragma_foreign_key_list(?1) WHERE id = ?2", (&table, key), |row| row.get(0));
            let (Ok(column), Some(row)) = (column, row) else { continue };
            let id = connection.query_row(&format!("SELECT {column} FROM {table} WHERE rowid = ?1"), [row], |row| row.get::<_, i64>(0));
            wanted.entry(parent).or_default().extend(id.ok());
        }
        let before = filled;
        for (parent, ids) in wanted {
            for id in ids {
                let sql = format!("INSERT OR IGNORE INTO main.{parent} SELECT * FROM copy.{parent} WHERE id = ?1");
                // A copy of an older version may have other columns: then nothing is taken from it.
                filled += connection.execute(&sql, [id]).unwrap_or(0);
            }
        }
        if filled == before {
            break;
        }
    }
    Ok(filled)
}

#[cfg(test)]
mod tests;
