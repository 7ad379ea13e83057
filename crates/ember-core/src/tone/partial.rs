//! One partial of a sound.

use super::tone::{Tone, read_tone};
use crate::units::{amplitude, decay_rate};
use serde::{Deserialize, Serialize};

/// Start and end of the stretch in which the ring is judged, s after the strike.
pub const RING_FROM_S: f64 = 0.08;
/// End of it, s after the strike.
pub const RING_TO_S: f64 = 0.40;
/// Two partials nearer than this (ratio) are the same one, before and after something was put on the drum.
const SAME_PITCH: f64 = 0.06;

/// One partial of a strike or of a drum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Partial {
    /// Pitch, Hz.
    pub hz: f64,
    /// Time to fall 60 dB, s; null where it cannot be trusted.
    pub t60_s: Option<f64>,
    /// Its standard error, s.
    pub t60_sd_s: Option<f64>,
    /// How much it differs from strike to strike, s: 1.4826 times the median deviation from the median; null of a single strike, and where too few
    /// tell.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub t60_scatter_s: Option<f64>,
    /// Level at the strike against the loudest partial, dB.
    pub level_db: f64,
    /// Which of the drum's tones it is; null where that is not known.
    #[serde(default, alias = "mode", deserialize_with = "read_tone")]
    pub tone: Option<Tone>,
}

impl Partial {
    /// Energy (squared amplitude of the loudest partial times s) between two times after the strike.
    pub fn energy_between(&self, from: f64, to: f64) -> f64 {
        let Some(t60) = self.t60_s else { return 0.0 };
        let rate = 2.0 * decay_rate(t60);
        amplitude(self.level_db).powi(2) * ((-rate * from).exp() - (-rate * to).exp()) / rate
    }

    /// The same while the ring is judged.
    pub fn late_energy(&self) -> f64 {
        self.energy_between(RING_FROM_S, RING_TO_S)
    }
}

/// The partial with a known decay time that is the same as one of `hz` in another take or prediction.
pub fn nearest(partials: &[Partial], hz: f64) -> Option<&Partial> {
    let off = |partial: &Partial| (partial.hz / hz - 1.0).abs();
    partials.iter().filter(|p| p.t60_s.is_some() && off(p) < SAME_PITCH).min_by(|a, b| off(a).total_cmp(&off(b)))
}
