//! Nothing hangs, nothing eats the machine, nothing good is lost: what was found by testing hard from outside, each as it was found.

use crate::common::{DRUM, Running, TOM, app, get, json, state, strikes, upload, upload_to, wav};
use axum::Router;
use ember_app::sound::{kept_sound, read};
use ember_server::api::router;
use serde_json::{Value, json as value};
use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

const RATE: u32 = 48_000;

fn softer(db: f32) -> Vec<f32> {
    strikes().iter().map(|x| x * 10f32.powf(db / 20.0)).collect()
}

async fn list_of(app: &Router, song: Value) -> i64 {
    let song = json(app, "POST", "/api/v1/songs", song).await;
    assert_eq!(song.status, 201, "{}", String::from_utf8_lossy(&song.bytes));
    let entry = value!({"kind": "song", "song_id": song.json()["id"]});
    json(app, "POST", "/api/v1/set-lists", value!({"name": "Friday", "gap_s": 20, "entries": [entry, entry]})).await.json()["id"]
        .as_i64()
        .unwrap()
}

/// Every misfit in an answer is a number.
fn misfits(answer: &Value) -> usize {
    match answer {
        Value::Object(fields) => {
            let here = fields.get("misfit").map_or(0, |misfit| {
                assert!(misfit.as_f64().is_some_and(f64::is_finite), "misfit: {misfit}");
                1
            });
            here + fields.values().map(misfits).sum::<usize>()
        }
        Value::Array(all) => all.iter().map(misfits).sum(),
        _ => 0,
    }
}

/// Under a band that was measured nobody hears a quiet take's body: that made an infinite misfit, and the evening never answered.
#[tokio::test(flavor = "multi_thread")]
async fn an_evening_with_a_take_that_nobody_hears_is_answered() {
    let app = app();
    assert_eq!(upload(&app, "quiet.wav", wav(&softer(-36.0), 1, RATE)).await.status, 201);
    let venue = value!({"name": "Loft", "room": {"from": "class", "class": "club"}, "loudness": "loud", "heard": "bare_ear",
        "band": {"level_dbfs": [-12, -12, -12, -12, -12, -12, -12], "seconds": 10}, "empty": null, "notes": "", "room_modes": []});
    let venue = json(&app, "POST", "/api/v1/venues", venue).await;
    assert_eq!(venue.status, 201, "{}", String::from_utf8_lossy(&venue.bytes));
    let list =
        list_of(&app, value!({"title": "Foam", "genre": "rock", "bpm": 118, "dynamics": {"softest": "soft", "hardest": "hard"}})).await;
    let mut tonight = get(&app, "/api/v1/tonight").await.json();
    tonight["venue_id"] = venue.json()["id"].clone();
    assert_eq!(json(&app, "PUT", "/api/v1/tonight", tonight).await.status, 200);
    let began = Instant::now();
    for path in [format!("/api/v1/set-lists/{list}/evening"), format!("/api/v1/drums/{TOM}/plans"), "/api/v1/kit".into()] {
        let answer = tokio::time::timeout(Duration::from_secs(120), get(&app, &path)).await.expect("it never answers");
        assert!(answer.status == 200 && misfits(&answer.json()) > 0, "{path}: {}", answer.status);
    }
    // What is measured meanwhile and afterwards is kept as ever.
    assert_eq!(upload(&app, "next.wav", wav(strikes(), 1, RATE)).await.status, 201);
    eprintln!("answered after {:.1} s", began.elapsed().as_secs_f64());
}

