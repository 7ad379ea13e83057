//! The drum's other end: what holes, a mesh or no head would do, and whether to cut.

use super::extract::{Path, Query};
use super::placed::placements_of;
use super::plans::asked_about;
use crate::learning::front_trials;
use crate::problem::Problem;
use crate::state::AppState;
use crate::views::PlanView;
use axum::Json;
use axum::extract::State;
use ember_core::blow::Blow;
use ember_core::damping::{DeviceKind, Placement};
use ember_core::decay::DecayProfile;
use ember_core::drum::{Drum, DrumKind, Front};
use ember_core::kick::{
    Beater, BeaterFeel, CutAdvice, CutQuestion, CutStep, Cutter, FILLS, FrontOutlook, FrontPredictor, FrontTrial, MicrophoneAccess,
    RETUNINGS, Rebound, Trial, cutting_steps, dial, fronts, should_i_cut,
};
use ember_core::plan::{Evaluator, Offer, Question};
use ember_core::target::{Assessment, Wanted, assess};
use ember_core::tuning::{KickAgainstBass, bass_notes, kick_against_bass};
use ember_store::{KeptDrum, Store, StoreError};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Layouts of the drum that were tried, of which the newest are looked at.
const MOST_TRIED: usize = 40;
/// Fills whose dial is worked out at once, so that the page answers in time.
const MOST_FILLS: usize = 3;

/// How the player plays, and whether a microphone has to get in.
#[derive(Debug, Clone, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Playing {
    #[serde(default)]
    #[param(inline)]
    beater: Beater,
    #[serde(default)]
    microphone: bool,
    #[serde(default)]
    #[param(inline)]
    cutter: Cutter,
    /// The song's key, or the bass's lowest notes, to hold the drum against; empty for neither.
    #[serde(default)]
    bass: String,
    /// What is laid in besides, as `device:amount:radius:angle` with commas between; empty for nothing.
    #[serde(default)]
    placed: String,
}

/// The drum in what is played.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct InSong {
    /// Beats a minute.
    pub bpm: f64,
    /// Beats for which the body is heard at the song's hardest; null where it is not known.
    pub body_beats: Option<f64>,
    /// Null without bass notes, or without a known pitch.
    pub bass: Option<KickAgainstBass>,
}

/// One way of closing the drum, and what it would do.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FrontWay {
    #[serde(flatten)]
    pub outlook: FrontOutlook,
    /// What it is, as a phrase.
    pub words: String,
    /// Whether it is how the drum is now.
    pub now: bool,
    /// Whether it can be undone without another head.
    pub reversible: bool,
    pub microphone: MicrophoneAccess,
    /// What to mind besides, as a sentence; null for nothing.
    pub remark: Option<String>,
    pub feel: BeaterFeel,
    /// What a beater does that is left in the head; null where the player lets it come off, and where no pedal strikes.
    pub rebound: Option<Rebound>,
    /// The expected sound held against what is wanted.
    pub assessment: Assessment,
    /// How the drum sounded when this was tried; null where it was not.
    pub found: Option<DecayProfile>,
}

/// The other head tuned otherwise, and what that would do.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FrontTuning {
    #[serde(flatten)]
    pub outlook: FrontOutlook,
    /// How far the head itself is tuned, up or down.
    pub semitones: i32,
    /// The same as a phrase.
    pub words: String,
    pub assessment: Assessment,
}

/// One step of a fill's dial.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FillStep {
    pub plan: PlanView,
    /// How the drum sounded with it; null where it was not tried.
    pub found: Option<DecayProfile>,
}

/// A fill, from hardly touching to pressed on.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FillDial {
    pub device: DeviceKind,
    pub name: String,
    /// Whether the player owns one.
    pub owned: bool,
    /// Longest body first.
    pub steps: Vec<FillStep>,
}

/// Everything about a drum's other end.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FrontPage {
    pub drum: KeptDrum,
    pub front: Front,
    pub words: String,
    pub wanted: Wanted,
    /// The drum as it was measured.
    pub profile: DecayProfile,
    pub assessment: Assessment,
    /// What is laid in besides in every way and tuning; null where nothing is.
    pub laid: Option<PlanView>,
    /// From the most closed to the most open.
    pub ways: Vec<FrontWay>,
    /// The other head tuned lower and higher, the lowest first; empty where there is none.
    pub tunings: Vec<FrontTuning>,
    /// The drum as it is in what is played.
    pub in_song: InSong,
    /// What can be laid in instead; empty for drums that are not filled.
    pub dials: Vec<FillDial>,
    pub trial: Trial,
    pub advice: CutAdvice,
    pub steps: Vec<CutStep>,
    /// Openings that were measured before and after, on all drums, and what they taught: what openings take against what they were thought
    /// to take, and bounds that hold nine times in ten.
    pub tests: usize,
    pub opening: f64,
    pub opening_low: f64,
    pub opening_high: f64,
}

