//! Ending a note by hand or knee: how fast each stops the drum, and when it must go down for a written length.

use crate::damping::{Outline, Patch, Predictor, Prior, Strength};
use crate::decay::{LEVEL_FROM_S, OVER_DB};
use crate::drum::HeadSide;
use crate::numeric::bisect;
use crate::tone::Partial;
use crate::tone::nearest;
use crate::units::{amplitude, decay_rate};
use serde::{Deserialize, Serialize};
use std::f64::consts::LN_10;

/// What stops a drum.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum StopKind {
    /// The fingertips.
    Fingertips,
    /// The flat hand.
    FlatHand,
    /// The flat hand on one side, a knee on the other.
    HandAndKnee,
}

/// When a hand goes down so that a note has its written length, s after the stroke, with bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HandDown {
    /// When the hand goes down, s after the hit.
    pub at_s: f64,
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
}

/// One way of ending a note.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stop {
    /// Which kind it is.
    pub kind: StopKind,
    /// From where the hand goes down until the note is over, laid on at once, s; with bounds that hold nine times in ten.
    pub over_in_s: f64,
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
    /// Null where even laid on at once it is too weak for the written length, or where the note is over by itself before that.
    pub down: Option<HandDown>,
    /// The note is over by itself before its written length.
    pub needless: bool,
}

/// Areal resistance of skin and cloth pressed on a head (N s/m3), and its doubt (from experience, no source).
const SKIN: Prior = Prior { resistance: 800.0, resistance_ln_sd: 0.7, exponent: 0.0, mass: 0.0 };
/// Longest that a note is followed, s.
const LONGEST_S: f64 = 30.0;

impl StopKind {
    const ALL: [Self; 3] = [Self::Fingertips, Self::FlatHand, Self::HandAndKnee];

    /// Where it lies on a head of `radius` m: a hand halfway to the hoop on the far side, a knee low on the near one.
    fn patches(self, radius: f64) -> Vec<Patch> {
        let disc = |at: f64, angle_deg: f64, size: f64, contact: f64| Patch {
            side: HeadSide::Batter,
            outline: Outline::Disc { radius: at, angle_deg, size: size / radius },
            contact,
        };
        match self {
            Self::Fingertips => vec![disc(0.55, 150.0, 0.03, 0.6)],
            Self::FlatHand => vec![disc(0.55, 150.0, 0.08, 1.0)],
            Self::HandAndKnee => vec![disc(0.55, 150.0, 0.08, 1.0), disc(0.7, 20.0, 0.09, 1.5)],
        }
    }
}

/// Every way of ending a note of `written_s` s on the drum of `predictor`.
pub fn stops(predictor: &Predictor, written_s: f64) -> Vec<Stop> {
    let open = predictor.bare();
    let by_itself = over_after(open, open, 0.0);
    let stop = |kind: StopKind| {
        let grip = predictor.pressed(&kind.patches(predictor.drum.radius()), &SKIN);
        let held = |strength: Strength| predictor.solve(&[&grip], strength);
        let ends = [Strength::HIGH, Strength::EXPECTED, Strength::LOW].map(held);
        let over = |held: &Vec<Partial>| over_after(open, held, 0.0);
        // What presses so hard that it pins a spot takes less again: the ends of the doubt need not be the ends of the times.
        let (middle, [low, high]) = (over(&ends[1]), least_and_most(ends.each_ref().map(over)));
        let needless = by_itself <= written_s;
        let down = |held: &Vec<Partial>| bisect(0.0, written_s, 40, |at| over_after(open, held, at) < written_s);
        let possible = !needless && middle <= written_s;
        let (at_s, [from, to]) = (down(&ends[1]), least_and_most(ends.each_ref().map(down)));
        let down = HandDown { at_s, low: from, high: to };
        Stop { kind, over_in_s: middle, low, high, down: possible.then_some(down), needless }
    };
    StopKind::ALL.map(stop).to_vec()
}

