//! What is done to the head itself.

use super::{DeviceInfo, DeviceKind, Footprint, Price, TOPS, amount, prior};

pub(super) const SLACK_LUGS: DeviceInfo = DeviceInfo {
    kind: DeviceKind::SlackLugs,
    name: "set of slack lugs",
    plural: "sets of slack lugs",
    kinds: TOPS,
    amounts: &[amount("three lugs", "on your side of the batter head", 0.3, 120.0, Footprint::AtTheLugs { width: 0.045 })],
    // A wrinkled head rubs and flaps where the hoop no longer holds it; nothing is laid on that would weigh.
    prior: prior(90.0, 0.7, 0.3, 0.0),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[],
    price: Price::Nothing,
    cost: "The head is uneven, the other rods creep, and the note falls by a tone or more.",
    steps: &[
        "Tap a round first, so that the way back is known.",
        "The rod nearest you down until the key turns freely. Count the turns and remember them: they are the way back.",
        "Three turns down on both its neighbours, counted from the same mark on the key.",
        "Tap the others: they creep when their neighbours let go. Take up what turns by itself, and look again after the first song.",
        "A slack rod can work itself out and fall under a pedal: put a turn of tape round it.",
    ],
    seconds_off: 120.0,
    steps_off: &[
        "The same turns back up, crosswise and little by little. Stop when the key gets hard.",
        "Take the tape off the rod, tap a round and even it.",
    ],
};
