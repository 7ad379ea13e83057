//! How a device in its place takes hold of a drum's modes.

use super::prior::REFERENCE_HZ;
use nalgebra::DMatrix;

/// Partials of a prediction that are quieter than this at the strike are left out, dB.
pub(crate) const QUIETEST_DB: f64 = -55.0;

/// A device's grip on the drum's modes, at the prior's resistance.
#[derive(Debug, Clone)]
pub struct Grip {
    pub(super) loss: DMatrix<f64>,
    pub(super) mass: DMatrix<f64>,
    pub(super) ln_sd: f64,
    /// Pitch of each mode against its own, where what is done takes tension from a head.
    pub(super) lowered: Option<Vec<f64>>,
}

impl Grip {
    /// The same where the logarithm of the resistance against the prior's is known to be `mean`, with the doubt `sd`.
    pub fn as_strong(&self, (mean, sd): (f64, f64)) -> Self {
        Self { loss: &self.loss * mean.exp(), mass: self.mass.clone(), ln_sd: sd, lowered: self.lowered.clone() }
    }

    /// The same where the resistance grows with a power of the frequency that is larger by `more`. `hz`: the modes' pitches.
    pub fn as_steep(self, more: f64, hz: impl Fn(usize) -> f64) -> Self {
        let growth = |k: usize| (hz(k) / REFERENCE_HZ).powf(0.5 * more);
        let growth: Vec<f64> = (0..self.loss.nrows()).map(growth).collect();
        Self { loss: self.loss.map_with_location(|r, c, loss| growth[r] * loss * growth[c]), ..self }
    }

    /// The same where its mass is `times` the prior's.
    pub fn as_heavy(self, times: f64) -> Self {
        Self { mass: self.mass * times, ..self }
    }
}
