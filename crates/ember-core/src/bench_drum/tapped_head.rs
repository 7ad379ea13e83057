//! A head held by rods that pull unevenly, to practise tuning on.
//!
//! The film is in balance, and stiffer in one direction than in the other where rods differ. It moves as a net of springs between the points of a square grid, which shares nothing
//! with the way in which taps are measured or turns are advised.

use super::hidden::lower_ratio;
use super::rim_stress::RimStress;
use super::rods::rods_pull;
use super::sound::{SAMPLE_RATE, gaussian};
use super::spring_net::SpringNet;
use super::strike::upsampled;
use crate::drum::{Drum, Head, HeadSide};
use crate::physics::{AIR_DENSITY, SPEED_OF_SOUND};
use crate::units::metres;
use rand::{Rng, SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

/// Most samples of the output a step of the grid; tight heads need shorter steps.
const OVERSAMPLING: usize = 3;
/// Time from one tap to the next, s.
pub const TAP_SPACING_S: f64 = 1.1;
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

    /// The stand-in for a head of `drum` as its owner left it (see [`rods_pull`]).
    pub fn of(drum: &Drum, side: HeadSide, seed: u64, eighths: &[i32]) -> Self {
        let pull = rods_pull(seed, eighths);
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
                crate::numeric::bessel_j(1, crate::numeric::bessel_zero(1, 1) * r / self.radius) / r
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

/// Sum of products in eight lanes: a single running sum would make each addition wait for the one before.
fn product(a: &[f64], b: &[f64]) -> f64 {
    let mut lanes = [0.0; 8];
    let (whole_a, whole_b) = (a.chunks_exact(8), b.chunks_exact(8));
    let rest: f64 = whole_a.remainder().iter().zip(whole_b.remainder()).map(|(x, y)| x * y).sum();
    for (x, y) in whole_a.zip(whole_b) {
        for lane in 0..8 {
            lanes[lane] += x[lane] * y[lane];
        }
    }
    lanes.iter().sum::<f64>() + rest
}

/// Sum in eight lanes, as in [`product`].
fn total(a: &[f64]) -> f64 {
    let mut lanes = [0.0; 8];
    let whole = a.chunks_exact(8);
    let rest: f64 = whole.remainder().iter().sum();
    for x in whole {
        for lane in 0..8 {
            lanes[lane] += x[lane];
        }
    }
    lanes.iter().sum::<f64>() + rest
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::numeric::bessel_zero;

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
}
