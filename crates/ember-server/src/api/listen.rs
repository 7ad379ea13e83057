//! The listening WebSocket: raw samples in, events out. One window at a time.
//!
//! The window sends binary messages: the index of the first sample (u64, little endian), then samples (f32, little endian, full
//! scale 1). The text "stop" ends listening; so does closing the connection, and what was heard is kept either way.

use super::extract::{Path, Query};
use crate::ears::Stop;
use crate::listening::{Asked, ListenEvent, ListenProblem, Session, Work, play_simulated};
use crate::problem::Problem;
use crate::spoken::{language, spoken};
use crate::state::{AppState, now_ms};
use axum::extract::State;
use axum::extract::ws::rejection::WebSocketUpgradeRejection;
use axum::extract::ws::{CloseFrame, Message, WebSocket, WebSocketUpgrade, close_code};
use axum::response::Response;
use ember_app::Neighbours;
use ember_app::tuning::simulated_drum;
use ember_core::bench_drum::SAMPLE_RATE;
use ember_core::signal::{MAX_SAMPLE_RATE, MIN_SAMPLE_RATE};
use ember_store::Source;
use ember_words::{Text, said_in, text, words};
use serde::Deserialize;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;
use tokio::sync::{mpsc, watch};
use utoipa::IntoParams;

/// A microphone that sends nothing for this long is gone.
const SILENT_AFTER: Duration = Duration::from_secs(10);
/// Messages that may wait to be worked on: about 5 s of sound.
const WAITING: usize = 256;
const MOST_MESSAGE_BYTES: usize = 1_000_000;
const MOST_STRIKES: usize = 20;

/// How to listen.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ListenQuery {
    /// "microphone": the window sends samples; "simulated": the drum's stand-in plays.
    source: Source,
    /// Samples a second that the window sends (8000 to 192000).
    sample_rate: Option<u32>,
    /// Good strikes after which listening ends (1 to 20; 5 if not given), of each dynamic where dynamics are asked for.
    strikes: Option<usize>,
    /// Asks for soft, medium and hard strikes, in this order.
    #[serde(default)]
    dynamics: bool,
    /// Ends another window's listening.
    #[serde(default)]
    take_over: bool,
}

