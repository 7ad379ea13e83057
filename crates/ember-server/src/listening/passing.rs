//! Listening of which nothing is kept: what is heard is told as it becomes clear.

use super::event::{ListenEvent, ListenProblem};
use super::session::{Work, mend};
use std::time::{Duration, Instant};
use tokio::sync::mpsc::{Receiver, UnboundedSender};

const LEVEL_EVERY: Duration = Duration::from_millis(50);

/// What hears.
pub trait Ear {
    /// What became clear within mono samples (full scale 1).
    fn push(&mut self, samples: &[f32]) -> Vec<ListenEvent>;
    /// What is still to be told when no more comes.
    fn last(self) -> Vec<ListenEvent>;
    /// Level of what came last, dBFS (RMS).
    fn level_dbfs(&self) -> f64;
}

/// Who listens.
pub struct PassingSession<E> {
    /// Samples a second.
    pub rate: u32,
    /// What hears.
    pub ear: E,
    /// Notes after which enough was heard.
    pub most: usize,
    /// Where it is told.
    pub events: UnboundedSender<ListenEvent>,
}

impl<E: Ear> PassingSession<E> {
    /// Works until enough was heard, the window stops, or its sender is gone.
    pub fn run(mut self, mut work: Receiver<Work>) {
        let (mut next, mut heard, mut last_level) = (0u64, 0, Instant::now());
        while heard < self.most {
            let (start, mut samples) = match work.blocking_recv() {
                Some(Work::Samples { start, samples }) => (start, samples),
                Some(Work::Next | Work::Back) => continue,
                Some(Work::Finish) | None => break,
            };
            if let Err(error) = mend(&mut samples, start, next, self.rate) {
                return tell(&self.events, ListenEvent::problem(ListenProblem::BadSamples, &error));
            }
            next += samples.len() as u64;
            for event in self.ear.push(&samples) {
                heard += usize::from(!matches!(event, ListenEvent::NoteTooSoft));
                tell(&self.events, event);
            }
            if last_level.elapsed() >= LEVEL_EVERY {
                tell(&self.events, ListenEvent::Level { level_dbfs: self.ear.level_dbfs(), ringing: false });
                last_level = Instant::now();
            }
        }
        for event in self.ear.last() {
            heard += usize::from(!matches!(event, ListenEvent::NoteTooSoft));
            tell(&self.events, event);
        }
        tell(&self.events, ListenEvent::Done { take: None, good: heard, rejected: 0, complete: heard > 0 });
    }
}

fn tell(events: &UnboundedSender<ListenEvent>, event: ListenEvent) {
    // A window that is gone cannot be told.
    let _ = events.send(event);
}
