//! The page's own unit tests, started from here so that one command runs everything.

use std::process::Command;

#[test]
fn the_pages_unit_tests_pass() {
    let run = Command::new("node")
        .args(["node_modules/vitest/vitest.mjs", "run", "--no-color"])
        .current_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/../../web"))
        .output()
        .expect("Node.js is needed: apt-get install nodejs");
    let said = format!("{}{}", String::from_utf8_lossy(&run.stdout), String::from_utf8_lossy(&run.stderr));
    assert!(run.status.success(), "{said}");
    assert!(said.contains("passed"), "no test ran: run \"npm ci\" in web/ first\n{said}");
}
