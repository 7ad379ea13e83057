//! A device in its place on a drum.

use super::catalogue::{DeviceKind, device_info};
use super::outline::Outline;
use crate::drum::{Drum, HeadSide};
use crate::units::metres;
use serde::{Deserialize, Serialize};

/// One device put on a drum.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Placement {
    pub device: DeviceKind,
    /// Which of the device's amounts (index into the catalogue's list).
    pub amount: usize,
    /// Distance of its middle from the head's centre, as a fraction of the radius; rings and fills ignore it.
    pub radius: f64,
    /// Degrees from the player's side (on a kick: from the floor).
    pub angle_deg: f64,
}

/// A device's contact with one head.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Patch {
    pub side: HeadSide,
    pub outline: Outline,
    /// How firmly it lies on, 0 to 1: scales resistance and mass.
    pub contact: f64,
}

/// Why a device cannot be put there.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct InvalidPlacement(pub String);

impl Placement {
    /// Reads "device[:amount[:radius[:angle]]]", for example "gel_pad:0:0.85:90".
    pub fn parse(text: &str) -> Result<Self, InvalidPlacement> {
        let mut parts = text.split(':');
        let name = parts.next().unwrap_or_default().replace('-', "_");
        let device = DeviceKind::ALL.into_iter().find(|kind| kind.code() == name).ok_or_else(|| {
            let names: Vec<&str> = DeviceKind::ALL.iter().map(|kind| kind.code()).collect();
            InvalidPlacement(format!("There is no device \"{name}\". Known are: {}.", names.join(", ")))
        })?;
        let number = |part: Option<&str>, usual: f64| match part {
            None => Ok(usual),
            Some(part) => part.parse::<f64>().map_err(|_| InvalidPlacement(format!("\"{part}\" in \"{text}\" is not a number."))),
        };
        let amount = number(parts.next(), 0.0)?;
        let placement =
            Self { device, amount: amount.max(0.0) as usize, radius: number(parts.next(), 0.85)?, angle_deg: number(parts.next(), 180.0)? };
        if parts.next().is_some() {
            return Err(InvalidPlacement(format!("\"{text}\" has too many parts; the form is device:amount:radius:angle.")));
        }
        Ok(placement)
    }

    /// Checks that the device exists in this amount, fits this drum and lies on the head.
    pub fn validate(&self, drum: &Drum) -> Result<(), InvalidPlacement> {
        let info = device_info(self.device);
        if self.amount >= info.amounts.len() {
            return Err(InvalidPlacement(format!("There is no amount {} of {}.", self.amount, info.name)));
        }
        if !(0.0..=1.0).contains(&self.radius) || !self.angle_deg.is_finite() {
            return Err(InvalidPlacement(format!("The {} must lie on the head: radius 0 to 1, any angle.", info.name)));
        }
        if !info.kinds.contains(&drum.kind) {
            return Err(InvalidPlacement(format!("A {} is not made for a {}.", info.name, drum.kind.word())));
        }
        if drum.lower.is_none() && self.patches(drum).iter().all(|patch| patch.side == HeadSide::Lower) {
            return Err(InvalidPlacement(format!("A {} needs a {}.", info.name, drum.kind.lower_head_word())));
        }
        Ok(())
    }

