//! ESPRIT: damped exponentials from the signal subspace (R. Roy & T. Kailath, IEEE Trans. ASSP 37, 1989).

use crate::numeric::Eigen;
use nalgebra::{DMatrix, Schur};
use num_complex::Complex64;
use std::ops::Range;

/// Eigenvalues, from large to small, that tell how strong the noise is, as parts of all: those before may be of tones, those behind are of what a
/// filter has left of the noise beyond its pass band, and against them all of it would stand out.
const NOISE: Range<f64> = 0.5625..0.71875;
/// Neighbouring samples that are held against each other at most: with 32 no more tones are found, in nearly twice the time.
const MOST_ROWS: usize = 24;
/// How far eigenvalues must stand above those of noise.
const CLEAR: f64 = 3.0;

/// Poles `z` (one sample's step of `z^n`) that `signals` share, at most `most`; none where nothing stands out from the noise.
/// Signals that hold the same poles in different mixtures tell them apart where one alone could not.
///
/// The order is the number of eigenvalues of the Hankel covariance that stand clear of noise's.
pub fn poles(signals: &[&[Complex64]], most: usize) -> Vec<Complex64> {
    let length = signals.iter().map(|signal| signal.len()).min().unwrap_or(0);
    let rows = (length / 3).min(MOST_ROWS);
    if rows < 4 {
        return Vec::new();
    }
    let columns: usize = signals.iter().map(|signal| signal.len() - rows + 1).sum();
    let mut covariance = DMatrix::<Complex64>::zeros(rows, rows);
    for signal in signals {
        covariance += hankel_covariance(signal, rows);
    }
    let Some(eigen) = Eigen::of(&covariance) else { return Vec::new() };
    let mut order: Vec<usize> = (0..rows).collect();
    order.sort_by(|a, b| eigen.values[*b].total_cmp(&eigen.values[*a]));
    let largest = eigen.values[order[0]];
    if largest <= 0.0 {
        return Vec::new();
    }
    // Eigenvalues of noise spread by sampling, the more the fewer columns there are.
    let place = |part: f64| (part * rows as f64) as usize;
    let noise = &order[place(NOISE.start)..place(NOISE.end).max(place(NOISE.start) + 1)];
    let noise = noise.iter().map(|i| eigen.values[*i].max(0.0)).sum::<f64>() / noise.len() as f64;
    let spread = (1.0 + (rows as f64 / columns as f64).sqrt()).powi(2);
    let threshold = (CLEAR * spread * noise).max(1e-9 * largest);
    let count = order.iter().take_while(|i| eigen.values[**i] > threshold).count().min(most).min(rows / 2);
    if count == 0 {
        return Vec::new();
    }
    let subspace = DMatrix::from_iterator(rows, count, eigen.vectors(&order[..count]).into_iter().flatten());
    let upper = subspace.rows(0, rows - 1).into_owned();
    let lower = subspace.rows(1, rows - 1).into_owned();
    let Some(inverse) = (upper.adjoint() * &upper).try_inverse() else { return Vec::new() };
    let rotation = inverse * upper.adjoint() * lower;
    Schur::try_new(rotation, 1e-12, 500).and_then(|schur| schur.eigenvalues()).map(|z| z.iter().copied().collect()).unwrap_or_default()
}

/// Covariance of `rows` neighbouring samples over the whole signal.
fn hankel_covariance(signal: &[Complex64], rows: usize) -> DMatrix<Complex64> {
    let columns = signal.len() - rows + 1;
    let mut covariance = DMatrix::<Complex64>::zeros(rows, rows);
    for r in 0..rows {
        for c in 0..=r {
            // Each entry follows from its upper left neighbour by one term in, one term out.
            let value = if r > 0 && c > 0 {
                covariance[(r - 1, c - 1)] - signal[r - 1] * signal[c - 1].conj() + signal[r - 1 + columns] * signal[c - 1 + columns].conj()
            } else {
                product(&signal[r..r + columns], &signal[c..c + columns])
            };
            covariance[(r, c)] = value;
            covariance[(c, r)] = value.conj();
        }
    }
    covariance
}

/// Sum over a conj(b), four side by side: each addition would have to wait for the one before it otherwise.
fn product(a: &[Complex64], b: &[Complex64]) -> Complex64 {
    let ((a, a_end), (b, b_end)) = (a.as_chunks::<4>(), b.as_chunks::<4>());
    let mut sums = [Complex64::default(); 4];
    for (a, b) in a.iter().zip(b) {
        for lane in 0..4 {
            sums[lane] += a[lane] * b[lane].conj();
        }
    }
    sums.iter().sum::<Complex64>() + a_end.iter().zip(b_end).map(|(a, b)| a * b.conj()).sum::<Complex64>()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_three_damped_tones_exactly_where_there_is_no_noise() {
        let wanted = [Complex64::from_polar(0.99, 0.3), Complex64::from_polar(0.97, -0.5), Complex64::from_polar(0.995, 0.33)];
        let signal: Vec<Complex64> = (0..150).map(|n| wanted.iter().map(|z| z.powu(n)).sum()).collect();
        let found = poles(&[&signal], 6);
        assert_eq!(found.len(), 3);
        for z in wanted {
            let nearest = found.iter().map(|p| (p - z).norm()).fold(f64::INFINITY, f64::min);
            assert!(nearest < 1e-5, "{z} missed by {nearest}");
        }
    }
}
