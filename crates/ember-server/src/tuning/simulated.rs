//! The simulated head under a simulated hand: it taps the lug that is asked for, in real time, until none is.

use super::session::Asking;
use crate::listening::Work;
use ember_core::bench_drum::{SAMPLE_RATE, TapManner, TappedHead};
use std::time::{Duration, Instant};
use tokio::sync::mpsc::Sender;

const PIECE: usize = 960;
/// Taps after which the hand gives up.
const MOST_TAPS: usize = 60;
/// A tap that is not answered within this was not heard.
const ANSWER: Duration = Duration::from_secs(3);

/// Taps `head` into `work` until `asking` asks no more, the session ends, or `stopped` says so.
pub fn tap_simulated(head: &TappedHead, asking: &Asking, seed: u64, work: &Sender<Work>, stopped: impl Fn() -> bool) {
    let began = Instant::now();
    let mut played = 0u64;
    let mut play = |samples: &[f32]| {
        for piece in samples.chunks(PIECE) {
            let due = Duration::from_secs_f64(played as f64 / f64::from(SAMPLE_RATE));
            std::thread::sleep(due.saturating_sub(began.elapsed()));
            if stopped() || work.blocking_send(Work::Samples { start: played, samples: piece.to_vec() }).is_err() {
                return false;
            }
            played += piece.len() as u64;
        }
        true
    };
    let manner = TapManner::default();
    if !play(&head.quiet(0.5, manner.noise, seed)) {
        return;
    }
    for tap in 0..MOST_TAPS as u64 {
        let Some(lug) = asking.lug() else { return };
        let answered = asking.answered();
        if !play(&head.tap(lug, manner, seed.wrapping_add(tap))) {
            return;
        }
        // The hand waits for the answer: a slow machine must not make it tap the same lug twice.
        let waits = Instant::now();
        while asking.answered() == answered && waits.elapsed() < ANSWER {
            if !play(&head.quiet(0.05, manner.noise, seed ^ tap)) {
                return;
            }
        }
    }
}
