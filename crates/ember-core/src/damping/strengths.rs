//! How strong devices are taken to be: as usual, until tests have taught otherwise.

use super::catalogue::{DeviceKind, device_info};
use super::own_tones::OwnTones;
use crate::drum::{DrumKind, HeadFamily};
use crate::numeric::{LogNormal, NINETY_SDS};
use crate::tuning::EIGHTH_TENSION;
use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

pub(super) const KINDS: usize = DeviceKind::ALL.len();
/// Numbers that are learned of all kinds.
pub(super) const SIZE: usize = (3 + HeadFamily::ALL.len()) * KINDS;
/// Where the masses, the exponents and what heads add begin.
pub(super) const MASSES: usize = KINDS;
pub(super) const EXPONENTS: usize = 2 * KINDS;
pub(super) const ON_HEADS: usize = 3 * KINDS;

/// How far the mass of a device of the catalogue may be off, and of one that was weighed (logarithm, standard deviation; from experience,
/// no published source).
const MASS_LN_SD: f64 = 0.3;
const WEIGHED_LN_SD: f64 = 0.1;

/// How far the exponent may be off with which a device's resistance grows with frequency (standard deviation), and by how much at most; from
/// experience, no published source.
const EXPONENT_SD: f64 = 0.15;
pub(super) const FURTHEST_EXPONENT: f64 = 0.5;

/// How far a device's resistance may differ from one family of heads to another (logarithm, standard deviation; from experience, no source).
const OF_FAMILY_LN_SD: f64 = 0.15;
/// It is at most this part of what is not known of the device itself.
const OF_FAMILY_PART: f64 = 0.5;

/// How far a device acts more or less strongly each time it is laid on, however well it is known (logarithm of its resistance, standard
/// deviation; from experience, no published source).
const LAYING_LN_SD: f64 = 0.15;
/// It is at most this part of what is not known of the device.
const LAYING_PART: f64 = 0.5;

/// How far a device of `kind` differs from one laying on to the next: logarithm of its resistance, standard deviation.
pub(super) fn laying_ln_sd(kind: DeviceKind) -> f64 {
    LAYING_LN_SD.min(LAYING_PART * device_info(kind).prior.resistance_ln_sd)
}

/// How far the mass of an other drum may be off (logarithm, standard deviation).
const UNKNOWN_LN_SD: f64 = 1.0;
/// No device is this much stronger or weaker, and heavier or lighter, than its prior, on a drum that is known and on one that is not
/// (logarithms).
const FURTHEST: [f64; 2] = [1.8, 0.9];
const FURTHEST_UNKNOWN: [f64; 2] = [3.5, 2.5];

/// How strong and how heavy each kind of device is taken to be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(into = "KeptStrengths", try_from = "KeptStrengths")]
pub struct Strengths {
    /// Logarithms of the resistances against the priors', by the order of [`DeviceKind::ALL`], then of the masses, then what is added to the
    /// exponents, then what each family of heads adds to the resistances, and their covariance.
    pub(super) mean: DVector<f64>,
    pub(super) covariance: DMatrix<f64>,
    pub(super) tests: [usize; KINDS],
    /// The same for each family of heads.
    pub(super) tests_on: [[usize; KINDS]; HeadFamily::ALL.len()],
    /// No device is stronger or weaker, or heavier or lighter, than its prior by more than this (logarithm).
    pub(super) furthest: f64,
    pub(super) furthest_mass: f64,
    /// What is known of the tones of the drum in question.
    pub(super) own: Arc<OwnTones>,
}

/// [`Strengths`] as they are kept: of the covariance, which is symmetric, the rows up to the diagonal.
#[derive(Serialize, Deserialize)]
struct KeptStrengths {
    mean: Vec<f64>,
    covariance: Vec<f64>,
    tests: Vec<usize>,
    tests_on: Vec<Vec<usize>>,
    furthest: f64,
    furthest_mass: f64,
}

impl From<Strengths> for KeptStrengths {
    fn from(strengths: Strengths) -> Self {
        let lower = (0..SIZE).flat_map(|row| (0..=row).map(move |column| (row, column)));
        Self {
            mean: strengths.mean.iter().copied().collect(),
            covariance: lower.map(|at| strengths.covariance[at]).collect(),
            tests: strengths.tests.to_vec(),
            tests_on: strengths.tests_on.map(|of| of.to_vec()).to_vec(),
            furthest: strengths.furthest,
            furthest_mass: strengths.furthest_mass,
        }
    }
}

