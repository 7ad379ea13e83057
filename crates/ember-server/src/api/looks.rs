//! A closer look at what was heard: one strike in detail, figures as CSV, and takes measured again with the method as it is now.

use super::bench::with_names;
use super::extract::{Body, Path};
use super::takes::view;
use crate::problem::Problem;
use crate::sound::{labels_of, read_kept, write_labels};
use crate::state::{AppState, blocking};
use crate::views::TakeView;
use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use ember_core::decay::{
    DecayProfile, HeardBy, METHOD, Partial, StrikeAnalyzer, StrikeLook, StrikeMeasurement, TakeSummary, mark_ghosts, settle_bodies,
    summarize,
};
use ember_core::drum::Tone;
use ember_core::signal::CapturedStrike;
use ember_store::{KeptStrike, Store, StoreError};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A strike's partial is the take's where their pitches lie no further apart than this (logarithm).
const THE_SAME: f64 = 0.015;

/// Looks closely at a strike: level, slopes, octaves, paces, waterfall.
#[utoipa::path(get, path = "/strikes/{id}/look", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = StrikeLook), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn look(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<StrikeLook>, Problem> {
    let kept = state.store(move |store| store.strike_with_sound(id)).await?;
    blocking(move || looked_at(kept)).await?.map(Json)
}

fn looked_at((strike, sound, onset): (KeptStrike, Vec<u8>, usize)) -> Result<StrikeLook, Problem> {
    let captured = captured(&strike.measurement, sound, onset)?;
    Ok(StrikeAnalyzer::hearing(captured.sample_rate, strike.measurement.heard_by).look(&captured, &strike.measurement))
}

fn captured(measurement: &StrikeMeasurement, sound: Vec<u8>, onset: usize) -> Result<CapturedStrike, Problem> {
    let (rate, samples) = read_kept(sound).map_err(|error| {
        tracing::error!("a strike’s kept sound cannot be read: {error}");
        Problem::unprocessable("The kept sound of this strike cannot be read any more.")
    })?;
    Ok(measurement.captured(samples, f64::from(rate), onset))
}

/// A strike's level over time as CSV: seconds after the hit, dBFS.
#[utoipa::path(get, path = "/strikes/{id}/level.csv", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/csv"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn level_csv(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Response, Problem> {
    let kept = state.store(move |store| store.strike_with_sound(id)).await?;
    let look = blocking(move || looked_at(kept)).await??;
    let rows = look.level_dbfs.iter().enumerate().map(|(n, level)| vec![format!("{:.4}", n as f64 * look.step_s), level.to_string()]);
    csv_file(&format!("strike-{id}-level.csv"), &["time_s", "level_dbfs"], rows)
}

