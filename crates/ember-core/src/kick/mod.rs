//! Kick drums, and any drum whose other head has holes, is a mesh, or is off: what an opening does to the sound, whether to cut one,
//! where, and what fills the drum instead.
//!
//! [`coupled`] joins batter, front head and the air in a hole by the spring of the air inside; [`openings`] predicts from a measured drum
//! what each of the [`ways`] of closing it would do, and [`learned`] corrects that by what was measured. [`levels`] says how loud it becomes, [`rebound`] whether a
//! beater that is left in the head strikes again. [`verdict`] says whether to cut;
//! [`place`] checks where, and [`template`] draws it in full size.

mod chain;
mod coupled;
mod fill;
mod laid;
mod learned;
mod levels;
mod openings;
mod place;
mod rebound;
mod template;
mod verdict;
mod ways;

pub use fill::{FILLS, dial};
pub use learned::{FrontTrial, opening_strength};
pub use levels::Levels;
pub use openings::{FrontOutlook, FrontPredictor, RETUNINGS};
pub use place::{InvalidPlace, PlaceAsk, PlaceCheck, PlaceFound, check_place};
pub use rebound::{Landing, Rebound};
pub use template::{Mark, Paper, Pen, Sheet, Template, TemplateSide, template};
pub use verdict::{Beater, CutAdvice, CutQuestion, CutStep, CutVerdict, Cutter, Trial, cutting_steps, should_i_cut};
pub use ways::{BeaterFeel, MicrophoneAccess, fronts};
