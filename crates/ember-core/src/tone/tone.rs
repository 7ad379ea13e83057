//! Which of a drum's tones a partial is: one identity from the open drum through what is expected to what is found.

use ember_words::{Joined, Words, text, words};
use serde::{Deserialize, Deserializer, Serialize};
use std::fmt;

/// How both heads take part in a mode.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Motion {
    /// One head moves and the other hardly does, or there is no other.
    Alone,
    /// Both heads move the same way.
    Together,
    /// They move against each other.
    Opposed,
}

/// One mode of a drum: nodal diameters, nodal circles with the rim, and what the heads do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mode {
    /// Nodal diameters.
    pub diameters: u8,
    /// Nodal circles, the rim counted.
    pub circles: u8,
    /// What the heads do.
    pub motion: Motion,
}

impl Mode {
    /// Of one head by itself.
    pub const fn alone(diameters: u8, circles: u8) -> Self {
        Self { diameters, circles, motion: Motion::Alone }
    }

    /// Of both heads, the same way.
    pub const fn together(diameters: u8, circles: u8) -> Self {
        Self { diameters, circles, motion: Motion::Together }
    }

    /// Of both heads, against each other.
    pub const fn opposed(diameters: u8, circles: u8) -> Self {
        Self { diameters, circles, motion: Motion::Opposed }
    }

    /// Whether it moves air as a whole: it has no nodal diameters.
    pub fn is_axial(self) -> bool {
        self.diameters == 0
    }

    /// Whether it is the lowest motion of a head, or of both together.
    pub fn is_lowest(self) -> bool {
        self.diameters == 0 && self.circles == 1 && self.motion != Motion::Opposed
    }

    /// Whether two like-pitched modes of this name make a pair.
    pub fn is_pair(self) -> bool {
        self.diameters > 0
    }

    /// How the head moves, in a few words.
    pub fn says(self) -> Words {
        let parts = match self.diameters {
            0 => Words::default(),
            1 => words!("in halves"),
            2 => words!("in quarters"),
            more => words!("in {} parts", 2 * u32::from(more)),
        };
        let rings = match self.circles {
            0 | 1 => text!(""),
            2 => text!("rim against middle"),
            _ => text!("in rings"),
        };
        let heads = match self.motion {
            Motion::Opposed => text!("heads against each other"),
            _ if self.is_lowest() => text!("as a whole"),
            _ => text!(""),
        };
        Words::list(Joined::Comma, [parts, rings.words(), heads.words()])
    }
}

/// Which tone of a drum a partial is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Tone {
    /// A mode of the heads.
    Mode(Mode),
    /// All that sounds in the octave about so many Hz, as of a cymbal.
    OctaveHz(u16),
    /// A tone of which nothing is known but itself, counted from the lowest on, from 1.
    Number(u16),
}

impl Tone {
    /// The mode that it is; none where it is no mode.
    pub fn mode(self) -> Option<Mode> {
        if let Self::Mode(mode) = self { Some(mode) } else { None }
    }

    /// Whether it is the lowest motion of a drum's heads.
    pub fn is_lowest(self) -> bool {
        self.mode().is_some_and(Mode::is_lowest)
    }

    /// Whether it moves air as a whole.
    pub fn is_axial(self) -> bool {
        self.mode().is_some_and(Mode::is_axial)
    }

    /// How what sounds moves, in a few words; empty where nobody knows.
    pub fn says(self) -> Words {
        match self {
            Self::Mode(mode) => mode.says(),
            Self::OctaveHz(hz) if hz >= 1000 => words!("octave at {} kHz", hz / 1000),
            Self::OctaveHz(hz) => words!("octave at {hz} Hz"),
            Self::Number(_) => Words::default(),
        }
    }

