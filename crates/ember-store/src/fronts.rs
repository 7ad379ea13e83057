//! What closes a drum's other end: changes of it, and whether a hole was tried before it is cut.

use crate::heads::change_of_head;
use crate::{HeadChange, Refused, Store, StoreError};
use ember_core::drum::{Front, Head, HeadSide};

impl Store {
    /// Says that the drum's other end is closed as `front` says from `at` on: takes begin anew, and what lay on the drum came off with it.
    pub fn change_front(&mut self, drum_id: i64, front: &Front, at: i64) -> Result<HeadChange, StoreError> {
        let drum = self.drum(drum_id)?.drum;
        if drum.front() == *front {
            return Err(Refused::FrontAsItWas { front: front.clone(), kind: drum.kind }.into());
        }
        let changed = drum.with_front(front);
        changed.validate().map_err(Refused::from)?;
        let head = changed.lower.or(drum.lower).unwrap_or(Head::plain(10.0));
        let on = self.treatment_on(drum_id)?.map(|on| on.id);
        let transaction = self.connection.transaction()?;
        transaction.execute("UPDATE drum SET content = ?2 WHERE id = ?1", (drum_id, serde_json::to_string(&changed)?))?;
        transaction.execute("UPDATE treatment SET off_at = ?2 WHERE id = ?1", (on, at))?;
        let before = drum.lower.unwrap_or(head);
        let change = change_of_head(&transaction, drum_id, HeadSide::Lower, at, (&before, &head), Some((&drum.front(), front)), on)?;
        transaction.commit()?;
        self.head_change(change)
    }

    /// Whether the player would rather not try a hole before it is cut.
    pub fn front_trial_declined(&self, drum_id: i64) -> Result<bool, StoreError> {
        let mut statement = self.connection.prepare_cached("SELECT 1 FROM front_trial_declined WHERE drum_id = ?1")?;
        Ok(statement.exists([drum_id])?)
    }

    /// Says so, or takes it back.
    pub fn decline_front_trial(&mut self, drum_id: i64, declined: bool, at: i64) -> Result<(), StoreError> {
        self.drum(drum_id)?;
        let sql = if declined {
            "INSERT INTO front_trial_declined (drum_id, at) VALUES (?1, ?2) ON CONFLICT DO NOTHING"
        } else {
            "DELETE FROM front_trial_declined WHERE drum_id = ?1 AND at <= ?2"
        };
        self.connection.execute(sql, (drum_id, at))?;
        Ok(())
    }
}
