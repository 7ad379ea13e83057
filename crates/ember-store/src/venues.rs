//! Places to play in.

use crate::named::Named;
use crate::{Store, StoreError};
use ember_core::venue::Venue;
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// A venue with its number.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptVenue {
    /// Its number.
    pub id: i64,
    /// The place; none where there is none.
    #[serde(flatten)]
    pub venue: Venue,
}

impl Named for Venue {
    const TABLE: &'static str = "venue";
    const WORD: Text = text!("venue");

    fn name(&self) -> &str {
        &self.name
    }
}

impl Store {
    /// All venues by name.
    pub fn venues(&self) -> Result<Vec<KeptVenue>, StoreError> {
        Ok(self.all_named()?.into_iter().map(|(id, venue)| KeptVenue { id, venue }).collect())
    }

    /// The venue with this number.
    pub fn venue(&self, id: i64) -> Result<KeptVenue, StoreError> {
        Ok(KeptVenue { id, venue: self.one_named(id)? })
    }

    /// Adds a venue.
    pub fn add_venue(&mut self, venue: &Venue) -> Result<KeptVenue, StoreError> {
        let id = self.add_named(venue)?;
        self.venue(id)
    }

    /// Changes a venue.
    pub fn change_venue(&mut self, id: i64, venue: &Venue) -> Result<KeptVenue, StoreError> {
        self.change_named(id, venue)?;
        self.venue(id)
    }

    /// Removes a venue at `gone_at` (ms since 1970), or brings it back.
    pub fn set_venue_gone(&mut self, id: i64, gone_at: Option<i64>) -> Result<(), StoreError> {
        self.set_gone::<Venue>(id, gone_at)
    }
}
