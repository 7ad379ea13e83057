//! Things of the player's own making: measured with a ruler and weighed on a kitchen scale.
//!
//! What such a thing does to a head is guessed from its mass: over the catalogue's devices the resistance of an area grows about as its mass
//! does (from experience, no published source). Tests correct the guess like any other.

use super::footprint::Footprint;
use super::invalid::InvalidMade;
use super::prior::{MADE_LN_SD, Prior};
use crate::plain_name;
use arrayvec::ArrayString;
use serde::{Deserialize, Serialize};

/// Most letters of a name, and the bytes that they may take.
pub const LONGEST_NAME: usize = 40;
const NAME_BYTES: usize = 3 * LONGEST_NAME;
/// Resistance at 200 Hz of an area with a mass of 1 kg/m2, N s/m3.
const RESISTANCE_OF_MASS: f64 = 400.0;
const EXPONENT: f64 = 0.25;
/// Mass of a thing of a hand's breadth, kg.
const HANDS_BREADTH_KG: f64 = 0.003;
/// Sizes (m) and masses (kg) that a thing on a drum can have, and the heaviest for its size, kg/m2.
const SIZES: std::ops::RangeInclusive<f64> = 0.005..=1.0;
const MASSES: std::ops::RangeInclusive<f64> = 0.000_1..=2.0;
const HEAVIEST: f64 = 30.0;

/// A flat thing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Made {
    /// What it is called.
    #[cfg_attr(feature = "schema", schema(value_type = String, max_length = 40))]
    pub name: ArrayString<NAME_BYTES>,
    /// m.
    pub length_m: f64,
    /// m.
    pub width_m: f64,
    /// kg.
    pub mass_kg: f64,
}

impl Made {
    /// Checks that such a thing can be.
    pub fn validate(&self) -> Result<(), InvalidMade> {
        if plain_name(&self.name) != self.name.trim() {
            return Err(InvalidMade::UnseenLetters);
        }
        if self.name.trim().is_empty() {
            return Err(InvalidMade::NoName);
        }
        if self.name.chars().count() > LONGEST_NAME {
            return Err(InvalidMade::LongName);
        }
        if ![self.length_m, self.width_m].iter().all(|size| SIZES.contains(size)) {
            return Err(InvalidMade::Size);
        }
        if !MASSES.contains(&self.mass_kg) {
            return Err(InvalidMade::Weight);
        }
        if self.areal_mass() > HEAVIEST {
            return Err(InvalidMade::TooHeavy { grams: 1000.0 * self.mass_kg });
        }
        Ok(())
    }

    /// kg/m2.
    fn areal_mass(&self) -> f64 {
        self.mass_kg / (self.length_m * self.width_m)
    }

    /// What it does, guessed from its mass.
    pub(super) fn prior(&self) -> Prior {
        let mass = self.areal_mass();
        Prior { resistance: RESISTANCE_OF_MASS * mass, resistance_ln_sd: MADE_LN_SD, exponent: EXPONENT, mass }
    }

    /// How much more attack it takes than a thing of a hand's breadth and three grams, of which the catalogue's amounts are: as its resistance
    /// times its area, which over the catalogue's flat things is about how their attack goes (from experience, no published source).
    pub(super) fn attack_times(&self) -> f64 {
        self.mass_kg / HANDS_BREADTH_KG
    }

    /// What it covers in the catalogue's amounts of such things: flat, folded once, a third of it hanging onto the head.
    pub(super) fn footprint(&self, amount: usize) -> Footprint {
        let (long, short) = (self.length_m.max(self.width_m), self.length_m.min(self.width_m));
        match amount {
            0 => Footprint::Strip { length: long, width: short },
            1 => Footprint::Strip { length: short.max(0.5 * long), width: short.min(0.5 * long) },
            _ => Footprint::OverHoop { length: short, overlap: long / 3.0 },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::placement::Placement;
    use super::*;
    use proptest::prelude::*;

    fn cloth() -> Made {
        Made { name: ArrayString::from("cloth").unwrap(), length_m: 0.4, width_m: 0.4, mass_kg: 0.035 }
    }

    #[test]
    fn a_weighed_cloth_is_about_what_the_catalogue_says_of_one() {
        let prior = cloth().prior();
        let thin = super::super::device_info(super::super::DeviceKind::ThinCloth).prior;
        assert!((prior.mass / 0.219 - 1.0).abs() < 0.01, "35 g on 0.16 m2");
        assert!((prior.resistance / thin.resistance).ln().abs() < 2.0 * MADE_LN_SD);
    }

    #[test]
    fn what_cannot_be_is_refused_in_words() {
        let nameless = ArrayString::from("  ").unwrap();
        let refused = [
            (Made { mass_kg: -0.035, ..cloth() }, "weight"),
            (Made { mass_kg: f64::NAN, ..cloth() }, "weight"),
            (Made { length_m: 4.0, ..cloth() }, "Length"),
            (Made { width_m: 0.0, ..cloth() }, "Length"),
            (Made { length_m: 0.01, width_m: 0.01, mass_kg: 0.1, ..cloth() }, "too heavy"),
            (Made { name: nameless, ..cloth() }, "name"),
            (Made { name: ArrayString::from(&"é".repeat(41)).unwrap(), ..cloth() }, "too long"),
        ];
        for (made, word) in refused {
            let said = made.validate().unwrap_err().to_string();
            assert!(said.contains(word) && said.ends_with('.'), "{said}");
        }
        assert_eq!(cloth().validate(), Ok(()));
        assert_eq!(Made { name: ArrayString::from(&"é".repeat(40)).unwrap(), ..cloth() }.validate(), Ok(()));
    }

    proptest! {
        #[test]
        fn folding_changes_neither_mass_nor_what_is_covered_twice(length in 0.02f64..0.5, width in 0.02f64..0.5) {
            let made = Made { length_m: length, width_m: width, ..cloth() };
            let Footprint::Strip { length: long, width: short } = made.footprint(1) else { panic!("a strip") };
            prop_assert!((2.0 * long * short - length * width).abs() < 1e-12);
            prop_assert!(long >= short);
        }

        /// What weighs more takes more of the attack, a hand's breadth of three grams what the catalogue says, and nothing takes more than a thick
        /// cloth over all of the head.
        #[test]
        fn the_heavier_the_more_attack_it_takes(mass_kg in 0.0002f64..0.5, amount in 0usize..3) {
            let attack = |mass_kg: f64| Placement { amount, made: Some(Made { mass_kg, ..cloth() }), ..Placement::parse("own_1").unwrap() }.attack_db();
            let usual = Placement { amount, ..Placement::parse("own_1").unwrap() }.attack_db();
            prop_assert!((attack(0.003) - usual).abs() < 1e-12);
            prop_assert!(attack(1.2 * mass_kg) >= attack(mass_kg) && attack(mass_kg) > 0.0 && attack(mass_kg) <= 9.0);
            prop_assert!(mass_kg > 0.04 || attack(1.2 * mass_kg) > attack(mass_kg));
        }
    }
}
