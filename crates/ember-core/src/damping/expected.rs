//! The expected sound of a drum with devices on it, with its doubt.

use super::catalogue::device_info;
use super::device::Placement;
use super::predict::{Grip, Predictor, Strength};
use crate::decay::{DecayProfile, Partial, body_and_ring};
use crate::units::{LN_1000, amplitude, cents};
use serde::{Deserialize, Serialize};

/// What the model itself is off by, with devices known exactly: standard deviation of the logarithm of a decay time, from its
/// comparison with the simulated drum (docs/METHOD.md).
const MODEL_LN_SD: f64 = 0.10;

/// Bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Range {
    pub low: f64,
    pub high: f64,
}

/// What a treatment should do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Expectation {
    pub partials: Vec<Partial>,
    pub profile: DecayProfile,
    pub body_t60_s: Option<Range>,
    pub ring_t60_s: Option<Range>,
    pub ring_share: Option<Range>,
    /// Attack given up, dB.
    pub attack_lost_db: f64,
    /// How far the body's pitch falls, cents (negative is down).
    pub pitch_cents: f64,
}

/// The open drum that predictions start from.
pub struct Open<'a> {
    pub partials: &'a [Partial],
    pub profile: &'a DecayProfile,
}

impl Predictor {
    /// Expected partials and profile of the drum with `placements` on it (their grips beside them).
    pub fn expect(&self, open: &Open, placements: &[Placement], grips: &[&Grip]) -> Expectation {
        let partials = self.solve(grips, Strength::EXPECTED);
        let attack_lost_db = placements.iter().map(|p| device_info(p.device).amounts[p.amount].attack_db).sum();
        let profile = self.profile(open, &partials, attack_lost_db);
        let ends: Vec<DecayProfile> =
            [Strength::LOW, Strength::HIGH].iter().map(|s| DecayProfile::of_partials(&self.solve(grips, *s))).collect();
        let doubt = |index: Option<usize>| {
            let partial = index.map(|i| &open.partials[i]);
            partial.and_then(|p| Some(1.645 * p.t60_sd_s? / p.t60_s?)).unwrap_or(0.1)
        };
        let (body, ring) = body_and_ring(open.partials);
        let time_range = |pick: fn(&DecayProfile) -> Option<f64>, doubt: f64| {
            let middle = pick(&profile)?;
            let of_ends = ends.iter().filter_map(pick).chain([middle]);
            let (low, high) = of_ends.fold((middle, middle), |(low, high), value| (low.min(value), high.max(value)));
            // Device, measurement and model are independent: their logarithms' doubts add as squares.
            let widen = |end: f64| ((end / middle).ln().powi(2) + doubt * doubt + (1.645 * MODEL_LN_SD).powi(2)).sqrt();
            Some(Range { low: middle * (-widen(low)).exp(), high: middle * widen(high).exp() })
        };
        let shares: Vec<f64> = ends.iter().chain([&profile]).filter_map(|p| p.ring_share).collect();
        Expectation {
            body_t60_s: time_range(|p| p.body_t60_s, doubt(body)),
            ring_t60_s: time_range(|p| p.ring_t60_s, doubt(ring)),
            ring_share: shares
                .iter()
                .copied()
                .reduce(f64::min)
                .zip(shares.iter().copied().reduce(f64::max))
                .map(|(low, high)| Range { low, high }),
            attack_lost_db,
            pitch_cents: open.profile.body_hz.zip(profile.body_hz).map_or(0.0, |(from, to)| cents(from, to)),
            partials,
            profile,
        }
    }

    /// The profile of predicted partials; what partials do not decide is taken from the open drum and changed as they change.
    fn profile(&self, open: &Open, partials: &[Partial], attack_lost_db: f64) -> DecayProfile {
        let ratio = |db: f64| fall(partials, db) / fall(&self.bare, db);
        let late = |partials: &[Partial]| partials.iter().map(|p| p.energy_between(0.01, 0.2)).sum::<f64>();
        let shortened = 10.0 * (late(&self.bare) / late(partials).max(1e-12)).max(1e-12).log10();
        DecayProfile {
            fall_20_s: open.profile.fall_20_s.map(|t| t * ratio(20.0)),
            fall_40_s: open.profile.fall_40_s.map(|t| t * ratio(40.0)),
            attack_index_db: open.profile.attack_index_db.map(|db| db - attack_lost_db + shortened),
            ..DecayProfile::of_partials(partials)
        }
    }
}

/// Time in which the power of `partials` together falls by `db`, by bisection.
fn fall(partials: &[Partial], db: f64) -> f64 {
    let power = |t: f64| -> f64 {
        partials.iter().filter_map(|p| Some(amplitude(p.level_db).powi(2) * (-2.0 * LN_1000 * t / p.t60_s?).exp())).sum()
    };
    let wanted = power(0.0) * 10f64.powf(-db / 10.0);
    let (mut low, mut high) = (0.0, 20.0);
    for _ in 0..50 {
        let middle = 0.5 * (low + high);
        if power(middle) > wanted {
            low = middle;
        } else {
            high = middle;
        }
    }
    0.5 * (low + high)
}
