//! Takes and their strikes. What a take says is worked out from its strikes whenever they change, in the same transaction.

use crate::damaged::{optional_text, text};
use crate::{Refused, Store, StoreError, order};
use ember_core::decay::{StrikeMeasurement, TakeSummary, Warning, combine_partials, mark_ghosts, settle_bodies, summarize};
use ember_core::drum::{Drum, DrumModel};
use ember_core::plan::{Doubt, Plan, doubted};
use ember_core::tone::Partial;
use ember_words::text;
use rusqlite::{Connection, Row, params};
use serde::{Deserialize, Serialize};

/// Where a take's sound came from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Source {
    /// A microphone in the browser.
    Microphone,
    /// A sound file.
    File,
    /// The simulated drum.
    Simulated,
}

impl Source {
    const ALL: [(Self, &'static str); 3] = [(Self::Microphone, "microphone"), (Self::File, "file"), (Self::Simulated, "simulated")];

    pub(crate) fn code(self) -> &'static str {
        Self::ALL.iter().find(|(source, _)| *source == self).map_or("file", |(_, code)| code)
    }

    /// What a code stands for; one that nobody knows is an error.
    pub(crate) fn of_code(code: &str) -> Result<Self, serde_json::Error> {
        serde_json::from_value(code.into())
    }
}

/// A take without its strikes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptTake {
    /// Its number.
    pub id: i64,
    /// Number of the drum.
    pub drum_id: i64,
    /// The treatment that was on the drum; null where it was open.
    pub treatment_id: Option<i64>,
    /// Where its sound came from.
    pub source: Source,
    /// Name of the file that was read.
    pub source_name: Option<String>,
    /// Milliseconds since 1970, UTC, as the clock said.
    pub begun_at: i64,
    /// Its place in the order of all that happened, whatever the clock said.
    pub seq: i64,
    /// What its strikes come to together.
    pub summary: TakeSummary,
    /// Partials heard in at least half of the strikes used.
    pub partials: Vec<Partial>,
    /// What speaks against counting it as a take of the treatment that was on.
    pub doubt: Option<Doubt>,
    /// Whether the user said that it counts all the same.
    pub counted: bool,
    /// In which of its own states the drum was heard, as a code; null as usual.
    pub heard_as: Option<String>,
}

impl KeptTake {
    /// Whether it is taken for what it says it is.
    pub fn counts(&self) -> bool {
        self.doubt.is_none() || self.counted
    }
}

/// A strike as kept, without its sound.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptStrike {
    /// Its number.
    pub id: i64,
    /// Left out by the user.
    pub dropped: bool,
    /// Whether its sound is still kept; its figures always are.
    pub has_sound: bool,
    /// What was measured of it.
    #[serde(flatten)]
    pub measurement: StrikeMeasurement,
}

/// A strike to be kept.
pub struct NewStrike<'a> {
    /// What was measured of it.
    pub measurement: &'a StrikeMeasurement,
    /// FLAC.
    pub sound: &'a [u8],
    /// Index of the hit in the sound.
    pub onset_index: usize,
}

/// Takes that stand behind the one with the number ?2; all where there is none.
const BEHIND: &str = "(?2 IS NULL OR seq < (SELECT seq FROM take WHERE id = ?2))";
const COLUMNS: &str = "id, drum_id, treatment_id, source, source_name, begun_at, seq, summary, partials, doubt, counted, heard_as";
/// Whether a take has a strike that counts, and is taken for what it says it is.
pub(crate) const COUNTS: &str = "take.strikes_used > 0 AND (take.doubt IS NULL OR take.counted)";

/// A take with its columns that are codes or JSON: source, summary, partials, doubt.
type Columns = (KeptTake, [String; 3], Option<String>);

