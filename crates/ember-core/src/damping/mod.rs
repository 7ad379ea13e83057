//! Devices that damp a head: what they are, where they lie, and what they do to a drum's modes.

mod catalogue;
mod damped_modes;
mod expected;
mod first_order;
mod footprint;
mod head_losses;
mod learned;
mod made;
mod outline;
mod placement;
mod predict;
mod strengths;

pub use catalogue::{Amount, DeviceInfo, DeviceKind, Price, Prior, Toll, device_info};
pub use expected::{Expectation, Open, Range};
pub use first_order::{FirstOrder, Sketch, Start, Touch};
pub use footprint::Footprint;
pub use head_losses::{HeadEffect, HeadLosses, HeadTrial};
pub use learned::{DeviceTrial, Learned, Score, Tested, TestedTime};
pub use made::{LONGEST_NAME, Made};
pub use outline::Outline;
pub use placement::{InvalidPlacement, Patch, Placement};
pub use predict::{Grip, Predictor, Strength};
pub use strengths::{DeviceStrength, Strengths};
