//! Hear it first: a strike that was recorded, re-made as it should sound with devices on the head.

mod again;
mod background;
mod courses;
mod groove;
mod remade;

pub use again::with_landings;
pub use groove::{GrooveHit, groove, groove_seconds};
pub use remade::{Change, Struck, matching_gain, remade};
