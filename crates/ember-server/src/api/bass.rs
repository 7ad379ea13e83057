//! Listening to a bass live, to hold the kick against its notes.

use super::extract::Query;
use super::listen::{Conversation, Player, rate_of, upgraded};
use crate::listening::ListenEvent;
use crate::problem::Problem;
use crate::state::{AppState, now_ms};
use crate::tuning::{bass_session, play_bass};
use axum::extract::State;
use axum::extract::ws::WebSocketUpgrade;
use axum::extract::ws::rejection::WebSocketUpgradeRejection;
use axum::response::Response;
use ember_store::Source;
use ember_words::text;
use serde::Deserialize;
use std::sync::atomic::Ordering;
use tokio::sync::mpsc;
use utoipa::IntoParams;

/// How to listen to a bass.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct BassQuery {
    /// "microphone": the window sends samples; "simulated": a simulated bass plays.
    #[param(inline)]
    source: Source,
    /// Samples a second that the window sends (8000 to 192000).
    sample_rate: Option<u32>,
    /// Ends another window's listening.
    #[serde(default)]
    take_over: bool,
}

/// Upgrades to a WebSocket on which the notes of a bass come as JSON (`ListenEvent`).
#[utoipa::path(get, path = "/bass/listen", tag = "tuning", params(BassQuery),
    responses((status = 101, description = "Events follow.", body = ListenEvent),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn listen_to_bass(
    State(state): State<AppState>,
    Query(query): Query<BassQuery>,
    upgrade: Result<WebSocketUpgrade, WebSocketUpgradeRejection>,
) -> Result<Response, Problem> {
    let upgrade = upgraded(upgrade)?;
    let rate = rate_of(query.source, query.sample_rate, text!("A bass is listened to live."))?;
    let (events, told) = mpsc::unbounded_channel();
    let player = (query.source == Source::Simulated)
        .then(|| -> Player { Box::new(|work, stopped| play_bass(now_ms().unsigned_abs(), work, || stopped.load(Ordering::Relaxed))) });
    let session = bass_session(rate, events);
    let conversation = Conversation { run: Box::new(move |to_do| session.run(to_do)), told, player, take_over: query.take_over };
    Ok(conversation.begin(state, upgrade))
}
