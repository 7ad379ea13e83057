//! What the model itself is off by, however well devices are known.

use crate::tone::Tone;

/// What the model itself is off by, with devices known exactly: standard deviation of the logarithm of a decay time, from its
/// comparison with the simulated drum (docs/METHOD.md).
pub(super) const MODEL_LN_SD: f64 = 0.12;
/// The same for what moves air as a whole, the body aside; for pairs of modes with nodal diameters; and for partials that fit no mode, from the
/// comparison with the simulated drum in air.
const AXIAL_LN_SD: f64 = 0.35;
const PAIR_LN_SD: f64 = 0.2;
const STRANGER_LN_SD: f64 = 0.5;

/// What the model itself is off by in `tone`, with devices known exactly: standard deviation of the logarithm of a decay time, from its comparison
/// with the simulated drum in air (docs/METHOD.md). Motions of both heads against the air depend on what is known least.
pub(crate) fn tone_ln_sd(tone: Option<Tone>) -> f64 {
    match tone {
        Some(Tone::Mode(mode)) if mode.is_lowest() => MODEL_LN_SD,
        Some(Tone::Mode(mode)) if mode.is_axial() => AXIAL_LN_SD,
        Some(Tone::Mode(_)) => PAIR_LN_SD,
        Some(Tone::OctaveHz(_)) | None => MODEL_LN_SD,
        Some(Tone::Number(_)) => STRANGER_LN_SD,
    }
}