#[tokio::test(flavor = "multi_thread")]
async fn an_evening_with_one_cymbal_from_soft_to_hard_is_answered() {
    let app = app();
    let cymbal =
        value!({"name": "Crash", "kind": "cymbal", "diameter_in": 16, "depth_in": 1, "lugs": 1, "batter": {"film_mil": 10}, "lower": null});
    let cymbal = json(&app, "POST", "/api/v1/drums", cymbal).await;
    assert_eq!(cymbal.status, 201, "{}", String::from_utf8_lossy(&cymbal.bytes));
    let id = cymbal.json()["id"].as_i64().unwrap();
    let wash: Vec<f32> = (0..4 * RATE)
        .map(|n| {
            let t = n as f32 / RATE as f32;
            let noise = (n.wrapping_mul(2_654_435_761) >> 8) as f32 / 8_388_608.0 - 1.0;
            if t < 0.5 { 1e-5 * noise } else { 0.02 * noise * (-(t - 0.5) * 3.0).exp() }
        })
        .collect();
    upload_to(&app, id, "crash.wav", wav(&wash, 1, RATE)).await;
    let list =
        list_of(&app, value!({"title": "Foam", "genre": "metal", "bpm": 180, "dynamics": {"softest": "soft", "hardest": "hard"}})).await;
    let answer = tokio::time::timeout(Duration::from_secs(120), get(&app, &format!("/api/v1/set-lists/{list}/evening"))).await;
    misfits(&answer.expect("it never answers").json());
}

/// Too hot an input is the commonest fault of beginners.
#[tokio::test]
async fn a_clipped_take_is_kept_no_larger_than_its_samples_and_said_to_be_clipped() {
    let state = state();
    let app = router(state.clone());
    for louder in [20.0, 29.5] {
        let clipped: Vec<f32> = softer(louder).iter().map(|x| x.clamp(-1.0, 1.0)).collect();
        let answer = upload(&app, "hot.wav", wav(&clipped, 1, RATE)).await;
        assert_eq!(answer.status, 201, "{}", String::from_utf8_lossy(&answer.bytes));
        let taken = answer.json();
        let strikes = taken["take"]["strikes"].as_array().unwrap().clone();
        assert!(strikes.iter().any(|strike| strike["warnings"].as_array().unwrap().contains(&value!("clipped"))), "{taken}");
        let room = state.with_store(|store| store.room()).unwrap();
        assert!(room.drums[0].sound_bytes < 6 * clipped.len() as u64, "{} bytes", room.drums[0].sound_bytes);
    }
    let ceiling: Vec<f32> = softer(60.0).iter().map(|x| x.clamp(-1.0, 1.0)).collect();
    let said = upload(&app, "hot.wav", wav(&ceiling, 1, RATE)).await.sentence();
    assert!(said.contains("Turn the input down"), "{said}");
}

#[tokio::test]
async fn samples_beyond_full_scale_are_turned_down_with_a_word_or_refused() {
    let app = app();
    let body = |answer: &Value| answer["take"]["summary"]["profile"]["body_t60_s"].as_f64().unwrap();
    let plain = upload(&app, "plain.wav", wav(strikes(), 1, RATE)).await.json();
    for louder in [20.0, 90.0] {
        let answer = upload(&app, "float.wav", wav(&softer(louder), 1, RATE)).await;
        assert_eq!(answer.status, 201, "+{louder} dB: {}", String::from_utf8_lossy(&answer.bytes));
        let hot = answer.json();
        assert!(hot["notes"][0].as_str().unwrap().contains("dB beyond full scale"), "{}", hot["notes"]);
        assert!((body(&hot) / body(&plain) - 1.0).abs() < 0.02, "its decay is the same: {} and {} s", body(&hot), body(&plain));
    }
    let mut spike = strikes().to_vec();
    spike[1000] = 1e10;
    let said = upload(&app, "spike.wav", wav(&spike, 1, RATE)).await.sentence();
    assert!(said.contains("200 dB beyond full scale"), "{said}");
}

/// Such a strike failed, and took the three good ones before it with it.
#[tokio::test]
async fn a_strike_at_the_very_end_of_a_file_spoils_no_other() {
    let app = app();
    let mut sound = strikes().to_vec();
    let used = upload(&app, "good.wav", wav(&sound, 1, RATE)).await.json()["take"]["summary"]["strikes_used"].clone();
    assert_eq!(used, 2);
    let quiet = RATE as usize / 2;
    sound.extend((0..quiet).map(|n| 1e-5 * ((n * 7919) % 1000) as f32 / 1000.0));
    for more in [1, 7, 60, 200, 239, 240, 241, 300, 500] {
        let mut sound = sound.clone();
        sound.extend((0..more).map(|n| 0.8 * (0.3 * n as f32).sin() + 0.1));
        let answer = upload(&app, "end.wav", wav(&sound, 1, RATE)).await;
        assert_eq!(answer.status, 201, "{more} samples: {}", String::from_utf8_lossy(&answer.bytes));
        assert_eq!(answer.json()["take"]["summary"]["strikes_used"], used, "{more} samples");
    }
}

