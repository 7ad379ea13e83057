//! Things of the player's own: what they are is said where they stand on the shelf, how they are used is the same for all.

use super::{Amount, DeviceInfo, DeviceKind, Footprint, HEADS, Price, Toll, amount, firmer, prior};
use crate::damping::prior::MADE_LN_SD;
use ember_words::text;

/// Footprints are those of a hand's breadth; a thing that was measured has its own.
const AMOUNTS: &[Amount] = &[
    amount(text!("flat"), text!("on the batter head"), 0.6, 15.0, Footprint::Strip { length: 0.1, width: 0.1 }),
    firmer(amount(text!("folded once"), text!("on the batter head"), 0.5, 20.0, Footprint::Strip { length: 0.1, width: 0.05 }), 2.0),
    amount(
        text!("a third of it on the head"),
        text!("hanging over the hoop"),
        0.5,
        10.0,
        Footprint::OverHoop { length: 0.1, overlap: 0.033 },
    ),
];

const fn own(kind: DeviceKind) -> DeviceInfo {
    DeviceInfo {
        kind,
        name: text!("thing of your own"),
        plural: text!("things of your own"),
        kinds: HEADS,
        amounts: AMOUNTS,
        prior: prior(120.0, MADE_LN_SD, 0.25, 0.3),
        inside: false,
        in_the_way: true,
        loose: true,
        tolls: &[Toll::FallsOff, Toll::Looks],
        price: Price::Household,
        cost: text!("What it does is guessed from its weight until it was tested; it slides unless it is held."),
        steps: &[
            text!("Lay it on smooth where the picture shows it."),
            text!("Hold its edge with tape, a microphone clip or the hoop, so that it stays."),
            text!("Keep cloth and paper away from stage lights and heaters; house fire rules decide."),
        ],
        seconds_off: 10.0,
        steps_off: &[
            text!("Take off what holds its edge, tape slowly and flat over itself."),
            text!("Lift it off; what sticks comes off with a bit of the same tape."),
        ],
    }
}

pub(super) const OWN: [DeviceInfo; DeviceKind::OWN.len()] = {
    let mut all = [own(DeviceKind::OWN[0]); DeviceKind::OWN.len()];
    let mut i = 1;
    while i < all.len() {
        all[i] = own(DeviceKind::OWN[i]);
        i += 1;
    }
    all
};
