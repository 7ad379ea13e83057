//! How a head comes off and goes on, in words: crosswise and rod by rod, or by the one bolt that pulls the whole hoop at once.

use super::kit::Drum;
use ember_words::{Text, Words, text, words};

/// Fewest lugs that are turned in an order; a head with fewer is held by one bolt, or by so few that each pulls a large part of the hoop.
pub const FEWEST_LUGS: usize = 4;

impl Drum {
    /// Whether the whole hoop is pulled by a single bolt, or by so few rods that they are turned like one.
    pub fn has_one_bolt(&self) -> bool {
        self.kind.has_heads() && usize::from(self.lugs) < FEWEST_LUGS
    }

    /// How `which` head comes off.
    pub fn taken_off(&self, which: Text) -> Words {
        match self.has_one_bolt() {
            true => words!("Open the bolt by half turns until the hoop is loose, and take the {which} off."),
            false => words!("Mark the first lug. Take the {which} off, crosswise and little by little."),
        }
    }

    /// How `what` is put on. The caller adds where to stop: at `stop_words`, or at a pitch.
    pub fn put_on(&self, what: Words) -> Words {
        match self.has_one_bolt() {
            true => words!("Put {what} on, turn the bolt until it bites, then by half turns."),
            false => words!("Put {what} on, finger-tight crosswise, then in small equal turns."),
        }
    }

    /// When turning ends.
    pub fn stop_words(&self) -> Text {
        if self.has_one_bolt() { text!("Stop when the bolt gets hard.") } else { text!("Stop when the key gets hard.") }
    }
}
