//! Training note lengths: each note is held against the written one as it ends. Nothing of it is kept.

use super::event::ListenEvent;
use super::passing::{Ear, PassingSession};
use super::session::Work;
use super::simulated::RealTime;
use ember_core::bench_drum::BenchDrum;
use ember_core::target::{NoteTrainer, PlayedNotes, Stroke, WrittenNote};
use tokio::sync::mpsc::{Sender, UnboundedSender};

/// Notes after which one has practised enough for once.
const MOST_NOTES: usize = 60;
/// The simulated player: how many notes it plays, how much too long the first one is, as a part of its length, and how far it is off
/// either way once it has found it.
const SIMULATED_NOTES: usize = 8;
const BEGINS_LONG: f64 = 0.5;
const NOT_STEADY: f64 = 0.06;

fn told(strokes: Vec<Stroke>, all: &PlayedNotes) -> Vec<ListenEvent> {
    let of_stroke = |stroke| match stroke {
        Stroke::Note(note) => ListenEvent::NotePlayed { note, all: all.clone() },
        Stroke::TooSoft => ListenEvent::NoteTooSoft,
    };
    strokes.into_iter().map(of_stroke).collect()
}

impl Ear for NoteTrainer {
    fn push(&mut self, samples: &[f32]) -> Vec<ListenEvent> {
        let strokes = self.push(samples);
        told(strokes, &self.all())
    }

    fn last(self) -> Vec<ListenEvent> {
        let (strokes, all) = self.finish();
        told(strokes, &all)
    }

    fn level_dbfs(&self) -> f64 {
        self.level_db()
    }
}

/// Listens to notes that are to be as `written`, at `rate` samples a second.
pub fn note_session(rate: u32, written: WrittenNote, events: UnboundedSender<ListenEvent>) -> PassingSession<NoteTrainer> {
    PassingSession { rate, ear: NoteTrainer::new(f64::from(rate), written), most: MOST_NOTES, events }
}

/// Plays `drum` into `work` in real time, damped by a hand that finds the length of `written` by and by, until all notes are played, the
/// session ends or `stopped` says so.
pub fn play_notes(drum: &BenchDrum, seed: u64, written: WrittenNote, work: &Sender<Work>, stopped: impl Fn() -> bool) {
    let mut sound = RealTime::new(work, stopped);
    if !sound.play(&drum.lead(seed)) {
        return;
    }
    for index in 0..SIMULATED_NOTES {
        let off = BEGINS_LONG * 0.5f64.powi(index as i32) + if index % 2 == 0 { NOT_STEADY } else { -NOT_STEADY };
        if !sound.play(&drum.damped_note(seed, index, written.seconds() * (1.0 + off))) {
            return;
        }
    }
    // The session may have ended by itself in the meantime.
    let _ = work.blocking_send(Work::Finish);
}
