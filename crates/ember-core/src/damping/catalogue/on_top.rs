//! Devices that are laid on the batter head.

use super::{Amount, DeviceInfo, DeviceKind, Footprint, HEADS, Price, TOPS, Toll, amount, costing, firmer, prior};

pub(super) const GEL_PAD: DeviceInfo = DeviceInfo {
    kind: DeviceKind::GelPad,
    name: "gel pad",
    plural: "gel pads",
    kinds: HEADS,
    amounts: &[
        amount("one, 30 mm", "on the batter head", 0.3, 10.0, Footprint::Pad { radius: 0.015 }),
        amount("half of one", "on the batter head", 0.15, 15.0, Footprint::Pad { radius: 0.0106 }),
        amount("a large one, 45 mm", "on the batter head", 0.6, 10.0, Footprint::Pad { radius: 0.0225 }),
    ],
    prior: prior(1800.0, 0.45, 0.25, 3.2),
    inside: false,
    in_the_way: true,
    loose: false,
    tolls: &[Toll::FallsOff],
    price: Price::Bought,
    cost: "Brushes flick it off, and it creeps in heat.",
    steps: &["Wipe the spot clean and dry.", "Press the pad on flat for five seconds.", "Rinse it when it no longer sticks."],
    seconds_off: 5.0,
    steps_off: &["Lift one edge with a fingernail and peel it off slowly.", "Rinse it and lay it on its film: lint takes its hold."],
};

pub(super) const TAPE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Tape,
    name: "tape",
    plural: "pieces of tape",
    kinds: HEADS,
    amounts: &[
        amount("one strip, 80 x 25 mm", "along the hoop", 0.1, 20.0, Footprint::Strip { length: 0.08, width: 0.025 }),
        amount("two strips, 160 x 25 mm", "along the hoop", 0.2, 30.0, Footprint::Strip { length: 0.16, width: 0.025 }),
        firmer(amount("one loop, 60 x 25 mm", "along the hoop", 0.2, 30.0, Footprint::Strip { length: 0.06, width: 0.025 }), 2.0),
    ],
    prior: prior(90.0, 0.5, 0.3, 0.35),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Residue, Toll::Looks],
    price: Price::Little,
    cost: "Leaves residue on the head.",
    steps: &[
        "Lay the strip along the hoop without stretching it. A loop: sticky side out, its ends overlapping underneath.",
        "Rub it down.",
        "Fold one end over, so that it comes off again.",
    ],
    seconds_off: 15.0,
    steps_off: &[
        "Pull the folded end back flat over itself, slowly, along the hoop.",
        "Rub off what sticks with a bit of the same tape. Solvents attack coatings and film: leave them out.",
    ],
};

pub(super) const TISSUE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Tissue,
    name: "taped tissue",
    plural: "taped tissues",
    kinds: HEADS,
    amounts: &[
        amount("folded to 5 x 5 cm", "on the batter head", 0.2, 40.0, Footprint::Strip { length: 0.05, width: 0.05 }),
        amount("a napkin, folded to 9 x 9 cm", "on the batter head", 0.5, 40.0, Footprint::Strip { length: 0.09, width: 0.09 }),
    ],
    prior: prior(140.0, 0.55, 0.3, 0.4),
    inside: false,
    in_the_way: true,
    loose: false,
    tolls: &[Toll::Looks, Toll::Residue, Toll::FallsOff],
    price: Price::Household,
    cost: "Looks makeshift, wears through where sticks land, and its tape leaves residue.",
    steps: &[
        "Fold the tissue flat to the size.",
        "Lay it off to one side, where sticks do not land.",
        "Tape it down along two sides, and fold one end of each tape over, so that it comes off again.",
        "Keep it away from stage lights and heaters; house fire rules decide.",
    ],
    seconds_off: 15.0,
    steps_off: &["Pull the tape back flat over itself, slowly.", "Rub off what sticks with a bit of the same tape."],
};

pub(super) const CONTROL_RING: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ControlRing,
    name: "control ring",
    plural: "control rings",
    kinds: TOPS,
    amounts: &[
        amount("narrow, 15 mm", "round the edge, on top", 0.6, 5.0, Footprint::EdgeRing { width: 0.015 }),
        amount("wide, 35 mm", "round the edge, on top", 1.5, 5.0, Footprint::EdgeRing { width: 0.035 }),
    ],
    prior: prior(190.0, 0.5, 0.3, 0.35),
    inside: false,
    in_the_way: true,
    loose: false,
    tolls: &[Toll::Rattles],
    price: Price::Bought,
    cost: "Takes some attack, and buzzes when it lies loose.",
    steps: &["Lay the ring flat, inside the hoop.", "Tap the head: if it buzzes, hold it with two bits of tape."],
    seconds_off: 5.0,
    steps_off: &["Take off the bits of tape, if there are any, and lift the ring out.", "Keep it flat: a bent ring buzzes."],
};

const CLOTH_OFF: &[&str] =
    &["Open the clip, or free its edge from the hoop, and draw the cloth away.", "Air it: damp cloth is heavier and does more."];
const CLOTH_STEPS: &[&str] = &[
    "Lay the cloth on smooth, one layer.",
    "Clamp its edge under a microphone clip or the hoop.",
    "Keep it away from stage lights and heaters; house fire rules decide.",
];

