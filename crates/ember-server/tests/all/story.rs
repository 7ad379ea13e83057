//! The main job over the API: strikes from a file, a plan, done, struck again, expected beside found.

use crate::common::{TOM, app, get, json, send, strikes, upload, wav};
use axum::body::Body;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::Placement;
use ember_core::drum::DrumKind;
use serde_json::{Value, json as value};

#[tokio::test]
async fn from_strikes_to_a_plan_that_is_checked() {
    let app = app();
    let tonight = value!({"genre": "cumbia", "bpm": 120.0, "clear_surface": false, "nothing_inside": false});
    assert_eq!(json(&app, "PUT", "/api/v1/tonight", tonight).await.status, 200);
    assert_eq!(upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await.status, 201);
    let bench = get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json();
    assert_eq!(bench["open"]["summary"]["strikes_used"], 2);
    assert_eq!(bench["wanted"]["because"][0], "Ring gone within an eighth at 120 BPM: 250 ms.");

    let plans = get(&app, &format!("/api/v1/drums/{TOM}/plans")).await.json();
    let offered = plans["plans"].as_array().unwrap();
    assert!((2..=4).contains(&offered.len()), "{} plans", offered.len());
    let kinds: Vec<Value> = offered.iter().map(|plan| value!([plan["placements"][0]["device"], plan["placements"][1]["device"]])).collect();
    assert!(kinds.windows(2).all(|pair| pair[0] != pair[1]), "shades of the same: {kinds:?}");
    for plan in offered {
        assert!(plan["expected"]["body_t60_s"]["low"].as_f64() < plan["expected"]["body_t60_s"]["high"].as_f64());
        assert!(!plan["why"].as_str().unwrap().is_empty() && !plan["devices"][0]["steps"].as_array().unwrap().is_empty());
    }

    let chosen = value!({"offer": offered[0]["offer"], "placements": offered[0]["placements"]});
    let on = json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), chosen).await;
    assert_eq!(on.status, 201);
    assert_eq!(on.json()["plan"]["expected"], offered[0]["expected"], "what was offered is what is promised");
    let kit = get(&app, "/api/v1/kit").await.json();
    assert_eq!(kit["drums"][0]["standing"], "unchecked");

    let placements: Vec<Placement> = serde_json::from_value(offered[0]["placements"].clone()).unwrap();
    let treated = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &placements).unwrap().play(2, 12);
    assert_eq!(upload(&app, "again.wav", wav(&treated, 1, 48_000)).await.status, 201);
    let bench = get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json();
    let body = bench["check"].as_array().unwrap().iter().find(|row| row["figure"] == "body_t60").unwrap().clone();
    assert_eq!(body["found"], bench["found"]["summary"]["profile"]["body_t60_s"]);
    assert!(body["expected"].as_f64() < body["open"].as_f64(), "{body}");
    assert!(bench["takes"][1]["in_use"].as_bool().unwrap());

    // Off and on again.
    let id = bench["treatment"]["id"].as_i64().unwrap();
    let treatment = format!("/api/v1/treatments/{id}");
    let change = |on: bool| json(&app, "PATCH", &treatment, value!({"on": on}));
    assert!(change(false).await.json()["off_at"].is_number());
    assert_eq!(get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json()["treatment"], Value::Null);
    assert_eq!(change(true).await.json()["off_at"], Value::Null);
}

#[tokio::test]
async fn a_strikes_sound_answers_ranges_and_is_not_zipped() {
    let app = app();
    let take = upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await.json();
    let path = format!("/api/v1/strikes/{}/sound", take["take"]["strikes"][0]["id"]);
    let whole = send(&app, "GET", &path, Body::empty(), &[("accept-encoding", "gzip")]).await;
    assert_eq!((whole.status.as_u16(), whole.headers.get("content-encoding")), (200, None));
    assert_eq!(whole.headers["content-type"], "audio/flac");
    assert!(whole.bytes.starts_with(b"fLaC"));
    let part = send(&app, "GET", &path, Body::empty(), &[("range", "bytes=4-9")]).await;
    assert_eq!(part.status, 206);
    assert_eq!(part.headers["content-range"], format!("bytes 4-9/{}", whole.bytes.len()));
    assert_eq!(part.bytes, whole.bytes[4..=9]);
    let beyond = send(&app, "GET", &path, Body::empty(), &[("range", "bytes=99999999-")]).await;
    assert_eq!(beyond.status, 416);
}
