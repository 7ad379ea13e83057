//! Which school of muffling a treatment follows (common practice, no published source).

use crate::damping::{DeviceKind, Placement};
use crate::target::School;

/// Nearer to the hoop than this, a small thing is at the edge (part of the radius).
const EDGE: f64 = 0.8;

/// Open: tuning, small things at the edge, and nothing inside. Dead: cloth or a second skin on the head, or a pillow pressed on it. Controlled:
/// everything between.
pub fn school_of(placements: &[Placement]) -> School {
    let small_at_the_edge = |placement: &Placement| match placement.device {
        DeviceKind::Tape | DeviceKind::Tissue => placement.radius >= EDGE,
        // Tuning instead of things on the head.
        DeviceKind::SlackLugs | DeviceKind::RodsTurned => true,
        // Half a pad.
        DeviceKind::GelPad => placement.amount == 1 && placement.radius >= EDGE,
        _ => false,
    };
    let covers = |placement: &Placement| match placement.device {
        DeviceKind::ThinCloth | DeviceKind::ThickCloth | DeviceKind::SpareHead => true,
        DeviceKind::Pillow => placement.amount == 2,
        _ => false,
    };
    if placements.iter().any(covers) {
        School::Dead
    } else if placements.iter().all(small_at_the_edge) {
        School::Open
    } else {
        School::Controlled
    }
}
