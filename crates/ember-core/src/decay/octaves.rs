//! Decay times of a strike by octave band, as ISO 3382-1 evaluates them, in bands as IEC 61260-1 defines them.

use super::broadband::{Broadband, DecayCurve, NoiseFloor};
use super::envelope::mean_square;
use super::slopes::{Slope, slopes};
use crate::signal::{OCTAVES_HZ, OctaveFilter, octave_edges_hz};
use crate::tone::Partial;
use crate::tone::Tone;
use crate::units::decibels;
use ember_words::{Words, words};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::ops::Range;

/// A filter's own decay shows where bandwidth times decay time is under this (F. Jacobsen & J. H. Rindel, J. Sound Vib. 117, 1987, for
/// filters run backwards in time; 16 forwards).
const LEAST_BT: f64 = 4.0;
/// Width of an octave against its middle.
const OCTAVE_WIDTH: f64 = 0.707;

/// Decay in one octave.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OctaveDecay {
    /// Nominal middle, Hz.
    pub hz: f64,
    /// 0 to -10 dB, extrapolated to 60 dB, s; null where the band does not tell.
    pub edt_s: Option<f64>,
    /// -5 to -25 dB, extrapolated to 60 dB, s.
    pub t20_s: Option<f64>,
    /// -5 to -35 dB, extrapolated to 60 dB, s.
    pub t30_s: Option<f64>,
    /// One slope, or the fast and the slow one.
    pub slopes: Vec<Slope>,
    /// Why a time is not given.
    pub reason: Option<Words>,
}

/// Decay of the whole `band` of a sound that was hit at `onset_index`.
fn decay_in(band: &[f32], onset_index: usize, rate: f64, floor: NoiseFloor) -> Broadband {
    // Noise before the strike is known for the whole sound, not for a band of it.
    let before = &band[..onset_index.saturating_sub((0.004 * rate) as usize)];
    let floor = match floor {
        NoiseFloor::Before(_) => NoiseFloor::Before(mean_square(before)),
        NoiseFloor::Tail => floor,
    };
    DecayCurve::new(&band[onset_index.min(band.len())..], rate, floor).evaluate()
}

/// Decay of `samples` (full scale 1), hit at `onset_index`, in every octave that the rate carries.
pub(super) fn octaves(samples: &[f32], onset_index: usize, rate: f64, floor: NoiseFloor) -> Vec<OctaveDecay> {
    let one = |index: usize| {
        let hz = OCTAVES_HZ[index];
        let Some(filter) = OctaveFilter::new(index, rate) else {
            let reason = Some(words!("The sample rate does not reach so high."));
            return OctaveDecay { hz, edt_s: None, t20_s: None, t30_s: None, slopes: Vec::new(), reason };
        };
        let band = filter.backwards(samples);
        let sound = &band[onset_index.min(band.len())..];
        let Broadband { edt_s, t20_s, t30_s, .. } = decay_in(&band, onset_index, rate, floor);
        let longest = [edt_s, t20_s, t30_s].into_iter().flatten().fold(0.0, f64::max);
        let too_short = longest > 0.0 && OCTAVE_WIDTH * hz * longest < LEAST_BT;
        let reason = match () {
            () if too_short => Some(words!("It decays faster than the band's filter can follow.")),
            () if edt_s.is_none() || t20_s.is_none() => Some(words!("It does not stand far enough out of the noise.")),
            () => None,
        };
        let sure = |time: Option<f64>| time.filter(|_| !too_short);
        // A click that is gone before the line of T20 has begun leaves only noise for that of T30.
        let t30_s = t30_s.filter(|_| t20_s.is_some());
        OctaveDecay { hz, edt_s: sure(edt_s), t20_s: sure(t20_s), t30_s: sure(t30_s), slopes: slopes(sound, rate), reason }
    };
    (0..OCTAVES_HZ.len()).into_par_iter().map(one).collect()
}

/// A room's decay is heard alone from this octave up, Hz, where a drum has gone long before; so many octaves there must agree on it,
/// how nearly, with at least one below; and it must be so much longer than the drum's own.
const ROOM_ALONE_HZ: f64 = 1000.0;
const ROOM_OCTAVES: usize = 2;
const ROOM_ALIKE: f64 = 1.25;
const ROOM_LONGER: f64 = 1.3;

/// Octaves in which a cymbal is heard: those about 125 Hz to 8 kHz, by their place from 63 Hz on.
const OF_METAL: std::ops::RangeInclusive<usize> = 1..=7;
/// Nominal middle of the octave above those of [`OCTAVES_HZ`], Hz.
const HIGHEST_HZ: f64 = 8000.0;
/// A cymbal takes up to this long to sound in all octaves, s; levels are taken over pieces of this length.
const BUILDS_UP_S: f64 = 0.15;
const PIECE_S: f64 = 0.02;
/// An octave this far below the loudest is not part of the sound, dB.
const FAINTEST_DB: f64 = -60.0;
/// What the scatter of modes within an octave leaves unknown at the least (part of the decay time; from experience, no source).
const LEAST_DOUBT: f64 = 0.03;

/// Whether `partial` is an octave of a sound without single tones.
pub fn is_octave(partial: &Partial) -> bool {
    matches!(partial.tone, Some(Tone::OctaveHz(_)))
}

