//! What is put in comes back, also after the file was closed and opened again.

use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Expectation, Placement};
use ember_core::decay::{StrikeMeasurement, Warning};
use ember_core::drum::{Drum, DrumKind, Front, Head, HeadSide, Inside};
use ember_core::plan::{Limits, Offer, Plan, ShelfItem};
use ember_core::target::{Music, assess};
use ember_core::tone::Mode;
use ember_core::tone::{DecayProfile, Partial};
use ember_store::{KeptTonight, NewStrike, Source, Store, StoreError};
use ember_words::text;

fn strike(onset_s: f64, peak_dbfs: f64, body: f64, warnings: Vec<Warning>) -> StrikeMeasurement {
    let partials = vec![Partial {
        hz: 120.25,
        t60_s: Some(body),
        t60_sd_s: Some(0.01),
        t60_scatter_s: None,
        level_db: 0.0,
        tone: Some(Mode::together(0, 1).into()),
    }];
    let profile = DecayProfile { fall_20_s: Some(0.2), ..DecayProfile::of_partials(&partials) };
    StrikeMeasurement {
        onset_s,
        peak_dbfs,
        partial_dbfs: Some(peak_dbfs - 6.0),
        partials,
        profile,
        warnings,
        ..StrikeMeasurement::default()
    }
}

fn plan() -> Plan {
    let expected = Expectation { attack_lost_db: 0.3, pitch_cents: -4.5, ..Expectation::default() };
    let wanted = Store::in_memory().unwrap().scene().unwrap().wanted(&BenchDrum::usual(DrumKind::Tom), None);
    Plan {
        offer: Offer::Least,
        title: text!("The least that works").into(),
        why: text!("Because.").into(),
        placements: vec![Placement {
            device: DeviceKind::GelPad,
            amount: 0,
            radius: 0.85,
            angle_deg: 135.0,
            made: None,
            other_head: false,
        }],
        first: None,
        front: None,
        assessment: assess(&[], &expected.profile, &wanted, None),
        expected,
        worst_misfit: 2.5,
        seconds: 10.0,
        cost: 3.25,
    }
}

/// A kit of one tom with a take of two strikes.
fn with_take(store: &mut Store) -> (i64, i64) {
    let drum = store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap();
    let measurements = [strike(0.8, -9.0, 0.8, vec![]), strike(2.9, -10.0, 0.9, vec![])];
    let strikes: Vec<NewStrike> =
        measurements.iter().map(|measurement| NewStrike { measurement, sound: b"fLaC...", onset_index: 2400 }).collect();
    let take = store.add_take(drum.id, Source::File, Some("tom.wav"), 1_700_000_000_000, &strikes).unwrap();
    (drum.id, take.id)
}

#[test]
fn everything_survives_closing_and_opening() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("kit.sqlite");
    let tonight = KeptTonight {
        music: Music::new("cumbia", 96.5),
        limits: Limits { clear_surface: true, no_residue: true, nothing_bought: true, ..Limits::default() },
        song_id: None,
        venue_id: None,
        set_list_id: None,
        kit_id: None,
    };
    let (drum, take, treatment) = {
        let mut store = Store::open(&path).unwrap();
        let (drum, take) = with_take(&mut store);
        store.set_tonight(&tonight).unwrap();
        store.set_shelf_item(ShelfItem::new(DeviceKind::Pillow, 2)).unwrap();
        let treatment = store.put_on(drum, take, &plan(), 5).unwrap();
        (drum, take, treatment)
    };
    let store = Store::open(&path).unwrap();
    assert_eq!(store.drums().unwrap()[0].drum, BenchDrum::usual(DrumKind::Tom));
    assert_eq!(store.tonight().unwrap(), tonight);
    assert_eq!(store.shelf().unwrap().iter().find(|item| item.device == DeviceKind::Pillow).unwrap().count, 2);
    let kept = store.take(take).unwrap();
    assert_eq!((kept.source, kept.source_name.as_deref(), kept.treatment_id), (Source::File, Some("tom.wav"), None));
    assert_eq!(kept.summary.strikes_used, 2);
    assert!((kept.summary.profile.body_t60_s.unwrap() - 0.85).abs() < 1e-12);
    let strikes = store.strikes(take).unwrap();
    assert_eq!(strikes[1].measurement, strike(2.9, -10.0, 0.9, vec![]));
    assert_eq!(store.sound(strikes[0].id).unwrap(), b"fLaC...");
    assert_eq!(store.treatment_on(drum).unwrap().unwrap(), treatment);
    assert_eq!(treatment.plan, plan());
}

