//! How a device in its place takes hold of a drum's modes.

use super::own_tones::OwnTones;
use super::prior::REFERENCE_HZ;
use nalgebra::DMatrix;
use std::sync::Arc;

/// Partials of a prediction that are quieter than this at the strike are left out, dB.
pub(crate) const QUIETEST_DB: f64 = -55.0;

/// A device's grip on the drum's modes, at the prior's resistance.
#[derive(Debug, Clone)]
pub struct Grip {
    pub(super) loss: DMatrix<f64>,
    pub(super) mass: DMatrix<f64>,
    pub(super) ln_sd: f64,
    /// What is done to the batter head's tension, if anything.
    pub(super) tension: Option<Tension>,
    /// What is known of the drum's own tones under it.
    pub(super) own: Arc<OwnTones>,
}

/// What is done to the batter head's tension.
#[derive(Debug, Clone)]
pub(super) struct Tension {
    /// What is added to each mode's spring, as a part of it, and between two modes (of the root of their springs' product).
    pub stiffer: DMatrix<f64>,
    /// Whether tests tell how much that is, rather than how strong a resistance.
    pub is_learned: bool,
}

impl Tension {
    /// Pitch of mode `k` against its own, to first order.
    pub fn pitch(&self, k: usize) -> f64 {
        (1.0 + self.stiffer[(k, k)]).max(f64::MIN_POSITIVE).sqrt()
    }
}

impl Grip {
    /// The same where the logarithm of the resistance, or of what a turn does, against the prior's is known to be `mean`, with the doubt `sd`.
    pub fn as_strong(&self, (mean, sd): (f64, f64)) -> Self {
        let times = |tension: &Tension| if tension.is_learned { mean.exp() } else { 1.0 };
        let tension = self.tension.as_ref().map(|tension| Tension { stiffer: &tension.stiffer * times(tension), ..*tension });
        Self { loss: &self.loss * mean.exp(), mass: self.mass.clone(), ln_sd: sd, tension, own: self.own.clone() }
    }

    /// The same where the resistance grows with a power of the frequency that is larger by `more`. `hz`: the modes' pitches.
    pub fn as_steep(self, more: f64, hz: impl Fn(usize) -> f64) -> Self {
        self.with_modes_scaled(|k| (hz(k) / REFERENCE_HZ).powf(0.5 * more))
    }

    /// The same on a drum of whose modes each loses `exp(ln(mode))` times as much to it, of which `own` is known.
    pub fn on_own(self, own: &Arc<OwnTones>, ln: impl Fn(usize) -> f64) -> Self {
        Self { own: own.clone(), ..self.with_modes_scaled(|k| (0.5 * ln(k)).exp()) }
    }

    fn with_modes_scaled(self, by: impl Fn(usize) -> f64) -> Self {
        let by: Vec<f64> = (0..self.loss.nrows()).map(by).collect();
        Self { loss: self.loss.map_with_location(|r, c, loss| by[r] * loss * by[c]), ..self }
    }

    /// The same where its mass is `times` the prior's.
    pub fn as_heavy(self, times: f64) -> Self {
        Self { mass: self.mass * times, ..self }
    }
}
