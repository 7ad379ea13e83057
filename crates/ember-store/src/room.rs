//! What takes room on the disk, and how some of it is given back. Figures are never let go, only sound, and only by the user's own rule.

use crate::file;
use crate::places::beside;
use crate::{Refused, Store, StoreError};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use std::path::Path;

/// Less than this free on the disk, and nothing new is begun, bytes: a session of listening keeps some megabytes.
pub const LEAST_FREE_BYTES: u64 = 64 << 20;
/// Pages given back to the disk at a time, so that nobody waits for it long.
const PAGES_AT_A_TIME: usize = 2_000;
const DAY_MS: i64 = 86_400_000;

/// What one drum takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DrumRoom {
    /// Number of the drum.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
    /// Its takes.
    pub takes: u64,
    /// Bytes of its strikes' sound.
    pub sound_bytes: u64,
}

/// What takes room.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DiskRoom {
    /// Bytes of the data file with its log.
    pub file_bytes: u64,
    /// Bytes in it that hold nothing any more.
    pub unused_bytes: u64,
    /// Free on the disk; null where that is not known.
    pub disk_free_bytes: Option<u64>,
    /// What the copies take, bytes.
    pub copies_bytes: u64,
    /// In playing order.
    pub drums: Vec<DrumRoom>,
}

/// The user's rule for letting sound go. Takes that plans start from, and the newest of each drum as it is, keep theirs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Thinning {
    /// Takes older than this, in days.
    pub older_than_days: u32,
    /// So many strikes of each such take keep their sound: those in the middle by level.
    pub strikes_kept: u32,
    /// Whether this is done by itself, once a day.
    #[serde(default)]
    pub daily: bool,
}

impl Thinning {
    /// The longest that sound can be kept for by a rule, days.
    pub const MOST_DAYS: u32 = 3_650;
    /// The most strikes that a rule can keep with their sound.
    pub const MOST_STRIKES: u32 = 500;

    fn validate(self) -> Result<(), StoreError> {
        if self.older_than_days > Self::MOST_DAYS || self.strikes_kept > Self::MOST_STRIKES {
            return Err(Refused::Thinning.into());
        }
        Ok(())
    }
}

/// What thinning let go, or would.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Thinned {
    /// Strikes whose sound goes.
    pub strikes: u64,
    /// What that frees, bytes.
    pub bytes: u64,
}

impl Store {
    /// Free bytes on the disk with the data; `None` in memory or where it is not known.
    pub fn disk_free_bytes(&self) -> Option<u64> {
        fs4::available_space(self.path.as_deref()?).ok()
    }

    /// What takes room.
    pub fn room(&self) -> Result<DiskRoom, StoreError> {
        let mut statement = self.connection.prepare_cached(
            "SELECT drum.id, count(take.id), coalesce(sum(take.sound_bytes), 0) FROM drum LEFT JOIN take ON take.drum_id = drum.id
             GROUP BY drum.id ORDER BY drum.position, drum.id",
        )?;
        let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))?;
        let sizes: Vec<(i64, i64, i64)> = rows.collect::<Result<_, _>>()?;
        let names = self.all_drums()?;
        let drum = |(drum_id, takes, bytes): (i64, i64, i64)| DrumRoom {
            drum_id,
            name: names
                .iter()
                .find(|drum| drum.id == drum_id)
                .map_or_else(|| "a drum that cannot be read".into(), |drum| drum.drum.name.clone()),
            takes: takes.unsigned_abs(),
            sound_bytes: bytes.unsigned_abs(),
        };
        let size = |name: &Path| std::fs::metadata(name).map_or(0, |about| about.len());
        let files = |path: &Path| ["", "-wal"].iter().map(|ending| size(&beside(path, ending))).sum();
        let number = |pragma: &str| self.connection.pragma_query_value(None, pragma, |row| row.get::<_, i64>(0));
        Ok(DiskRoom {
            file_bytes: self.path.as_deref().map_or(0, files),
            unused_bytes: (number("freelist_count")? * number("page_size")?).unsigned_abs(),
            disk_free_bytes: self.disk_free_bytes(),
            copies_bytes: self.path.as_deref().map_or(0, |path| Self::copies(path).iter().map(|copy| copy.bytes).sum()),
            drums: sizes.into_iter().map(drum).collect(),
        })
    }

    /// Gives what was freed back to the disk, a piece at a time. Whether there may be more. A file from before this was possible is made
    /// so by [`compact`](Self::compact).
    pub fn give_back(&mut self) -> Result<bool, StoreError> {
        let mut statement = self.connection.prepare(&format!("PRAGMA incremental_vacuum({PAGES_AT_A_TIME})"))?;
        let mut rows = statement.query([])?;
        while rows.next()?.is_some() {}
        drop(rows);
        drop(statement);
        self.connection.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()))?;
        let left: i64 = self.connection.pragma_query_value(None, "freelist_count", |row| row.get(0))?;
        let can: i64 = self.connection.pragma_query_value(None, "auto_vacuum", |row| row.get(0))?;
        Ok(left > 0 && can != 0)
    }

    /// Writes the whole file anew without what holds nothing any more. Takes some seconds for each gigabyte, and as much free room.
    pub fn compact(&mut self) -> Result<(), StoreError> {
        self.connection.pragma_update(None, "auto_vacuum", "INCREMENTAL")?;
        self.connection.execute_batch("VACUUM")?;
        self.connection.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()))?;
        Ok(())
    }

    /// The user's rule for letting sound go; none while there is none.
    pub fn thinning(&self) -> Result<Option<Thinning>, StoreError> {
        let content: Option<String> =
            self.connection.query_row("SELECT content FROM keeping WHERE id = 1", [], |row| row.get(0)).optional()?;
        Ok(content.and_then(|content| serde_json::from_str(&content).ok()))
    }

    /// Keeps the rule by which old sound goes, or that none does.
    pub fn set_thinning(&mut self, rule: Option<Thinning>) -> Result<(), StoreError> {
        match rule {
            Some(rule) => {
                rule.validate()?;
                let content = serde_json::to_string(&rule)?;
                self.connection.execute("INSERT OR REPLACE INTO keeping (id, content) VALUES (1, ?1)", [content])?;
            }
            None => {
                self.connection.execute("DELETE FROM keeping", [])?;
            }
        }
        Ok(())
    }

    /// What `rule` would let go at `now` (ms since 1970).
    pub fn would_thin(&self, rule: Thinning, now: i64) -> Result<Thinned, StoreError> {
        rule.validate()?;
        let mut all = Thinned::default();
        for take in thinned_takes(&self.connection, rule, now)? {
            let (_, of_take) = thinned_strikes(&self.connection, take, rule)?;
            all = Thinned { strikes: all.strikes + of_take.strikes, bytes: all.bytes + of_take.bytes };
        }
        Ok(all)
    }

    /// Lets the sound go that `rule` says, at `now`. Figures stay as they are.
    pub fn thin(&mut self, rule: Thinning, now: i64) -> Result<Thinned, StoreError> {
        rule.validate()?;
        self.even_on_a_full_disk(|store| {
            let mut all = Thinned::default();
            // Take by take, so that the log stays small and a listening window waits for none of it.
            for take in thinned_takes(&store.connection, rule, now)? {
                let transaction = store.connection.transaction()?;
                let (strikes, of_take) = thinned_strikes(&transaction, take, rule)?;
                for strike in strikes {
                    transaction.execute("UPDATE strike SET sound = x'' WHERE id = ?1", [strike])?;
                }
                transaction.execute("UPDATE take SET sound_bytes = sound_bytes - ?2 WHERE id = ?1", params![take, of_take.bytes as i64])?;
                transaction.commit()?;
                all = Thinned { strikes: all.strikes + of_take.strikes, bytes: all.bytes + of_take.bytes };
            }
            Ok(all)
        })
    }

    /// Checks the whole file at `path` beside the program's own connection, a second or so for each gigabyte; a damaged one is mended at
    /// the next start. Whether it is sound.
    pub fn check_file(path: &Path) -> Result<bool, StoreError> {
        let sound = file::check(path)?;
        if !sound {
            file::mark_damaged(path)?;
        }
        Ok(sound)
    }
}

