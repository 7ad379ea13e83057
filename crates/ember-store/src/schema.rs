//! The tables, step by step from the first version to today's, and the marks by which a file is known.

use crate::StoreError;
use rusqlite::Connection;
use rusqlite_migration::{M, Migrations};

/// Marks in the file's header whose it is: a kit of the user's own, or the demonstration ("SoEm", "SoEd").
pub(crate) const OWN_ID: i64 = 0x536F_456D;
pub(crate) const DEMO_ID: i64 = 0x536F_4564;

const STEPS: [&str; 13] = [
    include_str!("../migrations/0001_first.sql"),
    include_str!("../migrations/0002_tonight.sql"),
    include_str!("../migrations/0003_tune.sql"),
    include_str!("../migrations/0004_heads.sql"),
    include_str!("../migrations/0005_heart.sql"),
    include_str!("../migrations/0006_front.sql"),
    include_str!("../migrations/0007_nothing_bought.sql"),
    include_str!("../migrations/0008_order.sql"),
    include_str!("../migrations/0009_doubt.sql"),
    include_str!("../migrations/0010_opinions.sql"),
    include_str!("../migrations/0011_kits.sql"),
    include_str!("../migrations/0012_heard_as.sql"),
    include_str!("../migrations/0013_words.sql"),
];

pub(crate) fn migrations() -> Migrations<'static> {
    Migrations::new(STEPS.iter().map(|step| M::up(step)).collect())
}

/// How many versions of the data this program knows.
pub(crate) fn known_version() -> i64 {
    STEPS.len() as i64
}

/// `mark` if it is one of Soft Ember's, else that of a kit of the user's own.
pub(crate) fn known_mark(mark: i64) -> i64 {
    if mark == DEMO_ID { DEMO_ID } else { OWN_ID }
}

/// Makes the tables that data of `version` has.
pub(crate) fn make_tables(connection: &mut Connection, version: i64) -> Result<(), StoreError> {
    connection.pragma_update(None, "foreign_keys", false)?;
    Ok(migrations().to_version(connection, version.clamp(1, known_version()) as usize)?)
}
