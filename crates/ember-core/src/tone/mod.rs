//! What is heard of a drum, as every room speaks of it: tones, the partials that are measured or predicted of them, and the decay profile that they
//! come down to.

mod heard_by;
mod metal;
mod partial;
mod profile;
#[expect(clippy::module_inception, reason = "the room is named after what it holds")]
mod tone;

pub use heard_by::{HeardBy, RING_ABOVE_BODY, ring_over};
pub use metal::{Brightness, MetalSound, OctaveLength};
pub use partial::{Partial, RING_FROM_S, RING_TO_S, nearest};
pub use profile::DecayProfile;
pub use tone::{Mode, Motion, Tone};
