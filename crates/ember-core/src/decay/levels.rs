//! The level in a narrow band over time: what is really heard of a tone. Where a fitted decay and the level disagree, the level is believed.
//!
//! Each band is a Gaussian window over the spectrum, so that its impulse response is Gaussian too: of all band-pass filters it has the smallest
//! product of duration and bandwidth (D. Gabor, *Theory of communication*, J. IEE 93, 1946), and it does not ring.

use super::partials::{MAX_HZ, MIN_HZ};
use crate::numeric::Regression;
use crate::signal::transform::{inverse, real_forward};
use crate::tone::{HeardBy, Partial};
use crate::units::{amplitude, decibels, median, sum_levels};
use num_complex::Complex64;
use std::f64::consts::PI;

/// Standard deviation of a band's window, as a part of its middle frequency.
const WIDTH: f64 = 0.1;
/// Windows are cut off so many standard deviations from their middle.
const WINDOW_SDS: f64 = 4.0;
/// An impulse response is over after so many of its standard deviations.
const RESPONSE_SDS: f64 = 3.0;
/// Partials lie in the same band if the logarithms of their pitches differ by less than this.
const SAME_BAND_LN: f64 = 2.0 * WIDTH;
/// A neighbour in the band that is more than this below a partial does not change the band's level noticeably, dB.
const NEGLIGIBLE_DB: f64 = 15.0;
/// The regression line of a level begins and ends this far below the highest level, dB, and needs at least this much between its ends, dB.
const LINE_FROM_DB: f64 = 2.0;
const LINE_TO_DB: f64 = 27.0;
const LEAST_LINE_DB: f64 = 9.0;
/// Fewer points than this make no line.
const LEAST_POINTS: usize = 3;
/// A level counts while it is this far above the noise in its band, dB.
const OVER_NOISE_DB: f64 = 6.0;
/// A partial and the level in its band are compared by the times at which they have fallen this far below the highest level, dB.
const FALLS_DB: [f64; 2] = [15.0, 25.0];
/// They agree if those times differ by less than the largest of: this part of the time, this time (s), and so many standard deviations of the
/// impulse response.
const AGREE_PART: f64 = 0.1;
const AGREE_S: f64 = 0.02;
const AGREE_SDS: f64 = 2.5;
/// A partial further than this below the highest level in its band does not make that level, another tone does, dB.
const MAKES_LEVEL_DB: f64 = 6.0;
/// A level that is further than this off its regression line (root mean square, dB) bends.
const BENDS_DB: f64 = 1.0;
/// A level that is further than this off its regression line (root mean square, dB) is that of two tones that beat: then only a decay time that is
/// off by more than this (logarithm) is contradicted.
const BEATS_DB: f64 = 2.5;
const BEATEN_LN: f64 = 0.5;
/// A partial is told to fade on several slopes if its decay time changes by more than this (logarithm).
const SEVERAL_SLOPES_LN: f64 = 0.3;
/// Partials further than this below the loudest are not compared, dB.
const WEAKEST_DB: f64 = -26.0;
/// A band whose highest level is this far above the sum of the partials in it holds a tone that was not found, dB.
const UNEXPLAINED_DB: f64 = 3.0;
/// A low tone that was missed is within this of the loudest band, dB.
const MISSED_WITHIN_DB: f64 = 6.0;
/// A band lies below a tone if the tone is so many times as high.
const ABOVE: f64 = 1.2;
/// Bands in an octave in which such tones are looked for, and how many tones are taken at most.
const BANDS_AN_OCTAVE: f64 = 6.0;
const MOST_UNEXPLAINED: usize = 2;
/// Decay times shorter than so many standard deviations of the impulse response cannot be told from the filter's own.
const SHORTEST_SDS: f64 = 5.0;
/// Least relative standard error of a decay time read off a level (from experience, no published source).
const LEAST_DOUBT: f64 = 0.1;
/// A line is not drawn back to the hit further than this above the highest level, dB.
const MOST_BACK_DB: f64 = 6.0;
/// In its octave a strike counts as heard down to this far below its loudest tone, dB: about what a band covers. Tones further than this below the loudest are
/// not held against their octave, whose edges let more of their neighbours through.
const GONE_DB: f64 = 25.0;
const CARRIES_DB: f64 = 12.0;
const LEAST_OVER_DB: f64 = 1.0;
/// An octave's edges slope over so much of an octave to each side, its level is a mean over so long (s), and what is over after so many standard deviations of
/// its response is the filter's.
const OCTAVE_EDGE: f64 = 0.1;
const SMOOTH_S: f64 = 0.01;
const OCTAVE_SDS: f64 = 2.0;
/// Tones of an octave and its level agree within this part of the time, and this time, s; so much wider where the level goes up and down.
const AGREE_OCTAVE_PART: f64 = 0.12;
const AGREE_OCTAVE_S: f64 = 0.025;
const BEATS_WIDE: f64 = 1.6;
/// Kicks and toms begin lower than this, Hz: a snare's body lies above.
const LOW_HZ: f64 = 110.0;
/// Level of nothing, dB.
const NOTHING_DB: f64 = -240.0;

