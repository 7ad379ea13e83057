//! Files of every version, with a row of every kind and in every form in which rows were kept, open as before.

use ember_core::damping::DeviceKind;
use ember_core::drum::{DrumKind, HeadSide, Role};
use ember_core::tone::Mode;
use ember_store::Store;
use ember_words::Words;
use rusqlite::Connection;
use rusqlite::types::Value as Field;
use serde_json::{Map, Value};
use std::path::Path;

/// What made each schema of the one before.
pub const STEPS: [&str; 13] = [
    include_str!("../../migrations/0001_first.sql"),
    include_str!("../../migrations/0002_tonight.sql"),
    include_str!("../../migrations/0003_tune.sql"),
    include_str!("../../migrations/0004_heads.sql"),
    include_str!("../../migrations/0005_heart.sql"),
    include_str!("../../migrations/0006_front.sql"),
    include_str!("../../migrations/0007_nothing_bought.sql"),
    include_str!("../../migrations/0008_order.sql"),
    include_str!("../../migrations/0009_doubt.sql"),
    include_str!("../../migrations/0010_opinions.sql"),
    include_str!("../../migrations/0011_kits.sql"),
    include_str!("../../migrations/0012_heard_as.sql"),
    include_str!("../../migrations/0013_words.sql"),
];

/// The version since which a row of the shelf says what a thing of the user's own is.
const OWN_SINCE: usize = 5;
/// The version since which it can be ruled out that something takes more than a minute.
const LIMITS_SINCE: usize = 5;

/// Rows as the program keeps them, by table: a drum with a take, a treatment and its check, a trial of a kick's front, a round of taps, and one of
/// everything else.
fn rows() -> Map<String, Value> {
    serde_json::from_str(include_str!("../fixtures/rows.json")).unwrap()
}

/// Fields that came later, each left out by older programs.
const LATER: [&str; 33] = [
    "method",
    "coded",
    "spectrum_db",
    "heard_by",
    "ending",
    "dynamics",
    "dynamic",
    "partial_dbfs",
    "click_gained_db",
    "rings_on",
    "ports",
    "lower_mesh",
    "vents",
    "weight_g",
    "too_much",
    "distance_m",
    "room_modes",
    "out",
    "kept",
    "played",
    "plays_along",
    "own_wish",
    "borrowed",
    "struck",
    "inside",
    "second_shell",
    "inside_out",
    "patch",
    "group",
    "instead",
    "date",
    "one_thing",
    "t60_scatter_s",
];

/// `value` as an older program kept it: without what came later, and with tones and sentences as text.
fn as_before(value: &mut Value) {
    match value {
        Value::Object(fields) if fields.contains_key("template") => {
            let words: Words = serde_json::from_value(value.take()).unwrap();
            *value = words.to_string().into();
        }
        Value::Object(fields) => {
            LATER.iter().for_each(|later| {
                fields.remove(*later);
            });
            if let Some(mode) = fields.get("tone").and_then(|tone| tone.get("mode")).cloned() {
                let mode: Mode = serde_json::from_value(mode).unwrap();
                fields.remove("tone");
                fields.insert("mode".into(), ember_core::tone::Tone::from(mode).to_string().into());
            }
            fields.values_mut().for_each(as_before);
        }
        Value::Array(all) => all.iter_mut().for_each(as_before),
        _ => {}
    }
}

fn field(value: &Value) -> Field {
    match value {
        Value::Null => Field::Null,
        Value::Number(number) => number.as_i64().map_or_else(|| Field::Real(number.as_f64().unwrap()), Field::Integer),
        Value::String(text) => Field::Text(text.clone()),
        Value::Object(fields) if fields.contains_key("blob") => Field::Blob(vec![1, 2, 3]),
        other => Field::Text(other.to_string()),
    }
}

