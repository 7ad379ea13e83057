//! Beaters, and how much of each tone a blow with one brings out.

use crate::drum::{Drum, DrumKind, Role};
use ember_words::{Said, Text, text};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// Beaters, soft to hard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum BeaterKind {
    /// A large soft one of fleece.
    Fleece,
    /// Soft felt.
    SoftFelt,
    /// Felt, as on most pedals.
    Felt,
    /// Hard felt.
    HardFelt,
    /// Wood.
    Wood,
    /// Plastic.
    Plastic,
}

/// A beater.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BeaterInfo {
    /// Which kind it is.
    pub kind: BeaterKind,
    /// What it is called.
    pub name: Text,
    /// How long it touches the head, s (from experience, no published source; the tighter the head and the harder the blow, the shorter).
    pub contact_s: f64,
    /// What it is for.
    pub words: Text,
    /// Radius of what touches the head, m.
    #[serde(skip)]
    pub radius: f64,
}

/// All beaters, soft to hard (uses: common practice, no published source).
pub const BEATERS: [BeaterInfo; 6] = [
    BeaterInfo {
        kind: BeaterKind::Fleece,
        name: text!("fleece"),
        contact_s: 0.011,
        words: text!("big and soft: the low note alone; for long notes and rolls"),
        radius: 0.05,
    },
    BeaterInfo {
        kind: BeaterKind::SoftFelt,
        name: text!("soft felt"),
        contact_s: 0.008,
        words: text!("round, little click; for concert drums and quiet rooms"),
        radius: 0.04,
    },
    BeaterInfo { kind: BeaterKind::Felt, name: text!("felt"), contact_s: 0.006, words: text!("round, with some attack"), radius: 0.035 },
    BeaterInfo {
        kind: BeaterKind::HardFelt,
        name: text!("hard felt"),
        contact_s: 0.004,
        words: text!("clear notes one after the other; for marching drums"),
        radius: 0.03,
    },
    BeaterInfo {
        kind: BeaterKind::Wood,
        name: text!("wood"),
        contact_s: 0.0028,
        words: text!("a knock before the note; hard on the head, a patch saves it"),
        radius: 0.025,
    },
    BeaterInfo {
        kind: BeaterKind::Plastic,
        name: text!("hard plastic"),
        contact_s: 0.0022,
        words: text!("click; hard on the head, a patch saves it"),
        radius: 0.025,
    },
];

/// The entry of `kind`.
pub fn beater_info(kind: BeaterKind) -> &'static BeaterInfo {
    &BEATERS[kind as usize]
}

/// A place to strike.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spot {
    /// Distance from the middle, as a part of the head's radius.
    pub radius: f64,
    /// What it is called.
    pub name: Text,
}

/// Places to strike, from the middle outwards.
pub const SPOTS: [Spot; 4] = [
    Spot { radius: 0.0, name: text!("in the middle") },
    Spot { radius: 0.25, name: text!("slightly off the middle") },
    Spot { radius: 0.5, name: text!("halfway to the hoop") },
    Spot { radius: 0.75, name: text!("near the hoop") },
];

/// How a drum is struck.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Blow {
    /// What strikes it.
    pub beater: BeaterKind,
    /// Distance of the spot from the middle, as a part of the head's radius.
    pub spot: f64,
    /// The beater stays in the head after the hit.
    pub left_in: bool,
}

/// Why a blow cannot be.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum InvalidBlow {
    /// It lands beside the head.
    #[said("A drum is struck between its middle (0) and {FURTHEST} of its radius; {spot} is neither.")]
    OffTheHead {
        /// Where it should land, as a part of the radius.
        spot: f64,
    },
}

/// Furthest from the middle that a blow is looked at, as a part of the radius.
const FURTHEST: f64 = 0.9;
/// No beater touches as long twice: standard spread of the contact's logarithm.
const CONTACT_SPREAD: f64 = 0.2;

impl Blow {
    /// How such drums are usually struck (common practice, no published source): slightly off the middle; concert bass drums softly, marching
    /// ones with hard felt. None for drums that no beater strikes.
    pub fn usual(kind: DrumKind) -> Option<Self> {
        let beater = match kind {
            DrumKind::ConcertBass => BeaterKind::Fleece,
            DrumKind::MarchingBass => BeaterKind::HardFelt,
            _ if kind.role() == Role::Kick => BeaterKind::Felt,
            _ => return None,
        };
        Some(Self { beater, spot: 0.25, left_in: false })
    }

