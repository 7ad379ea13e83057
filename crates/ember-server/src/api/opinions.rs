//! What the player says of drums as they sound: the wish learns from it.

use super::extract::{Body, Path};
use super::open_take;
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use ember_core::target::{OpenSound, Opinion, Said, assess};
use ember_store::{Store, StoreError};
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
    let id = state.store(move |store| keep(store, id, opinion)).await?;
    Ok((StatusCode::CREATED, Json(KeptOpinion { id })))
}

fn keep(store: &mut Store, id: i64, opinion: Opinion) -> Result<i64, StoreError> {
    let (drum, scene) = (store.drum(id)?, store.scene()?);
    let on = store.treatment_on(id)?;
    let unheard = || StoreError::Refused(format!("Hit the {} first: nobody knows how it sounds now.", drum.drum.name));
    let take = store.newest_take(id, on.map(|on| on.id))?.ok_or_else(unheard)?;
    let open = open_take(store, id)?.map(|take| OpenSound::new(&take.partials, &take.summary));
    // Held against the book, not against what was learned so far: else every word would count twice.
    let wanted = scene.wanted(&drum.drum, open.as_ref());
    let found = assess(&take.partials, &take.summary.profile, &wanted, None);
    let said = Said::of(opinion, &found, &wanted).ok_or_else(unheard)?;
    store.add_opinion(drum.drum.kind.role(), &scene.tonight.music.genre, &said, now_ms())
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
    let work = move |store: &mut Store| {
        let (drum, scene) = (store.drum(id)?, store.scene()?);
        store.forget_opinions(drum.drum.kind.role(), &scene.tonight.music.genre, now_ms())
    };
    state.store(work).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings back what was forgotten last of such drums in tonight's genre.
#[utoipa::path(post, path = "/drums/{id}/opinions/recalled", tag = "bench", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn recall(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    let work = move |store: &mut Store| {
        let (drum, scene) = (store.drum(id)?, store.scene()?);
        store.recall_opinions(drum.drum.kind.role(), &scene.tonight.music.genre)
    };
    state.store(work).await?;
    Ok(StatusCode::NO_CONTENT)
}
