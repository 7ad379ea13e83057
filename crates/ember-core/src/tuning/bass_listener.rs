//! Notes of a bass as they are played, for the kick to keep clear of. Pitch by the McLeod method (McLeod & Wyvill, A Smarter Way to
//! Find Pitch, ICMC 2005).

use super::pitch::Note;
use crate::units::{cents, decibels, median};
use pitch_detection::detector::{PitchDetector, mcleod::McLeodDetector};
use serde::{Deserialize, Serialize};

/// Pitches that a bass has, Hz: from B0 to the end of its neck.
const BASS_HZ: std::ops::Range<f64> = 28.0..260.0;
/// A pitch is looked for in this much sound, s: six swings of the lowest string.
const WINDOW_S: f64 = 0.2;
const HOP_S: f64 = 0.05;
/// Softer sound is no note, dBFS.
const SOFTEST_DB: f64 = -60.0;
/// How alike a sound must be to itself one swing later, 0 to 1.
const CLARITY: f64 = 0.75;
/// A note is one that holds its pitch within this for so many looks.
const STEADY_CENTS: f64 = 35.0;
const STEADY_LOOKS: usize = 4;

/// A note that was heard.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeardNote {
    /// Pitch, Hz.
    pub hz: f64,
    /// The note nearest to it.
    pub note: Note,
    /// Time since listening began, s.
    pub at_s: f64,
}

/// Hears single bass notes in a stream.
pub struct BassListener {
    rate: f64,
    kept: Vec<f64>,
    window: usize,
    hop: usize,
    looked: usize,
    steady: Vec<f64>,
    told: bool,
    level_db: f64,
}

impl BassListener {
    /// For `rate` samples a second.
    pub fn new(rate: f64) -> Self {
        let (window, hop) = ((WINDOW_S * rate) as usize, (HOP_S * rate) as usize);
        Self { rate, kept: Vec::with_capacity(2 * window), window, hop, looked: 0, steady: Vec::new(), told: false, level_db: -120.0 }
    }

    /// Level of the last look, dBFS (RMS).
    pub fn level_db(&self) -> f64 {
        self.level_db
    }

    /// Takes mono samples (full scale 1) and returns the notes that became clear within them.
    pub fn push(&mut self, samples: &[f32]) -> Vec<HeardNote> {
        let mut notes = Vec::new();
        for piece in samples.chunks(self.hop) {
            self.kept.extend(piece.iter().map(|x| f64::from(*x)));
            while self.kept.len() >= self.window + self.hop {
                self.kept.drain(..self.hop);
                notes.extend(self.look());
            }
        }
        notes
    }

    fn look(&mut self) -> Option<HeardNote> {
        self.looked += self.hop;
        let power = self.kept[..self.window].iter().map(|x| x * x).sum::<f64>();
        let before = std::mem::replace(&mut self.level_db, decibels((power / self.window as f64).sqrt()));
        // Plucked again, the same note is a new one.
        if self.level_db > before + 6.0 {
            self.forget();
        }
        let heard = if self.level_db < SOFTEST_DB {
            None
        } else {
            // Padded to a power of two: the detector's own scratch space is too small for other lengths.
            let padded = (self.window + self.window / 2).next_power_of_two();
            let mut detector = McLeodDetector::new(self.window, padded - self.window);
            detector.get_pitch(&self.kept[..self.window], self.rate as usize, 0.1 * power, CLARITY).map(|pitch| pitch.frequency)
        };
        let Some(hz) = heard.filter(|hz| BASS_HZ.contains(hz)) else {
            self.forget();
            return None;
        };
        if self.steady.first().is_some_and(|first| cents(*first, hz).abs() > STEADY_CENTS) {
            self.forget();
        }
        self.steady.push(hz);
        if self.steady.len() < STEADY_LOOKS || self.told {
            return None;
        }
        self.told = true;
        let hz = median(&self.steady)?;
        Some(HeardNote { hz, note: Note::nearest(hz), at_s: self.looked as f64 / self.rate })
    }

    fn forget(&mut self) {
        self.steady.clear();
        self.told = false;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::{SAMPLE_RATE, bass_line};
    use crate::tuning::note_hz;

    fn heard(sound: &[f32], rate: f64, piece: usize) -> Vec<HeardNote> {
        let mut listener = BassListener::new(rate);
        sound.chunks(piece).flat_map(|piece| listener.push(piece)).collect()
    }

    /// Pitches of equal temperament from A4 = 440 Hz (ISO 16).
    #[test]
    fn notes_of_the_simulated_bass_are_heard_once_each_at_their_pitch() {
        for (notes, seed) in [([28, 33, 38], 1), ([23, 35, 40], 2), ([31, 31, 43], 3)] {
            let sound = bass_line(&notes, seed);
            let found = heard(&sound, f64::from(SAMPLE_RATE), 960);
            assert_eq!(found.len(), 3, "{notes:?}: {found:?}");
            for (note, number) in found.iter().zip(notes) {
                assert!(cents(note_hz(number), note.hz).abs() < 8.0, "{number}: {note:?}");
            }
            assert_eq!(found, heard(&sound, f64::from(SAMPLE_RATE), 777), "pieces make no difference");
        }
    }

    /// Sound of any rate that a microphone or file may have.
    #[test]
    fn a_tone_is_heard_at_its_pitch_at_every_usual_rate_and_at_odd_ones() {
        for rate in [
            8_000u32, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_100, 48_000, 88_200, 96_000, 176_400, 192_000, 8_003, 9_999,
            191_999,
        ] {
            let wave = |n: u32| (0.3 * (2.0 * std::f64::consts::PI * 82.4 * f64::from(n) / f64::from(rate)).sin()) as f32;
            let found = heard(&(0..rate).map(wave).collect::<Vec<f32>>(), f64::from(rate), 500);
            assert!(found.len() == 1 && cents(82.4, found[0].hz).abs() < 8.0, "{rate} Hz: {found:?}");
        }
    }

    #[test]
    fn noise_and_quiet_are_no_notes() {
        let noise: Vec<f32> = (0..96_000u32).map(|n| ((n.wrapping_mul(2_654_435_761) >> 8) as f32 / 8_388_608.0 - 1.0) * 0.1).collect();
        assert!(heard(&noise, 48_000.0, 4096).is_empty());
        assert!(heard(&vec![0.0; 96_000], 48_000.0, 4096).is_empty());
    }
}
