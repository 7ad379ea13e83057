//! Sound as it should not be: whatever comes in, measuring ends, invents nothing, and finds what is there all the same.

use ember_core::decay::{Listener, StrikeMeasurement, Warning, mark_ghosts, summarize};
use proptest::prelude::*;
use rand::{Rng, SeedableRng, rngs::StdRng};
use std::f64::consts::PI;

/// (Hz, T60 s, amplitude)
const DRUM: [(f64, f64, f64); 3] = [(118.0, 0.7, 0.30), (187.0, 0.9, 0.18), (251.0, 0.5, 0.10)];

/// Hits at `at` (s, strength) in white noise of RMS 2e-4.
fn drum(rate: f64, seconds: f64, hits: &[(f64, f64)], seed: u64) -> Vec<f32> {
    let mut rng = StdRng::seed_from_u64(seed);
    (0..(seconds * rate) as usize)
        .map(|n| {
            let t = n as f64 / rate;
            let noise = 2e-4 * (0..12).map(|_| rng.random_range(-0.5..0.5)).sum::<f64>();
            let hit = |(at, size): &(f64, f64)| {
                let s = t - at;
                if s < 0.0 {
                    return 0.0;
                }
                let tone = |(hz, t60, a): &(f64, f64, f64)| a * (-6.9078 * s / t60).exp() * (2.0 * PI * hz * s).sin();
                size * (DRUM.iter().map(tone).sum::<f64>() + 0.2 * (-s / 0.001).exp() * (2.0 * PI * 2900.0 * s).sin())
            };
            (hits.iter().map(hit).sum::<f64>() + noise) as f32
        })
        .collect()
}

fn measured(sound: &[f32], rate: f64) -> Vec<StrikeMeasurement> {
    let mut listener = Listener::new(rate);
    let mut heard: Vec<_> = sound.chunks(4096).flat_map(|piece| listener.push(piece)).collect();
    heard.extend(listener.finish());
    let mut strikes: Vec<_> = heard.into_iter().map(|strike| strike.measurement).collect();
    mark_ghosts(&mut strikes);
    strikes
}

/// Whether body and ring are those of [`DRUM`], within `part`.
fn is_the_drum(strike: &StrikeMeasurement, part: f64) -> bool {
    let near = |found: Option<f64>, wanted: f64| found.is_some_and(|value| (value / wanted - 1.0).abs() < part);
    near(strike.profile.body_t60_s, 0.7) && near(strike.profile.ring_t60_s, 0.9) && near(strike.profile.body_hz, 118.0)
}

#[test]
fn an_offset_changes_nothing() {
    let sound: Vec<f32> = drum(48_000.0, 2.6, &[(0.4, 1.0)], 1).iter().map(|x| x + 0.05).collect();
    let strikes = measured(&sound, 48_000.0);
    assert!(strikes.len() == 1 && is_the_drum(&strikes[0], 0.02), "{:?}", strikes.iter().map(|s| &s.profile).collect::<Vec<_>>());
}

#[test]
fn upside_down_it_is_the_same_drum() {
    let sound = drum(44_100.0, 2.6, &[(0.4, 1.0)], 2);
    let flipped: Vec<f32> = sound.iter().map(|x| -x).collect();
    let (one, other) = (measured(&sound, 44_100.0), measured(&flipped, 44_100.0));
    assert_eq!(one.len(), other.len());
    for (a, b) in one[0].profile.figures().iter().zip(other[0].profile.figures()) {
        assert!((a.1.unwrap_or(0.0) - b.1.unwrap_or(0.0)).abs() < 1e-6, "{a:?} {b:?}");
    }
}

#[test]
fn eight_bits_are_enough_for_body_and_ring() {
    let sound: Vec<f32> = drum(44_100.0, 2.6, &[(0.4, 1.4)], 3).iter().map(|x| (x * 128.0).round() / 128.0).collect();
    let strikes = measured(&sound, 44_100.0);
    assert!(strikes.len() == 1 && is_the_drum(&strikes[0], 0.06), "{:?}", strikes[0].profile);
    assert!(!strikes[0].warnings.contains(&Warning::Clipped), "rounding is no ceiling: {:?}", strikes[0].warnings);
}