/// The octaves of `samples` (full scale 1), hit at `onset_index`, as if each were a partial, low to high, and the amplitude of the loudest:
/// what can be said of a cymbal, whose hundreds of modes cannot be told apart.
///
/// Decay times are T20; their standard errors are those of the method in a band of width B with decay time T, 0.88 T sqrt((1 + 1.9 / n) / B T),
/// where a backward-integrated response stands for n = 10 decays (ISO 3382-2, annex A; from memory).
pub(super) fn octave_partials(samples: &[f32], onset_index: usize, rate: f64, floor: NoiseFloor) -> (Vec<Partial>, f64) {
    let one = |index: usize| -> Option<(f64, Partial)> {
        let band = OctaveFilter::new(index, rate)?.backwards(samples);
        let sound = &band[onset_index.min(band.len())..];
        let (low, high) = octave_edges_hz(index);
        // Where the filter itself rings for as long, nothing is known.
        let t20_s = decay_in(&band, onset_index, rate, floor).t20_s;
        let t60_s = t20_s.filter(|t60| (high - low) * t60 >= LEAST_BT);
        let pieces = sound.chunks((PIECE_S * rate) as usize).take((BUILDS_UP_S / PIECE_S) as usize);
        let amplitude = (2.0 * pieces.map(mean_square).fold(0.0, f64::max)).sqrt();
        let doubt = |t60: f64| t60 * (0.88 * ((1.0 + 1.9 / 10.0) / ((high - low) * t60)).sqrt()).max(LEAST_DOUBT);
        let hz = OCTAVES_HZ.get(index).copied().unwrap_or(HIGHEST_HZ);
        let partial = Partial {
            hz,
            t60_s,
            t60_sd_s: t60_s.map(doubt),
            t60_scatter_s: None,
            level_db: 0.0,
            tone: Some(Tone::OctaveHz(hz.round() as u16)),
        };
        (amplitude > 0.0).then_some((amplitude, partial))
    };
    let heard: Vec<(f64, Partial)> = OF_METAL.into_par_iter().filter_map(one).collect();
    let loudest = heard.iter().map(|(amplitude, _)| *amplitude).fold(0.0, f64::max);
    let levelled = heard.into_iter().map(|(amplitude, partial)| Partial { level_db: decibels(amplitude / loudest), ..partial });
    (levelled.filter(|partial| partial.level_db > FAINTEST_DB).collect(), loudest)
}

/// Decay time of a room behind the drum, s: the last slope on which high octaves agree with a bend in a lower one. One of the drum's
/// own slow partials is heard in its octave and through the skirts of those beside it, but never up there.
///
/// `drum_t60_s`: first slope of the whole sound.
pub(super) fn room_tail(octaves: &[OctaveDecay], drum_t60_s: f64) -> Option<f64> {
    let (high, low): (Vec<_>, Vec<_>) = octaves.iter().partition(|octave| octave.hz >= ROOM_ALONE_HZ);
    agreed(high.into_iter().map(|octave| octave.slopes.clone()), || low.into_iter().map(|octave| octave.slopes.clone()), drum_t60_s)
}

/// The same from a strike's `samples`: the low octaves are looked at only where the high ones speak of a room.
pub(super) fn room_behind(samples: &[f32], onset_index: usize, rate: f64, drum_t60_s: f64) -> Option<f64> {
    let heard = |octaves: Range<usize>| -> Vec<Vec<Slope>> {
        let slopes = |index: usize| {
            let band = OctaveFilter::new(index, rate)?.backwards(samples);
            Some(slopes(&band[onset_index.min(band.len())..], rate))
        };
        octaves.into_par_iter().filter_map(slopes).collect()
    };
    let lowest = OCTAVES_HZ.iter().position(|hz| *hz >= ROOM_ALONE_HZ).unwrap_or(OCTAVES_HZ.len());
    // A room is heard in so many octaves, nearly alike: where none of these comes near to one, the others are too few.
    let first = lowest + ROOM_OCTAVES - 1;
    let mut high = heard(first..OCTAVES_HZ.len());
    if !high.iter().any(|slopes| slopes.last().is_some_and(|slope| slope.t60_s > ROOM_LONGER / ROOM_ALIKE * drum_t60_s)) {
        return None;
    }
    high.extend(heard(lowest..first));
    agreed(high.into_iter(), || heard(0..lowest).into_iter(), drum_t60_s)
}

/// What the slopes of `high` octaves agree on with a bend in one of `low`.
fn agreed<L: Iterator<Item = Vec<Slope>>>(high: impl Iterator<Item = Vec<Slope>>, low: impl FnOnce() -> L, drum_t60_s: f64) -> Option<f64> {
    let last = |slopes: &[Slope]| slopes.last().map(|slope| slope.t60_s);
    let high: Vec<f64> = high.filter_map(|slopes| last(&slopes)).collect();
    let alike = |t60: f64| move |other: &&f64| (t60 / ROOM_ALIKE..t60 * ROOM_ALIKE).contains(*other);
    let longer = |t60: &f64| *t60 > ROOM_LONGER * drum_t60_s && high.iter().filter(alike(*t60)).count() >= ROOM_OCTAVES;
    let rooms: Vec<f64> = high.iter().copied().filter(longer).collect();
    if rooms.is_empty() {
        return None;
    }
    let bent: Vec<f64> = low().filter(|slopes| slopes.len() == 2).filter_map(|slopes| last(&slopes)).collect();
    let confirmed: Vec<f64> = rooms.into_iter().filter(|t60| bent.iter().any(|other| alike(*t60)(&other))).collect();
    crate::units::median(&confirmed)
}
