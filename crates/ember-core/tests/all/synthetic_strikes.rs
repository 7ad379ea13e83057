//! Strikes whose decay is known exactly, through the one way that all sound takes.

use ember_core::decay::{Listener, StrikeKind, StrikeMeasurement, Warning, combine_partials, mark_ghosts, summarize};
use ember_core::units::{amplitude, decay_rate};
use proptest::prelude::*;
use rand::{Rng, SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

/// One tone of a strike: Hz, T60 in s, level in dB.
type Tone = (f64, f64, f64);

/// A hit made of `tones`, with a short stick sound, into `out` from `at` s on.
fn hit(out: &mut [f64], rate: f64, at: f64, size: f64, tones: &[Tone]) {
    let first = (at * rate) as usize;
    let mut rng = StdRng::seed_from_u64(first as u64);
    for (n, value) in out[first..].iter_mut().enumerate() {
        let t = n as f64 / rate;
        let rise = (t / 0.002).min(1.0);
        let body: f64 = tones.iter().map(|(hz, t60, db)| amplitude(*db) * (-decay_rate(*t60) * t).exp() * (2.0 * PI * hz * t).sin()).sum();
        let stick = 0.5 * (-t / 0.0008).exp() * rng.random_range(-1.0..1.0);
        *value += size * (rise * body + stick);
    }
}

fn sound(rate: f64, seconds: f64, noise_db: f64, seed: u64, hits: &[(f64, f64)], tones: &[Tone]) -> Vec<f32> {
    let mut rng = StdRng::seed_from_u64(seed);
    let noise = amplitude(noise_db) * 3f64.sqrt();
    let mut out: Vec<f64> = (0..(seconds * rate) as usize).map(|_| noise * rng.random_range(-1.0..1.0)).collect();
    hits.iter().for_each(|(at, size)| hit(&mut out, rate, *at, *size, tones));
    out.iter().map(|x| *x as f32).collect()
}

fn measured(samples: &[f32], rate: f64, chunk: usize) -> Vec<StrikeMeasurement> {
    let mut listener = Listener::new(rate);
    let mut heard: Vec<_> = samples.chunks(chunk).flat_map(|piece| listener.push(piece)).collect();
    heard.extend(listener.finish());
    let mut strikes: Vec<_> = heard.into_iter().map(|strike| strike.measurement).collect();
    mark_ghosts(&mut strikes);
    strikes
}

const TOM: [Tone; 4] = [(118.0, 0.7, 0.0), (187.0, 0.95, -4.0), (251.0, 0.6, -9.0), (402.0, 0.35, -14.0)];

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(14) })]

    #[test]
    fn body_and_ring_come_out_as_they_went_in(
        rate in prop::sample::select(vec![8_000.0, 16_000.0, 44_100.0, 48_000.0, 96_000.0]),
        body in 60f64..180.0, ratio in 1.45f64..1.9, body_t60 in 0.25f64..1.2, ring_t60 in 0.3f64..1.4, noise_db in -85f64..-68.0,
    ) {
        // The ring must outweigh nothing else: it is the only overtone.
        let tones = [(body, body_t60, 0.0), (ratio * body, ring_t60, -5.0)];
        let strikes = measured(&sound(rate, 3.2, noise_db, 5, &[(0.4, 0.3)], &tones), rate, 777);
        prop_assert_eq!(strikes.len(), 1);
        let profile = &strikes[0].profile;
        prop_assert!(strikes[0].warnings.is_empty(), "{:?}", strikes[0].warnings);
        let near = |value: Option<f64>, wanted: f64, within: f64| value.is_some_and(|v| (v / wanted - 1.0).abs() < within);
        prop_assert!(near(profile.body_hz, body, 0.004), "body {:?} Hz for {body}", profile.body_hz);
        prop_assert!(near(profile.ring_hz, ratio * body, 0.004), "ring {:?} Hz for {}", profile.ring_hz, ratio * body);
        prop_assert!(near(profile.body_t60_s, body_t60, 0.05), "body {:?} s for {body_t60}", profile.body_t60_s);
        prop_assert!(near(profile.ring_t60_s, ring_t60, 0.05), "ring {:?} s for {ring_t60}", profile.ring_t60_s);
    }

    #[test]
    fn neither_pieces_nor_loudness_change_what_is_measured(chunk in 1usize..5000, size in 0.05f64..0.4) {
        let rate = 16_000.0;
        let quiet_room = |size| sound(rate, 2.5, -100.0, 9, &[(0.3, size)], &TOM);
        let (usual, other) = (measured(&quiet_room(0.2), rate, 4096), measured(&quiet_room(size), rate, chunk));
        prop_assert_eq!(usual.len(), other.len());
        let (a, b) = (&usual[0].profile, &other[0].profile);
        for ((name, a), (_, b)) in a.figures().into_iter().zip(b.figures()).filter(|((name, _), _)| *name != "glide_cents") {
            // Nothing here buzzes; everything else has a figure.
            prop_assert_eq!((a.is_some(), b.is_some()), (name != "buzz_s", name != "buzz_s"), "{}", name);
            let (Some(a), Some(b)) = (a, b) else { continue };
            prop_assert!((a - b).abs() <= 0.02 * a.abs().max(0.05), "{name}: {a} and {b}");
        }
    }
}

