//! A strike's partials against its whole sound: fitted together from as soon after the hit as the sound holds nothing else, the fall
//! of its pitch taken out.
//!
//! A stretched head sounds higher, all of its partials by the same part, and comes down as the motion's energy does: the pitch is
//! (1 + g exp(-t / tau)) times the settled one. On a time axis that runs faster by as much, every partial is straight again; so the
//! sound is put on that axis, and glide and its time are those that leave least unexplained.

use super::damped_sinusoid::DampedSinusoid;
use super::esprit;
use super::polish::{FixedTones, Sound};
use super::span::Span;
use crate::signal::{Decimator, LowPass, between};
use crate::units::LN_1000;
use num_complex::Complex64;
use std::f64::consts::PI;

/// Rate to which the whole sound is brought down, so that filters are short, Hz.
const WIDE_RATE: f64 = 6400.0;
/// Longest stretch that is fitted, s.
const WHOLE_S: f64 = 2.5;
/// Times after the hit from which the sound is tried, as long as what was fitted later explains it, s.
const EARLIER_S: [f64; 6] = [0.03, 0.016, 0.008, 0.004, 0.002, 0.0];
/// Part of the sound's power that partials may leave unexplained.
const UNEXPLAINED: f64 = 2e-4;
/// Partials of a slower decay (1/s) last until the pitch has settled; their decay may come out otherwise by so many standard errors of
/// the bands' or by this part of it.
const LASTING: f64 = LN_1000 / 0.35;
const SDS_OFF: f64 = 4.0;
const PART_OFF: f64 = 0.01;
/// Any partial's pitch may come out otherwise by this part of it: short ones were seen on their way down.
const HZ_OFF: f64 = 0.08;
/// A fit from earlier must not leave so much more of what comes later.
const SPOILT: f64 = 1.15;
/// Glides and their times that are tried first, and the stretch after the hit in which they show, s.
const GLIDES: [f64; 7] = [-0.01, 0.01, 0.02, 0.035, 0.055, 0.08, 0.11];
const GLIDE_TIMES_S: [f64; 4] = [0.025, 0.05, 0.09, 0.16];
const GLIDE_SHOWS_S: std::ops::Range<f64> = 0.006..0.30;
/// Samples that a partial's every turn needs to be carried.
const CARRIES: f64 = 2.4;
/// A glide must leave this part of what is unexplained without it at most.
const CLEARLY_BETTER: f64 = 0.6;
const HELPS: f64 = 0.9;
/// How far apart, in widths, two tones start that one may be; how sure each must be, and how much alike they decay.
const START_APART: f64 = 0.25;
const SURE_PAIR: f64 = 0.1;
const SURE_MEMBER: f64 = 3.0;
const ALIKE: f64 = 1.3;
/// When short partials are looked for, for how long, how many, and what they can be: s, Hz and 1/s.
const SHORT_FROM_S: f64 = 0.0015;
const SHORT_S: f64 = 0.06;
const MOST_SHORT: usize = 3;
const SHORT_HZ: std::ops::Range<f64> = 30.0..1200.0;
const SHORT_DECAY: std::ops::Range<f64> = 15.0..230.0;
/// Slower tones do not decay, 1/s: hum.
const DECAYING: f64 = 0.4;
/// Where more partials were found than this, some were not; without them the sound is never explained.
const MOST_PARTIALS: usize = 7;

/// A fall of the pitch: by this part of it at the hit, dying away in this time (s).
#[derive(Debug, Clone, Copy, PartialEq)]
struct Glide {
    part: f64,
    time_s: f64,
}

