//! The partials of one strike: bands of the sound are brought down to a low rate, their poles found by ESPRIT and refined
//! by non-linear least squares. What the sound does not carry is left out or given without a decay time.
//!
//! The pitch of a hard-struck head falls at first, and a fit that starts there would take one gliding partial for several.
//! So each band is fitted twice: from where the glide is nearly over, which settles what partials there are, and from
//! earlier, only for partials that have gone by then.

use super::band_fit::{SURE_AMPLITUDE, ask_parts, fit, useful_len};
use super::damped_sinusoid::DampedSinusoid;
use super::follow::Fall;
use super::refine::Stretch;
use super::span::Span;
use super::whole::WholeSound;
use crate::signal::{Decimator, LowPass};
use crate::tone::Partial;
use crate::units::{LN_1000, decibels};
use num_complex::Complex64;
use rayon::prelude::*;

/// Lowest partial looked for, Hz.
pub const MIN_HZ: f64 = 30.0;
/// Highest partial looked for, Hz.
pub const MAX_HZ: f64 = 1200.0;
/// Width of one band's share of the spectrum, Hz.
const BAND_HZ: f64 = 90.0;
const SLOW_RATE: f64 = 3200.0;
/// Longest stretch of the decay that is fitted, s; and where only what has gone early is looked for.
const LONGEST_S: f64 = 0.9;
const LONGEST_EARLY_S: f64 = 0.6;
/// A partial weaker than this against the loudest is not reported, dB.
const WEAKEST_DB: f64 = -50.0;
/// Decay times less certain than this (relative standard error) are given as unknown.
const SURE_T60: f64 = 0.30;
/// The same of what parts of the sound say, which is the larger the more is known to be missed.
const DOUBTFUL_T60: f64 = 1.0;

/// Time after the hit from which a glide hardly shows, s.
const SETTLED_S: f64 = 0.18;
/// A partial with a longer decay time than this is still to be heard at [`SETTLED_S`], s.
const GONE_T60_S: f64 = 0.35;
/// Tones nearer than this sound as one at the hit, Hz.
const PAIR_HZ: f64 = 12.0;
/// A late stretch shorter than this shows no partial, s.
const SHORT_LATE_S: f64 = 0.25;
/// Part of the loudest that a tone is taken to have been, where it comes out louder than the whole.
const BESIDE_OTHERS: f64 = 0.4;
/// A tone that was drawn back to the hit over more than this, in nepers, may be an artefact.
const DRAWN_OUT: f64 = 2.3;
/// Where more partials were found than this, they are a drum's, and its pairs are told apart by their pitches.
const FEW: usize = 3;
/// Two tones are taken in the place of one only where they leave less than this part of the mean square that the one leaves.
const EXPLAINS_MORE: f64 = 0.8;
/// Two fits whose decay rates lie further apart than this many standard errors are not of the same.
const DISAGREE: f64 = 4.0;
/// Amplitude decay rates a drum can have, 1/s.
const PLAUSIBLE_DECAY: std::ops::Range<f64> = 0.4..230.0;

/// How bands are fitted.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Way {
    /// From where the pitch has settled, and earlier for what has gone by then; tones next to each other are taken for one that glides.
    Usual,
    /// The same, but tones next to each other stay two.
    Apart,
    /// As usual, and what comes out louder at the hit than the whole sound is kept.
    Unjudged,
    /// The pitch does not fall: from as early as the filters allow.
    Straight,
}

/// By what the tones of a strike were found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum FoundBy {
    /// All tones fitted together to the whole sound.
    WholeSound,
    /// The same, with two tones in the place of one whose pitch seemed to fall.
    PairInWholeSound,
    /// Two tones that began against each other, in bands.
    PairInBands,
    /// Bands of the sound on an axis on which its pitch does not fall.
    Straightened,
    /// Two tones that beat so slowly that no band shows it.
    SlowlyBeatingPair,
    /// Bands alone.
    Bands,
    /// The first moments after the hit; no tones where those show none either.
    FirstMoments,
}

/// Finds partials; holds the filters for one sample rate.
pub struct PartialFinder {
    first: Decimator,
    whole: WholeSound,
    band: Decimator,
    slow_rate: f64,
    rate: f64,
}

