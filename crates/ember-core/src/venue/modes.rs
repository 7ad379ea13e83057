//! A room's own low modes: single tones that it holds long after a clap or burst. Where they lie far apart, below some 150 Hz in small rooms, a
//! bass note or a kick on one of them booms, and those between do not.

use crate::decay::{StrikeAnalyzer, median_error};
use crate::signal::{BandPasses, CapturedStrike, Ending};
use crate::tone::Partial;
use crate::units::median;
use serde::{Deserialize, Serialize};

/// Where single modes are looked for, Hz.
const LOOKED_FOR_HZ: std::ops::RangeInclusive<f64> = 24.0..=150.0;
/// Decay times that a room's mode can have, s, and how well one must be known (standard error against it).
const LASTING_S: std::ops::RangeInclusive<f64> = 0.25..=8.0;
const SURE: f64 = 0.25;
/// Two claps show the same mode within this (ratio).
const SAME: f64 = 0.025;
/// Quieter ones than this against the loudest are left out, dB.
const QUIETEST_DB: f64 = -18.0;
/// Most that are kept: the loudest.
pub(super) const MOST_ROOM_MODES: usize = 6;

/// One tone of a room.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomMode {
    /// Its pitch, Hz.
    pub hz: f64,
    /// Time to fall 60 dB, s.
    pub t60_s: f64,
    /// Its standard error, s; null in what was kept before it was known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub t60_sd_s: Option<f64>,
}

/// Modes heard in most of the claps at `spans` of `samples` (full scale 1), low to high. None from a single clap: what two have in common is the
/// room's.
pub(super) fn room_modes(samples: &[f32], rate: f64, spans: &[(usize, usize)]) -> Vec<RoomMode> {
    if spans.len() < 2 {
        return Vec::new();
    }
    let analyzer = StrikeAnalyzer::new(rate);
    let heard: Vec<Vec<Partial>> = spans.iter().map(|(from, to)| low_tones(&analyzer, &samples[*from..*to], rate)).collect();
    let mut all: Vec<&Partial> = heard.iter().flatten().collect();
    all.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    let alike = all.chunk_by(|a, b| b.hz / a.hz - 1.0 < SAME);
    let mut modes: Vec<(f64, RoomMode)> = alike
        .filter(|partials| 2 * partials.len() > spans.len() && partials.len() >= 2)
        .filter_map(|partials| {
            let middle =
                |pick: fn(&Partial) -> Option<f64>| median(&partials.iter().filter_map(|partial| pick(partial)).collect::<Vec<_>>());
            let times: Vec<f64> = partials.iter().filter_map(|partial| partial.t60_s).collect();
            let own: Vec<f64> = partials.iter().filter_map(|partial| partial.t60_sd_s).collect();
            let mode = RoomMode { hz: middle(|p| Some(p.hz))?, t60_s: middle(|p| p.t60_s)?, t60_sd_s: median_error(&times, &own) };
            Some((middle(|p| Some(p.level_db))?, mode))
        })
        .collect();
    modes.sort_by(|a, b| b.0.total_cmp(&a.0));
    modes.truncate(MOST_ROOM_MODES);
    let mut modes: Vec<RoomMode> = modes.into_iter().map(|(_, mode)| mode).collect();
    modes.sort_by(|a, b| a.hz.total_cmp(&b.hz));
    modes
}

/// Lasting low tones of one clap.
fn low_tones(analyzer: &StrikeAnalyzer, clap: &[f32], rate: f64) -> Vec<Partial> {
    let mut low: Vec<f32> = clap.to_vec();
    // Twice, so that the clap itself is out of the way.
    for _ in 0..2 {
        let mut band = BandPasses::new([(*LOOKED_FOR_HZ.start(), *LOOKED_FOR_HZ.end())], rate);
        low.iter_mut().for_each(|x| *x = band.push(f64::from(*x))[0] as f32);
    }
    let loudest = (0..low.len()).max_by(|a, b| low[*a].abs().total_cmp(&low[*b].abs())).unwrap_or(0);
    let captured = CapturedStrike { sample_rate: rate, onset_s: 0.0, samples: low, onset_index: loudest, ending: Ending::Decayed };
    let mut tones = analyzer.measure(&captured).partials;
    let sure = |p: &Partial| p.t60_s.zip(p.t60_sd_s).is_some_and(|(t60, sd)| LASTING_S.contains(&t60) && sd < SURE * t60);
    tones.retain(|partial| LOOKED_FOR_HZ.contains(&partial.hz) && partial.level_db > QUIETEST_DB && sure(partial));
    tones
}

#[cfg(test)]
mod tests {
    use crate::venue::{Loudness, SimulatedVenue, room_decay};

    #[test]
    fn modes_of_a_small_simulated_room_are_found_and_none_in_a_large_one() {
        let rate = f64::from(SimulatedVenue::SAMPLE_RATE);
        for seed in [2, 5] {
            let small = SimulatedVenue {
                t60_s: [Some(0.8), Some(0.6), Some(0.5), Some(0.45), Some(0.4), Some(0.4), Some(0.35)],
                loudness: Loudness::Loud,
            };
            let found = room_decay(&small.claps(seed), rate).unwrap().modes;
            let hidden = small.modes();
            assert_eq!(hidden.len(), 3);
            for mode in &hidden {
                let near = found.iter().find(|found| (found.hz / mode.hz - 1.0).abs() < 0.02);
                assert!(near.is_some_and(|near| (near.t60_s / mode.t60_s - 1.0).abs() < 0.3), "{mode:?} in {found:?}");
            }
            assert!(found.len() <= hidden.len() + 1, "{found:?}");
            let large = SimulatedVenue { t60_s: [Some(2.4); 7], loudness: Loudness::Loud };
            assert!(large.modes().is_empty());
            let found = room_decay(&large.claps(seed), rate).unwrap().modes;
            assert!(found.len() <= 1, "{found:?}");
        }
    }
}
