//! Treatments: plans that were carried out.

use crate::damaged::{optional_text, text};
use crate::takes::COUNTS;
use crate::{KeptDrum, KeptTake, Refused, Store, StoreError, order};
use ember_core::plain_name;
use ember_core::plan::Plan;
use ember_words::text;
use rusqlite::OptionalExtension;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::sync::Arc;

/// A plan that was carried out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptTreatment {
    /// Its number.
    pub id: i64,
    /// Number of the drum.
    pub drum_id: i64,
    /// The take of the open drum that the expectation started from.
    pub open_take_id: i64,
    /// Milliseconds since 1970, UTC, as the clock said.
    pub done_at: i64,
    /// Its place in the order of all that happened, whatever the clock said.
    pub seq: i64,
    /// When it was taken off; null while it is on.
    pub off_at: Option<i64>,
    /// What the player calls it; null where it was not given a name.
    pub name: Option<String>,
    /// The plan.
    pub plan: Plan,
}

/// What tells whether a test is as it was: numbers of the treatment, of its open take with its revision, of the take with it on with its
/// revision, when it came off (-1: not yet), and its name.
type Revisions = ([i64; 6], Option<String>);
type Test = (KeptTreatment, KeptTake, KeptTake);

/// Tests as they were last read. One program works with the file, so that nothing changes without this one.
#[derive(Default)]
pub(crate) struct KnownTests {
    /// Changes that the connection had made then.
    at: Option<u64>,
    tests: Arc<Vec<MeasuredTreatment>>,
    read: HashMap<Revisions, Test>,
}

/// A treatment with what it was measured by.
#[derive(Debug, Clone, PartialEq)]
pub struct MeasuredTreatment {
    /// The drum.
    pub drum: KeptDrum,
    /// What was put on.
    pub treatment: KeptTreatment,
    /// Of the open drum; null where it is not known.
    pub open: KeptTake,
    /// As it was found; null where it was not measured.
    pub found: KeptTake,
}

const COLUMNS: &str = "id, drum_id, open_take_id, done_at, seq, off_at, name, plan";
/// The newest tests are learned from, at least so many: heads and devices age.
const FEWEST_TESTS: usize = 40;
/// Older ones go so many at a time.
const AT_A_TIME: usize = 20;
/// Longest name, in characters.
pub(crate) const LONGEST_NAME: usize = 60;

type Columns = (i64, i64, i64, i64, i64, Option<i64>, Option<String>, String);

fn read(row: &rusqlite::Row) -> rusqlite::Result<Columns> {
    Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?, optional_text(row, 6)?, text(row, 7)?))
}

fn with_plan((id, drum_id, open_take_id, done_at, seq, off_at, name, plan): Columns) -> Result<KeptTreatment, StoreError> {
    let plan = serde_json::from_str(&plan).map_err(|error| StoreError::from(error).of_row(text!("treatment"), id))?;
    Ok(KeptTreatment { id, drum_id, open_take_id, done_at, seq, off_at, name, plan })
}

/// What `plan` lays where and how it closes the other end, as the column of the same name has it.
fn layout(plan: &Plan) -> Result<String, StoreError> {
    let front = plan.front.as_ref().map(serde_json::to_value).transpose()?;
    // As SQLite's json_extract gives it: a string without its quotes.
    let front = front.map_or_else(String::new, |front| front.as_str().map_or_else(|| front.to_string(), str::to_string));
    Ok(serde_json::to_string(&plan.placements)? + &front)
}

/// The condition that a treatment was measured.
fn is_measured() -> String {
    format!("EXISTS (SELECT 1 FROM take WHERE take.treatment_id = treatment.id AND {COUNTS})")
}

