//! What a treatment costs besides what is left off the wish, in the same just-noticed steps.

use crate::damping::{DeviceKind, Expectation, Placement, device_info};
use crate::drum::DrumKind;
use crate::numeric::Range;
use crate::target::{Tails, Wanted};
use crate::tone::Partial;

/// Whether the batter head comes off for `placement`, and is tuned anew when it is back on. Into a kick one gets by its front head.
pub(super) fn takes_batter_off(placement: &Placement) -> bool {
    placement.is_inside() && !device_info(placement.device).kinds.contains(&DrumKind::Kick)
}

/// How much bolder than what a drum tech would reach for first a device is, in steps (common practice, no published source): a second skin makes
/// another instrument, thick cloth a dull thud, and cymbals are left alone before they are draped.
fn boldness(device: DeviceKind) -> f64 {
    match device {
        DeviceKind::SpareHead => 3.0,
        DeviceKind::Doughnut => 2.5,
        DeviceKind::InflatedTube => 1.5,
        DeviceKind::ThickCloth => 1.0,
        DeviceKind::Drape => 9.0,
        _ => 0.0,
    }
}

/// Effort: things are to be bought, carried, put on and not lost (weights from experience, no published source). All rods turned are time only, and
/// none where the batter head was off, since it is tuned anyway.
pub fn effort(placements: &[Placement]) -> f64 {
    let tuned_anyway = placements.iter().any(takes_batter_off);
    placements
        .iter()
        .map(|p| {
            let info = device_info(p.device);
            if p.device == DeviceKind::RodsTurned {
                return if tuned_anyway { 0.0 } else { info.amounts[p.amount].seconds / 120.0 };
            }
            0.6 + info.amounts[p.amount].seconds / 120.0 + f64::from(u8::from(p.is_inside())) * 1.5 + boldness(p.device)
        })
        .sum()
}

/// What the attack loses, in steps of 1 dB.
pub fn attack(placements: &[Placement]) -> f64 {
    placements.iter().map(Placement::attack_db).sum()
}

/// Time to take `off` what is on and put `on` something else, s: a head comes off once for all that is inside, and is tuned once.
pub fn seconds_to_change(off: &[Placement], on: &[Placement]) -> f64 {
    // Placements are validated before they are kept; an older file's unknown amount counts as the last one.
    let known = |placement: &Placement| {
        let info = device_info(placement.device);
        (info, &info.amounts[placement.amount.min(info.amounts.len() - 1)])
    };
    let tuned_anyway = off.iter().chain(on).any(takes_batter_off);
    let tuned = |placement: &Placement| placement.is_inside() || tuned_anyway && placement.device == DeviceKind::RodsTurned;
    let off = off.iter().map(|placement| (tuned(placement), known(placement).0.seconds_to_take_off(known(placement).1)));
    let on = on.iter().map(|placement| (tuned(placement), known(placement).1.seconds));
    let (mut outside, mut head) = (0.0, 0f64);
    for (tuned, seconds) in off.chain(on) {
        if tuned { head = head.max(seconds) } else { outside += seconds }
    }
    outside + head
}

/// Time to take `placements` off again, s.
pub fn seconds_off(placements: &[Placement]) -> f64 {
    seconds_to_change(placements, &[])
}

/// An expected sound as it should turn out, and as it turns out with everything at one end of its doubt.
pub struct Prospect {
    pub expected: Tails,
    ends: [Tails; 2],
    /// What the drift of the pitch costs.
    pitch: f64,
}

/// Cost of a drift of the body's pitch by `cents`, in steps of half a semitone. One that is larger than that gives a note of its own, which is
/// taken or left: it counts for less (weights from experience, no published source).
pub fn pitch_toll(cents: f64) -> f64 {
    (cents.abs() / 50.0).min(1.0 + cents.abs() / 200.0)
}

/// Part of what may turn out worse that counts.
const DOUBT_WEIGHT: f64 = 0.25;

impl Prospect {
    pub fn new(expected: &Expectation) -> Self {
        let lost = Some(expected.attack_lost_db);
        let stretched = |pick: fn(&Range) -> f64| {
            let ratio = |range: Option<Range>, middle: Option<f64>| range.zip(middle).map_or(1.0, |(range, middle)| pick(&range) / middle);
            let body = ratio(expected.body_t60_s, expected.profile.body_t60_s);
            let ring = ratio(expected.ring_t60_s, expected.profile.ring_t60_s);
            let top = expected.profile.body_hz.map_or(0.0, |hz| 1.15 * hz);
            let partials: Vec<Partial> = expected
                .partials
                .iter()
                .map(|p| Partial { t60_s: p.t60_s.map(|t| t * if p.hz < top { body } else { ring }), ..p.clone() })
                .collect();
            Tails::new(&partials, &expected.profile, lost)
        };
        Self {
            expected: Tails::new(&expected.partials, &expected.profile, lost),
            ends: [stretched(|range| range.low), stretched(|range| range.high)],
            pitch: pitch_toll(expected.pitch_cents),
        }
    }

    /// Of what was measured: nothing is in doubt but the measurement.
    pub fn certain(tails: Tails) -> Self {
        Self { ends: [tails.clone(), tails.clone()], expected: tails, pitch: 0.0 }
    }

    /// Steps off if body and ring turn out longest or shortest within their doubt, whichever is worse.
    pub fn worst_misfit(&self, wanted: &Wanted) -> f64 {
        self.ends.iter().map(|end| end.misfit(wanted).get()).fold(self.expected.misfit(wanted).get(), f64::max)
    }

    /// Steps off, some of the doubt, and what `placements` take away; the effort is not in it.
    pub fn cost(&self, placements: &[Placement], wanted: &Wanted) -> f64 {
        let misfit = self.expected.misfit(wanted).get();
        let worst = self.ends.iter().map(|end| end.misfit(wanted).get()).fold(misfit, f64::max);
        misfit + DOUBT_WEIGHT * (worst - misfit) + attack(placements) + self.pitch
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_head_comes_off_once_for_all_that_is_inside() {
        let placed = |spec: &str| Placement::parse(spec).unwrap();
        let (pad, ring, balls) = (placed("gel_pad:0:0.8:90"), placed("loose_ring:0"), placed("cotton_balls:0"));
        assert_eq!(seconds_to_change(&[], &[pad, pad]), 20.0);
        assert_eq!(seconds_off(&[pad, pad]), 10.0);
        assert_eq!(seconds_off(&[ring, balls, pad]), 605.0);
        assert_eq!(seconds_to_change(&[ring], &[balls, pad]), 610.0);
        assert_eq!(seconds_to_change(&[], &[]), 0.0);
        let turned = placed("rods_turned:1");
        assert_eq!([&[pad, turned], &[ring, turned]].map(|on| seconds_to_change(&[], on)), [100.0, 600.0]);
        let pillow = placed("pillow:1");
        assert_eq!(seconds_to_change(&[], &[pillow, turned]), seconds_to_change(&[], &[pillow]) + 90.0, "it goes in by the front");
        assert!(effort(&[pad, turned]) > effort(&[pad]) && effort(&[ring, turned]) == effort(&[ring]), "that head is tuned anyway");
    }
}
