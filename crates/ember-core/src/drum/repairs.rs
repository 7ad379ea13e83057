//! What gets a drummer through the evening when something breaks, with the traps of each (common practice, no published source).

use ember_words::{Text, text};
use serde::Serialize;

/// What has gone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Broken {
    /// A head.
    Head,
    /// A hoop, rod or lug.
    Hoop,
    /// Snare wires or what holds them.
    Wires,
    /// A stand, leg or pedal.
    Stand,
    /// A cymbal or what holds it.
    Cymbal,
}

/// A way to go on playing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Repair {
    /// What has gone.
    pub broken: Broken,
    /// What happened, as a sentence.
    pub happened: Text,
    /// How long it takes, min.
    pub minutes: u8,
    /// What to do, one after the other.
    pub steps: &'static [Text],
    /// What goes wrong with it, and where one gets hurt.
    pub traps: &'static [Text],
}

/// All of them, in the order in which they are shown.
pub const REPAIRS: [Repair; 10] = [
    Repair {
        broken: Broken::Head,
        happened: text!("The batter head of a tom or snare has split, and there is no spare."),
        minutes: 8,
        steps: &[
            text!(
                "A short slit: let every rod down half a turn, tape across it with cloth tape, then over its ends. It holds for a set, lower than before."
            ),
            text!("A long one: take the lower head of a tom of the same size, and play that tom without."),
            text!("On a snare any head of its size will do on top; a snare-side head is too thin to be struck."),
        ],
        traps: &[text!("Film tears on from a slit’s end: no brushes and no rim shots on it. Keep eyes and face away while you tighten.")],
    },
    Repair {
        broken: Broken::Head,
        happened: text!("The kick’s batter head has split."),
        minutes: 12,
        steps: &[
            text!("Take the front head off. If it has no hole where the beater lands, put it on the batter side."),
            text!("Play without a front head: open, short and loud in front. Tape loose lug parts, so that they do not rattle."),
            text!("No second head: tape the slit on both sides with cloth tape, a square of cardboard under the beater, and play softly."),
        ],
        traps: &[text!("Bend your knees when you lift the drum. Look that nothing is left under the pedal.")],
    },
    Repair {
        broken: Broken::Hoop,
        happened: text!("The counter-hoop is bent below the shell’s edge, so that it no longer presses on the head."),
        minutes: 10,
        steps: &[
            text!("Take the hoop off and put it on upside down: what was bent down now stands up."),
            text!("Look all the way round before you turn anything: there must be a gap between hoop and shell everywhere."),
            text!(
                "Turn each rod in by hand: it must go at least five turns into its lug. If one is too short, try a longer rod of the same thread from another drum. If there is none, do not force it: this drum is out for tonight."
            ),
            text!("On a snare: look that the wires still reach the head, and that their straps clear the hoop."),
            text!("Finger-tight crosswise, then in small equal turns, and stay well below your usual pitch."),
        ],
        traps: &[
            text!("The edge that stands up now is sharp: no rim shots, and mind your knuckles."),
            text!("Too few threads strip the lug. Stop when the key gets hard."),
        ],
    },
    Repair {
        broken: Broken::Hoop,
        happened: text!("A rod has gone, or turns without holding."),
        minutes: 3,
        steps: &[
            text!("Take one from where it is missed least: the front of the kick, or the lower head of a floor tom."),
            text!("None that fits: leave the lug empty, let the one across from it down by half a turn, and even the others."),
            text!("A rod that backs off: a turn of tape or thread round it, then back in."),
        ],
        traps: &[text!("Never force a rod of another thread: the lug strips, and then it is gone as well.")],
    },
    Repair {
        broken: Broken::Hoop,
        happened: text!("A lug or a loose part rattles."),
        minutes: 2,
        steps: &[text!(
            "Hold parts of the drum one by one while somebody strikes it. Where the rattle stops, tape it or stuff a bit of cloth behind."
        )],
        traps: &[text!("Not while the band plays: a hand on the wrong part hides another rattle.")],
    },
    Repair {
        broken: Broken::Wires,
        happened: text!("A strand has come loose at one end."),
        minutes: 2,
        steps: &[text!("Cut it off flush at both ends with pliers. One or two fewer are not heard.")],
        traps: &[text!("A loose end pierces the head, and the end that flies off goes for the eyes: hold it while you cut.")],
    },
    Repair {
        broken: Broken::Wires,
        happened: text!("Cord or strap of the wires has torn, or the throw-off slips."),
        minutes: 5,
        steps: &[
            text!("Cord: a shoelace or strong string does. Strap: a strip of film from an old head, as wide as the clamp."),
            text!("Lay the wires straight and in the middle before you clamp them; tighten both ends alike."),
            text!("A throw-off that slips: put it on and tape it there."),
        ],
        traps: &[text!("A knot under the wires keeps them off the head.")],
    },
    Repair {
        broken: Broken::Stand,
        happened: text!("A leg, spur or stand slips."),
        minutes: 2,
        steps: &[
            text!("Set it, then a tight turn of tape round the tube just above the clamp, as a stop."),
            text!("A kick that creeps: a rope or belt from its spurs round your seat, or its front against the carpet’s edge."),
        ],
        traps: &[text!("Keep fingers out of folding stands. Nothing may fall under a pedal.")],
    },
    Repair {
        broken: Broken::Stand,
        happened: text!("The beater has come off or its felt is gone."),
        minutes: 2,
        steps: &[
            text!("Turn it to a side that is left, or wrap cloth tape round it, evenly."),
            text!("Or tape a wad of folded cloth to the end of the shaft: it sounds soft, and lasts the evening."),
        ],
        traps: &[text!("Check that its clamp holds before you play hard: a beater that flies off hits shins and heads.")],
    },
    Repair {
        broken: Broken::Cymbal,
        happened: text!("Sleeve, felt or wing nut is missing, or a cymbal has cracked."),
        minutes: 1,
        steps: &[
            text!(
                "Sleeve: a bit of hose, or three turns of tape round the rod. Felt: folded cloth. Wing nut: a thick ring of tape, loose enough that the cymbal swings."
            ),
            text!("A crack: turn it away from the stick, play softly there, or leave the cymbal out."),
        ],
        traps: &[text!("Never metal on metal: it cracks within a song. The edge of a crack cuts.")],
    },
];

#[cfg(test)]
mod tests {
    use super::*;
    use ember_words::{Joined, Words};

    #[test]
    fn every_repair_says_what_to_do_and_where_it_hurts() {
        for Repair { happened, minutes, steps, traps, .. } in REPAIRS {
            let whole = |sentence: &Text| sentence.ends_with(".") && sentence.english().chars().next().is_some_and(char::is_uppercase);
            assert!(whole(&happened) && (1..=15).contains(&minutes), "{happened}");
            assert!(!steps.is_empty() && steps.iter().all(whole) && !traps.is_empty() && traps.iter().all(whole), "{happened}");
        }
        // In the order in which the page asks what broke.
        let order = [Broken::Head, Broken::Hoop, Broken::Wires, Broken::Stand, Broken::Cymbal];
        assert!(REPAIRS.is_sorted_by_key(|repair| order.iter().position(|broken| *broken == repair.broken)));
        // "Check the gap all round, rod length, and that the snare wires still reach the head" (common practice, no published source).
        let reversed = REPAIRS.iter().find(|repair| repair.happened.contains("counter-hoop")).unwrap();
        let hoop = Words::list(Joined::Space, reversed.steps.iter().copied());
        assert!(["gap", "rod", "wires"].iter().all(|word| hoop.contains(word)));
    }
}
