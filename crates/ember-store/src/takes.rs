//! Takes and their strikes. What a take says is worked out from its strikes whenever they change, in the same transaction.

use crate::{Store, StoreError};
use ember_core::decay::{Partial, StrikeMeasurement, TakeSummary, combine_partials, mark_ghosts, summarize};
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};

/// Where a take's sound came from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Source {
    Microphone,
    File,
    Simulated,
}

impl Source {
    const ALL: [(Self, &'static str); 3] = [(Self::Microphone, "microphone"), (Self::File, "file"), (Self::Simulated, "simulated")];

    pub(crate) fn code(self) -> &'static str {
        Self::ALL.iter().find(|(source, _)| *source == self).map_or("file", |(_, code)| code)
    }

    pub(crate) fn of_code(code: &str) -> Self {
        Self::ALL.iter().find(|(_, other)| *other == code).map_or(Self::File, |(source, _)| *source)
    }
}

/// A take without its strikes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptTake {
    pub id: i64,
    pub drum_id: i64,
    /// The treatment that was on the drum; null where it was open.
    pub treatment_id: Option<i64>,
    pub source: Source,
    /// Name of the file that was read.
    pub source_name: Option<String>,
    /// Milliseconds since 1970, UTC.
    pub begun_at: i64,
    pub summary: TakeSummary,
    /// Partials heard in at least half of the strikes used.
    pub partials: Vec<Partial>,
}

/// A strike as kept, without its sound.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptStrike {
    pub id: i64,
    /// Left out by the user.
    pub dropped: bool,
    #[serde(flatten)]
    pub measurement: StrikeMeasurement,
}

/// A strike to be kept.
pub struct NewStrike<'a> {
    pub measurement: &'a StrikeMeasurement,
    /// FLAC.
    pub sound: &'a [u8],
    /// Index of the hit in the sound.
    pub onset_index: usize,
}

const COLUMNS: &str = "id, drum_id, treatment_id, source, source_name, begun_at, summary, partials";

fn read(row: &Row) -> rusqlite::Result<(KeptTake, String, String)> {
    let take = KeptTake {
        id: row.get(0)?,
        drum_id: row.get(1)?,
        treatment_id: row.get(2)?,
        source: Source::of_code(&row.get::<_, String>(3)?),
        source_name: row.get(4)?,
        begun_at: row.get(5)?,
        summary: TakeSummary::default(),
        partials: Vec::new(),
    };
    Ok((take, row.get(6)?, row.get(7)?))
}

fn with_json((mut take, summary, partials): (KeptTake, String, String)) -> Result<KeptTake, StoreError> {
    take.summary = serde_json::from_str(&summary)?;
    take.partials = serde_json::from_str(&partials)?;
    Ok(take)
}

impl Store {
    /// Begins a take on a drum as it is now: with the treatment that is on it, or open.
    pub fn begin_take(&self, drum_id: i64, source: Source, source_name: Option<&str>, begun_at: i64) -> Result<i64, StoreError> {
        let treatment = self.treatment_on(drum_id)?.map(|treatment| treatment.id);
        self.drum(drum_id)?;
        self.connection.execute(
            "INSERT INTO take (drum_id, treatment_id, source, source_name, begun_at, summary, partials) VALUES (?1, ?2, ?3, ?4, ?5, ?6, '[]')",
            params![drum_id, treatment, source.code(), source_name, begun_at, serde_json::to_string(&TakeSummary::default())?],
        )?;
        Ok(self.connection.last_insert_rowid())
    }

    /// Keeps strikes at the end of a take. When this returns they are on the disk.
    pub fn add_strikes(&mut self, take_id: i64, strikes: &[NewStrike]) -> Result<KeptTake, StoreError> {
        let transaction = self.connection.transaction()?;
        insert_strikes(&transaction, take_id, strikes)?;
        transaction.commit()?;
        self.take(take_id)
    }

    /// Keeps a whole take at once, or nothing of it.
    pub fn add_take(
        &mut self,
        drum_id: i64,
        source: Source,
        source_name: Option<&str>,
        begun_at: i64,
        strikes: &[NewStrike],
    ) -> Result<KeptTake, StoreError> {
        // Dropped before it is committed, it takes everything back.
        let transaction = self.connection.unchecked_transaction()?;
        let id = self.begin_take(drum_id, source, source_name, begun_at)?;
        insert_strikes(&transaction, id, strikes)?;
        transaction.commit()?;
        self.take(id)
    }

