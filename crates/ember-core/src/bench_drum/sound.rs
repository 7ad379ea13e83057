//! What all simulated sounds share.

use rand::{Rng, rngs::StdRng};

/// Samples a second of what [`super::BenchDrum`] plays.
pub const SAMPLE_RATE: u32 = 48_000;

/// Normal deviate by the polar method (Marsaglia & Bray, SIAM Review 6, 1964).
pub(super) fn gaussian(rng: &mut StdRng) -> f64 {
    loop {
        let (u, v) = (rng.random_range(-1.0..1.0f64), rng.random_range(-1.0..1.0f64));
        let s = u * u + v * v;
        if s > 0.0 && s < 1.0 {
            return u * (-2.0 * s.ln() / s).sqrt();
        }
    }
}
