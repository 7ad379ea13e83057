//! What must not be lost or refused, whatever clock, disk and other programs do.

use ember_core::bench_drum::BenchDrum;
use ember_core::decay::StrikeMeasurement;
use ember_core::drum::{DrumKind, Head, HeadSide};
use ember_core::target::{Music, Song};
use ember_core::tone::Mode;
use ember_core::tone::{DecayProfile, Partial};
use ember_store::{Contents, DamagedRow, KeptTake, NewStrike, Reason, Source, Store, StoreError, Thinning};
use ember_words::{Text, text};
use std::path::{Path, PathBuf};
use tempfile::TempDir;

const DAY: i64 = 86_400_000;

fn strike(body: f64, peak_dbfs: f64) -> StrikeMeasurement {
    let partial = Partial {
        hz: 140.0,
        t60_s: Some(body),
        t60_sd_s: Some(0.02),
        t60_scatter_s: None,
        level_db: 0.0,
        tone: Some(Mode::together(0, 1).into()),
    };
    let profile = DecayProfile { body_hz: Some(140.0), body_t60_s: Some(body), ..DecayProfile::default() };
    StrikeMeasurement { peak_dbfs, profile, partials: vec![partial], ..StrikeMeasurement::default() }
}

fn add(store: &mut Store, drum: i64, at: i64, strikes: usize, bytes: usize) -> Result<KeptTake, StoreError> {
    let sound: Vec<u8> = (0..bytes).map(|n| n as u8).collect();
    let measured: Vec<StrikeMeasurement> = (0..strikes).map(|n| strike(0.9, -12.0 + n as f64)).collect();
    let new: Vec<NewStrike> = measured.iter().map(|measurement| NewStrike { measurement, sound: &sound, onset_index: 0 }).collect();
    store.add_take(drum, Source::Microphone, None, at, &new)
}

fn tom(store: &mut Store) -> i64 {
    store.add_drum(&BenchDrum::usual(DrumKind::Tom)).unwrap().id
}

fn json(value: &impl serde::Serialize) -> String {
    serde_json::to_string(value).unwrap()
}

fn file() -> (TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("kit.sqlite");
    (folder, path)
}

#[test]
fn a_take_from_the_future_is_not_the_newest_for_ever() {
    let mut store = Store::in_memory().unwrap();
    let drum = tom(&mut store);
    let (future, now) = (4_000_000_000_000, 1_800_000_000_000);
    let before = add(&mut store, drum, future, 3, 10).unwrap();
    assert_eq!(store.clock_is_behind_by(now).unwrap(), Some(future - now), "and the jump is noticed");
    let after = add(&mut store, drum, now, 3, 10).unwrap();
    assert_eq!(store.newest_take(drum, None).unwrap().unwrap().id, after.id);
    assert!(after.seq > before.seq);
    // Another head, put on while the clock was wrong, does not hide what is struck on it.
    let change = store.change_head(drum, HeadSide::Batter, Head::double(14.0), future).unwrap();
    assert!(store.newest_take(drum, None).unwrap().is_none());
    let on_it = add(&mut store, drum, now, 3, 10).unwrap();
    assert_eq!(store.newest_take(drum, None).unwrap().unwrap().id, on_it.id);
    store.take_head_back(change.id, now).unwrap();
    assert_eq!(store.newest_take(drum, None).unwrap().unwrap().id, on_it.id);
    assert_eq!(store.clock_is_behind_by(future).unwrap(), None);
}

#[test]
fn one_program_works_with_a_file_and_the_other_is_told_where_it_is() {
    let (_folder, path) = file();
    let mut first = Store::open(&path).unwrap();
    assert!(matches!(Store::open(&path), Err(StoreError::InUse { address: None })));
    first.answers_at("http://127.0.0.1:5480");
    let said = Store::open(&path).map(|_| ()).unwrap_err().to_string();
    assert!(said.contains("http://127.0.0.1:5480"), "{said}");
    drop(first);
    Store::open(&path).unwrap();
}

#[cfg(unix)]
#[test]
fn nobody_else_on_this_machine_can_read_the_data() {
    use std::os::unix::fs::PermissionsExt;
    let (_folder, path) = file();
    let mut store = Store::open(&path).unwrap();
    tom(&mut store);
    for name in ["kit.sqlite", "kit.sqlite-wal", "kit.sqlite.lock"] {
        let mode = std::fs::metadata(path.with_file_name(name)).unwrap().permissions().mode();
        assert_eq!(mode & 0o077, 0, "{name}: {mode:o}");
    }
}

