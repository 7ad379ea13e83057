//! Copies of the data file: before it is brought up to date, before it is made anew, and daily. A few are kept, the older the fewer.

use crate::places::{beside, io};
use crate::{Store, StoreError};
use rusqlite::{Connection, OpenFlags};
use serde::{Deserialize, Serialize};
use std::fs::File;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime, UNIX_EPOCH};
use time::OffsetDateTime;
use time::macros::format_description;

/// Data larger than this is copied without the sound, which is by far the most of it: figures, songs and wishes are what cannot be had
/// again, bytes.
const WITH_SOUND_UP_TO: u64 = 256 << 20;
/// Left free on the disk beside a copy, bytes.
const LEFT_FREE: u64 = 200 << 20;
/// A day, as a player counts them.
const DAILY: Duration = Duration::from_secs(20 * 3600);
/// Of the daily ones so many of the newest stay, and one of those older than each of these.
const NEWEST_DAILY: usize = 3;
const OLDER: [Duration; 2] = [Duration::from_secs(7 * 86_400), Duration::from_secs(30 * 86_400)];
/// Of each other reason so many stay.
const NEWEST_OTHERS: usize = 2;

/// Why a copy was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Reason {
    /// Once a day.
    Daily,
    /// A newer program brought the data up to date.
    BeforeUpdate,
    /// The demonstration was made anew.
    BeforeFresh,
    /// The file was damaged, and what could be read was put into a new one.
    Damaged,
}

impl Reason {
    const ALL: [(Self, &'static str); 4] =
        [(Self::Daily, "daily"), (Self::BeforeUpdate, "before-update"), (Self::BeforeFresh, "before-fresh"), (Self::Damaged, "damaged")];

    fn word(self) -> &'static str {
        Self::ALL.iter().find(|(reason, _)| *reason == self).map_or("daily", |(_, word)| word)
    }

    fn of_name(name: &str) -> Option<Self> {
        let stem = name.strip_suffix(".sqlite")?;
        Self::ALL.iter().find(|(_, word)| stem.ends_with(&format!("-{word}"))).map(|(reason, _)| *reason)
    }
}

/// A copy of the data.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DataCopy {
    /// Where it is.
    pub path: String,
    /// Why it was made.
    pub reason: Reason,
    /// Milliseconds since 1970, UTC.
    pub made_at: i64,
    /// How large it is, bytes.
    pub bytes: u64,
}

pub(crate) fn folder(path: &Path) -> PathBuf {
    beside(path, ".copies")
}

/// A new name among the copies of the file at `path`, its folder made.
pub(crate) fn new_name(path: &Path, reason: Reason) -> Result<PathBuf, StoreError> {
    let folder = folder(path);
    std::fs::create_dir_all(&folder).map_err(io(&folder))?;
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        let _ = std::fs::set_permissions(&folder, std::fs::Permissions::from_mode(0o700));
    }
    let form = format_description!("[year]-[month]-[day]T[hour]-[minute]-[second]");
    let stamp = OffsetDateTime::now_utc().format(form).unwrap_or_else(|_| "undated".into());
    // Two within a second do not take each other's place.
    let names = (0..).map(|again| match again {
        0 => format!("{stamp}-{}.sqlite", reason.word()),
        _ => format!("{stamp}-{again}-{}.sqlite", reason.word()),
    });
    Ok(names.map(|name| folder.join(name)).find(|name| !name.exists()).unwrap_or_default())
}

/// Copies the file at `path`, however large, beside it; what is kept there already is thinned. Gives the copy's place.
pub(crate) fn make(path: &Path, reason: Reason) -> Result<PathBuf, StoreError> {
    let size = std::fs::metadata(path).map_err(io(path))?.len();
    let with_sound = size <= WITH_SOUND_UP_TO;
    let name = new_name(path, reason)?;
    let free = fs4::available_space(folder(path)).map_err(io(path))?;
    if free < LEFT_FREE + if with_sound { size } else { WITH_SOUND_UP_TO } {
        return Err(StoreError::Full);
    }
    let part = beside(&name, ".part");
    let _ = std::fs::remove_file(&part);
    let made = if with_sound { whole(path, &part) } else { without_sound(path, &part) };
    if let Err(error) = made {
        let _ = std::fs::remove_file(&part);
        return Err(error);
    }
    File::open(&part).and_then(|file| file.sync_all()).map_err(io(&part))?;
    std::fs::rename(&part, &name).map_err(io(&name))?;
    thin(path);
    Ok(name)
}

fn whole(path: &Path, to: &Path) -> Result<(), StoreError> {
    let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    connection.busy_timeout(Duration::from_secs(5))?;
    connection.execute("VACUUM INTO ?1", [to.display().to_string()])?;
    Ok(())
}

