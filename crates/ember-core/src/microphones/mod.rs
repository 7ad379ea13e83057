//! Several microphones on one kit: whether two that hear the same drum are of one polarity, how much later one hears it, what their sum gains or loses, and
//! what to do about it at a mixer, and where the knobs of each channel begin.

mod hits;
mod pair;
mod role;
mod simulated;
mod tone;

pub use hits::hits;
pub use pair::{Fix, MicrophonePair, OctaveSum, Polarity, check_pair};
pub use role::{Microphone, Overheads, PairOfRoles, above, nearest, overheads, pairs};
pub use simulated::simulated_soundcheck;
pub use tone::{ChannelHeard, Knob, OverBleed, ToneSetting, tone_to_begin_with};
