//! Heard first, laid out by hand, and learned from, over the API.

use crate::common::{TOM, get, json, state, strikes, upload, wav};
use axum::body::Body;
use ember_app::sound::read_kept;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::Placement;
use ember_core::drum::DrumKind;
use ember_server::api::router;
use serde_json::{Value, json as value};

/// Where the hit lies in every version, s.
const HIT_S: f64 = 0.02;

fn pad(radius: f64, angle_deg: f64) -> Value {
    value!({ "device": "gel_pad", "amount": 0, "radius": radius, "angle_deg": angle_deg })
}

/// Energy between two times after the hit, dB.
fn level_db(samples: &[f32], rate: f64, from_s: f64, to_s: f64) -> f64 {
    let index = |s: f64| ((HIT_S + s) * rate) as usize;
    10.0 * samples[index(from_s)..index(to_s)].iter().map(|x| f64::from(*x).powi(2)).sum::<f64>().log10()
}

#[tokio::test]
async fn versions_are_as_loud_at_the_hit_and_fade_as_they_should() {
    let app = router(state());
    let at = |rest: &str| format!("/api/v1/drums/{TOM}/audition{rest}");
    let early = json(&app, "POST", &at(""), value!({})).await;
    assert_eq!(early.status, 409);
    assert!(early.sentence().contains("Measure the open drum first"), "{}", early.sentence());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let ring = value!({ "placements": [{ "device": "control_ring", "amount": 1, "radius": 0.0, "angle_deg": 0.0 }] });
    let told = json(&app, "POST", &at(""), ring.clone()).await.json();
    let versions: Vec<&str> = told["versions"].as_array().unwrap().iter().map(|version| version["version"].as_str().unwrap()).collect();
    assert_eq!(versions, ["open", "expected"]);
    assert!(told["sentences"][0].as_str().unwrap().contains("dB") && !told["hits"].as_array().unwrap().is_empty());
    let mut sounds = Vec::new();
    for version in versions {
        let answer = json(&app, "POST", &at(&format!("/{version}")), ring.clone()).await;
        assert_eq!((answer.status.as_u16(), answer.headers["content-type"].to_str().unwrap()), (200, "audio/wav"));
        let (rate, samples) = read_kept(answer.bytes.to_vec()).unwrap();
        sounds.push([(0.0, 0.1), (0.4, 0.5)].map(|(from, to)| level_db(&samples, f64::from(rate), from, to)));
    }
    let [open, expected] = [&sounds[0], &sounds[1]];
    assert!((open[0] - expected[0]).abs() < 0.1, "matched: {open:?} and {expected:?}");
    assert!(expected[1] < open[1] - 3.0, "it fades sooner: {open:?} and {expected:?}");
    let unfound = json(&app, "POST", &at("/found"), value!({})).await;
    assert_eq!(unfound.status, 409);
    assert!(unfound.sentence().contains("not hit yet"), "{}", unfound.sentence());
    let device =
        |device: &str, radius: f64| value!({ "placements": [{ "device": device, "amount": 0, "radius": radius, "angle_deg": 0.0 }] });
    for refused in [device("wallet", 0.5), device("gel_pad", 7.0), device("pillow", 0.85)] {
        assert_eq!(json(&app, "POST", &at(""), refused.clone()).await.status, 422, "{refused}");
    }
}

#[tokio::test]
async fn a_layout_is_worked_out_made_better_and_refused_where_it_cannot_lie() {
    let app = router(state());
    let path = format!("/api/v1/drums/{TOM}/layouts");
    let lay = |placements: Value, improve: bool| value!({ "placements": placements, "improve": improve });
    assert_eq!(json(&app, "POST", &path, lay(value!([pad(0.8, 180.0)]), false)).await.status, 409);
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let idle = json(&app, "POST", &path, lay(value!([pad(0.05, 180.0)]), false)).await.json();
    assert_eq!((idle["offer"].as_str(), idle["devices"][0]["has_radius"].as_bool()), (Some("own"), Some(true)));
    let better = json(&app, "POST", &path, lay(value!([pad(0.05, 180.0)]), true)).await.json();
    assert!(better["cost"].as_f64().unwrap() <= idle["cost"].as_f64().unwrap());
    for refused in [value!([]), value!([pad(0.8, 180.0), pad(0.8, 181.0)]), value!([pad(1.4, 0.0)])] {
        let answer = json(&app, "POST", &path, lay(refused.clone(), false)).await;
        assert_eq!(answer.status, 422, "{refused}");
    }
    let done =
        json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), value!({ "offer": "own", "placements": [pad(0.8, 180.0)] })).await;
    assert_eq!((done.status.as_u16(), done.json()["plan"]["title"].as_str()), (201, Some("Your own layout")));
}