/// An older file is copied before it is brought up to date, and the copy is what it was.
#[test]
fn a_copy_is_kept_before_an_update_and_once_a_day() {
    let (_folder, path) = file();
    let old = rusqlite::Connection::open(&path).unwrap();
    old.execute_batch(include_str!("../../migrations/0001_first.sql")).unwrap();
    old.execute_batch("INSERT INTO tonight VALUES (1, 'cumbia', 96.5, 1, 0); PRAGMA user_version = 1;").unwrap();
    drop(old);
    let mut store = Store::open(&path).unwrap();
    let copies = Store::copies(&path);
    assert_eq!(copies.iter().map(|copy| copy.reason).collect::<Vec<_>>(), [Reason::BeforeUpdate]);
    let copy = rusqlite::Connection::open(&copies[0].path).unwrap();
    assert_eq!(copy.query_row("SELECT genre FROM tonight", [], |row| row.get::<_, String>(0)).unwrap(), "cumbia");
    let drum = tom(&mut store);
    add(&mut store, drum, 5, 2, 1000).unwrap();
    assert!(Store::copy_daily(&path).unwrap(), "while the program works with it");
    assert!(!Store::copy_daily(&path).unwrap(), "one a day is enough");
    let daily = Store::copies(&path).into_iter().find(|copy| copy.reason == Reason::Daily).unwrap();
    let copied = Store::open(Path::new(&daily.path)).unwrap();
    assert_eq!(copied.drums().unwrap(), store.drums().unwrap());
    assert_eq!(copied.takes(drum, None, 9).unwrap(), store.takes(drum, None, 9).unwrap());
}

#[test]
fn one_damaged_row_is_named_and_everything_else_works() {
    let (_folder, path) = file();
    let mut store = Store::open(&path).unwrap();
    let (good, bad) = (tom(&mut store), tom(&mut store));
    let takes: Vec<i64> = (0..3).map(|at| add(&mut store, good, at, 2, 10).unwrap().id).collect();
    let song = store.add_song(&Song { title: "Foam".into(), music: Music::new("surf", 150.0), notes: String::new() }).unwrap().id;
    let list = store.strikes(takes[1]).unwrap();
    drop(store);
    let raw = rusqlite::Connection::open(&path).unwrap();
    raw.execute("UPDATE drum SET content = '{\"naem\":3}' WHERE id = ?1", [bad]).unwrap();
    raw.execute("UPDATE take SET summary = '[]' WHERE id = ?1", [takes[2]]).unwrap();
    raw.execute("UPDATE strike SET measurement = '{\"peak_dbfs\":\"loud\"}' WHERE id = ?1", [list[0].id]).unwrap();
    raw.execute("UPDATE song SET content = '{}' WHERE id = ?1", [song]).unwrap();
    drop(raw);
    let store = Store::open(&path).unwrap();
    assert_eq!(store.drums().unwrap().iter().map(|drum| drum.id).collect::<Vec<_>>(), [good]);
    assert_eq!(store.newest_take(good, None).unwrap().unwrap().id, takes[1], "the newest that can be read");
    assert_eq!(store.takes(good, None, 9).unwrap().0.len(), 2);
    assert_eq!(store.strikes(takes[1]).unwrap().len(), 1);
    assert!(store.songs().unwrap().is_empty());
    let said = store.drum(bad).unwrap_err().to_string();
    assert!(said.starts_with(&format!("The drum {bad} cannot be read")), "{said}");
    let row = |what: Text, id| DamagedRow { what: what.into(), id };
    assert_eq!(
        store.damaged_rows(),
        [row(text!("drum"), bad), row(text!("song"), song), row(text!("strike"), list[0].id), row(text!("take"), takes[2])]
    );
}

#[test]
fn a_file_that_can_only_be_read_is_read_and_writing_is_refused_with_a_sentence() {
    let (_folder, path) = file();
    let drum = {
        let mut store = Store::open(&path).unwrap();
        let drum = tom(&mut store);
        add(&mut store, drum, 5, 2, 10).unwrap();
        drum
    };
    let before = std::fs::read(&path).unwrap();
    let mut store = Store::open_read_only(&path).unwrap();
    assert!(store.is_read_only() && store.newest_take(drum, None).unwrap().is_some());
    assert!(matches!(store.add_drum(&BenchDrum::usual(DrumKind::Tom)), Err(StoreError::ReadOnly)));
    assert!(matches!(add(&mut store, drum, 6, 1, 10), Err(StoreError::ReadOnly)));
    assert!(matches!(store.remove_drum(drum), Err(StoreError::ReadOnly)));
    store.keep_learned("key", "{}").unwrap();
    assert_eq!(store.learned().unwrap(), None);
    drop(store);
    assert!(std::fs::read(&path).unwrap() == before);
    assert!(Store::open_read_only(&path.with_file_name("nothing.sqlite")).is_err());
}

