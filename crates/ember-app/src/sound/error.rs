//! What can go wrong with sound that is written.

use ember_words::Said;
use std::path::PathBuf;

/// Why sound could not be packed or written.
#[derive(Debug, thiserror::Error, Said)]
pub enum SoundError {
    /// A file could not be written.
    #[said("{} cannot be written: {}.", .path.display(), .error.to_string())]
    Unwritable {
        /// Where it should be.
        path: PathBuf,
        /// What went wrong.
        error: hound::Error,
    },
    /// It could not be packed plainly.
    #[said("The sound could not be packed: {}.", .0.to_string())]
    Wav(#[from] hound::Error),
    /// It could not be packed losslessly.
    #[said("The sound could not be packed: {}.", .0.to_string())]
    Flac(#[from] flac_codec::Error),
}
