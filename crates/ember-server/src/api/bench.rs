//! The bench: all that is known about one drum, wanted of it and done to it.

use super::extract::Path;
use super::{open_take, wanted_of};
use crate::problem::Problem;
use crate::state::AppState;
use crate::views::{TakeView, TreatmentView};
use axum::Json;
use axum::extract::State;
use ember_core::damping::{DeviceKind, Expectation, Open, RingsOn};
use ember_core::decay::{DecayProfile, Partial};
use ember_core::drum::{Drum, DrumModel, HeadSide, split_pairs};
use ember_core::plan::{CheckedFigure, Doubt, Sounding, check, followed};
use ember_core::target::Wanted;
use ember_core::tuning::{FEWEST_LUGS, across};
use ember_store::{KeptDrum, KeptTake, Source, Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// Takes that the bench lists, and that come at a time.
pub(super) const TAKES_AT_A_TIME: usize = 20;
/// Beats a second that are heard as such: slower ones are one long swell, faster ones two tones.
const BEATING: std::ops::Range<f64> = 1.0..14.0;

/// One drum with everything about it.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Bench {
    pub drum: KeptDrum,
    pub wanted: Wanted,
    /// The open drum: the take that the treatment started from, or the newest one. Null where it was not measured.
    pub open: Option<TakeView>,
    /// What is on the drum now.
    pub treatment: Option<TreatmentView>,
    /// The newest take with the treatment on that counts.
    pub found: Option<TakeView>,
    /// A newer one of which it is in doubt whether the treatment was on at all; null once the user has said whether it counts.
    pub in_doubt: Option<TakeInDoubt>,
    /// The overtone that rings most with the treatment on, where that is not the open drum's ring.
    pub rings_on: Option<RingsOn>,
    /// Expected beside found; null until both are there.
    pub check: Option<Vec<CheckedFigure>>,
    /// What an uneven head does to the sound, and which lugs it points to; null where no pair of the ring is split.
    pub split_note: Option<String>,
    /// The newest takes, newest first; older ones come from `takes`.
    pub takes: Vec<TakeRow>,
    /// How many there are in all.
    pub takes_in_all: usize,
}

/// A take that waits for a word of the user before it counts.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakeInDoubt {
    pub take_id: i64,
    pub doubt: Doubt,
    /// What speaks against it.
    pub sentence: &'static str,
}

/// A take in the list.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TakeRow {
    pub id: i64,
    /// Milliseconds since 1970, UTC.
    pub begun_at: i64,
    /// Its place in the order of all that happened.
    pub seq: i64,
    pub source: Source,
    pub source_name: Option<String>,
    /// What was on the drum; null where it was open.
    pub treatment_id: Option<i64>,
    pub strikes_used: usize,
    pub strikes_rejected: usize,
    pub profile: DecayProfile,
    /// A treatment started from it, so it cannot be removed.
    pub in_use: bool,
    /// What speaks against counting it; null where nothing does.
    pub doubt: Option<&'static str>,
    /// Whether the user said that it counts all the same.
    pub counted: bool,
}