/// What is left when fitted partials were compared with the levels in their bands.
pub(super) struct Compared {
    /// Low to high, levels against the loudest.
    pub partials: Vec<Partial>,
    /// Amplitude of the loudest at the hit (full scale 1).
    pub loudest: f64,
    /// Whether a tone's decay time came out quite another, which is what fading fast at first and slowly later does.
    pub several_slopes: bool,
}

/// The spectrum of one strike, from which the level in any band is read.
pub(super) struct BandLevels {
    spectrum: Vec<Complex64>,
    bin_hz: f64,
    onset_s: f64,
    end_s: f64,
    /// Whether the recording ends in noise.
    decayed: bool,
}

/// Level over time in one band.
struct Course {
    /// Squared amplitude (full scale 1), from the hit until the impulse response at the recording's end begins. Only what is compared or drawn
    /// through becomes a level in dB: logarithms of all of it would take longer than its transform.
    power: Vec<f64>,
    step_s: f64,
    noise_db: f64,
    /// Standard deviation of the band's impulse response, s.
    response_sd_s: f64,
    /// Mean frequency in the band weighted by power, Hz.
    hz: f64,
}

/// A decay read off a level by its regression line.
struct Decay {
    /// Level at the hit, dB.
    level_db: f64,
    t60_s: f64,
    /// Standard error of the decay time, s.
    t60_sd_s: f64,
    /// Root mean square distance of the level from the line, dB.
    scatter_db: f64,
}

impl BandLevels {
    /// Of the thinned-out sound `slow` of `rate` samples a second, hit at `onset_s`; `decayed`: it ends in noise.
    pub fn new(slow: &[f64], rate: f64, onset_s: f64, decayed: bool) -> Self {
        let padded = (slow.len() + (0.3 * rate) as usize).next_power_of_two();
        let transform = real_forward(padded);
        let mut input = transform.make_input_vec();
        input[..slow.len()].copy_from_slice(slow);
        let mut spectrum = transform.make_output_vec();
        // Lengths are the transform's own, so it cannot fail.
        let _ = transform.process(&mut input, &mut spectrum);
        let end_s = slow.len() as f64 / rate;
        Self { spectrum, bin_hz: rate / padded as f64, onset_s, end_s, decayed }
    }

    /// The level about `hz`, in a narrow band.
    fn course(&self, hz: f64) -> Course {
        let sd_hz = WIDTH * hz;
        let reach = (WINDOW_SDS * sd_hz / self.bin_hz).ceil() as usize;
        // Values of a Gaussian one bin apart have ratios that are one more geometric series.
        let step = (-0.5 * (self.bin_hz / sd_hz).powi(2)).exp();
        let (mut weight, mut ratio) = (1.0, step);
        let side: Vec<f64> = (0..=reach)
            .map(|_| {
                let here = weight;
                (weight, ratio) = (weight * ratio, ratio * step * step);
                here
            })
            .collect();
        self.course_through(hz, [&side, &side], 1.0 / (2.0 * PI * sd_hz))
    }