fn read(row: &Row) -> rusqlite::Result<Columns> {
    let take = KeptTake {
        id: row.get(0)?,
        drum_id: row.get(1)?,
        treatment_id: row.get(2)?,
        source: Source::File,
        source_name: optional_text(row, 4)?,
        begun_at: row.get(5)?,
        seq: row.get(6)?,
        summary: TakeSummary::default(),
        partials: Vec::new(),
        doubt: None,
        counted: row.get(10)?,
        heard_as: optional_text(row, 11)?,
    };
    Ok((take, [text(row, 3)?, text(row, 7)?, text(row, 8)?], optional_text(row, 9)?))
}

fn with_json((mut take, [source, summary, partials], doubt): Columns) -> Result<KeptTake, StoreError> {
    let damaged = |error: serde_json::Error| StoreError::from(error).of_row(text!("take"), take.id);
    take.source = Source::of_code(&source).map_err(damaged)?;
    (take.summary, take.partials) = (serde_json::from_str(&summary).map_err(damaged)?, serde_json::from_str(&partials).map_err(damaged)?);
    take.doubt = doubt.map(|doubt| serde_json::from_str(&doubt)).transpose().map_err(damaged)?;
    Ok(take)
}

impl Store {
    /// Begins a take on a drum as it is now: with the treatment that is on it, or open.
    pub fn begin_take(&self, drum_id: i64, source: Source, source_name: Option<&str>, begun_at: i64) -> Result<i64, StoreError> {
        let treatment = self.treatment_on(drum_id)?.map(|treatment| treatment.id);
        let drum = self.drum(drum_id)?.drum;
        self.connection.execute(
            "INSERT INTO take (drum_id, treatment_id, source, source_name, begun_at, summary, partials, seq, heard_as)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, '[]', ?7, ?8)",
            params![
                drum_id,
                treatment,
                source.code(),
                source_name,
                begun_at,
                serde_json::to_string(&TakeSummary::default())?,
                order::next(&self.connection)?,
                drum.heard_as()
            ],
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
            .map_err(StoreError::missing(text!("strike"), strike_id))?;
        conclude(&transaction, take_id)?;
        transaction.commit()?;
        self.take(take_id)
    }

    /// The take with this number.
    pub fn take(&self, id: i64) -> Result<KeptTake, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM take WHERE id = ?1"))?;
        with_json(statement.query_row([id], read).map_err(StoreError::missing(text!("take"), id))?)
    }

    /// Takes of a drum, newest first: at most `limit` of them behind the one with the number `after`, and how many there are in all.
    ///
    /// # Errors
    /// The one with the number `after` is gone: an empty page would pass for the list's end.
    pub fn takes(&self, drum_id: i64, after: Option<i64>, limit: usize) -> Result<(Vec<KeptTake>, usize), StoreError> {
        let all: i64 =
            self.connection.prepare_cached("SELECT count(*) FROM take WHERE drum_id = ?1")?.query_row([drum_id], |row| row.get(0))?;
        if let Some(id) = after
            && !self.connection.prepare_cached("SELECT 1 FROM take WHERE id = ?1")?.exists([id])?
        {
            return Err(StoreError::NotFound { what: text!("take"), id });
        }
        let mut statement = self
            .connection
            .prepare_cached(&format!("SELECT {COLUMNS} FROM take WHERE drum_id = ?1 AND {BEHIND} ORDER BY seq DESC LIMIT ?3"))?;
        let rows = statement.query_map((drum_id, after, limit as i64), read)?.collect::<Result<Vec<_>, _>>()?;
        Ok((self.readable(text!("take"), rows.into_iter().map(|row| (row.0.id, with_json(row))))?, all as usize))
    }

    /// Whether a treatment started from a take.
    pub fn take_is_in_use(&self, take_id: i64) -> Result<bool, StoreError> {
        Ok(self.connection.prepare_cached("SELECT 1 FROM treatment WHERE open_take_id = ?1")?.exists([take_id])?)
    }

