//! The kit strip: every drum with its state against tonight's wish, and adding, changing and removing drums.

use super::extract::{Body, Path};
use super::wanted_of;
use crate::problem::Problem;
use crate::state::AppState;
use crate::views::words_of;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use ember_core::drum::Drum;
use ember_core::target::{Assessment, Fit, assess};
use ember_store::{KeptDrum, KeptTonight, Scene, Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// How a drum stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DrumStanding {
    Unmeasured,
    /// As wanted tonight.
    Fits,
    /// Off by no more than is heard.
    Nearly,
    Off,
    /// Something was put on; what it did is not measured yet.
    Unchecked,
}

/// One drum of the kit strip.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrumState {
    pub drum: KeptDrum,
    pub standing: DrumStanding,
    /// A sentence that says the same.
    pub headline: String,
    /// What is on the drum, in words.
    pub treatment: Option<String>,
    /// Of the drum as it is now; null where that was not measured.
    pub assessment: Option<Assessment>,
}

/// The whole kit with tonight.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Kit {
    pub tonight: KeptTonight,
    /// Title of the song that is played; null where it is none in particular.
    pub song: Option<String>,
    /// Name of the venue.
    pub venue: Option<String>,
    /// In playing order.
    pub drums: Vec<DrumState>,
    /// Whether this data file was made as a demonstration.
    pub demo: bool,
}

/// Reads the kit.
#[utoipa::path(get, path = "/kit", tag = "kit", responses((status = 200, body = Kit)))]
pub async fn get_kit(State(state): State<AppState>) -> Result<Json<Kit>, Problem> {
    let demo = state.demo;
    state
        .store(move |store| {
            let scene = store.scene()?;
            let drums = store.drums()?.into_iter().map(|drum| drum_state(store, drum, &scene)).collect::<Result<_, _>>()?;
            let song = scene.tonight.song_id.map(|id| store.song(id)).transpose()?.map(|kept| kept.song.title);
            let venue = scene.venue.map(|venue| venue.name);
            Ok(Json(Kit { tonight: scene.tonight, song, venue, drums, demo }))
        })
        .await
}

fn drum_state(store: &Store, drum: KeptDrum, scene: &Scene) -> Result<DrumState, StoreError> {
    let wanted = wanted_of(store, scene, &drum)?;
    let on = store.treatment_on(drum.id)?;
    let treatment = on.as_ref().map(|on| words_of(&on.plan, &drum.drum));
    let take = store.newest_take(drum.id, on.as_ref().map(|on| on.id))?;
    let assessment = take.map(|take| assess(&take.partials, &take.summary.profile, &wanted, None));
    let (standing, headline) = match &assessment {
        None if on.is_some() => (DrumStanding::Unchecked, "Hit it again to check".to_string()),
        None => (DrumStanding::Unmeasured, "Not measured yet".to_string()),
        Some(Assessment { fit: Fit::In, .. }) => (DrumStanding::Fits, "Fits tonight".to_string()),
        Some(Assessment { fit: Fit::Nearly, .. }) => (DrumStanding::Nearly, "Nearly fits tonight".to_string()),
        Some(found) => {
            (DrumStanding::Off, found.off.first().map_or("No clear body", |worst| worst.sentence.trim_end_matches('.')).to_string())
        }
    };
    Ok(DrumState { drum, standing, headline, treatment, assessment })
}

/// Adds a drum at the end of the kit.
#[utoipa::path(post, path = "/drums", tag = "kit", request_body = Drum,
    responses((status = 201, body = KeptDrum), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_drum(State(state): State<AppState>, Body(drum): Body<Drum>) -> Result<(StatusCode, Json<KeptDrum>), Problem> {
    let drum = checked(drum)?;
    let kept = state.store(move |store| store.add_drum(&drum)).await?;
    Ok((StatusCode::CREATED, Json(kept)))
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
