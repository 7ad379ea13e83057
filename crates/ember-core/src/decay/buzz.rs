//! What lies above 2 kHz of a strike: snare wires and loose hardware.

use super::envelope::mean_square;
use crate::signal::{LowPass, energy};
use crate::units::median;

/// Steps in which a buzz is followed, from when and for how long at most, s; and how far above the noise's power it must begin.
const BUZZ_STEP_S: f64 = 0.005;
const BUZZ_FROM_S: f64 = 0.02;
const BUZZ_LONGEST_S: f64 = 1.2;
const BUZZ_CLEAR: f64 = 60.0;

/// Splits off what lies above 2 kHz, by taking away what lies below.
pub(super) struct LowPassRest {
    filter: LowPass,
    rate: f64,
}

/// A strike's sound and the noise before it, all of it and what lies above 2 kHz.
pub(super) struct Buzz {
    sound: Vec<f32>,
    high: Vec<f32>,
    before: Vec<f32>,
    high_before: Vec<f32>,
    /// Samples at an end into which the filter reaches from beyond it.
    margin: usize,
    rate: f64,
}

impl LowPassRest {
    pub fn new(rate: f64) -> Self {
        let stop = (2600f64).min(0.48 * rate);
        Self { filter: LowPass::new(0.6 * stop, stop, 60.0, rate), rate }
    }

    /// `sound` from the hit on and what was heard `before` it.
    pub fn split(&self, sound: &[f32], before: &[f32]) -> Buzz {
        let high = |samples: &[f32]| samples.iter().zip(self.filter.single(samples)).map(|(all, low)| all - low).collect();
        let sound = &sound[..sound.len().min((BUZZ_LONGEST_S * self.rate) as usize)];
        let (high, high_before) = (high(sound), high(before));
        Buzz { sound: sound.to_vec(), high, before: before.to_vec(), high_before, margin: self.filter.half_len(), rate: self.rate }
    }
}

impl Buzz {
    /// Time for what lies up there to fall 20 dB once the stick's own sound is over, by backward integration; none where it does not
    /// stand far enough out of the noise to be followed.
    pub fn length_s(&self) -> Option<f64> {
        let blocks =
            |samples: &[f32]| -> Vec<f64> { samples.chunks_exact(((BUZZ_STEP_S * self.rate) as usize).max(1)).map(mean_square).collect() };
        let steps = blocks(&self.high);
        // The filter reaches beyond both ends of what it is given.
        let quiet = blocks(&self.high_before);
        let noise = if quiet.len() >= 6 { median(&quiet[1..quiet.len() - 2])? } else { median(&steps[steps.len() * 9 / 10..])? };
        let from = (BUZZ_FROM_S / BUZZ_STEP_S) as usize;
        let steps = steps.get(from..)?;
        if *steps.first()? < BUZZ_CLEAR * noise {
            return None;
        }
        let end = steps.iter().position(|power| *power < 2.0 * noise).unwrap_or(steps.len());
        let left = |at: usize| steps[at..end].iter().map(|power| (power - noise).max(0.0)).sum::<f64>();
        let all = left(0);
        (1..=end).find(|at| left(*at) <= 0.01 * all).map(|at| at as f64 * BUZZ_STEP_S)
    }

    /// Part of the energy from 50 to 400 ms after the hit that lies up there, less the noise.
    pub fn share(&self) -> Option<f64> {
        let (from, to) = ((0.05 * self.rate) as usize, ((0.4 * self.rate) as usize).min(self.sound.len()));
        if to.saturating_sub(from) as f64 <= 0.1 * self.rate {
            return None;
        }
        let power = |all: &[f32], high: &[f32], range: std::ops::Range<usize>| {
            // Near an end the filter has not seen everything.
            let inner = range.start.max(self.margin)..range.end.min(all.len().saturating_sub(self.margin));
            let n = inner.len().max(1) as f64;
            let mean = |samples: &[f32]| energy(samples.get(inner.clone()).unwrap_or(&[])) / n;
            (mean(high), mean(all))
        };
        let (high, all) = power(&self.sound, &self.high, from..to);
        let (noise_high, noise_all) = if self.before.len() as f64 > 0.02 * self.rate {
            power(&self.before, &self.high_before, 0..self.before.len())
        } else {
            power(&self.sound, &self.high, self.sound.len() * 9 / 10..self.sound.len())
        };
        let (high, all) = ((high - noise_high).max(0.0), all - noise_all);
        (all > 0.0).then(|| (high / all).min(1.0))
    }
}
