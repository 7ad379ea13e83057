//! How a player wants one drum to sound, whatever is played: in a drummer's word, in figures, or as it sounds now.

use crate::refusal::{NotNow, Refusal};
use crate::snapshot::DrumSnapshot;
use ember_core::drum::{Character, Drum, LikedTone, OwnWish, Shape};
use ember_core::target::{Wanted, assess};
use ember_core::tone::nearest;
use ember_store::{KeptDrum, KeptTake, Store};
use ember_words::Text;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A drummer's word with what it stands for.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct CharacterInfo {
    /// Which one it is.
    pub character: Character,
    /// The word.
    pub word: Text,
    /// What is meant by it, as a phrase.
    pub meaning: Text,
    /// The figures that it stands for.
    pub shape: Shape,
}

/// All words that are known.
pub fn characters() -> Vec<CharacterInfo> {
    let info =
        |character: Character| CharacterInfo { character, word: character.word(), meaning: character.meaning(), shape: character.shape() };
    Character::ALL.map(info).to_vec()
}

/// What a player wants of a drum, as it is said.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum OwnWishAsked {
    /// As a drummer's word has it.
    Word {
        /// The word.
        word: Character,
    },
    /// In these figures.
    Shape {
        /// The figures.
        shape: Shape,
    },
    /// As it sounds now.
    AsItIs,
    /// As the genre has it.
    Genre,
}

/// Keeps what the player wants of a drum.
pub fn want(store: &mut Store, drum_id: i64, asked: OwnWishAsked) -> Result<KeptDrum, Refusal> {
    let now = DrumSnapshot::read(store, drum_id)?;
    let name = || now.drum().name.clone();
    if now.drum().kind.is_metal() {
        return Err(NotNow::Cymbal { name: name() }.into());
    }
    let own_wish = match asked {
        OwnWishAsked::Word { word } => Some(OwnWish::Shaped(word.shape())),
        OwnWishAsked::Shape { shape } => Some(OwnWish::Shaped(shape)),
        OwnWishAsked::Genre => None,
        OwnWishAsked::AsItIs => {
            let take = now.as_it_is().ok_or_else(|| NotNow::Unheard { name: name() })?;
            Some(as_in(take, &now.wanted).ok_or_else(|| NotNow::NoBodyHeard { name: name() })?)
        }
    };
    let drum = Drum { own_wish, ..now.drum.drum };
    drum.validate()?;
    Ok(store.change_drum(drum_id, &drum)?)
}

/// The drum as it was heard in `take`: its body, and of its overtones the one that is heard longest in what is played. That need not be the one that
/// rings most, and a drum that is liked must fit itself.
fn as_in(take: &KeptTake, wanted: &Wanted) -> Option<OwnWish> {
    let tone = |hz: Option<f64>| {
        let partial = nearest(&take.partials, hz?)?;
        Some(LikedTone { hz: partial.hz, level_db: partial.level_db, t60_s: partial.t60_s? })
    };
    let profile = &take.summary.profile;
    let longest_hz = assess(&take.partials, profile, wanted, None).ring_length_hz;
    Some(OwnWish::AsItWas { body: tone(profile.body_hz)?, ring: tone(longest_hz.or(profile.ring_hz)) })
}
