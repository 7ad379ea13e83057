//! Live listening: samples in from a browser's microphone or from the simulated drum, strikes kept and told as they end.

mod asked;
mod event;
mod notes;
mod passing;
mod session;
mod simulated;

pub use asked::Asked;
pub use event::{ListenEvent, ListenProblem, TapVerdict};
pub use notes::{note_session, play_notes};
pub use passing::{Ear, PassingSession};
pub(crate) use session::{NotKept, mend};
pub use session::{Session, Work};
pub(crate) use simulated::RealTime;
pub use simulated::play_simulated;
