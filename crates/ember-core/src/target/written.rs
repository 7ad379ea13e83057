//! Notes of a written length, played on a drum that rings on: whether each was damped in time, and what all of them say together.

use super::note::NoteValue;
use crate::decay::{NoteEnding, SoundedNote, sounded};
use crate::signal::{CapturedStrike, Ending, Limits, StrikeFinder};
use crate::units::{median, note_seconds};
use ember_words::{Words, words};
use serde::{Deserialize, Serialize};

/// A note is as written within this part of its length, and within this time (common practice, no published source).
const AS_WRITTEN_PART: f64 = 0.1;
const AS_WRITTEN_S: f64 = 0.04;
/// Notes after which something can be said about all of them.
const ENOUGH: usize = 3;
/// How long a note is followed.
const LIMITS: Limits = Limits { longest_s: 10.0, quiet_s: 0.12 };

/// A note as it is written.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WrittenNote {
    /// Which note it is.
    pub value: NoteValue,
    /// Quarter notes a minute.
    pub bpm: f64,
}

impl WrittenNote {
    /// Its length, s.
    pub fn seconds(self) -> f64 {
        note_seconds(self.value.quarters(), self.bpm)
    }

    /// How far a note may be off and still be as written, s.
    pub fn tolerance_s(self) -> f64 {
        (AS_WRITTEN_PART * self.seconds()).max(AS_WRITTEN_S)
    }
}

/// What became of a note against what was written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum NoteVerdict {
    /// As long as it is written.
    AsWritten,
    /// Too long.
    TooLong,
    /// Too short.
    TooShort,
}

/// One note that was played.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlayedNote {
    /// How long it sounded.
    #[serde(flatten)]
    pub sounded: SoundedNote,
    /// Longer (positive) or shorter than written, s.
    pub off_s: f64,
    /// What it comes to.
    pub verdict: NoteVerdict,
    /// The same in words, with what to do.
    pub sentence: Words,
}

/// What became of one stroke.
#[derive(Debug, Clone, PartialEq)]
pub enum Stroke {
    /// A note whose end was heard.
    Note(PlayedNote),
    /// Too soft against the noise to tell where its note ended.
    TooSoft,
}

/// What all notes since the beginning say.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlayedNotes {
    /// Length that is written, s, and how far a note may be off and still be as written, s.
    pub written_s: f64,
    /// How far off it may be, s.
    pub tolerance_s: f64,
    /// Notes that were played.
    pub notes: usize,
    /// How many were as written.
    pub as_written: usize,
    /// Median of how far they are off, s; null before the first.
    pub off_s: Option<f64>,
    /// What to do, once there are enough of them.
    pub sentence: Option<Words>,
}

/// Hears notes in a stream and holds each against the written one.
pub struct NoteTrainer {
    rate: f64,
    written: WrittenNote,
    finder: StrikeFinder,
    played: Vec<PlayedNote>,
}

impl NoteTrainer {
    /// For `rate` samples a second.
    pub fn new(rate: f64, written: WrittenNote) -> Self {
        Self { written, rate, finder: StrikeFinder::new(rate, LIMITS), played: Vec::new() }
    }

    /// Takes mono samples (full scale 1); the strokes whose notes ended within them.
    pub fn push(&mut self, samples: &[f32]) -> Vec<Stroke> {
        let strikes = self.finder.push(samples);
        self.judge(&strikes)
    }

    /// The note that was being followed when nothing more came, if it had ended.
    pub fn finish(mut self) -> (Vec<Stroke>, PlayedNotes) {
        let finder = std::mem::replace(&mut self.finder, StrikeFinder::new(self.rate, LIMITS));
        let last: Vec<CapturedStrike> = finder.finish().into_iter().collect();
        (self.judge(&last), self.all())
    }

    fn judge(&mut self, strikes: &[CapturedStrike]) -> Vec<Stroke> {
        let mut strokes = Vec::new();
        for strike in strikes {
            match sounded(strike) {
                Some(note) => {
                    let note = judged(note, self.written);
                    self.played.push(note.clone());
                    strokes.push(Stroke::Note(note));
                }
                // Of what was broken off nobody knows how it would have ended.
                None if strike.ending == Ending::Interrupted => {}
                None => strokes.push(Stroke::TooSoft),
            }
        }
        strokes
    }

    /// Level of what came last, dBFS (RMS).
    pub fn level_db(&self) -> f64 {
        self.finder.level_db()
    }

    /// What all notes so far say.
    pub fn all(&self) -> PlayedNotes {
        all_of(&self.played, self.written)
    }
}

