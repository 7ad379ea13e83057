//! Strikes that were on another drum than the one that was asked for: which they are, and what a label track says of them.

use crate::neighbours::Neighbours;
use crate::refusal::{NotNow, Refusal};
use crate::sound::{Label, label_at};
use ember_core::decay::Warning;
use ember_store::{KeptStrike, KeptTake, Source, Store, StoreError};
use ember_words::{Words, words};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Strikes of a take that sound like another drum of the kit.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Elsewhere {
    /// Number of the drum.
    pub drum_id: i64,
    /// What it is called.
    pub name: String,
    /// Their numbers.
    pub strikes: Vec<i64>,
}

/// Which strikes of `take` sound like another drum: those that were left out for it, or most of them.
pub fn elsewhere(store: &Store, take: &KeptTake) -> Result<Vec<Elsewhere>, StoreError> {
    let strikes: Vec<KeptStrike> = store.strikes(take.id)?.into_iter().filter(|strike| !strike.dropped).collect();
    let left_out = |strike: &&KeptStrike| strike.measurement.warnings.contains(&Warning::OtherDrum);
    let good = |strike: &&KeptStrike| strike.measurement.warnings.is_empty();
    let asked: Vec<&KeptStrike> = strikes.iter().filter(left_out).collect();
    let (asked, least) = match asked.is_empty() {
        true => (strikes.iter().filter(good).collect(), strikes.iter().filter(good).count() / 2 + 1),
        false => (asked, 1),
    };
    let neighbours = Neighbours::of(store, take.drum_id)?.before(store, take)?;
    let mut found: BTreeMap<i64, Elsewhere> = BTreeMap::new();
    for strike in asked {
        if let Some((drum_id, name)) = neighbours.struck_instead(&strike.measurement) {
            let name = name.to_string();
            found.entry(drum_id).or_insert_with(|| Elsewhere { drum_id, name, strikes: Vec::new() }).strikes.push(strike.id);
        }
    }
    let all: usize = found.values().map(|other| other.strikes.len()).sum();
    Ok(if all >= least { found.into_values().collect() } else { Vec::new() })
}

/// What a label track made of a take.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Labelled {
    /// What the player notes about it.
    pub notes: Vec<Words>,
}

/// Goes by a label track for a take from a sound file: hits under the name of another drum of the kit are kept there, and hits under no label are
/// left out. What was done, a sentence each.
pub fn labelled(store: &mut Store, take_id: i64, labels: &[Label]) -> Result<Vec<Words>, Refusal> {
    let take = store.take(take_id)?;
    if take.source != Source::File {
        return Err(NotNow::NotFromAFile.into());
    }
    let drums = store.drums()?;
    let by_tones = store.drum(take.drum_id)?.drum.heard_by().by_tones();
    let mut elsewhere: BTreeMap<i64, Vec<i64>> = BTreeMap::new();
    let (mut unlabelled, mut all) = (Vec::new(), 0);
    for strike in store.strikes(take_id)? {
        all += 1;
        let Some(label) = label_at(labels, strike.measurement.onset_s) else {
            unlabelled.push(strike.id);
            continue;
        };
        let named = drums.iter().find(|drum| drum.drum.name.trim().to_lowercase() == label.name.to_lowercase());
        if let Some(other) = named.filter(|drum| drum.id != take.drum_id) {
            if other.drum.heard_by().by_tones() != by_tones {
                return Err(NotNow::HeardOtherwise { name: other.drum.name.clone() }.into());
            }
            elsewhere.entry(other.id).or_default().push(strike.id);
        }
    }
    if unlabelled.len() == all {
        return Err(NotNow::NoHitUnderALabel { hits: all }.into());
    }
    let mut notes = Vec::new();
    let hits = |count: usize| if count == 1 { words!("1 hit is") } else { words!("{count} hits are") };
    for strike in &unlabelled {
        store.set_dropped(*strike, true)?;
    }
    if !unlabelled.is_empty() {
        notes.push(words!("{} under no label and left out.", hits(unlabelled.len())));
    }
    for (drum_id, strikes) in elsewhere {
        store.move_strikes(&strikes, drum_id, None, false)?;
        let name = drums.iter().find(|drum| drum.id == drum_id).map_or("", |drum| drum.drum.name.as_str());
        notes.push(words!("{} kept on your {name} now.", hits(strikes.len())));
    }
    if notes.is_empty() {
        notes.push(words!("All {all} hits lie under labels and stay here."));
    }
    Ok(notes)
}
