//! Soft Ember's server and command line. Arrows run one way: this crate knows the store and the core, neither knows it.
//!
//! Rooms: [`sound`] reads and writes sound files, [`listening`] follows live strikes, [`api`] answers the page,
//! `computing` is where plans are worked out, `connections` are what it is reached by, `housekeeping` is what is done by itself, `readings` are files being measured, `evening` works a set list out, `song_file` reads and writes lists of songs, [`command`] is the `soft-ember` command, [`web_files`] the page itself. [`views`] is what is kept as it is told, [`problem`] what is
//! told when something goes wrong.

pub mod api;
pub mod command;
mod computing;
mod connections;
mod evening;
mod housekeeping;
mod learning;
pub mod listening;
pub mod problem;
mod readings;
pub mod sheet;
mod song_file;
pub mod sound;
pub mod state;
pub mod tuning;
pub mod views;
pub mod web_files;
