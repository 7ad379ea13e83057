//! What players of a genre usually do to a drum: what its wish is anchored in. All of it common practice, with no published source.

use crate::damping::{DeviceKind, Placement, device_info};
use crate::drum::{DrumKind, Role};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// A usual treatment, from nothing to next to nothing left.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Usual {
    /// Nothing on it.
    Open,
    /// One small pad.
    OneSmall,
    /// Two small pads.
    TwoSmall,
    /// A control ring.
    Ring,
    /// A wallet over the hoop.
    Wallet,
    /// Thin cloth.
    ThinCloth,
    /// A felt strip.
    FeltStrip,
    /// A pillow that just grazes the head.
    PillowGrazing,
    /// A pillow that touches the head.
    PillowTouching,
    /// A pillow that is pressed on the head.
    PillowPressed,
}

/// A usual treatment with the drums of a kit that it is for.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UsualInfo {
    /// Which one it is.
    pub usual: Usual,
    /// What it is, in words.
    pub words: Text,
    /// Kinds of drums that it is for.
    pub kinds: Vec<DrumKind>,
}

/// All usual treatments, from open to dead.
pub fn usual_infos() -> Vec<UsualInfo> {
    let suits =
        |usual: Usual, kind: &DrumKind| usual.placements().iter().all(|placement| device_info(placement.device).kinds.contains(kind));
    let kinds = |usual: Usual| DrumKind::OF_A_KIT.into_iter().filter(|kind| suits(usual, kind)).collect();
    Usual::ALL.map(|usual| UsualInfo { usual, words: usual.words(), kinds: kinds(usual) }).to_vec()
}

impl Usual {
    /// All of them.
    pub const ALL: [Self; 10] = [
        Self::Open,
        Self::OneSmall,
        Self::TwoSmall,
        Self::Ring,
        Self::Wallet,
        Self::ThinCloth,
        Self::FeltStrip,
        Self::PillowGrazing,
        Self::PillowTouching,
        Self::PillowPressed,
    ];

    /// As it is said to a drummer.
    pub fn words(self) -> Text {
        match self {
            Self::Open => text!("nothing on it"),
            Self::OneSmall => text!("one small pad near the hoop"),
            Self::TwoSmall => text!("two small pads near the hoop"),
            Self::Ring => text!("a ring on the head"),
            Self::Wallet => text!("a wallet over the hoop"),
            Self::ThinCloth => text!("a thin cloth on the head"),
            Self::FeltStrip => text!("a felt strip under the batter head"),
            Self::PillowGrazing => text!("a pillow that just grazes both heads"),
            Self::PillowTouching => text!("a pillow that lies against the heads"),
            Self::PillowPressed => text!("a pillow pressed on the batter head"),
        }
    }

    /// It as devices on a drum.
    pub fn placements(self) -> Vec<Placement> {
        let placed = |device: DeviceKind, amount: usize, radius: f64, angle_deg: f64| Placement {
            device,
            amount,
            radius,
            angle_deg,
            made: None,
            other_head: false,
        };
        match self {
            Self::Open => Vec::new(),
            Self::OneSmall => vec![placed(DeviceKind::GelPad, 0, 0.85, 180.0)],
            Self::TwoSmall => [135.0, 225.0].map(|angle_deg| placed(DeviceKind::GelPad, 0, 0.85, angle_deg)).to_vec(),
            Self::Ring => vec![placed(DeviceKind::ControlRing, 1, 0.85, 180.0)],
            Self::Wallet => vec![placed(DeviceKind::HangingPad, 0, 0.9, 180.0)],
            Self::ThinCloth => vec![placed(DeviceKind::ThinCloth, 1, 0.85, 180.0)],
            Self::FeltStrip => vec![placed(DeviceKind::FeltStrip, 0, 0.85, 180.0)],
            Self::PillowGrazing => vec![placed(DeviceKind::Pillow, 0, 0.85, 180.0)],
            Self::PillowTouching => vec![placed(DeviceKind::Pillow, 1, 0.85, 180.0)],
            Self::PillowPressed => vec![placed(DeviceKind::Pillow, 2, 0.85, 180.0)],
        }
    }

    /// The deadest that is done to a drum of `kind`.
    pub fn deadest(kind: DrumKind) -> Self {
        if kind.role() == Role::Kick { Self::PillowPressed } else { Self::ThinCloth }
    }
}
