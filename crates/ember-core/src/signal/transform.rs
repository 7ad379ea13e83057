//! Fourier transforms, planned once for each length and shared from then on: for a length that is met once, planning takes longer than carrying out.
//! Lengths are powers of two, so that there are few.

use realfft::{RealFftPlanner, RealToComplex};
use rustfft::{Fft, FftPlanner};
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

static REAL: LazyLock<Mutex<RealFftPlanner<f64>>> = LazyLock::new(|| Mutex::new(RealFftPlanner::new()));
static REAL_SINGLE: LazyLock<Mutex<RealFftPlanner<f32>>> = LazyLock::new(|| Mutex::new(RealFftPlanner::new()));
static COMPLEX: LazyLock<Mutex<FftPlanner<f64>>> = LazyLock::new(|| Mutex::new(FftPlanner::new()));

/// What `plan` makes of a shared planner. A plan that was given up halfway is made anew by the next one who asks.
fn planned<P, T>(planner: &Mutex<P>, plan: impl FnOnce(&mut P) -> T) -> T {
    plan(&mut planner.lock().unwrap_or_else(PoisonError::into_inner))
}

/// The transform of `length` real samples (a power of two) into half a spectrum, not normalised.
pub(crate) fn real_forward(length: usize) -> Arc<dyn RealToComplex<f64>> {
    planned(&REAL, |planner| planner.plan_fft_forward(length))
}

/// The same in single precision.
pub(crate) fn real_forward_single(length: usize) -> Arc<dyn RealToComplex<f32>> {
    planned(&REAL_SINGLE, |planner| planner.plan_fft_forward(length))
}

/// The transform of a spectrum of `length` values (a power of two) back into as many complex samples, not normalised.
pub(crate) fn inverse(length: usize) -> Arc<dyn Fft<f64>> {
    planned(&COMPLEX, |planner| planner.plan_fft_inverse(length))
}
