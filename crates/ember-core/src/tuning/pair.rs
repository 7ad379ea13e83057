//! The two heads of a drum together: their interval, what schools want of it, and what the pair sounds.

use super::pitch::Note;
use super::tension::head_from_lugs;
use crate::drum::{Drum, DrumKind, PairBody, body_of_pair};
use crate::numeric::Range;
use crate::units::cents;
use ember_words::{Text, Words, text};
use serde::{Deserialize, Serialize};

/// Doubt of a predicted length, as the standard deviation of its logarithm: from this drum's own length, and from the lengths that
/// such drums usually have.
const STEP_LN_SD: f64 = 0.12;
const USUAL_LN_SD: f64 = 0.35;

/// What a school wants of the lower head (all common practice, no published source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum PairSchool {
    /// Both heads alike: the plainest note.
    Equal,
    /// Lower head a whole step higher: a strong note.
    WholeStepUp,
    /// Lower head a minor third higher: a strong note that bends.
    ThirdUp,
    /// Lower head lower: a darker note.
    Lower,
    /// A kick's front head a little higher, so that it projects.
    FrontALittleUp,
    /// A snare's lower head well up, whatever the batter does.
    SnareSideCranked,
}

impl PairSchool {
    /// Lower head above the batter, cents.
    pub fn interval_cents(self) -> f64 {
        match self {
            Self::Equal => 0.0,
            Self::WholeStepUp => 200.0,
            Self::ThirdUp => 300.0,
            Self::Lower => -200.0,
            Self::FrontALittleUp => 100.0,
            Self::SnareSideCranked => 700.0,
        }
    }

    /// What to call it, and what it is for.
    pub fn words(self) -> (Text, Text) {
        match self {
            Self::Equal => (text!("Equal"), text!("Both heads alike: plain and clear.")),
            Self::WholeStepUp => (text!("Lower head a whole step up"), text!("A strong note.")),
            Self::ThirdUp => (text!("Lower head a third up"), text!("A strong note that bends at the start.")),
            Self::Lower => (text!("Lower head a whole step down"), text!("Darker.")),
            Self::FrontALittleUp => (text!("Front a little higher"), text!("It projects; the batter stays just above wrinkling.")),
            Self::SnareSideCranked => (text!("Snare side cranked"), text!("Lower head well up: the wires answer softly played notes.")),
        }
    }

    /// The schools for a kind of drum, the usual one first.
    pub fn of(kind: DrumKind) -> &'static [Self] {
        match kind {
            DrumKind::Snare => &[Self::SnareSideCranked, Self::Equal],
            // Lower head a whole step to a third above (common practice, no published source).
            DrumKind::SecondKick => &[Self::WholeStepUp, Self::ThirdUp, Self::Equal],
            DrumKind::Kick | DrumKind::ConcertBass | DrumKind::MarchingBass => &[Self::FrontALittleUp, Self::Equal],
            DrumKind::Tom | DrumKind::FloorTom | DrumKind::ConcertTom | DrumKind::HandDrum => {
                &[Self::WholeStepUp, Self::ThirdUp, Self::Equal, Self::Lower]
            }
            _ => &[],
        }
    }
}

/// What a school comes to on this drum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PairWish {
    /// The school of muffling.
    pub school: PairSchool,
    /// What it is called.
    pub name: Words,
    /// What it is, in words.
    pub words: Words,
    /// Pitch that the lower head's lugs get, the batter as it is, Hz.
    pub lower_lug_hz: f64,
    /// What the pair would sound, Hz.
    pub body_hz: f64,
    /// The note nearest to the body.
    pub body_note: Note,
    /// How long its body would last, s, with bounds that hold nine times in ten.
    pub body_t60_s: f64,
    /// Bounds of the body's T60, s.
    pub body_t60_range: Range,
    /// Whether the heads stand so already (within 35 cents).
    pub met: bool,
}

/// Two heads as they are.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeadPair {
    /// Pitch of the batter's lugs, Hz.
    pub batter_lug_hz: f64,
    /// Null while the lower head was not tapped.
    pub lower_lug_hz: Option<f64>,
    /// Lower head above the batter, cents.
    pub interval_cents: Option<f64>,
    /// What both together should sound by the two-head model, Hz.
    pub body_hz: Option<f64>,
    /// The note nearest to the body.
    pub body_note: Option<Note>,
    /// How long its body should last, s, with bounds that hold nine times in ten.
    pub body_t60_s: Option<f64>,
    /// Bounds of the body's T60, s.
    pub body_t60_range: Option<Range>,
    /// Whether lengths start from this drum's own, as it was measured, rather than from what such drums usually have.
    pub from_measured: bool,
    /// What it wants of each part of the kit.
    pub wishes: Vec<PairWish>,
}

