//! What is asked, and plans of given treatments, solved in full.

use super::candidates::{Limits, ShelfItem};
use super::judge::Judge;
use super::offer::{Offer, Plan};
use super::offers::{is_clear, offered};
use super::school::school_of;
use super::screened::Screened;
use super::weight::{Prospect, effort, seconds_to_change};
use crate::Patience;
use crate::blow::{Blow, held_in};
use crate::damping::{DeviceKind, Expectation, Grip, Open, Placement, Predictor, Strengths};
use crate::drum::Drum;
use crate::kick::FrontOutlook;
use crate::target::{Assessment, School, Wanted, assess};
use crate::tone::{DecayProfile, Partial};
use ember_words::{Words, words};
use rayon::prelude::*;

/// How many plans have their doubt worked out: of the cheapest, and of each kind.
const DOUBTED: usize = 8;
const DOUBTED_OF_EACH_KIND: usize = 2;
/// Time to take a front head off, or put another one on, s (from experience, no published source).
const HEAD_OFF_S: f64 = 300.0;

/// What is asked.
pub struct Question<'a> {
    /// The drum.
    pub drum: &'a Drum,
    /// Combined partials and profile of the open drum.
    pub partials: &'a [Partial],
    /// The few figures that it comes down to.
    pub profile: &'a DecayProfile,
    /// What is wanted of it tonight.
    pub wanted: Wanted,
    /// What is owned.
    pub shelf: &'a [ShelfItem],
    /// What is ruled out.
    pub limits: Limits,
    /// How strong the devices are, as learned.
    pub strengths: &'a Strengths,
    /// How long the answer is waited for.
    pub patience: Patience<'a>,
}

impl<'a> Question<'a> {
    pub(super) fn open(&self) -> Open<'a> {
        Open { partials: self.partials, profile: self.profile }
    }

    /// The grid of `shelf`, to first order. `None` where the open drum's body is not known.
    pub(super) fn screened(&self, shelf: &[ShelfItem]) -> Option<Screened> {
        Screened::new(self.drum, self.partials, shelf, &self.limits, self.strengths)
    }
}

/// The one plan that `placements` make, offered as `offer`. `None` where the open drum's body is not known.
pub fn evaluate(question: &Question, offer: Offer, placements: &[Placement]) -> Option<Plan> {
    Some(Evaluator::new(question)?.plan(offer, placements))
}

/// Works out one plan after the other on the same drum.
pub struct Evaluator<'a> {
    question: &'a Question<'a>,
    predictor: Predictor,
    now: Assessment,
    /// A beater that stays in the head.
    held: Option<Grip>,
}

impl<'a> Evaluator<'a> {
    /// `None` where the open drum's body is not known.
    pub fn new(question: &'a Question<'a>) -> Option<Self> {
        let now = assess(question.partials, question.profile, &question.wanted, None);
        Some(Self { question, predictor: Predictor::new(question.drum, question.partials)?, now, held: None })
    }

    /// The same where the player leaves the beater in the head after `blow`: it takes hold of the head besides whatever lies on it.
    pub fn with_beater_left_in(mut self, blow: Blow) -> Self {
        let held = held_in(&self.predictor, blow);
        // What the drum needs is told by how it sounds when it is played so.
        let expected = self.predictor.expect(&self.question.open(), &[], &[&held]);
        self.now = assess(&expected.partials, &expected.profile, &self.question.wanted, None);
        self.held = Some(held);
        self
    }

    /// How the drum is as it is played, with nothing on it.
    pub fn now(&self) -> &Assessment {
        &self.now
    }

    /// The one plan that `placements` make, offered as `offer`.
    pub fn plan(&self, offer: Offer, placements: &[Placement]) -> Plan {
        let Self { question, predictor, now, held } = self;
        let grips: Vec<Grip> = placements.iter().map(|placement| predictor.grip_known(placement, question.strengths)).collect();
        let expected = predictor.expect(&question.open(), placements, &grips.iter().chain(held).collect::<Vec<_>>());
        offered(offer, &weigh(question, placements.to_vec(), expected), now)
    }
}

/// The plan to close the drum's other end as `outlook` says for a while, with `placements` laid in besides.
pub fn front_trial(question: &Question, outlook: FrontOutlook, placements: Vec<Placement>) -> Plan {
    let plan = weigh(question, placements, outlook.expected);
    let now = assess(question.partials, question.profile, &question.wanted, None);
    // What is laid in goes in while the head is off.
    offered(Offer::FrontTrial, &Plan { front: Some(outlook.front), seconds: HEAD_OFF_S.max(plan.seconds), ..plan }, &now)
}

/// Hands lay things so far off: towards the middle or the hoop, m, and round the head, degrees (common practice, no published source).
const LAID_OFF_M: f64 = 0.015;
const LAID_OFF_DEG: f64 = 10.0;
/// Part of what is lost where everything lies so far off that counts against a plan (from experience, no published source).
const LAID_OFF_COUNTS: f64 = 0.25;