/// All figures of a take's strikes as CSV, one strike a row.
#[utoipa::path(get, path = "/takes/{id}/strikes.csv", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = String, content_type = "text/csv"),
    (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn strikes_csv(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Response, Problem> {
    let strikes = state.store(move |store| store.take(id).and_then(|take| store.strikes(take.id))).await?;
    let figures = DecayProfile::default().figures().map(|(name, _)| name);
    let header: Vec<&str> =
        ["strike", "onset_s", "peak_dbfs", "dynamic", "used", "edt_s", "t20_s", "t30_s"].into_iter().chain(figures).collect();
    let rows = strikes.iter().zip(1..).map(|(KeptStrike { dropped, measurement, .. }, number)| {
        let wide = &measurement.broadband;
        let mut row = vec![number.to_string(), measurement.onset_s.to_string(), measurement.peak_dbfs.to_string()];
        row.push(measurement.dynamic.map(|dynamic| format!("{dynamic:?}").to_lowercase()).unwrap_or_default());
        row.push((!dropped && measurement.warnings.is_empty()).to_string());
        row.extend([wide.edt_s, wide.t20_s, wide.t30_s].map(text));
        row.extend(measurement.profile.figures().map(|(_, value)| text(value)));
        row
    });
    csv_file(&format!("take-{id}-strikes.csv"), &header, rows)
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
    let (take, strikes) = state
        .store(move |store| {
            let take = store.take(id)?;
            let strikes = store.strikes(take.id)?;
            Ok((with_names(store, take)?, strikes))
        })
        .await?;
    let named = &take.partials;
    let rows = strikes.iter().zip(1..).flat_map(|(strike, number)| {
        strike.measurement.partials.iter().map(move |partial| {
            let tone = tone_of(named, partial).map(|tone| tone.to_string()).unwrap_or_default();
            vec![
                number.to_string(),
                partial.hz.to_string(),
                text(partial.t60_s),
                text(partial.t60_sd_s),
                partial.level_db.to_string(),
                tone,
            ]
        })
    });
    csv_file(&format!("take-{id}-partials.csv"), &["strike", "hz", "t60_s", "t60_sd_s", "level_db", "tone"], rows)
}

/// Which of a take's `named` partials a strike's `partial` is, by its pitch.
fn tone_of(named: &[Partial], partial: &Partial) -> Option<Tone> {
    let off = |same: &Partial| (same.hz / partial.hz).ln().abs();
    named.iter().filter(|same| off(same) < THE_SAME).min_by(|a, b| off(a).total_cmp(&off(b)))?.tone
}

fn text(value: Option<f64>) -> String {
    value.map(|value| value.to_string()).unwrap_or_default()
}

fn csv_file(name: &str, header: &[&str], rows: impl Iterator<Item = Vec<String>>) -> Result<Response, Problem> {
    let failed = |error: String| {
        tracing::error!("CSV could not be written: {error}");
        Problem::internal()
    };
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(header).map_err(|error| failed(error.to_string()))?;
    for row in rows {
        writer.write_record(row).map_err(|error| failed(error.to_string()))?;
    }
    let bytes = writer.into_inner().map_err(|error| failed(error.to_string()))?;
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

/// A figure that comes out otherwise.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ChangedFigure {
    /// Its name in the decay profile.
    pub figure: &'static str,
    pub before: Option<f64>,
    pub after: Option<f64>,
}

/// What measuring a take's kept sound again comes to.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MeasuredAgain {
    /// Figures that changed by more than one part in a thousand.
    pub changed: Vec<ChangedFigure>,
    pub strikes_used_before: usize,
    pub strikes_used_after: usize,
    /// The take as it is kept now.
    pub take: TakeView,
}

/// A change smaller than this part of a figure is none.
const SAME: f64 = 1e-3;

/// Measures a take's kept sound with the method as it is now, and says what changes; keeps it only if asked to.
#[utoipa::path(post, path = "/takes/{id}/measured-again", tag = "takes", request_body = MeasureAgain, params(("id" = i64, Path)),
    responses((status = 200, body = MeasuredAgain), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn measure_again(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(MeasureAgain { keep }): Body<MeasureAgain>,
) -> Result<Json<MeasuredAgain>, Problem> {
    let read = move |store: &mut Store| {
        let take = store.take(id)?;
        let strikes = store.strikes(id)?;
        // A strike whose sound was let go keeps its figures as they are.
        let (sounding, silent): (Vec<KeptStrike>, Vec<KeptStrike>) = strikes.into_iter().partition(|strike| strike.has_sound);
        let sounds = sounding.iter().map(|strike| store.strike_with_sound(strike.id)).collect::<Result<Vec<_>, StoreError>>()?;
        Ok((store.drum(take.drum_id)?.drum.heard_by(), take, sounds, silent))
    };
    let (heard_by, take, sounds, silent) = state.store(read).await?;
    let again = blocking(move || sounds.into_par_iter().map(|sound| again(sound, heard_by)).collect::<Result<Vec<KeptStrike>, Problem>>())
        .await??;
    let after = summary(again.iter().chain(&silent));
    let changed = changed(&take.summary.profile, &after.profile);
    let work = move |store: &mut Store| {
        let strikes: Vec<(i64, StrikeMeasurement)> = again.into_iter().map(|strike| (strike.id, strike.measurement)).collect();
        let take = if keep { store.replace_measurements(id, &strikes)? } else { store.take(id)? };
        view(store, take)
    };
    let (before, used) = (take.summary.strikes_used, after.strikes_used);
    let take = state.store(work).await?;
    Ok(Json(MeasuredAgain { changed, strikes_used_before: before, strikes_used_after: used, take }))
}

fn again((strike, sound, onset): (KeptStrike, Vec<u8>, usize), heard_by: HeardBy) -> Result<KeptStrike, Problem> {
    let captured = captured(&strike.measurement, sound, onset)?;
    let analyzer = StrikeAnalyzer::hearing(captured.sample_rate, heard_by).of_coded_sound(strike.measurement.coded);
    let measurement = strike.measurement.again(analyzer.measure(&captured));
    debug_assert_eq!(measurement.method, METHOD);
    Ok(KeptStrike { measurement, ..strike })
}

fn summary<'a>(strikes: impl Iterator<Item = &'a KeptStrike>) -> TakeSummary {
    let mut used: Vec<StrikeMeasurement> = strikes.filter(|strike| !strike.dropped).map(|strike| strike.measurement.clone()).collect();
    mark_ghosts(&mut used);
    settle_bodies(&mut used);
    summarize(&used)
}

fn changed(before: &DecayProfile, after: &DecayProfile) -> Vec<ChangedFigure> {
    let differs = |a: Option<f64>, b: Option<f64>| match (a, b) {
        (Some(a), Some(b)) => (a - b).abs() > SAME * a.abs().max(b.abs()),
        (a, b) => a.is_some() != b.is_some(),
    };
    let pairs = before.figures().into_iter().zip(after.figures());
    pairs
        .filter(|((_, before), (_, after))| differs(*before, *after))
        .map(|((figure, before), (_, after))| ChangedFigure { figure, before, after })
        .collect()
}
