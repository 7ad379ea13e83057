//! Plans for a drum, and the treatment that is on it.

use super::extract::{Body, Path, Query};
use super::{open_take, wanted_of};
use crate::learning::{Measured, as_on_shelf, tests};
use crate::problem::Problem;
use crate::state::AppState;
use crate::views::PlanView;
use axum::Json;
use axum::extract::State;
use ember_core::Patience;
use ember_core::damping::{DeviceKind, Placement, Predictor, Strengths, device_info};
use ember_core::drum::Drum;
use ember_core::plan::{
    Limits, Missing, NextStep, Offer, PassedOver, Plan, Question, Reach, ShelfItem, Sounding, Step, TESTS_TO_LEARN, WouldDo, evaluate,
    improved, in_sentence, next_step, passed_over, plan, teaching, validate_layout,
};
use ember_core::target::{Assessment, Wanted};
use ember_store::{KeptDrum, KeptTake, MeasuredTreatment, Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

pub(super) const NOT_MEASURED: &str = "Measure the open drum first: a plan starts from how it sounds without anything on it.";
pub(super) const NO_BODY: &str = "No clear body was found in the open drum's strikes. Measure it again, closer to the head.";

/// The plans offered.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Plans {
    /// The take of the open drum that they start from.
    pub open_take_id: i64,
    pub wanted: Wanted,
    /// The open drum, held against what is wanted.
    pub now: Assessment,
    pub reach: Reach,
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

/// All that a planning question needs, out of the store.
pub(super) struct Asked {
    pub drum: KeptDrum,
    limits: Limits,
    pub wanted: Wanted,
    open: Option<KeptTake>,
    shelf: Vec<ShelfItem>,
    measured: Measured,
}

impl Asked {
    fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let (drum, scene) = (store.drum(drum_id)?, store.scene()?);
        let wanted = wanted_of(store, &scene, &drum)?;
        // Other plans for a treated drum start from where its treatment started from.
        let shelf = store.shelf()?;
        Ok(Self { measured: store.device_tests()?, wanted, shelf, open: open_take(store, drum_id)?, drum, limits: scene.tonight.limits })
    }

    fn question<'a>(&'a self, open: &'a KeptTake, strengths: &'a Strengths, patience: Patience<'a>) -> Question<'a> {
        Question {
            drum: &self.drum.drum,
            partials: &open.partials,
            profile: &open.summary.profile,
            wanted: self.wanted.clone(),
            shelf: &self.shelf,
            limits: self.limits,
            strengths,
            patience,
        }
    }
}

/// Searches the shelf for what brings the drum to what is wanted.
#[utoipa::path(get, path = "/drums/{id}/plans", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Plans), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_plans(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Plans>, Problem> {
    let (answer, open_take_id, asked) = asked_about(&state, id, plan).await?;
    Ok(Json(Plans {
        open_take_id,
        now: answer.now,
        reach: answer.reach,
        plans: answer.plans.into_iter().map(|plan| PlanView::new(plan, &asked.drum.drum, &answer.wanted)).collect(),
        would_do: answer.would_do.map(|beyond| WouldDoView::new(beyond, &asked.drum.drum, &answer.wanted)),
        wanted: answer.wanted,
        searched: answer.searched,
        cut_short: answer.cut_short,
    }))
}

/// Says of every device that is owned but in none of the plans why it is not.
#[utoipa::path(get, path = "/drums/{id}/passed-over", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<PassedOver>), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_passed_over(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Vec<PassedOver>>, Problem> {
    let work = |question: &Question| plan(question).and_then(|answer| passed_over(question, &answer.plans));
    let (found, ..) = asked_about(&state, id, work).await?;
    Ok(Json(found))
}

/// One step on from a check, with the device that is added, taken away or exchanged spelled out.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct NextStepView {
    pub step: Step,
    /// The step, as a sentence.
    pub sentence: String,
    /// All that is on the drum after the step; null where there is no step, or nothing is left on it.
    pub plan: Option<PlanView>,
}

/// The one small thing that brings a checked drum nearer to the wish; null until there is something to go by.
#[utoipa::path(get, path = "/drums/{id}/next-step", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Option<NextStepView>), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_next_step(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Option<NextStepView>>, Problem> {
    let checked = state
        .store(move |store| {
            let on = store.treatment_on(id)?;
            let found = on.as_ref().map(|on| store.newest_take(id, Some(on.id))).transpose()?.flatten();
            Ok(on.zip(found))
        })
        .await?;
    let Some((on, found)) = checked.filter(|(on, _)| on.plan.front.is_none()) else { return Ok(Json(None)) };
    let placements = on.plan.placements.clone();
    let work = move |question: &Question| {
        next_step(question, &placements, Sounding { partials: &found.partials, profile: &found.summary.profile })
    };
    let (next, _, Asked { drum, wanted, .. }) = asked_about(&state, id, work).await?;
    let sentence = next_words(&next, &on.plan.placements, &drum.drum);
    Ok(Json(Some(NextStepView { step: next.step, sentence, plan: next.plan.map(|plan| PlanView::new(plan, &drum.drum, &wanted)) })))
}

