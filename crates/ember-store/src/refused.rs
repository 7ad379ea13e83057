//! Which rule of the data something would break.

use crate::kits::InvalidKit;
use crate::room::Thinning;
use crate::set_lists::InvalidSetList;
use crate::{shelf, treatments};
use ember_core::damping::{DeviceKind, InvalidMade};
use ember_core::drum::{DrumKind, Front, InvalidDrum};
use ember_words::{Said, Words, words};
use std::path::PathBuf;

/// Which rule of the data something would break. Each is a sentence for the person at the page.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum Refused {
    /// A name is too long.
    #[said("A name has at most {} characters.", treatments::LONGEST_NAME)]
    LongName,
    /// What should be put back would lie on something else.
    #[said("Something else is on the drum by now.")]
    SomethingElseOn,
    /// The genre that everything else falls back to is not there.
    #[said("The general genre is missing.")]
    NoGeneralGenre,
    /// There is no such genre.
    #[said("There is no genre \"{0}\".")]
    UnknownGenre(String),
    /// Something is played in the genre that should go.
    #[said("{} of this genre. Give it another one first.", played(*.songs))]
    GenreInUse {
        /// How many songs; none where only tonight is.
        songs: i64,
    },
    /// The head that should be changed is off.
    #[said("The {} is off. Say in the drum's data when it is on.", .kind.lower_head_word())]
    HeadOff {
        /// What the drum is.
        kind: DrumKind,
    },
    /// A change of heads cannot be taken back after another one.
    #[said("Another head was put on by now. This change stays as it was noted.")]
    AnotherHeadOn,
    /// The file would have to be written to be read.
    #[said("{} is from an older Soft Ember and can only be read here, so it cannot be brought up to date. Copy it to where it can be written.", .0.display())]
    OldAndReadOnly(PathBuf),
    /// The other end is closed in that way already.
    #[said("It is as it was: {}.", .front.words(.kind.lower_head_word()))]
    FrontAsItWas {
        /// What closes it.
        front: Front,
        /// What the drum is.
        kind: DrumKind,
    },
    /// The drum cannot be.
    #[said(transparent)]
    Drum(#[from] InvalidDrum),
    /// A thing of the player's own cannot be.
    #[said(transparent)]
    Made(#[from] InvalidMade),
    /// A kit cannot be.
    #[said(transparent)]
    Kit(#[from] InvalidKit),
    /// A set list cannot be.
    #[said(transparent)]
    SetList(#[from] InvalidSetList),
    /// Too many of one device.
    #[said("A shelf holds at most {} of one device.", shelf::MOST)]
    TooManyOfOne,
    /// Too many things of the player's own.
    #[said("The shelf holds {} things of your own. Remove one first.", DeviceKind::OWN.len())]
    TooManyOwn,
    /// It has no heads.
    #[said("{name} ({}) has no heads that could be tuned or changed here.", .kind.word())]
    NoHeads {
        /// Its name.
        name: String,
        /// What it is.
        kind: DrumKind,
    },
    /// What was measured is of another kind.
    #[said("It was measured as a {}; what was heard says nothing about a {}. Add it as a new one.", .was.word(), .is.word())]
    MeasuredAs {
        /// What it was.
        was: DrumKind,
        /// What it should be.
        is: DrumKind,
    },
    /// One kit stays.
    #[said("This is your only kit. Begin another one first, or rename this one.")]
    OnlyKit,
    /// Strikes cannot go into a take of another drum.
    #[said("That take is another drum’s.")]
    AnotherDrumsTake,
    /// Tones say nothing of what is heard by octaves, and the other way round.
    #[said("That drum is heard in another way: give it the sound as a file of its own.")]
    HeardOtherwise,
    /// Something starts from the take.
    #[said("A treatment started from this take, so it stays.")]
    TreatmentStartedFromIt,
    /// The strikes are of several takes, or there are none.
    #[said("Say which strikes of one take are meant.")]
    StrikesOfSeveralTakes,
    /// The sound is not kept any more.
    #[said("The sound of this strike was let go to make room; its figures are kept.")]
    SoundLetGo,
    /// The head is uneven already.
    #[said("This head is deliberately uneven already. Bring its rods back first.")]
    UnevenAlready,
    /// A night is no day of the calendar.
    #[said("Give the night as year, month and day, like 2026-11-30.")]
    NoDay,
    /// No rule keeps sound for so long.
    #[said("Old sound is of takes up to {} days old, of which up to {} strikes keep it.", Thinning::MOST_DAYS, Thinning::MOST_STRIKES)]
    Thinning,
}

fn played(songs: i64) -> Words {
    match songs {
        0 => words!("Tonight is"),
        1 => words!("One song is"),
        many => words!("{many} songs are"),
    }
}