#[tokio::test]
async fn a_checked_treatment_is_learned_from_and_unlearned_when_its_take_goes() {
    let app = router(state());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let strength =
        |learned: &Value| learned["strengths"].as_array().unwrap().iter().find(|s| s["device"] == "control_ring").unwrap().clone();
    let usual = get(&app, "/api/v1/learned").await.json();
    assert_eq!((strength(&usual)["times"].as_f64(), usual["score"]["times"].as_u64()), (Some(1.0), Some(0)));
    let expected = || async {
        let layout = value!({ "placements": [{ "device": "control_ring", "amount": 0, "radius": 0.85, "angle_deg": 180.0 }] });
        let plan = json(&app, "POST", &format!("/api/v1/drums/{TOM}/layouts"), layout).await.json();
        plan["expected"]["ring_t60_s"].clone()
    };
    let before = expected().await;
    let ring = Placement::parse("control_ring:0").unwrap();
    json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), value!({ "offer": "own", "placements": [ring] })).await;
    let treated = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[ring]).unwrap().play(2, 5);
    let take = upload(&app, "ring.wav", wav(&treated, 1, 48_000)).await.json()["take"]["id"].clone();
    let learned = get(&app, "/api/v1/learned").await.json();
    // The simulated control ring is 1.25 times as strong as usual.
    let ring = strength(&learned);
    assert!(ring["tests"] == 1 && ring["times"].as_f64().unwrap() > 1.02, "{ring}");
    assert_eq!(learned["tests"][0]["words"], "control ring");
    let width = |range: &Value| range["high"].as_f64().unwrap() / range["low"].as_f64().unwrap();
    assert!(width(&expected().await) < width(&before), "what is expected next is less in doubt");
    crate::common::send(&app, "DELETE", &format!("/api/v1/takes/{take}"), Body::empty(), &[]).await;
    assert_eq!(get(&app, "/api/v1/learned").await.json()["score"]["times"], 0);
}

/// The cloth was never laid on: the take is asked about, teaches nothing until it is counted, and a right one after it needs no word.
#[tokio::test]
async fn a_take_without_what_should_be_on_is_asked_about() {
    let app = router(state());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let cloth = Placement::parse("thick_cloth:1").unwrap();
    json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), value!({ "offer": "own", "placements": [cloth] })).await;
    let played = |placements: &[Placement]| BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), placements).unwrap().play(2, 5);
    let forgotten = upload(&app, "forgotten.wav", wav(&played(&[]), 1, 48_000)).await.json()["take"]["id"].clone();
    let bench = || async { get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json() };
    let tests = || async { get(&app, "/api/v1/learned").await.json()["tests"].as_array().unwrap().len() };
    let asked = bench().await;
    assert_eq!((&asked["in_doubt"]["doubt"], &asked["in_doubt"]["take_id"]), (&value!("nothing_on"), &forgotten), "{asked}");
    assert!(asked["found"].is_null() && asked["check"].is_null() && tests().await == 0);
    assert_eq!(asked["takes"][0]["doubt"], "This sounds like your drum with nothing on it.");
    let path = format!("/api/v1/takes/{forgotten}");
    let count = |counted: bool| json(&app, "PATCH", &path, value!({ "counted": counted }));
    assert_eq!(count(true).await.status, 200);
    let counted = bench().await;
    assert!(counted["in_doubt"].is_null() && counted["found"]["id"] == forgotten && tests().await == 1);
    count(false).await;
    assert!(bench().await["found"].is_null() && tests().await == 0);
    let right = upload(&app, "right.wav", wav(&played(&[cloth]), 1, 48_000)).await.json()["take"]["id"].clone();
    let after = bench().await;
    assert!(after["in_doubt"].is_null() && after["found"]["id"] == right && tests().await == 1, "{after}");
    let unknown = json(&app, "PATCH", "/api/v1/takes/99999", value!({ "counted": true })).await;
    assert_eq!(unknown.status, 404);
}

