//! Heads and rods over the API: another head and back, rods let down on purpose and back, wires, and what cannot be.

use crate::common::{TOM, get, json, state};
use axum::http::StatusCode;
use ember_core::bench_drum::BenchDrum;
use ember_core::drum::{DrumKind, HeadSide};
use ember_core::tuning::{LugPitch, Note, RoundPitches};
use ember_server::api::router;
use ember_store::{KeptTap, Source};
use serde_json::{Value, json as value};

const PLAIN: &str = r#"{"film_mil":10,"plies":1,"coated":false,"edge_ring":false,"dot":false,"oil":false,"played_h":0}"#;

fn put_on(head: &str, side: &str) -> Value {
    value!({ "side": side, "head": serde_json::from_str::<Value>(head).unwrap() })
}

#[tokio::test]
async fn another_head_says_what_it_should_do_begins_anew_and_can_be_taken_back() {
    let app = router(state());
    let path = format!("/api/v1/drums/{TOM}/head");
    let now = get(&app, &format!("{path}?side=batter")).await.json();
    assert_eq!(now["words"], "single ply, 10 mil, clear");
    let option = |words: &str| now["options"].as_array().unwrap().iter().find(|option| option["words"] == words).unwrap().clone();
    let double = option("double ply, 14 mil, clear");
    assert!(double["effect"]["ring_factor"].as_f64().unwrap() < 0.9 && double["effect"]["lug_cents"].as_f64().unwrap() < -50.0, "{double}");
    let double_head = PLAIN.replace("10,\"plies\":1", "14,\"plies\":2");
    let change = json(&app, "POST", &path, put_on(&double_head, "batter")).await.json();
    let on = get(&app, &format!("{path}?side=batter")).await.json();
    assert_eq!((&on["words"], &on["since"]), (&value!("double ply, 14 mil, clear"), &change["at"]));
    let oiled = json(&app, "POST", &path, put_on(&PLAIN.replace("\"oil\":false", "\"oil\":true"), "batter")).await;
    assert_eq!(
        (oiled.status, oiled.sentence().as_str()),
        (StatusCode::UNPROCESSABLE_ENTITY, "Oil lies between two plies; the batter head has one.")
    );
    let gone = format!("/api/v1/head-changes/{}", change["id"]);
    assert_eq!(crate::common::send(&app, "DELETE", &gone, axum::body::Body::empty(), &[]).await.status, StatusCode::NO_CONTENT);
    assert_eq!(get(&app, &format!("{path}?side=batter")).await.json()["words"], "single ply, 10 mil, clear");
    assert_eq!(crate::common::send(&app, "DELETE", &gone, axum::body::Body::empty(), &[]).await.status, StatusCode::CONFLICT);
    assert_eq!(get(&app, &format!("{path}?side=lower")).await.json()["options"], value!([]), "a lower head's decay is not heard by itself");
}

#[tokio::test]
async fn rods_are_let_down_and_brought_back_exactly() {
    let state = state();
    let app = router(state.clone());
    let round = |at: i64, off: f64| {
        state.with_store(|store| {
            let round = store.begin_round(TOM, HeadSide::Batter, 6, Source::Microphone, at).unwrap();
            let lugs = (0..6).map(|lug| {
                let hz = 200.0 + if lug == 2 { off } else { 0.0 };
                LugPitch { lug, hz, note: Note::nearest(hz), sd_cents: 1.0 }
            });
            let pitches = RoundPitches { lugs: lugs.collect(), mean_hz: Some(200.0), ..RoundPitches::default() };
            store.add_tap(round.id, &KeptTap { lug: 0, sound: vec![1], onset_index: 0 }, None, at, &pitches).unwrap();
        });
    };
    round(10, 0.0);
    let path = format!("/api/v1/drums/{TOM}/uneven");
    let read = || async { get(&app, &format!("{path}?side=batter")).await.json() };
    assert_eq!(read().await["choices"].as_array().unwrap().len(), 2);
    let down = value!({ "side": "batter", "recipe": "three_down", "slack_eighths": 27 });
    let begun = json(&app, "POST", &path, down.clone()).await.json();
    assert_eq!(begun["eighths"], value!([-27, -24, 0, 0, 0, -24]));
    let tuning = format!("/api/v1/drums/{TOM}/tuning?side=batter");
    let uneven = get(&app, &tuning).await.json();
    assert!(uneven["headline"].as_str().unwrap().starts_with("Deliberately uneven") && uneven["next"].is_null(), "{uneven}");
    assert_eq!(json(&app, "POST", &path, down).await.status, StatusCode::CONFLICT);
    assert!(read().await["steps_back"].as_array().unwrap().len() > 6);
    json(&app, "PATCH", &format!("/api/v1/uneven/{}", begun["id"]), value!({ "ended": true })).await;
    assert_eq!(read().await["back"], Value::Null, "not tapped again yet");
    let ended = read().await["newest"]["ended_at"].as_i64().unwrap();
    round(ended + 10, 6.0);
    assert!(read().await["back"].as_str().unwrap().contains("lug 3 reads 51 cents higher"), "{}", read().await);
    let none = value!({ "side": "batter", "recipe": "three_down", "slack_eighths": 0 });
    assert_eq!(json(&app, "POST", &path, none).await.status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn a_head_with_too_few_rods_is_not_let_down() {
    let state = state();
    state.with_store(|store| {
        let drum = store.drum(TOM).unwrap().drum;
        store.change_drum(TOM, &ember_core::drum::Drum { lugs: 4, ..drum }).unwrap();
    });
    let app = router(state);
    let path = format!("/api/v1/drums/{TOM}/uneven");
    assert_eq!(get(&app, &format!("{path}?side=batter")).await.json()["choices"], value!([]));
    let refused = json(&app, "POST", &path, value!({ "side": "batter", "recipe": "two_and_two", "slack_eighths": null })).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.sentence().contains("six or more"));
}

#[tokio::test]
async fn wires_are_read_from_how_long_a_snare_buzzed() {
    let state = state();
    let usual = BenchDrum::usual(DrumKind::Snare);
    let snare = state.with_store(|store| store.add_drum(&usual)).unwrap().id;
    let app = router(state);
    let tuning = format!("/api/v1/drums/{snare}/tuning?side=batter");
    assert_eq!(get(&app, &tuning).await.json()["wires"], Value::Null, "not measured yet");
    let sound = crate::common::wav(&BenchDrum::new(&usual, &[]).unwrap().play(3, 4), 1, 48_000);
    let path = format!("/api/v1/drums/{snare}/takes/file?name=snare.wav");
    assert!(crate::common::send(&app, "POST", &path, sound.into(), &[]).await.status.is_success());
    let wires = get(&app, &tuning).await.json()["wires"].clone();
    assert!((0.08..0.25).contains(&wires["buzz_s"].as_f64().unwrap()) && wires["heard"] == "medium", "{wires}");
    assert_eq!((wires["steps"].as_array().unwrap().len(), &wires["contradiction"]), (3, &Value::Null), "{wires}");
}