    /// The level in the octave about `hz`. Its edges slope over a part of the octave, so that it rings little.
    fn octave(&self, hz: f64) -> Course {
        let middle = (hz / self.bin_hz).round().max(1.0);
        let weight = |bin: f64| {
            let octaves = (bin / middle).log2().abs();
            (((0.5 + OCTAVE_EDGE - octaves) / (2.0 * OCTAVE_EDGE)).clamp(0.0, 1.0) * 0.5 * PI).sin().powi(2)
        };
        let reach = |octaves: f64| (middle * (2f64.powf(octaves) - 1.0)).abs().ceil() as usize;
        let up: Vec<f64> = (0..=reach(0.5 + OCTAVE_EDGE)).map(|off| weight(middle + off as f64)).collect();
        let down: Vec<f64> = (0..=reach(-0.5 - OCTAVE_EDGE)).map(|off| weight(middle - off as f64)).collect();
        self.course_through(hz, [&up, &down], 1.0 / (2.0 * PI * OCTAVE_EDGE * hz))
    }

    /// The level about `hz` through a window over the spectrum, given by its weights at the bins from the middle on upwards and downwards: the band is
    /// shifted down to 0 Hz and transformed back at a rate that just carries it.
    fn course_through(&self, hz: f64, [up, down]: [&[f64]; 2], response_sd_s: f64) -> Course {
        let length = (2 * up.len().max(down.len())).next_power_of_two();
        let middle = (hz / self.bin_hz).round() as usize;
        let mut band = vec![Complex64::default(); length];
        let above = up.iter().enumerate().map(|(off, weight)| (middle + off, off, weight));
        let below = down.iter().enumerate().map(|(off, weight)| (middle.wrapping_sub(off), (length - off) % length, weight));
        for (bin, place, weight) in above.chain(below) {
            if (1..self.spectrum.len()).contains(&bin) {
                band[place] = 2.0 * weight * self.spectrum[bin];
            }
        }
        inverse(length).process(&mut band);
        let whole = 2 * (self.spectrum.len() - 1);
        let step_s = 1.0 / (self.bin_hz * length as f64);
        let end_s = (self.end_s - RESPONSE_SDS * response_sd_s).max(self.onset_s);
        let from = ((self.onset_s / step_s).ceil() as usize).min(length);
        let heard = &band[from..((end_s / step_s) as usize).clamp(from, length)];
        let scale = (whole as f64).powi(-2);
        let power: Vec<f64> = heard.iter().map(|z| z.norm_sqr() * scale).collect();
        let turn: Complex64 = heard.windows(2).map(|pair| pair[1] * pair[0].conj()).sum();
        let tail = power.get(power.len() - power.len() / 5..).filter(|_| self.decayed).and_then(median);
        Course {
            noise_db: tail.map_or(NOTHING_DB, level_of),
            power,
            step_s,
            response_sd_s,
            hz: middle as f64 * self.bin_hz + turn.arg() / (2.0 * PI * step_s),
        }
    }

    /// Compares `partials` (low to high, the loudest of amplitude `loudest`) with the levels in their bands: a decay time that the level
    /// contradicts, or that was not known, is read off the level, and loud bands that no partial explains are added as tones.
    pub fn compare(self, partials: Vec<Partial>, loudest: f64) -> Compared {
        let loudest_db = if loudest > 0.0 { decibels(loudest) } else { NOTHING_DB };
        let absolute: Vec<Partial> = partials.into_iter().map(|p| Partial { level_db: p.level_db + loudest_db, ..p }).collect();
        let mut several_slopes = false;
        let mut heard: Vec<Partial> = Vec::with_capacity(absolute.len());
        for (i, partial) in absolute.iter().enumerate() {
            let compared = partial.level_db >= loudest_db + WEAKEST_DB && has_band_to_itself(&absolute, i);
            let decay = if compared { self.course(partial.hz).contradicts(partial) } else { None };
            if let (Some(decay), Some(t60_s)) = (&decay, partial.t60_s) {
                let same_tone = (decay.level_db - partial.level_db).abs() < MAKES_LEVEL_DB;
                several_slopes |= same_tone && (decay.t60_s / t60_s).ln().abs() > SEVERAL_SLOPES_LN;
            }
            heard.push(decay.map_or_else(|| partial.clone(), |decay| decay.of(partial.hz)));
        }
        let lowest_bands_db = self.add_unexplained(&mut heard);
        let found_db = heard.iter().map(|p| p.level_db).fold(f64::NEG_INFINITY, f64::max);
        // The thump of a dead kick may be gone before a decay can be fitted to it. It is still the loudest of the strike: levels are given against it.
        let highest_db = if lowest_bands_db > found_db + UNEXPLAINED_DB && found_db.is_finite() { lowest_bands_db } else { found_db };
        self.hold_body_against_octave(&mut heard, highest_db);
        heard.iter_mut().for_each(|p| p.level_db -= highest_db);
        Compared { partials: heard, loudest: if highest_db.is_finite() { amplitude(highest_db) } else { loudest }, several_slopes }
    }

