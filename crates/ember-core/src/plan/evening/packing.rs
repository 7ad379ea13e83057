//! What has to come along.

use super::ShelfItem;
use super::{EveningPlan, Setup};
use crate::damping::DeviceKind;
use crate::drum::Drum;
use serde::{Deserialize, Serialize};

/// One thing to pack.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Packed {
    /// None: as much as there is.
    pub count: Option<u32>,
    /// What it is.
    pub thing: String,
    /// What it is needed for.
    pub why: String,
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
        used.iter().map(|item| Packed { count: Some(item.count), thing: item.name().into(), why: "for tonight's setups".into() }).collect();
    let uses = |kinds: &[DeviceKind]| used.iter().any(|item| kinds.contains(&item.device));
    let mut also = |thing: &str, why: &str| list.push(Packed { count: None, thing: thing.into(), why: why.into() });
    if uses(&[DeviceKind::GelPad]) {
        also("damp cloth", "gel pads hold on a clean, dry head");
    }
    let slides = [DeviceKind::ControlRing, DeviceKind::ThinCloth, DeviceKind::ThickCloth, DeviceKind::HangingPad];
    if uses(&slides) && !uses(&[DeviceKind::Tape]) {
        also("tape", "to hold what slides or buzzes");
    }
    if uses(&[DeviceKind::Pillow]) {
        also("hook-and-loop", "keeps the pillow from wandering under the beater");
    }
    let with_heads = drums.iter().filter(|drum| drum.kind.has_heads());
    let mut sizes: Vec<String> = with_heads.map(|drum| format!("{} in {}", drum.diameter_in, drum.kind.word())).collect();
    sizes.dedup();
    if !sizes.is_empty() {
        also("two drum keys", "one gets lost");
        also("spare batter heads", &format!("at least {}", sizes.join(", ")));
    }
    also("ear protection", "for all of the evening, sound check included");
    list
}