/// The limit on pages stands for the disk: SQLite answers both alike.
#[test]
fn on_a_full_disk_nothing_is_lost_and_removing_works() {
    let (_folder, path) = file();
    let mut store = Store::open(&path).unwrap();
    let drum = tom(&mut store);
    let first = add(&mut store, drum, 1, 3, 100_000).unwrap();
    store.limit_pages(Some(200));
    let full = (0..9).map(|at| add(&mut store, drum, at, 3, 100_000)).find_map(Result::err);
    let said = full.unwrap().to_string();
    assert!(said.starts_with("The disk with the data is full."), "{said}");
    let (takes, all) = store.takes(drum, None, 99).unwrap();
    assert!(takes.len() == all && takes.iter().all(|take| store.strikes(take.id).unwrap().len() == 3), "all or nothing of each");
    store.remove_take(first.id).unwrap();
    add(&mut store, drum, 10, 1, 100_000).unwrap();
}

#[test]
fn removing_gives_room_back_and_the_log_stays_small() {
    let (_folder, path) = file();
    let mut store = Store::open(&path).unwrap();
    let drum = tom(&mut store);
    let size = |ending: &str| std::fs::metadata(format!("{}{ending}", path.display())).map_or(0, |about| about.len());
    for at in 0..20 {
        add(&mut store, drum, at, 20, 100_000).unwrap();
    }
    assert!(size("-wal") < 24 << 20, "{} bytes of log", size("-wal"));
    while store.give_back().unwrap() {}
    let (full, room) = (size(""), store.room().unwrap());
    assert!(full > 38_000_000 && room.drums[0].takes == 20 && room.drums[0].sound_bytes == 40_000_000);
    for take in store.takes(drum, None, 99).unwrap().0.into_iter().take(19) {
        store.remove_take(take.id).unwrap();
    }
    while store.give_back().unwrap() {}
    assert!(size("") < full / 10, "{} of {full} bytes", size(""));
    assert_eq!(store.room().unwrap().unused_bytes, 0);
}

#[test]
fn old_sound_goes_by_the_users_rule_and_figures_never() {
    let mut store = Store::in_memory().unwrap();
    let drum = tom(&mut store);
    let now = 100 * DAY;
    let old = add(&mut store, drum, 10 * DAY, 5, 1000).unwrap();
    let older_state = add(&mut store, drum, 20 * DAY, 5, 1000).unwrap();
    let fresh = add(&mut store, drum, 99 * DAY, 5, 1000).unwrap();
    let rule = Thinning { older_than_days: 30, strikes_kept: 2, daily: true };
    assert_eq!(store.thinning().unwrap(), None);
    store.set_thinning(Some(rule)).unwrap();
    assert_eq!(store.thinning().unwrap(), Some(rule));
    let would = store.would_thin(rule, now).unwrap();
    assert_eq!((would.strikes, would.bytes), (6, 6000));
    assert_eq!(store.thin(rule, now).unwrap(), would);
    assert_eq!(store.thin(rule, now).unwrap().strikes, 0, "once");
    for (take, kept) in [(&old, 2), (&older_state, 2), (&fresh, 5)] {
        let strikes = store.strikes(take.id).unwrap();
        assert_eq!(strikes.iter().filter(|strike| strike.has_sound).count(), kept);
        assert_eq!((strikes.len(), &store.take(take.id).unwrap().summary), (5, &take.summary));
        for strike in strikes {
            assert_eq!(store.sound(strike.id).is_ok(), strike.has_sound);
        }
    }
    // Those in the middle by level are what is heard first.
    let kept: Vec<f64> = store.strikes(old.id).unwrap().iter().filter(|it| it.has_sound).map(|it| it.measurement.peak_dbfs).collect();
    assert!(kept.contains(&-10.0), "{kept:?}");
    assert_eq!(store.room().unwrap().drums[0].sound_bytes, 9000);
    assert!(store.set_thinning(Some(Thinning { older_than_days: 99_999, ..rule })).is_err());
    store.set_thinning(None).unwrap();
    assert_eq!(store.thinning().unwrap(), None);
}