impl Glide {
    /// The inverse for times that follow each other: one step of Newton's method from where the time before leads to.
    fn times(self, straight: impl Iterator<Item = f64>) -> impl Iterator<Item = f64> {
        let slope = move |t: f64| self.part * (-t / self.time_s).exp();
        let (mut t, mut before, mut excess) = (0.0, 0.0, self.part);
        straight.map(move |straight| {
            // Half of the way ahead the pitch has fallen by half as much again.
            let ahead = (straight - before) / (1.0 + excess);
            t += (straight - before) / (1.0 + excess * (1.0 - 0.5 * ahead / self.time_s));
            excess = slope(t);
            // As the slope dies away exponentially, it also gives the integral.
            t -= (t + self.time_s * (self.part - excess) - straight) / (1.0 + excess);
            before = straight;
            t
        })
    }
}

/// Fits partials to whole sounds of one sample rate.
pub(super) struct WholeSound {
    wide: Decimator,
    rate: f64,
}

/// A sound that is fitted, from the hit on.
struct Heard {
    /// From before the hit; `hit` counts from its start and need not be whole.
    samples: Vec<f64>,
    hit: f64,
    /// Samples from the hit to the end.
    length: usize,
    rate: f64,
    reach_s: f64,
    noise_bandwidth: f64,
    not_before_s: f64,
}

/// What a fit came to.
struct Fitted {
    tones: Vec<DampedSinusoid>,
    /// From when after the hit, s.
    from_s: f64,
    /// Mean square that is not explained.
    left: f64,
}

impl WholeSound {
    /// For `rate` samples a second; partials up to `highest` Hz.
    pub(super) fn new(rate: f64, highest: f64) -> Self {
        let factor = (rate / WIDE_RATE).floor().max(1.0) as usize;
        let stop = (rate / factor as f64 - 1.1 * highest).min(0.49 * rate);
        Self { wide: Decimator { filter: LowPass::new(1.08 * highest, stop, 60.0, rate), factor }, rate: rate / factor as f64 }
    }

    /// `found` fitted together to the whole sound. `None` where something else sounds along that they do not explain: wires, a
    /// second hit, partials that were not found. With it comes the mean square that they leave.
    pub(super) fn polished(&self, samples: &[f32], span: &Span, found: &[DampedSinusoid]) -> Option<(Vec<DampedSinusoid>, f64)> {
        if found.iter().all(|tone| tone.decay < DECAYING) || found.len() > MOST_PARTIALS {
            return None;
        }
        let heard = self.heard(samples, span, found);
        // What is short has gone by the time a long sound has settled.
        let slowest = found.iter().map(|tone| tone.decay).fold(f64::INFINITY, f64::min);
        let straight = heard.fitted(found, found, span.settle_s.min(0.3 / slowest.max(DECAYING)));
        let early = |fitted: &Option<Fitted>| fitted.as_ref().is_some_and(|fitted| fitted.from_s < 0.012);
        let fitted = if early(&straight) { straight } else { heard.gliding(found).or(straight) }?;
        let at_the_hit = |(tone, from): (&DampedSinusoid, &DampedSinusoid)| {
            // A real tone of amplitude A is two exponentials of A / 2.
            let back = 0.5 * (tone.decay * fitted.from_s).exp() / self.wide.filter.gain(tone.hz, tone.decay).norm();
            DampedSinusoid {
                hz: tone.hz,
                decay: tone.decay,
                amplitude: tone.amplitude * back,
                hz_sd: tone.hz_sd,
                decay_sd: tone.decay_sd,
                // Nothing was missed where the whole sound is explained.
                decay_doubt: 0.0,
                amplitude_sd: tone.amplitude_sd * back,
                ..*from
            }
        };
        Some((fitted.tones.iter().zip(found).map(at_the_hit).collect(), fitted.left))
    }

