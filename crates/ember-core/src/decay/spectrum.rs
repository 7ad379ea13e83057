//! How a strike's energy is spread over the octaves: what tells a snare from a tom even where tones do not.

use crate::signal::OCTAVES_HZ;
use realfft::RealFftPlanner;
use std::f64::consts::SQRT_2;

/// So much of the sound from the hit on is looked at, s.
const LENGTH_S: f64 = 0.35;
/// Octaves further than this below the whole are as good as silent, dB.
const SILENT_DB: f64 = -40.0;

/// Energy of `sound` (from the hit on, of `rate` samples a second) in each octave of [`OCTAVES_HZ`] that the rate carries, against all of it, dB.
/// Empty where there is no sound.
pub(super) fn octave_spectrum(sound: &[f32], rate: f64) -> Vec<f64> {
    let heard = &sound[..((LENGTH_S * rate) as usize).min(sound.len())];
    let size = heard.len().next_power_of_two();
    let transform = RealFftPlanner::<f64>::new().plan_fft_forward(size);
    let (mut input, mut spectrum) = (transform.make_input_vec(), transform.make_output_vec());
    input.iter_mut().zip(heard).for_each(|(slot, x)| *slot = f64::from(*x));
    // Lengths are the transform's own, so it cannot fail.
    let _ = transform.process(&mut input, &mut spectrum);
    let bin = |hz: f64| ((hz * size as f64 / rate).ceil() as usize).min(spectrum.len());
    let carried = OCTAVES_HZ.into_iter().filter(|hz| hz * SQRT_2 < rate / 2.0);
    let energy = |hz: f64| spectrum[bin(hz / SQRT_2)..bin(hz * SQRT_2)].iter().map(|z| z.norm_sqr()).sum::<f64>();
    let energies: Vec<f64> = carried.map(energy).collect();
    let all: f64 = energies.iter().sum();
    if all <= 0.0 { Vec::new() } else { energies.into_iter().map(|one| 10.0 * (one / all).max(1e-12).log10()).collect() }
}

/// How far two spectra are apart, dB: the root of their mean square difference over the octaves that both have. None where one is not known.
pub fn spectral_distance_db(a: &[f64], b: &[f64]) -> Option<f64> {
    let squares: Vec<f64> = a.iter().zip(b).map(|(a, b)| (a.max(SILENT_DB) - b.max(SILENT_DB)).powi(2)).collect();
    (!squares.is_empty()).then(|| (squares.iter().sum::<f64>() / squares.len() as f64).sqrt())
}