fn without_sound(path: &Path, to: &Path) -> Result<(), StoreError> {
    let mut connection = Connection::open(to)?;
    connection.busy_timeout(Duration::from_secs(5))?;
    connection.execute("ATTACH ?1 AS source", [path.display().to_string()])?;
    for pragma in ["application_id", "user_version"] {
        let value: i64 = connection.query_row(&format!("PRAGMA source.{pragma}"), [], |row| row.get(0))?;
        connection.pragma_update(None, pragma, value)?;
    }
    connection.pragma_update(None, "foreign_keys", false)?;
    let transaction = connection.transaction()?;
    {
        let mut statement = transaction.prepare(
            "SELECT type, name, sql FROM source.sqlite_schema WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%' ORDER BY type = 'index'",
        )?;
        let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))?;
        let made: Vec<(String, String, String)> = rows.collect::<Result<_, _>>()?;
        for (kind, name, sql) in made {
            transaction.execute_batch(&sql)?;
            if kind == "table" {
                let mut statement = transaction.prepare(&format!("SELECT name FROM pragma_table_info('{name}')"))?;
                let columns: Vec<String> = statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?;
                let silent: Vec<&str> = columns.iter().map(|column| if column == "sound" { "x''" } else { column }).collect();
                transaction.execute_batch(&format!("INSERT INTO main.{name} SELECT {} FROM source.{name}", silent.join(", ")))?;
            }
        }
    }
    Ok(transaction.commit()?)
}

/// The copies of the file at `path`, newest first.
pub(crate) fn list(path: &Path) -> Vec<DataCopy> {
    let Ok(entries) = std::fs::read_dir(folder(path)) else { return Vec::new() };
    let copy = |entry: std::io::Result<std::fs::DirEntry>| {
        let entry = entry.ok()?;
        let reason = Reason::of_name(entry.file_name().to_str()?)?;
        let about = entry.metadata().ok()?;
        let made_at = about.modified().ok()?.duration_since(UNIX_EPOCH).ok()?.as_millis() as i64;
        Some(DataCopy { path: entry.path().display().to_string(), reason, made_at, bytes: about.len() })
    };
    let mut copies: Vec<DataCopy> = entries.filter_map(copy).collect();
    copies.sort_by_key(|copy| std::cmp::Reverse((copy.made_at, copy.path.clone())));
    copies
}

/// Which of `copies` (newest first) are one too many at `now` (ms since 1970).
fn too_many(copies: &[DataCopy], now: i64) -> Vec<&DataCopy> {
    let daily: Vec<&DataCopy> = copies.iter().filter(|copy| copy.reason == Reason::Daily).collect();
    let older = OLDER.iter().filter_map(|age| daily.iter().find(|copy| now - copy.made_at >= age.as_millis() as i64));
    let mut kept: Vec<&DataCopy> = daily.iter().take(NEWEST_DAILY).chain(older).copied().collect();
    for (reason, _) in Reason::ALL.into_iter().filter(|(reason, _)| *reason != Reason::Daily) {
        kept.extend(copies.iter().filter(|copy| copy.reason == reason).take(NEWEST_OTHERS));
    }
    copies.iter().filter(|copy| !kept.contains(copy)).collect()
}

fn thin(path: &Path) {
    let now = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |since| since.as_millis() as i64);
    for copy in too_many(&list(path), now) {
        // One that cannot be removed now goes the next time.
        let _ = std::fs::remove_file(&copy.path);
    }
}

impl Store {
    /// Copies of the data, newest first.
    pub fn copies(path: &Path) -> Vec<DataCopy> {
        list(path)
    }

    /// Keeps a copy of the file at `path` before it is made anew.
    pub fn copy_before_fresh(path: &Path) -> Result<PathBuf, StoreError> {
        make(path, Reason::BeforeFresh)
    }

    /// Copies the file at `path` now, as one of the daily copies.
    pub fn copy_now(path: &Path) -> Result<PathBuf, StoreError> {
        make(path, Reason::Daily)
    }

    /// Copies the file at `path` if the last daily copy is older than a day and something has changed since. Works beside the program's own
    /// connection, which goes on meanwhile. Whether a copy was made.
    pub fn copy_daily(path: &Path) -> Result<bool, StoreError> {
        let changed = [path.to_path_buf(), beside(path, "-wal")];
        let changed = changed.iter().filter_map(|name| std::fs::metadata(name).ok()?.modified().ok()).max();
        let newest = list(path).into_iter().find(|copy| copy.reason == Reason::Daily);
        let newest = newest.map(|copy| UNIX_EPOCH + Duration::from_millis(copy.made_at.unsigned_abs()));
        let due = match (newest, changed) {
            (Some(newest), Some(changed)) => changed > newest && newest.elapsed().map_or(true, |age| age > DAILY),
            (None, Some(_)) => true,
            (_, None) => false,
        };
        if due {
            make(path, Reason::Daily)?;
        }
        Ok(due)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_older_the_fewer_and_the_newest_always_stay() {
        let day = 86_400_000i64;
        let copy = |age_days: i64, reason| DataCopy { path: format!("{age_days}"), reason, made_at: 100 * day - age_days * day, bytes: 1 };
        let mut copies: Vec<DataCopy> = (0..60).map(|age| copy(age, Reason::Daily)).collect();
        copies.extend([copy(61, Reason::BeforeUpdate), copy(70, Reason::BeforeUpdate), copy(80, Reason::BeforeUpdate)]);
        let gone: Vec<i64> = too_many(&copies, 100 * day).iter().filter_map(|copy| copy.path.parse().ok()).collect();
        let kept: Vec<i64> = copies.iter().filter_map(|copy| copy.path.parse().ok()).filter(|age| !gone.contains(age)).collect();
        assert_eq!(kept, [0, 1, 2, 7, 30, 61, 70]);
    }
}
