//! What the rest of an evening costs at least, at given prices for what the drums share; and the search that those bounds keep short.

use super::priced::{Priced, Prices};
use super::walk::{Branch, Walk};
use super::{EPSILON, Solution, Tableau, Way};
use crate::Patience;
use std::collections::HashMap;

/// Joint setups kept in all layers; beyond, the answer is no longer proved to be the best.
const MOST_STATES: usize = 15_000;
/// Setups looked at for one song on the way to a first good answer.
const DIVE_NODES: usize = 400;
const MOST_NODES: usize = 200_000;

/// Cost to the end of the evening at given prices.
#[derive(Clone)]
pub(super) struct Bounds<'a> {
    pub priced: Priced<'a>,
    /// By drum, song and setup: the song's steps off and priced devices, without what follows.
    node: Vec<Vec<Vec<f64>>>,
    /// By drum, song and setup: all that follows the song, the change into the next one included.
    after: Vec<Vec<Vec<f64>>>,
    pub bound: f64,
}

/// Partial ways that end in the same setups: the two cheapest.
struct State {
    setups: Vec<usize>,
    /// Cost so far and where it came from: state and rank in the layer before. Cheapest first.
    labels: Vec<(f64, usize, usize)>,
}

impl State {
    /// Notes that it is reached from `before`, number `number` of its layer, at `here` for this song and `to_end` to the evening's end; of all ways
    /// to it that stay within `limit` the two cheapest are kept.
    fn reached_from(&mut self, before: &State, number: usize, to_end: f64, here: f64, limit: f64) {
        for (rank, (so_far, ..)) in before.labels.iter().enumerate() {
            if so_far + to_end <= limit {
                self.labels.push((so_far + here, number, rank));
                self.labels.sort_by(|a, b| a.0.total_cmp(&b.0));
                self.labels.truncate(2);
            }
        }
    }
}

/// What a search may still look at.
struct Left {
    states: usize,
    nodes: usize,
}

/// The two cheapest ways through all layers, cheapest first.
fn cheapest(layers: &[Vec<State>]) -> Option<Vec<Way>> {
    let ends = layers.last()?.iter().enumerate();
    let mut ends: Vec<(f64, usize, usize)> =
        ends.flat_map(|(i, state)| state.labels.iter().enumerate().map(move |(rank, label)| (label.0, i, rank))).collect();
    ends.sort_by(|a, b| a.0.total_cmp(&b.0));
    let back = |(_, mut state, mut rank): (f64, usize, usize)| {
        let mut way = Vec::with_capacity(layers.len());
        for layer in layers.iter().rev() {
            way.push(layer[state].setups.clone());
            (_, state, rank) = layer[state].labels[rank];
        }
        way.reverse();
        way
    };
    Some(ends.into_iter().take(2).map(back).collect())
}

impl<'a> Bounds<'a> {
    pub(super) fn new(tableau: &'a Tableau, scarce: &'a [usize], arrivals: &[Vec<f64>], prices: Prices) -> Self {
        let songs = tableau.songs();
        let mut node = Vec::with_capacity(tableau.drums.len());
        let mut after = Vec::with_capacity(tableau.drums.len());
        let mut bound = -tableau
            .gaps_s
            .iter()
            .zip(&prices.second)
            .skip(1)
            .map(|(gap, price)| if *price > 0.0 { gap * price } else { 0.0 })
            .sum::<f64>();
        bound -= prices
            .device
            .iter()
            .map(|of| of.iter().zip(scarce).map(|(price, k)| price * f64::from(tableau.owned[*k])).sum::<f64>())
            .sum::<f64>();
        for (drum, arrivals) in tableau.drums.iter().zip(arrivals) {
            let setups = drum.start.len();
            let here: Vec<Vec<f64>> = (0..songs)
                .map(|song| {
                    let priced = |setup: usize| -> f64 {
                        prices.device[song].iter().zip(scarce).map(|(price, k)| price * f64::from(drum.uses[setup][*k])).sum()
                    };
                    (0..setups)
                        .map(|setup| drum.cost[song][setup] + priced(setup) + if song == 0 { drum.start[setup] } else { 0.0 })
                        .collect()
                })
                .collect();
            let mut later = vec![vec![0.0; setups]; songs];
            for song in (0..songs - 1).rev() {
                let arc = prices.arcs(tableau, song + 1);
                let (here_after, rest) = later[song..].split_first_mut().expect("this song and the next");
                here_after.fill(f64::INFINITY);
                // Next song outside, this one inside: one straight run of additions and comparisons.
                for (next, row) in arrivals.chunks_exact(setups).enumerate() {
                    let to_end = here[song + 1][next] + rest[0][next];
                    for (least, seconds) in here_after.iter_mut().zip(row) {
                        let cost = arc(*seconds) + to_end;
                        *least = if cost < *least { cost } else { *least };
                    }
                }
            }
            bound += (0..setups).map(|s| here[0][s] + later[0][s]).fold(f64::INFINITY, f64::min);
            node.push(here);
            after.push(later);
        }
        Self { priced: Priced { tableau, scarce, prices }, node, after, bound }
    }

