//! Strikes from a sound file.

use super::created::Created;
use super::extract::{Path, Query};
use crate::computing::blocking;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::body::Body;
use axum::extract::State;
use axum::http::StatusCode;
use ember_app::Neighbours;
use ember_app::sound::{HeardFile, SoundError, kept_sound, measure_file};
use ember_app::takes::take_view;
use ember_app::views::TakeView;
use ember_core::decay::{HeardStrike, StrikeMeasurement, Warning};
use ember_store::{NewStrike, Source, Store, StoreError};
use ember_words::{Words, text, words};
use futures_util::StreamExt;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::atomic::{AtomicU64, Ordering};
use tempfile::NamedTempFile;
use tokio::io::AsyncWriteExt;
use utoipa::{IntoParams, ToSchema};

/// Largest file taken, bytes: over an hour of stereo at 48 kHz in 24 bits.
const MOST_BYTES: u64 = 1_500_000_000;
/// Largest file taken of which only a piece is needed, bytes.
pub const MOST_BYTES_SHORT: u64 = 100_000_000;
/// Largest soundcheck or session taken, bytes: two hours of sixteen channels at 48 kHz in 24 bits.
pub const MOST_BYTES_SOUNDCHECK: u64 = 17_000_000_000;
/// After this much the rest of a file that is too large is no longer read away.
const MOST_DRAINED: u64 = 4_000_000_000;
/// Longest file taken, s.
const MOST_S: f64 = 120.0 * 60.0;
/// Most sound kept of one file, bytes.
const MOST_KEPT_BYTES: u64 = 200_000_000;
/// Most strikes kept of one file.
const MOST_STRIKES: usize = 500;

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct FileName {
    /// Name of the file; its ending helps to tell the format.
    #[serde(default)]
    name: String,
    /// A word of the window's own, under which it can ask how far measuring has come.
    job: Option<String>,
}

/// What was read from a file.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FileTake {
    pub take: TakeView,
    pub sample_rate_hz: u32,
    pub channels: usize,
    /// The channel that was measured, from 1.
    pub channel: usize,
    pub duration_s: f64,
    /// What the user should know about how it was read.
    pub notes: Vec<Words>,
}

/// Finds and measures the strikes in a sound file (WAV, FLAC, AIFF, MP3, Vorbis and Opus in Ogg or WebM, AAC and ALAC in MP4 or CAF; up to 1.5 GB and two hours).
#[utoipa::path(post, path = "/drums/{id}/takes/file", tag = "takes", params(("id" = i64, Path), FileName),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = FileTake), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 413, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn add_file(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(FileName { name, job }): Query<FileName>,
    body: Body,
) -> Result<Created<FileTake>, Problem> {
    let heard_by = state.store(move |store| store.drum(id)).await?.drum.heard_by();
    let neighbours = state.store(move |store| Neighbours::of(store, id)).await?;
    state.ready_to_keep().await?;
    let _place = state.upload_place()?;
    let file = received(&state, body, MOST_BYTES).await?;
    let name: String = name.chars().take(200).collect();
    // Called off when this is dropped: with the answer, or with the connection that waited for it.
    let watched = state.readings.watch(job);
    let progress = watched.progress.clone();
    let taken = blocking(move || {
        let so_far = AtomicU64::new(0);
        let heard = measure_file(file.path(), &name, heard_by, MOST_S, MOST_STRIKES, &progress, |strike| packed(strike, &so_far));
        let mut heard = heard.map_err(|error| Problem::unprocessable(error.to_string()))?;
        check(&heard)?;
        let elsewhere = other_drums(heard.strikes.iter_mut().map(|strike| &mut strike.measurement).collect(), &neighbours);
        let mut taken = kept(&state, id, &name, &heard)?;
        taken.notes.extend(elsewhere);
        Ok::<_, Problem>(taken)
    });
    Ok(Created(taken.await??))
}

/// How far the measuring of a file has come.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Reading {
    /// Part that has been read, 0 to 1; 0 where the file does not say how long it is.
    pub share: f64,
    /// Strikes found so far.
    pub strikes: usize,
}

