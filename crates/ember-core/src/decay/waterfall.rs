//! A strike's level over time and frequency, for those who look for the cause of what they hear.

use crate::signal::transform::real_forward;
use crate::units::decibels;
use serde::{Deserialize, Serialize};

const LOWEST_HZ: f64 = 40.0;
const HIGHEST_HZ: f64 = 4000.0;
const BANDS: usize = 80;
const FRAMES: usize = 60;
const WINDOW_S: f64 = 0.06;
const LONGEST_S: f64 = 2.0;
/// What is this far below the loudest is not told apart any more, dB.
const DEEPEST_DB: f64 = -70.0;

/// Levels of a strike: one row a moment, one value a frequency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Waterfall {
    /// Middle of each band, Hz, low to high in equal ratios.
    pub hz: Vec<f64>,
    /// Time from one row to the next, s; the first row is that of the hit.
    pub step_s: f64,
    /// dB against the loudest value, down to -70, in whole dB.
    pub level_db: Vec<Vec<i16>>,
}

/// Waterfall of `samples` (full scale 1) from `onset_index` on.
pub fn waterfall(samples: &[f32], onset_index: usize, rate: f64) -> Waterfall {
    let highest = HIGHEST_HZ.min(0.45 * rate);
    let ratio = (highest / LOWEST_HZ).powf(1.0 / BANDS as f64);
    let edges: Vec<f64> = (0..=BANDS).map(|i| LOWEST_HZ * ratio.powi(i as i32)).collect();
    let hz = edges.windows(2).map(|edge| (edge[0] * edge[1]).sqrt()).collect();
    let window = (WINDOW_S * rate) as usize;
    // Padded with silence, so that narrow bands at the bottom have a bin each.
    let transform = real_forward((8 * window).next_power_of_two());
    let bin_hz = rate / transform.len() as f64;
    let length_s = ((samples.len() - onset_index.min(samples.len())) as f64 / rate).min(LONGEST_S);
    let step_s = length_s / FRAMES as f64;
    let mut input = transform.make_input_vec();
    let mut output = transform.make_output_vec();
    let rows: Vec<Vec<f64>> = (0..FRAMES)
        .map(|frame| {
            input.fill(0.0);
            let from = onset_index + (frame as f64 * step_s * rate) as usize;
            for (n, slot) in input.iter_mut().take(window).enumerate() {
                let x = samples.get(from + n).copied().unwrap_or(0.0);
                *slot = f64::from(x) * (0.5 - 0.5 * (2.0 * std::f64::consts::PI * n as f64 / window as f64).cos());
            }
            // Lengths are the transform's own, so it cannot fail.
            let _ = transform.process(&mut input, &mut output);
            let band = |edge: &[f64]| {
                let (low, high) = ((edge[0] / bin_hz) as usize, (edge[1] / bin_hz).ceil() as usize);
                output[low..=high.min(output.len() - 1)].iter().map(|z| z.norm()).fold(0.0, f64::max)
            };
            edges.windows(2).map(band).collect()
        })
        .collect();
    let loudest = rows.iter().flatten().copied().fold(1e-12, f64::max);
    let level = |value: &f64| decibels((value / loudest).max(1e-9)).max(DEEPEST_DB).round() as i16;
    Waterfall { hz, step_s, level_db: rows.iter().map(|row| row.iter().map(level).collect()).collect() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::decay_rate;

    /// A tone falls 60 dB in its T60, and lies in its own band.
    #[test]
    fn a_tone_falls_by_its_decay_time_in_its_band() {
        let (rate, hz, t60) = (48_000.0, 220.0, 0.8);
        let sound: Vec<f32> = (0..72_000)
            .map(|n| ((-decay_rate(t60) * n as f64 / rate).exp() * (2.0 * std::f64::consts::PI * hz * n as f64 / rate).sin()) as f32)
            .collect();
        let found = waterfall(&sound, 0, rate);
        let loudest = (0..found.hz.len()).max_by_key(|band| found.level_db[0][*band]).unwrap();
        // As near as a window of 60 ms tells.
        assert!((found.hz[loudest] / hz - 1.0).abs() < 0.12, "{}", found.hz[loudest]);
        let fell = f64::from(found.level_db[0][loudest] - found.level_db[24][loudest]);
        assert!((fell - 60.0 * 24.0 * found.step_s / t60).abs() < 1.5, "{fell} dB");
    }

    #[test]
    fn silence_and_next_to_nothing_have_a_waterfall_too() {
        for sound in [vec![0.0; 20_000], vec![0.1; 10], Vec::new()] {
            let found = waterfall(&sound, 0, 8000.0);
            assert!(found.level_db.len() == FRAMES && found.level_db.iter().all(|row| row.len() == found.hz.len()));
        }
    }
}
