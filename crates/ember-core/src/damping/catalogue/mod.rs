//! The devices known, with what they do to a head, what they cost, and how to put them on.
//!
//! Resistances, masses and their doubts are from experience, with no published source: they are starting points that a
//! measured before-and-after is to correct.

mod in_kicks;
mod inside;
mod kinds;
mod on_metal;
mod on_top;
mod own;
mod tuned;

use super::footprint::Footprint;
use super::prior::Prior;
use crate::drum::{Drum, DrumKind, HeadSide};
use ember_words::{Text, text};
pub(super) use in_kicks::litres;
pub use kinds::{DeviceKind, OwnPlace, UnknownDevice, device_info};
use serde::Serialize;

/// One amount of a device: how large or how much of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Amount {
    /// What it is called.
    pub name: Text,
    /// Where it lies, as a phrase.
    pub place: Text,
    /// Attack given up, dB (from experience, no published source).
    pub attack_db: f64,
    /// Click of the beater gained, dB (from experience, no published source).
    pub click_db: f64,
    /// Time to put it on, s (from experience, no published source).
    pub seconds: f64,
    /// What it covers.
    #[serde(skip)]
    pub footprint: Footprint,
    /// How firmly it lies on, or in how many layers: scales resistance and mass.
    #[serde(skip)]
    pub contact: f64,
    /// Part of what the enclosed air's spring holds that is lost with each swing (loss factor), for what fills a drum.
    #[serde(skip)]
    pub air: f64,
    /// Lies outside the drum, although others of its kind lie inside: no head has to come off.
    pub outside: bool,
    /// Eighths of a turn on every rod of the batter head, tighter positive.
    #[serde(skip)]
    pub eighths: i32,
    /// What it costs the player beyond what every amount of the device does.
    pub tolls: &'static [Toll],
}

/// What else a device takes or risks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Toll {
    /// The stick comes back less from the middle of the head.
    Rebound,
    /// It can be seen, and does not look good.
    Looks,
    /// It leaves something on the head.
    Residue,
    /// It may buzz or rattle.
    Rattles,
    /// It may slide or fall off.
    FallsOff,
    /// It lies where brushes sweep, sticks land or the beater swings.
    InTheWay,
    /// The pedal asks for more of the foot.
    FootForce,
    /// It wanders when the drum is carried.
    Wanders,
}

impl Toll {
    /// Whether it is felt where the drum is struck.
    pub fn is_felt(self) -> bool {
        matches!(self, Self::Rebound | Self::InTheWay | Self::FootForce)
    }
}

/// What it takes to own one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Price {
    /// There is nothing to own.
    Nothing,
    /// Lies about in any household.
    Household,
    /// Small change.
    Little,
    /// Bought for the purpose.
    Bought,
}

/// Everything about a kind of device that does not depend on where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DeviceInfo {
    /// Which kind it is.
    pub kind: DeviceKind,
    /// What it is called.
    pub name: Text,
    /// The name for several.
    pub plural: Text,
    /// Drums it is made for.
    pub kinds: &'static [DrumKind],
    /// The amounts that it comes in.
    pub amounts: &'static [Amount],
    /// How strong and how heavy such things usually are.
    #[serde(skip)]
    pub prior: Prior,
    /// A head has to come off, but for amounts that lie outside.
    pub inside: bool,
    /// Lies where brushes sweep or sticks land.
    pub in_the_way: bool,
    /// It only touches the head: the harder the hit, the more it acts.
    pub loose: bool,
    /// What it costs the player.
    pub tolls: &'static [Toll],
    /// What it costs to buy.
    pub price: Price,
    /// What it takes away or risks, as a sentence.
    pub cost: Text,
    /// How to put it on so that it stays.
    pub steps: &'static [Text],
    /// Time to take it off where no head has to come off for it, s (from experience, no published source).
    pub seconds_off: f64,
    /// How to take it off again and leave nothing behind.
    pub steps_off: &'static [Text],
}

