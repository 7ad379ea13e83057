//! Note values, meter and feel, and how long they last.

use crate::units::note_seconds;
use ember_words::{Said, Text, text};
use serde::{Deserialize, Serialize};

/// A note value.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum NoteValue {
    /// A thirty-second note.
    ThirtySecond,
    /// A sixteenth of a triplet.
    SixteenthTriplet,
    /// A sixteenth note.
    Sixteenth,
    /// An eighth of a triplet.
    EighthTriplet,
    /// An eighth note.
    Eighth,
    /// A quarter of a triplet.
    QuarterTriplet,
    /// A dotted eighth note.
    DottedEighth,
    /// A quarter note.
    Quarter,
    /// A dotted quarter note.
    DottedQuarter,
    /// A half note.
    Half,
    /// A dotted half note.
    DottedHalf,
    /// A whole note.
    Whole,
}

impl NoteValue {
    /// All of them, short to long.
    pub const ALL: [Self; 12] = [
        Self::ThirtySecond,
        Self::SixteenthTriplet,
        Self::Sixteenth,
        Self::EighthTriplet,
        Self::Eighth,
        Self::QuarterTriplet,
        Self::DottedEighth,
        Self::Quarter,
        Self::DottedQuarter,
        Self::Half,
        Self::DottedHalf,
        Self::Whole,
    ];

    /// Length in quarter notes.
    pub fn quarters(self) -> f64 {
        match self {
            Self::ThirtySecond => 0.125,
            Self::SixteenthTriplet => 1.0 / 6.0,
            Self::Sixteenth => 0.25,
            Self::EighthTriplet => 1.0 / 3.0,
            Self::Eighth => 0.5,
            Self::QuarterTriplet => 2.0 / 3.0,
            Self::DottedEighth => 0.75,
            Self::Quarter => 1.0,
            Self::DottedQuarter => 1.5,
            Self::Half => 2.0,
            Self::DottedHalf => 3.0,
            Self::Whole => 4.0,
        }
    }

    /// The code used in JSON and CSV.
    pub fn code(self) -> &'static str {
        match self {
            Self::ThirtySecond => "thirty_second",
            Self::SixteenthTriplet => "sixteenth_triplet",
            Self::Sixteenth => "sixteenth",
            Self::EighthTriplet => "eighth_triplet",
            Self::Eighth => "eighth",
            Self::QuarterTriplet => "quarter_triplet",
            Self::DottedEighth => "dotted_eighth",
            Self::Quarter => "quarter",
            Self::DottedQuarter => "dotted_quarter",
            Self::Half => "half",
            Self::DottedHalf => "dotted_half",
            Self::Whole => "whole",
        }
    }

    /// With its article, for a sentence.
    pub fn words(self) -> Text {
        match self {
            Self::ThirtySecond => text!("a thirty-second"),
            Self::SixteenthTriplet => text!("a sixteenth triplet"),
            Self::Sixteenth => text!("a sixteenth"),
            Self::EighthTriplet => text!("an eighth triplet"),
            Self::Eighth => text!("an eighth"),
            Self::QuarterTriplet => text!("a quarter triplet"),
            Self::DottedEighth => text!("a dotted eighth"),
            Self::Quarter => text!("a quarter"),
            Self::DottedQuarter => text!("a dotted quarter"),
            Self::Half => text!("a half note"),
            Self::DottedHalf => text!("a dotted half note"),
            Self::Whole => text!("a whole note"),
        }
    }
}

/// A meter as written, such as 3/4. The tempo counts its beats: of 6/8, 9/8 and 12/8 dotted quarters, else the lower number's notes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Meter {
    beats: u8,
    unit: u8,
}

impl Default for Meter {
    fn default() -> Self {
        Self { beats: 4, unit: 4 }
    }
}

impl Meter {
    /// Beats of a bar, as the tempo counts them: two in 6/8.
    pub fn counted(self) -> usize {
        let each = (self.beat_quarters() * f64::from(self.unit) / 4.0).round() as usize;
        usize::from(self.beats) / each.max(1)
    }

    /// Quarter notes that one beat lasts.
    pub fn beat_quarters(self) -> f64 {
        let written = 4.0 / f64::from(self.unit);
        if self.unit == 8 && self.beats.is_multiple_of(3) && self.beats > 3 { 3.0 * written } else { written }
    }
}

