//! How a strike's energy is spread over the octaves: what tells a snare from a tom even where tones do not.

use crate::signal::OCTAVES_HZ;
use crate::signal::transform::real_forward_single;
use std::f64::consts::SQRT_2;

/// So much of the sound from the hit on is looked at, s.
const LENGTH_S: f64 = 0.34;
/// Octaves further than this below the whole are as good as silent, dB.
const SILENT_DB: f64 = -40.0;

/// Energy of `sound` (from the hit on, of `rate` samples a second) in each octave of [`OCTAVES_HZ`] that the rate carries, against all of it, dB.
/// Empty where there is no sound.
pub(super) fn octave_spectrum(sound: &[f32], rate: f64) -> Vec<f64> {
    let heard = &sound[..((LENGTH_S * rate) as usize).min(sound.len())];
    if heard.is_empty() {
        return Vec::new();
    }
    let size = heard.len().next_power_of_two();
    // Sums over octaves need no more digits than samples have.
    let transform = real_forward_single(size);
    let (mut input, mut spectrum) = (transform.make_input_vec(), transform.make_output_vec());
    input[..heard.len()].copy_from_slice(heard);
    // Lengths are the transform's own, so it cannot fail.
    let _ = transform.process(&mut input, &mut spectrum);
    let bin = |hz: f64| ((hz * size as f64 / rate).ceil() as usize).min(spectrum.len());
    let carried = OCTAVES_HZ.into_iter().filter(|hz| hz * SQRT_2 < rate / 2.0);
    let energy = |hz: f64| spectrum[bin(hz / SQRT_2)..bin(hz * SQRT_2)].iter().map(|z| f64::from(z.norm_sqr())).sum::<f64>();
    let energies: Vec<f64> = carried.map(energy).collect();
    let all: f64 = energies.iter().sum();
    let is_sound = all > 0.0 && all.is_finite();
    if is_sound { energies.into_iter().map(|one| 10.0 * (one / all).max(1e-12).log10()).collect() } else { Vec::new() }
}

/// How far two spectra are apart, dB: the root of their mean square difference over the octaves that both have. None where one is not known.
pub fn spectral_distance_db(a: &[f64], b: &[f64]) -> Option<f64> {
    let squares: Vec<f64> = a.iter().zip(b).map(|(a, b)| (a.max(SILENT_DB) - b.max(SILENT_DB)).powi(2)).collect();
    (!squares.is_empty()).then(|| (squares.iter().sum::<f64>() / squares.len() as f64).sqrt())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::f64::consts::PI;

    /// Two tones of amplitudes 2 and 1 have 4/5 and 1/5 of the energy (closed form), and what a cut-off tone leaks into the octaves beside it is under
    /// a hundredth; silence, nothing and what is no sound have no spectrum.
    #[test]
    fn energies_are_those_of_the_tones() {
        for rate in [16_000.0, 44_100.0, 48_000.0] {
            let tone = |hz: f64, n: usize| (2.0 * PI * hz * n as f64 / rate).sin();
            let sound: Vec<f32> = (0..20_000).map(|n| (0.2 * tone(125.0, n) + 0.1 * tone(1000.0, n)) as f32).collect();
            let spectrum = octave_spectrum(&sound, rate);
            for (at, hz) in OCTAVES_HZ.into_iter().enumerate() {
                let share: f64 = if hz == 125.0 { 0.8 } else { 0.2 };
                let off = spectrum[at] - 10.0 * share.log10();
                assert!(if [125.0, 1000.0].contains(&hz) { off.abs() < 0.05 } else { spectrum[at] < -20.0 }, "{hz} Hz: {}", spectrum[at]);
            }
            assert!(spectral_distance_db(&spectrum, &spectrum) == Some(0.0) && spectral_distance_db(&spectrum, &[]).is_none());
        }
        assert!([vec![], vec![0.0; 5_000], vec![f32::MAX; 5_000]].iter().all(|sound| octave_spectrum(sound, 48_000.0).is_empty()));
    }
}
