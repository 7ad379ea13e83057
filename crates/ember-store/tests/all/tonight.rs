//! Venues, songs, set lists and genres: kept, changed, removed and brought back.

use ember_core::target::{Music, NO_GENRE, Song, built_in_preset};
use ember_core::venue::{Heard, Loudness, Room, RoomClass, Venue};
use ember_store::{Entry, KeptTonight, Origin, SetList, StandIn, Store, StoreError};
use ember_words::text;

fn song(title: &str, genre: &str, bpm: f64) -> Song {
    Song { title: title.into(), music: Music::new(genre, bpm), notes: String::new() }
}

fn venue() -> Venue {
    Venue {
        name: "Saloon".into(),
        room: Room::Class { class: RoomClass::LowSaloon },
        loudness: Some(Loudness::Quiet),
        heard: Heard::CloseMics,
        band: None,
        empty: None,
        notes: String::new(),
        room_modes: Vec::new(),
        distance_m: None,
    }
}

#[test]
fn a_file_from_before_songs_is_brought_up_to_date() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("old.sqlite");
    let old = rusqlite::Connection::open(&path).unwrap();
    old.execute_batch(include_str!("../../migrations/0001_first.sql")).unwrap();
    old.execute_batch("INSERT INTO tonight VALUES (1, 'cumbia', 96.5, 1, 0); PRAGMA user_version = 1;").unwrap();
    drop(old);
    let tonight = Store::open(&path).unwrap().tonight().unwrap();
    assert_eq!((tonight.music, tonight.limits.clear_surface, tonight.song_id), (Music::new("cumbia", 96.5), true, None));
}

#[test]
fn tonight_follows_its_song_and_forgets_what_was_removed() {
    let mut store = Store::in_memory().unwrap();
    let id = store.add_song(&song("Foam", "surf", 152.0)).unwrap().id;
    let place = store.add_venue(&venue()).unwrap().id;
    let chosen = KeptTonight { song_id: Some(id), venue_id: Some(place), ..store.tonight().unwrap() };
    store.set_tonight(&chosen).unwrap();
    assert_eq!(store.tonight().unwrap().music, Music::new("surf", 152.0));
    store.change_song(id, &song("Foam", "surf", 160.0)).unwrap();
    let scene = store.scene().unwrap();
    assert_eq!((scene.tonight.music.bpm, scene.preset.code.as_str(), scene.venue.unwrap().name.as_str()), (160.0, "surf", "Saloon"));
    store.set_song_gone(id, Some(1)).unwrap();
    store.set_venue_gone(place, Some(1)).unwrap();
    let left = store.tonight().unwrap();
    assert_eq!((left.song_id, left.venue_id), (None, None));
    store.set_song_gone(id, None).unwrap();
    assert_eq!(store.tonight().unwrap().song_id, Some(id), "what comes back is as it was");
    assert!(matches!(store.set_tonight(&KeptTonight { song_id: Some(99), ..left }), Err(StoreError::NotFound { .. })));
}

#[test]
fn songs_are_found_in_any_script_and_page_by_page() {
    let mut store = Store::in_memory().unwrap();
    for title in ["Ägir", "Wave 🌊", "شاطئ", "wave two", "Wave 🌊"] {
        store.add_song(&song(title, "surf", 150.0)).unwrap();
    }
    let titles = |search: &str, after, limit| {
        let (found, all) = store.find_songs(search, after, limit).unwrap();
        (found.into_iter().map(|kept| kept.song.title).collect::<Vec<_>>(), all)
    };
    assert_eq!(titles("WAVE", None, 2), (vec!["wave two".to_string(), "Wave 🌊".to_string()], 3));
    assert_eq!(titles("WAVE", Some(2), 2).0, ["Wave 🌊"], "two songs of one name are two songs");
    assert!(matches!(store.find_songs("", Some(99), 2), Err(StoreError::NotFound { what: text!("song"), id: 99 })), "no end of the list");
    assert_eq!(titles("äg", None, 9).0, ["Ägir"]);
    assert_eq!(titles("شا", None, 9).1, 1);
    assert_eq!(titles("%", None, 9).1, 0, "a search is no pattern");
}

#[test]
fn an_import_is_all_or_nothing() {
    let mut store = Store::in_memory().unwrap();
    let id = store.add_song(&song("Foam", "surf", 152.0)).unwrap().id;
    let new = song("Spray", "surf", 140.0);
    assert!(store.take_in_songs(&[(None, new.clone()), (Some(77), new.clone())]).is_err());
    assert_eq!(store.songs().unwrap().len(), 1);
    let ids = store.take_in_songs(&[(None, new), (Some(id), song("Foam", "cumbia", 96.0))]).unwrap();
    assert_eq!((ids[1], store.song(id).unwrap().song.music.genre.as_str(), store.songs().unwrap().len()), (id, "cumbia", 2));
}

