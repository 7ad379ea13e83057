//! A kick's front head over the API: what openings would do, trials, cutting, and the template read back.

use crate::common::{Answer, get, json, upload_to, wav};
use axum::Router;
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Placement};
use ember_core::drum::{Drum, DrumKind, Front, Port};
use ember_core::plan::ShelfItem;
use ember_server::api::router;
use ember_server::state::AppState;
use ember_store::Store;
use serde_json::{Value, json as value};
use std::sync::LazyLock;

const KICK: &str = "/api/v1/drums/1";

fn kick() -> Drum {
    BenchDrum::usual(DrumKind::Kick)
}

fn kit() -> Router {
    let mut store = Store::in_memory().unwrap();
    store.add_drum(&kick()).unwrap();
    store.set_shelf_item(ShelfItem::new(DeviceKind::Pillow, 1)).unwrap();
    router(AppState::of(store))
}

fn sound(front: &Front) -> Vec<u8> {
    wav(&BenchDrum::new(&kick().with_front(front), &[]).unwrap().play(2, 11), 1, 48_000)
}

/// The measured kick, whole, played once for all tests.
async fn measured() -> Router {
    static WHOLE: LazyLock<Vec<u8>> = LazyLock::new(|| sound(&Front::Whole));
    let app = kit();
    assert_eq!(upload_to(&app, 1, "whole.wav", WHOLE.clone()).await.status, 201);
    app
}

async fn outlook(app: &Router, asked: Value) -> Answer {
    json(app, "POST", &format!("{KICK}/front/outlook"), asked).await
}

/// The kick as it is expected to sound.
async fn heard(app: &Router, what: Value) -> Answer {
    json(app, "POST", &format!("{KICK}/audition/expected"), what).await
}

fn pillow(amount: usize) -> Value {
    value!({ "device": "pillow", "amount": amount, "radius": 0.85, "angle_deg": 0.0 })
}

fn way<'a>(page: &'a Value, words: &str) -> &'a Value {
    page["ways"].as_array().unwrap().iter().find(|way| way["words"] == words).unwrap_or_else(|| panic!("no way \"{words}\""))
}

#[tokio::test]
async fn a_trial_that_can_be_undone_comes_before_the_knife() {
    let app = kit();
    assert!(outlook(&app, value!({})).await.sentence().contains("Measure the open drum first"));
    let app = measured().await;
    // A microphone has to get in: then a hole is a question at all.
    let page = || async { outlook(&app, value!({ "microphone": true, "beater": "buried" })).await.json() };
    let first = page().await;
    assert_eq!((first["advice"]["verdict"].as_str(), first["trial"].as_str()), (Some("not_yet"), Some("not_yet")), "{}", first["advice"]);
    assert_eq!(way(&first, "front head whole")["assessment"], first["assessment"], "as it is, the drum is held as it was measured");
    let off = way(&first, "front head off");
    let expected = off["expected"]["profile"]["body_t60_s"].as_f64().unwrap();
    assert!(expected < 0.35 * first["profile"]["body_t60_s"].as_f64().unwrap());
    let dial = &first["dials"][0];
    let bodies: Vec<f64> =
        dial["steps"].as_array().unwrap().iter().map(|step| step["plan"]["expected"]["profile"]["body_t60_s"].as_f64().unwrap()).collect();
    assert!(bodies.len() >= 5 && bodies.is_sorted_by(|a, b| a >= b), "{bodies:?}");

    // In the song: against the beat, and against the bass; a key that is none is refused in words.
    let sung = outlook(&app, value!({ "bass": "B1,E1" })).await.json();
    assert!(
        sung["in_song"]["body_beats"].as_f64().unwrap() > 0.0 && sung["in_song"]["bass"]["clashes"].is_boolean(),
        "{}",
        sung["in_song"]
    );
    assert!(outlook(&app, value!({ "bass": "loud" })).await.sentence().contains("E1, A1, D2"));

    // Its head tuned otherwise: the pitch goes the way that the head is tuned, and a drum without one has none to tune.
    let pitches: Vec<f64> =
        first["tunings"].as_array().unwrap().iter().map(|way| way["expected"]["profile"]["body_hz"].as_f64().unwrap()).collect();
    assert!(pitches.len() == 4 && pitches.is_sorted_by(|a, b| a < b), "{pitches:?}");
    let now = first["profile"]["body_hz"].as_f64().unwrap();
    assert!(pitches[1] < now && now < pitches[2], "{pitches:?} about {now}");

    // Declined, and taken back.
    for (declined, verdict) in [(true, "would_help"), (false, "not_yet")] {
        assert_eq!(json(&app, "PUT", &format!("{KICK}/front-trials/declined"), value!({ "declined": declined })).await.status, 204);
        assert_eq!(page().await["advice"]["verdict"], verdict);
    }

    // The front comes off for a while; what is measured then is the trial's, and corrects what openings are thought to take.
    let trial = json(&app, "POST", &format!("{KICK}/front-trials"), value!({ "front": { "state": "off" } })).await;
    assert_eq!((trial.status.as_u16(), trial.json()["plan"]["words"].as_str()), (201, Some("front head off")));
    assert!(!trial.json()["plan"]["front_steps"].as_array().unwrap().is_empty());
    assert_eq!(upload_to(&app, 1, "off.wav", sound(&Front::Off)).await.status, 201);
    let bench = get(&app, &format!("{KICK}/bench")).await.json();
    let body = bench["check"].as_array().unwrap().iter().find(|row| row["figure"] == "body_t60").unwrap();
    assert_eq!(body["within"], true, "{body}");
    let told = page().await;
    assert_eq!((told["trial"].as_str(), told["tests"].as_u64()), (Some("measured"), Some(1)));
    assert!(way(&told, "front head off")["found"]["body_t60_s"].as_f64().is_some());
    let width = |page: &Value| (page["opening_high"].as_f64().unwrap() / page["opening_low"].as_f64().unwrap()).ln();
    assert!(width(&told) < 0.7 * width(&first), "{} after {}", width(&told), width(&first));
    assert_eq!(told["advice"]["verdict"], "would_help");

    // Heard first, and refused where it cannot be.
    let port =
        |diameter_in: f64| value!({ "state": "ported", "ports": [{ "diameter_in": diameter_in, "radius": 0.5, "angle_deg": 60.0 }] });
    assert_eq!(heard(&app, value!({ "front": port(5.0) })).await.status, 200);
    let (tuned, open) = (heard(&app, value!({ "tuned_semitones": -5 })).await, heard(&app, value!({ "tuned_semitones": 0 })).await);
    assert_ne!(tuned.bytes, open.bytes, "tuned otherwise it sounds otherwise");
    let off = value!({ "state": "off" });
    for refused in [
        value!({ "tuned_semitones": "up" }),
        value!({ "tuned_semitones": -40 }),
        value!({ "tuned_semitones": 2, "front": off }),
        value!({ "front": { "state": "ajar" } }),
        value!({ "front": port(30.0) }),
        value!({ "front": off, "placements": [pillow(9)] }),
    ] {
        assert_eq!(heard(&app, refused.clone()).await.status, 422, "{refused}");
    }
}

