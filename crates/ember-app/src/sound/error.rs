//! What can go wrong with sound that is written.

use std::path::PathBuf;

/// Why sound could not be packed or written.
#[derive(Debug, thiserror::Error)]
pub enum SoundError {
    /// A file could not be written.
    #[error("{} cannot be written: {error}.", .path.display())]
    Unwritable {
        /// Where it should be.
        path: PathBuf,
        /// What went wrong.
        error: hound::Error,
    },
    /// It could not be packed plainly.
    #[error("The sound could not be packed: {0}.")]
    Wav(#[from] hound::Error),
    /// It could not be packed losslessly.
    #[error("The sound could not be packed: {0}.")]
    Flac(#[from] flac_codec::Error),
}