    /// Adds to `partials` (levels in full scale) the loudest bands that they do not explain. Returns the highest level of all bands lower than [`LOW_HZ`], dB.
    fn add_unexplained(&self, partials: &mut Vec<Partial>) -> f64 {
        let count = (BANDS_AN_OCTAVE * (MAX_HZ / MIN_HZ).log2()) as i32;
        let middles = (0..=count).map(|i| MIN_HZ * 2f64.powf(f64::from(i) / BANDS_AN_OCTAVE)).filter(|hz| hz * (1.0 + WIDTH) < MAX_HZ);
        let level_and_hz = |course: Course| (course.peak().map_or(NOTHING_DB, |peak| peak.1), course.hz);
        let mut bands: Vec<(f64, f64)> = middles.map(|hz| level_and_hz(self.course(hz))).collect();
        bands.sort_by(|a, b| b.0.total_cmp(&a.0));
        let top_db = bands.first().map_or(NOTHING_DB, |band| band.0);
        let (mut added, mut explained_before) = (0, false);
        for (level_db, hz) in bands.iter().copied().take_while(|band| band.0 >= top_db - CARRIES_DB) {
            // Once the loudest bands are explained, only a low tone below all that were found is one that was missed.
            let carries = |p: &&Partial| p.t60_s.is_some() && p.level_db > top_db - CARRIES_DB;
            let lies_below = || hz < LOW_HZ && partials.iter().filter(carries).all(|p| p.hz > ABOVE * hz);
            let may_be_missed = !explained_before || level_db > top_db - MISSED_WITHIN_DB && lies_below();
            if added == MOST_UNEXPLAINED || !may_be_missed {
                continue;
            }
            // The band's middle is put on what sounds in it.
            let course = self.course(hz);
            match course.unexplained_by(partials) {
                Some(decay) => {
                    partials.retain(|p| p.t60_s.is_some() || !in_one_band(p.hz, course.hz));
                    partials.push(decay.of(course.hz));
                    partials.sort_by(|a, b| a.hz.total_cmp(&b.hz));
                    added += 1;
                }
                None => explained_before = true,
            }
        }
        bands.iter().filter(|band| band.1 < LOW_HZ).map(|band| band.0).fold(NOTHING_DB, f64::max)
    }

    /// Holds the body among `partials` (levels in full scale) against the level of its octave: where the fitted tones of the octave, added up, are heard for
    /// shorter or longer than that level is, the body lasts as long as the level, and half of the difference is in doubt. Rings are left alone: overtones share their octaves, and the least
    /// difference in the sound decides which of them lasts longest.
    fn hold_body_against_octave(&self, partials: &mut [Partial], loudest_db: f64) {
        let relative: Vec<Partial> = partials.iter().map(|p| Partial { level_db: p.level_db - loudest_db, ..p.clone() }).collect();
        let Some(body) = HeardBy::Partials.body(&relative) else { return };
        let Some(by_level_s) = self.t60_by_octave(partials, body, loudest_db - GONE_DB) else { return };
        let off_s = partials[body].t60_s.map_or(0.0, |t60_s| (by_level_s - t60_s).abs());
        partials[body].t60_s = Some(by_level_s);
        partials[body].t60_sd_s = Some((LEAST_DOUBT * by_level_s).max(0.5 * off_s));
    }

    /// Decay time, s, with which the one of `partials` at place `i` falls to `gone_db` when the level of its octave does; none where the two agree, or where
    /// another tone makes that level.
    fn t60_by_octave(&self, partials: &[Partial], i: usize, gone_db: f64) -> Option<f64> {
        let (hz, over_db) = (partials[i].hz, partials[i].level_db - gone_db);
        let t60_s = partials[i].t60_s.filter(|_| over_db > LEAST_OVER_DB)?;
        let course = self.octave(hz).smoothed();
        let heard_s = course.fallen_below_s(gone_db).filter(|s| *s > OCTAVE_SDS * course.response_sd_s)?;
        let octave = Octave { partials, hz };
        let near_s = AGREE_OCTAVE_S.max(AGREE_OCTAVE_PART * heard_s);
        // No tone is heard for longer than all that sounds about it; but two that beat are under a level sooner than one would be.
        let over_s = over_db / 60.0 * t60_s - heard_s;
        let beats = || course.decay(&[]).is_some_and(|decay| decay.scatter_db > BEATS_DB);
        let too_long = (over_s > BEATS_WIDE * near_s || over_s > near_s && !beats()) && octave.is_alone(i, heard_s);
        let carries = over_db > GONE_DB - CARRIES_DB && octave.last_at(heard_s) == Some(i);
        let too_short = carries && octave.heard_s(gone_db) < heard_s - near_s;
        (too_long || too_short).then_some(60.0 * heard_s / over_db)
    }
}

