//! The kit strip, the shelf and tonight over the API: what is changed shows everywhere at once.

use crate::common::{TOM, app, get, json, send, strikes, upload, wav};
use axum::body::Body;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::Placement;
use ember_core::drum::DrumKind;
use ember_server::api::router;
use ember_server::state::AppState;
use ember_store::Store;
use serde_json::{Value, json as value};

fn tonight(genre: &str, bpm: f64) -> Value {
    value!({"genre": genre, "bpm": bpm, "clear_surface": false, "nothing_inside": false})
}

async fn standing(app: &axum::Router) -> (String, String) {
    let drum = get(app, "/api/v1/kit").await.json()["drums"][0].clone();
    (drum["standing"].as_str().unwrap().into(), drum["headline"].as_str().unwrap().into())
}

#[tokio::test]
async fn a_drums_standing_follows_what_is_known_wanted_and_done() {
    let app = app();
    assert_eq!(standing(&app).await, ("unmeasured".into(), "Not measured yet".into()));
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    json(&app, "PUT", "/api/v1/tonight", tonight("cumbia", 120.0)).await;
    let (now, headline) = standing(&app).await;
    assert_eq!(now, "off");
    assert!(headline.contains("too long") || headline.contains("overtones"), "{headline}");
    // Traditional jazz leaves room for all of it.
    json(&app, "PUT", "/api/v1/tonight", tonight("traditional_jazz", 110.0)).await;
    assert_eq!(standing(&app).await, ("fits".into(), "Fits tonight".into()));
    assert_eq!(get(&app, &format!("/api/v1/drums/{TOM}/plans")).await.json()["reach"], "nothing_needed");
    json(&app, "PUT", "/api/v1/tonight", tonight("cumbia", 120.0)).await;
    let pads = value!({"offer": "least", "placements": [
        {"device": "gel_pad", "amount": 0, "radius": 0.85, "angle_deg": 135.0},
        {"device": "gel_pad", "amount": 0, "radius": 0.85, "angle_deg": 225.0}]});
    assert_eq!(json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), pads).await.status, 201);
    assert_eq!(standing(&app).await, ("unchecked".into(), "Hit it again to check".into()));
    assert_eq!(get(&app, "/api/v1/kit").await.json()["drums"][0]["treatment"], "2 gel pads");
}

#[tokio::test]
async fn drums_are_added_corrected_and_removed() {
    let app = app();
    let kick = |name: &str, diameter: f64| value!({"name": name, "kind": "kick", "diameter_in": diameter, "depth_in": 14, "lugs": 8, "batter": {"film_mil": 14}, "lower": null});
    let added = json(&app, "POST", "/api/v1/drums", kick("  Small kick ", 18.0)).await;
    assert_eq!((added.status.as_u16(), &added.json()["name"]), (201, &value!("Small kick")));
    let path = format!("/api/v1/drums/{}", added.json()["id"]);
    assert_eq!(json(&app, "PUT", &path, kick("Small kick", 20.0)).await.json()["diameter_in"], 20.0);
    let names = |answer: Value| answer["drums"].as_array().unwrap().iter().map(|d| d["drum"]["name"].clone()).collect::<Vec<_>>();
    assert_eq!(names(get(&app, "/api/v1/kit").await.json()), [value!("Tom"), value!("Small kick")]);
    assert_eq!(send(&app, "DELETE", &path, Body::empty(), &[]).await.status, 204);
    assert_eq!(send(&app, "DELETE", &path, Body::empty(), &[]).await.status, 404);
    assert_eq!(names(get(&app, "/api/v1/kit").await.json()), [value!("Tom")]);
}

/// What has no heads is neither tuned nor cut, and what was measured as a drum does not become a cymbal.
#[tokio::test]
async fn a_cymbal_has_no_heads_and_a_drum_does_not_become_one() {
    let app = app();
    let cymbal = |weight_g: f64| value!({"name": "Crash", "kind": "cymbal", "diameter_in": 16, "depth_in": 2, "lugs": 1, "batter": {"film_mil": 10}, "lower": null, "weight_g": weight_g});
    let light = json(&app, "POST", "/api/v1/drums", cymbal(3.0)).await;
    assert!(light.status == 422 && light.json()["detail"].as_str().unwrap().contains("weight"), "{:?}", light.json());
    let id = json(&app, "POST", "/api/v1/drums", cymbal(1100.0)).await.json()["id"].clone();
    for path in ["tuning?side=batter", "tuning/seating?side=batter&task=reseat"] {
        let answer = get(&app, &format!("/api/v1/drums/{id}/{path}")).await;
        assert!(answer.status == 409 && answer.json()["detail"].as_str().unwrap().contains("no heads"), "{path}: {:?}", answer.json());
    }
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let changed = json(&app, "PUT", &format!("/api/v1/drums/{TOM}"), cymbal(1100.0)).await;
    assert!(changed.status == 409 && changed.json()["detail"].as_str().unwrap().contains("measured as a tom"), "{:?}", changed.json());
}