/// Fill and hole at once: expected together, heard together, and tried together, which teaches nothing about either alone.
#[tokio::test]
async fn what_is_laid_in_goes_with_every_way_of_closing_the_drum() {
    let app = measured().await;
    let body = |page: &Value, words: &str| way(page, words)["expected"]["profile"]["body_t60_s"].as_f64().unwrap();
    let (bare, filled) = (outlook(&app, value!({})).await.json(), outlook(&app, value!({ "placements": [pillow(2)] })).await.json());
    assert!(bare["laid"].is_null() && filled["laid"]["words"] == "pillow", "{}", filled["laid"]);
    for words in ["front head whole", "a 4 in hole in the front head", "a 10 in hole in the front head"] {
        assert!(body(&filled, words) < 0.9 * body(&bare, words), "{words}");
    }
    // With the front as it is, both ways of working it out agree.
    let alone = filled["laid"]["expected"]["profile"]["body_t60_s"].as_f64().unwrap();
    assert!((body(&filled, "front head whole") / alone - 1.0).abs() < 0.05, "{} and {alone}", body(&filled, "front head whole"));
    let wallet = value!({ "placements": [{ "device": "wallet", "amount": 0, "radius": 0.5, "angle_deg": 0.0 }] });
    assert!(outlook(&app, wallet).await.sentence().contains("there is no device `wallet`"));

    let off = value!({ "state": "off" });
    let both = heard(&app, value!({ "front": off, "placements": [pillow(2)] })).await;
    assert_ne!(both.bytes, heard(&app, value!({ "front": off })).await.bytes, "with a pillow in it sounds otherwise");
    let asked = value!({ "front": off, "placements": [pillow(2)] });
    let trial = json(&app, "POST", &format!("{KICK}/front-trials"), asked).await.json();
    assert_eq!(trial["plan"]["words"], "front head off and pillow");
    let laid = Placement::parse("pillow:2").unwrap();
    let sound = wav(&BenchDrum::new(&kick().with_front(&Front::Off), &[laid]).unwrap().play(2, 11), 1, 48_000);
    assert_eq!(upload_to(&app, 1, "both.wav", sound).await.status, 201);
    let told = outlook(&app, value!({ "placements": [pillow(2)] })).await.json();
    assert!(way(&told, "front head off")["found"]["body_t60_s"].as_f64().is_some());
    assert!(way(&outlook(&app, value!({})).await.json(), "front head off")["found"].is_null(), "it was not tried alone");
    assert_eq!(told["tests"], 0);
}