#[test]
fn what_a_file_holds_is_told_without_touching_it() {
    let (_folder, path) = file();
    assert_eq!(Store::contents(&path).unwrap(), Contents::Nothing);
    assert!(!path.exists());
    let mut store = Store::open(&path).unwrap();
    assert_eq!(Store::contents(&path).unwrap(), Contents::Own);
    store.mark_as_demonstration().unwrap();
    drop(store);
    assert_eq!(Store::contents(&path).unwrap(), Contents::Demonstration);
    let copy = Store::copy_before_fresh(&path).unwrap();
    assert_eq!(Store::contents(&copy).unwrap(), Contents::Demonstration);
}

/// Versions of SQLite before 3.45 take a CHECK that is NULL for one that is broken.
#[test]
fn no_rule_of_a_table_is_left_undecided() {
    let (_folder, path) = file();
    drop(Store::open(&path).unwrap());
    let connection = rusqlite::Connection::open(&path).unwrap();
    let mut statement = connection.prepare("SELECT name, sql FROM sqlite_schema WHERE type = 'table'").unwrap();
    let tables: Vec<(String, String)> =
        statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap().map(Result::unwrap).collect();
    assert!(tables.len() > 15);
    for (name, sql) in tables {
        for rule in sql.split("CHECK (json_valid(").skip(1) {
            let column = rule.split(')').next().unwrap();
            assert!(sql.contains(&format!("{column} TEXT NOT NULL")), "{name}.{column} may be NULL");
        }
    }
}

/// What a file of the version before holds is put in order by its dates; taps stay with their rounds although that table is made anew.
#[test]
fn a_file_from_before_the_order_is_put_in_order_by_its_dates() {
    let (_folder, path) = file();
    let old = rusqlite::Connection::open(&path).unwrap();
    for step in &crate::old_files::STEPS[..7] {
        old.execute_batch(step).unwrap();
    }
    old.execute("INSERT INTO drum (id, position, content) VALUES (1, 1, ?1)", [json(&BenchDrum::usual(DrumKind::Tom))]).unwrap();
    let measured = [strike(0.9, -9.0)];
    let (summary, partials) = (json(&ember_core::decay::summarize(&measured)), json(&ember_core::decay::combine_partials(&measured)));
    // The second take was kept first and struck later; at 50 another head was put on.
    for (id, at) in [(1, 60), (2, 70), (3, 40)] {
        let take = "INSERT INTO take (id, drum_id, source, begun_at, summary, partials) VALUES (?1, 1, 'file', ?2, ?3, ?4)";
        old.execute(take, (id, at, &summary, &partials)).unwrap();
        let sound = "INSERT INTO strike (take_id, position, measurement, sound, onset_index) VALUES (?1, 1, ?2, x'010203', 0)";
        old.execute(sound, (id, json(&measured[0]))).unwrap();
    }
    let head = json(&Head::plain(10.0));
    old.execute("INSERT INTO head_change (drum_id, side, at, before, after) VALUES (1, 'batter', 50, ?1, ?1)", [head]).unwrap();
    old.execute_batch(
        "INSERT INTO tuning_round (id, drum_id, side, source, begun_at, lugs, pitches) VALUES (4, 1, 'batter', 'file', 55, 6, '{}');
         INSERT INTO tap (round_id, lug, heard_at, sound, onset_index) VALUES (4, 0, 56, x'01', 0);
         INSERT INTO shelf_item (device, count) VALUES ('tape', 3); PRAGMA user_version = 7;",
    )
    .unwrap();
    drop(old);
    let mut store = Store::open(&path).unwrap();
    assert_eq!(store.newest_take(1, None).unwrap().map(|take| take.id), Some(2));
    assert_eq!(store.takes(1, None, 9).unwrap().0.iter().map(|take| take.id).collect::<Vec<_>>(), [2, 1, 3]);
    assert_eq!(store.taps(4).unwrap().len(), 1, "taps stay with their round");
    assert_eq!(store.head_changes(1).unwrap().len(), 1);
    assert_eq!(store.room().unwrap().drums[0].sound_bytes, 9);
    assert_eq!(store.shelf().unwrap().iter().find(|item| item.device.code() == "tape").map(|item| item.count), Some(3));
    let next = add(&mut store, 1, 1, 1, 10).unwrap();
    assert_eq!(store.newest_take(1, None).unwrap().map(|take| take.id), Some(next.id));
}
