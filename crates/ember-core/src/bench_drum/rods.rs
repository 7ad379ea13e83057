//! Rods of the simulated drum: what each pulls, and what that does to a struck head.

use super::rim_stress::RimStress;
use rand::{Rng, SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

/// What an eighth of a turn adds to a rod's pull, in units of the even pull.
const A_RODS_EIGHTH: f64 = 0.04;
/// How far rods differ where their owner has not tuned them, either way.
const LEFT_UNEVEN: f64 = 0.16;
/// A rod that pulls nothing still has a hoop over it.
pub(super) const SLACKEST: f64 = 0.05;
/// A rod that pulls less than this lets the head's edge work against the hoop.
const LOOSE_UNDER: f64 = 0.45;
/// Areal resistance at the edge beside a rod that pulls nothing, N s/m3: so that three slack lugs take nearly all of the ring (common practice, no
/// published source).
const SLACK_RESISTANCE: f64 = 90.0;
/// How far inwards a slack rod is felt, in parts of the radius.
const FELT_FROM: f64 = 0.72;

/// What each rod of a head pulls, in units in which an even head has 1 everywhere: uneven by chance of `seed`, as its owner left
/// it, with `eighths` of a turn since then on each rod. What an eighth does here nobody is told; learning has to find it.
pub fn rods_pull(seed: u64, eighths: &[i32]) -> Vec<f64> {
    let mut rng = StdRng::seed_from_u64(seed);
    eighths
        .iter()
        .map(|turned| (1.0 + rng.random_range(-LEFT_UNEVEN..LEFT_UNEVEN) + A_RODS_EIGHTH * f64::from(*turned)).max(SLACKEST))
        .collect()
}

/// A struck head's rods.
#[derive(Debug, Clone)]
pub(super) struct Rods {
    /// Tension against the even head's.
    pub tension: f64,
    /// Tension along the player's line over the mean, less 1; across it, as much under. What lies askew is left out.
    pub uneven: f64,
    /// (angle, resistance) of rods too loose to hold the edge.
    loose: Vec<(f64, f64)>,
    half_width: f64,
}

impl Rods {
    pub(super) fn even() -> Self {
        Self { tension: 1.0, uneven: 0.0, loose: Vec::new(), half_width: PI }
    }

    pub(super) fn new(pull: &[f64]) -> Self {
        // One bolt pulls the whole hoop alike.
        if pull.len() < 3 {
            return Self { tension: pull.iter().sum::<f64>() / pull.len().max(1) as f64, ..Self::even() };
        }
        let [along, across, _] = RimStress::new(pull).at(0.0, 0.0);
        let step = 2.0 * PI / pull.len() as f64;
        let loose = pull.iter().enumerate().filter(|(_, pull)| **pull < LOOSE_UNDER);
        Self {
            tension: pull.iter().sum::<f64>() / pull.len() as f64,
            uneven: (along - across) / (along + across),
            loose: loose.map(|(lug, pull)| (step * lug as f64, SLACK_RESISTANCE * (1.0 - pull / LOOSE_UNDER))).collect(),
            half_width: 0.5 * step,
        }
    }

    /// Areal resistance (N s/m3) of the edge at a point (radius 0 to 1, angle).
    pub(super) fn resistance_at(&self, r: f64, angle: f64) -> f64 {
        if r < FELT_FROM {
            return 0.0;
        }
        let off = |at: f64| ((angle - at + PI).rem_euclid(2.0 * PI) - PI).abs();
        self.loose.iter().filter(|(at, _)| off(*at) <= self.half_width).map(|(_, resistance)| resistance).sum()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rods_make_a_head_higher_uneven_along_their_line_and_dead_where_they_are_loose() {
        let even = Rods::new(&[1.0; 8]);
        assert!((even.tension - 1.0).abs() < 1e-12 && even.uneven.abs() < 1e-12 && even.resistance_at(0.9, 0.0) == 0.0);
        let along = Rods::new(&[1.3, 1.0, 1.0, 1.0, 1.3, 1.0, 1.0, 1.0]);
        assert!(along.uneven > 0.02 && along.tension > 1.0, "{along:?}");
        let slack = Rods::new(&[0.05, 0.3, 1.0, 1.0, 1.0, 1.0, 1.0, 0.3]);
        assert!(slack.resistance_at(0.9, 0.1) > slack.resistance_at(0.9, 0.8) && slack.resistance_at(0.9, 0.8) > 0.0, "{slack:?}");
        assert_eq!((slack.resistance_at(0.9, PI), slack.resistance_at(0.5, 0.0)), (0.0, 0.0));
    }
}