    /// `found` with the strongest of them taken for two next to each other, where those explain the whole sound.
    pub(super) fn as_pair(&self, samples: &[f32], span: &Span, found: &[DampedSinusoid]) -> Option<Vec<DampedSinusoid>> {
        let energy = |tone: &DampedSinusoid| tone.amplitude.norm_sqr() / tone.decay.max(DECAYING);
        let strongest = (0..found.len()).max_by(|a, b| energy(&found[*a]).total_cmp(&energy(&found[*b])))?;
        let mut split = found.to_vec();
        let one = DampedSinusoid { decay_sd: f64::INFINITY, ..split.swap_remove(strongest) };
        let apart = START_APART * one.decay.max(DECAYING) / PI;
        split.extend([one.hz - 0.5 * apart, one.hz + 0.5 * apart].map(|hz| DampedSinusoid { hz, ..one }));
        let (tones, _) = self.polished(samples, span, &split)?;
        let [.., low, high] = &tones[..] else { return None };
        let sure =
            |tone: &DampedSinusoid| tone.decay_sd < SURE_PAIR * tone.decay && tone.amplitude.norm() > SURE_MEMBER * tone.amplitude_sd;
        let alike = (low.decay / high.decay).ln().abs() < ALIKE.ln();
        (alike && sure(low) && sure(high)).then_some(tones)
    }

    /// Where short partials may lie, the strongest first: poles of the first moments after the hit, not fitted yet.
    pub(super) fn short(&self, samples: &[f32], span: &Span) -> Vec<DampedSinusoid> {
        let heard = self.heard(samples, span, &[]);
        let from = heard.index(SHORT_FROM_S.max(heard.not_before_s));
        let to = (from + (SHORT_S * self.rate) as usize).min(heard.samples.len());
        // Every second sample: the poles of a low tone lie further apart.
        let part: Vec<Complex64> = heard.samples[from.min(to)..to].iter().step_by(2).map(|x| Complex64::new(*x, 0.0)).collect();
        let rate = 0.5 * self.rate;
        let pole = |z: &Complex64| (z.arg() * rate / (2.0 * PI), -z.norm().max(1e-12).ln() * rate);
        let poles = esprit::poles(&[&part], 2 * MOST_SHORT);
        let short = poles.iter().map(pole).filter(|(hz, decay)| SHORT_HZ.contains(hz) && SHORT_DECAY.contains(decay));
        short.map(|(hz, decay)| DampedSinusoid::at(hz, decay)).collect()
    }

    fn heard(&self, samples: &[f32], span: &Span, found: &[DampedSinusoid]) -> Heard {
        let input: Vec<f64> = samples.iter().map(|x| f64::from(*x)).collect();
        let mut samples = self.wide.real(&input);
        let reach_s = self.wide.filter.reach_s();
        let hit = span.onset_s * self.rate;
        let lead = &samples[..(hit - (0.004 + reach_s) * self.rate).max(0.0) as usize];
        let offset = lead.iter().sum::<f64>() / lead.len().max(1) as f64;
        samples.iter_mut().for_each(|x| *x -= offset);
        let slowest = found.iter().map(|tone| tone.decay).filter(|decay| *decay >= DECAYING).fold(f64::INFINITY, f64::min);
        // Behind 65 dB of decay there is next to nothing left to fit.
        let slowest = if slowest.is_finite() { slowest } else { SHORT_DECAY.start };
        let length_s = (span.length_s - reach_s).min(1.08 * LN_1000 / slowest).min(WHOLE_S);
        let length = ((length_s * self.rate) as usize).min(samples.len().saturating_sub(hit as usize + 1));
        let noise_bandwidth = self.wide.filter.noise_bandwidth();
        Heard { samples, hit, length, rate: self.rate, reach_s, noise_bandwidth, not_before_s: span.clipped_s + reach_s }
    }
}

impl Heard {
    fn index(&self, after_s: f64) -> usize {
        (self.hit + after_s.max(self.reach_s + 0.0004) * self.rate).ceil() as usize
    }

    fn end(&self) -> usize {
        self.hit as usize + self.length
    }

