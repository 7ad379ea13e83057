//! A venue as its user describes it.

use super::modes::{MOST_ROOM_MODES, RoomMode};
use super::{BandLevels, Heard, Loudness, Octaves};
use crate::units::decibels;
use ember_words::{Said, Text, text};
use serde::{Deserialize, Serialize};

/// Rooms by their look. Reverberation times from experience, with no published source.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum RoomClass {
    /// Open air.
    OpenAir,
    /// A studio.
    Studio,
    /// A low saloon.
    LowSaloon,
    /// A club.
    Club,
    /// A theatre.
    Theatre,
    /// A loft.
    Loft,
    /// A hall of stone.
    StoneHall,
}

/// A class of rooms.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RoomClassInfo {
    /// The class of room.
    pub class: RoomClass,
    /// What it is called.
    pub name: Text,
    /// What it is, in words.
    pub words: Text,
    /// By octave band, s; null where nothing comes back.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
    pub t60_s: Octaves<Option<f64>>,
    /// m3, from experience; null in the open.
    pub volume_m3: Option<f64>,
}

const fn room(class: RoomClass, name: Text, words: Text, volume_m3: f64, t: Octaves<f64>) -> RoomClassInfo {
    let t60_s = [Some(t[0]), Some(t[1]), Some(t[2]), Some(t[3]), Some(t[4]), Some(t[5]), Some(t[6])];
    RoomClassInfo { class, name, words, t60_s, volume_m3: Some(volume_m3) }
}

const CLASSES: [RoomClassInfo; 7] = [
    RoomClassInfo {
        class: RoomClass::OpenAir,
        name: text!("Open air"),
        words: text!("nothing comes back"),
        t60_s: [None; 7],
        volume_m3: None,
    },
    room(RoomClass::Studio, text!("Dry studio"), text!("curtains and foam"), 60.0, [0.4, 0.35, 0.3, 0.25, 0.25, 0.25, 0.2]),
    room(RoomClass::LowSaloon, text!("Low saloon"), text!("low ceiling, carpet, people"), 250.0, [0.6, 0.55, 0.5, 0.45, 0.4, 0.4, 0.35]),
    room(RoomClass::Club, text!("Club"), text!("bare walls, people"), 800.0, [1.0, 0.9, 0.8, 0.7, 0.65, 0.6, 0.5]),
    room(RoomClass::Theatre, text!("Theatre"), text!("seats and drapes"), 5000.0, [1.5, 1.4, 1.3, 1.2, 1.1, 1.0, 0.9]),
    room(RoomClass::Loft, text!("Loft or gymnasium"), text!("high, hard, half empty"), 1500.0, [2.4, 2.3, 2.2, 2.0, 1.8, 1.6, 1.2]),
    room(RoomClass::StoneHall, text!("Stone hall"), text!("church or vault"), 8000.0, [4.5, 4.5, 4.2, 4.0, 3.6, 3.0, 2.2]),
];

/// All classes, driest first.
pub fn room_class_infos() -> &'static [RoomClassInfo] {
    &CLASSES
}

/// What is known about a venue's room.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "from", rename_all = "snake_case")]
pub enum Room {
    /// Of a class.
    Class {
        /// The class of room.
        class: RoomClass,
    },
    /// Reverberation time by octave band, s; null where it is not known.
    Typed {
        /// T60 in each octave, s; none where it is not known.
        #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
        t60_s: Octaves<Option<f64>>,
    },
    /// The same, from a clap or a burst of noise.
    Measured {
        /// T60 in each octave, s; none where it is not known.
        #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
        t60_s: Octaves<Option<f64>>,
    },
}

impl Room {
    /// Reverberation time by octave band, s.
    pub fn t60_s(&self) -> Octaves<Option<f64>> {
        match self {
            Self::Class { class } => CLASSES[*class as usize].t60_s,
            Self::Typed { t60_s } | Self::Measured { t60_s } => *t60_s,
        }
    }
}

/// A place to play in, with how loud it gets there and how the drums are heard.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Venue {
    /// What it is called.
    #[serde(deserialize_with = "crate::plain_text::name")]
    pub name: String,
    /// How the room answers.
    pub room: Room,
    /// Null: as loud as the genre usually is.
    pub loudness: Option<Loudness>,
    /// How the drums are heard.
    #[serde(default)]
    pub heard: Heard,
    /// The band, measured; takes the place of the loudness class.
    pub band: Option<BandLevels>,
    /// The empty room, measured; adds to the band.
    pub empty: Option<BandLevels>,
    /// How far away the drums are heard by bare ear, m; null: where room and drum are equally loud.
    #[serde(default)]
    pub distance_m: Option<f64>,
    /// What the player notes about it.
    #[serde(default)]
    pub notes: String,
    /// Low tones that the room holds by itself, where that was measured.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub room_modes: Vec<RoomMode>,
}

/// Why a venue cannot be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidVenue {
    /// It has no name, or one that is too long.
    #[said("Give the venue a name of 1 to 80 letters.")]
    Name,
    /// Nobody stands there.
    #[said("People stand between 0.3 and 100 m from the drums.")]
    Distance,
    /// Its notes are too long.
    #[said("Notes have at most 2000 letters.")]
    Notes,
    /// No room rings for so short or long.
    #[said("A reverberation time must be between 0.05 and 20 s.")]
    Reverberation,
    /// Reverberation is to be typed and was not.
    #[said("Type at least one reverberation time, or choose what the room looks like.")]
    NothingTyped,
    /// It has too many tones of its own, or such that no room has.
    #[said("A room has at most {MOST_ROOM_MODES} tones of its own here, of 10 to 300 Hz and 0.05 to 20 s.")]
    RoomModes,
    /// No microphone measures such a level.
    #[said("A measured level must be between -200 and 20 dB against full scale.")]
    Level,
}

