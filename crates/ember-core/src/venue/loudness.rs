//! Specific loudness of steady sound after ISO 532-1 (Zwicker's method, stationary, free field), and how strong a sound lies in each critical band, that
//! which spreads there from below included. All tables are the standard's.

use crate::units::{decibels, sum_levels};

/// Third octaves from 25 Hz to 12.5 kHz.
pub const THIRDS: usize = 28;
/// Approximated critical bands.
pub const CRITICAL_BANDS: usize = 20;
/// Third octaves of which the three lowest critical bands are made.
const LOW: [std::ops::Range<usize>; 3] = [0..6, 6..9, 9..11];
/// Levels up to which each row of [`LOW_DB`] holds, once its correction is added, dB SPL.
const LOW_UP_TO_DB: [f64; 8] = [45.0, 55.0, 65.0, 71.0, 80.0, 90.0, 100.0, 120.0];
/// How far third octaves from 25 to 250 Hz are heard below their level, dB (table A.3).
const LOW_DB: [[f64; 11]; 8] = [
    [-32.0, -24.0, -16.0, -10.0, -5.0, 0.0, -7.0, -3.0, 0.0, -2.0, 0.0],
    [-29.0, -22.0, -15.0, -10.0, -4.0, 0.0, -7.0, -2.0, 0.0, -2.0, 0.0],
    [-27.0, -19.0, -14.0, -9.0, -4.0, 0.0, -6.0, -2.0, 0.0, -2.0, 0.0],
    [-25.0, -17.0, -12.0, -9.0, -3.0, 0.0, -5.0, -2.0, 0.0, -2.0, 0.0],
    [-23.0, -16.0, -11.0, -7.0, -3.0, 0.0, -4.0, -1.0, 0.0, -1.0, 0.0],
    [-20.0, -14.0, -10.0, -6.0, -3.0, 0.0, -4.0, -1.0, 0.0, -1.0, 0.0],
    [-18.0, -12.0, -9.0, -6.0, -2.0, 0.0, -3.0, -1.0, 0.0, -1.0, 0.0],
    [-15.0, -10.0, -8.0, -4.0, -2.0, 0.0, -3.0, -1.0, 0.0, -1.0, 0.0],
];
/// Level of a critical band at the threshold of hearing, dB (table A.6).
const QUIET_DB: [f64; CRITICAL_BANDS] =
    [30.0, 18.0, 12.0, 8.0, 7.0, 6.0, 5.0, 4.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0, 3.0];
/// What the ear loses on the way in, dB (table A.4).
const EAR_DB: [f64; CRITICAL_BANDS] =
    [0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, -0.5, -1.6, -3.2, -5.4, -5.6, -4.0, -1.5, 2.0, 5.0, 12.0];
/// Third octaves against critical bands, dB (table A.7).
const WIDTH_DB: [f64; CRITICAL_BANDS] =
    [-0.25, -0.6, -0.8, -0.8, -0.5, 0.0, 0.5, 1.1, 1.5, 1.7, 1.8, 1.8, 1.7, 1.6, 1.4, 1.2, 0.8, 0.5, 0.0, -0.5];
/// Upper ends of the critical bands, Bark (table A.8).
const UPPER_BARK: [f64; CRITICAL_BANDS] =
    [0.9, 1.8, 2.8, 3.5, 4.4, 5.4, 6.6, 7.9, 9.2, 10.6, 12.3, 13.8, 15.2, 16.7, 18.1, 19.3, 20.6, 21.8, 22.7, 23.6];
/// Specific loudness down to which each row of [`SLOPE`] holds, sone a Bark (table A.9).
const SLOPE_DOWN_TO: [f64; 18] = [21.5, 18.0, 15.1, 11.5, 9.0, 6.1, 4.4, 3.1, 2.13, 1.36, 0.82, 0.42, 0.30, 0.22, 0.15, 0.10, 0.035, 0.0];
/// How fast specific loudness falls above a critical band, sone a Bark a Bark; the last column holds for all bands above (table A.9).
const SLOPE: [[f64; 8]; 18] = [
    [13.0, 8.2, 6.3, 5.5, 5.5, 5.5, 5.5, 5.5],
    [9.0, 7.5, 6.0, 5.1, 4.5, 4.5, 4.5, 4.5],
    [7.8, 6.7, 5.6, 4.9, 4.4, 3.9, 3.9, 3.9],
    [6.2, 5.4, 4.6, 4.0, 3.5, 3.2, 3.2, 3.2],
    [4.5, 3.8, 3.6, 3.2, 2.9, 2.7, 2.7, 2.7],
    [3.7, 3.0, 2.8, 2.35, 2.2, 2.2, 2.2, 2.2],
    [2.9, 2.3, 2.1, 1.9, 1.8, 1.7, 1.7, 1.7],
    [2.4, 1.7, 1.5, 1.35, 1.3, 1.3, 1.3, 1.3],
    [1.95, 1.45, 1.3, 1.15, 1.1, 1.1, 1.1, 1.1],
    [1.5, 1.2, 0.94, 0.86, 0.82, 0.82, 0.82, 0.82],
    [0.72, 0.67, 0.64, 0.63, 0.62, 0.62, 0.62, 0.62],
    [0.59, 0.53, 0.51, 0.50, 0.42, 0.42, 0.42, 0.42],
    [0.40, 0.33, 0.26, 0.24, 0.24, 0.22, 0.22, 0.22],
    [0.27, 0.21, 0.20, 0.18, 0.17, 0.17, 0.17, 0.17],
    [0.16, 0.15, 0.14, 0.12, 0.11, 0.11, 0.11, 0.11],
    [0.12, 0.11, 0.10, 0.08, 0.08, 0.08, 0.08, 0.08],
    [0.09, 0.08, 0.07, 0.06, 0.06, 0.06, 0.06, 0.05],
    [0.06, 0.05, 0.03, 0.02, 0.02, 0.02, 0.02, 0.02],
];
/// Rounds in which the lowest band's loudness is turned back into a level: each leaves less than a fifth of what is off.
const EDGE_ROUNDS: usize = 12;
/// Share of the threshold's own excitation in what is heard of it.
const THRESHOLD_SHARE: f64 = 0.25;