#[test]
fn every_partial_of_a_strike_is_found_at_its_level() {
    let strikes = measured(&sound(48_000.0, 3.0, -80.0, 2, &[(0.3, 0.25)], &TOM), 48_000.0, 4096);
    for (hz, t60, db) in TOM {
        let found = strikes[0].partials.iter().find(|p| (p.hz / hz - 1.0).abs() < 0.005).unwrap_or_else(|| panic!("{hz} Hz is missing"));
        assert!((found.t60_s.unwrap() / t60 - 1.0).abs() < 0.05, "{found:?}");
        assert!((found.level_db - db).abs() < 1.0, "{found:?}");
        // Its own error bar is an honest one.
        assert!((found.t60_s.unwrap() - t60).abs() < 5.0 * found.t60_sd_s.unwrap() + 0.005, "{found:?}");
    }
}

#[test]
fn a_take_rests_on_its_good_strikes() {
    let rate = 48_000.0;
    // Loud enough a noise that it, and not what still rings of the strike before, decides the doubt.
    let mut good = measured(&sound(rate, 12.0, -60.0, 3, &[(0.4, 0.2), (2.8, 0.22), (5.2, 0.18), (7.6, 0.2)], &TOM), rate, 4096);
    assert_eq!(good.len(), 4);
    let before = summarize(&good);
    assert_eq!((before.strikes_used, before.strikes_rejected), (4, 0));
    // A clipped one with a wild decay changes nothing.
    let mut wild = good[0].clone();
    wild.warnings.push(Warning::Clipped);
    wild.profile.body_t60_s = Some(9.0);
    wild.partials.iter_mut().for_each(|p| p.t60_s = Some(9.0));
    good.push(wild);
    let after = summarize(&good);
    assert_eq!((after.strikes_used, after.strikes_rejected), (4, 1));
    assert_eq!(after.profile, before.profile);
    let combined = combine_partials(&good);
    assert!(combined.iter().all(|p| p.t60_s.is_none_or(|t| t < 1.2)), "{combined:?}");
    // More strikes, less doubt.
    let few = combine_partials(&good[..1]);
    let doubt = |partials: &[ember_core::tone::Partial]| {
        partials.iter().min_by(|a, b| (a.hz - 118.0).abs().total_cmp(&(b.hz - 118.0).abs())).and_then(|p| p.t60_sd_s).unwrap()
    };
    assert!(doubt(&combined) < doubt(&few), "{} against {}", doubt(&combined), doubt(&few));
}

#[test]
fn a_ghost_note_is_kept_apart_and_a_flam_is_one_strike() {
    let rate = 48_000.0;
    let hits = [(0.4, 0.3), (2.6, 0.28), (4.8, 0.012), (7.0, 0.3), (7.025, 0.25)];
    let strikes = measured(&sound(rate, 9.5, -88.0, 4, &hits, &TOM), rate, 4096);
    let kinds: Vec<StrikeKind> = strikes.iter().map(|strike| strike.kind).collect();
    assert_eq!(kinds, [StrikeKind::Single, StrikeKind::Single, StrikeKind::Ghost, StrikeKind::Flam]);
    assert!(strikes[2].warnings.contains(&Warning::Ghost) && strikes[3].warnings.contains(&Warning::Flam));
    assert_eq!(summarize(&strikes).strikes_used, 2);
}

#[test]
fn a_strike_that_is_stopped_short_or_drowned_is_said_to_be() {
    let rate = 48_000.0;
    let whole = sound(rate, 3.0, -80.0, 6, &[(0.4, 0.3)], &TOM);
    let short = measured(&whole[..(0.55 * rate) as usize], rate, 4096);
    assert!(short[0].warnings.contains(&Warning::CutOff), "{:?}", short[0].warnings);
    let drowned = measured(&sound(rate, 3.0, -34.0, 6, &[(0.4, 0.3)], &TOM), rate, 4096);
    assert!(drowned.iter().all(|strike| strike.warnings.contains(&Warning::TooNoisy)), "{drowned:?}");
}

#[test]
fn a_room_behind_the_drum_shows_as_a_bend() {
    let rate = 16_000.0;
    let mut rng = StdRng::seed_from_u64(8);
    // Noise with two slopes: the drum's, and 25 dB below it a room of 2 s.
    let samples: Vec<f32> = (0..(3.0 * rate) as usize)
        .map(|n| {
            let t = n as f64 / rate;
            let level = (-decay_rate(0.4) * t).exp() + amplitude(-25.0) * (-decay_rate(2.0) * t).exp();
            (0.1 * level * rng.random_range(-1.0..1.0)) as f32
        })
        .collect();
    let found = ember_core::decay::DecayCurve::new(&samples, rate, ember_core::decay::NoiseFloor::Before(0.0)).evaluate();
    // ISO 3382-2, annex B: over 10 per mille and 10 % the decay is no straight line.
    assert!(found.nonlinearity_permille.unwrap() > 10.0 && found.curvature_percent.unwrap() > 10.0, "{found:?}");
}
