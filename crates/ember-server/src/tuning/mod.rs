//! Taps and bass notes heard live, and the simulated hand.

mod bass;
mod session;
mod simulated;

pub use bass::{bass_session, play_bass};
pub use session::{Asking, TapSession};
pub use simulated::tap_simulated;