/// What was tried on the drum: devices and front, and how it sounded.
struct Tried {
    front: Option<Front>,
    placements: Vec<ember_core::damping::Placement>,
    profile: DecayProfile,
}

/// What the store knows for the page.
struct Known {
    trials: Vec<FrontTrial>,
    tried: Vec<Tried>,
    declined: bool,
    owned: Vec<DeviceKind>,
    /// Beats a minute of what is played.
    bpm: f64,
}

fn known(store: &Store, id: i64) -> Result<Known, StoreError> {
    let since = store.head_changes(id)?.first().map_or(0, |change| change.seq);
    let measured = store.tests_of(id, MOST_TRIED)?;
    let here = measured.iter().filter(|test| test.treatment.seq > since);
    let tried = here.map(|test| Tried {
        front: test.treatment.plan.front.clone(),
        placements: test.treatment.plan.placements.clone(),
        profile: test.found.summary.profile.clone(),
    });
    Ok(Known {
        tried: tried.collect(),
        trials: front_trials(store)?,
        declined: store.front_trial_declined(id)?,
        bpm: store.scene()?.tonight.music.bpm,
        owned: store.shelf()?.into_iter().filter(|item| item.count > 0).map(|item| item.device).collect(),
    })
}

/// Reads what closing the drum otherwise would do, and whether to cut.
#[utoipa::path(get, path = "/drums/{id}/front", tag = "fronts", params(("id" = i64, Path), Playing),
    responses((status = 200, body = FrontPage), (status = 404, body = Problem, content_type = "application/problem+json"),
    (status = 409, description = "The open drum is not measured.", body = Problem, content_type = "application/problem+json")))]
pub async fn get_front(
    State(state): State<AppState>,
    Path(id): Path<i64>,
    Query(playing): Query<Playing>,
) -> Result<Json<FrontPage>, Problem> {
    let bass_hz = if playing.bass.trim().is_empty() { Vec::new() } else { bass_notes(&playing.bass).map_err(Problem::unprocessable)? };
    let known = state.store(move |store| known(store, id)).await?;
    let (drum, shelf) = state.store(move |store| Ok::<_, StoreError>((store.drum_with_heads(id)?, store.shelf()?))).await?;
    let laid = placements_of(&playing.placed, &shelf, &drum.drum)?;
    let (page, ..) = asked_about(&state, id, move |question| page(question, drum, &known, &playing, &bass_hz, &laid)).await?;
    Ok(Json(page))
}

