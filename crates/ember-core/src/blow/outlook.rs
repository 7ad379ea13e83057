//! What another beater, another spot, or a beater that is left in the head would bring on a measured drum.

use super::beater::{Blow, beater_info};
use crate::damping::{Expectation, Grip, LevelChange, Open, Outline, Patch, Predictor, Prior};
use crate::drum::{Drum, HeadSide};
use crate::tone::Tone;
use crate::tone::nearest;
use crate::tone::{DecayProfile, Partial};
use crate::units::decibels;
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// A beater that is left in the head, held there by a foot: areal resistance (N s/m3) and its doubt (from experience, no source; to be
/// measured on the drum).
pub(crate) const HELD: Prior = Prior { resistance: 600.0, resistance_ln_sd: 0.8, exponent: 0.0, mass: 0.0 };
/// Where a click lies, Hz (common practice, no published source: plastic on film clicks at 2 to 4 kHz).
pub(crate) const CLICK_HZ: f64 = 2500.0;
/// How far a contact may be longer or shorter than such beaters' usual one, nine times in ten, as a factor.
const CONTACT_DOUBT: f64 = 1.3;
/// How far a spot is met, nine times in ten, as a part of the radius (from experience, no source).
const SPOT_DOUBT: f64 = 0.06;
/// Nobody hits the same spot twice: standard spread of the spot (a part of the radius), and directions in which it is looked at.
const SPOT_SPREAD: f64 = 0.06;
const ROUND: usize = 8;
const RADII: usize = 100;

/// What a blow would bring, as strong as the one that was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BlowOutlook {
    /// How it is struck.
    pub blow: Blow,
    /// What it should do.
    pub expected: Expectation,
    /// The body.
    pub body: LevelChange,
    /// The ring against the body; null where there is none.
    pub ring: Option<LevelChange>,
    /// The click of the beater.
    pub click: LevelChange,
}

/// Predicts other blows on a drum that was measured with one.
pub struct BlowPredictor<'a> {
    predictor: Predictor,
    open: Open<'a>,
    from: Blow,
    /// Mean squares with which each mode moves round circles of the batter head, from the middle ([`RADII`] steps to the hoop).
    circles: Vec<Vec<f64>>,
    /// What is expected with nothing in the head, whatever strikes it.
    off_the_head: Expectation,
}

impl<'a> BlowPredictor<'a> {
    /// From the open drum, measured with `from`, which came off the head. `None` where no body was found.
    pub fn new(drum: &'a Drum, partials: &'a [Partial], profile: &'a DecayProfile, from: Blow) -> Option<Self> {
        profile.body_hz?;
        let from = Blow { left_in: false, ..from };
        let (predictor, open) = (Predictor::new(drum, partials)?, Open { partials, profile });
        let circle = |i: usize| {
            let r = i as f64 / RADII as f64;
            let angles = (0..ROUND).map(|k| 2.0 * PI * (k as f64 + 0.5) / ROUND as f64);
            angles.fold(vec![0.0; predictor.model.modes.len()], |mut sums, angle| {
                let shapes = predictor.model.shapes_at(HeadSide::Batter, r, angle);
                sums.iter_mut().zip(shapes).for_each(|(sum, shape)| *sum += shape * shape / ROUND as f64);
                sums
            })
        };
        let (circles, off_the_head) = ((0..=RADII).map(circle).collect(), predictor.expect(&open, &[], &[]));
        Some(Self { predictor, open, from, circles, off_the_head })
    }

    /// What the model makes of the drum as it was struck: what an outlook is held against.
    pub fn bare(&self) -> &[Partial] {
        self.predictor.bare()
    }

