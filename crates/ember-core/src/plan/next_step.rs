//! After a check: the one small thing that brings the drum nearer to the wish from here.
//!
//! What is added is worked out from the drum as it was found, devices and all; what is taken away or exchanged from the open drum, with
//! what the check has taught about the devices.

use super::candidates::{FAR_SIDE_DEG, devices};
use super::follow::Sounding;
use super::judge::Judge;
use super::offer::{Offer, Plan};
use super::own::validate_layout;
use super::solved::{Question, evaluate};
use super::weight::{attack, effort};
use crate::damping::{DeviceKind, Placement, device_info};
use crate::target::{Assessment, assess};
use rayon::prelude::*;
use serde::Serialize;

/// Directions from the far side in which one more device is tried, degrees.
const TURNS_DEG: [f64; 8] = [0.0, 45.0, -45.0, 90.0, -90.0, 135.0, -135.0, 180.0];
/// Changes of each sort that are solved in full.
const FINALISTS: usize = 6;
/// A step that brings the drum less nearer than this is not worth a hand's turn, in just noticed steps.
const WORTH: f64 = 0.5;

/// What the step is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Step {
    /// The drum is as wanted.
    Nothing,
    /// It is not, but no one step on the shelf brings it nearer.
    NoneHelps,
    /// Something is added.
    Add,
    /// Something is taken off.
    TakeAway,
    /// One device in another amount, or another device in its stead.
    Exchange,
}

/// One step on from a check.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextStep {
    /// What to do.
    pub step: Step,
    /// The drum as it was found, held against what is wanted.
    pub now: Assessment,
    /// Which device is added, taken away or exchanged: its place among those on the drum, or among those of `plan` if it is added.
    pub index: usize,
    /// All that is on the drum after the step; null where there is no step, or nothing is left on it.
    pub plan: Option<Plan>,
    /// The drum as it should sound after the step, held against what is wanted; as found where there is no step.
    pub then: Assessment,
}

/// A way on and what it should come to.
struct Way {
    step: Step,
    index: usize,
    placements: Vec<Placement>,
    cost: f64,
    then: Assessment,
}

impl Way {
    fn new(step: Step, index: usize, placements: Vec<Placement>, then: Assessment) -> Self {
        let cost = then.misfit + attack(&placements) + effort(&placements);
        Self { step, index, placements, cost, then }
    }
}

/// The next step for a drum that has `on` on it and sounds like `found`. `None` where a body is not known.
pub fn next_step(question: &Question, on: &[Placement], found: Sounding) -> Option<NextStep> {
    let now = assess(found.partials, found.profile, &question.wanted, Some(attack(on)));
    let rest = |step, now: Assessment| NextStep { step, then: now.clone(), now, index: 0, plan: None };
    if now.fits {
        return Some(rest(Step::Nothing, now));
    }
    let mut ways = added(question, on, found)?;
    let changed = fewer(on).into_iter().chain(other_amounts(question, on)).chain(other_devices(question, on)?);
    for (step, index, placements) in changed {
        let then = match placements.is_empty() {
            true => assess(question.partials, question.profile, &question.wanted, None),
            false if validate_layout(question.drum, &placements).is_err() => continue,
            false => evaluate(question, Offer::Own, &placements)?.assessment,
        };
        ways.push(Way::new(step, index, placements, then));
    }
    let best = ways.into_iter().filter(|way| way.then.misfit < now.misfit - WORTH).min_by(|a, b| a.cost.total_cmp(&b.cost));
    let Some(best) = best else { return Some(rest(Step::NoneHelps, now)) };
    let plan = if best.placements.is_empty() { None } else { evaluate(question, Offer::Own, &best.placements) };
    Some(NextStep { step: best.step, now, index: best.index, plan, then: best.then })
}

/// What could be on the drum instead: which step leads there, at which place among the devices that are on it now, and all that is on it then.
type Change = (Step, usize, Vec<Placement>);

/// Places of what can be taken off or exchanged. All rods turned otherwise change no length; what they change of the note is not what is checked
/// here.
fn laid(on: &[Placement]) -> impl Iterator<Item = usize> {
    (0..on.len()).filter(|index| on[*index].device != DeviceKind::RodsTurned)
}

/// Each device taken off.
fn fewer(on: &[Placement]) -> Vec<Change> {
    let without = |index: usize| {
        let mut left = on.to_vec();
        left.remove(index);
        // What rods were turned for is gone with the last device.
        if devices(&left) == 0 {
            left.clear();
        }
        (Step::TakeAway, index, left)
    };
    laid(on).map(without).collect()
}

