//! A strike of the simulated drum, re-made for a device, against what the predictor says and against the simulated drum with that device
//! on: the simulated drum shares no formula with either.

use crate::common::played;
use ember_core::audition::{Change, remade};
use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::damping::{Open, Placement, Predictor};
use ember_core::decay::{Listener, StrikeMeasurement, combine_partials, summarize};
use ember_core::drum::DrumKind;

fn measured(sound: &[f32]) -> Vec<StrikeMeasurement> {
    let mut listener = Listener::new(f64::from(SAMPLE_RATE));
    let mut strikes = listener.push(sound);
    strikes.extend(listener.finish());
    strikes.into_iter().map(|strike| strike.measurement).collect()
}

#[test]
fn a_remade_strike_lasts_as_long_as_is_expected_and_as_the_treated_drum_does() {
    let mut against_expected = Vec::new();
    let mut against_drum = Vec::new();
    for (kind, placed) in [
        (DrumKind::Tom, "gel_pad:0:0.85:180"),
        (DrumKind::Tom, "control_ring:0"),
        (DrumKind::FloorTom, "hanging_pad:0:0.9:180"),
        (DrumKind::FloorTom, "thin_cloth:0:0.9:180"),
        (DrumKind::Snare, "tape:1:0.9:180"),
    ] {
        let drum = BenchDrum::usual(kind);
        let placement = Placement::parse(placed).unwrap();
        let sound = played(&BenchDrum::new(&drum, &[]).unwrap(), 3);
        let strikes = measured(&sound);
        let (partials, profile) = (combine_partials(&strikes), summarize(&strikes).profile);
        let predictor = Predictor::new(&drum, &partials).unwrap();
        let grip = predictor.grip(&placement);
        let expected = predictor.expect(&Open { partials: &partials, profile: &profile }, &[placement], &[&grip]);
        // The first strike with some silence before it, up to the second.
        let at = |strike: &StrikeMeasurement| (strike.onset_s * f64::from(SAMPLE_RATE)) as usize;
        let lead = SAMPLE_RATE as usize / 2;
        let (from, to) = (at(&strikes[0]) - lead, at(&strikes[1]) - SAMPLE_RATE as usize / 20);
        let change = Change { before: predictor.bare(), after: &expected.partials, attack_lost_db: expected.attack_lost_db };
        let made = measured(&remade(&sound[from..to], f64::from(SAMPLE_RATE), lead, &change));
        let body = made.first().and_then(|strike| strike.profile.body_t60_s).unwrap_or_else(|| panic!("{placed}: no body"));
        let treated = measured(&played(&BenchDrum::new(&drum, &[placement]).unwrap().with_known_devices(), 2));
        let found = summarize(&treated).profile.body_t60_s.unwrap();
        let wanted = expected.profile.body_t60_s.unwrap();
        println!("{kind:?}, {placed}: body {body:.3} s re-made, {wanted:.3} expected, {found:.3} on the simulated drum");
        against_expected.push((body / wanted).ln().abs());
        against_drum.push((body / found).ln().abs());
    }
    // The strike's own body differs from the take's by a few parts in a hundred.
    assert!(against_expected.iter().all(|off| *off < 0.08), "{against_expected:?}");
    assert!(against_drum.iter().all(|off| *off < 0.25), "{against_drum:?}");
}
