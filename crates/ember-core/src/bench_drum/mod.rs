//! A simulated drum that stands in for a microphone and a kit: finite-difference membranes on a square grid, the air between
//! them, stick or beater, snare wires, devices as local losses and masses, and noise.
//!
//! It shares no formula with the modal predictor, so agreement between the two is evidence. The true strength of each
//! device here differs from its prior, as it would on a stage.

mod air_box;
mod bass_line;
mod cavity;
mod foot;
mod hidden;
mod membrane_grid;
mod metal;
mod rim_stress;
mod rods;
mod sound;
mod spring_net;
mod strike;
mod surroundings;
mod tapped_head;
mod watched;

pub use bass_line::bass_line;
pub use foot::{Foot, Touch};
pub use rods::rods_pull;
pub use sound::SAMPLE_RATE;
pub use strike::{BenchDrum, Hold};
pub use tapped_head::{TAP_SPACING_S, TapManner, TappedHead};
