//! The fill dial: what can be laid into a kick, from hardly touching to pressed on the batter, in steps that hands can do.

use crate::damping::{DeviceKind, Placement, device_info};

/// What fills a kick, or damps it without lying on its playing surface.
pub const FILLS: [DeviceKind; 7] = [
    DeviceKind::Pillow,
    DeviceKind::Blanket,
    DeviceKind::Towel,
    DeviceKind::FoamBlock,
    DeviceKind::StuffedShirt,
    DeviceKind::InflatedTube,
    DeviceKind::FeltStrip,
];

/// Every step of `fill`: each of its amounts where it lies.
pub fn dial(fill: DeviceKind) -> Vec<Placement> {
    let step = |amount| Placement { device: fill, amount, radius: 0.85, angle_deg: 0.0, made: None };
    (0..device_info(fill).amounts.len()).map(step).collect()
}
