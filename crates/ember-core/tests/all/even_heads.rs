//! Whether advised turns make heads even, on rods that behave otherwise than expected.

use ember_core::bench_drum::{BenchDrum, TappedHead};
use ember_core::drum::{Drum, DrumKind};
use ember_core::tuning::{Goal, Influence, TurnTrial, TurnedHead, next_turns};
use ember_core::units::cents;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;

/// A head whose rods act as the one who turns them does not know.
trait Hidden {
    /// Pitch of each lug as it is, Hz.
    fn pitches(&self) -> Vec<f64>;
    /// Turns rod `rod` by `eighths`, as exactly as a hand does.
    fn turn(&mut self, rod: usize, eighths: f64);
}

/// From the lowest to the highest pitch, cents.
fn spread(pitches: &[f64]) -> f64 {
    let (low, high) = pitches.iter().fold((f64::INFINITY, 0.0f64), |(low, high), hz| (low.min(*hz), high.max(*hz)));
    cents(low, high)
}

/// One of the simulated drum's heads, its film in balance under its rods: what an eighth pulls differs from head to head (0.6 to
/// 1.4 of what is expected) and from rod to rod.
struct HeldHead {
    drum: Drum,
    hz: f64,
    an_eighth_pulls: Vec<f64>,
    pull: Vec<f64>,
}

impl HeldHead {
    /// A head on which lugs lie 150 cents apart.
    fn new(drum: Drum, rng: &mut StdRng) -> Self {
        let lugs = usize::from(drum.lugs);
        let hz = drum.usual_batter_hz() * rng.random_range(0.85..1.2);
        // On all rods, 40 cents an eighth, as the prior has it, is a twentieth of the tension.
        let strength = 0.047 * rng.random_range(0.6..1.4);
        let an_eighth_pulls = (0..lugs).map(|_| strength * rng.random_range(0.8..1.25)).collect();
        let mut head = Self { drum, hz, an_eighth_pulls, pull: vec![1.0; lugs] };
        loop {
            let off: Vec<f64> = (0..lugs).map(|_| rng.random_range(-1.0..1.0f64)).collect();
            let mut most = 0.3;
            for _ in 0..5 {
                head.pull = off.iter().map(|off| (1.0 + most * off).max(0.1)).collect();
                match head.heard().map(|pitches| spread(&pitches)) {
                    Some(spread) if (spread - 150.0).abs() < 4.0 => return head,
                    Some(spread) => most *= 150.0 / spread,
                    // So uneven that its pitches are none.
                    None => most *= 0.85,
                }
            }
        }
    }

    fn heard(&self) -> Option<Vec<f64>> {
        TappedHead::new(&self.drum, self.hz, &self.pull).local_pitches()
    }
}

impl Hidden for HeldHead {
    fn pitches(&self) -> Vec<f64> {
        self.heard().expect("turns leave the head with pitches")
    }

    fn turn(&mut self, rod: usize, eighths: f64) {
        self.pull[rod] = (self.pull[rod] + self.an_eighth_pulls[rod] * eighths).max(0.05);
    }
}

/// A matrix that no head has, and harder to even than any: another strength, other shares, each rod and entry by itself, so that
/// opposite lugs do not even read alike.
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
}

impl Hidden for HiddenHead {
    fn pitches(&self) -> Vec<f64> {
        self.squares.iter().map(|square| square.sqrt()).collect()
    }

    fn turn(&mut self, rod: usize, eighths: f64) {
        for (lug, square) in self.squares.iter_mut().enumerate() {
            *square += self.influence[lug][rod] * eighths;
        }
    }
}

/// Pitches as they are heard: off by a cent.
fn hear(pitches: &[f64], rng: &mut StdRng) -> Vec<Option<f64>> {
    let noise = |rng: &mut StdRng| (0..3).map(|_| rng.random_range(-1.0..1.0f64)).sum::<f64>();
    pitches.iter().map(|hz| Some(hz * 2f64.powf(0.8 * noise(rng) / 1200.0))).collect()
}

