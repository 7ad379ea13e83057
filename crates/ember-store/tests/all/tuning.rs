//! Rounds of taps: what is kept, what counts, and that another head begins anew.

use ember_core::bench_drum::BenchDrum;
use ember_core::drum::{DrumKind, Head, HeadSide};
use ember_core::tuning::{LugPitch, Note, RoundPitches, TapFault, UnevenRecipe};
use ember_store::{KeptTap, Source, Store, trials, turned_in_all};

fn store() -> (Store, i64) {
    let mut store = Store::in_memory().unwrap();
    let id = store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap().id;
    (store, id)
}

fn pitches(hz: &[f64]) -> RoundPitches {
    let lugs = hz.iter().enumerate().map(|(lug, hz)| LugPitch { lug, hz: *hz, note: Note::nearest(*hz), sd_cents: 1.0 }).collect();
    RoundPitches { lugs, mean_hz: Some(hz[0]), ..RoundPitches::default() }
}

fn tap(lug: usize, byte: u8) -> KeptTap {
    KeptTap { lug, sound: vec![byte], onset_index: 7 }
}

#[test]
fn of_each_lug_the_last_tap_without_a_fault_counts() {
    let (mut store, id) = store();
    let round = store.begin_round(id, HeadSide::Batter, 6, Source::Microphone, 10).unwrap();
    let said = pitches(&[200.0, 201.0]);
    for (lug, byte, fault) in [(0, 1, Some(TapFault::TooSoft)), (0, 2, None), (3, 3, None), (0, 4, None), (3, 5, Some(TapFault::WiresOn))] {
        store.add_tap(round.id, &tap(lug, byte), fault, 11, &said).unwrap();
    }
    let counted: Vec<(usize, Vec<u8>)> = store.taps(round.id).unwrap().into_iter().map(|tap| (tap.lug, tap.sound)).collect();
    assert_eq!(counted, [(3, vec![3]), (0, vec![4])]);
    assert_eq!(store.round(round.id).unwrap().pitches, said);
    assert!(!store.round(round.id).unwrap().complete());
}

#[test]
fn turns_between_rounds_are_trials_and_another_head_has_none() {
    let (mut store, id) = store();
    let even = [200.0; 6];
    let after = [205.0, 201.0, 200.0, 203.0, 200.0, 201.0];
    for (at, hz) in [(10, even), (20, after), (30, after)] {
        let round = store.begin_round(id, HeadSide::Batter, 6, Source::Simulated, at).unwrap();
        store.add_tap(round.id, &tap(0, 1), None, at, &pitches(&hz)).unwrap();
        store.set_turned(round.id, (at == 10).then_some(&[1, 0, 0, 0, 0, -1][..])).unwrap();
    }
    store.begin_round(id, HeadSide::Lower, 6, Source::Simulated, 40).unwrap();
    let rounds = store.rounds(id, HeadSide::Batter).unwrap();
    assert_eq!(rounds.iter().map(|round| round.begun_at).collect::<Vec<_>>(), [30, 20, 10], "newest first, of this head only");
    let trials = trials(&rounds, &[]);
    assert!(ember_store::trials(&rounds, &[rounds[1].seq]).is_empty(), "rods were let down in between");
    assert_eq!(trials.len(), 1, "nothing was turned after the second");
    assert_eq!((trials[0].after_hz[0], trials[0].before_hz[0]), (Some(205.0), Some(200.0)));
    assert_eq!(turned_in_all(&rounds, 6), [1, 0, 0, 0, 0, -1]);
    store.set_wanted_hz(id, HeadSide::Batter, Some(210.0)).unwrap();
    let change = store.change_head(id, HeadSide::Batter, Head::double(14.0), 100).unwrap();
    assert!(store.rounds(id, HeadSide::Batter).unwrap().is_empty());
    assert_eq!(store.wanted_hz(id, HeadSide::Batter).unwrap(), Some(210.0), "what is wanted stays");
    assert_eq!(store.rounds(id, HeadSide::Lower).unwrap().len(), 1);
    assert!(store.rounds(99, HeadSide::Batter).is_err());
    // Taken back, everything counts again.
    store.take_head_back(change.id, 120).unwrap();
    assert_eq!(store.rounds(id, HeadSide::Batter).unwrap().len(), 3);
    assert_eq!(store.drum(id).unwrap().drum.batter, BenchDrum::usual(DrumKind::Tom).batter);
    assert!(store.take_head_back(change.id, 130).is_err(), "once is enough");
}

