//! Tuning against the trade's own rules, whole tunings on simulated heads, and sounds that are none.

use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE, TapManner, TappedHead};
use ember_core::drum::{Drum, DrumKind, Head, HeadSide};
use ember_core::signal::{CapturedStrike, Ending, Limits, StrikeFinder};
use ember_core::tuning::{
    Expected, Goal, Influence, RoundPitches, RoundTap, TapReader, TapSound, TurnTrial, TurnedHead, crosswise, hear_round, lugs_from_head,
    next_turns, pitch_at, tension,
};
use ember_core::units::cents;
use proptest::prelude::*;
use rayon::prelude::*;

fn drum(kind: DrumKind, lugs: u8) -> Drum {
    Drum { lugs, ..BenchDrum::usual(kind) }
}

/// Common practice, no published source: opposite lugs usually read alike; turning one lug also moves its neighbours and the one
/// across.
#[test]
fn turning_one_rod_moves_the_lug_across_too_and_opposite_lugs_read_alike() {
    let drum = drum(DrumKind::Tom, 8);
    let pitches = |turned: &[i32]| {
        let pull: Vec<f64> = turned.iter().map(|eighths| 1.0 + 0.05 * f64::from(*eighths)).collect();
        TappedHead::new(&drum, 135.0, &pull).local_pitches().unwrap()
    };
    let even = pitches(&[0; 8]);
    let turned = pitches(&[4, 0, 0, 0, 0, 0, 0, 0]);
    let rise: Vec<f64> = even.iter().zip(&turned).map(|(before, after)| cents(*before, *after)).collect();
    assert!(rise[0] > 15.0 && rise[1] > 5.0 && rise[7] > 5.0, "{rise:?}");
    assert!(rise[4] > 0.7 * rise[0], "the one across follows: {rise:?}");
    for lug in 0..4 {
        assert!(cents(turned[lug], turned[lug + 4]).abs() < 4.0, "{turned:?}");
    }
}

/// Common practice, no published source: mass added to a head lowers its pitch at the same tension, so it must be tightened to
/// get the pitch back.
#[test]
fn a_heavier_head_is_lower_at_the_same_tension() {
    let drum = drum(DrumKind::Tom, 6);
    let (single, double) = (Head::plain(10.0), Head::plain(14.0));
    let pulled = tension(&drum, single, 135.0);
    assert!(pitch_at(&drum, double, pulled) < 0.97 * 135.0);
    assert!(tension(&drum, double, 135.0) > 1.05 * pulled);
}

/// Common practice, no published source: on a single-bolt drum half a turn is a clear step of pitch.
#[test]
fn half_a_turn_of_a_single_bolt_is_a_clear_step() {
    let drum = drum(DrumKind::Tom, 1);
    let influence = Influence::prior(1, 210.0);
    let after = influence.after(&[210.0 * 210.0], &[4]);
    assert!(cents(210.0, after[0].sqrt()) > 100.0);
    let head = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: None };
    let next = next_turns(&head, &[Some(210.0)], 2.0, Goal::Pitch(232.0)).unwrap();
    assert!(next.turns.len() == 1 && next.turns[0].eighths > 0, "{next:?}");
}

fn heard(head: &TappedHead, drum: &Drum, seed: u64) -> RoundPitches {
    let lead = head.quiet(0.05, 1e-4, seed);
    let read = |lug: &usize| {
        let samples = [lead.clone(), head.tap(*lug, TapManner::default(), seed)].concat();
        let onset_index = lead.len();
        let captured = CapturedStrike { sample_rate: f64::from(SAMPLE_RATE), onset_s: 0.05, samples, onset_index, ending: Ending::Decayed };
        TapReader::new(f64::from(SAMPLE_RATE)).read(&captured)
    };
    let order = crosswise(drum.lugs.into());
    let sounds: Vec<TapSound> = order.par_iter().map(read).collect();
    let taps: Vec<RoundTap> = order.iter().zip(&sounds).map(|(lug, sound)| RoundTap { lug: *lug, sound }).collect();
    hear_round(&taps, drum.lugs.into(), Expected::of(drum))
}

