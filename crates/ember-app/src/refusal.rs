//! Why a question has no answer, in a sentence for whoever asked.

use crate::sound::{ReadError, SoundError};
use ember_core::blow::InvalidBlow;
use ember_core::damping::InvalidPlacement;
use ember_core::drum::{DrumKind, Front, InvalidDrum};
use ember_core::target::InvalidTempo;
use ember_core::tuning::UnknownNotes;
use ember_store::StoreError;
use ember_words::Said;
use thiserror::Error;

/// Why a question has no answer.
#[derive(Debug, Error, Said)]
pub enum Refusal {
    /// Something is wrong with what is kept, or it is not there.
    #[said(transparent)]
    Store(#[from] StoreError),
    /// The drum was not struck yet with nothing on it.
    #[said("Measure the open drum first: a plan starts from how it sounds without anything on it.")]
    NotMeasured,
    /// It was, and none of its tones is clearly its body.
    #[said("No clear body was found in the open drum's strikes. Measure it again, closer to the head.")]
    NoBody,
    /// It was not struck yet with what is on it.
    #[said("The drum was not hit yet with this on it.")]
    NotHitYet,
    /// It makes no sense as it is asked.
    #[said(transparent)]
    CannotBe(#[from] CannotBe),
    /// It would make sense in another state of things.
    #[said(transparent)]
    NotNow(#[from] NotNow),
}

/// What makes no sense as it is asked.
#[derive(Debug, Error, Said)]
pub enum CannotBe {
    /// Things cannot lie so.
    #[said(transparent)]
    Placement(#[from] InvalidPlacement),
    /// The drum cannot be.
    #[said(transparent)]
    Drum(#[from] InvalidDrum),
    /// Nobody strikes so.
    #[said(transparent)]
    Blow(#[from] InvalidBlow),
    /// Nobody plays so.
    #[said(transparent)]
    Tempo(#[from] InvalidTempo),
    /// A text names no notes.
    #[said(transparent)]
    Notes(#[from] UnknownNotes),
    /// Another blow and another change are asked for at once.
    #[said("Hear the drum struck otherwise, or changed otherwise: both at once are not worked out.")]
    StruckAndChanged,
    /// The other end is to be closed otherwise and tuned otherwise at once.
    #[said("Hear the other end closed otherwise, or tuned otherwise: not both at once.")]
    ClosedAndTuned,
    /// No head is tuned so far off.
    #[said("A head is tuned by -{most} to {most} semitones here.")]
    Semitones {
        /// Semitones up or down that are worked out at most.
        most: i32,
    },
    /// The sound of a strike is not what was kept.
    #[said("The sound of a strike cannot be read: {0}")]
    Sound(#[from] ReadError),
    /// The kept sound that is to be looked at is damaged.
    #[said("The kept sound of this strike cannot be read any more.")]
    KeptSound,
    /// Sound cannot be given.
    #[said(transparent)]
    Unwritable(#[from] SoundError),
}

/// What would make sense in another state of things.
#[derive(Debug, Error, Said)]
pub enum NotNow {
    /// No beater strikes such drums.
    #[said("A {} is not struck with such beaters.", .kind.word())]
    NoBeater {
        /// What the drum is.
        kind: DrumKind,
    },
    /// The other end is closed in that way already.
    #[said("It is so already: {}.", .front.words(.kind.lower_head_word()))]
    SoAlready {
        /// What closes it.
        front: Front,
        /// What the drum is.
        kind: DrumKind,
    },
    /// What should be tried is not there any more.
    #[said("It is not on your shelf any more.")]
    OffTheShelf,
    /// It was tried in every way that tells something.
    #[said("There is nothing new to try with the {device} on the {drum}.")]
    NothingNew {
        /// What it is called.
        device: String,
        /// What the drum is called.
        drum: String,
    },
    /// Of a cymbal other things are wished.
    #[said("{name} is a cymbal: say under Want whether it is too washy, too bright or too loud.")]
    Cymbal {
        /// Its name.
        name: String,
    },
    /// The drum was not struck since it changed.
    #[said("Hit the {name} first: nobody knows how it sounds now.")]
    Unheard {
        /// Its name.
        name: String,
    },
    /// None of the tones that were heard is clearly the body.
    #[said("No clear body was heard of the {name}: hit it again.")]
    NoBodyHeard {
        /// Its name.
        name: String,
    },
    /// Labels are for what was read from a file.
    #[said("Labels belong to a sound file; this take was not read from one.")]
    NotFromAFile,
    /// A label is of a drum of which other figures are measured.
    #[said("Your {name} is heard in another way: cut its hits out into a file of their own.")]
    HeardOtherwise {
        /// Its name.
        name: String,
    },
    /// The labels are of another sound.
    #[said("None of the {hits} hits lies under a label. Was it made for this sound file?")]
    NoHitUnderALabel {
        /// How many hits there are.
        hits: usize,
    },
}

/// Each of these cannot be asked.
macro_rules! cannot_be {
    ($($error:ty),+) => {
        $(impl From<$error> for Refusal {
            fn from(error: $error) -> Self {
                Self::CannotBe(error.into())
            }
        })+
    };
}

cannot_be!(InvalidPlacement, InvalidDrum, InvalidBlow, InvalidTempo, UnknownNotes, ReadError, SoundError);

impl From<ember_store::Refused> for Refusal {
    fn from(refused: ember_store::Refused) -> Self {
        Self::Store(refused.into())
    }
}
