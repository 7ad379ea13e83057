//! Expected beside found: what a treatment was to do, and what the strikes after it say.

use crate::damping::{Expectation, Range};
use crate::decay::DecayProfile;
use serde::{Deserialize, Serialize};

/// A figure that a treatment is judged by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Figure {
    BodyT60,
    RingT60,
    RingShare,
    BodyPitch,
    AttackIndex,
}

/// One figure before, as expected and as found. Units: s, s, 0 to 1, Hz, dB.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckedFigure {
    pub figure: Figure,
    pub open: Option<f64>,
    pub expected: Option<f64>,
    /// Nine times in ten the figure should lie in here; none where the model gives no doubt.
    pub range: Option<Range>,
    pub found: Option<f64>,
    /// Scatter between the strikes of `found`.
    pub found_spread: Option<f64>,
    /// Whether `found` lies within `range`; none where either is missing.
    pub within: Option<bool>,
}

/// Holds `found` (and its scatter between strikes) against what `expected` promised of the drum that sounded like `open`.
pub fn check(open: &DecayProfile, expected: &Expectation, found: &DecayProfile, spread: &DecayProfile) -> Vec<CheckedFigure> {
    let figure = |figure, pick: fn(&DecayProfile) -> Option<f64>, range: Option<Range>| CheckedFigure {
        figure,
        open: pick(open),
        expected: pick(&expected.profile),
        range,
        found: pick(found),
        found_spread: pick(spread),
        within: range.zip(pick(found)).map(|(range, value)| (range.low..=range.high).contains(&value)),
    };
    vec![
        figure(Figure::BodyT60, |p| p.body_t60_s, expected.body_t60_s),
        figure(Figure::RingT60, |p| p.ring_t60_s, expected.ring_t60_s),
        figure(Figure::RingShare, |p| p.ring_share, expected.ring_share),
        figure(Figure::BodyPitch, |p| p.body_hz, None),
        figure(Figure::AttackIndex, |p| p.attack_index_db, None),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_found_figure_is_inside_outside_or_unknown() {
        let range = |low, high| Some(Range { low, high });
        let profile = |body, ring| DecayProfile { body_t60_s: body, ring_t60_s: ring, ring_share: Some(0.4), ..DecayProfile::default() };
        let expected = Expectation {
            partials: Vec::new(),
            profile: profile(Some(0.5), Some(0.3)),
            body_t60_s: range(0.4, 0.6),
            ring_t60_s: range(0.2, 0.35),
            ring_share: None,
            attack_lost_db: 0.3,
            pitch_cents: -5.0,
        };
        let found = check(&profile(Some(0.8), Some(0.9)), &expected, &profile(Some(0.55), Some(0.5)), &DecayProfile::default());
        let verdict = |figure| found.iter().find(|row| row.figure == figure).unwrap().within;
        assert_eq!((verdict(Figure::BodyT60), verdict(Figure::RingT60), verdict(Figure::RingShare)), (Some(true), Some(false), None));
    }
}
