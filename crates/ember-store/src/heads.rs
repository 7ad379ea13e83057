//! Heads that were put on, and what each change of heads taught.

use crate::damaged::{optional_text, text};
use crate::tuning::{side_code, side_of};
use crate::{KeptTake, Refused, Store, StoreError, order};
use ember_core::damping::HeadTrial;
use ember_core::drum::{Front, Head, HeadSide};
use ember_words::text;
use rusqlite::{Connection, Row, params};
use serde::{Deserialize, Serialize};

/// Another head was put on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeadChange {
    /// Its number.
    pub id: i64,
    /// Number of the drum.
    pub drum_id: i64,
    /// Which head.
    pub side: HeadSide,
    /// Milliseconds since 1970, UTC, as the clock said.
    pub at: i64,
    /// Its place in the order of all that happened, whatever the clock said.
    pub seq: i64,
    /// The head before.
    pub before: Head,
    /// The head after.
    pub after: Head,
    /// What closed the drum's other end before and after, where that changed.
    pub before_front: Option<Front>,
    /// How the other end was closed after it; null where that did not change.
    pub after_front: Option<Front>,
    /// What was taken off the drum with it; null where nothing was on.
    pub treatment_id: Option<i64>,
}

const COLUMNS: &str = "id, drum_id, side, at, before, after, treatment_id, before_front, after_front, seq";
type Texts = (String, String, String, Option<String>, Option<String>);

fn read(row: &Row) -> rusqlite::Result<(HeadChange, Texts)> {
    let (before, after) = (Head::plain(0.0), Head::plain(0.0));
    let change = HeadChange {
        id: row.get(0)?,
        drum_id: row.get(1)?,
        side: HeadSide::Batter,
        at: row.get(3)?,
        seq: row.get(9)?,
        before,
        after,
        before_front: None,
        after_front: None,
        treatment_id: row.get(6)?,
    };
    Ok((change, (text(row, 2)?, text(row, 4)?, text(row, 5)?, optional_text(row, 7)?, optional_text(row, 8)?)))
}

fn with_texts((mut change, (side, before, after, before_front, after_front)): (HeadChange, Texts)) -> Result<HeadChange, StoreError> {
    let front = |text: Option<String>| text.map(|text| serde_json::from_str(&text)).transpose();
    (change.before_front, change.after_front) = (front(before_front)?, front(after_front)?);
    change.side = side_of(&side)?;
    (change.before, change.after) = (serde_json::from_str(&before)?, serde_json::from_str(&after)?);
    Ok(change)
}

/// Notes a change of heads, after which the head is to be seated; gives its number.
pub(crate) fn change_of_head(
    connection: &Connection,
    drum_id: i64,
    side: HeadSide,
    at: i64,
    (before, after): (&Head, &Head),
    fronts: Option<(&Front, &Front)>,
    treatment_id: Option<i64>,
) -> Result<i64, StoreError> {
    let (before_front, after_front) = match fronts {
        Some((before, after)) => (Some(serde_json::to_string(before)?), Some(serde_json::to_string(after)?)),
        None => (None, None),
    };
    let (before, after) = (serde_json::to_string(before)?, serde_json::to_string(after)?);
    connection.execute(
        "INSERT INTO head_change (drum_id, side, at, before, after, treatment_id, before_front, after_front, seq)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
        params![drum_id, side_code(side), at, before, after, treatment_id, before_front, after_front, order::next(connection)?],
    )?;
    let id = connection.last_insert_rowid();
    connection
        .execute("UPDATE head SET seated_at = NULL, seated_seq = NULL WHERE drum_id = ?1 AND side = ?2", (drum_id, side_code(side)))?;
    Ok(id)
}

impl Store {
    /// Says that `head` was put on at `at`: the history of its tuning and the drum's takes begin anew. What lay on the drum was meant
    /// for the heads as they were, and came off with them.
    pub fn change_head(&mut self, drum_id: i64, side: HeadSide, head: Head, at: i64) -> Result<HeadChange, StoreError> {
        let mut drum = self.drum(drum_id)?.drum;
        let front = drum.front();
        let place = match side {
            HeadSide::Batter => Some(&mut drum.batter),
            HeadSide::Lower => drum.lower.as_mut(),
        };
        let Some(place) = place else {
            return Err(Refused::HeadOff { kind: drum.kind }.into());
        };
        let before = std::mem::replace(place, head);
        // A hole goes with the head that it was cut into.
        let fronts = (side == HeadSide::Lower && front != Front::Whole).then_some((&front, &Front::Whole));
        if side == HeadSide::Lower {
            drum = drum.with_front(&Front::Whole);
        }
        let on = self.treatment_on(drum_id)?.map(|on| on.id);
        let transaction = self.connection.transaction()?;
        transaction.execute("UPDATE drum SET content = ?2 WHERE id = ?1", (drum_id, serde_json::to_string(&drum)?))?;
        transaction.execute("UPDATE treatment SET off_at = ?2 WHERE id = ?1", (on, at))?;
        let id = change_of_head(&transaction, drum_id, side, at, (&before, &head), fronts, on)?;
        transaction.commit()?;
        self.head_change(id)
    }

