//! Sounds made of damped tones and noise, whose decay times are known exactly, and what is measured of them.

use ember_core::decay::{StrikeAnalyzer, StrikeMeasurement};
use ember_core::signal::{CapturedStrike, Ending};
use ember_core::tone::Partial;
use rand::{Rng, rngs::StdRng};
use std::f64::consts::PI;

pub const RATE: f64 = 48_000.0;
const LEAD_S: f64 = 0.1;

/// One damped tone from the hit on.
#[derive(Debug, Clone, Copy)]
pub struct Tone {
    pub hz: f64,
    pub t60: f64,
    pub amplitude: f64,
    pub phase: f64,
}

pub fn normal(rng: &mut StdRng) -> f64 {
    (-2.0 * rng.random_range(1e-12..1.0f64).ln()).sqrt() * (2.0 * PI * rng.random_range(0.0..1.0f64)).cos()
}

/// `sound(t)`, silent before the hit, with white noise of RMS `noise`, cut off at full scale as a converter does, measured.
pub fn measure(sound: impl Fn(f64) -> f64, noise: f64, seconds: f64, rng: &mut StdRng) -> StrikeMeasurement {
    measure_all(|t| if t < 0.0 { 0.0 } else { sound(t) }, noise, seconds, rng)
}

/// The same with what sounds before the hit.
pub fn measure_all(sound: impl Fn(f64) -> f64, noise: f64, seconds: f64, rng: &mut StdRng) -> StrikeMeasurement {
    let onset_index = (LEAD_S * RATE) as usize;
    let at = |n: usize| (n as f64 - onset_index as f64) / RATE;
    let samples: Vec<f32> =
        (0..onset_index + (seconds * RATE) as usize).map(|n| (sound(at(n)) + noise * normal(rng)).clamp(-1.0, 1.0) as f32).collect();
    let captured = CapturedStrike { sample_rate: RATE, onset_s: LEAD_S, samples, onset_index, ending: Ending::Decayed };
    StrikeAnalyzer::new(RATE).measure(&captured)
}

pub fn sum(tones: &[Tone]) -> impl Fn(f64) -> f64 + use<> {
    let tones = tones.to_vec();
    move |t| tones.iter().map(|tone| tone.amplitude * (-6.907_755 * t / tone.t60).exp() * (2.0 * PI * tone.hz * t + tone.phase).sin()).sum()
}

/// RMS of noise `snr_db` below a sine of `amplitude`.
pub fn noise_for(amplitude: f64, snr_db: f64) -> f64 {
    amplitude / 2f64.sqrt() * 10f64.powf(-snr_db / 20.0)
}

pub fn nearest(partials: &[Partial], hz: f64) -> Option<&Partial> {
    partials.iter().filter(|p| (p.hz / hz - 1.0).abs() < 0.05).min_by(|a, b| (a.hz - hz).abs().total_cmp(&(b.hz - hz).abs()))
}

pub fn random_tone(t60: f64, amplitude: f64, hz: std::ops::Range<f64>, rng: &mut StdRng) -> Tone {
    Tone { hz: rng.random_range(hz), t60, amplitude, phase: rng.random_range(0.0..2.0 * PI) }
}
