//! Kits: which drums stand together.

use super::created::Created;
use super::extract::{Body, Path};
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::kits::{Kits, kits};
use ember_store::{KeptKit, Kit};

/// All kits by name, and all drums.
#[utoipa::path(get, path = "/kits", tag = "kit", responses((status = 200, body = Kits)))]
pub async fn get_kits(State(state): State<AppState>) -> Result<Json<Kits>, Problem> {
    state.store(|store| kits(store)).await.map(Json)
}

/// Adds a kit.
#[utoipa::path(post, path = "/kits", tag = "kit", request_body = Kit,
    responses((status = 201, body = KeptKit), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_kit(State(state): State<AppState>, Body(kit): Body<Kit>) -> Result<Created<KeptKit>, Problem> {
    let kit = checked(kit)?;
    Ok(Created(state.store(move |store| store.add_kit(&kit)).await?))
}

/// One kit.
#[utoipa::path(get, path = "/kits/{id}", tag = "kit", params(("id" = i64, Path)),
    responses((status = 200, body = KeptKit), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn kit(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<KeptKit>, Problem> {
    state.store(move |store| store.kit(id)).await.map(Json)
}

/// Changes a kit: its name, its drums and their order, which of them stay in their cases, whose it is.
#[utoipa::path(put, path = "/kits/{id}", tag = "kit", request_body = Kit, params(("id" = i64, Path)),
    responses((status = 200, body = KeptKit), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_kit(State(state): State<AppState>, Path(id): Path<i64>, Body(kit): Body<Kit>) -> Result<Json<KeptKit>, Problem> {
    let kit = checked(kit)?;
    state.store(move |store| store.change_kit(id, &kit)).await.map(Json)
}

/// Removes a kit; its drums stay with all that was measured on them, and it can be brought back.
#[utoipa::path(delete, path = "/kits/{id}", tag = "kit", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn remove_kit(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_kit_gone(id, Some(now_ms()))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a removed kit back.
#[utoipa::path(post, path = "/kits/{id}/back", tag = "kit", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn bring_back_kit(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_kit_gone(id, None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

fn checked(mut kit: Kit) -> Result<Kit, Problem> {
    kit.name = kit.name.trim().to_string();
    kit.validate().map_err(Problem::cannot_be)?;
    Ok(kit)
}