#[tokio::test]
async fn the_shelf_decides_what_is_offered() {
    let app = app();
    json(&app, "PUT", "/api/v1/tonight", tonight("cumbia", 120.0)).await;
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    for device in get(&app, "/api/v1/shelf").await.json().as_array().unwrap() {
        let path = format!("/api/v1/shelf/{}", device["kind"].as_str().unwrap());
        assert_eq!(json(&app, "PUT", &path, value!({"count": 0})).await.status, 200);
    }
    let plans = format!("/api/v1/drums/{TOM}/plans");
    assert_eq!(get(&app, &plans).await.json()["reach"], "nothing_to_use");
    json(&app, "PUT", "/api/v1/shelf/hanging_pad", value!({"count": 1})).await;
    let offered = get(&app, &plans).await.json();
    assert!(offered["plans"].as_array().unwrap().iter().all(|plan| plan["placements"][0]["device"] == "hanging_pad"));
}

#[tokio::test]
async fn takes_are_read_reduced_and_removed() {
    let app = app();
    let taken = upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await.json();
    let take = format!("/api/v1/takes/{}", taken["take"]["id"]);
    let strike = format!("/api/v1/strikes/{}", taken["take"]["strikes"][1]["id"]);
    let fewer = json(&app, "PATCH", &strike, value!({"dropped": true})).await.json();
    assert_eq!((&fewer["summary"]["strikes_used"], &fewer["strikes"][1]["dropped"]), (&value!(1), &value!(true)));
    assert_eq!(get(&app, &take).await.json()["summary"]["strikes_used"], 1);
    assert_eq!(send(&app, "DELETE", &take, Body::empty(), &[]).await.status, 204);
    get(&app, &take).await.sentence();
    assert_eq!(standing(&app).await.0, "unmeasured");
}

/// What the player says moves the wish its way, for such drums in that genre alone, and can be taken back or forgotten.
#[tokio::test]
async fn the_wish_learns_from_what_is_said() {
    let app = app();
    let opinions = format!("/api/v1/drums/{TOM}/opinions");
    let say = |opinion: &'static str| json(&app, "POST", &opinions, value!({"opinion": opinion}));
    let refused = say("too_ringy").await;
    assert!(refused.status == 409 && refused.json()["detail"].as_str().unwrap().contains("Hit the"), "{:?}", refused.json());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    json(&app, "PUT", "/api/v1/tonight", tonight("rock", 118.0)).await;
    let wanted = async || get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json()["wanted"].clone();
    let most = |wanted: &Value| wanted["ring_length_most_s"].as_f64().unwrap();
    let book = wanted().await;
    assert_eq!(book["liked"], Value::Null);
    let dead = say("too_dead").await;
    let longer = wanted().await;
    assert!(dead.status == 201 && most(&longer) > 1.1 * most(&book), "{longer}");
    assert!(longer["liked"]["sentence"].as_str().unwrap().contains("longer than the genre has it"));
    // Other genres keep the book.
    json(&app, "PUT", "/api/v1/tonight", tonight("soul", 92.0)).await;
    assert_eq!(wanted().await["liked"], Value::Null);
    json(&app, "PUT", "/api/v1/tonight", tonight("rock", 118.0)).await;
    assert_eq!(json(&app, "DELETE", &opinions, Value::Null).await.status, 204);
    assert_eq!(most(&wanted().await), most(&book));
    assert_eq!(json(&app, "POST", &format!("{opinions}/back"), Value::Null).await.status, 204);
    assert_eq!(most(&wanted().await), most(&longer));
    let one = format!("/api/v1/opinions/{}", dead.json()["id"]);
    assert_eq!(json(&app, "DELETE", &one, Value::Null).await.status, 204);
    assert_eq!(json(&app, "DELETE", &one, Value::Null).await.status, 404);
    assert_eq!(most(&wanted().await), most(&book));
}