impl TryFrom<KeptStrengths> for Strengths {
    type Error = &'static str;

    fn try_from(kept: KeptStrengths) -> Result<Self, Self::Error> {
        const OTHER: &str = "it was learned of other devices than there are now";
        if kept.mean.len() != SIZE || kept.covariance.len() != SIZE * (SIZE + 1) / 2 {
            return Err(OTHER);
        }
        let at = |row: usize, column: usize| kept.covariance[row.max(column) * (row.max(column) + 1) / 2 + row.min(column)];
        let tests_on: Vec<[usize; KINDS]> =
            kept.tests_on.into_iter().map(|of| of.try_into().map_err(|_| OTHER)).collect::<Result<_, _>>()?;
        Ok(Self {
            mean: DVector::from_vec(kept.mean),
            covariance: DMatrix::from_fn(SIZE, SIZE, at),
            tests: kept.tests.try_into().map_err(|_| OTHER)?,
            tests_on: tests_on.try_into().map_err(|_| OTHER)?,
            furthest: kept.furthest,
            furthest_mass: kept.furthest_mass,
            own: Arc::default(),
        })
    }
}

impl Default for Strengths {
    /// Nothing learned yet.
    fn default() -> Self {
        Self::doubted(0.0, FURTHEST)
    }
}

impl Strengths {
    /// Nothing learned yet on a drum of `kind`. Of an other drum neither the mass that moves nor where it moves is known, which all devices
    /// share.
    pub fn unlearned(kind: DrumKind) -> Self {
        if kind == DrumKind::Other { Self::doubted(UNKNOWN_LN_SD, FURTHEST_UNKNOWN) } else { Self::default() }
    }

    fn doubted(shared: f64, [furthest, furthest_mass]: [f64; 2]) -> Self {
        let strength = DeviceKind::ALL.map(|kind| device_info(kind).prior.resistance_ln_sd.powi(2));
        // On any one family a device that is laid on once is as doubtful as its prior says.
        let of_family = strength.map(|variance| OF_FAMILY_LN_SD.powi(2).min(OF_FAMILY_PART.powi(2) * variance));
        let laying = DeviceKind::ALL.map(|kind| laying_ln_sd(kind).powi(2));
        let anywhere = strength.into_iter().zip(of_family).zip(laying).map(|((all, of_family), laying)| all - of_family - laying);
        let mass = DeviceKind::ALL.map(|kind| if kind.is_own() { WEIGHED_LN_SD } else { MASS_LN_SD }.powi(2));
        let exponent = [EXPONENT_SD.powi(2); KINDS];
        let of_families = HeadFamily::ALL.iter().flat_map(|_| of_family);
        let diagonal = DVector::from_iterator(SIZE, anywhere.chain(mass).chain(exponent).chain(of_families));
        let mut covariance = DMatrix::from_diagonal(&diagonal);
        covariance.view_mut((0, 0), (2 * KINDS, 2 * KINDS)).add_scalar_mut(shared * shared);
        let (tests, tests_on) = ([0; KINDS], [[0; KINDS]; HeadFamily::ALL.len()]);
        Self { mean: DVector::zeros(SIZE), covariance, tests, tests_on, furthest, furthest_mass, own: Arc::default() }
    }
}

/// What is known of one kind of device.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DeviceStrength {
    /// Which device it is.
    pub device: DeviceKind,
    /// Its resistance against what such devices usually have, with bounds that hold nine times in ten.
    pub times: f64,
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
    /// The same of its mass.
    pub mass_times: f64,
    /// Lower bound of its mass against the usual.
    pub mass_low: f64,
    /// Upper bound of its mass against the usual.
    pub mass_high: f64,
    /// With which power of the frequency its resistance grows, with bounds that hold nine times in ten.
    pub exponent: f64,
    /// Lower bound of the exponent.
    pub exponent_low: f64,
    /// Upper bound of the exponent.
    pub exponent_high: f64,
    /// How far an eighth of a turn on every rod moves a head, where that is what is done; null for devices.
    pub eighth: Option<EighthTurn>,
    /// Tests it was learned from.
    pub tests: usize,
    /// What it is on the families of heads on which it was tested.
    pub on_heads: Vec<StrengthOnHeads>,
}

