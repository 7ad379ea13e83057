//! A closer look at strikes, figures as CSV, and takes measured again, over the API.

use crate::common::{TOM, get, json, send, state, strikes, upload, upload_to, wav};
use ember_app::sound::read_labels;
use ember_core::bench_drum::BenchDrum;
use ember_core::drum::DrumKind;
use ember_server::api::router;
use ember_server::state::AppState;
use serde_json::{Value, json as value};

/// A server with a take of two strikes; the take's id.
async fn with_take(app: &axum::Router) -> Value {
    let taken = upload(app, "open.wav", wav(strikes(), 1, 48_000)).await;
    assert_eq!(taken.status, 201);
    taken.json()["take"].clone()
}

#[tokio::test]
async fn a_strike_is_looked_at_closely() {
    let app = router(state());
    let take = with_take(&app).await;
    let strike = &take["strikes"][0];
    assert!(strike["quality"]["score"].as_f64().unwrap() > 0.7, "{}", strike["quality"]);
    let look = get(&app, &format!("/api/v1/strikes/{}/look", strike["id"])).await.json();
    let slope = look["slopes"][0]["t60_s"].as_f64().unwrap();
    let body = strike["profile"]["body_t60_s"].as_f64().unwrap();
    assert!((0.5..1.6).contains(&(slope / body)), "the whole falls about as its body does: {slope} and {body}");
    assert_eq!(look["octaves"].as_array().unwrap().len(), 7);
    assert_eq!(look["paces"].as_array().unwrap().len(), strike["partials"].as_array().unwrap().len());
    assert!(look["level_dbfs"].as_array().unwrap().len() > 50 && !look["sentences"].as_array().unwrap().is_empty());
    assert_eq!(look["waterfall"]["level_db"][0].as_array().unwrap().len(), look["waterfall"]["hz"].as_array().unwrap().len());
    assert_eq!(get(&app, "/api/v1/strikes/99/look").await.status, 404);
}

#[tokio::test]
async fn figures_come_as_csv() {
    let app = router(state());
    let take = with_take(&app).await;
    let rows = |text: &[u8]| -> Vec<csv::StringRecord> { csv::Reader::from_reader(text).records().map(Result::unwrap).collect() };
    let answer = get(&app, &format!("/api/v1/takes/{}/strikes.csv", take["id"])).await;
    assert_eq!(answer.headers["content-type"], "text/csv; charset=utf-8");
    let found = rows(&answer.bytes);
    assert_eq!((found.len(), &found[1][0], &found[1][4]), (2, "2", "true"));
    let body = take["strikes"][1]["profile"]["body_t60_s"].as_f64().unwrap();
    assert!(found[1].iter().any(|cell| cell.parse() == Ok(body)), "{body} in {:?}", found[1]);
    let partials = rows(&get(&app, &format!("/api/v1/takes/{}/partials.csv", take["id"])).await.bytes);
    let counted: usize = [0, 1].map(|i| take["strikes"][i]["partials"].as_array().unwrap().len()).iter().sum();
    assert_eq!(partials.len(), counted);
    let level = rows(&get(&app, &format!("/api/v1/strikes/{}/level.csv", take["strikes"][0]["id"])).await.bytes);
    assert!(level.len() > 50 && level.iter().all(|row| row.iter().all(|cell| cell.parse::<f64>().is_ok())));
    for path in ["takes/99/strikes.csv", "takes/99/partials.csv", "strikes/99/level.csv"] {
        assert_eq!(get(&app, &format!("/api/v1/{path}")).await.status, 404, "{path}");
    }
}

fn snare_hits(count: usize, seed: u64) -> Vec<f32> {
    BenchDrum::new(&BenchDrum::usual(DrumKind::Snare), &[]).unwrap().play(count, seed)
}

