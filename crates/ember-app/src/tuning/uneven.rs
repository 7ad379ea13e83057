//! Rods let down on purpose: what it did, and whether they are back where they were.

use ember_core::drum::HeadSide;
use ember_core::tone::DecayProfile;
use ember_core::tuning::{GuideStep, UnevenRecipe, steps_back, turns_in_words, uneven_steps};
use ember_core::units::cents;
use ember_store::{KeptRound, KeptUneven, Store, StoreError};
use ember_words::{Joined, Text, Words, text, words};
use serde::Serialize;
use utoipa::ToSchema;

/// Lugs that read this much off what they read before are not back, cents.
const BACK_CENTS: f64 = 15.0;

/// One way to let a head be uneven.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct UnevenChoice {
    /// What was let down.
    pub recipe: UnevenRecipe,
    /// What it is called.
    pub name: Text,
    /// What it does, in words.
    pub does: Text,
    /// What to do, one after the other.
    pub steps: Vec<GuideStep>,
}

/// A head and its rods let down on purpose.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct UnevenState {
    /// Empty where too few rods would be left to hold the head.
    pub choices: Vec<UnevenChoice>,
    /// What was let down last; null while this head never was.
    pub newest: Option<KeptUneven>,
    /// What it is, in words.
    pub turned: Words,
    /// The open drum as it was last measured before, and after; null where it was not.
    pub before: Option<DecayProfile>,
    /// The open drum as it was last measured after; null where it was not.
    pub after: Option<DecayProfile>,
    /// How to get back.
    pub steps_back: Vec<GuideStep>,
    /// Whether the lugs read what they read before, in a sentence; null until they were tapped again.
    pub back: Option<Words>,
}

/// Reads what was let down on a head.
pub fn uneven_state(store: &Store, drum_id: i64, side: HeadSide) -> Result<UnevenState, StoreError> {
    let drum = store.drum(drum_id)?.drum;
    let choice = |recipe: UnevenRecipe| {
        let (name, does) = recipe.words();
        uneven_steps(&drum, recipe).map(|steps| UnevenChoice { recipe, name, does, steps })
    };
    let choices = UnevenRecipe::ALL.into_iter().filter_map(choice).collect();
    let newest = store.newest_uneven(drum_id, side)?.filter(|newest| newest.eighths.len() == usize::from(drum.lugs));
    let Some(kept) = newest else {
        let (turned, steps_back) = (Words::default(), Vec::new());
        return Ok(UnevenState { choices, newest: None, turned, before: None, after: None, steps_back, back: None });
    };
    let profile =
        |since: i64, until: i64| Ok::<_, StoreError>(store.newest_open_take(drum_id, since, until)?.map(|take| take.summary.profile));
    let turned: Vec<Words> = kept
        .eighths
        .iter()
        .enumerate()
        .filter(|(_, eighths)| **eighths != 0)
        .map(|(lug, eighths)| words!("lug {}: {} down", lug + 1, turns_in_words(*eighths)))
        .collect();
    let back = match kept.ended_seq {
        Some(ended) => back(&store.rounds(drum_id, side)?, kept.begun_seq, ended),
        None => None,
    };
    Ok(UnevenState {
        choices,
        turned: Words::list(Joined::Comma, turned),
        before: profile(0, kept.begun_seq)?,
        after: profile(kept.begun_seq, kept.ended_seq.unwrap_or(i64::MAX))?,
        steps_back: steps_back(&kept.eighths),
        back,
        newest: Some(kept),
    })
}

/// The first complete round after the rods were back against the last one before they were let down.
fn back(rounds: &[KeptRound], begun: i64, ended: i64) -> Option<Words> {
    let before = rounds.iter().find(|round| round.seq < begun && round.complete())?;
    let after = rounds.iter().rev().find(|round| round.seq > ended && round.complete())?;
    let off = |lug: usize| Some(cents(before.lug_hz()[lug]?, after.lug_hz()[lug]?));
    let (lug, by) = (0..before.lugs).filter_map(|lug| Some((lug, off(lug)?))).max_by(|a, b| a.1.abs().total_cmp(&b.1.abs()))?;
    Some(if by.abs() <= BACK_CENTS {
        words!("Back where it was: no lug is more than {:.0} cents off.", by.abs().max(1.0))
    } else {
        let way = if by > 0.0 { text!("higher") } else { text!("lower") };
        words!("Not quite back: lug {} reads {:.0} cents {way} than before. The next turns bring it even.", lug + 1, by.abs())
    })
}
