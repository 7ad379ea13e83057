//! The fall of a hard-struck head's pitch, followed where it is large.
//!
//! On real toms the pitch falls by up to a fifth within some 200 ms. Such a partial sweeps through bands and looks like several short
//! ones. All partials of a head fall by about the same part, so the course of the loudest low one is followed from moment to moment
//! (the path through a spectrogram that keeps most level and moves least: A. J. Viterbi's algorithm, IEEE Trans. Inf. Theory 13, 1967),
//! and the sound is put on a time axis on which it does not fall.

use super::span::Span;
use crate::numeric::Regression;
use crate::signal::between;
use crate::signal::transform::real_forward;
use pulp::{Arch, Simd, WithSimd};
use std::f64::consts::{LN_10, PI};
use wide::f64x4;

/// Frames: how often, how long, and up to when after the hit, s.
const HOP_S: f64 = 0.010;
const WINDOW_S: f64 = 0.070;
const LONGEST_S: f64 = 0.8;
/// Where the partial that is followed may lie, Hz, and steps an octave.
const LOW_HZ: f64 = 40.0;
const HIGH_HZ: f64 = 420.0;
const STEPS: f64 = 96.0;
/// What moving by one step costs, dB, and how many steps a frame at most.
const MOVE_DB: f64 = 0.25;
const MOST_STEPS: usize = 5;
/// A frame this far below the loudest tells nothing any more, dB.
const DEEPEST_DB: f64 = -38.0;
/// Times in which a fall may die away, s; and falls that are believed: smaller ones bands follow by themselves.
const TIMES_S: [f64; 10] = [0.03, 0.04, 0.055, 0.075, 0.1, 0.13, 0.17, 0.22, 0.28, 0.35];
const FALLS: std::ops::Range<f64> = 0.07..0.4;
/// The fall must leave no more of the course's spread than this, and the course may be off by so much of the pitch.
const EXPLAINS: f64 = 0.25;
const OFF: f64 = 0.012;
/// Frames on either side over which the rest of a course is smoothed.
const SMOOTH: usize = 3;
/// Fewer frames show no course.
const LEAST_FRAMES: usize = 12;

/// A fall of the pitch, as it was followed.
#[derive(Debug, Clone)]
pub(super) struct Fall {
    /// Pitch against the settled one, every [`HOP_S`] from the hit on.
    ratio: Vec<f64>,
    /// Amplitude decay rate of the partial that was followed, 1/s.
    decay: f64,
}

impl Fall {
    /// The fall of `slow` (`rate` samples a second); none where it is small or no course is seen.
    pub fn of(slow: &[f64], rate: f64, span: &Span) -> Option<Self> {
        let frames = spectrogram(slow, rate, span)?;
        let course = course(&frames)?;
        let from_s = span.clipped_s + WINDOW_S / 2.0;
        // Loud frames count more.
        let point = |(n, (hz, db)): (usize, &(f64, f64))| (from_s + n as f64 * HOP_S, *hz, 10f64.powf(db / 20.0));
        let points: Vec<(f64, f64, f64)> = course.iter().enumerate().map(point).collect();
        let fit = TIMES_S.iter().map(|time_s| Exponential::fitted(&points, *time_s)).min_by(|a, b| a.off.total_cmp(&b.off))?;
        if !FALLS.contains(&fit.part) || fit.off > OFF || fit.off > EXPLAINS * fit.spread {
            return None;
        }
        // What the exponential leaves is smooth as well; before the first frame it is as in that.
        let left: Vec<f64> = points.iter().map(|(t, hz, _)| hz / fit.settled_hz - fit.ratio(*t)).collect();
        let smooth = |n: usize| {
            let part = &left[n.saturating_sub(SMOOTH)..(n + SMOOTH + 1).min(left.len())];
            part.iter().sum::<f64>() / part.len() as f64
        };
        let at = |n: usize| {
            let t = n as f64 * HOP_S;
            let frame = ((t - from_s) / HOP_S).round();
            // Behind the last frame it has settled.
            let more = if frame < left.len() as f64 { smooth(frame.max(0.0) as usize) } else { 0.0 };
            fit.ratio(t) + more
        };
        let ratio = (0..((LONGEST_S + 0.2) / HOP_S) as usize).map(at).collect();
        Some(Self { ratio, decay: decay(&points.iter().map(|p| p.0).collect::<Vec<_>>(), &course) })
    }

