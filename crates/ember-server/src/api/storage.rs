//! How the data is kept: what is to be said about it at once, what takes room, copies, and what can be let go.

use super::created::Created;
use super::extract::Body;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::http::StatusCode;
use ember_store::{DamagedRow, DataCopy, DiskRoom, Salvaged, Store, StoreError, Thinned, Thinning};
use ember_words::{Joined, Words, text, words};
use serde::Serialize;
use std::sync::atomic::Ordering;
use utoipa::ToSchema;

/// How much a note matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Weight {
    /// Nothing new can be kept, or something was lost.
    Serious,
    /// Good to know.
    Mild,
}

/// Something to be said about the data.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DataNote {
    /// A word that stays the same, by which a note that was read can be put away.
    pub code: &'static str,
    pub weight: Weight,
    pub sentence: Words,
}

/// How the data is kept.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DataStatus {
    /// Whether this data file was made as a demonstration.
    pub demo: bool,
    pub read_only: bool,
    /// Most serious first; empty where all is well.
    pub notes: Vec<DataNote>,
    /// Rows that cannot be read; they are left out everywhere else.
    pub damaged: Vec<DamagedRow>,
    /// What mending came to, where the file was damaged when the program started.
    pub salvaged: Option<Salvaged>,
}

/// Reads how the data is kept.
#[utoipa::path(get, path = "/data", tag = "storage", responses((status = 200, body = DataStatus)))]
pub async fn get_data(State(state): State<AppState>) -> Result<Json<DataStatus>, Problem> {
    let here = state.clone();
    state.store(move |store| status(&here, store)).await.map(Json)
}

fn status(state: &AppState, store: &mut Store) -> Result<DataStatus, StoreError> {
    let note = |code, weight, sentence: Words| DataNote { code, weight, sentence };
    let mut notes = Vec::new();
    if store.is_read_only() {
        let sentence = text!("This data can only be read here: you can look at everything, but nothing new is kept.");
        notes.push(note("read_only", Weight::Serious, sentence.into()));
    }
    if let Some(problem) = state.short_of_room(store) {
        notes.push(note("disk_full", Weight::Serious, problem));
    }
    let salvaged = store.salvaged().cloned();
    if let Some(salvaged) = &salvaged {
        let lost = match salvaged.lost.as_slice() {
            [] => words!("Nothing was lost."),
            [one] => words!("One row could not be read: {one}."),
            many => {
                words!("{} rows could not be read: {}.", many.len(), listed(&many.iter().cloned().map(Words::verbatim).collect::<Vec<_>>()))
            }
        };
        let sentence = words!("The data file was damaged and has been mended. {lost} The damaged file is kept at {}.", salvaged.kept_at);
        notes.push(note("mended", Weight::Serious, sentence));
    }
    if state.health.damaged.load(Ordering::Relaxed) {
        let sentence =
            text!("The data file is damaged in places. Stop Soft Ember and start it again: it is mended then, and a copy is kept.");
        notes.push(note("damaged_file", Weight::Serious, sentence.into()));
    }
    let damaged = store.damaged_rows();
    if !damaged.is_empty() {
        let rows: Vec<Words> = damaged.iter().map(|row| words!("{} {}", row.what, row.id)).collect();
        let sentence = words!("Some of what was kept cannot be read and is left out: {}. Everything else is as it was.", listed(&rows));
        notes.push(note("damaged_rows", Weight::Serious, sentence));
    }
    if let Some(behind) = store.clock_is_behind_by(now_ms())? {
        let sentence = words!(
            "This machine's clock stands {} before what was recorded last. The order of takes is kept; their dates may be wrong until the clock is set.",
            long(behind)
        );
        notes.push(note("clock", Weight::Mild, sentence));
    }
    if state.health.copy_failed.load(Ordering::Relaxed) {
        let sentence = text!("No copy of the data could be made today: is there room on the disk?");
        notes.push(note("no_copy", Weight::Mild, sentence.into()));
    }
    Ok(DataStatus { demo: state.demo, read_only: store.is_read_only(), notes, damaged, salvaged })
}

