//! The search over the shelf: the best of the whole grid to first order, and of each group that an offer may come from; those are solved
//! in full, and a few that differ in kind are offered.

use super::best::Among;
use super::candidates::{devices, most_offered};
use super::offer::{Plan, PlanAnswer, Reach};
use super::offers::{is_clear, offers};
use super::school::school_of;
use super::screened::Screened;
use super::solved::{Question, solved};
use super::would_do::would_do;
use crate::Patience;
use crate::damping::{DeviceKind, Placement};
use crate::target::{School, Wanted, assess};
use rayon::prelude::*;

/// Finds a few treatments that differ in kind. `None` where the open drum's body is not known.
pub fn plan(question: &Question) -> Option<PlanAnswer> {
    let wanted = &question.wanted;
    let now = assess(question.partials, question.profile, wanted, None);
    let answer = |reach, plans, would_do, searched| PlanAnswer {
        wanted: wanted.clone(),
        now: now.clone(),
        reach,
        plans,
        would_do,
        searched,
        cut_short: question.patience.is_over(),
    };
    if now.fits {
        return Some(answer(Reach::NothingNeeded, Vec::new(), None, 0));
    }
    let screened = question.screened(question.shelf)?;
    if screened.is_empty() {
        return Some(answer(Reach::NothingToUse, Vec::new(), would_do(question, &now), 0));
    }
    let searched = screened.grid_size(most_offered(question.drum));
    let mut plans = solved(question, &screened, finalists(&screened, wanted, (most_offered(question.drum), question.patience)));
    plans.retain(|plan| plan.assessment.misfit < now.misfit);
    let mut plans = least_first(question, &screened, plans);
    led_by_school(&mut plans, wanted.school_chosen);
    if plans.is_empty() {
        return Some(answer(Reach::NothingHelps, plans, would_do(question, &now), searched));
    }
    let reach = if plans.iter().any(|plan| plan.assessment.fits) { Reach::Reached } else { Reach::NotReached };
    let beyond = if reach == Reach::NotReached { would_do(question, &now) } else { None };
    Some(answer(reach, offers(&plans, &now), beyond, searched))
}

/// One more device is worth its while where it is heard, in just noticed steps.
const WORTH_A_DEVICE: f64 = 1.0;

/// `plans`, each without the devices that are not worth a heard step: least first, as drum techs have it (common practice, no published source).
/// What comes to the same then stands once.
fn least_first(question: &Question, screened: &Screened, plans: Vec<Plan>) -> Vec<Plan> {
    let mut kept: Vec<Plan> = Vec::new();
    for plan in plans.into_par_iter().map(|plan| without_idlers(question, screened, plan)).collect::<Vec<_>>() {
        if kept.iter().all(|other| other.placements != plan.placements) {
            kept.push(plan);
        }
    }
    kept
}

/// Puts plans of the school that the player `chose` first, where they come as near as any: what fits before what does not.
fn led_by_school(plans: &mut [Plan], chose: Option<School>) {
    if let Some(chosen) = chose {
        plans.sort_by_key(|plan| (!plan.assessment.fits, school_of(&plan.placements) != chosen));
    }
}

/// `plan` without what can go without being heard to be gone.
fn without_idlers(question: &Question, screened: &Screened, mut plan: Plan) -> Plan {
    while devices(&plan.placements) > 1 {
        // All rods are turned for what the devices that are left do to the note.
        let laid: Vec<Placement> = plan.placements.iter().filter(|placement| placement.device != DeviceKind::RodsTurned).copied().collect();
        let without = |at: usize| laid.iter().enumerate().filter(|(other, _)| *other != at).map(|(_, placement)| *placement).collect();
        let fewer = solved(question, screened, (0..laid.len()).map(without).collect());
        let nearest = fewer.into_iter().min_by(|a, b| a.assessment.misfit.total_cmp(&b.assessment.misfit));
        let is_as_good =
            |less: &Plan| less.assessment.misfit <= plan.assessment.misfit + WORTH_A_DEVICE && less.assessment.fits >= plan.assessment.fits;
        match nearest.filter(is_as_good) {
            Some(less) => plan = less,
            None => break,
        }
    }
    plan
}

/// The best of all, and the best of each group that an offer may come from.
fn finalists(screened: &Screened, wanted: &Wanted, (most, patience): (usize, Patience)) -> Vec<Vec<Placement>> {
    let of_school = |school: School| {
        move |placements: &[&Placement]| school_of(&placements.iter().map(|placement| **placement).collect::<Vec<_>>()) == school
    };
    let (open, dead) = (of_school(School::Open), of_school(School::Dead));
    let clear = |placements: &[&Placement]| placements.iter().all(|placement| is_clear(placement));
    let groups: [(usize, Among); 5] = [
        (24, Among { most, allow: &|_| true, turned: true, patience }),
        (8, Among { most: 1, allow: &|_| true, turned: true, patience }),
        (6, Among { most: 2, allow: &clear, turned: true, patience }),
        (3, Among { most, allow: &open, turned: true, patience }),
        (4, Among { most: 2, allow: &dead, turned: true, patience }),
    ];
    let mut found: Vec<Vec<Placement>> = Vec::new();
    for (keep, among) in groups {
        for ranked in screened.best(wanted, keep, &among) {
            if !found.contains(&ranked.placements) {
                found.push(ranked.placements);
            }
        }
    }
    found
}