    /// `slow` on an axis on which the pitch does not fall, the decay of the partial that was followed as it was.
    pub fn straightened(&self, slow: &[f64], rate: f64, span: &Span) -> Vec<f64> {
        let hit = span.onset_s * rate;
        let first = hit.ceil() as usize;
        let mut out = slow[..first.min(slow.len())].to_vec();
        // From sample to sample of the straight axis the sound's own time goes on by less, while its pitch is higher.
        let mut t = (first as f64 - hit) / rate / self.at(0.0);
        for n in first..slow.len() {
            let u = (n as f64 - hit) / rate;
            out.push(between(slow, hit + t * rate) * (self.decay * (t - u)).exp());
            let half = t + 0.5 / rate / self.at(t);
            t += 1.0 / rate / self.at(half);
        }
        out
    }

    /// Pitch against the settled one at `t` after the hit.
    fn at(&self, t: f64) -> f64 {
        let (index, part) = ((t / HOP_S) as usize, (t / HOP_S).fract());
        let value = |index: usize| self.ratio.get(index).copied().unwrap_or(1.0);
        value(index) * (1.0 - part) + value(index + 1) * part
    }
}

/// Amplitude decay rate (1/s) of a line through a course's levels.
fn decay(times: &[f64], course: &[(f64, f64)]) -> f64 {
    let line = Regression::through(times.iter().zip(course).map(|(t, c)| (*t, c.1)));
    // 8.686 dB are a factor of e.
    line.map_or(0.0, |line| (-line.slope / 8.686).max(0.0))
}

/// Levels (dB) from the hit on: one row a frame, one value a step of pitch; none where there is too little.
fn spectrogram(slow: &[f64], rate: f64, span: &Span) -> Option<Vec<Vec<f64>>> {
    let window = (WINDOW_S * rate) as usize;
    let transform = real_forward((8 * window).next_power_of_two());
    let bin_hz = rate / transform.len() as f64;
    let count = ((HIGH_HZ / LOW_HZ).log2() * STEPS) as usize;
    let from = (span.onset_s + span.clipped_s) * rate;
    let end = ((span.onset_s + span.length_s) * rate).min(slow.len() as f64);
    let frames = (((end - from) / rate - WINDOW_S).min(LONGEST_S) / HOP_S).max(0.0) as usize;
    let (mut input, mut output) = (transform.make_input_vec(), transform.make_output_vec());
    let hann: Vec<f64> = (0..window).map(|n| 0.5 - 0.5 * (2.0 * PI * n as f64 / window as f64).cos()).collect();
    // Between which two bins each step lies.
    let places: Vec<(usize, f64)> =
        (0..count).map(|step| LOW_HZ * 2f64.powf(step as f64 / STEPS) / bin_hz).map(|at| (at as usize, at.fract())).collect();
    let mut rows = Vec::with_capacity(frames);
    for frame in 0..frames {
        input.fill(0.0);
        let start = (from + frame as f64 * HOP_S * rate) as usize;
        for ((slot, x), weight) in input.iter_mut().zip(&slow[start.min(slow.len())..]).zip(&hann) {
            *slot = x * weight;
        }
        // Lengths are the transform's own, so it cannot fail.
        let _ = transform.process(&mut input, &mut output);
        let power = |bin: usize| output.get(bin).map_or(0.0, |z| z.norm_sqr());
        let at = |(low, part): &(usize, f64)| (power(*low) * (1.0 - part) + power(low + 1) * part).max(1e-30);
        rows.push(levels(places.iter().map(at).collect()));
    }
    let highest = |row: &Vec<f64>| row.iter().copied().fold(f64::MIN, f64::max);
    let loudest = rows.iter().map(highest).fold(f64::MIN, f64::max);
    rows.truncate(rows.iter().position(|row| highest(row) < loudest + DEEPEST_DB).unwrap_or(rows.len()));
    (rows.len() >= LEAST_FRAMES).then_some(rows)
}

