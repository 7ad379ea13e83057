//! A device in its place on a drum.

use super::catalogue::{Amount, DeviceKind, Toll, UnknownDevice, device_info, litres};
use super::footprint::Footprint;
use super::invalid::InvalidPlacement;
use super::made::Made;
use super::outline::Patch;
use super::prior::Prior;
use crate::drum::{Drum, DrumKind, FEWEST_RODS, HeadFamily, HeadSide, air_spring};
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// One device put on a drum.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Placement {
    /// Which device it is.
    pub device: DeviceKind,
    /// Which of the device's amounts (index into the catalogue's list).
    pub amount: usize,
    /// Distance of its middle from the head's centre, as a fraction of the radius; rings and fills ignore it.
    pub radius: f64,
    /// Degrees from the player's side (on a kick: from the floor).
    pub angle_deg: f64,
    /// What a thing of the player's own is; none for what the catalogue knows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub made: Option<Made>,
    /// Whether it lies on the drum's other head, from outside.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[cfg_attr(feature = "schema", schema(required = false))]
    pub other_head: bool,
}

/// What stands for the drum's other head where a placement is written in one word.
pub(super) const OTHER_HEAD: &str = "other";
/// The top of an upright drum, where the floor is at 0.
const TOP_DEG: f64 = 180.0;
/// On a drum that stands upright things hang at the top of the hoop, or so many degrees off it, or they slide off (common practice, no published
/// source).
const TOP_WITHIN_DEG: f64 = 30.0;
/// Most attack that anything takes: a thick cloth over the whole head, dB (from experience, no published source).
const MOST_ATTACK_DB: f64 = 9.0;

impl Placement {
    /// Reads "device[:amount[:radius[:angle[:other]]]]", for example "gel_pad:0:0.85:90", and "tissue:0:0.85:90:other" for the drum's other head.
    pub fn parse(text: &str) -> Result<Self, InvalidPlacement> {
        let mut parts = text.split(':');
        let name = parts.next().unwrap_or_default().replace('-', "_");
        let device = name.parse().map_err(|UnknownDevice(name)| {
            let known = DeviceKind::ALL.iter().map(|kind| kind.code()).collect();
            InvalidPlacement::UnknownDevice { name, known }
        })?;
        let whole = || text.to_string();
        let number = |part: Option<&str>, usual: f64| match part {
            None => Ok(usual),
            Some(part) => part.parse::<f64>().map_err(|_| InvalidPlacement::NotANumber { part: part.to_string(), text: whole() }),
        };
        let amount = number(parts.next(), 0.0)?;
        let (radius, angle_deg) = (number(parts.next(), 0.85)?, number(parts.next(), 180.0)?);
        let head = parts.next();
        if head.is_some_and(|head| head != OTHER_HEAD) {
            return Err(InvalidPlacement::UnknownHead { text: whole() });
        }
        if parts.next().is_some() {
            return Err(InvalidPlacement::TooManyParts { text: whole() });
        }
        Ok(Self { device, amount: amount.max(0.0) as usize, radius, angle_deg, made: None, other_head: head.is_some() })
    }

