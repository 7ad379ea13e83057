//! The devices known, with what they do to a head, what they cost, and how to put them on.
//!
//! Resistances, masses and their doubts are from experience, with no published source: they are starting points that a
//! measured before-and-after is to correct.

use crate::drum::DrumKind;
use serde::{Deserialize, Serialize};

/// Kinds of devices, by the trade's own names.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum DeviceKind {
    GelPad,
    Tape,
    ControlRing,
    ThinCloth,
    ThickCloth,
    HangingPad,
    LooseRing,
    Pillow,
}

impl DeviceKind {
    pub const ALL: [Self; 8] =
        [Self::GelPad, Self::Tape, Self::ControlRing, Self::ThinCloth, Self::ThickCloth, Self::HangingPad, Self::LooseRing, Self::Pillow];

    /// The code used in JSON, SQL and on the command line.
    pub fn code(self) -> &'static str {
        match self {
            Self::GelPad => "gel_pad",
            Self::Tape => "tape",
            Self::ControlRing => "control_ring",
            Self::ThinCloth => "thin_cloth",
            Self::ThickCloth => "thick_cloth",
            Self::HangingPad => "hanging_pad",
            Self::LooseRing => "loose_ring",
            Self::Pillow => "pillow",
        }
    }
}

/// What a device does to the head under it, before anything was measured with it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Prior {
    /// Areal resistance at 200 Hz, N s/m3.
    pub resistance: f64,
    /// Doubt of the resistance: standard deviation of its natural logarithm.
    pub resistance_ln_sd: f64,
    /// The resistance grows as frequency to this power.
    pub exponent: f64,
    /// Areal mass that moves with the head, kg/m2.
    pub mass: f64,
}

/// One amount of a device: how large or how much of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Amount {
    pub name: &'static str,
    /// Where it lies, as a phrase.
    pub place: &'static str,
    /// Attack given up, dB (from experience, no published source).
    pub attack_db: f64,
    /// Time to put it on, s (from experience, no published source).
    pub seconds: f64,
}

/// Everything about a kind of device that does not depend on where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DeviceInfo {
    pub kind: DeviceKind,
    pub name: &'static str,
    /// The name for several.
    pub plural: &'static str,
    /// Drums it is made for.
    pub kinds: &'static [DrumKind],
    pub amounts: &'static [Amount],
    #[serde(skip)]
    pub prior: Prior,
    /// A head has to come off.
    pub inside: bool,
    /// Lies where brushes sweep or sticks land.
    pub in_the_way: bool,
    /// It only touches the head: the harder the hit, the more it acts.
    pub loose: bool,
    /// What it takes away or risks, as a sentence.
    pub cost: &'static str,
    /// How to put it on so that it stays.
    pub steps: &'static [&'static str],
}

const TOPS: &[DrumKind] = &[DrumKind::Snare, DrumKind::Tom, DrumKind::FloorTom];
const TOMS: &[DrumKind] = &[DrumKind::Tom, DrumKind::FloorTom];
const EVERY: &[DrumKind] = &DrumKind::ALL;
const KICKS: &[DrumKind] = &[DrumKind::Kick];

const fn amount(name: &'static str, place: &'static str, attack_db: f64, seconds: f64) -> Amount {
    Amount { name, place, attack_db, seconds }
}

const fn prior(resistance: f64, resistance_ln_sd: f64, exponent: f64, mass: f64) -> Prior {
    Prior { resistance, resistance_ln_sd, exponent, mass }
}

