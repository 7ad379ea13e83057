//! Where a hole may go: room to the hoop, the collar, the logo and for the reinforcing ring, and how far a microphone reaches through it.

use crate::drum::{Drum, InvalidDrum, Port};
use ember_words::{Said, Words, text, words};
use serde::{Deserialize, Serialize};

const MM_PER_IN: f64 = 25.4;
/// Where a head's collar begins to bend, from the hoop, mm (common practice, no published source).
const COLLAR_MM: f64 = 25.0;
/// Film left between two things that are stuck or bent, mm.
const SPARE_MM: f64 = 5.0;
/// Width of a microphone boom's clip and capsule across a hole, mm (common practice, no published source).
const MICROPHONE_MM: f64 = 65.0;

/// What a hole's place is checked against.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceAsk {
    /// The hole.
    pub port: Port,
    /// Width of the reinforcing ring outside the hole, mm; 0 without one.
    pub ring_mm: f64,
    /// Diameter of a logo or picture in the middle of the head that is to stay whole, mm; 0 without one.
    pub logo_mm: f64,
}

/// One thing that was checked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceCheck {
    /// Whether it fits.
    pub fits: bool,
    /// The same as a sentence.
    pub sentence: Words,
}

/// Where the hole is, in figures, and whether it may be there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceFound {
    /// Of the hole's middle from the head's, seen from outside: to the right, and up, mm.
    pub right_mm: f64,
    /// How far above the head's middle it lies, mm.
    pub up_mm: f64,
    /// From the hole's middle to the nearest hoop, mm.
    pub to_hoop_mm: f64,
    /// What was checked.
    pub checks: Vec<PlaceCheck>,
    /// Whether it fits.
    pub fits: bool,
}

/// Why a hole cannot be there at all.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum InvalidPlace {
    /// Rings and logos have other sizes.
    #[said("A reinforcing ring is up to 80 mm wide, a logo up to 1000 mm.")]
    RingOrLogo,
    /// Such a head cannot have it.
    #[said(transparent)]
    Drum(#[from] InvalidDrum),
}

impl PlaceAsk {
    /// Checks that there can be such a hole in the other head of `drum` at all.
    pub fn validate(&self, drum: &Drum) -> Result<(), InvalidPlace> {
        if !(0.0..=80.0).contains(&self.ring_mm) || !(0.0..=1000.0).contains(&self.logo_mm) {
            return Err(InvalidPlace::RingOrLogo);
        }
        let with_hole = Drum { ports: vec![self.port], lower_mesh: false, ..drum.clone() };
        Ok(with_hole.validate()?)
    }
}

