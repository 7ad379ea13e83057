//! What is put into kick drums, and on them.

use super::{
    Amount, BASSES, DeviceInfo, DeviceKind, Footprint, KICKS, PEDALLED, Price, Toll, airy, amount, clicking, costing, firmer, outside,
    prior,
};
use crate::drum::DrumKind;

pub(super) const FRONT_OFF: &str = "Take the front head off crosswise, little by little.";
const FRONT_ON: &str = "Put the front head back. Bend your knees when you lift the drum.";
pub(super) const TOWEL_OUT: &str =
    "Hung outside: lift it off the hoop. Inside: take the front head off crosswise, undo the hook-and-loop, and lift the towel out.";
const FILL_OFF: &[&str] = &[FRONT_OFF, "Undo the hook-and-loop or tape and lift it out.", FRONT_ON];
const FIXED: &str = "Fix it with hook-and-loop or tape on the shell, so that it cannot wander under the beater in transport.";
/// Time to take the front head off and put it back on, s.
const FRONT_S: f64 = 300.0;

/// What lies on the floor of a kick and reaches so far up the heads (parts of their radius), `contact` times as firmly as usual, and
/// takes the part `air` of what the air's spring holds.
const fn fill(name: &'static str, place: &'static str, attack_db: f64, heads: (f64, f64), contact: f64, air: f64) -> Amount {
    airy(firmer(amount(name, place, attack_db, FRONT_S, Footprint::Fill { batter: heads.0, front: heads.1 }), contact), air)
}

/// Room that what is laid into a drum takes there, l (of things of the usual size, from experience; no published source).
pub(in crate::damping) const fn litres(device: DeviceKind) -> f64 {
    match device {
        DeviceKind::Pillow => 15.0,
        DeviceKind::Blanket => 12.0,
        DeviceKind::FoamBlock => 10.0,
        DeviceKind::StuffedShirt => 6.0,
        _ => 3.0,
    }
}

/// What lies firmly on the batter head lets the beater come back less.
const FOOT: &[Toll] = &[Toll::FootForce];
/// Near the beater's way.
const BEATER: &[Toll] = &[Toll::InTheWay];
/// Touches neither head.
const UNTOUCHED: Footprint = Footprint::Fill { batter: 0.0, front: 0.0 };
const FLOOR: &str = "inside, on the floor of the drum";
const AT_BATTER: &str = "inside, pushed against the batter head";

pub(super) const PILLOW: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Pillow,
    name: "pillow",
    plural: "pillows",
    kinds: KICKS,
    amounts: &[
        fill("just grazing both heads", FLOOR, 0.2, (0.34, 0.34), 0.4, 0.12),
        fill("touching both heads", FLOOR, 0.5, (0.40, 0.40), 0.7, 0.12),
        costing(fill("pressed on the batter head", AT_BATTER, 1.0, (0.50, 0.30), 1.0, 0.12), FOOT),
        costing(fill("leaning on the batter head", AT_BATTER, 0.7, (0.40, 0.30), 0.85, 0.12), FOOT),
        fill("5 cm off the batter, touching the front head", FLOOR, 0.1, (0.0, 0.30), 0.7, 0.12),
    ],
    prior: prior(420.0, 0.6, 0.0, 1.2),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Household,
    cost: "The front head has to come off, and it moves in transport.",
    steps: &[FRONT_OFF, "Lay the pillow on the floor of the drum so that it touches as planned.", FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

pub(super) const BLANKET: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Blanket,
    name: "folded blanket",
    plural: "folded blankets",
    kinds: KICKS,
    amounts: &[
        fill("folded flat, just grazing both heads", FLOOR, 0.3, (0.30, 0.30), 0.5, 0.2),
        fill("folded twice, 10 cm up each head", FLOOR, 0.6, (0.36, 0.36), 0.8, 0.2),
        fill("folded twice, pulled 5 cm off the batter head", FLOOR, 0.2, (0.0, 0.36), 0.8, 0.2),
        costing(fill("folded twice, pressed on the batter head", AT_BATTER, 1.2, (0.55, 0.30), 1.1, 0.2), FOOT),
    ],
    prior: prior(480.0, 0.6, 0.0, 1.8),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Household,
    cost: "The front head has to come off; heavier and deader than a pillow.",
    steps: &[FRONT_OFF, "Fold the blanket as planned and lay it on the floor of the drum, its edges up the heads.", FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

pub(super) const TOWEL: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Towel,
    name: "towel",
    plural: "towels",
    kinds: BASSES,
    amounts: &[
        fill("rolled, along the foot of the batter head", AT_BATTER, 0.3, (0.14, 0.0), 0.7, 0.05),
        fill("rolled, along the foot of the front head", FLOOR, 0.1, (0.0, 0.14), 0.7, 0.05),
        // What hangs before an upright head presses on it less than what lies on one.
        outside(firmer(
            amount("hung over the hoop, outside", "hanging over the hoop", 0.5, 20.0, Footprint::OverHoop { length: 0.35, overlap: 0.10 }),
            0.5,
        )),
    ],
    prior: prior(300.0, 0.6, 0.1, 0.9),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders, Toll::FallsOff],
    price: Price::Household,
    cost: "Mild; a roll inside means taking the front head off, and outside it slides.",
    steps: &["Roll the towel tightly and tape the roll, or hang it over the hoop away from the beater.", FIXED],
    seconds_off: 20.0,
    steps_off: &[TOWEL_OUT, "Inside: put the front head back. Bend your knees when you lift the drum."],
};

