//! Trials of a drum's other end, and what it is changed to for good.

use super::extract::{Body, Path};
use super::placed::checked;
use super::plans::asked_about;
use crate::learning::{as_on_shelf, front_trials, opening};
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use crate::views::TreatmentView;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use ember_core::damping::Placement;
use ember_core::drum::Front;
use ember_core::kick::FrontPredictor;
use ember_core::plan::{Question, front_trial};
use ember_store::{HeadChange, StoreError};
use serde::Deserialize;
use utoipa::ToSchema;

/// A way of closing the drum.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct FrontAsked {
    front: Front,
}

/// A way of closing the drum for a while, and what is laid in besides.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct FrontTried {
    front: Front,
    #[serde(default)]
    placements: Vec<Placement>,
}

/// Says that the drum's other end is closed otherwise for a while, to hear what that does: what is measured next is a trial.
#[utoipa::path(post, path = "/drums/{id}/front-trials", tag = "fronts", request_body = FrontTried, params(("id" = i64, Path)),
    responses((status = 201, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn try_front(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(asked): Body<FrontTried>,
) -> Result<(StatusCode, Json<TreatmentView>), Problem> {
    let (drum, shelf) = state.store(move |store| Ok::<_, StoreError>((store.drum_with_heads(id)?.drum, store.shelf()?))).await?;
    let closed = drum.with_front(&asked.front);
    closed.validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
    let placements = checked(as_on_shelf(asked.placements, &shelf), &closed)?;
    if asked.front == drum.front() {
        return Err(Problem::conflict(format!("It is so already: {}.", asked.front.words(drum.kind.lower_head_word()))));
    }
    let trials = state.store(|store| front_trials(store)).await?;
    let work = move |question: &Question| {
        let predictor = FrontPredictor::new(question.drum, question.partials, question.profile)?.with_opening(opening(&trials))?;
        let predictor = predictor.with_laid(&placements, question.strengths)?;
        Some(front_trial(question, predictor.outlook(&asked.front), placements))
    };
    let (plan, open_take_id, asked) = asked_about(&state, id, work).await?;
    let kept = state.store(move |store| store.put_on(id, open_take_id, &plan, now_ms())).await?;
    Ok((StatusCode::CREATED, Json(TreatmentView::new(kept, &asked.drum.drum, &asked.wanted))))
}

/// Whether the trial is left out.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct TrialDeclined {
    declined: bool,
}

/// Says that no trial is wanted before a hole is cut, or takes that back.
#[utoipa::path(put, path = "/drums/{id}/front-trials/declined", tag = "fronts", request_body = TrialDeclined, params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn decline_trial(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(asked): Body<TrialDeclined>,
) -> Result<StatusCode, Problem> {
    state.store(move |store| store.decline_front_trial(id, asked.declined, now_ms())).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Says that the drum's other end is closed otherwise for good: a hole was cut, a whole head was put on, or the head stays off. Takes begin
/// anew. It is taken back like any change of heads.
#[utoipa::path(put, path = "/drums/{id}/front", tag = "fronts", request_body = FrontAsked, params(("id" = i64, Path)),
    responses((status = 200, body = HeadChange), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_front(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(asked): Body<FrontAsked>,
) -> Result<Json<HeadChange>, Problem> {
    let drum = state.store(move |store| store.drum_with_heads(id)).await?.drum;
    drum.with_front(&asked.front).validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
    state.store(move |store| store.change_front(id, &asked.front, now_ms())).await.map(Json)
}
