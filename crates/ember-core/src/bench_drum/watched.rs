//! How the heads of the simulated drum move: what tells which mode a partial truly is.

use super::strike::BenchDrum;
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
        let mut weights: [Vec<Vec<(usize, f64)>>; 2] = [Vec::new(), Vec::new()];
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
                    if weights[side].is_empty() {
                        let part = head.cell_area() / (PI * a * a);
                        let on = |shape: &dyn Fn(f64, f64) -> f64| {
                            head.points().map(|(cell, x, y)| (cell, part * shape(x.hypot(y) / a, y.atan2(x)))).collect()
                        };
                        weights[side] = shapes.iter().map(|shape| on(shape)).collect();
                    }
                    for (moved, weights) in moves[side].iter_mut().zip(&weights[side]) {
                        moved.push(weights.iter().map(|(cell, weight)| weight * head.at(*cell)).sum());
                    }
                }
            },
        );
        (moves, self.grid_rate() / every as f64)
    }
}
