//! A kit that is played, through several microphones: which drum was hit when, and where each can be heard by itself.

mod ears;
mod given;
mod over_bleed;
mod simulated;
mod strikes;

pub use ears::{Event, SessionEars};
pub use given::{GHOST_NOTE_DB, Given, GivenHit, give};
pub use over_bleed::over_bleed;
pub use simulated::{PlayedHit, SessionAsked, SimulatedSession, simulated_session};
pub use strikes::{DrumHeard, MOST_MEASURED, Window, followed_s, heard, windows};