#[test]
fn rods_let_down_on_purpose_are_known_until_they_are_back() {
    let (mut store, id) = store();
    let eighths = UnevenRecipe::ThreeDown.eighths(6, 30).unwrap();
    let begun = store.begin_uneven(id, HeadSide::Batter, UnevenRecipe::ThreeDown, &eighths, 50).unwrap();
    assert!(store.begin_uneven(id, HeadSide::Batter, UnevenRecipe::TwoAndTwo, &eighths, 60).is_err(), "one at a time");
    assert_eq!(store.newest_uneven(id, HeadSide::Batter).unwrap().unwrap(), begun);
    assert_eq!(store.set_uneven_ended(begun.id, Some(70)).unwrap().ended_at, Some(70));
    store.set_uneven_gone(begun.id, Some(80)).unwrap();
    assert!(store.newest_uneven(id, HeadSide::Batter).unwrap().is_none());
    store.set_uneven_gone(begun.id, None).unwrap();
    store.change_head(id, HeadSide::Batter, Head::plain(10.0), 90).unwrap();
    assert!(store.newest_uneven(id, HeadSide::Batter).unwrap().is_none(), "it went with its head");
}

/// A data file from before heads had a make opens with every drum as it was.
#[test]
fn drums_of_an_older_file_are_read() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("old.sqlite");
    {
        let old = rusqlite::Connection::open(&path).unwrap();
        for step in [
            include_str!("../../migrations/0001_first.sql"),
            include_str!("../../migrations/0002_tonight.sql"),
            include_str!("../../migrations/0003_tune.sql"),
        ] {
            old.execute_batch(step).unwrap();
        }
        old.execute_batch(
            "INSERT INTO drum VALUES (3, 1, 'Snare', 'snare', 14, 5.5, 10, 10, 3), (4, 2, 'Tom', 'floor_tom', 16, 15.5, 8, 14, NULL);
             INSERT INTO head VALUES (3, 'batter', 77, 300.0); PRAGMA user_version = 3;",
        )
        .unwrap();
    }
    let store = Store::open(&path).unwrap();
    let drums = store.drums().unwrap();
    let (snare, tom) = (&drums[0].drum, &drums[1].drum);
    assert_eq!((snare.diameter_in, snare.lugs, snare.batter, snare.lower), (14.0, 10, Head::plain(10.0), Some(Head::plain(3.0))));
    assert_eq!(snare.wires.map(|wires| wires.strands), Some(20));
    assert_eq!((tom.kind, tom.batter, tom.lower, tom.wires), (DrumKind::FloorTom, Head::double(14.0), None, None));
    assert_eq!((tom.validate(), snare.validate()), (Ok(()), Ok(())));
    assert_eq!(store.head_changes(3).unwrap()[0].at, 77);
    assert_eq!(store.wanted_hz(3, HeadSide::Batter).unwrap(), Some(300.0));
}

#[test]
fn rounds_of_another_number_of_lugs_are_left_out() {
    let (mut store, id) = store();
    store.begin_round(id, HeadSide::Batter, 6, Source::Microphone, 10).unwrap();
    let drum = ember_core::drum::Drum { lugs: 8, ..BenchDrum::usual(DrumKind::Tom) };
    store.change_drum(id, &drum).unwrap();
    assert!(store.rounds(id, HeadSide::Batter).unwrap().is_empty());
}