/// Reads the bench.
#[utoipa::path(get, path = "/drums/{id}/bench", tag = "bench", params(("id" = i64, Path)),
    responses((status = 200, body = Bench), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_bench(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Bench>, Problem> {
    state.store(move |store| bench(store, id)).await.map(Json)
}

fn bench(store: &Store, id: i64) -> Result<Bench, StoreError> {
    let drum = store.drum(id)?;
    let wanted = wanted_of(store, &store.scene()?, &drum)?;
    let view = |take: KeptTake| Ok::<_, StoreError>(TakeView::new(take.clone(), store.strikes(take.id)?, &wanted));
    let on = store.treatment_on(id)?;
    let open = open_take(store, id)?;
    let found = match &on {
        Some(on) => store.newest_take(id, Some(on.id))?.map(|found| as_promised(found, &on.plan.expected)),
        None => None,
    };
    let in_doubt = on.as_ref().map(|on| store.take_in_doubt(on.id)).transpose()?.flatten();
    let in_doubt = in_doubt.and_then(|take| take.doubt.map(|doubt| TakeInDoubt { take_id: take.id, doubt, sentence: doubt.sentence() }));
    let open = open.map(|open| with_tones(open, &drum.drum));
    let checked = match (&open, &on, &found) {
        (Some(open), Some(on), Some(found)) => Some(check(sounding(open), &on.plan.expected, sounding(found))),
        _ => None,
    };
    let rings_on = match (&open, &found) {
        (Some(open), Some(found)) => found_open(open).rings_on(&open.partials, &found.partials),
        _ => None,
    };
    let (takes, takes_in_all) = store.takes(id, None, TAKES_AT_A_TIME)?;
    let takes = takes.into_iter().map(|take| take_row(store, take)).collect::<Result<_, _>>()?;
    // With rods let down on purpose a head is uneven as it should be.
    let on_purpose = on.as_ref().is_some_and(|on| on.plan.placements.iter().any(|placement| placement.device == DeviceKind::SlackLugs));
    let split_note = match found.as_ref().or(open.as_ref()) {
        Some(take) if !on_purpose => split_note(store, id, &take.partials)?,
        _ => None,
    };
    Ok(Bench {
        split_note,
        open: open.map(view).transpose()?,
        found: found.map(view).transpose()?,
        in_doubt,
        treatment: on.map(|on| TreatmentView::new(on, &drum.drum, &wanted)),
        check: checked,
        rings_on,
        takes,
        takes_in_all,
        drum,
        wanted,
    })
}

/// The slowest of the beats that are heard as such, with where the taps say that the head is tighter.
fn split_note(store: &Store, id: i64, partials: &[Partial]) -> Result<Option<String>, StoreError> {
    let Some(pair) = split_pairs(partials).into_iter().find(|pair| BEATING.contains(&pair.beat_hz())) else { return Ok(None) };
    let rounds = store.rounds(id, HeadSide::Batter)?;
    // A round from before turns tells nothing about now.
    let tapped = rounds.first().filter(|round| round.turned.is_none() && round.lugs >= FEWEST_LUGS);
    let where_ = match tapped.and_then(|round| Some((round.pitches.split?, round.lugs))) {
        Some((split, lugs)) => {
            let lug = split.tightest_at_lug.round() as usize % lugs;
            let other = across(lug, lugs);
            format!(" Its taps say: tighter from lug {} to lug {}.", lug.min(other) + 1, lug.max(other) + 1)
        }
        None => " Tap its lugs in Tune to see where.".to_string(),
    };
    Ok(Some(pair.sentence() + &where_))
}

/// `take` of the open drum with its partials as the tones that they are on this drum; as they were kept where nothing can be said.
fn with_tones(mut take: KeptTake, drum: &Drum) -> KeptTake {
    if let Some(model) = DrumModel::fit(drum, &take.partials) {
        take.partials = model.partials;
    }
    take
}

/// `found` with what was `expected`, by the names that tones have there: its body and ring are the promised ones.
fn as_promised(mut found: KeptTake, expected: &Expectation) -> KeptTake {
    (found.partials, found.summary.profile) = followed(sounding(&found), expected);
    found
}

fn found_open(take: &KeptTake) -> Open<'_> {
    Open { partials: &take.partials, profile: &take.summary.profile }
}

fn sounding(take: &KeptTake) -> Sounding<'_> {
    Sounding { partials: &take.partials, profile: &take.summary.profile }
}

/// `take` with its partials and its profile by the names that tones have on the open drum.
pub(super) fn with_names(store: &Store, take: KeptTake) -> Result<KeptTake, StoreError> {
    Ok(match take.treatment_id {
        Some(id) => as_promised(take, &store.treatment(id)?.plan.expected),
        None => with_tones(take.clone(), &store.drum(take.drum_id)?.drum),
    })
}

pub(super) fn take_row(store: &Store, take: KeptTake) -> Result<TakeRow, StoreError> {
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
    })
}
