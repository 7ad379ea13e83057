//! Batter, front head and the air that moves in and out, on the spring of the air inside.
//!
//! Coordinates are the modes of both heads that move air as a whole (m = 0), each of unit mass, and the mean flow through holes or the
//! open end. The front head's modes are a basis for the head with its holes: what the film in a hole would have had of mass and
//! tension is taken off (Rayleigh-Ritz), so a hole's edge is free.

use super::laid::Laid;
use crate::damping::damped_modes;
use crate::drum::{AIR_DENSITY, Drum, Front, HeadSide, MembraneMode, Port, air_spring, flow_mass, modes_up_to, open_length};
use nalgebra::{DMatrix, DVector};
use num_complex::Complex64;
use std::f64::consts::PI;
use std::ops::AddAssign;
use std::sync::LazyLock;

/// Highest zero of the modes kept.
const HIGHEST_ZERO: f64 = 15.0;
/// Areal resistance of air moving between the heads, what each vent adds, and of sound radiated by a head, N s/m3 (from experience, no
/// source; as in the model of two whole heads).
const AIR_LOSS: f64 = 5.0;
const VENT_LOSS: f64 = 8.0;
const RADIATION_LOSS: f64 = 5.0;
/// Resistance of the film that flaps round a hole, and how far it flaps, as a part of the hole's radius; of air passing the hole's edge, per
/// area of the hole; of all that leaves the drum, per area of the head, N s/m3. All so that practice is met: the larger the hole the shorter
/// the body, almost none left at 10 in on a 22 in kick (from experience, no source; to be learned).
const FILM_RESISTANCE: f64 = 60.0;
const FLAPS_TO: f64 = 1.6;
const EDGE_RESISTANCE: f64 = 10.0;
const OUTFLOW_RESISTANCE: f64 = 80.0;
/// Motions that lose more than this part of critical damping are a thump, not a tone; those that lose still more are none at all.
const MOST_OF_A_TONE: f64 = 0.16;
const MOST_DAMPING: f64 = 0.8;
/// Part of the film in a hole that is taken off: with all of it, a head that is nearly all hole could not be solved.
const FILM_GONE: f64 = 0.99;
/// Where a beater lands, as a part of the radius.
const STRUCK_AT: f64 = 0.25;

/// What is not seen on a drum but fitted to how it sounds.
#[derive(Debug, Clone, Copy)]
pub(super) struct Inner {
    /// Lowest pitch that each head would have alone and whole, Hz.
    pub batter_hz: f64,
    pub front_hz: f64,
    /// The heads' own losses: amplitude decay rate of slow motion, 1/s, and what each squared wave number adds, m2/s.
    pub loss: f64,
    pub loss_by_wave: f64,
}

/// One motion of the whole drum.
#[derive(Debug, Clone)]
pub(super) struct AxialMode {
    pub hz: f64,
    /// Amplitude decay rate, 1/s.
    pub decay: f64,
    /// Amplitudes at the strike: acceleration of the batter's mean, of the front head's, and pressure inside.
    pub player: f64,
    pub front: f64,
    pub inside: f64,
    /// How the heads' modes take part, to find the same motion again in another state.
    pub shape: Vec<Complex64>,
}

impl AxialMode {
    /// Whether it is heard as a tone, and not as a thump.
    pub fn is_tone(&self) -> bool {
        self.decay < MOST_OF_A_TONE * self.decay.hypot(2.0 * PI * self.hz)
    }
}

/// The modes of a head that move air as a whole: coordinates of the batter, which the front head's follow.
pub(super) fn axial() -> &'static [MembraneMode] {
    static AXIAL: LazyLock<Vec<MembraneMode>> =
        LazyLock::new(|| modes_up_to(HIGHEST_ZERO).into_iter().filter(|mode| mode.m == 0).collect());
    &AXIAL
}

/// A way of closing a drum, with what its holes take from the head worked out.
pub(super) struct Closed<'a> {
    pub(super) drum: &'a Drum,
    front: &'a Front,
    holes: Holes,
    laid: Option<&'a Laid>,
}

impl<'a> Closed<'a> {
    pub fn new(drum: &'a Drum, front: &'a Front) -> Self {
        Self { drum, front, holes: Holes::of(front.ports(), drum.diameter_in), laid: None }
    }

    /// The same with what is laid in besides.
    pub fn with(self, laid: Option<&'a Laid>) -> Self {
        Self { laid, ..self }
    }
}