impl PartialFinder {
    /// For `rate` samples a second (8 to 192 kHz).
    pub fn new(rate: f64) -> Self {
        let factor = (rate / SLOW_RATE).floor().max(1.0) as usize;
        let slow_rate = rate / factor as f64;
        let first = Decimator { filter: LowPass::new(1.08 * MAX_HZ, slow_rate - 1.15 * MAX_HZ, 80.0, rate), factor };
        let band_factor = (slow_rate / 320.0).round() as usize;
        let band = Decimator { filter: LowPass::new(58.0, 140.0, 70.0, slow_rate), factor: band_factor };
        Self { first, whole: WholeSound::new(rate, MAX_HZ), band, slow_rate, rate }
    }

    /// The sound thinned out to a rate that just carries [`MAX_HZ`], and that rate.
    pub fn slow(&self, samples: &[f32]) -> (Vec<f64>, f64) {
        let input: Vec<f64> = samples.iter().map(|x| f64::from(*x)).collect();
        (self.first.real(&input), self.slow_rate)
    }

    /// Partials of one strike, low to high, levels taken back to the hit; and the amplitude (full scale 1) of the loudest there.
    ///
    /// `slow`: the thinned-out sound from [`slow`](Self::slow).
    pub fn find(&self, slow: &[f64], span: &Span) -> (Vec<Partial>, f64) {
        as_partials(&self.in_bands(slow, span, Way::Usual).0)
    }

    /// The same from the whole sound's `samples` (full scale 1) beside `slow`: partials found in bands are fitted together once more
    /// from as soon after the hit as the sound holds nothing else.
    pub fn find_in(&self, samples: &[f32], slow: &[f64], span: &Span) -> (Vec<Partial>, f64) {
        as_partials(&self.tones_in(samples, slow, span).1)
    }

    /// Which way led to the tones of a strike, and those tones. What is asked later is asked only where what came before gave no answer.
    fn tones_in(&self, samples: &[f32], slow: &[f64], span: &Span) -> (FoundBy, Vec<DampedSinusoid>) {
        let (found, anything) = self.in_bands(slow, span, Way::Usual);
        let whole = self.polished(samples, span, &found);
        if let Some(pair) = self.apart(samples, slow, span, (&found, &anything), whole.as_ref().map(|(_, left)| *left)) {
            return pair;
        }
        if let Some((whole, _)) = whole {
            return (FoundBy::WholeSound, whole);
        }
        if let Some(straight) = self.straightened(slow, span) {
            return (FoundBy::Straightened, straight);
        }
        // A pair that beats so slowly that no band shows it looks like one, or like one that was louder at the hit than the whole sound.
        let unjudged = if found.is_empty() { self.in_some_bands(slow, span, Way::Unjudged, &anything).0 } else { Vec::new() };
        let one = if found.is_empty() { &unjudged } else { &found };
        if one.len() <= FEW
            && let Some(pair) = self.whole.as_pair(samples, span, one)
        {
            return (FoundBy::SlowlyBeatingPair, pair);
        }
        if any_decays(&found) {
            return (FoundBy::Bands, found);
        }
        (FoundBy::FirstMoments, self.short(samples, span))
    }

    /// `tones` fitted together to the whole sound, where any of them decays, with the mean square that they leave.
    fn polished(&self, samples: &[f32], span: &Span, tones: &[DampedSinusoid]) -> Option<(Vec<DampedSinusoid>, f64)> {
        any_decays(tones).then(|| self.whole.polished(samples, span, tones)).flatten()
    }

    /// Two tones next to each other that look like one whose pitch falls, where they are two: that shows in the whole sound, of which one leaves
    /// `least`. One tone that swells is none; two that began against each other do.
    fn apart(
        &self,
        samples: &[f32],
        slow: &[f64],
        span: &Span,
        (found, anything): (&[DampedSinusoid], &[bool]),
        left_by_one: Option<f64>,
    ) -> Option<(FoundBy, Vec<DampedSinusoid>)> {
        if found.len() > FEW {
            return None;
        }
        let apart = self.in_some_bands(slow, span, Way::Apart, anything).0;
        let twice = if apart.len() > found.len() { self.polished(samples, span, &apart) } else { None };
        let all_decay = |tones: &[DampedSinusoid]| tones.iter().all(|tone| PLAUSIBLE_DECAY.contains(&tone.decay) || is_steady(tone));
        let least = left_by_one.map_or(f64::INFINITY, |left| EXPLAINS_MORE * left);
        match twice.filter(|(tones, left)| all_decay(tones) && *left < least) {
            Some((twice, _)) => Some((FoundBy::PairInWholeSound, twice)),
            None => (!any_decays(found) && any_decays(&apart)).then_some((FoundBy::PairInBands, apart)),
        }
    }

