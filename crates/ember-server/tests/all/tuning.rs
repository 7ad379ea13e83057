//! Tuning over the API: rounds of taps through the WebSocket, what was turned, and everything that can go wrong with them.

use crate::common::{TOM, get, json, state};
use axum::http::StatusCode;
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE, TapManner, TappedHead};
use ember_core::drum::{DrumKind, HeadSide};
use ember_core::tuning::crosswise;
use ember_server::api::router;
use ember_server::state::AppState;
use futures_util::{SinkExt, StreamExt};
use serde_json::{Value, json as value};
use std::time::Duration;
use tokio::net::{TcpListener, TcpStream};
use tokio_tungstenite::tungstenite::Message;
use tokio_tungstenite::{MaybeTlsStream, WebSocketStream, connect_async};

type Socket = WebSocketStream<MaybeTlsStream<TcpStream>>;

async fn listening(state: &AppState, more: &str) -> Socket {
    let path = format!("/drums/{TOM}/tuning/listen?side=batter&source=microphone&sample_rate={SAMPLE_RATE}{more}");
    connect_async(served(state, &path).await).await.unwrap().0
}

async fn send(socket: &mut Socket, start: &mut usize, samples: &[f32]) {
    for part in samples.chunks(2048) {
        let mut bytes = (*start as u64).to_le_bytes().to_vec();
        part.iter().for_each(|x| bytes.extend_from_slice(&x.to_le_bytes()));
        *start += part.len();
        if socket.send(Message::Binary(bytes.into())).await.is_err() {
            return;
        }
    }
}

/// The next event that is not a level.
async fn told(socket: &mut Socket) -> Value {
    let next = async {
        loop {
            match socket.next().await {
                Some(Ok(Message::Text(text))) => {
                    let event: Value = serde_json::from_str(&text).unwrap();
                    if event["event"] != "level" {
                        return event;
                    }
                }
                Some(Ok(_)) => {}
                other => panic!("the server broke off: {other:?}"),
            }
        }
    };
    tokio::time::timeout(Duration::from_secs(30), next).await.expect("the server says nothing")
}

fn head(turned: &[i32]) -> TappedHead {
    TappedHead::of(&BenchDrum::usual(DrumKind::Tom), HeadSide::Batter, 7, turned)
}

/// Taps `lugs` one after the other, each once it is asked for; returns what came of each.
async fn tap(socket: &mut Socket, start: &mut usize, head: &TappedHead, lugs: &[(usize, TapManner)]) -> Vec<Value> {
    let mut verdicts = Vec::new();
    for (lug, manner) in lugs {
        // As much as a tap is listened to: behind the last one the server takes no more.
        send(socket, start, &head.tap(*lug, *manner, 5)[..39_000]).await;
        verdicts.push(told(socket).await);
    }
    verdicts
}

fn good(lugs: &[usize]) -> Vec<(usize, TapManner)> {
    lugs.iter().map(|lug| (*lug, TapManner::default())).collect()
}

