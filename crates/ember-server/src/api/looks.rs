//! A closer look at what was heard: one strike in detail, figures as CSV, and takes measured again with the method as it is now.

use super::extract::{Body, Path};
use crate::computing::blocking;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use ember_app::looks::{MeasuredAgain, Table, TakeWithSound, level_table, measured_anew, partial_table, strike_table, told_anew};
use ember_app::sound::{labels_of, write_labels};
use ember_core::decay::StrikeLook;
use serde::Deserialize;
use utoipa::ToSchema;

/// Looks closely at a strike: level, slopes, octaves, paces, waterfall.
#[utoipa::path(get, path = "/strikes/{id}/look", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = StrikeLook), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn look(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<StrikeLook>, Problem> {
    looked_at(&state, id).await.map(Json)
}

async fn looked_at(state: &AppState, id: i64) -> Result<StrikeLook, Problem> {
    let kept = state.store(move |store| store.strike_with_sound(id)).await?;
    Ok(blocking(move || ember_app::looks::look(kept)).await??)
}

/// A strike's level over time as CSV: seconds after the hit, dBFS.
#[utoipa::path(get, path = "/strikes/{id}/level.csv", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/csv"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn level_csv(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Response, Problem> {
    csv_file(&format!("strike-{id}-level.csv"), &level_table(&looked_at(&state, id).await?))
}

/// All figures of a take's strikes as CSV, one strike a row.
#[utoipa::path(get, path = "/takes/{id}/strikes.csv", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/csv"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn strikes_csv(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Response, Problem> {
    let strikes = state.store(move |store| store.take(id).and_then(|take| store.strikes(take.id))).await?;
    csv_file(&format!("take-{id}-strikes.csv"), &strike_table(&strikes))
}

/// Where each strike of a take lies in its sound, as a label track for an audio editor: start, end (s) and name, with tabs between.
#[utoipa::path(get, path = "/takes/{id}/labels.txt", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/plain"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn labels(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Response, Problem> {
    let strikes = state.store(move |store| store.take(id).and_then(|take| store.strikes(take.id))).await?;
    let text = write_labels(&labels_of(strikes.iter().map(|strike| (&strike.measurement, strike.dropped))));
    Ok(download("text/plain; charset=utf-8", &format!("take-{id}-labels.txt"), text.into_bytes()))
}

/// The partials of a take's strikes as CSV, one partial of one strike a row.
#[utoipa::path(get, path = "/takes/{id}/partials.csv", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/csv"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn partials_csv(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Response, Problem> {
    let table = state.store(move |store| partial_table(store, id)).await?;
    csv_file(&format!("take-{id}-partials.csv"), &table)
}

fn csv_file(name: &str, table: &Table) -> Result<Response, Problem> {
    let bytes = table.as_csv().map_err(|error| {
        tracing::error!("CSV could not be written: {error}");
        Problem::internal()
    })?;
    Ok(download("text/csv; charset=utf-8", name, bytes))
}

fn download(media_type: &'static str, name: &str, bytes: Vec<u8>) -> Response {
    let disposition = format!("attachment; filename=\"{name}\"");
    ([(header::CONTENT_TYPE, media_type.to_string()), (header::CONTENT_DISPOSITION, disposition)], bytes).into_response()
}

/// Whether what comes out is to be kept.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
pub struct MeasureAgain {
    pub keep: bool,
}

/// Measures a take's kept sound with the method as it is now, and says what changes; keeps it only if asked to.
#[utoipa::path(post, path = "/takes/{id}/measured-again", tag = "takes", request_body = MeasureAgain, params(("id" = i64, Path)),
    responses((status = 200, body = MeasuredAgain), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn measure_again(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(MeasureAgain { keep }): Body<MeasureAgain>,
) -> Result<Json<MeasuredAgain>, Problem> {
    let take = state.store(move |store| TakeWithSound::read(store, id)).await?;
    let anew = blocking(move || measured_anew(take)).await??;
    state.store(move |store| told_anew(store, anew, keep)).await.map(Json)
}
