//! Tuning back what mass on a head has lowered.

use crate::damping::{Expectation, Placement};
use crate::tuning::EIGHTH_CENTS;
use serde::Serialize;

/// Smaller drifts of the pitch are left alone, cents.
const LEFT_ALONE_CENTS: f64 = 30.0;

/// A turn of every rod of the batter head.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Retune {
    /// Eighths of a turn, up.
    pub eighths: u32,
    /// What the treatment takes from the pitch, cents.
    pub lost_cents: f64,
}

/// What gives back the pitch that `expected` loses: about, since how far an eighth of a turn goes differs from head to head. `None` where
/// little is lost, or where `placements` let rods down for it.
pub fn retune(expected: &Expectation, placements: &[Placement]) -> Option<Retune> {
    let lost_cents = -expected.pitch_cents;
    let eighths = (lost_cents / EIGHTH_CENTS).round().max(1.0) as u32;
    (lost_cents >= LEFT_ALONE_CENTS && !placements.iter().any(|placement| placement.device.is_tuning()))
        .then_some(Retune { eighths, lost_cents })
}
