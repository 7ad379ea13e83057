//! Kinds of devices: a row each.

use super::{DeviceInfo, in_kicks, inside, on_metal, on_top, own, tuned};
use ember_words::Said;
use serde::{Deserialize, Serialize};

/// A place on the shelf for a thing of the player's own.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct OwnPlace(u8);

impl OwnPlace {
    /// Codes of the places, in their order.
    const CODES: [&'static str; 8] = ["own_1", "own_2", "own_3", "own_4", "own_5", "own_6", "own_7", "own_8"];

    /// Which of them it is, from 0 on.
    pub fn index(self) -> usize {
        usize::from(self.0)
    }
}

/// A code that no device has.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error, Said)]
#[said("there is no device `{0}`")]
pub struct UnknownDevice(pub String);

/// Makes the kinds from a table: what it is, its name here, its code in JSON, SQL and on the command line, and its entry in the catalogue.
macro_rules! device_kinds {
    ($($(#[$doc:meta])* $kind:ident, $code:literal, $info:path;)+) => {
        /// Kinds of devices, by the trade's own names.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
        #[serde(into = "&'static str", try_from = "String")]
        pub enum DeviceKind {
            $($(#[$doc])* $kind,)+
            /// A thing of the player's own, in one of the places for such things on the shelf.
            Own(OwnPlace),
        }

        /// What the catalogue knows, in order.
        const KNOWN: &[DeviceKind] = &[$(DeviceKind::$kind),+];

        impl DeviceKind {
            /// The code used in JSON, SQL and on the command line.
            pub fn code(self) -> &'static str {
                match self {
                    $(Self::$kind => $code,)+
                    Self::Own(place) => OwnPlace::CODES[place.index()],
                }
            }
        }

        /// The entry of `kind`.
        pub fn device_info(kind: DeviceKind) -> &'static DeviceInfo {
            match kind {
                $(DeviceKind::$kind => &$info,)+
                DeviceKind::Own(place) => &own::OWN[place.index()],
            }
        }
    };
}

device_kinds! {
    /// A small sticky pad.
    GelPad, "gel_pad", on_top::GEL_PAD;
    /// Tape, flat or in loops.
    Tape, "tape", on_top::TAPE;
    /// A ring of film that lies at the edge.
    ControlRing, "control_ring", on_top::CONTROL_RING;
    /// Thin cloth.
    ThinCloth, "thin_cloth", on_top::THIN_CLOTH;
    /// Thick cloth.
    ThickCloth, "thick_cloth", on_top::THICK_CLOTH;
    /// A pad that hangs from the hoop.
    HangingPad, "hanging_pad", on_top::HANGING_PAD;
    /// A ring that lies loose.
    LooseRing, "loose_ring", inside::LOOSE_RING;
    /// A pillow in a kick.
    Pillow, "pillow", in_kicks::PILLOW;
    /// Folded tissue under tape.
    Tissue, "tissue", on_top::TISSUE;
    /// A disc with a hole in it.
    Doughnut, "doughnut", on_top::DOUGHNUT;
    /// An old head upside down on the batter.
    SpareHead, "spare_head", on_top::SPARE_HEAD;
    /// A ring inside, on the lower head.
    UnderRing, "under_ring", inside::UNDER_RING;
    /// A patch in the middle.
    CentrePatch, "centre_patch", inside::CENTRE_PATCH;
    /// Half a ring.
    HalfRing, "half_ring", inside::HALF_RING;
    /// Cotton balls in the drum.
    CottonBalls, "cotton_balls", inside::COTTON_BALLS;
    /// A strip of felt across the head.
    FeltStrip, "felt_strip", inside::FELT_STRIP;
    /// A blanket in a kick.
    Blanket, "blanket", in_kicks::BLANKET;
    /// A towel in a kick.
    Towel, "towel", in_kicks::TOWEL;
    /// A block of foam in a kick.
    FoamBlock, "foam_block", in_kicks::FOAM_BLOCK;
    /// A stuffed shirt in a kick.
    StuffedShirt, "stuffed_shirt", in_kicks::STUFFED_SHIRT;
    /// An inflated tube in a kick.
    InflatedTube, "inflated_tube", in_kicks::INFLATED_TUBE;
    /// Cloth at the pedal, where the beater lands.
    BeaterCloth, "beater_cloth", in_kicks::BEATER_CLOTH;
    /// A patch where the beater lands.
    BeaterPatch, "beater_patch", in_kicks::BEATER_PATCH;
    /// A steel can in a kick.
    SteelCan, "steel_can", in_kicks::STEEL_CAN;
    /// Tape on a cymbal.
    CymbalTape, "cymbal_tape", on_metal::CYMBAL_TAPE;
    /// A disc of cloth on a cymbal.
    ClothDisc, "cloth_disc", on_metal::CLOTH_DISC;
    /// Cloth draped over a cymbal.
    Drape, "drape", on_metal::DRAPE;
    /// Rods let slack.
    SlackLugs, "slack_lugs", tuned::SLACK_LUGS;
    /// Every rod turned alike.
    RodsTurned, "rods_turned", tuned::RODS_TURNED;
}

impl DeviceKind {
    /// Of the player's own.
    pub const OWN: [Self; OwnPlace::CODES.len()] = {
        let mut own = [Self::Own(OwnPlace(0)); OwnPlace::CODES.len()];
        let mut place = 1;
        while place < own.len() {
            own[place] = Self::Own(OwnPlace(place as u8));
            place += 1;
        }
        own
    };

    /// Every kind; those of the player's own come last.
    pub const ALL: [Self; KNOWN.len() + Self::OWN.len()] = {
        let mut all = [Self::GelPad; KNOWN.len() + Self::OWN.len()];
        let mut at = 0;
        while at < all.len() {
            all[at] = if at < KNOWN.len() { KNOWN[at] } else { Self::OWN[at - KNOWN.len()] };
            at += 1;
        }
        all
    };

    /// Whether it is a thing of the player's own, which is what it was measured and weighed to be.
    pub fn is_own(self) -> bool {
        matches!(self, Self::Own(_))
    }

    /// Whether it is something done to the head itself, so that nothing lies on it and nothing has to be got hold of.
    pub fn is_tuning(self) -> bool {
        matches!(self, Self::SlackLugs | Self::RodsTurned)
    }
}

impl std::str::FromStr for DeviceKind {
    type Err = UnknownDevice;

    fn from_str(code: &str) -> Result<Self, UnknownDevice> {
        Self::ALL.into_iter().find(|kind| kind.code() == code).ok_or_else(|| UnknownDevice(code.to_string()))
    }
}

impl TryFrom<String> for DeviceKind {
    type Error = UnknownDevice;

    fn try_from(code: String) -> Result<Self, UnknownDevice> {
        code.parse()
    }
}

impl From<DeviceKind> for &'static str {
    fn from(kind: DeviceKind) -> Self {
        kind.code()
    }
}

#[cfg(feature = "schema")]
impl utoipa::PartialSchema for DeviceKind {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::Schema> {
        use utoipa::openapi::schema::{ObjectBuilder, Type};
        let described = ObjectBuilder::new().schema_type(Type::String).description(Some("Kinds of devices, by the trade's own names."));
        described.enum_values(Some(Self::ALL.map(Self::code))).into()
    }
}

#[cfg(feature = "schema")]
impl utoipa::ToSchema for DeviceKind {}
