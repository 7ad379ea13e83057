//! A simulated bass, to hold the kick against where no bass is in the room.

use super::sound::{SAMPLE_RATE, gaussian};
use crate::tuning::note_hz;
use rand::{SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

const NOTE_S: f64 = 1.1;
/// Where the string is plucked, as a part of its length.
const PLUCKED_AT: f64 = 0.22;
const PARTIALS: i32 = 14;

/// Plucked strings one after the other, `notes` numbered from C-1 = 0; full scale 1 at [`SAMPLE_RATE`]. Each partial as a string
/// plucked at one point has it, slightly sharp for its stiffness, higher ones sooner gone.
pub fn bass_line(notes: &[i32], seed: u64) -> Vec<f32> {
    let mut rng = StdRng::seed_from_u64(seed);
    let mut out = Vec::new();
    for number in notes {
        let hz = note_hz(*number);
        for n in 0..(NOTE_S * f64::from(SAMPLE_RATE)) as usize {
            let t = n as f64 / f64::from(SAMPLE_RATE);
            let of = |k: i32| {
                let k = f64::from(k);
                let own_hz = k * hz * (1.0 + 4e-5 * k * k);
                (k * PI * PLUCKED_AT).sin() / k.powf(1.4) * (-t * (1.2 + 0.5 * k)).exp() * (2.0 * PI * own_hz * t).sin()
            };
            // The finger damps it at the end.
            let damped = ((NOTE_S - t) / 0.08).min(1.0) * (t / 0.004).min(1.0);
            let sound = 0.25 * damped * (1..=PARTIALS).map(of).sum::<f64>() + 1e-4 * gaussian(&mut rng);
            out.push(sound as f32);
        }
    }
    out
}
