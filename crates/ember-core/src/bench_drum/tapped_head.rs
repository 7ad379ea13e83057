//! A head held by rods that pull unevenly, to practise tuning on.
//!
//! The film's stress is that of a disc pulled outwards along its rim without shear (Michell's solution of the plane elastic
//! problem; Timoshenko & Goodier, Theory of Elasticity, art. 43), so the head is in balance and stiff in one direction more
//! than in the other where rods differ. It moves as a net of springs between the points of a square grid, which shares nothing
//! with the way in which taps are measured or turns are advised.

use super::membrane_grid::{product, total};
use super::strike::{SAMPLE_RATE, gaussian, lower_ratio, upsampled};
use crate::drum::{AIR_DENSITY, Drum, Head, HeadSide, SPEED_OF_SOUND};
use crate::units::metres;
use nalgebra::{DMatrix, DVector};
use rand::{Rng, SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

/// Grid points along the radius: enough for the lowest dozen modes.
const POINTS_PER_RADIUS: f64 = 16.0;
/// Most samples of the output a step of the grid; tight heads need shorter steps.
const OVERSAMPLING: usize = 3;
/// Time from one tap to the next, s.
pub const TAP_SPACING_S: f64 = 1.1;
/// How much the hoop's stiffness smooths what single rods pull.
const HOOP_STIFFNESS: f64 = 0.01;
/// What an eighth of a turn adds to a rod's pull, in units of the even pull.
const A_RODS_EIGHTH: f64 = 0.04;
/// Highest harmonic round the hoop that reaches the film.
const HARMONICS: std::ops::RangeInclusive<usize> = 2..=10;
/// Tones further apart than this are two pitches side by side, not one (from memory of how low tones blend).
const ONE_PITCH_CENTS: f64 = 150.0;
/// Loudest lug's peak, full scale 1.
const USUAL_PEAK: f64 = 0.15;
/// Where one taps: this far inside the hoop, in.
const TAP_INSIDE_IN: f64 = 1.0;

/// What is wrong with a tap, on purpose.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TapManner {
    /// Strength against a good tap.
    pub strength: f64,
    /// Whether the other head is muted with a hand or a cushion.
    pub other_head_muted: bool,
    /// Pitch of another drum that rings along, Hz.
    pub other_drum_hz: Option<f64>,
    /// Whether the snare wires lie on.
    pub wires_on: bool,
    /// Noise of the place, full scale 1.
    pub noise: f64,
}

impl Default for TapManner {
    fn default() -> Self {
        Self { strength: 1.0, other_head_muted: true, other_drum_hz: None, wires_on: false, noise: 1e-4 }
    }
}

/// One head with its rods.
pub struct TappedHead {
    radius: f64,
    lugs: usize,
    /// Pull of each rod, in units in which an even head has 1 everywhere.
    pull: Vec<f64>,
    /// Tension of the even head, N/m.
    tension: f64,
    areal_mass: f64,
    depth: f64,
    net: SpringNet,
    /// Full scale for what the microphone's place hears.
    gain: f64,
}

impl TappedHead {
    /// The batter head of `drum` at `even_hz` (its lowest mode alone, all rods pulling alike), with each rod pulling `pull` times
    /// that, in hoop order.
    pub fn new(drum: &Drum, even_hz: f64, pull: &[f64]) -> Self {
        Self::with_head(drum, drum.batter, even_hz, pull)
    }

    fn with_head(drum: &Drum, head: Head, even_hz: f64, pull: &[f64]) -> Self {
        let radius = drum.radius();
        let areal_mass = drum.areal_mass(head);
        let speed = 2.0 * PI * radius * even_hz / 2.404_825_557_695_773;
        let tension = areal_mass * speed * speed;
        let stress = RimStress::new(pull);
        let net = SpringNet::new(radius, |x, y| stress.at(x / radius, y / radius).map(|s| s * tension));
        let mut head = Self { radius, lugs: pull.len(), pull: pull.to_vec(), tension, areal_mass, depth: drum.depth(), net, gain: 1.0 };
        // A microphone's gain is set once: so that the loudest lug comes to a usual level.
        let mut rng = StdRng::seed_from_u64(0);
        let peak = |sound: Vec<f64>| sound.iter().fold(0.0, |most: f64, x| most.max(x.abs()));
        let loudest =
            (0..4).map(|quarter| peak(head.ringing(quarter * head.lugs / 4, TapManner::default(), 0.02, &mut rng))).fold(0.0, f64::max);
        head.gain = USUAL_PEAK / loudest;
        head
    }