#[tokio::test]
async fn a_hole_is_noted_begins_a_history_and_can_be_taken_back() {
    let app = measured().await;
    let trial = json(&app, "POST", &format!("{KICK}/front-trials"), value!({ "front": { "state": "off" } })).await.json();
    assert_eq!(upload_to(&app, 1, "off.wav", sound(&Front::Off)).await.status, 201);
    assert_eq!(json(&app, "PATCH", &format!("/api/v1/treatments/{}", trial["id"]), value!({ "on": false })).await.status, 200);
    assert_eq!(outlook(&app, value!({})).await.json()["tests"], 1);
    let hole = value!({ "front": { "state": "ported", "ports": [{ "diameter_in": 5.0, "radius": 0.5, "angle_deg": 60.0 }] } });
    let change = json(&app, "PUT", &format!("{KICK}/front"), hole.clone()).await;
    assert_eq!(change.status, 200);
    assert_eq!(change.json()["before_front"]["state"], "whole");
    let bench = get(&app, &format!("{KICK}/bench")).await.json();
    assert_eq!((bench["drum"]["ports"][0]["diameter_in"].as_f64(), bench["open"].is_null()), (Some(5.0), true));
    assert_eq!(json(&app, "PUT", &format!("{KICK}/front"), hole).await.status, 409);
    for refused in [30.0, 0.1] {
        let port = value!({ "front": { "state": "ported", "ports": [{ "diameter_in": refused, "radius": 0.5, "angle_deg": 60.0 }] } });
        assert_eq!(json(&app, "PUT", &format!("{KICK}/front"), port.clone()).await.status, 422);
        assert_eq!(json(&app, "POST", &format!("{KICK}/front-trials"), port).await.status, 422);
    }
    // The trial was of another head: it teaches nothing about this one.
    assert_eq!(
        upload_to(&app, 1, "hole.wav", sound(&Front::Ported { ports: vec![Port { diameter_in: 5.0, radius: 0.5, angle_deg: 60.0 }] }))
            .await
            .status,
        201
    );
    assert_eq!(outlook(&app, value!({})).await.json()["tests"], 0);
    // A whole head goes on: the hole went with the other one. Both are taken back, newest first.
    let head = value!({ "side": "lower", "head": { "film_mil": 10.0 } });
    let another = json(&app, "POST", &format!("{KICK}/head"), head).await.json();
    assert!(get(&app, &format!("{KICK}/bench")).await.json()["drum"]["ports"].as_array().unwrap().is_empty());
    for id in [&another["id"], &change.json()["id"]] {
        assert_eq!(json(&app, "DELETE", &format!("/api/v1/head-changes/{id}"), Value::Null).await.status, 204);
    }
    let back = get(&app, &format!("{KICK}/bench")).await.json();
    assert!(back["drum"]["ports"].as_array().unwrap().is_empty() && !back["open"].is_null());
}

/// Numbers before each `operator` of a PDF page, points.
fn operands(document: &lopdf::Document, page: lopdf::ObjectId, operator: &str) -> Vec<Vec<f64>> {
    let content = lopdf::content::Content::decode(&document.get_page_content(page)).unwrap();
    let number = |object: &lopdf::Object| object.as_float().map(f64::from).unwrap_or(0.0);
    let of = content.operations.iter().filter(|operation| operation.operator == operator);
    of.map(|operation| operation.operands.iter().map(number).collect()).collect()
}

