//! Devices that damp a head: what they are, where they lie, and what they do to a drum's modes.

mod catalogue;
mod device;
mod expected;
mod outline;
mod predict;

pub use catalogue::{Amount, DeviceInfo, Prior, device_info, devices_for};
pub use device::{DeviceKind, InvalidPlacement, Patch, Placement};
pub use expected::{Expectation, Open, Range};
pub use outline::Outline;
pub use predict::{Grip, Predictor, Strength};