#[tokio::test]
async fn a_poor_tap_is_asked_again_and_a_round_that_breaks_off_goes_on_where_it_was() {
    let state = state();
    let app = router(state.clone());
    let (head, mut start) = (head(&[0; 6]), 0);
    let mut socket = listening(&state, "").await;
    assert_eq!(told(&mut socket).await["event"], "ready");
    assert_eq!(told(&mut socket).await["asked_lug"], 0, "crosswise begins with the first lug");
    send(&mut socket, &mut start, &head.quiet(0.5, 1e-4, 1)).await;
    let soft = TapManner { strength: 0.01, ..TapManner::default() };
    let wires = TapManner { wires_on: true, ..TapManner::default() };
    let order = crosswise(6);
    let hand = [(0, soft), (0, TapManner::default()), (3, wires), (3, TapManner::default()), (order[2], TapManner::default())];
    let verdicts = tap(&mut socket, &mut start, &head, &hand).await;
    let faults: Vec<Option<&str>> = verdicts.iter().map(|event| event["tapped"]["fault"].as_str()).collect();
    assert_eq!(faults, [Some("too_soft"), None, Some("wires_on"), None, None]);
    let asked: Vec<u64> = verdicts.iter().map(|event| event["asked_lug"].as_u64().unwrap()).collect();
    assert_eq!(asked, [0, 3, 3, order[2] as u64, order[3] as u64], "a poor one is asked again");
    assert!(verdicts[0]["tapped"]["sentence"].as_str().unwrap().contains("harder"));
    assert!(verdicts[1]["tapped"]["sentence"].as_str().unwrap().starts_with("Lug 1: "), "{}", verdicts[1]);
    // The connection breaks; what was heard is there and is not asked again.
    drop(socket);
    let tuning = || async { get(&app, &format!("/api/v1/drums/{TOM}/tuning?side=batter")).await.json() };
    let mut tries = 0;
    while tuning().await["rounds"][0]["pitches"]["lugs"].as_array().map(Vec::len) != Some(3) {
        tokio::time::sleep(Duration::from_millis(50)).await;
        tries += 1;
        assert!(tries < 100, "{}", tuning().await);
    }
    let (mut socket, mut start) = (listening(&state, "&take_over=true").await, 0);
    assert_eq!(told(&mut socket).await["event"], "ready");
    assert_eq!(told(&mut socket).await["asked_lug"], order[3]);
    send(&mut socket, &mut start, &head.quiet(0.5, 1e-4, 1)).await;
    let verdicts = tap(&mut socket, &mut start, &head, &good(&order[3..])).await;
    assert_eq!(verdicts[2]["asked_lug"], Value::Null, "every lug was heard");
    let tuned = tuning().await;
    assert_eq!(tuned["rounds"].as_array().unwrap().len(), 1);
    // Against what the simulated head's own springs say.
    let truth = head.local_pitches().unwrap();
    for pitch in tuned["rounds"][0]["pitches"]["lugs"].as_array().unwrap() {
        let lug = pitch["lug"].as_u64().unwrap() as usize;
        let off = ember_core::units::cents(truth[lug], pitch["hz"].as_f64().unwrap());
        assert!(off.abs() < 5.0, "lug {lug} is off by {off} cents");
    }
    assert!(!tuned["next"]["turns"].as_array().unwrap().is_empty(), "an uneven head has turns to make: {tuned}");
}

#[tokio::test]
async fn lugs_are_stepped_over_and_back_and_one_is_tapped_again_by_itself() {
    let state = state();
    let (head, mut start) = (head(&[0; 6]), 0);
    let mut socket = listening(&state, "").await;
    assert_eq!(told(&mut socket).await["event"], "ready");
    told(&mut socket).await;
    for (word, asked) in [("next", 3), ("next", 1), ("back", 3), ("back", 0), ("back", 0)] {
        socket.send(Message::Text(word.into())).await.unwrap();
        assert_eq!(told(&mut socket).await["asked_lug"], asked, "{word}");
    }
    send(&mut socket, &mut start, &head.quiet(0.5, 1e-4, 1)).await;
    let verdicts = tap(&mut socket, &mut start, &head, &good(&crosswise(6))).await;
    assert_eq!(verdicts[5]["round"]["pitches"]["lugs"].as_array().unwrap().len(), 6);
    let mut socket = listening(&state, "&again_lug=4&take_over=true").await;
    assert_eq!(told(&mut socket).await["event"], "ready");
    let asked = told(&mut socket).await;
    assert_eq!((&asked["asked_lug"], asked["round"]["pitches"]["lugs"].as_array().unwrap().len()), (&4.into(), 6));
    let mut start = 0;
    send(&mut socket, &mut start, &head.quiet(0.5, 1e-4, 1)).await;
    // A poor one does not take the place of the good one before.
    let soft = TapManner { strength: 0.01, ..TapManner::default() };
    let verdicts = tap(&mut socket, &mut start, &head, &[(4, soft), (4, TapManner::default())]).await;
    assert_eq!((&verdicts[0]["tapped"]["fault"], &verdicts[0]["asked_lug"]), (&"too_soft".into(), &4.into()));
    assert_eq!(verdicts[0]["round"]["pitches"]["lugs"].as_array().unwrap().len(), 6, "{}", verdicts[0]);
    assert_eq!(verdicts[1]["asked_lug"], Value::Null, "no other is asked for");
}

