//! Devices that are laid on the batter head.

use super::{Amount, DeviceInfo, DeviceKind, Footprint, HEADS, Price, TOPS, Toll, amount, costing, firmer, prior};
use ember_words::{Text, text};

pub(super) const GEL_PAD: DeviceInfo = DeviceInfo {
    kind: DeviceKind::GelPad,
    name: text!("gel pad"),
    plural: text!("gel pads"),
    kinds: HEADS,
    amounts: &[
        amount(text!("one, 30 mm"), text!("on the batter head"), 0.3, 10.0, Footprint::Pad { radius: 0.015 }),
        amount(text!("half of one"), text!("on the batter head"), 0.15, 15.0, Footprint::Pad { radius: 0.0106 }),
        amount(text!("a large one, 45 mm"), text!("on the batter head"), 0.6, 10.0, Footprint::Pad { radius: 0.0225 }),
    ],
    prior: prior(1800.0, 0.45, 0.25, 3.2),
    inside: false,
    in_the_way: true,
    loose: false,
    tolls: &[Toll::FallsOff],
    price: Price::Bought,
    cost: text!("Brushes flick it off, and it creeps in heat."),
    steps: &[
        text!("Wipe the spot clean and dry."),
        text!("Press the pad on flat for five seconds."),
        text!("Rinse it when it no longer sticks."),
    ],
    seconds_off: 5.0,
    steps_off: &[
        text!("Lift one edge with a fingernail and peel it off slowly."),
        text!("Rinse it and lay it on its film: lint takes its hold."),
    ],
};

pub(super) const TAPE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Tape,
    name: text!("tape"),
    plural: text!("pieces of tape"),
    kinds: HEADS,
    amounts: &[
        amount(text!("one strip, 80 x 25 mm"), text!("along the hoop"), 0.1, 20.0, Footprint::Strip { length: 0.08, width: 0.025 }),
        amount(text!("two strips, 160 x 25 mm"), text!("along the hoop"), 0.2, 30.0, Footprint::Strip { length: 0.16, width: 0.025 }),
        firmer(
            amount(text!("one loop, 60 x 25 mm"), text!("along the hoop"), 0.2, 30.0, Footprint::Strip { length: 0.06, width: 0.025 }),
            2.0,
        ),
    ],
    prior: prior(90.0, 0.5, 0.3, 0.35),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Residue, Toll::Looks],
    price: Price::Little,
    cost: text!("Leaves residue on the head."),
    steps: &[
        text!("Lay the strip along the hoop without stretching it. A loop: sticky side out, its ends overlapping underneath."),
        text!("Rub it down."),
        text!("Fold one end over, so that it comes off again."),
    ],
    seconds_off: 15.0,
    steps_off: &[
        text!("Pull the folded end back flat over itself, slowly, along the hoop."),
        text!("Rub off what sticks with a bit of the same tape. Solvents attack coatings and film: leave them out."),
    ],
};

pub(super) const TISSUE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Tissue,
    name: text!("taped tissue"),
    plural: text!("taped tissues"),
    kinds: HEADS,
    amounts: &[
        amount(text!("folded to 5 x 5 cm"), text!("on the batter head"), 0.2, 40.0, Footprint::Strip { length: 0.05, width: 0.05 }),
        amount(
            text!("a napkin, folded to 9 x 9 cm"),
            text!("on the batter head"),
            0.5,
            40.0,
            Footprint::Strip { length: 0.09, width: 0.09 },
        ),
    ],
    prior: prior(140.0, 0.55, 0.3, 0.4),
    inside: false,
    in_the_way: true,
    loose: false,
    tolls: &[Toll::Looks, Toll::Residue, Toll::FallsOff],
    price: Price::Household,
    cost: text!("Looks makeshift, wears through where sticks land, and its tape leaves residue."),
    steps: &[
        text!("Fold the tissue flat to the size."),
        text!("Lay it off to one side, where sticks do not land."),
        text!("Tape it down along two sides, and fold one end of each tape over, so that it comes off again."),
        text!("Keep it away from stage lights and heaters; house fire rules decide."),
    ],
    seconds_off: 15.0,
    steps_off: &[text!("Pull the tape back flat over itself, slowly."), text!("Rub off what sticks with a bit of the same tape.")],
};

