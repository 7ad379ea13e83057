//! What has to come along.

use super::ShelfItem;
use super::{EveningPlan, Setup};
use crate::damping::DeviceKind;
use crate::drum::Drum;
use ember_words::{Joined, Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// One thing to pack.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Packed {
    /// None: as much as there is.
    pub count: Option<u32>,
    /// What it is.
    pub thing: Words,
    /// What it is needed for.
    pub why: Words,
}

/// Devices that the evening needs at once, at most, and what goes with them; then what is always good to have.
pub fn packing(plan: &EveningPlan, setups: &[&[Setup]], drums: &[&Drum]) -> Vec<Packed> {
    let mut most = DeviceKind::ALL.map(|device| ShelfItem::new(device, 0));
    for row in &plan.rows {
        for item in &mut most {
            let on = row.cells.iter().zip(setups).flat_map(|(cell, setups)| &setups[cell.setup].placements);
            let on: Vec<_> = on.filter(|placement| placement.device == item.device).collect();
            item.count = item.count.max(on.len() as u32);
            item.made = item.made.or(on.first().and_then(|placement| placement.made));
        }
    }
    let used: Vec<ShelfItem> = most.into_iter().filter(|item| item.count > 0 && !item.device.is_tuning()).collect();
    let mut list: Vec<Packed> =
        used.iter().map(|item| Packed { count: Some(item.count), thing: item.name(), why: words!("for tonight's setups") }).collect();
    let uses = |kinds: &[DeviceKind]| used.iter().any(|item| kinds.contains(&item.device));
    let mut also = |thing: Text, why: Words| list.push(Packed { count: None, thing: thing.into(), why });
    if uses(&[DeviceKind::GelPad]) {
        also(text!("damp cloth"), words!("gel pads hold on a clean, dry head"));
    }
    let slides = [DeviceKind::ControlRing, DeviceKind::ThinCloth, DeviceKind::ThickCloth, DeviceKind::HangingPad];
    if uses(&slides) && !uses(&[DeviceKind::Tape]) {
        also(text!("tape"), words!("to hold what slides or buzzes"));
    }
    if uses(&[DeviceKind::Pillow]) {
        also(text!("hook-and-loop"), words!("keeps the pillow from wandering under the beater"));
    }
    let with_heads = drums.iter().filter(|drum| drum.kind.has_heads());
    let mut sizes: Vec<Words> = with_heads.map(|drum| words!("{} in {}", drum.diameter_in, drum.kind.word())).collect();
    sizes.dedup();
    if !sizes.is_empty() {
        also(text!("two drum keys"), words!("one gets lost"));
        also(text!("spare batter heads"), words!("at least {}", Words::list(Joined::Comma, sizes)));
    }
    also(text!("ear protection"), words!("for all of the evening, sound check included"));
    list
}
