//! Drums: sizes and heads, how membranes move, and the two heads joined by the air between them.

mod air;
mod air_load;
mod fit;
mod head;
mod head_motions;
mod kinds;
mod kit;
mod label;
mod membrane;
mod nodal_lines;
mod own_wish;
mod pair_body;
mod plate;
mod port;
mod split;
mod spread;
mod two_heads;
mod usual_kits;

pub use air::{air_spring, flow_mass, helmholtz_hz, open_length, port_length};
pub use head::{DOT_MASS, DOT_RADIUS, EDGE_RING_FROM, Head, HeadFamily, HeadTrait, MIL};
pub use kinds::{KindInfo, Nature};
pub use kit::{Drum, DrumKind, FEWEST_RODS, Hoops, InvalidDrum, Role, Shell, TooMuch, WireTension, Wires};
pub use label::label_modes;
pub use membrane::{Member, MembraneMode, modes_up_to};
pub use nodal_lines::{NodalLines, nodal_lines};
pub use own_wish::{Character, LikedTone, OwnWish, Shape};
pub use pair_body::{PairBody, body_of_pair};
pub use plate::{Plate, edge_gain};
pub use port::{Front, MOST_PORTS, Port, usual_place};
pub use split::{SplitPair, split_pairs};
pub use spread::mixed_rate;
pub use two_heads::{DrumModel, HeadSide, ModeShape};
pub use usual_kits::UsualKit;
