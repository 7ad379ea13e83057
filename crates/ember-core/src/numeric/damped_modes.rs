//! The complex eigenproblem of a damped vibrating thing.

use super::hessenberg_roots::hessenberg_roots;
use nalgebra::{DMatrix, DVector};
use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};

/// Complex roots (upper half plane) and shapes of `mass q'' + loss q' + stiffness q = 0`. `None` if the matrices are degenerate.
///
/// Roots by the QR algorithm, shapes by inverse iteration on the Hessenberg form, where a solve takes a number of steps that grows with the
/// square of the size only (Golub & Van Loan, *Matrix Computations*, 7.6.1). What does not move together is solved apart: on a drum whose
/// devices lie symmetrically that is a quarter of the work.
pub(crate) fn damped_modes(
    mass: &DMatrix<f64>,
    loss: &DMatrix<f64>,
    stiffness: &DMatrix<f64>,
) -> Option<Vec<(Complex64, DVector<Complex64>)>> {
    let size = mass.nrows();
    let groups = groups([mass, loss, stiffness]);
    if groups.len() < 2 {
        return modes_together(mass, loss, stiffness);
    }
    let mut found = Vec::with_capacity(size);
    for group in groups {
        let own = |whole: &DMatrix<f64>| whole.select_rows(&group).select_columns(&group);
        for (root, shape) in modes_together(&own(mass), &own(loss), &own(stiffness))? {
            let mut whole = DVector::zeros(size);
            group.iter().zip(shape.iter()).for_each(|(i, x)| whole[*i] = *x);
            found.push((root, whole));
        }
    }
    Some(found)
}

/// Couplings smaller than this, against the largest entry of their matrix, are rounding.
const ROUNDING: f64 = 1e-12;

/// Coordinates that any of `matrices` ties together, each group in order.
fn groups(matrices: [&DMatrix<f64>; 3]) -> Vec<Vec<usize>> {
    let size = matrices[0].nrows();
    let least = matrices.map(|matrix| ROUNDING * matrix.amax());
    let tied = |i: usize, j: usize| matrices.iter().zip(least).any(|(matrix, least)| matrix[(i, j)].abs() > least);
    let mut left: Vec<usize> = (0..size).collect();
    let mut groups = Vec::new();
    while !left.is_empty() {
        let mut group = vec![left.remove(0)];
        let mut looked_at = 0;
        while let Some(i) = group.get(looked_at).copied() {
            looked_at += 1;
            let (with, without): (Vec<usize>, Vec<usize>) = left.iter().partition(|j| tied(i, **j) || tied(**j, i));
            group.extend(with);
            left = without;
        }
        group.sort_unstable();
        groups.push(group);
    }
    groups
}

/// The same of coordinates that all move together.
fn modes_together(mass: &DMatrix<f64>, loss: &DMatrix<f64>, stiffness: &DMatrix<f64>) -> Option<Vec<(Complex64, DVector<Complex64>)>> {
    let size = mass.nrows();
    let factor = mass.clone().cholesky()?;
    let scale = stiffness.diagonal().max().sqrt();
    let mut first_order = DMatrix::zeros(2 * size, 2 * size);
    // Time in units of 1/scale keeps the two halves alike in size.
    first_order.view_mut((0, size), (size, size)).fill_with_identity();
    first_order.view_mut((size, 0), (size, size)).copy_from(&(factor.solve(stiffness) / -(scale * scale)));
    first_order.view_mut((size, size), (size, size)).copy_from(&(factor.solve(loss) / -scale));
    let (turned, hessenberg) = first_order.hessenberg().unpack();
    let rows = hessenberg.transpose();
    let roots = hessenberg_roots(rows.as_slice().to_vec(), 2 * size)?;
    let mut upper = vec![Complex64::ZERO; rows.len()];
    let mut shape = |root: Complex64| {
        let shape = Arch::new().dispatch(Beside { rows: rows.as_slice(), size: 2 * size, root, upper: &mut upper });
        // Displacements are the first half.
        DVector::from_fn(size, |r, _| shape.iter().enumerate().map(|(c, x)| turned[(r, c)] * x).sum::<Complex64>())
    };
    let above = roots.iter().filter(|root| root.im * scale > 1.0);
    Some(above.map(|root| (root * scale, shape(*root))).collect())
}

/// Two steps of inverse iteration next to `root` on an upper Hessenberg matrix (row by row); `upper` is room for its triangle.
struct Beside<'a> {
    rows: &'a [f64],
    size: usize,
    root: Complex64,
    upper: &'a mut [Complex64],
}

impl WithSimd for Beside<'_> {
    type Output = Vec<Complex64>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Vec<Complex64> {
        let Self { rows, size, root, upper } = self;
        let near = root * Complex64::new(1.0 + 1e-7, 1e-7);
        for i in 0..size {
            // Nothing lies further below, and nothing there is looked at.
            let row = i * size + i.saturating_sub(1)..(i + 1) * size;
            for (own, x) in upper[row.clone()].iter_mut().zip(&rows[row]) {
                *own = Complex64 { re: *x, im: 0.0 };
            }
            upper[i * size + i] -= near;
        }
        // (whether a row changes places with the next one, what is taken of it from the next one)
        let mut steps = Vec::with_capacity(size);
        for i in 0..size - 1 {
            let (above, below) = upper.split_at_mut((i + 1) * size);
            let (pivot, next) = (&mut above[i * size + i..], &mut below[i..size]);
            let swap = next[0].norm_sqr() > pivot[0].norm_sqr();
            if swap {
                pivot.swap_with_slice(next);
            }
            let by = if pivot[0] == Complex64::ZERO { Complex64::ZERO } else { next[0] / pivot[0] };
            for (next, pivot) in next.iter_mut().zip(pivot.iter()) {
                next.re -= by.re * pivot.re - by.im * pivot.im;
                next.im -= by.re * pivot.im + by.im * pivot.re;
            }
            steps.push((swap, by));
        }
        let mut shape: Vec<Complex64> = Vec::with_capacity(size);
        for i in 0..size {
            shape.push(Complex64::new(1.0 + 0.13 * (i % 7) as f64, 0.31 * (i % 5) as f64));
        }
        back(upper, size, &mut shape);
        for (i, (swap, by)) in steps.iter().enumerate() {
            if *swap {
                shape.swap(i, i + 1);
            }
            let taken = by * shape[i];
            shape[i + 1] -= taken;
        }
        back(upper, size, &mut shape);
        shape
    }
}