/// The first few of `words`.
fn listed(words: &[Words]) -> Words {
    const NAMED: usize = 5;
    let named = Words::list(Joined::Comma, words.iter().take(NAMED).cloned());
    if words.len() > NAMED { words!("{named} and {} more", words.len() - NAMED) } else { named }
}

/// A time of `ms` in words.
fn long(ms: i64) -> Words {
    match ms / 60_000 {
        minutes if minutes < 2 => words!("one minute"),
        minutes if minutes < 120 => words!("{minutes} minutes"),
        minutes if minutes < 48 * 60 => words!("{} hours", minutes / 60),
        minutes => words!("{} days", minutes / (24 * 60)),
    }
}

/// What takes room, and what is done about it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Storage {
    /// Where the data is; null while it is in memory only.
    pub path: Option<String>,
    pub room: DiskRoom,
    /// Newest first.
    pub copies: Vec<DataCopy>,
    /// The user's rule for letting old sound go; null while there is none.
    pub thinning: Option<Thinning>,
}

/// Reads what takes room.
#[utoipa::path(get, path = "/storage", tag = "storage", responses((status = 200, body = Storage)))]
pub async fn get_storage(State(state): State<AppState>) -> Result<Json<Storage>, Problem> {
    let path = state.path.clone();
    let work = move |store: &mut Store| {
        Ok::<_, StoreError>(Storage {
            room: store.room()?,
            copies: path.as_deref().map(Store::copies).unwrap_or_default(),
            path: path.map(|path| path.display().to_string()),
            thinning: store.thinning()?,
        })
    };
    state.store(work).await.map(Json)
}

/// Sets the rule for letting old sound go.
#[utoipa::path(put, path = "/storage/thinning", tag = "storage", request_body = Thinning, responses((status = 204),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn set_thinning(State(state): State<AppState>, Body(rule): Body<Thinning>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_thinning(Some(rule))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Forgets the rule: all sound stays.
#[utoipa::path(delete, path = "/storage/thinning", tag = "storage", responses((status = 204)))]
pub async fn forget_thinning(State(state): State<AppState>) -> Result<StatusCode, Problem> {
    state.store(|store| store.set_thinning(None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Says what a rule would let go, and lets nothing go.
#[utoipa::path(post, path = "/storage/thinning/outlook", tag = "storage", request_body = Thinning, responses((status = 200, body = Thinned),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn would_thin(State(state): State<AppState>, Body(rule): Body<Thinning>) -> Result<Json<Thinned>, Problem> {
    state.store(move |store| store.would_thin(rule, now_ms())).await.map(Json)
}

/// Lets old sound go by a rule, now; figures stay as they are.
#[utoipa::path(post, path = "/storage/thinning/done", tag = "storage", request_body = Thinning, responses((status = 200, body = Thinned),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn thin(State(state): State<AppState>, Body(rule): Body<Thinning>) -> Result<Json<Thinned>, Problem> {
    let thinned = state.store(move |store| store.thin(rule, now_ms())).await?;
    while state.store(Store::give_back).await? {}
    Ok(Json(thinned))
}

/// Writes the data file anew without what holds nothing any more.
#[utoipa::path(post, path = "/storage/compaction", tag = "storage", responses((status = 200, body = DiskRoom),
    (status = 507, body = Problem, content_type = "application/problem+json")))]
pub async fn compact(State(state): State<AppState>) -> Result<Json<DiskRoom>, Problem> {
    let work = |store: &mut Store| {
        store.compact()?;
        store.room()
    };
    state.store(work).await.map(Json)
}

/// Makes a copy of the data now.
#[utoipa::path(post, path = "/storage/copies", tag = "storage", responses((status = 201, body = Vec<DataCopy>),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 507, body = Problem, content_type = "application/problem+json")))]
pub async fn copy_now(State(state): State<AppState>) -> Result<Created<Vec<DataCopy>>, Problem> {
    let Some(path) = state.path.clone() else {
        return Err(Problem::conflict(text!("This data is in memory only; there is no file to copy.")));
    };
    let copies = crate::computing::blocking(move || Store::copy_now(&path).map(|_| Store::copies(&path))).await?;
    Ok(Created(copies?))
}
