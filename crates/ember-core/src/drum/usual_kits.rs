//! Kits as they are usually put together, to begin from: one row a kit.

use super::kinds::Nature;
use super::kit::{Drum, DrumKind};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// Kits that are put together again and again (common practice, no published source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum UsualKit {
    /// Small, with a kick that is left to sing.
    Jazz,
    /// One tom, one floor tom, and a large kick.
    Rock,
    /// Two small toms over a kick of middle size.
    Fusion,
    /// What goes onto a small stage, or into a small car.
    Club,
    /// Two toms and two floor toms.
    Big,
    /// What is struck by hand in an orchestra.
    Orchestral,
}

/// One drum or cymbal of a usual kit: its kind, its name, its size across and its depth, in; depth 0 is that of its kind.
struct Piece(DrumKind, Text, f64, f64);

/// What is known of a usual kit.
struct Row {
    name: Text,
    about: Text,
    pieces: &'static [Piece],
}

// One row for each kit. Sizes: common practice, no published source.

const JAZZ: Row = Row {
    name: text!("Jazz kit"),
    about: text!("Small, high and open."),
    pieces: &[
        Piece(DrumKind::Kick, text!("Kick"), 18.0, 14.0),
        Piece(DrumKind::Snare, text!("Snare"), 14.0, 5.5),
        Piece(DrumKind::Tom, text!("Tom"), 12.0, 8.0),
        Piece(DrumKind::FloorTom, text!("Floor tom"), 14.0, 14.0),
        Piece(DrumKind::HiHat, text!("Hi-hat"), 14.0, 0.0),
        Piece(DrumKind::Ride, text!("Ride"), 20.0, 0.0),
        Piece(DrumKind::Crash, text!("Crash"), 18.0, 0.0),
    ],
};
const ROCK: Row = Row {
    name: text!("Rock kit"),
    about: text!("One tom up, one on the floor, all of them large."),
    pieces: &[
        Piece(DrumKind::Kick, text!("Kick"), 24.0, 14.0),
        Piece(DrumKind::Snare, text!("Snare"), 14.0, 6.5),
        Piece(DrumKind::Tom, text!("Tom"), 13.0, 9.0),
        Piece(DrumKind::FloorTom, text!("Floor tom"), 16.0, 16.0),
        Piece(DrumKind::HiHat, text!("Hi-hat"), 15.0, 0.0),
        Piece(DrumKind::Ride, text!("Ride"), 22.0, 0.0),
        Piece(DrumKind::Crash, text!("Crash"), 18.0, 0.0),
    ],
};
const FUSION: Row = Row {
    name: text!("Fusion kit"),
    about: text!("Two toms over a kick of middle size."),
    pieces: &[
        Piece(DrumKind::Kick, text!("Kick"), 20.0, 16.0),
        Piece(DrumKind::Snare, text!("Snare"), 14.0, 5.5),
        Piece(DrumKind::Tom, text!("High tom"), 10.0, 7.0),
        Piece(DrumKind::Tom, text!("Low tom"), 12.0, 8.0),
        Piece(DrumKind::FloorTom, text!("Floor tom"), 14.0, 14.0),
        Piece(DrumKind::HiHat, text!("Hi-hat"), 14.0, 0.0),
        Piece(DrumKind::Ride, text!("Ride"), 20.0, 0.0),
        Piece(DrumKind::Crash, text!("Crash"), 16.0, 0.0),
    ],
};
const CLUB: Row = Row {
    name: text!("Club kit"),
    about: text!("For small stages and small cars."),
    pieces: &[
        Piece(DrumKind::Kick, text!("Kick"), 16.0, 14.0),
        Piece(DrumKind::Snare, text!("Snare"), 13.0, 5.0),
        Piece(DrumKind::Tom, text!("Tom"), 10.0, 7.0),
        Piece(DrumKind::FloorTom, text!("Floor tom"), 13.0, 13.0),
        Piece(DrumKind::HiHat, text!("Hi-hat"), 13.0, 0.0),
        Piece(DrumKind::Ride, text!("Ride"), 18.0, 0.0),
        Piece(DrumKind::Crash, text!("Crash"), 16.0, 0.0),
    ],
};
const BIG: Row = Row {
    name: text!("Big kit"),
    about: text!("Two toms up, two on the floor."),
    pieces: &[
        Piece(DrumKind::Kick, text!("Kick"), 22.0, 18.0),
        Piece(DrumKind::Snare, text!("Snare"), 14.0, 6.5),
        Piece(DrumKind::Tom, text!("High tom"), 10.0, 8.0),
        Piece(DrumKind::Tom, text!("Low tom"), 12.0, 9.0),
        Piece(DrumKind::FloorTom, text!("Floor tom"), 14.0, 14.0),
        Piece(DrumKind::FloorTom, text!("Low floor tom"), 16.0, 16.0),
        Piece(DrumKind::HiHat, text!("Hi-hat"), 14.0, 0.0),
        Piece(DrumKind::Ride, text!("Ride"), 20.0, 0.0),
        Piece(DrumKind::Crash, text!("Crash"), 17.0, 0.0),
    ],
};
const ORCHESTRAL: Row = Row {
    name: text!("Orchestra"),
    about: text!("What one player has to hand at the back."),
    pieces: &[
        Piece(DrumKind::ConcertBass, text!("Concert bass drum"), 36.0, 18.0),
        Piece(DrumKind::Snare, text!("Snare"), 14.0, 5.0),
        Piece(DrumKind::ConcertTom, text!("Concert tom"), 13.0, 10.0),
        Piece(DrumKind::HandDrum, text!("Hand drum"), 14.0, 3.0),
        Piece(DrumKind::Cymbal, text!("Hanging cymbal"), 18.0, 0.0),
    ],
};

