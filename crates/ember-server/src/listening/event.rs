//! What a listening window is told.

use ember_app::views::StrikeView;
use ember_core::decay::Dynamic;
use ember_core::target::{PlayedNote, PlayedNotes};
use ember_core::tuning::{HeardNote, TapFault};
use ember_store::{KeptRound, KeptTake};
use ember_words::{Say, Words};
use serde::Serialize;
use utoipa::ToSchema;

/// One message to the window, as JSON.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(tag = "event", rename_all = "snake_case")]
pub enum ListenEvent {
    /// Samples may be sent, strikes played.
    Ready,
    /// About twenty times a second.
    Level {
        /// Loudest 5 ms since the last message, dBFS (RMS).
        level_dbfs: f64,
        /// Whether a strike is still ringing.
        ringing: bool,
    },
    /// A strike has ended and is kept.
    Strike {
        /// The strike.
        strike: Box<StrikeView>,
        /// Good strikes so far: of the dynamic asked for next, or of all.
        good: usize,
        /// Strikes that do not count.
        rejected: usize,
        /// How hard the next one is asked for; null where no dynamics are.
        asked: Option<Dynamic>,
        /// The drum it sounds like, where that is another one.
        sounds_like: Option<String>,
    },
    /// A tap was heard and is kept, or, without `tapped`, a lug is asked for.
    Tap {
        /// The round so far.
        round: Box<KeptRound>,
        /// The lug that is asked for next; null for none any more.
        asked_lug: Option<usize>,
        /// What came of the tap; null where none was heard.
        tapped: Option<TapVerdict>,
    },
    /// A note of the bass was heard.
    BassNote {
        /// The note.
        heard: HeardNote,
    },
    /// A note of a written length has ended, and what all so far say.
    NotePlayed {
        /// The note.
        note: PlayedNote,
        /// What all so far say.
        all: PlayedNotes,
    },
    /// A stroke was too soft against the noise to tell where its note ended.
    NoteTooSoft,
    /// Listening has ended. The take is null where nothing was heard.
    Done {
        /// The take; null where nothing was heard or nothing is kept.
        take: Option<Box<KeptTake>>,
        /// Strikes, taps or notes that count.
        good: usize,
        /// Those that do not.
        rejected: usize,
        /// Whether all that was asked for was heard.
        complete: bool,
    },
    /// Listening cannot go on. What was heard is kept.
    Problem {
        /// What is wrong.
        problem: ListenProblem,
        /// The same as a sentence.
        detail: Words,
    },
}

impl ListenEvent {
    /// Listening cannot go on, for the reason that `error` gives.
    pub(crate) fn problem(problem: ListenProblem, error: &impl Say) -> Self {
        Self::Problem { problem, detail: error.words() }
    }
}

/// What came of a tap.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TapVerdict {
    /// The lug that was asked for.
    pub lug: usize,
    /// What is wrong with it; null for nothing.
    pub fault: Option<TapFault>,
    /// The same as a sentence, with what to do.
    pub sentence: Words,
}

/// Why listening cannot begin or go on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ListenProblem {
    /// Another window listens.
    Busy,
    /// Another window took over.
    TakenOver,
    /// The server stops.
    Shutdown,
    /// No sound came for a while.
    Silent,
    /// The samples are not what was agreed.
    BadSamples,
    /// The strike could not be kept.
    NotKept,
    /// The program itself failed.
    Failed,
}
