//! Tuning as the page sees it: rounds of taps heard live, and what to turn next.

mod bass;
mod heads;
mod kit;
mod rods;
mod session;
mod simulated;
mod uneven;
mod view;

pub use bass::{bass_session, play_bass};
pub use heads::{Drift, HeadOption, HeadState, head_state};
pub use kit::{KitPitches, KitTom, kit_pitches};
pub use rods::{simulated_drum, simulated_rods};
pub use session::{Asking, TapSession};
pub use simulated::tap_simulated;
pub use uneven::{UnevenChoice, UnevenState, uneven_state};
pub use view::{HeadPitch, Tuning, tuning};
