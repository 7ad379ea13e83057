//! Rods let down on purpose, and back.

use super::extract::{Body, Path, Query};
use super::tuning::SideQuery;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::tuning::{UnevenState, uneven_state};
use ember_core::drum::HeadSide;
use ember_core::tuning::{USUALLY_SLACK_AFTER, UnevenRecipe};
use ember_store::KeptUneven;
use ember_words::text;
use serde::Deserialize;
use utoipa::ToSchema;

/// Turns after which a rod can be slack, eighths.
const SLACK_EIGHTHS: std::ops::RangeInclusive<i32> = 1..=120;

/// Reads what can be let down on a head, what is, and the way back.
#[utoipa::path(get, path = "/drums/{id}/uneven", tag = "tuning", params(("id" = i64, Path), SideQuery),
    responses((status = 200, body = UnevenState), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_uneven(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<SideQuery>,
) -> Result<Json<UnevenState>, Problem> {
    state.store(move |store| uneven_state(store, id, query.side)).await.map(Json)
}

/// What was let down.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LetDown {
    side: HeadSide,
    recipe: UnevenRecipe,
    /// Eighths of a turn after which the slack rod was free, as its player counted (1 to 120). Null: not counted.
    slack_eighths: Option<i32>,
}

/// Says that a head's rods were let down on purpose.
#[utoipa::path(post, path = "/drums/{id}/uneven", tag = "tuning", request_body = LetDown, params(("id" = i64, Path)),
    responses((status = 200, body = KeptUneven), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn let_down(State(state): State<AppState>, Path(id): Path<i64>, Body(down): Body<LetDown>) -> Result<Json<KeptUneven>, Problem> {
    let slack = down.slack_eighths.unwrap_or(USUALLY_SLACK_AFTER);
    if !SLACK_EIGHTHS.contains(&slack) {
        return Err(Problem::unprocessable(text!("A rod is slack after an eighth of a turn to 15 turns.")));
    }
    let lugs = usize::from(state.store(move |store| store.drum_with_heads(id)).await?.drum.lugs);
    let Some(eighths) = down.recipe.eighths(lugs, slack) else {
        return Err(Problem::unprocessable(text!("With so few rods too little would be left to hold the head. It takes six or more.")));
    };
    state.store(move |store| store.begin_uneven(id, down.side, down.recipe, &eighths, now_ms())).await.map(Json)
}

/// What changes about rods that were let down.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UnevenChange {
    /// Whether they are back.
    pub ended: bool,
}

/// Says whether the rods are back.
#[utoipa::path(patch, path = "/uneven/{id}", tag = "tuning", request_body = UnevenChange, params(("id" = i64, Path)),
    responses((status = 200, body = KeptUneven), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn change_uneven(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(change): Body<UnevenChange>,
) -> Result<Json<KeptUneven>, Problem> {
    state.store(move |store| store.set_uneven_ended(id, change.ended.then(now_ms))).await.map(Json)
}

/// Takes back what was not done.
#[utoipa::path(delete, path = "/uneven/{id}", tag = "tuning", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn not_let_down(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_uneven_gone(id, Some(now_ms()))).await?;
    Ok(StatusCode::NO_CONTENT)
}
