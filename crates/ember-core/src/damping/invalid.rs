//! What cannot be, in words.

/// Why a device cannot be put there.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct InvalidPlacement(pub String);