/// Each device in each of its other amounts.
fn other_amounts(question: &Question, on: &[Placement]) -> Vec<Change> {
    let others = |index: usize| {
        let info = device_info(on[index].device);
        let may = move |other: &usize| *other != on[index].amount && question.limits.allows(info, &info.amounts[*other]);
        (0..info.amounts.len()).filter(may).map(move |amount| {
            let mut other = on.to_vec();
            other[index].amount = amount;
            (Step::Exchange, index, other)
        })
    };
    laid(on).flat_map(others).collect()
}

/// Each device exchanged for the few of the shelf's others that to first order would do best in its stead. `None` where the open drum's body is
/// not known.
fn other_devices(question: &Question, on: &[Placement]) -> Option<Vec<Change>> {
    let screened = question.screened(question.shelf)?;
    let judge = Judge::new(&screened.model, &question.wanted);
    let mut found = Vec::new();
    for index in laid(on) {
        let rest: Vec<Placement> = on.iter().enumerate().filter(|(other, _)| *other != index).map(|(_, placement)| *placement).collect();
        let used = |device| rest.iter().filter(|placement| placement.device == device).count() as u32;
        let left = screened.sketched(&rest);
        let others = screened.singles.iter().filter(|single| single.placement.device != on[index].device);
        let mut ranked: Vec<(f64, Placement)> = others
            .filter(|single| single.owned > used(single.placement.device))
            .map(|single| (screened.with(&left, single).cost(&judge), single.placement))
            .collect();
        ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
        // One of each kind: amounts and places of one device are near to one another.
        let mut kinds: Vec<Placement> = Vec::new();
        for (_, placement) in ranked {
            if kinds.iter().all(|other| other.device != placement.device) {
                kinds.push(placement);
            }
        }
        for placement in kinds.into_iter().take(FINALISTS) {
            let free = |angle_deg: f64| {
                let mut all = on.to_vec();
                all[index] = Placement { angle_deg, ..placement };
                validate_layout(question.drum, &all).is_ok().then_some(all)
            };
            found.extend(TURNS_DEG.iter().find_map(|turn| free(FAR_SIDE_DEG + turn)).map(|all| (Step::Exchange, index, all)));
        }
    }
    Some(found)
}

/// Every device that is left on the shelf, added in every amount and place where nothing lies yet; the best of them solved in full.
fn added(question: &Question, on: &[Placement], found: Sounding) -> Option<Vec<Way>> {
    if devices(on) >= question.limits.most_things() {
        return Some(Vec::new());
    }
    let used = |device| on.iter().filter(|placement| placement.device == device).count() as u32;
    let left: Vec<_> =
        question.shelf.iter().map(|item| super::ShelfItem { count: item.count.saturating_sub(used(item.device)), ..*item }).collect();
    // The drum as it is now is where adding starts from.
    let here = Question { partials: found.partials, profile: found.profile, shelf: &left, wanted: question.wanted.clone(), ..*question };
    let screened = here.screened(&left)?;
    let judge = Judge::new(&screened.model, &here.wanted);
    let before = attack(on);
    let mut ranked: Vec<(f64, Placement)> = screened
        .singles
        .iter()
        .flat_map(|single| {
            let turns: &[f64] = if single.placement.has_angle() { &TURNS_DEG } else { &[0.0] };
            turns
                .iter()
                .map(move |turn| Placement { angle_deg: FAR_SIDE_DEG + turn, ..single.placement })
                .map(move |placement| (single, placement))
        })
        .filter(|(_, placement)| validate_layout(question.drum, &[on, &[*placement]].concat()).is_ok())
        .map(|(single, placement)| {
            let misfit = judge.misfit(&single.touch, before + single.attack_db);
            (misfit + single.toll, placement)
        })
        .collect();
    // Which way the pairs lie is not known, so that to first order all directions are alike: the first free one is taken.
    ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
    ranked.dedup_by(|a, b| a.1.device == b.1.device && a.1.amount == b.1.amount && a.1.radius == b.1.radius);
    ranked.truncate(FINALISTS);
    let solve = |(_, placement): (f64, Placement)| {
        let alone = evaluate(&here, Offer::Own, &[placement])?;
        let placements = [on, &[placement]].concat();
        let then = assess(&alone.expected.partials, &alone.expected.profile, &here.wanted, Some(attack(&placements)));
        Some(Way::new(Step::Add, on.len(), placements, then))
    };
    Some(ranked.into_par_iter().filter_map(solve).collect())
}