fn towel(grams: f64) -> Value {
    value!({ "name": " bar towel ", "length_m": 0.12, "width_m": 0.1, "mass_kg": grams / 1000.0, "count": 2 })
}

#[tokio::test]
async fn a_thing_of_ones_own_is_planned_with_taught_changed_and_taken_away() {
    let app = router(state());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    for (thing, word) in [(towel(-6.0), "weight"), (towel(900.0), "too heavy")] {
        let refused = json(&app, "POST", "/api/v1/shelf/own", thing).await;
        assert_eq!(refused.status, 422);
        assert!(refused.sentence().contains(word), "{}", refused.sentence());
    }
    let kept = json(&app, "POST", "/api/v1/shelf/own", towel(6.0)).await;
    assert_eq!((kept.status.as_u16(), kept.json()["kind"].as_str()), (201, Some("own_1")));
    assert_eq!(kept.json()["made"]["name"], "bar towel");
    // The page need not say what it is: the shelf knows.
    let lay = value!({ "placements": [{ "device": "own_1", "amount": 0, "radius": 0.7, "angle_deg": 180.0 }] });
    let layout = format!("/api/v1/drums/{TOM}/layouts");
    let light = json(&app, "POST", &layout, lay.clone()).await.json();
    assert_eq!((light["words"].as_str(), light["devices"][0]["name"].as_str()), (Some("bar towel"), Some("bar towel")));
    let heard = json(&app, "POST", &format!("/api/v1/drums/{TOM}/audition"), lay.clone()).await;
    assert_eq!(heard.status, 200);
    let lesson = get(&app, &format!("/api/v1/drums/{TOM}/lesson?device=own_1")).await.json();
    assert_eq!((lesson["test"].as_u64(), lesson["of"].as_u64(), lesson["plan"]["words"].as_str()), (Some(1), Some(3), Some("bar towel")));
    // Heavier, it takes more.
    assert_eq!(json(&app, "PUT", "/api/v1/shelf/own/own_1", towel(30.0)).await.status, 200);
    let heavy = json(&app, "POST", &layout, lay.clone()).await.json();
    let body = |plan: &Value| plan["expected"]["profile"]["body_t60_s"].as_f64().unwrap();
    assert!(body(&heavy) < body(&light), "{} {}", body(&heavy), body(&light));
    let attack = |plan: &Value| plan["expected"]["attack_lost_db"].as_f64().unwrap();
    assert!((attack(&heavy) - 5.0 * attack(&light)).abs() < 1e-9, "{} {}", attack(&heavy), attack(&light));
    let shelf = get(&app, "/api/v1/shelf").await.json();
    let on_shelf = shelf.as_array().unwrap().iter().find(|item| item["kind"] == "own_1").unwrap();
    assert_eq!(on_shelf["attack_db"][0].as_f64(), Some(attack(&heavy)));
    assert_eq!(json(&app, "PUT", "/api/v1/shelf/own/gel_pad", towel(6.0)).await.status, 422);
    for _ in 1..8 {
        assert_eq!(json(&app, "POST", "/api/v1/shelf/own", towel(6.0)).await.status, 201);
    }
    let full = json(&app, "POST", "/api/v1/shelf/own", towel(6.0)).await;
    assert!(full.status == 409 && full.sentence().contains("Remove one first"), "{}", full.sentence());
    let gone = crate::common::send(&app, "DELETE", "/api/v1/shelf/own/own_1", Body::empty(), &[]).await;
    assert_eq!(gone.status, 204);
    let without = json(&app, "POST", &layout, lay).await;
    assert!(without.status == 422 && without.sentence().contains("say on the shelf what it is"), "{}", without.sentence());
}

