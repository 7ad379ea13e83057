//! The strikes in a sound file.

use super::read::{ReadError, ReadProgress, SoundFacts, read_watched};
use ember_core::decay::{HeardBy, HeardStrike, StrikeAnalyzer};
use ember_core::signal::{CapturedStrike, StrikeFinder};
use ember_core::units::decibels;
use std::path::Path;
use std::sync::{Condvar, Mutex, OnceLock, PoisonError, mpsc};

/// Strikes that are measured or wait for it while the file is read on: enough to keep every processor busy, few enough to fit into memory.
const MOST_UNDER_WAY: usize = 32;

/// How many strikes are under way.
#[derive(Default)]
struct UnderWay {
    count: Mutex<usize>,
    fewer: Condvar,
}

impl UnderWay {
    /// Waits until there is room for one more; it leaves when what is returned is dropped.
    fn enter(&self) -> Entered<'_> {
        let mut count = self.count.lock().unwrap_or_else(PoisonError::into_inner);
        while *count >= MOST_UNDER_WAY {
            if rayon::current_thread_index().is_some() {
                // One of those that measure helps instead of waiting for the others.
                drop(count);
                rayon::yield_now();
                count = self.count.lock().unwrap_or_else(PoisonError::into_inner);
            } else {
                count = self.fewer.wait(count).unwrap_or_else(PoisonError::into_inner);
            }
        }
        *count += 1;
        Entered(self)
    }
}

struct Entered<'a>(&'a UnderWay);

impl Drop for Entered<'_> {
    fn drop(&mut self) {
        *self.0.count.lock().unwrap_or_else(PoisonError::into_inner) -= 1;
        self.0.fewer.notify_one();
    }
}

/// Everything found in a file.
pub struct HeardFile<T> {
    pub facts: SoundFacts,
    /// What was made of each strike, in the order they were played.
    pub strikes: Vec<T>,
    /// Strikes beyond the number asked for, which were not measured.
    pub more: usize,
    /// Loudest sample, dBFS.
    pub loudest_dbfs: f64,
}

/// Finds and measures the first `most` strikes in the file at `path` (see [`read`](super::read)), keeping what `each` makes of them.
/// What stays in memory is what `each` leaves of them.
pub fn measure_file<T: Send>(
    path: &Path,
    name: &str,
    heard_by: HeardBy,
    most_s: f64,
    most: usize,
    progress: &ReadProgress,
    each: impl Fn(HeardStrike) -> T + Sync,
) -> Result<HeardFile<T>, ReadError> {
    let analyzer = OnceLock::new();
    let under_way = UnderWay::default();
    let (sender, measured) = mpsc::channel();
    let (mut count, mut more, mut found_so_far, mut loudest) = (0, 0, 0, 0f32);
    // Strikes are measured while the file is read on, and may be done in another order.
    let facts = rayon::in_place_scope(|scope| {
        let mut finder: Option<StrikeFinder> = None;
        let mut take = |captured: CapturedStrike, analyzer| {
            if count == most {
                more += 1;
                return;
            }
            let (entered, sender, each, place) = (under_way.enter(), sender.clone(), &each, count);
            count += 1;
            scope.spawn(move |_| {
                let analyzer: &StrikeAnalyzer = analyzer;
                // It cannot fail: what receives is there until all are done.
                let _ = sender.send((place, each(HeardStrike { measurement: analyzer.measure(&captured), captured })));
                drop(entered);
            });
        };
        let facts = read_watched(path, name, most_s, progress, |rate, samples| {
            loudest = samples.iter().fold(loudest, |most, x| most.max(x.abs()));
            let rate = f64::from(rate);
            let analyzer = analyzer.get_or_init(|| StrikeAnalyzer::hearing(rate, heard_by));
            let found = finder.get_or_insert_with(|| StrikeFinder::new(rate, heard_by.limits())).push(samples);
            for captured in found {
                take(captured, analyzer);
                found_so_far += 1;
            }
            progress.found(found_so_far);
        })?;
        if let (Some(last), Some(analyzer)) = (finder.and_then(StrikeFinder::finish), analyzer.get()) {
            take(last, analyzer);
        }
        Ok(facts)
    })?;
    drop(sender);
    let mut strikes: Vec<(usize, T)> = measured.into_iter().collect();
    strikes.sort_by_key(|(place, _)| *place);
    let strikes = strikes.into_iter().map(|(_, strike)| strike).collect();
    Ok(HeardFile { facts, strikes, more, loudest_dbfs: decibels(f64::from(loudest)).max(-200.0) })
}
