//! One head as a grid of points, stepped in time.

use pulp::{Arch, Simd, WithSimd};
use std::f64::consts::PI;

/// Physics of one head.
#[derive(Debug, Clone, Copy)]
pub struct HeadPhysics {
    pub radius: f64,
    /// Moving mass per area, kg/m2.
    pub areal_mass: f64,
    /// Pitch of the lowest mode of this head alone, Hz.
    pub hz: f64,
    /// Tension along the player's line over the mean, less 1; across it, as much under.
    pub uneven: f64,
    /// Tension gained per mean square slope, N/m: what bends the pitch of a hard hit.
    pub stretch: f64,
    /// Amplitude decay rate of slow motion, 1/s.
    pub loss: f64,
    /// Further decay per squared wave number, m2/s.
    pub loss_by_wave: f64,
}

/// Time in which the tension follows the motion's energy, s. Following it at once, but a step late, would pump the motion at
/// twice its pitch, and a small drum would never fall silent.
const TENSION_FOLLOWS_S: f64 = 0.006;

/// Grip of a loose device that only rests on the head, against one that is thrown about.
const RESTING_GRIP: f64 = 0.4;

/// What lies on a point of the head.
#[derive(Debug, Clone, Copy, Default)]
pub struct Load {
    /// Areal resistance that acts on all motion, N s/m3.
    pub resistance: f64,
    /// Further resistance that acts on fast motion only.
    pub fast_resistance: f64,
    /// Areal mass, kg/m2.
    pub mass: f64,
    /// Velocity at which a loose device is halfway between resting and thrown about, m/s; 0 for one that holds on.
    pub loose_at: f64,
}

/// Points on a side of a cell at which its load is looked up.
const PARTS: usize = 4;

/// Load of the cell at (x, y), all in cells: what covers it in part counts in part, or small pads would come out by a tenth too large or
/// too small.
fn mean_load(x: f64, y: f64, reach: f64, load_at: &impl Fn(f64, f64) -> Load) -> Load {
    let off = |part: usize| (part as f64 + 0.5) / PARTS as f64 - 0.5;
    let mut sum = Load::default();
    let share = 1.0 / (PARTS * PARTS) as f64;
    for i in 0..PARTS * PARTS {
        let (x, y) = (x + off(i % PARTS), y + off(i / PARTS));
        let load = load_at((x.hypot(y) / reach).min(1.0), y.atan2(x));
        sum.resistance += share * load.resistance;
        sum.fast_resistance += share * load.fast_resistance;
        sum.mass += share * load.mass;
        sum.loose_at = sum.loose_at.max(load.loose_at);
    }
    sum
}

/// A point that carries something: it moves by its own coefficients.
struct Loaded {
    cell: usize,
    load: Load,
    motion: Motion,
    /// What it would go on by in the next step without any force but that of its curvature before, m.
    goes_on: f64,
    slow_velocity: f64,
}

/// Coefficients of one point's step.
#[derive(Clone, Copy)]
struct Motion {
    /// Part of its movement that it loses in a step.
    lost: f64,
    /// Displacement per force, in units of dt^2, m3/N.
    per_force: f64,
    /// Areal mass, kg/m2.
    density: f64,
}

impl Motion {
    /// `drag`: areal resistance, N s/m3.
    fn new(density: f64, drag: f64, dt: f64) -> Self {
        let half = 0.5 * dt * drag;
        Self { lost: 2.0 * half / (density + half), per_force: 1.0 / (density + half), density }
    }
}

/// One step of `grid`, for the widest instructions that the machine has.
struct Stepping<'a> {
    grid: &'a mut MembraneGrid,
    pressure: f64,
    pushes: &'a [(usize, f64)],
}

impl WithSimd for Stepping<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) {
        self.grid.stepped(simd, self.pressure, self.pushes);
    }
}

/// Most lanes that any instruction has.
const MOST_LANES: usize = 16;

/// Numbers in 4 KiB of memory, and by how many the lists of all cells are longer than a multiple of that. Lists that lie alike in their pages
/// make a processor wait, for it takes a read of the one for a read of what was just written to the other: by a quarter of the time here.
const PAGE: usize = 1024;
const OFF_THE_PAGE: usize = 396;

