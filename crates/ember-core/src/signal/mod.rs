//! From a stream of samples to single strikes.

mod between;
mod biquad;
mod fir;
mod octave;
mod strike_finder;

pub(crate) use between::between;
pub(crate) use biquad::BandPasses;
pub use fir::{Decimator, LowPass};
pub use octave::{OCTAVES_HZ, OctaveFilter, octave_centre_hz, octave_edges_hz};
pub use strike_finder::{CapturedStrike, Ending, Limits, StrikeFinder};

/// Slowest sample rate that still carries a drum's overtones, Hz.
pub const MIN_SAMPLE_RATE: u32 = 8_000;
/// Fastest sample rate accepted, Hz.
pub const MAX_SAMPLE_RATE: u32 = 192_000;
