//! A layout of the player's own, and what can be made better about it without changing its devices.

use super::candidates::{MOST_DEVICES, devices, overlap};
use super::judge::Judge;
use super::offer::{Offer, Plan};
use super::pitch::rods_are_set;
use super::solved::{Question, evaluate};
use super::weight::{Prospect, attack, effort, pitch_toll};
use crate::damping::{FirstOrder, Grip, InvalidPlacement, Open, Placement, Predictor, device_info};
use crate::drum::Drum;
use rayon::prelude::*;

/// Steps in which places are tried, large ones first: of the radius, and degrees.
const STEPS: [(f64, f64); 3] = [(0.12, 45.0), (0.05, 15.0), (0.02, 5.0)];
/// Changes that gain less than this many steps are not worth a hand's turn.
const WORTH: f64 = 0.05;

/// Checks that `placements` can lie on the drum together.
pub fn validate_layout(drum: &Drum, placements: &[Placement]) -> Result<(), InvalidPlacement> {
    if placements.is_empty() || devices(placements) > MOST_DEVICES {
        return Err(InvalidPlacement::Count { most: MOST_DEVICES });
    }
    for (i, placement) in placements.iter().enumerate() {
        placement.validate(drum)?;
        if placement.device.is_tuning() && rods_are_set(placements[..i].iter()) {
            return Err(match placements.len() - devices(placements) {
                0 => InvalidPlacement::SlackTwice,
                1 => InvalidPlacement::TurnedBesideSlack,
                _ => InvalidPlacement::TurnedTwice,
            });
        }
        if let Some(other) = placements[..i].iter().find(|other| overlap(other, placement, drum)) {
            let (name, other) = (placement.name().to_string(), other.name().to_string());
            return Err(InvalidPlacement::OnOneAnother { name, other });
        }
    }
    Ok(())
}

/// `placements` with places and amounts changed as long as that brings the drum nearer to the wish, all costs counted: a search downhill,
/// first to first order and then by the full solve, so what it finds need not be the best of all. `None` where the open drum's body is
/// not known.
pub fn improved(question: &Question, placements: &[Placement]) -> Option<Plan> {
    let predictor = Predictor::new(question.drum, question.partials)?;
    let open = Open { partials: question.partials, profile: question.profile };
    let grips = |placements: &[Placement]| {
        placements.iter().map(|placement| predictor.grip_known(placement, question.strengths)).collect::<Vec<Grip>>()
    };
    let model = FirstOrder::new(&predictor.model);
    let judge = Judge::new(&model, &question.wanted);
    let rough = |placements: &[Placement]| {
        let mut touch = model.untouched();
        grips(placements).iter().for_each(|grip| touch.add(&model.touch(grip), 0.0, &model));
        let pitch = pitch_toll(model.body_cents(&touch));
        judge.misfit(&touch, attack(placements)) + attack(placements) + effort(placements) + pitch
    };
    let full = |placements: &[Placement]| {
        let expected = predictor.expect(&open, placements, &grips(placements).iter().collect::<Vec<_>>());
        Prospect::new(&expected).cost(placements, &question.wanted) + effort(placements)
    };
    let near = downhill(question, placements.to_vec(), &STEPS, rough);
    // To first order a place may seem better than it is: then the way goes on from where it began.
    let start = if full(&near) < full(placements) { near } else { placements.to_vec() };
    evaluate(question, Offer::Own, &downhill(question, start, &STEPS[1..], full))
}

/// Single changes from `best` on, each the one that costs least, as long as one is worth it.
fn downhill(
    question: &Question,
    mut best: Vec<Placement>,
    steps: &[(f64, f64)],
    cost: impl Fn(&[Placement]) -> f64 + Sync,
) -> Vec<Placement> {
    let mut least = cost(&best);
    for (radius, angle_deg) in steps {
        loop {
            let trials: Vec<Vec<Placement>> = (0..best.len())
                .flat_map(|index| moved(&best, index, *radius, *angle_deg))
                .filter(|trial| validate_layout(question.drum, trial).is_ok())
                .collect();
            let better = trials.into_par_iter().map(|trial| (cost(&trial), trial)).min_by(|a, b| a.0.total_cmp(&b.0));
            match better {
                Some((cost, trial)) if cost < least - WORTH => (least, best) = (cost, trial),
                _ => break,
            }
        }
    }
    best
}

/// `placements` with the one at `index` a step further in or out or round, or in another amount.
fn moved(placements: &[Placement], index: usize, radius: f64, angle_deg: f64) -> Vec<Vec<Placement>> {
    let from = placements[index];
    let mut ways: Vec<Placement> = Vec::new();
    if from.has_radius() {
        ways.extend([radius, -radius].map(|step| Placement { radius: (from.radius + step).clamp(0.0, 1.0), ..from }));
    }
    if from.has_angle() {
        ways.extend([angle_deg, -angle_deg].map(|step| Placement { angle_deg: (from.angle_deg + step).rem_euclid(360.0), ..from }));
    }
    let amounts = 0..device_info(from.device).amounts.len();
    ways.extend(amounts.filter(|amount| *amount != from.amount).map(|amount| Placement { amount, ..from }));
    let with = |placement: Placement| {
        let mut all = placements.to_vec();
        all[index] = placement;
        all
    };
    ways.into_iter().map(with).collect()
}
