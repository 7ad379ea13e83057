//! Which of many plans are offered: a few that differ in kind.

use super::candidates::devices;
use super::offer::{Offer, Plan};
use super::school::school_of;
use super::weight::{attack, effort};
use crate::damping::{DeviceKind, Placement, Toll};
use crate::target::{Assessment, School};
use ember_words::{Text, Words, text, words};

/// Most plans that are offered for what they are, and with those that other schools would choose.
const MOST: usize = 3;
const MOST_WITH_SCHOOLS: usize = 4;
/// A school's own way is offered where it leaves no more than this part of what is off.
const LEFT_BY_A_SCHOOL: f64 = 0.6;

/// Whether nothing lies where brushes sweep or sticks land.
pub(super) fn is_clear(placement: &Placement) -> bool {
    !placement.tolls().contains(&Toll::InTheWay)
}

/// Kinds of devices: two plans that agree in these are shades of the same, whatever the amounts.
fn ingredients(plan: &Plan) -> Vec<DeviceKind> {
    let mut kinds: Vec<DeviceKind> = plan.placements.iter().map(|p| p.device).collect();
    kinds.sort();
    kinds
}

/// Plans that differ in kind, from `plans` in order of cost.
pub(super) fn offers(plans: &[Plan], now: &Assessment) -> Vec<Plan> {
    let works: Vec<&Plan> = plans.iter().filter(|plan| plan.assessment.fits).collect();
    let nearest = plans.iter().map(|plan| plan.assessment.misfit).fold(f64::INFINITY, f64::min);
    // Where nothing fits, what comes within a few steps of the nearest may still be offered.
    let good: Vec<&Plan> =
        if works.is_empty() { plans.iter().filter(|plan| plan.assessment.misfit < nearest + 4.0).collect() } else { works };
    let least = good
        .iter()
        .min_by(|a, b| (effort(&a.placements) + attack(&a.placements)).total_cmp(&(effort(&b.placements) + attack(&b.placements))));
    let closest = good.first();
    let surest = good.iter().min_by(|a, b| a.worst_misfit.total_cmp(&b.worst_misfit));
    let clear = good.iter().find(|plan| plan.placements.iter().all(is_clear));
    let wishes = [(Offer::Closest, closest), (Offer::Least, least), (Offer::ClearSurface, clear), (Offer::Surest, surest)];
    let mut chosen: Vec<Plan> = Vec::new();
    let choose = |chosen: &mut Vec<Plan>, offer: Offer, plan: &Plan, most: usize| {
        if chosen.len() < most && chosen.iter().all(|other| ingredients(other) != ingredients(plan)) {
            chosen.push(offered(offer, plan, now));
        }
    };
    for (offer, plan) in wishes.into_iter().filter_map(|(offer, plan)| plan.map(|plan| (offer, *plan))) {
        choose(&mut chosen, offer, plan, MOST);
    }
    // What other schools would do is offered beside them, where it does enough.
    let taken: Vec<School> = chosen.iter().map(|plan| school_of(&plan.placements)).collect();
    for (school, offer) in [(School::Open, Offer::OpenWay), (School::Controlled, Offer::ControlledWay), (School::Dead, Offer::DeadWay)] {
        let enough = |plan: &&Plan| plan.assessment.fits || plan.assessment.misfit <= LEFT_BY_A_SCHOOL * now.misfit;
        let own = plans.iter().filter(enough).find(|plan| school_of(&plan.placements) == school);
        if let Some(plan) = own.filter(|_| !taken.contains(&school)) {
            choose(&mut chosen, offer, plan, MOST_WITH_SCHOOLS);
        }
    }
    // One way only is a poor offer: the next cheapest of another kind stands beside it.
    for plan in plans {
        choose(&mut chosen, Offer::Another, plan, 2);
    }
    chosen
}

pub(super) fn offered(offer: Offer, plan: &Plan, now: &Assessment) -> Plan {
    Plan { offer, title: offer.title().into(), why: why(offer, plan, now), ..plan.clone() }
}

fn why(offer: Offer, plan: &Plan, now: &Assessment) -> Words {
    let gets = match plan.assessment.off.first() {
        None => words!("It should bring the drum to what is wanted"),
        Some(_) if plan.assessment.fits => words!("It should come within what is noticed of the wish"),
        Some(rest) => words!("{}; left over: {}", how_much(1.0 - plan.assessment.misfit / now.misfit), rest.sentence.clone().within()),
    };
    let things = devices(&plan.placements);
    let point = match offer {
        Offer::Least => text!("nothing smaller does"),
        Offer::Closest => text!("counting what it takes away and the effort, nothing on the shelf comes nearer by a step that is heard"),
        Offer::Surest => text!("it depends least on how strong the devices really are"),
        Offer::Another => text!("the next best that is of another kind"),
        Offer::ClearSurface => text!("brushes and sticks find nothing in their way"),
        Offer::OpenWay if things == 0 => text!("tuning alone, so that the drum still sings"),
        Offer::OpenWay if things == 1 => text!("nothing but a small thing at the edge, so that the drum still sings"),
        Offer::OpenWay => text!("nothing but small things at the edge, so that the drum still sings"),
        Offer::ControlledWay if things == 1 => text!("one thing, the drum's own tone kept"),
        Offer::ControlledWay => text!("little enough that the drum keeps its own tone"),
        Offer::DeadWay => text!("cloth or a second skin, as for close microphones"),
        Offer::WouldDo => text!("it needs what is not on your shelf"),
        Offer::Own | Offer::FrontTrial => return words!("{gets}."),
    };
    words!("{gets}; {point}.")
}

/// How much of what is off is taken away (`part` of it), as it is said.
fn how_much(part: f64) -> Text {
    match part {
        part if part > 0.85 => text!("It does nearly all of it"),
        part if part > 0.6 => text!("It does most of it"),
        part if part > 0.35 => text!("It does about half of it"),
        _ => text!("It does a little of it"),
    }
}
