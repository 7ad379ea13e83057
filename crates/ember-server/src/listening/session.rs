//! One listening session: samples in, strikes kept, events out. Runs on a thread of its own, since measuring takes time.

use super::asked::Asked;
use super::event::{ListenEvent, ListenProblem};
use crate::state::{AppState, now_ms};
use ember_app::Neighbours;
use ember_app::sound::{ReadError, SoundError, kept_sound};
use ember_app::views::StrikeView;
use ember_core::decay::{Dynamic, HeardStrike, Listener, StrikeMeasurement, Warning, is_no_louder};
use ember_core::tone::HeardBy;
use ember_store::{KeptStrike, KeptTake, NewStrike, Source, StoreError};
use ember_words::Said;
use std::time::{Duration, Instant};
use tokio::sync::mpsc::{Receiver, UnboundedSender};

/// After this many rejected strikes more than wanted ones, listening ends: something is wrong that hitting does not mend.
const MOST_REJECTED_OVER: usize = 12;
const LEVEL_EVERY: Duration = Duration::from_millis(50);
/// Longest gap that is filled with silence, so that it shows as a dropout, s.
const LONGEST_GAP_S: f64 = 2.0;

/// What a session is to do next.
pub enum Work {
    /// Samples (full scale 1); `start` counts samples since the beginning.
    Samples {
        /// Index of the first sample.
        start: u64,
        /// The samples, full scale 1.
        samples: Vec<f32>,
    },
    /// The window wants to go on to the next step, or back to the last one, where there are steps.
    Next,
    /// Back to the lug before.
    Back,
    /// The window wants to stop.
    Finish,
}

/// Who listens to what.
pub struct Session {
    /// What all requests share.
    pub state: AppState,
    /// Number of the drum.
    pub drum_id: i64,
    /// Where its sound came from.
    pub source: Source,
    /// What is measured of each strike.
    pub heard_by: HeardBy,
    /// Samples a second.
    pub rate: u32,
    /// Good strikes wanted, of each dynamic where dynamics are asked for.
    pub wanted: usize,
    /// The dynamic asked for now; none where none are.
    pub asked: Asked,
    /// The other drums of the kit, to know a strike on one of them.
    pub neighbours: Neighbours,
    /// Where it is told.
    pub events: UnboundedSender<ListenEvent>,
}

struct Progress {
    take: Option<KeptTake>,
    strikes: Vec<StrikeMeasurement>,
    good: usize,
    rejected: usize,
    /// Strikes in a row that were taken for another drum's.
    elsewhere: usize,
}

/// From the third strike in a row on that sounds like another drum the player is believed: the drum may have been tuned since.
const BELIEVED_AFTER: usize = 2;

impl Session {
    /// Works until enough good strikes are kept, the window stops, or its sender is gone; a strike still ringing then is kept
    /// as far as it was heard.
    pub fn run(self, mut work: Receiver<Work>) {
        let mut listener = Listener::hearing(f64::from(self.rate), self.heard_by);
        let mut progress = Progress { take: None, strikes: Vec::new(), good: 0, rejected: 0, elsewhere: 0 };
        let mut next = 0u64;
        let (mut loudest, mut last_level) = (-120.0f64, Instant::now());
        let mut stopped_by_window = false;
        while !self.is_done(&progress) {
            let (start, mut samples) = match work.blocking_recv() {
                Some(Work::Samples { start, samples }) => (start, samples),
                Some(Work::Next | Work::Back) => continue,
                Some(Work::Finish) | None => {
                    stopped_by_window = true;
                    break;
                }
            };
            if let Err(error) = mend(&mut samples, start, next, self.rate) {
                self.tell(ListenEvent::problem(ListenProblem::BadSamples, &error));
                break;
            }
            next += samples.len() as u64;
            // Small pieces, so that the level does not miss a strike's peak.
            for piece in samples.chunks((self.rate / 200) as usize) {
                for strike in listener.push(piece) {
                    if !self.keep(&strike, &mut progress) {
                        return;
                    }
                }
                loudest = loudest.max(listener.level_db());
            }
            if last_level.elapsed() >= LEVEL_EVERY {
                self.tell(ListenEvent::Level { level_dbfs: loudest, ringing: listener.is_ringing() });
                (loudest, last_level) = (-120.0, Instant::now());
            }
        }
        if stopped_by_window && let Some(strike) = listener.finish() {
            self.keep(&strike, &mut progress);
        }
        let complete = self.has_all(&progress);
        self.tell(ListenEvent::Done { take: progress.take.map(Box::new), good: progress.good, rejected: progress.rejected, complete });
    }

    fn is_done(&self, progress: &Progress) -> bool {
        self.has_all(progress) || progress.rejected >= self.wanted + MOST_REJECTED_OVER
    }

    fn has_all(&self, progress: &Progress) -> bool {
        if self.asked.now().is_some() {
            Dynamic::ALL.into_iter().all(|dynamic| progress.of(dynamic) >= self.wanted)
        } else {
            progress.good >= self.wanted
        }
    }

    /// Keeps `strike` and tells of it; in that order, so that what the window was told is never lost.
    fn keep(&self, strike: &HeardStrike, progress: &mut Progress) -> bool {
        match self.kept(strike, progress) {
            Ok(event) => {
                self.tell(event);
                true
            }
            Err(error) => {
                self.tell(ListenEvent::problem(ListenProblem::NotKept, &error));
                false
            }
        }
    }

