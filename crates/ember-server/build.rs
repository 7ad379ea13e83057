//! Builds the program anew when the page embedded in it has changed: its files' names change with their contents, which the
//! embedding macro cannot see. In development the page is read from the disk, and nothing has to be built.

fn main() {
    println!("cargo:rerun-if-changed=build.rs");
    if std::env::var("PROFILE").as_deref() == Ok("release") {
        println!("cargo:rerun-if-changed=../../web/dist");
    }
}
