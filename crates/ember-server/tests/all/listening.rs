//! Live listening over the WebSocket, as a browser's microphone would send it.

use crate::common::{TOM, state, strikes};
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::drum::DrumKind;
use ember_server::api::router;
use ember_server::state::AppState;
use futures_util::{SinkExt, StreamExt};
use serde_json::{Value, json as value};
use std::time::Duration;
use tokio::net::{TcpListener, TcpStream};
use tokio_tungstenite::tungstenite::{Error, Message};
use tokio_tungstenite::{MaybeTlsStream, WebSocketStream, connect_async};

type Socket = WebSocketStream<MaybeTlsStream<TcpStream>>;

/// A server on a free port.
async fn served(state: &AppState) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let app = router(state.clone());
    tokio::spawn(async move { axum::serve(listener, app).await.unwrap() });
    format!("ws://{address}/api/v1/drums/{TOM}/listen")
}

async fn microphone(address: &str, more: &str) -> Socket {
    connect_async(format!("{address}?source=microphone&sample_rate={SAMPLE_RATE}{more}")).await.unwrap().0
}

async fn send(socket: &mut Socket, start: usize, samples: &[f32]) {
    for (piece, part) in samples.chunks(1024).enumerate() {
        let mut bytes = ((start + piece * 1024) as u64).to_le_bytes().to_vec();
        part.iter().for_each(|x| bytes.extend_from_slice(&x.to_le_bytes()));
        // The server may have ended already; what it says is looked at afterwards.
        if socket.send(Message::Binary(bytes.into())).await.is_err() {
            return;
        }
    }
}

/// Everything the server says until it closes, levels left out.
async fn said(socket: &mut Socket) -> Vec<Value> {
    let mut all = Vec::new();
    let listen = async {
        while let Some(message) = socket.next().await {
            match message {
                Ok(Message::Text(text)) => all.push(serde_json::from_str(&text).unwrap()),
                Ok(Message::Close(_)) | Err(Error::ConnectionClosed | Error::Protocol(_) | Error::Io(_)) => break,
                Ok(_) => {}
                Err(error) => panic!("{error}"),
            }
        }
    };
    tokio::time::timeout(Duration::from_secs(60), listen).await.expect("the server never closed");
    all.retain(|event: &Value| event["event"] != "level");
    all
}

fn events(all: &[Value]) -> Vec<&str> {
    all.iter().map(|event| event["event"].as_str().unwrap()).collect()
}

fn used(state: &AppState) -> usize {
    state.with_store(|store| store.takes(TOM, None, 99).unwrap().0.first().map_or(0, |take| take.summary.strikes_used))
}

#[tokio::test]
async fn it_ends_by_itself_after_the_strikes_wanted_and_keeps_them() {
    let state = state();
    let mut socket = microphone(&served(&state).await, "&strikes=2").await;
    send(&mut socket, 0, strikes()).await;
    send(&mut socket, strikes().len(), &[0.0; 48_000]).await;
    let all = said(&mut socket).await;
    assert_eq!(events(&all), ["ready", "strike", "strike", "done"]);
    assert_eq!((&all[2]["good"], &all[3]["complete"]), (&2.into(), &true.into()));
    assert_eq!(used(&state), 2);
    let (strike, sound) = state.with_store(|store| {
        let take = store.takes(TOM, None, 99).unwrap().0.remove(0);
        let strike = store.strikes(take.id).unwrap().remove(0);
        (strike.clone(), store.sound(strike.id).unwrap())
    });
    assert_eq!(all[1]["strike"]["id"], strike.id, "what was told is what is kept");
    assert!(sound.starts_with(b"fLaC"));
}

