//! Strikes that were on another drum than the one that was asked for: which they are, and keeping them where they belong.

use super::extract::{Body, Path};
use super::takes;
use crate::listening::Neighbours;
use crate::problem::Problem;
use crate::song_file::as_text;
use crate::sound::{Label, label_at, read_labels};
use crate::state::AppState;
use crate::views::TakeView;
use axum::Json;
use axum::body::Bytes;
use axum::extract::State;
use axum::extract::rejection::BytesRejection;
use axum::http::StatusCode;
use ember_core::decay::Warning;
use ember_store::{KeptStrike, KeptTake, Source, Store, StoreError};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// Strikes of a take that sound like another drum of the kit.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Elsewhere {
    pub drum_id: i64,
    pub name: String,
    /// Their numbers.
    pub strikes: Vec<i64>,
}

/// Which strikes of a take sound like another drum: those that were left out for it, or most of them.
#[utoipa::path(get, path = "/takes/{id}/elsewhere", tag = "takes", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<Elsewhere>), (status = 404, body = Problem, content_type = "application/problem+json")))]
pub async fn get_elsewhere(State(state): State<AppState>, Path(id): Path<i64>) -> Result<Json<Vec<Elsewhere>>, Problem> {
    state.store(move |store| elsewhere(store, &store.take(id)?)).await.map(Json)
}

fn elsewhere(store: &Store, take: &KeptTake) -> Result<Vec<Elsewhere>, StoreError> {
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

/// Strikes to be kept on a drum.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct Moved {
    /// Numbers of strikes of one take.
    pub strikes: Vec<i64>,
    /// The take that they join; a new one where it is not given.
    pub take: Option<i64>,
    /// They sound like another drum and do not count: this is how a move is undone.
    #[serde(default)]
    pub elsewhere: bool,
}

/// Keeps strikes of another drum's take on this drum.
#[utoipa::path(post, path = "/drums/{id}/takes/strikes", tag = "takes", request_body = Moved, params(("id" = i64, Path)),
    responses((status = 201, body = TakeView), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json")))]
pub async fn keep_strikes(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Body(moved): Body<Moved>,
) -> Result<(StatusCode, Json<TakeView>), Problem> {
    let work = move |store: &mut Store| {
        let take = store.move_strikes(&moved.strikes, id, moved.take, moved.elsewhere)?;
        takes::view(store, take)
    };
    state.store(work).await.map(|view| (StatusCode::CREATED, Json(view)))
}

/// What a label track made of a take.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Labelled {
    pub notes: Vec<String>,
}

/// Reads a label track (a line a label: start and end in seconds and a name, tab-separated) for a take from a sound file: hits under the name of
/// another drum of the kit are kept there, and hits under no label are left out.
#[utoipa::path(post, path = "/takes/{id}/labels", tag = "takes", params(("id" = i64, Path)),
    request_body(content = String, content_type = "text/plain"),
    responses((status = 200, body = Labelled), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, body = Problem, content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn label_take(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    bytes: Result<Bytes, BytesRejection>,
) -> Result<Json<Labelled>, Problem> {
    let bytes =
        bytes.map_err(|refused| Problem::new(refused.status(), "The label track is too large, or broke off on its way. Send it again."))?;
    let labels = read_labels(&as_text(&bytes)).map_err(Problem::unprocessable)?;
    state.store(move |store| labelled(store, id, &labels)).await.map(|notes| Json(Labelled { notes }))
}

fn labelled(store: &mut Store, take_id: i64, labels: &[Label]) -> Result<Vec<String>, StoreError> {
    let take = store.take(take_id)?;
    if take.source != Source::File {
        return Err(StoreError::Refused("Labels belong to a sound file; this take was not read from one.".into()));
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
                let name = &other.drum.name;
                return Err(StoreError::Refused(format!(
                    "Your {name} is heard in another way: cut its hits out into a file of their own."
                )));
            }
            elsewhere.entry(other.id).or_default().push(strike.id);
        }
    }
    if unlabelled.len() == all {
        return Err(StoreError::Refused(format!("None of the {all} hits lies under a label. Was it made for this sound file?")));
    }
    let mut notes = Vec::new();
    let hits = |count: usize| if count == 1 { "1 hit is".to_string() } else { format!("{count} hits are") };
    for strike in &unlabelled {
        store.set_dropped(*strike, true)?;
    }
    if !unlabelled.is_empty() {
        notes.push(format!("{} under no label and left out.", hits(unlabelled.len())));
    }
    for (drum_id, strikes) in elsewhere {
        store.move_strikes(&strikes, drum_id, None, false)?;
        let name = drums.iter().find(|drum| drum.id == drum_id).map_or("", |drum| &drum.drum.name);
        notes.push(format!("{} kept on your {name} now.", hits(strikes.len())));
    }
    if notes.is_empty() {
        notes.push(format!("All {all} hits lie under labels and stay here."));
    }
    Ok(notes)
}