#[test]
fn a_dropped_strike_no_longer_counts_until_it_is_taken_back() {
    let mut store = Store::in_memory().unwrap();
    let (_, take) = with_take(&mut store);
    let first = store.strikes(take).unwrap()[0].id;
    let without = store.set_dropped(first, true).unwrap();
    assert_eq!((without.summary.strikes_used, without.summary.profile.body_t60_s), (1, Some(0.9)));
    assert_eq!(store.set_dropped(first, false).unwrap().summary.strikes_used, 2);
    assert!(matches!(store.set_dropped(999, true), Err(StoreError::NotFound { what: text!("strike"), id: 999 })));
}

#[test]
fn takes_belong_to_the_state_the_drum_was_in() {
    let mut store = Store::in_memory().unwrap();
    let (drum, open) = with_take(&mut store);
    let on = store.put_on(drum, open, &plan(), 10).unwrap();
    let good = strike(0.5, -9.0, 0.3, vec![]);
    let sound: &[u8] = &[1];
    let treated = store.begin_take(drum, Source::Microphone, None, 20).unwrap();
    assert_eq!(store.newest_take(drum, Some(on.id)).unwrap(), None, "a take without strikes says nothing");
    store.add_strikes(treated, &[NewStrike { measurement: &good, sound, onset_index: 0 }]).unwrap();
    assert_eq!(store.newest_take(drum, Some(on.id)).unwrap().unwrap().id, treated);
    assert_eq!(store.newest_take(drum, None).unwrap().unwrap().id, open);
    let listed =
        |after| store.takes(drum, after, 1).map(|(takes, all)| (takes.iter().map(|take| take.id).collect::<Vec<_>>(), all)).unwrap();
    assert_eq!(listed(None), (vec![treated], 2), "the newest first, whatever the clock said");
    assert_eq!(listed(Some(treated)), (vec![open], 2));
    assert!(matches!(store.takes(drum, Some(999), 1), Err(StoreError::NotFound { what: text!("take"), id: 999 })), "no end of the list");
    // A take of nothing but poor strikes does not hide the good one before it.
    let clipped = strike(0.5, 0.0, 0.3, vec![Warning::Clipped]);
    store.take_off(on.id, 30).unwrap();
    let poor = store.add_take(drum, Source::File, None, 1_800_000_000_000, &[NewStrike { measurement: &clipped, sound, onset_index: 0 }]);
    assert_eq!(poor.unwrap().summary.strikes_used, 0);
    assert_eq!(store.newest_take(drum, None).unwrap().unwrap().id, open);
}

#[test]
fn one_treatment_at_a_time_and_back_again() {
    let mut store = Store::in_memory().unwrap();
    let (drum, take) = with_take(&mut store);
    let first = store.put_on(drum, take, &plan(), 10).unwrap();
    let second = store.put_on(drum, take, &plan(), 20).unwrap();
    assert_eq!(store.treatment(first.id).unwrap().off_at, Some(20), "the new one took its place");
    assert!(matches!(store.put_back(first.id), Err(StoreError::Refused(_))));
    store.take_off(second.id, 30).unwrap();
    assert_eq!(store.treatment_on(drum).unwrap(), None);
    assert_eq!(store.put_back(first.id).unwrap().off_at, None);
    assert_eq!(store.treatment_on(drum).unwrap().unwrap().id, first.id);
}

#[test]
fn what_something_was_built_on_stays_and_all_goes_with_its_drum() {
    let mut store = Store::in_memory().unwrap();
    let (drum, take) = with_take(&mut store);
    let strike = store.strikes(take).unwrap()[0].id;
    let treatment = store.put_on(drum, take, &plan(), 10).unwrap();
    assert!(matches!(store.remove_take(take), Err(StoreError::Refused(_))));
    assert!(store.take_is_in_use(take).unwrap());
    store.remove_drum(drum).unwrap();
    assert!(matches!(store.take(take), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.sound(strike), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.treatment(treatment.id), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.remove_drum(drum), Err(StoreError::NotFound { .. })));
}

