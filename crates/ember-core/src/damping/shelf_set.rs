//! What is usually to hand, to be put on the shelf in one step.

use super::catalogue::{DeviceKind, Price, device_info};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// Sets of things that are to hand together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum ShelfSet {
    /// What lies about at home.
    Household,
    /// What most drummers carry to a gig.
    TrapCase,
    /// What costs small change.
    SmallChange,
}

/// What a drummer's case usually holds (common practice, no published source).
const IN_THE_CASE: [(DeviceKind, u32); 6] = [
    (DeviceKind::GelPad, 4),
    (DeviceKind::Tape, 4),
    (DeviceKind::Tissue, 4),
    (DeviceKind::ControlRing, 1),
    (DeviceKind::ThinCloth, 2),
    (DeviceKind::Towel, 1),
];
/// Of what is cheap or lies about there are two: enough for two drums.
const OF_EACH: u32 = 2;

impl ShelfSet {
    /// Every set.
    pub const ALL: [Self; 3] = [Self::TrapCase, Self::Household, Self::SmallChange];

    /// What it is called.
    pub fn name(self) -> Text {
        match self {
            Self::Household => text!("What lies about at home"),
            Self::TrapCase => text!("What most drummers carry"),
            Self::SmallChange => text!("What costs small change"),
        }
    }

    /// What it holds, and how many of each, in the catalogue's order.
    pub fn things(self) -> Vec<(DeviceKind, u32)> {
        match self {
            Self::TrapCase => IN_THE_CASE.to_vec(),
            Self::Household => priced(Price::Household),
            Self::SmallChange => priced(Price::Little),
        }
    }
}

fn priced(price: Price) -> Vec<(DeviceKind, u32)> {
    let of_price = |device: &DeviceKind| !device.is_own() && device_info(*device).price == price;
    DeviceKind::ALL.into_iter().filter(of_price).map(|device| (device, OF_EACH)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drum::DrumKind;

    #[test]
    fn a_drummers_case_holds_something_for_each_drum_of_a_kit_and_home_has_no_more_than_lies_about() {
        for kind in DrumKind::OF_A_KIT {
            let helps = |(device, _): &(DeviceKind, u32)| device_info(*device).kinds.contains(&kind);
            assert!(ShelfSet::TrapCase.things().iter().any(helps), "{kind:?}");
        }
        let home = ShelfSet::Household.things();
        assert!(home.iter().any(|(device, _)| *device == DeviceKind::Pillow));
        assert!(home.iter().all(|(device, _)| !device.is_own() && *device != DeviceKind::GelPad));
    }
}