/// Level of each critical band as the ear takes it in, dB, of third octaves in dB SPL.
fn band_levels_db(thirds_db: &[f64; THIRDS]) -> [f64; CRITICAL_BANDS] {
    std::array::from_fn(|band| match LOW.get(band) {
        Some(of) => sum_levels(of.clone().map(|third| heard_low_db(third, thirds_db[third]))),
        None => thirds_db[band + 8] - EAR_DB[band],
    })
}

/// Level of third octave `third` of the lowest eleven, corrected for how low sound is heard, dB.
pub(super) fn heard_low_db(third: usize, level_db: f64) -> f64 {
    let row = (0..LOW_DB.len() - 1).find(|row| level_db <= LOW_UP_TO_DB[*row] - LOW_DB[*row][third]);
    level_db + LOW_DB[row.unwrap_or(LOW_DB.len() - 1)][third]
}

/// Specific loudness of a critical band of this level, sone a Bark.
fn specific_loudness(band: usize, level_db: f64) -> f64 {
    if level_db <= QUIET_DB[band] {
        return 0.0;
    }
    let above_db = level_db - WIDTH_DB[band] - QUIET_DB[band];
    let at_threshold = threshold_loudness(band);
    let heard = (1.0 - THRESHOLD_SHARE + THRESHOLD_SHARE * 10f64.powf(0.1 * above_db)).powf(0.25) - 1.0;
    (at_threshold * heard * edge_of_hearing(band, at_threshold * heard)).max(0.0)
}

/// What the law of specific loudness is multiplied by in `band`: it grows with the threshold of hearing there, sone a Bark.
fn threshold_loudness(band: usize) -> f64 {
    0.0635 * 10f64.powf(0.025 * QUIET_DB[band])
}

/// The lowest critical band counts in part, since the threshold of hearing changes within it.
fn edge_of_hearing(band: usize, loudness: f64) -> f64 {
    if band == 0 { (0.4 + 0.32 * loudness.max(0.0).powf(0.2)).min(1.0) } else { 1.0 }
}

/// Level at which `band` has this specific loudness, dB; the threshold of hearing at the least.
fn level_of_loudness(band: usize, loudness: f64) -> f64 {
    if loudness <= 0.0 {
        return QUIET_DB[band];
    }
    // The lowest band's own part of what is heard depends on how much that is: a few rounds settle it.
    let rounds = if band == 0 { EDGE_ROUNDS } else { 0 };
    let core = (0..rounds).fold(loudness, |core, _| loudness / edge_of_hearing(band, core));
    let above = ((core / threshold_loudness(band) + 1.0).powi(4) - 1.0 + THRESHOLD_SHARE) / THRESHOLD_SHARE;
    (10.0 * above.log10() + WIDTH_DB[band] + QUIET_DB[band]).max(QUIET_DB[band])
}

/// What specific loudness `loudness`, `barks` above where it began, has fallen to: the slope to the next range, and so on.
fn fallen(mut loudness: f64, mut barks: f64, column: usize) -> f64 {
    while loudness > 0.0 {
        // At the very end of a range the next one's slope holds.
        let row = SLOPE_DOWN_TO.iter().position(|down_to| *down_to < loudness).unwrap_or(SLOPE_DOWN_TO.len() - 1);
        let slope = SLOPE[row][column.min(7)];
        let barks_to_end = (loudness - SLOPE_DOWN_TO[row]) / slope;
        if barks_to_end >= barks {
            return loudness - slope * barks;
        }
        barks -= barks_to_end;
        loudness = SLOPE_DOWN_TO[row];
    }
    0.0
}

/// Specific loudness in the middle of each critical band, sone a Bark: its own, or what is left there of a louder band below.
pub fn specific_loudness_pattern(thirds_db: &[f64; THIRDS]) -> [f64; CRITICAL_BANDS] {
    let levels = band_levels_db(thirds_db);
    let mut from_below = 0.0;
    std::array::from_fn(|band| {
        let own = specific_loudness(band, levels[band]);
        let lower = if band == 0 { 0.0 } else { UPPER_BARK[band - 1] };
        let half = 0.5 * (UPPER_BARK[band] - lower);
        let column = band.saturating_sub(1);
        let middle = own.max(fallen(from_below, half, column));
        // Nothing falls below what is there all along.
        from_below = own.max(fallen(from_below, 2.0 * half, column));
        middle
    })
}

