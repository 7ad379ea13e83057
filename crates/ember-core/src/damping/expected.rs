//! The expected sound of a drum with devices on it, with its doubt.

use super::grip::Grip;
use super::placement::Placement;
use super::predict::{Predictor, Strength};
use crate::bisect::bisect;
use crate::decay::{DecayProfile, Partial, body_and_ring, nearest};
use crate::units::{LN_1000, amplitude, cents};
use serde::{Deserialize, Serialize};

/// What the model itself is off by, with devices known exactly: standard deviation of the logarithm of a decay time, from its
/// comparison with the simulated drum (docs/METHOD.md).
pub(super) const MODEL_LN_SD: f64 = 0.12;

/// Bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Range {
    pub low: f64,
    pub high: f64,
}

/// A level against the one that was measured, dB, with bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LevelChange {
    pub db: f64,
    pub low: f64,
    pub high: f64,
}

impl LevelChange {
    /// `db` with bounds that reach to all `ends`.
    pub(crate) fn of(db: f64, ends: impl IntoIterator<Item = f64>) -> Self {
        let (low, high) = ends.into_iter().fold((db, db), |(low, high), end| (low.min(end), high.max(end)));
        Self { db, low, high }
    }
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
    /// Click of a beater gained, dB. It makes up for no attack that is lost: a patch clicks, and cloth beside it takes the stick all the same.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub click_gained_db: f64,
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
        self.with_doubt(self.expect_without_doubt(open, placements, grips), open, grips)
    }

    /// The same without bounds: a third of the work.
    pub fn expect_without_doubt(&self, open: &Open, placements: &[Placement], grips: &[&Grip]) -> Expectation {
        let partials = self.solve(grips, Strength::EXPECTED);
        let attack_lost_db: f64 = placements.iter().map(Placement::attack_db).sum();
        let click_gained_db: f64 = placements.iter().map(Placement::click_db).sum();
        let profile = open.profile_of(&self.bare, &partials, attack_lost_db - click_gained_db);
        Expectation {
            body_t60_s: None,
            ring_t60_s: None,
            ring_share: None,
            attack_lost_db,
            click_gained_db,
            pitch_cents: open.profile.body_hz.zip(profile.body_hz).map_or(0.0, |(from, to)| cents(from, to)),
            partials,
            profile,
        }
    }

    /// `expected` with its bounds.
    pub fn with_doubt(&self, expected: Expectation, open: &Open, grips: &[&Grip]) -> Expectation {
        expected.between(open, &[Strength::LOW, Strength::HIGH].map(|strength| self.solve(grips, strength)))
    }
}

impl Expectation {
    /// What the stroke loses in all, dB: attack given up, less the click gained.
    pub fn stroke_lost_db(&self) -> f64 {
        self.attack_lost_db - self.click_gained_db
    }

    /// The same with its bounds: `ends` are the partials where what is done takes least and most within its doubt.
    pub(crate) fn between(self, open: &Open, ends: &[Vec<Partial>; 2]) -> Self {
        let profile = &self.profile;
        let doubt = |index: Option<usize>| {
            let partial = index.map(|i| &open.partials[i]);
            partial.and_then(|p| Some(1.645 * p.t60_sd_s? / p.t60_s?)).unwrap_or(0.1)
        };
        let (body, ring) = body_and_ring(open.partials);
        let time_range = |hz: Option<f64>, middle: Option<f64>, doubt: f64| {
            let (hz, middle) = (hz?, middle?);
            // The same partial is followed: another one may be the ring at an end.
            let of_ends = ends.iter().filter_map(|partials| nearest(partials, hz)?.t60_s);
            let (low, high) = of_ends.fold((middle, middle), |(low, high), value| (low.min(value), high.max(value)));
            // Device, measurement and model are independent: their logarithms' doubts add as squares.
            let widen = |end: f64| ((end / middle).ln().powi(2) + doubt * doubt + (1.645 * MODEL_LN_SD).powi(2)).sqrt();
            Some(Range { low: middle * (-widen(low)).exp(), high: middle * widen(high).exp() })
        };
        Self {
            body_t60_s: time_range(profile.body_hz, profile.body_t60_s, doubt(body)),
            ring_t60_s: time_range(profile.ring_hz, profile.ring_t60_s, doubt(ring)),
            ring_share: share_range(&self.partials, ends),
            ..self
        }
    }
}

