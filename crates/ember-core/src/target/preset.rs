//! Genre presets: what a genre wants of each kind of drum, and why. All of it common practice, with no published source.

use super::note::NoteValue;
use super::song::InvalidTempo;
use super::usual::Usual;
use crate::drum::{Drum, DrumKind, Role};
use crate::tone::HeardBy;
use crate::venue::Loudness;
use ember_words::{Said, Text, Words, text, words};
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// How much a drum may sing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum School {
    /// A drum should sing.
    Open,
    /// One small device a drum.
    Controlled,
    /// Close-miked, cloth on everything.
    Dead,
}

impl School {
    /// The word for it.
    pub fn word(self) -> Text {
        match self {
            Self::Open => text!("open"),
            Self::Controlled => text!("controlled"),
            Self::Dead => text!("dead"),
        }
    }
}

/// A wanted length: a note value, or seconds where a sound was taken as the model.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum Length {
    /// As long as a note is written.
    Note(NoteValue),
    /// So many seconds.
    Seconds(f64),
}

/// Where in its range a drum is tuned.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Register {
    /// Low.
    Low,
    /// Where such drums usually are.
    Middle,
    /// High.
    High,
}

/// Pitch of the note of a drum with one head against the body that it would have with two: the (1,1) mode of a membrane lies at 1.59 times its (0,1)
/// mode, which is what two heads sound as body (from experience, no published source for 1.55).
const ONE_HEAD_NOTE: f64 = 1.55;
/// Where nothing can be tuned, no pitch is unusual.
const ANY_PITCH_HZ: (f64, f64) = (1.0, 20_000.0);

impl Register {
    /// The word for it.
    pub fn word(self) -> Text {
        match self {
            Self::Low => text!("low"),
            Self::Middle => text!("in the middle"),
            Self::High => text!("high"),
        }
    }

    /// Pitches of the body that count as this register on `drum`, Hz; the bounds are from experience, with no published source. With one head the body
    /// is another tone ([`HeardBy::OneHead`]).
    pub fn pitch_hz(self, drum: &Drum) -> (f64, f64) {
        let Some(hertz_inches) = drum.kind.info().body_hertz_inches else { return ANY_PITCH_HZ };
        let usual = drum.kind.pitch_at(hertz_inches, drum.diameter_in);
        let usual = if drum.heard_by() == HeardBy::OneHead { ONE_HEAD_NOTE * usual } else { usual };
        let (low, high) = match self {
            Self::Low => (0.6, 0.95),
            Self::Middle => (0.8, 1.25),
            Self::High => (1.05, 1.8),
        };
        (low * usual, high * usual)
    }
}

/// The shortest body that is wanted.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum BodyLeast {
    /// So long.
    Length(Length),
    /// A part of what is heard of the drum with nothing on it, 0 to 1.
    Part {
        /// Part of the open drum's length.
        of_open: f64,
    },
}

/// What a genre wants of one kind of drum. As kept before a ring was held against its body, it is read with what stood for that.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(from = "KeptWish")]
pub struct Wish {
    /// The ring is gone within this, since something follows.
    pub ring_gone: Length,
    /// Neither ring nor body need be gone sooner than this, however soon something follows, s.
    pub floor_s: f64,
    /// The ring is gone by this, however late something follows, s; null: only what follows decides.
    pub ceiling_s: Option<f64>,
    /// The body lasts at least this.
    pub body_least: BodyLeast,
    /// The body lasts at most this.
    pub body_most: Length,
    /// How many times as long as the body the ring may be heard; null: any.
    pub ring_over_body_most: Option<f64>,
    /// Most attack that a treatment may take, dB.
    pub attack_loss_most_db: f64,
    /// How high it is tuned.
    pub register: Register,
    /// What its players usually do to the drum; null where nothing is known.
    #[serde(default)]
    pub usual: Option<Usual>,
}

/// A wish as it stands in files, also older ones: those had a share of overtones and no floor.
#[derive(Deserialize)]
struct KeptWish {
    ring_gone: Length,
    #[serde(default)]
    floor_s: Option<f64>,
    #[serde(default)]
    ceiling_s: Option<f64>,
    body_least: BodyLeast,
    body_most: Length,
    #[serde(default)]
    ring_share_most: Option<f64>,
    #[serde(default)]
    ring_over_body_most: Option<f64>,
    attack_loss_most_db: f64,
    register: Register,
    #[serde(default)]
    usual: Option<Usual>,
}

