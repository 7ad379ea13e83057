//! The simulated cymbal: an even, flat, free round plate with every one of its modes up to 12 kHz, each with its own shape. Devices take
//! from each mode what lies under them of its motion. It knows nothing of the mean over an octave by which the predictor goes; real
//! cymbals are domed, tapered and, struck hard, not linear, which this one is not.

use super::sound::{SAMPLE_RATE, gaussian};
use crate::damping::Placement;
use crate::drum::{Drum, DrumKind, Struck};
use crate::numeric::bessel_j;
use crate::numeric::bisect;
use crate::physics::{BRONZE_DENSITY, BRONZE_POISSON};
use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;
use std::cmp::Reverse;
use std::f64::consts::PI;
use std::sync::LazyLock;

/// Speed of long waves in a bronze plate, m/s.
const WAVE_SPEED: f64 = 3700.0;
const HIGHEST_HZ: f64 = 12_000.0;
/// Modes are worked out up to this root: enough for a thin cymbal of 22 inches.
const HIGHEST_ROOT: f64 = 66.0;
/// Radii at which a mode's shape is kept, those of rings of equal area.
const RINGS: usize = 160;
/// Members of a pair differ by up to this part of their pitch.
const SPLIT: f64 = 0.002;
/// The cymbal's own chances.
const OWN: u64 = 16;
const SILENT: f64 = 1e-6;
/// Frequency at which resistances are given, Hz.
const REFERENCE_HZ: f64 = 200.0;

/// The modes of a free round plate with `n` nodal diameters at one root, their mean square being 1.
struct PlateMode {
    diameters: usize,
    /// Wave number times radius.
    root: f64,
    /// Radial shape on rings of equal area.
    shape: Vec<f64>,
}

impl PlateMode {
    fn at(&self, r: f64) -> f64 {
        // Ring i has the radius sqrt((i + 1/2) / RINGS).
        let at = (r * r * RINGS as f64 - 0.5).clamp(0.0, (RINGS - 1) as f64 - 1e-9);
        let (index, part) = (at as usize, at.fract());
        self.shape[index] * (1.0 - part) + self.shape[index + 1] * part
    }
}

/// Modified Bessel functions of the first kind I(0..=`most`) of `x` > 0, times e^-x: backward recurrence, normed by e^x = I0 + 2 (I1 + I2 + ...)
/// (Abramowitz & Stegun 9.6.26 and 9.6.37).
fn bessel_i_scaled(most: usize, x: f64) -> Vec<f64> {
    let start = most + 30 + (1.5 * x) as usize;
    let mut values = vec![0.0; start + 2];
    values[start] = 1e-280;
    for k in (1..=start).rev() {
        values[k - 1] = values[k + 1] + 2.0 * k as f64 / x * values[k];
        if values[k - 1] > 1e200 {
            values[k - 1..].iter_mut().for_each(|value| *value *= 1e-200);
        }
    }
    let norm = values[0] + 2.0 * values[1..].iter().sum::<f64>();
    values.truncate(most + 1);
    values.iter().map(|value| value / norm).collect()
}

/// Value and first derivative of J and of I (times e^-x) of order `n` at `x`.
fn both(n: usize, x: f64) -> [(f64, f64); 2] {
    let j = |order: usize| bessel_j(order, x);
    let scaled = bessel_i_scaled(n + 1, x);
    // J' = J(n-1) - n/x J(n), and the same of I; of order 0, -J(1) and I(1) (Abramowitz & Stegun 9.1.27 and 9.6.26).
    let (slope_j, slope_i) = match n {
        0 => (-j(1), scaled[1]),
        _ => (j(n - 1) - n as f64 / x * j(n), scaled[n - 1] - n as f64 / x * scaled[n]),
    };
    [(j(n), slope_j), (scaled[n], slope_i)]
}

/// Bending moment and shear force at the edge of a plate moving as J and as I of order `n`, at the root `x` (Leissa, Vibration of Plates, NASA
/// SP-160, 2.1.3).
fn at_edge(n: usize, x: f64) -> [(f64, f64); 2] {
    let n2 = (n * n) as f64;
    let [j, i] = both(n, x);
    let of = |(value, slope): (f64, f64), sign: f64| {
        // Bessel's equation: f'' = -f'/x - (1 - n2/x2) f for J, + for I.
        let curved = -slope / x + (sign + n2 / (x * x)) * value;
        let moment = curved + BRONZE_POISSON * (slope / x - n2 / (x * x) * value);
        let shear = sign * slope - (1.0 - BRONZE_POISSON) * n2 / (x * x) * (slope - value / x);
        (moment, shear)
    };
    [of(j, -1.0), of(i, 1.0)]
}

