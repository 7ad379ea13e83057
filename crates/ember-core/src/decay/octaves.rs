//! Decay times of a strike by octave band, as ISO 3382-1 evaluates them, in bands as IEC 61260-1 defines them.

use super::broadband::{Broadband, DecayCurve, NoiseFloor};
use super::slopes::{Slope, slopes};
use crate::signal::{OCTAVES_HZ, OctaveFilter};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

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
    pub reason: Option<String>,
}

/// Decay of `samples` (full scale 1), hit at `onset_index`, in every octave that the rate carries.
pub(super) fn octaves(samples: &[f32], onset_index: usize, rate: f64, floor: NoiseFloor) -> Vec<OctaveDecay> {
    let one = |index: usize| {
        let hz = OCTAVES_HZ[index];
        let Some(filter) = OctaveFilter::new(index, rate) else {
            let reason = Some("The sample rate does not reach so high.".into());
            return OctaveDecay { hz, edt_s: None, t20_s: None, t30_s: None, slopes: Vec::new(), reason };
        };
        let band = filter.backwards(samples);
        let sound = &band[onset_index.min(band.len())..];
        // Noise before the strike is known for the whole sound, not for a band of it.
        let before = &band[..onset_index.saturating_sub((0.004 * rate) as usize)];
        let floor = match floor {
            NoiseFloor::Before(_) if before.is_empty() => NoiseFloor::Before(0.0),
            NoiseFloor::Before(_) => NoiseFloor::Before(before.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / before.len() as f64),
            NoiseFloor::Tail => floor,
        };
        let Broadband { edt_s, t20_s, t30_s, .. } = DecayCurve::new(sound, rate, floor).evaluate();
        let longest = [edt_s, t20_s, t30_s].into_iter().flatten().fold(0.0, f64::max);
        let too_short = longest > 0.0 && OCTAVE_WIDTH * hz * longest < LEAST_BT;
        let reason = match () {
            () if too_short => Some("It decays faster than the band's filter can follow.".into()),
            () if edt_s.is_none() || t20_s.is_none() => Some("It does not stand far enough out of the noise.".into()),
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
    let heard = |high: bool| -> Vec<Vec<Slope>> {
        let slopes = |index: usize| {
            let band = OctaveFilter::new(index, rate)?.backwards(samples);
            Some(slopes(&band[onset_index.min(band.len())..], rate))
        };
        let wanted = (0..OCTAVES_HZ.len()).into_par_iter().filter(|index| (OCTAVES_HZ[*index] >= ROOM_ALONE_HZ) == high);
        wanted.filter_map(slopes).collect()
    };
    agreed(heard(true).into_iter(), || heard(false).into_iter(), drum_t60_s)
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
