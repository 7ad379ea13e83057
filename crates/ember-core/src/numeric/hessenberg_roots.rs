//! Eigenvalues of a real upper Hessenberg matrix.

use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};
use std::ops::Range;

/// Most steps for one pair of roots; two or three are usual. After so many without one, a shift from elsewhere breaks the circle.
const MOST_STEPS: usize = 60;
const STUCK: usize = 10;

/// Roots of the `size` by `size` matrix in `rows` (row by row; nothing below the subdiagonal), in no order. `None` where the steps do not
/// come to an end.
///
/// Francis's double-shift QR steps with Householder reflections (Golub & Van Loan, *Matrix Computations*, 7.5). Only roots are wanted, so only
/// the part that is still being worked on is turned: half the work of a Schur form.
pub(super) fn hessenberg_roots(rows: Vec<f64>, size: usize) -> Option<Vec<Complex64>> {
    Arch::new().dispatch(Turning { rows, size })
}

/// The same for the widest instructions that there are; all that it calls is compiled into it.
struct Turning {
    rows: Vec<f64>,
    size: usize,
}

impl WithSimd for Turning {
    type Output = Option<Vec<Complex64>>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Self::Output {
        turned(self.rows, self.size)
    }
}

#[inline(always)]
fn turned(mut rows: Vec<f64>, size: usize) -> Option<Vec<Complex64>> {
    let mut roots = Vec::with_capacity(size);
    let (mut end, mut steps) = (size, 0);
    while end > 0 {
        let at = |r: usize, c: usize| rows[r * size + c];
        let small = |r: usize| at(r, r - 1).abs() <= f64::EPSILON * (at(r - 1, r - 1).abs() + at(r, r).abs());
        let start = (1..end).rev().find(|r| small(*r)).unwrap_or(0);
        match end - start {
            1 => {
                roots.push(Complex64::from(at(end - 1, end - 1)));
                (end, steps) = (end - 1, 0);
            }
            2 => {
                let (p, q, r, s) = (at(end - 2, end - 2), at(end - 2, end - 1), at(end - 1, end - 2), at(end - 1, end - 1));
                let (middle, under) = (0.5 * (p + s), (0.25 * (p - s) * (p - s) + q * r));
                let apart = if under < 0.0 { Complex64::new(0.0, (-under).sqrt()) } else { Complex64::from(under.sqrt()) };
                roots.extend([middle + apart, middle - apart]);
                (end, steps) = (end - 2, 0);
            }
            _ => {
                steps += 1;
                if steps > MOST_STEPS {
                    return None;
                }
                let (p, q, r, s) = (at(end - 2, end - 2), at(end - 2, end - 1), at(end - 1, end - 2), at(end - 1, end - 1));
                let shifts = if steps.is_multiple_of(STUCK) {
                    let off = at(end - 1, end - 2).abs() + at(end - 2, end - 3).abs();
                    (1.5 * off, off * off)
                } else {
                    (p + s, p * s - q * r)
                };
                step(&mut rows, size, start, end, shifts);
            }
        }
    }
    Some(roots)
}

/// One double step on rows and columns `start` to `end`, with shifts whose sum and product are given.
#[inline(always)]
fn step(rows: &mut [f64], size: usize, start: usize, end: usize, (sum, product): (f64, f64)) {
    let at = |rows: &[f64], r: usize, c: usize| rows[r * size + c];
    let (a, b, c, d) = (at(rows, start, start), at(rows, start, start + 1), at(rows, start + 1, start), at(rows, start + 1, start + 1));
    let mut column = [a * a + b * c - sum * a + product, c * (a + d - sum), c * at(rows, start + 2, start + 1)];
    for k in start..end - 1 {
        let count = (end - k).min(3);
        if let Some((by, scale)) = reflection(column, count) {
            turn_rows(&mut rows[k * size..], size, k.saturating_sub(1).max(start)..end, count, by, scale);
            for row in rows[start * size..(k + count + 1).min(end) * size].chunks_exact_mut(size) {
                if count == 3 {
                    let along = scale * (row[k] * by[0] + row[k + 1] * by[1] + row[k + 2] * by[2]);
                    row[k] -= along * by[0];
                    row[k + 1] -= along * by[1];
                    row[k + 2] -= along * by[2];
                } else {
                    let along = scale * (row[k] * by[0] + row[k + 1] * by[1]);
                    row[k] -= along * by[0];
                    row[k + 1] -= along * by[1];
                }
            }
        }
        if k + 2 < end {
            column = [at(rows, k + 1, k), at(rows, k + 2, k), if k + 3 < end { at(rows, k + 3, k) } else { 0.0 }];
        }
    }
}

/// The reflection of the first `count` of `rows`, in the columns `within`. Slices of one length let the compiler use wide instructions.
#[inline(always)]
fn turn_rows(rows: &mut [f64], size: usize, within: Range<usize>, count: usize, by: [f64; 3], scale: f64) {
    let (first, rest) = rows.split_at_mut(size);
    let first = &mut first[within.clone()];
    if count == 3 {
        let (second, third) = rest.split_at_mut(size);
        for ((x, y), z) in first.iter_mut().zip(&mut second[within.clone()]).zip(&mut third[within]) {
            let along = scale * (*x * by[0] + *y * by[1] + *z * by[2]);
            *x -= along * by[0];
            *y -= along * by[1];
            *z -= along * by[2];
        }
    } else {
        for (x, y) in first.iter_mut().zip(&mut rest[within]) {
            let along = scale * (*x * by[0] + *y * by[1]);
            *x -= along * by[0];
            *y -= along * by[1];
        }
    }
}

/// The reflection I - scale v v^T that turns the first `count` of `column` onto its first axis; `None` where they lie there already.
#[inline(always)]
fn reflection(column: [f64; 3], count: usize) -> Option<([f64; 3], f64)> {
    let mut v = column;
    v[count..].fill(0.0);
    let most = v.iter().fold(0.0, |most: f64, x| most.max(x.abs()));
    if v[1] == 0.0 && v[2] == 0.0 {
        return None;
    }
    v.iter_mut().for_each(|x| *x /= most);
    let norm = v.iter().map(|x| x * x).sum::<f64>().sqrt();
    v[0] += norm.copysign(v[0]);
    Some((v, 2.0 / v.iter().map(|x| x * x).sum::<f64>()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::DMatrix;
    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]
        /// Against the roots of a general-purpose library.
        #[test]
        fn roots_are_those_of_a_library(size in 1usize..24, numbers in prop::collection::vec(-1f64..1.0, 24 * 24)) {
            let matrix = DMatrix::from_fn(size, size, |r, c| if r > c + 1 { 0.0 } else { numbers[24 * r + c] });
            let found = hessenberg_roots(matrix.transpose().as_slice().to_vec(), size).unwrap();
            prop_assert_eq!(found.len(), size);
            for wanted in matrix.complex_eigenvalues().iter() {
                let near = found.iter().map(|root| (root - wanted).norm()).fold(f64::INFINITY, f64::min);
                prop_assert!(near < 1e-6, "{wanted} is {near} off");
            }
        }
    }

    /// A matrix that only turns: its steps go round in a circle without a shift from elsewhere. Its roots are those of 1.
    #[test]
    fn a_turning_matrix_comes_to_an_end() {
        let size = 4;
        let rows = DMatrix::from_fn(size, size, |r, c| if (c + 1) % size == r { 1.0 } else { 0.0 }).transpose().as_slice().to_vec();
        let roots = hessenberg_roots(rows, size).unwrap();
        assert!(roots.iter().all(|root| (root.powi(4) - 1.0).norm() < 1e-9), "{roots:?}");
    }
}
