//! The modal predictor against the finite-difference drum, which shares no formula with it.

use crate::common::{Measured, measured, played};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{Open, Placement, Predictor};
use ember_core::drum::DrumKind;
use ember_core::plan::{Figure, check};
use ember_core::units::median;
use std::sync::LazyLock;

const CASES: [(DrumKind, &[&str]); 12] = [
    (DrumKind::Snare, &["gel_pad:0:0.85:180"]),
    (DrumKind::Snare, &["control_ring:1"]),
    (DrumKind::Snare, &["thin_cloth:0"]),
    (DrumKind::Tom, &["gel_pad:0:0.85:180"]),
    (DrumKind::Tom, &["gel_pad:0:0.85:135", "gel_pad:0:0.85:225"]),
    (DrumKind::Tom, &["tape:1:0.9:180", "gel_pad:0:0.75:90"]),
    (DrumKind::Tom, &["control_ring:0"]),
    (DrumKind::Tom, &["hanging_pad:1"]),
    (DrumKind::FloorTom, &["gel_pad:0:0.65:180", "gel_pad:0:0.65:90"]),
    (DrumKind::FloorTom, &["thin_cloth:0"]),
    (DrumKind::Kick, &["gel_pad:0:0.65:150", "gel_pad:0:0.65:210"]),
    (DrumKind::Kick, &["pillow:1"]),
];

/// The untouched drum, played and measured once.
fn open(kind: DrumKind) -> &'static Measured {
    static OPEN: LazyLock<[Measured; 4]> =
        LazyLock::new(|| DrumKind::OF_A_KIT.map(|kind| measured(&played(&BenchDrum::new(&BenchDrum::usual(kind), &[]).unwrap(), 3))));
    let at = DrumKind::OF_A_KIT.iter().position(|other| *other == kind).unwrap();
    &OPEN[at]
}

/// For every case: the logarithms of found against expected body and ring, and whether each lay in its range.
fn compare(known: bool) -> (Vec<f64>, Vec<bool>) {
    let mut errors = Vec::new();
    let mut within = Vec::new();
    for (kind, specs) in CASES {
        let drum = BenchDrum::usual(kind);
        let open = open(kind);
        let placements: Vec<Placement> = specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect();
        let predictor = Predictor::new(&drum, &open.partials).unwrap();
        let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
        let start = Open { partials: &open.partials, profile: &open.summary.profile };
        let expected = predictor.expect(&start, &placements, &grips.iter().collect::<Vec<_>>());
        let treated = BenchDrum::new(&drum, &placements).unwrap();
        let found = measured(&played(&if known { treated.with_known_devices() } else { treated }, 3));
        for row in check(open.sounding(), &expected, found.sounding()) {
            if matches!(row.figure, Figure::BodyT60 | Figure::RingT60)
                && let (Some(should), Some(is), Some(inside)) = (row.expected, row.found, row.within)
            {
                println!(
                    "{kind:?} {specs:?} {:?} {:.0?} Hz: open {:.3?} expected {should:.3} found {is:.3} s, inside {inside}",
                    row.figure, row.hz, row.open
                );
                errors.push((is / should).ln());
                within.push(inside);
            }
        }
    }
    (errors, within)
}

#[test]
fn with_known_devices_the_predictor_meets_the_simulated_drum() {
    let (errors, _) = compare(true);
    let sizes: Vec<f64> = errors.iter().map(|error| error.abs()).collect();
    let middle = median(&sizes).unwrap();
    println!("median error {:.1} %, {} figures", 100.0 * middle, sizes.len());
    assert!(sizes.len() >= 20, "too few figures to judge: {}", sizes.len());
    assert!(middle < 0.12, "median error {:.1} %", 100.0 * middle);
}

#[test]
fn with_hidden_strengths_the_ranges_hold_nearly_as_often_as_they_say() {
    let (_, within) = compare(false);
    let held = within.iter().filter(|inside| **inside).count();
    println!("{held} of {} inside", within.len());
    // Nine in ten are promised; a dozen cases scatter.
    assert!(10 * held >= 7 * within.len(), "{held} of {} inside", within.len());
}
