//! Finds strikes in a stream of samples as they come, so that a live microphone, a file of any length and the simulated
//! drum all take the same way.
//!
//! A strike is a level rise in at least two bands at once over what sounded in the 50 ms before (beating partials and
//! swelling noise rise in one band or slowly). Each strike owns the time until the next one, until it has sunk into the
//! noise, or until a limit.

use super::biquad::BandPasses;
use super::energy;
use super::whole_steps::as_kept;
use crate::units::decibels;
use serde::{Deserialize, Serialize};
use std::collections::VecDeque;

const HOP_S: f64 = 0.005;
/// Band edges, Hz: body, lower and upper overtones, stick.
const BANDS: [(f64, f64); 4] = [(30.0, 150.0), (150.0, 600.0), (600.0, 2400.0), (2400.0, 9600.0)];
/// Hops looked back over for "what sounded before".
const LOOK_BACK: usize = 10;
/// Two hits nearer than this are one strike (a flam), s.
pub const FLAM_S: f64 = 0.040;
const RISE_DB: f64 = 6.0;
const ABOVE_FLOOR_DB: f64 = 12.0;
/// Below this nothing is taken for a strike, dBFS.
const SILENCE_DB: f64 = -80.0;
/// Only a hop of exact zeros is below this, dBFS.
const EXACT_SILENCE_DB: f64 = -300.0;
const PRE_ROLL_S: f64 = 0.05;

/// How long a strike may be followed.
#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Longest time kept of one strike, s.
    pub longest_s: f64,
    /// Quiet time after the decay that is kept as a sample of the noise, s.
    pub quiet_s: f64,
}

impl Default for Limits {
    fn default() -> Self {
        Self { longest_s: 4.0, quiet_s: 0.2 }
    }
}

/// Why a captured strike ends where it does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Ending {
    /// It sank into the noise.
    Decayed,
    /// The next strike began.
    NextStrike,
    /// It was still sounding at [`Limits::longest_s`].
    Limit,
    /// The recording or the connection stopped.
    Interrupted,
}

/// One strike cut out of the stream.
#[derive(Debug, Clone)]
pub struct CapturedStrike {
    /// Samples a second.
    pub sample_rate: f64,
    /// Time of the hit since the start of the stream, s.
    pub onset_s: f64,
    /// From up to 50 ms before the hit to the end, [as they are kept](super::as_kept).
    pub samples: Vec<f32>,
    /// Index of the hit in `samples`.
    pub onset_index: usize,
    /// How it ended.
    pub ending: Ending,
}

#[derive(Debug, Clone, Copy)]
enum State {
    Waiting,
    Ringing { onset: u64, quiet_hops: usize },
}

/// Streaming strike finder; feed it with [`push`](Self::push) and close it with [`finish`](Self::finish).
pub struct StrikeFinder {
    rate: f64,
    hop: usize,
    limits: Limits,
    filters: BandPasses<{ BANDS.len() }>,
    energies: [f64; BANDS.len()],
    total: f64,
    filled: usize,
    history: VecDeque<([f64; BANDS.len()], f64)>,
    smooth_low: f64,
    floor_db: Option<f64>,
    kept: Vec<f32>,
    kept_from: u64,
    seen: u64,
    state: State,
    hole: Option<Hole>,
    level_db: f64,
}

/// Exact silence within a strike: sound that was lost on its way.
#[derive(Debug, Clone, Copy)]
struct Hole {
    /// Loudest level shortly before it, dBFS.
    before_db: f64,
    /// Hops with sound since it ended.
    hops_since: usize,
}

impl StrikeFinder {
    /// A finder for `sample_rate` samples a second.
    pub fn new(sample_rate: f64, limits: Limits) -> Self {
        Self {
            rate: sample_rate,
            hop: ((sample_rate * HOP_S) as usize).max(1),
            limits,
            filters: BandPasses::new(BANDS, sample_rate),
            energies: [0.0; BANDS.len()],
            total: 0.0,
            filled: 0,
            history: VecDeque::with_capacity(LOOK_BACK + 2),
            smooth_low: 0.0,
            floor_db: None,
            kept: Vec::new(),
            kept_from: 0,
            seen: 0,
            state: State::Waiting,
            hole: None,
            level_db: -120.0,
        }
    }

    /// Level of the last 5 ms, dBFS (RMS).
    pub fn level_db(&self) -> f64 {
        self.level_db
    }

    /// Whether a strike is being followed right now.
    pub fn is_ringing(&self) -> bool {
        matches!(self.state, State::Ringing { .. })
    }

    /// Takes mono samples (full scale 1.0) and returns the strikes that ended within them.
    pub fn push(&mut self, samples: &[f32]) -> Vec<CapturedStrike> {
        let mut done = Vec::new();
        let mut rest = samples;
        while !rest.is_empty() {
            let (now, later) = rest.split_at((self.hop - self.filled).min(rest.len()));
            self.kept.extend_from_slice(now);
            self.seen += now.len() as u64;
            self.filled += now.len();
            for (sum, energy) in self.energies.iter_mut().zip(self.filters.energies(now)) {
                *sum += energy;
            }
            self.total += energy(now);
            if self.filled == self.hop {
                self.end_hop(&mut done);
            }
            rest = later;
        }
        done
    }