#[tokio::test]
async fn what_cannot_be_is_refused_in_a_sentence() {
    let state = state();
    let app = router(state.clone());
    let side = format!("/api/v1/drums/{TOM}/tuning?side=batter");
    let untapped = get(&app, &side).await.json();
    assert_eq!((&untapped["headline"], &untapped["next"]), (&"Not tapped yet.".into(), &Value::Null));
    assert_eq!(get(&app, "/api/v1/drums/99/tuning?side=batter").await.status, StatusCode::NOT_FOUND);
    assert_eq!(get(&app, &format!("/api/v1/drums/{TOM}/tuning?side=upper")).await.status, StatusCode::UNPROCESSABLE_ENTITY);
    for hz in [-1.0, 5.0, 9e9] {
        let answer = json(&app, "PUT", &format!("/api/v1/drums/{TOM}/tuning/wish"), value!({"side": "batter", "wanted_hz": hz})).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY);
        answer.sentence();
    }
    let round = state.with_store(|store| store.begin_round(TOM, HeadSide::Batter, 6, ember_store::Source::Simulated, 1)).unwrap();
    let turned = |eighths: Value| {
        let app = app.clone();
        async move { json(&app, "PUT", &format!("/api/v1/rounds/{}/turned", round.id), value!({ "eighths": eighths })).await }
    };
    assert!(turned(value!([1, 2])).await.sentence().contains("6 rods"));
    assert!(turned(value!([900, 0, 0, 0, 0, 0])).await.sentence().contains("ten whole turns"));
    let turned_ok = turned(value!([1, 0, 0, -1, 0, 0])).await.json();
    assert_eq!(turned_ok["headline"], "Turned. Tap a round again to hear what it did.");
    // Nothing is known of the kit's pitches; the bass has to be written so that it can be read.
    let kit = get(&app, "/api/v1/kit/pitches?intervals=fourths&bass=E1").await.json();
    assert_eq!((&kit["toms"], &kit["unknown"], &kit["kick"]), (&value!([]), &value!(["Tom"]), &Value::Null));
    assert!(get(&app, "/api/v1/kit/pitches?intervals=fourths&bass=loud").await.sentence().contains("E1, A1, D2"));
    // A bass note on a tone of tonight's room is named; one between two is not.
    let room =
        crate::common::send(&app, "POST", "/api/v1/venues/measure/room?simulated=low_saloon", axum::body::Body::empty(), &[]).await.json();
    let venue = value!({"name": "Cellar", "room": {"from": "measured", "t60_s": room["t60_s"]}, "loudness": null, "band": null, "room_modes": room["modes"]});
    let venue_id = json(&app, "POST", "/api/v1/venues", venue).await.json()["id"].clone();
    let tonight = value!({"genre": "rock", "bpm": 118.0, "clear_surface": false, "nothing_inside": false, "venue_id": venue_id});
    assert_eq!(json(&app, "PUT", "/api/v1/tonight", tonight).await.status, StatusCode::OK);
    // Of its three walls' tones, 33, 46 and 69 Hz, F#1 lies on the second.
    let kit = get(&app, "/api/v1/kit/pitches?intervals=fourths&bass=F%231%20D2").await.json();
    let notes = kit["room_notes"].as_array().unwrap();
    assert!(
        notes.len() == 1 && notes[0].as_str().unwrap().starts_with("The bass’s F#1 lies on the Cellar’s own tone of 46 Hz"),
        "{notes:?}"
    );
    // A removed round comes back with what was turned after it.
    let path = format!("/api/v1/rounds/{}", round.id);
    assert_eq!(crate::common::send(&app, "DELETE", &path, axum::body::Body::empty(), &[]).await.status, StatusCode::NO_CONTENT);
    assert_eq!(get(&app, &side).await.json()["rounds"], value!([]));
    assert_eq!(
        crate::common::send(&app, "POST", &format!("{path}/back"), axum::body::Body::empty(), &[]).await.status,
        StatusCode::NO_CONTENT
    );
    assert_eq!(get(&app, &side).await.json()["rounds"][0]["turned"], value!([1, 0, 0, -1, 0, 0]));
}

