//! Eigenvalues and eigenvectors of small Hermitian matrices: measuring a strike spends much of its time on some thirty of them.
//!
//! Householder's reflections to a real tridiagonal matrix, then implicit QL steps for its eigenvalues and inverse iteration for the few
//! eigenvectors that are wanted (J. H. Wilkinson & C. Reinsch, Handbook for Automatic Computation II, Linear Algebra, 1971: tred2,
//! imtql1, tristurm, and their complex form). Real and imaginary parts lie apart, so that every inner loop runs over plain slices.

use nalgebra::DMatrix;
use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};

/// Most QL steps for one eigenvalue; two are usual.
const MOST_STEPS: usize = 60;
/// Inverse iterations for one eigenvector: the first alone leads to within rounding, unless its start was all but at right angles.
const ITERATIONS: usize = 3;

/// Eigenvalues, in no order, and the way back to their eigenvectors.
pub(crate) struct Eigen {
    pub values: Vec<f64>,
    /// The real tridiagonal matrix.
    tridiagonal: Tridiagonal,
    /// Phases that make that matrix real, and the reflections that made it tridiagonal.
    phases: Vec<Complex64>,
    reflections: Vec<Parts>,
}

#[derive(Clone)]
struct Parts {
    re: Vec<f64>,
    im: Vec<f64>,
}

impl Parts {
    fn zeros(size: usize) -> Self {
        Self { re: vec![0.0; size], im: vec![0.0; size] }
    }
}

impl Eigen {
    /// Of `matrix`, of which the lower triangle counts, without eigenvectors. `None` where it holds what is no number.
    pub fn of(matrix: &DMatrix<Complex64>) -> Option<Self> {
        let size = matrix.nrows();
        let mut a = Parts::zeros(size * size);
        for row in 0..size {
            for column in 0..=row {
                let value = matrix[(row, column)];
                (a.re[row * size + column], a.im[row * size + column]) = (value.re, value.im);
                (a.re[column * size + row], a.im[column * size + row]) = (value.re, -value.im);
            }
        }
        if !a.re.iter().chain(&a.im).all(|x| x.is_finite()) {
            return None;
        }
        let (reflections, beside) = tridiagonalize(&mut a, size);
        let values: Vec<f64> = (0..size).map(|i| a.re[i * size + i]).collect();
        let mut phases = vec![Complex64::new(1.0, 0.0); size];
        for (i, value) in beside.iter().enumerate() {
            phases[i + 1] = if value.norm() > 0.0 { phases[i] * value / value.norm() } else { phases[i] };
        }
        let off: Vec<f64> = beside.iter().map(|value| value.norm()).chain([0.0]).collect();
        let tridiagonal = Tridiagonal { diagonal: values, beside: off };
        Some(Self { values: tridiagonal.values()?, tridiagonal, phases, reflections })
    }

    /// Eigenvectors of the values `wanted`, of length 1 and at right angles to each other.
    pub fn vectors(&self, wanted: &[usize]) -> Vec<Vec<Complex64>> {
        let mut real: Vec<Vec<f64>> = Vec::with_capacity(wanted.len());
        for index in wanted {
            let vector = self.tridiagonal.vector(self.values[*index], &real);
            real.push(vector);
        }
        real.iter().map(|vector| self.back(vector)).collect()
    }

    /// An eigenvector of the tridiagonal matrix as one of the whole.
    fn back(&self, real: &[f64]) -> Vec<Complex64> {
        let mut vector: Vec<Complex64> = real.iter().zip(&self.phases).map(|(x, phase)| phase * x).collect();
        for (column, v) in self.reflections.iter().enumerate().rev() {
            let part = &mut vector[column + 1..];
            let entries = || v.re.iter().zip(&v.im).map(|(re, im)| Complex64::new(*re, *im));
            let along: Complex64 = entries().zip(&*part).map(|(v, x)| v.conj() * x).sum();
            for (x, v) in part.iter_mut().zip(entries()) {
                *x -= 2.0 * v * along;
            }
        }
        vector
    }
}

