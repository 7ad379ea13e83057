//! Where the two members of a split pair lie on the head, from how loud each is at each lug.
//!
//! Of the pair with one nodal diameter one member moves as cos(angle - axis) round the head, the other as the sine. A
//! microphone hears one louder than the other by a factor that is the same for all taps, so that
//! tan(angle - axis) = factor * (second / first) at each lug: two unknowns, one equation a lug. That taps are about as hard as
//! each other says a little more.

use std::f64::consts::PI;

/// What a difference of one in the logarithm of taps' strength counts for against the sine of a direction, squared: directions
/// are sure to a twentieth, strengths to a quarter.
const STRENGTH_COUNTS: f64 = 0.04;

/// Amplitudes of both members at a tap.
#[derive(Debug, Clone, Copy)]
pub(super) struct Mixture {
    /// Angle of the lug, radians from the first.
    pub angle: f64,
    pub first: f64,
    /// In the first one's phase: negative where the two move against each other.
    pub second: f64,
}

impl Mixture {
    /// Square of the sine between the direction heard and the lug's.
    fn off(&self, axis: &Axis) -> f64 {
        let (first, second) = (self.first, axis.factor * self.second);
        let turned = self.angle - axis.angle;
        (second * turned.cos() - first * turned.sin()).powi(2) / (first * first + second * second).max(1e-300)
    }
}

/// The pair's place on the head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Axis {
    /// Where the first member moves most, radians from the first lug (0 to pi).
    pub angle: f64,
    /// What the second member's amplitude is multiplied with to be comparable.
    pub factor: f64,
    /// Mean square of the sine between what was heard and what fits.
    pub misfit: f64,
}

impl Axis {
    /// Share of the first member (0 to 1) in what moves at a tap.
    pub fn share(&self, mixture: &Mixture) -> f64 {
        let (first, second) = (mixture.first.powi(2), (self.factor * mixture.second).powi(2));
        first / (first + second).max(1e-300)
    }

    /// How far (radians) a tap's sound lies from its lug's direction.
    pub fn off(&self, mixture: &Mixture) -> f64 {
        mixture.off(self).sqrt().min(1.0).asin()
    }

    /// The best place by search over a grid, twice refined.
    pub fn fit(taps: &[Mixture]) -> Self {
        let misfit = |angle: f64, factor: f64| {
            let axis = Self { angle, factor, misfit: 0.0 };
            let count = taps.len().max(1) as f64;
            let strengths = || taps.iter().map(|tap| 0.5 * (tap.first.powi(2) + (factor * tap.second).powi(2)).max(1e-300).ln());
            let mean = strengths().sum::<f64>() / count;
            let uneven = strengths().map(|strength| (strength - mean).powi(2)).sum::<f64>() / count;
            taps.iter().map(|tap| tap.off(&axis)).sum::<f64>() / count + STRENGTH_COUNTS * uneven.min(1.0)
        };
        let loud = |amplitude: &dyn Fn(&Mixture) -> f64| taps.iter().map(|tap| amplitude(tap).powi(2)).sum::<f64>().sqrt().max(1e-300);
        // Members are about as often loud as each other: the usual factor makes their sums alike.
        let usual = loud(&|tap| tap.first) / loud(&|tap| tap.second);
        let mut best = Self { angle: 0.0, factor: usual, misfit: f64::INFINITY };
        let (mut angle_step, mut factor_step) = (PI / 60.0, 0.15f64);
        for angle in 0..60 {
            for size in -14..=14 {
                for sign in [1.0, -1.0] {
                    best.improve(f64::from(angle) * angle_step, sign * usual * (factor_step * f64::from(size)).exp(), &misfit);
                }
            }
        }
        for _ in 0..3 {
            (angle_step, factor_step) = (angle_step / 5.0, factor_step / 5.0);
            let Self { angle, factor, .. } = best;
            for i in -6..=6 {
                for k in -6..=6 {
                    best.improve(angle + f64::from(i) * angle_step, factor * (factor_step * f64::from(k)).exp(), &misfit);
                }
            }
        }
        best.angle = best.angle.rem_euclid(PI);
        best.misfit = taps.iter().map(|tap| tap.off(&best)).sum::<f64>() / taps.len().max(1) as f64;
        best
    }

    fn improve(&mut self, angle: f64, factor: f64, misfit: &impl Fn(f64, f64) -> f64) {
        let here = misfit(angle, factor);
        if here < self.misfit {
            *self = Self { angle, factor, misfit: here };
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_pairs_axis_and_loudness_are_found_from_any_taps(axis in 0f64..PI, heard in -1.5f64..1.5, lugs in 5usize..13, flip in any::<bool>()) {
            let taps: Vec<Mixture> = (0..lugs)
                .map(|lug| {
                    let angle = 2.0 * PI * lug as f64 / lugs as f64;
                    let strength = 1.0 + 0.15 * (lug as f64).sin();
                    let sign = if flip { -1.0 } else { 1.0 };
                    Mixture { angle, first: strength * (angle - axis).cos(), second: sign * strength * heard.exp() * (angle - axis).sin() }
                })
                .collect();
            let found = Axis::fit(&taps);
            prop_assert!(found.misfit < 3e-3, "{found:?}");
            for tap in &taps {
                prop_assert!((found.share(tap) - (tap.angle - axis).cos().powi(2)).abs() < 0.06, "{found:?} for {axis} {heard}");
            }
        }
    }
}
