//! The strikes in a sound file.

use super::read::{ReadError, ReadProgress, SoundFacts, is_coded_with_loss, read_watched};
use ember_core::decay::{HeardStrike, StrikeAnalyzer};
use ember_core::signal::{CapturedStrike, StrikeFinder};
use ember_core::tone::HeardBy;
use ember_core::units::decibels;
use std::path::Path;
use std::sync::{Condvar, Mutex, OnceLock, PoisonError, mpsc};

/// Strikes that are measured or wait for it while the file is read on: enough to keep every processor busy, few enough to fit into memory.
const MOST_UNDER_WAY: usize = 32;

/// Whether a file begins with a hit is decided from its first [`BEGINNING_S`]; the hit must lie in the first [`AT_ONCE_S`], s.
const BEGINNING_S: f64 = 0.6;
const AT_ONCE_S: f64 = 0.06;
/// It does if the first part is this much louder than the last quarter of the beginning, dB: noise goes on as it began.
const FALLS_DB: f64 = 10.0;
/// Silence that is put before a file that begins with its hit, s: a hit is what rises out of something.
const LEAD_S: f64 = 0.2;

/// The strikes of a file: from its beginning, even if that is one.
struct FromTheStart {
    finder: StrikeFinder,
    rate: f64,
    /// The beginning, until there is enough of it.
    waiting: Option<Vec<f32>>,
    lead: usize,
}

impl FromTheStart {
    fn new(rate: f64, heard_by: HeardBy) -> Self {
        Self { finder: StrikeFinder::new(rate, heard_by.limits()), rate, waiting: Some(Vec::new()), lead: 0 }
    }

    fn push(&mut self, samples: &[f32]) -> Vec<CapturedStrike> {
        let Some(waiting) = &mut self.waiting else { return self.found(samples) };
        waiting.extend_from_slice(samples);
        if (waiting.len() as f64) < BEGINNING_S * self.rate { Vec::new() } else { self.begin() }
    }

    /// Ends the file.
    fn finish(mut self) -> Vec<CapturedStrike> {
        let mut found = self.begin();
        let lead_s = self.lead as f64 / self.rate;
        found.extend(self.finder.finish().map(|captured| without(captured, lead_s)));
        found
    }

    fn begin(&mut self) -> Vec<CapturedStrike> {
        let Some(beginning) = self.waiting.take() else { return Vec::new() };
        if begins_with_a_hit(&beginning, self.rate) {
            self.lead = (LEAD_S * self.rate) as usize;
            self.finder.push(&vec![0.0; self.lead]);
        }
        self.found(&beginning)
    }

    fn found(&mut self, samples: &[f32]) -> Vec<CapturedStrike> {
        let lead_s = self.lead as f64 / self.rate;
        self.finder.push(samples).into_iter().map(|captured| without(captured, lead_s)).collect()
    }
}

/// `captured` as it lies in the file, without the silence of `lead_s` before that.
fn without(captured: CapturedStrike, lead_s: f64) -> CapturedStrike {
    CapturedStrike { onset_s: (captured.onset_s - lead_s).max(0.0), ..captured }
}

fn begins_with_a_hit(beginning: &[f32], rate: f64) -> bool {
    let level = |part: &[f32]| 10.0 * (part.iter().map(|x| f64::from(x * x)).sum::<f64>() / part.len().max(1) as f64).max(1e-20).log10();
    let pieces = beginning.chunks(((0.005 * rate) as usize).max(1));
    let loudest = pieces.take((AT_ONCE_S / 0.005) as usize).map(level).fold(f64::NEG_INFINITY, f64::max);
    loudest > level(&beginning[beginning.len() - beginning.len() / 4..]) + FALLS_DB
}

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
    /// What is known of the sound.
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
    let coded = is_coded_with_loss(path, name);
    let analyzer = OnceLock::new();
    let under_way = UnderWay::default();
    let (sender, measured) = mpsc::channel();
    let (mut count, mut more, mut found_so_far, mut loudest) = (0, 0, 0, 0f32);
    // Strikes are measured while the file is read on, and may be done in another order.
    let facts = rayon::in_place_scope(|scope| {
        let mut finder: Option<FromTheStart> = None;
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
            let analyzer = analyzer.get_or_init(|| StrikeAnalyzer::hearing(rate, heard_by).of_coded_sound(coded));
            for captured in finder.get_or_insert_with(|| FromTheStart::new(rate, heard_by)).push(samples) {
                take(captured, analyzer);
                found_so_far += 1;
            }
            progress.found(found_so_far);
        })?;
        if let (Some(finder), Some(analyzer)) = (finder, analyzer.get()) {
            finder.finish().into_iter().for_each(|captured| take(captured, analyzer));
        }
        Ok(facts)
    })?;
    drop(sender);
    let mut strikes: Vec<(usize, T)> = measured.into_iter().collect();
    strikes.sort_by_key(|(place, _)| *place);
    let strikes = strikes.into_iter().map(|(_, strike)| strike).collect();
    Ok(HeardFile { facts, strikes, more, loudest_dbfs: decibels(f64::from(loudest)).max(-200.0) })
}
