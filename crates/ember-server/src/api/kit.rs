//! The kit strip: every drum with its state against tonight's wish, and adding, changing and removing drums.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::beginning::{UsualKitInfo, usual_kits};
use ember_app::kit::{DrumKindInfo, KitTonight, drum_kinds, kit_tonight};
use ember_core::drum::{Drum, REPAIRS, Repair, UsualKit};
use ember_store::KeptDrum;
use serde::Deserialize;
use utoipa::ToSchema;

/// Reads the kit.
#[utoipa::path(get, path = "/kit", tag = "kit", responses((status = 200, body = KitTonight)))]
pub async fn get_kit(State(state): State<AppState>) -> Result<Json<KitTonight>, Problem> {
    let demo = state.demo;
    state.store(move |store| kit_tonight(store, demo)).await.map(Json)
}

/// Every kind of drum that is known, with what such a drum usually is.
#[utoipa::path(get, path = "/drum-kinds", tag = "kit", responses((status = 200, body = Vec<DrumKindInfo>)))]
pub async fn get_drum_kinds() -> Json<Vec<DrumKindInfo>> {
    Json(drum_kinds())
}

/// What gets a drummer through the evening when something breaks.
#[utoipa::path(get, path = "/repairs", tag = "kit", responses((status = 200, body = Vec<Repair>)))]
pub async fn get_repairs() -> Json<Vec<Repair>> {
    Json(REPAIRS.to_vec())
}

/// Adds a drum at the end of the kit.
#[utoipa::path(post, path = "/drums", tag = "kit", request_body = Drum,
    responses((status = 201, body = KeptDrum), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_drum(State(state): State<AppState>, Body(drum): Body<Drum>) -> Result<Created<KeptDrum>, Problem> {
    let drum = checked(drum)?;
    let kept = state.store(move |store| store.add_drum(&drum)).await?;
    Ok(Created(kept))
}

/// Kits as they are usually put together.
#[utoipa::path(get, path = "/usual-kits", tag = "kit", responses((status = 200, body = Vec<UsualKitInfo>)))]
pub async fn get_usual_kits() -> Json<Vec<UsualKitInfo>> {
    Json(usual_kits())
}

/// A usual kit that is to be added.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct UsualKitAsked {
    pub kit: UsualKit,
    /// Its cymbals too.
    pub cymbals: bool,
}

/// Adds a usual kit's drums at the end of the kit: all of them, or none.
#[utoipa::path(post, path = "/usual-kits", tag = "kit", request_body = UsualKitAsked,
    responses((status = 201, body = Vec<KeptDrum>), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_usual_kit(
    State(state): State<AppState>,
    Body(UsualKitAsked { kit, cymbals }): Body<UsualKitAsked>,
) -> Result<Created<Vec<KeptDrum>>, Problem> {
    let kept = state.store(move |store| store.add_drums(&kit.drums(cymbals))).await?;
    Ok(Created(kept))
}

/// What is known about one drum.
#[utoipa::path(get, path = "/drums/{id}", tag = "kit", params(("id" = i64, Path)),
    responses((status = 200, body = KeptDrum), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn drum(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<KeptDrum>, Problem> {
    state.store(move |store| store.drum(id)).await.map(Json)
}

/// Corrects what is known about a drum.
#[utoipa::path(put, path = "/drums/{id}", tag = "kit", request_body = Drum, params(("id" = i64, Path)),
    responses((status = 200, body = KeptDrum), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_drum(State(state): State<AppState>, Path(id): Path<i64>, Body(drum): Body<Drum>) -> Result<Json<KeptDrum>, Problem> {
    let drum = checked(drum)?;
    state.store(move |store| store.change_drum(id, &drum)).await.map(Json)
}

/// Removes a drum with everything measured on it.
#[utoipa::path(delete, path = "/drums/{id}", tag = "kit", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn remove_drum(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.remove_drum(id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

fn checked(mut drum: Drum) -> Result<Drum, Problem> {
    drum.name = drum.name.trim().to_string();
    drum.validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
    Ok(drum)
}
