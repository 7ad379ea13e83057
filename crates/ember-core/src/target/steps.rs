//! Steps off a wish: what a misfit is made of, and finite by its type.

use serde::{Deserialize, Serialize};
use std::iter::Sum;
use std::ops::Add;

/// A step in decay time that is just noticed, about 5 % (from memory of the psychoacoustic literature).
const STEP_LN: f64 = 0.048_790_164_169_432;
/// What is heard for less than this has no length that could be told from none, s (from experience, no published source).
const SHORTEST_LENGTH_S: f64 = 0.01;
/// A length off its limit by this part of it, or by this long, s, is not heard to be off: decay times differ from one strike to the next by as
/// much (5 to 10 % from memory of the psychoacoustic literature; the time from experience, no published source).
const UNHEARD_PART: f64 = 0.08;
const UNHEARD_S: f64 = 0.025;

/// How far off something is, in steps that are just noticed: never negative, never infinite, never undefined. A search that compares such
/// numbers ends.
#[derive(Debug, Clone, Copy, Default, PartialEq, PartialOrd, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(transparent)]
pub struct Steps(f64);

impl Steps {
    /// As wanted.
    pub const NONE: Self = Self(0.0);
    /// Further off than anything that is heard; what is undefined counts as this.
    pub const MOST: f64 = 1e4;

    /// `steps` within what a number of steps may be.
    pub fn new(steps: f64) -> Self {
        Self(if steps.is_nan() { Self::MOST } else { steps.clamp(0.0, Self::MOST) })
    }

    /// By how many just noticed steps a length of `value_s` is heard to exceed `most_s` (both in s).
    pub fn of_length_over(value_s: f64, most_s: f64) -> Self {
        Self::between(most_s + unheard_s(most_s), value_s)
    }

    /// By how many just noticed steps a length of `value_s` is heard to fall short of `least_s` (both in s).
    pub fn of_length_under(value_s: f64, least_s: f64) -> Self {
        Self::between(value_s, least_s - unheard_s(least_s))
    }

    fn between(short_s: f64, long_s: f64) -> Self {
        Self::new((long_s.max(SHORTEST_LENGTH_S) / short_s.max(SHORTEST_LENGTH_S)).ln() / STEP_LN)
    }

    /// By how many steps of size `step` a `value` exceeds `limit`.
    pub fn over(value: f64, limit: f64, step: f64) -> Self {
        Self::new((value - limit) / step)
    }

    /// How many.
    pub fn get(self) -> f64 {
        self.0
    }
}

/// How far a length may be off `limit_s` without being heard to be, s.
fn unheard_s(limit_s: f64) -> f64 {
    (UNHEARD_PART * limit_s).max(UNHEARD_S)
}

impl Add for Steps {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        Self::new(self.0 + other.0)
    }
}

impl Sum for Steps {
    fn sum<I: Iterator<Item = Self>>(steps: I) -> Self {
        steps.fold(Self::NONE, Add::add)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn anything() -> impl Strategy<Value = f64> {
        prop_oneof![prop::num::f64::ANY, Just(f64::NAN), Just(f64::INFINITY), Just(f64::NEG_INFINITY), Just(0.0), 0f64..4.0]
    }

    proptest! {
        #[test]
        fn steps_are_finite_and_never_negative_whatever_they_are_made_of(a in anything(), b in anything(), c in anything()) {
            for steps in [Steps::new(a), Steps::of_length_over(a, b), Steps::of_length_under(a, b), Steps::over(a, b, c), Steps::new(a) + Steps::new(b)] {
                prop_assert!((0.0..=Steps::MOST).contains(&steps.get()), "{steps:?}");
            }
        }

        #[test]
        fn a_longer_sound_is_never_nearer_to_a_limit(a in 0f64..5.0, b in 0f64..5.0, limit in 0f64..5.0) {
            let (short, long) = (a.min(b), a.max(b));
            prop_assert!(Steps::of_length_over(short, limit) <= Steps::of_length_over(long, limit));
            prop_assert!(Steps::of_length_under(short, limit) >= Steps::of_length_under(long, limit));
        }
    }
}