    /// The first readable one of the takes that `sql` names, in its order.
    fn first_take(&self, sql: &str, parameters: impl rusqlite::Params) -> Result<Option<KeptTake>, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM take WHERE {sql}"))?;
        let mut rows = statement.query(parameters)?;
        while let Some(row) = rows.next()? {
            match with_json(read(row)?) {
                Err(StoreError::Damaged { what, id }) => self.set_aside(what, id),
                take => return take.map(Some),
            }
        }
        Ok(None)
    }

    /// The newest take that counts, on the heads and in the state that the drum has now: with nothing on it, or with `treatment_id`.
    pub fn newest_take(&self, drum_id: i64, treatment_id: Option<i64>) -> Result<Option<KeptTake>, StoreError> {
        let sql = format!(
            "drum_id = ?1 AND treatment_id IS ?2 AND heard_as IS ?3 AND {COUNTS}
             AND seq > coalesce((SELECT max(seq) FROM head_change WHERE head_change.drum_id = ?1 AND gone_at IS NULL), 0)
             ORDER BY seq DESC"
        );
        self.first_take(&sql, (drum_id, treatment_id, self.heard_as(drum_id)?))
    }

    /// The state in which the drum is heard now.
    fn heard_as(&self, drum_id: i64) -> Result<Option<String>, StoreError> {
        Ok(self.drum(drum_id)?.drum.heard_as())
    }

    /// The newest open take in each state in which the drum was heard, the newest first.
    pub fn newest_by_state(&self, drum_id: i64) -> Result<Vec<KeptTake>, StoreError> {
        let sql = format!(
            "SELECT {COLUMNS} FROM take WHERE drum_id = ?1 AND treatment_id IS NULL AND {COUNTS} AND seq IN
             (SELECT max(seq) FROM take WHERE drum_id = ?1 AND treatment_id IS NULL AND {COUNTS} GROUP BY heard_as) ORDER BY seq DESC"
        );
        let mut statement = self.connection.prepare_cached(&sql)?;
        let rows = statement.query_map([drum_id], read)?.collect::<Result<Vec<_>, _>>()?;
        self.readable(text!("take"), rows.into_iter().map(|row| (row.0.id, with_json(row))))
    }

    /// The newest take with `treatment_id` on, where it is in doubt whether it can be that: it waits for a word of the user.
    pub fn take_in_doubt(&self, treatment_id: i64) -> Result<Option<KeptTake>, StoreError> {
        let newest = self.first_take("treatment_id = ?1 AND strikes_used > 0 ORDER BY seq DESC", [treatment_id])?;
        Ok(newest.filter(|take| !take.counts()))
    }

    /// Says whether a take that is in doubt counts all the same.
    pub fn count_take(&mut self, id: i64, counted: bool) -> Result<KeptTake, StoreError> {
        self.connection.execute("UPDATE take SET counted = ?2, revision = revision + 1 WHERE id = ?1", (id, counted))?;
        self.take(id)
    }

    /// The newest take of the open drum with a strike that counts, begun after `since` and before `until` in order.
    pub fn newest_open_take(&self, drum_id: i64, since: i64, until: i64) -> Result<Option<KeptTake>, StoreError> {
        let sql =
            "drum_id = ?1 AND treatment_id IS NULL AND heard_as IS ?4 AND strikes_used > 0 AND seq > ?2 AND seq < ?3 ORDER BY seq DESC";
        self.first_take(sql, (drum_id, since, until, self.heard_as(drum_id)?))
    }

    /// The oldest take of the open drum with a strike that counts, begun after `since` in order.
    pub(crate) fn oldest_open_take(&self, drum_id: i64, since: i64) -> Result<Option<KeptTake>, StoreError> {
        let sql = "drum_id = ?1 AND treatment_id IS NULL AND heard_as IS ?3 AND strikes_used > 0 AND seq > ?2 ORDER BY seq";
        self.first_take(sql, (drum_id, since, self.heard_as(drum_id)?))
    }

    /// The strikes of a take in the order they were played.
    pub fn strikes(&self, take_id: i64) -> Result<Vec<KeptStrike>, StoreError> {
        let (read, damaged) = strikes(&self.connection, take_id)?;
        damaged.into_iter().for_each(|id| self.set_aside(text!("strike"), id));
        Ok(read)
    }

    /// A strike's sound (FLAC).
    pub fn sound(&self, strike_id: i64) -> Result<Vec<u8>, StoreError> {
        let sound: Vec<u8> = self
            .connection
            .query_row("SELECT sound FROM strike WHERE id = ?1", [strike_id], |row| row.get(0))
            .map_err(StoreError::missing(text!("strike"), strike_id))?;
        with_sound(&sound)?;
        Ok(sound)
    }

    /// A strike with its sound (FLAC) and the index of the hit in it.
    pub fn strike_with_sound(&self, strike_id: i64) -> Result<(KeptStrike, Vec<u8>, usize), StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT dropped, measurement, sound, onset_index FROM strike WHERE id = ?1")?;
        let (dropped, measured, sound, onset): (bool, String, Vec<u8>, i64) = statement
            .query_row([strike_id], |row| Ok((row.get(0)?, text(row, 1)?, row.get(2)?, row.get(3)?)))
            .map_err(StoreError::missing(text!("strike"), strike_id))?;
        let strike = parsed(strike_id, dropped, !sound.is_empty(), &measured)?;
        with_sound(&sound)?;
        Ok((strike, sound, onset.max(0) as usize))
    }

    /// Puts new measurements in the place of strikes' old ones, all of a take or none. Returns the take with what they come to.
    pub fn replace_measurements(&mut self, take_id: i64, strikes: &[(i64, StrikeMeasurement)]) -> Result<KeptTake, StoreError> {
        let transaction = self.connection.transaction()?;
        for (id, measurement) in strikes {
            let text = serde_json::to_string(measurement)?;
            if transaction.execute("UPDATE strike SET measurement = ?3 WHERE id = ?1 AND take_id = ?2", (id, take_id, text))? == 0 {
                return Err(StoreError::NotFound { what: text!("strike"), id: *id });
            }
        }
        conclude(&transaction, take_id)?;
        transaction.commit()?;
        self.take(take_id)
    }

    /// Moves strikes of one take to `drum_id`: into the take `into` of that drum, or a new one begun when theirs was. `elsewhere` says that they
    /// sound like another drum and do not count there. A take that is left without strikes goes, unless a treatment started from it. Returns the
    /// take that they are in now.
    ///
    /// # Errors
    /// Strikes of several takes or of none; a drum that is heard in another way; a take of another drum.
    pub fn move_strikes(&mut self, strike_ids: &[i64], drum_id: i64, into: Option<i64>, elsewhere: bool) -> Result<KeptTake, StoreError> {
        let heard_by = self.drum(drum_id)?.drum.heard_by();
        let transaction = self.connection.unchecked_transaction()?;
        let from = self.take(take_of(&transaction, strike_ids)?)?;
        let into = match into {
            Some(id) if self.take(id)?.drum_id == drum_id => id,
            Some(_) => return Err(Refused::AnotherDrumsTake.into()),
            None => self.begin_take(drum_id, from.source, from.source_name.as_deref(), from.begun_at)?,
        };
        let moved = strikes(&transaction, from.id)?.0.into_iter().filter(|strike| strike_ids.contains(&strike.id));
        for mut strike in moved {
            if strike.measurement.heard_by.by_tones() != heard_by.by_tones() {
                return Err(Refused::HeardOtherwise.into());
            }
            strike.measurement.heard_by = heard_by;
            strike.measurement.warnings.retain(|warning| *warning != Warning::OtherDrum);
            if elsewhere {
                strike.measurement.warnings.push(Warning::OtherDrum);
            }
            move_strike(&transaction, &strike, into)?;
        }
        let in_use = self.take_is_in_use(from.id)?;
        match strikes(&transaction, from.id)?.0.is_empty() && !in_use {
            true => transaction.execute("DELETE FROM take WHERE id = ?1", [from.id]).map(|_| ())?,
            false => weigh_and_conclude(&transaction, from.id)?,
        }
        weigh_and_conclude(&transaction, into)?;
        transaction.commit()?;
        self.take(into)
    }

    /// Every other drum by its name, with its newest take as it is now.
    pub fn takes_of_others(&self, drum_id: i64) -> Result<Vec<(String, KeptTake)>, StoreError> {
        let mut others = Vec::new();
        for drum in self.drums()?.into_iter().filter(|drum| drum.id != drum_id) {
            let on = self.treatment_on(drum.id)?.map(|treatment| treatment.id);
            if let Some(take) = self.newest_take(drum.id, on)? {
                others.push((drum.drum.name, take));
            }
        }
        Ok(others)
    }

    /// Removes a take with its strikes.
    pub fn remove_take(&mut self, id: i64) -> Result<(), StoreError> {
        let started_from: i64 =
            self.connection.query_row("SELECT count(*) FROM treatment WHERE open_take_id = ?1", [id], |row| row.get(0))?;
        if started_from > 0 {
            return Err(Refused::TreatmentStartedFromIt.into());
        }
        let removed = self.even_on_a_full_disk(|store| Ok(store.connection.execute("DELETE FROM take WHERE id = ?1", [id])?))?;
        if removed == 0 { Err(StoreError::NotFound { what: text!("take"), id }) } else { Ok(()) }
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
    let bytes: usize = strikes.iter().map(|strike| strike.sound.len()).sum();
    connection.execute("UPDATE take SET sound_bytes = sound_bytes + ?2 WHERE id = ?1", (take_id, bytes as i64))?;
    conclude(connection, take_id)
}