    /// The stand-in for a head of `drum` as its owner left it: uneven by chance of `seed`, with `eighths` of a turn since then on
    /// each rod. What an eighth does here nobody is told; learning has to find it.
    pub fn of(drum: &Drum, side: HeadSide, seed: u64, eighths: &[i32]) -> Self {
        let mut rng = StdRng::seed_from_u64(seed);
        let pull: Vec<f64> =
            eighths.iter().map(|turned| (1.0 + rng.random_range(-0.16..0.16) + A_RODS_EIGHTH * f64::from(*turned)).max(0.05)).collect();
        match (side, drum.lower) {
            (HeadSide::Lower, Some(lower)) => Self::with_head(drum, lower, lower_ratio(drum.kind) * drum.usual_batter_hz(), &pull),
            _ => Self::new(drum, drum.usual_batter_hz(), &pull),
        }
    }

    /// Pull of each rod, as given.
    pub fn pull(&self) -> &[f64] {
        &self.pull
    }

    /// Where `lug` (from 0) is tapped: (x, y) in m from the centre.
    fn tap_place(&self, lug: usize) -> (f64, f64) {
        let angle = 2.0 * PI * lug as f64 / self.lugs as f64;
        let r = (self.radius - metres(TAP_INSIDE_IN)).max(0.5 * self.radius);
        (r * angle.cos(), r * angle.sin())
    }

    /// The pitch of each lug as this head has it, Hz: of the two modes with one nodal diameter, each weighed by how much it
    /// moves where the lug is tapped. `None` where the head is so uneven that no two modes are those, or that they are heard as two.
    ///
    /// Found by subspace iteration on the grid's own springs (Saad, Numerical Methods for Large Eigenvalue Problems, ch. 5).
    pub fn local_pitches(&self) -> Option<Vec<f64>> {
        let (squares, vectors) = self.net.lowest_modes(14, self.areal_mass);
        let likeness = |k: usize| {
            let overlap = |f: &dyn Fn(f64, f64) -> f64| {
                let (mut both, mut a, mut b) = (0.0, 0.0, 0.0);
                for &(cell, x, y) in &self.net.points {
                    let shape = f(x, y);
                    both += shape * vectors[(cell, k)];
                    a += shape * shape;
                    b += vectors[(cell, k)].powi(2);
                }
                both * both / (a * b)
            };
            let radial = |x: f64, y: f64| {
                let r = x.hypot(y).max(1e-9);
                crate::drum::bessel_j(1, crate::drum::bessel_zero(1, 1) * r / self.radius) / r
            };
            overlap(&|x, y| x * radial(x, y)) + overlap(&|x, y| y * radial(x, y))
        };
        let likeness: Vec<f64> = (0..squares.len()).map(likeness).collect();
        let mut order: Vec<usize> = (0..squares.len()).collect();
        order.sort_by(|a, b| likeness[*b].total_cmp(&likeness[*a]));
        let hz = |k: usize| squares[k].max(0.0).sqrt() / (2.0 * PI);
        if likeness[order[1]] < 0.8 || crate::units::cents(hz(order[0]), hz(order[1])).abs() > ONE_PITCH_CENTS {
            return None;
        }
        let local = |lug| {
            let (x, y) = self.tap_place(lug);
            let moves = order[..2].iter().map(|k| (hz(*k), self.net.interpolated(&vectors.column(*k).into_owned(), x, y).powi(2)));
            let (weighed, weight) = moves.fold((0.0, 0.0), |sum, (hz, weight)| (sum.0 + hz * weight, sum.1 + weight));
            weighed / weight
        };
        Some((0..self.lugs).map(local).collect())
    }

