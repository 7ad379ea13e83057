//! What a device is taken to do before anything was measured with it.

use serde::Serialize;

/// The frequency at which resistances are given, Hz.
pub(crate) const REFERENCE_HZ: f64 = 200.0;

/// Doubt of what a thing of the player's own does, guessed from its mass: standard deviation of the resistance's natural logarithm.
pub(super) const MADE_LN_SD: f64 = 0.7;

/// What a device does to the head under it, before anything was measured with it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Prior {
    /// Areal resistance at [`REFERENCE_HZ`], N s/m3.
    pub resistance: f64,
    /// Doubt of the resistance: standard deviation of its natural logarithm.
    pub resistance_ln_sd: f64,
    /// The resistance grows as frequency to this power.
    pub exponent: f64,
    /// Areal mass that moves with the head, kg/m2.
    pub mass: f64,
}
