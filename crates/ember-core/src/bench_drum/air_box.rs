//! The air in and around the simulated drum as a field: linear acoustics in a box that reaches past the drum on all sides.
//!
//! Explicit second-order differences of the wave equation on a cubic grid (Botteldooren, Journal of the Acoustical Society of America 98,
//! 1995). Shell and film are rigid walls between cells; film drives the air on both of its faces by its acceleration and is pushed by the
//! difference of their pressures. So air mass, the column's spring and inertia, what both heads give each other at every number of nodal
//! diameters, radiation, and the air in holes come out by themselves, without a formula that anything else here knows.

use super::cavity::is_hole;
use super::membrane_grid::MembraneGrid;
use crate::drum::Drum;
use crate::physics::{AIR_DENSITY, SPEED_OF_SOUND};
use pulp::{Arch, Simd, WithSimd};

/// Cells along the drum's radius where time steps allow it.
const CELLS_TO_RADIUS: f64 = 7.0;
/// Cells from the drum to the end of the box, of which all but the first grow by so much from one to the next: what the end of the box does
/// would otherwise reach back to the drum, in whose near field pressure and motion are not those of open air.
const MARGIN: usize = 6;
const GROWS: f64 = 1.6;
/// Part of the critical time step that is kept off.
const BELOW_CRITICAL: f64 = 0.98;
/// Points on a side of a face at which film is looked for.
const PARTS: usize = 8;
/// Area of one vent, m2: a hole of half an inch.
const VENT_AREA: f64 = 1.27e-4;

/// Which face of the drum.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum End {
    Batter,
    Lower,
}

/// Film over one column of cells.
struct Covered {
    /// Index of the air cell on the batter's side of the film; the cell on its other side is the same place in the next layer.
    above: usize,
    /// Cells of the head over it.
    film: Vec<usize>,
    /// Part of the face that each of them stands for.
    part: f64,
    /// Part of the face that has film.
    covered: f64,
    /// Sum of how far its cells moved in the last step, m.
    moved: f64,
}

/// What a cell at each place along one axis takes from the one before and from the one behind, and the part of it that a sound crosses in a
/// step.
struct Axis {
    back: Vec<f64>,
    on: Vec<f64>,
    crossed: Vec<f64>,
}

impl Axis {
    /// `inside` cells of `step` m between two growing margins, the outermost of which are no air; sound goes `way` m in a time step.
    fn new(inside: usize, step: f64, way: f64) -> Self {
        let count = inside + 2 * MARGIN;
        let size = |at: usize| {
            let out = MARGIN.saturating_sub(at).max((at + 1).saturating_sub(MARGIN + inside));
            step * GROWS.powi(out.saturating_sub(1) as i32)
        };
        let to = |at: usize, other: usize| way * way / (size(at) * 0.5 * (size(at) + size(other)));
        Self {
            back: (0..count).map(|at| if at > 1 { to(at, at - 1) } else { 0.0 }).collect(),
            on: (0..count).map(|at| if at + 2 < count { to(at, at + 1) } else { 0.0 }).collect(),
            crossed: (0..count).map(|at| way / size(at)).collect(),
        }
    }
}

/// The air.
pub(super) struct AirBox {
    /// Cells of a row, and of a layer.
    width: usize,
    layer: usize,
    lambda_squared: f64,
    /// Across the drum, and along it.
    across: Axis,
    along: Axis,
    step: f64,
    dt: f64,
    now: Vec<f64>,
    before: Vec<f64>,
    /// What a cell keeps of itself: 2 less its open faces times lambda squared, and its gain and loss at the box's end.
    keeps: Vec<f64>,
    gain: Vec<f64>,
    loses: Vec<f64>,
    /// Pairs of neighbours with a wall between them, and how much of it is wall.
    walls: Vec<(usize, usize, f64)>,
    /// The faces under film of the batter, and of the lower head.
    heads: Vec<Vec<Covered>>,
}