/// Takes whose sound may go: old, with more of it than is to stay, not started from, and not the newest of their drum as it was then.
fn thinned_takes(connection: &Connection, rule: Thinning, now: i64) -> Result<Vec<i64>, StoreError> {
    let mut statement = connection.prepare_cached(
        "SELECT id FROM take WHERE begun_at < ?1 AND sound_bytes > 0
             AND NOT EXISTS (SELECT 1 FROM treatment WHERE open_take_id = take.id)
             AND EXISTS (SELECT 1 FROM take AS newer WHERE newer.drum_id = take.drum_id AND newer.treatment_id IS take.treatment_id
                 AND newer.strikes_used > 0 AND newer.seq > take.seq) ORDER BY id",
    )?;
    let before = now - i64::from(rule.older_than_days) * DAY_MS;
    Ok(statement.query_map([before], |row| row.get(0))?.collect::<Result<_, _>>()?)
}

/// Strikes of a take whose sound goes: all but those that are nearest to its middle by level.
fn thinned_strikes(connection: &Connection, take: i64, rule: Thinning) -> Result<(Vec<i64>, Thinned), StoreError> {
    let mut statement = connection.prepare_cached(
        "SELECT id, length(sound), coalesce(json_extract(measurement, '$.peak_dbfs'), -200.0), dropped FROM strike
         WHERE take_id = ?1 AND length(sound) > 0",
    )?;
    let rows = statement.query_map([take], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))?;
    let mut strikes: Vec<(i64, i64, f64, bool)> = rows.collect::<Result<_, _>>()?;
    let mut levels: Vec<f64> = strikes.iter().map(|(_, _, level, _)| *level).collect();
    levels.sort_by(f64::total_cmp);
    let middle = levels.get(levels.len() / 2).copied().unwrap_or(0.0);
    strikes.sort_by(|a, b| a.3.cmp(&b.3).then_with(|| (a.2 - middle).abs().total_cmp(&(b.2 - middle).abs())).then_with(|| a.0.cmp(&b.0)));
    let gone = strikes.into_iter().skip(rule.strikes_kept as usize).collect::<Vec<_>>();
    let thinned = Thinned { strikes: gone.len() as u64, bytes: gone.iter().map(|(_, bytes, ..)| bytes.unsigned_abs()).sum() };
    Ok((gone.into_iter().map(|(id, ..)| id).collect(), thinned))
}

impl Store {
    /// Lets the file grow to so many pages only, as if the disk were full behind them; for tests.
    #[doc(hidden)]
    pub fn limit_pages(&mut self, most: Option<u32>) {
        // Without the pragma the test that asks for it fails.
        let _ = self.connection.pragma_update(None, "max_page_count", most.unwrap_or(u32::MAX - 1));
    }
}
