//! What the air in and around a drum adds to its heads: mass and spring for each mode, and what goes from one head to the other.
//!
//! Heads are written in the modes of a membrane, n = 1, 2, ... at one number of nodal diameters m, of mean square 1 over the disc. Both heads
//! count as moving the same way where both displacements point from the batter to the lower head.
//!
//! Inside, the wave equation between rigid walls has the modes J_m(j' r / a) with j' the zeros of J_m' (Fletcher & Rossing, *The Physics of
//! Musical Instruments*, 8.3; Kinsler et al., *Fundamentals of Acoustics*, 9.4). Below the pitch at which they begin to travel they fall off
//! along the shell at k = sqrt((j'/a)^2 - (omega/c)^2) and act as masses: rho / k coth(k L) on the head itself and -rho / k / sinh(k L)
//! between the two. The plane wave (m = 0, j' = 0) is the spring rho c^2 / L, with a third of the column's mass on each head and a sixth
//! between them (what its cotangent begins with). With an open end there is no pressure there: rho / k tanh(k L), and the whole column.
//!
//! Outside, a mode in a wall carries rho 2 integral F(q)^2 dq a, F being its Hankel transform; of a drum without a wall round it a part of it.

use super::{air_spring, open_length};
use crate::numeric::bisect;
use crate::numeric::{bessel_j, bessel_zero};
use crate::physics::{AIR_DENSITY, SPEED_OF_SOUND};
use nalgebra::{DMatrix, DVector};
use std::sync::LazyLock;

/// Nodal diameters looked at, and zeros of a head's modes.
pub(super) const MOST_DIAMETERS: usize = 8;
pub(super) const HIGHEST_ZERO: f64 = 12.3;
/// Modes of the column taken for each number of nodal diameters.
const COLUMN_MODES: usize = 6;
/// Of the air outside that a mode in a wall carries, what one at the end of a pipe carries: for the mean flow 0.6133 against 8 / (3 pi) (Levine
/// & Schwinger, Physical Review 73, 1948); the more diameters, the nearer to the head the air stays (from experience, no published source).
const WITHOUT_WALL: [f64; 4] = [0.7224, 0.80, 0.85, 0.90];
/// How far the integral over the wave number goes, and in what steps (in units of 1 / a).
const FARTHEST: f64 = 60.0;
const STEP: f64 = 0.05;

/// Of one number of nodal diameters: figures that only depend on the shape of a disc.
struct Shapes {
    zeros: Vec<f64>,
    /// How much each mode moves the mean; 0 for modes with diameters.
    volumes: DVector<f64>,
    /// Zeros of the derivative: the column's modes. The plane wave is 0.
    column: Vec<f64>,
    /// Of each head mode and column mode, the mean of their product.
    overlap: DMatrix<f64>,
    /// 2 times the integral of the product of two Hankel transforms over the wave number.
    outside: DMatrix<f64>,
}

static SHAPES: LazyLock<Vec<Shapes>> = LazyLock::new(|| (0..=MOST_DIAMETERS).map(Shapes::new).collect());

impl Shapes {
    fn new(m: usize) -> Self {
        let zeros: Vec<f64> = (1..).map(|n| bessel_zero(m, n)).take_while(|zero| *zero <= HIGHEST_ZERO).collect();
        // Twice the integral of J^2 r dr to a zero is J(m+1)^2. The signs are those of [`super::membrane::MembraneMode`], since motions are mixed of them.
        let scale: Vec<f64> = zeros.iter().map(|zero| 1.0 / bessel_j(m + 1, *zero).abs()).collect();
        let slope = |x: f64| if m == 0 { -bessel_j(1, x) } else { 0.5 * (bessel_j(m - 1, x) - bessel_j(m + 1, x)) };
        let column = column_zeros(m, &slope);
        // The integral of J(z r) J(x r) r dr from 0 to 1, where J(z) = 0: z J'(z) J(x) / (x^2 - z^2) (Abramowitz & Stegun 11.4.2).
        let product = |n: usize, x: f64| {
            let z = zeros[n];
            let apart = x * x - z * z;
            // At its own zero: half of J(m+1)^2.
            if apart.abs() < 1e-6 { 0.5 * bessel_j(m + 1, z).powi(2) } else { z * slope(z) * bessel_j(m, x) / apart }
        };
        let of_column = |x: f64| {
            let square = if x == 0.0 { 1.0 } else { (1.0 - (m as f64 / x).powi(2)) * bessel_j(m, x).powi(2) };
            1.0 / square.sqrt()
        };
        let count = zeros.len();
        let overlap = DMatrix::from_fn(count, column.len(), |n, l| 2.0 * scale[n] * of_column(column[l]) * product(n, column[l]));
        let mut outside = DMatrix::zeros(count, count);
        let mut q = 0.5 * STEP;
        while q < FARTHEST {
            let transformed = DVector::from_fn(count, |n, _| scale[n] * product(n, q));
            outside.ger(2.0 * STEP, &transformed, &transformed, 1.0);
            q += STEP;
        }
        let volume = |n: usize| if m == 0 { 2.0 * scale[n] * bessel_j(1, zeros[n]) / zeros[n] } else { 0.0 };
        Self { volumes: DVector::from_fn(count, |n, _| volume(n)), zeros, column, overlap, outside }
    }
}

