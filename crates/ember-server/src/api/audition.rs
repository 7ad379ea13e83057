//! Hear it first: the drum's own strike wide open, as it is expected to sound with something changed, and as it was found.

use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::header;
use axum::response::IntoResponse;
use ember_app::audition::{Audition, AuditionSnapshot, Sources, Version, WhatIf, audition, sound_of};
use ember_store::Store;

/// Says what can be heard of a drum, and where it stands in a groove at the music's tempo.
#[utoipa::path(post, path = "/drums/{id}/audition", tag = "plans", request_body = WhatIf, params(("id" = i64, Path)),
    responses((status = 200, body = Audition), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn what_is_heard(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(what): Body<WhatIf>,
) -> Result<Json<Audition>, Problem> {
    let read = move |store: &Store| AuditionSnapshot::read(store, id);
    state.answer(read, move |snapshot, learning, _| audition(snapshot, &what, learning)).await.map(Json)
}

/// One version as a sound, level-matched to the open drum: WAV, 24 bits.
#[utoipa::path(post, path = "/drums/{id}/audition/{version}", tag = "plans", request_body = WhatIf,
    params(("id" = i64, Path), ("version" = Version, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "audio/wav"),
    (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn audition_sound(
    State(state): State<AppState>,
    Path((id, version)): Path<(i64, Version)>,
    Body(what): Body<WhatIf>,
) -> Result<impl IntoResponse, Problem> {
    let read = move |store: &Store| Sources::read(store, id);
    let sound = state.answer(read, move |sources, learning, _| sound_of(sources, version, &what, learning)).await?;
    Ok(([(header::CONTENT_TYPE, "audio/wav"), (header::CACHE_CONTROL, "no-store")], sound))
}
