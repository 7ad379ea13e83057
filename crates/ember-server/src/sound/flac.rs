//! Sound as it is kept in the store.

use super::wav::wav_bytes;
use flacenc::component::BitRepr;
use flacenc::error::Verify;

/// The fastest rate that the FLAC encoder takes, Hz; faster sound is kept as WAV, which is as lossless.
const FLAC_MAX_RATE: u32 = 96_000;
const BITS: usize = 24;

/// `samples` (full scale 1) with 24 bits, losslessly packed.
pub fn kept_sound(samples: &[f32], rate: u32) -> Result<Vec<u8>, String> {
    if rate > FLAC_MAX_RATE || samples.is_empty() {
        return wav_bytes(samples, rate);
    }
    let full = (1i32 << (BITS - 1)) as f32;
    let whole: Vec<i32> = samples.iter().map(|x| (x * full).round().clamp(-full, full - 1.0) as i32).collect();
    let said = |error: &dyn std::fmt::Debug| format!("The sound could not be packed: {error:?}.");
    let config = flacenc::config::Encoder::default().into_verified().map_err(|(_, error)| said(&error))?;
    let source = flacenc::source::MemSource::from_samples(&whole, 1, BITS, rate as usize);
    let mut stream = flacenc::encode_with_fixed_block_size(&config, source, config.block_size).map_err(|error| said(&error))?;
    // The encoder counts the last, shorter block as the smallest allowed, and decoders then refuse the stream.
    stream.stream_info_mut().set_block_sizes(config.block_size, config.block_size).map_err(|error| said(&error))?;
    let mut sink = flacenc::bitsink::ByteSink::new();
    stream.write(&mut sink).map_err(|error| said(&error))?;
    Ok(sink.into_inner())
}

/// Media type of kept sound.
pub fn media_type(sound: &[u8]) -> &'static str {
    if sound.starts_with(b"fLaC") { "audio/flac" } else { "audio/wav" }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sound::read;

    #[test]
    fn kept_sound_comes_back_to_the_last_of_24_bits_at_any_rate() {
        for (rate, count) in [(8_000, 9_001), (44_100, 4_096), (48_000, 30_001), (96_000, 100), (192_000, 5_000)] {
            let samples: Vec<f32> = (0..count)
                .map(|n| (0.7 * (n as f32 * 0.11).sin() * (-(n as f32) / 4000.0).exp() * 8_388_608.0).round() / 8_388_608.0)
                .collect();
            let file = tempfile::NamedTempFile::new().unwrap();
            std::fs::write(file.path(), kept_sound(&samples, rate).unwrap()).unwrap();
            let mut back = Vec::new();
            let facts = read(file.path(), "", 60.0, |_, piece| back.extend_from_slice(piece)).unwrap();
            assert_eq!((facts.sample_rate, facts.channels), (rate, 1));
            assert!(back == samples, "{rate} Hz: {} of {} samples", back.len(), samples.len());
        }
    }
}
