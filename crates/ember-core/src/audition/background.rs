//! The room's noise behind a strike. A drum that is made to fade sooner must not take it along, or the silence behind gives it away.

use num_complex::Complex64;
use rand::rngs::StdRng;
use rand::{Rng, SeedableRng};
use realfft::RealFftPlanner;
use std::f64::consts::PI;

/// Length of the pieces that a noise's spectrum is averaged over, s.
const PIECE_S: f64 = 0.02;
/// The last of what is heard before a hit may be the hit already, s.
const CLEAR_S: f64 = 0.004;
/// The last part of a recording, in which its drum has gone.
const LAST: usize = 5;
/// A sixth of an octave as a part of its middle.
const SIXTH_OF_OCTAVE: f64 = 0.12;
/// The same recording is always given the same noise.
const SEED: u64 = 1;

/// Half a spectrum (`size` / 2 + 1 values, as a real transform of that size gives it) of noise like that before the hit at `onset_index` of `samples`,
/// where there is enough before it. What sounds before the hit and is gone in the end was no noise but the strike before.
pub(super) fn background(samples: &[f32], rate: f64, onset_index: usize, size: usize) -> Option<Vec<Complex64>> {
    let piece = ((PIECE_S * rate) as usize).next_power_of_two();
    let clear = onset_index.saturating_sub((CLEAR_S * rate) as usize);
    let mut density = power_density(samples.get(..clear)?, piece)?;
    let sound = samples.get(onset_index..)?;
    if let Some(end) = power_density(&sound[sound.len() - sound.len() / LAST..], piece) {
        density.iter_mut().zip(end).for_each(|(before, end)| *before = before.min(end));
    }
    let mut random = StdRng::seed_from_u64(SEED);
    let half = size / 2;
    let at = |bin: usize| {
        let place = bin as f64 * (density.len() - 1) as f64 / half as f64;
        let (below, part) = (place as usize, place.fract());
        density[below] + part * (density[(below + 1).min(density.len() - 1)] - density[below])
    };
    let mut spectrum: Vec<Complex64> =
        (0..=half).map(|bin| Complex64::from_polar((size as f64 * at(bin)).sqrt(), 2.0 * PI * random.random::<f64>())).collect();
    // A real sound has neither phase at 0 Hz nor at half the rate.
    (spectrum[0], spectrum[half]) = (Complex64::default(), Complex64::default());
    Some(spectrum)
}

/// Power in each bin of a transform of `piece` samples, scaled so that white noise has its mean square in each: pieces that overlap by half under a
/// Hann window, averaged (P. D. Welch, IEEE Trans. Audio Electroacoust. 15, 1967). `None` for less than one piece.
fn power_density(samples: &[f32], piece: usize) -> Option<Vec<f64>> {
    let window: Vec<f64> = (0..piece).map(|n| (PI * n as f64 / piece as f64).sin().powi(2)).collect();
    let transform = RealFftPlanner::<f64>::new().plan_fft_forward(piece);
    let (mut input, mut output) = (transform.make_input_vec(), transform.make_output_vec());
    let mut sums = vec![0.0; output.len()];
    let pieces: Vec<&[f32]> = samples.windows(piece).step_by(piece / 2).collect();
    for one in &pieces {
        input.iter_mut().zip(one.iter().zip(&window)).for_each(|(slot, (x, weight))| *slot = f64::from(*x) * weight);
        // Lengths are the transform's own, so it cannot fail.
        let _ = transform.process(&mut input, &mut output);
        sums.iter_mut().zip(&output).for_each(|(sum, value)| *sum += value.norm_sqr());
    }
    let all = pieces.len() as f64 * window.iter().map(|weight| weight * weight).sum::<f64>();
    (!pieces.is_empty()).then(|| smoothed(&sums.into_iter().map(|sum| sum / all).collect::<Vec<_>>()))
}

/// Each value averaged with those around it, over a third of an octave and at least over three: little sound was averaged in time.
fn smoothed(density: &[f64]) -> Vec<f64> {
    let around = |bin: usize| {
        let reach = (bin as f64 * SIXTH_OF_OCTAVE) as usize + 1;
        let part = &density[bin.saturating_sub(reach)..(bin + reach + 1).min(density.len())];
        part.iter().sum::<f64>() / part.len() as f64
    };
    (0..density.len()).map(around).collect()
}