impl UsualKit {
    /// Every usual kit.
    pub const ALL: [Self; 6] = [Self::Jazz, Self::Rock, Self::Fusion, Self::Club, Self::Big, Self::Orchestral];

    const fn row(self) -> &'static Row {
        match self {
            Self::Jazz => &JAZZ,
            Self::Rock => &ROCK,
            Self::Fusion => &FUSION,
            Self::Club => &CLUB,
            Self::Big => &BIG,
            Self::Orchestral => &ORCHESTRAL,
        }
    }

    /// What it is called.
    pub fn name(self) -> Text {
        self.row().name
    }

    /// What it is like, as a sentence.
    pub fn about(self) -> Text {
        self.row().about
    }

    /// Its drums with usual heads, and where `with_cymbals` its cymbals, in the order in which they are added.
    pub fn drums(self, with_cymbals: bool) -> Vec<Drum> {
        let wanted = |piece: &&Piece| with_cymbals || piece.0.info().nature != Nature::Metal;
        self.row().pieces.iter().filter(wanted).map(Piece::drum).collect()
    }
}

impl Piece {
    fn drum(&self) -> Drum {
        let Self(kind, name, diameter_in, depth_in) = *self;
        let usual = Drum::usual(kind);
        let depth_in = if depth_in > 0.0 { depth_in } else { usual.depth_in };
        Drum { name: name.to_string(), diameter_in, depth_in, ..usual }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_usual_kit_is_one_that_can_be_with_a_name_for_each_of_its_drums() {
        for kit in UsualKit::ALL {
            let whole = kit.drums(true);
            let names: HashSet<&str> = whole.iter().map(|drum| drum.name.as_str()).collect();
            assert_eq!(names.len(), whole.len(), "{kit:?}");
            assert!(whole.iter().all(|drum| drum.validate().is_ok()), "{kit:?}");
            let heads = kit.drums(false);
            assert!(heads.iter().all(|drum| !drum.kind.is_metal()) && heads.len() < whole.len(), "{kit:?}");
        }
    }
}