    /// A tap near `lug` (from 0) as a microphone over the drum hears it: [`TAP_SPACING_S`] long, full scale 1, at
    /// [`SAMPLE_RATE`]. The same seed always gives the same sound.
    pub fn tap(&self, lug: usize, manner: TapManner, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed.wrapping_mul(7919).wrapping_add(lug as u64));
        let body = self.ringing(lug, manner, TAP_SPACING_S, &mut rng);
        let mut out = upsampled(&body, self.oversampling());
        let peak = USUAL_PEAK * manner.strength * (1.0 + 0.15 * gaussian(&mut rng)).max(0.4);
        let scale = self.gain * peak / USUAL_PEAK;
        let phase = rng.random_range(0.0..2.0 * PI);
        let mut last = 0.0;
        for (n, sample) in out.iter_mut().enumerate() {
            let t = n as f64 / f64::from(SAMPLE_RATE);
            *sample *= scale;
            *sample += 0.3 * peak * gaussian(&mut rng) * (t / 0.0002).min(1.0) * (-t / 0.0015).exp();
            if let Some(hz) = manner.other_drum_hz {
                *sample += 0.5 * peak * (-t / 0.35).exp() * (2.0 * PI * hz * t + phase).sin();
            }
            if manner.wires_on {
                let noise = gaussian(&mut rng);
                *sample += 0.3 * peak * (-t / 0.12).exp() * (noise - 0.9 * last);
                last = noise;
            }
            *sample += manner.noise * gaussian(&mut rng);
        }
        out.iter().map(|x| x.clamp(-1.0, 1.0) as f32).collect()
    }

    /// The noise of the place for `seconds`.
    pub fn quiet(&self, seconds: f64, noise: f64, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed);
        (0..(seconds * f64::from(SAMPLE_RATE)) as usize).map(|_| (noise * gaussian(&mut rng)) as f32).collect()
    }

    /// Samples of the output a step: as many as keep the leap-frog stable (fastest motion under 2 / dt).
    fn oversampling(&self) -> usize {
        let fastest = (2.0 * self.net.held.iter().fold(0.0, |most: f64, held| most.max(*held)) / self.areal_mass).sqrt();
        (2..=OVERSAMPLING).rev().find(|factor| fastest * *factor as f64 / f64::from(SAMPLE_RATE) < 1.7).unwrap_or(1)
    }

    /// `seconds` of the head, at the grid's rate.
    fn ringing(&self, lug: usize, manner: TapManner, seconds: f64, rng: &mut StdRng) -> Vec<f64> {
        let rate = f64::from(SAMPLE_RATE) / self.oversampling() as f64;
        let dt = 1.0 / rate;
        let net = &self.net;
        let (x, y) = self.tap_place(lug);
        // Nobody taps the same spot twice.
        let spot = (x + 0.003 * gaussian(rng), y + 0.003 * gaussian(rng));
        let hit = net.nearest(spot.0, spot.1);
        let (mx, my, height) = (-0.55 * self.radius, 0.5 * self.radius, 0.06);
        let mut hears = vec![0.0; net.held.len()];
        for &(cell, x, y) in &net.points {
            hears[cell] = 1.0 / ((x - mx).powi(2) + (y - my).powi(2) + height * height).sqrt();
        }
        let count = net.points.len() as f64;
        let air_spring = AIR_DENSITY * SPEED_OF_SOUND.powi(2) / self.depth;
        // The other head as a piston on the same air: muted it is heavy with losses, free it rings a third higher.
        let other_square = 1.5 * self.tension * (2.405 / self.radius).powi(2) / self.areal_mass;
        let other_loss = if manner.other_head_muted { 90.0 } else { 4.0 };
        let (loss, loss_by_wave) = (4.0, 0.0032);
        let drag = 1.0 / (1.0 + loss * dt);
        let (mut now, mut before) = (vec![0.0; net.held.len()], vec![0.0; net.held.len()]);
        let (mut bent, mut bent_before) = (now.clone(), now.clone());
        let (mut other, mut other_before) = (0.0, 0.0);
        let (mut mean_before, contact_s) = (0.0, 0.0012);
        let mut heard = [0.0; 2];
        // Losses that grow with curvature act on the change of the springs' force.
        let smear = loss_by_wave * 2.0 / self.tension * self.areal_mass / dt;
        let per_force = dt * dt / self.areal_mass * drag;
        let steps = (seconds * rate) as usize;
        (0..steps)
            .map(|n| {
                let t = n as f64 * dt;
                let push = if t < contact_s { (PI * t / contact_s).sin().powi(2) } else { 0.0 };
                let mean = total(&now) / count;
                let squeezed = air_spring * (mean - other) + 14.0 * (mean - mean_before) / dt;
                mean_before = mean;
                net.force(&now, &mut bent);
                for &(from, to) in &net.rows {
                    let (now, before) = (&now[from..to], &mut before[from..to]);
                    let (bent, bent_before) = (&bent[from..to], &bent_before[from..to]);
                    for i in 0..to - from {
                        let force = bent[i] - squeezed + smear * (bent[i] - bent_before[i]);
                        before[i] = (2.0 * now[i] - (1.0 - loss * dt) * before[i]) * drag + per_force * force;
                    }
                }
                before[hit] += per_force * 3e4 * push;
                std::mem::swap(&mut bent, &mut bent_before);
                let other_force = squeezed / self.areal_mass - other_square * other;
                let other_next = (2.0 * other - (1.0 - other_loss * dt) * other_before + dt * dt * other_force) / (1.0 + other_loss * dt);
                (other, other_before) = (other_next, other);
                std::mem::swap(&mut now, &mut before);
                let here = product(&now, &hears) + 0.2 * count * other / self.radius;
                let acceleration = here - 2.0 * heard[0] + heard[1];
                heard = [here, heard[0]];
                acceleration
            })
            .collect()
    }
}

