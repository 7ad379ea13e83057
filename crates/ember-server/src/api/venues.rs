//! Venues: how their room answers, how loud the band is there, and how the drums are heard.

use super::created::Created;
use super::extract::{Body, Path, Query};
use super::upload::{MOST_BYTES_SHORT, received};
use crate::computing::blocking;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::sound::read;
use ember_core::venue::{
    BandLevels, EXPOSURE_SOURCE, HeardInfo, Loudness, LoudnessInfo, Recorded, Room, RoomClass, RoomClassInfo, RoomDecay, SimulatedVenue,
    Venue, band_levels, exposure_minutes, heard_infos, loudness_infos, room_class_infos, room_decay,
};
use ember_store::KeptVenue;
use ember_words::Text;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Longest recording of a room or a band, s.
const MOST_S: f64 = 120.0;

/// A loudness class with how long ears may stand it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct LoudnessChoice {
    #[serde(flatten)]
    pub info: LoudnessInfo,
    /// Longest recommended exposure a day without protection, minutes.
    pub exposure_minutes: f64,
}

/// What can be said of a venue.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct VenueChoices {
    /// Middles of the octaves that all figures by octave are for, Hz, as they are named.
    pub octaves_hz: Vec<f64>,
    pub rooms: Vec<RoomClassInfo>,
    pub loudnesses: Vec<LoudnessChoice>,
    pub heard: Vec<HeardInfo>,
    /// Where the exposure limits come from.
    pub exposure_source: Text,
}

/// Classes of rooms, loudness and hearing.
#[utoipa::path(get, path = "/venues/choices", tag = "venues", responses((status = 200, body = VenueChoices)))]
pub async fn choices() -> Json<VenueChoices> {
    let choice = |info: &LoudnessInfo| LoudnessChoice { info: *info, exposure_minutes: exposure_minutes(info.dba) };
    Json(VenueChoices {
        octaves_hz: ember_core::signal::OCTAVES_HZ.to_vec(),
        rooms: room_class_infos().to_vec(),
        loudnesses: loudness_infos().iter().map(choice).collect(),
        heard: heard_infos().to_vec(),
        exposure_source: EXPOSURE_SOURCE,
    })
}

/// All venues by name.
#[utoipa::path(get, path = "/venues", tag = "venues", responses((status = 200, body = Vec<KeptVenue>)))]
pub async fn venues(State(state): State<AppState>) -> Result<Json<Vec<KeptVenue>>, Problem> {
    state.store(|store| store.venues()).await.map(Json)
}

/// Adds a venue.
#[utoipa::path(post, path = "/venues", tag = "venues", request_body = Venue,
    responses((status = 201, body = KeptVenue), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_venue(State(state): State<AppState>, Body(venue): Body<Venue>) -> Result<Created<KeptVenue>, Problem> {
    let venue = checked(venue)?;
    Ok(Created(state.store(move |store| store.add_venue(&venue)).await?))
}

/// One venue.
#[utoipa::path(get, path = "/venues/{id}", tag = "venues", params(("id" = i64, Path)),
    responses((status = 200, body = KeptVenue), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn venue(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<KeptVenue>, Problem> {
    state.store(move |store| store.venue(id)).await.map(Json)
}

/// Changes a venue.
#[utoipa::path(put, path = "/venues/{id}", tag = "venues", request_body = Venue, params(("id" = i64, Path)),
    responses((status = 200, body = KeptVenue), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn change_venue(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(venue): Body<Venue>,
) -> Result<Json<KeptVenue>, Problem> {
    let venue = checked(venue)?;
    state.store(move |store| store.change_venue(id, &venue)).await.map(Json)
}

/// Removes a venue; it can be brought back.
#[utoipa::path(delete, path = "/venues/{id}", tag = "venues", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn remove_venue(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_venue_gone(id, Some(now_ms()))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a removed venue back.
#[utoipa::path(post, path = "/venues/{id}/back", tag = "venues", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn bring_back_venue(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_venue_gone(id, None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

fn checked(mut venue: Venue) -> Result<Venue, Problem> {
    venue.name = venue.name.trim().to_string();
    venue.validate().map_err(|error| Problem::unprocessable(error.to_string()))?;
    Ok(venue)
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Heard {
    /// Name of the file; its ending helps to tell the format.
    #[serde(default)]
    name: String,
    /// Instead of the body: a simulated place with a room of this class.
    simulated: Option<RoomClass>,
    /// How loud the simulated band is.
    loudness: Option<Loudness>,
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SoundOf {
    /// What the sound is of: the band, where nothing is said.
    #[serde(default)]
    #[param(inline)]
    recorded: Recorded,
}

impl Heard {
    /// The simulated place that is asked for. Its room is none of the classes exactly: there is something to be found out.
    fn place(&self) -> Option<SimulatedVenue> {
        self.simulated.map(|class| SimulatedVenue {
            t60_s: Room::Class { class }.t60_s().map(|t60| t60.map(|t60| 1.12 * t60)),
            loudness: self.loudness.unwrap_or(Loudness::Moderate),
        })
    }
}

/// Measures a room's reverberation time by octave band from claps or bursts of noise.
#[utoipa::path(post, path = "/venues/measure/room", tag = "venues", params(Heard),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = RoomDecay), (status = 422, description = "No clap, or lost in noise.", body = Problem, content_type = "application/problem+json")))]
pub async fn measure_room(
    State(state): State<AppState>,
    Query(heard): Query<Heard>,
    body: axum::body::Body,
) -> Result<Json<RoomDecay>, Problem> {
    let sound = sound(&state, heard, body, |place| place.claps(1));
    let (samples, rate) = sound.await?;
    let found = blocking(move || room_decay(&samples, rate)).await?;
    found.map(Json).map_err(|error| Problem::unprocessable(error.to_string()))
}

/// Measures levels by octave band of the band, or of the empty room.
#[utoipa::path(post, path = "/venues/measure/levels", tag = "venues", params(Heard, SoundOf),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = BandLevels), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn measure_levels(
    State(state): State<AppState>,
    Query(heard): Query<Heard>,
    Query(SoundOf { recorded }): Query<SoundOf>,
    body: axum::body::Body,
) -> Result<Json<BandLevels>, Problem> {
    let sound = sound(&state, heard, body, |place| place.band(1));
    let (samples, rate) = sound.await?;
    let found = blocking(move || band_levels(&samples, rate, recorded)).await?;
    found.map(Json).map_err(Problem::cannot_be)
}

async fn sound(
    state: &AppState,
    heard: Heard,
    body: axum::body::Body,
    play: impl FnOnce(&SimulatedVenue) -> Vec<f32> + Send + 'static,
) -> Result<(Vec<f32>, f64), Problem> {
    if let Some(place) = heard.place() {
        let samples = blocking(move || play(&place)).await?;
        return Ok((samples, f64::from(SimulatedVenue::SAMPLE_RATE)));
    }
    let _place = state.upload_place()?;
    let file = received(state, body, MOST_BYTES_SHORT).await?;
    blocking(move || {
        let mut samples: Vec<f32> = Vec::new();
        let facts = read(file.path(), &heard.name, MOST_S, |_, piece| samples.extend_from_slice(piece));
        let facts = facts.map_err(|error| Problem::unprocessable(error.to_string()))?;
        Ok((samples, f64::from(facts.sample_rate)))
    })
    .await?
}