/// The one take that all of these strikes are in.
fn take_of(connection: &Connection, strike_ids: &[i64]) -> Result<i64, StoreError> {
    let mut statement = connection.prepare_cached("SELECT take_id FROM strike WHERE id = ?1")?;
    let take = |id: &i64| statement.query_row([id], |row| row.get(0)).map_err(StoreError::missing(text!("strike"), *id));
    let mut takes: Vec<i64> = strike_ids.iter().map(take).collect::<Result<_, _>>()?;
    takes.dedup();
    match takes.as_slice() {
        [one] => Ok(*one),
        _ => Err(Refused::StrikesOfSeveralTakes.into()),
    }
}

/// Puts a strike at the end of the take `into`, with its measurement as it is here.
fn move_strike(connection: &Connection, strike: &KeptStrike, into: i64) -> Result<(), StoreError> {
    connection.execute(
        "UPDATE strike SET measurement = ?3, take_id = ?2,
         position = (SELECT coalesce(max(position), 0) + 1 FROM strike WHERE take_id = ?2) WHERE id = ?1",
        (strike.id, into, serde_json::to_string(&strike.measurement)?),
    )?;
    Ok(())
}

/// Adds up again how much sound a take holds, and what it says.
fn weigh_and_conclude(connection: &Connection, take_id: i64) -> Result<(), StoreError> {
    let bytes = "UPDATE take SET sound_bytes = (SELECT coalesce(sum(length(sound)), 0) FROM strike WHERE take_id = ?1) WHERE id = ?1";
    connection.execute(bytes, [take_id])?;
    conclude(connection, take_id)
}