pub(super) const CONTROL_RING: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ControlRing,
    name: text!("control ring"),
    plural: text!("control rings"),
    kinds: TOPS,
    amounts: &[
        amount(text!("narrow, 15 mm"), text!("round the edge, on top"), 0.6, 5.0, Footprint::EdgeRing { width: 0.015 }),
        amount(text!("wide, 35 mm"), text!("round the edge, on top"), 1.5, 5.0, Footprint::EdgeRing { width: 0.035 }),
    ],
    prior: prior(190.0, 0.5, 0.3, 0.35),
    inside: false,
    in_the_way: true,
    loose: false,
    tolls: &[Toll::Rattles],
    price: Price::Bought,
    cost: text!("Takes some attack, and buzzes when it lies loose."),
    steps: &[text!("Lay the ring flat, inside the hoop."), text!("Tap the head: if it buzzes, hold it with two bits of tape.")],
    seconds_off: 5.0,
    steps_off: &[text!("Take off the bits of tape, if there are any, and lift the ring out."), text!("Keep it flat: a bent ring buzzes.")],
};

const CLOTH_OFF: &[Text] = &[
    text!("Open the clip, or free its edge from the hoop, and draw the cloth away."),
    text!("Air it: damp cloth is heavier and does more."),
];
const CLOTH_STEPS: &[Text] = &[
    text!("Lay the cloth on smooth, one layer."),
    text!("Clamp its edge under a microphone clip or the hoop."),
    text!("Keep it away from stage lights and heaters; house fire rules decide."),
];

pub(super) const THIN_CLOTH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ThinCloth,
    name: text!("thin cloth"),
    plural: text!("thin cloths"),
    kinds: HEADS,
    amounts: &[
        amount(text!("over a quarter of the head"), text!("over the edge"), 0.8, 15.0, Footprint::Cover { depth: 0.42 }),
        amount(text!("over half of the head"), text!("over one half"), 2.5, 15.0, Footprint::Cover { depth: 1.0 }),
        amount(text!("over the whole head"), text!("over all of the head"), 5.0, 15.0, Footprint::Cover { depth: 2.0 }),
    ],
    prior: prior(60.0, 0.5, 0.2, 0.15),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::FallsOff, Toll::Looks],
    price: Price::Household,
    cost: text!("Covers the attack where it lies, and slides unless it is clamped."),
    steps: CLOTH_STEPS,
    seconds_off: 10.0,
    steps_off: CLOTH_OFF,
};

pub(super) const THICK_CLOTH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::ThickCloth,
    name: text!("thick cloth"),
    plural: text!("thick cloths"),
    kinds: HEADS,
    amounts: &[
        amount(text!("over a quarter of the head"), text!("over the edge"), 1.5, 15.0, Footprint::Cover { depth: 0.55 }),
        amount(text!("over half of the head"), text!("over one half"), 4.0, 15.0, Footprint::Cover { depth: 1.0 }),
        amount(text!("over the whole head"), text!("over all of the head"), 9.0, 15.0, Footprint::Cover { depth: 2.0 }),
    ],
    prior: prior(170.0, 0.5, 0.2, 0.5),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Rebound, Toll::FallsOff, Toll::Looks],
    price: Price::Household,
    cost: text!("Turns the drum into a dull thud where it covers it."),
    steps: CLOTH_STEPS,
    seconds_off: 10.0,
    steps_off: CLOTH_OFF,
};

pub(super) const FATTER: Text =
    text!("For a fatter, lower note besides: put a turn of every rod, a quarter down, into the layout, so that it is reckoned with.");