/// The least that a wish of an older file asks of a length, s.
const OLD_FLOOR_S: f64 = 0.01;

impl From<KeptWish> for Wish {
    fn from(kept: KeptWish) -> Self {
        // Half of what sounds on as overtones is a ring as long as the body, more or less.
        let of_share = kept.ring_share_most.filter(|share| *share < 1.0).map(|share| ((0.5 + share) * 100.0).round() / 100.0);
        Self {
            ring_gone: kept.ring_gone,
            floor_s: kept.floor_s.unwrap_or(OLD_FLOOR_S),
            ceiling_s: kept.ceiling_s,
            body_least: kept.body_least,
            body_most: kept.body_most,
            ring_over_body_most: kept.ring_over_body_most.or(of_share),
            attack_loss_most_db: kept.attack_loss_most_db,
            register: kept.register,
            usual: kept.usual,
        }
    }
}

/// What each kind of drum is wished to do.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wishes {
    /// Of the snare.
    pub snare: Wish,
    /// Of the toms.
    pub tom: Wish,
    /// Of the floor tom.
    pub floor_tom: Wish,
    /// Of the kick.
    pub kick: Wish,
}

/// What a cymbal is wished to do where drums sing, are controlled, and are dead; all of it is overtones, whose share says nothing (common
/// practice, no published source).
fn metal(ring_gone: NoteValue) -> Wish {
    Wish {
        ring_gone: Length::Note(ring_gone),
        floor_s: 0.1,
        ceiling_s: None,
        body_least: BodyLeast::Part { of_open: 0.0 },
        body_most: Length::Note(ring_gone),
        ring_over_body_most: None,
        attack_loss_most_db: 1.5,
        register: Register::Middle,
        usual: Some(Usual::Open),
    }
}

/// A concert bass drum is to sing low and long in any genre: its player ends the note by hand or knee (common practice, no published source).
const CONCERT_BASS: Wish = Wish {
    ring_gone: Length::Note(NoteValue::Half),
    floor_s: 0.2,
    ceiling_s: None,
    body_least: BodyLeast::Part { of_open: 0.6 },
    body_most: Length::Seconds(12.0),
    ring_over_body_most: Some(0.85),
    attack_loss_most_db: 2.0,
    register: Register::Low,
    usual: Some(Usual::Open),
};

/// A genre, built in or the user's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Preset {
    /// Letters, digits and underscores.
    pub code: String,
    /// What it is called.
    #[serde(deserialize_with = "crate::plain_text::name")]
    pub name: String,
    /// The school of muffling.
    pub school: School,
    /// Why the figures are what they are.
    pub reason: String,
    /// Beats a minute.
    pub usual_bpm: f64,
    /// How loud the genre usually is.
    pub loudness: Loudness,
    /// What it wants of each part of the kit.
    #[serde(flatten)]
    pub wishes: Wishes,
}

/// The genre of a song that has none.
pub const NO_GENRE: &str = "general";

static BUILT_IN: LazyLock<Vec<Preset>> =
    LazyLock::new(|| serde_json::from_str(include_str!("presets.json")).expect("presets.json is checked by a test"));

/// The presets that come with the program, from open to dead.
pub fn built_in_presets() -> &'static [Preset] {
    &BUILT_IN
}

/// The built-in preset with this code.
pub fn built_in_preset(code: &str) -> Option<&'static Preset> {
    BUILT_IN.iter().find(|preset| preset.code == code)
}

