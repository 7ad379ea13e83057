//! What turning one rod does to the pitch of every lug: a matrix that each drum teaches by the turns made on it.
//!
//! Tension, and with it the square of a pitch, grows by the same amount with each turn; so the matrix is kept in squared pitch
//! (Hz2) an eighth of a turn. It begins as a hoop would have it: a rod lifts its own lug and the one across most, its neighbours
//! less (common practice, no published source; the alike part of opposite lugs follows from the pair of modes that a lug's
//! pitch is made of). Every round heard after reported turns corrects it: a Gaussian prior over all its entries, updated by
//! linear regression (Rasmussen & Williams, Gaussian Processes for Machine Learning, 2.1).

use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// What an eighth of a turn on every rod adds to a usual head's tension, as a part of it: 40 cents of pitch (from experience, no source), which
/// goes with the root of the tension.
pub const EIGHTH_TENSION: f64 = 0.047_294;
/// Doubt of that, as a part of it: shared by all rods.
const SHARED_SD: f64 = 0.5;
/// Doubt of each distance round the hoop, each rod, and each entry by itself, as a part of the mean entry.
const DISTANCE_SD: f64 = 0.5;
const ROD_SD: f64 = 0.35;
const ENTRY_SD: f64 = 0.25;
/// Part of a rod's pull that stays at its own lug, and how much more lugs in line with it get than those aside.
const OWN_PART: f64 = 0.15;
const IN_LINE: f64 = 0.8;
/// Doubt of what a rod really turned, eighths: keys are set by eye.
const TURN_SD: f64 = 0.06;

/// Turns and what they did: a round before, what was turned, a round after.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TurnTrial {
    /// Pitch of each lug before, Hz. Null where it was not heard.
    pub before_hz: Vec<Option<f64>>,
    /// Eighths of a turn on each rod, tighter positive.
    pub eighths: Vec<i32>,
    /// Pitch of each lug after, Hz.
    pub after_hz: Vec<Option<f64>>,
    /// Doubt of one lug's pitch, cents.
    pub sd_cents: f64,
}

/// What is known about one head's rods.
#[derive(Debug, Clone)]
pub struct Influence {
    lugs: usize,
    /// Entry (lug, rod) at `lug * lugs + rod`, Hz2 an eighth.
    mean: DVector<f64>,
    covariance: DMatrix<f64>,
    trials: usize,
}

impl Influence {
    /// What a head of `lugs` rods whose lugs sound about `usual_hz` is expected to do.
    pub fn prior(lugs: usize, usual_hz: f64) -> Self {
        let square = usual_hz * usual_hz;
        let all = square * EIGHTH_TENSION;
        let entry = all / lugs as f64;
        let angle = |a: usize, b: usize| 2.0 * PI * (a as f64 - b as f64) / lugs as f64;
        let distance = |a: usize, b: usize| {
            let steps = a.abs_diff(b);
            steps.min(lugs - steps)
        };
        let own = OWN_PART * lugs as f64;
        let at = |index: usize| (index / lugs, index % lugs);
        let shape = |index: usize| {
            let (lug, rod) = at(index);
            let aligned = if lugs > 2 { 1.0 + IN_LINE * (2.0 * angle(lug, rod)).cos() } else { 1.0 };
            (1.0 - OWN_PART) * aligned + if lug == rod { own } else { 0.0 }
        };
        let size = lugs * lugs;
        let mean = DVector::from_fn(size, |index, _| entry * shape(index));
        let alike = |same: bool, sd: f64| if same { (sd * entry).powi(2) } else { 0.0 };
        let covariance = DMatrix::from_fn(size, size, |a, b| {
            let ((lug_a, rod_a), (lug_b, rod_b)) = (at(a), at(b));
            SHARED_SD.powi(2) * mean[a] * mean[b]
                + alike(distance(lug_a, rod_a) == distance(lug_b, rod_b), DISTANCE_SD)
                + if rod_a == rod_b { ROD_SD.powi(2) * mean[a] * mean[b] } else { 0.0 }
                + alike(a == b, ENTRY_SD)
        });
        Self { lugs, mean, covariance, trials: 0 }
    }

    /// The prior corrected by `trials` on the same head; trials of another lug count are left out.
    pub fn learned(lugs: usize, usual_hz: f64, trials: &[TurnTrial]) -> Self {
        let mut influence = Self::prior(lugs, usual_hz);
        for trial in trials {
            influence.learn(trial);
        }
        influence
    }

    /// How many lugs the head has.
    pub fn lugs(&self) -> usize {
        self.lugs
    }

    /// Trials it has learned from.
    pub fn trials(&self) -> usize {
        self.trials
    }

    /// What an eighth on `rod` does to the squared pitch of `lug`, Hz2.
    pub fn entry(&self, lug: usize, rod: usize) -> f64 {
        self.mean[lug * self.lugs + rod]
    }

    /// Eighths of a turn on every rod that bring lugs from `from_hz` to `to_hz`, as a fraction.
    pub fn all_rods(&self, from_hz: f64, to_hz: f64) -> f64 {
        let an_eighth = self.mean.sum() / self.lugs as f64;
        (to_hz * to_hz - from_hz * from_hz) / an_eighth
    }

    /// Squared pitches (Hz2) after `eighths`, from `squares` before.
    pub fn after(&self, squares: &[f64], eighths: &[i32]) -> Vec<f64> {
        let gained = |lug: usize| eighths.iter().enumerate().map(|(rod, t)| self.entry(lug, rod) * f64::from(*t)).sum::<f64>();
        squares.iter().enumerate().map(|(lug, square)| square + gained(lug)).collect()
    }

