//! What the music leaves room for: a preset's note values at the song's tempo, under the band and in the room of tonight, as
//! wanted lengths of body and ring.

mod assess;
mod audible;
mod covered;
mod liking;
mod model;
mod note;
mod preset;
mod song;
mod steps;
mod time_keeper;
mod usual;
mod wanted;
mod written;

pub use assess::{Aspect, Assessment, Fit, Heard, OpenSound, RoomNote, Tails, Verdict, assess};
pub use audible::AudibleLength;
pub use liking::{Deed, Evidence, Liking, Opinion, Preferred, Said, Standing};
pub use model::{NoModel, wish_from_sound};
pub use note::{Feel, Meter, NoteValue, Pulse, UnknownMeter};
pub use preset::{
    BodyLeast, InvalidPreset, InvalidWish, Length, NO_GENRE, Preset, Register, School, Wish, Wishes, built_in_preset, built_in_presets,
};
pub use song::{BPM, Dynamics, Gaps, InvalidMusic, InvalidSong, InvalidTempo, Music, Song, check_bpm};
pub use steps::Steps;
pub use time_keeper::TimeKeeper;
pub use usual::{Usual, UsualInfo, usual_infos};
pub use wanted::{Situation, Wanted};
pub use written::{NoteTrainer, NoteVerdict, PlayedNote, PlayedNotes, Stroke, WrittenNote};