#[test]
fn sound_that_never_moves_is_not_read_to_its_end_and_what_came_before_it_counts() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("long.flac");
    let mut sound = vec![0.25f32; 8_000];
    sound.resize(40 * 60 * 8_000, 0.0);
    std::fs::write(&path, kept_sound(&sound, 8_000).unwrap()).unwrap();
    let mut read_s = 0.0;
    let facts = read(&path, "long.flac", 7200.0, |rate, piece| read_s += piece.len() as f64 / f64::from(rate)).unwrap();
    assert!((600.0..660.0).contains(&facts.duration_s) && (read_s - facts.duration_s).abs() < 1.0, "{} s", facts.duration_s);
    let said = read(&path, "long.flac", 60.0, |_, _| panic!("it says itself how long it is")).unwrap_err().to_string();
    assert!(said.contains("lasts longer than 1 minutes"), "{said}");
}

#[test]
fn a_file_that_was_cut_in_half_is_read_as_far_as_it_goes() {
    let formats = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/formats");
    let folder = tempfile::tempdir().unwrap();
    for name in ["aiff-16.aiff", "wav-16.wav", "wav-float.wav", "flac-16.flac", "vorbis.ogg", "mp3.mp3"] {
        let whole = read(&formats.join(name), name, 60.0, |_, _| {}).unwrap();
        let bytes = std::fs::read(formats.join(name)).unwrap();
        let half = folder.path().join(name);
        std::fs::write(&half, &bytes[..bytes.len() / 2]).unwrap();
        let facts = read(&half, name, 60.0, |_, _| {}).unwrap_or_else(|error| panic!("{name}: {error}"));
        let share = facts.duration_s / whole.duration_s;
        assert!((0.2..0.75).contains(&share), "{name}: {share:.2} of it");
    }
}

#[tokio::test]
async fn names_keep_what_can_be_seen_only() {
    let app = app();
    let song =
        json(&app, "POST", "/api/v1/songs", value!({"title": " Fo\u{200B}am\u{202E}\n on\u{0007} it ", "genre": "rock", "bpm": 100})).await;
    assert_eq!(song.json()["title"], "Foam on it");
    let nothing = json(&app, "POST", "/api/v1/songs", value!({"title": "\u{200B}\u{FEFF}", "genre": "rock", "bpm": 100})).await;
    assert!(nothing.status == 422 && nothing.sentence().contains("title"));
    let csv = "title,genre,bpm\n".to_string() + &"x,rock,100\n".repeat(90_000);
    let said = crate::common::send(&app, "POST", "/api/v1/songs/import/preview", csv.into(), &[("content-type", "text/plain")]).await;
    assert!(said.sentence().contains("20000"), "{}", said.sentence());
}

/// Every operation says how a request is refused that cannot be read.
#[tokio::test]
async fn what_is_answered_to_bad_requests_is_declared() {
    let app = app();
    let document: Value = serde_json::from_str(&ember_server::api::openapi()).unwrap();
    let mut tried = 0;
    for (path, item) in document["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            if operation["requestBody"]["content"].get("application/json").is_none() {
                continue;
            }
            let path = path.replace("{id}", "1").replace("{code}", "rock").replace("{device}", "tape");
            let types = [("application/json", "{"), ("text/plain", "{}"), ("application/json", "\"nonsense\"")];
            for (kind, body) in types {
                let answer = crate::common::send(&app, &method.to_uppercase(), &path, body.into(), &[("content-type", kind)]).await;
                let status = answer.status.as_u16().to_string();
                assert!(answer.status.is_client_error(), "{method} {path}: {status}");
                assert!(operation["responses"].get(&status).is_some(), "{method} {path} answers {status} and does not say so");
                answer.sentence();
                tried += 1;
            }
        }
    }
    assert!(tried > 50, "{tried}");
}

