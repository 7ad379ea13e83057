//! Several kits, what a player wants of one drum, and what is left alone, over the API.

use crate::common::{TOM, get, json, state, strikes, upload, upload_to, wav};
use ember_core::drum::HeadSide;
use ember_server::api::router;
use ember_store::Source;
use serde_json::{Value, json as value};

fn cymbal(name: &str) -> Value {
    value!({ "name": name, "kind": "cymbal", "diameter_in": 16, "depth_in": 2, "lugs": 1, "batter": { "film_mil": 10 }, "lower": null })
}

/// How the drum called `name` stands: its standing, and whether it is ready.
fn stands(kit: &Value, name: &str) -> (String, bool) {
    let drum = kit["drums"].as_array().unwrap().iter().find(|state| state["drum"]["name"] == name).unwrap();
    (drum["standing"].as_str().unwrap().into(), drum["ready"].as_bool().unwrap())
}

#[tokio::test]
async fn a_clubs_house_kit_is_offered_played_on_and_left_as_it_was() {
    let app = router(state());
    let venue =
        value!({ "name": "Club", "room": { "from": "class", "class": "club" }, "loudness": "loud", "heard": "bare_ear", "notes": "" });
    let venue = json(&app, "POST", "/api/v1/venues", venue).await.json()["id"].clone();
    let drum = json(&app, "POST", "/api/v1/drums", cymbal("House ride")).await.json()["id"].clone();
    let house = value!({ "name": "House kit", "drums": [{ "drum_id": drum }, { "drum_id": TOM, "in_case": true }], "borrowed": true, "venue_id": venue });
    let kept = json(&app, "POST", "/api/v1/kits", house).await;
    assert_eq!(kept.status, 201, "{}", kept.sentence());
    let (id, mut tonight) = (kept.json()["id"].clone(), get(&app, "/api/v1/tonight").await.json());
    tonight["venue_id"] = venue;
    json(&app, "PUT", "/api/v1/tonight", tonight.clone()).await;
    let kit = get(&app, "/api/v1/kit").await.json();
    assert_eq!((kit["house_kit"]["name"].as_str(), kit["ruled_out"]["nothing_inside"].as_bool()), (Some("House kit"), Some(false)));
    assert_eq!(stands(&kit, "House ride"), ("left_alone".into(), true), "cymbals ask for nothing");
    tonight["kit_id"] = id.clone();
    json(&app, "PUT", "/api/v1/tonight", tonight).await;
    let kit = get(&app, "/api/v1/kit").await.json();
    assert_eq!((kit["house_kit"].clone(), kit["kit"]["name"].as_str()), (Value::Null, Some("House kit")));
    assert_eq!(stands(&kit, "Tom"), ("in_case".into(), true));
    let ruled = (kit["ruled_out"]["nothing_inside"].as_bool(), kit["tonight"]["nothing_inside"].as_bool());
    assert_eq!(ruled, (Some(true), Some(false)), "the kit rules it out, not the player");
    let shelf = get(&app, "/api/v1/shelf").await.json();
    let ring = shelf.as_array().unwrap().iter().find(|item| item["kind"] == "under_ring").unwrap();
    assert!(ring["ruled_out"].as_str().unwrap().contains("head would have to come off"), "{}", ring["ruled_out"]);
    let all = get(&app, "/api/v1/kits").await.json();
    let words: Vec<&str> = all["kits"].as_array().unwrap().iter().map(|row| row["words"].as_str().unwrap()).collect();
    assert_eq!(words, ["1 drum, 1 cymbal", "1 drum, 1 cymbal"]);
    // Sizes and kits that cannot be.
    let twice = value!({ "name": "Twice", "drums": [{ "drum_id": TOM }, { "drum_id": TOM }] });
    assert!(json(&app, "POST", "/api/v1/kits", twice).await.sentence().contains("once"));
    let unknown = value!({ "name": "Strange", "drums": [], "colour": "red" });
    assert!(json(&app, "POST", "/api/v1/kits", unknown).await.sentence().contains("colour"));
    assert_eq!(get(&app, "/api/v1/kit").await.json()["kit"]["id"], id);
}