/// A head being stepped. Explicit leap-frog in `dt`, as displacement and movement in a step; losses are centred, so that they never add energy.
///
/// Single precision is enough in this form: what is rounded away in a step is a part of the movement of that step, and what adds up of it stays
/// some 100 dB under the sound. As a difference of two displacements it would not be.
pub struct MembraneGrid {
    /// Cells from one row to the next, and from the start of a row to the centre.
    width: usize,
    half: usize,
    step: f64,
    dt: f64,
    tension: f64,
    /// Part of the tension along x, and along y.
    along: [f64; 2],
    stretch: f64,
    /// Displacement, m, and, while a step is made, that after it.
    now: Vec<f32>,
    next: Vec<f32>,
    /// How far each cell moved in the last step, m.
    moved: Vec<f32>,
    /// Sum of the four links of the last step, for losses that grow with curvature.
    curve: Vec<f32>,
    microphone: Vec<f32>,
    mean: f64,
    heard: f64,
    turn: u64,
    /// Spring to the four neighbours and to the rim, in units of tension / step^2; 0 where there is no film.
    hold: Vec<f32>,
    free: Motion,
    loaded: Vec<Loaded>,
    loss_by_wave: f64,
    /// Cells of the whole head, and those with film.
    cells: usize,
    film_cells: usize,
    slope: f64,
    /// Pressure on each cell, Pa, where it is not the same on all; empty otherwise.
    pressed: Vec<f32>,
}

impl MembraneGrid {
    /// `load_at(radius 0..1, angle)` tells what lies where, `is_hole` where there is no film: its edge is free.
    pub fn new(head: &HeadPhysics, dt: f64, load_at: impl Fn(f64, f64) -> Load, is_hole: impl Fn(f64, f64) -> bool) -> Self {
        let speed = 2.0 * PI * head.radius * head.hz / 2.404_825_557_695_773;
        // 1.7 keeps the scheme stable with the stiff links to the rim and 10 % more tension under a hard hit.
        let step = (1.7 * speed * dt).max(head.radius / 26.0);
        let half = (head.radius / step).ceil() as usize + 1;
        let width = 2 * half + 1;
        // Cells are stepped in whole vectors, which may reach past the last row but one.
        let size = (width * width + MOST_LANES).next_multiple_of(PAGE) + OFF_THE_PAGE;
        let place = |cell: usize| ((cell % width) as f64 - half as f64, (cell / width) as f64 - half as f64);
        let reach = head.radius / step;
        let inside = |x: f64, y: f64| x.hypot(y) < reach - 1e-9;
        let mut grid = Self {
            width,
            half,
            step,
            dt,
            tension: head.areal_mass * speed * speed,
            along: [1.0 + head.uneven, 1.0 - head.uneven],
            stretch: head.stretch,
            now: vec![0.0; size],
            next: vec![0.0; size],
            moved: vec![0.0; size],
            curve: vec![0.0; size],
            microphone: vec![0.0; size],
            mean: 0.0,
            heard: 0.0,
            turn: 0,
            hold: vec![0.0; size],
            free: Motion::new(head.areal_mass, 2.0 * head.loss * head.areal_mass, dt),
            loaded: Vec::new(),
            loss_by_wave: head.loss_by_wave,
            cells: 0,
            film_cells: 0,
            slope: 0.0,
            pressed: Vec::new(),
        };
        let missing = |x: f64, y: f64| is_hole(x.hypot(y) / reach, y.atan2(x));
        for row in 0..2 * half + 1 {
            let cells: Vec<usize> = (row * width..(row + 1) * width).filter(|cell| inside(place(*cell).0, place(*cell).1)).collect();
            grid.cells += cells.len();
            let film: Vec<usize> = cells.into_iter().filter(|cell| !missing(place(*cell).0, place(*cell).1)).collect();
            grid.film_cells += film.len();
            for cell in film {
                let (x, y) = place(cell);
                let hold: f64 = [(1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0)]
                    .iter()
                    .filter(|(dx, dy)| !missing(x + dx, y + dy))
                    .map(|(dx, dy)| {
                        let part = grid.along[usize::from(*dx == 0.0)];
                        if inside(x + dx, y + dy) { part } else { part / to_rim(x, y, *dx, *dy, reach).max(0.35) }
                    })
                    .sum();
                grid.hold[cell] = hold as f32;
                let load = mean_load(x, y, reach, &load_at);
                if load.resistance > 0.0 || load.mass > 0.0 {
                    let held = if load.loose_at > 0.0 { 0.0 } else { load.resistance };
                    let motion = Motion::new(head.areal_mass + load.mass, 2.0 * head.loss * head.areal_mass + held, dt);
                    grid.loaded.push(Loaded { cell, load, motion, goes_on: 0.0, slow_velocity: 0.0 });
                }
            }
        }
        grid
    }

