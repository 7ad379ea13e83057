//! Expected beside found: what a treatment was to do, and what the strikes after it say.

use super::follow::{Sounding, followed};
use crate::damping::Expectation;
use crate::numeric::Range;
use crate::tone::DecayProfile;
use serde::{Deserialize, Serialize};

/// A figure that a treatment is judged by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Figure {
    /// T60 of the body.
    BodyT60,
    /// T60 of the ring.
    RingT60,
    /// Share of overtones.
    RingShare,
    /// Pitch of the body.
    BodyPitch,
    /// Attack against what follows.
    AttackIndex,
}

/// One figure before, as expected and as found. Units: s, s, 0 to 1, Hz, dB.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckedFigure {
    /// Which figure it is.
    pub figure: Figure,
    /// Pitch of the partial that all values belong to, Hz; none for figures of the whole sound.
    pub hz: Option<f64>,
    /// Of the open drum; null where it is not known.
    pub open: Option<f64>,
    /// What it should do.
    pub expected: Option<f64>,
    /// Nine times in ten the figure should lie in here; none where the model gives no doubt.
    pub range: Option<Range>,
    /// As it was found; null where it was not measured.
    pub found: Option<f64>,
    /// Whether `found` lies within `range`; none where either is missing.
    pub within: Option<bool>,
}

/// Holds `found` against what `expected` promised of the drum that sounded like `open`: the same tones in all three.
pub fn check(open: Sounding, expected: &Expectation, found: Sounding) -> Vec<CheckedFigure> {
    let (_, found) = followed(found, expected);
    let figure = |figure, pick: fn(&DecayProfile) -> Option<f64>, range: Option<Range>| {
        let found = pick(&found);
        let (open, expected) = (pick(open.profile), pick(&expected.profile));
        CheckedFigure { figure, hz: None, open, expected, range, found, within: inside(range, found) }
    };
    vec![
        CheckedFigure { hz: expected.profile.body_hz, ..figure(Figure::BodyT60, |p| p.body_t60_s, expected.body_t60_s) },
        CheckedFigure { hz: expected.profile.ring_hz, ..figure(Figure::RingT60, |p| p.ring_t60_s, expected.ring_t60_s) },
        figure(Figure::RingShare, |p| p.ring_share, expected.ring_share),
        figure(Figure::BodyPitch, |p| p.body_hz, None),
        figure(Figure::AttackIndex, |p| p.attack_index_db, None),
    ]
}

fn inside(range: Option<Range>, value: Option<f64>) -> Option<bool> {
    range.zip(value).map(|(range, value)| (range.low..=range.high).contains(&value))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::Partial;

    #[test]
    fn a_found_figure_is_inside_outside_or_unknown() {
        let range = |low, high| Some(Range { low, high });
        let partial = |hz, t60_s| Partial { hz, t60_s: Some(t60_s), t60_sd_s: None, t60_scatter_s: None, level_db: 0.0, tone: None };
        let profile = |body, ring_hz, ring| DecayProfile {
            body_t60_s: Some(body),
            ring_hz: Some(ring_hz),
            ring_t60_s: Some(ring),
            ring_share: Some(0.4),
            ..DecayProfile::default()
        };
        let expected = Expectation {
            partials: vec![partial(300.0, 0.3)],
            profile: profile(0.5, 300.0, 0.3),
            body_t60_s: range(0.4, 0.6),
            ring_t60_s: range(0.2, 0.35),
            attack_lost_db: 0.3,
            pitch_cents: -5.0,
            ..Expectation::default()
        };
        // The ring that is heard now is another partial; the promised one is still looked up.
        let (open, found) = (profile(0.8, 301.0, 0.9), profile(0.55, 420.0, 0.3));
        let (open_partials, found_partials) = ([partial(301.0, 0.9)], [partial(297.0, 0.5), partial(420.0, 0.3)]);
        let checked = check(
            Sounding { partials: &open_partials, profile: &open },
            &expected,
            Sounding { partials: &found_partials, profile: &found },
        );
        let row = |figure| checked.iter().find(|row| row.figure == figure).unwrap();
        assert_eq!((row(Figure::RingT60).open, row(Figure::RingT60).found), (Some(0.9), Some(0.5)));
        let verdict = |figure| row(figure).within;
        assert_eq!((verdict(Figure::BodyT60), verdict(Figure::RingT60), verdict(Figure::RingShare)), (Some(true), Some(false), None));
    }
}
