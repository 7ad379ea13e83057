//! The search over the shelf: the best of the whole grid to first order, and of each group that an offer may come from; those are solved
//! in full, and a few that differ in kind are offered.

use super::best::Among;
use super::candidates::most_offered;
use super::offer::{Plan, PlanAnswer, Reach};
use super::offers::{is_clear, offers};
use super::school::school_of;
use super::screened::Screened;
use super::solved::{Question, solved};
use super::would_do::would_do;
use crate::Patience;
use crate::damping::{DeviceKind, Placement};
use crate::drum::Drum;
use crate::target::{Aspect, Assessment, School, Wanted, assess};
use ember_words::{Words, words};
use rayon::prelude::*;

/// Finds a few treatments that differ in kind. `None` where the open drum's body is not known.
pub fn plan(question: &Question) -> Option<PlanAnswer> {
    let wanted = &question.wanted;
    let now = assess(question.partials, question.profile, wanted, None);
    let answer = |reach, plans, would_do, searched| PlanAnswer {
        wanted: wanted.clone(),
        first: empty_it_first(question.drum, &now),
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
    let most = most_offered(question.drum, &question.limits);
    let searched = screened.grid_size(most);
    let mut plans = solved(question, &screened, finalists(&screened, wanted, (most, question.patience)));
    plans.retain(|plan| plan.assessment.misfit < now.misfit);
    let plans = least_first(question, &screened, plans);
    if plans.is_empty() {
        return Some(answer(Reach::NothingHelps, plans, would_do(question, &now), searched));
    }
    let reach = if plans.iter().any(|plan| plan.assessment.fits) { Reach::Reached } else { Reach::NotReached };
    let beyond = if reach == Reach::NotReached { would_do(question, &now) } else { None };
    let mut offered = offers(&plans, &now);
    led_by_school(&mut offered, wanted.school_chosen);
    Some(answer(reach, offered, beyond, searched))
}

/// What is in the way of a drum that is too short as it is: nothing that is put on makes it longer, but what lies in it can come out.
fn empty_it_first(drum: &Drum, now: &Assessment) -> Option<Words> {
    let inside = drum.inside.filter(|_| now.off.iter().any(|verdict| verdict.aspect == Aspect::BodyShort))?;
    Some(words!("It is too short with {} in it. Take that out first, say so in the drum, and hit it again.", inside.words()))
}

/// One more device is worth its while where it is heard, in just noticed steps.
const WORTH_A_DEVICE: f64 = 1.0;

/// `plans` in their order, each without the devices that are not worth a heard step: least first, as drum techs have it (common practice, no published
/// source). What comes to the same then stands once.
fn least_first(question: &Question, screened: &Screened, plans: Vec<Plan>) -> Vec<Plan> {
    let least = |plan: Plan| {
        let less = without_idlers(question, screened, &plan);
        // Few plans have an idler: only those are worked out again, with their doubt.
        less.map_or(Some(plan), |less| solved(question, screened, vec![less]).pop())
    };
    let mut kept: Vec<Plan> = Vec::new();
    for plan in plans.into_par_iter().filter_map(least).collect::<Vec<_>>() {
        if kept.iter().all(|other| other.placements != plan.placements) {
            kept.push(plan);
        }
    }
    kept
}

/// Puts offers of the school that the player `chose` first, what fits before what does not. Each keeps the title under which it was offered: which
/// comes closest is no matter of schools.
fn led_by_school(offered: &mut [Plan], chose: Option<School>) {
    if let Some(chosen) = chose {
        offered.sort_by_key(|plan| (!plan.assessment.fits, school_of(&plan.placements) != chosen));
    }
}

/// What is left of `plan` without the devices that can go without being missed; none where all are needed.
fn without_idlers(question: &Question, screened: &Screened, plan: &Plan) -> Option<Vec<Placement>> {
    // All rods are turned for what the devices that are left do to the note: which turn that is, is asked again at the end.
    let mut laid: Vec<Placement> = plan.placements.iter().filter(|placement| placement.device != DeviceKind::RodsTurned).copied().collect();
    let (all, open) = (laid.len(), question.open());
    let mut now = (plan.assessment.misfit, plan.assessment.fits);
    let judged = |placements: &[Placement]| {
        let expected = screened.expect_without_doubt(&open, placements);
        let found = assess(&expected.partials, &expected.profile, &question.wanted, Some(expected.attack_lost_db));
        (found.misfit, found.fits)
    };
    while laid.len() > 1 {
        let without = |at: usize| -> Vec<Placement> {
            laid.iter().enumerate().filter(|(other, _)| *other != at).map(|(_, placement)| *placement).collect()
        };
        let fewer = (0..laid.len()).map(without).map(|less| (judged(&less), less));
        let nearest = fewer.min_by(|a, b| a.0.0.total_cmp(&b.0.0));
        match nearest.filter(|((misfit, fits), _)| *misfit <= now.0 + WORTH_A_DEVICE && *fits >= now.1) {
            Some((found, less)) => (now, laid) = (found, less),
            None => break,
        }
    }
    (laid.len() < all).then_some(laid)
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
        (6, Among { most: most.min(2), allow: &clear, turned: true, patience }),
        (3, Among { most, allow: &open, turned: true, patience }),
        (4, Among { most: most.min(2), allow: &dead, turned: true, patience }),
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