/// Reflections (unit vectors below each column's diagonal) that leave `a` tridiagonal, and what lies below the diagonal then.
fn tridiagonalize(a: &mut Parts, size: usize) -> (Vec<Parts>, Vec<Complex64>) {
    let mut reflections = Vec::with_capacity(size.saturating_sub(2));
    let mut beside = Vec::with_capacity(size.saturating_sub(1));
    let at = |a: &Parts, row: usize, column: usize| Complex64::new(a.re[row * size + column], a.im[row * size + column]);
    for column in 0..size.saturating_sub(2) {
        let first = column + 1;
        let count = size - first;
        let mut v = Parts::zeros(count);
        // By symmetry a column is the row across it.
        v.re.copy_from_slice(&a.re[column * size + first..(column + 1) * size]);
        v.im.iter_mut().zip(&a.im[column * size + first..(column + 1) * size]).for_each(|(v, x)| *v = -x);
        let length = v.re.iter().chain(&v.im).map(|x| x * x).sum::<f64>().sqrt();
        let lead = Complex64::new(v.re[0], v.im[0]);
        let turned = if lead.norm() > 0.0 { -lead / lead.norm() * length } else { Complex64::new(-length, 0.0) };
        beside.push(turned);
        (v.re[0], v.im[0]) = (lead.re - turned.re, lead.im - turned.im);
        let norm = v.re.iter().chain(&v.im).map(|x| x * x).sum::<f64>().sqrt();
        if norm > 0.0 {
            v.re.iter_mut().chain(&mut v.im).for_each(|x| *x /= norm);
            Arch::new().dispatch(Reflect { a, size, first, v: &v });
        }
        reflections.push(v);
    }
    if size > 1 {
        beside.push(at(a, size - 1, size - 2));
    }
    (reflections, beside)
}

/// (1 - 2 v v*) a (1 - 2 v v*) on the rows and columns from `first` on.
struct Reflect<'a> {
    a: &'a mut Parts,
    size: usize,
    first: usize,
    v: &'a Parts,
}

impl WithSimd for Reflect<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) {
        let Self { a, size, first, v } = self;
        let count = size - first;
        let mut w = Parts::zeros(count);
        for row in 0..count {
            let from = (first + row) * size + first;
            let (re, im) = (&a.re[from..from + count], &a.im[from..from + count]);
            let (v_re, v_im) = (v.re[row], v.im[row]);
            for ((w_re, w_im), (re, im)) in w.re.iter_mut().zip(&mut w.im).zip(re.iter().zip(im)) {
                *w_re += re * v_re + im * v_im;
                *w_im += re * v_im - im * v_re;
            }
        }
        // v* a v is real, as `a` is Hermitian.
        let along: f64 = v.re.iter().zip(&w.re).chain(v.im.iter().zip(&w.im)).map(|(v, w)| v * w).sum();
        for (w, v) in w.re.iter_mut().zip(&v.re).chain(w.im.iter_mut().zip(&v.im)) {
            *w = 2.0 * (*w - along * v);
        }
        for row in 0..count {
            let from = (first + row) * size + first;
            let (re, im) = (&mut a.re[from..from + count], &mut a.im[from..from + count]);
            let (v_re, v_im, w_re, w_im) = (v.re[row], v.im[row], w.re[row], w.im[row]);
            let others = v.re.iter().zip(&v.im).zip(w.re.iter().zip(&w.im));
            for ((re, im), ((x, y), (p, q))) in re.iter_mut().zip(im).zip(others) {
                *re -= v_re * p + v_im * q + w_re * x + w_im * y;
                *im -= v_im * p - v_re * q + w_im * x - w_re * y;
            }
        }
    }
}

/// A real symmetric matrix of which all entries but the diagonal and those beside it are zero.
struct Tridiagonal {
    diagonal: Vec<f64>,
    /// As long as the diagonal; the last one is zero.
    beside: Vec<f64>,
}

