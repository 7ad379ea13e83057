//! The cymbals on which time is kept. Struck all through a song, they mask the other drums as the band does.

use crate::decay::{Dynamic, TakeSummary, is_octave};
use crate::drum::{Drum, DrumKind, Struck};
use crate::signal::OCTAVES_HZ;
use crate::tone::Partial;
use crate::venue::Octaves;

/// A cymbal on which time may be kept, as it was measured open.
#[derive(Debug, Clone, PartialEq)]
pub struct TimeKeeper {
    /// Of each octave the level at the hit, dBFS, and the decay time, s; none where it was not measured.
    octaves: Octaves<Option<(f64, f64)>>,
}

impl TimeKeeper {
    /// Whether time is kept on it: on a ride, or a hi-hat that is not wide open, and neither on a bell nor on an edge, which are only accented.
    pub fn may_be(drum: &Drum) -> bool {
        match drum.kind {
            DrumKind::HiHat => matches!(drum.struck, Some(Struck::HalfOpen | Struck::Closed)),
            DrumKind::Ride => !matches!(drum.struck, Some(Struck::Bell | Struck::Edge)),
            _ => false,
        }
    }

    /// From a take of `drum`; none where no time is kept on it, and of a take without levels.
    pub fn new(drum: &Drum, partials: &[Partial], summary: &TakeSummary) -> Option<Self> {
        let strike_dbfs = summary.partial_dbfs.filter(|_| Self::may_be(drum))?;
        let octaves = std::array::from_fn(|index| {
            let of = partials.iter().find(|partial| is_octave(partial) && partial.hz == OCTAVES_HZ[index])?;
            Some((strike_dbfs + of.level_db, of.t60_s?))
        });
        Some(Self { octaves })
    }

    /// Levels that it exceeds half of the time when it is struck every `every_s`, dBFS: as much as has faded half way to the next hit, with what is left of all
    /// hits before. Time is kept softly (common practice, no published source), and was measured at medium strength.
    fn level_dbfs(&self, every_s: f64) -> Octaves<Option<f64>> {
        self.octaves.map(|octave| {
            let (hit_dbfs, t60_s) = octave?;
            let left = 10f64.powf(-6.0 * every_s / t60_s);
            Some(hit_dbfs + Dynamic::Soft.level_db() - 60.0 * 0.5 * every_s / t60_s - 10.0 * (1.0 - left).log10())
        })
    }
}

/// What covers a drum whichever of `keepers` keeps time, by octave, dBFS: the least of them. None where there is no such cymbal.
pub(super) fn kept_time_dbfs(keepers: &[TimeKeeper], every_s: f64) -> Option<Octaves<Option<f64>>> {
    let of_each: Vec<Octaves<Option<f64>>> = keepers.iter().map(|keeper| keeper.level_dbfs(every_s)).collect();
    let least = |index: usize| of_each.iter().map(|levels| levels[index]).reduce(|a, b| Some(a?.min(b?))).flatten();
    (!keepers.is_empty()).then(|| std::array::from_fn(least))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::Tone;
    use crate::units::sum_levels;
    use proptest::prelude::*;

    fn struck(kind: DrumKind, struck: Option<Struck>) -> Drum {
        Drum { struck, ..Drum::usual(kind) }
    }

    fn hat(level_db: f64, t60_s: f64) -> TimeKeeper {
        let partial = |hz: f64| Partial {
            hz,
            t60_s: Some(t60_s),
            t60_sd_s: None,
            t60_scatter_s: None,
            level_db,
            tone: Some(Tone::OctaveHz(hz as u16)),
        };
        let partials: Vec<Partial> = OCTAVES_HZ[1..7].iter().map(|hz| partial(*hz)).collect();
        let summary = TakeSummary { partial_dbfs: Some(-20.0), ..TakeSummary::default() };
        TimeKeeper::new(&struck(DrumKind::HiHat, Some(Struck::Closed)), &partials, &summary).unwrap()
    }

    /// The middle of the level over time, summed hit by hit.
    fn middle_by_sum(hit_dbfs: f64, t60_s: f64, every_s: f64) -> f64 {
        let at = |s: f64| sum_levels((0..200).map(|hit| hit_dbfs - 60.0 * (s + f64::from(hit) * every_s) / t60_s));
        let mut levels: Vec<f64> = (0..1001).map(|n| at(every_s * f64::from(n) / 1000.0)).collect();
        levels.sort_by(f64::total_cmp);
        levels[500]
    }

    #[test]
    fn only_what_keeps_time_is_asked() {
        let summary = TakeSummary { partial_dbfs: Some(-20.0), ..TakeSummary::default() };
        assert!(TimeKeeper::new(&struck(DrumKind::Crash, None), &[], &summary).is_none());
        assert!(TimeKeeper::new(&struck(DrumKind::Ride, Some(Struck::Bell)), &[], &summary).is_none());
        assert!(TimeKeeper::new(&struck(DrumKind::Ride, None), &[], &TakeSummary::default()).is_none(), "no level was kept");
        assert!(kept_time_dbfs(&[], 0.25).is_none());
    }

    #[test]
    fn of_two_the_one_that_covers_less_counts() {
        let both = kept_time_dbfs(&[hat(-10.0, 1.0), hat(-30.0, 1.0)], 0.25);
        assert_eq!(both, kept_time_dbfs(&[hat(-30.0, 1.0)], 0.25));
        assert_eq!(both.unwrap()[0], None, "63 Hz of a cymbal is not measured");
    }

    proptest! {
        #[test]
        fn levels_are_those_of_all_hits_together(t60 in 0.05f64..8.0, every in 0.1f64..0.6) {
            let found = hat(-6.0, t60).level_dbfs(every)[3].unwrap();
            prop_assert!((found - middle_by_sum(-36.0, t60, every)).abs() < 0.1, "{}", found);
        }
    }
}
