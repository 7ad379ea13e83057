//! How long wires buzz on.

use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::decay::{Listener, StrikeAnalyzer, summarize};
use ember_core::drum::{Drum, DrumKind, WireTension, Wires};
use ember_core::signal::{CapturedStrike, Ending};
use rand::{Rng, SeedableRng, rngs::StdRng};

/// A decaying hiss falls 20 dB in a third of its T60 (closed form).
#[test]
fn a_hiss_of_known_decay_has_its_own_length() {
    let rate = 48_000.0;
    for (t60, seed) in [(0.25, 1), (0.5, 2), (0.9, 3)] {
        let mut rng = StdRng::seed_from_u64(seed);
        let samples: Vec<f32> = (0..72_000)
            .map(|n| {
                let t = n as f64 / rate - 0.1;
                let (hiss, room) = (rng.random_range(-0.2..0.2f64), rng.random_range(-2e-5..2e-5));
                let sound =
                    if t < 0.0 { 0.0 } else { (-6.9078 * t / t60).exp() * (hiss + 0.4 * (2.0 * std::f64::consts::PI * 190.0 * t).sin()) };
                (sound + room) as f32
            })
            .collect();
        let captured = CapturedStrike { sample_rate: rate, onset_s: 0.1, samples, onset_index: 4800, ending: Ending::Decayed };
        let buzz = StrikeAnalyzer::new(rate).measure(&captured).profile.buzz_s.unwrap();
        assert!((buzz / (t60 / 3.0) - 1.0).abs() < 0.12, "{buzz} for {}", t60 / 3.0);
    }
}

/// Common practice, no published source: loose wires are long, tight ones short.
#[test]
fn loose_wires_buzz_longer_than_tight_ones_and_none_not_at_all() {
    let buzz = |tension: Option<WireTension>| {
        let wires = tension.map(|tension| Wires { strands: 20, tension });
        let drum = Drum { wires, ..BenchDrum::usual(DrumKind::Snare) };
        let mut listener = Listener::new(f64::from(SAMPLE_RATE));
        let mut heard = listener.push(&BenchDrum::new(&drum, &[]).unwrap().play(4, 9));
        heard.extend(listener.finish());
        summarize(&heard.into_iter().map(|strike| strike.measurement).collect::<Vec<_>>()).profile.buzz_s
    };
    let lengths = [WireTension::Tight, WireTension::Medium, WireTension::Loose].map(|tension| buzz(Some(tension)));
    println!("{lengths:?}, without wires {:?}", buzz(None));
    let [tight, medium, loose] = lengths.map(Option::unwrap);
    assert!(1.15 * tight < medium && 1.15 * medium < loose, "{lengths:?}");
    assert!(buzz(None).is_none_or(|length| length < 0.6 * tight));
}