impl Tridiagonal {
    /// Its eigenvalues by implicit QL steps, in no order. `None` where they do not come to rest.
    fn values(&self) -> Option<Vec<f64>> {
        let (mut values, mut off) = (self.diagonal.clone(), self.beside.clone());
        let size = values.len();
        for low in 0..size {
            for step in 0.. {
                let mut high = low;
                while high < size - 1 && off[high].abs() > f64::EPSILON * (values[high].abs() + values[high + 1].abs()) {
                    high += 1;
                }
                if high == low {
                    break;
                }
                if step == MOST_STEPS {
                    return None;
                }
                let ratio = (values[low + 1] - values[low]) / (2.0 * off[low]);
                let mut g = values[high] - values[low] + off[low] / (ratio + (ratio * ratio + 1.0).sqrt().copysign(ratio));
                let (mut sin, mut cos, mut shift) = (1.0, 1.0, 0.0);
                let mut whole = true;
                for i in (low..high).rev() {
                    let (f, b) = (sin * off[i], cos * off[i]);
                    let r = (f * f + g * g).sqrt();
                    off[i + 1] = r;
                    if r == 0.0 {
                        // It fell apart on the way.
                        values[i + 1] -= shift;
                        off[high] = 0.0;
                        whole = false;
                        break;
                    }
                    (sin, cos) = (f / r, g / r);
                    g = values[i + 1] - shift;
                    let turned = (values[i] - g) * sin + 2.0 * cos * b;
                    shift = sin * turned;
                    values[i + 1] = g + shift;
                    g = cos * turned - b;
                }
                if whole {
                    values[low] -= shift;
                    off[low] = g;
                    off[high] = 0.0;
                }
            }
        }
        Some(values)
    }

    /// The eigenvector of `value` by inverse iteration, of length 1 and at right angles to `known` ones.
    fn vector(&self, value: f64, known: &[Vec<f64>]) -> Vec<f64> {
        let size = self.diagonal.len();
        let largest = self.diagonal.iter().chain(&self.beside).fold(0f64, |most, x| most.max(x.abs()));
        let least = f64::EPSILON * largest.max(f64::MIN_POSITIVE);
        // No eigenvector is at right angles to numbers that nothing orders; others for each, where two values are as good as one.
        let mut vector: Vec<f64> = (0..size).map(|i| 0.5 + ((i + 1) as f64 * (0.618 + 0.377 * known.len() as f64)).fract()).collect();
        for _ in 0..ITERATIONS {
            self.solve(value, least, &mut vector);
            for other in known {
                let along: f64 = vector.iter().zip(other).map(|(x, y)| x * y).sum();
                vector.iter_mut().zip(other).for_each(|(x, y)| *x -= along * y);
            }
            let length = vector.iter().map(|x| x * x).sum::<f64>().sqrt();
            vector.iter_mut().for_each(|x| *x /= length);
        }
        vector
    }

