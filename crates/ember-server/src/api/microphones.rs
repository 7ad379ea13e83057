//! Microphones of a soundcheck, held against each other.

use super::extract::Query;
use super::upload::{MOST_BYTES_SOUNDCHECK, received};
use crate::computing::blocking;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use ember_app::microphones::{MicrophoneChoice, MicrophonesChecked, check_microphones, check_simulated, microphone_choices};
use serde::Deserialize;
use utoipa::IntoParams;

/// What the channels of the file are.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Channels {
    /// Name of the file; its ending helps to tell the format.
    #[serde(default)]
    name: String,
    /// What each channel is, in the file's order, with commas between; without it the channels are only listed.
    names: Option<String>,
}

/// Every place of a microphone that is known.
#[utoipa::path(get, path = "/microphones", tag = "microphones", responses((status = 200, body = Vec<MicrophoneChoice>)))]
pub async fn microphone_places() -> Json<Vec<MicrophoneChoice>> {
    Json(microphone_choices())
}

/// Holds the microphones of a file with one channel each against each other. Nothing is kept of it.
#[utoipa::path(post, path = "/microphones/check", tag = "microphones", params(Channels),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = MicrophonesChecked), (status = 413, body = Problem, content_type = "application/problem+json"),
    (status = 422, description = "A mix, no sound, or names that do not fit.", body = Problem, content_type = "application/problem+json")))]
pub async fn check_soundcheck(
    State(state): State<AppState>,
    Query(Channels { name, names }): Query<Channels>,
    body: axum::body::Body,
) -> Result<Json<MicrophonesChecked>, Problem> {
    let _place = state.upload_place()?;
    let file = received(&state, body, MOST_BYTES_SOUNDCHECK).await?;
    let names: Option<Vec<String>> = names.map(|names| names.split(',').map(str::to_string).collect());
    blocking(move || check_microphones(file.path(), &name, names.as_deref()).map(Json).map_err(Problem::cannot_be)).await?
}

/// The simulated soundcheck, which stands in for an interface with many inputs.
#[utoipa::path(get, path = "/microphones/simulated", tag = "microphones", responses((status = 200, body = MicrophonesChecked)))]
pub async fn simulated_soundcheck() -> Result<Json<MicrophonesChecked>, Problem> {
    blocking(|| Json(check_simulated())).await
}