/// Distances at which drums are heard, m.
const DISTANCES_M: std::ops::RangeInclusive<f64> = 0.3..=100.0;
/// Of a room of which nobody said what it looks like, m3: a club's.
const USUAL_VOLUME_M3: f64 = 800.0;
/// Beyond these levels nothing changes any more, dB.
const REVERBERANT_DB: std::ops::RangeInclusive<f64> = -25.0..=15.0;

impl Venue {
    /// Level of the steady room sound against the direct one where the drums are heard, dB. By bare ear the distance decides: both are alike at
    /// the critical distance 0.057 m sqrt(V / T) (V in m3, T in s; Kuttruff, Room Acoustics, ch. 5), and the direct sound falls by 6 dB each time it
    /// doubles.
    pub fn reverberant_db(&self) -> f64 {
        let usual = self.heard.info().reverberant_db;
        let times: Vec<f64> = self.room.t60_s()[2..5].iter().flatten().copied().collect();
        let Some(distance_m) = self.distance_m.filter(|_| self.heard == Heard::BareEar && !times.is_empty()) else { return usual };
        let volume_m3 = match self.room {
            Room::Class { class } => CLASSES[class as usize].volume_m3,
            Room::Typed { .. } | Room::Measured { .. } => None,
        };
        let t60_s = times.iter().sum::<f64>() / times.len() as f64;
        let critical_m = 0.057 * (volume_m3.unwrap_or(USUAL_VOLUME_M3) / t60_s).sqrt();
        decibels(distance_m / critical_m).clamp(*REVERBERANT_DB.start(), *REVERBERANT_DB.end())
    }

    /// Checks names and figures.
    pub fn validate(&self) -> Result<(), InvalidVenue> {
        if self.name.trim().is_empty() || self.name.chars().count() > 80 {
            return Err(InvalidVenue::Name);
        }
        if self.distance_m.is_some_and(|distance_m| !DISTANCES_M.contains(&distance_m)) {
            return Err(InvalidVenue::Distance);
        }
        if self.notes.chars().count() > 2000 {
            return Err(InvalidVenue::Notes);
        }
        let times = self.room.t60_s();
        if times.iter().flatten().any(|t| !t.is_finite() || !(0.05..=20.0).contains(t)) {
            return Err(InvalidVenue::Reverberation);
        }
        if matches!(self.room, Room::Typed { .. }) && times.iter().all(Option::is_none) {
            return Err(InvalidVenue::NothingTyped);
        }
        let possible = |mode: &RoomMode| (10.0..=300.0).contains(&mode.hz) && (0.05..=20.0).contains(&mode.t60_s);
        if self.room_modes.len() > MOST_ROOM_MODES || !self.room_modes.iter().all(possible) {
            return Err(InvalidVenue::RoomModes);
        }
        let levels = self.band.iter().chain(&self.empty).flat_map(|levels| levels.level_dbfs).flatten();
        if levels.into_iter().any(|level| !(-200.0..=20.0).contains(&level)) {
            return Err(InvalidVenue::Level);
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn classes_stand_in_the_order_of_their_enum_and_are_possible() {
        for (i, info) in CLASSES.iter().enumerate() {
            assert_eq!(info.class as usize, i);
            let venue = Venue {
                name: "x".into(),
                room: Room::Class { class: info.class },
                loudness: None,
                heard: Heard::BareEar,
                band: None,
                empty: None,
                distance_m: None,
                notes: String::new(),
                room_modes: Vec::new(),
            };
            assert_eq!(venue.validate(), Ok(()));
            for room in
                [Room::Typed { t60_s: [None; 7] }, Room::Typed { t60_s: [Some(-1.0); 7] }, Room::Measured { t60_s: [Some(f64::NAN); 7] }]
            {
                assert!(Venue { room, ..venue.clone() }.validate().is_err());
            }
        }
    }

    /// In a club the critical distance is 2 m: there as in the usual figure, nearer less of the room, further more, and by a microphone as ever.
    #[test]
    fn who_stands_further_away_hears_more_of_the_room() {
        let venue = |class, heard, distance_m| Venue {
            name: "x".into(),
            room: Room::Class { class },
            loudness: None,
            heard,
            band: None,
            empty: None,
            distance_m,
            notes: String::new(),
            room_modes: Vec::new(),
        };
        let at = |distance_m| venue(RoomClass::Club, Heard::BareEar, Some(distance_m)).reverberant_db();
        assert!(at(1.0) < -4.0 && at(1.93).abs() < 0.2 && (at(8.0) - at(4.0) - 6.02).abs() < 0.01, "{} {}", at(1.0), at(1.93));
        assert_eq!(venue(RoomClass::Club, Heard::CloseMics, Some(8.0)).reverberant_db(), -25.0);
        assert_eq!(venue(RoomClass::OpenAir, Heard::BareEar, Some(8.0)).reverberant_db(), 0.0, "nothing comes back whatever it is");
        let invalid = venue(RoomClass::Club, Heard::BareEar, Some(0.0)).validate().unwrap_err();
        assert_eq!(invalid.to_string(), "People stand between 0.3 and 100 m from the drums.");
    }
}