pub(super) const THIN_CLOTH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ThinCloth,
    name: "thin cloth",
    plural: "thin cloths",
    kinds: HEADS,
    amounts: &[
        amount("over a quarter of the head", "over the edge", 0.8, 15.0, Footprint::Cover { depth: 0.42 }),
        amount("over half of the head", "over one half", 2.5, 15.0, Footprint::Cover { depth: 1.0 }),
        amount("over the whole head", "over all of the head", 5.0, 15.0, Footprint::Cover { depth: 2.0 }),
    ],
    prior: prior(60.0, 0.5, 0.2, 0.15),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::FallsOff, Toll::Looks],
    price: Price::Household,
    cost: "Covers the attack where it lies, and slides unless it is clamped.",
    steps: CLOTH_STEPS,
    seconds_off: 10.0,
    steps_off: CLOTH_OFF,
};

pub(super) const THICK_CLOTH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ThickCloth,
    name: "thick cloth",
    plural: "thick cloths",
    kinds: HEADS,
    amounts: &[
        amount("over a quarter of the head", "over the edge", 1.5, 15.0, Footprint::Cover { depth: 0.55 }),
        amount("over half of the head", "over one half", 4.0, 15.0, Footprint::Cover { depth: 1.0 }),
        amount("over the whole head", "over all of the head", 9.0, 15.0, Footprint::Cover { depth: 2.0 }),
    ],
    prior: prior(170.0, 0.5, 0.2, 0.5),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Rebound, Toll::FallsOff, Toll::Looks],
    price: Price::Household,
    cost: "Turns the drum into a dull thud where it covers it.",
    steps: CLOTH_STEPS,
    seconds_off: 10.0,
    steps_off: CLOTH_OFF,
};

pub(super) const FATTER: &str =
    "For a fatter, lower note besides: put a turn of every rod, a quarter down, into the layout, so that it is reckoned with.";

pub(super) const HANGING_PAD: DeviceInfo = DeviceInfo {
    kind: DeviceKind::HangingPad,
    name: "hanging pad",
    plural: "hanging pads",
    kinds: HEADS,
    amounts: &[
        amount("5 cm on the head", "hanging over the hoop", 0.5, 10.0, Footprint::OverHoop { length: 0.09, overlap: 0.05 }),
        amount("8 cm on the head", "hanging over the hoop", 0.9, 10.0, Footprint::OverHoop { length: 0.09, overlap: 0.08 }),
    ],
    prior: prior(220.0, 0.6, 0.2, 1.0),
    inside: false,
    in_the_way: false,
    loose: true,
    tolls: &[Toll::FallsOff],
    price: Price::Household,
    cost: "Slides when played hard.",
    steps: &[
        "Hang the pad, or a wallet, over the hoop, its weight outside.",
        "Let its inner edge lie flat on the head.",
        "Tape the outside to the shell if it wanders.",
        FATTER,
    ],
    seconds_off: 5.0,
    steps_off: &["Take the tape off the shell.", "Lift the pad from the hoop."],
};

const SECOND_SKIN_OFF: &[&str] =
    &["Take off the bits of tape and lift it out by its collar.", "Tune the lower head back down, if it went up for it."];
const SECOND_SKIN_STEPS: &[&str] = &[
    "Lay it on the batter head, centred, its collar up.",
    "Strike and listen: where its own hoop clacks on the counter-hoop, hold it with three bits of tape.",
    "It wants a drum that sings under it: tune the lower head well up, or the drum only dies.",
];

pub(super) const DOUGHNUT: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Doughnut,
    name: "doughnut",
    plural: "doughnuts",
    kinds: TOPS,
    amounts: &[
        amount("a hole of two thirds", "on the batter head, round an open middle", 0.8, 5.0, Footprint::Overlay { hole: 0.66, to: 1.0 }),
        amount("a hole of a third", "on the batter head, round a small open middle", 1.2, 5.0, Footprint::Overlay { hole: 0.33, to: 1.0 }),
    ],
    prior: prior(45.0, 0.6, 0.3, 0.25),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Rattles, Toll::Looks],
    price: Price::Bought,
    cost: "A second skin: the pitch falls far, and its edge may clack.",
    steps: SECOND_SKIN_STEPS,
    seconds_off: 10.0,
    steps_off: SECOND_SKIN_OFF,
};

/// A hoop that is left on a spare head clacks on the counter-hoop.
const CLACKS: &[Toll] = &[Toll::Rattles];
const WHOLE: Footprint = Footprint::Overlay { hole: 0.0, to: 1.0 };
/// Two inches smaller, on drums as large as most toms.
const SMALLER: Footprint = Footprint::Overlay { hole: 0.0, to: 0.85 };

const fn skin(name: &'static str, attack_db: f64, footprint: Footprint) -> Amount {
    amount(name, "over all of the head", attack_db, 5.0, footprint)
}

pub(super) const SPARE_HEAD: DeviceInfo = DeviceInfo {
    kind: DeviceKind::SpareHead,
    name: "upturned spare head",
    plural: "upturned spare heads",
    kinds: TOPS,
    amounts: &[
        firmer(costing(skin("thin, 7 mil", 1.2, WHOLE), CLACKS), 0.7),
        costing(skin("ordinary, 10 mil", 1.5, WHOLE), CLACKS),
        firmer(costing(skin("double, 14 mil", 1.8, WHOLE), CLACKS), 1.4),
        firmer(costing(skin("double with oil, 14 mil", 2.2, WHOLE), CLACKS), 1.9),
        firmer(skin("ordinary, its hoop cut off", 1.5, WHOLE), 0.9),
        firmer(skin("ordinary, a size smaller, without its hoop", 1.2, SMALLER), 0.9),
    ],
    prior: prior(45.0, 0.6, 0.3, 0.25),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Rebound],
    price: Price::Bought,
    cost: "A second skin: the pitch falls far, the note turns to a thud, and its hoop may clack.",
    steps: SECOND_SKIN_STEPS,
    seconds_off: 10.0,
    steps_off: SECOND_SKIN_OFF,
};