/// Powers in dB, four logarithms at a time.
fn levels(mut powers: Vec<f64>) -> Vec<f64> {
    let (fours, end) = powers.as_chunks_mut::<4>();
    for four in fours {
        *four = (f64x4::from(*four).ln() * (10.0 / LN_10)).to_array();
    }
    end.iter_mut().for_each(|power| *power = 10.0 * power.log10());
    powers
}

/// Pitch (Hz) and level (dB) of the loudest path, frame by frame.
fn course(frames: &[Vec<f64>]) -> Option<Vec<(f64, f64)>> {
    let (best, came_from) = Arch::new().dispatch(Paths { frames })?;
    let mut at = (0..best.len()).max_by(|a, b| best[*a].total_cmp(&best[*b]))?;
    let mut path = vec![at];
    for from in came_from.iter().rev() {
        at = at + from[at] as usize - MOST_STEPS;
        path.push(at);
    }
    path.reverse();
    Some(path.iter().zip(frames).map(|(step, row)| (LOW_HZ * 2f64.powf(*step as f64 / STEPS), row[*step])).collect())
}

/// The best paths through frames.
struct Paths<'a> {
    frames: &'a [Vec<f64>],
}

impl WithSimd for Paths<'_> {
    /// What each comes to that ends at a step, and frame by frame the move that led to it, counted from the lowest one.
    type Output = Option<(Vec<f64>, Vec<Vec<f64>>)>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, _: S) -> Self::Output {
        let steps = self.frames.first()?.len();
        let mut best = self.frames[0].clone();
        let mut came_from = Vec::with_capacity(self.frames.len());
        // Beyond both ends nothing leads on. One pass over all steps a move, so that each is plain arithmetic on slices.
        let mut padded = vec![f64::MIN; steps + 2 * MOST_STEPS];
        for row in &self.frames[1..] {
            padded[MOST_STEPS..MOST_STEPS + steps].copy_from_slice(&best);
            best.fill(f64::MIN);
            let mut moves = vec![0.0; steps];
            for shift in 0..=2 * MOST_STEPS {
                let cost = MOVE_DB * shift.abs_diff(MOST_STEPS) as f64;
                for ((best, moved), from) in best.iter_mut().zip(&mut moves).zip(&padded[shift..]) {
                    let better = from - cost > *best;
                    *best = if better { from - cost } else { *best };
                    *moved = if better { shift as f64 } else { *moved };
                }
            }
            for (best, level) in best.iter_mut().zip(row) {
                *best += level;
            }
            came_from.push(moves);
        }
        Some((best, came_from))
    }
}

/// A pitch that falls by `part` of the settled one, dying away in `time_s`.
struct Exponential {
    settled_hz: f64,
    part: f64,
    time_s: f64,
    /// Weighted RMS deviation of the course from it, and from its mean, as parts of the pitch.
    off: f64,
    spread: f64,
}

impl Exponential {
    /// Least squares over `points`: (s, Hz, weight).
    fn fitted(points: &[(f64, f64, f64)], time_s: f64) -> Self {
        let (mut s, mut se, mut see, mut sf, mut sef) = (0.0, 0.0, 0.0, 0.0, 0.0);
        for (t, hz, weight) in points {
            let e = (-t / time_s).exp();
            s += weight;
            se += weight * e;
            see += weight * e * e;
            sf += weight * hz;
            sef += weight * e * hz;
        }
        let determinant = s * see - se * se;
        let settled_hz = ((see * sf - se * sef) / determinant).max(1.0);
        let fall_hz = (s * sef - se * sf) / determinant;
        let rms = |of: &dyn Fn(f64) -> f64| {
            (points.iter().map(|(t, hz, weight)| weight * (hz - of(*t)).powi(2)).sum::<f64>() / s).sqrt() / settled_hz
        };
        let off = rms(&|t| settled_hz + fall_hz * (-t / time_s).exp());
        Self { settled_hz, part: fall_hz / settled_hz, time_s, off, spread: rms(&|_| sf / s) }
    }

    fn ratio(&self, t: f64) -> f64 {
        1.0 + self.part * (-t / self.time_s).exp()
    }
}
