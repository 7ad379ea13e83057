//! Sound files in and out.

mod cut_aiff;
mod flac;
mod heard;
mod read;
mod wav;

pub use flac::{kept_sound, media_type};
pub use heard::{HeardFile, measure_file};
pub use read::{ReadError, ReadProgress, SoundFacts, read, read_kept, read_watched};
pub use wav::{wav_bytes, write_wav};
