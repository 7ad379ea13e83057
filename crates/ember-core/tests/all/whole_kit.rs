//! A kit's strikes told apart by its stored partials, and dynamics kept apart. On the simulated kit; that drums have their own partials
//! is what measuring them rests on (common practice, no published source).

use crate::common::{Measured, measured};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{DeviceKind, Placement};
use ember_core::decay::{Dynamic, StrikeMeasurement, Voice, is_no_louder, likeness, mark_ghosts, other_drum, rings_along, summarize};
use ember_core::drum::{Drum, DrumKind};
use ember_core::tone::Partial;
use rayon::prelude::*;

fn kit() -> Vec<Drum> {
    let mut kit: Vec<Drum> = [DrumKind::Kick, DrumKind::Snare, DrumKind::Tom, DrumKind::FloorTom].map(BenchDrum::usual).to_vec();
    kit.push(Drum { diameter_in: 10.0, depth_in: 7.0, ..BenchDrum::usual(DrumKind::Tom) });
    kit.push(Drum { diameter_in: 14.0, depth_in: 14.0, ..BenchDrum::usual(DrumKind::FloorTom) });
    kit
}

fn takes(drums: &[Drum], strikes: usize, seed: u64, placements: &[Placement]) -> Vec<Measured> {
    drums.par_iter().map(|drum| measured(&BenchDrum::new(drum, placements).unwrap().play(strikes, seed))).collect()
}

fn voice(take: &Measured) -> Voice<'_> {
    Voice { partials: &take.partials, spectrum_db: &take.summary.spectrum_db }
}

/// All drums but one.
fn without(known: &[Measured], index: usize) -> Vec<&Measured> {
    known.iter().enumerate().filter(|(other, _)| *other != index).map(|(_, take)| take).collect()
}

/// Index among all drums of the one that `strike` was surely on instead of the one at `index`.
fn taken_for(strike: &StrikeMeasurement, known: &[Measured], index: usize) -> Option<usize> {
    let voices: Vec<Voice> = without(known, index).into_iter().map(voice).collect();
    other_drum(strike.voice(), Some(voice(&known[index])), &voices).map(|other| if other < index { other } else { other + 1 })
}

fn others_ring_along(strike: &StrikeMeasurement, known: &[Measured], index: usize) -> bool {
    let others: Vec<&[Partial]> = without(known, index).into_iter().map(|take| take.partials.as_slice()).collect();
    rings_along(&strike.partials, &known[index].partials, &others)
}

#[test]
fn a_strike_on_another_drum_is_known_and_on_its_own_is_believed() {
    let drums = kit();
    let known = takes(&drums, 4, 1, &[]);
    // A cloth changes lengths and levels, not pitches.
    let cloth = [Placement { device: DeviceKind::ThinCloth, amount: 0, radius: 0.6, angle_deg: 20.0, made: None, other_head: false }];
    let muffled: Vec<Drum> = drums.iter().filter(|drum| drum.kind != DrumKind::Kick).cloned().collect();
    let again = takes(&drums, 5, 2, &[]);
    let (mut known_for, mut all) = (0, 0);
    for (struck, take) in again.iter().enumerate() {
        for strike in &take.strikes {
            assert_eq!(taken_for(strike, &known, struck), None, "drum {struck}");
            assert!(!others_ring_along(strike, &known, struck), "drum {struck}");
            for asked in (0..drums.len()).filter(|asked| *asked != struck) {
                let found = taken_for(strike, &known, asked);
                assert!(found.is_none() || found == Some(struck), "asked for {asked}, struck {struck}, taken for {found:?}");
                all += 1;
                known_for += usize::from(found.is_some());
            }
        }
    }
    println!("{known_for} of {all} strikes on another drum are known for it");
    assert!(100 * known_for > 95 * all, "{known_for} of {all}");
    for (take, index) in takes(&muffled, 3, 3, &cloth).iter().zip(1..) {
        for strike in &take.strikes {
            assert_eq!(taken_for(strike, &known, index), None, "muffled drum {index}");
        }
    }
    assert!(likeness(&known[2].partials, &known[2].partials) > 0.999 && likeness(&[], &known[2].partials) == 0.0);
}

#[test]
fn a_drum_that_rings_along_is_noticed() {
    let drums = kit();
    let known = takes(&drums[2..5], 4, 1, &[]);
    let tom = BenchDrum::new(&drums[2], &[]).unwrap().play(3, 5);
    let floor = BenchDrum::new(&drums[3], &[]).unwrap();
    // The floor tom answers each hit on the tom, 14 dB down.
    let spacing = (BenchDrum::new(&drums[2], &[]).unwrap().spacing_s() * 48_000.0) as usize;
    let lead = tom.len() - 3 * spacing;
    let mut both = tom.clone();
    for hit in 0..3 {
        for (slot, x) in both[lead + hit * spacing..].iter_mut().zip(floor.strike(6, hit)).take(spacing) {
            *slot += 0.2 * x;
        }
    }
    let noticed = |sound: &[f32]| measured(sound).strikes.iter().filter(|strike| others_ring_along(strike, &known, 0)).count();
    assert_eq!((noticed(&tom), noticed(&both)), (0, 3));
}

#[test]
fn dynamics_are_kept_apart_and_must_differ() {
    let drum = BenchDrum::new(&BenchDrum::usual(DrumKind::Tom), &[]).unwrap();
    let mut strikes: Vec<StrikeMeasurement> = Vec::new();
    for (dynamic, hard) in Dynamic::ALL.into_iter().zip([0.12, 0.35, 1.0]) {
        for index in 0..2 {
            let sound = [drum.lead(3), drum.strike_as(3, index, hard)].concat();
            let [one] = measured(&sound).strikes.try_into().unwrap();
            assert!(!is_no_louder(one.peak_dbfs, dynamic, &strikes), "{dynamic:?} is louder than what came before");
            strikes.push(StrikeMeasurement { dynamic: Some(dynamic), ..one });
        }
    }
    mark_ghosts(&mut strikes);
    assert!(strikes.iter().all(|s| s.warnings.is_empty()), "a soft strike that was asked for is no ghost note: {strikes:?}");
    let summary = summarize(&strikes);
    assert_eq!(summary.dynamics.iter().map(|d| (d.dynamic, d.strikes_used)).collect::<Vec<_>>(), Dynamic::ALL.map(|d| (d, 2)));
    assert!(summary.dynamics.windows(2).all(|pair| pair[1].peak_dbfs > pair[0].peak_dbfs + 6.0), "{:?}", summary.dynamics);
    let softest = strikes[0].peak_dbfs;
    assert!(is_no_louder(softest, Dynamic::Medium, &strikes) && is_no_louder(softest, Dynamic::Hard, &strikes));
    assert!(!is_no_louder(softest, Dynamic::Soft, &strikes));
    let mut unasked: Vec<StrikeMeasurement> = [0, 4, 5].map(|index| StrikeMeasurement { dynamic: None, ..strikes[index].clone() }).to_vec();
    unasked[0].peak_dbfs = unasked[1].peak_dbfs - 19.0;
    mark_ghosts(&mut unasked);
    assert!(unasked.iter().map(|s| s.warnings.len()).eq([1, 0, 0]), "not asked for, it is one");
}
