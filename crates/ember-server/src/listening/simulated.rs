//! The simulated drum as a player: it hits in real time until the session has heard enough.

use super::asked::Asked;
use super::session::Work;
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use std::time::{Duration, Instant};
use tokio::sync::mpsc::Sender;

const PIECE: usize = 960;
/// Hits after which the simulated player gives up.
const MOST_HITS: usize = 60;

/// Samples sent as fast as they would sound.
pub(crate) struct RealTime<'a, F> {
    work: &'a Sender<Work>,
    stopped: F,
    began: Instant,
    played: u64,
}

impl<'a, F: Fn() -> bool> RealTime<'a, F> {
    pub fn new(work: &'a Sender<Work>, stopped: F) -> Self {
        Self { work, stopped, began: Instant::now(), played: 0 }
    }

    /// Whether all of it was played: not if the session no longer takes it, or `stopped` says so.
    pub fn play(&mut self, samples: &[f32]) -> bool {
        for piece in samples.chunks(PIECE) {
            let due = Duration::from_secs_f64(self.played as f64 / f64::from(SAMPLE_RATE));
            std::thread::sleep(due.saturating_sub(self.began.elapsed()));
            if (self.stopped)() || self.work.blocking_send(Work::Samples { start: self.played, samples: piece.to_vec() }).is_err() {
                return false;
            }
            self.played += piece.len() as u64;
        }
        true
    }
}

/// Plays `drum` into `work` as fast as a real one would and as hard as `asked`, until the session no longer takes it or `stopped` says
/// so.
pub fn play_simulated(drum: &BenchDrum, seed: u64, asked: &Asked, work: &Sender<Work>, stopped: impl Fn() -> bool) {
    let mut sound = RealTime::new(work, stopped);
    if !sound.play(&drum.lead(seed)) {
        return;
    }
    // The next hit is worked out while this one sounds: on a slow machine the player falls behind, but never sounds wrong.
    for index in 0..MOST_HITS {
        if !sound.play(&drum.strike_as(seed, index, BenchDrum::how_hard(asked.now()))) {
            return;
        }
    }
    // The session may have ended by itself in the meantime.
    let _ = work.blocking_send(Work::Finish);
}
