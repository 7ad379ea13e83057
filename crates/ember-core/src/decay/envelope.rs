//! Level of a strike over time.

use crate::signal::energy;
use crate::units::median;

/// Level over time in steps of 2.5 ms over windows of 10 ms.
pub(super) struct Envelope {
    /// Mean square over 10 ms, one value each `step_s`.
    pub energy: Vec<f64>,
    /// s
    pub step_s: f64,
}

impl Envelope {
    pub fn new(sound: &[f32], rate: f64) -> Self {
        let step = ((0.0025 * rate) as usize).max(1);
        let blocks: Vec<f64> = sound.chunks_exact(step).map(mean_square).collect();
        let energy = (0..blocks.len()).map(|i| blocks[i..(i + 4).min(blocks.len())].iter().sum::<f64>() / 4.0).collect();
        Self { energy, step_s: step as f64 / rate }
    }

    fn peak(&self) -> (usize, f64) {
        self.energy.iter().copied().enumerate().max_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0, 0.0))
    }

    pub fn peak_at_s(&self) -> f64 {
        self.peak().0 as f64 * self.step_s
    }

    /// Last time at which the level is within `db` of the loudest; none where noise of mean square `noise` hides it.
    pub fn fall(&self, db: f64, noise: f64) -> Option<f64> {
        let level = self.peak().1 * 10f64.powf(-db / 10.0);
        if level < 4.0 * noise || self.energy.last().is_none_or(|last| *last > level) {
            return None;
        }
        self.energy.iter().rposition(|e| *e >= level).map(|i| (i + 1) as f64 * self.step_s)
    }

    /// How far the level at step `at` is below the loudest, dB.
    pub fn fallen_until_db(&self, at: usize) -> f64 {
        10.0 * (self.peak().1 / self.energy.get(at).copied().unwrap_or(0.0).max(1e-20)).log10()
    }

    pub fn fallen_db(&self) -> f64 {
        let last: Vec<f64> = self.energy.iter().rev().skip(4).take(8).copied().collect();
        10.0 * (self.peak().1 / median(&last).unwrap_or(1.0).max(1e-20)).log10()
    }
}

pub(super) fn mean_square(samples: &[f32]) -> f64 {
    energy(samples) / samples.len().max(1) as f64
}
