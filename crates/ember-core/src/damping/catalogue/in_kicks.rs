//! What is put into kick drums, and on them.

use super::{
    Amount, BASSES, DeviceInfo, DeviceKind, Footprint, KICKS, PEDALLED, Price, Toll, airy, amount, clicking, costing, firmer, outside,
    prior,
};
use crate::drum::DrumKind;
use ember_words::{Text, text};

pub(super) const FRONT_OFF: Text = text!("Take the front head off crosswise, little by little.");
const FRONT_ON: Text = text!("Put the front head back. Bend your knees when you lift the drum.");
pub(super) const TOWEL_OUT: Text =
    text!("Hung outside: lift it off the hoop. Inside: take the front head off crosswise, undo the hook-and-loop, and lift the towel out.");
const FILL_OFF: &[Text] = &[FRONT_OFF, text!("Undo the hook-and-loop or tape and lift it out."), FRONT_ON];
const FIXED: Text = text!("Fix it with hook-and-loop or tape on the shell, so that it cannot wander under the beater in transport.");
/// Time to take the front head off and put it back on, s.
const FRONT_S: f64 = 300.0;

/// What lies on the floor of a kick and reaches so far up the heads (parts of their radius), `contact` times as firmly as usual, and
/// takes the part `air` of what the air's spring holds.
const fn fill(name: Text, place: Text, attack_db: f64, heads: (f64, f64), contact: f64, air: f64) -> Amount {
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
const FLOOR: Text = text!("inside, on the floor of the drum");
const AT_BATTER: Text = text!("inside, pushed against the batter head");

pub(super) const PILLOW: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Pillow,
    name: text!("pillow"),
    plural: text!("pillows"),
    kinds: KICKS,
    amounts: &[
        fill(text!("just grazing both heads"), FLOOR, 0.2, (0.34, 0.34), 0.4, 0.12),
        fill(text!("touching both heads"), FLOOR, 0.5, (0.40, 0.40), 0.7, 0.12),
        costing(fill(text!("pressed on the batter head"), AT_BATTER, 1.0, (0.50, 0.30), 1.0, 0.12), FOOT),
        costing(fill(text!("leaning on the batter head"), AT_BATTER, 0.7, (0.40, 0.30), 0.85, 0.12), FOOT),
        fill(text!("5 cm off the batter, touching the front head"), FLOOR, 0.1, (0.0, 0.30), 0.7, 0.12),
    ],
    prior: prior(420.0, 0.6, 0.0, 1.2),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Household,
    cost: text!("The front head has to come off, and it moves in transport."),
    steps: &[FRONT_OFF, text!("Lay the pillow on the floor of the drum so that it touches as planned."), FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

pub(super) const BLANKET: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Blanket,
    name: text!("folded blanket"),
    plural: text!("folded blankets"),
    kinds: KICKS,
    amounts: &[
        fill(text!("folded flat, just grazing both heads"), FLOOR, 0.3, (0.30, 0.30), 0.5, 0.2),
        fill(text!("folded twice, 10 cm up each head"), FLOOR, 0.6, (0.36, 0.36), 0.8, 0.2),
        fill(text!("folded twice, pulled 5 cm off the batter head"), FLOOR, 0.2, (0.0, 0.36), 0.8, 0.2),
        costing(fill(text!("folded twice, pressed on the batter head"), AT_BATTER, 1.2, (0.55, 0.30), 1.1, 0.2), FOOT),
    ],
    prior: prior(480.0, 0.6, 0.0, 1.8),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Household,
    cost: text!("The front head has to come off; heavier and deader than a pillow."),
    steps: &[FRONT_OFF, text!("Fold the blanket as planned and lay it on the floor of the drum, its edges up the heads."), FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

pub(super) const TOWEL: DeviceInfo = DeviceInfo {
    kind: DeviceKind::Towel,
    name: text!("towel"),
    plural: text!("towels"),
    kinds: BASSES,
    amounts: &[
        fill(text!("rolled, along the foot of the batter head"), AT_BATTER, 0.3, (0.14, 0.0), 0.7, 0.05),
        fill(text!("rolled, along the foot of the front head"), FLOOR, 0.1, (0.0, 0.14), 0.7, 0.05),
        // What hangs before an upright head presses on it less than what lies on one.
        outside(firmer(
            amount(
                text!("hung over the hoop, outside"),
                text!("hanging over the hoop"),
                0.5,
                20.0,
                Footprint::OverHoop { length: 0.35, overlap: 0.10 },
            ),
            0.5,
        )),
    ],
    prior: prior(300.0, 0.6, 0.1, 0.9),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders, Toll::FallsOff],
    price: Price::Household,
    cost: text!("Mild; a roll inside means taking the front head off, and outside it slides."),
    steps: &[text!("Roll the towel tightly and tape the roll, or hang it over the hoop away from the beater."), FIXED],
    seconds_off: 20.0,
    steps_off: &[TOWEL_OUT, text!("Inside: put the front head back. Bend your knees when you lift the drum.")],
};

pub(super) const FOAM_BLOCK: DeviceInfo = DeviceInfo {
    kind: DeviceKind::FoamBlock,
    name: text!("foam block"),
    plural: text!("foam blocks"),
    kinds: &[DrumKind::Kick, DrumKind::MarchingBass],
    amounts: &[
        fill(text!("along the foot of the batter head"), AT_BATTER, 0.2, (0.22, 0.0), 0.8, 0.25),
        fill(text!("between both heads, just touching"), FLOOR, 0.3, (0.22, 0.22), 0.6, 0.25),
        fill(text!("between both heads, pressed in"), FLOOR, 0.6, (0.30, 0.30), 1.1, 0.25),
    ],
    prior: prior(260.0, 0.6, 0.1, 0.4),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Bought,
    cost: text!("The front head has to come off; it swallows the air's ring as well as the heads'."),
    steps: &[FRONT_OFF, text!("Set the block on the floor of the drum, cut side to the head."), FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

pub(super) const STUFFED_SHIRT: DeviceInfo = DeviceInfo {
    kind: DeviceKind::StuffedShirt,
    name: text!("stuffed T-shirt"),
    plural: text!("stuffed T-shirts"),
    kinds: KICKS,
    amounts: &[
        fill(text!("just grazing both heads"), FLOOR, 0.1, (0.30, 0.30), 0.4, 0.06),
        fill(text!("against the batter head"), AT_BATTER, 0.4, (0.25, 0.0), 0.7, 0.06),
    ],
    prior: prior(300.0, 0.7, 0.1, 0.8),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders],
    price: Price::Household,
    cost: text!("A small pillow; the front head has to come off."),
    steps: &[FRONT_OFF, text!("Stuff the T-shirt with another one, knot it, and lay it as planned."), FIXED, FRONT_ON],
    seconds_off: FRONT_S,
    steps_off: FILL_OFF,
};

const OUTSIDE: Text = text!("outside, against the edge of both heads");

pub(super) const INFLATED_TUBE: DeviceInfo = DeviceInfo {
    kind: DeviceKind::InflatedTube,
    name: text!("inflated tube"),
    plural: text!("inflated tubes"),
    kinds: KICKS,
    amounts: &[
        airy(
            firmer(
                amount(text!("soft, between both heads"), text!("inside, round the shell"), 0.3, FRONT_S, Footprint::Tube { width: 0.05 }),
                0.4,
            ),
            0.03,
        ),
        airy(
            firmer(
                amount(text!("firm, between both heads"), text!("inside, round the shell"), 0.6, FRONT_S, Footprint::Tube { width: 0.07 }),
                0.9,
            ),
            0.03,
        ),
        costing(
            outside(firmer(amount(text!("soft, one outside each head"), OUTSIDE, 0.4, 40.0, Footprint::Tube { width: 0.05 }), 0.4)),
            BEATER,
        ),
        costing(
            outside(firmer(amount(text!("firm, one outside each head"), OUTSIDE, 0.8, 40.0, Footprint::Tube { width: 0.07 }), 0.9)),
            BEATER,
        ),
    ],
    prior: prior(160.0, 0.7, 0.2, 0.35),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Rattles],
    price: Price::Household,
    cost: text!("Even all round; it loses air, and may burst. Outside it comes near the beater's way."),
    steps: &[
        text!(
            "Inside: open the front head little by little, take it off, and lay the tube in the shell, its valve where you can reach it. \
         Outside: push one inside each hoop, against the head, clear of beater and pedal."
        ),
        text!("Inflate it until it touches as planned, and not beyond what it is made for. Keep it away from edges and lamps."),
        text!(
            "Inside: put the front head back; bend your knees when you lift the drum. Outside: tie it to the hoop, so that it cannot fall under the pedal."
        ),
    ],
    seconds_off: 60.0,
    steps_off: &[
        text!("Let the air out first, and slowly."),
        text!("Outside: untie it and pull it from behind the hoop. Inside: take the front head off, and lift it out."),
        text!("Inside: put the front head back; bend your knees when you lift the drum."),
    ],
};

pub(super) const BEATER_CLOTH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::BeaterCloth,
    name: text!("cloth under the beater"),
    plural: text!("cloths under the beater"),
    kinds: PEDALLED,
    amounts: &[
        amount(
            text!("thin, one layer"),
            text!("on the batter head, where the beater lands"),
            2.0,
            20.0,
            Footprint::Centre { radius: 0.07 },
        ),
        firmer(
            amount(
                text!("folded once"),
                text!("on the batter head, where the beater lands"),
                3.5,
                20.0,
                Footprint::Centre { radius: 0.07 },
            ),
            2.0,
        ),
    ],
    prior: prior(20.0, 0.7, 0.3, 0.2),
    inside: false,
    in_the_way: true,
    loose: true,
    tolls: &[Toll::FootForce, Toll::Looks, Toll::FallsOff],
    price: Price::Household,
    cost: text!("Quick and crude: the attack goes soft."),
    steps: &[
        text!("Hang the cloth between pedal and head, its upper edge under the hoop's claw or taped to the hoop."),
        text!("Check that nothing can fall under the pedal."),
    ],
    seconds_off: 10.0,
    steps_off: &[text!("Undo it at the hoop and pull it out from behind the beater."), text!("Look that nothing is left under the pedal.")],
};

const LANDS: Text = text!("on the batter head, where the beater lands");

pub(super) const BEATER_PATCH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::BeaterPatch,
    name: text!("beater patch"),
    plural: text!("beater patches"),
    kinds: PEDALLED,
    amounts: &[
        clicking(amount(text!("60 mm film"), LANDS, 0.0, 60.0, Footprint::Centre { radius: 0.03 }), 1.5),
        clicking(firmer(amount(text!("60 mm film, doubled"), LANDS, 0.0, 60.0, Footprint::Centre { radius: 0.03 }), 2.0), 2.5),
    ],
    prior: prior(8.0, 0.6, 0.3, 0.35),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Residue],
    price: Price::Bought,
    cost: text!("The head lasts longer and the beater clicks more; the body hardly changes."),
    steps: &[text!("Wipe the head where the beater lands."), text!("Stick the patch on, smooth, from the middle outwards.")],
    seconds_off: 60.0,
    steps_off: &[
        text!("Warm it with a hand for a minute, then peel it off slowly from one side."),
        text!("Wipe off what sticks; solvents attack the film."),
    ],
};

