//! How fast a roll must be to hold a note.

use crate::numeric::Range;
use crate::numeric::bisect;
use crate::tone::Partial;
use crate::units::{amplitude, decay_rate};
use serde::{Deserialize, Serialize};

/// How far a roll may sway in level between strokes and still be one note, dB (common practice, no published source).
pub const SWAY_DB: f64 = 3.0;
/// Slowest roll that is heard as one, strokes a second (common practice, no published source).
const SLOWEST: f64 = 4.0;
/// Fastest roll that two hands hold evenly on a large drum, strokes a second (common practice, no published source).
const FASTEST: f64 = 12.0;

/// Rolls that are looked at, strokes a second.
const FEWEST: f64 = 0.1;
const MOST: f64 = 200.0;

/// A roll that holds the drum's note.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Roll {
    /// Strokes a second, of both hands together, from which on the level sways by no more than `sway_db`; with bounds that hold nine times
    /// in ten.
    pub strokes: f64,
    /// Lower bound of the strokes a second.
    pub low: f64,
    /// Upper bound of the strokes a second.
    pub high: f64,
    /// How far its loudness sways, dB.
    pub sway_db: f64,
    /// The drum sings longer than that takes: any even roll holds.
    pub any: bool,
    /// Hands roll evenly so fast.
    pub playable: bool,
}

/// The roll that `partials` ask for; `doubt` is the body's standard deviation as a part of its decay time. `None` where nothing sounds.
pub fn roll(partials: &[Partial], doubt: f64) -> Option<Roll> {
    let tones: Vec<(f64, f64)> = partials.iter().filter_map(|p| Some((amplitude(p.level_db).powi(2), decay_rate(p.t60_s?)))).collect();
    if tones.is_empty() {
        return None;
    }
    let strokes = bisect(FEWEST.ln(), MOST.ln(), 40, |ln| sway(&tones, ln.exp()) > SWAY_DB).exp();
    let held = |strokes: f64| strokes.max(SLOWEST);
    let Range { low, high } = Range::around(strokes, doubt);
    Some(Roll {
        strokes: held(strokes),
        low: held(low),
        high: held(high),
        sway_db: SWAY_DB,
        any: strokes <= SLOWEST,
        playable: strokes <= FASTEST,
    })
}

/// How far the level of tones (power, amplitude decay rate 1/s) falls from right after a stroke to right before the next, dB, once so many
/// `strokes` a second have gone on for long: what is left of all of them adds up as powers, a geometric series each.
fn sway(tones: &[(f64, f64)], strokes: f64) -> f64 {
    let sums = tones.iter().fold((0.0, 0.0), |sums, (power, rate)| {
        let left = (-2.0 * rate / strokes).exp();
        (sums.0 + power / (1.0 - left), sums.1 + power * left / (1.0 - left))
    });
    10.0 * (sums.0 / sums.1.max(1e-300)).log10()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn partial(t60_s: f64, level_db: f64) -> Partial {
        Partial { hz: 40.0, t60_s: Some(t60_s), t60_sd_s: None, t60_scatter_s: None, level_db, tone: None }
    }

    proptest! {
        /// One tone in closed form: it falls by 60 dB in T, so by 3 dB in T / 20, whatever is left of strokes before.
        #[test]
        fn one_tone_asks_for_twenty_strokes_in_its_decay_time(t60_s in 0.3f64..4.9) {
            let found = roll(&[partial(t60_s, 0.0)], 0.0).unwrap();
            prop_assert!((found.strokes / (20.0 / t60_s) - 1.0).abs() < 1e-6);
        }

        /// Strokes added up one by one, as the outside answer.
        #[test]
        fn what_is_left_of_many_strokes_adds_up(long in 1.0f64..5.0, short in 0.2f64..1.0, level in -20.0f64..0.0, strokes in 4.0f64..20.0) {
            let tones = [(1.0, decay_rate(long)), (amplitude(level).powi(2), decay_rate(short))];
            let at = |t: f64| -> f64 {
                (0..400).map(|k| t + f64::from(k) / strokes).map(|t| tones.iter().map(|(p, d)| p * (-2.0 * d * t).exp()).sum::<f64>()).sum()
            };
            let wanted = 10.0 * (at(0.0) / at(1.0 / strokes)).log10();
            prop_assert!((sway(&tones, strokes) - wanted).abs() < 1e-3 * wanted + 1e-6);
        }
    }

    #[test]
    fn a_drum_that_sings_long_takes_any_roll() {
        let long = roll(&[partial(9.0, 0.0)], 0.1).unwrap();
        assert!(long.any && long.playable && long.strokes == SLOWEST && long.low == SLOWEST);
        assert!(!roll(&[partial(1.4, 0.0)], 0.1).unwrap().playable);
        assert!(roll(&[], 0.1).is_none());
    }
}