/// Strikes on the snare in a file for the tom: a few are left out, most of them are asked about, and the label track says where all are.
#[tokio::test]
async fn strikes_on_another_drum_in_a_file_are_told_apart() {
    let state = state();
    let snare = state.with_store(|store| store.add_drum(&BenchDrum::usual(DrumKind::Snare))).unwrap();
    let app = router(state);
    with_take(&app).await;
    assert_eq!(upload_to(&app, snare.id, "snare.wav", wav(&snare_hits(3, 4), 1, 48_000)).await.status, 201);
    let one = upload(&app, "mixed.wav", wav(&[strikes(), &snare_hits(1, 5)].concat(), 1, 48_000)).await.json();
    let warnings: Vec<&Value> = one["take"]["strikes"].as_array().unwrap().iter().map(|strike| &strike["warnings"]).collect();
    assert_eq!(warnings, [&value!([]), &value!([]), &value!(["other_drum"])]);
    assert_eq!(one["notes"], value!(["1 of its 3 good strikes sounds like your drum “Snare” and will not count."]));
    let most = upload(&app, "wrong.wav", wav(&snare_hits(3, 6), 1, 48_000)).await.json();
    assert_eq!((&most["take"]["summary"]["strikes_used"], most["notes"].as_array().unwrap().len()), (&value!(3), 1));
    assert!(most["notes"][0].as_str().unwrap().contains("it can be kept there"), "{}", most["notes"]);
    let answer = get(&app, &format!("/api/v1/takes/{}/labels.txt", one["take"]["id"])).await;
    let labels = read_labels(std::str::from_utf8(&answer.bytes).unwrap()).unwrap();
    let onsets: Vec<f64> = one["take"]["strikes"].as_array().unwrap().iter().map(|s| s["onset_s"].as_f64().unwrap()).collect();
    assert!(labels.iter().zip(&onsets).all(|(label, onset)| (label.start_s - onset).abs() < 1e-5) && labels.len() == 3, "{labels:?}");
    assert!(labels[1].name == "hit 2" && labels[2].name.starts_with("hit 3, left out: "), "{labels:?}");
}

/// A server that knows a tom and a snare, and the snare's number.
async fn with_tom_and_snare(state: &AppState) -> (axum::Router, i64) {
    let app = router(state.clone());
    with_take(&app).await;
    let snare = state.with_store(|store| store.add_drum(&BenchDrum::usual(DrumKind::Snare))).unwrap().id;
    assert_eq!(upload_to(&app, snare, "snare.wav", wav(&snare_hits(3, 3), 1, 48_000)).await.status, 201);
    (app, snare)
}

#[tokio::test]
async fn hits_on_another_drum_are_kept_there_if_the_player_says_so() {
    let state = state();
    let (app, snare) = with_tom_and_snare(&state).await;
    let sound = [strikes(), &snare_hits(1, 5)].concat();
    let take = upload(&app, "both.wav", wav(&sound, 1, 48_000)).await.json()["take"].clone();
    let path = format!("/api/v1/takes/{}/elsewhere", take["id"]);
    let found = get(&app, &path).await.json();
    assert_eq!(found, value!([{ "drum_id": snare, "name": "Snare", "strikes": [take["strikes"][2]["id"]] }]));
    let keep = json(&app, "POST", &format!("/api/v1/drums/{snare}/takes/strikes"), value!({ "strikes": found[0]["strikes"] })).await;
    assert_eq!((keep.status.as_u16(), &keep.json()["summary"]["strikes_used"]), (201, &value!(1)));
    assert_eq!(get(&app, &path).await.json(), value!([]), "nothing is left to ask about");
    let back = value!({ "strikes": found[0]["strikes"], "take": take["id"], "elsewhere": true });
    let back = json(&app, "POST", &format!("/api/v1/drums/{TOM}/takes/strikes"), back).await;
    assert_eq!((back.status.as_u16(), back.json()["summary"]["strikes_rejected"].as_u64()), (201, Some(1)));
    assert_eq!(get(&app, &path).await.json(), found);
    // A file of nothing but the snare goes there as a whole.
    let wrong = upload(&app, "wrong.wav", wav(&snare_hits(3, 6), 1, 48_000)).await.json()["take"].clone();
    let found = get(&app, &format!("/api/v1/takes/{}/elsewhere", wrong["id"])).await.json();
    assert_eq!((&found[0]["drum_id"], found[0]["strikes"].as_array().map(Vec::len)), (&value!(snare), Some(3)), "{found}");
    let nothing = json(&app, "POST", &format!("/api/v1/drums/{snare}/takes/strikes"), value!({ "strikes": [] })).await;
    assert!(nothing.sentence().contains("Say which strikes"));
}

