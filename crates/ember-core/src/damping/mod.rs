//! Devices that damp a head: what they are, where they lie, and what they do to a drum's modes.

/// Changes with what predictions are made of, so that what was learned by another model is learned anew.
pub const MODEL: u32 = 3;

mod catalogue;
mod expected;
mod first_order;
mod footprint;
mod grip;
mod head_losses;
mod invalid;
mod learned;
mod made;
mod model_error;
mod outline;
mod own_tones;
mod placement;
mod predict;
mod prior;
mod shelf_set;
mod strengths;

pub use catalogue::{Amount, DeviceInfo, DeviceKind, OwnPlace, Price, Toll, UnknownDevice, device_info};
pub(crate) use expected::longest_of;
pub use expected::{Expectation, LevelChange, Open, RingsOn};
pub use first_order::{FirstOrder, Sketch, Start, Touch};
pub use footprint::Footprint;
pub use grip::Grip;
pub(crate) use grip::QUIETEST_DB;
pub use head_losses::{HeadEffect, HeadLosses, HeadTrial};
pub use invalid::{InvalidMade, InvalidPlacement};
pub(crate) use learned::paired_by;
pub use learned::{DeviceTrial, Learned, Score, Tested, TestedTime};
pub use made::{LONGEST_NAME, Made};
pub(crate) use model_error::tone_ln_sd;
pub use outline::{Outline, Patch};
pub use own_tones::OwnTones;
pub use placement::Placement;
pub use predict::{Predictor, Strength};
pub use prior::Prior;
pub(crate) use prior::REFERENCE_HZ;
pub use shelf_set::ShelfSet;
pub use strengths::{DeviceStrength, EighthTurn, StrengthOnHeads, Strengths};