    /// Whether the spot lies on the head.
    pub fn validate(&self) -> Result<(), InvalidBlow> {
        let is_there = (0.0..=FURTHEST).contains(&self.spot);
        if is_there { Ok(()) } else { Err(InvalidBlow::OffTheHead { spot: self.spot }) }
    }

    /// Power that it gives to a tone at `hz`, against a blow that is over at once, `times` as long as such beaters usually touch: the
    /// spectrum of half a sine, (cos(pi f T) / (1 - (2 f T)^2))^2 (Harris & Piersol, *Shock and Vibration Handbook*, half-sine pulse), on
    /// the mean over contacts that differ as blows do, which closes its gaps.
    pub fn power_at(&self, hz: f64, times: f64) -> f64 {
        let spread = [-1.5, -1.0, -0.5, 0.0, 0.5, 1.0, 1.5];
        let one = |sds: f64| {
            let x = hz * times * beater_info(self.beater).contact_s * (sds * CONTACT_SPREAD).exp();
            let under = 1.0 - 4.0 * x * x;
            // Where both are nothing, their ratio is pi / 4.
            if under.abs() < 1e-6 { (PI / 4.0).powi(2) } else { ((PI * x).cos() / under).powi(2) }
        };
        let weight = |sds: f64| (-0.5 * sds * sds).exp();
        spread.map(|sds| weight(sds) * one(sds)).iter().sum::<f64>() / spread.map(weight).iter().sum::<f64>()
    }

    /// What it touches, as a part of the radius of the head of `drum`.
    pub(super) fn size_on(&self, drum: &Drum) -> f64 {
        beater_info(self.beater).radius / drum.radius()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The half-sine's spectrum against its integral worked out number by number.
    #[test]
    fn a_blow_gives_what_its_pulse_contains() {
        for beater in BEATERS {
            let blow = Blow { beater: beater.kind, spot: 0.0, left_in: false };
            for hz in [20.0, 60.0, 150.0, 400.0] {
                let power = |contact: f64| {
                    let n = 4000;
                    let (mut re, mut im) = (0.0, 0.0);
                    for i in 0..n {
                        let t = (f64::from(i) + 0.5) / f64::from(n);
                        let push = 0.5 * PI * (PI * t).sin() / f64::from(n);
                        re += push * (2.0 * PI * hz * contact * t).cos();
                        im += push * (2.0 * PI * hz * contact * t).sin();
                    }
                    re * re + im * im
                };
                let spread = [-1.5, -1.0, -0.5, 0.0, 0.5, 1.0, 1.5f64];
                let weights = spread.map(|sds| (-0.5 * sds * sds).exp());
                let mean: f64 = spread.iter().zip(weights).map(|(sds, w)| w * power(beater.contact_s * (sds * CONTACT_SPREAD).exp())).sum();
                let wanted = mean / weights.iter().sum::<f64>();
                assert!((blow.power_at(hz, 1.0) - wanted).abs() < 1e-4 * wanted + 1e-7, "{} at {hz} Hz", beater.name);
            }
        }
    }

    proptest! {
        /// The harder the beater the more of the highs, and no gap in between.
        #[test]
        fn harder_beaters_bring_out_more(hz in 20.0f64..3000.0) {
            let powers = BEATERS.map(|beater| Blow { beater: beater.kind, spot: 0.25, left_in: false }.power_at(hz, 1.0));
            prop_assert!(powers.iter().all(|power| *power > 0.0 && *power <= 1.0));
            prop_assert!(powers[5] > powers[0] && powers[4] > powers[1] && powers[3] > powers[0], "{powers:?}");
        }
    }

    #[test]
    fn blows_off_the_head_are_refused_in_words() {
        let blow = |spot| Blow { beater: BeaterKind::HardFelt, spot, left_in: true };
        assert!(blow(0.5).validate().is_ok());
        for spot in [1.2, -0.1, f64::NAN] {
            assert!(blow(spot).validate().unwrap_err().to_string().ends_with('.'), "{spot}");
        }
        assert!(Blow::usual(DrumKind::Snare).is_none());
        assert_eq!(Blow::usual(DrumKind::Kick).map(|blow| blow.beater), Some(BeaterKind::Felt));
        assert!(BEATERS.iter().enumerate().all(|(i, info)| info.kind as usize == i), "an entry is found by its place");
    }
}
