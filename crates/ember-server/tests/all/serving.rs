//! The program as it is started: addresses, data files, and stopping without losing anything.

use crate::common::{DRUM, Running};
use std::io::{Read, Write};
use std::net::{TcpListener, TcpStream};
use std::path::Path;
use std::process::Command;

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

#[test]
fn what_was_entered_is_there_after_a_stop_and_a_start() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("new/folder/kit.sqlite");
    let first = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
    assert!(first.get("/api/v1/kit").1.contains("\"drums\":[]"));
    assert_eq!(first.post("/api/v1/drums", DRUM).0, 201);
    assert!(first.stop(), "it must end in peace");
    let second = Running::start(&["serve", "--data", text(&data), "--port", "0"]);
    let (status, kit) = second.get("/api/v1/kit");
    assert!(status == 200 && kit.contains("Side tom") && kit.contains("\"standing\":\"unmeasured\""), "{kit}");
}

#[test]
fn two_may_run_at_once_and_a_chosen_port_that_is_taken_is_said() {
    let folder = tempfile::tempdir().unwrap();
    let data = |name: &str| folder.path().join(name);
    let first = Running::start(&["serve", "--data", text(&data("a.sqlite"))]);
    let second = Running::start(&["serve", "--data", text(&data("b.sqlite"))]);
    assert_ne!(first.address, second.address);
    let taken = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let refused = Command::new(env!("CARGO_BIN_EXE_soft-ember"))
        .args(["serve", "--data", text(&data("c.sqlite")), "--port", &port])
        .output()
        .unwrap();
    let said = String::from_utf8(refused.stderr).unwrap();
    assert!(!refused.status.success() && said.contains(&format!("Port {port} cannot be used")), "{said}");
}

#[test]
fn the_page_comes_with_what_keeps_it_safe_and_its_own_description() {
    let folder = tempfile::tempdir().unwrap();
    let server = Running::start(&["serve", "--data", text(&folder.path().join("a.sqlite")), "--port", "0"]);
    let request = format!("GET / HTTP/1.1\r\nHost: {}\r\nConnection: close\r\n\r\n", server.address);
    let mut stream = TcpStream::connect(&server.address).unwrap();
    stream.write_all(request.as_bytes()).unwrap();
    let mut answer = String::new();
    stream.read_to_string(&mut answer).unwrap();
    let head = answer.split("\r\n\r\n").next().unwrap().to_lowercase();
    assert!(head.starts_with("http/1.1 200") && head.contains("content-security-policy: default-src 'self'"), "{head}");
    assert!(answer.contains("Soft Ember"));
    assert_eq!(server.get("/assets/nothing.js").0, 404);
    assert!(server.get("/any/place").1.contains("<div id=\"app\">"), "a page of its own answers for every place");
    assert!(server.get("/api/v1/openapi.json").1.contains("\"openapi\""));
}

#[test]
fn a_data_file_that_is_none_is_left_alone_and_said() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("letter.sqlite");
    std::fs::write(&data, "Dear drummer, this is not a database, and must not become one.".repeat(40)).unwrap();
    let before = std::fs::read(&data).unwrap();
    let refused = Command::new(env!("CARGO_BIN_EXE_soft-ember")).args(["serve", "--data", text(&data), "--port", "0"]).output().unwrap();
    assert!(!refused.status.success());
    assert!(String::from_utf8(refused.stderr).unwrap().contains("letter.sqlite"));
    assert_eq!(std::fs::read(&data).unwrap(), before);
}

#[test]
fn a_demonstration_that_was_cut_off_while_it_was_made_is_made_anew() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("demo.db");
    // What a killed start leaves: half a file, and its journal.
    ember_store::Store::open(&folder.path().join("demo.unfinished")).unwrap().add_drum(&half_made()).unwrap();
    for leftover in ["demo.unfinished-wal", "demo.db-wal", "demo.db-shm"] {
        std::fs::write(folder.path().join(leftover), [7; 4096]).unwrap();
    }
    ember_server::command::make_demo(&data, |_, _| {}).unwrap();
    let names: Vec<String> = ember_store::Store::open(&data).unwrap().drums().unwrap().into_iter().map(|kept| kept.drum.name).collect();
    assert_eq!(names, ["Deck snare", "High tom", "Rack tom", "Floor tom", "Kick", "Hi-hat", "Ride", "Crash"]);
    assert!(!folder.path().join("demo.unfinished").exists());
}

fn half_made() -> ember_core::drum::Drum {
    ember_core::bench_drum::BenchDrum::usual(ember_core::drum::DrumKind::Tom)
}
