//! Eigenvalues and eigenvectors of small Hermitian matrices: measuring a strike spends much of its time on some thirty of them.
//!
//! Householder's reflections to a real tridiagonal matrix, then implicit QL steps (J. H. Wilkinson & C. Reinsch, Handbook for Automatic
//! Computation II, Linear Algebra, 1971: tred2, imtql2, and their complex form). Real and imaginary parts lie apart, so that every
//! inner loop runs over plain slices.

use nalgebra::DMatrix;
use num_complex::Complex64;
use pulp::{Arch, Simd, WithSimd};

/// Most QL steps for one eigenvalue; two are usual.
const MOST_STEPS: usize = 60;

/// Eigenvalues, in no order, and the way back to their eigenvectors.
pub(super) struct Eigen {
    pub values: Vec<f64>,
    size: usize,
    /// The real tridiagonal matrix: its diagonal, and what lies beside it.
    tridiagonal: (Vec<f64>, Vec<f64>),
    /// Its eigenvectors, one after the other; empty until they are asked for.
    real: Vec<f64>,
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
        let mut eigen = Self { values: Vec::new(), size, tridiagonal: (values, off), real: Vec::new(), phases, reflections };
        eigen.diagonalize(0).then_some(eigen)
    }

    /// Works out the eigenvectors. Most of the work lies in them, and often the values alone say that none is needed.
    pub fn turn_vectors(&mut self) -> bool {
        self.real = vec![0.0; self.size * self.size];
        (0..self.size).for_each(|i| self.real[i * self.size + i] = 1.0);
        self.diagonalize(self.size)
    }

    /// The values, and `width` numbers of each vector turned along.
    fn diagonalize(&mut self, width: usize) -> bool {
        let (mut values, mut off) = self.tridiagonal.clone();
        let done = Arch::new().dispatch(Diagonalize { values: &mut values, off: &mut off, vectors: &mut self.real, width });
        self.values = values;
        done.is_some()
    }

    /// The eigenvector of value number `index`, of length 1, once vectors have been turned.
    pub fn vector(&self, index: usize) -> Vec<Complex64> {
        let real = &self.real[index * self.size..(index + 1) * self.size];
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

/// Turns a real tridiagonal matrix (`values` on its diagonal, `off` beside it) into its eigenvalues, and `vectors`, one after the other,
/// along with it.
struct Diagonalize<'a> {
    values: &'a mut [f64],
    off: &'a mut [f64],
    vectors: &'a mut [f64],
    /// Numbers a vector; 0 where only values are wanted.
    width: usize,
}

impl WithSimd for Diagonalize<'_> {
    type Output = Option<()>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Option<()> {
        let Self { values, off, vectors, width } = self;
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
                    let (this, next) = vectors[i * width..(i + 2) * width].split_at_mut(width);
                    for (x, y) in this.iter_mut().zip(next) {
                        (*x, *y) = (cos * *x - sin * *y, sin * *x + cos * *y);
                    }
                }
                if whole {
                    values[low] -= shift;
                    off[low] = g;
                    off[high] = 0.0;
                }
            }
        }
        Some(())
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
        ) {
            let b = DMatrix::from_fn(size, rank, |r, c| Complex64::new(parts[r * 32 + c], parts[1024 + r * 32 + c]));
            let a = &b * b.adjoint() * Complex64::new(10f64.powi(scale), 0.0);
            let mut eigen = Eigen::of(&a).unwrap();
            prop_assert!(eigen.turn_vectors());
            let size_of = a.norm();
            let mut values = eigen.values.clone();
            values.sort_by(f64::total_cmp);
            let mut library: Vec<f64> = a.clone().symmetric_eigenvalues().iter().copied().collect();
            library.sort_by(f64::total_cmp);
            for (value, of_library) in values.iter().zip(&library) {
                prop_assert!((value - of_library).abs() < 1e-11 * size_of, "{value} {of_library}");
            }
            let vectors = DMatrix::from_fn(size, size, |r, c| eigen.vector(c)[r]);
            let off = &a * &vectors - DMatrix::from_fn(size, size, |r, c| vectors[(r, c)] * eigen.values[c]);
            prop_assert!(off.norm() < 1e-11 * size_of, "{}", off.norm() / size_of);
            prop_assert!((vectors.adjoint() * &vectors - DMatrix::identity(size, size)).norm() < 1e-10);
        }
    }

    #[test]
    fn what_is_no_number_has_no_eigenvalues() {
        assert!(Eigen::of(&DMatrix::from_element(4, 4, Complex64::new(f64::NAN, 0.0))).is_none());
        let none = Eigen::of(&DMatrix::zeros(5, 5)).unwrap();
        assert_eq!(none.values, [0.0; 5]);
    }
}