/// Upgrades to a WebSocket on which events come as JSON (`ListenEvent`).
#[utoipa::path(get, path = "/drums/{id}/listen", tag = "takes", params(("id" = i64, Path), ListenQuery),
    responses((status = 101, description = "Events follow.", body = ListenEvent),
    (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn listen(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(query): Query<ListenQuery>,
    upgrade: Result<WebSocketUpgrade, WebSocketUpgradeRejection>,
) -> Result<Response, Problem> {
    let upgrade = upgraded(upgrade)?;
    state.ready_to_keep().await?;
    let drum = state.store(move |store| store.drum(id)).await?;
    let on = state.store(move |store| store.treatment_on(id)).await?;
    let wanted = query.strikes.unwrap_or(5);
    if !(1..=MOST_STRIKES).contains(&wanted) {
        return Err(Problem::unprocessable(words!("Listening ends after 1 to {MOST_STRIKES} strikes.")));
    }
    let rate = rate_of(query.source, query.sample_rate, text!("A file is sent to takes/file, not listened to."))?;
    let heard_by = drum.drum.heard_by();
    let player = if query.source == Source::Simulated {
        let player = state.store(move |store| simulated_drum(store, &drum, on.as_ref())).await?;
        Some(player.map_err(Problem::cannot_be)?)
    } else {
        None
    };
    let (events, told) = mpsc::unbounded_channel();
    let asked = Asked::new(query.dynamics);
    let neighbours = state.store(move |store| Neighbours::of(store, id)).await?;
    let session = Session {
        state: state.clone(),
        drum_id: id,
        source: query.source,
        heard_by,
        rate,
        wanted,
        asked: asked.clone(),
        neighbours,
        events,
    };
    let player: Option<Player> = player.map(|drum| -> Player {
        Box::new(move |work, stopped| play_simulated(&drum, now_ms().unsigned_abs(), &asked, work, || stopped.load(Ordering::Relaxed)))
    });
    let conversation = Conversation { run: Box::new(move |to_do| session.run(to_do)), told, player, take_over: query.take_over };
    Ok(conversation.begin(state, upgrade))
}

/// Something that plays into a session until it no longer takes it or the flag says so.
pub(super) type Player = Box<dyn FnOnce(&mpsc::Sender<Work>, &AtomicBool) + Send>;

/// A session and its window.
pub(super) struct Conversation {
    /// Works off what it is sent until it has enough or nothing more comes; on a thread of its own.
    pub run: Box<dyn FnOnce(mpsc::Receiver<Work>) + Send>,
    /// What it tells.
    pub told: mpsc::UnboundedReceiver<ListenEvent>,
    /// What plays instead of a microphone.
    pub player: Option<Player>,
    pub take_over: bool,
}

impl Conversation {
    pub(super) fn begin(self, state: AppState, upgrade: WebSocketUpgrade) -> Response {
        // What is told on the socket is told in the language of the request that opened it.
        let language = language();
        upgrade.max_message_size(MOST_MESSAGE_BYTES).on_upgrade(move |socket| async move {
            let sessions = state.sessions.clone();
            sessions.track_future(spoken(language, converse(socket, state, self))).await;
        })
    }
}

/// The upgrade to a WebSocket, if that is what was asked for.
pub(super) fn upgraded(upgrade: Result<WebSocketUpgrade, WebSocketUpgradeRejection>) -> Result<WebSocketUpgrade, Problem> {
    upgrade.map_err(|_| Problem::unprocessable(text!("This address speaks WebSocket only.")))
}

/// Samples a second of what is listened to: what the window names, or the simulation's own. `no_file` says where files go.
pub(super) fn rate_of(source: Source, sample_rate: Option<u32>, no_file: Text) -> Result<u32, Problem> {
    match (source, sample_rate) {
        (Source::Simulated, _) => Ok(SAMPLE_RATE),
        (Source::File, _) => Err(Problem::unprocessable(no_file)),
        (Source::Microphone, Some(rate)) if (MIN_SAMPLE_RATE..=MAX_SAMPLE_RATE).contains(&rate) => Ok(rate),
        (Source::Microphone, _) => {
            Err(Problem::unprocessable(words!("The microphone's sample rate must be between {MIN_SAMPLE_RATE} and {MAX_SAMPLE_RATE} Hz.")))
        }
    }
}

async fn converse(mut socket: WebSocket, state: AppState, conversation: Conversation) {
    let Conversation { run, mut told, player, take_over } = conversation;
    let Some(mut hold) = state.ears.take(take_over) else {
        let detail = text!("Another window is listening. Stop it there, or take over here.");
        tell(&mut socket, &problem(ListenProblem::Busy, detail)).await;
        return close(socket).await;
    };
    let (work, to_do) = mpsc::channel(WAITING);
    let worker = tokio::task::spawn_blocking(move || run(to_do));
    let mut talk = Talk { socket, work: Some(work), stopped: Arc::default(), is_simulated: player.is_some(), window_there: true };
    if let (Some(player), Some(work)) = (player, talk.work.clone()) {
        let stopped = talk.stopped.clone();
        tokio::task::spawn_blocking(move || player(&work, &stopped));
    }
    talk.tell(&ListenEvent::Ready).await;
    loop {
        tokio::select! {
            event = told.recv() => match event {
                Some(event) => talk.tell(&event).await,
                // The session has ended.
                None => break,
            },
            stop = stopping(&mut hold.stop), if talk.work.is_some() => talk.end(match stop {
                Stop::TakenOver => problem(ListenProblem::TakenOver, text!("Another window listens now. What was heard here is kept.")),
                _ => problem(ListenProblem::Shutdown, text!("Soft Ember was stopped. What was heard is kept.")),
            }).await,
            message = talk.socket.recv(), if talk.window_there => talk.heard(message).await,
            () = tokio::time::sleep(SILENT_AFTER), if talk.work.is_some() && !talk.is_simulated => {
                let detail = text!("No sound has come from the microphone for ten seconds. Is it still plugged in?");
                talk.end(problem(ListenProblem::Silent, detail)).await;
            }
        }
    }
    talk.finish();
    if let Err(error) = worker.await {
        tracing::error!("listening failed: {error}");
        let detail = text!("Soft Ember failed while it listened. What was heard before is kept; listen again.");
        talk.tell(&problem(ListenProblem::Failed, detail)).await;
    }
    if talk.window_there {
        close(talk.socket).await;
    }
}

fn problem(problem: ListenProblem, detail: Text) -> ListenEvent {
    ListenEvent::Problem { problem, detail: detail.into() }
}

/// A session's end at the window.
struct Talk {
    socket: WebSocket,
    /// Dropped as soon as no more sound may come, which ends the session.
    work: Option<mpsc::Sender<Work>>,
    /// Told to what plays instead of a microphone.
    stopped: Arc<AtomicBool>,
    is_simulated: bool,
    window_there: bool,
}

impl Talk {
    async fn tell(&mut self, event: &ListenEvent) {
        self.window_there = self.window_there && tell(&mut self.socket, event).await;
    }

    /// Says why no more sound is taken; what there is is still worked off.
    async fn end(&mut self, why: ListenEvent) {
        self.tell(&why).await;
        self.finish();
    }

    /// Lets the session work off what it has and end.
    fn finish(&mut self) {
        self.stopped.store(true, Ordering::Relaxed);
        self.work = None;
    }

    async fn heard(&mut self, message: Option<Result<Message, axum::Error>>) {
        match message {
            Some(Ok(Message::Binary(bytes))) if !self.is_simulated => self.take_in(&bytes).await,
            Some(Ok(Message::Text(text))) => match text.as_str() {
                "stop" => self.finish(),
                "next" => self.step(Work::Next).await,
                "back" => self.step(Work::Back).await,
                _ => {}
            },
            Some(Ok(Message::Close(_)) | Err(_)) | None => {
                self.window_there = false;
                self.finish();
            }
            Some(Ok(_)) => {}
        }
    }

    async fn take_in(&mut self, bytes: &[u8]) {
        let Some(work) = &self.work else { return };
        match samples(bytes) {
            Some(samples) => {
                if work.send(samples).await.is_err() {
                    self.finish();
                }
            }
            None => {
                let detail = text!("The microphone's samples arrived garbled. Reload the page and try again.");
                self.end(problem(ListenProblem::BadSamples, detail)).await;
            }
        }
    }

    async fn step(&mut self, step: Work) {
        if let Some(work) = &self.work {
            // A session that has just ended steps no more.
            let _ = work.send(step).await;
        }
    }
}

/// Why the session has to end, once it has to.
async fn stopping(stop: &mut watch::Receiver<Stop>) -> Stop {
    stop.wait_for(|stop| *stop != Stop::No).await.map_or(Stop::Shutdown, |stop| *stop)
}

fn samples(bytes: &[u8]) -> Option<Work> {
    let (start, rest) = bytes.split_first_chunk::<8>()?;
    let (values, left) = rest.as_chunks::<4>();
    left.is_empty().then(|| Work::Samples {
        start: u64::from_le_bytes(*start),
        samples: values.iter().map(|value| f32::from_le_bytes(*value)).collect(),
    })
}

/// Whether the window could still be told.
async fn tell(socket: &mut WebSocket, event: &ListenEvent) -> bool {
    let Ok(text) = said_in(language(), || serde_json::to_string(event)) else { return true };
    socket.send(Message::Text(text.into())).await.is_ok()
}

async fn close(mut socket: WebSocket) {
    let frame = CloseFrame { code: close_code::NORMAL, reason: "".into() };
    // The window may be gone already, which is as good.
    let _ = socket.send(Message::Close(Some(frame))).await;
}
