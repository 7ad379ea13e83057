//! The drum's other end: what holes, a mesh or no head would do, and whether to cut.

use crate::learning::{Learning, front_trials, opening};
use crate::refusal::{NotNow, Refusal};
use crate::snapshot::PlanSnapshot;
use crate::views::PlanView;
use ember_core::Patience;
use ember_core::blow::Blow;
use ember_core::damping::{DeviceKind, Placement, device_info};
use ember_core::drum::{Drum, DrumKind, Front};
use ember_core::kick::{
    Beater, BeaterFeel, CutAdvice, CutQuestion, CutStep, Cutter, FILLS, FrontOutlook, FrontPredictor, FrontTrial, MicrophoneAccess,
    RETUNINGS, Rebound, Trial, cutting_steps, dial, fronts, should_i_cut,
};
use ember_core::numeric::{LogNormal, Range};
use ember_core::plan::{Evaluator, Offer, Plan, Question, front_trial};
use ember_core::target::{Assessment, Wanted, assess};
use ember_core::tone::DecayProfile;
use ember_core::tuning::{KickAgainstBass, bass_notes, kick_against_bass};
use ember_store::{KeptDrum, Store, StoreError};
use ember_words::{Text, Words, text, words};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Layouts of the drum that were tried, of which the newest are looked at.
const MOST_TRIED: usize = 40;
/// Fills whose dial is worked out at once, so that the page answers in time.
const MOST_FILLS: usize = 3;

/// How the player plays, whether a microphone has to get in, and what else is meant.
#[derive(Debug, Clone, Default, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct FrontAsked {
    /// What strikes it.
    pub beater: Beater,
    /// Whether a microphone has to get in.
    pub microphone: bool,
    /// What it is cut with.
    pub cutter: Cutter,
    /// The song's key, or the bass's lowest notes, to hold the drum against; empty for neither.
    pub bass: String,
    /// What is laid in besides.
    pub placements: Vec<Placement>,
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
    /// What it would do.
    #[serde(flatten)]
    pub outlook: FrontOutlook,
    /// What it is, as a phrase.
    pub words: Words,
    /// Whether it is how the drum is now.
    pub now: bool,
    /// Whether it can be undone without another head.
    pub reversible: bool,
    /// Whether a microphone has to get in.
    pub microphone: MicrophoneAccess,
    /// What to mind besides, as a sentence; null for nothing.
    pub remark: Option<Words>,
    /// How it feels.
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
    /// What it would do.
    #[serde(flatten)]
    pub outlook: FrontOutlook,
    /// How far the head itself is tuned, up or down.
    pub semitones: i32,
    /// The same as a phrase.
    pub words: Words,
    /// Held against what is wanted.
    pub assessment: Assessment,
}

/// One step of a fill's dial.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FillStep {
    /// The plan.
    pub plan: PlanView,
    /// How the drum sounded with it; null where it was not tried.
    pub found: Option<DecayProfile>,
}

/// A fill, from hardly touching to pressed on.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FillDial {
    /// Which device it is.
    pub device: DeviceKind,
    /// What it is called.
    pub name: String,
    /// Whether the player owns one.
    pub owned: bool,
    /// Longest body first.
    pub steps: Vec<FillStep>,
}

/// Everything about a drum's other end.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FrontPage {
    /// The drum.
    pub drum: KeptDrum,
    /// How the other end is closed.
    pub front: Front,
    /// The same as a phrase.
    pub words: Words,
    /// What is wanted of it tonight.
    pub wanted: Wanted,
    /// The drum as it was measured.
    pub profile: DecayProfile,
    /// The drum as it is, held against what is wanted.
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
    /// Whether the openings were tried.
    pub trial: Trial,
    /// Whether to cut.
    pub advice: CutAdvice,
    /// How to cut.
    pub steps: Vec<CutStep>,
    /// Openings that were measured before and after, on all drums, and what they taught: what openings take against what they were thought
    /// to take, and bounds that hold nine times in ten.
    pub tests: usize,
    /// What openings take against what they were thought to take.
    pub opening: f64,
    /// Lower bound of that.
    pub opening_low: f64,
    /// Upper bound of that.
    pub opening_high: f64,
}

