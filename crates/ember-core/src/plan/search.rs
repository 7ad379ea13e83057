//! Exhaustive search over one and two devices: every one is screened to first order, the best are solved in full.

use super::candidates::{Limits, ShelfItem};
use super::offer::{Offer, Plan, PlanAnswer, Reach};
use super::screened::{Candidate, Screened};
use super::weight::{Prospect, attack, effort, seconds_on};
use crate::damping::{DeviceKind, Expectation, Grip, Open, Placement, Predictor, Strengths, device_info};
use crate::decay::{DecayProfile, Partial};
use crate::drum::Drum;
use crate::target::{Assessment, Wanted, assess};
use rayon::prelude::*;

/// Screened treatments that are solved in full.
const FINALISTS: usize = 36;
/// Further finalists from each group that an offer is drawn from.
const FINALISTS_A_GROUP: usize = 8;

/// What is asked.
pub struct Question<'a> {
    pub drum: &'a Drum,
    /// Combined partials and profile of the open drum.
    pub partials: &'a [Partial],
    pub profile: &'a DecayProfile,
    pub wanted: Wanted,
    pub shelf: &'a [ShelfItem],
    pub limits: Limits,
    /// How strong the devices are, as learned.
    pub strengths: &'a Strengths,
}

/// Finds two or three treatments. `None` where the open drum's body is not known.
pub fn plan(question: &Question) -> Option<PlanAnswer> {
    let wanted = &question.wanted;
    let now = assess(question.partials, question.profile, wanted, None);
    let answer = |reach, plans, searched| PlanAnswer { wanted: wanted.clone(), now: now.clone(), reach, plans, searched };
    if now.fits {
        return Some(answer(Reach::NothingNeeded, Vec::new(), 0));
    }
    let screened = Screened::new(question.drum, question.partials, question.shelf, &question.limits, question.strengths)?;
    if screened.candidates.is_empty() {
        return Some(answer(Reach::NothingToUse, Vec::new(), 0));
    }
    let open = Open { partials: question.partials, profile: question.profile };
    let mut plans: Vec<Plan> = finalists(&screened, wanted)
        .par_iter()
        .map(|candidate| weigh(candidate.placements.clone(), screened.expect(&open, candidate), wanted))
        .collect();
    plans.retain(|plan| plan.assessment.misfit < now.misfit);
    if plans.is_empty() {
        return Some(answer(Reach::NothingHelps, plans, screened.candidates.len()));
    }
    plans.sort_by(|a, b| a.cost.total_cmp(&b.cost));
    let reach = if plans.iter().any(|plan| plan.assessment.fits) { Reach::Reached } else { Reach::NotReached };
    Some(answer(reach, offers(&plans, &now), screened.candidates.len()))
}

/// The one plan that `placements` make, offered as `offer`. `None` where the open drum's body is not known.
pub fn evaluate(question: &Question, offer: Offer, placements: &[Placement]) -> Option<Plan> {
    let predictor = Predictor::new(question.drum, question.partials)?;
    let grips: Vec<Grip> = placements.iter().map(|placement| predictor.grip_known(placement, question.strengths)).collect();
    let open = Open { partials: question.partials, profile: question.profile };
    let expected = predictor.expect(&open, placements, &grips.iter().collect::<Vec<_>>());
    let plan = weigh(placements.to_vec(), expected, &question.wanted);
    let now = assess(question.partials, question.profile, &question.wanted, None);
    Some(Plan { offer, title: offer.title().into(), why: why(offer, &plan, &now), ..plan })
}

