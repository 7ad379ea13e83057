//! Tuning a head: what pitch each lug has, which rods to turn by how much, and how pitches stand to one another.

mod axis;
mod bass;
mod bass_listener;
mod faint;
mod family;
mod influence;
mod kit_pitches;
mod pair;
mod pattern;
mod pitch;
mod round;
mod seating;
mod tap;
mod tension;
mod turns;
mod uneven;
mod wires;

pub use bass::{KickAgainstBass, UnknownNotes, bass_notes, boomy_notes, kick_against_bass};
pub use bass_listener::{BassListener, HeardNote};
pub use faint::FaintTaps;
pub use family::Expected;
pub use influence::{EIGHTH_TENSION, Influence, TurnTrial};
pub use kit_pitches::{TomIntervals, TomPitch, tom_pitches};
pub use pair::{HeadPair, PairSchool, PairWish, head_pair};
pub use pattern::{FEWEST_LUGS, across, crosswise};
pub use pitch::{Note, note_hz, parse_key, parse_note};
pub use round::{LugPitch, RoundPitches, RoundTap, Split, hear_round};
pub use seating::{GuideStep, SeatingTask, seating_steps};
pub use tap::{TapFault, TapReader, TapSound};
pub use tension::{TensionLimit, head_from_lugs, lugs_from_head, pitch_at, tension, tension_limit};
pub use turns::{EVEN_CENTS, Goal, NextTurns, Turn, TurnedHead, next_turns};
pub use uneven::{USUALLY_SLACK_AFTER, UnevenRecipe, in_order, steps_back, turns_in_words, uneven_steps};
pub use wires::{WireAdvice, WireStep, WireWish, wire_advice};