pub(super) const FOAM_BLOCK: DeviceInfo = DeviceInfo {
    kind: DeviceKind::FoamBlock,
    name: "foam block",
    plural: "foam blocks",
    kinds: &[DrumKind::Kick, DrumKind::MarchingBass],
    amounts: &[
        fill("along the foot of the batter head", AT_BATTER, 0.2, (0.22, 0.0), 0.8, 0.25),
        fill("between both heads, just touching", FLOOR, 0.3, (0.22, 0.22), 0.6, 0.25),
        fill("between both heads, pressed in", FLOOR, 0.6, (0.30, 0.30), 1.1, 0.25),
    ],
    prior: prior(260.0, 0.6, 0.1, 0.4),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Bought,
    cost: "The front head has to come off; it swallows the air's ring as well as the heads'.",
    steps: &[FRONT_OFF, "Set the block on the floor of the drum, cut side to the head.", FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

pub(super) const STUFFED_SHIRT: DeviceInfo = DeviceInfo {
    kind: DeviceKind::StuffedShirt,
    name: "stuffed T-shirt",
    plural: "stuffed T-shirts",
    kinds: KICKS,
    amounts: &[
        fill("just grazing both heads", FLOOR, 0.1, (0.30, 0.30), 0.4, 0.06),
        fill("against the batter head", AT_BATTER, 0.4, (0.25, 0.0), 0.7, 0.06),
    ],
    prior: prior(300.0, 0.7, 0.1, 0.8),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Household,
    cost: "A small pillow; the front head has to come off.",
    steps: &[FRONT_OFF, "Stuff the T-shirt with another one, knot it, and lay it as planned.", FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

const OUTSIDE: &str = "outside, against the edge of both heads";

pub(super) const INFLATED_TUBE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::InflatedTube,
    name: "inflated tube",
    plural: "inflated tubes",
    kinds: KICKS,
    amounts: &[
        airy(
            firmer(amount("soft, between both heads", "inside, round the shell", 0.3, FRONT_S, Footprint::Tube { width: 0.05 }), 0.4),
            0.03,
        ),
        airy(
            firmer(amount("firm, between both heads", "inside, round the shell", 0.6, FRONT_S, Footprint::Tube { width: 0.07 }), 0.9),
            0.03,
        ),
        costing(outside(firmer(amount("soft, one outside each head", OUTSIDE, 0.4, 40.0, Footprint::Tube { width: 0.05 }), 0.4)), BEATER),
        costing(outside(firmer(amount("firm, one outside each head", OUTSIDE, 0.8, 40.0, Footprint::Tube { width: 0.07 }), 0.9)), BEATER),
    ],
    prior: prior(160.0, 0.7, 0.2, 0.35),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Rattles],
    price: Price::Household,
    cost: "Even all round; it loses air, and may burst. Outside it comes near the beater's way.",
    steps: &[
        "Inside: open the front head little by little, take it off, and lay the tube in the shell, its valve where you can reach it. \
         Outside: push one inside each hoop, against the head, clear of beater and pedal.",
        "Inflate it until it touches as planned, and not beyond what it is made for. Keep it away from edges and lamps.",
        "Inside: put the front head back; bend your knees when you lift the drum. Outside: tie it to the hoop, so that it cannot fall under the pedal.",
    ],
    seconds_off: 60.0,
    steps_off: &[
        "Let the air out first, and slowly.",
        "Outside: untie it and pull it from behind the hoop. Inside: take the front head off, and lift it out.",
        "Inside: put the front head back; bend your knees when you lift the drum.",
    ],
};

pub(super) const BEATER_CLOTH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::BeaterCloth,
    name: "cloth under the beater",
    plural: "cloths under the beater",
    kinds: PEDALLED,
    amounts: &[
        amount("thin, one layer", "on the batter head, where the beater lands", 2.0, 20.0, Footprint::Centre { radius: 0.07 }),
        firmer(amount("folded once", "on the batter head, where the beater lands", 3.5, 20.0, Footprint::Centre { radius: 0.07 }), 2.0),
    ],
    prior: prior(20.0, 0.7, 0.3, 0.2),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::FootForce, Toll::Looks, Toll::FallsOff],
    price: Price::Household,
    cost: "Quick and crude: the attack goes soft.",
    steps: &[
        "Hang the cloth between pedal and head, its upper edge under the hoop's claw or taped to the hoop.",
        "Check that nothing can fall under the pedal.",
    ],
    seconds_off: 10.0,
    steps_off: &["Undo it at the hoop and pull it out from behind the beater.", "Look that nothing is left under the pedal."],
};

