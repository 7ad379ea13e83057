//! The pitches of a kit: toms in chosen intervals, clear of the snare.

use super::pitch::Note;
use crate::units::cents;
use serde::{Deserialize, Serialize};

/// Intervals from each tom to the next higher one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum TomIntervals {
    /// Whole tones.
    Seconds,
    /// Minor thirds.
    MinorThirds,
    /// Major thirds.
    MajorThirds,
    /// Fourths.
    Fourths,
    /// Fifths.
    Fifths,
    /// A major chord from the lowest tom up.
    MajorChord,
    /// The notes of a minor chord.
    MinorChord,
}

impl TomIntervals {
    /// Cents from the lowest tom to tom `index` (0 the lowest).
    fn above_lowest(self, index: usize) -> f64 {
        let chord = |steps: [f64; 3]| steps[index % 3] + 1200.0 * (index / 3) as f64;
        match self {
            Self::Seconds => 200.0 * index as f64,
            Self::MinorThirds => 300.0 * index as f64,
            Self::MajorThirds => 400.0 * index as f64,
            Self::Fourths => 500.0 * index as f64,
            Self::Fifths => 700.0 * index as f64,
            Self::MajorChord => chord([0.0, 400.0, 700.0]),
            Self::MinorChord => chord([0.0, 300.0, 700.0]),
        }
    }
}

/// Where one tom is and goes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TomPitch {
    /// Pitch as it is, Hz.
    pub now_hz: f64,
    /// The note nearest to it.
    pub now_note: Note,
    /// Pitch as it is wanted, Hz.
    pub wanted_hz: f64,
    /// The note nearest to it.
    pub wanted_note: Note,
    /// From now to wanted, cents.
    pub change_cents: f64,
    /// Whether it would then sound so near to the snare that the two answer each other.
    pub answers_snare: bool,
}

/// A tom this near to the snare's body or its octave answers it, cents.
const ANSWERS_CENTS: f64 = 60.0;

/// Pitches for `toms`, pitch now (Hz) and diameter (in) of each, in any order, in `intervals`: the larger lies lower whatever its pitch is now, and of
/// two of a size the one that does. The whole chord lies where the toms together move least; where that would make one answer the snare at
/// `snare_hz`, as little beside as keeps them clear. In the order of `toms`.
pub fn tom_pitches(toms: &[(f64, f64)], intervals: TomIntervals, snare_hz: Option<f64>) -> Vec<TomPitch> {
    let now_hz: Vec<f64> = toms.iter().map(|(hz, _)| *hz).collect();
    let mut order: Vec<usize> = (0..toms.len()).collect();
    order.sort_by(|a, b| toms[*b].1.total_cmp(&toms[*a].1).then(toms[*a].0.total_cmp(&toms[*b].0)));
    let steps: Vec<f64> = {
        let mut steps = vec![0.0; now_hz.len()];
        order.iter().enumerate().for_each(|(index, tom)| steps[*tom] = intervals.above_lowest(index));
        steps
    };
    // The lowest pitch for which changes cancel out: their mean, which makes the sum of their squares least.
    let count = now_hz.len().max(1) as f64;
    let base = now_hz.iter().zip(&steps).map(|(hz, step)| 1200.0 * hz.log2() - step).sum::<f64>() / count;
    let pitch = |tom: usize, shift: f64| 2f64.powf((base + steps[tom] + shift) / 1200.0);
    let answers =
        |hz: f64| snare_hz.is_some_and(|snare| [0.5, 1.0, 2.0].iter().any(|octave| cents(snare * octave, hz).abs() < ANSWERS_CENTS));
    let clear = |shift: &f64| (0..now_hz.len()).all(|tom| !answers(pitch(tom, *shift)));
    let shifts = (0..=40).flat_map(|n| [5.0 * f64::from(n), -5.0 * f64::from(n)]);
    let shift = shifts.into_iter().find(clear).unwrap_or(0.0);
    (0..now_hz.len())
        .map(|tom| {
            let wanted_hz = pitch(tom, shift);
            TomPitch {
                now_hz: now_hz[tom],
                now_note: Note::nearest(now_hz[tom]),
                wanted_hz,
                wanted_note: Note::nearest(wanted_hz),
                change_cents: cents(now_hz[tom], wanted_hz),
                answers_snare: answers(wanted_hz),
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn toms_stand_in_the_intervals_and_move_as_little_as_can_be(low in 70f64..110.0, rise in 1.1f64..1.7, count in 1usize..6) {
            let now: Vec<(f64, f64)> = (0..count).map(|n| (low * rise.powi(n as i32), 14.0)).collect();
            let wanted = tom_pitches(&now, TomIntervals::Fourths, None);
            for pair in wanted.windows(2) {
                prop_assert!((cents(pair[0].wanted_hz, pair[1].wanted_hz) - 500.0).abs() < 1e-6);
            }
            prop_assert!(wanted.iter().map(|tom| tom.change_cents).sum::<f64>().abs() < 1e-6);
        }
    }

    #[test]
    fn a_chord_keeps_its_notes_and_clear_of_the_snare() {
        let wanted = tom_pitches(&[(140.0, 10.0), (92.0, 16.0), (110.0, 12.0)], TomIntervals::MajorChord, Some(138.0));
        assert!((cents(wanted[1].wanted_hz, wanted[2].wanted_hz) - 400.0).abs() < 1e-6);
        assert!((cents(wanted[1].wanted_hz, wanted[0].wanted_hz) - 700.0).abs() < 1e-6);
        assert!(wanted.iter().all(|tom| !tom.answers_snare && cents(138.0, tom.wanted_hz).abs() >= 60.0), "{wanted:?}");
    }

    /// A floor tom without its lower head may sound higher than the tom above it: it still becomes the lower one.
    #[test]
    fn the_larger_drum_lies_lower_whatever_its_pitch_is_now() {
        let wanted = tom_pitches(&[(142.0, 12.0), (146.0, 16.0)], TomIntervals::Fourths, None);
        assert!((cents(wanted[1].wanted_hz, wanted[0].wanted_hz) - 500.0).abs() < 1e-6, "{wanted:?}");
    }
}
