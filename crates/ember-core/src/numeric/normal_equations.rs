//! Small systems of normal equations, solved again and again while tones are fitted: Cholesky's factor (R. A. Horn & C. R. Johnson, Matrix
//! Analysis, 7.2) row by row, so that every inner loop runs over plain slices, in memory that is kept.

use pulp::{Arch, Simd, WithSimd};

/// A symmetric matrix, of which the lower triangle counts, and what a step is solved with.
#[derive(Debug, Clone)]
pub(crate) struct NormalEquations {
    size: usize,
    /// Row after row.
    pub matrix: Vec<f64>,
    factor: Vec<f64>,
}

impl NormalEquations {
    /// All zeros.
    pub fn zeros(size: usize) -> Self {
        Self { size, matrix: vec![0.0; size * size], factor: vec![0.0; size * size] }
    }

    /// How many unknowns there are.
    pub fn size(&self) -> usize {
        self.size
    }

    /// Sets an entry on or below the diagonal.
    #[inline(always)]
    pub fn set(&mut self, row: usize, column: usize, value: f64) {
        self.matrix[row * self.size + column] = value;
    }

    /// Diagonal entry number `index`.
    pub fn diagonal(&self, index: usize) -> f64 {
        self.matrix[index * (self.size + 1)]
    }

    /// Solution for `right` with every diagonal entry made larger by the part `damping` of it. `None` where the matrix is not positive.
    pub fn solve(&mut self, damping: f64, right: &[f64]) -> Option<Vec<f64>> {
        if !self.factorize(damping) {
            return None;
        }
        let (size, l) = (self.size, &self.factor);
        let mut x = right.to_vec();
        for row in 0..size {
            let known: f64 = l[row * size..row * size + row].iter().zip(&x).map(|(l, x)| l * x).sum();
            x[row] = (x[row] - known) / l[row * size + row];
        }
        for row in (0..size).rev() {
            x[row] /= l[row * size + row];
            let (before, here) = x.split_at_mut(row);
            before.iter_mut().zip(&l[row * size..]).for_each(|(x, l)| *x -= l * here[0]);
        }
        Some(x)
    }

    /// Whether the matrix is positive definite.
    pub fn is_positive(&mut self) -> bool {
        self.factorize(0.0)
    }

    /// Diagonal of the inverse. `None` where the matrix is not positive.
    pub fn inverse_diagonal(&mut self) -> Option<Vec<f64>> {
        if !self.factorize(0.0) {
            return None;
        }
        let (size, l) = (self.size, &self.factor);
        let mut diagonal = vec![0.0; size];
        let mut column = vec![0.0; size];
        // Of the factor's inverse, column by column.
        for (start, sum) in diagonal.iter_mut().enumerate() {
            for row in start..size {
                let known: f64 = l[row * size + start..row * size + row].iter().zip(&column[start..]).map(|(l, x)| l * x).sum();
                column[row] = (f64::from(u8::from(row == start)) - known) / l[row * size + row];
                *sum += column[row] * column[row];
            }
        }
        Some(diagonal)
    }

    fn factorize(&mut self, damping: f64) -> bool {
        let Self { size, matrix, factor } = self;
        Arch::new().dispatch(Factorize { size: *size, matrix, factor, damping })
    }
}

struct Factorize<'a> {
    size: usize,
    matrix: &'a [f64],
    factor: &'a mut [f64],
    damping: f64,
}

impl WithSimd for Factorize<'_> {
    type Output = bool;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> bool {
        let Self { size, matrix, factor, damping } = self;
        for row in 0..size {
            let (before, here) = factor.split_at_mut(row * size);
            for column in 0..=row {
                let other = if column < row { &before[column * size..column * size + column] } else { &here[..column] };
                let mut value = matrix[row * size + column];
                if column == row {
                    value *= 1.0 + damping;
                }
                value -= product(&here[..column], other);
                if column < row {
                    here[column] = value / before[column * (size + 1)];
                } else if value > 0.0 {
                    here[row] = value.sqrt();
                } else {
                    return false;
                }
            }
        }
        true
    }
}

/// Sum of products, four side by side.
#[inline(always)]
fn product(a: &[f64], b: &[f64]) -> f64 {
    let ((a, a_end), (b, b_end)) = (a.as_chunks::<4>(), b.as_chunks::<4>());
    let mut sums = [0.0; 4];
    for (a, b) in a.iter().zip(b) {
        for lane in 0..4 {
            sums[lane] += a[lane] * b[lane];
        }
    }
    sums.iter().sum::<f64>() + a_end.iter().zip(b_end).map(|(a, b)| a * b).sum::<f64>()
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::{DMatrix, DVector};
    use proptest::prelude::*;

    proptest! {
        /// Against the general library.
        #[test]
        fn solutions_and_inverse_are_those_of_the_library(
            size in 1usize..30, parts in prop::collection::vec(-1f64..1.0, 30 * 33), damping in 0f64..0.1,
        ) {
            let b = DMatrix::from_fn(size, size + 2, |r, c| parts[r * 33 + c]);
            let a = &b * b.transpose() + DMatrix::identity(size, size) * 1e-3;
            let mut normal = NormalEquations::zeros(size);
            (0..size).for_each(|r| (0..=r).for_each(|c| normal.set(r, c, a[(r, c)])));
            let right: Vec<f64> = (0..size).map(|i| parts[i]).collect();
            let damped = &a + DMatrix::from_diagonal(&(a.diagonal() * damping));
            let wanted = damped.lu().solve(&DVector::from_column_slice(&right)).unwrap();
            let found = DVector::from_vec(normal.solve(damping, &right).unwrap());
            prop_assert!((&found - &wanted).norm() < 1e-7 * (1.0 + wanted.norm()));
            let inverse = a.try_inverse().unwrap();
            let diagonal = normal.inverse_diagonal().unwrap();
            for (i, value) in diagonal.iter().enumerate() {
                prop_assert!((value / inverse[(i, i)] - 1.0).abs() < 1e-7, "{value} {}", inverse[(i, i)]);
            }
        }
    }

    #[test]
    fn what_is_not_positive_has_no_solution() {
        let mut normal = NormalEquations::zeros(2);
        for (row, column, value) in [(0, 0, 1.0), (1, 0, 2.0), (1, 1, 3.0)] {
            normal.set(row, column, value);
        }
        assert!(normal.solve(0.0, &[1.0, 1.0]).is_none() && normal.inverse_diagonal().is_none());
        assert!(NormalEquations::zeros(1).solve(0.0, &[f64::NAN]).is_none());
    }
}
