//! Tuning as the page sees it: rounds of taps heard live, and what to turn next.

mod kit;
mod session;
mod simulated;
mod view;

pub use kit::{KitPitches, KitTom, kit_pitches};
pub use session::{Asking, TapSession};
pub use simulated::tap_simulated;
pub use view::{HeadPitch, Tuning, tuning};
