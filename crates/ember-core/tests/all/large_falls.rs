//! Pitches that fall as far as those of toms struck hard: by a sixth to a quarter within some 200 ms. How far they do was read off openly
//! licensed recordings of toms (docs/METHOD.md); the sounds here are made, so that their decay times are known.

use ember_core::decay::Listener;
use ember_core::tone::Partial;
use ember_core::tone::nearest;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;
use std::f64::consts::PI;

const RATE: f64 = 48_000.0;

/// A tom: partials of one head whose pitches fall together, partly as an exponential, partly as the body's energy does; a stick; noise.
fn tom(rng: &mut StdRng) -> (Vec<f32>, f64, f64) {
    let (body_hz, body_t60): (f64, f64) = (rng.random_range(75.0..190.0), rng.random_range(0.7..1.6));
    let partials: Vec<(f64, f64, f64, f64)> = [(1.0, 1.0, 0.3), (1.68, 0.6, 0.12), (2.2, 0.45, 0.08), (2.9, 0.3, 0.05)]
        .iter()
        .map(|(ratio, part, level)| (body_hz * ratio, body_t60 * part, level * rng.random_range(0.7..1.3), rng.random_range(0.0..2.0 * PI)))
        .collect();
    let (fall, time_s) = (rng.random_range(0.12..0.25), rng.random_range(0.07..0.16));
    let mixed: f64 = rng.random_range(0.0..0.4);
    let mut turns = 0.0;
    let samples = (0..(2.2 * RATE) as usize)
        .map(|n| {
            let t = n as f64 / RATE - 0.5;
            let noise = 0.3e-3 * (0..6).map(|_| rng.random_range(-1.0..1.0f64)).sum::<f64>() / 1.4;
            if t < 0.0 {
                return noise as f32;
            }
            let energy = (-2.0 * 6.907_755 * t / body_t60).exp();
            let ratio = 1.0 + fall * ((1.0 - mixed) * (-t / time_s).exp() + mixed * energy);
            turns += ratio / RATE;
            let heads: f64 = partials
                .iter()
                .map(|(hz, t60, level, phase)| level * (-6.907_755 * t / t60).exp() * (2.0 * PI * hz * turns + phase).sin())
                .sum();
            let stick = 0.1 * (-t / 0.002).exp() * rng.random_range(-1.0..1.0);
            (heads + stick + noise) as f32
        })
        .collect();
    (samples, body_hz, body_t60)
}

fn partials(samples: &[f32]) -> Vec<Partial> {
    let mut listener = Listener::new(RATE);
    let mut heard = listener.push(samples);
    heard.extend(listener.finish());
    assert_eq!(heard.len(), 1);
    heard.remove(0).measurement.partials
}

#[test]
fn the_body_of_a_tom_struck_hard_is_found_with_its_decay() {
    let off = |seed: u64| {
        let (samples, hz, t60) = tom(&mut StdRng::seed_from_u64(seed));
        let found = partials(&samples);
        let body = nearest(&found, hz)?;
        (body.level_db > -12.0).then_some((body.t60_s? / t60 - 1.0).abs())
    };
    let mut found: Vec<f64> = (0..60).into_par_iter().filter_map(off).collect();
    found.sort_by(f64::total_cmp);
    let at = |part: f64| 100.0 * found[((found.len() - 1) as f64 * part) as usize];
    println!(
        "{} of 60 bodies; T60 off by {:.1} % in the median, {:.1} % at the 90th percentile, {:.1} % at worst",
        found.len(),
        at(0.5),
        at(0.9),
        at(1.0)
    );
    assert!(found.len() >= 57 && at(0.5) < 5.0 && at(0.9) < 15.0);
}