#[tokio::test]
async fn a_drum_is_wanted_in_a_drummers_word_or_as_it_sounds() {
    let app = router(state());
    let (wish, bench) = (format!("/api/v1/drums/{TOM}/own-wish"), format!("/api/v1/drums/{TOM}/bench"));
    let early = json(&app, "PUT", &wish, value!({ "kind": "as_it_is" })).await;
    assert!(early.status == 409 && early.sentence().contains("Hit the Tom first"));
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let before = get(&app, &bench).await.json();
    assert!(!before["open"]["assessment"]["fits"].as_bool().unwrap() && before["wanted"]["own"].is_null());
    let words = get(&app, "/api/v1/characters").await.json();
    assert!(words.as_array().unwrap().len() >= 9);
    json(&app, "PUT", &wish, value!({ "kind": "word", "word": "dry" })).await;
    let dry = get(&app, &bench).await.json();
    assert!(dry["wanted"]["own"].as_str().unwrap().starts_with("You want it dry"), "{}", dry["wanted"]["own"]);
    assert!(dry["wanted"]["ring_length_most_s"].as_f64() < before["wanted"]["ring_length_most_s"].as_f64());
    let mut shape = words[0]["shape"].clone();
    shape["ring_times"] = value!(0.0);
    let wrong = json(&app, "PUT", &wish, value!({ "kind": "shape", "shape": shape })).await;
    assert!(wrong.status == 422 && wrong.sentence().contains("0.1 to 10 times"), "{}", wrong.sentence());
    json(&app, "PUT", &wish, value!({ "kind": "as_it_is" })).await;
    let liked = get(&app, &bench).await.json();
    assert!(liked["open"]["assessment"]["fits"].as_bool().unwrap(), "what was liked fits itself: {}", liked["open"]["assessment"]);
    let plain = json(&app, "PUT", &wish, value!({ "kind": "genre" })).await.json();
    assert!(plain["own_wish"].is_null());
    let id = json(&app, "POST", "/api/v1/drums", cymbal("Ride")).await.json()["id"].clone();
    let metal = json(&app, "PUT", &format!("/api/v1/drums/{id}/own-wish"), value!({ "kind": "word", "word": "fat" })).await;
    assert!(metal.status == 409 && metal.sentence().contains("too washy"));
}

#[tokio::test]
async fn after_rods_were_turned_a_drum_is_to_be_hit_again_and_what_plays_along_never() {
    let state = state();
    let app = router(state.clone());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    assert_eq!(get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json()["turned_since"], false);
    let round = state.with_store(|store| store.begin_round(TOM, HeadSide::Batter, 6, Source::Simulated, 1)).unwrap();
    assert_ne!(stands(&get(&app, "/api/v1/kit").await.json(), "Tom").0, "unchecked", "a tapped head is as it was");
    json(&app, "PUT", &format!("/api/v1/rounds/{}/turned", round.id), value!({ "eighths": [1, 0, 0, 0, 0, 0] })).await;
    let kit = get(&app, "/api/v1/kit").await.json();
    assert_eq!(stands(&kit, "Tom"), ("unchecked".into(), false), "{kit}");
    assert_eq!(get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json()["turned_since"], true);
    upload(&app, "again.wav", wav(strikes(), 1, 48_000)).await;
    assert_ne!(stands(&get(&app, "/api/v1/kit").await.json(), "Tom").0, "unchecked");
    let mut tom = get(&app, "/api/v1/kit").await.json()["drums"][0]["drum"].clone();
    tom.as_object_mut().unwrap().remove("id");
    tom["plays_along"] = value!(true);
    assert_eq!(json(&app, "PUT", &format!("/api/v1/drums/{TOM}"), tom).await.status, 200);
    assert_eq!(stands(&get(&app, "/api/v1/kit").await.json(), "Tom"), ("left_alone".into(), true));
}

/// The same metal sounds otherwise wherever it is struck, and each is measured by itself; what breaks on a stage has a way on.
#[tokio::test]
async fn a_cymbal_is_kept_apart_by_where_it_is_struck() {
    let app = router(state());
    let mut ride = cymbal("Ride");
    ride["kind"] = value!("ride");
    let id = json(&app, "POST", "/api/v1/drums", ride.clone()).await.json()["id"].as_i64().unwrap();
    let bench = format!("/api/v1/drums/{id}/bench");
    upload_to(&app, id, "ride.wav", wav(strikes(), 1, 48_000)).await;
    let heard = get(&app, &bench).await.json();
    assert!(heard["open"]["metal"].is_object() && heard["ways_to_strike"][0]["now"] == true, "{}", heard["ways_to_strike"]);
    ride["struck"] = value!("bell");
    assert_eq!(json(&app, "PUT", &format!("/api/v1/drums/{id}"), ride.clone()).await.status, 200);
    let on_the_bell = get(&app, &bench).await.json();
    assert!(on_the_bell["open"].is_null(), "on the bell it was never heard");
    let rows = on_the_bell["ways_to_strike"].as_array().unwrap();
    let said: Vec<(&str, bool, bool)> =
        rows.iter().map(|row| (row["words"].as_str().unwrap(), row["now"].as_bool().unwrap(), row["heard"].is_object())).collect();
    assert_eq!(said, [("on the bow", false, true), ("on the bell", true, false), ("at the edge", false, false)]);
    ride["struck"] = value!("closed");
    let wrong = json(&app, "PUT", &format!("/api/v1/drums/{id}"), ride).await;
    assert!(wrong.sentence().contains("is not struck"), "{}", wrong.sentence());
    let repairs = get(&app, "/api/v1/repairs").await.json();
    let happened: Vec<&str> = repairs.as_array().unwrap().iter().filter_map(|repair| repair["happened"].as_str()).collect();
    assert!(happened.iter().any(|happened| happened.contains("counter-hoop")), "{happened:?}");
}