/// Refuses the sound of a strike that was let go.
fn with_sound(sound: &[u8]) -> Result<(), StoreError> {
    match sound.is_empty() {
        true => Err(Refused::SoundLetGo.into()),
        false => Ok(()),
    }
}

fn parsed(id: i64, dropped: bool, has_sound: bool, text: &str) -> Result<KeptStrike, StoreError> {
    let measurement = serde_json::from_str(text).map_err(|error| StoreError::from(error).of_row(text!("strike"), id))?;
    Ok(KeptStrike { id, dropped, has_sound, measurement })
}

/// The strikes of a take that can be read, in the order they were played, and the numbers of those that cannot.
fn strikes(connection: &Connection, take_id: i64) -> Result<(Vec<KeptStrike>, Vec<i64>), StoreError> {
    let mut statement =
        connection.prepare_cached("SELECT id, dropped, length(sound) > 0, measurement FROM strike WHERE take_id = ?1 ORDER BY position")?;
    let rows = statement.query_map([take_id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, text(row, 3)?)))?;
    let (mut read, mut damaged) = (Vec::new(), Vec::new());
    for row in rows {
        let (id, dropped, has_sound, measured) = row?;
        match parsed(id, dropped, has_sound, &measured) {
            Ok(strike) => read.push(strike),
            Err(_) => damaged.push(id),
        }
    }
    Ok((read, damaged))
}