/// The tones of `partials` (levels in full scale) in the octave about `hz`.
struct Octave<'a> {
    partials: &'a [Partial],
    hz: f64,
}

impl Octave<'_> {
    /// Levels at `t` s, with the tones' places.
    fn levels(&self, t: f64) -> impl Iterator<Item = (usize, f64)> {
        let within = |p: &Partial| (p.hz / self.hz).log2().abs() < 0.5;
        let all = self.partials.iter().enumerate().filter(move |(_, p)| within(p));
        all.filter_map(move |(i, p)| Some((i, p.level_db - 60.0 * t / p.t60_s?)))
    }

    /// Last time at which they are above `level_db` together, s.
    fn heard_s(&self, level_db: f64) -> f64 {
        let longest =
            |(i, level): (usize, f64)| self.partials[i].t60_s.map_or(0.0, |t60_s| (level + 6.0 - level_db).max(0.0) / 60.0 * t60_s);
        let (mut low, mut high) = (0.0, self.levels(0.0).map(longest).fold(0.0, f64::max));
        for _ in 0..16 {
            let middle = 0.5 * (low + high);
            let above = sum_levels(self.levels(middle).map(|(_, level)| level)) > level_db;
            (low, high) = if above { (middle, high) } else { (low, middle) };
        }
        low
    }

    /// Whether all others together lie well below the one at place `i` at `t` s.
    fn is_alone(&self, i: usize, t: f64) -> bool {
        let own = self.levels(t).find(|(at, _)| *at == i).map_or(NOTHING_DB, |(_, level)| level);
        sum_levels(self.levels(t).filter(|(at, _)| *at != i).map(|(_, level)| level)) < own - NEGLIGIBLE_DB
    }

    /// The loudest of them at `t` s.
    fn last_at(&self, t: f64) -> Option<usize> {
        self.levels(t).max_by(|a, b| a.1.total_cmp(&b.1)).map(|(i, _)| i)
    }
}

impl Decay {
    fn of(&self, hz: f64) -> Partial {
        Partial { hz, t60_s: Some(self.t60_s), t60_sd_s: Some(self.t60_sd_s), t60_scatter_s: None, level_db: self.level_db, tone: None }
    }
}

impl Course {
    /// The same, each level the mean over [`SMOOTH_S`].
    fn smoothed(self) -> Self {
        let half = (0.5 * SMOOTH_S / self.step_s).round() as usize;
        let mean = |at: usize| {
            let part = &self.power[at.saturating_sub(half)..(at + half + 1).min(self.power.len())];
            part.iter().sum::<f64>() / part.len() as f64
        };
        Self { power: (0..self.power.len()).map(mean).collect(), ..self }
    }

