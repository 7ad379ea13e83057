//! What lies above 2 kHz of a strike: snare wires and loose hardware.

use super::envelope::mean_square;
use crate::signal::{Decimator, LowPass};
use crate::units::median;

/// Steps in which a buzz is followed, from when and for how long at most, s; and how far above the noise's power it must begin.
const BUZZ_STEP_S: f64 = 0.005;
const BUZZ_FROM_S: f64 = 0.02;
const BUZZ_LONGEST_S: f64 = 1.2;
const BUZZ_CLEAR: f64 = 60.0;

/// Splits off what lies above 2 kHz, by taking away what lies below.
pub(super) struct LowPassRest {
    filter: Decimator,
}

impl LowPassRest {
    pub fn new(rate: f64) -> Self {
        let stop = (2600f64).min(0.48 * rate);
        Self { filter: Decimator { filter: LowPass::new(0.6 * stop, stop, 60.0, rate), factor: 1 } }
    }

    /// Time for what lies up there to fall 20 dB once the stick's own sound is over, by backward integration; none where it does not
    /// stand far enough out of the noise to be followed.
    pub fn buzz_s(&self, sound: &[f32], before: &[f32], rate: f64) -> Option<f64> {
        let blocks = |samples: &[f32]| -> Vec<f64> {
            let input: Vec<f64> = samples.iter().map(|x| f64::from(*x)).collect();
            let low = self.filter.real(&input);
            let high: Vec<f32> = input.iter().zip(low).map(|(all, low)| (all - low) as f32).collect();
            high.chunks_exact(((BUZZ_STEP_S * rate) as usize).max(1)).map(mean_square).collect()
        };
        let steps = blocks(&sound[..sound.len().min((BUZZ_LONGEST_S * rate) as usize)]);
        // The filter reaches beyond both ends of what it is given.
        let quiet = blocks(before);
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

    pub fn buzz_share(&self, sound: &[f32], before: &[f32], rate: f64) -> Option<f64> {
        let from = (0.05 * rate) as usize;
        let part = sound.get(from..((0.4 * rate) as usize).min(sound.len()))?;
        let noise_part = if before.len() as f64 > 0.02 * rate { before } else { sound.get(sound.len() * 9 / 10..)? };
        let power = |samples: &[f32]| {
            let input: Vec<f64> = samples.iter().map(|x| f64::from(*x)).collect();
            let low = self.filter.real(&input);
            let margin = self.filter.filter.half_len().min(input.len() / 4);
            let inner = margin..input.len() - margin;
            let high: f64 = inner.clone().map(|i| (input[i] - low[i]).powi(2)).sum();
            let all: f64 = inner.clone().map(|i| input[i].powi(2)).sum();
            let n = inner.len().max(1) as f64;
            (high / n, all / n)
        };
        let (high, all) = power(part);
        let (noise_high, noise_all) = power(noise_part);
        let (high, all) = ((high - noise_high).max(0.0), all - noise_all);
        (all > 0.0 && part.len() as f64 > 0.1 * rate).then(|| (high / all).min(1.0))
    }
}
