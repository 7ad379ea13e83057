//! Tuning a head: its rounds, what was turned, what it is to be tuned to, and tapping live.

use super::extract::{Body, Path, Query};
use super::listen::{Conversation, Player, rate_of, upgraded};
use crate::listening::ListenEvent;
use crate::problem::Problem;
use crate::spoken::Json;
use crate::state::{AppState, now_ms};
use crate::tuning::{Asking, TapSession, tap_simulated};
use axum::extract::State;
use axum::extract::ws::WebSocketUpgrade;
use axum::extract::ws::rejection::WebSocketUpgradeRejection;
use axum::http::StatusCode;
use axum::response::Response;
use ember_app::tuning::{KitPitches, Tuning, kit_pitches, simulated_rods, tuning};
use ember_core::bench_drum::TappedHead;
use ember_core::drum::HeadSide;
use ember_core::tuning::{Expected, GuideStep, SeatingTask, TomIntervals, bass_notes, crosswise, seating_steps};
use ember_store::{Source, StoreError};
use ember_words::{text, words};
use serde::Deserialize;
use std::sync::Arc;
use std::sync::atomic::Ordering;
use tokio::sync::mpsc;
use utoipa::{IntoParams, ToSchema};

/// Most eighths that one rod can have been turned between two rounds.
const MOST_TURNED: i32 = 80;
/// Lug pitches that a drum can have, Hz.
const LUG_HZ: std::ops::RangeInclusive<f64> = 30.0..=1200.0;

/// Which head.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SideQuery {
    #[param(inline)]
    pub side: HeadSide,
}