/// The first zeros of J_m' that shape the column's modes, 0 for its plane wave among them.
fn column_zeros(m: usize, slope: &impl Fn(f64) -> f64) -> Vec<f64> {
    let mut zeros = if m == 0 { vec![0.0] } else { Vec::new() };
    let mut low = if m == 0 { 1.0 } else { 0.5 * m as f64 + 0.2 };
    while zeros.len() < COLUMN_MODES {
        let high = low + 0.25;
        if slope(low) * slope(high) <= 0.0 {
            let sign = slope(low).signum();
            zeros.push(bisect(low, high, 50, |x| slope(x).signum() == sign));
        }
        low = high;
    }
    zeros
}

/// Zeros of the modes of `m` diameters that are kept.
pub(super) fn zeros(m: usize) -> &'static [f64] {
    SHAPES.get(m).map_or(&[], |shapes| &shapes.zeros)
}

/// Mean displacement of the modes of `m` diameters.
pub(super) fn volumes(m: usize) -> &'static DVector<f64> {
    &SHAPES[m.min(MOST_DIAMETERS)].volumes
}

/// The air's part in the motion of both heads at one number of nodal diameters: first the batter's modes, then, with a lower head, as many of
/// the lower's.
#[derive(Debug, Clone)]
pub(super) struct AirLoad {
    /// kg/m2.
    pub mass: DMatrix<f64>,
    /// N/m3.
    pub spring: DMatrix<f64>,
}

impl AirLoad {
    /// Of a drum of `radius` and `depth` m, with a lower head or open there, at about `hz`.
    pub fn new(m: usize, radius: f64, depth: f64, two_heads: bool, hz: f64) -> Self {
        let shapes = &SHAPES[m.min(MOST_DIAMETERS)];
        let count = shapes.zeros.len();
        let size = if two_heads { 2 * count } else { count };
        let (mut mass, mut spring) = (DMatrix::zeros(size, size), DMatrix::zeros(size, size));
        let mut add = |to_mass: bool, of: &DMatrix<f64>, own: f64, between: f64| {
            let to = if to_mass { &mut mass } else { &mut spring };
            for (row, column, times) in [(0, 0, own), (count, count, own), (0, count, between), (count, 0, between)] {
                if row < size && column < size {
                    let mut part = to.view_mut((row, column), (count, count));
                    part += times * of;
                }
            }
        };
        let free = WITHOUT_WALL[m.min(WITHOUT_WALL.len() - 1)];
        add(true, &shapes.outside, free * AIR_DENSITY * radius, 0.0);
        let wave = 2.0 * std::f64::consts::PI * hz / SPEED_OF_SOUND;
        for (l, zero) in shapes.column.iter().enumerate() {
            let overlap = shapes.overlap.column(l);
            let product = overlap * overlap.transpose();
            if *zero == 0.0 {
                if two_heads {
                    add(false, &product, air_spring(depth), -air_spring(depth));
                    add(true, &product, AIR_DENSITY * depth / 3.0, AIR_DENSITY * depth / 6.0);
                } else {
                    add(true, &product, AIR_DENSITY * open_length(depth, radius), 0.0);
                }
                continue;
            }
            // Where a mode of the column would travel it is taken as one that just does not.
            let falls = ((zero / radius).powi(2) - wave * wave).max((0.3 * zero / radius).powi(2)).sqrt();
            let along = falls * depth;
            if two_heads {
                add(true, &product, AIR_DENSITY / falls / along.tanh(), -AIR_DENSITY / falls / along.sinh());
            } else {
                add(true, &product, AIR_DENSITY / falls * along.tanh(), 0.0);
            }
        }
        Self { mass, spring }
    }
}

