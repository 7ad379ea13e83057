//! From a stream of samples to single strikes.

mod between;
mod biquad;
mod fir;
mod octave;
mod strike_finder;
pub(crate) mod transform;
mod whole_steps;

pub(crate) use between::between;
pub(crate) use biquad::BandPasses;
pub use fir::{Decimator, LowPass};
pub use octave::{OCTAVES_HZ, OctaveFilter, octave_centre_hz, octave_edges_hz};
pub use strike_finder::{CapturedStrike, Ending, Limits, StrikeFinder};
pub use whole_steps::{KEPT_BITS, as_kept, whole_steps};

/// Slowest sample rate that still carries a drum's overtones, Hz.
pub const MIN_SAMPLE_RATE: u32 = 8_000;
/// Fastest sample rate accepted, Hz.
pub const MAX_SAMPLE_RATE: u32 = 192_000;

/// Sum of squares, in several sums side by side: in strict order a processor can only add one by one.
pub(crate) fn energy(samples: &[f32]) -> f64 {
    const LANES: usize = 8;
    let (whole, end) = samples.as_chunks::<LANES>();
    let mut sums = [0.0; LANES];
    for part in whole {
        for lane in 0..LANES {
            sums[lane] += f64::from(part[lane]).powi(2);
        }
    }
    sums.iter().sum::<f64>() + end.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>()
}
