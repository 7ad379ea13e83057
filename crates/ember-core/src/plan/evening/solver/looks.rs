//! An evening in a few looks: states of the whole kit that songs share, so that there is little to remember and little to change.
//!
//! For given looks the cheapest one for each song is a shortest path (songs are layers, looks nodes, changes arcs). Looks are found by going
//! downhill: the best single one, then one more at a time, made of what one song would like best, as long as it is worth it; after each, every
//! drum's setup in every look is exchanged for whichever costs least, and a look that lacks devices is made anew of what is owned. This proves
//! nothing.

use super::{Bounds, EPSILON, PER_DEVICE_MISSING, PER_SECOND_OVER, Prices, Tableau, Way};
use crate::Patience;
use rayon::prelude::*;

/// What looks cost besides steps and seconds.
#[derive(Debug, Clone, Copy)]
pub struct Habits {
    pub most: usize,
    /// Steps that each drum costs that is changed between two songs: hands can forget and mistake.
    pub per_change: f64,
    /// Steps that one more look must be worth.
    pub per_look: f64,
    /// Part of each gap that changes may take.
    pub part_of_gap: f64,
}

/// Looks, and which one each song is played in.
#[derive(Debug, Clone)]
pub struct Looks {
    /// By look, then drum: its setup.
    pub looks: Vec<Vec<usize>>,
    /// By song.
    pub played: Vec<usize>,
    /// The setups, as pinned where a song is pinned.
    pub way: Way,
    pub cost: f64,
    /// Nothing costs less than this, in looks or not.
    pub bound: f64,
}

/// Which look each song is played in, and what that costs.
struct Played {
    at: Vec<usize>,
    cost: f64,
}

impl Tableau {
    /// The evening in at most `habits.most` looks, of which `first` is the best one alone.
    pub fn in_looks(&self, first: Vec<usize>, habits: Habits, patience: Patience) -> Looks {
        let mut looks = vec![first];
        let mut cost = self.refine(&mut looks, habits, patience);
        while looks.len() < habits.most && !patience.is_over() {
            let Some(mut more) = self.with_one_more(&looks, habits, patience) else { break };
            let lower = self.refine(&mut more, habits, patience);
            if lower > cost - habits.per_look {
                break;
            }
            (cost, looks) = (lower, more);
        }
        let Played { at, cost } = self.played(&looks, habits);
        let way = (0..self.songs()).map(|song| self.in_song(&looks[at[song]], song)).collect();
        let no_price = Prices { second: vec![0.0; self.songs()], device: vec![Vec::new(); self.songs()] };
        let bound = Bounds::new(self, &[], &self.arrivals(), no_price).bound;
        Looks { looks, played: at, way, cost, bound }
    }

    /// `look` in `song`: what is pinned there is as it is pinned.
    fn in_song(&self, look: &[usize], song: usize) -> Vec<usize> {
        let setup = |(drum, setup): (&super::Choices, &usize)| {
            let costs = &drum.cost[song];
            if costs[*setup].is_finite() { *setup } else { costs.iter().position(|cost| cost.is_finite()).unwrap_or(*setup) }
        };
        self.drums.iter().zip(look).map(setup).collect()
    }