impl DeviceInfo {
    /// How to put it on `drum`, one step after the other.
    pub fn steps_on(&self, drum: &Drum) -> Vec<Text> {
        as_done_on(drum, self.steps)
    }

    /// How to take it off `drum` again.
    pub fn steps_off_of(&self, drum: &Drum) -> Vec<Text> {
        as_done_on(drum, self.steps_off)
    }

    /// What `amount` of it costs the player.
    pub fn tolls_of(&self, amount: &Amount) -> Vec<Toll> {
        // What only lies outside does not wander in the drum, and what only lies inside does not fall off.
        let misplaced = if amount.outside { Toll::Wanders } else { Toll::FallsOff };
        let of_device = self.tolls.iter().filter(|toll| !self.inside || **toll != misplaced);
        of_device.chain(amount.tolls).chain(self.in_the_way.then_some(&Toll::InTheWay)).copied().collect()
    }

    /// Whether `amount` of it lies on the side of the batter head that is played, whatever else it touches.
    pub fn lies_on_batter(&self, amount: &Amount) -> bool {
        let patches = amount.footprint.patches((1.0, 8), 0.85, 0.0, 1.0);
        (!self.inside || amount.outside) && !self.kind.is_tuning() && patches.iter().any(|patch| patch.side == HeadSide::Batter)
    }

    /// Time to take `amount` off again, s: what needs a head off takes as long as to put it in.
    pub fn seconds_to_take_off(&self, amount: &Amount) -> f64 {
        if self.inside && !amount.outside { amount.seconds } else { self.seconds_off }
    }
}

/// What is done crosswise, rod by rod, and how it is done where one bolt pulls the whole hoop.
const BY_ONE_BOLT: [(Text, Text); 6] = [
    (inside::HEAD_OFF, text!("Open the bolt by half turns until the hoop is loose, and lift the batter head off.")),
    (inside::HEAD_ON, text!("Put the head back and turn the bolt until it bites, then by half turns. Stop when the bolt gets hard.")),
    (inside::STRIP_ON, text!("Put the head on over it, pull the strip smooth, and turn the bolt by half turns. Stop when it gets hard.")),
    (in_kicks::FRONT_OFF, text!("Open the bolt of the front head by half turns until the hoop is loose, and take the head off.")),
    (on_top::FATTER, text!("For a fatter, lower note besides: half a turn down at the bolt, and hit the drum again with nothing on it.")),
    (
        in_kicks::TOWEL_OUT,
        text!("Hung outside: lift it off the hoop. Inside: open the front head, undo the hook-and-loop, and lift the towel out."),
    ),
];

/// `steps` as they are done on `drum`.
fn as_done_on(drum: &Drum, steps: &'static [Text]) -> Vec<Text> {
    let said = |step: &Text| {
        let by_one_bolt = BY_ONE_BOLT.iter().find(|(many, _)| many == step).filter(|_| drum.has_one_bolt());
        by_one_bolt.map_or(*step, |(_, one)| *one)
    };
    steps.iter().map(said).collect()
}

/// Drums that are struck from above.
const TOPS: &[DrumKind] =
    &[DrumKind::Snare, DrumKind::Tom, DrumKind::FloorTom, DrumKind::SecondKick, DrumKind::ConcertTom, DrumKind::HandDrum];
const TOMS: &[DrumKind] = &[DrumKind::Tom, DrumKind::FloorTom, DrumKind::SecondKick];
const METALS: &[DrumKind] = &[DrumKind::Splash, DrumKind::Crash, DrumKind::Ride, DrumKind::China, DrumKind::Cymbal, DrumKind::HiHat];
/// Everything with a head, or what stands for one.
const HEADS: &[DrumKind] = &[
    DrumKind::Snare,
    DrumKind::Tom,
    DrumKind::FloorTom,
    DrumKind::Kick,
    DrumKind::SecondKick,
    DrumKind::ConcertTom,
    DrumKind::ConcertBass,
    DrumKind::MarchingBass,
    DrumKind::HandDrum,
    DrumKind::Other,
];
const KICKS: &[DrumKind] = &[DrumKind::Kick];
/// Drums that a pedal strikes.
const PEDALLED: &[DrumKind] = &[DrumKind::Kick, DrumKind::SecondKick];
/// Large drums that stand or hang upright.
const BASSES: &[DrumKind] = &[DrumKind::Kick, DrumKind::ConcertBass, DrumKind::MarchingBass];