    /// Solves (matrix - `value`) x = `right` in its place, by elimination with rows exchanged; pivots are not taken for smaller than `least`.
    fn solve(&self, value: f64, least: f64, right: &mut [f64]) {
        let size = right.len();
        let beyond = |i: usize| self.beside.get(i).copied().unwrap_or(0.0);
        let pivot = |x: f64| if x.abs() < least { least.copysign(x) } else { x };
        let mut rows = Vec::with_capacity(size);
        let mut row = [self.diagonal[0] - value, beyond(0)];
        for i in 0..size - 1 {
            let (below, next, after) = (self.beside[i], self.diagonal[i + 1] - value, beyond(i + 1));
            if below.abs() > row[0].abs() {
                let part = row[0] / below;
                rows.push([below, next, after]);
                right.swap(i, i + 1);
                right[i + 1] -= part * right[i];
                row = [row[1] - part * next, -part * after];
            } else {
                let first = pivot(row[0]);
                let part = below / first;
                rows.push([first, row[1], 0.0]);
                right[i + 1] -= part * right[i];
                row = [next - part * row[1], after];
            }
        }
        rows.push([pivot(row[0]), 0.0, 0.0]);
        for i in (0..size).rev() {
            let later = |n: usize| right.get(i + n).copied().unwrap_or(0.0);
            right[i] = (right[i] - rows[i][1] * later(1) - rows[i][2] * later(2)) / rows[i][0];
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Against the general library, and by what makes an eigenvector one: a v = value v.
        #[test]
        fn values_are_those_of_the_library_and_vectors_theirs(
            size in 1usize..33, parts in prop::collection::vec(-1f64..1.0, 2 * 32 * 32), rank in 1usize..33, scale in -9i32..3,
            wanted in 1usize..8,
        ) {
            let b = DMatrix::from_fn(size, rank, |r, c| Complex64::new(parts[r * 32 + c], parts[1024 + r * 32 + c]));
            let a = &b * b.adjoint() * Complex64::new(10f64.powi(scale), 0.0);
            let eigen = Eigen::of(&a).unwrap();
            let size_of = a.norm();
            let mut values = eigen.values.clone();
            values.sort_by(f64::total_cmp);
            let mut library: Vec<f64> = a.clone().symmetric_eigenvalues().iter().copied().collect();
            library.sort_by(f64::total_cmp);
            for (value, of_library) in values.iter().zip(&library) {
                prop_assert!((value - of_library).abs() < 1e-11 * size_of, "{value} {of_library}");
            }
            let mut largest: Vec<usize> = (0..size).collect();
            largest.sort_by(|a, b| eigen.values[*b].total_cmp(&eigen.values[*a]));
            largest.truncate(wanted);
            let vectors = eigen.vectors(&largest);
            let vectors = DMatrix::from_fn(size, largest.len(), |r, c| vectors[c][r]);
            let off = &a * &vectors - DMatrix::from_fn(size, largest.len(), |r, c| vectors[(r, c)] * eigen.values[largest[c]]);
            prop_assert!(off.norm() < 1e-11 * size_of, "{}", off.norm() / size_of);
            prop_assert!((vectors.adjoint() * &vectors - DMatrix::identity(largest.len(), largest.len())).norm() < 1e-10);
        }

        /// Where values come twice, their vectors are any two at right angles.
        #[test]
        fn values_that_come_twice_have_two_vectors(size in 2usize..12, parts in prop::collection::vec(-1f64..1.0, 2 * 12 * 12), apart in 0f64..1e-12) {
            let b = DMatrix::from_fn(size, size, |r, c| Complex64::new(parts[r * 12 + c], parts[144 + r * 12 + c]));
            let one = &b * b.adjoint();
            let a = DMatrix::from_fn(2 * size, 2 * size, |r, c| match (r / size, c / size) {
                (0, 0) => one[(r, c)],
                (1, 1) => one[(r - size, c - size)] * (1.0 + apart),
                _ => Complex64::default(),
            });
            let eigen = Eigen::of(&a).unwrap();
            let mut largest: Vec<usize> = (0..2 * size).collect();
            largest.sort_by(|a, b| eigen.values[*b].total_cmp(&eigen.values[*a]));
            largest.truncate(4);
            let vectors = eigen.vectors(&largest);
            let vectors = DMatrix::from_fn(2 * size, 4, |r, c| vectors[c][r]);
            let off = &a * &vectors - DMatrix::from_fn(2 * size, 4, |r, c| vectors[(r, c)] * eigen.values[largest[c]]);
            prop_assert!(off.norm() < 1e-10 * a.norm(), "{}", off.norm() / a.norm());
            prop_assert!((vectors.adjoint() * &vectors - DMatrix::identity(4, 4)).norm() < 1e-9);
        }
    }

    #[test]
    fn what_is_no_number_has_no_eigenvalues() {
        assert!(Eigen::of(&DMatrix::from_element(4, 4, Complex64::new(f64::NAN, 0.0))).is_none());
        let none = Eigen::of(&DMatrix::zeros(5, 5)).unwrap();
        assert_eq!(none.values, [0.0; 5]);
    }
}
