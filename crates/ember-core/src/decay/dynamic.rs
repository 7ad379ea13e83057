//! How hard a drum is hit.

use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// How hard is played, or a strike asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Dynamic {
    /// As softly as the song asks for.
    Soft,
    /// In between.
    Medium,
    /// As hard as the song asks for.
    Hard,
}

impl Dynamic {
    /// From soft to hard: asked for in this order, so that the ear is spared for longest.
    pub const ALL: [Self; 3] = [Self::Soft, Self::Medium, Self::Hard];

    /// The word for it in a sentence.
    pub fn word(self) -> Text {
        match self {
            Self::Soft => text!("soft"),
            Self::Medium => text!("medium"),
            Self::Hard => text!("hard"),
        }
    }

    /// Level against a medium strike, dB (from experience, no published source). What was measured without one counts as
    /// medium.
    pub fn level_db(self) -> f64 {
        match self {
            Self::Soft => -10.0,
            Self::Medium => 0.0,
            Self::Hard => 6.0,
        }
    }
}
