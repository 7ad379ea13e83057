//! All kits of the player's, with which drums there are to make them of.

use ember_store::{KeptDrum, KeptKit, Store, StoreError};
use ember_words::{Joined, Words, words};
use serde::Serialize;
use utoipa::ToSchema;

/// A kit with what is to be said of it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct KitRow {
    /// The kit.
    #[serde(flatten)]
    pub kept: KeptKit,
    /// Whether it is played tonight.
    pub tonight: bool,
    /// What it consists of, in words: "4 drums, 2 cymbals".
    pub words: Words,
    /// The venue whose house kit it is; null where it is none's, or that place was removed.
    pub venue: Option<String>,
}

/// A drum with the kits that it stands in.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DrumRow {
    /// The drum.
    pub drum: KeptDrum,
    /// Names of its kits; empty where it is in none.
    pub kits: Vec<String>,
}

/// All kits and drums.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Kits {
    /// By name.
    pub kits: Vec<KitRow>,
    /// All drums, in the order in which they came.
    pub drums: Vec<DrumRow>,
}

/// Reads all kits and drums.
pub fn kits(store: &Store) -> Result<Kits, StoreError> {
    let (all, tonight, venues) = (store.kits()?, store.kit_tonight()?.map(|kept| kept.id), store.venues()?);
    let drums = store.all_drums()?;
    let in_kits = |drum: &KeptDrum| {
        let stands_in = |kept: &&KeptKit| kept.kit.drums.iter().any(|at| at.drum_id == drum.id);
        all.iter().filter(stands_in).map(|kept| kept.kit.name.clone()).collect()
    };
    let row = |kept: &KeptKit| KitRow {
        tonight: tonight == Some(kept.id),
        words: words(kept, &drums),
        venue: venues.iter().find(|venue| Some(venue.id) == kept.kit.venue_id).map(|venue| venue.venue.name.clone()),
        kept: kept.clone(),
    };
    Ok(Kits {
        kits: all.iter().map(row).collect(),
        drums: drums.iter().map(|drum| DrumRow { kits: in_kits(drum), drum: drum.clone() }).collect(),
    })
}

fn words(kept: &KeptKit, drums: &[KeptDrum]) -> Words {
    let of_kit: Vec<&KeptDrum> = kept.kit.drums.iter().filter_map(|at| drums.iter().find(|drum| drum.id == at.drum_id)).collect();
    let metal = of_kit.iter().filter(|drum| drum.drum.kind.is_metal()).count();
    let drums = match of_kit.len() - metal {
        0 => None,
        1 => Some(words!("1 drum")),
        count => Some(words!("{count} drums")),
    };
    let cymbals = match metal {
        0 => None,
        1 => Some(words!("1 cymbal")),
        count => Some(words!("{count} cymbals")),
    };
    if of_kit.is_empty() { words!("nothing in it yet") } else { Words::list(Joined::Comma, drums.into_iter().chain(cymbals)) }
}