/// Mass, losses and stiffness of a drum closed in some way, in coordinates of the batter's modes, the front head's, and the mean flow.
pub(super) struct Coupled {
    pub mass: DMatrix<f64>,
    pub loss: DMatrix<f64>,
    pub stiffness: DMatrix<f64>,
    /// Coordinates of either head or both.
    heads: usize,
    /// How far each coordinate moves the batter's mean, the front head's, and squeezes the air.
    batter: DVector<f64>,
    film_moves: DVector<f64>,
    squeezed: DVector<f64>,
}

/// What moves in a drum closed in some way; `opening` scales what openings take.
pub(super) fn coupled(closed: &Closed, inner: &Inner, opening: f64) -> Coupled {
    let Closed { drum, front, holes, laid } = closed;
    let modes = axial();
    let count = modes.len();
    let a = drum.radius();
    let speed = |hz: f64| 2.0 * PI * a * hz / modes[0].zero;
    let film = drum.with_front(front).lower_film();
    let (batter_mass, front_mass) = (drum.areal_mass(drum.batter), film.map(|head| drum.areal_mass(head)));
    let plug = match front {
        Front::Whole => None,
        Front::Ported { ports } => Some((ports.iter().map(|port| port.area()).sum::<f64>() / (PI * a * a), flow_mass(ports, a))),
        Front::Mesh | Front::Off => Some((1.0, AIR_DENSITY * open_length(drum.depth(), a))),
    };
    let heads = if film.is_some() { 2 * count } else { count };
    let size = heads + usize::from(plug.is_some());

    let (mut mass, mut loss, mut stiffness) = (DMatrix::identity(size, size), DMatrix::zeros(size, size), DMatrix::zeros(size, size));
    // Squeezing of the air by each coordinate, and the part of it by batter, front film, and flow.
    let (mut batter, mut film_moves, mut flows) = (DVector::zeros(size), DVector::zeros(size), DVector::zeros(size));
    let tense = |hz: f64, k: usize| (speed(hz) * modes[k].zero / a).powi(2);
    for k in 0..count {
        batter[k] = modes[k].volume() / batter_mass.sqrt();
        stiffness[(k, k)] = tense(inner.batter_hz, k);
        loss[(k, k)] = 2.0 * (inner.loss + inner.loss_by_wave * (modes[k].zero / a).powi(2));
    }
    if let Some(front_mass) = front_mass {
        let wave = speed(inner.front_hz);
        let square = DMatrix::from_diagonal(&DVector::from_fn(count, |k, _| (modes[k].zero / a).powi(2)));
        let (moves, bends) = (DMatrix::identity(count, count) - &holes.mass, square - &holes.bend / (a * a));
        let film_loss = 2.0 * (inner.loss * &moves + inner.loss_by_wave * &bends) + opening * FILM_RESISTANCE / front_mass * &holes.flap;
        let here = (count, count);
        mass.view_mut(here, here).copy_from(&moves);
        stiffness.view_mut(here, here).copy_from(&(wave * wave * bends));
        loss.view_mut(here, here).copy_from(&film_loss);
        for (k, mode) in modes.iter().enumerate() {
            film_moves[count + k] = (mode.volume() - holes.volume[k]) / front_mass.sqrt();
        }
    }
    if let Some((area, flow_mass)) = plug {
        let last = size - 1;
        flows[last] = 1.0 / flow_mass.sqrt();
        loss += opening * OUTFLOW_RESISTANCE * &flows * flows.transpose();
        if !front.is_open() {
            let past = &flows / area - &film_moves / (1.0 - area);
            loss += opening * EDGE_RESISTANCE * area * &past * past.transpose();
        }
    }
    if let Some(laid) = laid {
        for (side, areal_mass, own_hz) in
            [(HeadSide::Batter, Some(batter_mass), inner.batter_hz), (HeadSide::Lower, front_mass, inner.front_hz)]
        {
            let Some(areal_mass) = areal_mass else { continue };
            let hz: Vec<f64> = modes.iter().map(|mode| own_hz * mode.zero / modes[0].zero).collect();
            let (lost, heavier) = laid.on(side, areal_mass, &hz);
            let from = if side == HeadSide::Batter { 0 } else { count };
            loss.view_mut((from, from), (count, count)).add_assign(lost);
            mass.view_mut((from, from), (count, count)).add_assign(heavier);
        }
    }
    let squeezed = &batter - &film_moves - &flows;
    stiffness += air_spring(drum.depth()) * &squeezed * squeezed.transpose();
    let air_loss = AIR_LOSS + VENT_LOSS * f64::from(drum.vents) + laid.map_or(0.0, |laid| laid.air);
    loss += air_loss * &squeezed * squeezed.transpose();
    loss += RADIATION_LOSS * (&batter * batter.transpose() + &film_moves * film_moves.transpose());
    Coupled { mass, loss, stiffness, heads, batter, film_moves, squeezed }
}