fn least_and_most(of: [f64; 3]) -> [f64; 2] {
    [of.iter().copied().fold(f64::INFINITY, f64::min), of.iter().copied().fold(f64::NEG_INFINITY, f64::max)]
}

/// When a note is over that sounds as `open` until `down_s` and then as `held`, s after its stroke.
fn over_after(open: &[Partial], held: &[Partial], down_s: f64) -> f64 {
    let stopped: Vec<Partial> = held
        .iter()
        .filter_map(|partial| {
            let same = open.iter().find(|other| other.tone.is_some() && other.tone == partial.tone);
            let rate = decay_rate(same.or_else(|| nearest(open, partial.hz))?.t60_s?);
            Some(Partial { level_db: partial.level_db - 20.0 * rate * down_s / LN_10, ..partial.clone() })
        })
        .collect();
    let wanted = power_at(open, LEVEL_FROM_S) * 10f64.powf(-OVER_DB / 10.0);
    if power_at(open, down_s) <= wanted {
        return bisect(0.0, down_s, 50, |t| power_at(open, t) > wanted);
    }
    down_s + bisect(0.0, LONGEST_S, 50, |t| power_at(&stopped, t) > wanted)
}

fn power_at(partials: &[Partial], t: f64) -> f64 {
    let of = |partial: &Partial| Some(amplitude(partial.level_db).powi(2) * (-2.0 * decay_rate(partial.t60_s?) * t).exp());
    partials.iter().filter_map(of).sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::tone::Tone;
    use proptest::prelude::*;

    fn partial(hz: f64, t60_s: f64, mode: &str) -> Partial {
        Partial {
            hz,
            t60_s: Some(t60_s),
            t60_sd_s: Some(0.02 * t60_s),
            t60_scatter_s: None,
            level_db: if mode == "(0,1)" { 0.0 } else { -18.0 },
            tone: Tone::read(mode),
        }
    }

    /// One tone that is stopped in closed form: 60 / T dB a second until the hand goes down, 60 / T' after.
    #[test]
    fn one_tone_ends_as_in_the_closed_form() {
        let (open, held) = ([partial(40.0, 4.0, "(0,1)")], [partial(40.0, 0.5, "(0,1)")]);
        for down in [0.1, 0.4, 1.0] {
            let own = 60.0 / 4.0 * LEVEL_FROM_S;
            let wanted = down + (OVER_DB + own - 60.0 / 4.0 * down) * 0.5 / 60.0;
            assert!((over_after(&open, &held, down) - wanted).abs() < 1e-6);
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        /// Whatever the drum and the note: a hand stops sooner than fingertips and with a knee sooner still; where it can be met, a hand laid
        /// on when it says ends the note as written.
        #[test]
        fn hands_end_notes_when_they_say(diameter_in in 28.0f64..40.0, t60_s in 1.0f64..7.0, written_s in 0.2f64..4.0) {
            let drum = crate::drum::Drum { diameter_in, ..BenchDrum::usual(DrumKind::ConcertBass) };
            let hz = 0.95 * drum.usual_batter_hz();
            let partials = vec![partial(hz, t60_s, "(0,1)"), partial(1.68 * hz, 0.7 * t60_s, "(1,1)")];
            let predictor = Predictor::new(&drum, &partials).unwrap();
            let found = stops(&predictor, written_s);
            prop_assert!(found[2].over_in_s < found[1].over_in_s && found[1].over_in_s < found[0].over_in_s);
            for stop in found {
                prop_assert!(stop.low <= stop.over_in_s && stop.over_in_s <= stop.high, "{stop:?}");
                let grip = predictor.pressed(&stop.kind.patches(drum.radius()), &SKIN);
                if let Some(down) = stop.down {
                    let over = over_after(predictor.bare(), &predictor.solve(&[&grip], Strength::EXPECTED), down.at_s);
                    prop_assert!((over - written_s).abs() < 1e-3 && down.low <= down.at_s && down.at_s <= down.high, "{over} for {written_s}");
                } else {
                    prop_assert!(stop.needless || stop.over_in_s > written_s);
                }
            }
        }
    }
}
