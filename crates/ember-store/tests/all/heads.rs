//! What changes of heads teach: which takes count as before and after, and which changes teach nothing.

use ember_core::bench_drum::BenchDrum;
use ember_core::decay::StrikeMeasurement;
use ember_core::drum::{DrumKind, Head, HeadSide};
use ember_core::tone::{DecayProfile, Partial};
use ember_store::{NewStrike, Source, Store};

/// A strike whose body lasts `body` s and whose ring lasts `ring` s.
fn strike(body: f64, ring: f64) -> StrikeMeasurement {
    let partial = |hz: f64, t60: f64, level_db: f64| Partial {
        hz,
        t60_s: Some(t60),
        t60_sd_s: Some(0.01),
        t60_scatter_s: None,
        level_db,
        tone: None,
    };
    let partials = vec![partial(120.0, body, 0.0), partial(191.0, ring, -4.0), partial(256.0, 0.9 * ring, -8.0)];
    StrikeMeasurement {
        onset_s: 0.1,
        peak_dbfs: -9.0,
        profile: DecayProfile::of_partials(&partials),
        partials,
        ..StrikeMeasurement::default()
    }
}

fn take(store: &mut Store, drum: i64, source: Source, at: i64, body: f64, ring: f64) -> i64 {
    let measurement = strike(body, ring);
    let strikes = [NewStrike { measurement: &measurement, sound: b"fLaC", onset_index: 0 }];
    store.add_take(drum, source, None, at, &strikes).unwrap().id
}

#[test]
fn a_change_teaches_what_the_open_drum_did_right_before_and_after() {
    let mut store = Store::in_memory().unwrap();
    let tom = store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap().id;
    take(&mut store, tom, Source::Microphone, 10, 0.9, 1.4);
    take(&mut store, tom, Source::Microphone, 20, 0.8, 1.2);
    store.change_head(tom, HeadSide::Batter, Head::double(14.0), 30).unwrap();
    assert!(store.head_trials().unwrap().is_empty(), "not measured after it yet");
    take(&mut store, tom, Source::Microphone, 40, 0.8, 0.9);
    take(&mut store, tom, Source::Microphone, 50, 0.72, 0.84);
    let trials = store.head_trials().unwrap();
    assert_eq!(trials.len(), 1);
    assert_eq!((trials[0].before, trials[0].after), (Head::plain(10.0), Head::double(14.0)));
    // The last take on the old head against the newest on the new one.
    let near = |found: Option<f64>, wanted: f64| found.is_some_and(|value| (value - wanted).abs() < 1e-9);
    assert!(near(trials[0].body_ratio, 0.9) && near(trials[0].ring_ratio, 0.7), "{trials:?}");
    // A third head: what the second one did is not counted for it.
    store.change_head(tom, HeadSide::Batter, Head { oil: true, ..Head::double(14.0) }, 60).unwrap();
    take(&mut store, tom, Source::Microphone, 70, 0.5, 0.42);
    let trials = store.head_trials().unwrap();
    assert_eq!(trials.len(), 2);
    assert!(near(trials[0].ring_ratio, 0.5) && near(trials[1].ring_ratio, 0.7), "newest first: {trials:?}");
}

#[test]
fn lower_heads_and_simulated_against_real_drums_teach_nothing() {
    let mut store = Store::in_memory().unwrap();
    let tom = store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap().id;
    take(&mut store, tom, Source::Microphone, 10, 0.9, 1.4);
    store.change_head(tom, HeadSide::Lower, Head::plain(7.0), 20).unwrap();
    take(&mut store, tom, Source::Microphone, 30, 0.8, 1.2);
    store.change_head(tom, HeadSide::Batter, Head::double(14.0), 40).unwrap();
    take(&mut store, tom, Source::Simulated, 50, 0.8, 0.9);
    assert!(store.head_trials().unwrap().is_empty());
    assert_eq!(store.drum(tom).unwrap().drum.lower, Some(Head::plain(7.0)));
}

#[test]
fn drift_is_between_the_first_and_the_newest_take_of_one_tuning() {
    let mut store = Store::in_memory().unwrap();
    let tom = store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap().id;
    let before = take(&mut store, tom, Source::File, 10, 0.9, 1.4);
    assert!(store.first_and_newest(tom, 0).unwrap().is_none(), "one take has not drifted");
    let middle = take(&mut store, tom, Source::File, 20, 0.9, 1.3);
    let newest = take(&mut store, tom, Source::File, 30, 0.9, 1.2);
    let ids = |since: i64, store: &Store| store.first_and_newest(tom, since).unwrap().map(|(first, newest)| (first.id, newest.id));
    assert_eq!(ids(0, &store), Some((before, newest)));
    let seq = |take: i64| store.take(take).unwrap().seq;
    assert_eq!(ids(seq(before), &store), Some((middle, newest)), "turned in between");
    assert_eq!(ids(seq(middle), &store), None);
}
