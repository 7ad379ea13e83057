//! A second-order section for splitting a live stream into a few bands.

use std::f64::consts::PI;

/// Band-pass with 0 dB at its centre (bilinear transform of the analogue prototype; common practice, after the
/// "Audio EQ Cookbook" note published by the W3C Audio Working Group).
#[derive(Debug, Clone)]
pub struct BandPass {
    b0: f64,
    a1: f64,
    a2: f64,
    x: [f64; 2],
    y: [f64; 2],
}

impl BandPass {
    /// Passes roughly `low` to `high` Hz at `rate` samples a second.
    pub fn new(low: f64, high: f64, rate: f64) -> Self {
        let high = high.min(0.45 * rate);
        let low = low.min(0.5 * high);
        let centre = (low * high).sqrt();
        let w = 2.0 * PI * centre / rate;
        let alpha = w.sin() * (high - low) / (2.0 * centre);
        let a0 = 1.0 + alpha;
        Self { b0: alpha / a0, a1: -2.0 * w.cos() / a0, a2: (1.0 - alpha) / a0, x: [0.0; 2], y: [0.0; 2] }
    }

    pub fn push(&mut self, sample: f64) -> f64 {
        let out = self.b0 * (sample - self.x[1]) - self.a1 * self.y[0] - self.a2 * self.y[1];
        self.x = [sample, self.x[0]];
        self.y = [if out.abs() < 1e-30 { 0.0 } else { out }, self.y[0]];
        out
    }
}
