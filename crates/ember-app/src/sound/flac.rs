//! Sound as it is kept in the store.

use super::error::SoundError;
use super::read::read_kept;
use super::wav::wav_bytes;
use ember_core::signal::{KEPT_BITS, whole_steps};
use flac_codec::encode::{FlacSampleWriter, Options};
use std::io::Cursor;

/// `samples` (full scale 1; what lies beyond is cut) with 24 bits, losslessly packed: FLAC at its best level, or plain where that is no
/// smaller. So what is kept of a strike is never larger than its plain samples and a header, however it sounds. What is packed is unpacked
/// and compared before it is trusted: random inputs found one in some fifteen thousand that the decoder read otherwise, though the reference
/// decoder gave it back as it was.
pub fn kept_sound(samples: &[f32], rate: u32) -> Result<Vec<u8>, SoundError> {
    if samples.is_empty() {
        return wav_bytes(samples, rate);
    }
    let whole: Vec<i32> = samples.iter().copied().map(whole_steps).collect();
    let packed = packed(&whole, rate)?;
    if packed.len() <= plain_bytes(samples.len()) && comes_back(&packed, &whole) { Ok(packed) } else { wav_bytes(samples, rate) }
}

/// Whether `packed` unpacks to `samples`.
fn comes_back(packed: &[u8], samples: &[i32]) -> bool {
    read_kept(packed.to_vec())
        .is_ok_and(|(_, back)| back.len() == samples.len() && back.iter().zip(samples).all(|(x, whole)| whole_steps(*x) == *whole))
}

/// Size of `count` samples as they are, with a WAV file's header.
fn plain_bytes(count: usize) -> usize {
    3 * count + 68
}

fn packed(samples: &[i32], rate: u32) -> Result<Vec<u8>, flac_codec::Error> {
    let mut bytes = Cursor::new(Vec::new());
    let options = Options::best().no_padding().no_seektable();
    let mut writer = FlacSampleWriter::new(&mut bytes, options, rate, KEPT_BITS, 1u8, Some(samples.len() as u64))?;
    writer.write(samples)?;
    writer.finalize()?;
    Ok(bytes.into_inner())
}

/// Media type of kept sound.
pub fn media_type(sound: &[u8]) -> &'static str {
    if sound.starts_with(b"fLaC") { "audio/flac" } else { "audio/wav" }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn strike(rate: u32, count: usize, louder: f32) -> Vec<f32> {
        let tone = |n: usize, hz: f32, t60: f32| {
            let t = n as f32 / rate as f32;
            (std::f32::consts::TAU * hz * t).sin() * (-6.9 * t / t60).exp()
        };
        let noise = |n: usize| ((n as u32).wrapping_mul(2_654_435_761) >> 8) as f32 / 16_777_216.0 - 0.5;
        (0..count).map(|n| louder * (0.5 * tone(n, 140.0, 0.9) + 0.2 * tone(n, 222.0, 0.8) + 2e-4 * noise(n))).collect()
    }

    #[test]
    fn kept_sound_comes_back_to_the_last_of_24_bits_at_any_rate() {
        for (rate, count) in [(8_000, 9_001), (44_100, 4_096), (48_000, 30_001), (96_000, 100), (192_000, 5_000), (48_000, 1), (48_000, 17)]
        {
            let samples: Vec<f32> = strike(rate, count, 1.0).iter().map(|x| (x * 8_388_608.0).round() / 8_388_608.0).collect();
            let (here, back) = read_kept(kept_sound(&samples, rate).unwrap()).unwrap();
            assert!(here == rate && back == samples, "{rate} Hz: {} of {} samples", back.len(), samples.len());
        }
    }

    /// A beginner's commonest fault: an input so hot that nothing but the ceiling is left.
    #[test]
    fn sound_that_was_clipped_is_never_kept_larger_than_its_plain_samples() {
        for louder_db in [0.0, 12.0, 29.5, 60.0, 200.0] {
            let samples = strike(48_000, 144_000, 10f32.powf(louder_db / 20.0));
            let kept = kept_sound(&samples, 48_000).unwrap();
            assert!(kept.len() <= plain_bytes(samples.len()), "+{louder_db} dB: {} bytes", kept.len());
            let (_, back) = read_kept(kept).unwrap();
            assert!(back.iter().zip(&samples).all(|(back, x)| (back - x.clamp(-1.0, 1.0)).abs() < 1e-6));
        }
        let noise: Vec<f32> = (0..48_000u32).map(|n| (n.wrapping_mul(2_654_435_761) >> 8) as f32 / 8_388_608.0 - 1.0).collect();
        assert!(kept_sound(&noise, 48_000).unwrap().len() <= plain_bytes(noise.len()));
    }

    /// A recording of 16 bits is not kept as if it had 24.
    #[test]
    fn a_recording_of_16_bits_takes_no_more_room_than_it_holds() {
        let fine = strike(48_000, 96_000, 1.0);
        let coarse: Vec<f32> = fine.iter().map(|x| (x * 32_768.0).round() / 32_768.0).collect();
        let (fine, coarse) = (kept_sound(&fine, 48_000).unwrap().len(), kept_sound(&coarse, 48_000).unwrap().len());
        assert!(coarse + 96_000 * 7 / 8 < fine, "{coarse} and {fine} bytes");
    }
}
