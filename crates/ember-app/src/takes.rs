//! Takes with their strikes, one at a time and as lists.

use crate::snapshot::DrumSnapshot;
use crate::views::TakeView;
use ember_core::damping::Expectation;
use ember_core::drum::{Drum, DrumModel, heard_as_words};
use ember_core::plan::{Doubt, Sounding, followed};
use ember_core::tone::DecayProfile;
use ember_store::{KeptTake, Source, Store, StoreError};
use ember_words::{Text, Words};
use serde::Serialize;
use utoipa::ToSchema;

/// Takes that are listed at a time.
pub const TAKES_AT_A_TIME: usize = 20;

/// A take in a list.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakeRow {
    /// Its number.
    pub id: i64,
    /// Milliseconds since 1970, UTC.
    pub begun_at: i64,
    /// Its place in the order of all that happened.
    pub seq: i64,
    /// Where its sound came from.
    pub source: Source,
    /// Name of the file it came from; null where it came from none.
    pub source_name: Option<String>,
    /// What was on the drum; null where it was open.
    pub treatment_id: Option<i64>,
    /// Strikes that count.
    pub strikes_used: usize,
    /// Strikes that do not.
    pub strikes_rejected: usize,
    /// The few figures that it comes down to.
    pub profile: DecayProfile,
    /// A treatment started from it, so it cannot be removed.
    pub in_use: bool,
    /// What speaks against counting it; null where nothing does.
    pub doubt: Option<Text>,
    /// Whether the user said that it counts all the same.
    pub counted: bool,
    /// In which of its own states the drum was heard: "closed", "with a pillow in it"; null as usual.
    pub heard_as: Option<Words>,
}

/// Takes of a drum, newest first.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakePage {
    /// The takes.
    pub takes: Vec<TakeRow>,
    /// How many there are in all.
    pub in_all: usize,
}

/// Reads a page of a drum's takes, newest first: at most `limit` of them behind the one with the number `after`.
pub fn take_page(store: &Store, drum_id: i64, after: Option<i64>, limit: usize) -> Result<TakePage, StoreError> {
    store.drum(drum_id)?;
    let (takes, in_all) = store.takes(drum_id, after, limit)?;
    Ok(TakePage { takes: takes.into_iter().map(|take| take_row(store, take)).collect::<Result<_, _>>()?, in_all })
}

/// A take with its strikes, held against what is wanted now.
pub fn take_view(store: &Store, take: KeptTake) -> Result<TakeView, StoreError> {
    let wanted = DrumSnapshot::read(store, take.drum_id)?.wanted;
    let take = with_names(store, take)?;
    let strikes = store.strikes(take.id)?;
    Ok(TakeView::new(take, strikes, &wanted))
}

/// `take` of the open drum with its partials as the tones that they are on this drum; as they were kept where nothing can be said.
pub(crate) fn with_tones(mut take: KeptTake, drum: &Drum) -> KeptTake {
    if let Some(model) = DrumModel::fit(drum, &take.partials) {
        take.partials = model.partials;
    }
    take
}

/// `found` with what was `expected`, by the names that tones have there: its body and ring are the promised ones.
pub(crate) fn as_promised(mut found: KeptTake, expected: &Expectation) -> KeptTake {
    (found.partials, found.summary.profile) = followed(sounding(&found), expected);
    found
}

/// `take` as the core takes it.
pub(crate) fn sounding(take: &KeptTake) -> Sounding<'_> {
    Sounding { partials: &take.partials, profile: &take.summary.profile }
}

/// `take` with its partials and its profile by the names that tones have on the open drum.
pub(crate) fn with_names(store: &Store, take: KeptTake) -> Result<KeptTake, StoreError> {
    Ok(match take.treatment_id {
        Some(id) => as_promised(take, &store.treatment(id)?.plan.expected),
        None => with_tones(take.clone(), &store.drum(take.drum_id)?.drum),
    })
}

/// `take` as it stands in a list.
pub(crate) fn take_row(store: &Store, take: KeptTake) -> Result<TakeRow, StoreError> {
    let take = if take.treatment_id.is_some() { with_names(store, take)? } else { take };
    Ok(TakeRow {
        in_use: store.take_is_in_use(take.id)?,
        seq: take.seq,
        id: take.id,
        begun_at: take.begun_at,
        source: take.source,
        source_name: take.source_name,
        treatment_id: take.treatment_id,
        strikes_used: take.summary.strikes_used,
        strikes_rejected: take.summary.strikes_rejected,
        profile: take.summary.profile,
        doubt: take.doubt.map(Doubt::sentence),
        counted: take.counted,
        heard_as: take.heard_as.as_deref().map(heard_as_words),
    })
}