/// Roots of the free plate with `n` nodal diameters up to `highest`, low to high; that of a plate moving or tilting as a whole is left out.
fn free_roots(n: usize, highest: f64) -> Vec<f64> {
    let balance = |x: f64| {
        let [(m_j, v_j), (m_i, v_i)] = at_edge(n, x);
        m_j * v_i - m_i * v_j
    };
    let mut roots = Vec::new();
    // The lowest root lies above the number of diameters.
    let mut low = (n as f64).max(1.5);
    while low < highest {
        let high = low + 0.2;
        if balance(low).signum() != balance(high).signum() {
            let sign = balance(low).signum();
            roots.push(bisect(low, high, 45, |x| balance(x).signum() == sign));
        }
        low = high;
    }
    roots
}

static MODES: LazyLock<Vec<PlateMode>> = LazyLock::new(|| {
    let with = |n: usize| -> Vec<PlateMode> {
        let mode = |root: f64| {
            let [(m_j, _), (m_i, _)] = at_edge(n, root);
            let radii = (0..RINGS).map(|i| ((i as f64 + 0.5) / RINGS as f64).sqrt());
            let mut shape: Vec<f64> = radii
                .map(|r| {
                    // Both are I times e^-x of their own place.
                    let i = bessel_i_scaled(n, r * root)[n] * ((r - 1.0) * root).exp();
                    bessel_j(n, r * root) - m_j / m_i * i
                })
                .collect();
            let around = if n == 0 { 1.0 } else { 0.5 };
            let norm = (around * shape.iter().map(|x| x * x).sum::<f64>() / RINGS as f64).sqrt();
            shape.iter_mut().for_each(|x| *x /= norm);
            PlateMode { diameters: n, root, shape }
        };
        free_roots(n, HIGHEST_ROOT).into_iter().map(mode).collect()
    };
    (0..HIGHEST_ROOT as usize).into_par_iter().flat_map_iter(with).collect()
});

/// One mode of one cymbal.
struct Tone {
    hz: f64,
    decay: f64,
    amplitude: f64,
    builds_up_s: f64,
}

impl Tone {
    /// What it is made of, `gain` times as strong: one rotation that shrinks, less another one that is gone when it has built up.
    fn rotations(&self, gain: f64) -> [Rotation; 2] {
        let dt = 1.0 / f64::from(SAMPLE_RATE);
        let of = |amplitude: f64, decay: f64| Rotation {
            now: Complex64::new(0.0, amplitude),
            turn: Complex64::from_polar((-decay * dt).exp(), 2.0 * PI * self.hz * dt),
            lasts: ((amplitude.abs() / SILENT).ln().max(0.0) / decay / dt) as usize,
        };
        let amplitude = gain * self.amplitude;
        [of(amplitude, self.decay), of(-amplitude, self.decay + 1.0 / self.builds_up_s)]
    }
}

/// A sinusoid that decays, as a number that is turned and shrunk from sample to sample; its real part sounds.
struct Rotation {
    now: Complex64,
    turn: Complex64,
    /// Samples until it has fallen silent.
    lasts: usize,
}

/// Rotations turned together: enough that one need not wait for the other's result.
const TOGETHER: usize = 8;
/// Rotations that one thread turns at a time.
const PART: usize = 32 * TOGETHER;

/// The sum of `rotations` over `count` samples.
fn turned(rotations: &[Rotation], count: usize) -> Vec<f64> {
    let mut out = vec![0.0; count];
    Arch::new().dispatch(Turning { rotations, out: &mut out });
    out
}

/// Rotations added to `out`, for the widest instructions that the machine has.
struct Turning<'a> {
    rotations: &'a [Rotation],
    out: &'a mut [f64],
}

impl WithSimd for Turning<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) {
        for group in self.rotations.chunks(TOGETHER) {
            add_turned(group, self.out);
        }
    }
}