/// What of `placements` is lost where hands lay them off as hands do, in steps to first order.
fn lost_by_hands(screened: &Screened, judge: &Judge, placements: &[Placement]) -> f64 {
    let radius = screened.predictor.drum.radius();
    let laid_off = |inwards: f64, turn: f64| -> Vec<Placement> {
        let off = |(at, placement): (usize, &Placement)| {
            // One this way, the next the other.
            let way = if at % 2 == 0 { 1.0 } else { -1.0 };
            let shifted = if placement.has_radius() { placement.radius - way * inwards * LAID_OFF_M / radius } else { placement.radius };
            Placement { radius: shifted.clamp(0.0, 1.0), angle_deg: placement.angle_deg + way * turn * LAID_OFF_DEG, ..*placement }
        };
        placements.iter().enumerate().map(off).collect()
    };
    let cost = |placements: &[Placement]| screened.sketched(placements).cost(judge);
    let worst = [(1.0, 1.0), (-1.0, 1.0)].map(|(inwards, turn)| cost(&laid_off(inwards, turn))).into_iter().fold(0.0, f64::max);
    (worst - cost(placements)).max(0.0)
}

/// Plans of `treatments`, cheapest first, what is lost where hands lay them off counted: all are solved in full; how sure they are is worked out only for those that are cheapest so far
/// among all or among those like them, since doubt makes nothing cheaper.
pub(super) fn solved(question: &Question, screened: &Screened, treatments: Vec<Vec<Placement>>) -> Vec<Plan> {
    let (open, wanted) = (question.open(), &question.wanted);
    let judge = Judge::new(&screened.model, wanted);
    let solve = |mut placements: Vec<Placement>| {
        let mut expected = screened.expect_without_doubt(&open, &placements);
        // To first order the pitch falls a little otherwise than in full: which turn brings it back is asked again.
        let turn = screened.turns.least(expected.pitch_cents, placements.iter()).1;
        if let Some(turn) = turn {
            placements.push(turn);
            expected = screened.expect_without_doubt(&open, &placements);
        }
        let by_hands = LAID_OFF_COUNTS * lost_by_hands(screened, &judge, &placements);
        (Prospect::new(&expected).cost(&placements, wanted) + effort(&placements) + by_hands, by_hands, placements, expected)
    };
    let mut sure: Vec<(f64, f64, Vec<Placement>, Expectation)> = treatments.into_par_iter().map(solve).collect();
    sure.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut kept: Vec<(School, bool, usize)> = Vec::new();
    sure.retain(|(_, _, placements, _)| {
        let kind = (school_of(placements), placements.iter().all(is_clear), placements.len());
        let keep = kept.len() < DOUBTED || kept.iter().filter(|other| **other == kind).count() < DOUBTED_OF_EACH_KIND;
        if keep {
            kept.push(kind);
        }
        keep
    });
    let finish = |(_, by_hands, placements, expected): (f64, f64, Vec<Placement>, Expectation)| {
        let expected = screened.with_doubt(expected, &open, &placements);
        (by_hands, weigh(question, placements, expected))
    };
    let mut plans: Vec<(f64, Plan)> = sure.into_par_iter().map(finish).collect();
    plans.sort_by(|a, b| (a.0 + a.1.cost).total_cmp(&(b.0 + b.1.cost)));
    plans.into_iter().map(|(_, plan)| plan).collect()
}

/// A second skin wants a drum under it that sings for this long, s (from experience, no published source).
const SINGS_S: f64 = 0.45;

/// What is to be seen to before `placements` go on: too dead a drum does not carry a second skin (common practice, no published source).
fn seen_to_first(question: &Question, placements: &[Placement]) -> Option<Words> {
    let is_skin = |placement: &Placement| matches!(placement.device, DeviceKind::SpareHead | DeviceKind::Doughnut);
    placements.iter().find(|placement| is_skin(placement))?;
    let dead = question.profile.body_t60_s.is_none_or(|t60_s| t60_s < SINGS_S);
    let word = question.drum.kind.lower_head_word();
    match question.drum.lower_film() {
        None => Some(words!("Without its {word} the drum may be too dead to carry a second skin: put one on first.")),
        Some(_) if dead => Some(words!(
            "It is too dead to carry a second skin. First tune the {word} up, a whole step to a third above the batter, and hit it again."
        )),
        Some(_) => None,
    }
}

fn weigh(question: &Question, placements: Vec<Placement>, expected: Expectation) -> Plan {
    let wanted = &question.wanted;
    let assessment = assess(&expected.partials, &expected.profile, wanted, Some(expected.attack_lost_db));
    let prospect = Prospect::new(&expected);
    let (worst_misfit, cost) = (prospect.worst_misfit(wanted), prospect.cost(&placements, wanted) + effort(&placements));
    let seconds = seconds_to_change(&[], &placements);
    Plan {
        offer: Offer::Closest,
        title: Words::default(),
        why: Words::default(),
        first: seen_to_first(question, &placements),
        placements,
        front: None,
        expected,
        assessment,
        worst_misfit,
        seconds,
        cost,
    }
}
