//! How a head comes off and goes on, in words: crosswise and rod by rod, or by the one bolt that pulls the whole hoop at once.

use super::kit::Drum;

/// Fewest lugs that are turned in an order; a head with fewer is held by one bolt, or by so few that each pulls a large part of the hoop.
pub const FEWEST_LUGS: usize = 4;

impl Drum {
    /// Whether the whole hoop is pulled by a single bolt, or by so few rods that they are turned like one.
    pub fn has_one_bolt(&self) -> bool {
        self.kind.has_heads() && usize::from(self.lugs) < FEWEST_LUGS
    }

    /// How `which` head comes off.
    pub fn taken_off(&self, which: &str) -> String {
        match self.has_one_bolt() {
            true => format!("Open the bolt by half turns until the hoop is loose, and take the {which} off."),
            false => format!("Mark the first lug. Take the {which} off, crosswise and little by little."),
        }
    }

    /// How `what` is put on. The caller adds where to stop: at `stop_words`, or at a pitch.
    pub fn put_on(&self, what: &str) -> String {
        match self.has_one_bolt() {
            true => format!("Put {what} on, turn the bolt until it bites, then by half turns."),
            false => format!("Put {what} on, finger-tight crosswise, then in small equal turns."),
        }
    }

    /// When turning ends.
    pub fn stop_words(&self) -> &'static str {
        if self.has_one_bolt() { "Stop when the bolt gets hard." } else { "Stop when the key gets hard." }
    }
}