    /// What `blow` would bring.
    pub fn outlook(&self, blow: Blow) -> BlowOutlook {
        let mut expected = match self.held(blow) {
            Some(held) => self.predictor.expect(&self.open, &[], &[&held]),
            None => self.off_the_head.clone(),
        };
        let body_hz = self.open.profile.body_hz.unwrap_or_default();
        let body = self.gain(blow, 1.0, body_hz);
        let own_hz = nearest(&expected.partials, body_hz).map(|own| own.hz);
        // The body keeps its level: what is louder or softer as a whole stands beside.
        for partial in &mut expected.partials {
            if own_hz != Some(partial.hz) {
                partial.level_db += decibels((self.gain_of(blow, 1.0, partial.tone, partial.hz) / body).sqrt());
            }
        }
        expected.attack_lost_db = -decibels(self.click(blow, 1.0).sqrt());
        expected.profile = self.open.profile_of(self.predictor.bare(), &expected.partials, expected.attack_lost_db);
        expected.rings_on = self.open.rings_on(self.predictor.bare(), &expected.partials);
        expected.ring_share = None;
        let ring = self.open.profile.ring_hz.and_then(|hz| nearest(self.open.partials, hz));
        let body_at = |blow: Blow, times: f64| self.gain(blow, times, body_hz);
        let ring_at = |blow: Blow, times: f64, ring: &Partial| self.gain(blow, times, ring.hz) / body_at(blow, times);
        BlowOutlook {
            blow,
            body: self.change(blow, body_at),
            // Of what fits no mode nobody knows how it moves where it is struck.
            ring: ring
                .filter(|ring| blow.spot == self.from.spot || self.tone_of(ring.hz).and_then(Tone::mode).is_some())
                .map(|ring| self.change(blow, |blow, times| ring_at(blow, times, ring))),
            click: self.change(blow, |blow, times| self.click(blow, times)),
            expected,
        }
    }

    /// How a power, against the measured one, changes with `blow`: in the middle, and where beater and spot are off as far as they may be. What
    /// is as it was measured needs no guess.
    fn change(&self, blow: Blow, power: impl Fn(Blow, f64) -> f64) -> LevelChange {
        let level = |blow: Blow, times: f64| decibels(power(blow, times).sqrt());
        let db = level(blow, 1.0);
        let (of_beater, of_spot) = (blow.beater != self.from.beater, blow.spot != self.from.spot);
        let steps = [-1.0, -0.5, 0.0, 0.5, 1.0];
        let far = |sds: f64, counts: bool| if counts { sds } else { 0.0 };
        let all = steps.iter().flat_map(|contact| steps.iter().map(move |spot| (far(*contact, of_beater), far(*spot, of_spot))));
        let levels =
            all.map(|(contact, spot)| level(Blow { spot: (blow.spot + spot * SPOT_DOUBT).max(0.0), ..blow }, CONTACT_DOUBT.powf(contact)));
        LevelChange::of(db, levels)
    }

    /// Power of the tone at `hz` with `blow` against the one that was measured.
    fn gain(&self, blow: Blow, times: f64, hz: f64) -> f64 {
        self.gain_of(blow, times, self.tone_of(hz), hz)
    }

    fn gain_of(&self, blow: Blow, times: f64, tone: Option<Tone>, hz: f64) -> f64 {
        let (to, from) = (self.stirred(tone, blow.spot), self.stirred(tone, self.from.spot));
        // A spot where a mode stands still is never met exactly.
        (blow.power_at(hz, times) * to / (self.from.power_at(hz, 1.0) * from).max(1e-9)).clamp(1e-3, 1e3)
    }

    /// Which tone the model says that there is at `hz`.
    fn tone_of(&self, hz: f64) -> Option<Tone> {
        nearest(self.bare(), hz)?.tone
    }

    /// Mean square with which the modes of `tone` move about `spot`; 1 for what fits none.
    fn stirred(&self, tone: Option<Tone>, spot: f64) -> f64 {
        let modes = &self.predictor.model.modes;
        let of: Vec<usize> = (0..modes.len()).filter(|i| tone == Some(modes[*i].tone)).collect();
        if of.is_empty() {
            return 1.0;
        }
        let on_circle = |sds: f64| {
            let place = (spot + sds * SPOT_SPREAD).abs().min(1.0) * RADII as f64;
            let below = (place as usize).min(RADII - 1);
            let part = place - below as f64;
            of.iter().map(|i| (1.0 - part) * self.circles[below][*i] + part * self.circles[below + 1][*i]).sum::<f64>()
        };
        [-1.0, -0.5, 0.0, 0.5, 1.0].map(on_circle).iter().sum::<f64>() / (5 * of.len()) as f64
    }

    fn click(&self, blow: Blow, times: f64) -> f64 {
        blow.power_at(CLICK_HZ, times) / self.from.power_at(CLICK_HZ, 1.0)
    }

