//! A cymbal as a plate of bronze: how fast bending waves run in it, and where a field of many such waves moves it most.
//!
//! A cymbal has hundreds of modes, far too many to tell apart, so that an octave of them is looked at together: on the mean over its modes
//! all of a plate moves alike but near its free edge, where every wave meets its own reflection.

use super::Drum;
use crate::physics::{BRONZE_DENSITY, BRONZE_POISSON};
use crate::units::metres;
use num_complex::Complex64;
use std::f64::consts::{FRAC_PI_2, PI};
use std::sync::LazyLock;

/// Young's modulus of cast bronze with a fifth of tin, Pa (usual handbook value).
const YOUNG: f64 = 105e9;
/// Mass per area of cymbals that were not weighed, kg/m2 (from experience, no published source): a 16 in one of 1.1 kg, a 14 in one of
/// a hi-hat of 0.95 kg.
const USUAL_AREAL_MASS: f64 = 8.5;
const USUAL_AREAL_MASS_HI_HAT: f64 = 9.6;
/// The bell reaches so far (part of the radius), and being domed and held moves so much less: its mean squared motion against that of the
/// bow (from experience, no published source).
const BELL: f64 = 0.25;
const BELL_GAIN: f64 = 0.25;

/// A cymbal.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Plate {
    /// m.
    pub radius: f64,
    /// kg/m2.
    pub areal_mass: f64,
}

impl Plate {
    /// From its size and what it weighs, if that is known.
    pub fn of(drum: &Drum) -> Self {
        let radius = metres(drum.diameter_in) / 2.0;
        let usual = if drum.kind == super::DrumKind::HiHat { USUAL_AREAL_MASS_HI_HAT } else { USUAL_AREAL_MASS };
        Self { radius, areal_mass: drum.weight_g.map_or(usual, |weight_g| 1e-3 * weight_g / (PI * radius * radius)) }
    }

    /// Thickness of an even plate of this mass, m.
    pub fn thickness(&self) -> f64 {
        self.areal_mass / BRONZE_DENSITY
    }

    /// Wave number of bending waves of `hz`, 1/m: (omega^2 m / D)^(1/4), with the stiffness D = E h^3 / 12 (1 - nu^2) (Fletcher & Rossing,
    /// The Physics of Musical Instruments, 3.6).
    pub fn wave_number(&self, hz: f64) -> f64 {
        let stiffness = YOUNG * self.thickness().powi(3) / (12.0 * (1.0 - BRONZE_POISSON * BRONZE_POISSON));
        ((2.0 * PI * hz).powi(2) * self.areal_mass / stiffness).powf(0.25)
    }

    /// How the octave about `hz` moves.
    pub fn octave(&self, hz: f64) -> Octave {
        // Third octaves stand for it.
        let waves = [-1.0f64, 0.0, 1.0].map(|third| self.wave_number(hz * 2f64.powf(third / 3.0)) * self.radius);
        let unscaled = Octave { waves, mean: 1.0 };
        Octave { mean: RINGS.iter().map(|r| unscaled.gain(*r)).sum::<f64>() / RINGS.len() as f64, ..unscaled }
    }
}

/// The many waves of an octave on a cymbal.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Octave {
    /// Wave numbers times the cymbal's radius.
    waves: [f64; 3],
    mean: f64,
}

impl Octave {
    /// Mean squared motion at `r` (0 to 1: part of the radius), against its mean over the whole cymbal.
    pub fn gain(&self, r: f64) -> f64 {
        let to_edge = (1.0 - r).max(0.0);
        let edge = self.waves.iter().map(|wave| edge_gain(wave * to_edge)).sum::<f64>() / self.waves.len() as f64;
        edge * if r < BELL { BELL_GAIN } else { 1.0 } / self.mean
    }
}

/// Radii of rings of equal area.
static RINGS: LazyLock<[f64; 40]> = LazyLock::new(|| std::array::from_fn(|i| ((i as f64 + 0.5) / 40.0).sqrt()));