    /// The cheapest way of each drum alone at these prices.
    fn alone(&self) -> Way {
        let mut way = vec![vec![0; self.priced.tableau.drums.len()]; self.priced.tableau.songs()];
        for (d, drum) in self.priced.tableau.drums.iter().enumerate() {
            for song in 0..self.priced.tableau.songs() {
                let arc = self.priced.prices.arcs(self.priced.tableau, song);
                let into = |setup: usize| match song {
                    0 => 0.0,
                    _ => arc(drum.change_s[way[song - 1][d]][setup]),
                };
                let to_end = |setup: usize| into(setup) + self.node[d][song][setup] + self.after[d][song][setup];
                way[song][d] = (0..drum.start.len()).min_by(|a, b| to_end(*a).total_cmp(&to_end(*b))).unwrap_or(0);
            }
        }
        way
    }

    /// By how much the drums' cheapest ways together are over each limit (under it: negative).
    pub(super) fn over(&self) -> Prices {
        let way = self.alone();
        let tableau = self.priced.tableau;
        let second = (0..tableau.songs())
            .map(|song| {
                if song == 0 || !tableau.gaps_s[song].is_finite() {
                    return 0.0;
                }
                let seconds: f64 = tableau.drums.iter().enumerate().map(|(d, drum)| drum.change_s[way[song - 1][d]][way[song][d]]).sum();
                let over = seconds - tableau.gaps_s[song];
                if over < 0.0 && self.priced.prices.second[song] == 0.0 { 0.0 } else { over }
            })
            .collect();
        let device = (0..tableau.songs())
            .map(|song| {
                self.priced
                    .scarce
                    .iter()
                    .enumerate()
                    .map(|(index, k)| {
                        let used: u32 = tableau.drums.iter().zip(&way[song]).map(|(drum, setup)| drum.uses[*setup][*k]).sum();
                        let over = f64::from(used) - f64::from(tableau.owned[*k]);
                        if over < 0.0 && self.priced.prices.device[song][index] == 0.0 { 0.0 } else { over }
                    })
                    .collect()
            })
            .collect();
        Prices { second, device }
    }

    /// Setups of each drum in order of what they cost from `song` to the end, coming from `before`.
    fn ordered(&self, drum: usize, song: usize, before: Option<usize>) -> Vec<Branch> {
        let arc = self.priced.prices.arcs(self.priced.tableau, song);
        let mut order: Vec<Branch> = (0..self.node[drum][song].len())
            .map(|setup| {
                let into = before.map_or(0.0, |before| arc(self.priced.tableau.drums[drum].change_s[before][setup]));
                let here = into + self.node[drum][song][setup];
                (here + self.after[drum][song][setup], here, setup)
            })
            .filter(|(to_end, ..)| to_end.is_finite())
            .collect();
        order.sort_by(|a, b| a.0.total_cmp(&b.0));
        order
    }

    /// A good way, quickly: song by song, what is cheapest to the end from there.
    pub(super) fn dive(&self) -> Way {
        let mut way: Way = Vec::new();
        for song in 0..self.priced.tableau.songs() {
            let before = way.last().cloned();
            let orders: Vec<Vec<Branch>> =
                (0..self.priced.tableau.drums.len()).map(|d| self.ordered(d, song, before.as_ref().map(|b| b[d]))).collect();
            let mut walk = Walk::new(&self.priced, song, before.as_deref(), orders.iter().map(Vec::as_slice).collect(), DIVE_NODES);
            let mut found: Option<(f64, Vec<usize>)> = None;
            let mut limit = f64::INFINITY;
            walk.go(&self.priced, &mut Vec::new(), 0.0, 0.0, &mut limit, &mut |limit, setups, to_end, _| {
                if to_end < *limit {
                    *limit = to_end;
                    found = Some((to_end, setups.to_vec()));
                }
            });
            // Where every setup is ruled out (it cannot be: pins rule out all others only), the first stands.
            way.push(found.map_or_else(|| vec![0; self.priced.tableau.drums.len()], |(_, setups)| setups));
        }
        way
    }