pub(super) const HANGING_PAD: DeviceInfo = DeviceInfo {
    kind: DeviceKind::HangingPad,
    name: text!("hanging pad"),
    plural: text!("hanging pads"),
    kinds: HEADS,
    amounts: &[
        amount(text!("5 cm on the head"), text!("hanging over the hoop"), 0.5, 10.0, Footprint::OverHoop { length: 0.09, overlap: 0.05 }),
        amount(text!("8 cm on the head"), text!("hanging over the hoop"), 0.9, 10.0, Footprint::OverHoop { length: 0.09, overlap: 0.08 }),
    ],
    prior: prior(220.0, 0.6, 0.2, 1.0),
    inside: false,
    in_the_way: false,
    loose: true,
    tolls: &[Toll::FallsOff],
    price: Price::Household,
    cost: text!("Slides when played hard."),
    steps: &[
        text!("Hang the pad, or a wallet, over the hoop, its weight outside."),
        text!("Let its inner edge lie flat on the head."),
        text!("Tape the outside to the shell if it wanders."),
        FATTER,
    ],
    seconds_off: 5.0,
    steps_off: &[text!("Take the tape off the shell."), text!("Lift the pad from the hoop.")],
};

const SECOND_SKIN_OFF: &[Text] =
    &[text!("Take off the bits of tape and lift it out by its collar."), text!("Tune the lower head back down, if it went up for it.")];
const SECOND_SKIN_STEPS: &[Text] = &[
    text!("Lay it on the batter head, centred, its collar up."),
    text!("Strike and listen: where its own hoop clacks on the counter-hoop, hold it with three bits of tape."),
    text!("It wants a drum that sings under it: tune the lower head well up, or the drum only dies."),
];

pub(super) const DOUGHNUT: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Doughnut,
    name: text!("doughnut"),
    plural: text!("doughnuts"),
    kinds: TOPS,
    amounts: &[
        amount(
            text!("a hole of two thirds"),
            text!("on the batter head, round an open middle"),
            0.8,
            5.0,
            Footprint::Overlay { hole: 0.66, to: 1.0 },
        ),
        amount(
            text!("a hole of a third"),
            text!("on the batter head, round a small open middle"),
            1.2,
            5.0,
            Footprint::Overlay { hole: 0.33, to: 1.0 },
        ),
    ],
    prior: prior(45.0, 0.6, 0.3, 0.25),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Rattles, Toll::Looks],
    price: Price::Bought,
    cost: text!("A second skin: the pitch falls far, and its edge may clack."),
    steps: SECOND_SKIN_STEPS,
    seconds_off: 10.0,
    steps_off: SECOND_SKIN_OFF,
};

/// A hoop that is left on a spare head clacks on the counter-hoop.
const CLACKS: &[Toll] = &[Toll::Rattles];
const WHOLE: Footprint = Footprint::Overlay { hole: 0.0, to: 1.0 };
/// Two inches smaller, on drums as large as most toms.
const SMALLER: Footprint = Footprint::Overlay { hole: 0.0, to: 0.85 };

const fn skin(name: Text, attack_db: f64, footprint: Footprint) -> Amount {
    amount(name, text!("over all of the head"), attack_db, 5.0, footprint)
}

pub(super) const SPARE_HEAD: DeviceInfo = DeviceInfo {
    kind: DeviceKind::SpareHead,
    name: text!("upturned spare head"),
    plural: text!("upturned spare heads"),
    kinds: TOPS,
    amounts: &[
        firmer(costing(skin(text!("thin, 7 mil"), 1.2, WHOLE), CLACKS), 0.7),
        costing(skin(text!("ordinary, 10 mil"), 1.5, WHOLE), CLACKS),
        firmer(costing(skin(text!("double, 14 mil"), 1.8, WHOLE), CLACKS), 1.4),
        firmer(costing(skin(text!("double with oil, 14 mil"), 2.2, WHOLE), CLACKS), 1.9),
        firmer(skin(text!("ordinary, its hoop cut off"), 1.5, WHOLE), 0.9),
        firmer(skin(text!("ordinary, a size smaller, without its hoop"), 1.2, SMALLER), 0.9),
    ],
    prior: prior(45.0, 0.6, 0.3, 0.25),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::Rebound],
    price: Price::Bought,
    cost: text!("A second skin: the pitch falls far, the note turns to a thud, and its hoop may clack."),
    steps: SECOND_SKIN_STEPS,
    seconds_off: 10.0,
    steps_off: SECOND_SKIN_OFF,
};