    /// Ends the stream; a strike still sounding is returned as interrupted.
    pub fn finish(mut self) -> Option<CapturedStrike> {
        match self.state {
            State::Ringing { onset, .. } => Some(self.cut(onset, self.seen, Ending::Interrupted)),
            State::Waiting => None,
        }
    }

    fn end_hop(&mut self, done: &mut Vec<CapturedStrike>) {
        let n = self.hop as f64;
        let mut bands = self.energies.map(|energy| decibels((energy / n).sqrt()));
        // The lowest band holds less than one period of a kick in a hop; smoothing stops it from seeming to rise each cycle.
        self.smooth_low += 0.4 * (self.energies[0] / n - self.smooth_low);
        bands[0] = decibels(self.smooth_low.sqrt());
        let total = decibels((self.total / n).sqrt());
        self.energies = [0.0; BANDS.len()];
        self.total = 0.0;
        self.filled = 0;
        self.level_db = total.max(-120.0);

        let floor = self.floor_db.unwrap_or(SILENCE_DB).max(SILENCE_DB);
        self.watch_for_holes(total);
        let rose = self.history.len() > 1 && self.rises(&bands, total, floor) && !self.resumes(total);
        if rose {
            self.begin(floor, done);
        }
        self.follow(total, floor, done);
        if !rose || self.history.is_empty() {
            self.update_floor(total);
        }
        self.history.push_back((bands, total));
        if self.history.len() > LOOK_BACK {
            self.history.pop_front();
        }
        if matches!(self.state, State::Waiting) {
            self.forget((self.rate * (PRE_ROLL_S + 0.1)) as usize);
        }
    }

    fn watch_for_holes(&mut self, total: f64) {
        if total < EXACT_SILENCE_DB {
            let fresh = self.hole.is_none_or(|hole| hole.hops_since > 0);
            if fresh {
                let before_db = self.history.iter().map(|hop| hop.1).fold(f64::NEG_INFINITY, f64::max);
                self.hole = Some(Hole { before_db, hops_since: 0 });
            }
        } else if let Some(hole) = &mut self.hole {
            hole.hops_since += 1;
            if hole.hops_since > LOOK_BACK {
                self.hole = None;
            }
        }
    }

    /// Whether a ringing strike merely goes on after a hole: then it is no new one, and shows as having lost sound.
    fn resumes(&self, total: f64) -> bool {
        self.is_ringing() && self.hole.is_some_and(|hole| total < hole.before_db + RISE_DB)
    }

    /// Whether at least two bands and the whole rise over everything of the last 50 ms.
    fn rises(&self, bands: &[f64; BANDS.len()], total: f64, floor: f64) -> bool {
        let loudest = |levels: &mut dyn Iterator<Item = f64>| levels.fold(f64::NEG_INFINITY, f64::max);
        let rising = (0..BANDS.len())
            .filter(|&band| {
                let reference = loudest(&mut self.history.iter().map(|hop| hop.0[band])).max(floor - 10.0);
                bands[band] - reference > RISE_DB && bands[band] > total - 40.0
            })
            .count();
        total > floor + ABOVE_FLOOR_DB && total > loudest(&mut self.history.iter().map(|hop| hop.1)) + 1.5 && rising >= 2
    }

    fn begin(&mut self, floor: f64, done: &mut Vec<CapturedStrike>) {
        let onset = self.locate(floor);
        match self.state {
            State::Ringing { onset: last, .. } => {
                if (onset.saturating_sub(last)) as f64 > FLAM_S * self.rate {
                    done.push(self.cut(last, onset, Ending::NextStrike));
                    self.state = State::Ringing { onset, quiet_hops: 0 };
                }
            }
            State::Waiting => self.state = State::Ringing { onset, quiet_hops: 0 },
        }
    }

    /// The first sample of the last 15 ms that stands out from what went before them.
    fn locate(&self, floor: f64) -> u64 {
        let end = self.kept.len();
        let start = end.saturating_sub(3 * self.hop);
        let before = &self.kept[start.saturating_sub(2 * self.hop)..start];
        let loudest = |part: &[f32]| part.iter().fold(0f32, |most, x| most.max(x.abs()));
        let peak = loudest(&self.kept[start..]);
        let threshold = (0.1 * peak).max((1.5 * loudest(before)).min(0.7 * peak)).max(2.0 * 10f32.powf(floor as f32 / 20.0));
        let offset = self.kept[start..].iter().position(|x| x.abs() >= threshold).unwrap_or(2 * self.hop);
        self.kept_from + (start + offset) as u64
    }