/// Adds at most [`TOGETHER`] rotations to `out`, all as long as the longest of them lasts.
#[inline(always)]
fn add_turned(group: &[Rotation], out: &mut [f64]) {
    let of = |part: fn(&Rotation) -> f64| std::array::from_fn::<f64, TOGETHER, _>(|lane| group.get(lane).map_or(0.0, part));
    let (mut re, mut im) = (of(|r| r.now.re), of(|r| r.now.im));
    let (turn_re, turn_im) = (of(|r| r.turn.re), of(|r| r.turn.im));
    let lasts = group.iter().map(|rotation| rotation.lasts).max().unwrap_or(0);
    for sample in out.iter_mut().take(lasts) {
        let pairs: [f64; TOGETHER / 2] = std::array::from_fn(|lane| re[lane] + re[lane + TOGETHER / 2]);
        *sample += (pairs[0] + pairs[2]) + (pairs[1] + pairs[3]);
        for lane in 0..TOGETHER {
            let turned = re[lane] * turn_re[lane] - im[lane] * turn_im[lane];
            im[lane] = re[lane] * turn_im[lane] + im[lane] * turn_re[lane];
            re[lane] = turned;
        }
    }
}

/// A cymbal with what lies on it.
pub(super) struct Metal {
    kind: DrumKind,
    struck: Option<Struck>,
    tones_per_root: f64,
    areal_mass: f64,
    /// (radius, angle, areal resistance at the reference frequency times share of the area, how it grows)
    held: Vec<(f64, f64, f64, f64)>,
}

impl Metal {
    /// `strength` tells how strong a device is against its prior.
    pub fn new(drum: &Drum, placements: &[Placement], strength: impl Fn(&Placement) -> f64) -> Self {
        let radius = drum.radius();
        let usual_g = if drum.kind == DrumKind::HiHat { 950.0 * (radius / 0.178).powi(2) } else { 1100.0 * (radius / 0.203).powi(2) };
        let areal_mass = 1e-3 * drum.weight_g.unwrap_or(usual_g) / (PI * radius * radius);
        let thickness = areal_mass / BRONZE_DENSITY;
        let held = placements
            .iter()
            .flat_map(|placement| {
                let prior = placement.prior();
                let resistance = prior.resistance * strength(placement);
                placement.patches(drum).into_iter().flat_map(move |patch| {
                    let points = patch.outline.points();
                    points.into_iter().map(move |(r, angle, share)| (r, angle, resistance * patch.contact * share, prior.exponent))
                })
            })
            .collect();
        let tones_per_root = WAVE_SPEED * thickness / (2.0 * PI * radius * radius * 12f64.sqrt());
        Self { kind: drum.kind, struck: drum.struck_otherwise(), tones_per_root, areal_mass, held }
    }

    /// What is struck `strength` times as hard as usual, for `seconds`.
    pub fn sound(&self, strength: f64, seconds: f64, rng: &mut StdRng) -> Vec<f64> {
        let tones = self.tones(rng);
        let power: f64 = tones.iter().map(|tone| tone.amplitude.powi(2)).sum();
        let gain = 0.16 * strength / power.sqrt();
        let count = (seconds * f64::from(SAMPLE_RATE)) as usize;
        let mut rotations: Vec<Rotation> = tones.iter().flat_map(|tone| tone.rotations(gain)).collect();
        // Those that are turned together should last alike.
        rotations.sort_by_key(|rotation| Reverse(rotation.lasts));
        let sum = |mut a: Vec<f64>, b: Vec<f64>| {
            a.iter_mut().zip(b).for_each(|(a, b)| *a += b);
            a
        };
        // Fixed parts, so that the same seed gives the same sum.
        let parts: Vec<Vec<f64>> = rotations.par_chunks(PART).map(|part| turned(part, count)).collect();
        parts.into_iter().reduce(sum).unwrap_or_default()
    }

    /// Amplitude decay rate of slow motion, 1/s, and what each Hz adds (from experience, no published source): a china's turned-up edge loses more, and
    /// cymbals of a hi-hat that touch rub on each other until nothing rings.
    fn losses(&self) -> (f64, f64) {
        match (self.kind, self.struck) {
            (DrumKind::HiHat, Some(Struck::Closed)) => (55.0, 0.006),
            (DrumKind::HiHat, Some(Struck::HalfOpen)) => (9.0, 0.002),
            (DrumKind::HiHat, _) => (2.4, 0.0009),
            (DrumKind::China, _) => (1.6, 0.0011),
            _ => (0.7, 0.0006),
        }
    }