impl AirBox {
    /// Round `drum` with its heads, in steps of `dt` s. What lies inside lets pressure fall off at the rate `fill`, 1/s, as what takes heat from
    /// the air does: a loss factor of `fill` over the angular frequency.
    pub fn new(drum: &Drum, batter: &MembraneGrid, lower: Option<&MembraneGrid>, fill: f64, dt: f64) -> Self {
        let (a, depth) = (drum.radius(), drum.depth());
        let least = 3f64.sqrt() * SPEED_OF_SOUND * dt / BELOW_CRITICAL;
        let layers_inside = (depth / (a / CELLS_TO_RADIUS).max(least)).floor().max(2.0);
        let step = (depth / layers_inside).max(least);
        let layers_inside = layers_inside as usize;
        let half = (a / step).ceil() as usize + MARGIN;
        let width = 2 * half;
        let layer = width * width;
        let (top, bottom) = (MARGIN, MARGIN + layers_inside);
        let size = layer * (bottom + MARGIN);
        let lambda_squared = (SPEED_OF_SOUND * dt / step).powi(2);
        let is_under = |column: usize| {
            let at = |index: usize| (index as f64 + 0.5 - half as f64) * step;
            at(column % width).hypot(at(column / width)) < a
        };
        let mut air = Self {
            width,
            layer,
            lambda_squared,
            across: Axis::new(width - 2 * MARGIN, step, SPEED_OF_SOUND * dt),
            along: Axis::new(layers_inside, step, SPEED_OF_SOUND * dt),
            step,
            dt,
            now: vec![0.0; size],
            before: vec![0.0; size],
            keeps: vec![2.0; size],
            gain: vec![1.0; size],
            loses: vec![1.0; size],
            walls: Vec::new(),
            heads: Vec::new(),
        };
        for z in top..bottom {
            for column in (0..layer).filter(|column| column % width + 1 < width && column / width + 1 < width) {
                for next in [column + 1, column + width] {
                    if is_under(column) != is_under(next) {
                        air.walls.push((z * layer + column, z * layer + next, 1.0));
                    }
                }
            }
        }
        air.pierce_vents(usize::from(drum.vents), (top + bottom) / 2);
        let whole = |_: f64, _: f64| 1.0;
        air.add_head(batter, top, half, &is_under, &whole);
        if let Some(lower) = lower {
            air.add_head(lower, bottom, half, &is_under, &|x, y| film_part(drum, x, y, step));
        }
        air.settle();
        for cell in (top * layer..bottom * layer).filter(|cell| is_under(cell % layer)) {
            let half = 0.5 * dt * fill;
            (air.gain[cell], air.loses[cell]) = (1.0 / (1.0 + half), (1.0 - half) / (1.0 + half));
        }
        air
    }

    /// Makes `count` of the shell's wall faces at layer `z` let through as much as a vent does.
    fn pierce_vents(&mut self, count: usize, z: usize) {
        let (layer, open) = (self.layer, VENT_AREA / (self.step * self.step));
        self.walls.iter_mut().filter(|wall| wall.0 / layer == z).step_by(7).take(count).for_each(|wall| wall.2 = 1.0 - open.min(1.0));
    }

    /// Puts `head` between the layers above and below `plane`. `film_part` tells which part of a face at a place has film. The air's cells are
    /// coarser than the head's: a cell of the head that lies under no face inside the shell moves the air of the nearest face that does.
    fn add_head(
        &mut self,
        head: &MembraneGrid,
        plane: usize,
        half: usize,
        is_under: &impl Fn(usize) -> bool,
        film_part: &dyn Fn(f64, f64) -> f64,
    ) {
        let mut film: Vec<Vec<usize>> = vec![Vec::new(); self.layer];
        for (cell, x, y) in head.points() {
            let column_at = |times: f64| {
                let index = |at: f64| ((times * at / self.step).floor() + half as f64) as usize;
                index(y) * self.width + index(x)
            };
            let inwards = (0..40).map(|n| column_at(1.0 - 0.02 * f64::from(n)));
            if let Some(column) = inwards.into_iter().find(|column| is_under(*column)) {
                film[column].push(cell);
            }
        }
        let at = |index: usize| (index as f64 + 0.5 - half as f64) * self.step;
        let with_film = film.into_iter().enumerate().filter(|(_, film)| !film.is_empty());
        let covered = with_film.map(|(column, film)| {
            let covered = film_part(at(column % self.width), at(column / self.width));
            Covered { above: (plane - 1) * self.layer + column, part: covered / film.len() as f64, film, covered, moved: 0.0 }
        });
        let covered: Vec<Covered> = covered.collect();
        self.walls.extend(covered.iter().map(|film| (film.above, film.above + self.layer, film.covered)));
        self.heads.push(covered);
    }

    /// Works out every cell's own factors from its open faces.
    fn settle(&mut self) {
        let (width, layer, size) = (self.width, self.layer, self.now.len());
        for cell in 0..size {
            let places = [(cell % width, &self.across), (cell % layer / width, &self.across), (cell / layer, &self.along)];
            if places.iter().any(|(at, axis)| *at == 0 || at + 1 == axis.on.len()) {
                (self.keeps[cell], self.gain[cell], self.loses[cell]) = (0.0, 0.0, 0.0);
                continue;
            }
            self.keeps[cell] -= places.iter().map(|(at, axis)| axis.back[*at] + axis.on[*at]).sum::<f64>();
            // Beyond the box's end lies the impedance of open air.
            let at_end = places.iter().filter(|(at, axis)| *at == 1 || at + 2 == axis.on.len());
            let half = at_end.map(|(at, axis)| 0.5 * axis.crossed[*at]).sum::<f64>();
            (self.gain[cell], self.loses[cell]) = (1.0 / (1.0 + half), (1.0 - half) / (1.0 + half));
        }
        for (a, b, wall) in &self.walls {
            self.keeps[*a] += wall * self.lambda_squared;
            self.keeps[*b] += wall * self.lambda_squared;
        }
    }

