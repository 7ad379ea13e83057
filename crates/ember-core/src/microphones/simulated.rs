//! A soundcheck that stands in for an interface with many inputs: snare and kick of the simulated kit, as six microphones hear them.

use super::role::Microphone;
use crate::bench_drum::BenchDrum;
use crate::drum::DrumKind;
use crate::physics::SPEED_OF_SOUND;
use crate::signal::between;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;

/// Strikes of each drum.
const STRIKES: usize = 4;
/// A microphone this near has a drum at its own level, m.
const NEAR_M: f64 = 0.08;
/// Loudest sample of each drum, against full scale.
const PEAK: f64 = 0.5;
/// Noise of each input, against full scale.
const NOISE: f64 = 1e-4;

/// Where a microphone stands: its paths from snare and kick, m, and whether it sees the snare's other side.
struct Stand {
    microphone: Microphone,
    snare_m: f64,
    kick_m: f64,
    from_below: bool,
}

const STANDS: [Stand; 6] = [
    Stand { microphone: Microphone::SnareTop, snare_m: 0.05, kick_m: 0.9, from_below: false },
    Stand { microphone: Microphone::SnareBottom, snare_m: 0.07, kick_m: 0.8, from_below: true },
    Stand { microphone: Microphone::KickIn, snare_m: 0.9, kick_m: 0.1, from_below: false },
    Stand { microphone: Microphone::KickOut, snare_m: 1.2, kick_m: 0.55, from_below: false },
    Stand { microphone: Microphone::OverheadLeft, snare_m: 1.1, kick_m: 1.5, from_below: false },
    Stand { microphone: Microphone::OverheadRight, snare_m: 1.4, kick_m: 1.5, from_below: false },
];

/// What each microphone hears at [`crate::bench_drum::SAMPLE_RATE`], first the snare and then the kick; `seed` decides the hand and the noise.
pub fn simulated_soundcheck(seed: u64) -> Vec<(Microphone, Vec<f32>)> {
    let rate = f64::from(crate::bench_drum::SAMPLE_RATE);
    let sounds: Vec<Vec<f64>> = [DrumKind::Snare, DrumKind::Kick]
        .into_par_iter()
        .map(|kind| {
            let sound = BenchDrum::new(&BenchDrum::usual(kind), &[]).map(|drum| drum.play(STRIKES, seed)).unwrap_or_default();
            // Each drum is struck as loudly as the other.
            let peak = sound.iter().fold(f32::MIN_POSITIVE, |most, x| most.max(x.abs()));
            sound.into_iter().map(|sample| PEAK * f64::from(sample / peak)).collect()
        })
        .collect();
    let length: usize = sounds.iter().map(Vec::len).sum();
    let heard = |index: usize, stand: &Stand| {
        let mut rng = StdRng::seed_from_u64(seed.wrapping_add(index as u64));
        // The wires' side moves towards its microphone where the struck side moves away.
        let ways = [(stand.snare_m, if stand.from_below { -1.0 } else { 1.0 }), (stand.kick_m, 1.0)];
        let begins = [0, sounds[0].len()];
        let at = |n: usize| {
            let mut sum = NOISE * rng.random_range(-1.0..1.0);
            for ((sound, (path_m, sign)), begin) in sounds.iter().zip(ways).zip(begins) {
                let place = n as f64 - begin as f64 - path_m / SPEED_OF_SOUND * rate;
                if place >= 0.0 && place < sound.len() as f64 {
                    sum += sign * NEAR_M / (NEAR_M + path_m) * between(sound, place);
                }
            }
            sum as f32
        };
        (stand.microphone, (0..length).map(at).collect())
    };
    STANDS.par_iter().enumerate().map(|(index, stand)| heard(index, stand)).collect()
}
