//! Drums: sizes and heads, how membranes move, and the two heads joined by the air between them.

mod air;
mod air_load;
mod bessel;
mod fit;
mod head;
mod head_motions;
mod kit;
mod label;
mod membrane;
mod nodal_lines;
mod pair_body;
mod plate;
mod port;
mod split;
mod spread;
mod tone;
mod two_heads;

pub use air::{air_spring, flow_mass, helmholtz_hz, open_length, port_length};
pub use bessel::{bessel_j, bessel_zero};
pub use head::{DOT_MASS, DOT_RADIUS, EDGE_RING_FROM, Head, HeadFamily, HeadTrait, MIL};
pub use kit::{Drum, DrumKind, FEWEST_RODS, Hoops, InvalidDrum, Role, Shell, TooMuch, WireTension, Wires};
pub use label::label_modes;
pub use membrane::{Member, MembraneMode, modes_up_to};
pub use nodal_lines::{NodalLines, nodal_lines};
pub use pair_body::{PairBody, body_of_pair};
pub use plate::{Plate, edge_gain};
pub use port::{Front, MOST_PORTS, Port, usual_place};
pub use split::{SplitPair, split_pairs};
pub use spread::mixed_rate;
pub(crate) use tone::read_tone;
pub use tone::{Mode, Motion, Tone};
pub use two_heads::{DrumModel, HeadSide, ModeShape};

/// Density of air at 20 degrees C, kg/m3.
pub const AIR_DENSITY: f64 = 1.204;
/// Speed of sound in air at 20 degrees C, m/s.
pub const SPEED_OF_SOUND: f64 = 343.2;
