//! Where a drum is struck in a plain groove, so that its length is heard in music. Common practice, no published source.

use crate::drum::{DrumKind, Role};
use crate::target::{Feel, Music};
use serde::Serialize;

/// One strike of a groove.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GrooveHit {
    /// Seconds from the start.
    pub at_s: f64,
    /// Against a full strike, dB.
    pub level_db: f64,
}

const fn hit(beat: f64, level_db: f64) -> (f64, f64) {
    (beat, level_db)
}

/// Length of two bars of `music`, s.
pub fn groove_seconds(music: &Music) -> f64 {
    2.0 * music.meter.counted() as f64 * 60.0 / music.bpm
}

/// Where a drum of `kind` is struck in these two bars: the kick carries the first beats, the snare answers, toms fill the
/// second bar, a hi-hat counts, a cymbal opens the first.
pub fn groove(kind: DrumKind, music: &Music) -> Vec<GrooveHit> {
    let bar = music.meter.counted();
    let last = bar as f64 - 1.0;
    let two_bars = |of_bar: &[(f64, f64)]| -> Vec<(f64, f64)> {
        [0.0, bar as f64].iter().flat_map(|start| of_bar.iter().map(move |(beat, level)| (start + beat, *level))).collect()
    };
    let hits: Vec<(f64, f64)> = match (kind.role(), bar) {
        (Role::Kick, 4) => two_bars(&[hit(0.0, 0.0), hit(2.0, -1.0)]),
        (Role::Kick, _) => two_bars(&[hit(0.0, 0.0)]),
        (Role::Snare, 1) => two_bars(&[hit(0.0, 0.0)]),
        (Role::Snare, 3) => two_bars(&[hit(1.0, -4.0), hit(2.0, -2.0)]),
        (Role::Snare, bar) => (0..2 * bar).filter(|beat| beat % bar % 2 == 1).map(|beat| hit(beat as f64, 0.0)).collect(),
        (Role::Cymbal, _) => vec![hit(0.0, 0.0)],
        (Role::HiHat, _) => (0..2 * bar).map(|beat| hit(beat as f64, -2.0)).collect(),
        (Role::Tom | Role::FloorTom, _) => {
            let fill = bar as f64 + last;
            // The second eighth comes late where they swing.
            vec![hit(0.0, 0.0), hit(fill, -2.0), hit(fill + if music.feel == Feel::Swung { 2.0 / 3.0 } else { 0.5 }, 0.0)]
        }
    };
    hits.into_iter().map(|(beat, level_db)| GrooveHit { at_s: beat * 60.0 / music.bpm, level_db }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_snare_answers_the_kick_in_four() {
        let music = Music::new("rock", 120.0);
        let at = |kind| groove(kind, &music).iter().map(|hit| hit.at_s).collect::<Vec<_>>();
        assert_eq!(at(DrumKind::Kick), [0.0, 1.0, 2.0, 3.0]);
        assert_eq!(at(DrumKind::Snare), [0.5, 1.5, 2.5, 3.5]);
        assert_eq!(groove_seconds(&music), 4.0);
    }

    proptest! {
        #[test]
        fn every_drum_is_struck_within_the_two_bars(bpm in 30f64..300.0, meter in prop::sample::select(vec!["2/4", "3/4", "4/4", "6/8", "5/4", "1/4"])) {
            let music = Music { meter: meter.to_string().try_into().unwrap(), ..Music::new("general", bpm) };
            for kind in DrumKind::ALL {
                let hits = groove(kind, &music);
                prop_assert!(!hits.is_empty());
                prop_assert!(hits.iter().all(|hit| hit.at_s >= 0.0 && hit.at_s < groove_seconds(&music) && hit.level_db <= 0.0));
                prop_assert!(hits.windows(2).all(|pair| pair[0].at_s < pair[1].at_s));
            }
        }
    }
}
