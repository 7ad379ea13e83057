//! Listens to all microphones at once, in pieces of any length, and notes each moment at which something was hit: how much each microphone gained then, by
//! band.

use crate::signal::BandPasses;
use rayon::prelude::*;
use std::collections::VecDeque;

/// Sound is followed in steps of this, s.
const STEP_S: f64 = 0.002_5;
/// Bands that are told apart, Hz: body, lower and upper overtones, stick.
const EDGES_HZ: [(f64, f64); BANDS] = [(40.0, 150.0), (150.0, 600.0), (600.0, 2400.0), (2400.0, 9600.0)];
/// How many they are.
pub const BANDS: usize = 4;
/// A hit rises by this over the loudest of the steps before it, in at least [`RISING`] bands, or by so much in one, dB.
const RISE_DB: f64 = 5.0;
const RISING: usize = 2;
const STEEP_DB: f64 = 9.0;
/// Steps that it is held against, of which the last are left out: a low drum takes some to rise.
const BEFORE: usize = 14;
const RISING_STEPS: usize = 4;
/// What is no louder than this in a band is no hit, dB against full scale.
const FAINTEST_DB: f64 = -75.0;
/// What rises in other microphones within so many steps after the first belongs to the same moment.
const TOGETHER: usize = 6;
/// What a microphone gained is heard over this many steps after the moment.
const AFTER: usize = 10;
/// A hit begins where a microphone first has this part of the most energy that the moment adds.
const LOUD_FROM: f64 = 0.15;
/// In one microphone the next hit begins no sooner than so many steps after one.
const APART: usize = 2 * TOGETHER;

/// Mean power of one step, by band.
type Step = [f32; BANDS];

/// A moment at which something was hit.
#[derive(Debug, Clone, PartialEq)]
pub struct Event {
    /// When, s.
    pub at_s: f64,
    /// For each microphone how much later the hit begins in it, s; none where nothing rises.
    pub rose_s: Vec<Option<f64>>,
    /// For each microphone what it gained over what it still heard before, by band: mean power of 25 ms, full scale 1.
    pub gained: Vec<[f64; BANDS]>,
    /// For each microphone its mean power just before, by band: what still rings of earlier hits.
    pub held: Vec<[f64; BANDS]>,
}

/// What is followed of one microphone.
struct Ear {
    filters: BandPasses<BANDS>,
    energy: [f64; BANDS],
    filled: usize,
    /// The newest steps, oldest first.
    steps: VecDeque<Step>,
    /// Steps until the next hit may begin.
    deaf: usize,
    /// Samples that do not fill a step yet come with the next piece.
    fresh: Vec<Step>,
}

impl Ear {
    fn new(rate: f64) -> Self {
        Self {
            filters: BandPasses::new(EDGES_HZ, rate),
            energy: [0.0; BANDS],
            filled: 0,
            steps: VecDeque::new(),
            deaf: 0,
            fresh: Vec::new(),
        }
    }

    /// Makes steps of `samples`.
    fn listen(&mut self, mut samples: &[f32], step: usize) {
        while !samples.is_empty() {
            let (now, rest) = samples.split_at(samples.len().min(step - self.filled));
            let energies = self.filters.energies(now);
            self.energy.iter_mut().zip(energies).for_each(|(sum, energy)| *sum += energy);
            self.filled += now.len();
            samples = rest;
            if self.filled == step {
                self.fresh.push(self.energy.map(|energy| (energy / step as f64) as f32));
                (self.energy, self.filled) = ([0.0; BANDS], 0);
            }
        }
    }

    /// Whether a hit begins with the `at`-th of the steps kept.
    fn rises(&self, at: usize) -> bool {
        let least = 10f32.powf((FAINTEST_DB / 10.0) as f32);
        let [factor, steep] = [RISE_DB, STEEP_DB].map(|rise_db| 10f32.powf((rise_db / 10.0) as f32));
        let rise = |band: usize| {
            let before = self.steps.range(at.saturating_sub(BEFORE)..at - RISING_STEPS).map(|step| step[band]).fold(0.0, f32::max);
            // The body of a low drum takes a few steps to come up.
            let now = self.steps.range(at..at + 2).map(|step| step[band]).fold(0.0, f32::max);
            if now > least { now / before.max(f32::MIN_POSITIVE) } else { 0.0 }
        };
        let rises: [f32; BANDS] = std::array::from_fn(rise);
        rises.iter().filter(|rise| **rise > factor).count() >= RISING || rises.iter().any(|rise| *rise > steep)
    }

