//! What a head's make does to pitch and decay: priors for each trait, corrected by every change of heads that was measured
//! before and after.
//!
//! A trait multiplies decay rates; in logarithms the traits add up, and learning is a linear regression with a Gaussian prior
//! (Rasmussen & Williams, Gaussian Processes for Machine Learning, 2.1), one for the body and one for the ring.

use crate::drum::{Drum, Head, HeadTrait, Member, MembraneMode};
use crate::numeric::{LogNormal, Range};
use crate::tone::Partial;
use crate::tone::Tone;
use crate::units::{cents, median};
use nalgebra::{SMatrix, SVector};
use serde::{Deserialize, Serialize};

/// A trait; mean and standard deviation of what it adds for the body, and for the ring.
type TraitPrior = (HeadTrait, [f64; 2], [f64; 2]);

/// Of each trait: what it adds to the logarithm of the body's decay rate, and of the ring's, with standard deviations (from
/// experience, no source).
const PRIORS: [TraitPrior; 6] = [
    (HeadTrait::SecondPly, [0.12, 0.12], [0.35, 0.20]),
    (HeadTrait::Coating, [0.03, 0.05], [0.10, 0.10]),
    (HeadTrait::EdgeRing, [0.08, 0.10], [0.50, 0.30]),
    (HeadTrait::Dot, [0.08, 0.10], [0.20, 0.15]),
    (HeadTrait::Oil, [0.30, 0.20], [0.80, 0.40]),
    (HeadTrait::Wear, [0.05, 0.08], [0.25, 0.20]),
];
/// Doubt that any change of heads leaves: no two go on alike. Standard deviation of a logarithm.
const CHANGE_SD: f64 = 0.10;
/// A change after which a decay rate is this many standard deviations off is a mistake, not news.
const MISTAKE: f64 = 5.0;

/// One change of heads, measured before and after.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HeadTrial {
    /// The head before.
    pub before: Head,
    /// The head after.
    pub after: Head,
    /// T60 after over before, of the body and of the ring. `None` where one is not known.
    pub body_ratio: Option<f64>,
    /// By what the ring's T60 was multiplied; null where it is not known.
    pub ring_ratio: Option<f64>,
}

impl HeadTrial {
    /// From the partials of the open drum with the one head and with the other: its body, and the middle of the overtones that
    /// are the same tone in both.
    pub fn of(before: Head, after: Head, before_partials: &[Partial], after_partials: &[Partial]) -> Self {
        let t60 = |partials: &[Partial], is: &dyn Fn(Tone) -> bool| partials.iter().find(|p| p.tone.is_some_and(is)).and_then(|p| p.t60_s);
        let ratio = |is: &dyn Fn(Tone) -> bool| Some(t60(after_partials, is)? / t60(before_partials, is)?);
        let overtones = before_partials.iter().filter_map(|p| p.tone).filter(|tone| !tone.is_axial());
        let ratios: Vec<f64> = overtones.filter_map(|own| ratio(&|tone| tone == own)).collect();
        Self { before, after, body_ratio: ratio(&Tone::is_lowest), ring_ratio: median(&ratios) }
    }
}

/// What another head should do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeadEffect {
    /// What the lugs' pitch does at the same tension, cents.
    pub lug_cents: f64,
    /// What the body's pitch does at the same tension, cents.
    pub body_cents: f64,
    /// Factor on the body's T60, expected, and bounds that hold nine times in ten.
    pub body_factor: f64,
    /// Bounds of it for the body.
    pub body_range: Range,
    /// Factor on the ring's T60.
    pub ring_factor: f64,
    /// Bounds of it for the ring.
    pub ring_range: Range,
}

type Traits = SVector<f64, 6>;

/// What is known of one loss: the mean and covariance of the six traits' logarithms.
#[derive(Debug, Clone)]
struct Loss {
    mean: Traits,
    covariance: SMatrix<f64, 6, 6>,
}

impl Loss {
    /// Of the body, or of the ring.
    fn prior(pick: fn(&TraitPrior) -> [f64; 2]) -> Self {
        let (mean, sd) = (Traits::from_fn(|i, _| pick(&PRIORS[i])[0]), Traits::from_fn(|i, _| pick(&PRIORS[i])[1]));
        Self { mean, covariance: SMatrix::from_diagonal(&sd.component_mul(&sd)) }
    }

    /// Whether `ln_rate_ratio` was taken as news.
    fn learn(&mut self, difference: &Traits, ln_rate_ratio: f64) -> bool {
        let spread = self.covariance * difference;
        let variance = difference.dot(&spread) + 2.0 * CHANGE_SD * CHANGE_SD;
        let seen = ln_rate_ratio - difference.dot(&self.mean);
        if !seen.is_finite() || seen * seen > MISTAKE * MISTAKE * variance {
            return false;
        }
        self.mean += spread * (seen / variance);
        self.covariance -= spread * spread.transpose() / variance;
        true
    }

    fn factor(&self, difference: &Traits) -> (f64, Range) {
        let ln = -difference.dot(&self.mean);
        let sd = (difference.dot(&(self.covariance * difference)).max(0.0) + CHANGE_SD * CHANGE_SD).sqrt();
        let known = LogNormal { ln, sd };
        (known.median(), known.range())
    }
}

/// What is known about heads.
#[derive(Debug, Clone)]
pub struct HeadLosses {
    body: Loss,
    ring: Loss,
    trials: usize,
}