/// Columns that tables had before what they say was put together in one.
fn with_early_columns(table: &str, row: &mut Map<String, Value>) {
    let Some(whole) = row.get(if table == "drum" { "content" } else { "music" }).cloned() else { return };
    let names: &[&str] = if table == "drum" { &["name", "kind", "diameter_in", "depth_in", "lugs"] } else { &["genre", "bpm"] };
    for name in names {
        row.insert((*name).into(), whole[*name].clone());
    }
    if table == "drum" {
        row.insert("batter_film_mil".into(), whole["batter"]["film_mil"].clone());
        row.insert("lower_film_mil".into(), whole["lower"].get("film_mil").cloned().unwrap_or_default());
    }
}

/// Makes a file of `version` with what fits of all rows. How many went in, by table.
fn made(path: &Path, version: usize, old_forms: bool) -> Map<String, Value> {
    let connection = Connection::open(path).unwrap();
    connection.pragma_update(None, "foreign_keys", false).unwrap();
    STEPS[..version].iter().for_each(|step| connection.execute_batch(step).unwrap());
    let mut put = Map::new();
    for (table, rows) in rows() {
        let mut columns = connection.prepare("SELECT name FROM pragma_table_info(?1)").unwrap();
        let columns: Vec<String> = columns.query_map([&table], |row| row.get(0)).unwrap().map(Result::unwrap).collect();
        if columns.is_empty() {
            continue;
        }
        connection.execute(&format!("DELETE FROM {table}"), []).unwrap();
        for row in rows.as_array().unwrap() {
            let mut row = row.as_object().unwrap().clone();
            with_early_columns(&table, &mut row);
            if old_forms {
                row.values_mut().filter(|value| value.is_object() || value.is_array()).for_each(as_before);
            }
            row.retain(|name, _| columns.contains(name));
            let names: Vec<&String> = row.keys().collect();
            let places = vec!["?"; names.len()].join(", ");
            let names = names.iter().map(|name| name.as_str()).collect::<Vec<_>>().join(", ");
            let values: Vec<Field> = row.values().map(field).collect();
            let sql = format!("INSERT INTO {table} ({names}) VALUES ({places})");
            connection.execute(&sql, rusqlite::params_from_iter(values)).unwrap_or_else(|error| panic!("{version}, {sql}: {error}"));
        }
        put.insert(table, rows.as_array().unwrap().len().into());
    }
    connection.pragma_update(None, "user_version", version as i64).unwrap();
    put
}

fn opens_as_before(version: usize, old_forms: bool) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("old.sqlite");
    let put = made(&path, version, old_forms);
    let had = |table: &str| put.get(table).and_then(Value::as_u64).unwrap_or(0) as usize;
    let store = Store::open(&path).unwrap_or_else(|error| panic!("version {version}: {error}"));
    let drums = store.all_drums().unwrap();
    assert_eq!(drums.len(), had("drum"), "version {version}");
    kits_are_as_before(&store, version, had("kit"));
    assert!(drums.iter().all(|drum| drum.drum.validate().is_ok()));
    let (mut takes, mut strikes, mut treatments) = (0, 0, 0);
    for drum in &drums {
        for take in store.takes(drum.id, None, 99).unwrap().0 {
            assert!(take.partials.iter().any(|partial| partial.tone.is_some()), "tones keep their names");
            strikes += store.strikes(take.id).unwrap().len();
            takes += 1;
        }
        treatments += store.treatments(drum.id, 99).unwrap().len();
        store.treatment_on(drum.id).unwrap();
    }
    // Takes from before a head was changed are of the old one, and not listed: here there are none such.
    assert_eq!(store.damaged_rows(), [], "version {version}");
    assert_eq!((takes, strikes, treatments), (had("take"), had("strike"), had("treatment")), "version {version}");
    assert_eq!(store.songs().unwrap().len(), had("song"));
    assert_eq!(store.venues().unwrap().len(), had("venue"));
    assert_eq!(store.set_lists().unwrap().len(), had("set_list"));
    // Rows of the user's own things say what they are only since the fifth version, of which none is without.
    let shelf = store.shelf().unwrap();
    let owned = shelf.iter().filter(|item| item.count > 0 && item.device != DeviceKind::RodsTurned);
    let of_this_version =
        rows()["shelf_item"].as_array().unwrap().iter().filter(|row| version >= OWN_SINCE || row["made"].is_null()).count();
    assert_eq!(owned.count(), of_this_version, "version {version}");
    let rounds = drums.iter().map(|drum| store.rounds(drum.id, HeadSide::Batter).unwrap().len()).sum::<usize>();
    assert_eq!(rounds, had("tuning_round"));
    let renamed = store.presets().unwrap().iter().filter(|kept| kept.preset.name == "Rock of ours").count();
    assert_eq!(renamed, had("preset"));
    assert_eq!(store.thinning().unwrap().is_some(), had("keeping") > 0);
    let said: usize =
        [Role::FloorTom, Role::Tom, Role::Kick].into_iter().map(|role| store.opinions(role, &genre(&store)).unwrap().len()).sum();
    assert_eq!(said, had("opinion"));
    let whys = drums.iter().flat_map(|drum| store.treatments(drum.id, 99).unwrap()).map(|kept| kept.plan.why.to_string());
    let said = "It takes 7 % of the misfit away; left over: rings 0.65 s too long at 148 Hz; nothing smaller does.";
    assert!(had("treatment") < 2 || whys.into_iter().any(|why| why == said), "version {version}: sentences read as they were");
    store.device_tests().unwrap();
    store.front_tests(9).unwrap();
    assert_eq!(store.scene().unwrap().tonight.music.bpm, rows()["tonight"][0]["music"]["bpm"].as_f64().unwrap());
    assert!(drums.iter().any(|drum| drum.drum.kind == DrumKind::Kick));
}

