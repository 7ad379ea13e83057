//! Which devices from the shelf, how much and where, bring a drum to what is wanted.

mod candidates;
mod check;
mod evening;
mod offer;
mod own;
mod screened;
mod search;
mod weight;

pub use candidates::{Limits, ShelfItem};
pub use check::{CheckedFigure, Figure, Sounding, check};
pub use evening::{
    Cell, Change, Difference, Evening, EveningDrum, EveningPlan, MOST_SETUPS, Packed, Row, SecondBest, Setup, Sound, Weighing, choose,
    packing,
};
pub use offer::{Offer, Plan, PlanAnswer, Reach};
pub use own::{MOST_DEVICES, improved, validate_layout};
pub use screened::Screened;
pub use search::{Question, evaluate, plan};
