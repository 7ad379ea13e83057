//! The search over the shelf: the best of the whole grid to first order, and of each group that an offer may come from; those are solved
//! in full, and a few that differ in kind are offered.

use super::best::Among;
use super::candidates::MOST_DEVICES;
use super::offer::{PlanAnswer, Reach};
use super::offers::{is_clear, offers};
use super::school::school_of;
use super::screened::Screened;
use super::solved::{Question, solved};
use super::would_do::would_do;
use crate::Patience;
use crate::damping::Placement;
use crate::target::{School, Wanted, assess};

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
    let searched = screened.grid_size(MOST_DEVICES);
    let mut plans = solved(question, &screened, finalists(&screened, wanted, question.patience));
    plans.retain(|plan| plan.assessment.misfit < now.misfit);
    if plans.is_empty() {
        return Some(answer(Reach::NothingHelps, plans, would_do(question, &now), searched));
    }
    let reach = if plans.iter().any(|plan| plan.assessment.fits) { Reach::Reached } else { Reach::NotReached };
    let beyond = if reach == Reach::NotReached { would_do(question, &now) } else { None };
    Some(answer(reach, offers(&plans, &now), beyond, searched))
}

/// The best of all, and the best of each group that an offer may come from.
fn finalists(screened: &Screened, wanted: &Wanted, patience: Patience) -> Vec<Vec<Placement>> {
    let of_school = |school: School| {
        move |placements: &[&Placement]| school_of(&placements.iter().map(|placement| **placement).collect::<Vec<_>>()) == school
    };
    let (open, dead) = (of_school(School::Open), of_school(School::Dead));
    let clear = |placements: &[&Placement]| placements.iter().all(|placement| is_clear(placement.device));
    let groups: [(usize, Among); 5] = [
        (24, Among { most: MOST_DEVICES, allow: &|_| true, turned: true, patience }),
        (8, Among { most: 1, allow: &|_| true, turned: true, patience }),
        (6, Among { most: 2, allow: &clear, turned: true, patience }),
        (3, Among { most: MOST_DEVICES, allow: &open, turned: true, patience }),
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
