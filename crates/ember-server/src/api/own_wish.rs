//! How a player wants one drum to sound, whatever is played.

use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::own_wish::{CharacterInfo, OwnWishAsked, characters, want};
use ember_store::KeptDrum;

/// Drummers' words for how a drum sounds, with the figures that they stand for.
#[utoipa::path(get, path = "/characters", tag = "bench", responses((status = 200, body = Vec<CharacterInfo>)))]
pub async fn get_characters() -> Json<Vec<CharacterInfo>> {
    Json(characters())
}

/// Says how the player wants a drum to sound.
#[utoipa::path(put, path = "/drums/{id}/own-wish", tag = "bench", request_body = OwnWishAsked, params(("id" = i64, Path)),
    responses((status = 200, body = KeptDrum), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "It is not known how the drum sounds, or it is a cymbal.", body = Problem, content_type = "application/problem+json")))]
pub async fn set_own_wish(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(asked): Body<OwnWishAsked>,
) -> Result<Json<KeptDrum>, Problem> {
    state.store(move |store| want(store, id, asked)).await.map(Json)
}
