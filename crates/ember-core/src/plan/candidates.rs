//! The grid that is searched: every amount and place of every device on the shelf, and how two of them may lie together.

use crate::damping::{DeviceKind, Outline, Placement, device_info};
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
pub fn together(a: &Placement, b: &Placement, drum: &Drum, shelf: &[ShelfItem]) -> Vec<[Placement; 2]> {
    if a.device == b.device {
        let owned = shelf.iter().filter(|item| item.device == a.device).map(|item| item.count).sum::<u32>();
        // Two amounts of the same thing in the same place are one thing.
        if owned < 2 || !a.has_angle() || a.amount != b.amount {
            return Vec::new();
        }
    }
    let pairs = if a.has_angle() && b.has_angle() {
        APART_DEG
            .iter()
            .map(|apart| {
                [Placement { angle_deg: FAR_SIDE_DEG - apart / 2.0, ..*a }, Placement { angle_deg: FAR_SIDE_DEG + apart / 2.0, ..*b }]
            })
            .collect()
    } else {
        vec![[*a, *b]]
    };
    pairs.into_iter().filter(|[a, b]| !overlap(a, b, drum)).collect()
}

/// Whether two devices would lie on one another: then neither touches the head as its model says, and the upper one slides.
pub(super) fn overlap(a: &Placement, b: &Placement, drum: &Drum) -> bool {
    let covers = |over: &Outline, under: &Outline| under.points().iter().any(|(r, angle, _)| over.contains(*r, *angle));
    let (on_a, on_b) = (a.patches(drum), b.patches(drum));
    on_a.iter().any(|a| on_b.iter().any(|b| a.side == b.side && (covers(&a.outline, &b.outline) || covers(&b.outline, &a.outline))))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    fn all(count: u32) -> Vec<ShelfItem> {
        DeviceKind::ALL.map(|device| ShelfItem { device, count }).to_vec()
    }

    fn placed(spec: &str) -> Placement {
        Placement::parse(spec).unwrap()
    }

    #[test]
    fn nothing_is_laid_on_something_else() {
        let tom = BenchDrum::usual(DrumKind::Tom);
        let together = |a: &str, b: &str| together(&placed(a), &placed(b), &tom, &all(4)).len();
        assert_eq!(together("gel_pad:0:0.92", "control_ring:1"), 0, "the ring would lie on the pad");
        assert_eq!(together("gel_pad:0:0.5", "control_ring:1"), 1);
        assert_eq!(together("gel_pad:0:0.5", "thin_cloth:2"), 0, "cloth covers everything");
        assert_eq!(together("control_ring:0", "loose_ring"), 1, "they lie on different heads");
        assert!(together("gel_pad:0:0.85", "gel_pad:0:0.85") == APART_DEG.len());
    }

    #[test]
    fn only_what_is_owned_fits_and_is_allowed_is_tried() {
        let (tom, kick) = (BenchDrum::usual(DrumKind::Tom), BenchDrum::usual(DrumKind::Kick));
        let kinds = |drum: &Drum, shelf: &[ShelfItem], limits: Limits| {
            let mut kinds: Vec<DeviceKind> = singles(drum, shelf, &limits).iter().map(|placement| placement.device).collect();
            kinds.dedup();
            kinds
        };
        use DeviceKind::{ControlRing, GelPad, HangingPad, LooseRing, Pillow, Tape, ThickCloth, ThinCloth};
        assert_eq!(kinds(&tom, &all(0), Limits::default()), []);
        assert_eq!(kinds(&tom, &all(1), Limits::default()), [GelPad, Tape, ControlRing, ThinCloth, ThickCloth, HangingPad, LooseRing]);
        assert_eq!(kinds(&kick, &all(1), Limits::default()), [GelPad, Tape, Pillow]);
        assert_eq!(kinds(&tom, &all(1), Limits { clear_surface: true, nothing_inside: true }), [Tape, HangingPad]);
        let open_tom = Drum { lower: None, ..tom.clone() };
        assert!(!kinds(&open_tom, &all(1), Limits::default()).contains(&LooseRing), "there is nothing for it to lie on");
        let one = [ShelfItem { device: GelPad, count: 1 }];
        assert!(together(&placed("gel_pad"), &placed("gel_pad"), &tom, &one).is_empty(), "one pad cannot lie in two places");
    }
}