/// What comes out of the printer: the file is read back by another library and measured in points, 72 to an inch (ISO 32000-1, 8.3.2.3).
#[tokio::test]
async fn the_template_is_in_full_size() {
    let app = measured().await;
    let at = |rest: &str| format!("{KICK}/hole{rest}&radius=0.45&angle_deg=60&ring_mm=20");
    let mm = |points: f64| points * 25.4 / 72.0;
    for (hole_in, paper, size) in [(5.0, "a4", (210.0, 297.0)), (10.0, "letter", (215.9, 279.4))] {
        let pdf = get(&app, &at(&format!("/template.pdf?diameter_in={hole_in}&paper={paper}"))).await;
        assert_eq!((pdf.status.as_u16(), pdf.headers["content-type"].to_str().unwrap()), (200, "application/pdf"));
        let document = lopdf::Document::load_mem(&pdf.bytes).unwrap();
        let pages: Vec<lopdf::ObjectId> = document.get_pages().into_values().collect();
        assert_eq!(pages.len() > 1, hole_in > 8.0);
        for page in pages {
            let media = document.get_dictionary(page).unwrap().get(b"MediaBox").unwrap().as_array().unwrap();
            let media: Vec<f64> = media.iter().map(|x| f64::from(x.as_float().unwrap())).collect();
            assert!((mm(media[2]) - size.0).abs() < 0.01 && (mm(media[3]) - size.1).abs() < 0.01, "{media:?}");
            let (starts, lines) = (operands(&document, page, "m"), operands(&document, page, "l"));
            let across: Vec<f64> = starts
                .iter()
                .flat_map(|from| lines.iter().map(move |to| (to[0] - from[0], to[1] - from[1])))
                .filter(|d| d.1.abs() < 1e-3)
                .map(|d| mm(d.0))
                .collect();
            for wanted in [100.0, 101.6] {
                assert!(across.iter().any(|length| (length - wanted).abs() < 0.01), "no check line of {wanted} mm");
            }
            // The first circle is the cut: its curves end a quarter further each.
            let curves = operands(&document, page, "c");
            let (right, left) = (curves[3][4], curves[1][4]);
            assert!((mm(right - left) - 25.4 * hole_in).abs() < 0.01, "{} mm", mm(right - left));
        }
    }
    let svg = String::from_utf8(get(&app, &at("/template.svg?diameter_in=5")).await.bytes).unwrap();
    assert!(svg.contains("width=\"210mm\" height=\"297mm\" viewBox=\"0 0 210 297\"") && svg.contains("r=\"63.500\""), "{svg}");
    let place = get(&app, &at("?diameter_in=5")).await.json();
    assert_eq!(place["fits"], true, "{place}");
    for refused in ["?diameter_in=30", "?diameter_in=0.1", "/template.pdf?diameter_in=30", "/template.svg?diameter_in=18"] {
        assert!(get(&app, &at(refused)).await.sentence().len() > 20, "{refused}");
    }
}

#[tokio::test]
async fn a_drum_that_cannot_be_closed_so_is_refused_in_words_and_nothing_is_lost() {
    let app = kit();
    let before = get(&app, &format!("{KICK}/bench")).await.json()["drum"].clone();
    let mut known = before.clone();
    // Its number stands in the address.
    known.as_object_mut().unwrap().remove("id");
    let port = |diameter_in: f64, radius: f64| value!({ "diameter_in": diameter_in, "radius": radius, "angle_deg": 60.0 });
    let with = |change: &[(&str, Value)]| {
        let mut drum = known.clone();
        change.iter().for_each(|(key, to)| drum[*key] = to.clone());
        drum
    };
    for (change, said) in [
        (vec![("ports", value!([port(5.0, 0.5)])), ("lower", Value::Null)], "no front head"),
        (vec![("ports", value!([port(5.0, 0.5)])), ("lower_mesh", value!(true))], "lets all air through"),
        (vec![("ports", value!([port(30.0, 0.0)]))], "too large"),
        (vec![("ports", value!([port(5.0, 0.95)]))], "between it and the hoop"),
        (vec![("ports", value!([port(4.0, 0.5), port(4.0, 0.55)]))], "each other"),
        (vec![("ports", value!(vec![port(1.0, 0.3); 7]))], "at most 6"),
        (vec![("diameter_in", value!(90.0))], "between 6 and 42"),
    ] {
        let refused = json(&app, "PUT", KICK, with(&change)).await;
        assert_eq!(refused.status, 422, "{change:?}");
        assert!(refused.sentence().contains(said), "{} for {said}", refused.sentence());
    }
    assert_eq!(get(&app, &format!("{KICK}/bench")).await.json()["drum"], before);
    // What can be is kept: a mesh, and a small hole.
    for change in [vec![("lower_mesh", value!(true))], vec![("ports", value!([port(4.0, 0.5)]))]] {
        let kept = json(&app, "PUT", KICK, with(&change)).await;
        assert_eq!((kept.status.as_u16(), &kept.json()[change[0].0]), (200, &change[0].1));
    }
    assert_eq!(json(&app, "POST", "/api/v1/drums/99/front/outlook", value!({})).await.status, 404);
    for missing in ["hole?diameter_in=4&radius=0.5&angle_deg=0", "hole/template.pdf?diameter_in=4&radius=0.5&angle_deg=0"] {
        assert_eq!(get(&app, &format!("/api/v1/drums/99/{missing}")).await.status, 404, "{missing}");
    }
    let template = get(&app, &format!("{KICK}/hole/template.svg?diameter_in=4&radius=0.5&angle_deg=0&paper=papyrus")).await;
    assert!(template.status.is_client_error() && template.sentence().len() > 15);
}