/// Solves the triangle `upper` for `x`, which then has length 1.
#[inline(always)]
fn back(upper: &[Complex64], size: usize, x: &mut [Complex64]) {
    for i in (0..size).rev() {
        let (mut re, mut im) = (0.0, 0.0);
        for (u, x) in upper[i * size + i + 1..(i + 1) * size].iter().zip(&x[i + 1..]) {
            re += u.re * x.re - u.im * x.im;
            im += u.re * x.im + u.im * x.re;
        }
        let pivot = upper[i * size + i];
        x[i] = (x[i] - Complex64 { re, im }) / if pivot.norm_sqr() < 1e-60 { Complex64::from(1e-30) } else { pivot };
    }
    let norm = x.iter().map(|x| x.norm_sqr()).sum::<f64>().sqrt();
    for x in x {
        *x /= norm;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::f64::consts::PI;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(32))]
        /// Every root with its shape solves the equation that it is said to solve.
        #[test]
        fn roots_and_shapes_solve_the_equation(
            size in 2usize..14,
            numbers in prop::collection::vec(-1f64..1.0, 3 * 14 * 14),
            losses in 0.1f64..10.0,
        ) {
            let some = |from: usize, scale: f64| DMatrix::from_fn(size, size, |r, c| scale * numbers[from + r * 14 + c]);
            let square = |m: DMatrix<f64>| &m * m.transpose();
            let mass = DMatrix::identity(size, size) + square(some(0, 0.2));
            let loss = square(some(196, losses));
            let stiffness = DMatrix::from_diagonal(&DVector::from_fn(size, |i, _| (2.0 * PI * (100.0 + 37.0 * (i / 2) as f64)).powi(2)));
            let modes = damped_modes(&mass, &loss, &stiffness).unwrap();
            prop_assert!(!modes.is_empty() && modes.len() <= size);
            let complex = |m: &DMatrix<f64>| m.map(Complex64::from);
            for (root, shape) in &modes {
                let left = (complex(&mass) * (root * root) + complex(&loss) * *root + complex(&stiffness)) * shape;
                let size = stiffness.norm() * shape.norm();
                prop_assert!(left.norm() < 1e-6 * size, "{root}: {} of {size}", left.norm());
            }
        }
    }

    /// What is made of two drums that know nothing of each other, in any order of their coordinates, has the motions of both.
    #[test]
    fn what_does_not_move_together_is_solved_apart() {
        let own = |start: f64, loss: f64| {
            let stiffness = DMatrix::from_fn(4, 4, |r, c| if r == c { start * (1.0 + r as f64) } else { 0.1 * start });
            (DMatrix::identity(4, 4), DMatrix::from_element(4, 4, loss) + DMatrix::identity(4, 4), stiffness)
        };
        let (a, b) = (own(1e6, 3.0), own(2.3e6, 5.0));
        let both = |a: &DMatrix<f64>, b: &DMatrix<f64>| {
            DMatrix::from_fn(8, 8, |r, c| match (r % 2, c % 2) {
                (0, 0) => a[(r / 2, c / 2)],
                (1, 1) => b[(r / 2, c / 2)],
                _ => 1e-18,
            })
        };
        let (mass, loss, stiffness) = (both(&a.0, &b.0), both(&a.1, &b.1), both(&a.2, &b.2));
        assert_eq!(groups([&mass, &loss, &stiffness]), [vec![0, 2, 4, 6], vec![1, 3, 5, 7]]);
        let sorted = |modes: Vec<(Complex64, DVector<Complex64>)>| {
            let mut roots: Vec<Complex64> = modes.into_iter().map(|(root, _)| root).collect();
            roots.sort_by(|a, b| a.im.total_cmp(&b.im));
            roots
        };
        let (apart, together) = (damped_modes(&mass, &loss, &stiffness).unwrap(), modes_together(&mass, &loss, &stiffness).unwrap());
        assert!(apart.iter().all(|(_, shape)| (0..8).filter(|i| shape[*i] != Complex64::ZERO).count() == 4));
        for (apart, together) in sorted(apart).iter().zip(sorted(together)) {
            assert!((apart - together).norm() < 1e-6 * together.norm(), "{apart} {together}");
        }
    }

    /// Two masses between springs with a damper on one, in closed form at no damping: omega^2 = k/m (2 -+ 1).
    #[test]
    fn two_coupled_masses_swing_as_in_the_closed_form() {
        let mass = DMatrix::identity(2, 2);
        let stiffness = DMatrix::from_row_slice(2, 2, &[2.0e4, -1.0e4, -1.0e4, 2.0e4]);
        let mut omegas: Vec<f64> =
            damped_modes(&mass, &DMatrix::zeros(2, 2), &stiffness).unwrap().iter().map(|(root, _)| root.im).collect();
        omegas.sort_by(f64::total_cmp);
        assert!((omegas[0] - 100.0).abs() < 1e-6 && (omegas[1] - 3f64.sqrt() * 100.0).abs() < 1e-6, "{omegas:?}");
    }
}
