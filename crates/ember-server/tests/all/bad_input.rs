//! Bad input gets a clear sentence, loses nothing, and is never a 500.

use crate::common::{TOM, app, get, json, send, speech, strikes, upload, wav};
use axum::body::{Body, Bytes};
use serde_json::json as value;

/// A metronome: beeps of 30 ms, two a second, over the hiss of a room.
fn clicks() -> Vec<f32> {
    let hiss = |n: usize| 1e-4 * (((n * 7919) % 2003) as f32 / 1001.0 - 1.0);
    let beep = |n: usize| if n % 24_000 < 1440 { 0.3 * (n as f32 * 0.131).sin() } else { 0.0 };
    (0..240_000).map(|n| hiss(n) + if n > 24_000 { beep(n) } else { 0.0 }).collect()
}

#[tokio::test]
async fn what_is_no_sound_is_refused_in_words() {
    let app = app();
    let cases: Vec<(&str, Vec<u8>, &str)> = vec![
        ("poem.wav", b"There once was a drummer from Kiel".repeat(50), "not a sound file"),
        ("empty.wav", Vec::new(), "empty"),
        ("no-samples.wav", wav(&[], 1, 48_000), "no sound"),
        ("silence.wav", wav(&vec![0.0; 96_000], 1, 48_000), "silent"),
        ("short.wav", wav(&(0..9600).map(|n| 0.3 * (n as f32 * 0.05).sin()).collect::<Vec<_>>(), 1, 48_000), ""),
        ("talk.wav", wav(&speech(48_000, 6.0), 1, 48_000), "strike"),
        ("click.wav", wav(&clicks(), 1, 48_000), "clicks"),
        ("slow.wav", wav(&vec![0.1; 6000], 1, 4_000), "sample rate"),
        ("nan.wav", wav(&[strikes(), &[f32::NAN; 10]].concat(), 1, 48_000), "not numbers"),
    ];
    for (name, bytes, said) in cases {
        let answer = upload(&app, name, bytes).await;
        assert_eq!(answer.status, 422, "{name}: {}", String::from_utf8_lossy(&answer.bytes));
        let sentence = answer.sentence();
        assert!(sentence.contains(said), "{name}: {sentence}");
    }
    let bench = get(&app, &format!("/api/v1/drums/{TOM}/bench")).await.json();
    assert_eq!(bench["takes"], value!([]), "nothing refused may leave a take behind");
}

#[tokio::test]
async fn two_hours_and_two_hundred_megabytes_are_bounded() {
    let app = app();
    // Over two hours of 8-bit sound at 8 kHz: 60 MB, within the size but not the length.
    let mut long = Vec::with_capacity(60_000_100);
    let data = 60_000_000u32;
    for part in
        [b"RIFF".as_slice(), &(data + 36).to_le_bytes(), b"WAVEfmt ", &16u32.to_le_bytes(), &1u16.to_le_bytes(), &1u16.to_le_bytes()]
    {
        long.extend_from_slice(part);
    }
    for part in
        [8000u32.to_le_bytes().as_slice(), &8000u32.to_le_bytes(), &1u16.to_le_bytes(), &8u16.to_le_bytes(), b"data", &data.to_le_bytes()]
    {
        long.extend_from_slice(part);
    }
    long.resize(long.len() + data as usize, 128);
    let answer = upload(&app, "evening.wav", long).await;
    assert_eq!(answer.status, 422);
    assert!(answer.sentence().contains("120 minutes"), "{}", answer.sentence());

    let piece = Bytes::from(vec![0u8; 1_000_000]);
    let pieces = futures_util::stream::iter((0..200).map(move |_| Ok::<_, std::io::Error>(piece.clone())));
    // Where a piece is enough the limit is lower; it is the same door.
    let path = "/api/v1/presets/wish-from-sound?kind=tom&name=huge.wav";
    let answer = send(&app, "POST", path, Body::from_stream(pieces), &[]).await;
    assert_eq!(answer.status, 413);
    assert!(answer.sentence().contains("100 MB"), "{}", answer.sentence());
}