/// How far the measuring of a file has come that was sent under `job`.
#[utoipa::path(get, path = "/readings/{job}", tag = "takes", params(("job" = String, Path)),
    responses((status = 200, body = Reading), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn reading(State(state): State<AppState>, Path(job): Path<String>) -> Result<Json<Reading>, Problem> {
    let progress = state.readings.find(&job);
    let progress = progress.ok_or_else(|| Problem::new(StatusCode::NOT_FOUND, text!("No file is being measured under this name.")))?;
    Ok(Json(Reading { share: progress.share(), strikes: progress.strikes() }))
}

/// The body in a temporary file. One that is too large is read to its end all the same, for a browser whose connection is cut
/// while it sends shows no answer at all.
pub async fn received(state: &AppState, body: Body, most_bytes: u64) -> Result<NamedTempFile, Problem> {
    let failed = |error: std::io::Error| {
        tracing::error!("an upload could not be written: {error}");
        Problem::new(StatusCode::INSUFFICIENT_STORAGE, text!("The file could not be taken in: is the disk full?"))
    };
    let file = state.upload_file().map_err(failed)?;
    let mut writer = tokio::fs::File::from_std(file.reopen().map_err(failed)?);
    let mut pieces = body.into_data_stream();
    let mut size = 0u64;
    while let Some(piece) = pieces.next().await {
        let piece = piece.map_err(|_| Problem::new(StatusCode::BAD_REQUEST, text!("The file broke off on its way. Send it again.")))?;
        size += piece.len() as u64;
        if size <= most_bytes {
            writer.write_all(&piece).await.map_err(failed)?;
        } else if size > MOST_DRAINED {
            break;
        }
    }
    writer.flush().await.map_err(failed)?;
    if size > most_bytes {
        let most = most_bytes / 1_000_000;
        return Err(Problem::new(
            StatusCode::PAYLOAD_TOO_LARGE,
            words!("The file is larger than {most} MB. Cut out the part with the strikes, or save it as FLAC."),
        ));
    }
    Ok(file)
}

/// Refuses a file in which nothing can be a strike, and says what was found instead.
fn check(heard: &HeardFile<Packed>) -> Result<(), Problem> {
    let duration = heard.facts.duration_s;
    if heard.strikes.is_empty() {
        let hint = match () {
            () if heard.loudest_dbfs < -75.0 => text!("It is silent from beginning to end. Was the right input recorded?"),
            () if duration < 1.0 => {
                text!("It is too short to hold a strike that rings out. Record a second of quiet, the strike and its decay.")
            }
            () => text!("Hit the drum by itself, let each strike ring out, and leave quiet before the first one."),
        };
        return Err(Problem::unprocessable(words!("No strike was found in {duration:.1} s of sound. {hint}")));
    }
    let all = |warning| heard.strikes.iter().all(|strike| strike.measurement.warnings.contains(&warning));
    if all(Warning::NotAStrike) && all(Warning::Clipped) {
        return Err(Problem::unprocessable(text!(
            "It is far too loud for its input from beginning to end: nothing but the ceiling is left. Turn the input down, or move the \
             microphone away, and record it again."
        )));
    }
    if all(Warning::NotAStrike) {
        return Err(Problem::unprocessable(text!(
            "Nothing in this file sounds like a strike on a drum: it sounds like talk, clicks, handling or music. \
             Record the drum by itself and let each strike ring out."
        )));
    }
    Ok(())
}

/// Leaves out strikes on other drums of the kit and notes drums that ring along; says so. Where most strikes sound like another drum, it is for the
/// user to say which one was recorded, and all are kept.
fn other_drums(mut strikes: Vec<&mut StrikeMeasurement>, neighbours: &Neighbours) -> Vec<Words> {
    strikes.retain(|strike| strike.warnings.is_empty());
    let mut elsewhere: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    for (at, strike) in strikes.iter_mut().enumerate() {
        neighbours.note(strike);
        if let Some((_, name)) = neighbours.struck_instead(strike) {
            elsewhere.entry(name.to_string()).or_default().push(at);
        }
    }
    let all: usize = elsewhere.values().map(Vec::len).sum();
    let left_out = 2 * all <= strikes.len();
    let mut notes = Vec::new();
    for (name, places) in elsewhere {
        let (count, of) = (places.len(), strikes.len());
        let sound = if count == 1 { text!("sounds") } else { text!("sound") };
        let what =
            if left_out { text!(" and will not count.") } else { text!(". If that is what was hit, it can be kept there, under Hear.") };
        let which = if count == of { words!("It sounds") } else { words!("{count} of its {of} good strikes {sound}") };
        notes.push(words!("{which} like your drum “{name}”{what}"));
        for at in places.into_iter().filter(|_| left_out) {
            strikes[at].warnings.push(Warning::OtherDrum);
        }
    }
    notes
}

/// A strike ready to be kept.
struct Packed {
    measurement: StrikeMeasurement,
    /// None where the take holds enough sound already.
    sound: Result<Option<Vec<u8>>, SoundError>,
    onset_index: usize,
}

/// `strike` with its sound packed, as long as less than [`MOST_KEPT_BYTES`] are packed in all (`so_far`): a take is kept at once, and has to
/// fit into memory until then.
fn packed(strike: HeardStrike, so_far: &AtomicU64) -> Packed {
    let sound = match so_far.load(Ordering::Relaxed) {
        bytes if bytes >= MOST_KEPT_BYTES => Ok(None),
        _ => kept_sound(&strike.captured.samples, strike.captured.sample_rate as u32).map(Some),
    };
    if let Ok(Some(sound)) = &sound {
        so_far.fetch_add(sound.len() as u64, Ordering::Relaxed);
    }
    Packed { measurement: strike.measurement, sound, onset_index: strike.captured.onset_index }
}

fn kept(state: &AppState, drum_id: i64, name: &str, heard: &HeardFile<Packed>) -> Result<FileTake, Problem> {
    let facts = heard.facts;
    let mut strikes: Vec<NewStrike> = Vec::new();
    for strike in &heard.strikes {
        match &strike.sound {
            Ok(Some(sound)) => strikes.push(NewStrike { measurement: &strike.measurement, sound, onset_index: strike.onset_index }),
            Ok(None) => {}
            Err(error) => {
                tracing::error!("{error}");
                return Err(Problem::internal());
            }
        }
    }
    let more = heard.more + heard.strikes.len() - strikes.len();
    let work = |store: &mut Store| {
        let take = store.add_take(drum_id, Source::File, Some(name).filter(|name| !name.is_empty()), now_ms(), &strikes)?;
        take_view(store, take)
    };
    let take = state.with_store(work).map_err(|error: StoreError| Problem::from(error))?;
    let mut notes = Vec::new();
    if facts.channels > 1 {
        notes.push(words!("Of its {} channels, number {} was measured: it is the loudest.", facts.channels, facts.channel + 1));
    }
    if facts.turned_down_db > 0.1 {
        let db = facts.turned_down_db;
        notes.push(words!("It goes {db:.1} dB beyond full scale, so it was turned down by that much. Record or export it softer."));
    }
    if more > 0 {
        notes.push(words!("It holds {more} more strikes than the {} which were kept.", strikes.len()));
    }
    Ok(FileTake {
        take,
        sample_rate_hz: facts.sample_rate,
        channels: facts.channels,
        channel: facts.channel + 1,
        duration_s: facts.duration_s,
        notes,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use ember_core::bench_drum::BenchDrum;
    use ember_core::decay::Listener;
    use ember_core::drum::DrumKind;

    /// Sounds of a take wait in memory until it is kept: five hundred of four seconds at 192 kHz would fill it.
    #[test]
    fn of_a_take_that_holds_enough_sound_no_more_is_packed() {
        let sound = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap().play(1, 11);
        let mut listener = Listener::new(48_000.0);
        let mut heard = listener.push(&sound);
        heard.extend(listener.finish());
        let strike = heard.remove(0);
        let so_far = AtomicU64::new(MOST_KEPT_BYTES - 1);
        assert!(packed(strike.clone(), &so_far).sound.unwrap().is_some());
        assert!(packed(strike, &so_far).sound.unwrap().is_none());
    }
}