#[test]
fn every_rate_hears_the_same_drum() {
    for rate in [8_000.0, 11_025.0, 22_050.0, 96_000.0, 192_000.0] {
        let strikes = measured(&drum(rate, 2.6, &[(0.4, 1.0)], 4), rate);
        assert!(
            strikes.len() == 1 && is_the_drum(&strikes[0], 0.03),
            "{rate}: {:?}",
            strikes.iter().map(|s| &s.profile).collect::<Vec<_>>()
        );
    }
}

/// A hit less than a tenth of a second after another cuts it off: that is said, and the one that rings out is measured.
#[test]
fn a_hit_right_after_another_cuts_it_off() {
    let strikes = measured(&drum(48_000.0, 3.2, &[(0.4, 1.0), (0.485, 1.0)], 5), 48_000.0);
    assert_eq!(strikes.len(), 2, "{:?}", strikes.iter().map(|s| s.onset_s).collect::<Vec<_>>());
    let cut = |strike: &StrikeMeasurement| strike.warnings.contains(&Warning::CutOff);
    assert!(cut(&strikes[0]) && !cut(&strikes[1]), "{:?}", strikes.iter().map(|s| &s.warnings).collect::<Vec<_>>());
}

/// A take of five hundred: all found, one summary, and nothing grows with the square of their number.
#[test]
fn five_hundred_strikes_are_five_hundred() {
    let one = measured(&drum(16_000.0, 2.2, &[(0.4, 1.0)], 6), 16_000.0).remove(0);
    let mut many: Vec<StrikeMeasurement> = (0..500).map(|n| StrikeMeasurement { onset_s: f64::from(n), ..one.clone() }).collect();
    many[123].peak_dbfs -= 40.0;
    mark_ghosts(&mut many);
    let summary = summarize(&many);
    assert_eq!((summary.strikes_used, summary.strikes_rejected), (499, 1));
    assert_eq!(summary.profile, one.profile);
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(24) })]

    /// Arbitrary samples, silence, full-scale squares and steps: no panic, and every figure that is given is a number.
    #[test]
    fn whatever_comes_in_measuring_ends(
        rate in prop::sample::select(vec![8_000.0, 44_100.0, 192_000.0]),
        seed in any::<u64>(), kind in 0usize..6, length in 0usize..60_000,
    ) {
        let mut rng = StdRng::seed_from_u64(seed);
        let mut walk = 0f32;
        let sound: Vec<f32> = (0..length)
            .map(|n| match kind {
                0 => rng.random_range(-1.0..1.0),
                1 => if n % 97 < 48 { 1.0 } else { -1.0 },
                2 => if n == length / 2 { 1.0 } else { 0.0 },
                3 => 0.0,
                4 => {
                    walk = (walk + rng.random_range(-0.05..0.05)).clamp(-1.0, 1.0);
                    walk
                }
                _ => if rng.random_range(0..400) == 0 { rng.random_range(-1.0..1.0) } else { 1e-7 },
            })
            .collect();
        for strike in measured(&sound, rate) {
            for (name, value) in strike.profile.figures() {
                prop_assert!(value.is_none_or(f64::is_finite), "{name}");
            }
            for partial in &strike.partials {
                let plain = partial.hz.is_finite() && partial.level_db.is_finite();
                prop_assert!(plain && partial.t60_s.is_none_or(|t| t > 0.0 && t < 20.0), "{partial:?}");
            }
        }
    }

    /// Noise that swells and fades as a strike does has no body.
    #[test]
    fn a_burst_of_noise_is_given_no_note_that_it_does_not_have(seed in 0u64..500) {
        let mut rng = StdRng::seed_from_u64(seed);
        let sound: Vec<f32> = (0..96_000)
            .map(|n| {
                let t = f64::from(n) / 48_000.0 - 0.5;
                let size = if t < 0.0 { 1e-4 } else { 1e-4 + 0.3 * (-6.9078 * t / 0.4).exp() };
                (size * rng.random_range(-1.0..1.0f64)) as f32
            })
            .collect();
        for strike in measured(&sound, 48_000.0) {
            let sure = strike.partials.iter().filter(|p| p.t60_s.is_some() && p.t60_sd_s.zip(p.t60_s).is_some_and(|(sd, t)| sd < 0.02 * t));
            prop_assert!(sure.count() == 0, "{:?}", strike.partials);
        }
    }
}
