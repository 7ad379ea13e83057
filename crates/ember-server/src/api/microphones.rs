//! Soundchecks and sessions with one channel a microphone: microphones held against each other, drums measured from a kit that is played.

use super::created::{Addressed, Created};
use super::extract::{Path, Query};
use super::upload::{MOST_BYTES_SOUNDCHECK, received};
use crate::computing::blocking;
use crate::problem::Problem;
use crate::soundchecks::Soundcheck;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::microphones::{MicrophoneChoice, MicrophonesChecked, check_microphones, microphone_choices, named};
use ember_app::session::{SessionHeard, hear_session, write_simulated};
use ember_words::text;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct FileName {
    /// Name of the file; its ending helps to tell the format.
    #[serde(default)]
    name: String,
}

/// What the channels of the file are.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Channels {
    /// What each channel is, in the file's order, with commas between; without it they are only listed, or are what the file itself says.
    names: Option<String>,
}

/// The same, watched.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ChannelsWatched {
    /// What each channel is, in the file's order, with commas between.
    names: String,
    /// A word of the window's own, under which it can ask how far measuring has come.
    job: Option<String>,
}

/// A soundcheck that was handed in.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct SoundcheckView {
    /// Its number.
    pub id: u64,
    /// What its file is called; null of the simulated one.
    pub name: Option<String>,
    /// What its channels were said to be, as codes.
    pub names: Vec<String>,
    /// What was found.
    #[serde(flatten)]
    pub checked: MicrophonesChecked,
}

impl Addressed for SoundcheckView {
    fn path(&self) -> Option<String> {
        Some(format!("/soundchecks/{}", self.id))
    }
}

/// Every place of a microphone that is known.
#[utoipa::path(get, path = "/microphones", tag = "microphones", responses((status = 200, body = Vec<MicrophoneChoice>)))]
pub async fn microphone_places() -> Json<Vec<MicrophoneChoice>> {
    Json(microphone_choices())
}

/// Takes a file with one channel a microphone. It stays until the program ends or others have come; nothing of it is kept.
#[utoipa::path(post, path = "/soundchecks", tag = "microphones", params(FileName),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = SoundcheckView), (status = 413, body = Problem, content_type = "application/problem+json"),
    (status = 422, description = "One channel, too many, or no sound.", body = Problem, content_type = "application/problem+json")))]
pub async fn add_soundcheck(
    State(state): State<AppState>,
    Query(FileName { name }): Query<FileName>,
    body: axum::body::Body,
) -> Result<Created<SoundcheckView>, Problem> {
    let _place = state.upload_place()?;
    let file = received(&state, body, MOST_BYTES_SOUNDCHECK).await?;
    let name: String = name.chars().take(200).collect();
    blocking(move || {
        let checked = check_microphones(file.path(), &name, None).map_err(Problem::cannot_be)?;
        let soundcheck = state.soundchecks.add(Some(name), None, file);
        Ok(Created(view(&soundcheck, None, checked)))
    })
    .await?
}

/// Plays a simulated session: six drums through ten microphones, named. It stands in for an interface with many inputs.
#[utoipa::path(post, path = "/soundchecks/simulated", tag = "microphones", responses((status = 201, body = SoundcheckView)))]
pub async fn add_simulated_soundcheck(State(state): State<AppState>) -> Result<Created<SoundcheckView>, Problem> {
    let _place = state.upload_place()?;
    blocking(move || {
        let full = |_| Problem::new(StatusCode::INSUFFICIENT_STORAGE, text!("The file could not be taken in: is the disk full?"));
        let file = state.upload_file().map_err(full)?;
        let names = write_simulated(file.path()).map_err(Problem::cannot_be)?;
        let checked = check_microphones(file.path(), "", Some(&names)).map_err(Problem::cannot_be)?;
        let soundcheck = state.soundchecks.add(None, Some(names), file);
        Ok(Created(view(&soundcheck, None, checked)))
    })
    .await?
}

/// Holds the microphones of a soundcheck against each other.
#[utoipa::path(get, path = "/soundchecks/{id}", tag = "microphones", params(("id" = u64, Path), Channels),
    responses((status = 200, body = SoundcheckView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, description = "A mix, or names that do not fit.", body = Problem, content_type = "application/problem+json")))]
pub async fn soundcheck(
    State(state): State<AppState>,
    Path(id): Path<u64>,
    Query(Channels { names }): Query<Channels>,
) -> Result<Json<SoundcheckView>, Problem> {
    let soundcheck = found(&state, id)?;
    blocking(move || {
        let names = names.map(listed).or_else(|| soundcheck.names.clone());
        let name = soundcheck.name.as_deref().unwrap_or_default();
        let checked = check_microphones(soundcheck.file.path(), name, names.as_deref()).map_err(Problem::cannot_be)?;
        Ok(Json(view(&soundcheck, names, checked)))
    })
    .await?
}

/// Finds every hit of a session, gives it to the drum that was hit, and measures each drum from its own microphone.
#[utoipa::path(get, path = "/soundchecks/{id}/drums", tag = "microphones", params(("id" = u64, Path), ChannelsWatched),
    responses((status = 200, body = SessionHeard), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, description = "Names that do not fit.", body = Problem, content_type = "application/problem+json")))]
pub async fn soundcheck_drums(
    State(state): State<AppState>,
    Path(id): Path<u64>,
    Query(ChannelsWatched { names, job }): Query<ChannelsWatched>,
) -> Result<Json<SessionHeard>, Problem> {
    let soundcheck = found(&state, id)?;
    let roles = named(&listed(names)).map_err(Problem::cannot_be)?;
    let bpm = state.store(|store| store.scene().map(|scene| scene.tonight.music.bpm)).await?;
    let _place = state.upload_place()?;
    // Called off when this is dropped: with the answer, or with the connection that waited for it.
    let watched = state.readings.watch(job);
    let progress = watched.progress.clone();
    blocking(move || {
        let name = soundcheck.name.as_deref().unwrap_or_default();
        hear_session(soundcheck.file.path(), name, &roles, Some(bpm), &progress).map(Json).map_err(Problem::cannot_be)
    })
    .await?
}

fn found(state: &AppState, id: u64) -> Result<Arc<Soundcheck>, Problem> {
    let gone = || Problem::new(StatusCode::NOT_FOUND, text!("This soundcheck is not here any more. Take its file once more."));
    state.soundchecks.find(id).ok_or_else(gone)
}

fn listed(names: String) -> Vec<String> {
    names.split(',').map(str::to_string).collect()
}

fn view(soundcheck: &Soundcheck, names: Option<Vec<String>>, checked: MicrophonesChecked) -> SoundcheckView {
    let unnamed = || checked.channels.iter().map(|_| "-".to_string()).collect();
    let names = names.or_else(|| soundcheck.names.clone()).unwrap_or_else(unnamed);
    SoundcheckView { id: soundcheck.id, name: soundcheck.name.clone(), names, checked }
}