/// Level of what lies in each critical band, dB, what spreads there from below included: the level at which the band by itself is as loud as that.
pub fn excitation_db(thirds_db: &[f64; THIRDS]) -> [f64; CRITICAL_BANDS] {
    let pattern = specific_loudness_pattern(thirds_db);
    std::array::from_fn(|band| level_of_loudness(band, pattern[band]))
}

/// Level, dB SPL, of a tone in third octave `third` that adds 1 dB to `excitation_db` in its critical band.
pub fn just_audible_db(third: usize, excitation_db: &[f64; CRITICAL_BANDS]) -> f64 {
    let band = LOW.iter().position(|of| of.contains(&third)).unwrap_or(third.saturating_sub(8));
    let adds_db = excitation_db[band] + decibels((10f64.powf(0.1) - 1.0).sqrt());
    if band >= LOW.len() {
        return adds_db + EAR_DB[band];
    }
    let (mut low, mut high) = (0.0, 160.0);
    for _ in 0..40 {
        let middle = 0.5 * (low + high);
        (low, high) = if heard_low_db(third, middle) < adds_db { (middle, high) } else { (low, middle) };
    }
    high
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const BAND: [f64; THIRDS] = [
        60.0, 62.0, 66.0, 74.0, 78.0, 80.0, 80.0, 79.0, 78.0, 77.0, 77.0, 76.0, 74.0, 73.0, 72.0, 71.0, 70.0, 68.0, 66.0, 64.0, 62.0, 60.0,
        57.0, 54.0, 50.0, 46.0, 42.0, 38.0,
    ];

    /// Third octaves of 70 dB each, a bass of 80 dB in three of them, and something like a band, against a general-purpose library of psychoacoustics
    /// (mosqito 1.2.1, `scripts/loudness-reference.py`).
    #[test]
    fn specific_loudness_is_that_of_the_standard() {
        let mut bass = [-60.0; THIRDS];
        bass[3..6].fill(80.0);
        let cases: [([f64; THIRDS], [f64; CRITICAL_BANDS]); 3] = [
            (
                [70.0; THIRDS],
                [
                    2.0067, 2.8825, 2.8612, 2.5433, 2.5037, 2.4353, 2.3687, 2.2901, 2.2406, 2.2141, 2.2675, 2.4206, 2.6772, 3.0669, 3.1401,
                    2.8911, 2.5533, 2.1111, 1.818, 1.449,
                ],
            ),
            (
                bass,
                [
                    4.0106, 2.9624, 1.4953, 0.8765, 0.4615, 0.2376, 0.1212, 0.0409, 0.011, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0,
                    0.0, 0.0,
                ],
            ),
            (
                BAND,
                [
                    3.7935, 5.0968, 4.4519, 3.9121, 3.1766, 2.9113, 2.668, 2.4306, 2.2406, 1.9651, 1.7856, 1.6916, 1.6614, 1.6916, 1.446,
                    1.1056, 0.7586, 0.5038, 0.3492, 0.2259,
                ],
            ),
        ];
        for (thirds, reference) in cases {
            let found = specific_loudness_pattern(&thirds);
            for (band, (found, reference)) in found.iter().zip(reference).enumerate() {
                assert!((found - reference).abs() < 0.01 + 0.02 * reference, "band {band}: {found:.4} against {reference}");
            }
        }
    }

    /// Loudness made of a level is the level's again.
    #[test]
    fn levels_come_back_from_their_loudness() {
        for (band, quiet) in QUIET_DB.into_iter().enumerate() {
            for level in [25.0, 42.0, 60.0, 85.0, 110.0].map(|over| quiet + over) {
                let back = level_of_loudness(band, specific_loudness(band, level));
                assert!((back - level).abs() < 1e-6, "band {band}: {back} dB for {level} dB");
            }
        }
    }

    #[test]
    fn silence_leaves_the_threshold_of_hearing() {
        let excitation = excitation_db(&[-60.0; THIRDS]);
        assert!(excitation.iter().zip(QUIET_DB).all(|(found, quiet)| (found - quiet).abs() < 1e-6), "{excitation:?}");
    }

    proptest! {
        /// More of anything never makes a tone heard more easily, and the tone lies within what a critical band lets it.
        #[test]
        fn more_sound_never_covers_less(third in 0usize..THIRDS, up in 0f64..20.0, shift in -30f64..20.0) {
            let before = BAND.map(|level| level + shift);
            let mut louder = before;
            louder[third] += up;
            let (before, after) = (excitation_db(&before), excitation_db(&louder));
            for tone in 0..THIRDS {
                let (was, is) = (just_audible_db(tone, &before), just_audible_db(tone, &after));
                prop_assert!(is.is_finite() && is >= was - 1e-6, "third {tone}: {was} dB, {is} dB");
            }
        }
    }
}