impl Store {
    /// What is on the drum now.
    pub fn treatment_on(&self, drum_id: i64) -> Result<Option<KeptTreatment>, StoreError> {
        let mut statement =
            self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM treatment WHERE drum_id = ?1 AND off_at IS NULL"))?;
        let on = statement.query_row([drum_id], read).optional()?.map(with_plan).transpose();
        match on {
            // A drum whose treatment cannot be read counts as open rather than as unknown.
            Err(StoreError::Damaged { what, id }) => {
                self.set_aside(what, id);
                Ok(None)
            }
            on => on,
        }
    }

    /// The treatment with this number.
    pub fn treatment(&self, id: i64) -> Result<KeptTreatment, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM treatment WHERE id = ?1"))?;
        with_plan(statement.query_row([id], read).map_err(StoreError::missing(text!("treatment"), id))?)
    }

    /// What was last on the drum, newest first: at most `most`, those with names before all others.
    pub fn treatments(&self, drum_id: i64, most: usize) -> Result<Vec<KeptTreatment>, StoreError> {
        let mut statement = self
            .connection
            .prepare_cached(&format!("SELECT {COLUMNS} FROM treatment WHERE drum_id = ?1 ORDER BY name IS NULL, seq DESC LIMIT ?2"))?;
        let rows = statement.query_map((drum_id, most as i64), read)?.collect::<Result<Vec<Columns>, _>>()?;
        let mut read = self.readable(text!("treatment"), rows.into_iter().map(|row| (row.0, with_plan(row))))?;
        read.sort_by_key(|kept| std::cmp::Reverse(kept.seq));
        Ok(read)
    }

    /// How often the layout of a treatment was on its drum.
    pub fn times_used(&self, drum_id: i64, treatment_id: i64) -> Result<usize, StoreError> {
        let mut statement = self.connection.prepare_cached(
            "SELECT count(*) FROM treatment WHERE drum_id = ?1 AND layout = (SELECT layout FROM treatment WHERE id = ?2)",
        )?;
        Ok(statement.query_row((drum_id, treatment_id), |row| row.get::<_, i64>(0))? as usize)
    }

    /// Gives a layout a name to be recalled by, each time it was on its drum; an empty one takes it away.
    pub fn name_treatment(&mut self, id: i64, name: &str) -> Result<KeptTreatment, StoreError> {
        let name = Some(plain_name(name)).filter(|name| !name.is_empty());
        if name.as_ref().is_some_and(|name| name.chars().count() > LONGEST_NAME) {
            return Err(Refused::LongName.into());
        }
        self.connection.execute(
            "UPDATE treatment SET name = ?2 WHERE (drum_id, layout) = (SELECT drum_id, layout FROM treatment WHERE id = ?1)",
            (id, name),
        )?;
        self.treatment(id)
    }

    /// Says that `plan` is on the drum now, instead of whatever was on it before.
    pub fn put_on(&mut self, drum_id: i64, open_take_id: i64, plan: &Plan, done_at: i64) -> Result<KeptTreatment, StoreError> {
        let transaction = self.connection.transaction()?;
        transaction.execute("UPDATE treatment SET off_at = ?2 WHERE drum_id = ?1 AND off_at IS NULL", (drum_id, done_at))?;
        let seq = order::next(&transaction)?;
        transaction.execute(
            "INSERT INTO treatment (drum_id, open_take_id, done_at, plan, seq, of_front, layout) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
            (drum_id, open_take_id, done_at, serde_json::to_string(plan)?, seq, plan.front.is_some(), layout(plan)?),
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
            return Err(Refused::SomethingElseOn.into());
        }
        self.connection.execute("UPDATE treatment SET off_at = NULL WHERE id = ?1", [id])?;
        self.treatment(id)
    }

    /// The newest treatments that were measured afterwards and teach about devices, oldest first: with the take each started from and the
    /// newest one with it on. Older ones are left out so many at a time that what was learned from the others stands until then. Read again
    /// only as far as something has changed.
    pub fn device_tests(&self) -> Result<Arc<Vec<MeasuredTreatment>>, StoreError> {
        let changes = self.connection.total_changes();
        let mut known = self.tests.borrow_mut();
        if known.at == Some(changes) {
            return Ok(known.tests.clone());
        }
        let all: i64 = self
            .connection
            .prepare_cached(&format!("SELECT count(*) FROM treatment WHERE of_front = 0 AND {}", is_measured()))?
            .query_row([], |row| row.get(0))?;
        let left_out = (all as usize).saturating_sub(FEWEST_TESTS) / AT_A_TIME * AT_A_TIME;
        known.tests = Arc::new(self.measured(&format!("of_front = 0 AND {}", is_measured()), all as usize - left_out, &mut known.read)?);
        known.at = Some(changes);
        Ok(known.tests.clone())
    }

    /// The newest `most` measured treatments in which a drum's other end was closed otherwise and nothing else was on it, oldest first.
    pub fn front_tests(&self, most: usize) -> Result<Vec<MeasuredTreatment>, StoreError> {
        self.measured(&format!("of_front = 1 AND layout LIKE '[]%' AND {}", is_measured()), most, &mut HashMap::new())
    }

    /// Of each of the newest `most` layouts that were measured on a drum the newest treatment, oldest first.
    pub fn tests_of(&self, drum_id: i64, most: usize) -> Result<Vec<MeasuredTreatment>, StoreError> {
        let newest = format!("SELECT max(seq) FROM treatment WHERE drum_id = {drum_id} AND {} GROUP BY layout", is_measured());
        self.measured(&format!("treatment.drum_id = {drum_id} AND treatment.seq IN ({newest})"), most, &mut HashMap::new())
    }

    /// Measured treatments of which the condition `which` holds. What was read before, in the same revisions, is taken from `read`, where
    /// what is read now is left.
    fn measured(&self, which: &str, most: usize, read: &mut HashMap<Revisions, Test>) -> Result<Vec<MeasuredTreatment>, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!(
            "SELECT treatment.id, treatment.drum_id, open.id, open.revision, found.id, found.revision, coalesce(treatment.off_at, -1), treatment.name
             FROM treatment JOIN take AS open ON open.id = treatment.open_take_id
             JOIN take AS found ON found.id = (SELECT take.id FROM take WHERE take.treatment_id = treatment.id AND {COUNTS}
                ORDER BY take.seq DESC LIMIT 1)
             WHERE {which} ORDER BY treatment.seq DESC LIMIT ?1"
        ))?;
        let rows = statement.query_map([most as i64], |row| {
            let numbers = [row.get(0)?, row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?, row.get(6)?];
            Ok((row.get::<_, i64>(1)?, (numbers, optional_text(row, 7)?)))
        })?;
        let rows: Vec<(i64, Revisions)> = rows.collect::<Result<_, _>>()?;
        let mut before = std::mem::take(read);
        let mut drums: HashMap<i64, KeptDrum> = HashMap::new();
        let mut one = |drum_id: i64, revisions: Revisions| {
            let [id, open, _, found, ..] = revisions.0;
            let test = match before.remove(&revisions) {
                Some(test) => test,
                None => (self.treatment(id)?, self.take(open)?, self.take(found)?),
            };
            read.insert(revisions, test.clone());
            let drum = match drums.get(&drum_id) {
                Some(drum) => drum.clone(),
                None => drums.entry(drum_id).or_insert(self.drum(drum_id)?).clone(),
            };
            let (treatment, open, found) = test;
            Ok(MeasuredTreatment { drum, treatment, open, found })
        };
        let mut measured = Vec::with_capacity(rows.len());
        for (drum_id, revisions) in rows {
            match one(drum_id, revisions) {
                Ok(test) => measured.push(test),
                Err(StoreError::Damaged { what, id }) => self.set_aside(what, id),
                Err(error) => return Err(error),
            }
        }
        measured.reverse();
        Ok(measured)
    }
}
