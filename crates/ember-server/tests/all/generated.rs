//! What is generated and checked in is up to date.

use std::path::Path;
use std::process::Command;

fn root() -> &'static Path {
    Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."))
}

#[test]
fn the_openapi_document_is_up_to_date() {
    let kept = std::fs::read_to_string(root().join("docs/openapi.json")).unwrap();
    assert!(kept == ember_server::api::openapi(), "out of date: cargo run -p ember-server -- openapi > docs/openapi.json");
}

#[test]
fn the_pages_types_are_up_to_date() {
    let web = root().join("web");
    let fresh = tempfile::NamedTempFile::with_suffix(".ts").unwrap();
    let made = Command::new("node")
        .arg("node_modules/openapi-typescript/bin/cli.js")
        .args(["../docs/openapi.json", "-o"])
        .arg(fresh.path())
        .current_dir(&web)
        .output()
        .expect("Node.js is needed: apt-get install nodejs");
    assert!(made.status.success(), "run \"npm ci\" in web/ first: {}", String::from_utf8_lossy(&made.stderr));
    let kept = std::fs::read_to_string(web.join("src/api/schema.gen.ts")).unwrap();
    assert!(kept == std::fs::read_to_string(fresh.path()).unwrap(), "out of date: run \"npm run types\" in web/");
}
