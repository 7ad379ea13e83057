//! Batter, front head and the air that moves in and out, on the spring of the air inside.
//!
//! Coordinates are the modes of both heads that move air as a whole (m = 0), each of unit mass, and the mean flow through holes or the
//! open end. The front head's modes are a basis for the head with its holes: what the film in a hole would have had of mass and
//! tension is taken off (Rayleigh-Ritz), so a hole's edge is free.

use super::laid::Laid;
use crate::drum::{Drum, Front, HeadSide, MembraneMode, Port, air_spring, flow_mass, modes_up_to, open_length};
use crate::numeric::damped_modes;
use crate::physics::AIR_DENSITY;
use crate::tone::{HeardBy, Partial};
use crate::units::t60;
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
    let mut assembly = Assembly::new(closed, inner);
    assembly.add_batter();
    assembly.add_front(opening);
    assembly.add_flow(opening);
    assembly.add_laid();
    assembly.coupled()
}

/// A drum closed in some way, put together part by part.
struct Assembly<'a> {
    closed: &'a Closed<'a>,
    inner: &'a Inner,
    modes: &'static [MembraneMode],
    /// Radius, m.
    a: f64,
    /// Areal masses of both heads' films; no front where there is no film.
    batter_mass: f64,
    front_mass: Option<f64>,
    /// Area of what is open, as a part of the head's, and the mass of the air in it.
    plug: Option<(f64, f64)>,
    mass: DMatrix<f64>,
    loss: DMatrix<f64>,
    stiffness: DMatrix<f64>,
    /// Squeezing of the air by each coordinate: the part of it by batter, front film, and flow.
    batter: DVector<f64>,
    film_moves: DVector<f64>,
    flows: DVector<f64>,
}

impl<'a> Assembly<'a> {
    fn new(closed: &'a Closed<'a>, inner: &'a Inner) -> Self {
        let (drum, front, modes) = (closed.drum, closed.front, axial());
        let a = drum.radius();
        let front_mass = drum.with_front(front).lower_film().map(|head| drum.areal_mass(head));
        let plug = match front {
            Front::Whole => None,
            Front::Ported { ports } => Some((ports.iter().map(|port| port.area()).sum::<f64>() / (PI * a * a), flow_mass(ports, a))),
            Front::Mesh | Front::Off => Some((1.0, AIR_DENSITY * open_length(drum.depth(), a))),
        };
        let heads = if front_mass.is_some() { 2 * modes.len() } else { modes.len() };
        let size = heads + usize::from(plug.is_some());
        Self {
            closed,
            inner,
            modes,
            a,
            batter_mass: drum.areal_mass(drum.batter),
            front_mass,
            plug,
            mass: DMatrix::identity(size, size),
            loss: DMatrix::zeros(size, size),
            stiffness: DMatrix::zeros(size, size),
            batter: DVector::zeros(size),
            film_moves: DVector::zeros(size),
            flows: DVector::zeros(size),
        }
    }

    /// Speed of waves on a head whose lowest pitch alone is `hz`, m/s.
    fn speed(&self, hz: f64) -> f64 {
        2.0 * PI * self.a * hz / self.modes[0].zero
    }

    fn add_batter(&mut self) {
        let (modes, a) = (self.modes, self.a);
        let speed = self.speed(self.inner.batter_hz);
        for (k, mode) in modes.iter().enumerate() {
            self.batter[k] = mode.volume() / self.batter_mass.sqrt();
            self.stiffness[(k, k)] = (speed * mode.zero / a).powi(2);
            self.loss[(k, k)] = 2.0 * (self.inner.loss + self.inner.loss_by_wave * (mode.zero / a).powi(2));
        }
    }

    fn add_front(&mut self, opening: f64) {
        let Some(front_mass) = self.front_mass else { return };
        let (modes, a, inner, holes) = (self.modes, self.a, self.inner, &self.closed.holes);
        let count = modes.len();
        let wave = self.speed(inner.front_hz);
        let square = DMatrix::from_diagonal(&DVector::from_fn(count, |k, _| (modes[k].zero / a).powi(2)));
        let (moves, bends) = (DMatrix::identity(count, count) - &holes.mass, square - &holes.bend / (a * a));
        let film_loss = 2.0 * (inner.loss * &moves + inner.loss_by_wave * &bends) + opening * FILM_RESISTANCE / front_mass * &holes.flap;
        let here = (count, count);
        self.mass.view_mut(here, here).copy_from(&moves);
        self.stiffness.view_mut(here, here).copy_from(&(wave * wave * bends));
        self.loss.view_mut(here, here).copy_from(&film_loss);
        for (k, mode) in modes.iter().enumerate() {
            self.film_moves[count + k] = (mode.volume() - holes.volume[k]) / front_mass.sqrt();
        }
    }

