//! The strikes in a sound file.

use super::read::{ReadError, ReadProgress, SoundFacts, read_watched};
use ember_core::decay::{HeardBy, HeardStrike, StrikeAnalyzer};
use ember_core::signal::{CapturedStrike, StrikeFinder};
use ember_core::units::decibels;
use rayon::prelude::*;
use std::path::Path;

/// Strikes measured at once: enough to keep every processor busy, few enough to fit into memory.
const BATCH: usize = 32;

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
    let mut ears: Option<(StrikeFinder, StrikeAnalyzer)> = None;
    let mut waiting: Vec<CapturedStrike> = Vec::new();
    let mut strikes: Vec<T> = Vec::new();
    let mut more = 0;
    let mut loudest = 0f32;
    let measured = |analyzer: &StrikeAnalyzer, waiting: &mut Vec<CapturedStrike>, strikes: &mut Vec<T>| {
        let heard = waiting.par_drain(..).map(|captured| each(HeardStrike { measurement: analyzer.measure(&captured), captured }));
        strikes.par_extend(heard);
    };
    let facts = read_watched(path, name, most_s, progress, |rate, samples| {
        loudest = samples.iter().fold(loudest, |most, x| most.max(x.abs()));
        let rate = f64::from(rate);
        let (finder, analyzer) =
            ears.get_or_insert_with(|| (StrikeFinder::new(rate, heard_by.limits()), StrikeAnalyzer::hearing(rate, heard_by)));
        let found = finder.push(samples);
        let room = most - strikes.len() - waiting.len();
        more += found.len().saturating_sub(room);
        waiting.extend(found.into_iter().take(room));
        progress.found(strikes.len() + waiting.len() + more);
        if waiting.len() >= BATCH {
            measured(analyzer, &mut waiting, &mut strikes);
        }
    })?;
    if let Some((finder, analyzer)) = ears {
        match finder.finish() {
            Some(_) if strikes.len() + waiting.len() == most => more += 1,
            last => waiting.extend(last),
        }
        measured(&analyzer, &mut waiting, &mut strikes);
    }
    Ok(HeardFile { facts, strikes, more, loudest_dbfs: decibels(f64::from(loudest)).max(-200.0) })
}
