//! Reverberation time by octave band from a hand clap, or from a burst of noise that stops (interrupted noise, ISO 3382-2).

use super::Octaves;
use super::modes::{RoomMode, room_modes};
use crate::decay::{DecayCurve, NoiseFloor};
use crate::signal::OctaveFilter;
use ember_words::Said;
use serde::{Deserialize, Serialize};

/// What was found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomDecay {
    /// T20 by octave band, s; null where the sound did not rise far enough out of the noise.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
    pub t60_s: Octaves<Option<f64>>,
    /// Claps or bursts that were heard.
    pub decays: usize,
    /// Spread between them where there were several: standard deviation by octave, s.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
    pub spread_s: Octaves<Option<f64>>,
    /// Low tones that the room holds by itself, low to high; none where they lie too close together, or a single clap was heard.
    pub modes: Vec<RoomMode>,
}

/// Why nothing was found, and what to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum Unmeasurable {
    /// Too little of the decay stands out of the noise.
    #[said("The clap was lost in noise: it must be heard for 35 dB down. Clap harder, wait for quiet, or type what you know.")]
    LostInNoise,
    /// There was too little sound.
    #[said("Less than half a second was heard. Clap once, then keep quiet until it has died away.")]
    TooShort,
    /// Nothing rises as a clap does.
    #[said("No clap was heard above the noise. Clap harder or nearer to the microphone, in a quiet moment.")]
    NoClap,
    /// It went beyond full scale.
    #[said("It was too loud for the input. Turn the input down or step back, then clap again.")]
    TooLoud,
}

const STEP_S: f64 = 0.01;
/// A clap stands this far above what is around it, dB.
const RISE_DB: f64 = 20.0;
/// Pause between two claps, s.
const APART_S: f64 = 0.4;
/// Claps or bursts of which the middle is taken.
const MOST_DECAYS: usize = 12;

/// Finds every clap or burst in `samples` (full scale 1) and what the room makes of it.
pub fn room_decay(samples: &[f32], rate: f64) -> Result<RoomDecay, Unmeasurable> {
    let spans = decays(samples, rate)?;
    let mut t60_s = [None; 7];
    let mut spread_s = [None; 7];
    for index in 0..7 {
        let Some(filter) = OctaveFilter::new(index, rate) else { continue };
        let band = filter.backwards(samples);
        let times: Vec<f64> = spans.iter().filter_map(|(from, to)| one(&band[*from..*to], rate)).collect();
        // Most of them must agree that there is a decay to be seen.
        if 2 * times.len() > spans.len() {
            t60_s[index] = crate::units::median(&times);
            let mean = times.iter().sum::<f64>() / times.len() as f64;
            let scatter = times.iter().map(|t| (t - mean).powi(2)).sum::<f64>() / (times.len() as f64 - 1.0).max(1.0);
            spread_s[index] = (times.len() > 1).then(|| scatter.sqrt());
        }
    }
    if t60_s.iter().all(Option::is_none) {
        return Err(Unmeasurable::LostInNoise);
    }
    Ok(RoomDecay { t60_s, decays: spans.len(), spread_s, modes: room_modes(samples, rate, &spans) })
}

/// Decay time of one band of one clap: from where its level begins to fall.
fn one(band: &[f32], rate: f64) -> Option<f64> {
    let step = (rate * STEP_S) as usize;
    let energy: Vec<f64> = band.chunks_exact(step).map(|part| part.iter().map(|x| f64::from(*x).powi(2)).sum()).collect();
    let loudest = energy.iter().copied().fold(0.0, f64::max);
    let stop = energy.iter().rposition(|e| *e > 0.4 * loudest)?;
    DecayCurve::new(&band[stop * step..], rate, NoiseFloor::Tail).evaluate().t20_s
}