    fn sound(&self, from: usize, to: usize) -> Sound<'_> {
        Sound { samples: &self.samples[from..to], rate: self.rate, noise_bandwidth: self.noise_bandwidth }
    }

    /// Mean square between two samples.
    fn power(&self, from: usize, to: usize) -> f64 {
        self.samples[from..to].iter().map(|x| x * x).sum::<f64>() / (to - from).max(1) as f64
    }

    /// Tones near `start` fitted from `begun_s` after the hit, then from earlier as long as what is added is explained. `None` where they
    /// do not explain the sound, or come out otherwise than in `bands`.
    fn fitted(&self, start: &[DampedSinusoid], bands: &[DampedSinusoid], begun_s: f64) -> Option<Fitted> {
        let end = self.end();
        let mut first = self.index(begun_s.max(self.not_before_s));
        if first + 200 > end {
            return None;
        }
        let mut tones: Vec<DampedSinusoid> = start.iter().map(|tone| DampedSinusoid::at(tone.hz, tone.decay)).collect();
        let mut left = self.sound(first, end).fit(&mut tones)?;
        let quiet = self.power(end - (end - first) / 8, end);
        if left > UNEXPLAINED * self.power(first, (first + (0.1 * self.rate) as usize).min(end)) && left > 2.0 * quiet {
            return None;
        }
        for earlier in EARLIER_S {
            let next = self.index(f64::max(earlier, self.not_before_s));
            if next >= first {
                continue;
            }
            let mut trial = tones.clone();
            let sound = self.sound(next, end);
            // What was fitted from later on stands.
            if sound.fit(&mut trial).is_none() {
                break;
            }
            let (all, new, later) = sound.split_residual(&trial, first - next);
            // An attack is explained by no partials, or only at the cost of what comes after.
            if new > (UNEXPLAINED * all).max(2.0 * left) || later > SPOILT * left {
                break;
            }
            (tones, first, left) = (trial, next, later);
        }
        let near = |tone: &DampedSinusoid, from: &DampedSinusoid| {
            let decay_off = (tone.decay - from.decay).abs();
            // What lasts was found after the pitch had settled, and can be trusted: a fit that says otherwise has taken something else for it.
            let agrees = from.decay > LASTING || decay_off < (SDS_OFF * from.decay_sd).max(PART_OFF * from.decay);
            agrees && (tone.hz - from.hz).abs() < HZ_OFF * from.hz + 3.0 && tone.decay < 230.0
        };
        let all_near = tones.iter().zip(bands).all(|(tone, from)| near(tone, from));
        all_near.then(|| Fitted { tones, from_s: (first as f64 - self.hit) / self.rate, left })
    }

    /// `found` fitted with the glide taken out. A glide smears pitches and decay rates, and they decide which glide fits; so once it is
    /// known roughly, they are fitted, and it is looked for again.
    fn gliding(&self, found: &[DampedSinusoid]) -> Option<Fitted> {
        let from = self.index(GLIDE_SHOWS_S.start.max(self.not_before_s));
        if from + 200 > self.end() {
            return None;
        }
        let glide = self.glide(found, None)?;
        let rough = self.straightened(glide, found);
        let mut tones: Vec<DampedSinusoid> = found.iter().map(|tone| DampedSinusoid::at(tone.hz, tone.decay)).collect();
        rough.sound(from, rough.end()).fit(&mut tones)?;
        let nearer: Vec<DampedSinusoid> =
            found.iter().zip(&tones).map(|(from, tone)| DampedSinusoid { hz: tone.hz, decay: tone.decay, ..*from }).collect();
        self.straightened(self.glide(&nearer, Some(glide))?, &nearer).fitted(&nearer, found, 0.03)
    }

    /// The glide that leaves least unexplained with pitches and decay rates as `found`, looked for near `start` if that is given; none
    /// where none is clearly better than none.
    fn glide(&self, found: &[DampedSinusoid], start: Option<Glide>) -> Option<Glide> {
        let tones: Vec<DampedSinusoid> = found.iter().map(|tone| DampedSinusoid::at(tone.hz, tone.decay)).collect();
        // Where a glide shows; of its samples as many as still carry all partials, and twice as many once it is known roughly.
        let length = self.length.min((GLIDE_SHOWS_S.end * self.rate) as usize);
        let highest = found.iter().map(|tone| tone.hz).fold(0.0, f64::max);
        let carrying = ((self.rate / (CARRIES * highest)) as usize).clamp(2, 6);
        let apart = if start.is_some() { (carrying / 2).max(2) } else { carrying };
        let loudest = loudest_decay(found);
        let from = (GLIDE_SHOWS_S.start.max(self.not_before_s) * self.rate).ceil() as usize;
        let seen = (from..length).step_by(apart);
        let tones = FixedTones::new(&tones, self.rate / apart as f64, seen.len())?;
        let left = |glide: Glide| tones.unexplained(&self.straight_at(glide, seen.clone(), loudest));
        let none = left(Glide { part: 0.0, time_s: 0.05 });
        let (mut best, mut least) = match start {
            Some(start) => (start, left(start)),
            None => {
                let tried = GLIDES.iter().flat_map(|part| GLIDE_TIMES_S.iter().map(|time_s| Glide { part: *part, time_s: *time_s }));
                tried.map(|glide| (glide, left(glide))).min_by(|a, b| a.1.total_cmp(&b.1))?
            }
        };
        // Where not one of them helps, none near them does.
        if least > HELPS * none {
            return None;
        }
        // Then in ever smaller steps.
        let steps: &[f64] = if start.is_some() { &[0.1, 0.05, 0.02, 0.008] } else { &[0.3, 0.15, 0.06] };
        for step in steps {
            for (part, time) in [
                (1.0 + step, 1.0),
                (1.0 - step, 1.0),
                (1.0, 1.0 + step),
                (1.0, 1.0 - step),
                (1.0 + step, 1.0 - step),
                (1.0 - step, 1.0 + step),
            ] {
                let trial = Glide { part: best.part * part, time_s: best.time_s * time };
                let value = left(trial);
                if value < least {
                    (best, least) = (trial, value);
                }
            }
        }
        (least < CLEARLY_BETTER * none).then_some(best)
    }

    /// The sound on the axis on which `glide` is none.
    fn straightened(&self, glide: Glide, found: &[DampedSinusoid]) -> Heard {
        let before = self.samples[..self.hit.ceil() as usize].iter().copied();
        let loudest = loudest_decay(found);
        let samples: Vec<f64> = before.chain(self.straight_at(glide, 0..self.length, loudest)).collect();
        Heard { samples, ..*self }
    }

    /// Samples `n` from the hit on that axis. Their decay, which the axis would slow down at first, is put right for the `loudest` partial's.
    fn straight_at(&self, glide: Glide, n: impl Iterator<Item = usize> + Clone, loudest: f64) -> Vec<f64> {
        let straight = n.map(|n| (self.hit.ceil() + n as f64 - self.hit) / self.rate);
        let times = glide.times(straight.clone());
        times
            .zip(straight)
            .map(|(t, straight)| between(&self.samples, self.hit + t * self.rate) * (loudest * (t - straight)).exp())
            .collect()
    }
}

/// Decay rate of the loudest of `found`, 1/s.
fn loudest_decay(found: &[DampedSinusoid]) -> f64 {
    found.iter().max_by(|a, b| a.amplitude.norm_sqr().total_cmp(&b.amplitude.norm_sqr())).map_or(0.0, |tone| tone.decay)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Put back on the straight axis, t + g tau (1 - exp(-t / tau)), every time is where it began.
        #[test]
        fn times_on_the_sounds_axis_are_those_of_the_straight_one(
            part in -0.03f64..0.2, time_s in 0.015f64..0.3, first in 0usize..40, apart in 1usize..3,
        ) {
            let straight: Vec<f64> = (first..2000).step_by(apart).map(|n| n as f64 / WIDE_RATE).collect();
            let glide = Glide { part, time_s };
            for (t, straight) in glide.times(straight.iter().copied()).zip(&straight) {
                let back = t + part * time_s * (1.0 - (-t / time_s).exp());
                prop_assert!((back - straight).abs() < 1e-7, "{back} for {straight}");
            }
        }
    }
}
