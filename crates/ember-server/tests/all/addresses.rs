//! What is made is found at the address that its answer names (RFC 9110, 15.3.2), and long lists come a page at a time.

use crate::common::{TOM, app, get, json, strikes, upload, wav};
use serde_json::json as value;

#[tokio::test]
async fn what_was_made_is_found_where_its_answer_says() {
    let app = app();
    let drum = get(&app, &format!("/api/v1/drums/{TOM}")).await.json();
    let mut second = drum.clone();
    second.as_object_mut().unwrap().remove("id");
    let made = [
        ("drums", second),
        ("songs", value!({"title": "Foam", "genre": "surf", "bpm": 120.0})),
        ("venues", value!({"name": "Cellar", "room": {"from": "class", "class": "club"}, "loudness": "loud", "heard": "bare_ear"})),
        ("kits", value!({"name": "Second kit", "drums": [{"drum_id": TOM}]})),
        ("set-lists", value!({"name": "Friday", "gap_s": 30.0, "entries": []})),
    ];
    for (what, body) in made {
        let answer = json(&app, "POST", &format!("/api/v1/{what}"), body).await;
        assert_eq!(answer.status, 201, "{what}: {}", String::from_utf8_lossy(&answer.bytes));
        let address = answer.headers["location"].to_str().unwrap();
        assert_eq!(address, format!("/api/v1/{what}/{}", answer.json()["id"]));
        assert_eq!(get(&app, address).await.json(), answer.json(), "{what}");
    }
    assert_eq!(get(&app, "/api/v1/songs/99").await.status, 404);
    let take = upload(&app, "two.wav", wav(strikes(), 1, 48_000)).await;
    assert_eq!(get(&app, take.headers["location"].to_str().unwrap()).await.json()["id"], take.json()["take"]["id"]);
}

#[tokio::test]
async fn a_page_begins_behind_the_last_one_whatever_went_meanwhile() {
    let app = app();
    for title in ["Ebb", "Foam", "Gull", "Haze"] {
        json(&app, "POST", "/api/v1/songs", value!({"title": title, "genre": "surf", "bpm": 120.0})).await;
    }
    let first = get(&app, "/api/v1/songs?limit=2").await.json();
    assert_eq!((&first["songs"][1]["title"], &first["in_all"]), (&value!("Foam"), &value!(4)));
    // By counting, the next page would begin at Haze now.
    assert_eq!(json(&app, "DELETE", &format!("/api/v1/songs/{}", first["songs"][0]["id"]), value!(null)).await.status, 204);
    let next = get(&app, &format!("/api/v1/songs?limit=2&after={}", first["songs"][1]["id"])).await.json();
    let titles: Vec<&str> = next["songs"].as_array().unwrap().iter().filter_map(|song| song["title"].as_str()).collect();
    assert_eq!((titles, &next["in_all"]), (vec!["Gull", "Haze"], &value!(3)));
    for name in ["one.wav", "two.wav"] {
        upload(&app, name, wav(strikes(), 1, 48_000)).await;
    }
    let newest = get(&app, &format!("/api/v1/drums/{TOM}/takes?limit=1")).await.json();
    let older = get(&app, &format!("/api/v1/drums/{TOM}/takes?limit=1&after={}", newest["takes"][0]["id"])).await.json();
    assert_eq!((&newest["takes"][0]["source_name"], &older["takes"][0]["source_name"]), (&value!("two.wav"), &value!("one.wav")));
    assert_eq!((&newest["in_all"], older["takes"].as_array().unwrap().len()), (&value!(2), 1));
}
