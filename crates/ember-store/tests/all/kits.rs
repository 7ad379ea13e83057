//! Several kits of one player's drums.

use ember_core::decay::StrikeMeasurement;
use ember_core::drum::{Drum, DrumKind};
use ember_core::tone::{HeardBy, Partial, Tone};
use ember_core::venue::{BandLevels, Heard, Room, RoomClass, Venue};
use ember_store::{Kit, KitDrum, MOST_DRUMS, NewStrike, Source, Store, StoreError};

fn of(name: &str, drums: &[i64]) -> Kit {
    let at = |drum_id: &i64| KitDrum::set_up(*drum_id);
    Kit { name: name.into(), drums: drums.iter().map(at).collect(), borrowed: false, venue_id: None }
}

fn names(store: &Store) -> Vec<String> {
    store.drums().unwrap().into_iter().map(|kept| kept.drum.name).collect()
}

fn three(store: &mut Store) -> Vec<i64> {
    let named = |name: &str, kind| Drum { name: name.into(), ..Drum::usual(kind) };
    let drums = [named("Steel", DrumKind::Snare), named("Wood", DrumKind::Snare), named("Tom", DrumKind::Tom)];
    store.add_drums(&drums).unwrap().into_iter().map(|kept| kept.id).collect()
}

#[test]
fn drums_are_shared_between_kits_and_stay_when_a_kit_goes() {
    let mut store = Store::in_memory().unwrap();
    let ids = three(&mut store);
    assert_eq!(names(&store), ["Steel", "Wood", "Tom"], "the first kit has what is added");
    let travelling = store.add_kit(&of("Travelling", &[ids[2], ids[0]])).unwrap();
    store.set_tonight(&ember_store::KeptTonight { kit_id: Some(travelling.id), ..store.tonight().unwrap() }).unwrap();
    assert_eq!(names(&store), ["Tom", "Steel"], "in its own order");
    let kick = store.add_drum(&Drum::usual(DrumKind::Kick)).unwrap();
    assert_eq!(names(&store).last().map(String::as_str), Some("Kick"), "a new drum goes to tonight's kit");
    store.set_kit_gone(travelling.id, Some(1)).unwrap();
    assert_eq!(names(&store), ["Steel", "Wood", "Tom"]);
    assert!(store.drum(kick.id).is_ok() && store.all_drums().unwrap().len() == 4);
    store.set_kit_gone(travelling.id, None).unwrap();
    assert_eq!(names(&store).len(), 3, "it is back, and tonight's again");
    store.remove_drum(ids[0]).unwrap();
    assert_eq!(names(&store), ["Tom", "Kick"], "a drum that is gone is gone from every kit");
}

#[test]
fn of_several_snares_one_is_set_up() {
    let mut store = Store::in_memory().unwrap();
    let ids = three(&mut store);
    let kit = store.kit_tonight().unwrap().unwrap();
    let mut changed = kit.kit.clone();
    changed.drums[1].in_case = true;
    store.change_kit(kit.id, &changed).unwrap();
    assert_eq!(names(&store), ["Steel", "Tom"]);
    assert_eq!(store.kit_drums().unwrap().len(), 3, "the strip still shows it");
    assert_eq!(store.drums_of_kit(Some(kit.id)).unwrap().iter().filter(|(_, at)| !at.in_case).count(), 2);
    assert_eq!(store.drums_of_kit(Some(99)).unwrap().len(), 3, "a kit that was removed: tonight's");
    assert!(ids.iter().all(|id| store.drum(*id).is_ok()));
}

#[test]
fn a_drum_in_its_case_comes_up_for_a_song_and_groups_have_names() {
    let mut store = Store::in_memory().unwrap();
    let ids = three(&mut store);
    let kit = store.kit_tonight().unwrap().unwrap();
    let mut changed = kit.kit.clone();
    (changed.drums[1].in_case, changed.drums[2].group) = (true, Some("Toms".into()));
    store.change_kit(kit.id, &changed).unwrap();
    let with_it = store.drums_of_kit(None).unwrap();
    let said: Vec<(i64, bool, Option<&str>)> = with_it.iter().map(|(drum, at)| (drum.id, at.in_case, at.group.as_deref())).collect();
    assert_eq!(said, [(ids[0], false, None), (ids[1], true, None), (ids[2], false, Some("Toms"))]);
    changed.drums[2].group = Some(" ".into());
    assert!(store.change_kit(kit.id, &changed).unwrap_err().to_string().contains("1 to 24 letters"));
}