/// In-plane stress of a disc, in units of its mean, from what its rods pull.
struct RimStress {
    mean: f64,
    /// (harmonic n, amplitude, phase)
    harmonics: Vec<(usize, f64, f64)>,
}

impl RimStress {
    fn new(pull: &[f64]) -> Self {
        let count = pull.len() as f64;
        let mean = pull.iter().sum::<f64>() / count;
        let harmonics = HARMONICS.map(|n| {
            let angle = |lug: usize| n as f64 * 2.0 * PI * lug as f64 / count;
            let cos = pull.iter().enumerate().map(|(lug, p)| (p - mean) * angle(lug).cos()).sum::<f64>() * 2.0 / count;
            let sin = pull.iter().enumerate().map(|(lug, p)| (p - mean) * angle(lug).sin()).sum::<f64>() * 2.0 / count;
            let reach = 1.0 / (1.0 + HOOP_STIFFNESS * ((n * n - 1) as f64).powi(2));
            (n, reach * cos.hypot(sin), sin.atan2(cos))
        });
        Self { mean, harmonics: harmonics.collect() }
    }

    /// (along x, along y, shear) at a point of the unit disc.
    fn at(&self, x: f64, y: f64) -> [f64; 3] {
        let (r, angle) = (x.hypot(y).min(1.0), y.atan2(x));
        let (mut radial, mut around, mut shear) = (self.mean, self.mean, 0.0);
        for &(n, amplitude, phase) in &self.harmonics {
            let k = n as f64;
            let (a, b) = (-amplitude / (2.0 * (k - 1.0)), amplitude / (2.0 * (k + 1.0)));
            let (inner, outer) = (a * r.powi(n as i32 - 2), b * r.powi(n as i32));
            let turn = k * angle - phase;
            radial += (k * (1.0 - k) * inner + (k + 1.0) * (2.0 - k) * outer) * turn.cos();
            around += (k * (k - 1.0) * inner + (k + 2.0) * (k + 1.0) * outer) * turn.cos();
            shear += (k * (k - 1.0) * inner + k * (k + 1.0) * outer) * turn.sin();
        }
        let (c, s) = (angle.cos(), angle.sin());
        [
            radial * c * c + around * s * s - 2.0 * shear * s * c,
            radial * s * s + around * c * c + 2.0 * shear * s * c,
            (radial - around) * s * c + shear * (c * c - s * s),
        ]
    }
}

