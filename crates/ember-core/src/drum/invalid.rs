//! Why a drum, a head, a hole or a wish about a drum cannot be.

use super::kit::{DrumKind, Struck};
use super::port::{LEAST_RIM_IN, MOST_PORTS, SMALLEST_IN};
use ember_words::{Said, Text, Words, text, words};

/// A figure of a drum that has bounds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DrumFigure {
    /// Width of the heads, in.
    Diameter,
    /// Weight of a cymbal, g.
    Weight,
    /// Depth of the shell, in.
    Depth,
    /// Lugs of a head.
    Lugs,
    /// Air vents in the shell.
    Vents,
    /// Strands of the wires.
    Strands,
}

impl DrumFigure {
    /// What it is called.
    pub fn word(self) -> Text {
        match self {
            Self::Diameter => text!("diameter"),
            Self::Weight => text!("weight"),
            Self::Depth => text!("depth"),
            Self::Lugs => text!("number of lugs"),
            Self::Vents => text!("number of air vents"),
            Self::Strands => text!("number of strands"),
        }
    }

    /// Its unit as it stands behind a number; nothing of what is counted.
    pub fn unit(self) -> &'static str {
        match self {
            Self::Diameter | Self::Depth => " inches",
            Self::Weight => " g",
            Self::Lugs | Self::Vents | Self::Strands => "",
        }
    }
}

/// Why a drum cannot be.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum InvalidDrum {
    /// It has no name, or one that is too long.
    #[said("Give the drum a name of 1 to 60 letters.")]
    Name,
    /// A figure lies outside of what drums have.
    #[said("The {} must be between {low} and {high}{}.", .figure.word(), .figure.unit())]
    OutOfRange {
        /// Which one.
        figure: DrumFigure,
        /// The least.
        low: f64,
        /// The most.
        high: f64,
    },
    /// It is not struck in that way.
    #[said("A {} is not struck “{}”.", .kind.word(), .struck.words())]
    NotStruckSo {
        /// What it is.
        kind: DrumKind,
        /// How it should be struck.
        struck: Struck,
    },
    /// Only what stands upright has a second shell.
    #[said("A second shell stands before the front head of a kick or another bass drum.")]
    SecondShell,
    /// A hole is in a head that is not there.
    #[said("There is no {} to have a hole. Put one on first, or take the hole out.", .kind.lower_head_word())]
    HoleWithoutHead {
        /// What it is.
        kind: DrumKind,
    },
    /// A hole is in a mesh head.
    #[said("A mesh {} lets all air through: it has no hole.", .kind.lower_head_word())]
    HoleInMesh {
        /// What it is.
        kind: DrumKind,
    },
    /// The holes cannot be.
    #[said(transparent)]
    Hole(#[from] InvalidHole),
    /// A head cannot be.
    #[said(transparent)]
    Head(#[from] InvalidHead),
    /// What is wished of it cannot be.
    #[said(transparent)]
    OwnWish(#[from] InvalidOwnWish),
}

/// Why a head cannot be. `which` says which one it is.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidHead {
    /// No film is as thin or thick.
    #[said("The {which}'s film must be between 2 and 40 mil.")]
    Film {
        /// Which head.
        which: Text,
    },
    /// It has neither one ply nor two.
    #[said("The {which} has one ply or two.")]
    Plies {
        /// Which head.
        which: Text,
    },
    /// Oil needs two plies.
    #[said("Oil lies between two plies; the {which} has one.")]
    Oil {
        /// Which head.
        which: Text,
    },
    /// It was not played for so long.
    #[said("The {which} must have been played for 0 to 20000 hours.")]
    Played {
        /// Which head.
        which: Text,
    },
}

/// Why holes cannot be in a head.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum InvalidHole {
    /// There are too many.
    #[said("A {which} has at most {MOST_PORTS} holes.")]
    TooMany {
        /// Which head.
        which: Text,
    },
    /// One is too small.
    #[said("A hole is at least {SMALLEST_IN} inches wide.")]
    TooSmall,
    /// One is too large for the head.
    #[said("A hole of {diameter_in} inches is too large for a {head_in} inch head: at most {largest_in:.1}. For more, take the head off.")]
    TooLarge {
        /// Its width, in.
        diameter_in: f64,
        /// Width of the head, in.
        head_in: f64,
        /// The widest that such a head can have, in.
        largest_in: f64,
    },
    /// One does not lie on the head.
    #[said("A hole's middle must lie on the head.")]
    OffTheHead,
    /// One leaves too little film to the hoop.
    #[said(
        "A hole of {diameter_in} inches there leaves {} between it and the hoop: {LEAST_RIM_IN} inches are the least. Move it inwards, or make it smaller.",
        inches_or_nothing(*.rim_in)
    )]
    AtTheHoop {
        /// Its width, in.
        diameter_in: f64,
        /// What is left, in; negative where it runs off the head.
        rim_in: f64,
    },
    /// Two are too near to one another.
    #[said("Two holes run into each other, or leave less than {LEAST_RIM_IN} inches between them.")]
    TooNear,
}

fn inches_or_nothing(rim_in: f64) -> Words {
    if rim_in > 0.0 { words!("{rim_in:.1} inches") } else { words!("nothing") }
}

/// Why a drum cannot be wished to sound so.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidOwnWish {
    /// Body or ring should last for too short or too long.
    #[said("Ring and body may be heard for 0.1 to 10 times as long as the genre has it.")]
    Lengths,
    /// No such part of the body can be left.
    #[said("The part of the open drum's body that is to be left must be between 0 and 100 %.")]
    LeastOfOpen,
    /// The ring cannot be held so far under or over the body.
    #[said("The ring may be heard for 0.1 to 20 times as long as the body, or for as long as it likes.")]
    RingOverBody,
    /// So much attack is not lost.
    #[said("The attack that it may lose must be between 0 and 20 dB.")]
    AttackLoss,
    /// The sound that was liked tells no body.
    #[said("What was liked has no clear body to go by.")]
    NoBody,
}