/// The best of all, and the best of each group that an offer may come from.
fn finalists<'a>(screened: &'a Screened, wanted: &Wanted) -> Vec<&'a Candidate> {
    let mut ranked: Vec<(f64, &Candidate)> =
        screened.candidates.par_iter().map(|candidate| (screened.cost(candidate, wanted), candidate)).collect();
    ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut taken = [0usize; 3];
    ranked.retain(|(_, candidate)| {
        let groups = [true, candidate.placements.len() == 1, is_clear(&candidate.placements)];
        let wanted = [FINALISTS, FINALISTS_A_GROUP, FINALISTS_A_GROUP];
        let keep = (0..3).any(|i| groups[i] && taken[i] < wanted[i]);
        for i in 0..3 {
            taken[i] += usize::from(keep && groups[i]);
        }
        keep
    });
    ranked.into_iter().map(|(_, candidate)| candidate).collect()
}

fn weigh(placements: Vec<Placement>, expected: Expectation, wanted: &Wanted) -> Plan {
    let assessment = assess(&expected.partials, &expected.profile, wanted, Some(expected.attack_lost_db));
    let prospect = Prospect::new(&expected);
    let (worst_misfit, cost) = (prospect.worst_misfit(wanted), prospect.cost(&placements, wanted) + effort(&placements));
    let seconds = seconds_on(&placements);
    Plan { offer: Offer::Closest, title: String::new(), why: String::new(), placements, expected, assessment, worst_misfit, seconds, cost }
}

fn is_clear(placements: &[Placement]) -> bool {
    placements.iter().all(|p| !device_info(p.device).in_the_way)
}

/// Kinds of devices: two plans that agree in these are shades of the same, whatever the amounts.
fn ingredients(plan: &Plan) -> Vec<DeviceKind> {
    let mut kinds: Vec<DeviceKind> = plan.placements.iter().map(|p| p.device).collect();
    kinds.sort();
    kinds
}

/// At most three plans that differ in kind, from `plans` in order of cost.
fn offers(plans: &[Plan], now: &Assessment) -> Vec<Plan> {
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
    let clear = good.iter().find(|plan| is_clear(&plan.placements));
    let wishes = [(Offer::Closest, closest), (Offer::Least, least), (Offer::ClearSurface, clear), (Offer::Surest, surest)];
    let mut chosen: Vec<Plan> = Vec::new();
    for (offer, plan) in wishes.into_iter().filter_map(|(offer, plan)| plan.map(|plan| (offer, *plan))) {
        if chosen.len() < 3 && chosen.iter().all(|other| ingredients(other) != ingredients(plan)) {
            chosen.push(Plan { offer, title: offer.title().into(), why: why(offer, plan, now), ..plan.clone() });
        }
    }
    // One way only is a poor offer: the next cheapest of another kind stands beside it.
    for plan in plans {
        if chosen.len() < 2 && chosen.iter().all(|other| ingredients(other) != ingredients(plan)) {
            chosen.push(Plan {
                offer: Offer::Another,
                title: Offer::Another.title().into(),
                why: why(Offer::Another, plan, now),
                ..plan.clone()
            });
        }
    }
    chosen
}

fn why(offer: Offer, plan: &Plan, now: &Assessment) -> String {
    let gets = match plan.assessment.off.first() {
        None => "It should bring the drum to what is wanted".to_string(),
        Some(_) if plan.assessment.fits => "It should come within what is noticed of the wish".to_string(),
        Some(rest) => format!(
            "It takes {:.0} % of the misfit away; left over: {}",
            100.0 * (1.0 - plan.assessment.misfit / now.misfit).max(0.0),
            in_sentence(&rest.sentence)
        ),
    };
    let point = match offer {
        Offer::Least => "nothing smaller does",
        Offer::Closest => "counting what it takes away and the effort, nothing on the shelf comes nearer",
        Offer::Surest => "it depends least on how strong the devices really are",
        Offer::Another => "the next best that is of another kind",
        Offer::ClearSurface => "brushes and sticks find nothing in their way",
        Offer::Own => return format!("{gets}."),
    };
    format!("{gets}; {point}.")
}

/// A sentence of its own as part of another.
fn in_sentence(sentence: &str) -> String {
    let mut letters = sentence.trim_end_matches('.').chars();
    letters.next().map(|first| first.to_lowercase().chain(letters).collect()).unwrap_or_default()
}