    /// Where it is struck, a part of its radius.
    fn spot(&self) -> f64 {
        match self.struck {
            Some(Struck::Bell) => 0.16,
            Some(Struck::Bow) => 0.6,
            Some(Struck::Edge) => 0.94,
            _ if self.kind == DrumKind::Ride => 0.6,
            _ => 0.82,
        }
    }

    fn tones(&self, rng: &mut StdRng) -> Vec<Tone> {
        let (still, by_hz) = self.losses();
        // Nobody hits the same spot twice.
        let (spot, around) = (self.spot() + 0.02 * gaussian(rng), 0.2 * gaussian(rng));
        let mut tones = Vec::new();
        let mut own = StdRng::seed_from_u64(OWN);
        for mode in MODES.iter() {
            let hz = mode.root * mode.root * self.tones_per_root;
            let members = if mode.diameters == 0 { 1 } else { 2 };
            for member in 0..members {
                // How it radiates towards the microphone and how unlike its partner it is: by chance, but always the same.
                let (heard, split): (f64, f64) = (gaussian(&mut own), own.random());
                let hz = hz * (1.0 + SPLIT * split * member as f64);
                if !(40.0..HIGHEST_HZ).contains(&hz) {
                    continue;
                }
                let angular = |angle: f64| {
                    let turned = mode.diameters as f64 * angle;
                    if member == 0 { turned.cos() } else { turned.sin() }
                };
                let squared = |r: f64, angle: f64| (mode.at(r) * angular(angle)).powi(2);
                let taken: f64 = self
                    .held
                    .iter()
                    .map(|(r, angle, resistance, growth)| resistance * (hz / REFERENCE_HZ).powf(*growth) * squared(*r, *angle))
                    .sum();
                tones.push(Tone {
                    hz,
                    decay: still + by_hz * hz + 0.5 * taken / self.areal_mass,
                    amplitude: heard * mode.at(spot) * angular(around) * (hz / 1000.0).powf(0.3) / (1.0 + (hz / 5000.0).powi(2)),
                    builds_up_s: if hz > 1500.0 { 0.008 } else { 0.001 },
                });
            }
        }
        tones
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Squared roots of a free plate with Poisson's ratio 0.33 (Leissa, Vibration of Plates, NASA SP-160, table 2.5).
    #[test]
    fn a_free_plate_sounds_where_the_handbook_says() {
        let tabled =
            [(2, 0, 5.253), (0, 0, 9.084), (3, 0, 12.23), (1, 0, 20.52), (2, 1, 35.25), (0, 1, 38.55), (3, 1, 52.91), (1, 1, 59.86)];
        for (n, which, squared) in tabled {
            let root = free_roots(n, 12.0)[which];
            assert!((root * root / squared - 1.0).abs() < 0.01, "({n},{which}): {}", root * root);
        }
    }

    /// Modes of one plate have nothing in common (orthogonality), and so many lie below a root (Weyl's law: x^2 / 4, and
    /// more than x / 2 for an edge that is free; a free membrane has that much).
    #[test]
    fn modes_are_each_their_own_and_as_many_as_there_must_be() {
        let of = |n: usize| MODES.iter().filter(move |mode| mode.diameters == n).collect::<Vec<_>>();
        for n in [0, 1, 2, 7, 20] {
            let modes = of(n);
            for (i, a) in modes.iter().take(4).enumerate() {
                for b in modes.iter().take(4).skip(i + 1) {
                    let common = a.shape.iter().zip(&b.shape).map(|(a, b)| a * b).sum::<f64>() / RINGS as f64;
                    assert!(common.abs() < 0.02, "{n}: {} and {} share {common}", a.root, b.root);
                }
            }
        }
        let below = |root: f64| MODES.iter().filter(|m| m.root < root).map(|m| if m.diameters == 0 { 1.0 } else { 2.0 }).sum::<f64>();
        for root in [20.0f64, 40.0, 60.0] {
            let over = below(root) - root * root / 4.0;
            assert!((0.5 * root..root).contains(&over), "{root}: {over} over");
        }
    }
}