#[test]
fn a_take_on_no_drum_leaves_nothing_behind() {
    let mut store = Store::in_memory().unwrap();
    let measurement = strike(0.5, -9.0, 0.3, vec![]);
    let new = [NewStrike { measurement: &measurement, sound: &[1], onset_index: 0 }];
    assert!(matches!(store.add_take(7, Source::File, None, 0, &new), Err(StoreError::NotFound { what: text!("drum"), id: 7 })));
    // The next transaction works: the failed one was closed.
    let (drum, _) = with_take(&mut store);
    assert_eq!(store.takes(drum, None, 9).unwrap().1, 1);
}

#[test]
fn more_than_a_shelf_holds_is_refused() {
    let mut store = Store::in_memory().unwrap();
    assert!(matches!(store.set_shelf_item(ShelfItem::new(DeviceKind::Tape, 100)), Err(StoreError::Refused(_))));
    // Everybody has a key: rods may be turned until the player says otherwise.
    let owned =
        |store: &Store| store.shelf().unwrap().into_iter().filter(|item| item.count > 0).map(|item| item.device).collect::<Vec<_>>();
    assert_eq!(owned(&store), [DeviceKind::RodsTurned]);
    store.set_shelf_item(ShelfItem::new(DeviceKind::RodsTurned, 0)).unwrap();
    assert_eq!(owned(&store), []);
}

/// What devices are learned from: treatments that were measured afterwards, oldest first, each with the newest take that counts.
#[test]
fn a_treatment_is_a_test_once_it_was_measured() {
    let mut store = Store::in_memory().unwrap();
    let (drum, open) = with_take(&mut store);
    let take = |store: &mut Store, at: i64, warnings: Vec<Warning>| {
        let measurement = strike(0.8, -9.0, 0.5, warnings);
        let strikes = [NewStrike { measurement: &measurement, sound: b"fLaC...", onset_index: 2400 }];
        store.add_take(drum, Source::File, None, at, &strikes).unwrap().id
    };
    let now = 1_700_000_000_000;
    let first = store.put_on(drum, open, &plan(), now + 10).unwrap();
    assert!(store.device_tests().unwrap().is_empty(), "nobody has hit it yet");
    let found = take(&mut store, now + 20, vec![]);
    take(&mut store, now + 30, vec![Warning::Clipped]);
    let second = store.put_on(drum, open, &plan(), now + 40).unwrap();
    let again = take(&mut store, now + 50, vec![]);
    let tests = store.device_tests().unwrap();
    let ids: Vec<(i64, i64, i64)> = tests.iter().map(|test| (test.treatment.id, test.open.id, test.found.id)).collect();
    assert_eq!(ids, [(first.id, open, found), (second.id, open, again)], "a take without a good strike does not count");
    store.remove_take(again).unwrap();
    assert_eq!(store.device_tests().unwrap().len(), 1);
}

#[test]
fn a_hole_is_kept_undone_and_gone_with_its_head() {
    let mut store = Store::in_memory().unwrap();
    let drum = store.add_drum(&BenchDrum::usual(DrumKind::Kick)).unwrap();
    let hole = Front::usual_port(5.0, 22.0);
    let cut = store.change_front(drum.id, &hole, 10).unwrap();
    assert_eq!((cut.before_front.as_ref(), cut.after_front.as_ref()), (Some(&Front::Whole), Some(&hole)));
    assert_eq!(store.drum(drum.id).unwrap().drum.front(), hole);
    assert!(store.change_front(drum.id, &hole, 11).unwrap_err().to_string().contains("as it was"));
    assert!(store.change_front(drum.id, &Front::usual_port(30.0, 22.0), 11).is_err());
    // Off, and a whole head on: the hole is gone with the head that had it.
    let off = store.change_front(drum.id, &Front::Off, 20).unwrap();
    assert_eq!(store.drum(drum.id).unwrap().drum.lower, None);
    assert!(store.take_head_back(cut.id, 30).is_err(), "only the newest can be taken back");
    store.take_head_back(off.id, 30).unwrap();
    let head = store.change_head(drum.id, HeadSide::Lower, Head::plain(7.0), 40).unwrap();
    assert_eq!(store.drum(drum.id).unwrap().drum.front(), Front::Whole);
    store.take_head_back(head.id, 50).unwrap();
    assert_eq!(store.drum(drum.id).unwrap().drum.front(), hole);
    // Whether it was to be tried first is kept beside the drum, and goes with it.
    assert!(!store.front_trial_declined(drum.id).unwrap());
    store.decline_front_trial(drum.id, true, 60).unwrap();
    store.decline_front_trial(drum.id, true, 61).unwrap();
    assert!(store.front_trial_declined(drum.id).unwrap());
    store.decline_front_trial(drum.id, false, 62).unwrap();
    assert!(!store.front_trial_declined(drum.id).unwrap());
    assert!(store.decline_front_trial(99, true, 63).is_err());
}

