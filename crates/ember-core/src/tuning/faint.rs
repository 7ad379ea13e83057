//! Taps so soft that no strike is found in them: heard all the same, so that nobody waits for an answer.

/// A sound this far above the quiet of the place may be a tap, dB.
const HEARD_DB: f64 = 7.0;
/// Back within this of the quiet, the place is quiet again, dB.
const QUIET_DB: f64 = 3.5;
/// A real tap is found within this time; what is not by then was too soft, s.
const WAIT_S: f64 = 0.6;
/// Time from the start in which the quiet of the place is learned, s.
const LEARN_S: f64 = 0.3;
/// How fast the quiet is followed upwards, dB a second.
const RISES_DB_PER_S: f64 = 2.0;

/// Follows the level of a place and tells of taps that no strike was found in.
#[derive(Debug, Clone)]
pub struct FaintTaps {
    quiet_db: f64,
    time_s: f64,
    armed: bool,
    heard_at_s: Option<f64>,
}

impl Default for FaintTaps {
    fn default() -> Self {
        Self { quiet_db: 0.0, time_s: 0.0, armed: false, heard_at_s: None }
    }
}

impl FaintTaps {
    /// Takes the level (dBFS) of the next `seconds`; `ringing`: whether a strike is being followed. Returns whether a tap just turned
    /// out to have been too soft to find.
    pub fn push(&mut self, level_db: f64, ringing: bool, seconds: f64) -> bool {
        self.time_s += seconds;
        self.quiet_db = level_db.min(self.quiet_db + RISES_DB_PER_S * seconds);
        if ringing {
            (self.armed, self.heard_at_s) = (false, None);
            return false;
        }
        if self.time_s < LEARN_S {
            return false;
        }
        let above = level_db - self.quiet_db;
        if above < QUIET_DB && self.heard_at_s.is_none() {
            self.armed = true;
        } else if self.armed && above > HEARD_DB {
            (self.armed, self.heard_at_s) = (false, Some(self.time_s));
        }
        let late = self.heard_at_s.is_some_and(|at| self.time_s - at > WAIT_S);
        if late {
            self.heard_at_s = None;
        }
        late
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Levels each 5 ms: quiet, then `loud` dB for 60 ms, then quiet.
    fn said(loud: f64, ringing: bool) -> usize {
        let mut faint = FaintTaps::default();
        let level = |n: usize| if (200..212).contains(&n) { loud } else { -70.0 };
        (0..600).filter(|n| faint.push(level(*n), ringing && (201..300).contains(n), 0.005)).count()
    }

    #[test]
    fn a_soft_sound_is_told_once_and_a_found_tap_or_the_quiet_never() {
        assert_eq!(said(-60.0, false), 1);
        assert_eq!(said(-68.0, false), 0);
        assert_eq!(said(-40.0, true), 0, "a tap that was found is answered as such");
    }
}
