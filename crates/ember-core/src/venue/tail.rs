//! What a room makes of a partial: its tail lies behind the drum's own decay. A shorter drum drives it less, and shortens it no further.

use super::{Octaves, octave_place};
use crate::numeric::bisect;
use crate::units::LN_1000;
use serde::{Deserialize, Serialize};

/// The room behind a drum.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomTail {
    /// Reverberation time by octave band, s; null where nothing comes back or nothing is known.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
    pub t60_s: Octaves<Option<f64>>,
    /// Level of the steady room sound against the direct one, dB.
    pub reverberant_db: f64,
}

/// Longer is not looked for, s.
const LONGEST_S: f64 = 30.0;

impl RoomTail {
    /// Reverberation time at `hz`, s, from the nearest octave in which it is known.
    pub fn at(&self, hz: f64) -> Option<f64> {
        let place = octave_place(hz);
        let nearest = (0..7).filter(|i| self.t60_s[*i].is_some()).min_by(|a, b| {
            let off = |i: usize| (i as f64 - place).abs();
            off(*a).total_cmp(&off(*b))
        })?;
        self.t60_s[nearest]
    }

    /// How long a partial that starts `above_db` over what covers it and decays in `t60` s is heard in the room, s.
    ///
    /// A diffuse field (Kuttruff, Room Acoustics, ch. 5): direct power e^(-ka t) feeds a room whose power falls as e^(-kb t), which
    /// gives G kb (e^(-ka t) - e^(-kb t)) / (kb - ka), with G the steady ratio of room to direct sound.
    pub fn heard_s(&self, hz: f64, above_db: f64, t60: f64) -> f64 {
        let Some(room) = self.at(hz) else { return (above_db / 60.0 * t60).max(0.0) };
        let (ka, kb) = (2.0 * LN_1000 / t60, 2.0 * LN_1000 / room);
        let ratio = 10f64.powf(self.reverberant_db / 10.0);
        let power = |t: f64| {
            let behind =
                if (kb / ka - 1.0).abs() < 1e-3 { kb * t * (-ka * t).exp() } else { kb * ((-ka * t).exp() - (-kb * t).exp()) / (kb - ka) };
            (-ka * t).exp() + ratio * behind
        };
        let floor = 10f64.powf(-above_db / 10.0);
        // The last moment above the floor: the room may rise before it falls.
        let step = LONGEST_S / 600.0;
        let Some(last) = (0..600).rev().find(|i| power(*i as f64 * step) > floor) else { return 0.0 };
        bisect(last as f64 * step, (last + 1) as f64 * step, 40, |t| power(t) > floor)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn tail(t60: Option<f64>, reverberant_db: f64) -> RoomTail {
        RoomTail { t60_s: [t60; 7], reverberant_db }
    }

    #[test]
    fn open_air_adds_nothing() {
        assert!((tail(None, 0.0).heard_s(300.0, 40.0, 0.6) - 0.4).abs() < 1e-12);
    }

    proptest! {
        #[test]
        fn a_room_only_ever_lengthens_and_a_louder_one_more(t60 in 0.05f64..2.0, above in 6f64..50.0, room in 0.2f64..4.0, db in -30f64..3.0) {
            let alone = above / 60.0 * t60;
            let heard = tail(Some(room), db).heard_s(200.0, above, t60);
            prop_assert!(heard >= alone - 1e-6);
            prop_assert!(tail(Some(room), db + 1.0).heard_s(200.0, above, t60) >= heard - 1e-6);
        }

        /// A drum that stops dead leaves the room alone: (above + 10 log(G kb / ka)) / 60 x T60 of the room.
        #[test]
        fn behind_a_dead_drum_the_room_decays_as_it_does(room in 0.5f64..3.0, above in 35f64..50.0) {
            let heard = tail(Some(room), 0.0).heard_s(200.0, above, 0.02);
            let expected = (above + 10.0 * (0.02 / room).log10() - 10.0 * (1.0f64 - 0.02 / room).log10()) / 60.0 * room;
            prop_assert!((heard - expected).abs() < 0.01, "{} {}", heard, expected);
        }
    }
}