    /// Checks that the device exists in this amount, fits this drum and lies on the head.
    pub fn validate(&self, drum: &Drum) -> Result<(), InvalidPlacement> {
        let (info, kind) = (device_info(self.device), drum.kind);
        let name = || self.name().to_string();
        self.validate_made(drum)?;
        if self.amount >= info.amounts.len() {
            return Err(InvalidPlacement::UnknownAmount { name: name(), amount: self.amount });
        }
        if !(0.0..=1.0).contains(&self.radius) || !self.angle_deg.is_finite() {
            return Err(InvalidPlacement::OffTheHead { name: name() });
        }
        if !info.kinds.contains(&kind) {
            return Err(InvalidPlacement::NotForKind { name: name(), kind });
        }
        if self.device == DeviceKind::RodsTurned && drum.has_one_bolt() {
            return Err(InvalidPlacement::TooFewToTurn { lugs: drum.lugs });
        }
        if self.device == DeviceKind::SlackLugs && usize::from(drum.lugs) < FEWEST_RODS {
            return Err(InvalidPlacement::TooFewToSlacken { lugs: drum.lugs });
        }
        let (litres, drum_litres) = (litres(self.device), drum.litres());
        if matches!(self.footprint(), Footprint::Fill { .. }) && litres > drum_litres {
            return Err(InvalidPlacement::LargerThanTheDrum { name: name(), litres, drum_litres });
        }
        if self.other_head {
            self.validate_on_other_head(drum)?;
        }
        if self.hangs() && kind.is_upright() && (self.angle_deg.rem_euclid(360.0) - TOP_DEG).abs() > TOP_WITHIN_DEG {
            return Err(InvalidPlacement::SlidesOff { name: name() });
        }
        let patches = self.patches(drum);
        if drum.lower_film().is_none() && !patches.is_empty() && patches.iter().all(|patch| patch.side == HeadSide::Lower) {
            return Err(InvalidPlacement::NeedsHead { name: name(), head: kind.lower_head_word() });
        }
        Ok(())
    }

    /// Checks that a thing of the player's own says its size and weight, and that nothing else does.
    fn validate_made(&self, drum: &Drum) -> Result<(), InvalidPlacement> {
        let name = || self.name().to_string();
        match self.made {
            Some(_) if !self.device.is_own() => Err(InvalidPlacement::Known { name: device_info(self.device).name }),
            None if self.device.is_own() => Err(InvalidPlacement::Unmeasured { name: name() }),
            None => Ok(()),
            Some(made) => {
                made.validate()?;
                match self.footprint() {
                    Footprint::Strip { length, .. } if length > 2.0 * drum.radius() => {
                        Err(InvalidPlacement::LargerThanTheHead { name: name() })
                    }
                    _ => Ok(()),
                }
            }
        }
    }

    fn validate_on_other_head(&self, drum: &Drum) -> Result<(), InvalidPlacement> {
        let (name, head) = (|| self.name().to_string(), drum.kind.lower_head_word());
        if !self.can_lie_on_other_head() {
            return Err(InvalidPlacement::NotOutside { name: name(), head });
        }
        if drum.lower_film().is_none() {
            return Err(InvalidPlacement::NoOtherHead { name: name(), head });
        }
        if drum.second_shell {
            return Err(InvalidPlacement::BehindTheShell { name: name(), head });
        }
        Ok(())
    }

    /// Whether it can be stuck or hung on the drum's other head from outside.
    pub fn can_lie_on_other_head(&self) -> bool {
        let is_flat = matches!(self.footprint(), Footprint::Pad { .. } | Footprint::Strip { .. } | Footprint::OverHoop { .. });
        is_flat && !self.is_inside() && !device_info(self.device).kinds.contains(&DrumKind::Cymbal)
    }

    /// Whether it hangs over the hoop.
    fn hangs(&self) -> bool {
        matches!(self.footprint(), Footprint::OverHoop { .. })
    }

    /// Whether on `drum` it can be turned about the axis to a different effect: what hangs on an upright drum hangs at its top.
    pub fn turns_on(&self, drum: &Drum) -> bool {
        self.has_angle() && !(self.hangs() && drum.kind.is_upright())
    }

    /// The patches of what it covers on a head of radius `a` (m) with so many `lugs`.
    fn patches_of(&self, sizes: (f64, u8), contact: f64) -> Vec<Patch> {
        let mut patches = self.footprint().patches(sizes, self.radius, self.angle_deg, contact);
        if self.other_head {
            patches.iter_mut().for_each(|patch| patch.side = HeadSide::Lower);
        }
        patches
    }

    /// Where the device touches which head.
    pub fn patches(&self, drum: &Drum) -> Vec<Patch> {
        let mut patches = self.patches_of((drum.radius(), drum.lugs), self.info().contact);
        // What would touch both heads of a drum touches the one that is there.
        if drum.lower_film().is_none() && patches.iter().any(|patch| patch.side == HeadSide::Batter) {
            patches.retain(|patch| patch.side == HeadSide::Batter);
        }
        patches
    }

