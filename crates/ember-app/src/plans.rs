//! Plans for a drum: what the shelf offers, why a device is in none of them, the next small step, a test that teaches, a layout of one's own.

use crate::learning::{Learning, tests};
use crate::refusal::{NotNow, Refusal};
use crate::snapshot::PlanSnapshot;
use crate::views::PlanView;
use ember_core::Patience;
use ember_core::damping::{DeviceKind, Placement, Predictor, device_info};
use ember_core::drum::Drum;
use ember_core::plan::{
    Limits, Missing, NextStep, Offer, PassedOver, Plan, Question, Reach, Sounding, Step, TESTS_TO_LEARN, WouldDo, evaluate, improved,
    next_step, passed_over, plan, teaching,
};
use ember_core::target::{Assessment, Wanted};
use ember_store::MeasuredTreatment;
use ember_words::{Words, text, words};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The plans offered.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Plans {
    /// The take of the open drum that they start from.
    pub open_take_id: i64,
    /// What is wanted of the drum.
    pub wanted: Wanted,
    /// The open drum, held against what is wanted.
    pub now: Assessment,
    /// How near the shelf gets.
    pub reach: Reach,
    /// What is to be done before anything is put on, as a sentence; null where nothing is.
    pub first: Option<Words>,
    /// Two to four plans that differ in kind; empty where nothing is needed.
    pub plans: Vec<PlanView>,
    /// Where the shelf does not get there: what would.
    pub would_do: Option<WouldDoView>,
    /// Treatments on the grid of what is owned: none of them is better, to first order.
    pub searched: usize,
    /// The search took too long and was ended: something better may be on the shelf.
    pub cut_short: bool,
}

/// A plan that needs what is not on the shelf.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WouldDoView {
    /// The plan.
    pub plan: PlanView,
    /// What is missing, as a phrase: "a doughnut", "2 gel pads".
    pub missing: Vec<String>,
}

impl WouldDoView {
    fn new(beyond: WouldDo, drum: &Drum, wanted: &Wanted) -> Self {
        let phrase = |missing: &Missing| match (missing.count, device_info(missing.device)) {
            (1, info) => format!("a {}", info.name),
            (count, info) => format!("{count} {}", info.plural),
        };
        Self { missing: beyond.missing.iter().map(phrase).collect(), plan: PlanView::new(beyond.plan, drum, wanted) }
    }
}

/// Searches the shelf for what brings the drum to what is wanted.
pub fn plans(snapshot: &PlanSnapshot, learning: &Learning, patience: Patience) -> Result<Plans, Refusal> {
    let answer = snapshot.asked(learning, patience, plan)?;
    let (drum, wanted) = (snapshot.drum(), &answer.wanted);
    Ok(Plans {
        open_take_id: snapshot.now.measured_open()?.id,
        now: answer.now,
        reach: answer.reach,
        first: answer.first,
        plans: answer.plans.into_iter().map(|plan| PlanView::new(plan, drum, wanted)).collect(),
        would_do: answer.would_do.map(|beyond| WouldDoView::new(beyond, drum, wanted)),
        wanted: answer.wanted.clone(),
        searched: answer.searched,
        cut_short: answer.cut_short,
    })
}

/// Says of every device that is owned but in none of the plans why it is not.
pub fn why_not(snapshot: &PlanSnapshot, learning: &Learning, patience: Patience) -> Result<Vec<PassedOver>, Refusal> {
    snapshot.asked(learning, patience, |question| plan(question).and_then(|answer| passed_over(question, &answer.plans)))
}

/// One step on from a check, with the device that is added, taken away or exchanged spelled out.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct NextStepView {
    /// Which kind of step it is.
    pub step: Step,
    /// The step, as a sentence.
    pub sentence: Words,
    /// All that is on the drum after the step; null where there is no step, or nothing is left on it.
    pub plan: Option<PlanView>,
}

/// The one small thing that brings a checked drum nearer to the wish; none until there is something to go by.
pub fn next(snapshot: &PlanSnapshot, learning: &Learning, patience: Patience) -> Result<Option<NextStepView>, Refusal> {
    let now = &snapshot.now;
    let Some((on, found)) = now.on.as_ref().filter(|on| on.plan.front.is_none()).zip(now.found.as_ref()) else { return Ok(None) };
    let placements = &on.plan.placements;
    let found = Sounding { partials: &found.partials, profile: &found.summary.profile };
    let next = snapshot.asked(learning, patience, |question| next_step(question, placements, found))?;
    let sentence = next_words(&next, placements, snapshot.drum());
    Ok(Some(NextStepView { step: next.step, sentence, plan: next.plan.map(|plan| PlanView::new(plan, snapshot.drum(), &now.wanted)) }))
}

