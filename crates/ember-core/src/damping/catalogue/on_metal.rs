//! Devices for cymbals.

use super::{DeviceInfo, DeviceKind, Footprint, METALS, Price, Toll, amount, prior};
use ember_words::text;

pub(super) const CYMBAL_TAPE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::CymbalTape,
    name: text!("cymbal tape"),
    plural: text!("pieces of cymbal tape"),
    kinds: METALS,
    amounts: &[
        amount(text!("one piece, 40 x 25 mm"), text!("under the cymbal"), 0.05, 15.0, Footprint::Strip { length: 0.04, width: 0.025 }),
        amount(text!("one strip, 80 x 25 mm"), text!("under the cymbal"), 0.1, 20.0, Footprint::Strip { length: 0.08, width: 0.025 }),
        amount(text!("a long strip, 150 x 25 mm"), text!("under the cymbal"), 0.2, 30.0, Footprint::Strip { length: 0.15, width: 0.025 }),
    ],
    prior: prior(160.0, 0.6, 0.4, 0.35),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Residue],
    price: Price::Little,
    cost: text!("Less wash, and residue on the metal."),
    steps: &[
        text!("Turn the cymbal over and wipe the spot clean and dry; mind the edge, it can be sharp."),
        text!("Lay the strip along the edge where the picture shows it: nearer to the edge it mutes more, nearer to the bell less."),
        text!("Rub it down, and fold one end over, so that it comes off again."),
    ],
    seconds_off: 15.0,
    steps_off: &[
        text!("Pull the folded end back flat over itself, slowly; mind the edge."),
        text!("Rub off what sticks with a bit of the same tape: polish takes more than the residue."),
    ],
};

pub(super) const CLOTH_DISC: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ClothDisc,
    name: text!("cloth disc"),
    plural: text!("cloth discs"),
    kinds: METALS,
    amounts: &[
        amount(
            text!("one of 12 cm"),
            text!("over the clutch or wing nut, about the middle"),
            0.3,
            60.0,
            Footprint::Centre { radius: 0.06 },
        ),
        amount(
            text!("one of 22 cm"),
            text!("over the clutch or wing nut, about the middle"),
            0.8,
            60.0,
            Footprint::Centre { radius: 0.11 },
        ),
    ],
    prior: prior(150.0, 0.7, 0.25, 0.25),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Looks],
    price: Price::Household,
    cost: text!("Darker and shorter, and the bell is covered."),
    steps: &[
        text!("Cut a hole of 12 mm into the middle of a disc of felt or thick cloth."),
        text!("Take the wing nut off, or the upper cymbal with its clutch; lay the disc on and put everything back."),
        text!("Do not screw it tighter than before: a cymbal that cannot move cracks."),
    ],
    seconds_off: 60.0,
    steps_off: &[
        text!("Take the wing nut off, or the upper cymbal with its clutch, and lift the disc off."),
        text!("Put everything back, not tighter than before."),
    ],
};

pub(super) const DRAPE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Drape,
    name: text!("drape"),
    plural: text!("drapes"),
    kinds: METALS,
    amounts: &[
        amount(text!("a thin cloth over a third of it"), text!("draped over it"), 1.5, 10.0, Footprint::Cover { depth: 0.67 }),
        amount(text!("a thin cloth over half of it"), text!("draped over it"), 3.0, 10.0, Footprint::Cover { depth: 1.0 }),
    ],
    prior: prior(60.0, 0.7, 0.25, 0.15),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Looks, Toll::FallsOff],
    price: Price::Household,
    cost: text!("Dark and short, and it slides off when it is struck hard."),
    steps: &[
        text!("Lay the cloth over the side away from the stick."),
        text!("Hold it at the stand with hook-and-loop or a clip, so that it stays."),
        text!("Keep it away from stage lights and heaters; house fire rules decide."),
    ],
    seconds_off: 5.0,
    steps_off: &[text!("Undo the clip and take the cloth off."), text!("Wipe the cymbal: sweat in cloth stains it.")],
};