    /// Tones of a pitch that falls far and so sweeps through bands: the sound is put on an axis on which it does not.
    fn straightened(&self, slow: &[f64], span: &Span) -> Option<Vec<DampedSinusoid>> {
        let fall = Fall::of(slow, self.slow_rate, span)?;
        let straight = self.in_bands(&fall.straightened(slow, self.slow_rate, span), span, Way::Straight).0;
        any_decays(&straight).then_some(straight)
    }

    /// Tones of which nothing lasted until the bands' filters had settled.
    fn short(&self, samples: &[f32], span: &Span) -> Vec<DampedSinusoid> {
        let short = self.whole.short(samples, span);
        let is_sure =
            |tone: &DampedSinusoid| tone.amplitude.norm() > SURE_AMPLITUDE * tone.amplitude_sd && PLAUSIBLE_DECAY.contains(&tone.decay);
        let polished = self.whole.polished(samples, span, &short).filter(|(tones, _)| tones.iter().all(is_sure));
        polished.map(|(tones, _)| tones).unwrap_or_default()
    }

    /// Tones in all bands, and in which of those there was anything but noise.
    fn in_bands(&self, slow: &[f64], span: &Span, way: Way) -> (Vec<DampedSinusoid>, Vec<bool>) {
        self.in_some_bands(slow, span, way, &vec![true; ((MAX_HZ - MIN_HZ) / BAND_HZ).ceil() as usize])
    }

    /// The same, looked for only in the bands `wanted`.
    fn in_some_bands(&self, slow: &[f64], span: &Span, way: Way, wanted: &[bool]) -> (Vec<DampedSinusoid>, Vec<bool>) {
        let mut found: Vec<DampedSinusoid> = Vec::new();
        let in_bands: Vec<(f64, Vec<DampedSinusoid>, bool)> = (0..wanted.len())
            .into_par_iter()
            .map(|index| {
                let centre = MIN_HZ + BAND_HZ * (index as f64 + 0.5);
                let (tones, anything) = if wanted[index] { self.find_in_band(slow, span, centre, way) } else { (Vec::new(), false) };
                (centre, tones, anything)
            })
            .collect();
        let anything = in_bands.iter().map(|(_, _, anything)| *anything).collect();
        // Bands overlap a little: what lies at an edge is found twice, and the surer one counts.
        let mut at_edge: Vec<bool> = Vec::new();
        for (centre, tones, _) in in_bands {
            for tone in tones {
                let width = (tone.decay / std::f64::consts::PI).max(1.0);
                let edge = (tone.hz - centre).abs() > 0.45 * BAND_HZ;
                let twin = (0..found.len()).find(|i| (found[*i].hz - tone.hz).abs() < 0.5 * width && (edge || at_edge[*i]));
                match twin {
                    Some(i) if found[i].decay_sd > tone.decay_sd => (found[i], at_edge[i]) = (tone, edge),
                    Some(_) => {}
                    None => {
                        found.push(tone);
                        at_edge.push(edge);
                    }
                }
            }
        }
        (found, anything)
    }

    /// Tones in the band at `centre`, and whether anything in it stood out of the noise.
    fn find_in_band(&self, slow: &[f64], span: &Span, centre: f64, way: Way) -> (Vec<DampedSinusoid>, bool) {
        let band = Band::new(self, slow, span, centre, way);
        let settled = if band.late > band.early { band.fitted(band.late, LONGEST_S, &|_| true, &|_| true) } else { Fitted::default() };
        let fading = Fading::of(&band, &settled.tones);
        let longest_s = if band.late > band.early { LONGEST_EARLY_S } else { LONGEST_S };
        let early = band.fitted(band.early, longest_s, &|decay| fading.is_worth(decay), &|tone| fading.is_wanted(tone));
        let tones = fading.with_early(settled.tones, early.tones);
        (band.without_artefacts(tones, slow), settled.anything || early.anything)
    }

