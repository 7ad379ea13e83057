//! General numerics and statistics, which know nothing of drums: each is the textbook's, with its source, and is held against a general
//! library in its tests.

mod bessel;
mod bisect;
mod damped_modes;
mod hermitian;
mod hessenberg_roots;
mod levenberg_marquardt;
mod log_normal;
mod normal_equations;
mod regression;

pub use bessel::{bessel_j, bessel_zero};
pub(crate) use bisect::bisect;
pub(crate) use damped_modes::damped_modes;
pub(crate) use hermitian::Eigen;
pub(crate) use levenberg_marquardt::{Descent, LeastSquares, Stop, descend};
pub use log_normal::{LogNormal, NINETY_SDS, Range};
pub(crate) use normal_equations::NormalEquations;
pub(crate) use regression::Regression;