const CATALOGUE: [DeviceInfo; 8] = [
    DeviceInfo {
        kind: DeviceKind::GelPad,
        name: "gel pad",
        plural: "gel pads",
        kinds: EVERY,
        amounts: &[amount("one, 30 mm", "on the batter head", 0.3, 10.0)],
        prior: prior(1800.0, 0.45, 0.25, 3.2),
        inside: false,
        in_the_way: true,
        loose: false,
        cost: "Brushes flick it off, and it creeps in heat.",
        steps: &["Wipe the spot clean and dry.", "Press the pad on flat for five seconds.", "Rinse it when it no longer sticks."],
    },
    DeviceInfo {
        kind: DeviceKind::Tape,
        name: "tape",
        plural: "pieces of tape",
        kinds: EVERY,
        amounts: &[
            amount("one strip, 80 x 25 mm", "along the hoop", 0.1, 20.0),
            amount("two strips, 160 x 25 mm", "along the hoop", 0.2, 30.0),
        ],
        prior: prior(90.0, 0.5, 0.3, 0.35),
        inside: false,
        in_the_way: false,
        loose: false,
        cost: "Leaves residue on the head.",
        steps: &["Lay the strip along the hoop without stretching it.", "Rub it down.", "Fold one end over, so that it comes off again."],
    },
    DeviceInfo {
        kind: DeviceKind::ControlRing,
        name: "control ring",
        plural: "control rings",
        kinds: TOPS,
        amounts: &[amount("narrow, 15 mm", "round the edge, on top", 0.6, 5.0), amount("wide, 35 mm", "round the edge, on top", 1.5, 5.0)],
        prior: prior(190.0, 0.5, 0.3, 0.35),
        inside: false,
        in_the_way: true,
        loose: false,
        cost: "Takes some attack, and buzzes when it lies loose.",
        steps: &["Lay the ring flat, inside the hoop.", "Tap the head: if it buzzes, hold it with two bits of tape."],
    },
    DeviceInfo {
        kind: DeviceKind::ThinCloth,
        name: "thin cloth",
        plural: "thin cloths",
        kinds: TOPS,
        amounts: &[
            amount("over a quarter of the head", "over the edge", 0.8, 15.0),
            amount("over half of the head", "over one half", 2.5, 15.0),
            amount("over the whole head", "over all of the head", 5.0, 15.0),
        ],
        prior: prior(60.0, 0.5, 0.2, 0.15),
        inside: false,
        in_the_way: true,
        loose: true,
        cost: "Covers the attack where it lies, and slides unless it is clamped.",
        steps: &[
            "Lay the cloth on smooth, one layer.",
            "Clamp its edge under a microphone clip or the hoop.",
            "Keep it away from stage lights and heaters; house fire rules decide.",
        ],
    },
    DeviceInfo {
        kind: DeviceKind::ThickCloth,
        name: "thick cloth",
        plural: "thick cloths",
        kinds: TOPS,
        amounts: &[
            amount("over a quarter of the head", "over the edge", 1.5, 15.0),
            amount("over half of the head", "over one half", 4.0, 15.0),
            amount("over the whole head", "over all of the head", 9.0, 15.0),
        ],
        prior: prior(170.0, 0.5, 0.2, 0.5),
        inside: false,
        in_the_way: true,
        loose: true,
        cost: "Turns the drum into a dull thud where it covers it.",
        steps: &[
            "Lay the cloth on smooth.",
            "Clamp its edge under a microphone clip or the hoop.",
            "Keep it away from stage lights and heaters; house fire rules decide.",
        ],
    },
    DeviceInfo {
        kind: DeviceKind::HangingPad,
        name: "hanging pad",
        plural: "hanging pads",
        kinds: TOPS,
        amounts: &[
            amount("5 cm on the head", "hanging over the hoop", 0.5, 10.0),
            amount("8 cm on the head", "hanging over the hoop", 0.9, 10.0),
        ],
        prior: prior(600.0, 0.5, 0.2, 1.6),
        inside: false,
        in_the_way: false,
        loose: true,
        cost: "Slides when played hard.",
        steps: &[
            "Hang the pad over the hoop, its weight outside.",
            "Let its inner edge lie flat on the head.",
            "Tape the outside to the shell if it wanders.",
        ],
    },
    DeviceInfo {
        kind: DeviceKind::LooseRing,
        name: "loose ring inside",
        plural: "loose rings inside",
        kinds: TOMS,
        amounts: &[amount("2 in smaller than the drum", "inside, loose on the lower head", 0.2, 600.0)],
        prior: prior(260.0, 0.6, 0.3, 0.5),
        inside: true,
        in_the_way: false,
        loose: true,
        cost: "The head must come off, and the fundamental loses a good part.",
        steps: &[
            "Mark the first lug. Slacken crosswise, little by little, and lift the batter head off.",
            "Lay the ring inside on the lower head, in the middle.",
            "Put the head back, finger-tight crosswise, then in small equal turns. Stop when the key gets hard.",
        ],
    },
    DeviceInfo {
        kind: DeviceKind::Pillow,
        name: "pillow",
        plural: "pillows",
        kinds: KICKS,
        amounts: &[
            amount("just grazing both heads", "inside, on the floor of the drum", 0.2, 300.0),
            amount("touching both heads", "inside, on the floor of the drum", 0.5, 300.0),
            amount("pressed on the batter head", "inside, pushed against the batter head", 1.0, 300.0),
        ],
        prior: prior(420.0, 0.6, 0.0, 1.2),
        inside: true,
        in_the_way: false,
        loose: false,
        cost: "The front head has to come off, and it moves in transport.",
        steps: &[
            "Take the front head off crosswise, little by little.",
            "Lay the pillow on the floor of the drum so that it touches as planned.",
            "Fix it with hook-and-loop, so that it cannot wander under the beater.",
            "Put the front head back. Bend your knees when you lift the drum.",
        ],
    },
];

/// The entry of `kind`.
pub fn device_info(kind: DeviceKind) -> &'static DeviceInfo {
    &CATALOGUE[DeviceKind::ALL.iter().position(|other| *other == kind).unwrap_or(0)]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_has_its_own_entry() {
        for kind in DeviceKind::ALL {
            assert_eq!(device_info(kind).kind, kind);
        }
    }
}