    /// Step and value of the highest level.
    fn peak(&self) -> Option<(usize, f64)> {
        let highest = self.power.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1));
        highest.map(|(at, power)| (at, level_of(*power)))
    }

    /// Last time at which the level is above `level_db`, s after the hit; none where noise or the end hide it.
    fn fallen_below_s(&self, level_db: f64) -> Option<f64> {
        let least = power_of(level_db);
        if level_db < self.noise_db + OVER_NOISE_DB || self.power.last().is_none_or(|last| *last > least) {
            return None;
        }
        self.power.iter().rposition(|power| *power > least).map(|at| (at + 1) as f64 * self.step_s)
    }

    /// The decay by the level, where `partial` (its level in full scale) has none or another.
    fn contradicts(&self, partial: &Partial) -> Option<Decay> {
        let Some(t60_s) = partial.t60_s else { return self.decay(&[]) };
        let highest = self.peak()?.1;
        if partial.level_db < highest - MAKES_LEVEL_DB {
            return None;
        }
        let agrees = |level_db: f64| {
            let heard_s = self.fallen_below_s(level_db)?;
            let fitted_s = (partial.level_db - level_db) / 60.0 * t60_s;
            Some((heard_s - fitted_s).abs() < AGREE_S.max(AGREE_PART * heard_s).max(AGREE_SDS * self.response_sd_s))
        };
        let disagrees = FALLS_DB.iter().any(|fall| agrees(highest - fall) == Some(false));
        let far_off = |decay: &Decay| decay.scatter_db < BEATS_DB || (decay.t60_s / t60_s).ln().abs() > BEATEN_LN;
        self.decay(&[]).filter(|decay| disagrees && far_off(decay))
    }

    /// The decay of what `partials` (levels in full scale) do not explain of the level; none where they do.
    fn unexplained_by(&self, partials: &[Partial]) -> Option<Decay> {
        let known: Vec<Partial> = partials.iter().filter(|p| p.t60_s.is_some() && in_one_band(p.hz, self.hz)).cloned().collect();
        let explained: f64 = known.iter().map(|p| amplitude(p.level_db)).sum();
        let highest = self.peak()?.1;
        (highest > decibels(explained.max(1e-12)) + UNEXPLAINED_DB).then(|| self.decay(&known)).flatten()
    }

    /// The decay by the regression line through the level while that is well above the noise and what the `known` partials in the band (levels in
    /// full scale) explain of it.
    fn decay(&self, known: &[Partial]) -> Option<Decay> {
        let (at, highest) = self.peak()?;
        let explained = |step: usize| {
            let of = |p: &Partial| p.t60_s.map(|t60_s| power_of(p.level_db - 60.0 * step as f64 * self.step_s / t60_s));
            known.iter().filter_map(of).sum::<f64>()
        };
        let begins = power_of(highest - LINE_FROM_DB);
        let from = (at..self.power.len()).find(|step| self.power[*step] < begins)?;
        let (lowest, noise, over) = (power_of(highest - LINE_TO_DB), power_of(self.noise_db), power_of(OVER_NOISE_DB));
        // The last time above: a beat that comes back is on the line, and shows as scatter.
        let is_over = |step: &usize| self.power[*step] >= lowest.max(over * noise.max(explained(*step)));
        let to = (from..self.power.len()).rfind(is_over)? + 1;
        let rest = |step: usize| level_of(self.power[step] - explained(step));
        let points: Vec<f64> = (from..to).map(rest).collect();
        if points.len() < LEAST_POINTS {
            return None;
        }
        let line = Regression::evenly(&points)?;
        // Where the level bends, the line from its highest at the hit to its last: so long it is heard.
        let bends = line.scatter > BENDS_DB;
        let slope = if bends { (points[points.len() - 1] - highest) / (to - 1) as f64 } else { line.slope };
        let level_db = if bends { highest } else { line.at(-(from as f64)) };
        let fallen_db = -slope * points.len() as f64;
        let t60_s = -60.0 * self.step_s / slope;
        let known = fallen_db >= LEAST_LINE_DB && t60_s > SHORTEST_SDS * self.response_sd_s;
        known.then(|| Decay {
            level_db: level_db.min(highest + MOST_BACK_DB),
            t60_s,
            t60_sd_s: t60_s * LEAST_DOUBT.hypot(line.scatter / fallen_db),
            scatter_db: line.scatter,
        })
    }
}

fn in_one_band(a_hz: f64, b_hz: f64) -> bool {
    (a_hz / b_hz).ln().abs() < SAME_BAND_LN
}

/// Squared amplitude of a level, dB, and the other way round.
fn power_of(level_db: f64) -> f64 {
    amplitude(level_db).powi(2)
}

fn level_of(power: f64) -> f64 {
    0.5 * decibels(power.max(1e-24))
}

