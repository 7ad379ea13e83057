//! How loud the band is, and through what the drums are heard.

use super::Octaves;
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// How loud the band plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Loudness {
    /// Quiet.
    Quiet,
    /// Moderate.
    Moderate,
    /// Loud.
    Loud,
    /// Very loud.
    VeryLoud,
}

/// A loudness class. Figures from experience, with no published source.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LoudnessInfo {
    /// How loud the place is.
    pub loudness: Loudness,
    /// What it is called.
    pub name: Text,
    /// What it is, in words.
    pub words: Text,
    /// How far below a medium strike's loudest partial the band covers a drum at 250 Hz, dB.
    pub covered_db: f64,
    /// Usual level at the drummer's ears, dB(A).
    pub dba: f64,
}

const LOUDNESSES: [LoudnessInfo; 4] = [
    LoudnessInfo {
        loudness: Loudness::Quiet,
        name: text!("Quiet"),
        words: text!("brushes, no amplifiers, talk goes on"),
        covered_db: 44.0,
        dba: 80.0,
    },
    LoudnessInfo {
        loudness: Loudness::Moderate,
        name: text!("Moderate"),
        words: text!("acoustic band, small amplifiers"),
        covered_db: 37.0,
        dba: 90.0,
    },
    LoudnessInfo {
        loudness: Loudness::Loud,
        name: text!("Loud"),
        words: text!("amplified band, small stage"),
        covered_db: 31.0,
        dba: 98.0,
    },
    LoudnessInfo {
        loudness: Loudness::VeryLoud,
        name: text!("Very loud"),
        words: text!("stacks and monitors"),
        covered_db: 26.0,
        dba: 105.0,
    },
];

/// What a band leaves of each octave against 250 Hz, dB: fullest in the bass and low middle, falling above 500 Hz (from
/// experience; long-term spectra of bands are published, this is none of them).
const SHAPE_DB: Octaves<f64> = [-3.0, 0.0, 0.0, -1.0, -4.0, -8.0, -13.0];

impl Loudness {
    /// What is known of it.
    pub fn info(self) -> &'static LoudnessInfo {
        &LOUDNESSES[self as usize]
    }

    /// Level that covers a drum by octave, dB against a medium strike's loudest partial.
    pub fn threshold_db(self) -> Octaves<f64> {
        SHAPE_DB.map(|shape| shape - self.info().covered_db)
    }
}

/// All loudness classes, quietest first.
pub fn loudness_infos() -> &'static [LoudnessInfo] {
    &LOUDNESSES
}

/// Through what the drums are heard.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Heard {
    /// By ear, without amplification.
    #[default]
    BareEar,
    /// Through microphones close to the heads.
    CloseMics,
    /// Through close microphones and one in the room.
    CloseAndRoom,
    /// By ear, at the kit.
    AtTheKit,
    /// Through microphones over the kit.
    Overheads,
    /// In the player's own ears.
    InEar,
}

/// What a way of hearing does. Figures from experience, with no published source.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeardInfo {
    /// How the drums are heard.
    pub heard: Heard,
    /// What it is called.
    pub name: Text,
    /// What it is, in words.
    pub words: Text,
    /// The drum stands out of the band by this much more, dB.
    pub nearer_db: f64,
    /// Level of the steady room sound against the direct one, dB: 0 at the critical distance, where both are alike.
    pub reverberant_db: f64,
}

const HEARD: [HeardInfo; 6] = [
    HeardInfo {
        heard: Heard::BareEar,
        name: text!("Bare ear"),
        words: text!("from where people stand"),
        nearer_db: 0.0,
        reverberant_db: 0.0,
    },
    HeardInfo {
        heard: Heard::CloseMics,
        name: text!("Close microphones"),
        words: text!("a few centimetres from the heads"),
        nearer_db: 6.0,
        reverberant_db: -25.0,
    },
    HeardInfo {
        heard: Heard::CloseAndRoom,
        name: text!("Close and room microphones"),
        words: text!("overheads or a room microphone bring the ring back"),
        nearer_db: 3.0,
        reverberant_db: -8.0,
    },
    // A fifth of the critical distance away: 20 log(1/5).
    HeardInfo { heard: Heard::AtTheKit, name: text!("At the kit"), words: text!("where you sit"), nearer_db: 6.0, reverberant_db: -14.0 },
    HeardInfo {
        heard: Heard::Overheads,
        name: text!("Overheads"),
        words: text!("a pair of microphones above the kit, nothing else"),
        nearer_db: 5.0,
        reverberant_db: -12.0,
    },
    HeardInfo {
        heard: Heard::InEar,
        name: text!("In-ear monitors"),
        words: text!("your own mix, the stage shut out"),
        nearer_db: 8.0,
        reverberant_db: -25.0,
    },
];

impl Heard {
    /// What is known of it.
    pub fn info(self) -> &'static HeardInfo {
        &HEARD[self as usize]
    }
}

/// All ways of hearing.
pub fn heard_infos() -> &'static [HeardInfo] {
    &HEARD
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tables_stand_in_the_order_of_their_enums() {
        assert!(LOUDNESSES.iter().enumerate().all(|(i, info)| info.loudness as usize == i));
        assert!(HEARD.iter().enumerate().all(|(i, info)| info.heard as usize == i));
    }

    /// The nearer, the less of the room (common practice, no published source).
    #[test]
    fn who_is_nearer_hears_more_of_the_drum_and_less_of_the_room() {
        let order = [Heard::BareEar, Heard::CloseAndRoom, Heard::Overheads, Heard::AtTheKit, Heard::InEar].map(Heard::info);
        assert!(order.windows(2).all(|pair| pair[0].nearer_db < pair[1].nearer_db && pair[0].reverberant_db > pair[1].reverberant_db));
    }

    #[test]
    fn a_louder_band_covers_more_in_every_octave() {
        for pair in LOUDNESSES.windows(2) {
            let (quiet, loud) = (pair[0].loudness.threshold_db(), pair[1].loudness.threshold_db());
            assert!(quiet.iter().zip(loud).all(|(quiet, loud)| *quiet < loud));
        }
    }
}