/// A tap so soft that no strike is found in it is answered all the same, and a head that was retuned within a round is noticed.
#[tokio::test]
async fn what_is_too_soft_to_find_and_what_was_retuned_is_answered() {
    let state = state();
    let (before, after, mut start) = (head(&[0; 6]), head(&[3; 6]), 0);
    let mut socket = listening(&state, "").await;
    told(&mut socket).await;
    told(&mut socket).await;
    send(&mut socket, &mut start, &before.quiet(0.6, 1e-4, 1)).await;
    let faint: Vec<f32> = before.quiet(0.06, 4e-4, 2);
    send(&mut socket, &mut start, &[faint, before.quiet(1.2, 1e-4, 3)].concat()).await;
    let soft = told(&mut socket).await;
    assert_eq!((&soft["tapped"]["fault"], &soft["asked_lug"]), (&value!("too_soft"), &value!(0)), "{soft}");
    assert_eq!(soft["round"]["pitches"]["lugs"], value!([]));
    let order = crosswise(6);
    tap(&mut socket, &mut start, &before, &good(&order[..4])).await;
    let verdicts = tap(&mut socket, &mut start, &after, &good(&order[4..5])).await;
    assert_eq!(verdicts[0]["tapped"]["fault"], "retuned", "{}", verdicts[0]);
    assert!(verdicts[0]["tapped"]["sentence"].as_str().unwrap().contains("begin a new round"));
    assert_eq!(verdicts[0]["round"]["pitches"]["lugs"].as_array().unwrap().len(), 4, "what was heard before stays");
    // By mistake it was said; the head as it was goes on.
    let verdicts = tap(&mut socket, &mut start, &before, &good(&order[4..])).await;
    assert_eq!(verdicts[1]["asked_lug"], Value::Null);
}

/// The address of the WebSocket at `path` of a server of its own.
async fn served(state: &AppState, path: &str) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let app = router(state.clone());
    tokio::spawn(async move { axum::serve(listener, app).await.unwrap() });
    format!("ws://{address}/api/v1{path}")
}

/// What a session at `path` tells until it is done, without levels; it is stopped after `enough` events.
async fn told_at(state: &AppState, path: &str, enough: usize) -> Vec<Value> {
    let (mut socket, _) = connect_async(served(state, path).await).await.unwrap();
    let mut events = Vec::new();
    loop {
        let event = told(&mut socket).await;
        match event["event"].as_str().unwrap() {
            "ready" => {}
            "done" => return events,
            _ => events.push(event),
        }
        if events.len() == enough {
            socket.send(Message::Text("stop".into())).await.unwrap();
        }
    }
}

#[tokio::test]
async fn the_simulated_bass_is_heard_note_by_note() {
    let notes: Vec<Value> = told_at(&state(), "/bass/listen?source=simulated", 24).await;
    let names: Vec<&str> = notes.iter().map(|event| event["heard"]["note"]["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["E1", "A1", "G1", "E1"]);
}

#[tokio::test]
async fn notes_of_a_written_length_are_each_held_against_it() {
    let state = state();
    let mut marching = serde_json::to_value(BenchDrum::usual(DrumKind::MarchingBass)).unwrap();
    marching["name"] = value!("Low one");
    let app = router(state.clone());
    let drum = json(&app, "POST", "/api/v1/drums", marching).await.json()["id"].as_i64().unwrap();
    for refused in ["value=quarter&bpm=5", "value=long&bpm=90", "bpm=90"] {
        let path = format!("/drums/{drum}/notes/listen?source=simulated&{refused}");
        assert!(connect_async(served(&state, &path).await).await.unwrap_err().to_string().contains("422"), "{refused}");
    }
    let events = told_at(&state, &format!("/drums/{drum}/notes/listen?source=simulated&value=quarter&bpm=240"), 3).await;
    // The simulated player begins half as long again as is written, and finds it by and by.
    let off = |n: usize| events[n]["note"]["off_s"].as_f64().unwrap();
    assert!(events[0]["note"]["verdict"] == "too_long" && off(0) > 0.1 && off(2) < off(0), "{events:?}");
    assert_eq!(events[2]["all"]["notes"], 3);
    assert!(events[2]["all"]["sentence"].is_string(), "{events:?}");
}