/// What was tried on the drum: devices and front, and how it sounded.
#[derive(Debug, Clone)]
struct Tried {
    front: Option<Front>,
    placements: Vec<Placement>,
    profile: DecayProfile,
}

/// A drum with what was learned of openings, and what was tried on it.
#[derive(Debug, Clone)]
pub struct FrontSnapshot {
    /// The plan.
    pub plan: PlanSnapshot,
    trials: Vec<FrontTrial>,
    tried: Vec<Tried>,
    declined: bool,
}

impl FrontSnapshot {
    /// Reads a drum that has heads.
    pub fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        store.drum_with_heads(drum_id)?;
        let since = store.head_changes(drum_id)?.first().map_or(0, |change| change.seq);
        let measured = store.tests_of(drum_id, MOST_TRIED)?;
        let here = measured.iter().filter(|test| test.treatment.seq > since);
        let tried = here.map(|test| Tried {
            front: test.treatment.plan.front.clone(),
            placements: test.treatment.plan.placements.clone(),
            profile: test.found.summary.profile.clone(),
        });
        Ok(Self {
            tried: tried.collect(),
            trials: front_trials(store)?,
            declined: store.front_trial_declined(drum_id)?,
            plan: PlanSnapshot::read(store, drum_id)?,
        })
    }

    fn owns(&self, device: DeviceKind) -> bool {
        self.plan.shelf.iter().any(|item| item.device == device && item.count > 0)
    }

    fn has_tried_an_opening(&self) -> bool {
        self.tried.iter().any(|tried| tried.front.as_ref().is_some_and(|front| *front != Front::Whole))
    }

    /// How the drum sounded the last time that it was closed as `front` says with `placements` in it.
    fn found(&self, front: Option<&Front>, placements: &[Placement]) -> Option<&DecayProfile> {
        let same = |tried: &&Tried| tried.front.as_ref() == front && same_devices(&tried.placements, placements);
        self.tried.iter().rev().find(same).map(|tried| &tried.profile)
    }
}

/// What closing the drum otherwise would do, and whether to cut.
pub fn front_page(snapshot: &FrontSnapshot, asked: &FrontAsked, learning: &Learning, patience: Patience) -> Result<FrontPage, Refusal> {
    let bass_hz = if asked.bass.trim().is_empty() { Vec::new() } else { bass_notes(&asked.bass)? };
    let laid = snapshot.plan.fitting(&asked.placements, snapshot.plan.drum())?;
    snapshot.plan.asked(learning, patience, |question| Some(Outlook::new(question, snapshot, asked, &laid)?.page(&bass_hz)))
}

/// The drum's other end looked at for one question.
struct Outlook<'a> {
    question: &'a Question<'a>,
    snapshot: &'a FrontSnapshot,
    asked: &'a FrontAsked,
    laid: &'a [Placement],
    /// What is laid in, as a plan of its own.
    laid_in: Option<PlanView>,
    /// How the drum is struck, where the beater stays in the head.
    buried: Option<Blow>,
    assessment: Assessment,
    predictor: FrontPredictor<'a>,
    opening: LogNormal,
    dials: Vec<FillDial>,
}

impl<'a> Outlook<'a> {
    /// `None` where no body was found.
    fn new(question: &'a Question<'a>, snapshot: &'a FrontSnapshot, asked: &'a FrontAsked, laid: &'a [Placement]) -> Option<Self> {
        let drum = question.drum;
        let free = Question { limits: Default::default(), wanted: question.wanted.clone(), ..*question };
        let buried = Blow::usual(drum.kind).filter(|_| drum.kind.has_pedal() && asked.beater == Beater::Buried);
        let evaluator = Evaluator::new(&free)?;
        let evaluator = if let Some(blow) = buried { evaluator.with_beater_left_in(blow) } else { evaluator };
        let opening = opening(&snapshot.trials);
        let dials = || fills(snapshot).into_par_iter().map(|fill| fill_dial(&evaluator, question, fill, snapshot)).collect();
        let closed = || {
            let predictor = FrontPredictor::new(drum, question.partials, question.profile)?.with_opening(opening)?;
            if laid.is_empty() && buried.is_none() {
                return Some((predictor, None));
            }
            let alone = evaluator.plan(Offer::Own, laid);
            let predictor = predictor.with_laid_as(laid, buried, question.strengths, alone.expected.clone())?;
            Some((predictor, (!laid.is_empty()).then(|| PlanView::new(alone, drum, &question.wanted))))
        };
        let (dials, closed) = rayon::join(dials, closed);
        let (predictor, laid_in) = closed?;
        let assessment = evaluator.now().clone();
        Some(Self { question, snapshot, asked, laid, laid_in, buried, assessment, predictor, opening, dials })
    }

