//! Measuring strikes: the whole sound's decay, its partials, the decay profile, and several strikes as one take.

mod broadband;
pub(crate) mod esprit;
mod listener;
mod partials;
mod polish;
mod profile;
pub(crate) mod refine;
mod span;
mod strike;
mod take;
mod whole;

pub use broadband::{Broadband, DecayCurve, NoiseFloor};
pub use listener::{HeardStrike, Listener};
pub use partials::{MAX_HZ, MIN_HZ, Partial, PartialFinder};
pub use profile::{DecayProfile, RING_FROM_S, RING_TO_S, body_and_ring};
pub use span::Span;
pub use strike::{StrikeAnalyzer, StrikeKind, StrikeMeasurement, Warning};
pub use take::{TakeSummary, combine_partials, mark_ghosts, nearest, summarize};
