//! Listening to a bass: its notes are told as they become clear. Nothing of it is kept.

use crate::listening::{ListenEvent, ListenProblem, RealTime, Work, mend};
use ember_core::bench_drum::bass_line;
use ember_core::tuning::BassListener;
use std::time::{Duration, Instant};
use tokio::sync::mpsc::{Receiver, Sender, UnboundedSender};

const LEVEL_EVERY: Duration = Duration::from_millis(50);
/// Notes after which enough was heard to hold a kick against.
const MOST_NOTES: usize = 24;
/// What the simulated bass plays: the lowest notes of a tune in A minor.
const SIMULATED: [i32; 4] = [28, 33, 31, 28];

/// Who listens to a bass.
pub struct BassSession {
    /// Samples a second.
    pub rate: u32,
    pub events: UnboundedSender<ListenEvent>,
}

impl BassSession {
    /// Works until enough notes were heard, the window stops, or its sender is gone.
    pub fn run(self, mut work: Receiver<Work>) {
        let mut listener = BassListener::new(f64::from(self.rate));
        let (mut next, mut heard, mut last_level) = (0u64, 0, Instant::now());
        while heard < MOST_NOTES {
            let (start, mut samples) = match work.blocking_recv() {
                Some(Work::Samples { start, samples }) => (start, samples),
                Some(Work::Next | Work::Back) => continue,
                Some(Work::Finish) | None => break,
            };
            if let Err(detail) = mend(&mut samples, start, next, self.rate) {
                return self.tell(ListenEvent::Problem { problem: ListenProblem::BadSamples, detail });
            }
            next += samples.len() as u64;
            for note in listener.push(&samples) {
                heard += 1;
                self.tell(ListenEvent::BassNote { heard: note });
            }
            if last_level.elapsed() >= LEVEL_EVERY {
                self.tell(ListenEvent::Level { level_dbfs: listener.level_db(), ringing: false });
                last_level = Instant::now();
            }
        }
        self.tell(ListenEvent::Done { take: None, good: heard, rejected: 0, complete: heard > 0 });
    }

    fn tell(&self, event: ListenEvent) {
        // A window that is gone cannot be told.
        let _ = self.events.send(event);
    }
}

/// Plays the simulated bass into `work` in real time until the session ends or `stopped` says so.
pub fn play_bass(seed: u64, work: &Sender<Work>, stopped: impl Fn() -> bool) {
    if RealTime::new(work, stopped).play(&bass_line(&SIMULATED, seed)) {
        // The session may have ended by itself in the meantime.
        let _ = work.blocking_send(Work::Finish);
    }
}