#[tokio::test]
async fn after_a_check_comes_the_next_step_and_what_was_on_before_has_a_name() {
    let app = router(state());
    let (next, before) = (format!("/api/v1/drums/{TOM}/next-step"), format!("/api/v1/drums/{TOM}/treatments"));
    assert_eq!(get(&app, &next).await.json(), Value::Null);
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    let pad_on = value!({ "offer": "own", "placements": [pad(0.8, 180.0)] });
    let first = json(&app, "POST", &before, pad_on.clone()).await.json()["id"].clone();
    assert_eq!(get(&app, &next).await.json(), Value::Null, "nothing was heard of it yet");
    let placement: Placement = serde_json::from_value(pad(0.8, 180.0)).unwrap();
    let treated = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[placement]).unwrap().play(2, 5);
    upload(&app, "pad.wav", wav(&treated, 1, 48_000)).await;
    let step = get(&app, &next).await.json();
    let sentence = step["sentence"].as_str().unwrap();
    let fits = get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json()["found"]["assessment"]["fits"].as_bool().unwrap();
    assert!(sentence.ends_with('.') && fits == (step["step"] == "nothing"), "{sentence}");
    let after = step["plan"]["placements"].as_array().map_or(0, Vec::len);
    let expected = match step["step"].as_str().unwrap() {
        "add" => 2,
        "exchange" => 1,
        _ => 0,
    };
    assert_eq!(after, expected, "{sentence}");
    // Named, put on once more, listed once.
    let named = json(&app, "PATCH", &format!("/api/v1/treatments/{first}"), value!({ "name": " quay waltz " })).await;
    assert_eq!(named.json()["name"], "quay waltz");
    assert_eq!(json(&app, "PATCH", &format!("/api/v1/treatments/{first}"), value!({ "name": "x".repeat(61) })).await.status, 409);
    json(&app, "POST", &before, value!({ "offer": "own", "placements": [pad(0.6, 90.0)] })).await;
    json(&app, "POST", &before, pad_on).await;
    let listed = get(&app, &before).await.json();
    let rows: Vec<(Option<&str>, u64)> =
        listed.as_array().unwrap().iter().map(|row| (row["treatment"]["name"].as_str(), row["times"].as_u64().unwrap())).collect();
    assert_eq!(rows, [(Some("quay waltz"), 2), (None, 1)]);
    // Taken away from one, the name is gone from all that are the same.
    let newest = listed[0]["treatment"]["id"].clone();
    json(&app, "PATCH", &format!("/api/v1/treatments/{newest}"), value!({ "name": "" })).await;
    assert!(get(&app, &before).await.json().as_array().unwrap().iter().all(|row| row["treatment"]["name"].is_null()));
}

#[tokio::test]
async fn what_the_shelf_lacks_and_what_is_left_out_is_said() {
    let app = router(state());
    upload(&app, "open.wav", wav(strikes(), 1, 48_000)).await;
    for item in get(&app, "/api/v1/shelf").await.json().as_array().unwrap() {
        let count = u32::from(["tape", "loose_ring"].contains(&item["kind"].as_str().unwrap()));
        json(&app, "PUT", &format!("/api/v1/shelf/{}", item["kind"].as_str().unwrap()), value!({ "count": count })).await;
    }
    json(&app, "PUT", "/api/v1/tonight", value!({ "genre": "metal", "bpm": 180.0, "nothing_inside": true, "no_residue": true })).await;
    let plans = get(&app, &format!("/api/v1/drums/{TOM}/plans")).await.json();
    assert_eq!((plans["reach"].as_str(), plans["searched"].as_u64()), (Some("nothing_to_use"), Some(0)));
    let missing = plans["would_do"]["missing"][0].as_str().unwrap();
    assert!(missing.starts_with("a ") || missing.starts_with(|first: char| first.is_ascii_digit()), "{missing}");
    let left_out = get(&app, &format!("/api/v1/drums/{TOM}/passed-over")).await.json();
    let said: Vec<(&str, &str)> =
        left_out.as_array().unwrap().iter().map(|it| (it["name"].as_str().unwrap(), it["sentence"].as_str().unwrap())).collect();
    assert_eq!(
        said,
        [("tape", "Ruled out: it leaves something on the head."), ("loose ring inside", "Ruled out: a head would have to come off.")]
    );
}
