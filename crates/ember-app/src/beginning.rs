//! What is offered to begin from: kits as they are usually put together, and what is usually to hand.

use ember_core::damping::{DeviceKind, ShelfSet, device_info};
use ember_core::drum::{Drum, UsualKit};
use ember_words::Text;
use serde::Serialize;
use utoipa::ToSchema;

/// A kit as it is usually put together.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct UsualKitInfo {
    /// Which kit it is.
    pub kit: UsualKit,
    /// What it is called.
    pub name: Text,
    /// What it is like, as a sentence.
    pub about: Text,
    /// Its drums, then its cymbals.
    pub drums: Vec<Drum>,
}

/// Every kit that can be begun from.
pub fn usual_kits() -> Vec<UsualKitInfo> {
    let info = |kit: UsualKit| UsualKitInfo { kit, name: kit.name(), about: kit.about(), drums: kit.drums(true) };
    UsualKit::ALL.map(info).to_vec()
}

/// A set of things that are usually to hand together.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ShelfSetInfo {
    /// Which set it is.
    pub set: ShelfSet,
    /// What it is called.
    pub name: Text,
    /// What it holds.
    pub things: Vec<ShelfSetThing>,
}

/// How many of a device a set holds.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ShelfSetThing {
    /// The device.
    pub device: DeviceKind,
    /// Its name; the name for several where there are several.
    pub name: Text,
    /// How many.
    pub count: u32,
}

/// Every set that can be put on the shelf in one step.
pub fn shelf_sets() -> Vec<ShelfSetInfo> {
    let info = |set: ShelfSet| ShelfSetInfo { set, name: set.name(), things: set.things().into_iter().map(thing).collect() };
    ShelfSet::ALL.map(info).to_vec()
}

fn thing((device, count): (DeviceKind, u32)) -> ShelfSetThing {
    let info = device_info(device);
    ShelfSetThing { device, name: if count == 1 { info.name } else { info.plural }, count }
}