/// Motions of a drum closed in some way, low to high, tones and thumps; `opening` scales what openings take.
pub(super) fn axial_modes(closed: &Closed, inner: &Inner, opening: f64) -> Vec<AxialMode> {
    let Coupled { mass, loss, stiffness, heads, batter, film_moves, squeezed } = coupled(closed, inner, opening);
    let (modes, size) = (axial(), mass.nrows());
    let (count, batter_mass) = (modes.len(), closed.drum.areal_mass(closed.drum.batter));
    let struck = DVector::from_fn(size, |k, _| if k < count { modes[k].radial(STRUCK_AT) / batter_mass.sqrt() } else { 0.0 });
    let complex = |vector: &DVector<f64>| vector.map(Complex64::from);
    let (struck, batter, film_moves, squeezed) = (complex(&struck), complex(&batter), complex(&film_moves), complex(&squeezed));
    let (mass_c, loss_c) = (mass.map(Complex64::from), loss.map(Complex64::from));
    let Some(roots) = damped_modes(&mass, &loss, &stiffness) else { return Vec::new() };
    let mut found: Vec<AxialMode> = roots
        .into_iter()
        .filter(|(root, _)| root.re < 0.0 && -root.re < MOST_DAMPING * root.norm())
        .map(|(root, shape)| {
            // Response of a damped system to a blow: each motion by its own a = psi^T (2 lambda M + C) psi.
            let weight = (shape.transpose() * (&mass_c * (2.0 * root) + &loss_c) * &shape)[(0, 0)];
            let blow = (shape.transpose() * &struck)[(0, 0)] / weight;
            let heard = |at: &DVector<Complex64>, by: Complex64| ((at.transpose() * &shape)[(0, 0)] * blow * by).norm();
            AxialMode {
                hz: root.im / (2.0 * PI),
                decay: -root.re,
                player: heard(&batter, root * root),
                front: heard(&film_moves, root * root),
                inside: heard(&squeezed, Complex64::ONE),
                shape: (0..heads).map(|k| shape[k]).collect(),
            }
        })
        .collect();
    found.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    found
}

/// Displacements of the axial modes at `r`, and their slopes along the radius.
fn shapes(r: f64) -> (DVector<f64>, DVector<f64>) {
    let modes = axial();
    let (inner, outer) = ((r - 1e-4).max(0.0), r + 1e-4);
    let slope = |mode: &MembraneMode| (mode.radial(outer) - mode.radial(inner)) / (outer - inner);
    (DVector::from_fn(modes.len(), |k, _| modes[k].radial(r)), DVector::from_fn(modes.len(), |k, _| slope(&modes[k])))
}

/// Distances from the head's middle, and shares of its area, of points between two circles about a point `at` from it.
fn about(at: f64, inner: f64, outer: f64) -> Vec<(f64, f64)> {
    let area = outer * outer - inner * inner;
    // About the middle of the head all points of a ring are alike.
    let (rings, spokes) = ((6.0 + 50.0 * outer) as usize, if at > 0.0 { 10 } else { 1 });
    let ring = |i: usize| (inner * inner + area * (i as f64 + 0.5) / rings as f64).sqrt();
    // What lies on either side of the line through both middles is alike.
    let spoke = |k: usize| PI * (k as f64 + 0.5) / spokes as f64;
    let share = area / (rings * spokes) as f64;
    let point = |i: usize, k: usize| ((at + ring(i) * spoke(k).cos()).hypot(ring(i) * spoke(k).sin()), share);
    (0..rings).flat_map(|i| (0..spokes).map(move |k| (i, k))).map(|(i, k)| point(i, k)).collect()
}

/// What holes take from a front head's modes: air moved, mass, tension; and the film round them that flaps.
struct Holes {
    volume: Vec<f64>,
    mass: DMatrix<f64>,
    bend: DMatrix<f64>,
    flap: DMatrix<f64>,
}

