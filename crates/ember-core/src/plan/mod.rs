//! Which devices from the shelf, how much and where, bring a drum to what is wanted.

mod candidates;
mod check;
mod offer;
mod search;

pub use candidates::{Limits, ShelfItem};
pub use check::{CheckedFigure, Figure, Sounding, check};
pub use offer::{Offer, Plan, PlanAnswer, Reach};
pub use search::{Question, evaluate, plan};
