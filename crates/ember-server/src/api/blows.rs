//! Large drums: what another beater or spot would bring, how hands end a note, and how fast a roll must be.

use super::extract::{Body, Path, Query};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::PlanSnapshot;
use ember_app::blows::{BlowAsked, BlowPage, BlowSnapshot, NoteEnds, blow_page, note_ends};
use ember_core::target::{NoteValue, WrittenNote};
use ember_store::Store;
use serde::Deserialize;
use utoipa::IntoParams;

/// Works out what other beaters and spots would bring.
#[utoipa::path(post, path = "/drums/{id}/blows", tag = "plans", request_body = BlowAsked, params(("id" = i64, Path)),
    responses((status = 200, body = BlowPage), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured, or no beater strikes it.", body = Problem,
    content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn blow_outlook(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(asked): Body<BlowAsked>,
) -> Result<Json<BlowPage>, Problem> {
    let read = move |store: &Store| BlowSnapshot::read(store, id);
    state.answer(read, move |snapshot, learning, patience| blow_page(snapshot, asked, learning, patience)).await.map(Json)
}

/// Which note is to be ended.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct NoteAsked {
    /// The note as it is written.
    #[param(inline)]
    value: NoteValue,
    /// Quarter notes a minute (30 to 300).
    bpm: f64,
}

/// Reads how fast hand and knee end the drum's note, when they must go down for a written length, and how fast a roll must be.
#[utoipa::path(get, path = "/drums/{id}/note-ends", tag = "plans", params(("id" = i64, Path), NoteAsked),
    responses((status = 200, body = NoteEnds), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured, or no beater strikes it.", body = Problem,
    content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn get_note_ends(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(NoteAsked { value, bpm }): Query<NoteAsked>,
) -> Result<Json<NoteEnds>, Problem> {
    let read = move |store: &Store| PlanSnapshot::read(store, id);
    let written = WrittenNote { value, bpm };
    state.answer(read, move |snapshot, learning, patience| note_ends(snapshot, written, learning, patience)).await.map(Json)
}
