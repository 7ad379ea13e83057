//! How long ears may stand a level.

use ember_words::{Text, text};

/// Where the limits come from, for the screen.
pub const EXPOSURE_SOURCE: Text =
    text!("NIOSH 98-126 (1998): 85 dB(A) for 8 hours, half the time for every 3 dB more. Local rules and an audiologist decide.");

/// Longest recommended exposure a day to `dba` dB(A), minutes: 480 / 2^((L - 85) / 3) (NIOSH publication 98-126, 1998, table 1-1).
pub fn exposure_minutes(dba: f64) -> f64 {
    480.0 / 2f64.powf((dba - 85.0) / 3.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// NIOSH 98-126, table 1-1: 85 dB(A) 8 h, 88 4 h, 91 2 h, 94 1 h, 97 30 min, 100 15 min, 103 7 min 30 s.
    #[test]
    fn the_published_table_is_met() {
        for (dba, minutes) in [(85.0, 480.0), (88.0, 240.0), (91.0, 120.0), (94.0, 60.0), (97.0, 30.0), (100.0, 15.0), (103.0, 7.5)] {
            assert!((exposure_minutes(dba) - minutes).abs() < 1e-9);
        }
    }
}