#[cfg(test)]
mod tests {
    use super::super::membrane::{Member, MembraneMode};
    use super::*;

    /// Motions are put together from these modes here and drawn with the membrane's elsewhere: one of the other sign would bend a mixed motion the
    /// wrong way. (It did: the heads against each other moved half as much air again as they can, and lost too much to whatever lay on them.)
    #[test]
    fn modes_have_the_signs_of_the_membranes() {
        for m in 0..=MOST_DIAMETERS {
            for (n, zero) in SHAPES[m].zeros.iter().enumerate() {
                let membrane = MembraneMode::new(m, n + 1, Member::Cos);
                assert!((membrane.zero - zero).abs() < 1e-9);
                assert!((SHAPES[m].volumes[n] - membrane.volume()).abs() < 1e-9, "({m},{})", n + 1);
                // The column's first mode of these diameters, J(j' r), has one sign from the middle to the rim.
                let column = SHAPES[m].column[0];
                let points = (0..400).map(|i| (f64::from(i) + 0.5) / 400.0);
                let product: f64 = points.map(|r| membrane.radial(r) * bessel_j(m, column * r) * r).sum();
                assert!(product * SHAPES[m].overlap[(n, 0)] > 0.0, "({m},{})", n + 1);
            }
        }
    }

    /// Zeros of J' as tabulated (Abramowitz & Stegun, table 9.5): j'(0,2) 3.83171, j'(1,1) 1.84118, j'(2,1) 3.05424, j'(3,2) 8.01524.
    #[test]
    fn the_columns_modes_are_the_tabulated_ones() {
        let at = |m: usize, l: usize| SHAPES[m].column[l];
        assert_eq!(at(0, 0), 0.0);
        for (found, wanted) in [(at(0, 1), 3.83171), (at(1, 0), 1.84118), (at(2, 0), 3.05424), (at(3, 1), 8.01524)] {
            assert!((found - wanted).abs() < 1e-5, "{found} {wanted}");
        }
    }

    /// A rigid piston in a wall carries 8 rho a / (3 pi) (Kinsler et al., *Fundamentals of Acoustics*, 7.5). Written in enough modes of a head,
    /// that is what comes out; four modes of it already have nine tenths.
    #[test]
    fn a_piston_carries_what_the_handbook_says() {
        let shapes = &SHAPES[0];
        let carried = (shapes.volumes.transpose() * &shapes.outside * &shapes.volumes)[(0, 0)];
        let wanted = 8.0 / (3.0 * std::f64::consts::PI);
        assert!(carried < wanted && carried > 0.85 * wanted, "{carried} {wanted}");
    }

    /// Every column mode of a disc is orthogonal to the others, so that what two heads have of them adds up to the head itself.
    #[test]
    fn a_head_is_made_of_the_columns_modes() {
        for m in 0..5 {
            let shapes = &SHAPES[m];
            let lowest: f64 = shapes.overlap.row(0).iter().map(|part| part * part).sum();
            assert!((0.98..=1.0 + 1e-9).contains(&lowest), "m = {m}: {lowest}");
        }
    }

    /// Far apart the heads know nothing of each other but for the plane wave, and near each other they move one film of air: moving the same
    /// way costs less than against each other.
    #[test]
    fn heads_give_each_other_less_the_deeper_the_drum() {
        let between = |m: usize, depth: f64| {
            let load = AirLoad::new(m, 0.15, depth, true, 150.0);
            let count = zeros(m).len();
            -load.mass[(0, count)] / load.mass[(0, 0)]
        };
        for m in 1..4 {
            assert!(between(m, 0.1) > 2.0 * between(m, 0.2) && between(m, 0.4) < 0.02, "{m}");
        }
        let spring = AirLoad::new(0, 0.15, 0.2, true, 150.0).spring;
        let volume = volumes(0)[0];
        assert!((spring[(0, 0)] / (air_spring(0.2) * volume * volume) - 1.0).abs() < 1e-6);
    }
}