/// Points of a square grid inside the rim, held by springs to their eight neighbours and to the rim. Cells outside stay at
/// rest; springs lie in arrays over the whole grid, so that a step runs along rows.
struct SpringNet {
    step: f64,
    width: usize,
    half: isize,
    /// Cells inside the rim, row by row: from, to.
    rows: Vec<(usize, usize)>,
    /// (cell, x, y in m) of the points inside.
    points: Vec<(usize, f64, f64)>,
    /// Springs (N/m per m2 of head) of each cell to the next one along x, along y, along the diagonal; and of the next along x to
    /// the next along y.
    right: Vec<f64>,
    above: Vec<f64>,
    diagonal: Vec<f64>,
    counter: Vec<f64>,
    /// What holds each cell to its neighbours and to the rim together.
    held: Vec<f64>,
}

impl SpringNet {
    /// `stress_at`: membrane stress (xx, yy, xy) in N/m at a point in m.
    fn new(radius: f64, stress_at: impl Fn(f64, f64) -> [f64; 3]) -> Self {
        let step = radius / POINTS_PER_RADIUS;
        let half = POINTS_PER_RADIUS as isize + 1;
        let width = (2 * half + 1) as usize;
        let size = width * width;
        let place = |cell: usize| (((cell % width) as isize - half) as f64 * step, ((cell / width) as isize - half) as f64 * step);
        let inside = |cell: usize| place(cell).0.hypot(place(cell).1) < radius - 1e-9;
        let none = || vec![0.0; size];
        let mut net = Self {
            step,
            width,
            half,
            rows: Vec::new(),
            points: (0..size).filter(|cell| inside(*cell)).map(|cell| (cell, place(cell).0, place(cell).1)).collect(),
            right: none(),
            above: none(),
            diagonal: none(),
            counter: none(),
            held: none(),
        };
        for row in 0..width {
            let cells: Vec<usize> = (row * width..(row + 1) * width).filter(|cell| inside(*cell)).collect();
            if let (Some(first), Some(last)) = (cells.first(), cells.last()) {
                net.rows.push((*first, last + 1));
            }
        }
        let unit = 1.0 / (step * step);
        for cell in (0..size - width - 1).filter(|cell| cell % width + 1 < width) {
            let (x, y) = place(cell);
            let middle = 0.5 * step;
            let shear = 0.5 * unit * stress_at(x + middle, y + middle)[2];
            let springs = [
                (cell, cell + 1, unit * stress_at(x + middle, y)[0]),
                (cell, cell + width, unit * stress_at(x, y + middle)[1]),
                // Shear: a spring along one diagonal of each square, its opposite along the other.
                (cell, cell + width + 1, shear),
                (cell + 1, cell + width, -shear),
            ];
            for (which, (a, b, spring)) in springs.into_iter().enumerate() {
                match (inside(a), inside(b)) {
                    (true, true) => {
                        [&mut net.right, &mut net.above, &mut net.diagonal, &mut net.counter][which][cell] = spring;
                        net.held[a] += spring;
                        net.held[b] += spring;
                    }
                    // The nearer the rim, the harder it holds; diagonals are weak, and hold as if from a whole step away.
                    (true, false) => net.held[a] += spring / if which < 2 { to_rim(place(a), place(b), radius) } else { 1.0 },
                    (false, true) => net.held[b] += spring / if which < 2 { to_rim(place(b), place(a), radius) } else { 1.0 },
                    (false, false) => {}
                }
            }
        }
        net
    }

    /// Force per area (Pa) on every cell inside at displacements `u`.
    fn force(&self, u: &[f64], out: &mut [f64]) {
        let width = self.width;
        for &(from, to) in &self.rows {
            // Slices of one length let the compiler drop the bounds checks and use wide instructions.
            let count = to - from;
            let (left_u, right_u) = (&u[from - 1..][..count], &u[from + 1..][..count]);
            let (below_u, above_u) = (&u[from - width..][..count], &u[from + width..][..count]);
            let (below_left, below_right) = (&u[from - width - 1..][..count], &u[from - width + 1..][..count]);
            let (above_left, above_right) = (&u[from + width - 1..][..count], &u[from + width + 1..][..count]);
            let (here, held) = (&u[from..to], &self.held[from..to]);
            let (right, right_left) = (&self.right[from..to], &self.right[from - 1..][..count]);
            let (above, above_below) = (&self.above[from..to], &self.above[from - width..][..count]);
            let (diagonal, diagonal_below) = (&self.diagonal[from..to], &self.diagonal[from - width - 1..][..count]);
            let (counter_left, counter_below) = (&self.counter[from - 1..][..count], &self.counter[from - width..][..count]);
            let out = &mut out[from..to];
            for i in 0..count {
                let straight = right[i] * right_u[i] + right_left[i] * left_u[i] + above[i] * above_u[i] + above_below[i] * below_u[i];
                let slanted = diagonal[i] * above_right[i]
                    + diagonal_below[i] * below_left[i]
                    + counter_left[i] * above_left[i]
                    + counter_below[i] * below_right[i];
                out[i] = straight + slanted - held[i] * here[i];
            }
        }
    }