    /// The beater as it stays in the head, where it does.
    fn held(&self, blow: Blow) -> Option<Grip> {
        blow.left_in.then(|| held_in(&self.predictor, blow))
    }
}

/// Where the beater of `blow` presses on the batter of `drum` as long as it stays there.
pub(crate) fn held_at(drum: &Drum, blow: Blow) -> Patch {
    let outline = Outline::Disc { radius: blow.spot, angle_deg: 180.0, size: blow.size_on(drum) };
    Patch { side: HeadSide::Batter, outline, contact: 1.0 }
}

/// How it takes hold of the drum of `predictor`.
pub(crate) fn held_in(predictor: &Predictor, blow: Blow) -> Grip {
    predictor.pressed(&[held_at(&predictor.drum, blow)], &HELD)
}

impl BlowOutlook {
    /// How long the beater touches the head, s.
    pub fn contact_s(&self) -> f64 {
        beater_info(self.blow.beater).contact_s
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::blow::{BEATERS, BeaterKind};
    use crate::drum::DrumKind;

    fn partial(hz: f64, t60_s: f64, level_db: f64, mode: Option<&str>) -> Partial {
        Partial { hz, t60_s: Some(t60_s), t60_sd_s: Some(0.02 * t60_s), t60_scatter_s: None, level_db, tone: mode.and_then(Tone::read) }
    }

    fn drum() -> (Drum, Vec<Partial>) {
        let drum = BenchDrum::usual(DrumKind::Kick);
        let batter = drum.usual_batter_hz();
        let partials = vec![
            partial(0.98 * batter, 0.8, 0.0, Some("(0,1)")),
            partial(1.593 * batter, 0.9, -16.0, Some("(1,1)")),
            partial(2.136 * batter, 0.7, -22.0, Some("(2,1)")),
        ];
        (drum, partials)
    }

    const FROM: Blow = Blow { beater: BeaterKind::Felt, spot: 0.25, left_in: false };

    /// In the middle of a head only what moves air as a whole is struck; near the hoop the ring is, and the body less (common practice, no published
    /// source). Bounds hold the middle, and what was measured is as it was.
    #[test]
    fn the_middle_has_the_body_and_the_edge_the_ring() {
        let (drum, partials) = drum();
        let profile = DecayProfile::of_partials(&partials);
        let predictor = BlowPredictor::new(&drum, &partials, &profile, FROM).unwrap();
        let same = predictor.outlook(FROM);
        assert!(same.body.db.abs() < 1e-9 && same.click.db.abs() < 1e-9 && same.body.low == same.body.high, "{same:?}");
        let at = |spot: f64| predictor.outlook(Blow { spot, ..FROM });
        let (middle, edge) = (at(0.0), at(0.75));
        assert!(middle.ring.unwrap().db < -6.0 && middle.body.db > 0.0, "{middle:?}");
        assert!(edge.ring.unwrap().db > 6.0 && edge.body.db < -3.0, "{edge:?}");
        for outlook in [middle, edge].into_iter().chain(BEATERS.map(|info| predictor.outlook(Blow { beater: info.kind, ..FROM }))) {
            for change in [Some(outlook.body), outlook.ring, Some(outlook.click)].into_iter().flatten() {
                assert!(change.low <= change.db && change.db <= change.high && change.db.is_finite(), "{outlook:?}");
            }
        }
    }

    #[test]
    fn of_a_ring_without_a_mode_no_spot_is_known() {
        let (drum, mut partials) = drum();
        partials.push(partial(1.28 * partials[0].hz, 1.5, -6.0, None));
        partials.sort_by(|a, b| a.hz.total_cmp(&b.hz));
        let profile = DecayProfile::of_partials(&partials);
        let predictor = BlowPredictor::new(&drum, &partials, &profile, FROM).unwrap();
        assert!((profile.ring_hz.unwrap() / partials[1].hz - 1.0).abs() < 1e-9, "the stranger is the ring");
        assert!(predictor.outlook(Blow { spot: 0.5, ..FROM }).ring.is_none());
        assert!(predictor.outlook(Blow { beater: BeaterKind::Wood, ..FROM }).ring.unwrap().db > 0.0);
        assert!(BlowPredictor::new(&drum, &partials, &DecayProfile::default(), FROM).is_none());
    }
}
