//! How the heads of the simulated drum move: what tells which mode a partial truly is.

use super::membrane_grid::MembraneGrid;
use super::strike::BenchDrum;
use nalgebra::{DMatrix, DVector};
use rand::{SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

/// Steps a second that are looked at, at least.
const LEAST_RATE: f64 = 4000.0;

impl BenchDrum {
    /// Projects the motion of the batter and of the lower head in hit number `index` on each of `shapes`. A shape is a function of the radius, as a
    /// part of the head's, and the angle. Returns for each head and each shape one value a step, the mean over the head of displacement times
    /// shape in m, and the number of steps a second.
    pub fn moves_as(&self, seed: u64, index: usize, shapes: &[impl Fn(f64, f64) -> f64]) -> ([Vec<Vec<f64>>; 2], f64) {
        let every = (self.grid_rate() / LEAST_RATE).floor().max(1.0) as usize;
        let mut moves = [vec![Vec::new(); shapes.len()], vec![Vec::new(); shapes.len()]];
        let mut projections: [Option<Projection>; 2] = [None, None];
        let a = self.radius();
        let mut step = 0usize;
        self.heads_watched(
            1.0,
            &mut StdRng::seed_from_u64(seed.wrapping_mul(1_000_003).wrapping_add(index as u64 + 1)),
            |batter, lower| {
                step += 1;
                if !step.is_multiple_of(every) {
                    return;
                }
                for (side, head) in [Some(batter), lower].into_iter().enumerate() {
                    let Some(head) = head else { continue };
                    let projection = projections[side].get_or_insert_with(|| Projection::new(head, a, shapes));
                    let now = projection.of(head);
                    moves[side].iter_mut().zip(now.iter()).for_each(|(moved, now)| moved.push(*now));
                }
            },
        );
        (moves, self.grid_rate() / every as f64)
    }
}

/// What takes a head's motion to shapes.
struct Projection {
    cells: Vec<usize>,
    /// A row a shape, a column a cell: the shape there, times the part of the head that the cell is.
    weights: DMatrix<f64>,
}

impl Projection {
    /// On `shapes` of `head`, whose radius is `a` m.
    fn new(head: &MembraneGrid, a: f64, shapes: &[impl Fn(f64, f64) -> f64]) -> Self {
        let points: Vec<(usize, f64, f64)> = head.points().collect();
        let part = head.cell_area() / (PI * a * a);
        let weight = |shape: usize, (_, x, y): (usize, f64, f64)| part * shapes[shape](x.hypot(y) / a, y.atan2(x));
        let weights = DMatrix::from_fn(shapes.len(), points.len(), |shape, point| weight(shape, points[point]));
        Self { cells: points.iter().map(|point| point.0).collect(), weights }
    }

    /// Of each shape its part in where `head` is, m.
    fn of(&self, head: &MembraneGrid) -> DVector<f64> {
        &self.weights * DVector::from_iterator(self.cells.len(), self.cells.iter().map(|cell| head.at(*cell)))
    }
}
