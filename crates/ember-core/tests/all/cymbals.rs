//! Cymbals and hi-hats: measured by octaves, and what tape and cloth do to them held against a simulated plate with every one of its modes.

use crate::common::{Measured, measured_by, played};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, DeviceTrial, Expectation, Learned, Open, Placement, Predictor, Strengths};
use ember_core::decay::is_octave;
use ember_core::drum::{Drum, DrumKind};
use ember_core::tone::nearest;
use ember_core::tone::{HeardBy, Partial};
use ember_core::units::{median, t60 as decay_time};

const STRIKES: usize = 2;
/// Below them an octave holds too few modes.
const OCTAVES: [f64; 5] = [500.0, 1000.0, 2000.0, 4000.0, 8000.0];

fn placed(specs: &[&str]) -> Vec<Placement> {
    specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect()
}

fn take(drum: &Drum, specs: &[&str]) -> Measured {
    let simulated = BenchDrum::new(drum, &placed(specs)).unwrap().with_known_devices();
    measured_by(&played(&simulated, STRIKES), HeardBy::Octaves)
}

/// What is expected of `drum` with `specs` on it.
fn expected(drum: &Drum, open: &Measured, specs: &[&str], strengths: &Strengths) -> Expectation {
    let predictor = Predictor::new(drum, &open.partials).unwrap();
    let placements = placed(specs);
    let grips: Vec<_> = placements.iter().map(|placement| predictor.grip_known(placement, strengths)).collect();
    let open = Open { partials: &open.partials, profile: &open.summary.profile };
    predictor.expect(&open, &placements, &grips.iter().collect::<Vec<_>>())
}

fn t60(partials: &[Partial], hz: f64) -> f64 {
    partials.iter().find(|partial| (partial.hz / hz - 1.0).abs() < 0.02).and_then(|partial| partial.t60_s).unwrap()
}

/// The simulated plate's own losses are known: its amplitude decays at 0.7 + 0.0006 f a second. Modes of an octave decay between those of its
/// edges; T20 lies nearer to the slower ones.
#[test]
fn octaves_of_a_cymbal_decay_as_they_were_made_to() {
    let open = take(&BenchDrum::usual(DrumKind::Cymbal), &[]);
    assert_eq!(open.summary.strikes_used, STRIKES, "{:?}", open.strikes.iter().map(|s| &s.warnings).collect::<Vec<_>>());
    for hz in OCTAVES {
        let made = |hz: f64| decay_time(0.7 + 0.0006 * hz);
        let found = t60(&open.partials, hz);
        assert!((0.95 * made(1.41 * hz)..1.08 * made(0.71 * hz)).contains(&found), "{hz}: {found} against {}", made(hz));
    }
    assert!(open.partials.iter().all(is_octave));
}

/// Nearer to the edge mutes more, nearer to the bell less; more of it mutes more (common practice, no published source; CP 7).
#[test]
fn tape_mutes_more_near_the_edge_and_less_near_the_bell() {
    let drum = BenchDrum::usual(DrumKind::Cymbal);
    let open = take(&drum, &[]);
    for found in [false, true] {
        // On the mean over all octaves: in a single one it is chance under which modes a small piece comes to lie.
        let at = |spec: &str| {
            let partials =
                if found { take(&drum, &[spec]).partials } else { expected(&drum, &open, &[spec], &Strengths::default()).partials };
            OCTAVES.iter().map(|hz| t60(&partials, *hz).ln()).sum::<f64>() / OCTAVES.len() as f64
        };
        let (bell, middle, edge, short) =
            (at("cymbal_tape:2:0.2"), at("cymbal_tape:2:0.6"), at("cymbal_tape:2:0.93"), at("cymbal_tape:0:0.93"));
        assert!(edge < middle - 0.02 && middle < bell && edge < short - 0.02, "{found}: {edge} {middle} {bell} {short}");
    }
}

