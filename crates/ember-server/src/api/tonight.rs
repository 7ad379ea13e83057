//! What is played tonight, the genres to choose from, and what is ruled out.

use super::extract::Body;
use crate::problem::Problem;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use ember_core::target::{GENRES, Genre};
use ember_store::KeptTonight;

/// Reads tonight.
#[utoipa::path(get, path = "/tonight", tag = "tonight", responses((status = 200, body = KeptTonight)))]
pub async fn get_tonight(State(state): State<AppState>) -> Result<Json<KeptTonight>, Problem> {
    state.store(|store| store.tonight()).await.map(Json)
}

/// Changes tonight.
#[utoipa::path(put, path = "/tonight", tag = "tonight", request_body = KeptTonight,
    responses((status = 200, body = KeptTonight), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_tonight(State(state): State<AppState>, Body(tonight): Body<KeptTonight>) -> Result<Json<KeptTonight>, Problem> {
    tonight.tonight.validate().map_err(Problem::unprocessable)?;
    state
        .store(move |store| {
            store.set_tonight(&tonight)?;
            store.tonight()
        })
        .await
        .map(Json)
}

/// Genres, from open to dead.
#[utoipa::path(get, path = "/genres", tag = "tonight", responses((status = 200, body = Vec<Genre>)))]
pub async fn genres() -> Json<Vec<Genre>> {
    Json(GENRES.to_vec())
}
