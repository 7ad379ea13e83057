//! A simulated place, for those without a microphone: claps in its room, and a band playing there.

use super::modes::RoomMode;
use super::{Loudness, Octaves};
use crate::physics::SPEED_OF_SOUND;
use crate::signal::OctaveFilter;
use crate::units::{amplitude, decay_rate};
use rand::{Rng, SeedableRng, rngs::StdRng};

/// A room with a band in it. Its figures are hidden: measuring finds them again.
#[derive(Debug, Clone, Copy)]
pub struct SimulatedVenue {
    /// Reverberation time by octave band, s; `None` where nothing comes back.
    pub t60_s: Octaves<Option<f64>>,
    /// How loud the place is.
    pub loudness: Loudness,
}

const RATE: u32 = 48_000;
/// Rooms whose lowest octave rings for less than this are small, s; length, width and height of all of them, m.
const SMALL_S: f64 = 1.3;
const SIZES_M: [f64; 3] = [5.2, 3.7, 2.5];
/// Level of the loudest partial of a simulated strike, dBFS, about.
const STRIKE_DBFS: f64 = -24.0;

impl SimulatedVenue {
    /// Samples a second.
    pub const SAMPLE_RATE: u32 = RATE;

    /// Modes of its own that stand apart: of a small room, which does not ring for long, between its walls and between floor and ceiling.
    pub fn modes(&self) -> Vec<RoomMode> {
        match self.t60_s[0] {
            Some(t60_s) if t60_s < SMALL_S => {
                SIZES_M.iter().map(|size| RoomMode { hz: SPEED_OF_SOUND / (2.0 * size), t60_s, t60_sd_s: None }).collect()
            }
            _ => Vec::new(),
        }
    }

    /// Three claps with their decays, over a little noise.
    pub fn claps(&self, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed);
        let longest = self.t60_s.iter().flatten().copied().fold(0.3, f64::max);
        let spacing = ((0.8 + 1.1 * longest) * f64::from(RATE)) as usize;
        let lead = RATE as usize / 2;
        let mut sound = vec![0f32; lead + 3 * spacing];
        for clap in 0..3 {
            let start = lead + clap * spacing;
            for mode in self.modes() {
                let (turn, rate) = (2.0 * std::f64::consts::PI * mode.hz / f64::from(RATE), decay_rate(mode.t60_s) / f64::from(RATE));
                for (n, sum) in sound[start..start + spacing].iter_mut().enumerate() {
                    *sum += (0.6 * (-rate * n as f64).exp() * (turn * n as f64).sin()) as f32;
                }
            }
            for (index, t60) in self.t60_s.iter().enumerate() {
                let Some(filter) = OctaveFilter::new(index, f64::from(RATE)) else { continue };
                let rate = decay_rate(t60.unwrap_or(0.06));
                let noise: Vec<f32> =
                    (0..spacing).map(|n| (rng.random_range(-1.0..1.0) * (-rate * n as f64 / f64::from(RATE)).exp()) as f32).collect();
                // Low bands carry little of white noise: they are brought up to the same level.
                let up = 0.5f32 * 2f32.powf(0.5 * (4.0 - index as f32)).min(4.0);
                for (sum, x) in sound[start..].iter_mut().zip(filter.backwards(&noise)) {
                    *sum += up * x;
                }
            }
        }
        finish(&mut sound, &mut rng, 0.6)
    }

    /// Ten seconds of the band: noise with a band's spectrum, swelling with the beat.
    pub fn band(&self, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed);
        let length = 10 * RATE as usize;
        let mut sound = vec![0f32; length];
        for (index, threshold) in self.loudness.threshold_db().iter().enumerate() {
            let Some(filter) = OctaveFilter::new(index, f64::from(RATE)) else { continue };
            let noise: Vec<f32> = (0..length).map(|_| rng.random_range(-1.0f32..1.0)).collect();
            let band = filter.backwards(&noise);
            let level = (band.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / length as f64).sqrt();
            // Masking by noise sets in some 4 to 16 dB under the octave's level; 6 dB is a middle.
            let up = (amplitude(threshold + STRIKE_DBFS + 6.0) / level) as f32;
            for (n, (sum, x)) in sound.iter_mut().zip(band).enumerate() {
                let beat = 1.0 + 0.3 * (2.0 * std::f32::consts::PI * 2.0 * n as f32 / RATE as f32).sin();
                *sum += up * beat * x;
            }
        }
        let mut rng = StdRng::seed_from_u64(seed + 1);
        let loudest = sound.iter().fold(0f32, |most, x| most.max(x.abs()));
        finish(&mut sound, &mut rng, loudest.min(0.9))
    }
}

/// Scales to `peak` and lays a little noise under it.
fn finish(sound: &mut [f32], rng: &mut StdRng, peak: f32) -> Vec<f32> {
    let loudest = sound.iter().fold(1e-9f32, |most, x| most.max(x.abs()));
    sound.iter().map(|x| x * peak / loudest + rng.random_range(-1.0f32..1.0) * 1e-4).collect()
}