/// Works out again which strikes are ghosts and what the take says.
fn conclude(connection: &Connection, take_id: i64) -> Result<(), StoreError> {
    let kept: Vec<KeptStrike> = strikes(connection, take_id)?.0.into_iter().filter(|strike| !strike.dropped).collect();
    let mut measurements: Vec<StrikeMeasurement> = kept.iter().map(|strike| strike.measurement.clone()).collect();
    mark_ghosts(&mut measurements);
    settle_bodies(&mut measurements);
    for (strike, measurement) in kept.iter().zip(&measurements).filter(|(strike, measurement)| strike.measurement != **measurement) {
        connection.execute("UPDATE strike SET measurement = ?2 WHERE id = ?1", (strike.id, serde_json::to_string(measurement)?))?;
    }
    let summary = summarize(&measurements);
    connection.execute(
        "UPDATE take SET summary = ?2, partials = ?3, strikes_used = ?4, revision = revision + 1 WHERE id = ?1",
        (take_id, serde_json::to_string(&summary)?, serde_json::to_string(&combine_partials(&measurements))?, summary.strikes_used as i64),
    )?;
    doubt(connection, take_id)
}

/// Works out again what speaks against the take, and against those with a treatment on that started from it.
fn doubt(connection: &Connection, take_id: i64) -> Result<(), StoreError> {
    let mut statement = connection.prepare_cached(
        "SELECT found.id, drum.content, treatment.plan, open.partials, found.partials FROM take AS found
         JOIN treatment ON treatment.id = found.treatment_id JOIN take AS open ON open.id = treatment.open_take_id
         JOIN drum ON drum.id = found.drum_id
         WHERE (found.id = ?1 OR open.id = ?1) AND found.strikes_used > 0",
    )?;
    let rows = statement.query_map([take_id], |row| {
        let texts = [text(row, 1)?, text(row, 2)?, text(row, 3)?, text(row, 4)?];
        Ok((row.get::<_, i64>(0)?, texts))
    })?;
    for (id, texts) in rows.collect::<Result<Vec<_>, _>>()? {
        // What cannot be read is met, and said, where it is read for its own sake.
        let said = speaks_against(&texts).ok().flatten();
        let said = said.map(|doubt| serde_json::to_string(&doubt)).transpose()?;
        connection.execute("UPDATE take SET doubt = ?2, revision = revision + 1 WHERE id = ?1 AND doubt IS NOT ?2", (id, said))?;
    }
    Ok(())
}

/// Of a drum, a plan, the open drum's partials, and those with the plan carried out, all as they are kept.
fn speaks_against([drum, plan, open, found]: &[String; 4]) -> serde_json::Result<Option<Doubt>> {
    let (drum, plan): (Drum, Plan) = (serde_json::from_str(drum)?, serde_json::from_str(plan)?);
    let (open, found): (Vec<Partial>, Vec<Partial>) = (serde_json::from_str(open)?, serde_json::from_str(found)?);
    Ok(DrumModel::fit(&drum, &open).and_then(|model| doubted(&model.partials, &plan.expected, &found)))
}
