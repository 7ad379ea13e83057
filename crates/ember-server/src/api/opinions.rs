//! What the player says of drums as they sound: the wish learns from it.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::PlanSnapshot;
use ember_app::learning::Learning;
use ember_app::opinions::{self, Choice};
use ember_core::Patience;
use ember_core::target::{Evidence, Opinion};
use ember_store::Store;
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

/// A choice that was kept.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KeptChoice {
    /// Number under which it can be taken back; null where it told nothing.
    pub id: Option<i64>,
}

/// Says something of a drum as it was last heard, in tonight's genre.
#[utoipa::path(post, path = "/drums/{id}/opinions", tag = "bench", request_body = NewOpinion, params(("id" = i64, Path)),
    responses((status = 201, body = KeptOpinion), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The drum was not heard yet.", body = Problem, content_type = "application/problem+json")))]
pub async fn say(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(NewOpinion { opinion }): Body<NewOpinion>,
) -> Result<Created<KeptOpinion>, Problem> {
    let id = state.store(move |store| opinions::say(store, id, opinion, now_ms())).await?;
    Ok(Created(KeptOpinion { id }))
}

/// Keeps that one layout was chosen over another: the wish learns from it, more softly than from a word.
#[utoipa::path(post, path = "/drums/{id}/choices", tag = "bench", request_body = Choice, params(("id" = i64, Path)),
    responses((status = 201, body = KeptChoice), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The drum was not heard yet.", body = Problem, content_type = "application/problem+json")))]
pub async fn choose(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(choice): Body<Choice>,
) -> Result<Created<KeptChoice>, Problem> {
    let song = choice.song_id;
    let read = move |store: &Store| opinions::read_for(store, id, song);
    let work = move |snapshot: &PlanSnapshot, learning: &Learning, patience: Patience| {
        opinions::told_by_choice(snapshot, &choice, learning, patience)
    };
    let kept = match state.answer(read, work).await? {
        Some((role, genre, told)) => {
            let add = move |store: &mut Store| store.add_opinion(role, &genre, &Evidence::Preferred(told), now_ms());
            Some(state.store(add).await?)
        }
        None => None,
    };
    Ok(Created(KeptChoice { id: kept }))
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
#[utoipa::path(post, path = "/drums/{id}/opinions/back", tag = "bench", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn recall(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| opinions::recall(store, id)).await?;
    Ok(StatusCode::NO_CONTENT)
}
