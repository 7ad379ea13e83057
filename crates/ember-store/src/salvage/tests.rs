//! Damage of every kind, byte by byte.

use super::*;
use crate::Store;
use ember_core::bench_drum::BenchDrum;
use ember_core::decay::StrikeMeasurement;
use ember_core::drum::{Drum, DrumKind};
use ember_core::target::{Music, Song};
use ember_core::tone::DecayProfile;
use rand::{Rng, SeedableRng, rngs::StdRng};

use crate::{NewStrike, Source};
use std::path::PathBuf;

const DRUMS: usize = 3;
const TAKES: usize = 6;
const STRIKES: usize = 4;
const SONGS: usize = 200;

fn drum(number: usize) -> Drum {
    Drum { name: format!("Tom {number}"), ..BenchDrum::usual(DrumKind::Tom) }
}

fn filled(path: &Path) {
    let mut store = Store::open(path).unwrap();
    let drums: Vec<i64> = (0..DRUMS).map(|number| store.add_drum(&drum(number)).unwrap().id).collect();
    for number in 0..SONGS {
        let song = Song { title: format!("Song {number}"), music: Music::new("rock", 60.0 + number as f64), notes: String::new() };
        store.add_song(&song).unwrap();
    }
    for number in 0..TAKES {
        let profile = DecayProfile { body_hz: Some(140.0), body_t60_s: Some(0.9), ..DecayProfile::default() };
        let measurement = StrikeMeasurement { profile, ..StrikeMeasurement::default() };
        let sound: Vec<u8> = (0..9_000u32).map(|n| (n.wrapping_mul(2_654_435_761) >> 24) as u8).collect();
        let strikes: Vec<NewStrike> =
            (0..STRIKES).map(|_| NewStrike { measurement: &measurement, sound: &sound, onset_index: 7 }).collect();
        store.add_take(drums[number % DRUMS], Source::File, None, number as i64, &strikes).unwrap();
    }
}

/// Rows of the tables that matter.
fn counted(path: &Path) -> usize {
    let connection = Connection::open(path).unwrap();
    let count = |table: &str| connection.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get::<_, i64>(0)).unwrap();
    ["drum", "take", "strike", "song"].into_iter().map(count).sum::<i64>() as usize
}

fn spoilt(whole: &[u8], folder: &Path, at: usize, to: u8) -> PathBuf {
    let mut bytes = whole.to_vec();
    bytes[at] = to;
    let path = folder.join("spoilt.sqlite");
    for name in ["spoilt.sqlite", "spoilt.sqlite-wal", "spoilt.sqlite-shm"] {
        let _ = std::fs::remove_file(folder.join(name));
    }
    let _ = std::fs::remove_dir_all(folder.join("spoilt.sqlite.copies"));
    std::fs::write(&path, bytes).unwrap();
    path
}

#[test]
fn a_damaged_byte_anywhere_costs_at_most_the_row_it_is_in() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("whole.sqlite");
    filled(&path);
    let whole = std::fs::read(&path).unwrap();
    let all = DRUMS + TAKES + TAKES * STRIKES + SONGS;
    assert_eq!(counted(&path), all);
    let mut rng = StdRng::seed_from_u64(24);
    // Every kind of page has its header at its beginning: those bytes, and any others.
    let headers = (0..whole.len() / 4096)
        .flat_map(|page| [0, 3, 4, 6, 9, 11].into_iter().map(move |byte| 4096 * page + if page == 0 { 100 } else { 0 } + byte));
    let mut places: Vec<usize> = (16..100).step_by(3).chain(headers).collect();
    places.extend((0..120).map(|_| rng.random_range(0..whole.len())));
    let flips: Vec<(usize, u8)> = places.into_iter().map(|at| (at, 1 << rng.random_range(0..8))).collect();
    // Each damaged file is written, mended and written again: while one waits for the disk, another is worked on.
    let lost = |(at, bit): &(usize, u8), folder: &Path| {
        let spoilt = spoilt(&whole, folder, *at, whole[*at] ^ bit);
        let store = Store::open(&spoilt).unwrap_or_else(|error| panic!("byte {at}: {error}"));
        assert!(store.drums().is_ok() && store.songs().is_ok(), "byte {at}");
        drop(store);
        all.saturating_sub(counted(&spoilt))
    };
    let worst_of = |flips: &[(usize, u8)]| {
        let folder = tempfile::tempdir().unwrap();
        flips.iter().map(|flip| (lost(flip, folder.path()), flip.0)).max()
    };
    let (worst, at) = std::thread::scope(|scope| {
        let parts: Vec<_> = flips.chunks(flips.len().div_ceil(4)).map(|part| scope.spawn(|| worst_of(part))).collect();
        parts.into_iter().filter_map(|part| part.join().unwrap()).max().unwrap()
    });
    assert!(worst <= 1, "{worst} rows lost by a bit of byte {at}");
}

#[test]
fn the_rows_under_a_lost_upper_page_are_found_again_and_removed_ones_stay_removed() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("kit.sqlite");
    filled(&path);
    {
        let mut store = Store::open(&path).unwrap();
        let last = store.drums().unwrap()[2].id;
        let (takes, _) = store.takes(last, None, 1).unwrap();
        store.remove_take(takes[0].id).unwrap();
    }
    let before = counted(&path);
    let mut bytes = std::fs::read(&path).unwrap();
    // Upper pages of tables begin with a 5.
    let upper: Vec<usize> = (1..bytes.len() / 4096).filter(|page| bytes[4096 * page] == 5).collect();
    assert!(!upper.is_empty());
    for page in upper {
        bytes[4096 * page..4096 * (page + 1)].fill(0xAA);
    }
    std::fs::write(&path, bytes).unwrap();
    let store = Store::open(&path).unwrap();
    let told = store.salvaged().cloned().unwrap();
    assert!(Path::new(&told.kept_at).exists(), "the damaged file is kept");
    drop(store);
    assert_eq!(counted(&path), before);
    assert!(Store::open(&path).unwrap().salvaged().is_none(), "mended once");
}

#[test]
fn what_is_no_data_file_is_refused_and_left_as_it_is() {
    let folder = tempfile::tempdir().unwrap();
    let text = folder.path().join("letter.txt");
    std::fs::write(&text, "Dear drummer,\n".repeat(400)).unwrap();
    assert!(matches!(Store::open(&text), Err(StoreError::NotData(_))));
    assert!(std::fs::read_to_string(&text).unwrap().starts_with("Dear drummer"));
    let other = folder.path().join("other.sqlite");
    Connection::open(&other).unwrap().execute_batch("CREATE TABLE letter (id INTEGER PRIMARY KEY, words TEXT)").unwrap();
    let before = std::fs::read(&other).unwrap();
    assert!(matches!(Store::open(&other), Err(StoreError::Foreign(_))));
    assert!(std::fs::read(&other).unwrap() == before);
    let newer = folder.path().join("newer.sqlite");
    drop(Store::open(&newer).unwrap());
    Connection::open(&newer).unwrap().execute_batch("CREATE TABLE later (id INTEGER PRIMARY KEY); PRAGMA user_version = 9999").unwrap();
    assert!(matches!(Store::open(&newer), Err(StoreError::Newer { found: 9999, .. })));
}