    /// Each song in the look that makes the evening cheapest.
    fn played(&self, looks: &[Vec<usize>], habits: Habits) -> Played {
        let in_song = |song: usize| -> Vec<Vec<usize>> { looks.iter().map(|look| self.in_song(look, song)).collect() };
        let mut before = in_song(0);
        let start =
            |setups: &Vec<usize>| self.here(setups, 0) + self.drums.iter().zip(setups).map(|(drum, setup)| drum.start[*setup]).sum::<f64>();
        let mut so_far: Vec<f64> = before.iter().map(start).collect();
        let mut into: Vec<Vec<usize>> = vec![vec![0; looks.len()]];
        for song in 1..self.songs() {
            let now = in_song(song);
            let mut from = vec![0; looks.len()];
            let next = now.iter().enumerate().map(|(look, setups)| {
                let ways = before.iter().zip(&so_far).map(|(earlier, so_far)| so_far + self.changing(earlier, setups, song, habits));
                let (cheapest, cost) = ways.enumerate().min_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0, f64::INFINITY));
                from[look] = cheapest;
                cost + self.here(setups, song)
            });
            so_far = next.collect();
            into.push(from);
            before = now;
        }
        let (mut look, cost) = so_far.iter().copied().enumerate().min_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0, f64::INFINITY));
        let mut at = vec![0; self.songs()];
        for song in (0..self.songs()).rev() {
            at[song] = look;
            look = into[song][look];
        }
        Played { at, cost }
    }

    /// What the evening costs in `looks`.
    #[cfg(test)]
    pub fn played_cost(&self, looks: &[Vec<usize>], habits: Habits) -> f64 {
        self.played(looks, habits).cost
    }

    fn here(&self, setups: &[usize], song: usize) -> f64 {
        let off: f64 = self.drums.iter().zip(setups).map(|(drum, setup)| drum.cost[song][*setup]).sum();
        off + PER_DEVICE_MISSING * self.missing_in_all(setups)
    }

    /// Devices that `setups` need beyond what is owned, all kinds together.
    fn missing_in_all(&self, setups: &[usize]) -> f64 {
        // Kind by kind side by side, which wide instructions can do: this is asked for every song of every look that is tried.
        let mut used = vec![0; self.owned.len()];
        for (drum, setup) in self.drums.iter().zip(setups) {
            used.iter_mut().zip(&drum.uses[*setup]).for_each(|(used, uses)| *used += *uses);
        }
        used.iter().zip(&self.owned).map(|(used, owned)| f64::from(used.saturating_sub(*owned))).sum()
    }

    fn changing(&self, before: &[usize], now: &[usize], song: usize, habits: Habits) -> f64 {
        let pairs = || self.drums.iter().zip(before.iter().zip(now));
        let seconds: f64 = pairs().map(|(drum, (before, now))| drum.change_s[*before][*now]).sum();
        let changed = before.iter().zip(now).filter(|(before, now)| before != now).count();
        let over = (seconds - habits.part_of_gap * self.gaps_s[song]).max(0.0);
        let is_in_front = |(drum, (before, now)): (&super::Choices, (&usize, &usize))| drum.in_front[*before][*now];
        let in_front = if self.breaks[song] { 0.0 } else { PER_SECOND_OVER * pairs().filter(|pair| is_in_front(*pair)).count() as f64 };
        habits.per_change * changed as f64 + self.per_second * seconds + PER_SECOND_OVER * over + in_front
    }

    /// `looks` and what one song would like best of what is owned, whichever makes the evening cheapest.
    fn with_one_more(&self, looks: &[Vec<usize>], habits: Habits, patience: Patience) -> Option<Vec<Vec<usize>>> {
        let best_in = |song: usize| -> Vec<usize> {
            let cheapest = |drum: &super::Choices| {
                let costs = drum.cost[song].iter().enumerate();
                costs.min_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |(setup, _)| setup)
            };
            let liked: Vec<usize> = self.drums.iter().map(cheapest).collect();
            if self.missing_in_all(&liked) == 0.0 { liked } else { self.best_for(&[song], patience).unwrap_or(liked) }
        };
        let with = |song: usize| [looks, &[best_in(song)]].concat();
        let all: Vec<Vec<Vec<usize>>> = (0..self.songs()).map(with).collect();
        all.into_par_iter().map(|looks| (self.played(&looks, habits).cost, looks)).min_by(|a, b| a.0.total_cmp(&b.0)).map(|best| best.1)
    }

    /// Makes `looks` cheaper as long as anything that is tried does so. Returns what the evening then costs.
    fn refine(&self, looks: &mut Vec<Vec<usize>>, habits: Habits, patience: Patience) -> f64 {
        let mut cost = self.exchange(looks, habits, patience);
        // What drums give up for one another is not seen while only one of them changes: a look that lacks devices is made anew.
        while let Some(mut other) = self.with_what_is_owned(looks, habits, patience) {
            let lower = self.exchange(&mut other, habits, patience);
            // Asked for what goes on, not for what ends it: a cost that cannot be compared ends it too.
            let is_better = lower < cost - EPSILON;
            if !is_better {
                break;
            }
            (cost, *looks) = (lower, other);
        }
        cost
    }

    /// Exchanges the setup of one drum in one look after another for whichever makes the evening cheapest, until no exchange helps. Returns what the
    /// evening then costs.
    fn exchange(&self, looks: &mut [Vec<usize>], habits: Habits, patience: Patience) -> f64 {
        let mut cost = self.played(looks, habits).cost;
        loop {
            let before = cost;
            for look in 0..looks.len() {
                for (drum, choices) in self.drums.iter().enumerate() {
                    let with = |setup: usize| {
                        let mut other = looks.to_vec();
                        other[look][drum] = setup;
                        (self.played(&other, habits).cost, setup)
                    };
                    let best = (0..choices.start.len()).into_par_iter().map(with).min_by(|a, b| a.0.total_cmp(&b.0));
                    if let Some((lower, setup)) = best.filter(|best| best.0 < cost - EPSILON) {
                        (cost, looks[look][drum]) = (lower, setup);
                    }
                }
            }
            let is_better = cost < before - EPSILON;
            if !is_better || patience.is_over() {
                return cost;
            }
        }
    }

    /// `looks` with each that lacks a device in one of its songs made anew, the best one that what is owned allows for these songs. `None`
    /// where none lacks any.
    fn with_what_is_owned(&self, looks: &[Vec<usize>], habits: Habits, patience: Patience) -> Option<Vec<Vec<usize>>> {
        let Played { at, .. } = self.played(looks, habits);
        let songs_in = |look: usize| -> Vec<usize> { (0..self.songs()).filter(|song| at[*song] == look).collect() };
        let lacks = |look: usize, song: usize| self.missing_in_all(&self.in_song(&looks[look], song)) > 0.0;
        let lacking: Vec<usize> = (0..looks.len()).filter(|look| songs_in(*look).iter().any(|song| lacks(*look, *song))).collect();
        let mut others = looks.to_vec();
        for look in &lacking {
            others[*look] = self.best_for(&songs_in(*look), patience)?;
        }
        (!lacking.is_empty()).then_some(others)
    }

    /// The look that costs least over all of `songs` with the devices that are owned, changing left out. It is solved as an evening of one song
    /// whose steps off are the sum of theirs. A drum that is pinned in one of the songs is pinned in the look.
    fn best_for(&self, songs: &[usize], patience: Patience) -> Option<Vec<usize>> {
        let in_all = |drum: &super::Choices| {
            let sum = |setup: usize| songs.iter().map(|song| drum.cost[*song][setup]).sum::<f64>();
            let cost: Vec<f64> = (0..drum.start.len()).map(sum).collect();
            // Pinned to one setup in this song and to another in that: each song sees to it by itself.
            let cost = if cost.iter().any(|cost| cost.is_finite()) { cost } else { vec![0.0; cost.len()] };
            super::Choices { cost: vec![cost], ..drum.clone() }
        };
        let drums = self.drums.iter().map(in_all).collect();
        let one_song = Tableau { drums, gaps_s: vec![f64::INFINITY], breaks: vec![false], ..self.clone() };
        one_song.solve(patience)?.way.pop()
    }
}