    /// Leaves a strike out of its take, or takes it back in. Returns its take.
    pub fn set_dropped(&mut self, strike_id: i64, dropped: bool) -> Result<KeptTake, StoreError> {
        let transaction = self.connection.transaction()?;
        let take_id: i64 = transaction
            .query_row("UPDATE strike SET dropped = ?2 WHERE id = ?1 RETURNING take_id", (strike_id, dropped), |row| row.get(0))
            .map_err(StoreError::missing("strike", strike_id))?;
        conclude(&transaction, take_id)?;
        transaction.commit()?;
        self.take(take_id)
    }

    pub fn take(&self, id: i64) -> Result<KeptTake, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM take WHERE id = ?1"))?;
        with_json(statement.query_row([id], read).map_err(StoreError::missing("take", id))?)
    }

    /// All takes of a drum, newest first.
    pub fn takes(&self, drum_id: i64) -> Result<Vec<KeptTake>, StoreError> {
        let mut statement =
            self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM take WHERE drum_id = ?1 ORDER BY begun_at DESC, id DESC"))?;
        let rows = statement.query_map([drum_id], read)?.collect::<Result<Vec<_>, _>>()?;
        rows.into_iter().map(with_json).collect()
    }

    /// Takes of a drum that a treatment started from.
    pub fn takes_in_use(&self, drum_id: i64) -> Result<Vec<i64>, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT DISTINCT open_take_id FROM treatment WHERE drum_id = ?1")?;
        Ok(statement.query_map([drum_id], |row| row.get(0))?.collect::<Result<_, _>>()?)
    }

    /// The newest take with a strike that counts, on the heads that are on the drum now: of the open drum, or with `treatment_id`
    /// on it.
    pub fn newest_take(&self, drum_id: i64, treatment_id: Option<i64>) -> Result<Option<KeptTake>, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!(
            "SELECT {COLUMNS} FROM take WHERE drum_id = ?1 AND treatment_id IS ?2 AND json_extract(summary, '$.strikes_used') > 0
             AND begun_at >= coalesce((SELECT max(at) FROM head_change WHERE head_change.drum_id = ?1 AND gone_at IS NULL), 0)
             ORDER BY begun_at DESC, id DESC LIMIT 1"
        ))?;
        statement.query_row((drum_id, treatment_id), read).optional()?.map(with_json).transpose()
    }

    /// The newest take of the open drum with a strike that counts, begun from `since` on and before `until` (ms since 1970).
    pub fn newest_open_take(&self, drum_id: i64, since: i64, until: i64) -> Result<Option<KeptTake>, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!(
            "SELECT {COLUMNS} FROM take WHERE drum_id = ?1 AND treatment_id IS NULL AND json_extract(summary, '$.strikes_used') > 0
             AND begun_at >= ?2 AND begun_at < ?3 ORDER BY begun_at DESC, id DESC LIMIT 1"
        ))?;
        statement.query_row((drum_id, since, until), read).optional()?.map(with_json).transpose()
    }

    /// The strikes of a take in the order they were played.
    pub fn strikes(&self, take_id: i64) -> Result<Vec<KeptStrike>, StoreError> {
        strikes(&self.connection, take_id)
    }

    /// A strike's sound (FLAC).
    pub fn sound(&self, strike_id: i64) -> Result<Vec<u8>, StoreError> {
        self.connection
            .query_row("SELECT sound FROM strike WHERE id = ?1", [strike_id], |row| row.get(0))
            .map_err(StoreError::missing("strike", strike_id))
    }

    /// A strike with its sound (FLAC) and the index of the hit in it.
    pub fn strike_with_sound(&self, strike_id: i64) -> Result<(KeptStrike, Vec<u8>, usize), StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT dropped, measurement, sound, onset_index FROM strike WHERE id = ?1")?;
        let (dropped, text, sound, onset): (bool, String, Vec<u8>, i64) = statement
            .query_row([strike_id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))
            .map_err(StoreError::missing("strike", strike_id))?;
        let strike = KeptStrike { id: strike_id, dropped, measurement: serde_json::from_str(&text)? };
        Ok((strike, sound, onset.max(0) as usize))
    }

    /// Puts new measurements in the place of strikes' old ones, all of a take or none. Returns the take with what they come to.
    pub fn replace_measurements(&mut self, take_id: i64, strikes: &[(i64, StrikeMeasurement)]) -> Result<KeptTake, StoreError> {
        let transaction = self.connection.transaction()?;
        for (id, measurement) in strikes {
            let text = serde_json::to_string(measurement)?;
            if transaction.execute("UPDATE strike SET measurement = ?3 WHERE id = ?1 AND take_id = ?2", (id, take_id, text))? == 0 {
                return Err(StoreError::NotFound { what: "strike", id: *id });
            }
        }
        conclude(&transaction, take_id)?;
        transaction.commit()?;
        self.take(take_id)
    }

    /// Name and partials of every drum but one, from the newest take of each as it is now.
    pub fn partials_of_others(&self, drum_id: i64) -> Result<Vec<(String, Vec<Partial>)>, StoreError> {
        let mut others = Vec::new();
        for drum in self.drums()?.into_iter().filter(|drum| drum.id != drum_id) {
            let on = self.treatment_on(drum.id)?.map(|treatment| treatment.id);
            if let Some(take) = self.newest_take(drum.id, on)? {
                others.push((drum.drum.name, take.partials));
            }
        }
        Ok(others)
    }

    /// Removes a take with its strikes.
    pub fn remove_take(&mut self, id: i64) -> Result<(), StoreError> {
        let started_from: i64 =
            self.connection.query_row("SELECT count(*) FROM treatment WHERE open_take_id = ?1", [id], |row| row.get(0))?;
        if started_from > 0 {
            return Err(StoreError::Refused("A treatment started from this take, so it stays.".into()));
        }
        match self.connection.execute("DELETE FROM take WHERE id = ?1", [id])? {
            0 => Err(StoreError::NotFound { what: "take", id }),
            _ => Ok(()),
        }
    }
}