    /// Where the device touches which head.
    pub fn patches(&self, drum: &Drum) -> Vec<Patch> {
        let a = drum.radius();
        let (radius, angle_deg) = (self.radius, self.angle_deg);
        let on_batter = |outline| vec![Patch { side: HeadSide::Batter, outline, contact: 1.0 }];
        match self.device {
            DeviceKind::GelPad => on_batter(Outline::Disc { radius, angle_deg, size: 0.015 / a }),
            DeviceKind::Tape => {
                let length = if self.amount == 0 { 0.08 } else { 0.16 };
                on_batter(Outline::Strip { radius, angle_deg, length: length / a, width: 0.025 / a })
            }
            DeviceKind::ControlRing => {
                let width = if self.amount == 0 { 0.015 } else { 0.035 };
                on_batter(Outline::Ring { inner: 0.985 - width / a, outer: 0.985 })
            }
            DeviceKind::ThinCloth | DeviceKind::ThickCloth => {
                let depth = [0.55, 1.0, 2.0][self.amount.min(2)];
                on_batter(Outline::Segment { angle_deg, depth })
            }
            DeviceKind::HangingPad => {
                let overlap = if self.amount == 0 { 0.05 } else { 0.08 };
                let width = overlap / a;
                on_batter(Outline::Strip { radius: 0.98 - width / 2.0, angle_deg, length: 0.09 / a, width })
            }
            DeviceKind::LooseRing => {
                // 2 in smaller than the drum, an inch wide.
                let outer = 1.0 - metres(1.0) / a;
                vec![Patch { side: HeadSide::Lower, outline: Outline::Ring { inner: outer - metres(1.0) / a, outer }, contact: 1.0 }]
            }
            DeviceKind::Pillow => {
                let (batter, front, contact) = [(0.16, 0.16, 0.4), (0.30, 0.30, 0.7), (0.50, 0.30, 1.0)][self.amount.min(2)];
                let patch = |side, depth| Patch { side, outline: Outline::Segment { angle_deg: 0.0, depth }, contact };
                let mut patches = vec![patch(HeadSide::Batter, batter)];
                if drum.lower.is_some() {
                    patches.push(patch(HeadSide::Lower, front));
                }
                patches
            }
        }
    }

    /// Whether it can lie nearer to the middle or to the hoop.
    pub fn has_radius(&self) -> bool {
        matches!(self.device, DeviceKind::GelPad | DeviceKind::Tape)
    }

    /// Whether the device can be turned about the drum's axis to a different effect.
    pub fn has_angle(&self) -> bool {
        self.patches_turn() && !(matches!(self.device, DeviceKind::ThinCloth | DeviceKind::ThickCloth) && self.amount == 2)
    }

    fn patches_turn(&self) -> bool {
        !matches!(self.device, DeviceKind::ControlRing | DeviceKind::LooseRing | DeviceKind::Pillow)
    }

    /// Where it lies on `drum`, for a player looking down on the head (or at the kick's batter head).
    pub fn place(&self, drum: &Drum) -> String {
        let info = device_info(self.device);
        let amount = &info.amounts[self.amount.min(info.amounts.len() - 1)];
        if !self.has_angle() {
            return amount.place.to_string();
        }
        // Clock faces are read at a glance: the player (or the floor) is at six o'clock, angles grow anticlockwise.
        let hour = ((180.0 - self.angle_deg) / 30.0).round().rem_euclid(12.0) as i32;
        let hour = if hour == 0 { 12 } else { hour };
        match self.device {
            DeviceKind::GelPad | DeviceKind::Tape => {
                // What hands can place: to the nearest 5 mm.
                let from_hoop = 5.0 * ((1.0 - self.radius) * drum.radius() * 200.0).round();
                format!("at {hour} o'clock, its middle {from_hoop:.0} mm from the hoop")
            }
            _ => format!("{}, at {hour} o'clock", amount.place),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    #[test]
    fn places_are_said_as_hands_find_them() {
        let snare = BenchDrum::usual(DrumKind::Snare);
        let said = |spec: &str| Placement::parse(spec).unwrap().place(&snare);
        // A 14 in head is 178 mm from centre to hoop.
        assert_eq!(said("gel_pad:0:0.85:180"), "at 12 o'clock, its middle 25 mm from the hoop");
        assert_eq!(said("gel_pad:0:0.5:90"), "at 3 o'clock, its middle 90 mm from the hoop");
        assert_eq!(said("hanging_pad:0:0.85:270"), "hanging over the hoop, at 9 o'clock");
        assert_eq!(said("control_ring"), "round the edge, on top");
    }

    #[test]
    fn specs_that_cannot_be_are_refused_in_words() {
        let snare = BenchDrum::usual(DrumKind::Snare);
        for spec in ["wallet", "gel_pad:x", "gel_pad:0:0.85:180:7"] {
            assert!(Placement::parse(spec).is_err(), "{spec}");
        }
        for spec in ["gel_pad:9", "gel_pad:0:1.4", "pillow", "gel_pad:0:0.85:nan"] {
            assert!(Placement::parse(spec).unwrap().validate(&snare).is_err(), "{spec}");
        }
    }
}
