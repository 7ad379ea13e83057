//! Songs: what is played, as far as a drum's length depends on it.

use super::note::{Feel, Meter, NoteValue, Pulse};
use super::preset::School;
use crate::decay::Dynamic;
use crate::drum::{DrumKind, Role};
use ember_words::Said;
use serde::{Deserialize, Serialize};

/// Tempi that are taken, beats a minute.
pub const BPM: std::ops::RangeInclusive<f64> = 30.0..=300.0;

/// A tempo that nobody plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
#[said("The tempo must be between {} and {} BPM.", BPM.start(), BPM.end())]
pub struct InvalidTempo;

/// Why music cannot be played so.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidMusic {
    /// Nobody plays at such a tempo.
    #[said(transparent)]
    Tempo(#[from] InvalidTempo),
    /// The softest strikes are harder than the hardest.
    #[said("The softest dynamic must not be harder than the hardest.")]
    Dynamics,
}

/// Why a song cannot be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error, Said)]
pub enum InvalidSong {
    /// It has no title, or one that is too long.
    #[said("Give the song a title of 1 to 120 letters.")]
    Title,
    /// Its title has characters that are no letters.
    #[said("A title has no line breaks or other control characters.")]
    ControlCharacters,
    /// Its notes are too long.
    #[said("Notes have at most 2000 letters.")]
    Notes,
    /// What is played cannot be.
    #[said(transparent)]
    Music(#[from] InvalidMusic),
}

/// Refuses a tempo that nobody plays.
pub fn check_bpm(bpm: f64) -> Result<(), InvalidTempo> {
    if BPM.contains(&bpm) { Ok(()) } else { Err(InvalidTempo) }
}

/// The range of dynamics that a song asks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Dynamics {
    /// The softest that is played.
    pub softest: Dynamic,
    /// The hardest that is played.
    pub hardest: Dynamic,
}

impl Default for Dynamics {
    fn default() -> Self {
        Self { softest: Dynamic::Medium, hardest: Dynamic::Medium }
    }
}

/// Shortest time between two hits on each kind of drum; null where the genre decides.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Gaps {
    /// Of the snare.
    #[serde(default)]
    pub snare: Option<NoteValue>,
    /// Of the toms.
    #[serde(default)]
    pub tom: Option<NoteValue>,
    /// Of the floor tom.
    #[serde(default)]
    pub floor_tom: Option<NoteValue>,
    /// Of the kick.
    #[serde(default)]
    pub kick: Option<NoteValue>,
}

impl Gaps {
    /// The shortest note that drums of `kind` play; none where that is not known.
    pub fn of(&self, kind: DrumKind) -> Option<NoteValue> {
        match kind.role() {
            Role::Snare => self.snare,
            Role::Tom => self.tom,
            Role::FloorTom => self.floor_tom,
            Role::Kick => self.kick,
            Role::Cymbal | Role::HiHat => None,
        }
    }
}

/// What is played.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Music {
    /// Code of the genre.
    pub genre: String,
    /// Beats a minute, as the meter counts them.
    pub bpm: f64,
    /// The meter.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = String, example = "4/4"))]
    pub meter: Meter,
    /// How it feels.
    #[serde(default)]
    pub feel: Feel,
    /// The shortest notes that each part plays.
    #[serde(default)]
    pub gaps: Gaps,
    /// How soft and how hard it is played.
    #[serde(default)]
    pub dynamics: Dynamics,
    /// Null: the genre's.
    #[serde(default)]
    pub school: Option<School>,
}

impl Music {
    /// In four, straight, medium, as the genre has it.
    pub fn new(genre: &str, bpm: f64) -> Self {
        Self {
            genre: genre.into(),
            bpm,
            meter: Meter::default(),
            feel: Feel::default(),
            gaps: Gaps::default(),
            dynamics: Dynamics::default(),
            school: None,
        }
    }

    /// Checks the figures; whether there is such a genre is for those who know the genres.
    pub fn validate(&self) -> Result<(), InvalidMusic> {
        check_bpm(self.bpm)?;
        if self.dynamics.softest > self.dynamics.hardest {
            return Err(InvalidMusic::Dynamics);
        }
        Ok(())
    }

    /// How its beats are divided.
    pub fn pulse(&self) -> Pulse {
        Pulse { bpm: self.bpm, meter: self.meter, feel: self.feel }
    }
}

/// One song.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Song {
    /// What it is called.
    #[serde(deserialize_with = "crate::plain_text::name")]
    pub title: String,
    /// What is played.
    #[serde(flatten)]
    pub music: Music,
    /// What the player notes about it.
    #[serde(default)]
    pub notes: String,
}

impl Song {
    /// Checks title, tempo and notes.
    pub fn validate(&self) -> Result<(), InvalidSong> {
        let letters = self.title.trim().chars().count();
        if letters == 0 || letters > 120 {
            return Err(InvalidSong::Title);
        }
        if self.title.chars().any(char::is_control) {
            return Err(InvalidSong::ControlCharacters);
        }
        if self.notes.chars().count() > 2000 {
            return Err(InvalidSong::Notes);
        }
        Ok(self.music.validate()?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn song(title: &str, bpm: f64) -> Song {
        Song { title: title.into(), music: Music::new("surf", bpm), notes: String::new() }
    }

    #[test]
    fn tempi_and_titles_that_cannot_be_are_refused_in_words() {
        for bpm in [0.0, 1000.0, f64::NAN, -120.0, f64::INFINITY] {
            assert_eq!(song("Foam", bpm).validate().unwrap_err().to_string(), "The tempo must be between 30 and 300 BPM.");
        }
        for title in ["", "   ", "a\nb", &"x".repeat(121)] {
            assert!(song(title, 120.0).validate().is_err());
        }
        for title in ["🌊 Wave 🌊", "شاطئ", "ガレージ"] {
            assert_eq!(song(title, 120.0).validate(), Ok(()));
        }
        let mut backwards = song("Foam", 120.0);
        backwards.music.dynamics = Dynamics { softest: Dynamic::Hard, hardest: Dynamic::Soft };
        assert!(backwards.validate().unwrap_err().to_string().contains("softest"));
    }

    #[test]
    fn the_least_that_is_written_is_enough() {
        let read: Song = serde_json::from_str(r#"{"title": "Foam", "genre": "surf", "bpm": 150}"#).unwrap();
        assert_eq!(read, song("Foam", 150.0));
    }
}