#[tokio::test]
async fn a_connection_dropped_mid_strike_keeps_what_was_heard() {
    let state = state();
    let mut socket = microphone(&served(&state).await, "").await;
    // The first strike is at 0.8 s; it breaks off 0.9 s later.
    send(&mut socket, 0, &strikes()[..81_600]).await;
    drop(socket);
    for _ in 0..200 {
        tokio::time::sleep(Duration::from_millis(50)).await;
        if state.with_store(|store| store.takes(TOM, None, 99).unwrap().0.len()) == 1 && state.ears.take(false).is_some() {
            break;
        }
    }
    let kept = state.with_store(|store| {
        let take = store.takes(TOM, None, 99).unwrap().0.remove(0);
        store.strikes(take.id).unwrap()
    });
    assert_eq!(kept.len(), 1);
    assert!(kept[0].measurement.profile.body_t60_s.is_some());
}

#[tokio::test]
async fn two_windows_do_not_listen_at_once_but_one_may_take_over() {
    let state = state();
    let address = served(&state).await;
    let mut first = microphone(&address, "").await;
    assert_eq!(events(&[serde_json::from_str(first.next().await.unwrap().unwrap().to_text().unwrap()).unwrap()]), ["ready"]);
    let refused = said(&mut microphone(&address, "").await).await;
    assert_eq!((events(&refused), &refused[0]["problem"]), (vec!["problem"], &"busy".into()));
    let mut second = microphone(&address, "&take_over=true&strikes=1").await;
    let ended = said(&mut first).await;
    assert_eq!((events(&ended), &ended[0]["problem"]), (vec!["problem", "done"], &"taken_over".into()));
    send(&mut second, 0, strikes()).await;
    assert_eq!(events(&said(&mut second).await), ["ready", "strike", "done"]);
}

#[tokio::test]
async fn a_server_that_stops_tells_the_window_and_keeps_the_strike() {
    let state = state();
    let mut socket = microphone(&served(&state).await, "").await;
    send(&mut socket, 0, &strikes()[..60_000]).await;
    // Levels are told at most twenty times a second.
    tokio::time::sleep(Duration::from_millis(300)).await;
    send(&mut socket, 60_000, &strikes()[60_000..81_600]).await;
    while let Some(Ok(message)) = socket.next().await {
        let event: Value = serde_json::from_str(message.to_text().unwrap()).unwrap();
        if event["ringing"] == true {
            break;
        }
    }
    state.ears.close();
    let all = said(&mut socket).await;
    assert_eq!(events(&all), ["problem", "strike", "done"]);
    assert_eq!(all[0]["problem"], "shutdown");
    assert!(all[0]["detail"].as_str().unwrap().ends_with('.'));
    let refused = said(&mut microphone(&served(&state).await, "").await).await;
    assert_eq!(events(&refused), ["problem"]);
}

#[tokio::test]
async fn samples_that_are_no_sound_end_listening_with_a_sentence() {
    let state = state();
    let address = served(&state).await;
    let cases: [&[(usize, &[f32])]; 3] =
        [&[(0, &[f32::NAN; 100])], &[(0, &[0.0; 2048]), (100, &[0.0; 1024])], &[(0, &[0.0; 1024]), (48_000 * 10, &[0.0; 1024])]];
    for parts in cases {
        let mut socket = microphone(&address, "").await;
        for (start, samples) in parts {
            send(&mut socket, *start, samples).await;
        }
        let all = said(&mut socket).await;
        assert_eq!((events(&all), &all[1]["problem"]), (vec!["ready", "problem", "done"], &"bad_samples".into()));
        assert!(all[1]["detail"].as_str().unwrap().len() > 20);
    }
    let mut socket = microphone(&address, "").await;
    socket.send(Message::Binary(vec![1, 2, 3].into())).await.unwrap();
    assert_eq!(events(&said(&mut socket).await), ["ready", "problem", "done"]);
}

#[tokio::test]
async fn lost_sound_shows_as_a_dropout_and_the_strike_is_not_used() {
    let state = state();
    let mut socket = microphone(&served(&state).await, "&strikes=1").await;
    // 50 ms are missing, a tenth of a second after the first hit.
    let (before, after) = (&strikes()[..43_200], &strikes()[45_600..]);
    send(&mut socket, 0, before).await;
    send(&mut socket, 45_600, after).await;
    let all = said(&mut socket).await;
    assert_eq!(all[1]["strike"]["warnings"], serde_json::json!(["dropout"]));
    assert_eq!((&all[1]["good"], &all[2]["good"]), (&0.into(), &1.into()));
    assert_eq!(used(&state), 1);
}

