//! What another beater, another spot, or a beater that is left in the head would bring on a measured drum.

use super::beater::{Blow, beater_info};
use crate::damping::{Expectation, Grip, Open, Outline, Patch, Predictor, Prior, Range};
use crate::decay::{DecayProfile, Partial, nearest};
use crate::drum::{Drum, HeadSide};
use crate::units::decibels;
use serde::{Deserialize, Serialize};

/// A beater that is left in the head, held there by a foot: areal resistance (N s/m3) and its doubt (from experience, no source; to be
/// measured on the drum).
const HELD: Prior = Prior { resistance: 600.0, resistance_ln_sd: 0.8, exponent: 0.0, mass: 0.0 };
/// Where a click lies, Hz (common practice, no published source: plastic on film clicks at 2 to 4 kHz).
const CLICK_HZ: f64 = 2500.0;
/// How far a contact may be longer or shorter than such beaters' usual one, nine times in ten, as a factor.
const CONTACT_DOUBT: f64 = 1.3;

/// What a blow would bring.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BlowOutlook {
    pub blow: Blow,
    pub expected: Expectation,
    /// How much louder than with the blow that was measured, dB: the body, the ring against the body, and the click; with bounds that hold
    /// nine times in ten.
    pub body_db: f64,
    pub ring_db: Option<f64>,
    pub ring_bounds: Option<Range>,
    pub click_db: f64,
    pub click_bounds: Range,
}

/// Predicts other blows on a drum that was measured with one.
pub struct BlowPredictor<'a> {
    predictor: Predictor,
    open: Open<'a>,
    drum: &'a Drum,
    from: Blow,
}

impl<'a> BlowPredictor<'a> {
    /// From the open drum, measured with `from`, which came off the head. `None` where no body was found.
    pub fn new(drum: &'a Drum, partials: &'a [Partial], profile: &'a DecayProfile, from: Blow) -> Option<Self> {
        profile.body_hz?;
        let from = Blow { left_in: false, ..from };
        Some(Self { predictor: Predictor::new(drum, partials)?, open: Open { partials, profile }, drum, from })
    }

    /// What the model makes of the drum as it was struck: what an outlook is held against.
    pub fn bare(&self) -> &[Partial] {
        self.predictor.bare()
    }

    /// What `blow` would bring.
    pub fn outlook(&self, blow: Blow) -> BlowOutlook {
        let grips = self.held(blow);
        let grips: Vec<&Grip> = grips.iter().collect();
        let mut expected = self.predictor.expect(&self.open, &[], &grips);
        let body_hz = self.open.profile.body_hz.unwrap_or_default();
        let body = self.gain(blow, 1.0, nearest(self.bare(), body_hz), body_hz);
        let shares = expected.partials.clone();
        // The body keeps its level: what is louder or softer as a whole stands beside.
        for partial in &mut expected.partials {
            let of_body = nearest(&shares, body_hz).is_some_and(|own| own.hz == partial.hz);
            if !of_body {
                partial.level_db += decibels((self.gain(blow, 1.0, Some(partial), partial.hz) / body).sqrt());
            }
        }
        expected.attack_lost_db = -self.click(blow, 1.0);
        expected.profile = self.open.profile_of(self.predictor.bare(), &expected.partials, expected.attack_lost_db);
        expected.ring_share = None;
        let ring = self.open.profile.ring_hz.and_then(|hz| nearest(self.open.partials, hz));
        let ring_at = |times: f64| {
            ring.map(|ring| {
                let own = self.gain(blow, times, nearest(self.bare(), body_hz), body_hz);
                decibels((self.gain(blow, times, Some(ring), ring.hz) / own).sqrt())
            })
        };
        let bounds = |at: &dyn Fn(f64) -> f64| {
            // The blow that was measured needs no guess.
            let doubt = if blow.beater == self.from.beater { 1.0 } else { CONTACT_DOUBT };
            let ends = [at(1.0 / doubt), at(1.0), at(doubt)];
            Range { low: ends.iter().copied().fold(f64::INFINITY, f64::min), high: ends.iter().copied().fold(f64::NEG_INFINITY, f64::max) }
        };
        BlowOutlook {
            blow,
            body_db: decibels(body.sqrt()),
            ring_db: ring_at(1.0),
            ring_bounds: ring.map(|_| bounds(&|times| ring_at(times).unwrap_or_default())),
            click_db: self.click(blow, 1.0),
            click_bounds: bounds(&|times| self.click(blow, times)),
            expected,
        }
    }

    /// Power of a tone with `blow` against the one that was measured.
    fn gain(&self, blow: Blow, times: f64, partial: Option<&Partial>, hz: f64) -> f64 {
        let mode = partial.and_then(|partial| partial.mode.as_deref());
        let (to, from) = (blow.power_at(hz, times) * blow.power_into(mode), self.from.power_at(hz, 1.0) * self.from.power_into(mode));
        // A spot where a mode stands still is never met exactly.
        (to / from.max(1e-9)).clamp(1e-3, 1e3)
    }

    fn click(&self, blow: Blow, times: f64) -> f64 {
        decibels((blow.power_at(CLICK_HZ, times) / self.from.power_at(CLICK_HZ, 1.0)).sqrt())
    }

    /// The beater as it stays in the head, where it does.
    fn held(&self, blow: Blow) -> Option<Grip> {
        let outline = Outline::Disc { radius: blow.spot, angle_deg: 180.0, size: blow.size_on(self.drum) };
        blow.left_in.then(|| self.predictor.pressed(&[Patch { side: HeadSide::Batter, outline, contact: 1.0 }], &HELD))
    }
}

impl BlowOutlook {
    /// How long the beater touches the head, s.
    pub fn contact_s(&self) -> f64 {
        beater_info(self.blow.beater).contact_s
    }
}
