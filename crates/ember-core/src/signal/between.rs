//! A sound between its samples: windowed sinc, from a table.

use std::f64::consts::PI;
use std::sync::LazyLock;

/// Samples on either side that count.
const HALF: usize = 8;
/// Places between two samples at which the weights are worked out; between those they are taken as straight, which is off by
/// (pi / 512)^2 / 8 of a tone at half the sample rate, -107 dB.
const PLACES: usize = 512;

static WEIGHTS: LazyLock<Vec<[f64; 2 * HALF]>> =
    LazyLock::new(|| (0..=PLACES).map(|place| weights(place as f64 / PLACES as f64)).collect());

/// Weights of the samples from `HALF - 1` before to `HALF` behind a place `off` (0 to 1) samples on: sinc under a Hann window.
fn weights(off: f64) -> [f64; 2 * HALF] {
    std::array::from_fn(|index| {
        let d = off - (index as f64 - (HALF as f64 - 1.0));
        let sinc = if d.abs() < 1e-9 { 1.0 } else { (PI * d).sin() / (PI * d) };
        sinc * (0.5 + 0.5 * (PI * d / (HALF as f64 + 0.5)).cos())
    })
}

/// `samples` at the place `at` (in samples from the first; not below 0); outside of them is silence.
pub fn between(samples: &[f64], at: f64) -> f64 {
    let (middle, off) = (at as usize, PLACES as f64 * at.fract());
    let (place, part) = (off as usize, off.fract());
    let (here, next) = (&WEIGHTS[place], &WEIGHTS[place + 1]);
    let first = middle.wrapping_add(1).wrapping_sub(HALF);
    let mut near = [0.0; 2 * HALF];
    match samples.get(first..first.wrapping_add(2 * HALF)) {
        Some(all) => near.copy_from_slice(all),
        None => {
            for (index, x) in near.iter_mut().enumerate() {
                *x = samples.get(first.wrapping_add(index)).copied().unwrap_or(0.0);
            }
        }
    }
    let mut lanes = [0.0; 4];
    for index in 0..2 * HALF {
        lanes[index % 4] += near[index] * (here[index] + part * (next[index] - here[index]));
    }
    lanes.iter().sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_tone_between_its_samples_is_the_tone(hz in 0.0f64..0.3, at in 20f64..180.0, turn in 0.0f64..6.0) {
            let tone = |n: f64| (2.0 * PI * hz * n + turn).sin();
            let samples: Vec<f64> = (0..200).map(|n| tone(f64::from(n))).collect();
            prop_assert!((between(&samples, at) - tone(at)).abs() < 2e-3, "{}", between(&samples, at) - tone(at));
        }

        #[test]
        fn on_a_sample_it_is_that_sample_and_outside_there_is_silence(n in 0usize..30) {
            let samples: Vec<f64> = (0..30).map(|n| f64::from(n) - 11.0).collect();
            prop_assert!((between(&samples, n as f64) - samples[n]).abs() < 1e-9);
            prop_assert_eq!(between(&samples, (40 + n) as f64), 0.0);
        }
    }
}
