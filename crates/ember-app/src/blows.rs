//! Large drums: what another beater or spot would bring, how hands end a note, and how fast a roll must be.

use crate::learning::{Learning, front_trials, opening};
use crate::refusal::{NotNow, Refusal};
use crate::snapshot::PlanSnapshot;
use ember_core::Patience;
use ember_core::blow::{BEATERS, BeaterInfo, Blow, BlowOutlook, BlowPredictor, Roll, SPOTS, Spot, Stop, beater_info, roll, stops};
use ember_core::damping::Predictor;
use ember_core::drum::Drum;
use ember_core::kick::{FrontPredictor, FrontTrial, Rebound};
use ember_core::plan::Question;
use ember_core::target::{Assessment, WrittenNote, assess, check_bpm};
use ember_core::tone::{DecayProfile, Partial};
use ember_store::{Store, StoreError};
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Doubt of a body's decay time that came without one, as a part of it.
const UNKNOWN_DOUBT: f64 = 0.06;

/// How the drum was struck when it was measured.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct BlowAsked {
    /// Null: as such drums usually are.
    pub from: Option<Blow>,
}

/// One way of striking the drum.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct BlowWay {
    /// What it would do.
    #[serde(flatten)]
    pub outlook: BlowOutlook,
    /// What it is, as a phrase, and what it is for.
    pub name: Words,
    /// What it is for.
    pub words: Words,
    /// How long the beater touches the head, s.
    pub contact_s: f64,
    /// Whether it is how the drum was measured.
    pub now: bool,
    /// Held against what is wanted.
    pub assessment: Assessment,
}

/// Everything about how a large drum is struck.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct BlowPage {
    /// How it was struck when it was measured.
    pub from: Blow,
    /// Beaters that can be chosen.
    pub all_beaters: Vec<BeaterInfo>,
    /// Spots that can be chosen.
    pub all_spots: Vec<Spot>,
    /// The drum as it was measured.
    pub profile: DecayProfile,
    /// Other beaters on the same spot, soft to hard.
    pub beaters: Vec<BlowWay>,
    /// The same beater on other spots, from the middle outwards.
    pub spots: Vec<BlowWay>,
    /// The same beater left in the head, and whether the drum as it is throws it back; null for drums that no pedal strikes.
    pub left_in: Option<BlowWay>,
    /// What the head does to a beater that stays in it; null where no pedal strikes it.
    pub rebound: Option<Rebound>,
}

/// A drum with what was learned of openings.
#[derive(Debug, Clone)]
pub struct BlowSnapshot {
    /// The plan.
    pub plan: PlanSnapshot,
    openings: Vec<FrontTrial>,
}

impl BlowSnapshot {
    /// Reads a drum and what was learned of openings.
    pub fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        Ok(Self { plan: PlanSnapshot::read(store, drum_id)?, openings: front_trials(store)? })
    }
}

/// How `drum` was struck: as `from` says, or as such drums usually are.
pub(crate) fn struck_with(from: Option<Blow>, drum: &Drum) -> Result<Blow, Refusal> {
    let not_struck = || NotNow::NoBeater { kind: drum.kind };
    let blow = from.unwrap_or(Blow::usual(drum.kind).ok_or_else(not_struck)?);
    blow.validate()?;
    Ok(blow)
}

/// What the drum as it is does to a beater that is left in its head. `None` where no pedal strikes it, or no body was found.
pub(crate) fn rebound(drum: &Drum, partials: &[Partial], profile: &DecayProfile, blow: Blow, openings: &[FrontTrial]) -> Option<Rebound> {
    if !drum.kind.has_pedal() || !blow.left_in {
        return None;
    }
    let predictor = FrontPredictor::new(drum, partials, profile)?.with_opening(opening(openings))?;
    Some(predictor.rebound(&drum.front(), blow))
}

/// What other beaters and spots would bring.
pub fn blow_page(snapshot: &BlowSnapshot, asked: BlowAsked, learning: &Learning, patience: Patience) -> Result<BlowPage, Refusal> {
    let from = struck_with(asked.from, snapshot.plan.drum())?;
    snapshot.plan.asked(learning, patience, |question| page(question, from, &snapshot.openings))
}

fn page(question: &Question, from: Blow, openings: &[FrontTrial]) -> Option<BlowPage> {
    let from = Blow { left_in: false, ..from };
    let predictor = BlowPredictor::new(question.drum, question.partials, question.profile, from)?;
    let way = |blow: Blow, name: Words, words: Text| {
        let outlook = predictor.outlook(blow);
        let assessment = assess(&outlook.expected.partials, &outlook.expected.profile, &question.wanted, None);
        BlowWay { assessment, contact_s: outlook.contact_s(), name, words: words.into(), now: blow == from, outlook }
    };
    let held = || {
        let name = words!("{}, left in the head", beater_info(from.beater).name);
        way(Blow { left_in: true, ..from }, name, text!("the foot holds it there: it takes the body's length"))
    };
    Some(BlowPage {
        from,
        all_beaters: BEATERS.to_vec(),
        all_spots: SPOTS.to_vec(),
        profile: question.profile.clone(),
        beaters: BEATERS.iter().map(|info| way(Blow { beater: info.kind, ..from }, info.name.into(), info.words)).collect(),
        spots: SPOTS.iter().map(|spot| way(Blow { spot: spot.radius, ..from }, spot.name.into(), text!(""))).collect(),
        left_in: question.drum.kind.has_pedal().then(held),
        rebound: rebound(question.drum, question.partials, question.profile, Blow { left_in: true, ..from }, openings),
    })
}

/// How a note is ended by hand, and held by a roll.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct NoteEnds {
    /// Length of the written note, s.
    pub written_s: f64,
    /// Ways of ending it by hand.
    pub stops: Vec<Stop>,
    /// Null where nothing sounds.
    pub roll: Option<Roll>,
}

/// How fast hand and knee end the drum's note, when they must go down for a `written` length, and how fast a roll must be.
pub fn note_ends(snapshot: &PlanSnapshot, written: WrittenNote, learning: &Learning, patience: Patience) -> Result<NoteEnds, Refusal> {
    check_bpm(written.bpm)?;
    struck_with(None, snapshot.drum())?;
    let written_s = written.seconds();
    snapshot.asked(learning, patience, |question| {
        let predictor = Predictor::new(question.drum, question.partials)?;
        let body = question.drum.heard_by().body(question.partials).map(|body| &question.partials[body]);
        let doubt = body.and_then(|body| Some(body.t60_sd_s? / body.t60_s?)).unwrap_or(UNKNOWN_DOUBT);
        Some(NoteEnds { written_s, stops: stops(&predictor, written_s), roll: roll(question.partials, doubt) })
    })
}