const fn amount(name: Text, place: Text, attack_db: f64, seconds: f64, footprint: Footprint) -> Amount {
    Amount { name, place, attack_db, click_db: 0.0, seconds, footprint, contact: 1.0, air: 0.0, outside: false, eighths: 0, tolls: &[] }
}

/// The same, `contact` times as firm or thick.
const fn firmer(amount: Amount, contact: f64) -> Amount {
    Amount { contact, ..amount }
}

/// The same, which takes the part `air` of what the air's spring holds.
const fn airy(amount: Amount, air: f64) -> Amount {
    Amount { air, ..amount }
}

/// The same, from which a beater clicks by so much more.
const fn clicking(amount: Amount, click_db: f64) -> Amount {
    Amount { click_db, ..amount }
}

/// The same, which costs the player so much besides.
const fn costing(amount: Amount, tolls: &'static [Toll]) -> Amount {
    Amount { tolls, ..amount }
}

/// The same, outside the drum.
const fn outside(amount: Amount) -> Amount {
    Amount { outside: true, ..amount }
}

const fn prior(resistance: f64, resistance_ln_sd: f64, exponent: f64, mass: f64) -> Prior {
    Prior { resistance, resistance_ln_sd, exponent, mass }
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

    /// With a single bolt there are no rods to tighten crosswise or to turn alike, so no step may ask for it (common practice, no published source; CP 11).
    #[test]
    fn a_drum_with_one_bolt_is_never_told_to_go_crosswise() {
        for info in DeviceKind::ALL.map(device_info).into_iter().filter(|info| !info.kind.is_tuning()) {
            for kind in info.kinds.iter().filter(|kind| kind.has_heads()) {
                let drum = Drum { lugs: 1, ..Drum::usual(*kind) };
                for step in [info.steps_on(&drum), info.steps_off_of(&drum)].concat() {
                    let of_many = ["crosswise", "rod", "first lug", "the key"].iter().find(|word| step.contains(word));
                    assert_eq!(of_many, None, "{}: {step}", info.name);
                }
                assert_eq!(info.steps_on(&Drum { lugs: 8, ..drum }), info.steps);
            }
        }
    }

    /// What the words on an entry say and what its footprint is must not drift apart.
    #[test]
    fn what_lies_on_the_lower_head_or_under_the_batter_needs_a_head_off() {
        for info in DeviceKind::ALL.map(device_info) {
            for amount in info.amounts {
                let reaches_in = matches!(
                    amount.footprint,
                    Footprint::LooseRing { .. }
                        | Footprint::Balls { .. }
                        | Footprint::Fill { .. }
                        | Footprint::Across { .. }
                        | Footprint::Tube { .. }
                );
                assert!(info.inside || !reaches_in, "{}", info.name);
                assert!(!amount.outside || info.inside && !amount.place.contains("inside"), "{}", info.name);
                assert!(info.steps.len() >= 2 && info.cost.ends_with("."), "{}", info.name);
                let ends = |steps: &[Text]| steps.iter().all(|step| step.ends_with("."));
                assert!(info.steps_off.len() >= 2 && ends(info.steps) && ends(info.steps_off), "{}", info.name);
                assert!((1.0..=1200.0).contains(&info.seconds_to_take_off(amount)), "{}", info.name);
                // What is inside comes out the way it went in.
                let opened = |steps: &[Text]| steps.iter().any(|step| step.contains("head off"));
                assert_eq!(info.inside, opened(info.steps_off), "{}", info.name);
            }
        }
    }
}
