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

/// What is known of the drum is used, what is not found has its reason, and a reader who goes away is no error.
#[test]
fn measure_knows_kinds_says_why_and_stops_quietly() {
    let folder = tempfile::tempdir().unwrap();
    let tom = simulated(folder.path(), "tom.wav", &[]);
    let told = |arguments: &[&str]| String::from_utf8(soft_ember(arguments).stdout).unwrap();
    assert!(told(&["measure", &tom]).contains("2 strikes used, 0 rejected"));
    assert!(told(&["measure", "--kind", "cymbal", &tom]) != told(&["measure", "--kind", "tom", &tom]), "a cymbal is heard by octaves");
    let unknown = soft_ember(&["measure", "--kind", "banjo", &tom]);
    assert!(!unknown.status.success() && String::from_utf8_lossy(&unknown.stderr).contains("banjo is no kind of drum"));
    assert!(!told(&["measure", "--kind", "tom", "--diameter", "12", &tom]).contains("far off"));
    assert!(
        told(&["measure", "--kind", "kick", "--diameter", "26", &tom]).contains("A kick of 26 in usually sounds near 43 Hz; a body at 1")
    );
    assert!(!soft_ember(&["measure", "--kind", "tom", "--diameter", "wide", &tom]).status.success());
    let quiet = folder.path().join("quiet.wav");
    let faint: Vec<f32> = (0..48_000).map(|n| 1e-4 * (n as f32 * 0.05).sin()).collect();
    ember_app::sound::write_wav(&quiet, &faint, 48_000).unwrap();
    let told = told(&["measure", &quiet.display().to_string()]);
    assert!(told.contains("No hit was found: it is too quiet: its loudest point is 80 dB under full scale."), "{told}");
    let mut measuring = Command::new(env!("CARGO_BIN_EXE_soft-ember"))
        .args(["measure", &tom])
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    drop(measuring.stdout.take());
    let ended = measuring.wait_with_output().unwrap();
    assert!(ended.status.success() && ended.stderr.is_empty(), "{}", String::from_utf8_lossy(&ended.stderr));
}

/// A snare and a tom in one file, told apart by a label track; and a track of what was found.
#[test]
fn a_label_track_says_which_hit_is_which() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    let tom = simulated(folder.path(), "tom.wav", &[]);
    let told = |arguments: &[&str]| String::from_utf8(soft_ember(arguments).stdout).unwrap();
    told(&["measure", "--write-labels", &path("found.txt"), &tom]);
    let found = std::fs::read_to_string(path("found.txt")).unwrap();
    let starts: Vec<f64> = found.lines().map(|line| line.split('\t').next().unwrap().parse().unwrap()).collect();
    assert!(starts.len() == 2 && found.contains("\thit 2\n"), "{found}");
    let named = format!("{0:.3}\t{1:.3}\tsoft\n{1:.3}\t{2:.3}\thard\n9\t9.5\tnever\n", starts[0], starts[1], starts[1] + 0.5);
    std::fs::write(path("which.txt"), named).unwrap();
    let text = told(&["measure", "--labels", &path("which.txt"), &tom]);
    assert_eq!(text.matches("1 strikes used, 0 rejected").count(), 2, "{text}");
    assert!(
        text.contains("tom.wav, soft\n") && text.contains("tom.wav, hard\n") && text.contains("none begins under this label"),
        "{text}"
    );
    let json: Value = serde_json::from_str(&told(&["measure", "--json", "--labels", &path("which.txt"), &tom])).unwrap();
    assert_eq!((&json["files"][1]["label"], &json["files"][1]["summary"]["strikes_used"]), (&"hard".into(), &1.into()));
    std::fs::write(path("half.txt"), format!("{0:.3}\t{0:.3}\tsoft\n", starts[0])).unwrap();
    let half = told(&["measure", "--labels", &path("half.txt"), &tom]);
    assert!(half.contains(&format!("Under no label, and left out: hits at {:.2} s.", starts[1])), "{half}");
    assert!(!soft_ember(&["measure", "--write-labels", &path("which.txt"), &path("gone.wav")]).status.success());
    assert!(std::fs::read_to_string(path("which.txt")).unwrap().contains("soft"), "a file that is not there empties no track");
    std::fs::write(path("broken.txt"), "one\ttwo\tsnare\n").unwrap();
    let broken = soft_ember(&["measure", "--labels", &path("broken.txt"), &tom]);
    assert!(!broken.status.success() && String::from_utf8_lossy(&broken.stderr).contains("Line 1 is no label."));
    assert!(!soft_ember(&["measure", "--labels", &path("which.txt"), &tom, &tom]).status.success());
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