/// Tap, turn as told, tap again: the whole way from an uneven head to an even one, through sound.
#[test]
fn simulated_heads_of_every_kind_are_tuned_even_by_ear() {
    for (kind, lugs, seed) in [(DrumKind::Tom, 6, 1), (DrumKind::FloorTom, 8, 2), (DrumKind::Snare, 10, 3), (DrumKind::Tom, 5, 4)] {
        let drum = drum(kind, lugs);
        let count = usize::from(lugs);
        let mut turned = vec![0; count];
        let mut trials: Vec<TurnTrial> = Vec::new();
        let mut spreads = Vec::new();
        loop {
            let head = TappedHead::of(&drum, HeadSide::Batter, seed, &turned);
            let round = heard(&head, &drum, seed + 10 * spreads.len() as u64);
            let now: Vec<Option<f64>> =
                (0..count).map(|lug| round.lugs.iter().find(|pitch| pitch.lug == lug).map(|pitch| pitch.hz)).collect();
            assert_eq!(round.lugs.len(), count, "{kind:?}: {round:?}");
            if let Some(trial) = trials.last_mut() {
                trial.after_hz.clone_from(&now);
            }
            spreads.push(round.spread_cents.unwrap());
            let influence = Influence::learned(count, lugs_from_head(drum.usual_batter_hz()), &trials);
            let under_key = TurnedHead { drum: &drum, head: drum.batter, influence: &influence, since_seated: None };
            let next = next_turns(&under_key, &now, 1.0, Goal::Even).unwrap();
            if next.done {
                break;
            }
            assert!(spreads.len() <= 4, "{kind:?} with {lugs} lugs is not even after four rounds: {spreads:?}");
            let mut eighths = vec![0; count];
            next.turns.iter().for_each(|turn| eighths[turn.lug] = turn.eighths);
            turned.iter_mut().zip(&eighths).for_each(|(sum, eighths)| *sum += eighths);
            trials.push(TurnTrial { before_hz: now, eighths, after_hz: Vec::new(), sd_cents: 1.0 });
        }
        println!("{kind:?}, {lugs} lugs: spread {spreads:.0?} cents, round by round");
        assert!(spreads[spreads.len() - 1] < 10.0, "{spreads:?}");
    }
}

/// Taps in one stream, as a microphone gives them, are found one by one at once: none is swallowed by the one before.
#[test]
fn taps_that_follow_each_other_are_each_found_once() {
    let drum = drum(DrumKind::FloorTom, 8);
    let head = TappedHead::of(&drum, HeadSide::Batter, 6, &[0; 8]);
    let mut stream = head.quiet(0.6, 1e-4, 1);
    for lug in crosswise(8) {
        stream.extend(head.tap(lug, TapManner::default(), 9));
    }
    let mut finder = StrikeFinder::new(f64::from(SAMPLE_RATE), Limits { longest_s: 0.8, quiet_s: 0.1 });
    let found: Vec<CapturedStrike> = stream.chunks(480).flat_map(|piece| finder.push(piece)).collect();
    assert_eq!(found.len(), 8, "{:?}", found.iter().map(|tap| tap.onset_s).collect::<Vec<_>>());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// Whatever comes in, there is an answer, and no pitch without a doubt that is a number.
    #[test]
    fn any_sound_gets_an_answer(
        rate in prop::sample::select(vec![8_000.0, 44_100.0, 48_000.0, 192_000.0]),
        length in 0usize..40_000,
        onset in 0usize..3_000,
        kind in 0u8..4,
        lugs in 1usize..13,
    ) {
        let sample = |n: usize| match kind {
            0 => 0.0,
            1 => 1.0,
            2 => ((n * 7919) % 2001) as f32 / 1000.0 - 1.0,
            _ => (n as f32 * 0.03).sin() * (-(n as f32) / 9000.0).exp(),
        };
        let samples: Vec<f32> = (0..length).map(sample).collect();
        let captured = CapturedStrike { sample_rate: rate, onset_s: 0.0, samples, onset_index: onset, ending: Ending::Interrupted };
        let sound = TapReader::new(rate).read(&captured);
        let taps: Vec<RoundTap> = (0..lugs.min(3)).map(|lug| RoundTap { lug, sound: &sound }).collect();
        let heard = hear_round(&taps, lugs, Expected::of(&BenchDrum::usual(DrumKind::Tom)));
        prop_assert!(heard.lugs.iter().all(|pitch| pitch.hz.is_finite() && pitch.sd_cents.is_finite() && pitch.sd_cents > 0.0));
        prop_assert!(heard.fault.is_some() || !heard.lugs.is_empty() || heard.too_uneven);
    }
}