    /// A tone of the band at `centre`, fitted from `began` s after the hit, as it was at the hit and before the filters.
    fn at_the_hit(&self, tone: DampedSinusoid, centre: f64, began: f64) -> DampedSinusoid {
        let gain = self.band.filter.gain(tone.hz, tone.decay) * self.first.filter.gain(tone.hz + centre, tone.decay);
        let back = (tone.decay * began).exp() / gain.norm();
        let turned = Complex64::from_polar(back, -2.0 * std::f64::consts::PI * tone.hz * began);
        DampedSinusoid { hz: tone.hz + centre, amplitude: tone.amplitude * turned, amplitude_sd: tone.amplitude_sd * back, ..tone }
    }

    /// Shortest settling time that the filters allow, s.
    pub fn shortest_settle_s(&self) -> f64 {
        self.band.filter.reach_s() + self.first.filter.half_len() as f64 / self.rate + 0.004
    }
}

/// One band of a strike, brought down to a low rate.
struct Band<'a> {
    finder: &'a PartialFinder,
    span: &'a Span,
    way: Way,
    /// Its middle, Hz.
    centre: f64,
    signal: Vec<Complex64>,
    /// Samples a second of it.
    rate: f64,
    /// Samples from which it is fitted: as early as the filters allow, and once the pitch has settled; and where it ends.
    early: usize,
    late: usize,
    end: usize,
}

/// Tones of one stretch of a band, and whether anything in it stood out of the noise.
#[derive(Default)]
struct Fitted {
    tones: Vec<DampedSinusoid>,
    anything: bool,
}

impl<'a> Band<'a> {
    fn new(finder: &'a PartialFinder, slow: &[f64], span: &'a Span, centre: f64, way: Way) -> Self {
        let rate = finder.slow_rate / finder.band.factor as f64;
        let reach = finder.band.filter.reach_s();
        let last_s = span.onset_s + SETTLED_S.max(span.clipped_s) + LONGEST_S + 3.0 * reach;
        let signal = finder.band.baseband(&slow[..slow.len().min((last_s * finder.slow_rate) as usize)], centre);
        // The filter must not see the hit itself, nor what lies behind the end.
        let end = (((span.onset_s + span.length_s - reach) * rate) as usize).min(signal.len());
        let clear = span.clipped_s + reach + finder.first.filter.reach_s();
        let early = ((span.onset_s + span.settle_s.max(reach + 0.004).max(clear)) * rate).ceil() as usize;
        let late = if way == Way::Straight { early } else { ((span.onset_s + SETTLED_S.max(clear)) * rate).ceil() as usize };
        Self { finder, span, way, centre, signal, rate, early, late, end }
    }

    /// Tones from sample `start` on that are `wanted` as they were at the hit; none where nothing decays at a rate (1/s) that is `worth` it. What is
    /// not wanted need not be fitted to the last, nor its standard errors known.
    fn fitted(&self, start: usize, longest_s: f64, worth: &dyn Fn(f64) -> bool, wanted: &dyn Fn(&DampedSinusoid) -> bool) -> Fitted {
        let end = self.end.min(start + (longest_s * self.rate) as usize);
        if end < start + 12 {
            return Fitted::default();
        }
        let end = start + useful_len(&self.signal[start..end]);
        let noise_bandwidth = self.finder.band.filter.noise_bandwidth();
        let stretch = Stretch::new(&self.signal[start..end], self.rate, noise_bandwidth, self.span.energy_rate);
        let began = start as f64 / self.rate - self.span.onset_s;
        let (mut tones, bends) = fit(&stretch, self.way == Way::Apart && start == self.late, worth);
        let anything = !tones.is_empty();
        let at_the_hit = |tone: DampedSinusoid| self.finder.at_the_hit(tone, self.centre, began);
        let wanted = |tone: &DampedSinusoid| self.is_likely(tone) && wanted(&at_the_hit(*tone));
        if tones.iter().any(wanted) {
            ask_parts(&stretch, &mut tones, bends);
        }
        Fitted { tones: tones.into_iter().filter(wanted).map(at_the_hit).collect(), anything }
    }

