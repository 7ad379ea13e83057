//! The kit strip: every drum with its state against tonight's wish.

use crate::snapshot::DrumSnapshot;
use crate::views::words_of;
use ember_core::drum::{Drum, DrumKind, Struck};
use ember_core::plan::Limits;
use ember_core::target::{Assessment, Fit, assess};
use ember_store::{KeptDrum, KeptKit, KeptTonight, KitDrum, Store, StoreError};
use ember_words::{Text, Words, words};
use serde::Serialize;
use utoipa::ToSchema;

/// What is known of a kind of drum.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrumKindInfo {
    /// Which kind it is.
    pub kind: DrumKind,
    /// As it heads a list, and the word for it in a sentence.
    pub name: Words,
    /// The word for it in a sentence.
    pub word: Text,
    /// Whether it belongs to an ordinary kit.
    pub of_a_kit: bool,
    /// Whether it has heads with rods, which are tuned and changed.
    pub has_heads: bool,
    /// Whether it is a plate of metal.
    pub is_metal: bool,
    /// Whether a pedal strikes it.
    pub has_pedal: bool,
    /// Whether it stands or hangs with its head upright, the floor below.
    pub is_upright: bool,
    /// Whether its note is ended by hand or knee, as long as it is written.
    pub is_damped_by_hand: bool,
    /// The word for its second head.
    pub lower_head_word: Text,
    /// The ways to strike it that sound like different things, the usual one first; empty for what is not metal.
    pub ways_to_strike: Vec<WayToStrike>,
    /// What such a drum usually is.
    pub usual: Drum,
}

/// A way to strike a cymbal or hi-hat.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct WayToStrike {
    /// Which way it is.
    pub struck: Struck,
    /// As it is said of a sound.
    pub words: Text,
}

/// Every kind of drum that is known.
pub fn drum_kinds() -> Vec<DrumKindInfo> {
    let info = |kind: DrumKind| DrumKindInfo {
        kind,
        name: kind.name(),
        word: kind.word(),
        of_a_kit: DrumKind::OF_A_KIT.contains(&kind),
        has_heads: kind.has_heads(),
        is_metal: kind.is_metal(),
        has_pedal: kind.has_pedal(),
        is_upright: kind.is_upright(),
        is_damped_by_hand: kind.is_damped_by_hand(),
        lower_head_word: kind.lower_head_word(),
        ways_to_strike: kind.ways_to_strike().iter().map(|struck| WayToStrike { struck: *struck, words: struck.words() }).collect(),
        usual: Drum::usual(kind),
    };
    DrumKind::ALL.map(info).to_vec()
}

/// How a drum stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DrumStanding {
    /// It was not measured yet.
    Unmeasured,
    /// As wanted tonight.
    Fits,
    /// Off by no more than is heard.
    Nearly,
    /// Off by more than is heard.
    Off,
    /// Something was put on, or rods were turned; what it did is not measured yet.
    Unchecked,
    /// It is left to sound as it does, and asks for nothing.
    LeftAlone,
    /// It is not set up tonight.
    InCase,
}

impl DrumStanding {
    /// Whether nothing more is to be done before it is played.
    fn is_ready(self) -> bool {
        matches!(self, Self::Fits | Self::Nearly | Self::LeftAlone | Self::InCase)
    }
}

/// One drum of the kit strip.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrumState {
    /// The drum.
    pub drum: KeptDrum,
    /// How it stands.
    pub standing: DrumStanding,
    /// Whether nothing more is to be done before it is played.
    pub ready: bool,
    /// A sentence that says the same.
    pub headline: Words,
    /// What is on the drum, in words.
    pub treatment: Option<Words>,
    /// Of the drum as it is now; null where that was not measured.
    pub assessment: Option<Assessment>,
    /// Whether its whole hoop is pulled by a single bolt, or by so few rods that they are turned like one.
    pub one_bolt: bool,
    /// The group of the kit that begins with it; null where it stands in the one before it.
    pub group: Option<String>,
}

