//! All tests of the server but those in a browser, as one program: it is linked once.

mod addresses;
mod bad_input;
mod blows;
mod command_line;
#[path = "../common/mod.rs"]
mod common;
mod evening;
mod fronts;
mod fuzz;
mod generated;
mod hardening;
mod heads;
mod heart;
mod kit_strip;
mod kits;
mod listening;
mod looks;
mod page_units;
mod real_recordings;
mod serving;
mod sound_formats;
mod soundchecks;
mod story;
mod tuning;
