//! A film as a net of springs on a square grid.

use nalgebra::{DMatrix, DVector};
use rand::{Rng, SeedableRng, rngs::StdRng};

/// Grid points along the radius: enough for the lowest dozen modes.
const POINTS_PER_RADIUS: f64 = 16.0;

/// A mode is found when an iteration moves its squared pitch by no more than this part: a ten-thousandth of a cent.
const SETTLED: f64 = 1e-7;

/// Points of a square grid inside the rim, held by springs to their eight neighbours and to the rim. Cells outside stay at
/// rest; springs lie in arrays over the whole grid, so that a step runs along rows.
pub(super) struct SpringNet {
    step: f64,
    width: usize,
    half: isize,
    /// Cells inside the rim, row by row: from, to.
    pub(super) rows: Vec<(usize, usize)>,
    /// (cell, x, y in m) of the points inside.
    pub(super) points: Vec<(usize, f64, f64)>,
    /// Springs (N/m per m2 of head) of each cell to the next one along x, along y, along the diagonal; and of the next along x to
    /// the next along y.
    right: Vec<f64>,
    above: Vec<f64>,
    diagonal: Vec<f64>,
    counter: Vec<f64>,
    /// What holds each cell to its neighbours and to the rim together.
    pub(super) held: Vec<f64>,
}

impl SpringNet {
    /// `stress_at`: membrane stress (xx, yy, xy) in N/m at a point in m.
    pub(super) fn new(radius: f64, stress_at: impl Fn(f64, f64) -> [f64; 3]) -> Self {
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
    pub(super) fn force(&self, u: &[f64], out: &mut [f64]) {
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
    pub(super) fn nearest(&self, x: f64, y: f64) -> usize {
        let off = |point: &(usize, f64, f64)| (point.1 - x).hypot(point.2 - y);
        self.points.iter().min_by(|a, b| off(a).total_cmp(&off(b))).map_or(0, |point| point.0)
    }

    /// A shape between grid points.
    pub(super) fn interpolated(&self, shape: &DVector<f64>, x: f64, y: f64) -> f64 {
        let (gx, gy) = (x / self.step, y / self.step);
        let (i, j) = (gx.floor() as isize, gy.floor() as isize);
        let at = |i: isize, j: isize| shape[(i + self.half) as usize + (j + self.half) as usize * self.width];
        let (fx, fy) = (gx - i as f64, gy - j as f64);
        (at(i, j) * (1.0 - fx) + at(i + 1, j) * fx) * (1.0 - fy) + (at(i, j + 1) * (1.0 - fx) + at(i + 1, j + 1) * fx) * fy
    }

    /// Squared angular frequencies (1/s2) and shapes of the `count` lowest modes, low to high.
    pub(super) fn lowest_modes(&self, count: usize, areal_mass: f64) -> (Vec<f64>, DMatrix<f64>) {
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
            let settled = found.iter().zip(&squares).take(count).all(|(new, old): (&f64, &f64)| (new - old).abs() < SETTLED * new.abs());
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
