//! Large drums: what another beater or spot would bring, how hands end a note, and how fast a roll must be.

use super::extract::{Path, Query};
use super::plans::asked_about;
use crate::learning::{front_trials, opening};
use crate::problem::Problem;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use ember_core::blow::{
    BEATERS, BeaterInfo, Blow, BlowOutlook, BlowPredictor, InvalidBlow, Roll, SPOTS, Spot, Stop, beater_info, roll, stops,
};
use ember_core::damping::Predictor;
use ember_core::decay::{DecayProfile, Partial};
use ember_core::drum::Drum;
use ember_core::kick::{FrontPredictor, FrontTrial, Rebound};
use ember_core::plan::Question;
use ember_core::target::{Assessment, BPM, NoteValue, WrittenNote, assess};
use ember_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// How the drum was struck when it was measured.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct StruckWith {
    /// As `beater:spot`, for example `felt:0.25`; empty as such drums usually are.
    #[serde(default)]
    from: String,
}

/// One way of striking the drum.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct BlowWay {
    #[serde(flatten)]
    pub outlook: BlowOutlook,
    /// What it is, as a phrase, and what it is for.
    pub name: String,
    pub words: String,
    /// How long the beater touches the head, s.
    pub contact_s: f64,
    /// Whether it is how the drum was measured.
    pub now: bool,
    pub assessment: Assessment,
}

/// Everything about how a large drum is struck.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct BlowPage {
    /// How it was struck when it was measured.
    pub from: Blow,
    pub all_beaters: Vec<BeaterInfo>,
    pub all_spots: Vec<Spot>,
    /// The drum as it was measured.
    pub profile: DecayProfile,
    /// Other beaters on the same spot, soft to hard.
    pub beaters: Vec<BlowWay>,
    /// The same beater on other spots, from the middle outwards.
    pub spots: Vec<BlowWay>,
    /// The same beater left in the head, and whether the drum as it is throws it back; null for drums that no pedal strikes.
    pub left_in: Option<BlowWay>,
    pub rebound: Option<Rebound>,
}

/// Reads `from` for `drum`, or how such drums are usually struck.
pub fn struck_with(from: &str, drum: &Drum) -> Result<Blow, Problem> {
    let usual =
        Blow::usual(drum.kind).ok_or_else(|| Problem::conflict(format!("A {} is not struck with such beaters.", drum.kind.word())))?;
    let refused = |error: InvalidBlow| Problem::unprocessable(error.to_string());
    if from.trim().is_empty() { Ok(usual) } else { Blow::parse(from.trim()).map_err(refused) }
}

/// Reads what other beaters and spots would bring.
#[utoipa::path(get, path = "/drums/{id}/blows", tag = "plans", params(("id" = i64, Path), StruckWith),
    responses((status = 200, body = BlowPage), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured, or no beater strikes it.", body = Problem,
    content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn get_blows(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(struck): Query<StruckWith>,
) -> Result<Json<BlowPage>, Problem> {
    let read = move |store: &mut Store| Ok::<_, StoreError>((store.drum(id)?.drum, front_trials(store)?));
    let (drum, openings) = state.store(read).await?;
    let from = struck_with(&struck.from, &drum)?;
    let (page, ..) = asked_about(&state, id, move |question| page(question, from, &openings)).await?;
    Ok(Json(page))
}

/// What the drum as it is does to a beater that is left in its head. `None` where no pedal strikes it, or no body was found.
pub fn rebound(drum: &Drum, partials: &[Partial], profile: &DecayProfile, blow: Blow, openings: &[FrontTrial]) -> Option<Rebound> {
    if !drum.kind.has_pedal() || !blow.left_in {
        return None;
    }
    let predictor = FrontPredictor::new(drum, partials, profile)?.with_opening(opening(openings))?;
    Some(predictor.rebound(&drum.front(), blow))
}

fn page(question: &Question, from: Blow, openings: &[FrontTrial]) -> Option<BlowPage> {
    let from = Blow { left_in: false, ..from };
    let predictor = BlowPredictor::new(question.drum, question.partials, question.profile, from)?;
    let way = |blow: Blow, name: &str, words: &str| {
        let outlook = predictor.outlook(blow);
        let assessment = assess(&outlook.expected.partials, &outlook.expected.profile, &question.wanted, None);
        BlowWay { assessment, contact_s: outlook.contact_s(), name: name.into(), words: words.into(), now: blow == from, outlook }
    };
    let beater = |info: &BeaterInfo| way(Blow { beater: info.kind, ..from }, info.name, info.words);
    let spot = |spot: &Spot| way(Blow { spot: spot.radius, ..from }, spot.name, "");
    let held = || {
        let name = format!("{}, left in the head", beater_info(from.beater).name);
        way(Blow { left_in: true, ..from }, &name, "the foot holds it there: it takes the body's length")
    };
    Some(BlowPage {
        from,
        all_beaters: BEATERS.to_vec(),
        all_spots: SPOTS.to_vec(),
        profile: question.profile.clone(),
        beaters: BEATERS.iter().map(beater).collect(),
        spots: SPOTS.iter().map(spot).collect(),
        left_in: question.drum.kind.has_pedal().then(held),
        rebound: rebound(question.drum, question.partials, question.profile, Blow { left_in: true, ..from }, openings),
    })
}

/// Which note is to be ended.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct NoteAsked {
    /// The note as it is written.
    #[param(inline)]
    value: NoteValue,
    /// Quarter notes a minute (30 to 300).
    bpm: f64,
}

/// How a note is ended by hand, and held by a roll.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct NoteEnds {
    /// Length of the written note, s.
    pub written_s: f64,
    pub stops: Vec<Stop>,
    /// Null where nothing sounds.
    pub roll: Option<Roll>,
}

/// Doubt of a body's decay time that came without one, as a part of it.
const UNKNOWN_DOUBT: f64 = 0.06;

/// Reads how fast hand and knee end the drum's note, when they must go down for a written length, and how fast a roll must be.
#[utoipa::path(get, path = "/drums/{id}/note-ends", tag = "plans", params(("id" = i64, Path), NoteAsked),
    responses((status = 200, body = NoteEnds), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured, or no beater strikes it.", body = Problem,
    content_type = "application/problem+json"),
    (status = 422, body = Problem, content_type = "application/problem+json")))]
pub async fn get_note_ends(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(asked): Query<NoteAsked>,
) -> Result<Json<NoteEnds>, Problem> {
    if !BPM.contains(&asked.bpm) {
        return Err(Problem::unprocessable(format!("The tempo must be between {} and {} BPM.", BPM.start(), BPM.end())));
    }
    let drum = state.store(move |store| store.drum(id)).await?.drum;
    struck_with("", &drum)?;
    let written_s = WrittenNote { value: asked.value, bpm: asked.bpm }.seconds();
    let ends = move |question: &Question| {
        let predictor = Predictor::new(question.drum, question.partials)?;
        let body = question.drum.heard_by().body(question.partials).map(|body| &question.partials[body]);
        let doubt = body.and_then(|body| Some(body.t60_sd_s? / body.t60_s?)).unwrap_or(UNKNOWN_DOUBT);
        Some(NoteEnds { written_s, stops: stops(&predictor, written_s), roll: roll(question.partials, doubt) })
    };
    Ok(Json(asked_about(&state, id, ends).await?.0))
}