    /// Family of the head of `drum` that it touches (of two, the batter's); none on metal.
    pub fn head_family(&self, drum: &Drum) -> Option<HeadFamily> {
        if drum.kind.is_metal() {
            return None;
        }
        let patches = self.patches(drum);
        let head = if patches.iter().any(|patch| patch.side == HeadSide::Batter) { Some(drum.batter) } else { drum.lower_film() };
        head.filter(|_| !patches.is_empty()).map(|head| HeadFamily::of(&head))
    }

    /// What it takes from the air inside `drum` when that is squeezed, N s/m3: a loss factor of the air's spring, turned into a resistance
    /// at the pitch where such a drum's body usually lies. At other pitches the same factor is another resistance.
    pub fn air_loss(&self, drum: &Drum) -> f64 {
        self.info().air * air_spring(drum.depth()) / (2.0 * std::f64::consts::PI * drum.usual_batter_hz())
    }

    /// Whether it is the same thing as `other`, in this place or another.
    pub fn is_same_thing(&self, other: &Self) -> bool {
        (self.device, self.amount, self.made) == (other.device, other.amount, other.made)
    }

    /// How far the same thing is from where `other` is, on a head of this `radius`, m.
    pub fn apart_m(&self, other: &Self, radius: f64) -> f64 {
        let at = |it: &Self| {
            let (r, angle) = (if it.has_radius() { it.radius } else { 1.0 }, if it.has_angle() { it.angle_deg } else { 0.0 });
            (r * angle.to_radians().cos(), r * angle.to_radians().sin())
        };
        let ((x, y), (u, v)) = (at(self), at(other));
        radius * (x - u).hypot(y - v)
    }

    /// Whether it is put on and taken off at the front of a kick.
    pub fn is_reached_from_the_front(&self) -> bool {
        let info = device_info(self.device);
        let patches = self.patches_of((1.0, 8), 1.0);
        let is_on_the_front = !patches.is_empty() && patches.iter().all(|patch| patch.side == HeadSide::Lower);
        info.kinds.contains(&DrumKind::Kick) && (self.is_inside() || is_on_the_front)
    }

    /// Whether it lies under a head or inside the drum.
    pub fn is_inside(&self) -> bool {
        device_info(self.device).inside && !self.info().outside
    }

    /// What its amount is called; of an unknown one, as an older file may have, the last one's.
    pub fn amount_name(&self) -> Text {
        self.info().name
    }

    /// What it is called.
    pub fn name(&self) -> Words {
        self.made.as_ref().map_or_else(|| device_info(self.device).name.words(), |made| Words::verbatim(made.name.as_str()))
    }

    /// What it does to the head under it, before anything was measured with it.
    pub fn prior(&self) -> Prior {
        self.made.map_or(device_info(self.device).prior, |made| made.prior())
    }

    /// What it costs the player besides.
    pub fn tolls(&self) -> Vec<Toll> {
        // Nobody plays on the other head.
        let felt = |toll: &Toll| !self.other_head || !toll.is_felt();
        device_info(self.device).tolls_of(self.info()).into_iter().filter(felt).collect()
    }

    /// Attack that it takes, dB.
    pub fn attack_db(&self) -> f64 {
        if self.other_head {
            return 0.0;
        }
        let usual = self.info().attack_db;
        self.made.map_or(usual, |made| (usual * made.attack_times()).min(MOST_ATTACK_DB))
    }

    /// Eighths of a turn on every rod of the batter head, tighter positive.
    pub fn eighths(&self) -> i32 {
        self.info().eighths
    }

    /// How much louder it makes the click, dB.
    pub fn click_db(&self) -> f64 {
        self.info().click_db
    }

    fn footprint(&self) -> Footprint {
        self.made.map_or(self.info().footprint, |made| made.footprint(self.amount))
    }