impl Holes {
    fn of(ports: &[Port], head_in: f64) -> Self {
        let count = axial().len();
        let mut holes = Self {
            volume: vec![0.0; count],
            mass: DMatrix::zeros(count, count),
            bend: DMatrix::zeros(count, count),
            flap: DMatrix::zeros(count, count),
        };
        for port in ports {
            let size = port.diameter_in / head_in;
            for (r, share) in about(port.radius, 0.0, size) {
                let (shape, slope) = shapes(r);
                (0..count).for_each(|k| holes.volume[k] += share * shape[k]);
                holes.mass.ger(FILM_GONE * share, &shape, &shape, 1.0);
                holes.bend.ger(FILM_GONE * share, &slope, &slope, 1.0);
            }
            // What would flap beyond the hoop is not there.
            for (r, share) in about(port.radius, size, FLAPS_TO * size).into_iter().filter(|(r, _)| *r < 1.0) {
                let (shape, _) = shapes(r);
                holes.flap.ger(share, &shape, &shape, 1.0);
            }
        }
        holes
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{DrumKind, helmholtz_hz, port_length};
    use crate::units::metres;

    fn kick() -> Drum {
        BenchDrum::usual(DrumKind::Kick)
    }

    fn lossless(batter_hz: f64, front_hz: f64) -> Inner {
        Inner { batter_hz, front_hz, loss: 0.01, loss_by_wave: 0.0 }
    }

    /// With heads so tight that they do not move, what is left is the air in the hole on the air inside: Helmholtz's resonator.
    #[test]
    fn between_stiff_heads_the_air_sounds_at_helmholtzs_pitch() {
        let drum = Drum { vents: 0, ..kick() };
        let front = Front::usual_port(5.0, drum.diameter_in);
        let found = axial_modes(&Closed::new(&drum, &front), &lossless(4000.0, 4000.0), 1e-6);
        let r = metres(5.0) / 2.0;
        let volume = PI * drum.radius().powi(2) * drum.depth();
        let wanted = helmholtz_hz(PI * r * r, port_length(r, drum.radius()), volume);
        assert!((found[0].hz / wanted - 1.0).abs() < 0.01, "{} for {wanted}", found[0].hz);
    }

    /// Two equal heads on the air between them, by the lowest mode of each, in closed form: together at their own pitch, against each
    /// other at sqrt(omega^2 + 2 k v^2 / m). The other modes push the upper one down a little.
    #[test]
    fn two_equal_heads_move_as_in_the_closed_form() {
        let drum = Drum { vents: 0, depth_in: 240.0, ..kick() };
        let found = axial_modes(&Closed::new(&drum, &Front::Whole), &lossless(60.0, 60.0), 1.0);
        assert!((found[0].hz - 60.0).abs() < 0.1, "{}", found[0].hz);
        let v = axial()[0].volume();
        let square = (2.0 * PI * 60.0f64).powi(2) + 2.0 * air_spring(drum.depth()) * v * v / drum.areal_mass(drum.batter);
        let wanted = square.sqrt() / (2.0 * PI);
        assert!((found[1].hz / wanted - 1.0).abs() < 0.03, "{} for {wanted}", found[1].hz);
    }

    /// However large the hole, and wherever it is, the drum still has motions: the film that is left is never taken for less than none.
    #[test]
    fn any_hole_leaves_motions() {
        let drum = kick();
        for front in crate::kick::fronts(&drum) {
            let found =
                axial_modes(&Closed::new(&drum, &front), &Inner { batter_hz: 57.0, front_hz: 64.0, loss: 4.5, loss_by_wave: 0.011 }, 1.0);
            assert!(found.iter().any(|mode| mode.player > 0.0), "{front:?}");
        }
    }

    /// A ring of film fixed outside and free inside: the lowest k a solves J0(ka) Y1(kb) = Y0(ka) J1(kb); for b = a / 2 it is 3.588 (from
    /// SciPy). Functions of the whole disc come near from above.
    #[test]
    fn a_hole_in_the_middle_raises_the_film_as_in_the_closed_form() {
        let drum = Drum { vents: 0, depth_in: 40.0, ..kick() };
        let hole = Port { diameter_in: 11.0, radius: 0.0, angle_deg: 0.0 };
        let inner = lossless(900.0, 60.0);
        // Without air between them the front head is alone: a drum of endless depth.
        let endless = Drum { depth_in: 1e7, ..drum };
        let found = axial_modes(&Closed::new(&endless, &Front::Ported { ports: vec![hole] }), &inner, 0.0);
        let front: Vec<f64> = found.iter().filter(|mode| mode.front > 0.0).map(|mode| mode.hz).collect();
        let wanted = 60.0 * 3.588 / 2.404_825_557_7;
        let near = front.iter().map(|hz| hz / wanted - 1.0).min_by(|a, b| a.abs().total_cmp(&b.abs())).unwrap();
        assert!((-0.01..0.04).contains(&near), "{front:?} for {wanted}");
    }
}
