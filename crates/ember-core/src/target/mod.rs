//! What the music leaves room for: genre and tempo as wanted lengths of body and ring.

mod genre;
mod wanted;

pub use genre::{GENRES, Genre, NoteValue, Room, genre};
pub use wanted::{Aspect, Assessment, Tonight, Verdict, Wanted, assess, audible_length};
