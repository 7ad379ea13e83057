//! How well a strike could be measured, and what stood in the way.

use super::dynamic::Dynamic;
use super::strike::{HeardBy, StrikeMeasurement};
use crate::units::median;
use serde::{Deserialize, Serialize};

/// Range above the noise from which nothing is gained, and below which nothing is left, dB.
const RANGE_DB: std::ops::Range<f64> = 25.0..60.0;
/// Relative standard error of the body's decay time at which it is as good as exact, and as good as unknown.
const DOUBT: std::ops::Range<f64> = 0.003..0.10;
/// The same of a cymbal's octaves: each holds a few tens of tones at most, and their beating leaves some doubt in the best of recordings.
const DOUBT_OF_OCTAVES: std::ops::Range<f64> = 0.02..0.30;
/// A part below this is named as what stood in the way.
const GOOD_ENOUGH: f64 = 0.6;

/// Quality of one strike's measurement.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Quality {
    /// 0 (of no use) to 1.
    pub score: f64,
    /// Why it is not better, as a sentence; what is good about it where nothing stood in the way.
    pub why: String,
}

impl StrikeMeasurement {
    /// Quality of the measurement: the poorer of how far it stands out of the noise and how sure its body is, the latter by the
    /// median doubt of all its partials where the body has none, and by that of all octaves where octaves were heard.
    pub fn quality(&self) -> Quality {
        if let Some(warning) = self.warnings.first() {
            return Quality { score: 0.0, why: warning.advice().into() };
        }
        let by_octaves = self.heard_by == HeardBy::Octaves;
        let body = self.partials.iter().find(|p| !by_octaves && Some(p.hz) == self.profile.body_hz);
        let known = if by_octaves { DOUBT_OF_OCTAVES } else { DOUBT };
        let relative = |p: &super::Partial| Some(p.t60_sd_s? / p.t60_s?);
        let doubt = body.and_then(relative).or_else(|| median(&self.partials.iter().filter_map(relative).collect::<Vec<_>>()));
        let range = self.broadband.range_db.map_or(1.0, |db| ((db - RANGE_DB.start) / (RANGE_DB.end - RANGE_DB.start)).clamp(0.0, 1.0));
        let sure = doubt.map_or(0.0, |d| ((known.end / d.max(1e-6)).ln() / (known.end / known.start).ln()).clamp(0.0, 1.0));
        let why = match () {
            () if range <= sure && range < GOOD_ENOUGH => {
                let harder = if self.dynamic.is_some_and(|dynamic| dynamic != Dynamic::Hard) { "" } else { "hit harder, " };
                format!("Only {:.0} dB above the noise: {harder}come closer, or wait for quiet.", self.broadband.range_db.unwrap_or(0.0))
            }
            () if sure < GOOD_ENOUGH && by_octaves => {
                format!("Its octaves’ lengths are known to {:.0} % only: hit it alike, and let it ring out.", 164.5 * doubt.unwrap_or(1.0))
            }
            () if sure < GOOD_ENOUGH => {
                format!(
                    "The body’s length is known to {:.0} % only: another note lies close to it, or it is too short.",
                    164.5 * doubt.unwrap_or(1.0)
                )
            }
            () if by_octaves => "Clear of the noise in its octaves.".into(),
            () => "Clear of the noise, and its notes apart from one another.".into(),
        };
        Quality { score: range.min(sure), why }
    }
}
