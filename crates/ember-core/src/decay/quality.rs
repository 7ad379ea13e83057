//! How well a strike could be measured, and what stood in the way.

use super::dynamic::Dynamic;
use super::strike::{Remark, StrikeMeasurement};
use crate::numeric::{NINETY_SDS, Range};
use crate::tone::HeardBy;
use crate::tone::Partial;
use crate::units::median;
use ember_words::{Words, text, words};
use serde::{Deserialize, Serialize};

/// Range above the noise from which nothing is gained, and below which nothing is left, dB.
const RANGE_DB: std::ops::Range<f64> = 25.0..60.0;
/// Relative standard error of the body's decay time at which it is as good as exact, and as good as unknown.
const DOUBT: std::ops::Range<f64> = 0.003..0.10;
/// The same of a cymbal's octaves: each holds a few tens of tones at most, and their beating leaves some doubt in the best of recordings.
const DOUBT_OF_OCTAVES: std::ops::Range<f64> = 0.02..0.30;
/// A part below this is named as what stood in the way.
const GOOD_ENOUGH: f64 = 0.6;

/// A length whose 90 % interval reaches further than this part of it is not known (from experience, no published source).
const UNKNOWN: f64 = 0.5;
/// Above this share of buzz the wires cover the drum's own notes (from experience, no published source).
const WIRES_SHARE: f64 = 0.02;

/// Quality of one strike's measurement.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Quality {
    /// 0 (of no use) to 1.
    pub score: f64,
    /// Whether the length that counts is known at all.
    pub known: bool,
    /// Why it is not better, as a sentence; what is good about it where nothing stood in the way.
    pub why: Words,
}

impl StrikeMeasurement {
    /// Quality of the measurement: the poorer of how far it stands out of the noise and how sure its body is, the latter by the
    /// median doubt of all its partials where the body has none, and by that of all octaves where octaves were heard.
    pub fn quality(&self) -> Quality {
        if let Some(warning) = self.warnings.first() {
            return Quality { score: 0.0, known: false, why: warning.advice().into() };
        }
        let by_octaves = self.heard_by == HeardBy::Octaves;
        let body = self.partials.iter().find(|p| !by_octaves && Some(p.hz) == self.profile.body_hz);
        let known = if by_octaves { DOUBT_OF_OCTAVES } else { DOUBT };
        let relative = |p: &Partial| Some(p.t60_sd_s? / p.t60_s?);
        let doubt = body.and_then(relative).or_else(|| median(&self.partials.iter().filter_map(relative).collect::<Vec<_>>()));
        let range = self.broadband.range_db.map_or(1.0, |db| ((db - RANGE_DB.start) / (RANGE_DB.end - RANGE_DB.start)).clamp(0.0, 1.0));
        let sure = doubt.map_or(0.0, |d| ((known.end / d.max(1e-6)).ln() / (known.end / known.start).ln()).clamp(0.0, 1.0));
        let why = match () {
            () if range <= sure && range < GOOD_ENOUGH => {
                let harder = if self.dynamic.is_some_and(|dynamic| dynamic != Dynamic::Hard) { text!("") } else { text!("hit harder, ") };
                words!("Only {:.0} dB above the noise: {harder}come closer, or wait for quiet.", self.broadband.range_db.unwrap_or(0.0))
            }
            () if self.remarks.contains(&Remark::Compressed) => Remark::Compressed.advice().into(),
            () if sure < GOOD_ENOUGH && by_octaves => words!("Its octaves’ lengths are not quite sure: hit it alike, and let it ring out."),
            () if sure < GOOD_ENOUGH => self.doubt_in_words(body, doubt),
            () if by_octaves => words!("Clear of the noise in its octaves."),
            () => words!("Clear of the noise, and its notes apart from one another."),
        };
        let known = doubt.is_some_and(|doubt| NINETY_SDS * doubt < UNKNOWN);
        Quality { score: range.min(sure), known, why }
    }

    /// What is known of the `body`'s length where its relative `doubt` is large, and what helps.
    fn doubt_in_words(&self, body: Option<&Partial>, doubt: Option<f64>) -> Words {
        let is_known = doubt.is_some_and(|doubt| NINETY_SDS * doubt < UNKNOWN);
        let anything = if is_known { text!("") } else { text!("anything from ") };
        let between = body.and_then(|p| p.t60_s).zip(doubt).map(|(t60_s, doubt)| {
            let Range { low, high } = Range::around(t60_s, doubt);
            words!("It sounds for {anything}{low:.2} to {high:.2} s")
        });
        let covered = self.profile.buzz_share.is_some_and(|share| share > WIRES_SHARE);
        let help = match (is_known, covered) {
            (true, _) => text!("another note lies close by, or it is too short to tell better."),
            (false, true) => text!("loosen the wires or lay a stick under them, or come closer."),
            (false, false) => text!("hold the other head, or come closer."),
        };
        words!("{}: {help}", between.unwrap_or_else(|| words!("How long it sounds is not clear")))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::DecayProfile;

    /// A strike whose body has a T60 of `t60_s` with a standard error of `sd_s`.
    fn strike(t60_s: f64, sd_s: f64, buzz_share: f64) -> StrikeMeasurement {
        let body = Partial { hz: 190.0, t60_s: Some(t60_s), t60_sd_s: Some(sd_s), t60_scatter_s: None, level_db: 0.0, tone: None };
        let profile = DecayProfile { buzz_share: Some(buzz_share), ..DecayProfile::of_partials(std::slice::from_ref(&body)) };
        StrikeMeasurement { partials: vec![body], profile, ..StrikeMeasurement::default() }
    }

    #[test]
    fn a_length_that_is_not_known_says_so_and_what_helps() {
        let [sure, close, bare, wired] =
            [(0.0005, 0.0), (0.04, 0.0), (0.2, 0.0), (0.2, 0.3)].map(|(sd_s, buzz)| strike(0.3, sd_s, buzz).quality());
        assert_eq!((sure.known, close.known, bare.known, wired.known), (true, true, false, false));
        assert!(sure.score > 0.9 && close.score < GOOD_ENOUGH && bare.score == 0.0);
        assert_eq!(close.why, "It sounds for 0.24 to 0.37 s: another note lies close by, or it is too short to tell better.");
        assert_eq!(bare.why, "It sounds for anything from 0.10 to 0.90 s: hold the other head, or come closer.");
        assert!(wired.why.ends_with("loosen the wires or lay a stick under them, or come closer."));
    }
}