/// Spread after each round of turns, the first before any.
fn evened(drum: &Drum, mut hidden: impl Hidden, rounds: usize, rng: &mut StdRng) -> Vec<f64> {
    let lugs = usize::from(drum.lugs);
    let mut trials: Vec<TurnTrial> = Vec::new();
    let pitches = hidden.pitches();
    let mut before = hear(&pitches, rng);
    let mut spreads = vec![spread(&pitches)];
    for _ in 0..rounds {
        let influence = Influence::learned(lugs, 1.593 * drum.usual_batter_hz(), &trials);
        let head = TurnedHead { drum, head: drum.batter, influence: &influence, since_seated: None };
        let advice = next_turns(&head, &before, 1.0, Goal::Even).unwrap();
        let mut eighths = vec![0; lugs];
        advice.turns.iter().for_each(|turn| eighths[turn.lug] = turn.eighths);
        for (rod, turned) in eighths.iter().enumerate().filter(|(_, turned)| **turned != 0) {
            hidden.turn(rod, f64::from(*turned) + rng.random_range(-0.1..0.1));
        }
        let pitches = hidden.pitches();
        let after = hear(&pitches, rng);
        trials.push(TurnTrial { before_hz: before, eighths, after_hz: after.clone(), sd_cents: 1.0 });
        before = after;
        spreads.push(spread(&pitches));
    }
    spreads
}

/// Spreads of `heads` hidden heads before and after each of four rounds, each sorted; says what they come to.
fn spreads<H: Hidden>(heads: u64, made: impl Fn(Drum, &mut StdRng) -> H + Sync) -> Vec<Vec<f64>> {
    let drum = Drum { lugs: 8, ..BenchDrum::usual(DrumKind::FloorTom) };
    let of_head = |seed| {
        let mut rng = StdRng::seed_from_u64(seed);
        evened(&drum, made(drum.clone(), &mut rng), 4, &mut rng)
    };
    let of_heads: Vec<Vec<f64>> = (0..heads).into_par_iter().map(of_head).collect();
    (0..=4)
        .map(|round| {
            let mut sorted: Vec<f64> = of_heads.iter().map(|spread| spread[round]).collect();
            sorted.sort_by(f64::total_cmp);
            let (median, worst) = (sorted[sorted.len() / 2], sorted[sorted.len() - 1]);
            println!("after round {round}: median {median:.1}, worst {worst:.1} cents, {} of {heads} under 15", even(&sorted));
            sorted
        })
        .collect()
}

fn even(spreads: &[f64]) -> usize {
    spreads.iter().filter(|spread| **spread < 15.0).count()
}

/// Wanted: from 150 cents to under 15 within three rounds on eight lugs, on simulated heads whose rods differ from what is expected.
fn held_heads_are_even(heads: u64) {
    let after = spreads(heads, HeldHead::new);
    let all = heads as usize;
    assert!(after[0][0] > 145.0 && even(&after[3]) == all && after[3][all / 2] < 6.0, "{}", even(&after[3]));
}

#[test]
fn simulated_heads_are_even_within_three_rounds() {
    held_heads_are_even(6);
}

#[test]
#[ignore = "takes minutes in a release build"]
fn a_hundred_simulated_heads_are_even_within_three_rounds() {
    held_heads_are_even(100);
}

/// Matrices drawn at random, in strength 0.6 to 1.4 of what is expected and in their shares, rod by rod: nearly all, and the few
/// that are left by a fourth round.
#[test]
fn of_hidden_matrices_nearly_all_are_even_within_three_rounds() {
    let heads = 120;
    let after = spreads(heads as u64, |drum, rng| HiddenHead::new(8, 1.593 * drum.usual_batter_hz() * rng.random_range(0.85..1.2), rng));
    assert!(after[1][heads - 1] < 150.0, "no round makes a head worse than it was");
    assert!(after[3][heads / 2] < 10.0 && 20 * even(&after[3]) >= 19 * heads, "{}", even(&after[3]));
    assert!(50 * even(&after[4]) >= 49 * heads, "{}", even(&after[4]));
}