fn insert_strikes(connection: &Connection, take_id: i64, strikes: &[NewStrike]) -> Result<(), StoreError> {
    for strike in strikes {
        connection.execute(
            "INSERT INTO strike (take_id, position, measurement, sound, onset_index)
             SELECT ?1, coalesce(max(position), 0) + 1, ?2, ?3, ?4 FROM strike WHERE take_id = ?1",
            params![take_id, serde_json::to_string(strike.measurement)?, strike.sound, strike.onset_index as i64],
        )?;
    }
    conclude(connection, take_id)
}

fn strikes(connection: &Connection, take_id: i64) -> Result<Vec<KeptStrike>, StoreError> {
    let mut statement = connection.prepare_cached("SELECT id, dropped, measurement FROM strike WHERE take_id = ?1 ORDER BY position")?;
    let rows =
        statement.query_map([take_id], |row| Ok((row.get(0)?, row.get(1)?, row.get::<_, String>(2)?)))?.collect::<Result<Vec<_>, _>>()?;
    rows.into_iter().map(|(id, dropped, text)| Ok(KeptStrike { id, dropped, measurement: serde_json::from_str(&text)? })).collect()
}

/// Works out again which strikes are ghosts and what the take says.
fn conclude(connection: &Connection, take_id: i64) -> Result<(), StoreError> {
    let kept: Vec<KeptStrike> = strikes(connection, take_id)?.into_iter().filter(|strike| !strike.dropped).collect();
    let mut measurements: Vec<StrikeMeasurement> = kept.iter().map(|strike| strike.measurement.clone()).collect();
    mark_ghosts(&mut measurements);
    for (strike, measurement) in kept.iter().zip(&measurements).filter(|(strike, measurement)| strike.measurement != **measurement) {
        connection.execute("UPDATE strike SET measurement = ?2 WHERE id = ?1", (strike.id, serde_json::to_string(measurement)?))?;
    }
    connection.execute(
        "UPDATE take SET summary = ?2, partials = ?3 WHERE id = ?1",
        (take_id, serde_json::to_string(&summarize(&measurements))?, serde_json::to_string(&combine_partials(&measurements))?),
    )?;
    Ok(())
}