fn next_words(next: &NextStep, on: &[Placement], drum: &Drum) -> String {
    let after = next.plan.as_ref().and_then(|plan| plan.placements.get(next.index));
    let leaves = match next.then.off.as_slice() {
        _ if next.then.fits => " That should do.".to_string(),
        [worst, ..] => format!(" Left over then: {}.", in_sentence(&worst.sentence)),
        [] => " That is nearer.".to_string(),
    };
    match (next.step, after, on.get(next.index)) {
        (Step::Nothing, ..) => "It is as wanted. Leave it.".into(),
        (Step::Add, Some(added), _) => format!("Add a {}, {}: {}.{leaves}", added.name(), added.amount_name(), added.place(drum)),
        (Step::TakeAway, _, Some(gone)) => {
            let turned = next.plan.is_none() && on.iter().any(|placement| placement.device == DeviceKind::RodsTurned);
            format!("Take the {} off{}.{leaves}", gone.name(), if turned { " and turn every rod back" } else { "" })
        }
        (Step::Exchange, Some(other), Some(_)) => format!("Use the {} in another amount: {}.{leaves}", other.name(), other.amount_name()),
        _ => "No one step with what is on your shelf brings it nearer.".into(),
    }
}

/// What `work` makes of the open drum with tonight's wish, and the take that it starts from.
pub(super) async fn asked_about<T: Send + 'static>(
    state: &AppState,
    id: i64,
    work: impl FnOnce(&Question) -> Option<T> + Send + 'static,
) -> Result<(T, i64, Asked), Problem> {
    let asked = state.store(move |store| Asked::read(store, id)).await?;
    let Some(open) = asked.open.clone() else { return Err(Problem::conflict(NOT_MEASURED)) };
    let (open_take_id, learning) = (open.id, state.learning.clone());
    let work = move |patience: Patience| {
        let learned = learning.of_tests(&asked.measured, &asked.shelf);
        (work(&asked.question(&open, &learned.on(&asked.drum.drum), patience)), asked)
    };
    let (found, asked) = state.compute(work).await?;
    Ok((found.ok_or_else(|| Problem::conflict(NO_BODY))?, open_take_id, asked))
}

/// Which device is to be learned.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
pub struct Taught {
    device: DeviceKind,
}

/// A test that teaches about a device.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Lesson {
    /// Which test it is, from 1 on, and after how many the device is known well enough.
    pub test: usize,
    pub of: usize,
    pub plan: PlanView,
}

/// Where to lay a device for the next test of its strength, tonight's limits left aside.
#[utoipa::path(get, path = "/drums/{id}/lesson", tag = "plans", params(("id" = i64, Path), Taught),
    responses((status = 200, body = Lesson), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured, or there is nothing left to try on it.", body = Problem,
    content_type = "application/problem+json")))]
pub async fn get_lesson(State(state): State<AppState>, Path(id): Path<i64>, Query(taught): Query<Taught>) -> Result<Json<Lesson>, Problem> {
    let work = move |store: &mut Store| {
        let shelf = store.shelf()?;
        let item = shelf.iter().copied().find(|item| item.device == taught.device);
        let measured = store.device_tests()?;
        let tests = tests(&measured, &shelf);
        let has = |test: &&&MeasuredTreatment| test.treatment.plan.placements.iter().any(|placement| placement.device == taught.device);
        let so_far = tests.iter().filter(has).count();
        let here = tests.iter().filter(|test| test.drum.id == id);
        Ok((item, so_far, here.flat_map(|test| test.treatment.plan.placements.clone()).collect::<Vec<Placement>>()))
    };
    let (item, so_far, tested) = state.store(work).await?;
    let Some(item) = item else { return Err(Problem::conflict("It is not on your shelf any more.")) };
    let work = move |question: &Question| {
        let free = Question { limits: Limits::default(), wanted: question.wanted.clone(), ..*question };
        Predictor::new(free.drum, free.partials)?;
        let placement = teaching(&free, item, &tested);
        Some(placement.and_then(|placement| evaluate(&free, Offer::Own, &[placement])))
    };
    let (found, _, Asked { drum, wanted, .. }) = asked_about(&state, id, work).await?;
    let plan = found
        .ok_or_else(|| Problem::conflict(format!("There is nothing new to try with the {} on the {}.", item.name(), drum.drum.name)))?;
    let (test, of) = (so_far + 1, TESTS_TO_LEARN.max(so_far + 1));
    Ok(Json(Lesson { test, of, plan: PlanView::new(plan, &drum.drum, &wanted) }))
}

/// Devices laid out by hand.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Layout {
    pub placements: Vec<Placement>,
    /// Whether places and amounts may be changed for the better.
    #[serde(default)]
    pub improve: bool,
}

/// Works out what a layout should do; it is kept nowhere. With `improve`, the layout near it that serves the wish better.
#[utoipa::path(post, path = "/drums/{id}/layouts", tag = "plans", request_body = Layout, params(("id" = i64, Path)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn lay_out(State(state): State<AppState>, Path(id): Path<i64>, Body(layout): Body<Layout>) -> Result<Json<PlanView>, Problem> {
    let work = move |question: &Question, placements: &[Placement]| {
        if layout.improve { improved(question, placements) } else { evaluate(question, Offer::Own, placements) }
    };
    let (found, _, asked) = worked_out(&state, id, layout.placements, work).await?;
    Ok(Json(PlanView::new(found, &asked.drum.drum, &asked.wanted)))
}

/// What `work` makes of placements that can lie on the drum together, and the take that it starts from.
pub(super) async fn worked_out(
    state: &AppState,
    id: i64,
    placements: Vec<Placement>,
    work: impl FnOnce(&Question, &[Placement]) -> Option<Plan> + Send + 'static,
) -> Result<(Plan, i64, Asked), Problem> {
    let (drum, shelf) = state.store(move |store| Ok((store.drum(id)?, store.shelf()?))).await?;
    let placements = as_on_shelf(placements, &shelf);
    validate_layout(&drum.drum, &placements).map_err(|error| Problem::unprocessable(error.to_string()))?;
    asked_about(state, id, move |question| work(question, &placements)).await
}