/// How far an eighth of a turn on every rod moves a head's pitch, cents, with bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EighthTurn {
    /// How far, cents.
    pub cents: f64,
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
}

/// What is known of one kind of device on one family of heads.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StrengthOnHeads {
    /// The family of heads.
    pub family: HeadFamily,
    /// Its resistance against what such devices usually have, with bounds that hold nine times in ten.
    pub times: f64,
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
    /// Tests on such heads.
    pub tests: usize,
}

/// Place of `kind` among all.
pub(super) fn index(kind: DeviceKind) -> usize {
    DeviceKind::ALL.iter().position(|other| *other == kind).unwrap_or(0)
}

impl Strengths {
    /// Logarithm of the resistance (at 200 Hz) against the prior's on heads of `family`, or on any, and its standard deviation.
    pub fn ln(&self, kind: DeviceKind, family: Option<HeadFamily>) -> (f64, f64) {
        let i = index(kind);
        let (mean, variance) = match family.map(|family| on_heads(i, family)) {
            Some(of) => {
                (self.mean[i] + self.mean[of], self.covariance[(i, i)] + 2.0 * self.covariance[(i, of)] + self.covariance[(of, of)])
            }
            None => (self.mean[i], self.covariance[(i, i)]),
        };
        (mean, variance.max(0.0).sqrt())
    }

    /// Variance of that logarithm where the frequency is higher than 200 Hz by `up` (the mean of its logarithm, and of its square): there the
    /// exponent counts too.
    pub(super) fn variance_where(&self, kind: DeviceKind, family: Option<HeadFamily>, [up, square]: [f64; 2]) -> f64 {
        let (i, exponent) = (index(kind), EXPONENTS + index(kind));
        let of_family = family.map_or(0.0, |family| self.covariance[(on_heads(i, family), exponent)]);
        let along = self.covariance[(i, exponent)] + of_family;
        self.ln(kind, family).1.powi(2) + 2.0 * up * along + square * self.covariance[(exponent, exponent)]
    }

    /// The same of its mass.
    pub fn mass_ln(&self, kind: DeviceKind) -> (f64, f64) {
        let i = MASSES + index(kind);
        (self.mean[i], self.covariance[(i, i)].max(0.0).sqrt())
    }

    /// What is added to the exponent of the prior, and its standard deviation.
    pub fn steeper(&self, kind: DeviceKind) -> (f64, f64) {
        let i = EXPONENTS + index(kind);
        (self.mean[i], self.covariance[(i, i)].max(0.0).sqrt())
    }

    /// What is known of the tones of the drum in question.
    pub fn own_tones(&self) -> &OwnTones {
        &self.own
    }

    /// What is known of `device`.
    pub fn of(&self, device: DeviceKind) -> DeviceStrength {
        let ends = |(ln, sd): (f64, f64)| [0.0, -NINETY_SDS, NINETY_SDS].map(|sds| LogNormal { ln, sd }.at(sds));
        let ([times, low, high], [mass_times, mass_low, mass_high]) = (ends(self.ln(device, None)), ends(self.mass_ln(device)));
        let on = |(family, tests): (&HeadFamily, &[usize; KINDS])| {
            let [times, low, high] = ends(self.ln(device, Some(*family)));
            StrengthOnHeads { family: *family, times, low, high, tests: tests[index(device)] }
        };
        let on_heads = HeadFamily::ALL.iter().zip(&self.tests_on).map(on).filter(|on| on.tests > 0).collect();
        let (steeper, exponent_sd) = self.steeper(device);
        let exponent = device_info(device).prior.exponent + steeper;
        let moved = |times: f64| 600.0 * (1.0 + EIGHTH_TENSION * times).log2();
        let eighth = EighthTurn { cents: moved(times), low: moved(low), high: moved(high) };
        DeviceStrength {
            eighth: (device == DeviceKind::RodsTurned).then_some(eighth),
            device,
            times,
            low,
            high,
            mass_times,
            mass_low,
            mass_high,
            exponent,
            exponent_low: exponent - NINETY_SDS * exponent_sd,
            exponent_high: exponent + NINETY_SDS * exponent_sd,
            tests: self.tests[index(device)],
            on_heads,
        }
    }
}

/// Place of what `family` adds to the resistance of the kind at place `kind`.
pub(super) fn on_heads(kind: usize, family: HeadFamily) -> usize {
    ON_HEADS + family as usize * KINDS + kind
}