impl HeadLosses {
    /// The priors corrected by `trials`.
    pub fn learned(trials: &[HeadTrial]) -> Self {
        let mut losses = Self { body: Loss::prior(|prior| prior.1), ring: Loss::prior(|prior| prior.2), trials: 0 };
        for trial in trials {
            let difference = difference(trial.before, trial.after);
            let learn = |loss: &mut Loss, ratio: Option<f64>| ratio.is_some_and(|ratio| loss.learn(&difference, -ratio.ln()));
            let (body, ring) = (learn(&mut losses.body, trial.body_ratio), learn(&mut losses.ring, trial.ring_ratio));
            losses.trials += usize::from(difference != Traits::zeros() && (body || ring));
        }
        losses
    }

    /// Changes of heads that it has learned from.
    pub fn trials(&self) -> usize {
        self.trials
    }

    /// What `to` in place of `from` should do as the batter head of `drum`, at the same tension.
    pub fn effect(&self, drum: &Drum, from: Head, to: Head) -> HeadEffect {
        let difference = difference(from, to);
        let (body_factor, body_range) = self.body.factor(&difference);
        let (ring_factor, ring_range) = self.ring.factor(&difference);
        // Pitch goes with the root of tension over mass.
        let fall = |mass: fn(&Drum, Head) -> f64| cents(mass(drum, to).sqrt(), mass(drum, from).sqrt());
        HeadEffect {
            lug_cents: fall(|drum, head| drum.areal_mass(head) + middle_mass(head, drum.radius(), 1)),
            body_cents: fall(|drum, head| drum.areal_mass(head) + middle_mass(head, drum.radius(), 0)),
            body_factor,
            body_range,
            ring_factor,
            ring_range,
        }
    }
}

fn difference(from: Head, to: Head) -> Traits {
    Traits::from(to.traits()) - Traits::from(from.traits())
}

/// What a dot or a patch in the middle of a head of radius `a` (m) weighs in the lowest mode of `m` nodal diameters, as areal mass of the whole head,
/// kg/m2: its mass weighed by the square of how the mode moves under it.
fn middle_mass(head: Head, a: f64, m: usize) -> f64 {
    let mode = MembraneMode::new(m, 1, Member::Cos);
    let around = if m == 0 { 1.0 } else { 0.5 };
    let weighed = |(mass, to): (f64, f64)| {
        let ring = |i: usize| {
            let r = to * (i as f64 + 0.5) / MIDDLE_STEPS as f64;
            mode.radial(r).powi(2) * around * 2.0 * r
        };
        mass * (0..MIDDLE_STEPS).map(ring).sum::<f64>() * to / MIDDLE_STEPS as f64
    };
    head.in_the_middle(a).map(weighed).sum()
}

/// Rings into which the middle is cut.
const MIDDLE_STEPS: usize = 60;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    /// Common practice, no published source: double ply shorter, edge ring less ring, dot mass in the middle, oil very short, a coat
    /// a touch shorter, worn heads duller.
    #[test]
    fn traits_shorten_as_the_trade_says() {
        let (losses, drum) = (HeadLosses::learned(&[]), BenchDrum::usual(DrumKind::Tom));
        let plain = Head::plain(10.0);
        let ring = |to: Head| losses.effect(&drum, plain, to).ring_factor;
        let (double, coated) = (ring(Head::double(14.0)), ring(Head { coated: true, ..plain }));
        assert!(double < coated && coated < 1.0 && ring(Head { oil: true, ..Head::double(14.0) }) < 0.6 * double);
        assert!(ring(Head { edge_ring: true, ..plain }) < 0.7 && ring(Head { played_h: 100.0, ..plain }) < 0.9);
        let dot = losses.effect(&drum, plain, Head { dot: true, ..plain });
        assert!(dot.body_cents < -100.0 && dot.lug_cents > 0.4 * dot.body_cents, "{dot:?}");
        // CP 2: mass lowers pitch at the same tension.
        assert!(losses.effect(&drum, plain, Head::double(14.0)).lug_cents < -100.0);
        let same = losses.effect(&drum, plain, plain);
        assert!((same.ring_factor - 1.0).abs() < 1e-12 && same.ring_range.low > 0.8 && same.lug_cents == 0.0);
    }

    #[test]
    fn measured_changes_are_believed_and_mistakes_are_not() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let (plain, double) = (Head::plain(10.0), Head::double(14.0));
        let trial = HeadTrial { before: plain, after: double, body_ratio: Some(0.95), ring_ratio: Some(0.5) };
        let prior = HeadLosses::learned(&[]).effect(&drum, plain, double);
        let learned = HeadLosses::learned(&[trial; 4]);
        let after = learned.effect(&drum, plain, double);
        assert!((after.ring_factor - 0.5).abs() < 0.07 && after.ring_factor < prior.ring_factor - 0.1, "{after:?}");
        assert!(after.ring_range.high / after.ring_range.low < prior.ring_range.high / prior.ring_range.low);
        assert_eq!(learned.trials(), 4);
        let mistake = HeadTrial { ring_ratio: Some(40.0), body_ratio: None, ..trial };
        assert_eq!(HeadLosses::learned(&[mistake]).trials(), 0);
        // The way back teaches the same.
        let back = HeadTrial { before: double, after: plain, body_ratio: Some(1.0 / 0.95), ring_ratio: Some(2.0) };
        let reversed = HeadLosses::learned(&[back; 4]).effect(&drum, plain, double);
        assert!((reversed.ring_factor - after.ring_factor).abs() < 1e-9);
    }
}
