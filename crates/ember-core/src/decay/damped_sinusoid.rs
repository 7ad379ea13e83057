//! The one form in which a tone is fitted, to a band of the sound as to all of it.

use num_complex::Complex64;
use std::f64::consts::PI;

/// A damped sinusoid `amplitude * exp((-decay + 2 pi i hz) t)`, t from the first sample fitted, bent by `bend * exp(-bend_rate t)` Hz. Of a real
/// sound it is the real part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DampedSinusoid {
    pub hz: f64,
    /// Amplitude decay rate, 1/s.
    pub decay: f64,
    pub amplitude: Complex64,
    /// Excess of pitch at time 0, Hz.
    pub bend: f64,
    /// Standard error of `decay` by Fisher's information, 1/s: what noise does.
    pub decay_sd: f64,
    /// The same by what parts of the sound say, 1/s; 0 where it was not asked for.
    pub decay_doubt: f64,
    /// Standard error of `hz`, Hz.
    pub hz_sd: f64,
    /// Standard error of the amplitude's magnitude.
    pub amplitude_sd: f64,
    /// The same if no other tone were there to be mistaken for this one.
    pub alone_sd: f64,
}

impl DampedSinusoid {
    /// A tone of which nothing is known but where it may lie.
    pub fn at(hz: f64, decay: f64) -> Self {
        let unknown = f64::INFINITY;
        let amplitude = Complex64::new(1.0, 0.0);
        Self {
            hz,
            decay,
            amplitude,
            bend: 0.0,
            decay_sd: unknown,
            decay_doubt: 0.0,
            hz_sd: unknown,
            amplitude_sd: unknown,
            alone_sd: unknown,
        }
    }

    /// By what it is multiplied from one sample to the next, without its bend, at `rate` samples a second.
    pub fn step(&self, rate: f64) -> Complex64 {
        (Complex64::new(-self.decay, 2.0 * PI * self.hz) / rate).exp()
    }
}
