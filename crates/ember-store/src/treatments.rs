//! Treatments: plans that were carried out.

use crate::{KeptDrum, KeptTake, Store, StoreError};
use ember_core::plan::Plan;
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};

/// A plan that was carried out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptTreatment {
    pub id: i64,
    pub drum_id: i64,
    /// The take of the open drum that the expectation started from.
    pub open_take_id: i64,
    /// Milliseconds since 1970, UTC.
    pub done_at: i64,
    /// When it was taken off; null while it is on.
    pub off_at: Option<i64>,
    /// What the player calls it; null where it was not given a name.
    pub name: Option<String>,
    pub plan: Plan,
}

/// A treatment with what it was measured by.
#[derive(Debug, Clone, PartialEq)]
pub struct MeasuredTreatment {
    pub drum: KeptDrum,
    pub treatment: KeptTreatment,
    pub open: KeptTake,
    pub found: KeptTake,
}

const COLUMNS: &str = "id, drum_id, open_take_id, done_at, off_at, name, plan";
/// Longest name, in characters.
const LONGEST_NAME: usize = 60;

type Columns = (i64, i64, i64, i64, Option<i64>, Option<String>, String);

fn read(row: &rusqlite::Row) -> rusqlite::Result<Columns> {
    Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?, row.get(6)?))
}

fn with_plan((id, drum_id, open_take_id, done_at, off_at, name, plan): Columns) -> Result<KeptTreatment, StoreError> {
    Ok(KeptTreatment { id, drum_id, open_take_id, done_at, off_at, name, plan: serde_json::from_str(&plan)? })
}

impl Store {
    /// What is on the drum now.
    pub fn treatment_on(&self, drum_id: i64) -> Result<Option<KeptTreatment>, StoreError> {
        let mut statement =
            self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM treatment WHERE drum_id = ?1 AND off_at IS NULL"))?;
        statement.query_row([drum_id], read).optional()?.map(with_plan).transpose()
    }

    pub fn treatment(&self, id: i64) -> Result<KeptTreatment, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM treatment WHERE id = ?1"))?;
        with_plan(statement.query_row([id], read).map_err(StoreError::missing("treatment", id))?)
    }

    /// Everything that was ever on the drum, newest first.
    pub fn treatments(&self, drum_id: i64) -> Result<Vec<KeptTreatment>, StoreError> {
        let mut statement = self
            .connection
            .prepare_cached(&format!("SELECT {COLUMNS} FROM treatment WHERE drum_id = ?1 ORDER BY done_at DESC, id DESC"))?;
        let rows = statement.query_map([drum_id], read)?.collect::<Result<Vec<Columns>, _>>()?;
        rows.into_iter().map(with_plan).collect()
    }

    /// Gives a layout a name to be recalled by, each time it was on its drum; an empty one takes it away.
    pub fn name_treatment(&mut self, id: i64, name: &str) -> Result<KeptTreatment, StoreError> {
        let name = Some(name.trim()).filter(|name| !name.is_empty());
        if name.is_some_and(|name| name.chars().count() > LONGEST_NAME) {
            return Err(StoreError::Refused(format!("A name has at most {LONGEST_NAME} characters.")));
        }
        self.connection.execute(
            "UPDATE treatment SET name = ?2 WHERE drum_id = (SELECT drum_id FROM treatment WHERE id = ?1)
             AND json_extract(plan, '$.placements') = (SELECT json_extract(plan, '$.placements') FROM treatment WHERE id = ?1)
             AND json_extract(plan, '$.front') IS (SELECT json_extract(plan, '$.front') FROM treatment WHERE id = ?1)",
            (id, name),
        )?;
        self.treatment(id)
    }

    /// Says that `plan` is on the drum now, instead of whatever was on it before.
    pub fn put_on(&mut self, drum_id: i64, open_take_id: i64, plan: &Plan, done_at: i64) -> Result<KeptTreatment, StoreError> {
        let transaction = self.connection.transaction()?;
        transaction.execute("UPDATE treatment SET off_at = ?2 WHERE drum_id = ?1 AND off_at IS NULL", (drum_id, done_at))?;
        transaction.execute(
            "INSERT INTO treatment (drum_id, open_take_id, done_at, plan) VALUES (?1, ?2, ?3, ?4)",
            (drum_id, open_take_id, done_at, serde_json::to_string(plan)?),
        )?;
        let id = transaction.last_insert_rowid();
        transaction.commit()?;
        self.treatment(id)
    }

    /// Says that a treatment was taken off. The history keeps it.
    pub fn take_off(&mut self, id: i64, off_at: i64) -> Result<KeptTreatment, StoreError> {
        self.connection.execute("UPDATE treatment SET off_at = ?2 WHERE id = ?1 AND off_at IS NULL", (id, off_at))?;
        self.treatment(id)
    }

    /// Puts a treatment that was taken off back on, as long as nothing else is on the drum.
    pub fn put_back(&mut self, id: i64) -> Result<KeptTreatment, StoreError> {
        let treatment = self.treatment(id)?;
        if self.treatment_on(treatment.drum_id)?.is_some_and(|on| on.id != id) {
            return Err(StoreError::Refused("Something else is on the drum by now.".into()));
        }
        self.connection.execute("UPDATE treatment SET off_at = NULL WHERE id = ?1", [id])?;
        self.treatment(id)
    }

    /// Every treatment that was measured afterwards, oldest first, of drums that are still in the kit: with the take it started from and
    /// the newest one with it on.
    pub fn measured_treatments(&self) -> Result<Vec<MeasuredTreatment>, StoreError> {
        let mut statement = self.connection.prepare_cached(
            "SELECT treatment.id, (SELECT take.id FROM take WHERE take.treatment_id = treatment.id
                AND json_extract(take.summary, '$.strikes_used') > 0 ORDER BY take.begun_at DESC, take.id DESC LIMIT 1)
             FROM treatment JOIN drum ON drum.id = treatment.drum_id ORDER BY treatment.done_at, treatment.id",
        )?;
        let ids = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<Vec<(i64, Option<i64>)>, _>>()?;
        let measured = ids.into_iter().filter_map(|(id, found)| Some((id, found?)));
        measured
            .map(|(id, found)| {
                let treatment = self.treatment(id)?;
                Ok(MeasuredTreatment {
                    drum: self.drum(treatment.drum_id)?,
                    open: self.take(treatment.open_take_id)?,
                    found: self.take(found)?,
                    treatment,
                })
            })
            .collect()
    }
}