    /// The cell nearest to a place.
    fn nearest(&self, x: f64, y: f64) -> usize {
        let off = |point: &(usize, f64, f64)| (point.1 - x).hypot(point.2 - y);
        self.points.iter().min_by(|a, b| off(a).total_cmp(&off(b))).map_or(0, |point| point.0)
    }

    /// A shape between grid points.
    fn interpolated(&self, shape: &DVector<f64>, x: f64, y: f64) -> f64 {
        let (gx, gy) = (x / self.step, y / self.step);
        let (i, j) = (gx.floor() as isize, gy.floor() as isize);
        let at = |i: isize, j: isize| shape[(i + self.half) as usize + (j + self.half) as usize * self.width];
        let (fx, fy) = (gx - i as f64, gy - j as f64);
        (at(i, j) * (1.0 - fx) + at(i + 1, j) * fx) * (1.0 - fy) + (at(i, j + 1) * (1.0 - fx) + at(i + 1, j + 1) * fx) * fy
    }

    /// Squared angular frequencies (1/s2) and shapes of the `count` lowest modes, low to high.
    fn lowest_modes(&self, count: usize, areal_mass: f64) -> (Vec<f64>, DMatrix<f64>) {
        let size = self.held.len();
        let highest = self.held.iter().fold(0.0, |most: f64, held| most.max(*held)) * 2.2 / areal_mass;
        let apply = |vector: &[f64], out: &mut Vec<f64>| {
            // Cells outside count as the highest modes, so that nothing of them is taken for a low one.
            out.clear();
            out.extend(vector.iter().map(|x| -areal_mass * 0.99 * highest * x));
            self.force(vector, out);
            out.iter_mut().for_each(|x| *x /= -areal_mass);
        };
        let mut rng = StdRng::seed_from_u64(1);
        let mut vectors = DMatrix::zeros(size, count + 6);
        for mut column in vectors.column_iter_mut() {
            self.points.iter().for_each(|point| column[point.0] = rng.random_range(-1.0..1.0));
        }
        let mut squares = vec![0.0; count + 6];
        let mut cut = 0.02 * highest;
        for _ in 0..60 {
            // A Chebyshev polynomial that is small from `cut` up and large below.
            let (centre, reach) = (0.5 * (highest + cut), 0.5 * (highest - cut));
            for mut column in vectors.column_iter_mut() {
                let mut last: Vec<f64> = column.iter().copied().collect();
                let mut product = Vec::new();
                apply(&last, &mut product);
                let mut here: Vec<f64> = product.iter().zip(&last).map(|(p, v)| (p - centre * v) / reach).collect();
                for _ in 0..10 {
                    apply(&here, &mut product);
                    let next: Vec<f64> = (0..size).map(|i| 2.0 * (product[i] - centre * here[i]) / reach - last[i]).collect();
                    last = std::mem::replace(&mut here, next);
                }
                let norm = here.iter().map(|x| x * x).sum::<f64>().sqrt();
                column.iter_mut().zip(&here).for_each(|(slot, x)| *slot = x / norm);
            }
            let basis = vectors.clone().qr().q();
            let mut moved = basis.clone();
            for (mut column, from) in moved.column_iter_mut().zip(basis.column_iter()) {
                let mut product = Vec::new();
                apply(from.as_slice(), &mut product);
                column.copy_from_slice(&product);
            }
            let eigen = (basis.transpose() * moved).symmetric_eigen();
            let mut order: Vec<usize> = (0..eigen.eigenvalues.len()).collect();
            order.sort_by(|a, b| eigen.eigenvalues[*a].total_cmp(&eigen.eigenvalues[*b]));
            vectors = &basis * DMatrix::from_fn(order.len(), order.len(), |r, c| eigen.eigenvectors[(r, order[c])]);
            let found: Vec<f64> = order.iter().map(|i| eigen.eigenvalues[*i]).collect();
            let settled = found.iter().zip(&squares).take(count).all(|(new, old): (&f64, &f64)| (new - old).abs() < 1e-9 * new.abs());
            squares = found;
            if settled {
                break;
            }
            cut = squares[squares.len() - 1].clamp(1e-3 * highest, 0.5 * highest);
        }
        squares.truncate(count);
        (squares, vectors.columns(0, count).into_owned())
    }
}