    fn drum(&self) -> &'a Drum {
        self.question.drum
    }

    fn way(&self, front: Front) -> FrontWay {
        let (drum, now) = (self.drum(), self.drum().front());
        let outlook = self.predictor.outlook(&front);
        // As it is, the drum was measured: the model's own tones are not held against the wish instead.
        let assessment = match front == now && self.laid.is_empty() {
            true => self.assessment.clone(),
            false => self.assessed(&outlook),
        };
        FrontWay {
            words: front.words(drum.kind.lower_head_word()),
            now: front == now,
            reversible: front.ports().is_empty(),
            microphone: front.microphone_access(),
            remark: front.remark().map(Text::words),
            feel: front.beater_feel(drum.diameter_in),
            rebound: self.buried.map(|blow| self.predictor.rebound(&front, blow)),
            assessment,
            found: self.snapshot.found(Some(&front), self.laid).cloned(),
            outlook,
        }
    }

    fn tuning(&self, (semitones, words): (i32, Text)) -> Option<FrontTuning> {
        let outlook = self.predictor.retuned(2f64.powf(f64::from(semitones) / 12.0))?;
        let assessment = self.assessed(&outlook);
        Some(FrontTuning { outlook, semitones, words: words.into(), assessment })
    }

    fn assessed(&self, outlook: &FrontOutlook) -> Assessment {
        assess(&outlook.expected.partials, &outlook.expected.profile, &self.question.wanted, None)
    }

    /// What gets there and can be undone, as a phrase: the cheapest fill, else the other head tuned otherwise. What is laid in leaves the pitch;
    /// only then is it tuned away.
    fn undoable(&self, tunings: &[FrontTuning]) -> Option<Words> {
        let steps = self.dials.iter().flat_map(|dial| &dial.steps).filter(|step| step.plan.plan.assessment.fits);
        let fill = steps.min_by(|a, b| a.plan.plan.cost.total_cmp(&b.plan.plan.cost));
        let fill =
            fill.map(|step| words!("a {}, {}", step.plan.words, step.plan.devices.first().map_or(text!(""), |device| device.amount)));
        let tuned = || {
            let fits = tunings.iter().filter(|tuning| tuning.assessment.fits).min_by_key(|tuning| tuning.semitones.abs());
            fits.map(|tuning| words!("the {} tuned {}", self.drum().kind.lower_head_word(), tuning.words))
        };
        fill.or_else(tuned)
    }

    fn trial(&self) -> Trial {
        match (self.snapshot.has_tried_an_opening(), self.snapshot.declined) {
            (true, _) => Trial::Measured,
            (_, true) => Trial::Declined,
            _ => Trial::NotYet,
        }
    }

    fn advice(&self, ways: &[FrontWay], tunings: &[FrontTuning]) -> CutAdvice {
        let is_hole = |way: &&FrontWay| !way.reversible && way.outlook.front.ports()[0].radius > 0.0;
        let holes: Vec<(Front, f64, bool)> =
            ways.iter().filter(is_hole).map(|way| (way.outlook.front.clone(), way.assessment.misfit, way.assessment.fits)).collect();
        should_i_cut(&CutQuestion {
            drum: self.drum(),
            trial: self.trial(),
            beater: self.asked.beater,
            microphone: self.asked.microphone,
            fits: self.assessment.fits,
            undoable: self.undoable(tunings).as_ref(),
            borrowed: self.snapshot.plan.now.scene.borrowed,
            besides: self.laid_in.as_ref().map(|plan| &plan.words),
            holes: &holes,
        })
    }

    fn page(self, bass_hz: &[f64]) -> FrontPage {
        let (drum, now) = (self.drum(), self.drum().front());
        let ways: Vec<FrontWay> = fronts(drum).into_par_iter().map(|front| self.way(front)).collect();
        let tunings: Vec<FrontTuning> = RETUNINGS.into_par_iter().filter_map(|tuning| self.tuning(tuning)).collect();
        let bpm = self.snapshot.plan.now.scene.tonight.music.bpm;
        let in_song = InSong {
            bpm,
            body_beats: self.assessment.body_length_s.map(|seconds| seconds * bpm / 60.0),
            bass: self.question.profile.body_hz.and_then(|hz| kick_against_bass(hz, bass_hz)),
        };
        let Range { low: opening_low, high: opening_high } = self.opening.range();
        FrontPage {
            words: now.words(drum.kind.lower_head_word()),
            front: now,
            wanted: self.question.wanted.clone(),
            profile: self.question.profile.clone(),
            trial: self.trial(),
            advice: self.advice(&ways, &tunings),
            steps: cutting_steps(drum, self.asked.cutter),
            tests: self.snapshot.trials.len(),
            opening: self.opening.median(),
            opening_low,
            opening_high,
            drum: self.snapshot.plan.now.drum.clone(),
            assessment: self.assessment,
            laid: self.laid_in,
            dials: self.dials,
            ways,
            tunings,
            in_song,
        }
    }
}

