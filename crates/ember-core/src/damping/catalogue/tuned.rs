//! What is done to the head itself.

use super::{Amount, DeviceInfo, DeviceKind, Footprint, Price, TOPS, amount, prior};
use crate::drum::DrumKind;
use ember_words::{Text, text};

pub(super) const SLACK_LUGS: DeviceInfo = DeviceInfo {
    kind: DeviceKind::SlackLugs,
    name: text!("set of slack lugs"),
    plural: text!("sets of slack lugs"),
    kinds: TOPS,
    amounts: &[amount(text!("three lugs"), text!("on your side of the batter head"), 0.3, 120.0, Footprint::AtTheLugs { depth: 0.25 })],
    // A wrinkled head rubs and flaps where the hoop no longer holds it, the further in the larger it is: dry, nearly all of the ring is gone (common
    // practice, no published source). Nothing is laid on that would weigh.
    prior: prior(90.0, 0.7, 0.3, 0.0),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[],
    price: Price::Nothing,
    cost: text!("The head is uneven, the other rods creep, and the note falls by a tone or more."),
    steps: &[
        text!("Tap a round first, so that the way back is known."),
        text!("The rod nearest you down until the key turns freely. Count the turns and remember them: they are the way back."),
        text!("Three turns down on both its neighbours, counted from the same mark on the key."),
        text!(
            "Tap the others: they creep when their neighbours let go. Take up what turns by itself, and look again after the first song."
        ),
        text!("A slack rod can work itself out and fall under a pedal: put a turn of tape round it."),
    ],
    seconds_off: 120.0,
    steps_off: &[
        text!("The same turns back up, crosswise and little by little. Stop when the key gets hard."),
        text!("Take the tape off the rod, tap a round and even it."),
    ],
};

const fn turned(name: Text, eighths: i32) -> Amount {
    Amount { eighths, ..amount(name, text!("on the batter head, crosswise"), 0.0, 90.0, Footprint::Nothing) }
}

pub(super) const RODS_TURNED: DeviceInfo = DeviceInfo {
    kind: DeviceKind::RodsTurned,
    name: text!("turn of every rod"),
    plural: text!("turns of every rod"),
    kinds: &[
        DrumKind::Snare,
        DrumKind::Tom,
        DrumKind::FloorTom,
        DrumKind::Kick,
        DrumKind::SecondKick,
        DrumKind::ConcertTom,
        DrumKind::ConcertBass,
        DrumKind::MarchingBass,
        DrumKind::HandDrum,
    ],
    amounts: &[
        turned(text!("an eighth up"), 1),
        turned(text!("a quarter up"), 2),
        turned(text!("three eighths up"), 3),
        turned(text!("half a turn up"), 4),
        turned(text!("three quarters up"), 6),
        turned(text!("a full turn up"), 8),
        turned(text!("one turn and a half up"), 12),
        turned(text!("an eighth down"), -1),
        turned(text!("a quarter down"), -2),
        turned(text!("half a turn down"), -4),
    ],
    // No resistance and no mass: what is in doubt is how far an eighth goes, which differs from head to head.
    prior: prior(1.0, 0.45, 0.0, 0.0),
    inside: false,
    in_the_way: false,
    loose: false,
    tolls: &[],
    price: Price::Nothing,
    cost: text!("The note moves and nothing gets shorter; a round has to be tapped afterwards."),
    steps: &[
        text!("Where a head was off for something else, first bring it back to where it was: the lugs as they sounded before."),
        text!("Tap a round, so that the way back is known."),
        text!(
            "Each rod by the same turn, crosswise, beginning with the one nearest you. A quarter turn is the key's bar from lengthways to \
         across, an eighth half of that."
        ),
        text!(
            "Up: stop when the key gets hard, since a head that is pulled too far can tear and a lug can give. Down: stop before the head wrinkles."
        ),
        text!("Tap a round and even what has gone astray."),
    ],
    seconds_off: 90.0,
    steps_off: &[text!("The same turn the other way on each rod, crosswise."), text!("Tap a round and even it.")],
};