    fn is_likely(&self, tone: &DampedSinusoid) -> bool {
        let inside = tone.hz.abs() <= 0.55 * BAND_HZ && tone.hz + self.centre >= MIN_HZ;
        inside && (tone.decay_sd < 0.6 * tone.decay || is_steady(tone))
    }

    /// `tones` without artefacts that were drawn out to the hit: no partial was louder there than the whole sound ever is (a pair that began
    /// against each other swells first).
    fn without_artefacts(&self, tones: Vec<DampedSinusoid>, slow: &[f64]) -> Vec<DampedSinusoid> {
        let slow_rate = self.finder.slow_rate;
        let hit = (self.span.onset_s * slow_rate) as usize;
        let loudest = slow[hit.min(slow.len())..].iter().take((0.3 * slow_rate) as usize).fold(0f64, |most, x| most.max(x.abs()));
        // The members of a close pair may have begun against each other: they count together.
        let together =
            |hz: f64| -> Complex64 { tones.iter().filter(|near| (near.hz - hz).abs() < PAIR_HZ).map(|near| near.amplitude).sum() };
        let fitted_from_s = self.late.max(self.early) as f64 / self.rate - self.span.onset_s;
        let judged = |tone: &DampedSinusoid| {
            // A real tone of amplitude A is two exponentials of A / 2. Of a sound that was cut off, nobody knows how loud it was.
            let size = 2.0 * together(tone.hz).norm();
            if size < 1.5 * loudest || self.span.clipped_s > 0.0 || self.way == Way::Unjudged {
                return Some(*tone);
            }
            // What lasts is a partial all the same; only how loud it was at the hit is not known better than that.
            let most = (BESIDE_OTHERS * loudest / (2.0 * tone.amplitude.norm())).min(1.0);
            let held = DampedSinusoid { amplitude: tone.amplitude * most, amplitude_sd: tone.amplitude_sd * most, ..*tone };
            (tone.decay * fitted_from_s <= DRAWN_OUT).then_some(held)
        };
        tones.iter().filter_map(judged).collect()
    }
}

/// What of a band fades so early that the pitch had not settled by then.
struct Fading {
    settled: Vec<DampedSinusoid>,
    /// Those of them that have nearly gone: they are asked of the early stretch too.
    fading: Vec<DampedSinusoid>,
    /// Whether there is no late stretch, or too little of it to show anything.
    no_late: bool,
}

impl Fading {
    fn of(band: &Band, settled: &[DampedSinusoid]) -> Self {
        let short_late = settled.is_empty() && ((band.end.saturating_sub(band.late)) as f64) < SHORT_LATE_S * band.rate;
        let fading = Self { settled: settled.to_vec(), fading: Vec::new(), no_late: band.late <= band.early || short_late };
        Self { fading: settled.iter().filter(|tone| fading.fades_early(tone.decay)).copied().collect(), ..fading }
    }

    fn fades_early(&self, decay: f64) -> bool {
        self.no_late || LN_1000 / decay < GONE_T60_S
    }

    fn is_worth(&self, decay: f64) -> bool {
        self.fades_early(decay) || !self.fading.is_empty()
    }

    fn is_wanted(&self, tone: &DampedSinusoid) -> bool {
        self.fades_early(tone.decay) || self.fading.iter().any(|other| near(tone, other))
    }

    /// `tones`, the settled ones, with what the early stretch knows better or alone.
    fn with_early(&self, mut tones: Vec<DampedSinusoid>, early: Vec<DampedSinusoid>) -> Vec<DampedSinusoid> {
        for tone in early {
            let off = |index: &usize| (self.settled[*index].hz - tone.hz).abs();
            let same = (0..self.settled.len()).filter(|index| near(&tone, &self.settled[*index]));
            match same.min_by(|a, b| off(a).total_cmp(&off(b))) {
                // Of a partial that has nearly gone by then, the late fit sees little but noise.
                Some(index) if doubt(&tone) < 0.5 * doubt(&tones[index]) => tones[index] = tone,
                // Where neither is the surer and they disagree there is more than one partial, and neither says how it decays.
                Some(index) if self.fades_early(self.settled[index].decay) && disagree(&tone, &tones[index]) => {
                    let apart = (tone.decay - tones[index].decay).abs();
                    tones[index] = DampedSinusoid { decay_doubt: tone.decay_doubt.max(apart), ..tone };
                }
                Some(_) => {}
                None => tones.push(tone),
            }
        }
        tones
    }
}

