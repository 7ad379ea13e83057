//! What large drums are struck with and stopped with: beaters, where they land, whether they stay in the head; hands and knees that end a
//! note; how fast a roll must be.
//!
//! [`beater`] has the beaters and what a blow of each puts into a head; [`outlook`] predicts from a measured drum what another blow would
//! bring; [`stops`] how a note is ended in time, and [`roll`] how it is held.

mod beater;
mod outlook;
mod roll;
mod stops;

pub use beater::{BEATERS, BeaterInfo, BeaterKind, Blow, InvalidBlow, SPOTS, Spot, beater_info};
pub use outlook::{BlowOutlook, BlowPredictor};
pub(crate) use outlook::{CLICK_HZ, HELD, held_at, held_in};
pub use roll::{Roll, SWAY_DB, roll};
pub use stops::{HandDown, Stop, StopKind, stops};
