//! The cheapest way through an evening, exactly: one setup for each song and drum.
//!
//! Each drum alone is a shortest path (songs are layers, setups nodes, changes arcs). What ties the drums together, the seconds
//! between two songs and the devices there are, is priced (Lagrange multipliers, subgradient steps after Held, Wolfe & Crowder,
//! Mathematical Programming 6, 1974), which bounds the cost from below. Then dynamic programming over the joint setups of all
//! drums keeps every state whose bound does not exceed the best way known, so that nothing better can be missed.

mod bounds;
mod looks;
mod priced;
mod walk;

pub use looks::{Habits, Looks};

use crate::Patience;
use bounds::Bounds;
use priced::Prices;

/// Cost of a second or a device too many. Finite, so that an evening that cannot be still has an answer that says where.
const PER_SECOND_OVER: f64 = 50.0;
const PER_DEVICE_MISSING: f64 = 2000.0;
const PRICE_ROUNDS: usize = 48;
/// Nearer than this, prices need no more refining: the search sees to the rest, steps.
const CLOSE: f64 = 0.05;
const EPSILON: f64 = 1e-7;

/// The choices for one drum.
#[derive(Debug, Clone)]
pub struct Choices {
    /// Steps off by song, then setup: finite, or infinite where a song is pinned to something else.
    pub cost: Vec<Vec<f64>>,
    /// Steps that it takes to begin the evening with a setup.
    pub start: Vec<f64>,
    /// Seconds to change from one setup to another.
    pub change_s: Vec<Vec<f64>>,
    /// Whether that is done from the front of the drum, which nobody does between two songs.
    pub in_front: Vec<Vec<bool>>,
    /// Devices of each kind that a setup needs.
    pub uses: Vec<Vec<u32>>,
}

/// An evening in numbers.
#[derive(Debug, Clone)]
pub struct Tableau {
    pub drums: Vec<Choices>,
    /// Seconds there are before each song; the first one's do not count.
    pub gaps_s: Vec<f64>,
    /// Whether there is a break before each song.
    pub breaks: Vec<bool>,
    /// Devices of each kind that are owned.
    pub owned: Vec<u32>,
    /// Steps that a second of changing costs.
    pub per_second: f64,
}

/// A setup for each song and drum.
pub type Way = Vec<Vec<usize>>;

/// What was found.
#[derive(Debug, Clone)]
pub struct Solution {
    pub way: Way,
    pub cost: f64,
    /// The next cheapest way, and what it costs. None where there is one way only.
    pub second: Option<(Way, f64)>,
    /// Nothing can cost less than this.
    pub bound: f64,
    /// Whether nothing can cost less than `cost`.
    pub proved: bool,
}

impl Tableau {
    fn songs(&self) -> usize {
        self.gaps_s.len()
    }

    /// Cost of `way`, with what is over the limits.
    pub fn cost(&self, way: &Way) -> f64 {
        let mut cost = 0.0;
        for (song, setups) in way.iter().enumerate() {
            let mut seconds = 0.0;
            for (drum, setup) in self.drums.iter().zip(setups.iter().enumerate()) {
                let (index, setup) = setup;
                cost += drum.cost[song][*setup];
                match song {
                    0 => cost += drum.start[*setup],
                    _ => seconds += drum.change_s[way[song - 1][index]][*setup],
                }
            }
            cost += self.per_second * seconds + if song == 0 { 0.0 } else { PER_SECOND_OVER * (seconds - self.gaps_s[song]).max(0.0) };
            cost += (0..self.owned.len()).map(|device| PER_DEVICE_MISSING * self.missing(setups, device)).sum::<f64>();
        }
        cost
    }

    /// Devices of one kind that `setups` need beyond what is owned.
    fn missing(&self, setups: &[usize], device: usize) -> f64 {
        let used: u32 = self.drums.iter().zip(setups).map(|(drum, setup)| drum.uses[*setup][device]).sum();
        f64::from(used.saturating_sub(self.owned[device]))
    }

    /// By how many seconds one drum's change alone exceeds the gap before `song`.
    fn alone_over(&self, song: usize, seconds: f64) -> f64 {
        (seconds - self.gaps_s[song]).max(0.0)
    }

    /// Whether any set of setups could need more of `device` than there is.
    fn may_run_out(&self, device: usize) -> bool {
        let most: u32 = self.drums.iter().map(|drum| drum.uses.iter().map(|uses| uses[device]).max().unwrap_or(0)).sum();
        most > self.owned[device]
    }

    /// Makes `way` cheaper drum by drum, each along its own best path with the others as they are, until none finds a better one or the
    /// answer is no longer waited for.
    fn improve(&self, way: &mut Way, patience: Patience) -> f64 {
        let mut cost = self.cost(way);
        loop {
            for d in 0..self.drums.len() {
                self.improve_drum(way, d);
            }
            let now = self.cost(way);
            // Asked for what goes on, not for what ends it: a cost that cannot be compared ends it too.
            let is_better = now < cost - EPSILON;
            if !is_better || patience.is_over() {
                return now;
            }
            cost = now;
        }
    }