    /// Cells with their (x, y) in m from the centre; x points at the player.
    pub fn points(&self) -> impl Iterator<Item = (usize, f64, f64)> + '_ {
        let from_centre = |at: usize| (at as f64 - self.half as f64) * self.step;
        let film = (0..self.hold.len()).filter(|cell| self.hold[*cell] > 0.0);
        film.map(move |cell| (cell, from_centre(cell % self.width), from_centre(cell / self.width)))
    }

    /// Sets what a microphone hears of each cell (pressure per acceleration).
    pub fn set_microphone(&mut self, weight: impl Fn(f64, f64) -> f64) {
        let weights: Vec<(usize, f64)> = self.points().map(|(cell, x, y)| (cell, weight(x, y))).collect();
        for (cell, weight) in weights {
            self.microphone[cell] = weight as f32;
        }
    }

    /// The pressure on each cell, Pa, for who sets it before every step.
    pub fn pressed(&mut self) -> &mut [f32] {
        self.pressed.resize(self.now.len(), 0.0);
        &mut self.pressed
    }

    /// Part of the head's area that has film.
    pub fn film(&self) -> f64 {
        self.film_cells as f64 / self.cells as f64
    }

    /// Mean displacement over the head, holes counted as at rest, m.
    pub fn mean(&self) -> f64 {
        self.mean
    }

    /// Displacement of a cell, m.
    pub fn at(&self, cell: usize) -> f64 {
        f64::from(self.now[cell])
    }

    /// How far a cell moved in the last step, m.
    pub fn moved(&self, cell: usize) -> f64 {
        f64::from(self.moved[cell])
    }

    /// How fast a cell moved in the last step, m/s.
    pub fn speed(&self, cell: usize) -> f64 {
        self.moved(cell) / self.dt
    }

    /// What the microphone hears of the last step.
    pub fn heard(&self) -> f64 {
        self.heard
    }

    /// Area that one cell stands for, m2.
    pub fn cell_area(&self) -> f64 {
        self.step * self.step
    }

    /// One step under a uniform `pressure` (Pa) and `pushes` (cell, Pa).
    pub fn advance(&mut self, pressure: f64, pushes: &[(usize, f64)]) {
        Arch::new().dispatch(Stepping { grid: self, pressure, pushes });
    }

    #[inline(always)]
    fn stepped<S: Simd>(&mut self, simd: S, pressure: f64, pushes: &[(usize, f64)]) {
        let dt = self.dt;
        // The scheme is stable up to a tenth more tension; no hand stretches a head further.
        let tension = self.tension * (1.0 + self.stretch * self.slope / self.tension).min(1.1);
        let forces = Forces {
            spring: dt * dt * tension / (self.step * self.step),
            smear: 2.0 * self.loss_by_wave * dt / (self.step * self.step),
            pressure: dt * dt * pressure,
        };
        self.turn += 1;
        for item in &mut self.loaded {
            let Motion { lost, per_force, density } = item.motion;
            let curve_before = f64::from(self.curve[item.cell]);
            item.goes_on = (1.0 - lost) * f64::from(self.moved[item.cell]) - per_force * forces.smear * density * curve_before;
        }
        let mut sums = self.swept(simd, &forces);
        for (cell, push) in pushes {
            self.moves_further(*cell, dt * dt * push * self.free.per_force, &mut sums);
        }
        self.move_loaded(&forces, pushes, &mut sums);
        self.mean += sums.moved / self.cells as f64;
        self.heard = sums.at_microphone / (dt * dt);
        std::mem::swap(&mut self.now, &mut self.next);
    }

    /// Moves `cell` further `by` m than it went in this step.
    #[inline(always)]
    fn moves_further(&mut self, cell: usize, by: f64, sums: &mut Sums) {
        self.moved[cell] += by as f32;
        self.next[cell] += by as f32;
        sums.moved += by;
        sums.at_microphone += f64::from(self.microphone[cell]) * by;
    }

    /// Moves every cell as if nothing lay on the head.
    #[inline(always)]
    fn swept<S: Simd>(&mut self, simd: S, forces: &Forces) -> Sums {
        let by = Factors::new(simd, &self.free, forces, self.along, self.dt);
        let mut sums = VectorSums::zero(simd);
        // Nothing moves in the first and the last row, so that every other cell has all four neighbours.
        let (from, count) = (self.width, self.width * (self.width - 2));
        let inner = from..from + count.next_multiple_of(size_of::<S::f32s>() / size_of::<f32>());
        let from = |at: usize| &self.now[at..at + inner.len()];
        let cells = Whole {
            left: from(inner.start - 1),
            right: from(inner.start + 1),
            below: from(inner.start - self.width),
            above: from(inner.start + self.width),
            now: from(inner.start),
            next: &mut self.next[inner.clone()],
            hold: &self.hold[inner.clone()],
            microphone: &self.microphone[inner.clone()],
            pressed: self.pressed.get(inner.clone()).unwrap_or(&[]),
            moved: &mut self.moved[inner.clone()],
            curve: &mut self.curve[inner],
        };
        cells.move_by(simd, &by, &mut sums);
        // The tension follows the motion's energy, which changes slowly: looking at it every fourth step is enough. The mean square slope is the
        // integral of the displacement times its own curvature.
        if self.turn.is_multiple_of(4) {
            let energy = -f64::from(simd.reduce_sum_f32s(sums.bent));
            let slope = energy / (self.step * self.step) / self.film_cells as f64;
            self.slope += (4.0 * self.dt / TENSION_FOLLOWS_S).min(1.0) * (slope - self.slope);
        }
        Sums { moved: simd.reduce_sum_f32s(sums.moved).into(), at_microphone: simd.reduce_sum_f32s(sums.at_microphone).into() }
    }

    /// Moves the cells on which something lies, each with its own mass and drag, from where they would have gone without.
    #[inline(always)]
    fn move_loaded(&mut self, forces: &Forces, pushes: &[(usize, f64)], sums: &mut Sums) {
        let dt = self.dt;
        let mut loaded = std::mem::take(&mut self.loaded);
        for item in &mut loaded {
            let Motion { per_force, density, .. } = item.motion;
            // A stick that lands on what lies on the head moves the head all the same.
            let push: f64 = pushes.iter().filter(|(cell, _)| *cell == item.cell).map(|(_, push)| dt * dt * push).sum();
            let pressed = self.pressed.get(item.cell).map_or(0.0, |pressed| dt * dt * f64::from(*pressed));
            let curve = f64::from(self.curve[item.cell]);
            let force = (forces.spring + forces.smear * density) * curve + forces.pressure + pressed + push;
            let mut moved = item.goes_on + per_force * force;
            let velocity = moved / dt;
            item.slow_velocity += 2.0 * PI * 300.0 * dt * (velocity - item.slow_velocity);
            let loose = item.load.loose_at > 0.0;
            let lifted = velocity.abs() / (velocity.abs() + item.load.loose_at.max(1e-12));
            let grip = if loose { RESTING_GRIP + (1.0 - RESTING_GRIP) * lifted } else { 1.0 };
            let slow = if loose { item.load.resistance } else { 0.0 };
            let brake = grip * (slow * velocity + item.load.fast_resistance * (velocity - item.slow_velocity)) * per_force;
            // A brake can stop a point, not throw it back.
            moved -= dt * (dt * brake).abs().min(velocity.abs()) * brake.signum();
            self.moves_further(item.cell, moved - f64::from(self.moved[item.cell]), sums);
        }
        self.loaded = loaded;
    }
}

