//! Which devices from the shelf, how much and where, bring a drum to what is wanted.

mod best;
mod candidates;
mod check;
mod doubt;
mod evening;
mod follow;
mod judge;
mod next_step;
mod offer;
mod offers;
mod own;
mod passed_over;
mod pitch;
mod school;
mod screened;
mod search;
mod solved;
mod teach;
mod weight;
mod would_do;

pub use best::{Among, Ranked};
pub use candidates::{Limits, MOST_DEVICES, ShelfItem};
pub use check::{CheckedFigure, Figure, check};
pub use doubt::{Doubt, doubted};
pub use evening::{
    Cell, Change, Difference, Evening, EveningDrum, EveningPlan, Look, MOST_SETUPS, Move, Packed, Row, SecondBest, Settled, Setup, Sound,
    Weighing, choose, packing,
};
pub use follow::{Sounding, followed};
pub use next_step::{NextStep, Step, next_step};
pub use offer::{Missing, Offer, Plan, PlanAnswer, Reach, WouldDo};
pub use own::{improved, validate_layout};
pub use passed_over::{PassedOver, passed_over};
pub use school::school_of;
pub use screened::Screened;
pub use search::plan;
pub use solved::{Evaluator, Question, evaluate, front_trial};
pub use teach::{TESTS_TO_LEARN, teaching};
pub use weight::seconds_off;