#[tokio::test]
async fn seven_channels_are_measured_on_the_loudest_and_it_is_said() {
    let app = app();
    let frames: Vec<f32> = strikes().iter().flat_map(|x| (0..7).map(move |channel| if channel == 4 { *x } else { 0.05 * x })).collect();
    let answer = upload(&app, "seven.wav", wav(&frames, 7, 48_000)).await;
    assert_eq!(answer.status, 201, "{}", String::from_utf8_lossy(&answer.bytes));
    let taken = answer.json();
    assert_eq!((&taken["channels"], &taken["channel"]), (&value!(7), &value!(5)));
    assert!(taken["notes"][0].as_str().unwrap().contains("number 5"), "{}", taken["notes"]);
    assert_eq!(taken["take"]["summary"]["strikes_used"], 2);
}

#[tokio::test]
async fn a_file_that_breaks_off_counts_as_far_as_it_goes() {
    let app = app();
    let whole = wav(strikes(), 1, 48_000);
    let answer = upload(&app, "cut.wav", whole[..whole.len() / 2].to_vec()).await;
    assert_eq!(answer.status, 201, "{}", String::from_utf8_lossy(&answer.bytes));
    assert!(!answer.json()["take"]["strikes"].as_array().unwrap().is_empty());
}

#[tokio::test]
async fn a_clipped_strike_is_kept_named_and_not_used() {
    let app = app();
    let loud: Vec<f32> = strikes().iter().map(|x| (6.0 * x).clamp(-1.0, 1.0)).collect();
    let answer = upload(&app, "loud.wav", wav(&loud, 1, 48_000)).await;
    assert_eq!(answer.status, 201);
    let take = &answer.json()["take"];
    assert_eq!((&take["summary"]["strikes_used"], &take["summary"]["strikes_rejected"]), (&value!(0), &value!(2)));
    assert_eq!(take["strikes"][0]["warnings"][0], "clipped");
    assert!(take["strikes"][0]["advice"][0].as_str().unwrap().contains("Turn the input down"));
}

#[tokio::test]
async fn requests_that_make_no_sense_are_refused_in_words() {
    let app = app();
    let drum =
        value!({"name": "T", "kind": "tom", "diameter_in": 400, "depth_in": 8, "lugs": 6, "batter": {"film_mil": 10}, "lower": null});
    let cases = [
        (json(&app, "POST", "/api/v1/drums", drum).await, 422),
        (json(&app, "POST", "/api/v1/drums", value!({"name": "T"})).await, 422),
        (
            json(&app, "PUT", "/api/v1/tonight", value!({"genre": "surf", "bpm": 9000, "clear_surface": false, "nothing_inside": false}))
                .await,
            422,
        ),
        (json(&app, "PUT", "/api/v1/shelf/gel_pad", value!({"count": 1000})).await, 422),
        (json(&app, "PUT", "/api/v1/shelf/anvil", value!({"count": 1})).await, 404),
        (send(&app, "POST", "/api/v1/drums", Body::from("{"), &[("content-type", "application/json")]).await, 400),
        (get(&app, "/api/v1/drums/77/bench").await, 404),
        (get(&app, "/api/v1/drums/seven/bench").await, 404),
        (get(&app, &format!("/api/v1/drums/{TOM}/plans")).await, 409),
        (json(&app, "POST", &format!("/api/v1/drums/{TOM}/treatments"), value!({"offer": "least", "placements": []})).await, 422),
        (get(&app, &format!("/api/v1/drums/{TOM}/listen?source=simulated")).await, 422),
        (get(&app, "/api/v1/nowhere").await, 404),
        (send(&app, "DELETE", "/api/v1/kit", Body::empty(), &[]).await, 405),
        (send(&app, "GET", "/api/v1/kit", Body::empty(), &[("origin", "https://elsewhere.example")]).await, 403),
    ];
    for (answer, status) in cases {
        assert_eq!(answer.status.as_u16(), status, "{}", String::from_utf8_lossy(&answer.bytes));
        answer.sentence();
    }
}