/// Three files at once; the next one is told to wait, and nothing is read of it.
#[tokio::test(flavor = "multi_thread")]
async fn files_are_measured_a_few_at_once() {
    let app = app();
    let endless = || axum::body::Body::from_stream(futures_util::stream::pending::<Result<Vec<u8>, std::io::Error>>());
    let waiting: Vec<_> = (0..3)
        .map(|_| {
            let (app, body) = (app.clone(), endless());
            tokio::spawn(async move { upload(&app, "slow.wav", body).await.status })
        })
        .collect();
    tokio::time::sleep(Duration::from_millis(500)).await;
    let refused = upload(&app, "next.wav", wav(strikes(), 1, RATE)).await;
    assert!(refused.status == 503 && refused.sentence().contains("being measured already"));
    // Called off with their connections, they leave their places.
    waiting.iter().for_each(tokio::task::JoinHandle::abort);
    tokio::time::sleep(Duration::from_millis(200)).await;
    assert_eq!(upload(&app, "next.wav", wav(strikes(), 1, RATE)).await.status, 201);
}

#[tokio::test]
async fn no_other_page_may_show_what_is_here() {
    let answer = get(&app(), "/api/v1/kit").await;
    assert_eq!(answer.headers["cross-origin-resource-policy"], "same-origin");
    let foreign = [("sec-fetch-site", "cross-site"), ("sec-fetch-mode", "no-cors")];
    assert_eq!(crate::common::send(&app(), "GET", "/api/v1/kit", "".into(), &foreign).await.status, 403);
}

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

fn refused(arguments: &[&str]) -> String {
    let output = Command::new(env!("CARGO_BIN_EXE_soft-ember")).args(arguments).output().unwrap();
    assert!(!output.status.success());
    String::from_utf8(output.stderr).unwrap()
}

#[test]
fn a_second_program_on_the_same_data_is_told_where_the_first_is() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("kit.sqlite");
    let first = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
    let said = refused(&["serve", "--data", text(&data), "--port", "0"]);
    assert!(said.contains(&first.address), "{said}");
    assert_eq!(first.post("/api/v1/drums", DRUM).0, 201, "the first one goes on");
    let status = first.get("/api/v1/data").1;
    assert!(status.contains("\"notes\":[]"), "{status}");
}

#[test]
fn the_demonstration_never_takes_the_place_of_ones_own_kit() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("mine.sqlite");
    let mine = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
    assert_eq!(mine.post("/api/v1/drums", DRUM).0, 201);
    assert!(mine.stop());
    for arguments in [&["demo", "--fresh", "--data", text(&data)][..], &["demo", "--data", text(&data)]] {
        let said = refused(arguments);
        assert!(said.contains("holds a kit of your own"), "{said}");
    }
    let again = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
    assert!(again.get("/api/v1/kit").1.contains("Side tom"));
}

#[test]
fn data_that_can_only_be_read_is_shown_and_nothing_is_promised() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("kit.sqlite");
    let first = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
    assert_eq!(first.post("/api/v1/drums", DRUM).0, 201);
    assert!(first.stop());
    let reading = Running::start(&["serve", "--read-only", "--data", text(&data), "--port", "0"]);
    assert!(reading.get("/api/v1/kit").1.contains("Side tom"));
    assert!(reading.get("/api/v1/data").1.contains("can only be read"));
    let (status, said) = reading.post("/api/v1/drums", DRUM);
    assert!(status == 403 && said.contains("can only be read"), "{status} {said}");
    assert!(reading.stop());
}

#[test]
fn connections_that_dawdle_are_closed_and_too_many_are_told_so() {
    let folder = tempfile::tempdir().unwrap();
    let server = Running::start(&["serve", "--data", text(&folder.path().join("kit.sqlite")), "--port", "0"]);
    let open: Vec<TcpStream> = (0..128).map(|_| TcpStream::connect(&server.address).unwrap()).collect();
    // All of them are taken before the next one is looked at.
    std::thread::sleep(Duration::from_millis(300));
    let mut answer = String::new();
    TcpStream::connect(&server.address).unwrap().read_to_string(&mut answer).unwrap();
    assert!(answer.starts_with("HTTP/1.1 503") && answer.contains("Too many windows"), "{answer}");
    let mut slow = open.into_iter().next().unwrap();
    slow.write_all(b"GET /api/v1/kit HTTP/1.1\r\nHost: 127").unwrap();
    slow.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
    let mut rest = Vec::new();
    // It is closed, with or without a word.
    let _ = slow.read_to_end(&mut rest);
    assert!(!String::from_utf8_lossy(&rest).contains("200 OK"));
    assert_eq!(server.get("/api/v1/kit").0, 200, "others are answered again");
    assert!(server.stop());
}

