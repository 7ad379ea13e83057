//! Whether advised turns make heads even, on rods that behave otherwise than expected.

use ember_core::bench_drum::BenchDrum;
use ember_core::drum::{Drum, DrumKind};
use ember_core::tuning::{Goal, Influence, TurnTrial, TurnedHead, next_turns};
use ember_core::units::cents;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;

/// A head whose rods act as nobody knows: another strength, other shares, each rod by itself.
struct HiddenHead {
    influence: Vec<Vec<f64>>,
    squares: Vec<f64>,
}

impl HiddenHead {
    fn new(lugs: usize, hz: f64, rng: &mut StdRng) -> Self {
        let all = hz * hz * (2f64.powf(rng.random_range(24.0..56.0) / 600.0) - 1.0) / lugs as f64;
        let (own, neighbour, across, rest): (f64, f64, f64, f64) =
            (rng.random_range(1.8..3.0), rng.random_range(0.5..1.2), rng.random_range(0.3..0.7), rng.random_range(0.2..0.6));
        let share = |steps: usize| match steps {
            0 => own,
            1 => neighbour,
            _ if 2 * steps == lugs => own * across,
            _ => rest,
        };
        let rods: Vec<f64> = (0..lugs).map(|_| rng.random_range(0.8..1.25)).collect();
        let entry = |lug: usize, rod: usize, jitter: f64| all * rods[rod] * share(lug.abs_diff(rod).min(lugs - lug.abs_diff(rod))) * jitter;
        let influence = (0..lugs).map(|lug| (0..lugs).map(|rod| entry(lug, rod, rng.random_range(0.85..1.15))).collect()).collect();
        // Uneven as a head gets: by rods that were turned unevenly, until the spread is 150 cents.
        let off: Vec<f64> = (0..lugs).map(|_| rng.random_range(-1.0..1.0f64)).collect();
        let influence: Vec<Vec<f64>> = influence;
        let gained: Vec<f64> = influence.iter().map(|row| row.iter().zip(&off).map(|(entry, off)| entry * off).sum()).collect();
        let (low, high) = gained.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), x| (low.min(*x), high.max(*x)));
        let low_square = hz * hz;
        let scale = low_square * (2f64.powf(150.0 / 600.0) - 1.0) / (high - low);
        let squares = gained.iter().map(|x| low_square + scale * (x - low)).collect();
        Self { influence, squares }
    }

    fn hear(&self, rng: &mut StdRng) -> Vec<Option<f64>> {
        // Lug pitches are off by a cent.
        let noise = |rng: &mut StdRng| (0..3).map(|_| rng.random_range(-1.0..1.0f64)).sum::<f64>();
        self.squares.iter().map(|square| Some(square.sqrt() * 2f64.powf(0.8 * noise(rng) / 1200.0))).collect()
    }

    fn turn(&mut self, eighths: &[i32], rng: &mut StdRng) {
        let real: Vec<f64> = eighths.iter().map(|t| if *t == 0 { 0.0 } else { f64::from(*t) + rng.random_range(-0.1..0.1) }).collect();
        for (lug, square) in self.squares.iter_mut().enumerate() {
            *square += self.influence[lug].iter().zip(&real).map(|(entry, t)| entry * t).sum::<f64>();
        }
    }

    fn spread(&self) -> f64 {
        let (low, high) = self.squares.iter().fold((f64::INFINITY, 0.0f64), |(low, high), x| (low.min(*x), high.max(*x)));
        cents(low.sqrt(), high.sqrt())
    }
}

/// Spread after each round of turns.
fn evened(drum: &Drum, rounds: usize, seed: u64) -> Vec<f64> {
    let mut rng = StdRng::seed_from_u64(seed);
    let lugs = usize::from(drum.lugs);
    let hz = 1.593 * drum.usual_batter_hz() * rng.random_range(0.85..1.2);
    let mut hidden = HiddenHead::new(lugs, hz, &mut rng);
    let mut trials: Vec<TurnTrial> = Vec::new();
    let mut before = hidden.hear(&mut rng);
    (0..rounds)
        .map(|_| {
            let influence = Influence::learned(lugs, 1.593 * drum.usual_batter_hz(), &trials);
            let head = TurnedHead { drum, head: drum.batter, influence: &influence, since_seated: None };
            let advice = next_turns(&head, &before, 1.0, Goal::Even).unwrap();
            let mut eighths = vec![0; lugs];
            advice.turns.iter().for_each(|turn| eighths[turn.lug] = turn.eighths);
            hidden.turn(&eighths, &mut rng);
            let after = hidden.hear(&mut rng);
            trials.push(TurnTrial { before_hz: before.clone(), eighths, after_hz: after.clone(), sd_cents: 1.0 });
            before = after;
            hidden.spread()
        })
        .collect()
}

/// Spreads of `heads` hidden heads after each of four rounds; says what they come to.
fn spreads(heads: u64) -> Vec<Vec<f64>> {
    let drum = Drum { lugs: 8, ..BenchDrum::usual(DrumKind::FloorTom) };
    let of_heads: Vec<Vec<f64>> = (0..heads).into_par_iter().map(|seed| evened(&drum, 4, seed)).collect();
    (0..4)
        .map(|round| {
            let mut sorted: Vec<f64> = of_heads.iter().map(|spread| spread[round]).collect();
            sorted.sort_by(f64::total_cmp);
            let (median, worst) = (sorted[sorted.len() / 2], sorted[sorted.len() - 1]);
            println!("after round {}: median {median:.1}, worst {worst:.1} cents, {} of {heads} under 15", round + 1, even(&sorted));
            sorted
        })
        .collect()
}

fn even(spreads: &[f64]) -> usize {
    spreads.iter().filter(|spread| **spread < 15.0).count()
}

/// Wanted: from 150 cents to under 15 within three rounds on eight lugs. Hidden matrices differ from what is expected in strength
/// (0.6 to 1.4 of it), in their shares and rod by rod, and keys are off by up to a tenth of an eighth.
#[test]
fn eight_lugs_are_even_within_three_rounds() {
    let heads = 60;
    let after = spreads(heads as u64);
    let (median, worst, good) = (after[2][heads / 2], after[2][heads - 1], even(&after[2]));
    assert!(after[0][heads - 1] < 150.0, "no round makes a head worse than it was");
    assert!(median < 10.0 && worst < 20.0 && 20 * good >= 19 * heads, "{median} {worst} {good}");
    assert_eq!(even(&after[3]), heads, "a fourth round mends the few that are left");
}

/// The same on more heads, among which are harder ones: what holds nearly always.
#[test]
fn of_four_hundred_heads_nearly_all_are_even_within_three_rounds() {
    let heads = 400;
    let after = spreads(heads as u64);
    assert!(after[0][heads - 1] < 150.0, "no round makes a head worse than it was");
    assert!(after[2][heads / 2] < 10.0 && 20 * even(&after[2]) >= 19 * heads, "{}", even(&after[2]));
    assert!(50 * even(&after[3]) >= 49 * heads, "{}", even(&after[3]));
}
