//! The place: what its room adds to a drum, and what the band covers of it.

mod exposure;
mod level;
mod loudness;
mod masking;
mod modes;
mod place;
mod room;
mod simulated;
mod tail;

pub use exposure::{EXPOSURE_SOURCE, exposure_minutes};
pub use level::{Heard, HeardInfo, Loudness, LoudnessInfo, heard_infos, loudness_infos};
pub use masking::{BandLevels, Masking, NoLevels, Recorded, band_levels};
pub use modes::RoomMode;
pub use place::{InvalidVenue, Room, RoomClass, RoomClassInfo, Venue, room_class_infos};
pub use room::{RoomDecay, Unmeasurable, room_decay};
pub use simulated::SimulatedVenue;
pub use tail::RoomTail;

use crate::signal::octave_centre_hz;

/// One value for each octave band from 63 Hz to 4 kHz.
pub type Octaves<T> = [T; 7];

/// Where `hz` lies among the octaves: 0 at the middle of the first, 1 at that of the second (IEC 61260-1: a step is 10^0.3).
fn octave_place(hz: f64) -> f64 {
    (hz / octave_centre_hz(0)).max(1e-9).log10() / 0.3
}

/// A frequency's place between two octaves' middles, to read several curves at.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OctavePlace {
    below: usize,
    part: f64,
}

impl OctavePlace {
    /// Of `hz`; beyond the ends, the end.
    pub fn of(hz: f64) -> Self {
        let place = octave_place(hz).clamp(0.0, 6.0);
        let below = (place as usize).min(5);
        Self { below, part: place - below as f64 }
    }

    /// Value there: straight lines over the logarithm of frequency.
    pub fn on(self, curve: &Octaves<f64>) -> f64 {
        curve[self.below] * (1.0 - self.part) + curve[self.below + 1] * self.part
    }
}

/// Value at `hz` of a curve given at the octaves' middles.
pub fn at_hz(curve: &Octaves<f64>, hz: f64) -> f64 {
    OctavePlace::of(hz).on(curve)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn curves_are_followed_between_bands_and_held_beyond_them() {
        let curve = [10.0, 20.0, 30.0, 40.0, 50.0, 60.0, 70.0];
        assert_eq!((at_hz(&curve, 20.0), at_hz(&curve, 20_000.0)), (10.0, 70.0));
        assert!((at_hz(&curve, 1000.0) - 50.0).abs() < 0.1);
        let between = at_hz(&curve, (octave_centre_hz(2) * octave_centre_hz(3)).sqrt());
        assert!((between - 35.0).abs() < 0.1, "{between}");
    }
}
