//! Which drum of a kit a strike was on, by its partials, and whether another one rings along.

use super::partials::Partial;

/// Partials nearer than this (ratio) are the same: pitches move that far with the spot, the strength and a day's weather.
const SAME: f64 = 0.022;
/// When a partial's energy is weighed, s after the strike.
const FROM_S: f64 = 0.02;
const TO_S: f64 = 0.35;
/// From this likeness on a strike is another drum's, if its own is below that.
const SURELY: f64 = 0.72;
const HARDLY: f64 = 0.60;
/// And this much more like the other one.
const MORE_LIKE: f64 = 0.25;
/// A drum that rings along shows so many of the loudest partials that it alone has, each with at least so much energy against the strike's loudest (dB)
/// and lasting so long (s). How loud they were at the hit itself is less sure: it is drawn back to there.
const RINGING_ALONG: usize = 2;
const LOUDEST: usize = 4;
const HEARD_DB: f64 = -36.0;
const LASTING_S: f64 = 0.2;

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

/// Index of the drum among `others` that a strike was on instead of its `own`; none where it may well have been its own. `own` is
/// empty where nothing is known about it yet: then only what is clearly another one counts.
pub fn other_drum(strike: &[Partial], own: &[Partial], others: &[&[Partial]]) -> Option<usize> {
    let to_own = likeness(strike, own);
    let (best, to_best) = others.iter().enumerate().map(|(i, other)| (i, likeness(strike, other))).max_by(|a, b| a.1.total_cmp(&b.1))?;
    let surely = if own.is_empty() { to_best > SURELY + 0.1 } else { to_own < HARDLY && to_best > SURELY && to_best > to_own + MORE_LIKE };
    surely.then_some(best)
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
