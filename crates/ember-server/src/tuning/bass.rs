//! Listening to a bass: its notes are told as they become clear. Nothing of it is kept.

use crate::listening::{Ear, ListenEvent, PassingSession, RealTime, Work};
use ember_core::bench_drum::bass_line;
use ember_core::tuning::BassListener;
use tokio::sync::mpsc::{Sender, UnboundedSender};

/// Notes after which enough was heard to hold a kick against.
const MOST_NOTES: usize = 24;
/// What the simulated bass plays: the lowest notes of a tune in A minor.
const SIMULATED: [i32; 4] = [28, 33, 31, 28];

impl Ear for BassListener {
    fn push(&mut self, samples: &[f32]) -> Vec<ListenEvent> {
        self.push(samples).into_iter().map(|heard| ListenEvent::BassNote { heard }).collect()
    }

    fn last(self) -> Vec<ListenEvent> {
        Vec::new()
    }

    fn level_dbfs(&self) -> f64 {
        self.level_db()
    }
}

/// Listens to a bass at `rate` samples a second.
pub fn bass_session(rate: u32, events: UnboundedSender<ListenEvent>) -> PassingSession<BassListener> {
    PassingSession { rate, ear: BassListener::new(f64::from(rate)), most: MOST_NOTES, events }
}

/// Plays the simulated bass into `work` in real time until the session ends or `stopped` says so.
pub fn play_bass(seed: u64, work: &Sender<Work>, stopped: impl Fn() -> bool) {
    if RealTime::new(work, stopped).play(&bass_line(&SIMULATED, seed)) {
        // The session may have ended by itself in the meantime.
        let _ = work.blocking_send(Work::Finish);
    }
}
