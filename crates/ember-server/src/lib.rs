//! Soft Ember's server and command line. Arrows run one way: this crate knows the application, the store and the core; none of them knows it.
//!
//! Rooms: [`api`] answers the page, [`listening`] and [`tuning`] follow live strikes and taps, `computing` is where plans are worked out,
//! `connections` are what it is reached by, `housekeeping` is what is done by itself, `readings` are files being measured, `spoken` is the language of an answer, [`command`] is the
//! `soft-ember` command, [`web_files`] the page itself, [`problem`] what is told when something goes wrong.

#![warn(missing_docs)]
#![cfg_attr(not(test), warn(clippy::too_many_lines))]

pub mod api;
pub mod command;
mod computing;
mod connections;
pub mod ears;
mod housekeeping;
pub mod listening;
pub mod problem;
mod readings;
mod soundchecks;
mod spoken;
pub mod state;
pub mod tuning;
pub mod web_files;