/// Part of the way from a point inside to one outside that lies inside the rim; not less than a third, or the nearest points
/// would be tied too hard to step.
fn to_rim(from: (f64, f64), to: (f64, f64), radius: f64) -> f64 {
    let (dx, dy) = (to.0 - from.0, to.1 - from.1);
    let length = dx.hypot(dy);
    let (forward, across) = ((from.0 * dx + from.1 * dy) / length, (from.0 * dy - from.1 * dx) / length);
    (((radius * radius - across * across).max(0.0).sqrt() - forward) / length).clamp(0.35, 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{DrumKind, bessel_zero};

    fn pitches(pull: &[f64]) -> Vec<f64> {
        let head = TappedHead::new(&BenchDrum::usual(DrumKind::Tom), 135.0, pull);
        let (squares, _) = head.net.lowest_modes(8, head.areal_mass);
        squares.iter().map(|square| square.sqrt() / (2.0 * PI)).collect()
    }

    /// Zeros of Bessel functions: Abramowitz & Stegun, table 9.5.
    #[test]
    fn an_even_head_has_the_membrane_ratios() {
        let found = pitches(&[1.0; 8]);
        for (k, (m, n)) in [(0, 1), (1, 1), (1, 1), (2, 1), (2, 1), (0, 2), (3, 1), (3, 1)].into_iter().enumerate() {
            let wanted = 135.0 * bessel_zero(m, n) / bessel_zero(0, 1);
            assert!((found[k] / wanted - 1.0).abs() < 0.012, "({m},{n}): {} for {wanted}", found[k]);
        }
    }

    /// First-order theory of degenerate pairs: unevenness of harmonic 2m round the hoop splits the pair with m nodal diameters,
    /// and no other (from memory; it follows from the angular integrals of cos^2, sin^2).
    #[test]
    fn the_second_harmonic_splits_the_first_pair_and_the_fourth_the_second() {
        let with = |n: f64| -> Vec<f64> { (0..12).map(|lug| 1.0 + 0.15 * (n * 2.0 * PI * f64::from(lug) / 12.0).cos()).collect() };
        let even = pitches(&[1.0; 12]);
        let split = |found: &[f64], first: usize| 1200.0 * (found[first + 1] / found[first]).log2();
        let (second, third, fourth) = (pitches(&with(2.0)), pitches(&with(3.0)), pitches(&with(4.0)));
        let grid = split(&even, 3);
        assert!(split(&second, 1) > 60.0, "{second:?}");
        assert!(split(&third, 1) < 3.0 && split(&fourth, 1) < 3.0, "{third:?} {fourth:?}");
        assert!(split(&fourth, 3) > 12.0 + grid, "{fourth:?} against {even:?}");
    }

    #[test]
    fn stress_is_in_balance_and_pulls_the_rim_as_the_rods_do() {
        let stress = RimStress::new(&[1.0, 1.3, 0.9, 1.0, 0.8, 1.2, 1.0, 1.1]);
        let step = 1e-5;
        for (x, y) in [(0.3, 0.1), (-0.5, 0.4), (0.1, -0.8)] {
            let slope = |along: (f64, f64), which: usize| {
                let (more, less) = (stress.at(x + along.0 * step, y + along.1 * step), stress.at(x - along.0 * step, y - along.1 * step));
                (more[which] - less[which]) / (2.0 * step)
            };
            assert!((slope((1.0, 0.0), 0) + slope((0.0, 1.0), 2)).abs() < 1e-6);
            assert!((slope((1.0, 0.0), 2) + slope((0.0, 1.0), 1)).abs() < 1e-6);
        }
    }
}