/// What is taken off again soon after its check was not liked; which of two layouts is chosen tells as well, and all of it can be taken back.
#[tokio::test]
async fn the_wish_learns_from_what_is_done() {
    let app = app();
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    // A wish that the treated drum meets and the open one does not.
    json(&app, "PUT", "/api/v1/tonight", tonight("rock", 118.0)).await;
    let wanted = async || get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json()["wanted"].clone();
    let most = |wanted: &Value| wanted["ring_length_most_s"].as_f64().unwrap();
    let book = wanted().await;
    let ring = Placement::parse("control_ring:1").unwrap();
    let on = json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), value!({ "offer": "own", "placements": [ring] })).await;
    let treatment = format!("/api/v1/treatments/{}", on.json()["id"]);
    let found = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[ring]).unwrap().play(2, 5);
    upload(&app, "ring.wav", wav(&found, 1, 48_000)).await;
    json(&app, "PATCH", &treatment, value!({ "on": false })).await;
    let told = wanted().await;
    assert!(most(&told) > most(&book) && told["liked"]["done"] == 1, "{told}");
    assert!(told["liked"]["sentence"].as_str().unwrap().contains("from one thing you did"), "{}", told["liked"]["sentence"]);
    json(&app, "PATCH", &treatment, value!({ "on": true })).await;
    assert_eq!(wanted().await["liked"], Value::Null, "put back on, it told nothing");
    let choices = format!("/api/v1/drums/{TOM}/choices");
    let choose =
        |rather: Value, than: Value| json(&app, "POST", &choices, value!({ "deed": "chose_plan", "rather": rather, "than": than }));
    let one = choose(value!([]), value!([ring])).await;
    assert!(one.status == 201 && most(&wanted().await) > most(&book), "{}", one.json());
    let back = format!("/api/v1/opinions/{}", one.json()["id"]);
    assert_eq!(json(&app, "DELETE", &back, Value::Null).await.status, 204);
    choose(value!([ring]), value!([])).await;
    assert!(most(&wanted().await) < most(&book), "the other way round it shortens");
    let nowhere = json(&app, "POST", &choices, value!({ "deed": "pinned", "rather": [], "than": [ring], "song_id": 77 })).await;
    assert_eq!(nowhere.status, 404);
}

#[tokio::test]
async fn a_usual_kit_and_what_is_to_hand_come_in_one_step_each() {
    let app = router(AppState::of(Store::in_memory().unwrap()));
    let offered = get(&app, "/api/v1/usual-kits").await.json();
    for kit in offered.as_array().unwrap() {
        let (app, asked) = (router(AppState::of(Store::in_memory().unwrap())), value!({ "kit": kit["kit"], "cymbals": true }));
        let added = json(&app, "POST", "/api/v1/usual-kits", asked).await;
        assert_eq!((added.status.as_u16(), added.json().as_array().unwrap().len()), (201, kit["drums"].as_array().unwrap().len()));
        assert_eq!(get(&app, "/api/v1/kit").await.json()["drums"].as_array().unwrap().len(), kit["drums"].as_array().unwrap().len());
    }
    // So many pieces nobody has: all of a kit comes, or nothing.
    let mut pieces = 0;
    let refused = loop {
        let more = json(&app, "POST", "/api/v1/usual-kits", value!({ "kit": offered[0]["kit"], "cymbals": true })).await;
        if more.status != 201 {
            break more.sentence();
        }
        pieces += offered[0]["drums"].as_array().unwrap().len();
        assert!(pieces <= 60);
    };
    assert!(refused.contains("at most 40 drums"), "{refused}");
    assert_eq!(get(&app, "/api/v1/kit").await.json()["drums"].as_array().unwrap().len(), pieces);
    let strange = json(&app, "POST", "/api/v1/usual-kits", value!({ "kit": "gongs", "cymbals": true })).await;
    assert_eq!(strange.status, 422);

    // More than a set holds stays; less is made up for.
    json(&app, "PUT", "/api/v1/shelf/gel_pad", value!({ "count": 9 })).await;
    json(&app, "PUT", "/api/v1/shelf/tape", value!({ "count": 1 })).await;
    let shelf = json(&app, "POST", "/api/v1/shelf/sets", value!({ "set": "trap_case" })).await.json();
    let count = |kind: &str| shelf.as_array().unwrap().iter().find(|item| item["kind"] == kind).unwrap()["count"].clone();
    assert_eq!((count("gel_pad"), count("tape"), count("control_ring")), (value!(9), value!(4), value!(1)));
    assert_eq!(get(&app, "/api/v1/shelf").await.json(), shelf);
}
