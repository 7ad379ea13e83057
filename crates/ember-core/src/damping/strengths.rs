//! How strong devices are taken to be: as usual, until tests have taught otherwise.

use super::catalogue::{DeviceKind, device_info};
use nalgebra::{DMatrix, DVector};
use serde::Serialize;

pub(super) const KINDS: usize = DeviceKind::ALL.len();

/// How strong each kind of device is taken to be.
#[derive(Debug, Clone, PartialEq)]
pub struct Strengths {
    /// Logarithms of the resistances against the priors', by the order of [`DeviceKind::ALL`], and their covariance.
    pub(super) mean: DVector<f64>,
    pub(super) covariance: DMatrix<f64>,
    pub(super) tests: [usize; KINDS],
}

impl Default for Strengths {
    /// Nothing learned yet.
    fn default() -> Self {
        let variance = |kind: DeviceKind| device_info(kind).prior.resistance_ln_sd.powi(2);
        let diagonal = DVector::from_iterator(KINDS, DeviceKind::ALL.into_iter().map(variance));
        Self { mean: DVector::zeros(KINDS), covariance: DMatrix::from_diagonal(&diagonal), tests: [0; KINDS] }
    }
}

/// What is known of one kind of device.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DeviceStrength {
    pub device: DeviceKind,
    /// Its resistance against what such devices usually have, with bounds that hold nine times in ten.
    pub times: f64,
    pub low: f64,
    pub high: f64,
    /// Tests it was learned from.
    pub tests: usize,
}

/// Place of `kind` among all.
pub(super) fn index(kind: DeviceKind) -> usize {
    DeviceKind::ALL.iter().position(|other| *other == kind).unwrap_or(0)
}

impl Strengths {
    /// Logarithm of the resistance against the prior's, and its standard deviation.
    pub fn ln(&self, kind: DeviceKind) -> (f64, f64) {
        let i = index(kind);
        (self.mean[i], self.covariance[(i, i)].max(0.0).sqrt())
    }

    pub fn of(&self, device: DeviceKind) -> DeviceStrength {
        let (mean, sd) = self.ln(device);
        let bound = |sds: f64| (mean + sds * 1.645 * sd).exp();
        DeviceStrength { device, times: mean.exp(), low: bound(-1.0), high: bound(1.0), tests: self.tests[index(device)] }
    }
}
