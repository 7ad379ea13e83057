//! WAV files in the bits that sound is kept in.

use super::error::SoundError;
use ember_core::signal::{KEPT_BITS, whole_steps};
use std::io::{Cursor, Seek, Write};
use std::path::Path;

/// Writes `samples` (full scale 1) to `path`.
pub fn write_wav(path: &Path, samples: &[f32], rate: u32) -> Result<(), SoundError> {
    write_channels(path, &[samples], rate)
}

/// Writes several `channels` of one length to `path`.
pub fn write_channels(path: &Path, channels: &[&[f32]], rate: u32) -> Result<(), SoundError> {
    let unwritable = |error: hound::Error| SoundError::Unwritable { path: path.into(), error };
    let file = std::fs::File::create(path).map_err(|error| unwritable(error.into()))?;
    write_to(std::io::BufWriter::new(file), channels, rate).map_err(unwritable)
}

/// The same in memory.
pub fn wav_bytes(samples: &[f32], rate: u32) -> Result<Vec<u8>, SoundError> {
    let mut bytes = Cursor::new(Vec::new());
    write_to(&mut bytes, &[samples], rate)?;
    Ok(bytes.into_inner())
}

fn write_to(target: impl Write + Seek, channels: &[&[f32]], rate: u32) -> Result<(), hound::Error> {
    let spec = hound::WavSpec {
        channels: channels.len() as u16,
        sample_rate: rate,
        bits_per_sample: KEPT_BITS as u16,
        sample_format: hound::SampleFormat::Int,
    };
    let mut writer = hound::WavWriter::new(target, spec)?;
    for n in 0..channels.first().map_or(0, |channel| channel.len()) {
        for channel in channels {
            writer.write_sample(whole_steps(channel[n]))?;
        }
    }
    writer.finalize()
}
