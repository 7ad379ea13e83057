//! Every device on the shelf in every amount and place, worked out to first order once; what is wanted may change afterwards.

use super::candidates::{Limits, ShelfItem, singles};
use super::judge::Judge;
use super::pitch::Turns;
use super::weight::{attack, effort, pitch_toll};
use crate::damping::{Expectation, FirstOrder, Grip, Open, Placement, Predictor, Strengths, Touch};
use crate::drum::Drum;
use crate::tone::Partial;
use rayon::prelude::*;

/// One device in one amount at one distance from the middle.
pub(super) struct Single {
    pub placement: Placement,
    pub touch: Touch,
    /// Attack that it takes, dB.
    pub attack_db: f64,
    /// What it takes away and the effort it makes, in steps.
    pub toll: f64,
    /// How many of the device are owned.
    pub owned: u32,
    /// Whether it has a direction of its own that cannot be chosen: what hangs on an upright hoop hangs at its top.
    pub is_fixed: bool,
}

/// A treatment to first order.
pub(super) struct Sketched {
    touch: Touch,
    attack_db: f64,
    /// What it takes away, the pitch included, and the effort it makes.
    toll: f64,
}

impl Sketched {
    /// Steps off, taken away and spent.
    pub fn cost(&self, judge: &Judge) -> f64 {
        judge.misfit(&self.touch, self.attack_db) + self.toll
    }
}

/// All of them, for one drum as it was measured and one shelf.
pub struct Screened {
    pub(super) predictor: Predictor,
    strengths: Strengths,
    pub(super) model: FirstOrder,
    /// In order of toll.
    pub(super) singles: Vec<Single>,
    pub(super) turns: Turns,
}

impl Screened {
    /// `partials` of the open drum; `strengths` of the devices as they were learned. `None` where its body is not known.
    pub fn new(drum: &Drum, partials: &[Partial], shelf: &[ShelfItem], limits: &Limits, strengths: &Strengths) -> Option<Self> {
        let predictor = Predictor::new(drum, partials)?;
        let model = FirstOrder::new(&predictor.model);
        let owned = |placement: &Placement| shelf.iter().filter(|item| item.device == placement.device).map(|item| item.count).sum();
        let single = |placement: Placement| {
            let alone = [placement];
            Single {
                touch: model.touch(&predictor.grip_known(&placement, strengths)),
                attack_db: attack(&alone),
                toll: effort(&alone) + attack(&alone),
                owned: owned(&placement),
                is_fixed: placement.has_angle() && !placement.turns_on(drum),
                placement,
            }
        };
        let mut singles: Vec<Single> = singles(drum, shelf, limits).into_par_iter().map(single).collect();
        singles.sort_by(|a, b| a.toll.total_cmp(&b.toll));
        let turns = Turns::new(&predictor, &model, strengths, (shelf, limits));
        Some(Self { singles, turns, model, predictor, strengths: strengths.clone() })
    }

    /// Whether there is nothing to choose from.
    pub fn is_empty(&self) -> bool {
        self.singles.is_empty()
    }

    fn grip(&self, placement: &Placement) -> Grip {
        self.predictor.grip_known(placement, &self.strengths)
    }

    /// Any treatment, on the grid or not, to first order.
    pub(super) fn sketched(&self, placements: &[Placement]) -> Sketched {
        let mut touch = self.model.untouched();
        placements.iter().for_each(|placement| touch.add(&self.model.touch(&self.grip(placement)), 0.0, &self.model));
        let pitch = pitch_toll(self.model.body_cents(&touch));
        Sketched { touch, attack_db: attack(placements), toll: effort(placements) + attack(placements) + pitch }
    }

    /// `sketched` with one device more.
    pub(super) fn with(&self, sketched: &Sketched, single: &Single) -> Sketched {
        let mut touch = sketched.touch.clone();
        touch.add(&single.touch, 0.0, &self.model);
        Sketched { touch, attack_db: sketched.attack_db + single.attack_db, toll: sketched.toll + single.toll }
    }

    /// The full solve of any treatment, on the grid or not.
    pub fn expect(&self, open: &Open, placements: &[Placement]) -> Expectation {
        self.solved(placements, |grips| self.predictor.expect(open, placements, grips))
    }

    /// The same without its doubt.
    pub(super) fn expect_without_doubt(&self, open: &Open, placements: &[Placement]) -> Expectation {
        self.solved(placements, |grips| self.predictor.expect_without_doubt(open, placements, grips))
    }

    /// Adds the doubt.
    pub(super) fn with_doubt(&self, expected: Expectation, open: &Open, placements: &[Placement]) -> Expectation {
        self.solved(placements, |grips| self.predictor.with_doubt(expected, open, grips))
    }

    fn solved(&self, placements: &[Placement], solve: impl FnOnce(&[&Grip]) -> Expectation) -> Expectation {
        let grips: Vec<Grip> = placements.iter().map(|placement| self.grip(placement)).collect();
        solve(&grips.iter().collect::<Vec<_>>())
    }
}
