//! Pairs of modes that an uneven head has split in two, as strikes show them.

use crate::tone::Mode;
use crate::tone::Partial;
use ember_words::{Words, words};
use serde::{Deserialize, Serialize};

/// Members further apart than this are not one pair, as a ratio less 1.
const FURTHEST: f64 = 0.08;
/// A member this much weaker than the other is hardly heard to beat, dB.
const WEAKEST_DB: f64 = 20.0;

/// Two tones that an even head would have as one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SplitPair {
    /// The lower pitch, Hz.
    pub low_hz: f64,
    /// Beats with the lower one, as often a second as they lie apart.
    pub high_hz: f64,
}

impl SplitPair {
    /// Beats a second.
    pub fn beat_hz(&self) -> f64 {
        self.high_hz - self.low_hz
    }

    /// What is heard and where it comes from.
    pub fn sentence(&self) -> Words {
        words!(
            "The ring is split into {:.1} and {:.1} Hz and beats {:.1} times a second: the head is tighter along one line than across it.",
            self.low_hz,
            self.high_hz,
            self.beat_hz()
        )
    }
}

/// The split pairs among `partials` with their labels, loudest first.
pub fn split_pairs(partials: &[Partial]) -> Vec<SplitPair> {
    let mut pairs: Vec<(f64, SplitPair)> = Vec::new();
    for (i, low) in partials.iter().enumerate() {
        let Some(tone) = low.tone.filter(|tone| tone.mode().is_some_and(Mode::is_pair)) else { continue };
        let partner = partials[i + 1..].iter().find(|high| high.tone == Some(tone) && high.hz < (1.0 + FURTHEST) * low.hz);
        if let Some(high) = partner.filter(|high| (high.level_db - low.level_db).abs() < WEAKEST_DB) {
            let pair = SplitPair { low_hz: low.hz, high_hz: high.hz };
            pairs.push((low.level_db.min(high.level_db), pair));
        }
    }
    pairs.sort_by(|a, b| b.0.total_cmp(&a.0));
    pairs.into_iter().map(|(_, pair)| pair).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::Tone;

    #[test]
    fn two_of_one_label_are_a_split_pair_unless_one_is_hardly_there() {
        let partial = |hz: f64, level_db: f64, mode: &str| Partial {
            hz,
            t60_s: Some(0.6),
            t60_sd_s: None,
            t60_scatter_s: None,
            level_db,
            tone: Tone::read(mode),
        };
        let heard = [
            partial(120.0, 0.0, "(0,1)"),
            partial(190.0, -6.0, "(1,1)"),
            partial(194.5, -9.0, "(1,1)"),
            partial(255.0, -8.0, "(2,1)"),
            partial(257.0, -31.0, "(2,1)"),
        ];
        let pairs = split_pairs(&heard);
        assert_eq!(pairs.len(), 1);
        assert!((pairs[0].beat_hz() - 4.5).abs() < 1e-9 && pairs[0].sentence().contains("4.5 times a second"), "{pairs:?}");
        assert!(split_pairs(&heard[..2]).is_empty());
    }
}