/// The end comes within seconds, whatever is under way.
#[test]
fn it_ends_although_somebody_holds_a_connection_open() {
    let folder = tempfile::tempdir().unwrap();
    let server = Running::start(&["serve", "--data", text(&folder.path().join("kit.sqlite")), "--port", "0"]);
    let mut half = TcpStream::connect(&server.address).unwrap();
    let head = format!(
        "POST /api/v1/drums HTTP/1.1\r\nHost: {}\r\nContent-Type: application/json\r\nContent-Length: 5000\r\n\r\n{{",
        server.address
    );
    half.write_all(head.as_bytes()).unwrap();
    std::thread::sleep(Duration::from_millis(200));
    let asked = Instant::now();
    assert!(server.stop());
    // Generous: what is told is that it does not wait for ever.
    assert!(asked.elapsed() < Duration::from_secs(30), "{:.1} s", asked.elapsed().as_secs_f64());
}

/// Rounds in the usual run; the environment asks for more.
fn rounds() -> usize {
    std::env::var("EMBER_KILL_ROUNDS").ok().and_then(|rounds| rounds.parse().ok()).unwrap_or(20)
}

/// Killed in the middle of its work, again and again: whatever it said was kept is there after the next start.
#[test]
fn nothing_that_was_acknowledged_is_lost_when_it_is_killed() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("kit.sqlite");
    let (mut kept, mut drums) = (0usize, 0usize);
    let sound = wav(strikes(), 1, RATE);
    for round in 0..rounds() {
        let server = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
        let found = server.get("/api/v1/songs?limit=1").1;
        let all = serde_json::from_str::<Value>(&found).unwrap()["in_all"].as_u64().unwrap() as usize;
        assert!(all >= kept, "round {round}: {all} songs of {kept}");
        let kit: Value = serde_json::from_str(&server.get("/api/v1/kit").1).unwrap();
        assert!(kit["drums"].as_array().unwrap().len() >= drums, "round {round}");
        kept = all;
        drums = kit["drums"].as_array().unwrap().len();
        if round == 0 {
            assert_eq!(server.post("/api/v1/drums", DRUM).0, 201);
            drums += 1;
        }
        let address = server.address.clone();
        let sound = sound.clone();
        // Another hand keeps takes meanwhile.
        let takes = std::thread::spawn(move || {
            let mut stream = TcpStream::connect(&address).ok()?;
            let head = format!(
                "POST /api/v1/drums/1/takes/file?name=a.wav HTTP/1.1\r\nHost: {address}\r\nContent-Length: {}\r\nConnection: close\r\n\r\n",
                sound.len()
            );
            stream.write_all(head.as_bytes()).ok()?;
            stream.write_all(&sound).ok()?;
            let mut answer = String::new();
            stream.read_to_string(&mut answer).ok()?;
            answer.starts_with("HTTP/1.1 201").then_some(())
        });
        let most = 1 + (round * 7919) % 40;
        for number in 0..most {
            let song = format!(r#"{{"title":"Song {round} {number}","genre":"rock","bpm":{}}}"#, 60 + number);
            assert_eq!(server.post("/api/v1/songs", &song).0, 201);
            kept += 1;
        }
        // In one round of three there is time for the take.
        let take = if round % 3 == 0 { takes.join().unwrap() } else { None };
        drop(server);
        if take.is_some() {
            let store = ember_store::Store::open(&data).unwrap();
            assert!(store.newest_take(1, None).unwrap().is_some(), "round {round}: the take");
        }
    }
    let store = ember_store::Store::open(&data).unwrap();
    assert!(store.songs().unwrap().len() >= kept && store.salvaged().is_none());
}