/// What acts on every cell in a step, in units of the step.
struct Forces {
    spring: f64,
    /// Loss that grows with the curvature.
    smear: f64,
    pressure: f64,
}

/// Sums over all cells of a step: how far they moved, m, and by how much more than in the step before, as the microphone weighs it.
#[derive(Default)]
struct Sums {
    moved: f64,
    at_microphone: f64,
}

/// What a free cell's step is made of, in all lanes.
struct Factors<S: Simd> {
    along: [S::f32s; 2],
    lost: S::f32s,
    curve: S::f32s,
    curve_before: S::f32s,
    /// By the pressure that is the same on all, and per pressure of a cell's own.
    everywhere: S::f32s,
    per_pressure: S::f32s,
}

impl<S: Simd> Factors<S> {
    #[inline(always)]
    fn new(simd: S, free: &Motion, forces: &Forces, along: [f64; 2], dt: f64) -> Self {
        let all = |factor: f64| simd.splat_f32s(factor as f32);
        let smear = free.per_force * forces.smear * free.density;
        Self {
            along: along.map(all),
            lost: all(-free.lost),
            curve: all(free.per_force * forces.spring + smear),
            curve_before: all(-smear),
            everywhere: all(free.per_force * forces.pressure),
            per_pressure: all(free.per_force * dt * dt),
        }
    }
}