/// Reads how a head is tuned and what to turn next.
#[utoipa::path(get, path = "/drums/{id}/tuning", tag = "tuning", params(("id" = i64, Path), SideQuery),
    responses((status = 200, body = Tuning), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_tuning(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<SideQuery>,
) -> Result<Json<Tuning>, Problem> {
    state.store(move |store| tuning(store, id, query.side)).await.map(Json)
}

/// What a head is to be tuned to.
#[derive(Debug, Deserialize, ToSchema)]
pub struct TuningWish {
    side: HeadSide,
    /// Pitch of the lugs, Hz (30 to 1200). Null: even at the pitch the head has.
    wanted_hz: Option<f64>,
}

/// Says what pitch a head's lugs are to have.
#[utoipa::path(put, path = "/drums/{id}/tuning/wish", tag = "tuning", request_body = TuningWish, params(("id" = i64, Path)),
    responses((status = 200, body = Tuning), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_wish(State(state): State<AppState>, Path(id): Path<i64>, Body(wish): Body<TuningWish>) -> Result<Json<Tuning>, Problem> {
    if wish.wanted_hz.is_some_and(|hz| !LUG_HZ.contains(&hz)) {
        return Err(Problem::unprocessable(words!("A lug's pitch lies between {} and {} Hz.", LUG_HZ.start(), LUG_HZ.end())));
    }
    state
        .store(move |store| {
            store.set_wanted_hz(id, wish.side, wish.wanted_hz)?;
            tuning(store, id, wish.side)
        })
        .await
        .map(Json)
}

/// What was turned after a round.
#[derive(Debug, Deserialize, ToSchema)]
pub struct Turned {
    /// Eighths of a turn on each rod in hoop order, tighter positive (-80 to 80). Null: nothing was turned after all.
    eighths: Option<Vec<i32>>,
}

/// Reports what was turned after a round.
#[utoipa::path(put, path = "/rounds/{id}/turned", tag = "tuning", request_body = Turned, params(("id" = i64, Path)),
    responses((status = 200, body = Tuning), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn set_turned(State(state): State<AppState>, Path(id): Path<i64>, Body(turned): Body<Turned>) -> Result<Json<Tuning>, Problem> {
    let round = state.store(move |store| store.round(id)).await?;
    if let Some(eighths) = &turned.eighths {
        if eighths.len() != round.lugs {
            return Err(Problem::unprocessable(words!("This head has {} rods; say for each what it was turned.", round.lugs)));
        }
        if eighths.iter().any(|t| t.abs() > MOST_TURNED) {
            return Err(Problem::unprocessable(text!("A rod is turned by ten whole turns at most between two rounds.")));
        }
    }
    let newest = state.store(move |store| store.rounds(round.drum_id, round.side)).await?;
    if newest.first().map(|newest| newest.id) != Some(id) {
        return Err(Problem::conflict(text!("A later round was tapped by now. What was turned before it stays as it was reported.")));
    }
    state
        .store(move |store| {
            store.set_turned(id, turned.eighths.as_deref())?;
            tuning(store, round.drum_id, round.side)
        })
        .await
        .map(Json)
}

/// Removes a round; it can be brought back.
#[utoipa::path(delete, path = "/rounds/{id}", tag = "tuning", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn remove_round(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_round_gone(id, Some(now_ms()))).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Brings a removed round back.
#[utoipa::path(post, path = "/rounds/{id}/back", tag = "tuning", params(("id" = i64, Path)),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn bring_back_round(State(state): State<AppState>, Path(id): Path<i64>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_round_gone(id, None)).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What the kit's pitches are held against.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct KitPitchesQuery {
    #[param(inline)]
    intervals: TomIntervals,
    /// The song's key ("A minor") or the bass's lowest notes ("E1, A1, D2"); nothing to leave the bass out.
    #[serde(default)]
    bass: String,
}

/// Reads how the kit's pitches stand, and what would bring toms into `intervals` and the kick clear of the bass.
#[utoipa::path(get, path = "/kit/pitches", tag = "tuning", params(KitPitchesQuery),
    responses((status = 200, body = KitPitches), (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn get_kit_pitches(State(state): State<AppState>, Query(query): Query<KitPitchesQuery>) -> Result<Json<KitPitches>, Problem> {
    let bass = if query.bass.trim().is_empty() { Vec::new() } else { bass_notes(&query.bass).map_err(Problem::cannot_be)? };
    state.store(move |store| kit_pitches(store, query.intervals, &bass)).await.map(Json)
}

/// Which head, and why it is handled.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SeatingQuery {
    #[param(inline)]
    side: HeadSide,
    #[param(inline)]
    task: SeatingTask,
}

/// Reads the steps of seating a head.
#[utoipa::path(get, path = "/drums/{id}/tuning/seating", tag = "tuning", params(("id" = i64, Path), SeatingQuery),
    responses((status = 200, body = Vec<GuideStep>), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn seating(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<SeatingQuery>,
) -> Result<Json<Vec<GuideStep>>, Problem> {
    let drum = state.store(move |store| store.drum_with_heads(id)).await?.drum;
    Ok(Json(seating_steps(&drum, query.side, query.task)))
}

/// Says that a head was seated by the guide, from finger-tight rods: from here on it is known how far each is turned.
#[utoipa::path(post, path = "/drums/{id}/tuning/seated", tag = "tuning", params(("id" = i64, Path), SideQuery),
    responses((status = 204), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn seated(State(state): State<AppState>, Path(id): Path<i64>, Query(query): Query<SideQuery>) -> Result<StatusCode, Problem> {
    state.store(move |store| store.set_seated(id, query.side, now_ms())).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// How to listen to taps.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TapQuery {
    #[param(inline)]
    side: HeadSide,
    /// "microphone": the window sends samples; "simulated": the head's stand-in is tapped.
    #[param(inline)]
    source: Source,
    /// Samples a second that the window sends (8000 to 192000).
    sample_rate: Option<u32>,
    /// Asks for this lug of the newest round again, and for no other.
    again_lug: Option<usize>,
    /// Begins a new round even where the newest one is not complete.
    #[serde(default)]
    anew: bool,
    /// Ends another window's listening.
    #[serde(default)]
    take_over: bool,
}

/// Upgrades to a WebSocket on which events come as JSON (`ListenEvent`), for a round of taps. The texts "next" and "back" step
/// through the lugs. A round that was broken off is gone on with.
#[utoipa::path(get, path = "/drums/{id}/tuning/listen", tag = "tuning", params(("id" = i64, Path), TapQuery),
    responses((status = 101, description = "Events follow.", body = ListenEvent),
    (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn listen_to_taps(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<TapQuery>,
    upgrade: Result<WebSocketUpgrade, WebSocketUpgradeRejection>,
) -> Result<Response, Problem> {
    let upgrade = upgraded(upgrade)?;
    state.ready_to_keep().await?;
    let rate = rate_of(query.source, query.sample_rate, text!("Taps are listened to live; a file has no lug that was asked for."))?;
    let (side, source) = (query.side, query.source);
    let (drum, rods) = state
        .store(move |store| {
            let drum = store.drum_with_heads(id)?;
            let rods = simulated_rods(store, &drum, side)?;
            Ok::<_, StoreError>((drum.drum, rods))
        })
        .await?;
    if side == HeadSide::Lower && drum.lower.is_none() {
        return Err(Problem::unprocessable(words!(
            "The {} is off. Say in the drum's data when it is on again.",
            drum.kind.lower_head_word()
        )));
    }
    let lugs = usize::from(drum.lugs);
    let rounds = state.store(move |store| store.rounds(id, side)).await?;
    // A round of real taps is not gone on with by simulated ones, nor the other way round.
    let open = rounds.first().filter(|round| round.turned.is_none() && round.source == source);
    let again = query.again_lug.filter(|lug| *lug < lugs).zip(open.cloned());
    let (round, asked) = match (again, open.filter(|round| !round.complete() && !query.anew).cloned()) {
        (Some((lug, round)), _) => (round, vec![lug]),
        (None, Some(round)) => {
            let left = TapSession::left(&round);
            (round, left)
        }
        (None, None) => (state.store(move |store| store.begin_round(id, side, lugs, source, now_ms())).await?, crosswise(lugs)),
    };
    let expected = rounds.iter().find_map(|round| round.pitches.mean_hz).map_or_else(|| Expected::of(&drum), Expected::heard);
    let asking = Arc::new(Asking::first(asked.first().copied()));
    let (events, told) = mpsc::unbounded_channel();
    let player: Option<Player> = (source == Source::Simulated).then(|| {
        let asking = asking.clone();
        Box::new(move |work: &mpsc::Sender<_>, stopped: &std::sync::atomic::AtomicBool| {
            let head = TappedHead::of(&drum, side, rods.seed, &rods.eighths);
            tap_simulated(&head, &asking, now_ms().unsigned_abs(), work, || stopped.load(Ordering::Relaxed));
        }) as Player
    });
    let session = TapSession { state: state.clone(), round, expected, asked, rate, asking, events };
    let conversation = Conversation { run: Box::new(move |to_do| session.run(to_do)), told, player, take_over: query.take_over };
    Ok(conversation.begin(state, upgrade))
}