#[tokio::test]
async fn the_simulated_drum_plays_until_stopped() {
    let state = state();
    let address = served(&state).await;
    let mut socket = connect_async(format!("{address}?source=simulated&strikes=20")).await.unwrap().0;
    while let Some(Ok(message)) = socket.next().await {
        let event: Value = serde_json::from_str(message.to_text().unwrap()).unwrap();
        if event["event"] == "strike" {
            break;
        }
    }
    socket.send(Message::Text("stop".into())).await.unwrap();
    let all = said(&mut socket).await;
    assert_eq!(all.last().unwrap()["complete"], false);
    assert!(used(&state) >= 1);
}

/// Strikes on the simulated tom, as hard as each of `hard` says.
fn played(hard: &[f64]) -> Vec<f32> {
    let drum = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap();
    // Always on the same spot.
    let hits: Vec<f32> = hard.iter().flat_map(|hard| drum.strike_as(4, 0, *hard)).collect();
    [drum.lead(4), hits].concat()
}

#[tokio::test]
async fn three_dynamics_are_asked_for_one_after_the_other() {
    let state = state();
    let mut socket = microphone(&served(&state).await, "&strikes=1&dynamics=true").await;
    // The second one is no louder than the first, and is asked for again.
    send(&mut socket, 0, &played(&[0.15, 0.15, 0.4, 1.0])).await;
    let all = said(&mut socket).await;
    let strikes: Vec<&Value> = all.iter().filter(|event| event["event"] == "strike").collect();
    let asked: Vec<&str> = strikes.iter().map(|event| event["asked"].as_str().unwrap()).collect();
    assert_eq!(asked, ["medium", "medium", "hard", "hard"]);
    assert_eq!(strikes[1]["strike"]["warnings"], value!(["same_level"]));
    assert_eq!(all.last().unwrap()["complete"], true);
    let dynamics = all.last().unwrap()["take"]["summary"]["dynamics"].clone();
    let names: Vec<&str> = dynamics.as_array().unwrap().iter().map(|each| each["dynamic"].as_str().unwrap()).collect();
    assert_eq!(names, ["soft", "medium", "hard"]);
}

#[tokio::test]
async fn a_strike_on_another_drum_is_asked_again_until_the_player_insists() {
    let state = state();
    let address = served(&state).await;
    // What is known: the tom by itself, and a snare.
    let mut socket = microphone(&address, "&strikes=2").await;
    send(&mut socket, 0, strikes()).await;
    send(&mut socket, strikes().len(), &[0.0; 48_000]).await;
    said(&mut socket).await;
    let snare = state.with_store(|store| store.add_drum(&BenchDrum::usual(DrumKind::Snare)).unwrap());
    let snare_hits = BenchDrum::new(&BenchDrum::usual(DrumKind::Snare), &[]).unwrap().play(5, 3);
    let of_snare = address.replace(&format!("/drums/{TOM}/"), &format!("/drums/{}/", snare.id));
    let mut socket = microphone(&of_snare, "&strikes=2").await;
    send(&mut socket, 0, &snare_hits).await;
    said(&mut socket).await;

    let mut socket = microphone(&address, "&strikes=1").await;
    send(&mut socket, 0, &snare_hits).await;
    let all = said(&mut socket).await;
    let heard: Vec<(&Value, &Value)> =
        all.iter().filter(|event| event["event"] == "strike").map(|event| (&event["sounds_like"], &event["good"])).collect();
    assert_eq!(heard, [(&value!("Snare"), &value!(0)), (&value!("Snare"), &value!(0)), (&Value::Null, &value!(1))]);
    assert_eq!(all[1]["strike"]["warnings"], value!(["other_drum"]));
}