/// Mean squared motion near the free edge of a large plate against that far from it, for bending waves from all directions: `x` is the
/// distance from the edge times the wave number.
///
/// Each wave meets its reflection and a near field, such that neither bending moment nor shear force is left at the edge (Cremer, Heckl &
/// Petersson, Structure-Borne Sound, 6.1); straight on, that makes the fourfold motion of a beam's free end.
pub fn edge_gain(x: f64) -> f64 {
    let at = x / STEP;
    let index = at as usize;
    match (EDGE.get(index), EDGE.get(index + 1)) {
        (Some(here), Some(next)) => here + (next - here) * (at - index as f64),
        _ => 1.0,
    }
}

const STEP: f64 = 0.05;
const FURTHEST: usize = 600;
const DIRECTIONS: usize = 90;

static EDGE: LazyLock<Vec<f64>> = LazyLock::new(|| {
    let mean = |x: f64| {
        let directions = (0..DIRECTIONS).map(|i| (i as f64 + 0.5) * FRAC_PI_2 / DIRECTIONS as f64);
        directions.map(|angle| from_direction(x, angle)).sum::<f64>() / DIRECTIONS as f64
    };
    (0..=FURTHEST).map(|i| mean(i as f64 * STEP)).collect()
});

/// The same for waves that come at `angle` from straight on.
fn from_direction(x: f64, angle: f64) -> f64 {
    let (across, along2) = (angle.cos(), angle.sin().powi(2));
    let near = (1.0 + along2).sqrt();
    let (bent, bent_near) = (across * across + BRONZE_POISSON * along2, 1.0 + along2 - BRONZE_POISSON * along2);
    let sheared = across * (across * across + (2.0 - BRONZE_POISSON) * along2);
    let sheared_near = near * (near * near - (2.0 - BRONZE_POISSON) * along2);
    let ratio = sheared_near * bent / bent_near;
    let reflected = Complex64::new(ratio, sheared) / Complex64::new(-ratio, sheared);
    let near_field = (1.0 + reflected) * bent / bent_near;
    let motion = Complex64::cis(across * x) + reflected * Complex64::cis(-across * x) + near_field * (-near * x).exp();
    0.5 * motion.norm_sqr()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// A free end of a beam moves with the fourfold mean square (Blevins, Formulas for Natural Frequency and Mode Shape, 8-1: amplitude 2 at
    /// a mean square of 1); far from the edge nothing is left of it.
    #[test]
    fn straight_on_it_is_a_beams_free_end() {
        assert!((from_direction(0.0, 0.0) - 4.0).abs() < 1e-9);
        assert!((edge_gain(100.0) - 1.0).abs() < 1e-12 && (edge_gain(25.0) - 1.0).abs() < 0.1);
        assert!(edge_gain(0.0) > 2.0 && edge_gain(0.0) < 4.0, "{}", edge_gain(0.0));
    }

    proptest! {
        /// All energy that comes in goes out again: the edge takes none.
        #[test]
        fn every_wave_is_reflected_whole(angle in 0.0f64..1.55) {
            let far: f64 = (0..400).map(|i| from_direction(60.0 + 0.1 * f64::from(i) / angle.cos(), angle)).sum::<f64>() / 400.0;
            prop_assert!((far - 1.0).abs() < 0.1, "{far}");
        }

        /// Common practice, no published source: what lies nearer to the edge mutes more, nearer to the bell less; on the mean over the
        /// cymbal nothing is gained.
        #[test]
        fn the_edge_moves_most_and_the_bell_least(hz in 200f64..8000.0, diameter_in in 12f64..24.0) {
            let drum = Drum { diameter_in, ..crate::bench_drum::BenchDrum::usual(super::super::DrumKind::Cymbal) };
            let plate = Plate::of(&drum);
            let octave = plate.octave(hz);
            prop_assert!(octave.gain(1.0) > 1.3 * octave.gain(0.6) && octave.gain(0.6) > 2.0 * octave.gain(0.15));
            let mean = (0..1000).map(|i| octave.gain(((f64::from(i) + 0.5) / 1000.0).sqrt())).sum::<f64>() / 1000.0;
            prop_assert!((mean - 1.0).abs() < 0.02, "{mean}");
        }
    }
}