/// Whether no other of `partials` changes the level in the band of the one at `index`.
fn has_band_to_itself(partials: &[Partial], index: usize) -> bool {
    let own = &partials[index];
    let elsewhere = |p: &Partial| (p.hz / own.hz).ln().abs() > SAME_BAND_LN || p.level_db < own.level_db - NEGLIGIBLE_DB;
    partials.iter().enumerate().all(|(i, p)| i == index || elsewhere(p))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::decay_rate;
    use proptest::prelude::*;

    const RATE: f64 = 3_000.0;
    const ONSET_S: f64 = 0.05;

    /// A tone whose level is `level_db` against full scale at `t` s after the hit.
    fn sound(hz: f64, level_db: impl Fn(f64) -> f64) -> Vec<f64> {
        let at = |n: usize| n as f64 / RATE - ONSET_S;
        let wave = |t: f64| if t < 0.0 { 0.0 } else { amplitude(level_db(t)) * (2.0 * PI * hz * t).sin() };
        (0..(2.5 * RATE) as usize).map(|n| wave(at(n))).collect()
    }

    fn compared(sound: &[f64], partials: Vec<Partial>, loudest_db: f64) -> Compared {
        BandLevels::new(sound, RATE, ONSET_S, false).compare(partials, amplitude(loudest_db))
    }

    fn partial(hz: f64, t60_s: Option<f64>) -> Partial {
        Partial { hz, t60_s, t60_sd_s: t60_s.map(|t60| 0.01 * t60), t60_scatter_s: None, level_db: 0.0, tone: None }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(48))]
        /// One tone that decays as it was fitted stays as it was, nothing is added to it, and one whose decay was not known gets it.
        #[test]
        fn what_the_level_agrees_with_stays(hz in 50f64..700.0, t60_s in 0.35f64..2.0) {
            let tone = sound(hz, |t| -6.0 - 60.0 * t / t60_s);
            let fitted = partial(hz, Some(t60_s));
            let same = compared(&tone, vec![fitted.clone()], -6.0);
            prop_assert!(!same.several_slopes && (same.loudest / amplitude(-6.0) - 1.0).abs() < 1e-9);
            prop_assert_eq!(&same.partials, &vec![fitted]);
            let read = compared(&tone, vec![partial(hz, None)], -6.0);
            let found = read.partials[0].t60_s.expect("a decay");
            prop_assert!(read.partials.len() == 1 && (found / t60_s - 1.0).abs() < 0.03, "{found} for {t60_s}");
        }

        /// A tone that was not found at all is taken from its band: pitch, decay and level.
        #[test]
        fn what_was_not_found_is_added(hz in 60f64..700.0, t60_s in 0.3f64..1.5) {
            let tone = sound(hz, |t| -6.0 - 60.0 * t / t60_s);
            let found = compared(&tone, Vec::new(), 0.0);
            let [only] = found.partials.as_slice() else { panic!("{:?}", found.partials) };
            prop_assert!((only.hz / hz - 1.0).abs() < 0.01 && (only.t60_s.unwrap() / t60_s - 1.0).abs() < 0.05, "{only:?}");
            prop_assert!((decibels(found.loudest) + 6.0).abs() < 1.5, "{} dB", decibels(found.loudest));
        }
    }

    /// A hard hit on a real tom falls fast at first (read off recordings: a third shorter in its first 12 dB): a fit to the beginning says less
    /// than is heard, and the level says so.
    #[test]
    fn a_fit_to_the_beginning_alone_is_contradicted() {
        let level = |t: f64| if t < 0.15 { -40.0 * t } else { -6.0 - 60.0 * (t - 0.15) / 2.0 };
        let tone = sound(110.0, level);
        let read = compared(&tone, vec![partial(110.0, Some(1.0))], 0.0);
        let found = read.partials[0].t60_s.unwrap();
        assert!(read.several_slopes && (1.7..2.2).contains(&found), "{found}");
    }

    /// A dead kick's loud fast tone, and the quiet slow one of another mode at the same pitch, of which only the slow one was found: it stays, the
    /// fast one comes to it, and is the loudest.
    #[test]
    fn a_fast_tone_beside_a_slow_one_is_added_to_it() {
        let tone = sound(165.0, |t| -6.0 - 60.0 * t / 0.2);
        let both: Vec<f64> = tone.iter().zip(sound(165.4, |t| -30.0 - 60.0 * t / 0.8)).map(|(a, b)| a + b).collect();
        let found = compared(&both, vec![partial(165.4, Some(0.8))], -30.0).partials;
        let [a, b] = found.as_slice() else { panic!("{found:?}") };
        let (fast, slow) = if a.t60_s < b.t60_s { (a, b) } else { (b, a) };
        assert!((fast.t60_s.unwrap() / 0.2 - 1.0).abs() < 0.2 && fast.level_db == 0.0, "{fast:?}");
        assert!(slow.t60_s == Some(0.8) && (slow.level_db + 24.0).abs() < 2.0, "{slow:?}");
    }

    fn sum(tones: &[Vec<f64>]) -> Vec<f64> {
        (0..tones[0].len()).map(|n| tones.iter().map(|tone| tone[n]).sum()).collect()
    }

    /// What wires and weak tones about a body leave in its octave is heard on after its own decay, although none of it stands out: the body lasts as long.
    #[test]
    fn a_body_is_heard_for_as_long_as_its_octave() {
        let about = [150.0, 218.0].map(|hz| sound(hz, |t| -13.0 - 60.0 * t / 1.2));
        let body = sound(180.0, |t| -60.0 * t / 0.4);
        let alone = compared(&body, vec![partial(180.0, Some(0.4))], 0.0).partials;
        assert_eq!(alone[0].t60_s, Some(0.4));
        let [first, second] = about;
        let found = compared(&sum(&[body, first, second]), vec![partial(180.0, Some(0.4))], 0.0).partials;
        let body = found.iter().find(|p| (p.hz - 180.0).abs() < 2.0).unwrap();
        let (t60_s, sd_s) = (body.t60_s.unwrap(), body.t60_sd_s.unwrap());
        // Both together are 10 dB under the body and heard for (25 - 10) / 60 x 1.2 s.
        assert!((t60_s - 0.3 * 60.0 / 25.0).abs() < 0.15 && sd_s >= 0.5 * (t60_s - 0.4) - 1e-9, "{t60_s} +- {sd_s}");
    }

    /// A thump can be over before the filter has settled, so that no decay is fitted to it. Levels are given against it all the same: a quiet, slow tone
    /// must not pass for the loudest.
    #[test]
    fn a_thump_without_a_decay_is_what_levels_are_given_against() {
        let slow = sound(35.0, |t| -26.0 - 60.0 * t / 2.5);
        let thump = sound(62.0, |t| -60.0 * t / 0.11);
        let alone = compared(&slow, vec![partial(35.0, Some(2.5))], -26.0).partials;
        assert_eq!(alone[0].level_db, 0.0);
        let found = compared(&sum(&[slow, thump]), vec![partial(35.0, Some(2.5))], -26.0).partials;
        let slow = found.iter().find(|p| (p.hz - 35.0).abs() < 1.0).unwrap();
        assert!(slow.level_db < -5.0, "{found:?}");
    }

    /// A kick's lowest tone beside a louder one that was found.
    #[test]
    fn a_low_tone_below_all_that_were_found_is_added() {
        let both = sum(&[sound(122.0, |t| -60.0 * t / 0.55), sound(65.0, |t| -3.0 - 60.0 * t / 0.45)]);
        let found = compared(&both, vec![partial(122.0, Some(0.55))], 0.0).partials;
        let [low, high] = found.as_slice() else { panic!("{found:?}") };
        assert!((low.hz / 65.0 - 1.0).abs() < 0.02 && (low.t60_s.unwrap() / 0.45 - 1.0).abs() < 0.1, "{low:?}");
        assert!((high.hz, high.t60_s) == (122.0, Some(0.55)), "{high:?}");
        // A snare's body lies higher: above 110 Hz nothing is added once the loudest is explained.
        let both = sum(&[sound(244.0, |t| -60.0 * t / 0.55), sound(130.0, |t| -3.0 - 60.0 * t / 0.45)]);
        assert_eq!(compared(&both, vec![partial(244.0, Some(0.55))], 0.0).partials.len(), 1);
    }

    /// The slow ring of members of a pair that beat has no line: the fit stands.
    #[test]
    fn a_beat_is_no_slope() {
        let rate = decay_rate(1.2);
        let pair: Vec<f64> = (0..(2.5 * RATE) as usize)
            .map(|n| n as f64 / RATE - ONSET_S)
            .map(|t| if t < 0.0 { 0.0 } else { 0.4 * (-rate * t).exp() * ((2.0 * PI * 150.0 * t).sin() + (2.0 * PI * 153.0 * t).sin()) })
            .collect();
        let fitted = partial(151.5, Some(1.2));
        assert_eq!(compared(&pair, vec![fitted.clone()], -2.0).partials[0].t60_s, fitted.t60_s);
    }
}