/// Decay times by octave from 500 Hz on, expected and found, over tapes and cloths of known strength.
#[test]
fn what_is_expected_is_found() {
    let mut errors = Vec::new();
    for (kind, diameter_in) in [(DrumKind::Cymbal, 18.0), (DrumKind::HiHat, 14.0)] {
        let drum = Drum { diameter_in, ..BenchDrum::usual(kind) };
        let open = take(&drum, &[]);
        for specs in [
            &["cymbal_tape:1:0.93:180"] as &[&str],
            &["cymbal_tape:2:0.93:180", "cymbal_tape:2:0.93:60"],
            &["cymbal_tape:2:0.55:100"],
            &["cloth_disc:1:0:180"],
            &["drape:0:0:180"],
        ] {
            let (expected, found) = (expected(&drum, &open, specs, &Strengths::default()), take(&drum, specs));
            for hz in OCTAVES {
                let (should, is) = (t60(&expected.partials, hz), t60(&found.partials, hz));
                println!("{kind:?} {diameter_in} {specs:?} {hz}: open {:.2} expected {should:.2} found {is:.2}", t60(&open.partials, hz));
                errors.push((is / should).ln().abs());
            }
        }
    }
    errors.sort_by(f64::total_cmp);
    let (middle, ninth) = (median(&errors).unwrap(), errors[errors.len() * 9 / 10]);
    println!("median {:.1} %, nine in ten within {:.0} %", 100.0 * middle.exp_m1(), 100.0 * ninth.exp_m1());
    assert!(middle < 0.06 && ninth < 0.18, "{middle} {ninth}");
}

/// A drum of which nothing is known but what was measured: a test teaches what the same thing does there, and what it would do elsewhere is left
/// in doubt.
#[test]
fn another_drum_is_learned_from_its_own_tests() {
    // Inside it is a drum with a head, on which such pads hold a fifth of what is usual.
    let drum = Drum { name: "Box".into(), weight_g: Some(400.0), ..BenchDrum::usual(DrumKind::Other) };
    let play = |specs: &[&str], seed: u64| {
        measured_by(
            &BenchDrum::new(&drum, &placed(specs)).unwrap().with_strengths(&[(DeviceKind::GelPad, 0.2)]).play(3, seed),
            HeardBy::Partials,
        )
    };
    let open = play(&[], 1);
    let (here, there) = (&["gel_pad:2:0.7:180"], &["gel_pad:0:0.5:90"]);
    let off = |strengths: &Strengths, found: &Measured| {
        let should = expected(&drum, &open, here, strengths);
        let ring = should.profile.ring_hz.unwrap();
        let time = |partials: &[Partial]| nearest(partials, ring).and_then(|partial| partial.t60_s).unwrap();
        (time(&found.partials) / time(&should.partials)).ln().abs()
    };
    let unlearned = Learned::from_trials(&[]).on(&drum);
    let found = play(here, 2);
    let trial = DeviceTrial {
        drum: drum.clone(),
        open: open.partials.clone(),
        open_profile: open.summary.profile.clone(),
        placements: placed(here),
        found: found.partials.clone(),
    };
    let learned = Learned::from_trials(&[trial]);
    let (before, after) = (off(&unlearned, &found), off(&learned.on(&drum), &play(here, 3)));
    assert!(after < 0.5 * before, "{before} {after}");
    let elsewhere = expected(&drum, &open, there, &learned.on(&drum));
    let (range, found) = (elsewhere.ring_t60_s.unwrap(), play(there, 4));
    let ring = nearest(&found.partials, elsewhere.profile.ring_hz.unwrap()).and_then(|partial| partial.t60_s).unwrap();
    assert!((range.low..range.high).contains(&ring), "{range:?} {ring}");
    // Neither other such drums nor drums with heads learn from it.
    let next = Drum { name: "Barrel".into(), ..drum.clone() };
    assert_eq!(learned.on(&next), unlearned);
    assert_eq!(learned.on(&BenchDrum::usual(DrumKind::Tom)), Strengths::default());
}
