//! What stands between the drum and its recording: a noise gate, automatic gain, a connection made for speech, a hand on the head.
//!
//! Each leaves a mark that no drum does. A free decay never falls faster than before and stays down: beats come back, and partials that
//! have gone leave the slower ones. A strike does not take away the noise of the place. A stick's sound has no wall in the middle of its spectrum.

use super::envelope::Envelope;
use crate::signal::transform::real_forward;
use crate::units::{decibels, median};

/// A gate closes within this, by so much, from so far above the noise; and the sound does not come back for a while. s, dB.
const GATE_S: f64 = 0.015;
const GATE_FALL_DB: f64 = 20.0;
const GATE_ABOVE_DB: f64 = 24.0;
const GATE_STAYS_S: f64 = 0.08;
/// A hand damps within this, by so much, and so much faster than the sound fell in twice that time before.
const HAND_S: f64 = 0.06;
const HAND_FALL_DB: f64 = 15.0;
const HAND_FASTER: f64 = 4.0;
const HAND_ABOVE_DB: f64 = 20.0;
/// Stick and first splash are over, s.
const EARLIEST_S: f64 = 0.05;

/// What ended a decay before its time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Stopper {
    Gate,
    Hand,
}

/// A decay that was ended before its time.
#[derive(Debug, Clone, Copy)]
pub(super) struct Stopped {
    pub by: Stopper,
    /// When, s after the hit.
    pub at_s: f64,
    /// How far it had fallen by then, dB.
    pub fallen_db: f64,
}

/// Whether something stopped the sound. `noise`: mean square of what is left at the end.
pub(super) fn stopped(envelope: &Envelope, noise: f64) -> Option<Stopped> {
    let (by, at) = stopper(envelope, noise)?;
    Some(Stopped { by, at_s: at as f64 * envelope.step_s, fallen_db: envelope.fallen_until_db(at) })
}

/// What stopped it, and the step of the envelope before which it sounded on.
fn stopper(envelope: &Envelope, noise: f64) -> Option<(Stopper, usize)> {
    let level: Vec<f64> = envelope.energy.iter().map(|e| 10.0 * e.max(1e-20).log10()).collect();
    let floor = 10.0 * noise.max(1e-20).log10();
    let steps = |seconds: f64| (seconds / envelope.step_s).round() as usize;
    let highest = |from: usize, to: usize| level.get(from..to.min(level.len())).map(|part| part.iter().copied().fold(f64::MIN, f64::max));
    let fell = |from: usize, after: usize, stays: usize| {
        // At the very end of what is kept nobody knows whether it comes back.
        (from + after + stays <= level.len())
            .then(|| highest(from + after, from + after + stays))
            .flatten()
            .map(|later| level[from] - later)
    };
    let from = steps(EARLIEST_S);
    let gate = (from..level.len()).take_while(|i| level[*i] > floor).find(|i| {
        level[*i] > floor + GATE_ABOVE_DB
            && level[i - steps(0.04)] - level[*i] < 0.5 * GATE_FALL_DB
            && fell(*i, steps(GATE_S), steps(GATE_STAYS_S)).is_some_and(|db| db > GATE_FALL_DB)
    });
    if let Some(at) = gate {
        return Some((Stopper::Gate, at));
    }
    let before = steps(2.0 * HAND_S);
    let hand = (from + before..level.len()).find(|i| {
        level[*i] > floor + HAND_ABOVE_DB
            && fell(*i, steps(HAND_S), steps(HAND_S)).is_some_and(|db| {
                db > HAND_FALL_DB && level[*i] - HAND_FALL_DB > floor && HAND_FASTER * (level[i - before] - level[*i]) < 2.0 * db
            })
    });
    hand.map(|at| (Stopper::Hand, at))
}

/// How far under the hiss before the strike the hiss after it lies where gain was turned down (power ratio), and how steady the hiss
/// before it must be to be one.
const GAIN_HELD: f64 = 0.1;
const STEADY: f64 = 1.6;
/// The same where it was turned down a little, as a compressor does: then the hiss must be back at the end, so much louder than where it was
/// least and no louder than this against before.
const GAIN_DIPPED: f64 = 0.8;
const STEADY_ENOUGH: f64 = 1.3;
const COMES_BACK: f64 = 1.12;
const AS_BEFORE: f64 = 1.5;
const HISS_S: f64 = 0.04;
/// Pieces of hiss at the end of a strike that sank into the noise.
const AT_THE_END: usize = 4;
/// Hiss (mean square of its second differences) under this many squared rounding steps is none.
const LAST_BIT: f64 = 40.0;

/// The hiss of the place, before a strike and through it: mean squares of second differences, piece by piece.
pub(super) struct Hiss {
    /// The two halves of the last piece before the strike.
    before: [f64; 2],
    /// From the hit on.
    after: Vec<f64>,
    /// What it is at least, to be more than the last bit going to and fro.
    least: f64,
}

