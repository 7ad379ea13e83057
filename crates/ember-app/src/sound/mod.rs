//! Sound files in and out.

mod cut_aiff;
mod error;
mod flac;
mod heard;
mod labels;
mod opus;
mod read;
mod wav;

pub use error::SoundError;
pub use flac::{kept_sound, media_type};
pub use heard::{HeardFile, measure_file};
pub use labels::{Label, NoLabel, label_at, labels_of, read_labels, write_labels};
pub use read::{AllChannels, ReadError, ReadProgress, SoundFacts, read, read_channels, read_kept, read_pieces, read_watched};
pub use wav::{wav_bytes, write_channels, write_wav};
