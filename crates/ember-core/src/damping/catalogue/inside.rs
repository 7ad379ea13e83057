//! Devices for which a head has to come off.

use super::{DeviceInfo, DeviceKind, Footprint, Price, TOMS, TOPS, Toll, amount, firmer, prior};
use crate::drum::{DrumKind, HeadSide};
use ember_words::{Text, text};

pub(super) const HEAD_OFF: Text = text!("Mark the first lug. Slacken crosswise, little by little, and lift the batter head off.");
pub(super) const HEAD_ON: Text =
    text!("Put the head back, finger-tight crosswise, then in small equal turns. Stop when the key gets hard.");
pub(super) const STRIP_ON: Text =
    text!("Put the head on over it, pull the strip smooth, and tune crosswise in small equal turns. Stop when the key gets hard.");
/// Time to take a head off and put it back on, s.
const HEAD_S: f64 = 600.0;

pub(super) const LOOSE_RING: DeviceInfo = DeviceInfo {
    kind: DeviceKind::LooseRing,
    name: text!("loose ring inside"),
    plural: text!("loose rings inside"),
    kinds: TOMS,
    amounts: &[amount(
        text!("2 in smaller than the drum"),
        text!("inside, loose on the lower head"),
        0.2,
        HEAD_S,
        Footprint::LooseRing { span_deg: 360.0 },
    )],
    prior: prior(260.0, 0.6, 0.3, 0.5),
    inside: true,
    in_the_way: false,
    loose: true,
    tolls: &[Toll::Rattles],
    price: Price::Bought,
    cost: text!("The head must come off, and the fundamental loses a good part."),
    steps: &[HEAD_OFF, text!("Lay the ring inside on the lower head, in the middle."), HEAD_ON],
    seconds_off: HEAD_S,
    steps_off: &[HEAD_OFF, text!("Lift the ring out."), HEAD_ON],
};

pub(super) const HALF_RING: DeviceInfo = DeviceInfo {
    kind: DeviceKind::HalfRing,
    name: text!("part of a ring inside"),
    plural: text!("parts of rings inside"),
    kinds: TOMS,
    amounts: &[
        amount(text!("half of a ring"), text!("inside, loose on the lower head"), 0.15, HEAD_S, Footprint::LooseRing { span_deg: 180.0 }),
        amount(
            text!("a quarter of a ring"),
            text!("inside, loose on the lower head"),
            0.1,
            HEAD_S,
            Footprint::LooseRing { span_deg: 90.0 },
        ),
    ],
    prior: prior(260.0, 0.6, 0.3, 0.5),
    inside: true,
    in_the_way: false,
    loose: true,
    tolls: &[Toll::Rattles],
    price: Price::Bought,
    cost: text!("The head must come off; milder than a whole ring."),
    steps: &[
        text!("Cut the ring on a hard base, away from the body, gloves on."),
        HEAD_OFF,
        text!("Lay the piece inside on the lower head, an inch from the shell."),
        HEAD_ON,
    ],
    seconds_off: HEAD_S,
    steps_off: &[HEAD_OFF, text!("Take the piece out, and its tape off the head."), HEAD_ON],
};

pub(super) const COTTON_BALLS: DeviceInfo = DeviceInfo {
    kind: DeviceKind::CottonBalls,
    name: text!("handful of cotton balls"),
    plural: text!("handfuls of cotton balls"),
    kinds: TOMS,
    amounts: &[
        amount(text!("three"), text!("inside, loose on the lower head"), 0.1, HEAD_S, Footprint::Balls { count: 3, radius: 0.018 }),
        amount(text!("six"), text!("inside, loose on the lower head"), 0.15, HEAD_S, Footprint::Balls { count: 6, radius: 0.018 }),
    ],
    prior: prior(170.0, 0.7, 0.2, 0.25),
    inside: true,
    in_the_way: false,
    loose: true,
    tolls: &[],
    price: Price::Household,
    cost: text!("The head must come off; mild, and they roll where they like."),
    steps: &[HEAD_OFF, text!("Drop the cotton balls on the lower head."), HEAD_ON],
    seconds_off: HEAD_S,
    steps_off: &[HEAD_OFF, text!("Count the balls out: one left behind is heard."), HEAD_ON],
};

