//! How both heads of a drum move together at one number of nodal diameters: films under tension with the air's masses and springs.

use super::Drum;
use super::air_load::{AirLoad, volumes, zeros};
use crate::physics::{AIR_DENSITY, SPEED_OF_SOUND};
use crate::tone::{Mode, Motion};
use nalgebra::{Cholesky, DMatrix};
use std::f64::consts::PI;

/// A mode of which one head has at least so much of the energy of both is that head's alone, where air as a whole is not moved.
const ALONE: f64 = 0.8;
/// A motion of which the batter has less than this part is not stirred by a stick on it.
const LEAST_OF_BATTER: f64 = 0.004;

/// Pitches of the lowest mode of both films without air, Hz: what tension is taken as.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Tensions {
    pub batter_hz: f64,
    pub lower_hz: f64,
}

/// One motion of both heads, for a modal mass of 1 kg per m2 of head.
#[derive(Debug, Clone)]
pub(super) struct HeadMotion {
    pub mode: Mode,
    pub hz: f64,
    /// Displacement in each of the batter's modes, n = 1, 2, ..., and of the lower head's.
    pub batter: Vec<f64>,
    pub lower: Vec<f64>,
}

impl HeadMotion {
    /// Mean displacement of the batter, and of the lower head, towards the lower head.
    pub fn moved(&self) -> (f64, f64) {
        if self.mode.diameters > 0 {
            return (0.0, 0.0);
        }
        let mean = |parts: &[f64]| parts.iter().zip(volumes(0).iter()).map(|(part, volume)| part * volume).sum();
        (mean(&self.batter), mean(&self.lower))
    }

    /// Amplitude decay rate that radiation brings, 1/s: two openings of a body without a wall, each as a source of what its head moves, that
    /// hear each other over the way round the shell (Pierce, *Acoustics*, 4.1 to 4.3: power rho c k^2 / (8 pi) of a source's flow squared, and
    /// between two sources sin(kd) / (kd) of it).
    pub fn radiated(&self, drum: &Drum) -> f64 {
        let (batter, lower) = self.moved();
        let wave = 2.0 * PI * self.hz / SPEED_OF_SOUND;
        let resistance =
            AIR_DENSITY * SPEED_OF_SOUND * (wave * drum.radius()).powi(2) / (4.0 * (1.0 + 0.25 * (wave * drum.radius()).powi(2)));
        let way = wave * (drum.depth() + drum.radius());
        0.5 * resistance * (batter * batter + lower * lower - 2.0 * batter * lower * way.sin() / way)
    }

    /// Of the energy of both heads' films, each mode's part: of the batter's n-th, of the lower's.
    fn energies(&self, batter_mass: f64, lower_mass: f64) -> (Vec<f64>, Vec<f64>) {
        let of = |parts: &[f64], mass: f64| parts.iter().map(|part| mass * part * part).collect::<Vec<f64>>();
        (of(&self.batter, batter_mass), of(&self.lower, lower_mass))
    }
}

/// The heads of one drum with the air's part worked out, for every number of nodal diameters.
pub(super) struct HeadsInAir<'a> {
    pub drum: &'a Drum,
    batter_mass: f64,
    /// None where the drum has one head.
    lower_mass: Option<f64>,
    loads: Vec<AirLoad>,
}

impl<'a> HeadsInAir<'a> {
    /// The heads of `drum`, whose lowest tone is at about `hz`. With an `air` of 1 each mode carries the mass of air that belongs to its own shape;
    /// with 0 all modes carry the same mass, which is right for the lowest ones; between the two the masses are mixed.
    pub fn new(drum: &'a Drum, hz: f64, most_diameters: usize, air: f64) -> Self {
        let lower_mass = drum.lower_film().map(|head| head.areal_mass());
        let about = |m: usize| hz * zeros(m)[0] / zeros(0)[0];
        let alike = drum.areal_mass(drum.batter) - drum.batter.areal_mass();
        let load = |m: usize| {
            let AirLoad { mass, spring } = AirLoad::new(m, drum.radius(), drum.depth(), lower_mass.is_some(), about(m));
            let even = DMatrix::from_diagonal_element(mass.nrows(), mass.nrows(), (1.0 - air) * alike);
            AirLoad { mass: air * mass + even, spring }
        };
        Self { drum, batter_mass: drum.batter.areal_mass(), lower_mass, loads: (0..=most_diameters).map(load).collect() }
    }

    pub fn has_lower(&self) -> bool {
        self.lower_mass.is_some()
    }

    /// Pitch of the lower film against the batter's where nothing is known of it (common practice, no published source): a snare's is cranked up;
    /// without air a thin film lies higher than in it.
    pub fn usual_lower(&self) -> f64 {
        let usual = if self.drum.kind == super::DrumKind::Snare { 1.5 } else { 1.12 };
        usual * self.without_air(1.0, true) / self.without_air(1.0, false)
    }

    pub fn most_diameters(&self) -> usize {
        self.loads.len() - 1
    }