    /// Its amount; an unknown one is the last.
    fn info(&self) -> &'static Amount {
        let amounts = device_info(self.device).amounts;
        &amounts[self.amount.min(amounts.len() - 1)]
    }

    /// Whether it can lie nearer to the middle or to the hoop.
    pub fn has_radius(&self) -> bool {
        self.footprint().has_radius()
    }

    /// Whether the device can be turned about the drum's axis to a different effect.
    pub fn has_angle(&self) -> bool {
        self.footprint().has_angle()
    }

    /// Where it lies on `drum`, for a player looking down on the head (or at the kick's batter head).
    pub fn place(&self, drum: &Drum) -> Words {
        let amount = self.info();
        if !self.has_angle() {
            return amount.place.words();
        }
        let head = if self.other_head { words!("on the {}, ", drum.kind.lower_head_word()) } else { Words::default() };
        // Clock faces are read at a glance: the player (or the floor) is at six o'clock, angles grow anticlockwise.
        let hour = ((180.0 - self.angle_deg) / 30.0).round().rem_euclid(12.0) as i32;
        let hour = if hour == 0 { 12 } else { hour };
        if !self.has_radius() {
            return words!("{head}{}, at {hour} o'clock", amount.place);
        }
        let rim = if drum.kind.is_metal() { text!("edge") } else { text!("hoop") };
        let (fingers, mm) = from_hoop((1.0 - self.radius) * drum.radius());
        words!("{head}at {hour} o'clock, its middle {fingers} from the {rim} ({mm:.0} mm)")
    }
}

/// Width of a finger, mm (common practice, no published source).
const FINGER_MM: f64 = 20.0;
const FINGERS: [Text; 5] =
    [text!("a finger's width"), text!("two fingers"), text!("three fingers"), text!("a hand's width"), text!("a hand and a finger")];

/// A distance (m) as hands set it, and in mm to the nearest five.
fn from_hoop(distance: f64) -> (Words, f64) {
    let mm = 5.0 * (200.0 * distance).round();
    let fingers = (mm / FINGER_MM).round().max(1.0) as usize;
    if mm < 0.75 * FINGER_MM {
        return (words!("half a finger"), mm);
    }
    let words = FINGERS.get(fingers - 1).map_or_else(|| words!("{fingers} fingers"), |words| words.words());
    (words, mm)
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
        assert_eq!(said("gel_pad:0:0.85:180"), "at 12 o'clock, its middle a finger's width from the hoop (25 mm)");
        assert_eq!(said("gel_pad:0:0.94:180"), "at 12 o'clock, its middle half a finger from the hoop (10 mm)");
        assert_eq!(said("gel_pad:0:0.5:90"), "at 3 o'clock, its middle a hand and a finger from the hoop (90 mm)");
        assert_eq!(said("hanging_pad:0:0.85:270"), "hanging over the hoop, at 9 o'clock");
        assert_eq!(said("control_ring"), "round the edge, on top");
    }

    /// A napkin taped to the front head of a kick from outside is one of the trade's standard answers (common practice, no published source).
    #[test]
    fn flat_things_lie_on_the_other_head_too() {
        let kick = BenchDrum::usual(DrumKind::Kick);
        let napkin = Placement::parse("tissue:1:0.8:120:other").unwrap();
        assert_eq!(napkin.validate(&kick), Ok(()));
        assert!(napkin.patches(&kick).iter().all(|patch| patch.side == HeadSide::Lower));
        assert_eq!((napkin.attack_db(), napkin.place(&kick).starts_with("on the front head, at 2 o'clock")), (0.0, true));
        assert!(napkin.tolls().iter().all(|toll| !toll.is_felt()));
        let refused = |spec: &str, drum: &Drum| Placement::parse(spec).unwrap().validate(drum).unwrap_err().to_string();
        assert!(refused("tissue:1:0.8:120:other", &Drum { lower: None, ..kick.clone() }).contains("no front head"));
        assert!(refused("pillow:1:0.8:0:other", &kick).contains("does nothing"));
        assert!(Placement::parse("tissue:1:0.8:120:front").is_err());
        // What hangs on an upright hoop hangs at its top.
        assert!(refused("towel:2:0.8:270", &kick).contains("at the top"));
        assert_eq!(Placement::parse("towel:2:0.8:180").unwrap().validate(&kick), Ok(()));
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