/// Sums over the cells of a step, lane by lane: those of [`Sums`], and of displacement times curvature.
struct VectorSums<S: Simd> {
    moved: S::f32s,
    at_microphone: S::f32s,
    bent: S::f32s,
}

impl<S: Simd> VectorSums<S> {
    #[inline(always)]
    fn zero(simd: S) -> Self {
        let zero = simd.splat_f32s(0.0);
        Self { moved: zero, at_microphone: zero, bent: zero }
    }
}

/// All cells but the outermost, and their neighbours. Where there is no film nothing moves.
struct Whole<'a> {
    left: &'a [f32],
    right: &'a [f32],
    below: &'a [f32],
    above: &'a [f32],
    now: &'a [f32],
    next: &'a mut [f32],
    hold: &'a [f32],
    microphone: &'a [f32],
    /// Empty where the pressure is the same on all.
    pressed: &'a [f32],
    moved: &'a mut [f32],
    curve: &'a mut [f32],
}

/// As many cells as there are lanes.
struct Cells<S: Simd> {
    left: S::f32s,
    right: S::f32s,
    below: S::f32s,
    above: S::f32s,
    now: S::f32s,
    hold: S::f32s,
    pressed: S::f32s,
    moved: S::f32s,
    curve: S::f32s,
}

impl<S: Simd> Cells<S> {
    /// By how much more they move than in the step before, and the sums of their links.
    #[inline(always)]
    fn pushed(&self, simd: S, by: &Factors<S>) -> (S::f32s, S::f32s) {
        let across = simd.mul_f32s(by.along[1], simd.add_f32s(self.below, self.above));
        let links = simd.mul_add_f32s(by.along[0], simd.add_f32s(self.left, self.right), across);
        let curve = simd.sub_f32s(links, simd.mul_f32s(self.hold, self.now));
        let forced = simd.mul_add_f32s(by.per_pressure, self.pressed, by.everywhere);
        let forced = simd.mul_add_f32s(by.curve_before, self.curve, forced);
        let forced = simd.mul_add_f32s(by.curve, curve, forced);
        let pushed = simd.mul_add_f32s(by.lost, self.moved, forced);
        let nothing = simd.splat_f32s(0.0);
        let film = simd.greater_than_f32s(self.hold, nothing);
        (simd.select_f32s(film, pushed, nothing), curve)
    }
}

