//! Measuring strikes: the whole sound's decay, its partials, the decay profile, and several strikes as one take.

mod broadband;
mod buzz;
mod envelope;
pub(crate) mod esprit;
mod faults;
mod input;
mod listener;
mod look;
mod octaves;
mod partials;
mod polish;
mod profile;
mod quality;
pub(crate) mod refine;
mod slopes;
mod span;
mod strike;
mod take;
mod tracked;
mod waterfall;
mod whole;
mod whose;

pub use broadband::{Broadband, DecayCurve, NoiseFloor};
pub use listener::{HeardStrike, Listener};
pub use look::{PartialPace, StrikeLook};
pub use octaves::OctaveDecay;
pub use partials::{MAX_HZ, MIN_HZ, Partial, PartialFinder};
pub use profile::{DecayProfile, RING_FROM_S, RING_TO_S, body_and_ring};
pub use quality::Quality;
pub use slopes::{Slope, slopes};
pub use span::Span;
pub use strike::{Dynamic, METHOD, Remark, StrikeAnalyzer, StrikeKind, StrikeMeasurement, Warning};
pub use take::{DynamicSummary, TakeSummary, combine_partials, is_no_louder, mark_ghosts, nearest, summarize};
pub use waterfall::Waterfall;
pub use whose::{likeness, other_drum, rings_along};