    /// Standard error (Hz2) of what `eighths` do to the squared pitch of `lug`.
    pub fn sd(&self, lug: usize, eighths: &[i32]) -> f64 {
        let first = lug * self.lugs;
        let mut variance = 0.0;
        // Most rods stay as they are, and what two have in common stands twice in the matrix.
        for (a, turned_a) in eighths.iter().enumerate().filter(|(_, turned)| **turned != 0) {
            let row = self.covariance.column(first + a);
            let others: f64 = eighths[..a].iter().enumerate().map(|(b, turned_b)| f64::from(*turned_b) * row[first + b]).sum();
            let turned_a = f64::from(*turned_a);
            variance += turned_a * (2.0 * others + turned_a * row[first + a]);
        }
        variance.max(0.0).sqrt()
    }

    fn learn(&mut self, trial: &TurnTrial) {
        let lugs = self.lugs;
        if trial.eighths.len() != lugs || trial.eighths.iter().all(|t| *t == 0) {
            return;
        }
        self.trials += 1;
        // How far the keys may have been off from what was reported is the same for all lugs of one trial, and small against the
        // rest; it is counted for each lug by itself.
        for lug in 0..lugs {
            let (Some(before), Some(after)) = (trial.before_hz.get(lug).copied().flatten(), trial.after_hz.get(lug).copied().flatten())
            else {
                continue;
            };
            let mut row = DVector::zeros(lugs * lugs);
            let mut slack = 0.0;
            for (rod, turned) in trial.eighths.iter().enumerate() {
                row[lug * lugs + rod] = f64::from(*turned);
                slack += if *turned == 0 { 0.0 } else { (TURN_SD * self.entry(lug, rod)).powi(2) };
            }
            // A pitch off by s (natural logarithm) is off by 2 f^2 s when squared, before and after alike.
            let noise = 4.0 * (before.powi(4) + after.powi(4)) * (trial.sd_cents / 1200.0 * std::f64::consts::LN_2).powi(2);
            let seen = after * after - before * before - row.dot(&self.mean);
            let spread = &self.covariance * &row;
            let variance = row.dot(&spread) + noise + slack;
            // A reading that lies ten standard errors off is a mistake (another rod was turned), not news.
            if variance <= 0.0 || seen * seen > 100.0 * variance {
                continue;
            }
            self.mean.axpy(seen / variance, &spread, 1.0);
            self.covariance.ger(-1.0 / variance, &spread, &spread, 1.0);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Common practice, no published source: turning one lug also moves its neighbours and the one across.
    #[test]
    fn a_rod_moves_its_own_lug_most_then_the_one_across_and_tightening_lowers_none() {
        for lugs in [4, 5, 6, 8, 10, 12] {
            let influence = Influence::prior(lugs, 210.0);
            let own = influence.entry(0, 0);
            assert!((0..lugs).all(|rod| influence.entry(0, rod) >= 0.0 && influence.entry(0, rod) <= own));
            if lugs % 2 == 0 {
                assert!((1..lugs).all(|rod| influence.entry(0, rod) <= influence.entry(0, lugs / 2) + 1e-9), "{lugs}");
            }
            let all = influence.after(&vec![210.0 * 210.0; lugs], &vec![1; lugs]);
            assert!(all.iter().all(|square| (crate::units::cents(210.0, square.sqrt()) - 40.0).abs() < 6.0), "{all:?}");
        }
    }

    /// A round that hears nothing new teaches little: its doubt of the pitches stays in what is believed (a doubt of 1 cent is
    /// 1/865 of the squared pitch, worked by hand).
    #[test]
    fn what_was_heard_poorly_is_believed_less() {
        let trial = |sd_cents: f64| TurnTrial {
            before_hz: vec![Some(200.0); 6],
            eighths: vec![1, 0, 0, 0, 0, 0],
            after_hz: [208.0, 200.5, 200.5, 204.0, 200.5, 200.5].map(Some).to_vec(),
            sd_cents,
        };
        let doubt = |sd_cents: f64| Influence::learned(6, 200.0, &[trial(sd_cents)]).sd(0, &trial(1.0).eighths);
        let (prior, well, badly) = (Influence::prior(6, 200.0).sd(0, &trial(1.0).eighths), doubt(1.0), doubt(40.0));
        let both_heard = 2f64.sqrt() * 200.0 * 200.0 / 865.6;
        assert!(well > 0.9 * both_heard && well < 0.3 * prior, "{well} {both_heard} {prior}");
        assert!(badly > 0.8 * prior, "{badly} of {prior}");
    }

    #[test]
    fn what_turns_did_is_believed_afterwards() {
        let mut trial = TurnTrial {
            before_hz: vec![Some(200.0); 6],
            eighths: vec![2, 0, 0, 0, 0, 0],
            after_hz: [212.0, 201.0, 200.5, 206.0, 200.5, 201.0].map(Some).to_vec(),
            sd_cents: 1.5,
        };
        let learned = Influence::learned(6, 200.0, &[trial.clone()]);
        let after = learned.after(&[40_000.0; 6], &trial.eighths);
        for (lug, square) in after.iter().enumerate() {
            assert!((square.sqrt() - trial.after_hz[lug].unwrap()).abs() < 1.0, "lug {lug}: {}", square.sqrt());
        }
        assert!(learned.sd(0, &trial.eighths) < 0.3 * Influence::prior(6, 200.0).sd(0, &trial.eighths));
        // Nonsense is not learned from.
        trial.after_hz[0] = Some(900.0);
        assert!((Influence::learned(6, 200.0, &[trial]).entry(0, 0) - learned.entry(0, 0)).abs() < learned.entry(0, 0));
    }
}