#[tokio::test]
async fn a_label_track_says_which_hit_is_on_which_drum() {
    let state = state();
    let (app, snare) = with_tom_and_snare(&state).await;
    let sound = [strikes(), &snare_hits(2, 5)].concat();
    let take = upload(&app, "both.wav", wav(&sound, 1, 48_000)).await.json()["take"].clone();
    let onsets: Vec<f64> = take["strikes"].as_array().unwrap().iter().map(|s| s["onset_s"].as_f64().unwrap()).collect();
    let path = format!("/api/v1/takes/{}/labels", take["id"]);
    let label = |text: String| send(&app, "POST", &path, axum::body::Body::from(text), &[("content-type", "text/plain")]);
    let noise = send(&app, "POST", &path, axum::body::Body::from(vec![0xff, 0xfe, 0x00]), &[("content-type", "text/plain")]).await;
    assert!(noise.sentence().starts_with("Line 1 is no label."));
    assert!(label("no label".into()).await.sentence().starts_with("Line 1 is no label."));
    assert!(label("900\t901\tSnare\n".into()).await.sentence().starts_with("None of the 4 hits lies under a label."));
    let track = format!("{}\t{}\tTom\n{}\t{}\tsnare\n", onsets[0], onsets[0], onsets[2], onsets[3]);
    let said = label(track).await.json();
    assert_eq!(said["notes"], value!(["1 hit is under no label and left out.", "2 hits are kept on your Snare now."]));
    assert_eq!(get(&app, &format!("/api/v1/takes/{}", take["id"])).await.json()["summary"]["strikes_used"], 1);
    let of_snare = get(&app, &format!("/api/v1/drums/{snare}/takes")).await.json();
    assert_eq!((&of_snare["in_all"], &of_snare["takes"][0]["strikes_used"]), (&value!(2), &value!(2)), "{of_snare}");
}

#[tokio::test]
async fn a_take_is_measured_again_from_its_kept_sound() {
    let state = state();
    let app = router(state.clone());
    let take = with_take(&app).await;
    let id = take["id"].as_i64().unwrap();
    assert_eq!(take["outdated"], false);
    let path = format!("/api/v1/takes/{id}/measured-again");
    let again = |keep: bool| json(&app, "POST", &path, value!({ "keep": keep }));
    // The sound is kept in 24 bits: nothing that is shown changes.
    assert_eq!(again(false).await.json()["changed"], value!([]));

    // As if a method of long ago had heard the bodies twice as long.
    state.with_store(|store| {
        let old = store.strikes(id).unwrap().into_iter().map(|mut strike| {
            strike.measurement.method = 0;
            strike.measurement.partials.iter_mut().for_each(|partial| partial.t60_s = partial.t60_s.map(|t60| 2.0 * t60));
            (strike.id, strike.measurement)
        });
        store.replace_measurements(id, &old.collect::<Vec<_>>()).unwrap()
    });
    let old = get(&app, &format!("/api/v1/takes/{id}")).await.json();
    assert_eq!(old["outdated"], true);
    let told = again(false).await.json();
    let body = told["changed"].as_array().unwrap().iter().find(|change| change["figure"] == "body_t60_s").unwrap().clone();
    let (before, after) = (body["before"].as_f64().unwrap(), body["after"].as_f64().unwrap());
    assert!((before / after - 2.0).abs() < 0.01, "{before} becomes {after}");
    assert_eq!(told["take"]["summary"], old["summary"], "only told so far");

    let kept = again(true).await.json();
    // But for the 24 bits in which the sound is kept.
    for (figure, first) in take["summary"]["profile"].as_object().unwrap() {
        let (first, again) = (first.as_f64().unwrap(), kept["take"]["summary"]["profile"][figure].as_f64().unwrap());
        assert!((again - first).abs() < 1e-4 * first.abs(), "{figure}: {first} and {again}");
    }
    assert_eq!(get(&app, &format!("/api/v1/takes/{id}")).await.json()["outdated"], false);
    assert_eq!(json(&app, "POST", "/api/v1/takes/99/measured-again", value!({ "keep": true })).await.status, 404);
    assert_eq!(TOM, take["drum_id"].as_i64().unwrap());
}

#[tokio::test]
async fn a_file_being_measured_is_told_of_until_it_is_done() {
    let app = router(state());
    // A minute of strikes, so that there is time to ask.
    let long: Vec<f32> = strikes().iter().copied().cycle().take(60 * 48_000).collect();
    let path = format!("/api/v1/drums/{TOM}/takes/file?name=long.wav&job=a-word");
    let (taken, seen) = tokio::join!(send(&app, "POST", &path, wav(&long, 2, 24_000).into(), &[]), async {
        let mut seen = Vec::new();
        loop {
            tokio::time::sleep(std::time::Duration::from_millis(20)).await;
            let answer = get(&app, "/api/v1/readings/a-word").await;
            if answer.status == 404 && !seen.is_empty() {
                return seen;
            }
            seen.extend(answer.json()["share"].as_f64());
        }
    });
    assert_eq!(taken.status, 201);
    assert!(seen.windows(2).all(|pair| pair[0] <= pair[1]) && *seen.last().unwrap() > 0.5, "{seen:?}");
    assert_eq!(get(&app, "/api/v1/readings/a-word").await.status, 404);
}