/// Of a file from before there were several, all drums make one kit.
fn kits_are_as_before(store: &Store, version: usize, had: usize) {
    let (kits, all) = (store.kits().unwrap(), store.all_drums().unwrap().len());
    assert_eq!(kits.len(), had.max(1), "version {version}");
    assert_eq!(kits[0].kit.drums.len(), all, "the first kit has them all");
    assert_eq!(store.drums().unwrap().len(), if had > 0 { 1 } else { all }, "of the second one drum is set up");
    let is_later = store.tonight().unwrap().limits.within_a_minute;
    assert_eq!(is_later, version >= LIMITS_SINCE, "version {version}");
}

fn genre(store: &Store) -> String {
    rows()["opinion"][0]["genre"].as_str().map_or_else(|| store.tonight().unwrap().music.genre, str::to_string)
}

#[test]
fn files_of_every_version_open_with_all_that_is_in_them() {
    for version in 1..=STEPS.len() {
        opens_as_before(version, false);
    }
}

#[test]
fn rows_in_older_forms_are_read() {
    for version in 1..=STEPS.len() {
        opens_as_before(version, true);
    }
}

/// What nobody knows is an error, and no silent default.
#[test]
fn a_row_of_which_a_code_is_not_known_is_told_as_damaged() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("strange.sqlite");
    made(&path, STEPS.len(), false);
    let connection = Connection::open(&path).unwrap();
    connection.execute("UPDATE take SET source = 'telepathy' WHERE id = (SELECT max(id) FROM take)", []).unwrap();
    connection.execute("UPDATE drum SET content = json_set(content, '$.kind', 'gong') WHERE id = (SELECT max(id) FROM drum)", []).unwrap();
    drop(connection);
    let store = Store::open(&path).unwrap();
    let drums = store.all_drums().unwrap();
    assert_eq!(drums.len() + 1, rows()["drum"].as_array().unwrap().len(), "the others stay");
    let takes: usize = drums.iter().map(|drum| store.takes(drum.id, None, 99).unwrap().0.len()).sum();
    assert!(takes < rows()["take"].as_array().unwrap().len());
    let damaged: Vec<String> = store.damaged_rows().iter().map(|row| format!("{row:?}")).collect();
    assert!(damaged.len() >= 2, "{damaged:?}");
}
