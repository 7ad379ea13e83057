//! The job of Soft Ember, with no interface in it: measuring how a drum decays, predicting what a device does to it,
//! and choosing devices. Nothing here reads a file, a clock or the network; the same input always gives the same output.
//!
//! Rooms, in the order sound and decisions pass through them:
//! [`signal`] finds strikes, [`decay`] measures them, [`drum`] says how heads move, [`damping`] what a device does to
//! that, [`venue`] what the place and the band cover, [`target`] what the music leaves room for, [`plan`] which devices get
//! there, through a whole evening, [`kick`] what holes do, [`blow`] what beaters and hands do, [`microphones`] what several of them hear of it,
//! [`session`] a kit that is played through them. [`audition`] lets it be heard first. [`bench_drum`] is a drum to practise on.

#![warn(missing_docs)]
#![cfg_attr(not(test), warn(clippy::too_many_lines))]

pub mod audition;
pub mod bench_drum;
pub mod blow;
pub mod damping;
pub mod decay;
pub mod drum;
pub mod kick;
pub mod microphones;
pub mod numeric;
mod patience;
pub mod physics;
mod plain_text;
pub mod plan;
pub mod session;
pub mod signal;
pub mod target;
pub mod tone;
pub mod tuning;
pub mod units;
pub mod venue;

pub use patience::Patience;
pub use plain_text::plain_name;
