//! How its player wants one drum to sound, whatever the genre: a drummer's word, or the drum as it once was. What the words stand for is common
//! practice, with no published source; each figure can be changed.

use super::invalid::InvalidOwnWish;
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// A drummer's word for how a drum sounds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Character {
    /// Low and full, little ring.
    Fat,
    /// Short, nothing rings.
    Dry,
    /// All attack, and some ring behind it.
    Cracking,
    /// A long, low body.
    Boomy,
    /// Attack with a short, full body.
    Punchy,
    /// Soft attack, round body, little ring.
    Warm,
    /// Body and ring as long as they like to be.
    Singing,
    /// Short and high.
    Tight,
    /// As the drum is, ring and all.
    Raw,
}

/// What is wanted of a drum besides, as parts of what the genre leaves room for.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Shape {
    /// The word that it began with; null where there was none.
    #[serde(default)]
    pub word: Option<Character>,
    /// The ring may be heard for so many times as long as the genre has it.
    pub ring_times: f64,
    /// The body may be heard for so many times as long.
    pub body_times: f64,
    /// At least this part of what is heard of the open drum's body is to be left, 0 to 1.
    pub least_of_open: f64,
    /// How many times as long as the body the ring may be heard; null: any.
    #[serde(default)]
    pub ring_over_body_most: Option<f64>,
    /// Most attack that a treatment may take, dB.
    pub attack_loss_most_db: f64,
}

/// A tone as it was heard when its player liked it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LikedTone {
    /// Pitch, Hz.
    pub hz: f64,
    /// Level against the strike's loudest, dB.
    pub level_db: f64,
    /// Time in which it falls by 60 dB, s.
    pub t60_s: f64,
}

/// What its player wants of one drum, whatever is played.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum OwnWish {
    /// The genre's wish, in another shape.
    Shaped(Shape),
    /// The drum as it was when it was liked.
    AsItWas {
        /// Its body.
        body: LikedTone,
        /// Its ring; null where none was heard.
        ring: Option<LikedTone>,
    },
}

impl Character {
    /// All of them.
    pub const ALL: [Self; 9] =
        [Self::Fat, Self::Dry, Self::Cracking, Self::Boomy, Self::Punchy, Self::Warm, Self::Singing, Self::Tight, Self::Raw];

    /// The word.
    pub fn word(self) -> Text {
        match self {
            Self::Fat => text!("fat"),
            Self::Dry => text!("dry"),
            Self::Cracking => text!("cracking"),
            Self::Boomy => text!("boomy"),
            Self::Punchy => text!("punchy"),
            Self::Warm => text!("warm"),
            Self::Singing => text!("singing"),
            Self::Tight => text!("tight"),
            Self::Raw => text!("raw"),
        }
    }

    /// What is meant by it, as a phrase.
    pub fn meaning(self) -> Text {
        match self {
            Self::Fat => text!("low and full, little ring"),
            Self::Dry => text!("short, nothing rings on"),
            Self::Cracking => text!("all attack, some ring behind it"),
            Self::Boomy => text!("a long, low body"),
            Self::Punchy => text!("attack, then a short, full body"),
            Self::Warm => text!("a soft attack, a round body, little ring"),
            Self::Singing => text!("body and ring may last"),
            Self::Tight => text!("short and rather high"),
            Self::Raw => text!("as the drum is, ring and all"),
        }
    }

    /// The figures that it stands for.
    pub fn shape(self) -> Shape {
        let (ring_times, body_times, least_of_open, ring_over_body_most, attack_loss_most_db) = match self {
            Self::Fat => (0.6, 1.3, 0.5, Some(0.6), 4.0),
            Self::Dry => (0.5, 0.6, 0.1, Some(0.8), 3.0),
            Self::Cracking => (1.0, 0.8, 0.3, Some(1.5), 0.5),
            Self::Boomy => (0.8, 2.0, 0.7, Some(0.5), 4.0),
            Self::Punchy => (0.6, 0.9, 0.3, Some(0.7), 1.0),
            Self::Warm => (0.7, 1.2, 0.55, Some(0.7), 4.0),
            Self::Singing => (2.0, 2.0, 0.7, Some(1.5), 2.0),
            Self::Tight => (0.7, 0.6, 0.2, Some(1.0), 1.5),
            Self::Raw => (3.0, 3.0, 0.8, None, 1.0),
        };
        Shape { word: Some(self), ring_times, body_times, least_of_open, ring_over_body_most, attack_loss_most_db }
    }
}

impl OwnWish {
    /// Checks every figure of it.
    pub fn validate(&self) -> Result<(), InvalidOwnWish> {
        let within = |value: f64, low: f64, high: f64| value.is_finite() && (low..=high).contains(&value);
        match self {
            Self::Shaped(shape) => {
                if !within(shape.ring_times, 0.1, 10.0) || !within(shape.body_times, 0.1, 10.0) {
                    Err(InvalidOwnWish::Lengths)
                } else if !within(shape.least_of_open, 0.0, 1.0) {
                    Err(InvalidOwnWish::LeastOfOpen)
                } else if !shape.ring_over_body_most.is_none_or(|times| within(times, 0.1, 20.0)) {
                    Err(InvalidOwnWish::RingOverBody)
                } else if !within(shape.attack_loss_most_db, 0.0, 20.0) {
                    Err(InvalidOwnWish::AttackLoss)
                } else {
                    Ok(())
                }
            }
            Self::AsItWas { body, ring } => {
                let can_be = |tone: &LikedTone| {
                    within(tone.hz, 10.0, 20_000.0) && within(tone.level_db, -120.0, 20.0) && within(tone.t60_s, 0.001, 60.0)
                };
                let all = [Some(body), ring.as_ref()].into_iter().flatten().all(can_be);
                if all { Ok(()) } else { Err(InvalidOwnWish::NoBody) }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_word_can_be_and_stands_for_figures_of_its_own() {
        for (at, word) in Character::ALL.into_iter().enumerate() {
            assert_eq!(OwnWish::Shaped(word.shape()).validate(), Ok(()), "{word:?}");
            let plain = |word: Character| Shape { word: None, ..word.shape() };
            assert!(Character::ALL[..at].iter().all(|other| plain(*other) != plain(word) && other.word() != word.word()), "{word:?}");
        }
        // In the words' own order of lengths (common practice, no published source).
        let body = |word: Character| word.shape().body_times;
        assert!(body(Character::Dry) < body(Character::Punchy) && body(Character::Punchy) < body(Character::Fat));
        assert!(body(Character::Fat) < body(Character::Boomy) && body(Character::Boomy) < body(Character::Raw));
        let wrong = Shape { ring_times: f64::NAN, ..Character::Fat.shape() };
        assert!(OwnWish::Shaped(wrong).validate().is_err());
    }
}
