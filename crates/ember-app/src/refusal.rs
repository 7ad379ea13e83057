//! Why a question has no answer, in a sentence for whoever asked.

use ember_core::blow::InvalidBlow;
use ember_core::damping::InvalidPlacement;
use ember_core::drum::InvalidDrum;
use ember_store::StoreError;
use thiserror::Error;

/// Why a question has no answer.
#[derive(Debug, Error)]
pub enum Refusal {
    /// Something is wrong with what is kept, or it is not there.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The drum was not struck yet with nothing on it.
    #[error("Measure the open drum first: a plan starts from how it sounds without anything on it.")]
    NotMeasured,
    /// It was, and none of its tones is clearly its body.
    #[error("No clear body was found in the open drum's strikes. Measure it again, closer to the head.")]
    NoBody,
    /// It was not struck yet with what is on it.
    #[error("The drum was not hit yet with this on it.")]
    NotHitYet,
    /// It makes no sense as it is asked.
    #[error("{0}")]
    CannotBe(String),
    /// It would make sense in another state of things.
    #[error("{0}")]
    NotNow(String),
}

impl Refusal {
    /// What cannot be, for the reason that `error` gives.
    pub fn cannot_be(error: impl ToString) -> Self {
        Self::CannotBe(error.to_string())
    }
}

impl From<InvalidPlacement> for Refusal {
    fn from(error: InvalidPlacement) -> Self {
        Self::cannot_be(error)
    }
}

impl From<InvalidDrum> for Refusal {
    fn from(error: InvalidDrum) -> Self {
        Self::cannot_be(error)
    }
}

impl From<InvalidBlow> for Refusal {
    fn from(error: InvalidBlow) -> Self {
        Self::cannot_be(error)
    }
}