    fn follow(&mut self, total: f64, floor: f64, done: &mut Vec<CapturedStrike>) {
        let State::Ringing { onset, quiet_hops } = self.state else { return };
        let age = (self.seen.saturating_sub(onset)) as f64 / self.rate;
        let quiet_hops = if total < floor + 4.0 && age > 0.03 { quiet_hops + 1 } else { 0 };
        self.state = State::Ringing { onset, quiet_hops };
        let ending = if quiet_hops as f64 * HOP_S >= self.limits.quiet_s {
            Some(Ending::Decayed)
        } else if age >= self.limits.longest_s {
            Some(Ending::Limit)
        } else {
            None
        };
        if let Some(ending) = ending {
            done.push(self.cut(onset, self.seen, ending));
            self.state = State::Waiting;
            if ending == Ending::Limit {
                self.floor_db = Some(total);
            }
        }
    }

    fn update_floor(&mut self, total: f64) {
        let total = total.max(-120.0);
        self.floor_db = Some(match (self.floor_db, self.state) {
            (None, State::Waiting) => total.min(-40.0),
            (None, State::Ringing { .. }) => SILENCE_DB,
            (Some(floor), _) if total < floor => floor + 0.05 * (total - floor),
            (Some(floor), State::Waiting) => floor + 0.05 * (total - floor),
            (Some(floor), State::Ringing { .. }) => floor,
        });
    }

    fn cut(&mut self, onset: u64, end: u64, ending: Ending) -> CapturedStrike {
        let pre_roll = (PRE_ROLL_S * self.rate) as u64;
        let start = onset.saturating_sub(pre_roll).max(self.kept_from);
        let from = (start - self.kept_from) as usize;
        let to = ((end - self.kept_from) as usize).min(self.kept.len());
        let strike = CapturedStrike {
            sample_rate: self.rate,
            onset_s: onset as f64 / self.rate,
            samples: self.kept[from..to].iter().copied().map(as_kept).collect(),
            onset_index: (onset - start) as usize,
            ending,
        };
        let keep_from = end.saturating_sub(pre_roll).max(self.kept_from);
        self.kept.drain(..(keep_from - self.kept_from) as usize);
        self.kept_from = keep_from;
        strike
    }

    fn forget(&mut self, keep: usize) {
        // Dropped in large pieces: a drain each hop would move the buffer 200 times a second.
        if self.kept.len() > 4 * keep {
            let drop = self.kept.len() - keep;
            self.kept.drain(..drop);
            self.kept_from += drop as u64;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::decay_rate;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    fn stream(rate: f64, seconds: f64, hits: &[(f64, f64, f64)], noise: f64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(7);
        let mut out: Vec<f64> = (0..(rate * seconds) as usize).map(|_| noise * rng.random_range(-1.0..1.0)).collect();
        for &(at, level, t60) in hits {
            let first = (at * rate) as usize;
            for (n, value) in out[first..].iter_mut().enumerate() {
                let t = n as f64 / rate;
                let body = (-decay_rate(t60) * t).exp() * (2.0 * std::f64::consts::PI * 190.0 * t).sin();
                let stick = (-t / 0.002).exp() * rng.random_range(-1.0..1.0);
                *value += level * (body + 0.5 * stick);
            }
        }
        out.iter().map(|x| *x as f32).collect()
    }

    fn find(samples: &[f32], rate: f64, chunk: usize) -> Vec<CapturedStrike> {
        let mut finder = StrikeFinder::new(rate, Limits::default());
        let mut found: Vec<_> = samples.chunks(chunk).flat_map(|part| finder.push(part)).collect();
        found.extend(finder.finish());
        found
    }

    #[test]
    fn finds_every_strike_to_within_two_milliseconds_whatever_the_chunks_and_rate() {
        let hits = [(0.8, 0.5, 0.6), (2.1, 0.3, 0.6), (3.4, 0.6, 0.6), (4.0, 0.5, 0.6)];
        for rate in [8_000.0, 44_100.0, 192_000.0] {
            let samples = stream(rate, 5.5, &hits, 1e-4);
            for chunk in [128, 4096] {
                let found = find(&samples, rate, chunk);
                assert_eq!(found.len(), hits.len(), "at {rate} Hz: {:?}", found.iter().map(|s| s.onset_s).collect::<Vec<_>>());
                for (strike, hit) in found.iter().zip(&hits) {
                    assert!((strike.onset_s - hit.0).abs() < 0.002, "{} for {}", strike.onset_s, hit.0);
                }
                assert_eq!(found[0].ending, Ending::Decayed);
                assert_eq!(found[2].ending, Ending::NextStrike);
            }
        }
    }

    #[test]
    fn silence_noise_and_a_steady_hum_hold_no_strike() {
        let rate = 48_000.0;
        assert!(find(&stream(rate, 3.0, &[], 0.0), rate, 512).is_empty());
        assert!(find(&stream(rate, 3.0, &[], 0.05), rate, 512).is_empty());
        let hum: Vec<f32> = (0..144_000).map(|n| 0.1 * (2.0 * std::f32::consts::PI * 50.0 * n as f32 / 48_000.0).sin()).collect();
        assert!(find(&hum, rate, 512).is_empty());
    }

    #[test]
    fn a_strike_that_the_recording_cuts_short_is_returned_as_interrupted() {
        let samples = stream(48_000.0, 1.0, &[(0.7, 0.5, 1.5)], 1e-4);
        let found = find(&samples, 48_000.0, 480);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].ending, Ending::Interrupted);
    }
}