#[test]
fn a_set_list_keeps_its_order_and_refuses_songs_that_never_were() {
    let mut store = Store::in_memory().unwrap();
    let id = store.add_song(&song("Foam", "surf", 152.0)).unwrap().id;
    let entry = |song_id| Entry::of(song_id, None);
    let list = SetList {
        name: "Friday".into(),
        gap_s: 20.0,
        kit_id: None,
        date: None,
        entries: vec![entry(id), Entry::Break { title: "Break".into(), seconds: 900.0 }, entry(id)],
    };
    let kept = store.add_set_list(&list).unwrap();
    assert_eq!(store.set_list(kept.id).unwrap().set_list, list);
    assert!(store.change_set_list(kept.id, &SetList { entries: vec![entry(99)], ..list.clone() }).is_err());
    store.set_set_list_gone(kept.id, Some(1)).unwrap();
    assert!(store.set_lists().unwrap().is_empty() && store.set_list(kept.id).is_err());
    store.set_set_list_gone(kept.id, None).unwrap();
    assert_eq!(store.set_lists().unwrap().len(), 1);
    for (date, may) in [("2026-11-30", true), ("2028-02-29", true), ("2026-02-30", false), ("30.11.2026", false), ("tonight", false)] {
        let kept = store.change_set_list(kept.id, &SetList { date: Some(date.into()), ..list.clone() });
        assert_eq!(kept.is_ok(), may, "{date}");
    }
    let swap = |drum_id, for_id| StandIn { drum_id, for_id };
    for (instead, may) in [(vec![swap(1, 2)], true), (vec![swap(1, 1)], false), (vec![swap(1, 2), swap(1, 3)], false)] {
        let mut entries = list.entries.clone();
        if let Entry::Song { instead: of_song, .. } = &mut entries[0] {
            *of_song = instead;
        }
        assert_eq!(SetList { entries, ..list.clone() }.validate().is_ok(), may);
    }
    for bad in [SetList { name: " ".into(), ..list.clone() }, SetList { gap_s: f64::NAN, ..list.clone() }, SetList { gap_s: -1.0, ..list }]
    {
        assert!(bad.validate().is_err());
    }
}

#[test]
fn genres_are_changed_reset_and_only_removed_when_nothing_is_played_by_them() {
    let mut store = Store::in_memory().unwrap();
    let origin =
        |store: &Store, code: &str| store.presets().unwrap().into_iter().find(|kept| kept.preset.code == code).map(|kept| kept.origin);
    let mut surf = built_in_preset("surf").unwrap().clone();
    surf.usual_bpm = 170.0;
    store.set_preset(&surf).unwrap();
    assert_eq!((origin(&store, "surf"), store.preset("surf").unwrap().unwrap().usual_bpm), (Some(Origin::Changed), 170.0));
    store.reset_preset("surf").unwrap();
    assert_eq!(origin(&store, "surf"), Some(Origin::BuiltIn));
    surf.code = "harbour_surf".into();
    store.set_preset(&surf).unwrap();
    assert_eq!(origin(&store, "harbour_surf"), Some(Origin::Own));
    let id = store.add_song(&song("Foam", "harbour_surf", 152.0)).unwrap().id;
    assert!(store.reset_preset("harbour_surf").unwrap_err().to_string().contains("One song is of this genre"));
    store.set_song_gone(id, Some(1)).unwrap();
    store.reset_preset("harbour_surf").unwrap();
    assert_eq!(origin(&store, "harbour_surf"), None);
    assert_eq!(store.preset_or_general("harbour_surf").unwrap().code, NO_GENRE);
}

#[test]
fn what_is_changed_is_found_by_its_new_name_and_what_is_gone_cannot_be_changed() {
    let mut store = Store::in_memory().unwrap();
    let id = store.add_song(&song("Foam", "surf", 152.0)).unwrap().id;
    store.change_song(id, &song("Spray", "surf", 152.0)).unwrap();
    let found = |store: &Store, search: &str| store.find_songs(search, None, 9).unwrap().1;
    assert_eq!((found(&store, "foam"), found(&store, "spray")), (0, 1));
    store.set_song_gone(id, Some(1)).unwrap();
    assert!(matches!(store.change_song(id, &song("Foam", "surf", 152.0)), Err(StoreError::NotFound { .. })));
    assert_eq!((found(&store, ""), store.songs().unwrap().len()), (0, 0));
    for missing in [store.set_song_gone(77, None), store.set_venue_gone(77, Some(1)), store.set_set_list_gone(77, None)] {
        assert!(matches!(missing, Err(StoreError::NotFound { id: 77, .. })));
    }
}

#[test]
fn all_of_tonight_survives_closing_and_opening() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("kit.sqlite");
    let (tonight, scene) = {
        let mut store = Store::open(&path).unwrap();
        let id = store.add_song(&song("🌊 شاطئ", "folk", 88.0)).unwrap().id;
        let entries = vec![Entry::of(id, Some(8.0))];
        let list = store.add_set_list(&SetList { name: "Friday".into(), gap_s: 20.0, entries, kit_id: None, date: None }).unwrap().id;
        let place = store.add_venue(&venue()).unwrap().id;
        let mut folk = built_in_preset("folk").unwrap().clone();
        folk.reason = "Because we say so, and nobody else.".into();
        store.set_preset(&folk).unwrap();
        let chosen = KeptTonight { song_id: Some(id), venue_id: Some(place), set_list_id: Some(list), ..store.tonight().unwrap() };
        store.set_tonight(&chosen).unwrap();
        (store.tonight().unwrap(), store.scene().unwrap())
    };
    let store = Store::open(&path).unwrap();
    assert_eq!(store.tonight().unwrap(), tonight);
    let again = store.scene().unwrap();
    assert_eq!((&again.preset, &again.venue), (&scene.preset, &scene.venue));
    assert_eq!(again.preset.reason, "Because we say so, and nobody else.");
    assert_eq!(store.set_list(tonight.set_list_id.unwrap()).unwrap().set_list.entries.len(), 1);
}