/// The pair of `drum`'s heads with lugs at these pitches, Hz; `measured_t60_s`: how long its body lasted with the heads so.
/// `None` without a lower head.
pub fn head_pair(drum: &Drum, batter_lug_hz: f64, lower_lug_hz: Option<f64>, measured_t60_s: Option<f64>) -> Option<HeadPair> {
    drum.lower?;
    let body = |lower: f64| body_of_pair(drum, head_from_lugs(batter_lug_hz), head_from_lugs(lower));
    let interval_cents = lower_lug_hz.map(|lower| cents(batter_lug_hz, lower));
    let now = lower_lug_hz.and_then(body);
    let own = now.zip(measured_t60_s).map(|(now, measured)| measured / now.t60_s);
    let length = |body: PairBody| {
        let (middle, sd) = (body.t60_s * own.unwrap_or(1.0), if own.is_some() { STEP_LN_SD } else { USUAL_LN_SD });
        (middle, Range::around(middle, sd))
    };
    let wish = |school: PairSchool| {
        let lower = batter_lug_hz * 2f64.powf(school.interval_cents() / 1200.0);
        let body = body(lower)?;
        let (body_t60_s, body_t60_range) = length(body);
        let (name, words) = school.words();
        Some(PairWish {
            school,
            name: name.into(),
            words: words.into(),
            lower_lug_hz: lower,
            body_hz: body.hz,
            body_note: Note::nearest(body.hz),
            body_t60_s,
            body_t60_range,
            met: interval_cents.is_some_and(|now| (now - school.interval_cents()).abs() < 35.0),
        })
    };
    Some(HeadPair {
        batter_lug_hz,
        lower_lug_hz,
        interval_cents,
        body_hz: now.map(|body| body.hz),
        body_note: now.map(|body| Note::nearest(body.hz)),
        body_t60_s: now.map(|body| length(body).0),
        body_t60_range: now.map(|body| length(body).1),
        from_measured: own.is_some(),
        wishes: PairSchool::of(drum.kind).iter().filter_map(|school| wish(*school)).collect(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;

    /// Common practice, no published source: toms equal or with the lower head a whole step to a third higher; a kick's front a
    /// little higher; a snare's lower head well up.
    #[test]
    fn schools_are_those_of_the_trade_and_raising_the_lower_head_raises_the_body() {
        let tom = BenchDrum::usual(DrumKind::Tom);
        let pair = head_pair(&tom, 215.0, Some(215.0), None).unwrap();
        assert_eq!(pair.wishes.iter().filter(|wish| wish.met).map(|wish| wish.school).collect::<Vec<_>>(), [PairSchool::Equal]);
        let body = |school: PairSchool| pair.wishes.iter().find(|wish| wish.school == school).unwrap().body_hz;
        assert!(body(PairSchool::Lower) < body(PairSchool::Equal) && body(PairSchool::Equal) < body(PairSchool::WholeStepUp));
        assert!(body(PairSchool::WholeStepUp) < body(PairSchool::ThirdUp));
        // Heads alike move as one, and the air takes no part: the body is the head's own pitch.
        assert!((body(PairSchool::Equal) / head_from_lugs(215.0) - 1.0).abs() < 0.01);
        // Lengths start from what was measured.
        let from_own = head_pair(&tom, 215.0, Some(215.0), Some(1.3)).unwrap();
        assert!((from_own.body_t60_s.unwrap() - 1.3).abs() < 1e-9 && from_own.from_measured && !pair.from_measured);
        let width = |pair: &HeadPair| pair.body_t60_range.map(|range| range.high / range.low).unwrap();
        assert!(width(&from_own) < width(&pair));
        assert_eq!(PairSchool::of(DrumKind::Kick)[0], PairSchool::FrontALittleUp);
        assert!(PairSchool::of(DrumKind::Snare)[0].interval_cents() > 400.0);
        assert!(head_pair(&Drum { lower: None, ..tom }, 215.0, None, None).is_none());
    }
}
