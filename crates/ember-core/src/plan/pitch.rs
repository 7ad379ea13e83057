//! The turn of every rod that brings back what devices take of the pitch.

use super::candidates::{Limits, ShelfItem};
use super::weight::{effort, pitch_toll, takes_batter_off};
use crate::damping::{DeviceKind, FirstOrder, Placement, Predictor, Strengths, device_info};

/// Smaller drifts of the body's pitch are left alone, cents: no round is tapped for them.
pub(super) const LEFT_ALONE_CENTS: f64 = 50.0;
/// Nobody turns every rod by more than half a turn for what lies on a head, eighths (common practice, no published source).
pub(super) const MOST_EIGHTHS: i32 = 4;

/// One turn of every rod.
struct Turn {
    placement: Placement,
    /// What it does to the body's pitch.
    cents: f64,
    effort: f64,
}

/// The turns that may be made on one drum.
pub(super) struct Turns(Vec<Turn>);

impl Turns {
    /// Those that `shelf` and `limits` leave, each as far as learned. No decay time changes with them, so that none is worth it by itself: they
    /// are looked at for the pitch that something else has moved.
    pub fn new(predictor: &Predictor, model: &FirstOrder, strengths: &Strengths, (shelf, limits): (&[ShelfItem], &Limits)) -> Self {
        let info = device_info(DeviceKind::RodsTurned);
        let owned = shelf.iter().any(|item| item.device == info.kind && item.count > 0);
        let turn = |amount: usize| {
            let placement = Placement { device: info.kind, amount, radius: 0.0, angle_deg: 0.0, made: None, other_head: false };
            let cents = model.body_cents(&model.touch(&predictor.grip_known(&placement, strengths)));
            Turn { placement, cents, effort: effort(&[placement]) }
        };
        let is_done = |amount: usize| info.amounts[amount].eighths.abs() <= MOST_EIGHTHS;
        let amounts = (0..info.amounts.len()).filter(|amount| owned && is_done(*amount) && limits.allows(info, &info.amounts[*amount]));
        Self(amounts.map(turn).filter(|turn| turn.cents != 0.0 && turn.placement.validate(&predictor.drum).is_ok()).collect())
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// The least that a drift by `cents` costs where `placements` are on, and the turn that makes it so; none where it is best left.
    pub fn least<'a>(&self, cents: f64, placements: impl Iterator<Item = &'a Placement>) -> (f64, Option<Placement>) {
        let (mut set, mut tuned_anyway) = (false, false);
        for placement in placements {
            set |= placement.device.is_tuning();
            tuned_anyway |= takes_batter_off(placement);
        }
        let left = (pitch_toll(cents), None);
        if set || cents.abs() < LEFT_ALONE_CENTS {
            return left;
        }
        let effort = |turn: &Turn| if tuned_anyway { 0.0 } else { turn.effort };
        let turned = self.0.iter().map(|turn| (pitch_toll(cents + turn.cents) + effort(turn), Some(turn.placement)));
        turned.fold(left, |least, way| if way.0 < least.0 { way } else { least })
    }
}

/// Whether what `placements` do to the rods already forbids to turn them all besides.
pub(super) fn rods_are_set<'a>(mut placements: impl Iterator<Item = &'a Placement>) -> bool {
    placements.any(|placement| placement.device.is_tuning())
}
