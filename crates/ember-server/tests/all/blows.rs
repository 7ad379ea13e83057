//! How large drums are struck and stopped, over the API.

use crate::common::{get, json, upload_to, wav};
use axum::Router;
use ember_core::bench_drum::BenchDrum;
use ember_core::drum::DrumKind;
use ember_server::api::router;
use ember_server::state::AppState;
use ember_store::Store;
use serde_json::{Value, json as value};

async fn measured(kind: DrumKind) -> Router {
    let mut store = Store::in_memory().unwrap();
    store.add_drum(&BenchDrum::usual(kind)).unwrap();
    let app = router(AppState::of(store));
    let sound = wav(&BenchDrum::new(&BenchDrum::usual(kind), &[]).unwrap().play(2, 11), 1, 48_000);
    assert_eq!(upload_to(&app, 1, "open.wav", sound).await.status, 201);
    app
}

const BLOWS: &str = "/api/v1/drums/1/blows";
const AUDITION: &str = "/api/v1/drums/1/audition";

fn blow(beater: &str, spot: f64, left_in: bool) -> Value {
    value!({ "beater": beater, "spot": spot, "left_in": left_in })
}

fn numbers(list: &Value, of: impl Fn(&Value) -> &Value) -> Vec<f64> {
    list.as_array().unwrap().iter().map(|way| of(way).as_f64().unwrap()).collect()
}

#[tokio::test]
async fn a_kick_is_struck_otherwise_and_heard_first() {
    let app = measured(DrumKind::Kick).await;
    let page = json(&app, "POST", BLOWS, value!({})).await.json();
    assert_eq!((page["from"]["beater"].as_str(), page["beaters"].as_array().unwrap().len()), (Some("felt"), 6));
    // Soft to hard the click grows; what was measured is held against itself.
    let clicks = numbers(&page["beaters"], |way| &way["click"]["db"]);
    assert!(clicks.is_sorted_by(|a, b| a < b) && page["beaters"][2]["now"] == true && clicks[2].abs() < 1e-9, "{clicks:?}");
    let ring = &page["spots"][3]["ring"];
    assert!(
        ring["low"].as_f64().unwrap() < ring["db"].as_f64().unwrap() && ring["db"].as_f64().unwrap() < ring["high"].as_f64().unwrap(),
        "{ring}"
    );
    let body = |way: &Value| way["expected"]["profile"]["body_t60_s"].as_f64().unwrap();
    assert!(body(&page["left_in"]) < 0.7 * body(&page["beaters"][2]));
    // On a whole front a beater that stays in the head is thrown back, and that is said and heard; where the player lets it come off it is not.
    let again = page["rebound"]["again"][0]["at_s"].as_f64().unwrap();
    assert!(page["rebound"]["fewest"].as_u64() >= Some(1) && (0.02..0.15).contains(&again), "{}", page["rebound"]);
    let spoken = json(&app, "POST", AUDITION, value!({ "blow": blow("felt", 0.25, true) })).await.json();
    let sentences = spoken["sentences"].as_array().unwrap();
    assert!(sentences.iter().any(|sentence| sentence.as_str().unwrap().contains("strikes again after")), "{sentences:?}");
    let ways = |beater: &'static str| {
        let app = app.clone();
        async move { json(&app, "POST", "/api/v1/drums/1/front/outlook", value!({ "beater": beater })).await.json()["ways"].clone() }
    };
    let (buried, off) = (ways("buried").await, ways("off_the_head").await);
    let fewest: Vec<Option<u64>> = buried.as_array().unwrap().iter().map(|way| way["rebound"]["fewest"].as_u64()).collect();
    assert!(fewest[0] >= Some(1) && fewest.contains(&Some(0)), "{fewest:?}");
    assert!(off.as_array().unwrap().iter().all(|way| way["rebound"].is_null()));
    let from_plastic = json(&app, "POST", BLOWS, value!({ "from": blow("plastic", 0.5, false) })).await.json();
    assert!(from_plastic["beaters"][2]["click"]["db"].as_f64().unwrap() < -3.0 && from_plastic["spots"][2]["now"] == true);
    let spoon = json(&app, "POST", BLOWS, value!({ "from": blow("spoon", 0.5, false) })).await;
    assert!(spoon.status == 422 && spoon.sentence().contains("unknown variant `spoon`"), "{}", spoon.sentence());

    let sound = |version: &'static str, what: Value| {
        let app = app.clone();
        async move { json(&app, "POST", &format!("{AUDITION}/{version}"), what).await }
    };
    let plain = sound("open", value!({})).await.bytes;
    let others = [blow("plastic", 0.25, false), blow("felt", 0.75, false), blow("felt", 0.25, true)].map(|blow| value!({ "blow": blow }));
    let from_plastic = value!({ "blow": blow("felt", 0.25, false), "from": blow("plastic", 0.25, false) });
    for what in others.into_iter().chain([from_plastic]) {
        let heard = sound("expected", what.clone()).await;
        assert!(heard.status == 200 && heard.bytes != plain, "{what}");
    }
    let felt = blow("felt", 0.2, false);
    let pillow = value!({ "device": "pillow", "amount": 0, "radius": 0.85, "angle_deg": 0.0 });
    for refused in [
        value!({ "blow": felt, "front": { "state": "off" } }),
        value!({ "blow": felt, "placements": [pillow] }),
        value!({ "blow": blow("felt", 2.0, false) }),
        value!({ "blow": felt, "blew": felt }),
    ] {
        assert_eq!(sound("expected", refused.clone()).await.status, 422, "{refused}");
    }
}