    /// Puts what presses on each cell of the `end` head into `pressed`, Pa, from the batter towards the lower head.
    pub fn press(&self, end: End, cell_area: f64, pressed: &mut [f32]) {
        let Some(head) = self.heads.get(usize::from(end == End::Lower)) else { return };
        let cells_to_face = self.step * self.step / cell_area;
        for Covered { above, film, part, .. } in head {
            let difference = part * cells_to_face * (self.now[*above] - self.now[above + self.layer]);
            film.iter().for_each(|cell| pressed[*cell] = difference as f32);
        }
    }

    /// Mean pressure just inside the batter, Pa.
    pub fn inside(&self) -> f64 {
        let under = &self.heads[0];
        under.iter().map(|film| self.now[film.above + self.layer]).sum::<f64>() / under.len().max(1) as f64
    }

    /// One step, after the heads have made theirs.
    pub fn advance(&mut self, batter: &MembraneGrid, lower: Option<&MembraneGrid>) {
        let (layer, lambda) = (self.layer, self.lambda_squared);
        for (a, b, wall) in &self.walls {
            self.before[*a] += wall * lambda * self.now[*b] * self.gain[*a] / self.loses[*a];
            self.before[*b] += wall * lambda * self.now[*a] * self.gain[*b] / self.loses[*b];
        }
        Arch::new().dispatch(Rows(self));
        let by = self.lambda_squared * AIR_DENSITY * self.step / (self.dt * self.dt);
        for (head, grid) in self.heads.iter_mut().zip([Some(batter), lower]) {
            let Some(grid) = grid else { continue };
            for Covered { above, film, part, moved, .. } in head {
                let now: f64 = film.iter().map(|cell| grid.moved(*cell)).sum();
                let faster = by * *part * (now - std::mem::replace(moved, now));
                self.before[*above] -= self.gain[*above] * faster;
                self.before[*above + layer] += self.gain[*above + layer] * faster;
            }
        }
        std::mem::swap(&mut self.now, &mut self.before);
    }
    /// The next pressures of row `y` of layer `z`.
    #[inline(always)]
    fn row(&mut self, y: usize, z: usize) {
        let (width, layer) = (self.width, self.layer);
        let from = z * layer + y * width + 1;
        let count = width - 2;
        let at = |from: usize| &self.now[from..from + count];
        let (here, west, east) = (at(from), at(from - 1), at(from + 1));
        let (south, north, above, below) = (at(from - width), at(from + width), at(from - layer), at(from + layer));
        let (from_west, from_east) = (&self.across.back[1..=count], &self.across.on[1..=count]);
        let (from_south, from_north) = (self.across.back[y], self.across.on[y]);
        let (from_above, from_below) = (self.along.back[z], self.along.on[z]);
        let before = &mut self.before[from..from + count];
        let (keeps, gain, loses) = (&self.keeps[from..from + count], &self.gain[from..from + count], &self.loses[from..from + count]);
        for i in 0..count {
            let around = from_west[i] * west[i] + from_east[i] * east[i] + from_south * south[i] + from_north * north[i];
            let around = around + from_above * above[i] + from_below * below[i];
            before[i] = gain[i] * (keeps[i] * here[i] + around) - loses[i] * before[i];
        }
    }
}

/// All rows of the air, for the widest instructions that the machine has. The outermost cells are no air and stay at rest, so that every other
/// one has all six neighbours.
struct Rows<'a>(&'a mut AirBox);

impl WithSimd for Rows<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) {
        let Self(air) = self;
        for z in 1..air.along.on.len() - 1 {
            for y in 1..air.width - 1 {
                air.row(y, z);
            }
        }
    }
}

/// Part of the cell's face of `step` m about (x, y), m, that has film.
fn film_part(drum: &Drum, x: f64, y: f64, step: f64) -> f64 {
    let off = |part: usize| ((part as f64 + 0.5) / PARTS as f64 - 0.5) * step;
    let hole = |part: &usize| {
        let (x, y) = (x + off(part % PARTS), y + off(part / PARTS));
        is_hole(drum, x.hypot(y) / drum.radius(), y.atan2(x))
    };
    1.0 - (0..PARTS * PARTS).filter(hole).count() as f64 / (PARTS * PARTS) as f64
}
