//! Genres: what each wants of a drum, why, and the user's own.

use super::extract::{Body, Path, Query};
use super::upload::{MOST_BYTES_SHORT, received};
use crate::computing::blocking;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::AppState;
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::sound::{ReadProgress, measure_file};
use ember_core::drum::DrumKind;
use ember_core::target::{Preset, UsualInfo, Wish, usual_infos, wish_from_sound};
use ember_store::{KeptPreset, StoreError};
use ember_words::{Words, text, words};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Longest model sound, s.
const MOST_S: f64 = 120.0;
const MOST_STRIKES: usize = 40;

/// Genres, built-in ones from open to dead, then the user's own.
#[utoipa::path(get, path = "/presets", tag = "presets", responses((status = 200, body = Vec<KeptPreset>)))]
pub async fn presets(State(state): State<AppState>) -> Result<Json<Vec<KeptPreset>>, Problem> {
    state.store(|store| store.presets()).await.map(Json)
}

/// Changes a genre, or makes one of the user's own.
#[utoipa::path(put, path = "/presets/{code}", tag = "presets", request_body = Preset, params(("code" = String, Path)),
    responses((status = 204), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_preset(
    State(state): State<AppState>,
    Path(code): Path<String>,
    Body(mut preset): Body<Preset>,
) -> Result<StatusCode, Problem> {
    preset.name = preset.name.trim().to_string();
    preset.validate().map_err(Problem::cannot_be)?;
    if preset.code != code {
        return Err(Problem::unprocessable(text!("The genre's code is another one than the address names.")));
    }
    state.store(move |store| store.set_preset(&preset)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Makes a built-in genre what it was, or removes one of the user's own.
#[utoipa::path(delete, path = "/presets/{code}", tag = "presets", params(("code" = String, Path)),
    responses((status = 204), (status = 409, description = "Songs are of this genre.", body = Problem, content_type = "application/problem+json")))]
pub async fn reset_preset(State(state): State<AppState>, Path(code): Path<String>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.reset_preset(&code)).await?;
    Ok(StatusCode::NO_CONTENT)
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ModelSound {
    /// Kind of drum that is heard in it.
    kind: DrumKind,
    /// Name of the file; its ending helps to tell the format.
    #[serde(default)]
    name: String,
}

/// Usual treatments that a genre may name.
#[utoipa::path(get, path = "/presets/usual", tag = "presets", responses((status = 200, body = Vec<UsualInfo>)))]
pub async fn usual() -> Json<Vec<UsualInfo>> {
    Json(usual_infos())
}

/// What a model sound asks for.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ModelWish {
    pub wish: Wish,
    /// Strikes it was taken from.
    pub strikes: usize,
    /// What the user should know about it.
    pub notes: Vec<Words>,
}

/// Takes a wish from a sound file with one drum by itself, heard under tonight's band.
#[utoipa::path(post, path = "/presets/wish-from-sound", tag = "presets", params(ModelSound),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ModelWish), (status = 413, body = Problem, content_type = "application/problem+json"),
    (status = 422, description = "Mixed music, or strikes that differ.", body = Problem, content_type = "application/problem+json")))]
pub async fn wish_of_file(
    State(state): State<AppState>,
    Query(ModelSound { kind, name }): Query<ModelSound>,
    body: axum::body::Body,
) -> Result<Json<ModelWish>, Problem> {
    let _place = state.upload_place()?;
    let file = received(&state, body, MOST_BYTES_SHORT).await?;
    let (scene, drum) = state
        .store(move |store| {
            let drum = store.drums()?.into_iter().find(|kept| kept.drum.kind == kind).map(|kept| kept.drum);
            Ok::<_, StoreError>((store.scene()?, drum.unwrap_or_else(|| ember_core::bench_drum::BenchDrum::usual(kind))))
        })
        .await?;
    blocking(move || {
        let heard =
            measure_file(file.path(), &name, drum.heard_by(), MOST_S, MOST_STRIKES, &ReadProgress::default(), |strike| strike.measurement);
        let heard = heard.map_err(Problem::cannot_be)?;
        // The class of tonight's loudness: the model was heard through another microphone than the band.
        let wanted = scene.wanted(&drum, None);
        let like = scene.preset.wish(kind);
        let wish = wish_from_sound(&heard.strikes, &wanted, &like).map_err(Problem::cannot_be)?;
        let strikes = heard.strikes.iter().filter(|strike| strike.warnings.is_empty()).count();
        let mut notes = vec![words!(
            "Lengths as heard under tonight's band, with a quarter of room. Attack and pitch stay as {} has them.",
            scene.preset.said_name()
        )];
        if heard.strikes.len() > strikes {
            notes.push(words!("{} of {} strikes could not be used.", heard.strikes.len() - strikes, heard.strikes.len()));
        }
        Ok(Json(ModelWish { wish, strikes, notes }))
    })
    .await?
}
