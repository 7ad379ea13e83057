//! Why things cannot lie on a drum so.

use super::made::LONGEST_NAME;
use super::placement::OTHER_HEAD;
use crate::drum::{DrumKind, FEWEST_LUGS, FEWEST_RODS};
use ember_words::{Said, Text};

/// Why a device cannot be put there. `name` is what it is called.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum InvalidPlacement {
    /// There is no such device.
    #[said("There is no device \"{name}\". Known are: {}.", .known.join(", "))]
    UnknownDevice {
        /// The code that was asked for.
        name: String,
        /// The codes that there are.
        known: Vec<&'static str>,
    },
    /// A part of a placement that is written in one word is no number.
    #[said("\"{part}\" in \"{text}\" is not a number.")]
    NotANumber {
        /// The part.
        part: String,
        /// All of it.
        text: String,
    },
    /// What follows the angle is not the word for the other head.
    #[said("After the angle in \"{text}\" comes nothing, or \"{OTHER_HEAD}\" for the other head.")]
    UnknownHead {
        /// All of it.
        text: String,
    },
    /// A placement in one word goes on where it should end.
    #[said("\"{text}\" has too many parts; the form is device:amount:radius:angle:other.")]
    TooManyParts {
        /// All of it.
        text: String,
    },
    /// What the catalogue knows is said to have a size of its own.
    #[said("What a {name} is is known: only things of your own have a size and weight.")]
    Known {
        /// The catalogue's name.
        name: Text,
    },
    /// A thing of the player's own comes without size and weight.
    #[said("A {name} needs its size and weight: say on the shelf what it is.")]
    Unmeasured {
        /// Its name.
        name: String,
    },
    /// A thing of the player's own cannot be.
    #[said(transparent)]
    Made(#[from] InvalidMade),
    /// It is longer than the head is wide.
    #[said("The {name} is larger than the drum: fold it, or hang it over the hoop.")]
    LargerThanTheHead {
        /// Its name.
        name: String,
    },
    /// The catalogue has no such amount of it.
    #[said("There is no amount {amount} of {name}.")]
    UnknownAmount {
        /// Its name.
        name: String,
        /// The amount asked for.
        amount: usize,
    },
    /// It does not lie on the head.
    #[said("The {name} must lie on the head: radius 0 to 1, any angle.")]
    OffTheHead {
        /// Its name.
        name: String,
    },
    /// It is not made for such drums.
    #[said("A {name} is not made for a {}.", .kind.word())]
    NotForKind {
        /// Its name.
        name: String,
        /// What the drum is.
        kind: DrumKind,
    },
    /// Too few rods for turning all of them to be reckoned with.
    #[said("Turns of all rods are reckoned with from {FEWEST_LUGS} rods on; with {lugs} the note is found in Tune.")]
    TooFewToTurn {
        /// Rods of the head.
        lugs: u8,
    },
    /// Too few rods for some to be let slack.
    #[said("Lugs can be let slack from {FEWEST_RODS} on: with {lugs} too few would be left to hold the head.")]
    TooFewToSlacken {
        /// Rods of the head.
        lugs: u8,
    },
    /// It does not fit into the drum.
    #[said("A {name} of some {litres:.0} l is larger than the drum ({drum_litres:.0} l): take something smaller.")]
    LargerThanTheDrum {
        /// Its name.
        name: String,
        /// Room that it takes, l.
        litres: f64,
        /// Room in the drum, l.
        drum_litres: f64,
    },
    /// It would slide down.
    #[said("A {name} slides off an upright hoop: hang it at the top, at 12 o'clock.")]
    SlidesOff {
        /// Its name.
        name: String,
    },
    /// It lies on a head that is not there.
    #[said("A {name} needs a {head}.")]
    NeedsHead {
        /// Its name.
        name: String,
        /// The head.
        head: Text,
    },
    /// It does nothing from outside there.
    #[said("A {name} does nothing on the {head} from outside, or cannot be held there.")]
    NotOutside {
        /// Its name.
        name: String,
        /// The head.
        head: Text,
    },
    /// The head on which it should lie from outside is not there.
    #[said("There is no {head} for the {name} to lie on.")]
    NoOtherHead {
        /// Its name.
        name: String,
        /// The head.
        head: Text,
    },
    /// A second shell stands before the head.
    #[said("The second shell stands before the {head}: the {name} cannot get there.")]
    BehindTheShell {
        /// Its name.
        name: String,
        /// The head.
        head: Text,
    },
    /// There is nothing, or more than is reckoned with.
    #[said("Lay out one to {most} things.")]
    Count {
        /// The most that is reckoned with.
        most: usize,
    },
    /// Lugs are let slack twice.
    #[said("The lugs nearest you can be let slack only once.")]
    SlackTwice,
    /// All rods are turned beside slack lugs.
    #[said("Where lugs are slack the other rods stay as they are: what a turn does there is not known.")]
    TurnedBesideSlack,
    /// All rods are turned twice.
    #[said("All rods can be turned only once: choose another turn.")]
    TurnedTwice,
    /// Two things lie on one another.
    #[said("The {name} would lie on the {other}: neither touches the head then as it should.")]
    OnOneAnother {
        /// The upper one's name.
        name: String,
        /// The lower one's.
        other: String,
    },
}

/// Why a thing of the player's own cannot be.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error, Said)]
pub enum InvalidMade {
    /// Its name has letters that are not seen.
    #[said("Its name has letters in it that cannot be seen. Type it again.")]
    UnseenLetters,
    /// It has no name.
    #[said("Give it a name, so that you know which thing is meant.")]
    NoName,
    /// Its name is too long.
    #[said("The name is too long: {LONGEST_NAME} letters at most.")]
    LongName,
    /// Nothing on a drum is so small or large.
    #[said("Length and width must be between 0.5 and 100 cm.")]
    Size,
    /// Nothing on a drum is so light or heavy.
    #[said("Its weight must be between 0.1 and 2000 g.")]
    Weight,
    /// Nothing of that size is so heavy.
    #[said("{grams:.0} g is too heavy for something of that size: check size and weight.")]
    TooHeavy {
        /// Its weight, g.
        grams: f64,
    },
}