/// Whether any of `tones` decays as a drum's do.
fn any_decays(tones: &[DampedSinusoid]) -> bool {
    tones.iter().any(|tone| PLAUSIBLE_DECAY.contains(&tone.decay))
}

/// Whether two tones may be the same one, early and late.
fn near(tone: &DampedSinusoid, other: &DampedSinusoid) -> bool {
    (other.hz - tone.hz).abs() < 4.0 + 0.06 * tone.hz
}

/// Doubt of how fast a tone decays, as a part of it.
fn doubt(tone: &DampedSinusoid) -> f64 {
    tone.decay_sd.max(tone.decay_doubt) / tone.decay
}

/// Whether two fits of one partial say different things of how fast it decays.
fn disagree(one: &DampedSinusoid, other: &DampedSinusoid) -> bool {
    (one.decay - other.decay).abs() > DISAGREE * one.decay_sd.hypot(other.decay_sd)
}

/// Whether a tone goes on as it is: hum, not a drum.
fn is_steady(tone: &DampedSinusoid) -> bool {
    tone.decay < PLAUSIBLE_DECAY.start && tone.decay_sd < 1.0
}

/// Partials of `found`, steady tones left out, and the amplitude of the loudest.
fn as_partials(found: &[DampedSinusoid]) -> (Vec<Partial>, f64) {
    let found: Vec<&DampedSinusoid> = found.iter().filter(|tone| PLAUSIBLE_DECAY.contains(&tone.decay)).collect();
    // A tone of which nobody knows how fast it decays may have been drawn back to the hit by far too much.
    let known = |tone: &&&DampedSinusoid| tone.decay_sd < SURE_T60 * tone.decay;
    let size = |tone: &&DampedSinusoid| tone.amplitude.norm();
    let loudest = found.iter().filter(known).map(size).fold(0.0, f64::max);
    let loudest = if loudest > 0.0 { loudest } else { found.iter().map(size).fold(0.0, f64::max) };
    let mut partials: Vec<Partial> = found
        .iter()
        .filter(|tone| decibels(tone.amplitude.norm() / loudest) > WEAKEST_DB)
        .map(|tone| {
            let sure = tone.decay_sd < SURE_T60 * tone.decay && tone.decay_doubt < DOUBTFUL_T60 * tone.decay;
            Partial {
                hz: tone.hz,
                t60_s: sure.then(|| LN_1000 / tone.decay),
                t60_sd_s: sure.then(|| LN_1000 / tone.decay * tone.decay_sd.max(tone.decay_doubt) / tone.decay),
                t60_scatter_s: None,
                level_db: decibels(tone.amplitude.norm() / loudest).min(0.0),
                tone: None,
            }
        })
        .collect();
    partials.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    // Shifted to 0 Hz, a real tone keeps half of its amplitude.
    (partials, 2.0 * loudest)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::decay_rate;
    use proptest::prelude::*;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    /// (Hz, T60 s, amplitude)
    fn strike(rate: f64, tones: &[(f64, f64, f64)], noise: f64, seed: u64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(seed);
        let mut normal = || (0..12).map(|_| rng.random_range(-0.5..0.5)).sum::<f64>();
        (0..(2.5 * rate) as usize)
            .map(|n| {
                let t = n as f64 / rate - 0.05;
                let sound: f64 = if t < 0.0 {
                    0.0
                } else {
                    tones.iter().map(|(hz, t60, a)| a * (-decay_rate(*t60) * t).exp() * (2.0 * std::f64::consts::PI * hz * t).sin()).sum()
                };
                (sound + noise * normal()) as f32
            })
            .collect()
    }

    fn span(finder: &PartialFinder) -> Span {
        Span { onset_s: 0.05, settle_s: finder.shortest_settle_s(), length_s: 2.4, energy_rate: 15.0, clipped_s: 0.0 }
    }

    fn find(samples: &[f32], rate: f64) -> Vec<Partial> {
        let finder = PartialFinder::new(rate);
        let (slow, _) = finder.slow(samples);
        finder.find(&slow, &span(&finder)).0
    }

    /// Which way leads to the tones shows what kind of sound it is.
    #[test]
    fn plain_tones_are_found_in_the_whole_sound() {
        let samples = strike(48_000.0, &[(140.0, 0.8, 0.4), (225.0, 0.6, 0.2), (300.0, 0.5, 0.1)], 0.5e-3, 3);
        let finder = PartialFinder::new(48_000.0);
        let (slow, _) = finder.slow(&samples);
        assert_eq!(finder.tones_in(&samples, &slow, &span(&finder)).0, FoundBy::WholeSound);
    }

    /// A sine of amplitude 0.5 has half of that over the square root of two as its RMS value: -9.03 dBFS.
    #[test]
    fn the_loudest_partial_is_given_with_its_amplitude() {
        let finder = PartialFinder::new(48_000.0);
        let (slow, _) = finder.slow(&strike(48_000.0, &[(220.0, 0.8, 0.5), (415.0, 0.4, 0.2)], 0.5e-3, 3));
        let (_, loudest) = finder.find(&slow, &span(&finder));
        assert!((loudest - 0.5).abs() < 0.03, "{loudest}");
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(30))]
        #[test]
        fn one_damped_tone_is_found_once_with_its_decay_time(hz in 50f64..900.0, t60 in 0.12f64..2.0, seed in 0u64..999) {
            let found = find(&strike(48_000.0, &[(hz, t60, 0.5)], 0.5e-3, seed), 48_000.0);
            let loud: Vec<_> = found.iter().filter(|p| p.level_db > -35.0).collect();
            prop_assert_eq!(loud.len(), 1, "{:?}", found);
            prop_assert!((loud[0].hz - hz).abs() < 0.4);
            let measured = loud[0].t60_s.expect("a clear tone has a decay time");
            prop_assert!((measured / t60 - 1.0).abs() < 0.06, "{measured} for {t60} at {hz} Hz");
        }
    }

    #[test]
    fn two_partials_four_hertz_apart_are_told_apart() {
        let found = find(&strike(44_100.0, &[(300.0, 0.6, 0.3), (304.0, 0.6, 0.3)], 3e-3, 5), 44_100.0);
        for wanted in [300.0, 304.0] {
            let near = found.iter().find(|p| (p.hz - wanted).abs() < 1.0).unwrap_or_else(|| panic!("{wanted} Hz missing in {found:?}"));
            assert!((near.t60_s.unwrap() / 0.6 - 1.0).abs() < 0.10, "{near:?}");
        }
    }

    #[test]
    fn levels_are_those_at_the_hit() {
        let found = find(&strike(48_000.0, &[(120.0, 0.9, 0.4), (255.0, 0.3, 0.2)], 1e-4, 1), 48_000.0);
        assert!((found[0].level_db - 0.0).abs() < 0.2 && (found[1].level_db + 6.0).abs() < 0.5, "{found:?}");
    }

    #[test]
    fn noise_alone_has_no_partial() {
        let found = find(&strike(48_000.0, &[], 0.05, 11), 48_000.0);
        assert!(found.iter().all(|p| p.t60_s.is_none()), "{found:?}");
    }

    /// A pole of the noise beside a partial made both unsure; at a band's edge one partial was taken for two.
    #[test]
    fn a_fast_partial_is_found_once_wherever_it_lies_in_its_band() {
        for (hz, t60, seed) in
            [(587.0, 0.12, 666), (654.2, 0.12, 750), (878.2, 0.14, 1030), (587.0, 0.17, 666), (665.4, 0.17, 764), (755.0, 0.17, 876)]
        {
            let found = find(&strike(48_000.0, &[(hz, t60, 0.5)], 0.5e-3, seed), 48_000.0);
            let loud: Vec<_> = found.iter().filter(|p| p.level_db > -35.0).collect();
            assert!(loud.len() == 1 && (loud[0].hz - hz).abs() < 0.4, "{hz} Hz: {found:?}");
            assert!((loud[0].t60_s.unwrap() / t60 - 1.0).abs() < 0.06, "{hz} Hz: {found:?}");
        }
    }
}
