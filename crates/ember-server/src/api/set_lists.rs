//! Set lists.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_store::{KeptLine, KeptSetList, SetList};
use serde::Deserialize;
use utoipa::ToSchema;

/// All set lists by name.
#[utoipa::path(get, path = "/set-lists", tag = "set lists", responses((status = 200, body = Vec<KeptSetList>)))]
pub async fn set_lists(State(state): State<AppState>) -> Result<Json<Vec<KeptSetList>>, Problem> {
    state.store(|store| store.set_lists()).await.map(Json)
}

/// Adds a set list.
#[utoipa::path(post, path = "/set-lists", tag = "set lists", request_body = SetList,
    responses((status = 201, body = KeptSetList), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_set_list(State(state): State<AppState>, Body(set_list): Body<SetList>) -> Result<Created<KeptSetList>, Problem> {
    let set_list = checked(set_list)?;
    Ok(Created(state.store(move |store| store.add_set_list(&set_list)).await?))
}

/// One set list.
#[utoipa::path(get, path = "/set-lists/{id}", tag = "set lists", params(("id" = i64, Path)),
    responses((status = 200, body = KeptSetList), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn set_list(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<KeptSetList>, Problem> {
    state.store(move |store| store.set_list(id)).await.map(Json)
}

/// Changes a set list: its name, its songs and breaks in their order, the time between them, what is pinned.
#[utoipa::path(put, path = "/set-lists/{id}", tag = "set lists", request_body = SetList, params(("id" = i64, Path)),
    responses((status = 200, body = KeptSetList), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_set_list(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(set_list): Body<SetList>,
) -> Result<Json<KeptSetList>, Problem> {
    let set_list = checked(set_list)?;
    state.store(move |store| store.change_set_list(id, &set_list)).await.map(Json)
}

/// Removes a set list; its songs stay, and it can be brought back.
#[utoipa::path(delete, path = "/set-lists/{id}", tag = "set lists", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn remove_set_list(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_set_list_gone(id, Some(now_ms()))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a removed set list back.
#[utoipa::path(post, path = "/set-lists/{id}/back", tag = "set lists", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn bring_back_set_list(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_set_list_gone(id, None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A plan to keep to.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanToKeep {
    /// How the drums are in each song; empty for none any more.
    pub lines: Vec<KeptLine>,
}

/// Keeps to a plan: from now on only what is heard to be off is planned otherwise.
#[utoipa::path(put, path = "/set-lists/{id}/kept-plan", tag = "set lists", request_body = PlanToKeep, params(("id" = i64, Path)),
    responses((status = 200, body = KeptSetList), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn keep_plan(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(plan): Body<PlanToKeep>,
) -> Result<Json<KeptSetList>, Problem> {
    state.store(move |store| store.keep_plan(id, &plan.lines)).await.map(Json)
}

/// How far the evening is.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Played {
    /// Lines of the set list that were played, from its first.
    pub lines: usize,
}

/// Says how far the evening is: what was played stays as it was, whatever is planned after it.
#[utoipa::path(put, path = "/set-lists/{id}/played", tag = "set lists", request_body = Played, params(("id" = i64, Path)),
    responses((status = 200, body = KeptSetList), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_played(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(played): Body<Played>,
) -> Result<Json<KeptSetList>, Problem> {
    state.store(move |store| store.set_played(id, played.lines)).await.map(Json)
}

fn checked(mut set_list: SetList) -> Result<SetList, Problem> {
    set_list.name = set_list.name.trim().to_string();
    set_list.validate().map_err(Problem::cannot_be)?;
    Ok(set_list)
}