impl Hiss {
    /// Of what lies `before` the hit and of the `sound` from it on; `step`: what the recording was rounded to. None where there is too little.
    pub fn new(before: &[f32], sound: &[f32], rate: f64, step: f32) -> Option<Self> {
        let count = (HISS_S * rate) as usize;
        let start = before.len().checked_sub(count)?;
        let hiss = |part: &[f32]| {
            let bent = |w: &[f32]| (f64::from(w[2]) - 2.0 * f64::from(w[1]) + f64::from(w[0])).powi(2);
            part.windows(3).map(bent).sum::<f64>() / part.len().max(1) as f64
        };
        let before = &before[start..];
        let before = [hiss(&before[..count / 2]), hiss(&before[count / 2..])];
        let after = (sound.len() > 4 * count).then(|| sound.chunks_exact(count).map(hiss).collect())?;
        Some(Self { before, after, least: LAST_BIT * f64::from(step).powi(2) })
    }

    /// Its mean before the strike, where it is steady within `ratio` and more than rounding.
    fn steady(&self, ratio: f64) -> Option<f64> {
        let [first, second] = self.before;
        let mean = 0.5 * (first + second);
        (first < ratio * second && second < ratio * first && mean > self.least).then_some(mean)
    }

    /// Whether the recording turns itself down for loud sounds: the hiss of the place is steady before the strike and gone after it. Heads
    /// that still sound from before have no hiss, only wires do, and theirs is not steady.
    pub fn is_held_down(&self) -> bool {
        // The next strike may begin at the very end.
        let quietest = self.after.iter().copied().fold(f64::INFINITY, f64::min);
        self.steady(STEADY).is_some_and(|before| quietest < GAIN_HELD * before)
    }

    /// How far the gain goes down after a strike that sank into the noise, and comes up again while it decays, dB: no sound takes the hiss of
    /// the place with it and gives it back. At least, for the strike's own hiss covers the deepest of it. None where gain stays as it is, or no
    /// hiss is heard.
    pub fn gain_dip_db(&self) -> Option<f64> {
        let before = self.steady(STEADY_ENOUGH)?;
        let end = median(self.after.get(self.after.len().checked_sub(AT_THE_END)?..)?)?;
        let quietest = self.after.windows(2).map(|pair| 0.5 * (pair[0] + pair[1])).fold(f64::INFINITY, f64::min);
        let dips = quietest < GAIN_DIPPED * before && end > COMES_BACK * quietest && end < AS_BEFORE * before;
        dips.then(|| -0.5 * decibels(quietest / before))
    }
}

/// Where a wall is looked for, Hz: what cuts off there was made for speech.
const WALL_HZ: std::ops::Range<f64> = 2400.0..5200.0;
/// Power beyond the wall against that before it; and the power before it against the noise there.
const WALL: f64 = 2e-3;
const OVER_NOISE: f64 = 300.0;
const TRANSFORM: usize = 2048;

/// Frequency above which the recording holds nothing although the stick must have sounded there, Hz.
pub(super) fn speech_limit_hz(before: &[f32], sound: &[f32], rate: f64) -> Option<f64> {
    if rate < 2.6 * WALL_HZ.end {
        return None;
    }
    let length = (0.03 * rate) as usize;
    let quiet = spectrum(before.get(before.len().checked_sub(length)?..)?);
    let hit = spectrum(sound.get(..length)?);
    let bin_hz = rate / TRANSFORM as f64;
    let mean = |power: &[f64], low: f64, high: f64| {
        let part = &power[(low / bin_hz) as usize..((high / bin_hz) as usize).min(power.len() - 1)];
        part.iter().sum::<f64>() / part.len().max(1) as f64
    };
    let steps = (24.0 * (WALL_HZ.end / WALL_HZ.start).log2()) as i32;
    (0..=steps).map(|i| WALL_HZ.start * 2f64.powf(f64::from(i) / 24.0)).find(|hz| {
        let below = mean(&hit, 0.8 * hz, *hz);
        below > OVER_NOISE * mean(&quiet, 0.8 * hz, *hz)
            && mean(&hit, 1.12 * hz, 1.4 * hz) < WALL * below
            && mean(&hit, 1.4 * hz, (2.2 * hz).min(0.45 * rate)) < WALL * below
    })
}

/// Power by frequency, Hann window.
fn spectrum(samples: &[f32]) -> Vec<f64> {
    let transform = real_forward(TRANSFORM);
    let mut input = transform.make_input_vec();
    let count = samples.len().min(TRANSFORM);
    for (n, (slot, x)) in input.iter_mut().zip(&samples[..count]).enumerate() {
        *slot = f64::from(*x) * (0.5 - 0.5 * (2.0 * std::f64::consts::PI * n as f64 / count as f64).cos());
    }
    let mut output = transform.make_output_vec();
    // Lengths are the transform's own, so it cannot fail.
    let _ = transform.process(&mut input, &mut output);
    output.iter().map(|z| z.norm_sqr()).collect()
}