/// Whether the same amounts of the same devices are meant: what fills a drum has one place.
fn same_devices(a: &[Placement], b: &[Placement]) -> bool {
    a.len() == b.len() && a.iter().zip(b).all(|(a, b)| (a.device, a.amount) == (b.device, b.amount))
}

/// The fills to show for a drum: what is owned, else what is in any household.
fn fills(snapshot: &FrontSnapshot) -> Vec<DeviceKind> {
    if snapshot.plan.drum().kind != DrumKind::Kick {
        return Vec::new();
    }
    let mut fills: Vec<DeviceKind> = FILLS.into_iter().filter(|fill| snapshot.owns(*fill)).collect();
    for household in [DeviceKind::Pillow, DeviceKind::Blanket] {
        if fills.len() < 2 && !fills.contains(&household) {
            fills.push(household);
        }
    }
    fills.truncate(MOST_FILLS);
    fills
}

fn fill_dial(evaluator: &Evaluator, question: &Question, device: DeviceKind, snapshot: &FrontSnapshot) -> FillDial {
    let drum = question.drum;
    let placements: Vec<Placement> = dial(device).into_iter().filter(|placement| placement.validate(drum).is_ok()).collect();
    let step = |placement: Placement| FillStep {
        plan: PlanView::new(evaluator.plan(Offer::Own, &[placement]), drum, &question.wanted),
        found: snapshot.found(None, &[placement]).cloned(),
    };
    let mut steps: Vec<FillStep> = placements.into_par_iter().map(step).collect();
    let body = |step: &FillStep| step.plan.plan.expected.profile.body_t60_s.unwrap_or(0.0);
    steps.sort_by(|a, b| body(b).total_cmp(&body(a)));
    FillDial { device, name: device_info(device).name.to_string(), owned: snapshot.owns(device), steps }
}

/// A way of closing the drum for a while, and what is laid in besides.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FrontTried {
    /// How the other end is closed.
    pub front: Front,
    /// What lies where.
    #[serde(default)]
    pub placements: Vec<Placement>,
}

/// What closing the drum for a while as `tried` says should do, as a plan that can be carried out.
pub fn trial_of_front(snapshot: &FrontSnapshot, tried: &FrontTried, learning: &Learning, patience: Patience) -> Result<Plan, Refusal> {
    let drum = snapshot.plan.drum();
    let closed = drum.with_front(&tried.front);
    closed.validate()?;
    let placements = snapshot.plan.fitting(&tried.placements, &closed)?;
    if tried.front == drum.front() {
        return Err(NotNow::SoAlready { front: tried.front.clone(), kind: drum.kind }.into());
    }
    snapshot.plan.asked(learning, patience, |question| {
        let predictor = FrontPredictor::new(question.drum, question.partials, question.profile)?.with_opening(opening(&snapshot.trials))?;
        let predictor = predictor.with_laid(&placements, question.strengths)?;
        Some(front_trial(question, predictor.outlook(&tried.front), placements.clone()))
    })
}
