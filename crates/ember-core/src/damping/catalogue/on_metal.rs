//! Devices for cymbals.

use super::{DeviceInfo, DeviceKind, Footprint, METALS, Price, Toll, amount, prior};

pub(super) const CYMBAL_TAPE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::CymbalTape,
    name: "cymbal tape",
    plural: "pieces of cymbal tape",
    kinds: METALS,
    amounts: &[
        amount("one piece, 40 x 25 mm", "under the cymbal", 0.05, 15.0, Footprint::Strip { length: 0.04, width: 0.025 }),
        amount("one strip, 80 x 25 mm", "under the cymbal", 0.1, 20.0, Footprint::Strip { length: 0.08, width: 0.025 }),
        amount("a long strip, 150 x 25 mm", "under the cymbal", 0.2, 30.0, Footprint::Strip { length: 0.15, width: 0.025 }),
    ],
    prior: prior(160.0, 0.6, 0.4, 0.35),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Residue],
    price: Price::Little,
    cost: "Less wash, and residue on the metal.",
    steps: &[
        "Turn the cymbal over and wipe the spot clean and dry; mind the edge, it can be sharp.",
        "Lay the strip along the edge where the picture shows it: nearer to the edge it mutes more, nearer to the bell less.",
        "Rub it down, and fold one end over, so that it comes off again.",
    ],
    seconds_off: 15.0,
    steps_off: &[
        "Pull the folded end back flat over itself, slowly; mind the edge.",
        "Rub off what sticks with a bit of the same tape: polish takes more than the residue.",
    ],
};

pub(super) const CLOTH_DISC: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ClothDisc,
    name: "cloth disc",
    plural: "cloth discs",
    kinds: METALS,
    amounts: &[
        amount("one of 12 cm", "over the clutch or wing nut, about the middle", 0.3, 60.0, Footprint::Centre { radius: 0.06 }),
        amount("one of 22 cm", "over the clutch or wing nut, about the middle", 0.8, 60.0, Footprint::Centre { radius: 0.11 }),
    ],
    prior: prior(150.0, 0.7, 0.25, 0.25),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Looks],
    price: Price::Household,
    cost: "Darker and shorter, and the bell is covered.",
    steps: &[
        "Cut a hole of 12 mm into the middle of a disc of felt or thick cloth.",
        "Take the wing nut off, or the upper cymbal with its clutch; lay the disc on and put everything back.",
        "Do not screw it tighter than before: a cymbal that cannot move cracks.",
    ],
    seconds_off: 60.0,
    steps_off: &[
        "Take the wing nut off, or the upper cymbal with its clutch, and lift the disc off.",
        "Put everything back, not tighter than before.",
    ],
};

pub(super) const DRAPE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Drape,
    name: "drape",
    plural: "drapes",
    kinds: METALS,
    amounts: &[
        amount("a thin cloth over a third of it", "draped over it", 1.5, 10.0, Footprint::Cover { depth: 0.67 }),
        amount("a thin cloth over half of it", "draped over it", 3.0, 10.0, Footprint::Cover { depth: 1.0 }),
    ],
    prior: prior(60.0, 0.7, 0.25, 0.15),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Looks, Toll::FallsOff],
    price: Price::Household,
    cost: "Dark and short, and it slides off when it is struck hard.",
    steps: &[
        "Lay the cloth over the side away from the stick.",
        "Hold it at the stand with hook-and-loop or a clip, so that it stays.",
        "Keep it away from stage lights and heaters; house fire rules decide.",
    ],
    seconds_off: 5.0,
    steps_off: &["Undo the clip and take the cloth off.", "Wipe the cymbal: sweat in cloth stains it."],
};
