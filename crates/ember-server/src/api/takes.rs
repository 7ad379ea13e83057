//! Takes and strikes: reading, removing, leaving strikes out, and their sound.

use super::extract::{Body, Path, Query};
use super::page::Page;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use ember_app::sound::media_type;
use ember_app::takes::{TakePage, take_page, take_view};
use ember_app::views::TakeView;
use ember_store::Store;
use serde::Deserialize;
use utoipa::ToSchema;

/// Reads a take.
#[utoipa::path(get, path = "/takes/{id}", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = TakeView), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_take(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<TakeView>, Problem> {
    state.store(move |store| take_view(store, store.take(id)?)).await.map(Json)
}

/// Lists takes of a drum, newest first, a page at a time.
#[utoipa::path(get, path = "/drums/{id}/takes", tag = "takes", params(("id" = i64, Path), Page),
    responses((status = 200, body = TakePage), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn list_takes(State(state): State<AppState>, Path(id): Path<i64>, Query(page): Query<Page>) -> Result<Json<TakePage>, Problem> {
    state.store(move |store| take_page(store, id, page.after, page.limit())).await.map(Json)
}

/// Removes a take with its strikes and their sound.
#[utoipa::path(delete, path = "/takes/{id}", tag = "takes", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "A treatment started from it.", body = Problem, content_type = "application/problem+json")))]
pub async fn remove_take(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.remove_take(id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Whether a take that is in doubt counts all the same.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct TakeChange {
    pub counted: bool,
}

/// Says whether a take that is in doubt counts.
#[utoipa::path(patch, path = "/takes/{id}", tag = "takes", request_body = TakeChange, params(("id" = i64, Path)),
    responses((status = 200, body = TakeView), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn change_take(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(change): Body<TakeChange>,
) -> Result<Json<TakeView>, Problem> {
    let work = move |store: &mut Store| {
        let take = store.count_take(id, change.counted)?;
        take_view(store, take)
    };
    state.store(work).await.map(Json)
}

/// Whether a strike is left out.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct StrikeChange {
    pub dropped: bool,
}

/// Leaves a strike out of its take, or takes it back in.
#[utoipa::path(patch, path = "/strikes/{id}", tag = "takes", request_body = StrikeChange, params(("id" = i64, Path)),
    responses((status = 200, body = TakeView), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn change_strike(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(change): Body<StrikeChange>,
) -> Result<Json<TakeView>, Problem> {
    let work = move |store: &mut Store| {
        let take = store.set_dropped(id, change.dropped)?;
        take_view(store, take)
    };
    state.store(work).await.map(Json)
}

/// A strike's sound, FLAC or WAV. Answers ranges, without which players cannot seek.
#[utoipa::path(get, path = "/strikes/{id}/sound", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, content_type = "audio/flac"), (status = 206), (status = 416),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn strike_sound(State(state): State<AppState>, Path(id): Path<i64>, headers: HeaderMap) -> Result<Response, Problem> {
    let sound = state.store(move |store| store.sound(id)).await?;
    let kind = media_type(&sound);
    let mut response = ranged(sound, headers.get(header::RANGE))?;
    let headers = response.headers_mut();
    headers.insert(header::CONTENT_TYPE, HeaderValue::from_static(kind));
    headers.insert(header::ACCEPT_RANGES, HeaderValue::from_static("bytes"));
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static("private, max-age=3600, immutable"));
    Ok(response)
}

/// All of `bytes`, or the one range that was asked for (RFC 9110, 14).
fn ranged(bytes: Vec<u8>, range: Option<&HeaderValue>) -> Result<Response, Problem> {
    let length = bytes.len();
    let Some(asked) = range.and_then(|range| range.to_str().ok()).and_then(|range| http_range_header::parse_range_header(range).ok())
    else {
        return Ok(bytes.into_response());
    };
    let Ok(ranges) = asked.validate(length as u64) else {
        let all = [(header::CONTENT_RANGE, format!("bytes */{length}"))];
        return Ok((StatusCode::RANGE_NOT_SATISFIABLE, all).into_response());
    };
    // Several ranges at once may be answered with everything.
    let [one] = ranges.as_slice() else { return Ok(bytes.into_response()) };
    let (first, last) = (*one.start() as usize, *one.end() as usize);
    let said = [(header::CONTENT_RANGE, format!("bytes {first}-{last}/{length}"))];
    Ok((StatusCode::PARTIAL_CONTENT, said, bytes[first..=last].to_vec()).into_response())
}