pub(super) const UNDER_RING: DeviceInfo = DeviceInfo {
    kind: DeviceKind::UnderRing,
    name: text!("ring under the head"),
    plural: text!("rings under the head"),
    kinds: TOPS,
    amounts: &[
        amount(text!("narrow, 15 mm"), text!("round the edge, under the batter head"), 0.4, HEAD_S, Footprint::EdgeRing { width: 0.015 }),
        amount(text!("wide, 35 mm"), text!("round the edge, under the batter head"), 1.0, HEAD_S, Footprint::EdgeRing { width: 0.035 }),
    ],
    prior: prior(170.0, 0.5, 0.3, 0.35),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[],
    price: Price::Bought,
    cost: text!("The head must come off; the playing surface stays free."),
    steps: &[
        HEAD_OFF,
        text!("Lay the ring on the bearing edge's inner side so that it lies against the underside of the head."),
        HEAD_ON,
        text!("Tap round the edge: where it buzzes, hold the ring to the head with tape."),
    ],
    seconds_off: HEAD_S,
    steps_off: &[HEAD_OFF, text!("Take the ring out, and its tape off the underside."), HEAD_ON],
};

pub(super) const CENTRE_PATCH: DeviceInfo = DeviceInfo {
    kind: DeviceKind::CentrePatch,
    name: text!("centre patch"),
    plural: text!("centre patches"),
    kinds: TOPS,
    amounts: &[
        firmer(
            amount(
                text!("60 mm, two layers"),
                text!("under the middle of the batter head"),
                0.3,
                HEAD_S,
                Footprint::Centre { radius: 0.03 },
            ),
            2.0,
        ),
        firmer(
            amount(
                text!("100 mm, two layers"),
                text!("under the middle of the batter head"),
                0.5,
                HEAD_S,
                Footprint::Centre { radius: 0.05 },
            ),
            2.0,
        ),
        firmer(
            amount(
                text!("100 mm, four layers"),
                text!("under the middle of the batter head"),
                0.7,
                HEAD_S,
                Footprint::Centre { radius: 0.05 },
            ),
            4.0,
        ),
    ],
    prior: prior(30.0, 0.6, 0.3, 0.3),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[Toll::Rebound, Toll::Residue],
    price: Price::Little,
    cost: text!("Ghost notes rebound less; the pitch falls, so the head wants tuning up again."),
    steps: &[
        HEAD_OFF,
        text!(
            "Wipe the underside. Lay strips of tape side by side in the middle, the next layer across, and trim them round: knife away from \
         the body, never on the head itself."
        ),
        text!("Rub it down from the middle outwards."),
        HEAD_ON,
    ],
    seconds_off: HEAD_S,
    steps_off: &[
        HEAD_OFF,
        text!("Peel the layers off one by one, slowly, flat over themselves."),
        HEAD_ON,
        text!("The note comes back up by what the patch weighed: tune to it again."),
    ],
};

const BOTH: [HeadSide; 2] = [HeadSide::Batter, HeadSide::Lower];

const fn strip(width: f64, heads: &'static [HeadSide]) -> Footprint {
    Footprint::Across { width, off_centre: 0.35, heads }
}

pub(super) const FELT_STRIP: DeviceInfo = DeviceInfo {
    kind: DeviceKind::FeltStrip,
    name: text!("felt strip"),
    plural: text!("felt strips"),
    kinds: &[DrumKind::FloorTom, DrumKind::SecondKick, DrumKind::Kick, DrumKind::MarchingBass],
    amounts: &[
        amount(text!("50 mm wide"), text!("under the batter head, off the middle"), 0.3, HEAD_S, strip(0.05, &[HeadSide::Batter])),
        amount(text!("90 mm wide"), text!("under the batter head, off the middle"), 0.5, HEAD_S, strip(0.09, &[HeadSide::Batter])),
        amount(
            text!("50 mm wide, at the other head"),
            text!("under the other head, off the middle"),
            0.0,
            HEAD_S,
            strip(0.05, &[HeadSide::Lower]),
        ),
        amount(text!("50 mm wide, one at each head"), text!("under both heads, off the middle"), 0.3, 2.0 * HEAD_S, strip(0.05, &BOTH)),
    ],
    prior: prior(70.0, 0.6, 0.2, 0.3),
    inside: true,
    in_the_way: false,
    loose: false,
    tolls: &[],
    price: Price::Little,
    cost: text!("The head must come off; gentle, all over."),
    steps: &[
        HEAD_OFF,
        text!("Lay the strip over the shell, off the middle, its ends over the bearing edge."),
        STRIP_ON,
        text!("Trim what hangs out, away from the body."),
    ],
    seconds_off: HEAD_S,
    steps_off: &[HEAD_OFF, text!("Lift the strip off the bearing edge and wipe lint away; at the other head the same."), HEAD_ON],
};