    /// Proves the best way and the second best, starting from a `known` one.
    pub(super) fn finish(&self, known: Way, known_cost: f64, patience: Patience) -> Solution {
        let mut margin = 0.0;
        let mut best: Option<(Way, f64)> = None;
        loop {
            let limit = known_cost + margin;
            let Some(mut ways) = self.within(limit, patience) else {
                // Too many states: what is known stands, unproved where there is room below it.
                let (way, cost) = best.clone().unwrap_or((known, known_cost));
                let proved = best.is_some() || cost - self.bound < EPSILON;
                return Solution { way, cost, second: None, bound: if proved { cost } else { self.bound }, proved };
            };
            if ways.is_empty() {
                ways.push((known.clone(), known_cost));
            }
            let (way, cost) = ways[0].clone();
            if ways.len() > 1 || margin > 1e4 {
                return Solution { second: ways.into_iter().nth(1), bound: cost, proved: true, way, cost };
            }
            best = Some((way, cost));
            margin = f64::max(0.05, 4.0 * margin);
        }
    }

    /// The two cheapest ways that cost no more than `limit`, cheapest first; `None` where there are too many to look at, or too little
    /// time.
    fn within(&self, limit: f64, patience: Patience) -> Option<Vec<(Way, f64)>> {
        let limit = limit + EPSILON - self.constant();
        let mut layers: Vec<Vec<State>> = Vec::with_capacity(self.priced.tableau.songs());
        let mut left = Left { states: MOST_STATES, nodes: MOST_NODES };
        for song in 0..self.priced.tableau.songs() {
            let start = [State { setups: Vec::new(), labels: vec![(0.0, 0, 0)] }];
            let from: &[State] = layers.last().map_or(&start, Vec::as_slice);
            let next = self.next_layer(song, from, limit, &mut left, patience)?;
            layers.push(next);
        }
        let ways = cheapest(&layers)?.into_iter();
        Some(ways.map(|way| (way.clone(), self.priced.tableau.cost(&way))).collect())
    }

    /// The joint setups of `song` that are reached from those of the song before within `limit`.
    fn next_layer(&self, song: usize, from: &[State], limit: f64, left: &mut Left, patience: Patience) -> Option<Vec<State>> {
        let drums = self.priced.tableau.drums.len();
        let orders = self.orders(song, from);
        let mut index: HashMap<Vec<usize>, usize> = HashMap::new();
        let mut next: Vec<State> = Vec::new();
        for (number, state) in from.iter().enumerate() {
            let before = (song > 0).then_some(state.setups.as_slice());
            let order = (0..drums).map(|d| orders[&(d, state.setups.get(d).copied())].as_slice()).collect();
            let mut walk = Walk::new(&self.priced, song, before, order, left.nodes);
            let mut room = limit - state.labels[0].0;
            walk.go(&self.priced, &mut Vec::with_capacity(drums), 0.0, 0.0, &mut room, &mut |room, setups, to_end, here| {
                if next.len() > left.states {
                    // Too many already: nothing more is let through.
                    *room = f64::NEG_INFINITY;
                    return;
                }
                let at = *index.entry(setups.to_vec()).or_insert_with(|| {
                    next.push(State { setups: setups.to_vec(), labels: Vec::with_capacity(4) });
                    next.len() - 1
                });
                next[at].reached_from(state, number, to_end, here, limit);
            });
            if next.len() > left.states || walk.nodes >= left.nodes || patience.is_over() {
                return None;
            }
            left.nodes -= walk.nodes;
        }
        left.states -= next.len();
        Some(next)
    }

    /// Each drum's setups for `song` in order of cost, coming from each of its setups in `from`.
    fn orders(&self, song: usize, from: &[State]) -> HashMap<(usize, Option<usize>), Vec<Branch>> {
        let mut orders = HashMap::new();
        for state in from {
            for d in 0..self.priced.tableau.drums.len() {
                let before = state.setups.get(d).copied();
                orders.entry((d, before)).or_insert_with(|| self.ordered(d, song, before));
            }
        }
        orders
    }

    /// What all prices pay back.
    fn constant(&self) -> f64 {
        let first: f64 = self
            .node
            .iter()
            .zip(&self.after)
            .map(|(node, after)| node[0].iter().zip(&after[0]).map(|(n, a)| n + a).fold(f64::INFINITY, f64::min))
            .sum();
        self.bound - first
    }
}