    fn kept(&self, strike: &HeardStrike, progress: &mut Progress) -> Result<ListenEvent, NotKept> {
        let sound = kept_sound(&strike.captured.samples, self.rate)?;
        let (measurement, sounds_like) = self.judged(strike.measurement.clone(), progress);
        let new = NewStrike { measurement: &measurement, sound: &sound, onset_index: strike.captured.onset_index };
        let (take, kept) = self.state.with_store(|store| {
            let id = match &progress.take {
                Some(take) => take.id,
                None => store.begin_take(self.drum_id, self.source, None, now_ms())?,
            };
            let take = store.add_strikes(id, &[new])?;
            let kept = store.strikes(id)?;
            Ok::<_, StoreError>((take, kept))
        })?;
        progress.good = take.summary.strikes_used;
        progress.rejected = take.summary.strikes_rejected;
        progress.take = Some(take);
        let last: KeptStrike = kept.last().cloned().ok_or(NotKept::Nothing)?;
        progress.strikes = kept.into_iter().map(|strike| strike.measurement).collect();
        if self.asked.now().is_some() {
            // From soft to hard, so that the ear is spared for longest.
            let missing = Dynamic::ALL.into_iter().find(|dynamic| progress.of(*dynamic) < self.wanted);
            self.asked.set(missing.unwrap_or(Dynamic::Hard));
        }
        let asked = self.asked.now();
        let good = asked.map_or(progress.good, |dynamic| progress.of(dynamic));
        Ok(ListenEvent::Strike { strike: Box::new(StrikeView::new(last, None)), good, rejected: progress.rejected, asked, sounds_like })
    }

    /// A measurement with what only the session knows: how hard it was asked for, and whether it was on this drum; in that case the
    /// name of the drum it sounds like.
    fn judged(&self, mut measurement: StrikeMeasurement, progress: &mut Progress) -> (StrikeMeasurement, Option<String>) {
        measurement.dynamic = self.asked.now();
        if !measurement.warnings.is_empty() {
            return (measurement, None);
        }
        let other = self.neighbours.struck_instead(&measurement).filter(|_| progress.elsewhere < BELIEVED_AFTER);
        progress.elsewhere = if other.is_some() { progress.elsewhere + 1 } else { 0 };
        if other.is_some() {
            measurement.warnings.push(Warning::OtherDrum);
        } else if let Some(dynamic) = measurement.dynamic
            && is_no_louder(measurement.peak_dbfs, dynamic, &progress.strikes)
        {
            measurement.warnings.push(Warning::SameLevel);
        }
        self.neighbours.note(&mut measurement);
        (measurement, other.map(|(_, name)| name.to_string()))
    }

    fn tell(&self, event: ListenEvent) {
        // A window that is gone cannot be told; what was heard is kept all the same.
        let _ = self.events.send(event);
    }
}

impl Progress {
    /// Good strikes of `dynamic` so far.
    fn of(&self, dynamic: Dynamic) -> usize {
        self.take.iter().flat_map(|take| &take.summary.dynamics).filter(|each| each.dynamic == dynamic).map(|each| each.strikes_used).sum()
    }
}

/// Why what a microphone sent is no sound.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub(crate) enum BadSamples {
    #[said("The microphone sent samples that are not numbers. Reload the page and try again.")]
    NotNumbers,
    #[said("The sound arrived out of order. Reload the page and try again.")]
    OutOfOrder,
    #[said("More than two seconds of sound were lost. Close other programs and listen again.")]
    Lost,
}

/// Why what was heard is not kept.
#[derive(Debug, thiserror::Error, Said)]
pub(crate) enum NotKept {
    #[said(transparent)]
    Sound(#[from] SoundError),
    #[said(transparent)]
    Read(#[from] ReadError),
    #[said(transparent)]
    Store(#[from] StoreError),
    #[said("The strike was not kept.")]
    Nothing,
}

/// Puts silence where samples are missing before `start`, so that the strike there shows as a dropout, and refuses what is no sound.
pub(crate) fn mend(samples: &mut Vec<f32>, start: u64, expected: u64, rate: u32) -> Result<(), BadSamples> {
    if samples.iter().any(|x| !x.is_finite()) {
        return Err(BadSamples::NotNumbers);
    }
    // What lies beyond full scale is kept as it is measured: cut off there, which is told as clipped.
    samples.iter_mut().for_each(|x| *x = x.clamp(-1.0, 1.0));
    if start < expected {
        return Err(BadSamples::OutOfOrder);
    }
    let missing = start - expected;
    if missing as f64 > LONGEST_GAP_S * f64::from(rate) {
        return Err(BadSamples::Lost);
    }
    samples.splice(0..0, std::iter::repeat_n(0.0, missing as usize));
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn missing_samples_become_silence_and_anything_else_is_refused() {
        let mended = |samples: &[f32], start, expected| {
            let mut samples = samples.to_vec();
            mend(&mut samples, start, expected, 1000).map(|()| samples)
        };
        assert_eq!(mended(&[0.5, 0.25], 10, 10), Ok(vec![0.5, 0.25]));
        assert_eq!(mended(&[0.5], 13, 10), Ok(vec![0.0, 0.0, 0.0, 0.5]));
        assert_eq!(mended(&[0.5], 2010, 10).map(|samples| samples.len()), Ok(2001), "two seconds may be missing");
        assert_eq!(mended(&[7.0, -1e30, 0.25], 10, 10), Ok(vec![1.0, -1.0, 0.25]), "too hot is cut off at full scale");
        for (samples, start) in [(vec![0.5], 2011), (vec![0.5], 9), (vec![f32::NAN], 10), (vec![f32::INFINITY], 10)] {
            let said = mended(&samples, start, 10).unwrap_err();
            assert!(said.to_string().ends_with('.'), "{said}");
        }
    }
}