/// The drums that are played tonight, with tonight itself.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KitTonight {
    /// The kit that they make; null where there is none at all.
    pub kit: Option<KeptKit>,
    /// What is ruled out, by the player or because the kit is borrowed.
    pub ruled_out: Limits,
    /// The house kit of tonight's venue, where it is not played already.
    pub house_kit: Option<KeptKit>,
    /// What is played tonight, where, and what is ruled out.
    pub tonight: KeptTonight,
    /// Title of the song that is played; null where it is none in particular.
    pub song: Option<String>,
    /// Name of the venue.
    pub venue: Option<String>,
    /// In playing order; those that stay in their cases too.
    pub drums: Vec<DrumState>,
    /// Whether this data file was made as a demonstration.
    pub demo: bool,
}

/// Reads the kit.
pub fn kit_tonight(store: &Store, demo: bool) -> Result<KitTonight, StoreError> {
    let scene = store.scene()?;
    let state = |(drum, at): (KeptDrum, KitDrum)| Ok(drum_state(DrumSnapshot::of(store, drum, &scene)?, at));
    let drums = store.kit_drums()?.into_iter().map(state);
    let drums = drums.collect::<Result<_, StoreError>>()?;
    let song = scene.tonight.song_id.map(|id| store.song(id)).transpose()?.map(|kept| kept.song.title);
    let venue = scene.venue.map(|venue| venue.name);
    let kit = store.kit_tonight()?;
    let house_kit = house_kit(store, scene.tonight.venue_id)?.filter(|house| kit.as_ref().is_none_or(|kit| kit.id != house.id));
    Ok(KitTonight { kit, house_kit, ruled_out: scene.limits, tonight: scene.tonight, song, venue, drums, demo })
}

/// The kit that belongs to a venue, if one does.
fn house_kit(store: &Store, venue_id: Option<i64>) -> Result<Option<KeptKit>, StoreError> {
    match venue_id {
        Some(_) => Ok(store.kits()?.into_iter().find(|kept| kept.kit.venue_id == venue_id)),
        None => Ok(None),
    }
}

fn drum_state(now: DrumSnapshot, at: KitDrum) -> DrumState {
    let treatment = now.on.as_ref().map(|on| words_of(&on.plan, now.drum()));
    let assessment = now.as_it_is().map(|take| assess(&take.partials, &take.summary.profile, &now.wanted, None));
    let (standing, headline) = match at.in_case {
        true => (DrumStanding::InCase, words!("Stays in its case")),
        false => standing(&now, assessment.as_ref()),
    };
    let one_bolt = now.drum().has_one_bolt();
    DrumState { one_bolt, drum: now.drum, standing, ready: standing.is_ready(), headline, treatment, assessment, group: at.group }
}

/// How a drum stands, with a sentence that says the same.
fn standing(now: &DrumSnapshot, assessment: Option<&Assessment>) -> (DrumStanding, Words) {
    match assessment {
        _ if now.drum().plays_along => (DrumStanding::LeftAlone, words!("Plays along")),
        Some(_) if now.turned_since => (DrumStanding::Unchecked, words!("Tuned since: hit it again")),
        None if now.on.is_some() => (DrumStanding::Unchecked, words!("Hit it again to check")),
        // Cymbals are left alone unless there is too much of something.
        None if now.wanted.left_alone => (DrumStanding::LeftAlone, words!("Left to sound as it does")),
        None => (DrumStanding::Unmeasured, words!("Not measured yet")),
        Some(Assessment { fit: Fit::In, .. }) => (DrumStanding::Fits, words!("Fits tonight")),
        Some(Assessment { fit: Fit::Nearly, .. }) => (DrumStanding::Nearly, words!("Nearly fits tonight")),
        Some(found) => {
            (DrumStanding::Off, found.off.first().map_or(words!("No clear body"), |worst| worst.sentence.clone().without_full_stop()))
        }
    }
}
