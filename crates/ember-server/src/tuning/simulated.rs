//! The simulated head under a simulated hand: it taps the lug that is asked for, in real time, until none is.

use super::session::Asking;
use crate::listening::{RealTime, Work};
use ember_core::bench_drum::{TapManner, TappedHead};
use std::time::{Duration, Instant};
use tokio::sync::mpsc::Sender;

/// Taps after which the hand gives up.
const MOST_TAPS: usize = 60;
/// A tap that is not answered within this was not heard.
const ANSWER: Duration = Duration::from_secs(3);

/// Taps `head` into `work` until `asking` asks no more, the session ends, or `stopped` says so.
pub fn tap_simulated(head: &TappedHead, asking: &Asking, seed: u64, work: &Sender<Work>, stopped: impl Fn() -> bool) {
    let mut sound = RealTime::new(work, stopped);
    let manner = TapManner::default();
    if !sound.play(&head.quiet(0.5, manner.noise, seed)) {
        return;
    }
    for tap in 0..MOST_TAPS as u64 {
        let Some(lug) = asking.lug() else { return };
        let answered = asking.answered();
        if !sound.play(&head.tap(lug, manner, seed.wrapping_add(tap))) {
            return;
        }
        // The hand waits for the answer: a slow machine must not make it tap the same lug twice.
        let waits = Instant::now();
        while asking.answered() == answered && waits.elapsed() < ANSWER {
            if !sound.play(&head.quiet(0.05, manner.noise, seed ^ tap)) {
                return;
            }
        }
    }
    // After so many poor taps the round ends with what was heard.
    let _ = work.blocking_send(Work::Finish);
}