#[test]
fn what_was_heard_in_one_state_of_a_drum_says_nothing_of_another() {
    let mut store = Store::in_memory().unwrap();
    let (tom, take) = with_take(&mut store);
    let newest = |store: &Store| store.newest_take(tom, None).unwrap().map(|take| take.id);
    assert_eq!(newest(&store), Some(take));
    let empty = store.drum(tom).unwrap().drum;
    let filled = Drum { inside: Some(Inside::Ring), ..empty.clone() };
    store.change_drum(tom, &filled).unwrap();
    assert_eq!(newest(&store), None, "with a ring in it it was never heard");
    let measurement = &strike(0.8, -9.0, 0.4, vec![]);
    let again = store.add_take(tom, Source::File, None, 9, &[NewStrike { measurement, sound: b"fLaC...", onset_index: 10 }]).unwrap();
    assert_eq!((again.heard_as.as_deref(), newest(&store)), (Some("ring"), Some(again.id)));
    store.change_drum(tom, &empty).unwrap();
    assert_eq!(newest(&store), Some(take), "taken out again, it is the drum that it was");
    let states: Vec<Option<String>> = store.newest_by_state(tom).unwrap().into_iter().map(|take| take.heard_as).collect();
    assert_eq!(states, [Some("ring".to_string()), None]);
}

#[test]
fn strikes_go_to_the_drum_they_were_on_and_come_back() {
    let mut store = Store::in_memory().unwrap();
    let (tom, take) = with_take(&mut store);
    let snare = store.add_drum(&BenchDrum::usual(DrumKind::Snare)).unwrap().id;
    let ride = store.add_drum(&BenchDrum::usual(DrumKind::Cymbal)).unwrap().id;
    let ids: Vec<i64> = store.strikes(take).unwrap().iter().map(|strike| strike.id).collect();

    let moved = store.move_strikes(&ids[1..], snare, None, false).unwrap();
    assert_eq!((moved.drum_id, moved.source_name.as_deref(), moved.summary.strikes_used), (snare, Some("tom.wav"), 1));
    assert_eq!(store.take(take).unwrap().summary.strikes_used, 1);
    assert!(store.sound(ids[1]).is_ok(), "its sound goes with it");

    // Undone, it does not count where it sounds like another drum; the take made for it is gone.
    let back = store.move_strikes(&ids[1..], tom, Some(take), true).unwrap();
    assert_eq!((back.id, back.summary.strikes_used, back.summary.strikes_rejected), (take, 1, 1));
    assert!(matches!(store.take(moved.id), Err(StoreError::NotFound { .. })));

    // A whole take goes, unless a treatment started from it.
    let whole = store.move_strikes(&ids, snare, None, false).unwrap();
    assert_eq!(whole.summary.strikes_used, 2);
    assert!(matches!(store.take(take), Err(StoreError::NotFound { .. })));
    store.put_on(snare, whole.id, &plan(), 5).unwrap();
    store.move_strikes(&ids, tom, None, false).unwrap();
    assert_eq!(store.take(whole.id).unwrap().summary.strikes_used, 0);

    assert!(matches!(store.move_strikes(&ids, ride, None, false), Err(StoreError::Refused(_))), "a cymbal is heard by octaves");
    assert!(matches!(store.move_strikes(&[], snare, None, false), Err(StoreError::Refused(_))));
    assert!(matches!(store.move_strikes(&[9999], snare, None, false), Err(StoreError::NotFound { .. })));
    assert!(matches!(store.move_strikes(&ids, tom, Some(whole.id), false), Err(StoreError::Refused(_))), "another drum's take");
}
