//! Genres as plain data: for each kind of drum, the note values within which its ring should be gone and its body should last,
//! and why. All of it common practice, with no published source.

use crate::drum::DrumKind;
use serde::Serialize;

/// A note value.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum NoteValue {
    ThirtySecond,
    Sixteenth,
    Eighth,
    DottedEighth,
    Quarter,
    DottedQuarter,
    Half,
    Whole,
}

impl NoteValue {
    /// Length in quarter notes.
    pub fn quarters(self) -> f64 {
        match self {
            Self::ThirtySecond => 0.125,
            Self::Sixteenth => 0.25,
            Self::Eighth => 0.5,
            Self::DottedEighth => 0.75,
            Self::Quarter => 1.0,
            Self::DottedQuarter => 1.5,
            Self::Half => 2.0,
            Self::Whole => 4.0,
        }
    }

    /// With its article, for a sentence.
    pub fn words(self) -> &'static str {
        match self {
            Self::ThirtySecond => "a thirty-second",
            Self::Sixteenth => "a sixteenth",
            Self::Eighth => "an eighth",
            Self::DottedEighth => "a dotted eighth",
            Self::Quarter => "a quarter",
            Self::DottedQuarter => "a dotted quarter",
            Self::Half => "a half note",
            Self::Whole => "a whole note",
        }
    }
}

/// The room a genre leaves for one kind of drum.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Room {
    /// The ring is gone within this.
    pub ring_gone: NoteValue,
    /// The body lasts at least this.
    pub body_least: NoteValue,
    /// The body lasts at most this.
    pub body_most: NoteValue,
    /// Most of the energy 80 to 400 ms after the strike that may be overtones, 0 to 1.
    pub ring_share_most: f64,
}

/// A genre.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Genre {
    pub code: &'static str,
    pub name: &'static str,
    pub reason: &'static str,
    pub usual_bpm: f64,
    /// How far below the strike the band covers a drum, dB: quiet bands let a tail be heard for longer.
    pub covered_db: f64,
    pub snare: Room,
    pub tom: Room,
    pub floor_tom: Room,
    pub kick: Room,
}

impl Genre {
    pub fn room(&self, kind: DrumKind) -> Room {
        match kind {
            DrumKind::Snare => self.snare,
            DrumKind::Tom => self.tom,
            DrumKind::FloorTom => self.floor_tom,
            DrumKind::Kick => self.kick,
        }
    }
}

const fn room(ring_gone: NoteValue, body_least: NoteValue, body_most: NoteValue, ring_share_most: f64) -> Room {
    Room { ring_gone, body_least, body_most, ring_share_most }
}

use NoteValue::{DottedEighth, DottedQuarter, Eighth, Half, Quarter, Sixteenth, ThirtySecond, Whole};

/// All genres, from open to dead.
pub const GENRES: [Genre; 8] = [
    Genre {
        code: "traditional_jazz",
        name: "Traditional jazz",
        reason: "Open school: drums sing and carry the tune's air; only what blurs the next beat goes.",
        usual_bpm: 160.0,
        covered_db: 38.0,
        snare: room(DottedQuarter, Sixteenth, Half, 0.7),
        tom: room(Half, Eighth, Whole, 0.8),
        floor_tom: room(Half, Eighth, Whole, 0.8),
        kick: room(Half, Eighth, Half, 0.7),
    },
    Genre {
        code: "lullaby",
        name: "Slow lullaby",
        reason: "Quiet and slow: nothing covers a tail, so it must be soft and short of the next bar, but never choked.",
        usual_bpm: 66.0,
        covered_db: 45.0,
        snare: room(Eighth, Sixteenth, Quarter, 0.5),
        tom: room(Quarter, Eighth, Half, 0.5),
        floor_tom: room(Quarter, Eighth, Half, 0.5),
        kick: room(Eighth, Sixteenth, Quarter, 0.5),
    },
    Genre {
        code: "musette_waltz",
        name: "Musette waltz",
        reason: "One to the bar: the kick may bloom on one, the snare answers on two and three and must be clear of the next.",
        usual_bpm: 180.0,
        covered_db: 36.0,
        snare: room(Quarter, Sixteenth, Quarter, 0.5),
        tom: room(DottedQuarter, Eighth, Half, 0.6),
        floor_tom: room(DottedQuarter, Eighth, Half, 0.6),
        kick: room(Quarter, Eighth, Half, 0.5),
    },
    Genre {
        code: "cumbia",
        name: "Cumbia",
        reason: "The low drum walks with the bass and the snare keeps off the scraper's eighths.",
        usual_bpm: 96.0,
        covered_db: 34.0,
        snare: room(Eighth, Sixteenth, Eighth, 0.4),
        tom: room(Eighth, Sixteenth, Quarter, 0.5),
        floor_tom: room(Quarter, Eighth, Quarter, 0.5),
        kick: room(Eighth, Sixteenth, Eighth, 0.45),
    },
    Genre {
        code: "surf",
        name: "Surf",
        reason: "Fast floor-tom eighths and a cracking snare: ring would smear into a wash, yet the toms must roll.",
        usual_bpm: 160.0,
        covered_db: 32.0,
        snare: room(Eighth, ThirtySecond, Eighth, 0.35),
        tom: room(Quarter, Sixteenth, Quarter, 0.45),
        floor_tom: room(Quarter, Eighth, Quarter, 0.45),
        kick: room(Eighth, Sixteenth, Quarter, 0.45),
    },
    Genre {
        code: "rock",
        name: "Rock",
        reason: "Controlled school: a full note on the backbeat, gone before the next eighth is over.",
        usual_bpm: 118.0,
        covered_db: 30.0,
        snare: room(Eighth, Sixteenth, Quarter, 0.4),
        tom: room(Quarter, Eighth, Half, 0.5),
        floor_tom: room(Quarter, Eighth, Half, 0.5),
        kick: room(Eighth, Sixteenth, Eighth, 0.4),
    },
    Genre {
        code: "funk",
        name: "Funk",
        reason: "Sixteenths and ghost notes need a dry snare and a kick that is out of the bass's way.",
        usual_bpm: 102.0,
        covered_db: 34.0,
        snare: room(Sixteenth, ThirtySecond, Eighth, 0.3),
        tom: room(Eighth, Sixteenth, Quarter, 0.35),
        floor_tom: room(Eighth, Sixteenth, Quarter, 0.35),
        kick: room(Sixteenth, ThirtySecond, DottedEighth, 0.35),
    },
    Genre {
        code: "metal",
        name: "Metal",
        reason: "Dead school: double strokes on the kick and fills in sixteenths leave room for little more than attack.",
        usual_bpm: 180.0,
        covered_db: 26.0,
        snare: room(Eighth, ThirtySecond, Eighth, 0.3),
        tom: room(Eighth, Sixteenth, Quarter, 0.3),
        floor_tom: room(Eighth, Sixteenth, Quarter, 0.3),
        kick: room(Sixteenth, ThirtySecond, Eighth, 0.3),
    },
];

/// The genre with this code.
pub fn genre(code: &str) -> Option<&'static Genre> {
    GENRES.iter().find(|genre| genre.code == code)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_genre_leaves_a_body_that_can_be() {
        for genre in &GENRES {
            for kind in DrumKind::ALL {
                let room = genre.room(kind);
                assert!(room.body_least.quarters() < room.body_most.quarters(), "{} {kind:?}", genre.code);
                assert!((0.0..1.0).contains(&room.ring_share_most));
            }
        }
    }
}