fn page(question: &Question, kept: KeptDrum, known: &Known, playing: &Playing, bass_hz: &[f64], laid: &[Placement]) -> Option<FrontPage> {
    let drum = question.drum;
    let which = drum.kind.lower_head_word();
    let now = drum.front();
    let free = Question { limits: Default::default(), wanted: question.wanted.clone(), ..*question };
    let buried = Blow::usual(drum.kind).filter(|_| drum.kind.has_pedal() && playing.beater == Beater::Buried);
    let evaluator = Evaluator::new(&free)?;
    let evaluator = if let Some(blow) = buried { evaluator.with_beater_left_in(blow) } else { evaluator };
    let devices = fills(drum, &known.owned);
    let filled = || -> Vec<FillDial> { devices.into_par_iter().map(|device| fill_dial(&evaluator, question, device, known)).collect() };
    let closed = || {
        let opening = crate::learning::opening(&known.trials);
        let predictor = FrontPredictor::new(drum, question.partials, question.profile)?.with_opening(opening)?;
        if laid.is_empty() && buried.is_none() {
            return Some((opening, predictor, None));
        }
        let alone = evaluator.plan(Offer::Own, laid);
        let predictor = predictor.with_laid_as(laid, buried, question.strengths, alone.expected.clone())?;
        Some((opening, predictor, (!laid.is_empty()).then(|| PlanView::new(alone, drum, &question.wanted))))
    };
    let (dials, closed) = rayon::join(filled, closed);
    let (opening, predictor, laid_in) = closed?;
    let assessment = evaluator.now().clone();
    let way = |front: Front| {
        let outlook = predictor.outlook(&front);
        // As it is, the drum was measured: the model's own tones are not held against the wish instead.
        let assessment = match front == now && laid.is_empty() {
            true => assessment.clone(),
            false => assess(&outlook.expected.partials, &outlook.expected.profile, &question.wanted, None),
        };
        let found = known.tried.iter().rev().find(|tried| tried.front.as_ref() == Some(&front) && same_devices(&tried.placements, laid));
        FrontWay {
            words: front.words(which),
            now: front == now,
            reversible: front.ports().is_empty(),
            microphone: front.microphone_access(),
            remark: front.remark().map(str::to_string),
            feel: front.beater_feel(drum.diameter_in),
            rebound: buried.map(|blow| predictor.rebound(&front, blow)),
            assessment,
            found: found.map(|tried| tried.profile.clone()),
            outlook,
        }
    };
    let ways: Vec<FrontWay> = fronts(drum).into_par_iter().map(way).collect();
    let tuning = |(semitones, words): (i32, &str)| {
        let outlook = predictor.retuned(2f64.powf(f64::from(semitones) / 12.0))?;
        let assessment = assess(&outlook.expected.partials, &outlook.expected.profile, &question.wanted, None);
        Some(FrontTuning { outlook, semitones, words: words.to_string(), assessment })
    };
    let tunings: Vec<FrontTuning> = RETUNINGS.into_par_iter().filter_map(tuning).collect();
    let fits_step = |dial: &&FillStep| dial.plan.plan.assessment.fits;
    let undoable = dials.iter().flat_map(|dial| &dial.steps).filter(fits_step).min_by(|a, b| a.plan.plan.cost.total_cmp(&b.plan.plan.cost));
    let undoable = undoable.map(|step| format!("a {}, {}", step.plan.words, step.plan.devices.first().map_or("", |device| device.amount)));
    // What is laid in leaves the pitch; only then is it tuned away.
    let undoable = undoable.or_else(|| {
        let fit = tunings.iter().filter(|tuning| tuning.assessment.fits).min_by_key(|tuning| tuning.semitones.abs());
        fit.map(|tuning| format!("the {which} tuned {}", tuning.words))
    });
    let trial = match (known.tried.iter().any(|tried| tried.front.as_ref().is_some_and(|front| *front != Front::Whole)), known.declined) {
        (true, _) => Trial::Measured,
        (_, true) => Trial::Declined,
        _ => Trial::NotYet,
    };
    let holes: Vec<(Front, f64, bool)> = ways
        .iter()
        .filter(|way| !way.reversible && way.outlook.front.ports()[0].radius > 0.0)
        .map(|way| (way.outlook.front.clone(), way.assessment.misfit, way.assessment.fits))
        .collect();
    let advice = should_i_cut(&CutQuestion {
        drum,
        trial,
        beater: playing.beater,
        microphone: playing.microphone,
        fits: assessment.fits,
        undoable: undoable.as_deref(),
        besides: laid_in.as_ref().map(|plan| plan.words.as_str()),
        holes: &holes,
    });
    let in_song = InSong {
        bpm: known.bpm,
        body_beats: assessment.body_length_s.map(|seconds| seconds * known.bpm / 60.0),
        bass: question.profile.body_hz.and_then(|hz| kick_against_bass(hz, bass_hz)),
    };
    let bound = |sds: f64| (opening.0 + sds * opening.1).exp();
    Some(FrontPage {
        front: now.clone(),
        words: now.words(which),
        wanted: question.wanted.clone(),
        profile: question.profile.clone(),
        assessment,
        laid: laid_in,
        ways,
        tunings,
        in_song,
        dials,
        trial,
        advice,
        steps: cutting_steps(drum, playing.cutter),
        tests: known.trials.len(),
        opening: bound(0.0),
        opening_low: bound(-1.645),
        opening_high: bound(1.645),
        drum: kept,
    })
}

/// Whether the same amounts of the same devices are meant: what fills a drum has one place.
fn same_devices(a: &[Placement], b: &[Placement]) -> bool {
    a.len() == b.len() && a.iter().zip(b).all(|(a, b)| (a.device, a.amount) == (b.device, b.amount))
}

/// The fills to show for `drum`: what is owned, else what is in any household.
fn fills(drum: &Drum, owned: &[DeviceKind]) -> Vec<DeviceKind> {
    if drum.kind != DrumKind::Kick {
        return Vec::new();
    }
    let mut fills: Vec<DeviceKind> = FILLS.into_iter().filter(|fill| owned.contains(fill)).collect();
    for household in [DeviceKind::Pillow, DeviceKind::Blanket] {
        if fills.len() < 2 && !fills.contains(&household) {
            fills.push(household);
        }
    }
    fills.truncate(MOST_FILLS);
    fills
}

fn fill_dial(evaluator: &Evaluator, question: &Question, device: DeviceKind, known: &Known) -> FillDial {
    let drum = question.drum;
    let placements: Vec<_> = dial(device).into_iter().filter(|placement| placement.validate(drum).is_ok()).collect();
    let mut steps: Vec<FillStep> = placements
        .into_par_iter()
        .map(|placement| {
            let same = |tried: &&Tried| tried.front.is_none() && same_devices(&tried.placements, &[placement]);
            let found = known.tried.iter().rev().find(same).map(|tried| tried.profile.clone());
            FillStep { plan: PlanView::new(evaluator.plan(Offer::Own, &[placement]), drum, &question.wanted), found }
        })
        .collect();
    let body = |step: &FillStep| step.plan.plan.expected.profile.body_t60_s.unwrap_or(0.0);
    steps.sort_by(|a, b| body(b).total_cmp(&body(a)));
    let name = ember_core::damping::device_info(device).name.to_string();
    FillDial { device, name, owned: known.owned.contains(&device), steps }
}
