//! Soundchecks: handed in once, named as often as one likes, gone when others have come.

use crate::common::{app, get, send, strikes, wav};
use axum::body::Body;
use serde_json::json;

/// Two channels: what was struck, and the same 2 ms later, softer and turned over.
fn two_microphones() -> Vec<u8> {
    let near = strikes();
    let far = |n: usize| n.checked_sub(96).map_or(0.0, |at| -0.3 * near[at]);
    let frames: Vec<f32> = (0..near.len()).flat_map(|n| [near[n], far(n)]).collect();
    wav(&frames, 2, 48_000)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_soundcheck_stays_while_its_channels_are_named_and_others_take_its_place() {
    let app = app();
    let hand_in = async || send(&app, "POST", "/api/v1/soundchecks?name=check.wav", Body::from(two_microphones()), &[]).await;
    let made = hand_in().await;
    assert_eq!(made.status, 201, "{}", made.sentence());
    let one = made.json();
    assert_eq!((&one["names"], one["channels"].as_array().unwrap().len()), (&json!(["-", "-"]), 2));
    let at = format!("/api/v1/soundchecks/{}", one["id"]);

    let named = get(&app, &format!("{at}?names=tom,overhead%20left")).await.json();
    let pair = &named["pairs"][0];
    assert_eq!((&pair["polarity"], named["name"].as_str()), (&json!("opposite"), Some("check.wav")), "{named}");
    assert!((pair["later_s"].as_f64().unwrap() - 0.002).abs() < 1e-4, "{pair}");
    for (names, why) in [("tom", "Name each"), ("tom,banjo", "no microphone"), ("kick,kick", "named twice"), ("-,-", "stereo mix")] {
        let refused = get(&app, &format!("{at}?names={names}")).await;
        assert!(refused.status == 422 && refused.sentence().contains(why), "{names}: {}", refused.sentence());
    }

    // The tom is told by its own microphone.
    let drums = get(&app, &format!("{at}/drums?names=tom,overhead%20left")).await.json();
    let tom = &drums["drums"][0];
    assert!(drums["drums"].as_array().unwrap().len() == 1 && tom["strokes"] == 2, "{drums}");
    assert!(tom["body_t60_s"]["value"].as_f64().is_some_and(|t60_s| t60_s > 0.2) || tom["missing"].is_string(), "{drums}");
    assert_eq!(get(&app, &format!("{at}/drums?names=tom")).await.status, 422);

    // Two stay; what is no soundcheck takes nobody's place.
    let mono = send(&app, "POST", "/api/v1/soundchecks", Body::from(wav(strikes(), 1, 48_000)), &[]).await;
    assert!(mono.status == 422 && mono.sentence().contains("only one channel"));
    assert_eq!(get(&app, &at).await.status, 200);
    hand_in().await;
    hand_in().await;
    let gone = get(&app, &at).await;
    assert!(gone.status == 404 && gone.sentence().contains("not here any more"));
}
