//! Soft Ember's server and command line. Arrows run one way: this crate knows the store and the core, neither knows it.
//!
//! Rooms: [`sound`] reads and writes sound files, [`listening`] follows live strikes, [`api`] answers the page,
//! [`command`] is the `soft-ember` command, [`web_files`] the page itself.

pub mod api;
pub mod command;
pub mod listening;
pub mod sound;
pub mod state;
pub mod web_files;