    fn add_flow(&mut self, opening: f64) {
        let Some((area, flow_mass)) = self.plug else { return };
        let last = self.flows.len() - 1;
        self.flows[last] = 1.0 / flow_mass.sqrt();
        self.loss += opening * OUTFLOW_RESISTANCE * &self.flows * self.flows.transpose();
        if !self.closed.front.is_open() {
            let past = &self.flows / area - &self.film_moves / (1.0 - area);
            self.loss += opening * EDGE_RESISTANCE * area * &past * past.transpose();
        }
    }

    fn add_laid(&mut self) {
        let Some(laid) = self.closed.laid else { return };
        let (modes, count) = (self.modes, self.modes.len());
        let heads = [
            (HeadSide::Batter, Some(self.batter_mass), self.inner.batter_hz, 0),
            (HeadSide::Lower, self.front_mass, self.inner.front_hz, count),
        ];
        for (side, areal_mass, own_hz, from) in heads {
            let Some(areal_mass) = areal_mass else { continue };
            let hz: Vec<f64> = modes.iter().map(|mode| own_hz * mode.zero / modes[0].zero).collect();
            let (lost, heavier) = laid.on(side, areal_mass, &hz);
            self.loss.view_mut((from, from), (count, count)).add_assign(lost);
            self.mass.view_mut((from, from), (count, count)).add_assign(heavier);
        }
    }

    /// With the spring and the losses of the air that all of them squeeze.
    fn coupled(self) -> Coupled {
        let Self { closed: Closed { drum, laid, .. }, modes, mass, mut loss, mut stiffness, batter, film_moves, flows, .. } = self;
        let squeezed = &batter - &film_moves - &flows;
        stiffness += air_spring(drum.depth()) * &squeezed * squeezed.transpose();
        let air_loss = AIR_LOSS + VENT_LOSS * f64::from(drum.vents) + laid.map_or(0.0, |laid| laid.air);
        loss += air_loss * &squeezed * squeezed.transpose();
        loss += RADIATION_LOSS * (&batter * batter.transpose() + &film_moves * film_moves.transpose());
        let heads = if self.front_mass.is_some() { 2 * modes.len() } else { modes.len() };
        Coupled { mass, loss, stiffness, heads, batter, film_moves, squeezed }
    }
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

/// Which of `modes` is heard as the body, where one of them is a tone.
pub(super) fn body_of(modes: &[AxialMode]) -> Option<usize> {
    let tones: Vec<usize> = (0..modes.len()).filter(|at| modes[*at].is_tone()).collect();
    let loudest = tones.iter().map(|at| modes[*at].player).fold(0.0, f64::max);
    let level = |mode: &AxialMode| 20.0 * (mode.player / loudest).max(1e-9).log10();
    let partial = |mode: &AxialMode| Partial {
        hz: mode.hz,
        t60_s: Some(t60(mode.decay)),
        t60_sd_s: None,
        t60_scatter_s: None,
        level_db: level(mode),
        tone: None,
    };
    let partials: Vec<Partial> = tones.iter().map(|at| partial(&modes[*at])).collect();
    HeardBy::Partials.body(&partials).map(|body| tones[body])
}

/// Likeness of two motions, 0 to 1 (Allemang, *The modal assurance criterion*, Sound and Vibration 37, 2003), over the heads that both have.
pub(super) fn alike(a: &AxialMode, b: &AxialMode) -> f64 {
    let count = a.shape.len().min(b.shape.len());
    let (a, b) = (&a.shape[..count], &b.shape[..count]);
    let both: Complex64 = a.iter().zip(b).map(|(x, y)| x.conj() * y).sum();
    let size = |shape: &[Complex64]| shape.iter().map(|x| x.norm_sqr()).sum::<f64>();
    both.norm_sqr() / (size(a) * size(b)).max(1e-30)
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