    /// The step, from `at` on, in which a hit begins ([`LOUD_FROM`]).
    fn loud_from(&self, at: usize) -> usize {
        let held: f64 = self.mean(at - BEFORE / 2, at).iter().sum();
        let energy = |n: usize| self.steps[n].iter().map(|power| f64::from(*power)).sum::<f64>() - held;
        let loudest = (at..at + AFTER).map(energy).fold(0.0, f64::max);
        (at..at + AFTER).find(|n| energy(*n) >= LOUD_FROM * loudest).unwrap_or(at)
    }

    /// Mean power of the steps `from` to `to`, by band.
    fn mean(&self, from: usize, to: usize) -> [f64; BANDS] {
        std::array::from_fn(|band| self.steps.range(from..to).map(|step| f64::from(step[band])).sum::<f64>() / (to - from) as f64)
    }
}

/// Listens to several microphones; feed it with [`push`](Self::push) and close it with [`finish`](Self::finish).
pub struct SessionEars {
    step: usize,
    rate: f64,
    ears: Vec<Ear>,
    /// Which microphones tell hits: those close to a drum.
    tell: Vec<bool>,
    /// Steps taken so far.
    taken: usize,
    /// Which microphones rose within the moment that is being gathered.
    rose: Vec<bool>,
    /// The step at which that moment began.
    began: Option<usize>,
    events: Vec<Event>,
}

impl SessionEars {
    /// For microphones at `rate` samples a second, of which those that `tell` stand close to a drum.
    pub fn new(rate: f64, tell: Vec<bool>) -> Self {
        let ears = tell.iter().map(|_| Ear::new(rate)).collect();
        let rose = vec![false; tell.len()];
        Self { step: ((STEP_S * rate) as usize).max(1), rate, ears, tell, taken: 0, rose, began: None, events: Vec::new() }
    }

    /// Takes the next samples of every microphone (full scale 1), as many of each.
    pub fn push(&mut self, pieces: &[&[f32]]) {
        let step = self.step;
        self.ears.par_iter_mut().zip(pieces).for_each(|(ear, piece)| ear.listen(piece, step));
        let fresh = self.ears.iter().map(|ear| ear.fresh.len()).min().unwrap_or(0);
        for n in 0..fresh {
            for ear in &mut self.ears {
                ear.steps.push_back(ear.fresh[n]);
                if ear.steps.len() > BEFORE + AFTER + TOGETHER + 2 {
                    ear.steps.pop_front();
                }
            }
            self.taken += 1;
            self.look();
        }
        for ear in &mut self.ears {
            ear.fresh.drain(..fresh);
        }
    }

    /// Looks at the step that has enough of what comes after it.
    fn look(&mut self) {
        let kept = self.ears.first().map_or(0, |ear| ear.steps.len());
        // Room for the moment's own length after its last possible rise.
        let Some(at) = kept.checked_sub(AFTER + TOGETHER + 1).filter(|at| *at >= BEFORE) else { return };
        let now = self.taken - (kept - at);
        if let Some(began) = self.began.filter(|began| now >= began + TOGETHER) {
            self.note(began, at - (now - began));
        }
        for (index, ear) in self.ears.iter_mut().enumerate() {
            ear.deaf = ear.deaf.saturating_sub(1);
            if self.tell[index] && ear.deaf == 0 && !self.rose[index] && ear.rises(at) {
                self.rose[index] = true;
                ear.deaf = APART;
                self.began.get_or_insert(now);
            }
        }
    }

    /// Notes the moment that began at step `began`, now the `at`-th of those kept.
    fn note(&mut self, began: usize, at: usize) {
        let step_s = self.step as f64 / self.rate;
        let later_s = |(rose, ear): (&bool, &Ear)| rose.then(|| (ear.loud_from(at) - at) as f64 * step_s);
        let rose_s = self.rose.iter().zip(&self.ears).map(later_s).collect();
        let heard: Vec<_> = self.ears.iter().map(|ear| (ear.mean(at - BEFORE / 2, at), ear.mean(at, at + AFTER))).collect();
        let gained = heard.iter().map(|(before, after)| std::array::from_fn(|band| (after[band] - before[band]).max(0.0))).collect();
        let held = heard.into_iter().map(|(before, _)| before).collect();
        self.events.push(Event { at_s: began as f64 * step_s, rose_s, gained, held });
        self.rose.fill(false);
        self.began = None;
    }

    /// How many moments were noted so far.
    pub fn found(&self) -> usize {
        self.events.len()
    }

    /// Ends the sound.
    pub fn finish(mut self) -> Vec<Event> {
        // Silence after the end shows what rose last.
        let silence = vec![0.0; self.step * (AFTER + 2 * TOGETHER + 2)];
        let pieces: Vec<&[f32]> = self.ears.iter().map(|_| silence.as_slice()).collect();
        self.push(&pieces);
        self.events
    }
}
