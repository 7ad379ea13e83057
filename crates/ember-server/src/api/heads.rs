//! Heads that are on drums, and putting others on.

use super::extract::{Body, Path, Query};
use super::tuning::SideQuery;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::tuning::{HeadState, head_state};
use ember_core::drum::{Head, HeadSide};
use ember_store::HeadChange;
use serde::Deserialize;
use utoipa::ToSchema;

/// Reads the head that is on, how it has worn, and what others would do in its place.
#[utoipa::path(get, path = "/drums/{id}/head", tag = "heads", params(("id" = i64, Path), SideQuery),
    responses((status = 200, body = HeadState), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_head(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<SideQuery>,
) -> Result<Json<HeadState>, Problem> {
    state.store(move |store| head_state(store, id, query.side)).await.map(Json)
}

/// Another head.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewHead {
    side: HeadSide,
    head: Head,
}

/// Says that another head was put on: takes and rounds begin anew.
#[utoipa::path(post, path = "/drums/{id}/head", tag = "heads", request_body = NewHead, params(("id" = i64, Path)),
    responses((status = 200, body = HeadChange), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn put_on_head(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(new): Body<NewHead>,
) -> Result<Json<HeadChange>, Problem> {
    let mut drum = state.store(move |store| store.drum_with_heads(id)).await?.drum;
    match new.side {
        HeadSide::Batter => drum.batter = new.head,
        HeadSide::Lower => drum.lower = Some(new.head),
    }
    drum.validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
    state.store(move |store| store.change_head(id, new.side, new.head, now_ms())).await.map(Json)
}

/// Takes back a change of heads that was not made.
#[utoipa::path(delete, path = "/head-changes/{id}", tag = "heads", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn take_head_back(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.take_head_back(id, now_ms())).await?;
    Ok(StatusCode::NO_CONTENT)
}
