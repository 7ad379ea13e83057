//! Conversions between what musicians say (inches, beats, cents, decibels) and SI.

use ember_words::{Words, words};

/// Natural logarithm of 1000: an amplitude falls 60 dB in `LN_1000 / decay_rate` seconds.
pub const LN_1000: f64 = 6.907_755_278_982_137;

/// Metres in `inches`.
pub fn metres(inches: f64) -> f64 {
    inches * 0.0254
}

/// Decibels of an amplitude ratio; -400 dB stands for silence, so that no infinity travels on.
pub fn decibels(amplitude: f64) -> f64 {
    20.0 * amplitude.abs().max(1e-20).log10()
}

/// Amplitude ratio of `decibels`.
pub fn amplitude(decibels: f64) -> f64 {
    10f64.powf(decibels / 20.0)
}

/// Decay time (s to fall 60 dB) of an amplitude decaying at `rate` (1/s).
pub fn t60(rate: f64) -> f64 {
    LN_1000 / rate
}

/// Amplitude decay rate (1/s) of a decay time `t60` (s).
pub fn decay_rate(t60: f64) -> f64 {
    LN_1000 / t60
}

/// Interval from `from` to `to` (both Hz) in cents, upwards positive.
pub fn cents(from: f64, to: f64) -> f64 {
    1200.0 * (to / from).log2()
}

/// Seconds that a note value (in quarter notes, an eighth being 0.5) lasts at `bpm` quarter notes a minute.
pub fn note_seconds(quarters: f64, bpm: f64) -> f64 {
    60.0 / bpm * quarters
}

/// Level of several incoherent sounds together, dB: their energies add. -400 dB of nothing.
pub fn sum_levels(levels: impl IntoIterator<Item = f64>) -> f64 {
    10.0 * levels.into_iter().map(|level| 10f64.powf(level / 10.0)).sum::<f64>().max(1e-40).log10()
}

/// The middle value of `values` (mean of the two middle ones), or `None` of nothing.
pub fn median(values: &[f64]) -> Option<f64> {
    if values.is_empty() {
        return None;
    }
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    let middle = sorted.len() / 2;
    Some(if sorted.len() % 2 == 1 { sorted[middle] } else { 0.5 * (sorted[middle - 1] + sorted[middle]) })
}

/// A duration (s) in a sentence: "10 s", "2 min".
pub fn say_duration(seconds: f64) -> Words {
    if seconds < 90.0 { words!("{seconds:.0} s") } else { words!("{:.0} min", seconds / 60.0) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_eighth_at_96_bpm_lasts_312_and_a_half_milliseconds() {
        assert!((note_seconds(0.5, 96.0) - 0.3125).abs() < 1e-12);
    }

    #[test]
    fn levels_add_as_energies() {
        // Handbook examples: two equal levels make 3 dB more, 60 and 70 dB make 70.4 dB, ten equal ones 10 dB more.
        assert!((sum_levels([60.0, 60.0]) - 63.0103).abs() < 1e-4);
        assert!((sum_levels([60.0, 70.0]) - 70.4139).abs() < 1e-4);
        assert!((sum_levels([50.0; 10]) - 60.0).abs() < 1e-9);
        assert_eq!(sum_levels([]), -400.0);
    }

    #[test]
    fn medians_of_odd_even_and_no_values() {
        assert_eq!(median(&[3.0, 1.0, 2.0]), Some(2.0));
        assert_eq!(median(&[4.0, 1.0, 2.0, 3.0]), Some(2.5));
        assert_eq!(median(&[]), None);
    }
}