/// A text that is no meter.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error, Said)]
#[said("\"{0}\" is no meter. Write it like 4/4, 3/4 or 6/8.")]
pub struct UnknownMeter(pub String);

impl TryFrom<String> for Meter {
    type Error = UnknownMeter;

    fn try_from(text: String) -> Result<Self, UnknownMeter> {
        let refused = || UnknownMeter(text.clone());
        let (beats, unit) = text.trim().split_once('/').ok_or_else(refused)?;
        let number = |part: &str| part.trim().parse::<u8>().map_err(|_| refused());
        let (beats, unit) = (number(beats)?, number(unit)?);
        if !(1..=32).contains(&beats) || ![2, 4, 8, 16].contains(&unit) {
            return Err(refused());
        }
        Ok(Self { beats, unit })
    }
}

impl From<Meter> for String {
    fn from(meter: Meter) -> Self {
        meter.to_string()
    }
}

impl std::fmt::Display for Meter {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}/{}", self.beats, self.unit)
    }
}

/// How eighths are played.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Feel {
    /// Straight.
    #[default]
    Straight,
    /// Long and short: the short one lasts a third of the beat.
    Swung,
}

/// A tempo with what it counts.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pulse {
    /// Beats a minute.
    pub bpm: f64,
    /// The meter.
    pub meter: Meter,
    /// How it feels.
    pub feel: Feel,
}

impl Pulse {
    /// How long `value` lasts, s. Of a swung eighth the short one: it is what must be clear.
    pub fn seconds(self, value: NoteValue) -> f64 {
        let quarters = if self.is_shortened(value) { NoteValue::EighthTriplet.quarters() } else { value.quarters() };
        note_seconds(quarters, self.bpm * self.meter.beat_quarters())
    }

    /// `value` in words for a sentence.
    pub fn words(self, value: NoteValue) -> Text {
        if self.is_shortened(value) { text!("a short swung eighth") } else { value.words() }
    }

    fn is_shortened(self, value: NoteValue) -> bool {
        self.feel == Feel::Swung && value == NoteValue::Eighth
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seconds(value: NoteValue, bpm: f64, meter: &str, feel: Feel) -> f64 {
        Pulse { bpm, meter: Meter::try_from(meter.to_string()).unwrap(), feel }.seconds(value)
    }

    /// Worked examples of the kind found in tables of delay times (60 000 / BPM ms for a quarter; common practice).
    #[test]
    fn worked_examples_of_note_lengths() {
        use Feel::{Straight, Swung};
        use NoteValue::{DottedEighth, DottedQuarter, Eighth, EighthTriplet, Quarter, Sixteenth, Whole};
        for (value, bpm, meter, feel, ms) in [
            (Quarter, 120.0, "4/4", Straight, 500.0),
            (Eighth, 96.0, "4/4", Straight, 312.5),
            (Sixteenth, 100.0, "4/4", Straight, 150.0),
            (DottedEighth, 120.0, "4/4", Straight, 375.0),
            (EighthTriplet, 120.0, "4/4", Straight, 500.0 / 3.0),
            (Whole, 60.0, "4/4", Straight, 4000.0),
            // 6/8 at 60 dotted quarters: an eighth is a third of a second.
            (Eighth, 60.0, "6/8", Straight, 1000.0 / 3.0),
            (DottedQuarter, 60.0, "12/8", Straight, 1000.0),
            // Cut time counts halves.
            (Quarter, 100.0, "2/2", Straight, 300.0),
            (Eighth, 100.0, "5/8", Straight, 600.0),
            (Eighth, 120.0, "4/4", Swung, 500.0 / 3.0),
            (Quarter, 120.0, "4/4", Swung, 500.0),
        ] {
            assert!((1000.0 * seconds(value, bpm, meter, feel) - ms).abs() < 1e-6, "{value:?} at {bpm} in {meter}");
        }
    }

    #[test]
    fn codes_are_those_of_json() {
        for value in NoteValue::ALL {
            assert_eq!(serde_json::to_string(&value).unwrap(), format!("\"{}\"", value.code()));
        }
    }

    #[test]
    fn meters_are_read_and_refused_in_words() {
        assert_eq!(Meter::try_from(" 7/8 ".to_string()).unwrap().to_string(), "7/8");
        for text in ["", "4", "0/4", "4/3", "44/4/4", "-3/4", "three/four"] {
            assert!(Meter::try_from(text.to_string()).unwrap_err().to_string().contains("no meter"));
        }
    }
}