    pub(crate) fn head_change(&self, id: i64) -> Result<HeadChange, StoreError> {
        let mut statement = self.connection.prepare_cached(&format!("SELECT {COLUMNS} FROM head_change WHERE id = ?1"))?;
        with_texts(statement.query_row([id], read).map_err(StoreError::missing(text!("change of heads"), id))?)
    }

    /// Takes back a change of heads that was not made: what counted before it counts again, and what came off is on again. Only the
    /// newest one of its head can be.
    pub fn take_head_back(&mut self, id: i64, gone_at: i64) -> Result<HeadChange, StoreError> {
        let change = self.head_change(id)?;
        if self.head_changes(change.drum_id)?.iter().find(|other| other.side == change.side).map(|newest| newest.id) != Some(id) {
            return Err(Refused::AnotherHeadOn.into());
        }
        let mut drum = self.drum(change.drum_id)?.drum;
        match change.side {
            HeadSide::Batter => drum.batter = change.before,
            HeadSide::Lower => {
                let front = change.before_front.clone().unwrap_or_else(|| drum.front());
                drum.lower = Some(change.before);
                drum = drum.with_front(&front);
            }
        }
        let nothing_on = self.treatment_on(change.drum_id)?.is_none();
        let transaction = self.connection.transaction()?;
        transaction.execute("UPDATE head_change SET gone_at = ?2 WHERE id = ?1", (id, gone_at))?;
        transaction.execute("UPDATE drum SET content = ?2 WHERE id = ?1", (change.drum_id, serde_json::to_string(&drum)?))?;
        if nothing_on {
            transaction.execute("UPDATE treatment SET off_at = NULL WHERE id = ?1", [change.treatment_id])?;
        }
        transaction.commit()?;
        Ok(change)
    }

    /// Changes of heads on a drum, newest first.
    pub fn head_changes(&self, drum_id: i64) -> Result<Vec<HeadChange>, StoreError> {
        let mut statement = self
            .connection
            .prepare_cached(&format!("SELECT {COLUMNS} FROM head_change WHERE drum_id = ?1 AND gone_at IS NULL ORDER BY seq DESC"))?;
        let rows = statement.query_map([drum_id], read)?.collect::<Result<Vec<_>, _>>()?;
        self.readable(text!("change of heads"), rows.into_iter().map(|row| (row.0.id, with_texts(row))))
    }

    /// What the changes of batter heads on all drums did, where the open drum was measured before and after.
    pub fn head_trials(&self) -> Result<Vec<HeadTrial>, StoreError> {
        let mut trials = Vec::new();
        for drum in self.all_drums()? {
            let changes = self.head_changes(drum.id)?;
            for (i, change) in changes.iter().enumerate().filter(|(_, change)| change.side == HeadSide::Batter) {
                let until = if i == 0 { i64::MAX } else { changes[i - 1].seq };
                let since = changes.get(i + 1).map_or(0, |earlier| earlier.seq);
                let before = self.newest_open_take(drum.id, since, change.seq)?;
                let after = self.newest_open_take(drum.id, change.seq, until)?;
                // A simulated head teaches nothing about a real one.
                if let Some((before, after)) = before.zip(after).filter(|(before, after)| before.source == after.source) {
                    trials.push(HeadTrial::of(change.before, change.after, &before.partials, &after.partials));
                }
            }
        }
        Ok(trials)
    }

    /// The first and the newest take of the open drum on the heads that are on it now, both begun after `since` in the order
    /// of all that happened.
    pub fn first_and_newest(&self, drum_id: i64, since: i64) -> Result<Option<(KeptTake, KeptTake)>, StoreError> {
        let Some(newest) = self.newest_take(drum_id, None)? else { return Ok(None) };
        let since = self.head_changes(drum_id)?.first().map_or(since, |change| change.seq.max(since));
        let first = self.oldest_open_take(drum_id, since)?;
        Ok(first.filter(|first| first.id != newest.id).map(|first| (first, newest)))
    }
}