#[tokio::test]
async fn a_concert_bass_drums_note_is_ended_in_time_or_held() {
    let app = measured(DrumKind::ConcertBass).await;
    let ends = |note: &'static str| {
        let app = app.clone();
        async move { get(&app, &format!("/api/v1/drums/1/note-ends?{note}")).await }
    };
    let half = ends("value=quarter&bpm=100").await.json();
    assert_eq!(half["written_s"], 0.6);
    let over = numbers(&half["stops"], |stop| &stop["over_in_s"]);
    assert!(over.is_sorted_by(|a, b| a > b), "fingertips are slowest: {over:?}");
    let knee = &half["stops"][2]["down"];
    assert!(
        (0.0..0.6).contains(&knee["at_s"].as_f64().unwrap()) && knee["low"].as_f64().unwrap() <= knee["high"].as_f64().unwrap(),
        "{knee}"
    );
    assert!(half["roll"]["strokes"].as_f64().unwrap() >= 4.0);
    // Longer than it rings nothing has to stop it.
    let whole = ends("value=whole&bpm=40").await.json();
    assert!(whole["stops"][1]["needless"] == true && whole["stops"][1]["down"].is_null());
    assert_eq!(ends("value=half&bpm=1").await.status, 422);
    assert!(json(&app, "POST", BLOWS, value!({})).await.json()["left_in"].is_null(), "no pedal strikes it");
}

#[tokio::test]
async fn drums_without_beaters_and_unmeasured_ones_are_refused_in_words() {
    let mut store = Store::in_memory().unwrap();
    store.add_drum(&BenchDrum::usual(DrumKind::Snare)).unwrap();
    store.add_drum(&BenchDrum::usual(DrumKind::MarchingBass)).unwrap();
    let app = router(AppState::of(store));
    assert!(json(&app, "POST", BLOWS, value!({})).await.sentence().contains("snare is not struck"));
    assert_eq!(get(&app, "/api/v1/drums/1/note-ends?value=half&bpm=60").await.status, 409);
    assert!(json(&app, "POST", "/api/v1/drums/2/blows", value!({})).await.sentence().contains("Measure the open drum first"));
}
