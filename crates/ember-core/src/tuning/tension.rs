//! Tension from pitch and back, and what a head and a hand should take.

use crate::drum::{Drum, Head, MIL};
use crate::numeric::bessel_zero;
use std::f64::consts::PI;

/// Stress at which PET film begins to stretch for good, Pa (about 100 MPa, from memory of data sheets), and the part of it that
/// leaves room for strokes.
const FILM_YIELDS_PA: f64 = 1.0e8;
const FILM_SAFE_PART: f64 = 0.35;
/// Tension at which a head begins to feel hard to the hand, N/m (from experience, no source).
const HARD_TO_THE_HAND: f64 = 7000.0;

/// Tension (N/m) of `head` on `drum` whose own lowest mode, the other head not moving, lies at `hz`:
/// T = sigma (2 pi a f / j01)^2 (Fletcher & Rossing, The Physics of Musical Instruments, 3.3), sigma with the air it moves.
pub fn tension(drum: &Drum, head: Head, hz: f64) -> f64 {
    drum.areal_mass(head) * (2.0 * PI * drum.radius() * hz / bessel_zero(0, 1)).powi(2)
}

/// Pitch (Hz) of the lowest mode at `tension` (N/m): the inverse of [`tension`].
pub fn pitch_at(drum: &Drum, head: Head, tension: f64) -> f64 {
    bessel_zero(0, 1) / (2.0 * PI * drum.radius()) * (tension / drum.areal_mass(head)).sqrt()
}

/// Pitch of a head's lowest mode alone from that of its lugs, and back: j01 / j11 apart on an ideal membrane.
pub fn head_from_lugs(lug_hz: f64) -> f64 {
    lug_hz * bessel_zero(0, 1) / bessel_zero(1, 1)
}

/// Lug pitch of a head whose lowest mode alone lies at `head_hz`.
pub fn lugs_from_head(head_hz: f64) -> f64 {
    head_hz * bessel_zero(1, 1) / bessel_zero(0, 1)
}

/// How near a tension is to what it should not pass.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TensionLimit {
    /// Near what a hand can turn.
    NearHand,
    /// Near what the film bears.
    NearFilm,
}

/// Whether lugs at `lug_hz` would mean too much for hand or film.
pub fn tension_limit(drum: &Drum, head: Head, lug_hz: f64) -> Option<TensionLimit> {
    let tension = tension(drum, head, head_from_lugs(lug_hz));
    if tension > FILM_SAFE_PART * FILM_YIELDS_PA * head.film_mil * MIL {
        Some(TensionLimit::NearFilm)
    } else if tension > HARD_TO_THE_HAND {
        Some(TensionLimit::NearHand)
    } else {
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use proptest::prelude::*;

    /// Worked by hand from the formula: a membrane of 0.32 m across and 0.26 kg/m2 under 1990 N/m sounds at
    /// 0.765 / 0.32 * sqrt(1990 / 0.26) = 209 Hz (Fletcher & Rossing give f = 0.765 / d * sqrt(T / sigma)).
    #[test]
    fn the_handbooks_short_form_is_met() {
        let drum = Drum { diameter_in: 0.32 / 0.0254, ..BenchDrum::usual(DrumKind::Tom) };
        let sigma = drum.areal_mass(drum.batter);
        let short_form = 0.765 / 0.32 * (1990.0 / sigma).sqrt();
        assert!((pitch_at(&drum, drum.batter, 1990.0) / short_form - 1.0).abs() < 1e-3);
    }

    proptest! {
        #[test]
        fn tension_and_pitch_are_each_others_inverse(hz in 40f64..500.0, diameter_in in 8f64..26.0) {
            let drum = Drum { diameter_in, ..BenchDrum::usual(DrumKind::Tom) };
            let back = pitch_at(&drum, drum.batter, tension(&drum, drum.batter, hz));
            prop_assert!((back / hz - 1.0).abs() < 1e-12);
            prop_assert!((head_from_lugs(lugs_from_head(hz)) / hz - 1.0).abs() < 1e-12);
        }
    }
}