    /// Pitch of the batter's, or the lower film's, lowest mode without air where its overtones in air stand on that of `hz`: (1,1) is taken, as a
    /// tap beside a lug hears it.
    pub fn without_air(&self, hz: f64, lower: bool) -> f64 {
        let mass = if lower { self.lower_mass.unwrap_or(self.batter_mass) } else { self.batter_mass };
        hz * (1.0 + self.loads[1].mass[(0, 0)] / mass).sqrt()
    }

    /// The other way round.
    pub fn in_air(&self, hz: f64, lower: bool) -> f64 {
        hz / self.without_air(1.0, lower)
    }

    /// Whether the lowest motion of `m` nodal diameters lies under `hz`: then what drives the heads back, less what their masses ask for at that
    /// pitch, no longer holds every shape (Sylvester's law of inertia).
    pub fn begins_under(&self, m: usize, tensions: Tensions, hz: f64) -> bool {
        let (mass, stiffness) = self.mass_and_stiffness(m, tensions);
        Cholesky::new(stiffness - (2.0 * PI * hz).powi(2) * mass).is_none()
    }

    /// Motions of `m` nodal diameters, low to high; those that no stick on the batter stirs are left out.
    pub fn motions(&self, m: usize, tensions: Tensions) -> Vec<HeadMotion> {
        let (mass, stiffness) = self.mass_and_stiffness(m, tensions);
        let (size, count) = (mass.nrows(), zeros(m).len());
        let Some(root) = Cholesky::new(mass) else { return Vec::new() };
        let inverse = root.l().try_inverse().unwrap_or_else(|| DMatrix::identity(size, size));
        let eigen = (&inverse * stiffness * inverse.transpose()).symmetric_eigen();
        let shapes = inverse.transpose() * eigen.eigenvectors;
        let mut order: Vec<usize> = (0..size).collect();
        order.sort_by(|a, b| eigen.eigenvalues[*a].total_cmp(&eigen.eigenvalues[*b]));
        let mut motions: Vec<HeadMotion> = Vec::with_capacity(size);
        for k in order {
            let shape = shapes.column(k);
            let unnamed = HeadMotion {
                mode: Mode::alone(m as u8, 0),
                hz: eigen.eigenvalues[k].max(0.0).sqrt() / (2.0 * PI),
                batter: shape.rows(0, count).iter().copied().collect(),
                lower: shape.rows(count, size - count).iter().copied().collect(),
            };
            let mode = self.name(m, &unnamed, &motions);
            motions.push(HeadMotion { mode, ..unnamed });
        }
        let stirred = |motion: &HeadMotion| {
            let (batter, lower) = motion.energies(self.batter_mass, self.lower_mass.unwrap_or(0.0));
            let (batter, lower): (f64, f64) = (batter.iter().sum(), lower.iter().sum());
            batter > LEAST_OF_BATTER * (batter + lower)
        };
        motions.retain(stirred);
        motions
    }

    fn mass_and_stiffness(&self, m: usize, tensions: Tensions) -> (DMatrix<f64>, DMatrix<f64>) {
        let (zeros, load) = (zeros(m), &self.loads[m]);
        let (count, lowest) = (zeros.len(), super::air_load::zeros(0)[0]);
        let (mut mass, mut stiffness) = (load.mass.clone(), load.spring.clone());
        for row in 0..mass.nrows() {
            let (hz, film) =
                if row < count { (tensions.batter_hz, self.batter_mass) } else { (tensions.lower_hz, self.lower_mass.unwrap_or(1.0)) };
            mass[(row, row)] += film;
            stiffness[(row, row)] += film * (2.0 * PI * hz * zeros[row % count] / lowest).powi(2);
        }
        (mass, stiffness)
    }

    /// The name of `motion`, none of which `others` have: the circles that have most of its energy, and whether both heads go the same way.
    fn name(&self, m: usize, motion: &HeadMotion, others: &[HeadMotion]) -> Mode {
        let (batter, lower) = motion.energies(self.batter_mass, self.lower_mass.unwrap_or(0.0));
        let (all_batter, all): (f64, f64) = (batter.iter().sum(), batter.iter().chain(&lower).sum());
        let same: f64 = motion.batter.iter().zip(&motion.lower).map(|(a, b)| a * b).sum();
        let moved = match () {
            () if lower.is_empty() || (m > 0 && all_batter >= ALONE * all) => Motion::Alone,
            () if same >= 0.0 => Motion::Together,
            () => Motion::Opposed,
        };
        let energy = |n: usize| batter.get(n).copied().unwrap_or(0.0) + lower.get(n).copied().unwrap_or(0.0);
        let mut circles: Vec<usize> = (0..batter.len()).collect();
        circles.sort_by(|a, b| energy(*b).total_cmp(&energy(*a)));
        let others_motion = if moved == Motion::Together { Motion::Opposed } else { Motion::Together };
        let names = [moved, others_motion]
            .into_iter()
            .flat_map(|motion| circles.iter().map(move |n| Mode { diameters: m as u8, circles: *n as u8 + 1, motion }));
        names.clone().find(|name| others.iter().all(|other| other.mode != *name)).unwrap_or(Mode::alone(m as u8, 99))
    }
}
