//! What the player says of drums as they sound: the wish learns from it.

use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::opinions;
use ember_core::target::Opinion;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// An opinion on a drum as it sounds now.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct NewOpinion {
    pub opinion: Opinion,
}

/// An opinion that was kept.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KeptOpinion {
    pub id: i64,
}

/// Says something of a drum as it was last heard, in tonight's genre.
#[utoipa::path(post, path = "/drums/{id}/opinions", tag = "bench", request_body = NewOpinion, params(("id" = i64, Path)),
    responses((status = 201, body = KeptOpinion), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The drum was not heard yet.", body = Problem, content_type = "application/problem+json")))]
pub async fn say(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(NewOpinion { opinion }): Body<NewOpinion>,
) -> Result<(StatusCode, Json<KeptOpinion>), Problem> {
    let id = state.store(move |store| opinions::say(store, id, opinion, now_ms())).await?;
    Ok((StatusCode::CREATED, Json(KeptOpinion { id })))
}

/// Takes one opinion back.
#[utoipa::path(delete, path = "/opinions/{id}", tag = "bench", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn take_back(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.remove_opinion(id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Forgets all that was said of such drums in tonight's genre: the book's wish holds again.
#[utoipa::path(delete, path = "/drums/{id}/opinions", tag = "bench", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn forget(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| opinions::forget(store, id, now_ms())).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings back what was forgotten last of such drums in tonight's genre.
#[utoipa::path(post, path = "/drums/{id}/opinions/recalled", tag = "bench", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn recall(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| opinions::recall(store, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
