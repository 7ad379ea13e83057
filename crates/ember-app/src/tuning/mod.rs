//! Heads as the Tune place shows them: how they are tuned, what to turn next, what others would do, and the whole kit's pitches.

mod heads;
mod kit;
mod rods;
mod uneven;
mod view;

pub use heads::{Drift, HeadOption, HeadState, head_state};
pub use kit::{KitPitches, KitTom, kit_pitches};
pub use rods::{SimulatedRods, simulated_drum, simulated_rods};
pub use uneven::{UnevenChoice, UnevenState, uneven_state};
pub use view::{HeadPitch, Tuning, tuning};
