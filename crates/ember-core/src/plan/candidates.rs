//! The grid that is searched: every amount and place of every device on the shelf, and how two of them may lie together.

use crate::damping::{DeviceKind, Placement, device_info};
use crate::drum::Drum;
use serde::{Deserialize, Serialize};

/// A device the user owns.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ShelfItem {
    pub device: DeviceKind,
    /// How many of them.
    pub count: u32,
}

/// What the user rules out.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Limits {
    /// Nothing where brushes sweep or sticks land.
    #[serde(default)]
    pub clear_surface: bool,
    /// Nothing for which a head has to come off.
    #[serde(default)]
    pub nothing_inside: bool,
}

/// Side on which a lone device is laid: away from the player.
const FAR_SIDE_DEG: f64 = 180.0;
/// Angles between two devices, degrees.
const APART_DEG: [f64; 7] = [30.0, 45.0, 60.0, 90.0, 120.0, 150.0, 180.0];

/// Every single device in every amount and place.
pub fn singles(drum: &Drum, shelf: &[ShelfItem], limits: &Limits) -> Vec<Placement> {
    let allowed = |item: &&ShelfItem| {
        let info = device_info(item.device);
        item.count > 0 && !(limits.clear_surface && info.in_the_way) && !(limits.nothing_inside && info.inside)
    };
    let mut found = Vec::new();
    for item in shelf.iter().filter(allowed) {
        let radii: &[f64] = match item.device {
            DeviceKind::GelPad => &[0.5, 0.65, 0.75, 0.85, 0.92],
            DeviceKind::Tape => &[0.7, 0.8, 0.9],
            _ => &[0.85],
        };
        for amount in 0..device_info(item.device).amounts.len() {
            for &radius in radii {
                let placement = Placement { device: item.device, amount, radius, angle_deg: FAR_SIDE_DEG };
                if placement.validate(drum).is_ok() {
                    found.push(placement);
                }
            }
        }
    }
    found
}

/// Two devices together, at every angle between them that makes a difference. Turning both together makes none: which way a
/// pair of like-pitched modes lies is not known, and the stick excites both.
pub fn together(a: &Placement, b: &Placement, shelf: &[ShelfItem]) -> Vec<[Placement; 2]> {
    if a.device == b.device {
        let owned = shelf.iter().filter(|item| item.device == a.device).map(|item| item.count).sum::<u32>();
        // Two amounts of the same thing in the same place are one thing.
        if owned < 2 || !a.has_angle() || a.amount != b.amount {
            return Vec::new();
        }
    }
    if !(a.has_angle() && b.has_angle()) {
        return vec![[*a, *b]];
    }
    APART_DEG
        .iter()
        .map(|apart| [Placement { angle_deg: FAR_SIDE_DEG - apart / 2.0, ..*a }, Placement { angle_deg: FAR_SIDE_DEG + apart / 2.0, ..*b }])
        .collect()
}