fn judged(sounded: SoundedNote, written: WrittenNote) -> PlayedNote {
    let off_s = sounded.sounded_s - written.seconds();
    let verdict = match off_s {
        off if off.abs() <= written.tolerance_s() => NoteVerdict::AsWritten,
        off if off > 0.0 => NoteVerdict::TooLong,
        _ => NoteVerdict::TooShort,
    };
    let by = off_s.abs();
    let sentence = match (verdict, sounded.ending) {
        (NoteVerdict::AsWritten, _) => words!("As written."),
        (NoteVerdict::TooLong, NoteEnding::Damped) => words!("{by:.2} s too long: hand or knee down sooner."),
        (NoteVerdict::TooLong, NoteEnding::RangOut) => words!("{by:.2} s too long: it rang on. Damp it when the note is over."),
        (NoteVerdict::TooLong, NoteEnding::CutShort) => words!("{by:.2} s too long: it sounded until the next stroke. Damp it before."),
        (NoteVerdict::TooShort, NoteEnding::Damped) => words!("{by:.2} s too short: leave hand and knee off longer."),
        (NoteVerdict::TooShort, NoteEnding::RangOut) => {
            words!("{by:.2} s too short, though nothing stopped it: the drum rings no longer. Take cloth off, or play it as a roll.")
        }
        (NoteVerdict::TooShort, NoteEnding::CutShort) => words!("{by:.2} s too short: the next stroke came first."),
    };
    PlayedNote { sounded, off_s, verdict, sentence }
}

fn all_of(played: &[PlayedNote], written: WrittenNote) -> PlayedNotes {
    let off: Vec<f64> = played.iter().map(|note| note.off_s).collect();
    let as_written = played.iter().filter(|note| note.verdict == NoteVerdict::AsWritten).count();
    let middle = median(&off);
    let sentence = middle.filter(|_| played.len() >= ENOUGH).map(|middle| {
        let (long, short) = (
            played.iter().filter(|note| note.verdict == NoteVerdict::TooLong).count(),
            played.iter().filter(|note| note.verdict == NoteVerdict::TooShort).count(),
        );
        let free = played.iter().all(|note| note.verdict == NoteVerdict::TooShort && note.sounded.ending == NoteEnding::RangOut);
        if 4 * as_written >= 3 * played.len() {
            words!("Steady, and as written.")
        } else if free {
            words!("Left alone, it never rings as long as is written.")
        } else if middle > written.tolerance_s() {
            words!("Mostly too long, by {middle:.2} s: begin to damp sooner.")
        } else if middle < -written.tolerance_s() {
            words!("Mostly too short, by {:.2} s: wait longer before you damp.", -middle)
        } else {
            words!("On the whole right, but not steady: {long} too long, {short} too short. Count the rest, and damp on it.")
        }
    });
    PlayedNotes {
        written_s: written.seconds(),
        tolerance_s: written.tolerance_s(),
        notes: played.len(),
        as_written,
        off_s: middle,
        sentence,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn note(sounded_s: f64, ending: NoteEnding) -> SoundedNote {
        SoundedNote { at_s: 0.0, sounded_s, ending, damping_s: Some(0.06) }
    }

    /// A half note at 60 quarters a minute lasts two seconds (worked by hand).
    #[test]
    fn a_note_is_held_against_what_is_written_with_what_to_do() {
        let written = WrittenNote { value: NoteValue::Half, bpm: 60.0 };
        assert!((written.seconds() - 2.0).abs() < 1e-12 && (written.tolerance_s() - 0.2).abs() < 1e-12);
        let of = |sounded_s: f64, ending| judged(note(sounded_s, ending), written);
        assert_eq!(of(2.15, NoteEnding::Damped).verdict, NoteVerdict::AsWritten);
        let long = of(2.5, NoteEnding::Damped);
        assert!(long.verdict == NoteVerdict::TooLong && long.sentence.contains("0.50 s too long") && (long.off_s - 0.5).abs() < 1e-9);
        assert!(of(1.4, NoteEnding::Damped).sentence.contains("off longer"));
        assert!(of(1.4, NoteEnding::RangOut).sentence.contains("rings no longer"));
        assert!(of(1.4, NoteEnding::CutShort).sentence.contains("next stroke came first"));
        // A short note has its own least tolerance: nobody damps to the millisecond.
        assert!((WrittenNote { value: NoteValue::Sixteenth, bpm: 120.0 }.tolerance_s() - AS_WRITTEN_S).abs() < 1e-12);
    }

    #[test]
    fn all_notes_together_say_what_is_usual_and_what_is_not_steady() {
        let written = WrittenNote { value: NoteValue::Quarter, bpm: 60.0 };
        let all = |lengths: &[f64], ending| {
            let played: Vec<PlayedNote> = lengths.iter().map(|s| judged(note(*s, ending), written)).collect();
            all_of(&played, written)
        };
        let none = PlayedNotes { written_s: 1.0, tolerance_s: 0.1, notes: 0, as_written: 0, off_s: None, sentence: None };
        assert_eq!(all(&[], NoteEnding::Damped), none);
        assert_eq!(all(&[1.5, 1.5], NoteEnding::Damped).sentence, None, "two are too few");
        let says = |lengths: &[f64], ending| all(lengths, ending).sentence.unwrap();
        assert!(says(&[1.3, 1.25, 1.4, 1.0], NoteEnding::Damped).contains("too long, by 0.28 s"));
        assert!(says(&[0.7, 0.75, 0.6], NoteEnding::Damped).contains("too short, by 0.30 s"));
        assert!(says(&[1.3, 0.7, 1.0, 1.25, 0.7], NoteEnding::Damped).contains("2 too long, 2 too short"));
        assert!(says(&[1.0, 1.05, 0.95, 1.4], NoteEnding::Damped).starts_with("Steady"));
        assert!(says(&[0.5, 0.52, 0.5], NoteEnding::RangOut).contains("never rings"));
    }
}