impl Expectation {
    /// The same, with what is not known of `other` besides: two things that are done to one drum are each as doubtful as alone, and their
    /// logarithms' doubts add as squares.
    pub(crate) fn doubted_also_as(self, other: &Self) -> Self {
        let widened = |own: Option<Range>, middle: Option<f64>, others: Option<Range>, others_middle: Option<f64>| {
            let (own, middle) = (own?, middle?);
            let (Some(others), Some(others_middle)) = (others, others_middle) else { return Some(own) };
            let by = |own: f64, others: f64| (own / middle).ln().hypot((others / others_middle).ln());
            Some(Range { low: middle * (-by(own.low, others.low)).exp(), high: middle * by(own.high, others.high).exp() })
        };
        let (profile, others) = (&self.profile, &other.profile);
        Self {
            body_t60_s: widened(self.body_t60_s, profile.body_t60_s, other.body_t60_s, others.body_t60_s),
            ring_t60_s: widened(self.ring_t60_s, profile.ring_t60_s, other.ring_t60_s, others.ring_t60_s),
            ..self
        }
    }
}

impl Open<'_> {
    /// The profile of predicted partials; what partials do not decide is taken from the open drum and changed as partials change from
    /// `bare`, what the model makes of it.
    pub(crate) fn profile_of(&self, bare: &[Partial], partials: &[Partial], attack_lost_db: f64) -> DecayProfile {
        let ratio = |db: f64| fall(partials, db) / fall(bare, db);
        let late = |partials: &[Partial]| partials.iter().map(|p| p.energy_between(0.01, 0.2)).sum::<f64>();
        let shortened = 10.0 * (late(bare) / late(partials).max(1e-12)).max(1e-12).log10();
        DecayProfile {
            fall_20_s: self.profile.fall_20_s.map(|t| t * ratio(20.0)),
            fall_40_s: self.profile.fall_40_s.map(|t| t * ratio(40.0)),
            attack_index_db: self.profile.attack_index_db.map(|db| db - attack_lost_db + shortened),
            ..DecayProfile::of_partials(partials)
        }
    }
}

/// Bounds of the ring share: devices at the ends of their doubt, and overtones that last longer or shorter than the model says.
/// Added as squares of the logarithm of overtones against body, in which both act evenly.
fn share_range(partials: &[Partial], ends: &[Vec<Partial>]) -> Option<Range> {
    let log_odds = |share: f64| {
        let inside = share.clamp(0.001, 0.999);
        (inside / (1.0 - inside)).ln()
    };
    let profile = DecayProfile::of_partials(partials);
    let (middle, body) = (log_odds(profile.ring_share?), profile.body_hz?);
    let stretched = |by: f64| {
        let overtones = |p: &Partial| if p.hz > body { p.t60_s.map(|t| t * by.exp()) } else { p.t60_s };
        let partials: Vec<Partial> = partials.iter().map(|p| Partial { t60_s: overtones(p), ..p.clone() }).collect();
        DecayProfile::of_partials(&partials).ring_share.map_or(0.0, |share| log_odds(share) - middle)
    };
    let model = 1.645 * MODEL_LN_SD;
    let bound = |sign: f64| {
        let shares = ends.iter().filter_map(|end| DecayProfile::of_partials(end).ring_share);
        let device = shares.map(|share| sign * (log_odds(share) - middle)).fold(0.0, f64::max);
        let odds = (middle + sign * device.hypot(stretched(sign * model))).exp();
        odds / (1.0 + odds)
    };
    Some(Range { low: bound(-1.0), high: bound(1.0) })
}

/// Time in which the power of `partials` together falls by `db`, by bisection.
fn fall(partials: &[Partial], db: f64) -> f64 {
    let power = |t: f64| -> f64 {
        partials.iter().filter_map(|p| Some(amplitude(p.level_db).powi(2) * (-2.0 * LN_1000 * t / p.t60_s?).exp())).sum()
    };
    let wanted = power(0.0) * 10f64.powf(-db / 10.0);
    bisect(0.0, 20.0, 50, |t| power(t) > wanted)
}
