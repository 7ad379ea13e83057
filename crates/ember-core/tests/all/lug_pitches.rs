//! Lug pitches heard in simulated taps against those that the simulated head's own springs have.

use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE, TapManner, TappedHead};
use ember_core::drum::{Drum, DrumKind};
use ember_core::signal::{CapturedStrike, Ending};
use ember_core::tuning::{Expected, RoundPitches, RoundTap, TapFault, TapReader, TapSound, crosswise, hear_round};
use ember_core::units::cents;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;

/// The tap at `lug` as it is read.
fn read(head: &TappedHead, lug: usize, manner: TapManner, seed: u64) -> TapSound {
    let sound = head.tap(lug, manner, seed);
    let lead = head.quiet(0.05, manner.noise, seed);
    let onset_index = lead.len();
    let samples = [lead, sound].concat();
    let captured = CapturedStrike { sample_rate: f64::from(SAMPLE_RATE), onset_s: 0.05, samples, onset_index, ending: Ending::Decayed };
    TapReader::new(f64::from(SAMPLE_RATE)).read(&captured)
}

/// A round in crosswise order; `hand` says which lug the hand goes to and how, when lug `n` of the order is asked for.
fn round(drum: &Drum, head: &TappedHead, seed: u64, hand: impl Fn(usize, usize) -> (usize, TapManner) + Sync) -> RoundPitches {
    let order = crosswise(drum.lugs.into());
    let tap = |(n, lug): (usize, &usize)| {
        let (at, manner) = hand(n, *lug);
        read(head, at, manner, seed)
    };
    let sounds: Vec<TapSound> = order.par_iter().enumerate().map(tap).collect();
    let taps: Vec<RoundTap> = order.iter().zip(&sounds).map(|(lug, sound)| RoundTap { lug: *lug, sound }).collect();
    hear_round(&taps, drum.lugs.into(), Expected::of(drum))
}

fn drum(kind: DrumKind, lugs: u8) -> Drum {
    Drum { lugs, ..BenchDrum::usual(kind) }
}

/// Uneven by up to `unevenness` of the even pull.
fn uneven(drum: &Drum, unevenness: f64, rng: &mut StdRng) -> TappedHead {
    let pull: Vec<f64> = (0..drum.lugs).map(|_| 1.0 + unevenness * rng.random_range(-1.0..1.0)).collect();
    TappedHead::new(drum, drum.usual_batter_hz() * rng.random_range(0.8..1.3), &pull)
}

/// Wanted: 3 cents in the median, 10 at worst, wherever the head has a local pitch.
#[test]
fn pitches_of_uneven_heads_are_those_of_their_springs() {
    let kinds = [(DrumKind::Tom, 6), (DrumKind::FloorTom, 8), (DrumKind::Snare, 10), (DrumKind::Tom, 5), (DrumKind::Kick, 8)];
    let mut off: Vec<f64> = Vec::new();
    for seed in 0..15u64 {
        let mut rng = StdRng::seed_from_u64(seed);
        let (kind, lugs) = kinds[seed as usize % kinds.len()];
        let drum = drum(kind, lugs);
        let unevenness = rng.random_range(0.01..0.30);
        let head = uneven(&drum, unevenness, &mut rng);
        let Some(truth) = head.local_pitches() else { continue };
        let manner = TapManner { noise: rng.random_range(3e-5..5e-4), ..TapManner::default() };
        let heard = round(&drum, &head, seed, |_, lug| (lug, manner));
        assert_eq!((heard.lugs.len(), heard.fault), (lugs.into(), None), "{kind:?}, seed {seed}: {heard:?}");
        off.extend(heard.lugs.iter().map(|pitch| cents(truth[pitch.lug], pitch.hz).abs()));
        for pitch in &heard.lugs {
            let off = cents(truth[pitch.lug], pitch.hz).abs();
            assert!(off < 4.0 * pitch.sd_cents, "{kind:?}, seed {seed}: off by {off:.1} cents, {pitch:?}");
        }
    }
    off.sort_by(f64::total_cmp);
    let (median, worst) = (off[off.len() / 2], off[off.len() - 1]);
    println!("lug pitch off by {median:.2} cents in the median, {worst:.2} at worst, of {} taps", off.len());
    assert!(off.len() > 100 && median < 3.0 && worst < 10.0, "{median} {worst}");
}

#[test]
fn a_poor_tap_is_named_and_the_others_stay() {
    let drum = drum(DrumKind::Tom, 6);
    let mut rng = StdRng::seed_from_u64(4);
    let head = uneven(&drum, 0.15, &mut rng);
    let good = TapManner::default();
    let cases = [
        (TapManner { strength: 0.003, ..good }, TapFault::TooSoft),
        (TapManner { strength: 15.0, ..good }, TapFault::TooLoud),
        (TapManner { wires_on: true, ..good }, TapFault::WiresOn),
        (TapManner { other_drum_hz: Some(173.0), ..good }, TapFault::SomethingElseRings),
    ];
    for (manner, fault) in cases {
        let heard = round(&drum, &head, 5, |n, lug| (lug, if n == 5 { manner } else { good }));
        assert_eq!(heard.fault, Some(fault), "{heard:?}");
        assert!(heard.lugs.len() >= 5, "{fault:?}: {heard:?}");
    }
}

#[test]
fn a_tap_at_another_lug_than_asked_for_is_noticed_on_an_uneven_head() {
    let drum = drum(DrumKind::FloorTom, 8);
    // Tight from front to back: each lug sounds like itself and the one across.
    let pull: Vec<f64> = (0..8).map(|lug| 1.0 + 0.2 * (2.0 * std::f64::consts::PI * (2.0 * f64::from(lug) / 8.0 + 0.1)).cos()).collect();
    let head = TappedHead::new(&drum, 92.0, &pull);
    // The seventh tap comes two lugs further on than asked for.
    let order = crosswise(8);
    let hand = |n: usize, lug: usize| if n == 6 { (lug + 2) % 8 } else { lug };
    let sounds: Vec<TapSound> = order[..7].iter().enumerate().map(|(n, lug)| read(&head, hand(n, *lug), TapManner::default(), 2)).collect();
    let taps: Vec<RoundTap> = order.iter().zip(&sounds).map(|(lug, sound)| RoundTap { lug: *lug, sound }).collect();
    let heard = hear_round(&taps, 8, Expected::of(&drum));
    assert_eq!(heard.fault, Some(TapFault::AnotherLug), "{heard:?}");
    assert_eq!(heard.sounds_like_lug.map(|lug| lug % 4), Some((order[6] + 2) % 4));
    assert_eq!(heard.lugs.len(), 6, "what was heard before stays: {heard:?}");
}

/// One side slack, the other tight: no two modes are a pair any more, so no lug has a pitch, and that is said instead of a guess.
#[test]
fn a_head_that_is_far_too_uneven_is_said_to_be() {
    let drum = drum(DrumKind::Tom, 6);
    let head = TappedHead::new(&drum, 135.0, &[1.7, 1.0, 0.4, 1.7, 1.0, 0.4]);
    assert!(head.local_pitches().is_none(), "the simulated head has no local pitches either");
    let heard = round(&drum, &head, 3, |_, lug| (lug, TapManner { strength: 0.3, ..TapManner::default() }));
    assert!(heard.too_uneven && heard.lugs.is_empty() && heard.fault.is_none(), "{heard:?}");
}
