//! What is played tonight, where, and what is ruled out.

use super::extract::Body;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_store::KeptTonight;
use ember_words::words;

/// Reads tonight.
#[utoipa::path(get, path = "/tonight", tag = "tonight", responses((status = 200, body = KeptTonight)))]
pub async fn get_tonight(State(state): State<AppState>) -> Result<Json<KeptTonight>, Problem> {
    state.store(|store| store.tonight()).await.map(Json)
}

/// Changes tonight. Where a song is named, its music counts.
#[utoipa::path(put, path = "/tonight", tag = "tonight", request_body = KeptTonight,
    responses((status = 200, body = KeptTonight), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_tonight(State(state): State<AppState>, Body(tonight): Body<KeptTonight>) -> Result<Json<KeptTonight>, Problem> {
    tonight.music.validate().map_err(Problem::cannot_be)?;
    let genre = tonight.music.genre.clone();
    if state.store(move |store| store.preset(&genre)).await?.is_none() {
        return Err(Problem::unprocessable(words!("There is no genre \"{}\".", tonight.music.genre)));
    }
    state
        .store(move |store| {
            store.set_tonight(&tonight)?;
            store.tonight()
        })
        .await
        .map(Json)
}