impl Whole<'_> {
    /// Works out how far the cells move in this step, and the sums of their links.
    #[inline(always)]
    fn move_by<S: Simd>(self, simd: S, by: &Factors<S>, sums: &mut VectorSums<S>) {
        let whole = |part| S::as_simd_f32s(part).0;
        let (left, right, below, above) = (whole(self.left), whole(self.right), whole(self.below), whole(self.above));
        let (now, hold, microphone, pressed) = (whole(self.now), whole(self.hold), whole(self.microphone), whole(self.pressed));
        let whole_mut = |part| S::as_mut_simd_f32s(part).0;
        let (next, moved, curve) = (whole_mut(self.next), whole_mut(self.moved), whole_mut(self.curve));
        // Slices of one length let the compiler drop the bounds checks.
        let count = now.len();
        let (left, right, below, above) = (&left[..count], &right[..count], &below[..count], &above[..count]);
        let (hold, microphone, moved, curve) = (&hold[..count], &microphone[..count], &mut moved[..count], &mut curve[..count]);
        let next = &mut next[..count];
        let none = simd.splat_f32s(0.0);
        for i in 0..count {
            let cells: Cells<S> = Cells {
                left: left[i],
                right: right[i],
                below: below[i],
                above: above[i],
                now: now[i],
                hold: hold[i],
                pressed: if pressed.is_empty() { none } else { pressed[i] },
                moved: moved[i],
                curve: curve[i],
            };
            let (pushed, bent) = cells.pushed(simd, by);
            let goes = simd.add_f32s(cells.moved, pushed);
            (moved[i], curve[i], next[i]) = (goes, bent, simd.add_f32s(cells.now, goes));
            sums.moved = simd.add_f32s(sums.moved, goes);
            sums.at_microphone = simd.mul_add_f32s(microphone[i], pushed, sums.at_microphone);
            sums.bent = simd.mul_add_f32s(cells.now, bent, sums.bent);
        }
    }
}

/// Distance, in grid steps, from (x, y) along (dx, dy) to the circle of `reach` steps.
fn to_rim(x: f64, y: f64, dx: f64, dy: f64, reach: f64) -> f64 {
    let along = x * dx + y * dy;
    let across = (x * dy - y * dx).abs();
    (reach * reach - across * across).max(0.0).sqrt() - along
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::decay::{PartialFinder, Span};
    use crate::numeric::bessel_zero;

    /// Pitches of the grid against the zeros of Bessel functions (Abramowitz & Stegun, table 9.5).
    #[test]
    fn a_head_alone_sounds_at_the_membrane_ratios() {
        let (rate, hz) = (24_000.0, 140.0);
        let head = HeadPhysics { radius: 0.15, areal_mass: 0.45, hz, uneven: 0.0, stretch: 0.0, loss: 4.0, loss_by_wave: 0.0 };
        let mut grid = MembraneGrid::new(&head, 1.0 / rate, |_, _| Load::default(), |_, _| false);
        let hit = grid.points().min_by(|a, b| (a.1 - 0.07).hypot(a.2 - 0.03).total_cmp(&(b.1 - 0.07).hypot(b.2 - 0.03))).unwrap().0;
        let mut sound = vec![0f32; 1200];
        for n in 0..48_000 {
            let push = if n < 24 { vec![(hit, 1e4)] } else { Vec::new() };
            grid.advance(0.0, &push);
            sound.push(1e3 * grid.now[hit]);
        }
        let finder = PartialFinder::new(rate);
        let (slow, _) = finder.slow(&sound);
        let (found, _) = finder.find(&slow, &Span { onset_s: 0.05, settle_s: 0.06, length_s: 1.9, energy_rate: 15.0, clipped_s: 0.0 });
        for (m, n) in [(0, 1), (1, 1), (2, 1), (0, 2), (3, 1)] {
            let wanted = hz * bessel_zero(m, n) / bessel_zero(0, 1);
            let near = found.iter().map(|p| (p.hz / wanted - 1.0).abs()).fold(1.0, f64::min);
            assert!(near < 0.015, "({m},{n}) at {wanted:.1} Hz missed by {near:.3}: {:?}", found.iter().map(|p| p.hz).collect::<Vec<_>>());
        }
    }
}
