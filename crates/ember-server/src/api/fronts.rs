//! The drum's other end: what closing it otherwise would do, trials of that, and what it is changed to for good.

use super::created::Created;
use super::extract::{Body, Path};
use super::treatments::carried_out;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::fronts::{FrontAsked, FrontPage, FrontSnapshot, FrontTried, front_page, trial_of_front};
use ember_app::views::TreatmentView;
use ember_core::drum::Front;
use ember_store::{HeadChange, Store};
use serde::Deserialize;
use utoipa::ToSchema;

/// Works out what closing the drum otherwise would do, and whether to cut, for a player who plays and means as the question says.
#[utoipa::path(post, path = "/drums/{id}/front/outlook", tag = "fronts", request_body = FrontAsked, params(("id" = i64, Path)),
    responses((status = 200, body = FrontPage), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn front_outlook(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(asked): Body<FrontAsked>,
) -> Result<Json<FrontPage>, Problem> {
    let read = move |store: &Store| FrontSnapshot::read(store, id);
    state.answer(read, move |snapshot, learning, patience| front_page(snapshot, &asked, learning, patience)).await.map(Json)
}

/// Says that the drum's other end is closed otherwise for a while, to hear what that does: what is measured next is a trial.
#[utoipa::path(post, path = "/drums/{id}/front-trials", tag = "fronts", request_body = FrontTried, params(("id" = i64, Path)),
    responses((status = 201, body = TreatmentView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn try_front(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(tried): Body<FrontTried>,
) -> Result<Created<TreatmentView>, Problem> {
    let read = move |store: &Store| FrontSnapshot::read(store, id);
    let promise = state.answer(read, move |snapshot, learning, patience| {
        let plan = trial_of_front(snapshot, &tried, learning, patience)?;
        Ok((snapshot.plan.now.measured_open()?.id, plan))
    });
    let (open_take_id, plan) = promise.await?;
    carried_out(&state, id, open_take_id, plan).await
}

/// Whether the trial is left out.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
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

/// A way of closing the drum.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewFront {
    front: Front,
}

/// Says that the drum's other end is closed otherwise for good: a hole was cut, a whole head was put on, or the head stays off. Takes begin
/// anew. It is taken back like any change of heads.
#[utoipa::path(put, path = "/drums/{id}/front", tag = "fronts", request_body = NewFront, params(("id" = i64, Path)),
    responses((status = 200, body = HeadChange), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_front(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(new): Body<NewFront>,
) -> Result<Json<HeadChange>, Problem> {
    let drum = state.store(move |store| store.drum_with_heads(id)).await?.drum;
    drum.with_front(&new.front).validate().map_err(Problem::cannot_be)?;
    state.store(move |store| store.change_front(id, &new.front, now_ms())).await.map(Json)
}