#[test]
fn a_borrowed_kit_is_neither_opened_nor_left_sticky() {
    let mut store = Store::in_memory().unwrap();
    three(&mut store);
    assert!(!store.scene().unwrap().limits.nothing_inside);
    let kit = store.kit_tonight().unwrap().unwrap();
    store.change_kit(kit.id, &Kit { borrowed: true, ..kit.kit.clone() }).unwrap();
    let scene = store.scene().unwrap();
    assert!(
        scene.borrowed && scene.limits.nothing_inside && scene.limits.no_residue && scene.limits.within_a_minute && scene.limits.one_thing
    );
    assert!(!scene.tonight.limits.nothing_inside, "what the player rules out stays as it was");
}

#[test]
fn kits_that_cannot_be_are_refused_and_nothing_is_lost() {
    let mut store = Store::in_memory().unwrap();
    let ids = three(&mut store);
    let refused = |found: Result<_, StoreError>| found.map(|_: ember_store::KeptKit| ()).unwrap_err().to_string();
    assert!(refused(store.add_kit(&of(" ", &ids))).contains("name"));
    assert!(refused(store.add_kit(&of("Twice", &[ids[0], ids[0]]))).contains("once"));
    assert!(matches!(store.add_kit(&of("Strange", &[999])), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.add_kit(&Kit { venue_id: Some(7), ..of("Club", &ids) }), Err(StoreError::NotFound { .. })));
    let only = store.kit_tonight().unwrap().unwrap();
    assert!(store.set_kit_gone(only.id, Some(1)).unwrap_err().to_string().contains("only kit"));
    // Sixty pieces: all or none.
    let many = vec![Drum::usual(DrumKind::Tom); 60];
    let error = store.add_drums(&many).unwrap_err().to_string();
    assert!(error.contains(&MOST_DRUMS.to_string()), "{error}");
    assert_eq!(store.all_drums().unwrap().len(), 3);
    assert_eq!(names(&store), ["Steel", "Wood", "Tom"]);
}

/// A ride that is set up and was measured keeps time where the band was measured too; from its case it does not.
#[test]
fn a_kits_ride_keeps_time_where_a_band_was_measured() {
    let mut store = Store::in_memory().unwrap();
    let ride = store.add_drums(&[Drum::usual(DrumKind::Tom), Drum::usual(DrumKind::Ride), Drum::usual(DrumKind::Crash)]).unwrap()[1].id;
    let octave = |hz: u16| Partial {
        hz: f64::from(hz),
        t60_s: Some(3.0),
        t60_sd_s: Some(0.1),
        t60_scatter_s: None,
        level_db: 0.0,
        tone: Some(Tone::OctaveHz(hz)),
    };
    let measurement = StrikeMeasurement {
        partials: vec![octave(500), octave(4000)],
        partial_dbfs: Some(-20.0),
        heard_by: HeardBy::Octaves,
        ..StrikeMeasurement::default()
    };
    let strikes = [0, 1, 2].map(|_| NewStrike { measurement: &measurement, sound: b"fLaC", onset_index: 0 });
    let band = Some(BandLevels { level_dbfs: [Some(-60.0); 7], seconds: 10.0, drums_play: false });
    let place = |band| Venue {
        name: "Saloon".into(),
        room: Room::Class { class: RoomClass::LowSaloon },
        loudness: None,
        heard: Heard::BareEar,
        band,
        empty: None,
        notes: String::new(),
        room_modes: Vec::new(),
        distance_m: None,
    };
    let kit = store.kit_tonight().unwrap().unwrap();
    let keepers = |store: &Store, band| store.time_keepers(Some(kit.id), Some(&place(band))).unwrap().len();
    assert_eq!(keepers(&store, band), 0, "it was not measured yet");
    store.add_take(ride, Source::File, None, 1, &strikes).unwrap();
    assert_eq!((keepers(&store, band), keepers(&store, None)), (1, 0));
    let venue_id = Some(store.add_venue(&place(band)).unwrap().id);
    store.set_tonight(&ember_store::KeptTonight { venue_id, ..store.tonight().unwrap() }).unwrap();
    assert_eq!(store.scene().unwrap().time_keepers.len(), 1);
    let mut changed = kit.kit.clone();
    changed.drums[1].in_case = true;
    store.change_kit(kit.id, &changed).unwrap();
    assert_eq!(keepers(&store, band), 0);
}