fn next_words(next: &NextStep, on: &[Placement], drum: &Drum) -> Words {
    let after = next.plan.as_ref().and_then(|plan| plan.placements.get(next.index));
    let leaves = match next.then.off.as_slice() {
        _ if next.then.fits => words!(" That should do."),
        [worst, ..] => words!(" Left over then: {}.", worst.sentence.clone().within()),
        [] => words!(" That is nearer."),
    };
    match (next.step, after, on.get(next.index)) {
        (Step::Nothing, ..) => words!("It is as wanted. Leave it."),
        (Step::Add, Some(added), _) => words!("Add a {}, {}: {}.{leaves}", added.name(), added.amount_name(), added.place(drum)),
        (Step::TakeAway, _, Some(gone)) => {
            let turned = next.plan.is_none() && on.iter().any(|placement| placement.device == DeviceKind::RodsTurned);
            words!("Take the {} off{}.{leaves}", gone.name(), if turned { text!(" and turn every rod back") } else { text!("") })
        }
        (Step::Exchange, Some(other), Some(was)) if was.device != other.device => {
            let place = other.place(drum);
            words!("Swap the {} for a {}, {}: {place}.{leaves}", was.name(), other.name(), other.amount_name())
        }
        (Step::Exchange, Some(other), Some(_)) => words!("Use the {} in another amount: {}.{leaves}", other.name(), other.amount_name()),
        _ => words!("No one step with what is on your shelf brings it nearer."),
    }
}

/// A test that teaches about a device.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Lesson {
    /// Which test it is, from 1 on, and after how many the device is known well enough.
    pub test: usize,
    /// After so many the device is known well enough.
    pub of: usize,
    /// The plan.
    pub plan: PlanView,
}

/// Where to lay `device` for the next test of its strength, tonight's limits left aside.
pub fn lesson(snapshot: &PlanSnapshot, device: DeviceKind, learning: &Learning, patience: Patience) -> Result<Lesson, Refusal> {
    let Some(item) = snapshot.shelf.iter().copied().find(|item| item.device == device) else {
        return Err(NotNow::OffTheShelf.into());
    };
    let drum = &snapshot.now.drum;
    let tests = tests(&snapshot.measured, &snapshot.shelf);
    let has = |test: &&&MeasuredTreatment| test.treatment.plan.placements.iter().any(|placement| placement.device == device);
    let so_far = tests.iter().filter(has).count();
    let here = tests.iter().filter(|test| test.drum.id == drum.id);
    let tested: Vec<Placement> = here.flat_map(|test| test.treatment.plan.placements.clone()).collect();
    let work = |question: &Question| {
        let free = Question { limits: Limits::default(), wanted: question.wanted.clone(), ..*question };
        Predictor::new(free.drum, free.partials)?;
        let placement = teaching(&free, item, &tested);
        Some(placement.and_then(|placement| evaluate(&free, Offer::Own, &[placement])))
    };
    let nothing_new = || NotNow::NothingNew { device: item.name().to_string(), drum: drum.drum.name.clone() };
    let plan = snapshot.asked(learning, patience, work)?.ok_or_else(nothing_new)?;
    let (test, of) = (so_far + 1, TESTS_TO_LEARN.max(so_far + 1));
    Ok(Lesson { test, of, plan: PlanView::new(plan, &drum.drum, &snapshot.now.wanted) })
}

/// Devices laid out by hand.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Layout {
    /// What lies where.
    pub placements: Vec<Placement>,
    /// Whether places and amounts may be changed for the better.
    #[serde(default)]
    pub improve: bool,
}

/// Works out what a layout should do; with `improve`, the layout near it that serves the wish better.
pub fn laid_out(snapshot: &PlanSnapshot, layout: Layout, learning: &Learning, patience: Patience) -> Result<PlanView, Refusal> {
    let placements = snapshot.laid(layout.placements)?;
    let work = |question: &Question| match layout.improve {
        true => improved(question, &placements),
        false => evaluate(question, Offer::Own, &placements),
    };
    let plan = snapshot.asked(learning, patience, work)?;
    Ok(PlanView::new(plan, snapshot.drum(), &snapshot.now.wanted))
}

/// What a plan that is carried out should do: worked out here, and not taken from whoever says so.
pub fn promised(
    snapshot: &PlanSnapshot,
    offer: Offer,
    placements: Vec<Placement>,
    learning: &Learning,
    patience: Patience,
) -> Result<Plan, Refusal> {
    let placements = snapshot.laid(placements)?;
    snapshot.asked(learning, patience, |question| evaluate(question, offer, &placements))
}