/// Why a genre cannot be.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error, Said)]
pub enum InvalidPreset {
    /// Its code has other characters, none, or too many.
    #[said("A genre's code has 1 to 60 small letters, digits and underscores.")]
    Code,
    /// It has no name, or one that is too long.
    #[said("Give the genre a name of 1 to 60 letters.")]
    Name,
    /// Its reason is too long.
    #[said("The reason has at most 500 letters.")]
    Reason,
    /// Nobody plays at its usual tempo.
    #[said(transparent)]
    Tempo(#[from] InvalidTempo),
    /// What it wishes of one drum cannot be.
    #[said("{}", .wish.about(.kind.word()))]
    Wish {
        /// Of which drum.
        kind: DrumKind,
        /// What cannot be.
        wish: InvalidWish,
    },
}

/// What cannot be about a wish for one drum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum InvalidWish {
    /// A length is neither a note value nor within bounds.
    Length,
    /// The ring would have to be gone before it may.
    CeilingUnderFloor {
        /// By when it is to be gone at the latest, s.
        ceiling_s: f64,
        /// How long it may ring at least, s.
        floor_s: f64,
    },
    /// The body would have to last longer than it may.
    LeastOverMost,
    /// No such part of the open body can be left.
    PartOfOpen,
    /// The ring cannot be held so far under or over the body.
    RingOverBody,
    /// So much attack is not lost.
    AttackLoss,
}

impl InvalidWish {
    /// The same as a sentence about the drum called `word`.
    fn about(self, word: Text) -> Words {
        match self {
            Self::Length => words!("A length for the {word} must be a note value, or between 0.01 and 10 s."),
            Self::CeilingUnderFloor { ceiling_s, floor_s } => {
                words!("The {word}'s ring cannot be gone by {ceiling_s} s and be let ring for {floor_s} s.")
            }
            Self::LeastOverMost => words!("The {word}'s body must be allowed to last longer than it has to."),
            Self::PartOfOpen => words!("The part of the {word}'s body that is to be left must be between 0 and 100 %."),
            Self::RingOverBody => {
                words!("The {word}'s ring may be heard for 0.1 to 20 times as long as its body, or for as long as it likes.")
            }
            Self::AttackLoss => words!("The attack that the {word} may lose must be between 0 and 20 dB."),
        }
    }
}

impl Preset {
    /// What it is called.
    pub fn said_name(&self) -> Words {
        Words::known(&*self.name)
    }

    /// Why its figures are as they are.
    pub fn said_reason(&self) -> Words {
        Words::known(&*self.reason)
    }

