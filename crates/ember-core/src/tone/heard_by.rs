//! Picks body and ring from the partials of a strike; which partial is the body depends on what was struck.

use super::partial::Partial;
use crate::signal::Limits;
use crate::units::amplitude;
use serde::{Deserialize, Serialize};

/// The body is the lowest partial whose level at the hit is within this of the loudest partial's, and whose energy is within this of the
/// greatest, dB: otherwise the thump of the hit itself, a short and quiet tone far below the drum, would be taken for it.
const BODY_WITHIN_DB: f64 = -26.0;
/// With one head the (0,1) mode radiates as a monopole and is gone at once (Fletcher & Rossing, *The Physics of Musical Instruments*, ch. 18, from
/// memory). There the body is the lowest partial whose energy in the stretch in which the ring is judged is within this of the greatest, dB.
const LASTS_WITHIN_DB: f64 = -15.0;
/// The ring begins this far above the body (ratio): nearer ones are the body's own split pair.
pub const RING_ABOVE_BODY: f64 = 1.15;

/// What is measured of a strike.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum HeardBy {
    /// The tones of a drum, each by itself.
    #[default]
    Partials,
    /// The tones of a drum with one head, whose note is the lowest that lasts.
    OneHead,
    /// Octaves, of a cymbal: it has too many tones to tell them apart.
    Octaves,
}

impl HeardBy {
    /// How long a strike is followed: cymbals sound on for longer.
    pub fn limits(self) -> Limits {
        match self {
            Self::Partials | Self::OneHead => Limits::default(),
            Self::Octaves => Limits { longest_s: 8.0, ..Limits::default() },
        }
    }

    /// Whether tones are measured, each by itself.
    pub fn by_tones(self) -> bool {
        self != Self::Octaves
    }

    /// Index of the body among `partials` (low to high).
    pub fn body(self, partials: &[Partial]) -> Option<usize> {
        let known = |i: &usize| partials[*i].t60_s.is_some();
        let among = |energy: &dyn Fn(usize) -> f64, within_db: f64| {
            let least = amplitude(within_db).powi(2) * (0..partials.len()).map(energy).fold(0.0, f64::max);
            (0..partials.len()).filter(known).find(|&i| partials[i].level_db >= BODY_WITHIN_DB && energy(i) >= least)
        };
        let body = match self {
            Self::OneHead => among(&|i| partials[i].late_energy(), LASTS_WITHIN_DB),
            Self::Partials | Self::Octaves => among(&|i| partials[i].energy_between(0.0, f64::INFINITY), BODY_WITHIN_DB),
        }?;
        // A split pair is one body: its louder member stands for it.
        let top = RING_ABOVE_BODY * partials[body].hz;
        let pair = (body..partials.len()).filter(known).take_while(|i| partials[*i].hz < top);
        pair.max_by(|a, b| partials[*a].late_energy().total_cmp(&partials[*b].late_energy())).or(Some(body))
    }
}

/// Index of the ring among `partials` (low to high) where the body is the one at index `body`: of those above it the one with most energy
/// from [`super::RING_FROM_S`] to [`super::RING_TO_S`].
pub fn ring_over(partials: &[Partial], body: usize) -> Option<usize> {
    let over = |i: &usize| partials[*i].hz >= RING_ABOVE_BODY * partials[body].hz && partials[*i].t60_s.is_some();
    (body + 1..partials.len()).filter(over).max_by(|a, b| partials[*a].late_energy().total_cmp(&partials[*b].late_energy()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::DecayProfile;

    fn partial(hz: f64, t60_s: f64, level_db: f64) -> Partial {
        Partial { hz, t60_s: Some(t60_s), t60_sd_s: None, t60_scatter_s: None, level_db, tone: None }
    }

    /// A tom without its lower head: the (0,1) mode is gone before the ring is judged, so that the note is the (1,1) mode.
    #[test]
    fn the_note_of_one_head_is_the_lowest_tone_that_lasts() {
        let tones = [partial(92.0, 0.14, 0.0), partial(146.0, 0.8, -3.0), partial(149.0, 0.6, -9.0), partial(196.0, 0.7, -8.0)];
        assert_eq!(HeardBy::Partials.body(&tones), Some(0));
        assert_eq!(HeardBy::OneHead.body(&tones), Some(1));
        assert_eq!(ring_over(&tones, 1), Some(3));
        let profile = DecayProfile::about(&tones, HeardBy::OneHead.body(&tones));
        assert_eq!((profile.body_hz, profile.ring_hz), (Some(146.0), Some(196.0)));
        let lasting = [partial(92.0, 0.45, 0.0), partial(146.0, 0.8, -3.0)];
        assert_eq!(HeardBy::OneHead.body(&lasting), Some(0), "a low tone that is heard on is the note");
    }

    #[test]
    fn a_short_thump_below_the_drum_is_not_its_body() {
        let heard = |first: Partial| [first, partial(233.0, 0.42, 0.0), partial(318.0, 0.6, -12.0)];
        let body = |partials: &[Partial]| HeardBy::Partials.body(partials);
        assert_eq!(body(&heard(partial(46.0, 0.077, -22.0))), Some(1));
        // A body that is muffled short is loud, and one that a hit at the edge leaves quiet is long.
        assert_eq!(body(&heard(partial(140.0, 0.077, -3.0))), Some(0));
        assert_eq!(body(&heard(partial(140.0, 0.6, -22.0))), Some(0));
    }
}