/// Checks where a hole in the other head of `drum` is to go.
pub fn check_place(drum: &Drum, ask: &PlaceAsk) -> PlaceFound {
    let (radius, hole) = (drum.diameter_in * MM_PER_IN / 2.0, ask.port.diameter_in * MM_PER_IN / 2.0);
    let (right_in, up_in) = ask.port.middle_in(drum.diameter_in);
    let from_middle = ask.port.radius * radius;
    let to_hoop = radius - from_middle;
    let check = |fits: bool, sentence: Words| PlaceCheck { fits, sentence };
    let mut checks = Vec::new();
    let to_collar = to_hoop - hole - ask.ring_mm - COLLAR_MM;
    let outside = if ask.ring_mm > 0.0 { text!("the ring") } else { text!("the hole") };
    checks.push(if to_collar >= 0.0 {
        check(true, words!("{to_collar:.0} mm of flat film between {outside} and the collar."))
    } else if to_collar > -COLLAR_MM {
        check(
            false,
            words!("{outside} runs {:.0} mm onto the collar, where the film bends: move it inwards or make it smaller.", -to_collar),
        )
    } else {
        check(false, words!("{outside} runs {:.0} mm under the hoop: move it inwards or make it smaller.", -to_collar - COLLAR_MM))
    });
    if ask.logo_mm > 0.0 {
        let to_logo = from_middle - hole - ask.ring_mm - ask.logo_mm / 2.0;
        checks.push(if to_logo >= SPARE_MM {
            check(true, words!("{to_logo:.0} mm to the logo."))
        } else {
            // Outwards helps only as far as the collar leaves room.
            let short = (SPARE_MM - to_logo).max(1.0);
            let advice = if to_collar >= short {
                text!("move the hole outwards, or accept it")
            } else {
                text!("a smaller hole clears it, or accept it")
            };
            check(false, words!("The logo is cut by {short:.0} mm, or touched: {advice}."))
        });
    }
    let room = 2.0 * hole - MICROPHONE_MM;
    checks.push(if room >= 0.0 {
        // Straight through, and slanted towards the batter's middle.
        let slant = (from_middle / (drum.depth_in * MM_PER_IN)).atan().to_degrees();
        let reach = (drum.depth_in * MM_PER_IN).hypot(from_middle);
        check(true, words!("A microphone gets in: {reach:.0} mm of boom from the hole to the beater's spot, {slant:.0} degrees aslant."))
    } else {
        check(true, words!("An ordinary microphone does not get through ({:.0} mm needed).", MICROPHONE_MM))
    });
    if ask.ring_mm == 0.0 {
        checks.push(check(true, words!("Without a reinforcing ring the film may tear from any nick.")));
    }
    for check in &mut checks {
        check.sentence = check.sentence.clone().capital();
    }
    PlaceFound {
        right_mm: right_in * MM_PER_IN,
        up_mm: up_in * MM_PER_IN,
        to_hoop_mm: to_hoop,
        fits: checks.iter().all(|check| check.fits),
        checks,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{DrumKind, usual_place};

    fn asked(diameter_in: f64, radius: f64, ring_mm: f64, logo_mm: f64) -> PlaceFound {
        let drum = BenchDrum::usual(DrumKind::Kick);
        check_place(&drum, &PlaceAsk { port: Port { diameter_in, radius, angle_deg: 60.0 }, ring_mm, logo_mm })
    }

    #[test]
    fn the_usual_place_is_clear_and_others_say_by_how_much_not() {
        // 22 in: 279.4 mm from the middle to the hoop.
        let place = usual_place(5.0, 22.0);
        let found = asked(5.0, place.radius, 12.0, 0.0);
        assert!(found.fits, "{found:?}");
        assert!((found.right_mm.hypot(found.up_mm) + found.to_hoop_mm - 279.4).abs() < 1e-6);
        let outside = asked(5.0, 0.68, 20.0, 0.0);
        assert!(!outside.fits && outside.checks[0].sentence.contains("collar"), "{outside:?}");
        let logo = asked(5.0, 0.4, 20.0, 250.0);
        assert!(!logo.fits && logo.checks[1].sentence.contains("logo"), "{logo:?}");
        assert!(asked(2.0, 0.4, 0.0, 0.0).checks.iter().any(|check| check.sentence.contains("does not get through")));
    }

    #[test]
    fn what_cannot_be_is_a_sentence() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        let fault = |diameter_in, radius, ring_mm| {
            PlaceAsk { port: Port { diameter_in, radius, angle_deg: 0.0 }, ring_mm, logo_mm: 0.0 }
                .validate(&drum)
                .err()
                .map(|error| error.to_string())
        };
        assert!(
            fault(30.0, 0.0, 10.0).unwrap().contains("too large") && fault(5.0, 0.99, 10.0).is_some() && fault(5.0, 0.5, 900.0).is_some()
        );
        assert_eq!(fault(5.0, 0.5, 20.0), None);
        let open = drum.with_front(&crate::drum::Front::Off);
        let ask = PlaceAsk { port: usual_place(5.0, 22.0), ring_mm: 20.0, logo_mm: 0.0 };
        assert!(ask.validate(&open).unwrap_err().to_string().contains("no front head"));
    }
}