    /// Checks every figure.
    pub fn validate(&self) -> Result<(), InvalidPreset> {
        let code_is_plain = self.code.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '_');
        if self.code.is_empty() || self.code.len() > 60 || !code_is_plain {
            return Err(InvalidPreset::Code);
        }
        if self.name.trim().is_empty() || self.name.chars().count() > 60 {
            return Err(InvalidPreset::Name);
        }
        if self.reason.chars().count() > 500 {
            return Err(InvalidPreset::Reason);
        }
        super::song::check_bpm(self.usual_bpm)?;
        let invalid = |kind: DrumKind| move |wish: InvalidWish| InvalidPreset::Wish { kind, wish };
        DrumKind::OF_A_KIT.into_iter().try_for_each(|kind| self.validate_wish(&self.wish(kind)).map_err(invalid(kind)))
    }

    fn validate_wish(&self, wish: &Wish) -> Result<(), InvalidWish> {
        let seconds = |length: Length| if let Length::Seconds(seconds) = length { Some(seconds) } else { None };
        let least = if let BodyLeast::Length(length) = wish.body_least { Some(length) } else { None };
        let lengths = [Some(wish.ring_gone), least, Some(wish.body_most)].into_iter().flatten().filter_map(seconds);
        if !lengths.chain([wish.floor_s]).chain(wish.ceiling_s).all(|seconds| (0.01..=10.0).contains(&seconds)) {
            return Err(InvalidWish::Length);
        }
        if let Some(ceiling_s) = wish.ceiling_s.filter(|ceiling_s| *ceiling_s < wish.floor_s) {
            return Err(InvalidWish::CeilingUnderFloor { ceiling_s, floor_s: wish.floor_s });
        }
        match wish.body_least {
            BodyLeast::Length(least) if self.seconds(least) >= self.seconds(wish.body_most).max(wish.floor_s) => {
                return Err(InvalidWish::LeastOverMost);
            }
            BodyLeast::Part { of_open } if !(0.0..=1.0).contains(&of_open) => return Err(InvalidWish::PartOfOpen),
            BodyLeast::Length(_) | BodyLeast::Part { .. } => {}
        }
        if wish.ring_over_body_most.is_some_and(|times| !(0.1..=20.0).contains(&times)) {
            return Err(InvalidWish::RingOverBody);
        }
        if !(0.0..=20.0).contains(&wish.attack_loss_most_db) {
            return Err(InvalidWish::AttackLoss);
        }
        Ok(())
    }

    /// What a drum of `kind` is wished to do: that of its part in a kit, but for a concert bass drum; of cymbals what the school says.
    pub fn wish(&self, kind: DrumKind) -> Wish {
        if kind == DrumKind::ConcertBass {
            return CONCERT_BASS;
        }
        match kind.role() {
            Role::Snare => self.wishes.snare,
            Role::Tom => self.wishes.tom,
            Role::FloorTom => self.wishes.floor_tom,
            Role::Kick => self.wishes.kick,
            Role::Cymbal => metal(match self.school {
                School::Open => NoteValue::Whole,
                School::Controlled => NoteValue::DottedHalf,
                School::Dead => NoteValue::Half,
            }),
            Role::HiHat => metal(match self.school {
                School::Open => NoteValue::Half,
                School::Controlled => NoteValue::Quarter,
                School::Dead => NoteValue::Eighth,
            }),
        }
    }

    /// A length at the genre's usual tempo, s.
    pub(super) fn seconds(&self, length: Length) -> f64 {
        match length {
            Length::Note(value) => crate::units::note_seconds(value.quarters(), self.usual_bpm),
            Length::Seconds(seconds) => seconds,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_built_in_preset_can_be_and_has_its_reason() {
        let presets = built_in_presets();
        assert!(presets.len() >= 12 && built_in_preset(NO_GENRE).is_some());
        for preset in presets {
            assert_eq!(preset.validate(), Ok(()), "{}", preset.name);
            assert!(preset.reason.ends_with('.') && preset.reason.len() > 30, "{}", preset.name);
            assert_eq!(presets.iter().filter(|other| other.code == preset.code || other.name == preset.name).count(), 1);
        }
        for school in [School::Open, School::Controlled, School::Dead] {
            assert!(presets.iter().filter(|preset| preset.school == school).count() >= 2, "{school:?}");
        }
    }

    /// A wish as files of the first versions hold it.
    #[test]
    fn wishes_of_older_files_are_read() {
        let old = r#"{"ring_gone": "eighth", "body_least": 0.2, "body_most": "half", "ring_share_most": 0.4, "attack_loss_most_db": 2, "register": "low"}"#;
        let read: Wish = serde_json::from_str(old).unwrap();
        assert_eq!((read.ring_over_body_most, read.body_least), (Some(0.9), BodyLeast::Length(Length::Seconds(0.2))));
        assert_eq!((read.floor_s, read.ceiling_s, read.usual), (OLD_FLOOR_S, None, None));
        let again: Wish = serde_json::from_str(&serde_json::to_string(&read).unwrap()).unwrap();
        assert_eq!(again, read);
    }

    #[test]
    fn presets_that_cannot_be_are_refused_in_words() {
        let good = built_in_preset("rock").unwrap().clone();
        let with = |change: fn(&mut Preset)| {
            let mut preset = good.clone();
            change(&mut preset);
            preset.validate().unwrap_err().to_string()
        };
        assert!(with(|p| p.name = " ".into()).contains("name"));
        assert!(with(|p| p.usual_bpm = 1000.0).contains("tempo"));
        assert!(with(|p| p.wishes.snare.ring_gone = Length::Seconds(-1.0)).contains("snare"));
        assert!(with(|p| p.wishes.kick.body_least = BodyLeast::Length(Length::Note(NoteValue::Whole))).contains("kick"));
        assert!(with(|p| p.wishes.tom.ring_over_body_most = Some(f64::NAN)).contains("its body"));
        assert!(with(|p| p.wishes.tom.body_least = BodyLeast::Part { of_open: 1.4 }).contains("100 %"));
        assert!(with(|p| p.wishes.tom.ceiling_s = Some(0.05)).contains("gone by"));
        assert!(with(|p| p.code = "my rock".into()).contains("code"));
    }
}
