//! The command line, for people with folders of recordings.

use serde_json::Value;
use std::path::Path;
use std::process::{Command, Output};

fn soft_ember(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_soft-ember")).args(arguments).output().unwrap()
}

fn simulated(folder: &Path, name: &str, more: &[&str]) -> String {
    let path = folder.join(name).display().to_string();
    let made = soft_ember(&[&["simulate", "--drum", "tom", "--strikes", "2", "--seed", "4", "--out", &path], more].concat());
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    path
}

fn keys(value: &Value) -> Vec<&str> {
    value.as_object().unwrap().keys().map(String::as_str).collect()
}

#[test]
fn measure_prints_exactly_what_is_agreed_and_goes_on_after_a_bad_file() {
    let folder = tempfile::tempdir().unwrap();
    let good = simulated(folder.path(), "tom.wav", &[]);
    let bad = folder.path().join("poem.wav").display().to_string();
    std::fs::write(&bad, "no sound at all").unwrap();
    let out = soft_ember(&["measure", &bad, &good, "--json"]);
    assert_eq!(out.status.code(), Some(1));
    let report: Value = serde_json::from_slice(&out.stdout).unwrap();
    assert_eq!(keys(&report), ["files"]);
    assert_eq!(keys(&report["files"][0]), ["error", "path"]);
    let file = &report["files"][1];
    let sorted = |list: &[&str]| {
        let mut list: Vec<String> = list.iter().map(ToString::to_string).collect();
        list.sort();
        list
    };
    let profile = [
        "body_hz",
        "body_t60_s",
        "ring_hz",
        "ring_t60_s",
        "ring_share",
        "fall_20_s",
        "fall_40_s",
        "attack_index_db",
        "glide_cents",
        "buzz_share",
    ];
    let shapes = [
        (file, ["path", "sample_rate_hz", "channels", "duration_s", "strikes", "summary"].as_slice()),
        (&file["strikes"][0], &["onset_s", "peak_dbfs", "kind", "broadband", "partials", "profile", "warnings"]),
        (&file["strikes"][0]["broadband"], &["edt_s", "t20_s", "t30_s", "noise_floor_dbfs", "nonlinearity_permille", "curvature_percent"]),
        (&file["strikes"][0]["partials"][0], &["hz", "t60_s", "t60_sd_s", "level_db", "tone"]),
        (&file["strikes"][0]["profile"], &profile),
        (&file["summary"], &["strikes_used", "strikes_rejected", "profile", "spread"]),
        (&file["summary"]["profile"], &profile),
        (&file["summary"]["spread"], &profile),
    ];
    for (value, expected) in shapes {
        assert_eq!(sorted(&keys(value)), sorted(expected));
    }
    assert_eq!((&file["sample_rate_hz"], &file["channels"], &file["strikes"][0]["kind"]), (&48_000.into(), &1.into(), &"single".into()));
    assert_eq!(file["summary"]["strikes_used"], 2);
    assert!(soft_ember(&["measure", &good, "--json"]).status.success());
}

#[test]
fn a_simulated_device_shortens_and_the_same_seed_sounds_the_same() {
    let folder = tempfile::tempdir().unwrap();
    let open = simulated(folder.path(), "open.wav", &[]);
    let again = simulated(folder.path(), "again.wav", &[]);
    assert!(std::fs::read(&open).unwrap() == std::fs::read(&again).unwrap());
    let padded = simulated(folder.path(), "padded.wav", &["--device", "gel-pad:0:0.6:180", "--device", "control-ring:1"]);
    let out = soft_ember(&["measure", &open, &padded, "--json"]);
    let report: Value = serde_json::from_slice(&out.stdout).unwrap();
    let body = |i: usize| report["files"][i]["summary"]["profile"]["body_t60_s"].as_f64().unwrap();
    assert!(body(1) < 0.7 * body(0), "{} against {}", body(1), body(0));
}

#[test]
fn what_cannot_be_done_is_said_in_one_sentence() {
    for arguments in [
        ["simulate", "--drum", "tom", "--out", "/nowhere/at/all.wav"].as_slice(),
        &["simulate", "--drum", "snare", "--device", "pillow", "--out", "/tmp/x.wav"],
        &["simulate", "--drum", "tom", "--device", "anvil", "--out", "/tmp/x.wav"],
        &["serve", "--data", "/proc/nothing/x.sqlite"],
    ] {
        let out = soft_ember(arguments);
        assert!(!out.status.success());
        let said = String::from_utf8(out.stderr).unwrap();
        assert!(said.starts_with("soft-ember: ") && said.trim_end().ends_with('.') && said.lines().count() == 1, "{arguments:?}: {said}");
    }
}
