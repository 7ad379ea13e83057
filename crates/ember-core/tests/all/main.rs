//! The tests of the core, in one program: most of the time of many would go into linking each with the core. One part alone:
//! `cargo test -p ember-core --test all in_air::::`.

mod against_reference_library;
mod blows;
mod common;
mod common_practice;
mod cymbals;
mod damping_physics;
mod different_drums;
mod doubt;
mod even_heads;
mod evening;
mod genres;
mod hard_input;
mod heard_first;
mod in_air;
mod kick;
mod large_falls;
mod learning;
mod lug_pitches;
mod measuring_limits;
mod mode_integrals;
mod model_sound;
mod next_steps;
mod plans;
mod predicted_and_simulated;
mod snare_wires;
mod spoilt_recordings;
mod strike_trains;
mod synthetic;
mod synthetic_strikes;
mod tuning_practice;
mod two_heads;
mod validation;
mod venue_practice;
mod where_it_fails;
mod whole_kit;
