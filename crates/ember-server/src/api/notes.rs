//! Training note lengths on a drum that rings on.

use super::extract::{Path, Query};
use super::listen::{Conversation, Player, rate_of, upgraded};
use crate::listening::{ListenEvent, note_session, play_notes};
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::extract::ws::WebSocketUpgrade;
use axum::extract::ws::rejection::WebSocketUpgradeRejection;
use axum::response::Response;
use ember_app::tuning::simulated_drum;
use ember_core::target::{NoteValue, WrittenNote, check_bpm};
use ember_store::Source;
use ember_words::text;
use serde::Deserialize;
use std::sync::atomic::Ordering;
use tokio::sync::mpsc;
use utoipa::IntoParams;

/// Which notes are to be played, and how they are heard.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct NotesQuery {
    /// "microphone": the window sends samples; "simulated": the drum's stand-in plays.
    #[param(inline)]
    source: Source,
    /// The note as it is written.
    #[param(inline)]
    value: NoteValue,
    /// Quarter notes a minute (30 to 300).
    bpm: f64,
    /// Samples a second that the window sends (8000 to 192000).
    sample_rate: Option<u32>,
    /// Ends another window's listening.
    #[serde(default)]
    take_over: bool,
}

/// Upgrades to a WebSocket on which each note comes as JSON (`ListenEvent`) when it has ended, held against the written one.
#[utoipa::path(get, path = "/drums/{id}/notes/listen", tag = "takes", params(("id" = i64, Path), NotesQuery),
    responses((status = 101, description = "Events follow.", body = ListenEvent),
    (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn listen_to_notes(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<NotesQuery>,
    upgrade: Result<WebSocketUpgrade, WebSocketUpgradeRejection>,
) -> Result<Response, Problem> {
    let upgrade = upgraded(upgrade)?;
    let drum = state.store(move |store| store.drum(id)).await?;
    check_bpm(query.bpm).map_err(Problem::cannot_be)?;
    let written = WrittenNote { value: query.value, bpm: query.bpm };
    let rate = rate_of(query.source, query.sample_rate, text!("Notes are listened to live."))?;
    let player = if query.source == Source::Simulated {
        let on = state.store(move |store| store.treatment_on(id)).await?;
        let simulated = state.store(move |store| simulated_drum(store, &drum, on.as_ref())).await?;
        let simulated = simulated.map_err(|error| Problem::unprocessable(error.to_string()))?;
        let play: Player = Box::new(move |work, stopped| {
            play_notes(&simulated, now_ms().unsigned_abs(), written, work, || stopped.load(Ordering::Relaxed));
        });
        Some(play)
    } else {
        None
    };
    let (events, told) = mpsc::unbounded_channel();
    let session = note_session(rate, written, events);
    let conversation = Conversation { run: Box::new(move |to_do| session.run(to_do)), told, player, take_over: query.take_over };
    Ok(conversation.begin(state, upgrade))
}
