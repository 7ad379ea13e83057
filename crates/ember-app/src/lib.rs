//! What Soft Ember answers, without any network in it. A question is read from the store in one go ([`DrumSnapshot`], [`PlanSnapshot`] and what each
//! page needs besides); from then on its answer is a pure function of what was read. The server and the command line only ask and show.
//!
//! Rooms: one module a page ([`bench`], [`plans`], [`fronts`], [`blows`], [`audition`], [`evening`], [`tuning`] ...), [`learning`] works out what
//! tests teach and remembers it, [`microphones`] reads a soundcheck with one channel each, [`session`] a kit that is played, [`sound`] and [`song_file`] read and write files, [`sheet`] draws templates, [`views`] is what is kept as it is
//! told.

#![warn(missing_docs)]
#![cfg_attr(not(test), warn(clippy::too_many_lines))]

pub mod audition;
pub mod beginning;
pub mod bench;
pub mod blows;
pub mod elsewhere;
pub mod evening;
pub mod fronts;
pub mod kit;
pub mod kits;
pub mod learned;
pub mod learning;
pub mod looks;
pub mod microphones;
mod neighbours;
pub mod opinions;
pub mod own_wish;
pub mod plans;
mod refusal;
pub mod session;
pub mod sheet;
mod snapshot;
pub mod song_file;
pub mod sound;
pub mod takes;
pub mod treatments;
pub mod tuning;
pub mod views;

pub use neighbours::Neighbours;
pub use refusal::{CannotBe, NotNow, Refusal};
pub use snapshot::{DrumSnapshot, PlanSnapshot, open_take};