const LANDS: &str = "on the batter head, where the beater lands";

pub(super) const BEATER_PATCH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::BeaterPatch,
    name: "beater patch",
    plural: "beater patches",
    kinds: PEDALLED,
    amounts: &[
        clicking(amount("60 mm film", LANDS, 0.0, 60.0, Footprint::Centre { radius: 0.03 }), 1.5),
        clicking(firmer(amount("60 mm film, doubled", LANDS, 0.0, 60.0, Footprint::Centre { radius: 0.03 }), 2.0), 2.5),
    ],
    prior: prior(8.0, 0.6, 0.3, 0.35),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Residue],
    price: Price::Bought,
    cost: "The head lasts longer and the beater clicks more; the body hardly changes.",
    steps: &["Wipe the head where the beater lands.", "Stick the patch on, smooth, from the middle outwards."],
    seconds_off: 60.0,
    steps_off: &[
        "Warm it with a hand for a minute, then peel it off slowly from one side.",
        "Wipe off what sticks; solvents attack the film.",
    ],
};

pub(super) const STEEL_CAN: DeviceInfo = DeviceInfo {
    kind: DeviceKind::SteelCan,
    name: "heavy steel can",
    plural: "heavy steel cans",
    kinds: KICKS,
    amounts: &[
        airy(amount("one, 3 to 4 kg", "inside, standing on the floor of the drum, clear of both heads", 0.0, FRONT_S, UNTOUCHED), 0.2),
        airy(amount("two, 3 to 4 kg each", "inside, standing on the floor of the drum, clear of both heads", 0.0, FRONT_S, UNTOUCHED), 0.3),
    ],
    // It touches no head: only what it takes from the air counts, and of that little is known but that the lows become tighter (common practice, no
    // published source).
    prior: prior(100.0, 1.0, 0.0, 0.0),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders, Toll::Rattles],
    price: Price::Household,
    cost: "Odd, and heavy: it tightens the lows in front of a microphone more than at the drum. It must not rattle.",
    steps: &[
        FRONT_OFF,
        "Lift with your knees. Stand the can, closed and full, on a folded cloth on the floor of the drum, off both heads.",
        "Strap it down with hook-and-loop: it must neither rattle nor wander, and take it out before the drum is carried.",
        FRONT_ON,
    ],
    seconds_off: FRONT_S,
    steps_off: &[FRONT_OFF, "Undo the strap. Lift the can out with your knees, close to the body.", FRONT_ON],
};
