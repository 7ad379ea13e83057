//! Which drum of a kit a strike was on, by its partials and its spectrum, and whether another one rings along.

use super::spectrum::spectral_distance_db;
use crate::tone::Partial;

/// Partials nearer than this (ratio) are the same: pitches move that far with the spot, the strength and a day's weather.
const SAME: f64 = 0.022;
/// When a partial's energy is weighed, s after the strike.
const FROM_S: f64 = 0.02;
const TO_S: f64 = 0.35;
/// How unlike two sounds are is told in dB: the distance of their spectra, and so much for partials that have nothing in common.
const UNLIKE_PARTIALS_DB: f64 = 10.0;
/// A strike whose partials are this much like its own drum's is never taken for another's.
const OWN: f64 = 0.60;
/// By so much must another drum be more like a strike than its own, dB; and where nothing is known of its own yet, so near must it come, dB. On recordings
/// of real drums these doubt 1 of 88 strikes on their own drum, and know 337 of 350 on another one.
const MORE_LIKE_DB: f64 = 4.0;
const SURELY_DB: f64 = 6.0;
/// Where spectra were not kept, partials alone tell: from this likeness on it is another drum's, if it is so much more like that one.
const SURELY: f64 = 0.72;
const MORE_LIKE: f64 = 0.25;
/// A drum that rings along shows so many of the loudest partials that it alone has, each with at least so much energy against the strike's loudest (dB)
/// and lasting so long (s). How loud they were at the hit itself is less sure: it is drawn back to there.
const RINGING_ALONG: usize = 2;
const LOUDEST: usize = 4;
const HEARD_DB: f64 = -36.0;
const LASTING_S: f64 = 0.2;

/// How a strike or a drum sounds: its partials, and its energy by octave (dB against all of it; empty where it is not known).
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Voice<'a> {
    /// The partials, low to high.
    pub partials: &'a [Partial],
    /// Energy in each octave against all of it, dB.
    pub spectrum_db: &'a [f64],
}

/// How alike the partials of a strike and of a drum are, 0 to 1: the Bhattacharyya coefficient of their energies by pitch.
pub fn likeness(strike: &[Partial], drum: &[Partial]) -> f64 {
    let energy = |partial: &Partial| partial.energy_between(FROM_S, TO_S);
    let all = |partials: &[Partial]| partials.iter().map(energy).sum::<f64>();
    let (of_strike, of_drum) = (all(strike), all(drum));
    if of_strike <= 0.0 || of_drum <= 0.0 {
        return 0.0;
    }
    // Loud ones choose their counterpart first, and each is taken once.
    let mut order: Vec<&Partial> = strike.iter().collect();
    order.sort_by(|a, b| energy(b).total_cmp(&energy(a)));
    let mut taken = vec![false; drum.len()];
    let mut shared = 0.0;
    for partial in order {
        let free = (0..drum.len()).filter(|i| !taken[*i] && is_same(partial.hz, drum[*i].hz));
        if let Some(other) = free.max_by(|a, b| energy(&drum[*a]).total_cmp(&energy(&drum[*b]))) {
            taken[other] = true;
            shared += (energy(partial) / of_strike * energy(&drum[other]) / of_drum).sqrt();
        }
    }
    shared
}

fn is_same(a: f64, b: f64) -> bool {
    (a / b - 1.0).abs() < SAME
}

/// How unlike `strike` and `drum` are, dB. None where a spectrum is not known.
fn unlike_db(strike: Voice, drum: Voice) -> Option<f64> {
    let partials = UNLIKE_PARTIALS_DB * (1.0 - likeness(strike.partials, drum.partials));
    Some(spectral_distance_db(strike.spectrum_db, drum.spectrum_db)? + partials)
}

/// Index of the drum among `others` that a strike was on instead of its `own`; none where it may well have been its own. `own` is none where nothing
/// is known about it yet: then only what is clearly another one counts. Drums whose spectrum was not kept are compared only where the strike's own or
/// its drum's is missing too.
pub fn other_drum(strike: Voice, own: Option<Voice>, others: &[Voice]) -> Option<usize> {
    let to_own = own.map_or(0.0, |own| likeness(strike.partials, own.partials));
    if to_own >= OWN {
        return None;
    }
    let by_spectrum = || -> Option<Option<usize>> {
        let own_db = match own {
            Some(own) => Some(unlike_db(strike, own)?),
            None => None,
        };
        let unlike = others.iter().enumerate().filter_map(|(i, other)| Some((i, unlike_db(strike, *other)?)));
        let (best, best_db) = unlike.min_by(|a, b| a.1.total_cmp(&b.1))?;
        Some((best_db < own_db.map_or(SURELY_DB, |db| db - MORE_LIKE_DB)).then_some(best))
    };
    let by_partials = || {
        let alike = others.iter().enumerate().map(|(i, other)| (i, likeness(strike.partials, other.partials)));
        let (best, to_best) = alike.max_by(|a, b| a.1.total_cmp(&b.1))?;
        let surely = if own.is_none() { to_best > SURELY + 0.1 } else { to_best > SURELY && to_best > to_own + MORE_LIKE };
        surely.then_some(best)
    };
    by_spectrum().unwrap_or_else(by_partials)
}

/// Whether a drum of `others` rings along: its loudest partials are heard, and the struck drum has none there.
pub fn rings_along(strike: &[Partial], own: &[Partial], others: &[&[Partial]]) -> bool {
    let energy = |partial: &Partial| partial.energy_between(FROM_S, TO_S);
    let least = strike.iter().map(energy).fold(0.0, f64::max) * 10f64.powf(HEARD_DB / 10.0);
    // Of a drum that was never heard nobody knows what is its own. Where both drums have a partial, nothing can be told.
    let foreign = |partial: &&Partial| !own.iter().any(|p| is_same(partial.hz, p.hz));
    let lasts = |partial: &&Partial| energy(partial) > least && partial.t60_s.is_some_and(|t60| t60 > LASTING_S);
    let heard: Vec<&Partial> = strike.iter().filter(foreign).filter(lasts).collect();
    let loudest = |other: &[Partial]| {
        let mut sorted: Vec<Partial> = other.iter().filter(foreign).cloned().collect();
        sorted.sort_by(|a, b| energy(b).total_cmp(&energy(a)));
        sorted.truncate(LOUDEST);
        sorted
    };
    let shows = |other: &&[Partial]| loudest(other).iter().filter(|p| heard.iter().any(|h| is_same(h.hz, p.hz))).count() >= RINGING_ALONG;
    !own.is_empty() && others.iter().any(shows)
}