/// Stretches of `samples`, each with one clap or burst and its decay.
fn decays(samples: &[f32], rate: f64) -> Result<Vec<(usize, usize)>, Unmeasurable> {
    let step = (rate * STEP_S) as usize;
    let level: Vec<f64> = samples
        .chunks_exact(step.max(1))
        .map(|part| 10.0 * (part.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / part.len() as f64).max(1e-14).log10())
        .collect();
    if (level.len() as f64) * STEP_S < 0.5 {
        return Err(Unmeasurable::TooShort);
    }
    let mut sorted = level.clone();
    sorted.sort_by(f64::total_cmp);
    let (quiet, loudest) = (sorted[sorted.len() / 10], sorted[sorted.len() - 1]);
    if loudest - quiet < RISE_DB {
        return Err(Unmeasurable::NoClap);
    }
    if samples.iter().filter(|x| x.abs() > 0.999).count() > 8 {
        return Err(Unmeasurable::TooLoud);
    }
    // Rises out of quiet; what is nearly as loud as the loudest counts.
    let high = loudest - 12.0;
    let mut starts: Vec<usize> = Vec::new();
    let mut last_loud = None::<usize>;
    for (i, value) in level.iter().enumerate() {
        if *value > high {
            if last_loud.is_none_or(|last| (i - last) as f64 * STEP_S > APART_S) {
                starts.push(i);
            }
            last_loud = Some(i);
        }
    }
    starts.truncate(MOST_DECAYS);
    let spans = starts
        .iter()
        .enumerate()
        .map(|(k, start)| {
            let from = start.saturating_sub(2) * step;
            let to = starts.get(k + 1).map_or(samples.len(), |next| next.saturating_sub(4) * step);
            (from, to)
        })
        .filter(|(from, to)| to > from)
        .collect();
    Ok(spans)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::venue::{Loudness, Room, RoomClass, SimulatedVenue, room_class_infos};
    use rand::{Rng, SeedableRng, rngs::StdRng};

    fn rate() -> f64 {
        f64::from(SimulatedVenue::SAMPLE_RATE)
    }

    fn claps(t60_s: Octaves<Option<f64>>) -> Vec<f32> {
        SimulatedVenue { t60_s, loudness: Loudness::Loud }.claps(5)
    }

    #[test]
    fn what_a_simulated_room_hides_is_found_again() {
        for info in room_class_infos().iter().filter(|info| info.class != RoomClass::OpenAir) {
            let hidden = Room::Class { class: info.class }.t60_s();
            let found = room_decay(&claps(hidden), rate()).unwrap();
            assert_eq!(found.decays, 3, "{}", info.name);
            for (index, (found, hidden)) in found.t60_s.iter().zip(hidden).enumerate() {
                let hidden = hidden.unwrap();
                // Low octaves of noise decay less evenly, being narrow; into all of them neighbours leak that ring for longer.
                let within = [0.35, 0.25, 0.2, 0.2, 0.2, 0.2, 0.2][index];
                if let Some(found) = found {
                    assert!((found / hidden - 1.0).abs() < within, "{} octave {index}: {found} for {hidden}", info.name);
                }
            }
            assert!(found.t60_s[2..].iter().all(Option::is_some), "{}: {:?}", info.name, found.t60_s);
        }
    }

    #[test]
    fn noise_silence_and_clipping_are_said_in_words() {
        let mut rng = StdRng::seed_from_u64(1);
        let noise: Vec<f32> = (0..96_000).map(|_| rng.random_range(-0.1f32..0.1)).collect();
        assert!(room_decay(&noise, rate()).unwrap_err() == Unmeasurable::NoClap);
        // Under a band that gets louder, claps are first measured, then lost, then not heard at all.
        let place = SimulatedVenue { t60_s: [Some(0.6); 7], loudness: Loudness::Loud };
        let (claps_alone, band) = (claps(place.t60_s), place.band(2));
        let said: Vec<u8> = (0..24)
            .map(|step| {
                let up = 0.0025 * 1.5f32.powi(step);
                let mixed: Vec<f32> = claps_alone.iter().zip(band.iter().cycle()).map(|(clap, noise)| 0.5 * clap + up * noise).collect();
                match room_decay(&mixed, rate()) {
                    Ok(_) => 0,
                    Err(Unmeasurable::LostInNoise) => 1,
                    Err(error) => 2 + u8::from(error != Unmeasurable::NoClap),
                }
            })
            .collect();
        assert!(said.is_sorted() && said.contains(&0) && said.contains(&1) && said.last() == Some(&2), "{said:?}");
        let loud: Vec<f32> = claps([Some(1.0); 7]).iter().map(|x| (8.0 * x).clamp(-1.0, 1.0)).collect();
        assert!(room_decay(&loud, rate()).unwrap_err() == Unmeasurable::TooLoud);
        assert!(room_decay(&[0.0; 100], rate()).unwrap_err() == Unmeasurable::TooShort);
        assert!(room_decay(&vec![0.0; 96_000], rate()).is_err());
    }
}