pub(super) const STEEL_CAN: DeviceInfo = DeviceInfo {
    kind: DeviceKind::SteelCan,
    name: text!("heavy steel can"),
    plural: text!("heavy steel cans"),
    kinds: KICKS,
    amounts: &[
        airy(
            amount(
                text!("one, 3 to 4 kg"),
                text!("inside, standing on the floor of the drum, clear of both heads"),
                0.0,
                FRONT_S,
                UNTOUCHED,
            ),
            0.2,
        ),
        airy(
            amount(
                text!("two, 3 to 4 kg each"),
                text!("inside, standing on the floor of the drum, clear of both heads"),
                0.0,
                FRONT_S,
                UNTOUCHED,
            ),
            0.3,
        ),
    ],
    // It touches no head: only what it takes from the air counts, and of that little is known but that the lows become tighter (common practice, no
    // published source).
    prior: prior(100.0, 1.0, 0.0, 0.0),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Wanders, Toll::Rattles],
    price: Price::Household,
    cost: text!("Odd, and heavy: it tightens the lows in front of a microphone more than at the drum. It must not rattle."),
    steps: &[
        FRONT_OFF,
        text!("Lift with your knees. Stand the can, closed and full, on a folded cloth on the floor of the drum, off both heads."),
        text!("Strap it down with hook-and-loop: it must neither rattle nor wander, and take it out before the drum is carried."),
        FRONT_ON,
    ],
    seconds_off: FRONT_S,
    steps_off: &[FRONT_OFF, text!("Undo the strap. Lift the can out with your knees, close to the body."), FRONT_ON],
};