    /// Reads what [`Display`](fmt::Display) writes; "(m,n)" alone stands for a head by itself.
    pub fn read(text: &str) -> Option<Self> {
        if let Some(number) = text.strip_prefix("no. ") {
            return number.parse().ok().map(Self::Number);
        }
        if let Some(octave) = text.strip_prefix("octave at ") {
            let (number, unit) = octave.split_once(' ')?;
            let times = if unit == "kHz" { 1000 } else { 1 };
            return number.parse::<u16>().ok()?.checked_mul(times).map(Self::OctaveHz);
        }
        let (numbers, motion) = text.strip_prefix('(')?.split_once(')')?;
        let (diameters, circles) = numbers.split_once(',')?;
        let motion = match motion.trim() {
            "" => Motion::Alone,
            "together" => Motion::Together,
            "opposed" => Motion::Opposed,
            _ => return None,
        };
        Some(Self::Mode(Mode { diameters: diameters.trim().parse().ok()?, circles: circles.trim().parse().ok()?, motion }))
    }
}

impl From<Mode> for Tone {
    fn from(mode: Mode) -> Self {
        Self::Mode(mode)
    }
}

impl fmt::Display for Tone {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Mode(Mode { diameters, circles, motion }) => {
                let motion = match motion {
                    Motion::Alone => "",
                    Motion::Together => " together",
                    Motion::Opposed => " opposed",
                };
                write!(f, "({diameters},{circles}){motion}")
            }
            Self::OctaveHz(hz) if *hz >= 1000 => write!(f, "octave at {} kHz", hz / 1000),
            Self::OctaveHz(hz) => write!(f, "octave at {hz} Hz"),
            Self::Number(number) => write!(f, "no. {number}"),
        }
    }
}

/// Reads a tone, or one as it was kept before tones had a form of their own: its name as text. A name that nobody knows is none.
pub(super) fn read_tone<'de, D: Deserializer<'de>>(from: D) -> Result<Option<Tone>, D::Error> {
    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Kept {
        Now(Tone),
        Before(String),
    }
    Ok(Option::<Kept>::deserialize(from)?.and_then(|kept| match kept {
        Kept::Now(tone) => Some(tone),
        Kept::Before(text) => Tone::read(&text),
    }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn any_tone() -> impl Strategy<Value = Tone> {
        let motion = prop_oneof![Just(Motion::Alone), Just(Motion::Together), Just(Motion::Opposed)];
        prop_oneof![
            (0u8..9, 1u8..6, motion).prop_map(|(diameters, circles, motion)| Mode { diameters, circles, motion }.into()),
            prop_oneof![Just(125u16), Just(500), Just(1000), Just(8000)].prop_map(Tone::OctaveHz),
            (1u16..40).prop_map(Tone::Number),
        ]
    }

    proptest! {
        #[test]
        fn a_name_is_read_as_it_was_written(tone in any_tone()) {
            prop_assert_eq!(Tone::read(&tone.to_string()), Some(tone));
        }
    }

    #[test]
    fn names_kept_as_text_are_still_read() {
        #[derive(Deserialize)]
        struct Kept {
            #[serde(default, deserialize_with = "read_tone")]
            tone: Option<Tone>,
        }
        let read = |json: &str| serde_json::from_str::<Kept>(json).unwrap().tone;
        assert_eq!(read(r#"{"tone":"(0,1) opposed"}"#), Some(Mode::opposed(0, 1).into()));
        assert_eq!(read(r#"{"tone":"octave at 2 kHz"}"#), Some(Tone::OctaveHz(2000)));
        assert_eq!(read(r#"{"tone":{"mode":{"diameters":1,"circles":2,"motion":"alone"}}}"#), Some(Mode::alone(1, 2).into()));
        assert!([r#"{"tone":null}"#, r#"{"tone":"whistle"}"#, "{}"].into_iter().all(|json| read(json).is_none()));
    }

    #[test]
    fn motions_are_said_in_words() {
        let said = [Mode::together(0, 1), Mode::alone(1, 1), Mode::alone(2, 2), Mode::opposed(0, 2), Mode::alone(3, 1)].map(Mode::says);
        let wanted =
            ["as a whole", "in halves", "in quarters, rim against middle", "rim against middle, heads against each other", "in 6 parts"];
        assert_eq!(said, wanted);
    }
}
