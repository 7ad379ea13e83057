//! What is so on the simulated drum, and not what priors say: what learning has to find.

use crate::damping::DeviceKind;
use crate::drum::{DrumKind, Head};

/// What a beater that a foot holds in the head takes here, N s/m3.
pub(super) const HELD_BEATER: f64 = 650.0;

/// How much higher than the batter the lower head of a drum to practise on is.
pub(super) fn lower_ratio(kind: DrumKind) -> f64 {
    match kind {
        DrumKind::Snare => 1.55,
        DrumKind::Tom | DrumKind::Kick | DrumKind::ConcertTom | DrumKind::HandDrum => 1.12,
        DrumKind::ConcertBass | DrumKind::MarchingBass => 1.05,
        DrumKind::FloorTom => 1.10,
        DrumKind::SecondKick => 1.12,
        // One head, if any.
        _ => 1.0,
    }
}

/// What a head's make does to its losses here (all of it, and what grows with curvature), against a new clear single ply. Not what
/// the priors say.
pub(super) fn head_losses(head: Head) -> (f64, f64) {
    let [second_ply, coating, _, _, oil, wear] = head.traits();
    let times = |ply: f64, coat: f64, oiled: f64, worn: f64| ply.powf(second_ply) * coat.powf(coating) * oiled.powf(oil) * worn.powf(wear);
    (times(1.1, 1.02, 1.45, 1.08), times(1.5, 1.15, 2.4, 1.35))
}

/// How much stronger or weaker things of the player's own really are here than their weight says.
const OWN: [f64; DeviceKind::OWN.len()] = [0.6, 1.5, 0.75, 1.3, 0.9, 1.1, 1.6, 0.7];

/// How much stronger or weaker a device really is here than its prior says; what learning has to find.
pub(super) fn true_strength(device: DeviceKind) -> f64 {
    match device {
        DeviceKind::GelPad => 1.2,
        DeviceKind::Tape => 0.8,
        DeviceKind::ControlRing => 1.25,
        DeviceKind::ThinCloth => 0.85,
        DeviceKind::ThickCloth => 1.1,
        DeviceKind::HangingPad => 0.75,
        DeviceKind::LooseRing => 1.3,
        DeviceKind::Pillow => 0.8,
        DeviceKind::Tissue => 1.3,
        DeviceKind::Doughnut => 0.85,
        DeviceKind::SpareHead => 1.2,
        DeviceKind::UnderRing => 0.8,
        DeviceKind::CentrePatch => 1.25,
        DeviceKind::HalfRing => 1.3,
        DeviceKind::CottonBalls => 0.7,
        DeviceKind::FeltStrip => 1.15,
        DeviceKind::Blanket => 1.2,
        DeviceKind::Towel => 0.75,
        DeviceKind::FoamBlock => 1.3,
        DeviceKind::StuffedShirt => 0.8,
        DeviceKind::InflatedTube => 0.7,
        DeviceKind::BeaterCloth => 1.25,
        DeviceKind::BeaterPatch => 0.9,
        DeviceKind::SteelCan => 1.2,
        DeviceKind::CymbalTape => 0.85,
        DeviceKind::ClothDisc => 1.2,
        DeviceKind::Drape => 0.9,
        // Its rods decide.
        DeviceKind::SlackLugs => 1.0,
        // How far a turn goes.
        DeviceKind::RodsTurned => 0.85,
        DeviceKind::Own(place) => OWN[place.index()],
    }
}
