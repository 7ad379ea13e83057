//! Plans for a drum: what the shelf offers, why a device is in none of them, the next small step, a test that teaches, a layout of one's own.

use super::extract::{Body, Path, Query};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::PlanSnapshot;
use ember_app::plans::{Layout, Lesson, NextStepView, Plans, laid_out, lesson, next, plans, why_not};
use ember_app::views::PlanView;
use ember_core::damping::DeviceKind;
use ember_core::plan::PassedOver;
use ember_store::{Store, StoreError};
use serde::Deserialize;
use utoipa::IntoParams;

fn snapshot(id: i64) -> impl FnOnce(&Store) -> Result<PlanSnapshot, StoreError> + Send {
    move |store| PlanSnapshot::read(store, id)
}

/// Searches the shelf for what brings the drum to what is wanted.
#[utoipa::path(get, path = "/drums/{id}/plans", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Plans), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_plans(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Plans>, Problem> {
    state.answer(snapshot(id), plans).await.map(Json)
}

/// Says of every device that is owned but in none of the plans why it is not.
#[utoipa::path(get, path = "/drums/{id}/passed-over", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<PassedOver>), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_passed_over(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Vec<PassedOver>>, Problem> {
    state.answer(snapshot(id), why_not).await.map(Json)
}

/// The one small thing that brings a checked drum nearer to the wish; null until there is something to go by.
#[utoipa::path(get, path = "/drums/{id}/next-step", tag = "plans", params(("id" = i64, Path)),
    responses((status = 200, body = Option<NextStepView>), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_next_step(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Option<NextStepView>>, Problem> {
    state.answer(snapshot(id), next).await.map(Json)
}

/// Which device is to be learned.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Taught {
    device: DeviceKind,
}

/// Where to lay a device for the next test of its strength, tonight's limits left aside.
#[utoipa::path(get, path = "/drums/{id}/lesson", tag = "plans", params(("id" = i64, Path), Taught),
    responses((status = 200, body = Lesson), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured, or there is nothing left to try on it.", body = Problem,
    content_type = "application/problem+json")))]
pub async fn get_lesson(State(state): State<AppState>, Path(id): Path<i64>, Query(taught): Query<Taught>) -> Result<Json<Lesson>, Problem> {
    state.answer(snapshot(id), move |snapshot, learning, patience| lesson(snapshot, taught.device, learning, patience)).await.map(Json)
}

/// Works out what a layout should do; it is kept nowhere. With `improve`, the layout near it that serves the wish better.
#[utoipa::path(post, path = "/drums/{id}/layouts", tag = "plans", request_body = Layout, params(("id" = i64, Path)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn lay_out(State(state): State<AppState>, Path(id): Path<i64>, Body(layout): Body<Layout>) -> Result<Json<PlanView>, Problem> {
    state.answer(snapshot(id), move |snapshot, learning, patience| laid_out(snapshot, layout, learning, patience)).await.map(Json)
}