    fn improve_drum(&self, way: &mut Way, d: usize) {
        let drum = &self.drums[d];
        let setups = drum.start.len();
        let mut into: Vec<Vec<usize>> = Vec::with_capacity(self.songs());
        let mut so_far: Vec<f64> = Vec::new();
        for song in 0..self.songs() {
            let mut left: Vec<f64> = self.owned.iter().map(|count| f64::from(*count)).collect();
            let mut others_s = 0.0;
            for (other, choices) in self.drums.iter().enumerate().filter(|(other, _)| *other != d) {
                for (left, uses) in left.iter_mut().zip(&choices.uses[way[song][other]]) {
                    *left -= f64::from(*uses);
                }
                others_s += if song > 0 { choices.change_s[way[song - 1][other]][way[song][other]] } else { 0.0 };
            }
            let here = |setup: usize| {
                let missing: f64 = drum.uses[setup].iter().zip(&left).map(|(uses, left)| (f64::from(*uses) - left.max(0.0)).max(0.0)).sum();
                drum.cost[song][setup] + PER_DEVICE_MISSING * missing
            };
            let gap = self.gaps_s[song];
            let arc = |seconds: f64| self.per_second * seconds + PER_SECOND_OVER * (others_s + seconds - gap).max(0.0);
            let mut from = vec![0; setups];
            let next: Vec<f64> = (0..setups)
                .map(|setup| {
                    if song == 0 {
                        return drum.start[setup] + here(setup);
                    }
                    let mut cheapest = f64::INFINITY;
                    for (before, (so_far, changes)) in so_far.iter().zip(&drum.change_s).enumerate() {
                        let cost = so_far + arc(changes[setup]);
                        if cost < cheapest {
                            (cheapest, from[setup]) = (cost, before);
                        }
                    }
                    cheapest + here(setup)
                })
                .collect();
            so_far = next;
            into.push(from);
        }
        let mut setup = (0..setups).min_by(|a, b| so_far[*a].total_cmp(&so_far[*b])).unwrap_or(0);
        for song in (0..self.songs()).rev() {
            way[song][d] = setup;
            setup = into[song][setup];
        }
    }

    /// Seconds of every change, by drum: those into the first setup from each other one, then those into the second, and so on.
    fn arrivals(&self) -> Vec<Vec<f64>> {
        self.drums
            .iter()
            .map(|drum| (0..drum.start.len()).flat_map(|next| drum.change_s.iter().map(move |from| from[next])).collect())
            .collect()
    }

    /// Solves it as far as `patience` goes: a way is found in any case, that it is the best is proved only with time enough. `None` without
    /// songs or drums.
    pub fn solve(&self, patience: Patience) -> Option<Solution> {
        if self.songs() == 0 || self.drums.is_empty() {
            return None;
        }
        let scarce: Vec<usize> = (0..self.owned.len()).filter(|device| self.may_run_out(*device)).collect();
        let mut prices = Prices { second: vec![0.0; self.songs()], device: vec![vec![0.0; scarce.len()]; self.songs()] };
        let arrivals = self.arrivals();
        let bounds = |prices: &Prices| Bounds::new(self, &scarce, &arrivals, prices.clone());
        let mut best = bounds(&prices);
        let mut known = best.dive();
        let mut known_cost = self.improve(&mut known, patience);
        // Drums that do not get in one another's way need no prices.
        let mut now = best.clone();
        let mut step = 1.0;
        let mut since_better = 0;
        for round in 0..PRICE_ROUNDS {
            if known_cost - best.bound < CLOSE || step < 1e-3 || patience.is_over() {
                break;
            }
            let over = now.over();
            let length: f64 = over.second.iter().chain(over.device.iter().flatten()).map(|x| x * x).sum();
            if length < EPSILON {
                break;
            }
            let size = step * (known_cost - now.bound).max(0.01) / length;
            for (price, over) in prices.second.iter_mut().zip(&over.second) {
                *price = (*price + size * over).clamp(0.0, PER_SECOND_OVER);
            }
            for (price, over) in prices.device.iter_mut().flatten().zip(over.device.iter().flatten()) {
                *price = (*price + size * over).clamp(0.0, PER_DEVICE_MISSING);
            }
            now = bounds(&prices);
            if now.bound > best.bound {
                best = now.clone();
                since_better = 0;
            } else {
                since_better += 1;
            }
            if since_better == 6 {
                (step, since_better) = (0.5 * step, 0);
                prices = best.priced.prices.clone();
                now = best.clone();
            }
            if round % 12 == 0 {
                let mut way = now.dive();
                let cost = self.improve(&mut way, patience);
                if cost < known_cost {
                    (known, known_cost) = (way, cost);
                }
            }
        }
        Some(best.finish(known, known_cost, patience))
    }
}

#[cfg(test)]
mod tests;
