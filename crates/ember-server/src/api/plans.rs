//! Plans for a drum, and the treatment that is on it.

use super::extract::{Body, Path};
use super::{open_take, wanted_of};
use crate::learning::{tests, trials};
use crate::problem::Problem;
use crate::state::{AppState, blocking, now_ms};
use crate::views::{PlanView, TreatmentView};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use ember_core::damping::{DeviceTrial, Placement, Strengths};
use ember_core::plan::{Limits, Offer, Plan, Question, Reach, ShelfItem, evaluate, improved, plan, validate_layout};
use ember_core::target::{Assessment, Wanted};
use ember_store::{KeptDrum, KeptTake, Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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
    /// Two or three plans that differ in kind; empty where nothing is needed.
    pub plans: Vec<PlanView>,
    /// Treatments looked at.
    pub searched: usize,
}

/// All that a planning question needs, out of the store.
struct Asked {
    drum: KeptDrum,
    limits: Limits,
    wanted: Wanted,
    open: Option<KeptTake>,
    shelf: Vec<ShelfItem>,
    trials: Vec<DeviceTrial>,
}

impl Asked {
    fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let (drum, scene) = (store.drum(drum_id)?, store.scene()?);
        let wanted = wanted_of(store, &scene, &drum)?;
        // Other plans for a treated drum start from where its treatment started from.
        let trials = trials(&tests(store.measured_treatments()?));
        Ok(Self { trials, wanted, shelf: store.shelf()?, open: open_take(store, drum_id)?, drum, limits: scene.tonight.limits })
    }

    fn question<'a>(&'a self, open: &'a KeptTake, strengths: &'a Strengths) -> Question<'a> {
        Question {
            drum: &self.drum.drum,
            partials: &open.partials,
            profile: &open.summary.profile,
            wanted: self.wanted.clone(),
            shelf: &self.shelf,
            limits: self.limits,
            strengths,
        }
    }
}

/// Searches the shelf for what brings the drum to what is wanted.
#[utoipa::path(get, path = "/drums/{id}/plans", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Plans), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_plans(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Plans>, Problem> {
    let asked = state.store(move |store| Asked::read(store, id)).await?;
    let Some(open) = asked.open.clone() else { return Err(Problem::conflict(NOT_MEASURED)) };
    let (answer, asked, open) = blocking(move || {
        let learned = state.learning.of(&asked.trials);
        (plan(&asked.question(&open, &learned.strengths)), asked, open)
    })
    .await?;
    let answer = answer.ok_or_else(|| Problem::conflict(NO_BODY))?;
    Ok(Json(Plans {
        open_take_id: open.id,
        wanted: answer.wanted,
        now: answer.now,
        reach: answer.reach,
        plans: answer.plans.into_iter().map(|plan| PlanView::new(plan, &asked.drum.drum)).collect(),
        searched: answer.searched,
    }))
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
    let asked = state.store(move |store| Asked::read(store, id)).await?;
    let work = move |question: &Question, placements: &[Placement]| {
        if layout.improve { improved(question, placements) } else { evaluate(question, Offer::Own, placements) }
    };
    let (found, _, asked) = worked_out(&state, asked, layout.placements, work).await?;
    Ok(Json(PlanView::new(found, &asked.drum.drum)))
}

/// What `work` makes of placements that can lie on the drum together, and the take that it starts from.
async fn worked_out(
    state: &AppState,
    asked: Asked,
    placements: Vec<Placement>,
    work: impl FnOnce(&Question, &[Placement]) -> Option<Plan> + Send + 'static,
) -> Result<(Plan, i64, Asked), Problem> {
    validate_layout(&asked.drum.drum, &placements).map_err(|error| Problem::unprocessable(error.to_string()))?;
    let Some(open) = asked.open.clone() else { return Err(Problem::conflict(NOT_MEASURED)) };
    let (open_take_id, learning) = (open.id, state.learning.clone());
    let (found, asked) = blocking(move || {
        let learned = learning.of(&asked.trials);
        let question = asked.question(&open, &learned.strengths);
        (work(&question, &placements), asked)
    })
    .await?;
    Ok((found.ok_or_else(|| Problem::conflict(NO_BODY))?, open_take_id, asked))
}

/// A plan that was carried out.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct NewTreatment {
    pub offer: Offer,
    pub placements: Vec<Placement>,
}

/// Says that a plan was carried out. What it should do is worked out here, not taken from the page.
#[utoipa::path(post, path = "/drums/{id}/treatments", tag = "plans", request_body = NewTreatment, params(("id" = i64, Path)),
    responses((status = 201, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn put_on(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(new): Body<NewTreatment>,
) -> Result<(StatusCode, Json<TreatmentView>), Problem> {
    let asked = state.store(move |store| Asked::read(store, id)).await?;
    let (found, open_take_id, asked) =
        worked_out(&state, asked, new.placements, move |question, placements| evaluate(question, new.offer, placements)).await?;
    let kept = state.store(move |store| store.put_on(id, open_take_id, &found, now_ms())).await?;
    Ok((StatusCode::CREATED, Json(TreatmentView::new(kept, &asked.drum.drum, &asked.wanted))))
}

/// Whether a treatment is on its drum.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct TreatmentChange {
    /// False takes it off, true puts it back on.
    pub on: bool,
}

/// Takes a treatment off, or puts it back on.
#[utoipa::path(patch, path = "/treatments/{id}", tag = "plans", request_body = TreatmentChange, params(("id" = i64, Path)),
    responses((status = 200, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "Something else is on the drum.", body = Problem, content_type = "application/problem+json")))]
pub async fn change_treatment(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(change): Body<TreatmentChange>,
) -> Result<Json<TreatmentView>, Problem> {
    let work = move |store: &mut Store| {
        let kept = if change.on { store.put_back(id)? } else { store.take_off(id, now_ms())? };
        let drum = store.drum(kept.drum_id)?;
        let wanted = wanted_of(store, &store.scene()?, &drum)?;
        Ok(TreatmentView::new(kept, &drum.drum, &wanted))
    };
    state.store(work).await.map(Json)
}
