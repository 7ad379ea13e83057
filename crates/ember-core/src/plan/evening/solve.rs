//! The cheapest way through an evening, exactly: one setup for each song and drum.
//!
//! Each drum alone is a shortest path (songs are layers, setups nodes, changes arcs). What ties the drums together, the seconds
//! between two songs and the devices there are, is priced (Lagrange multipliers, subgradient steps after Held, Wolfe & Crowder,
//! Mathematical Programming 6, 1974), which bounds the cost from below. Then dynamic programming over the joint setups of all
//! drums keeps every state whose bound does not exceed the best way known, so that nothing better can be missed.

use std::collections::HashMap;

/// Cost of a second or a device too many. Finite, so that an evening that cannot be still has an answer that says where.
const PER_SECOND_OVER: f64 = 50.0;
const PER_DEVICE_MISSING: f64 = 2000.0;
const PRICE_ROUNDS: usize = 48;
/// Joint setups kept in all layers; beyond, the answer is no longer proved to be the best.
const MOST_STATES: usize = 15_000;
/// Setups looked at for one song on the way to a first good answer.
const DIVE_NODES: usize = 400;
const MOST_NODES: usize = 200_000;
/// Nearer than this, prices need no more refining: the search sees to the rest, steps.
const CLOSE: f64 = 0.05;
const EPSILON: f64 = 1e-7;

/// The choices for one drum.
#[derive(Debug, Clone)]
pub struct Choices {
    /// Steps off by song, then setup; infinite where a song is pinned to something else.
    pub cost: Vec<Vec<f64>>,
    /// Steps that it takes to begin the evening with a setup.
    pub start: Vec<f64>,
    /// Seconds to change from one setup to another.
    pub change_s: Vec<Vec<f64>>,
    /// Devices of each kind that a setup needs.
    pub uses: Vec<Vec<u32>>,
}

/// An evening in numbers.
#[derive(Debug, Clone)]
pub struct Tableau {
    pub drums: Vec<Choices>,
    /// Seconds there are before each song; the first one's do not count.
    pub gaps_s: Vec<f64>,
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

    /// Makes `way` cheaper drum by drum, each along its own best path with the others as they are, until none finds a better one.
    fn improve(&self, way: &mut Way) -> f64 {
        let mut cost = self.cost(way);
        loop {
            for d in 0..self.drums.len() {
                self.improve_drum(way, d);
            }
            let now = self.cost(way);
            if now > cost - EPSILON {
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

    /// Solves it. `None` without songs or drums.
    pub fn solve(&self) -> Option<Solution> {
        if self.songs() == 0 || self.drums.is_empty() {
            return None;
        }
        let scarce: Vec<usize> = (0..self.owned.len()).filter(|device| self.may_run_out(*device)).collect();
        let mut prices = Prices { second: vec![0.0; self.songs()], device: vec![vec![0.0; scarce.len()]; self.songs()] };
        let arrivals: Vec<Vec<f64>> = self
            .drums
            .iter()
            .map(|drum| (0..drum.start.len()).flat_map(|next| drum.change_s.iter().map(move |from| from[next])).collect())
            .collect();
        let bounds = |prices: &Prices| Bounds::new(self, &scarce, &arrivals, prices.clone());
        let mut best = bounds(&prices);
        let mut known = best.dive();
        let mut known_cost = self.improve(&mut known);
        // Drums that do not get in one another's way need no prices.
        let mut now = best.clone();
        let mut step = 1.0;
        let mut since_better = 0;
        for round in 0..PRICE_ROUNDS {
            if known_cost - best.bound < CLOSE || step < 1e-3 {
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
                prices = best.prices.clone();
                now = best.clone();
            }
            if round % 12 == 0 {
                let mut way = now.dive();
                let cost = self.improve(&mut way);
                if cost < known_cost {
                    (known, known_cost) = (way, cost);
                }
            }
        }
        Some(best.finish(known, known_cost))
    }
}

/// What a second before each song, and a device in each song, is priced at.
#[derive(Debug, Clone)]
struct Prices {
    second: Vec<f64>,
    device: Vec<Vec<f64>>,
}

impl Prices {
    /// What seconds of changing one drum before `song` cost: priced, and what that drum alone is over the gap. That part no other
    /// drum can make up for, so it needs no price.
    fn arcs(&self, tableau: &Tableau, song: usize) -> impl Fn(f64) -> f64 {
        let (price, gap) = (self.second[song], tableau.gaps_s[song]);
        let (rate, over_rate) = (tableau.per_second + price, PER_SECOND_OVER - price);
        move |seconds| {
            let over = seconds - gap;
            rate * seconds + over_rate * if over > 0.0 { over } else { 0.0 }
        }
    }
}

/// Cost to the end of the evening at given prices.
#[derive(Clone)]
struct Bounds<'a> {
    tableau: &'a Tableau,
    scarce: &'a [usize],
    prices: Prices,
    /// By drum, song and setup: the song's steps off and priced devices, without what follows.
    node: Vec<Vec<Vec<f64>>>,
    /// By drum, song and setup: all that follows the song, the change into the next one included.
    after: Vec<Vec<Vec<f64>>>,
    bound: f64,
}

/// A setup for one drum: what it costs from this song to the end of the evening, what of that is this song's, and which it is.
type Branch = (f64, f64, usize);

/// Partial ways that end in the same setups: the two cheapest.
struct State {
    setups: Vec<usize>,
    /// Cost so far and where it came from: state and rank in the layer before. Cheapest first.
    labels: Vec<(f64, usize, usize)>,
}

/// The walk over all setups of one song.
struct Walk<'a> {
    song: usize,
    before: Option<&'a [usize]>,
    /// Sorted by what they cost from here to the end: (to the end, of which this song, setup).
    order: Vec<&'a [Branch]>,
    /// Least that the drums from here on cost to the end.
    least_from: Vec<f64>,
    nodes: usize,
    most_nodes: usize,
    load: Load,
}

/// What the drums chosen so far take of what all drums share.
#[derive(Clone, Default)]
struct Load {
    seconds: f64,
    /// Of the seconds, those that single drums are over the gap: their cost is in the bounds already.
    counted_s: f64,
    /// By scarce device.
    used: Vec<u32>,
}

impl<'a> Bounds<'a> {
    fn new(tableau: &'a Tableau, scarce: &'a [usize], arrivals: &[Vec<f64>], prices: Prices) -> Self {
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
        Self { tableau, scarce, prices, node, after, bound }
    }

    /// The cheapest way of each drum alone at these prices.
    fn alone(&self) -> Way {
        let mut way = vec![vec![0; self.tableau.drums.len()]; self.tableau.songs()];
        for (d, drum) in self.tableau.drums.iter().enumerate() {
            for song in 0..self.tableau.songs() {
                let arc = self.prices.arcs(self.tableau, song);
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
    fn over(&self) -> Prices {
        let way = self.alone();
        let tableau = self.tableau;
        let second = (0..tableau.songs())
            .map(|song| {
                if song == 0 || !tableau.gaps_s[song].is_finite() {
                    return 0.0;
                }
                let seconds: f64 = tableau.drums.iter().enumerate().map(|(d, drum)| drum.change_s[way[song - 1][d]][way[song][d]]).sum();
                let over = seconds - tableau.gaps_s[song];
                if over < 0.0 && self.prices.second[song] == 0.0 { 0.0 } else { over }
            })
            .collect();
        let device = (0..tableau.songs())
            .map(|song| {
                self.scarce
                    .iter()
                    .enumerate()
                    .map(|(index, k)| {
                        let used: u32 = tableau.drums.iter().zip(&way[song]).map(|(drum, setup)| drum.uses[*setup][*k]).sum();
                        let over = f64::from(used) - f64::from(tableau.owned[*k]);
                        if over < 0.0 && self.prices.device[song][index] == 0.0 { 0.0 } else { over }
                    })
                    .collect()
            })
            .collect();
        Prices { second, device }
    }

    /// Setups of each drum in order of what they cost from `song` to the end, coming from `before`.
    fn ordered(&self, drum: usize, song: usize, before: Option<usize>) -> Vec<Branch> {
        let arc = self.prices.arcs(self.tableau, song);
        let mut order: Vec<Branch> = (0..self.node[drum][song].len())
            .map(|setup| {
                let into = before.map_or(0.0, |before| arc(self.tableau.drums[drum].change_s[before][setup]));
                let here = into + self.node[drum][song][setup];
                (here + self.after[drum][song][setup], here, setup)
            })
            .filter(|(to_end, ..)| to_end.is_finite())
            .collect();
        order.sort_by(|a, b| a.0.total_cmp(&b.0));
        order
    }

    /// A good way, quickly: song by song, what is cheapest to the end from there.
    fn dive(&self) -> Way {
        let mut way: Way = Vec::new();
        for song in 0..self.tableau.songs() {
            let before = way.last().cloned();
            let orders: Vec<Vec<Branch>> =
                (0..self.tableau.drums.len()).map(|d| self.ordered(d, song, before.as_ref().map(|b| b[d]))).collect();
            let mut walk = Walk::new(self, song, before.as_deref(), orders.iter().map(Vec::as_slice).collect(), DIVE_NODES);
            let mut found: Option<(f64, Vec<usize>)> = None;
            let mut limit = f64::INFINITY;
            walk.go(self, &mut Vec::new(), 0.0, 0.0, &mut limit, &mut |limit, setups, to_end, _| {
                if to_end < *limit {
                    *limit = to_end;
                    found = Some((to_end, setups.to_vec()));
                }
            });
            // Where every setup is ruled out (it cannot be: pins rule out all others only), the first stands.
            way.push(found.map_or_else(|| vec![0; self.tableau.drums.len()], |(_, setups)| setups));
        }
        way
    }

    /// Proves the best way and the second best, starting from a `known` one.
    fn finish(&self, known: Way, known_cost: f64) -> Solution {
        let mut margin = 0.0;
        let mut best: Option<(Way, f64)> = None;
        loop {
            let limit = known_cost + margin;
            let Some(mut ways) = self.within(limit) else {
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

    /// The two cheapest ways that cost no more than `limit`, cheapest first; `None` where there are too many to look at.
    fn within(&self, limit: f64) -> Option<Vec<(Way, f64)>> {
        let limit = limit + EPSILON - self.constant();
        let drums = self.tableau.drums.len();
        let mut layers: Vec<Vec<State>> = Vec::with_capacity(self.tableau.songs());
        let (mut states, mut nodes) = (0, 0);
        for song in 0..self.tableau.songs() {
            let start = [State { setups: Vec::new(), labels: vec![(0.0, 0, 0)] }];
            let from: &[State] = layers.last().map_or(&start, Vec::as_slice);
            let mut orders: HashMap<(usize, Option<usize>), Vec<Branch>> = HashMap::new();
            for state in from {
                for d in 0..drums {
                    let before = state.setups.get(d).copied();
                    orders.entry((d, before)).or_insert_with(|| self.ordered(d, song, before));
                }
            }
            let mut index: HashMap<Vec<usize>, usize> = HashMap::new();
            let mut next: Vec<State> = Vec::new();
            for (number, state) in from.iter().enumerate() {
                let before = (song > 0).then_some(state.setups.as_slice());
                let order = (0..drums).map(|d| orders[&(d, state.setups.get(d).copied())].as_slice()).collect();
                let mut walk = Walk::new(self, song, before, order, MOST_NODES - nodes);
                let most_here = MOST_STATES - states;
                let mut room = limit - state.labels[0].0;
                walk.go(self, &mut Vec::with_capacity(drums), 0.0, 0.0, &mut room, &mut |room, setups, to_end, here| {
                    if next.len() > most_here {
                        // Too many already: nothing more is let through.
                        *room = f64::NEG_INFINITY;
                        return;
                    }
                    let at = *index.entry(setups.to_vec()).or_insert_with(|| {
                        next.push(State { setups: setups.to_vec(), labels: Vec::with_capacity(4) });
                        next.len() - 1
                    });
                    for (rank, (so_far, ..)) in state.labels.iter().enumerate() {
                        if so_far + to_end <= limit {
                            let labels = &mut next[at].labels;
                            labels.push((so_far + here, number, rank));
                            labels.sort_by(|a, b| a.0.total_cmp(&b.0));
                            labels.truncate(2);
                        }
                    }
                });
                nodes += walk.nodes;
                if next.len() > most_here {
                    return None;
                }
                if nodes >= MOST_NODES {
                    return None;
                }
            }
            states += next.len();
            layers.push(next);
        }
        let last = layers.last()?;
        let mut ends: Vec<(f64, usize, usize)> = last
            .iter()
            .enumerate()
            .flat_map(|(i, state)| state.labels.iter().enumerate().map(move |(rank, label)| (label.0, i, rank)))
            .collect();
        ends.sort_by(|a, b| a.0.total_cmp(&b.0));
        let back = |(_, mut state, mut rank): (f64, usize, usize)| {
            let mut way = Vec::with_capacity(layers.len());
            for layer in layers.iter().rev() {
                way.push(layer[state].setups.clone());
                (_, state, rank) = layer[state].labels[rank];
            }
            way.reverse();
            let cost = self.tableau.cost(&way);
            (way, cost)
        };
        Some(ends.into_iter().take(2).map(back).collect())
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

impl<'a> Walk<'a> {
    fn new(bounds: &Bounds, song: usize, before: Option<&'a [usize]>, order: Vec<&'a [Branch]>, most_nodes: usize) -> Self {
        let mut least_from = vec![0.0; order.len() + 1];
        for d in (0..order.len()).rev() {
            least_from[d] = least_from[d + 1] + order[d].first().map_or(f64::INFINITY, |first| first.0);
        }
        let load = Load { used: vec![0; bounds.scarce.len()], ..Load::default() };
        Self { song, before, order, least_from, nodes: 0, most_nodes, load }
    }

    /// Calls `found(room, setups, cost to the end, cost of this song)` for all setups whose cost to the end is within `room`.
    fn go(
        &mut self,
        bounds: &Bounds,
        setups: &mut Vec<usize>,
        to_end: f64,
        here: f64,
        room: &mut f64,
        found: &mut impl FnMut(&mut f64, &[usize], f64, f64),
    ) {
        let d = setups.len();
        if d == self.order.len() {
            let slack = self.over(bounds) + self.unused(bounds);
            if to_end + slack <= *room {
                found(room, setups, to_end + slack, here + slack);
            }
            return;
        }
        let (seconds, counted_s) = (self.load.seconds, self.load.counted_s);
        for (next_to_end, next_here, setup) in self.order[d] {
            self.nodes += 1;
            if to_end + next_to_end + self.least_from[d + 1] > *room || self.nodes > self.most_nodes {
                break;
            }
            self.add(bounds, d, *setup);
            if to_end + next_to_end + self.least_from[d + 1] + self.over(bounds) <= *room {
                setups.push(*setup);
                self.go(bounds, setups, to_end + next_to_end, here + next_here, room, found);
                setups.pop();
            }
            self.remove(bounds, d, *setup);
            (self.load.seconds, self.load.counted_s) = (seconds, counted_s);
        }
    }

    fn add(&mut self, bounds: &Bounds, d: usize, setup: usize) {
        let drum = &bounds.tableau.drums[d];
        if let Some(before) = self.before {
            let seconds = drum.change_s[before[d]][setup];
            self.load.seconds += seconds;
            self.load.counted_s += bounds.tableau.alone_over(self.song, seconds);
        }
        for (used, device) in self.load.used.iter_mut().zip(bounds.scarce) {
            *used += drum.uses[setup][*device];
        }
    }

    fn remove(&mut self, bounds: &Bounds, d: usize, setup: usize) {
        for (used, device) in self.load.used.iter_mut().zip(bounds.scarce) {
            *used -= bounds.tableau.drums[d].uses[setup][*device];
        }
    }

    /// What is over the limits and not in the bounds: no drum still to come can make up for it. Never negative.
    fn over(&self, bounds: &Bounds) -> f64 {
        let (tableau, prices) = (bounds.tableau, &bounds.prices);
        let late_s = if self.before.is_some() { tableau.alone_over(self.song, self.load.seconds) - self.load.counted_s } else { 0.0 };
        let missing = self
            .load
            .used
            .iter()
            .zip(bounds.scarce)
            .zip(&prices.device[self.song])
            .map(|((used, device), price)| (PER_DEVICE_MISSING - price) * f64::from(used.saturating_sub(tableau.owned[*device])));
        (PER_SECOND_OVER - prices.second[self.song]) * late_s + missing.sum::<f64>()
    }

    /// What was priced and is left over once every drum is chosen: the true cost does not have it.
    fn unused(&self, bounds: &Bounds) -> f64 {
        let (tableau, prices) = (bounds.tableau, &bounds.prices);
        let price = prices.second[self.song];
        let seconds = if price > 0.0 { price * (tableau.gaps_s[self.song] - self.load.seconds).max(0.0) } else { 0.0 };
        let devices = self.load.used.iter().zip(bounds.scarce).zip(&prices.device[self.song]);
        seconds + devices.map(|((used, device), price)| price * f64::from(tableau.owned[*device].saturating_sub(*used))).sum::<f64>()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Every way there is, cheapest first.
    fn brute_force(tableau: &Tableau) -> Vec<(f64, Way)> {
        let sizes: Vec<usize> = (0..tableau.songs()).flat_map(|_| tableau.drums.iter().map(|drum| drum.start.len())).collect();
        let mut all = vec![Vec::new()];
        for size in sizes {
            all = all.into_iter().flat_map(|way: Vec<usize>| (0..size).map(move |s| [way.clone(), vec![s]].concat())).collect();
        }
        let mut ways: Vec<(f64, Way)> = all
            .into_iter()
            .map(|flat| flat.chunks(tableau.drums.len()).map(<[usize]>::to_vec).collect::<Way>())
            .map(|way| (tableau.cost(&way), way))
            .filter(|(cost, _)| cost.is_finite())
            .collect();
        ways.sort_by(|a, b| a.0.total_cmp(&b.0));
        ways
    }

    prop_compose! {
        fn choices(songs: usize, setups: usize)(
            cost in prop::collection::vec(prop::collection::vec(0f64..10.0, setups), songs),
            start in prop::collection::vec(0f64..2.0, setups),
            seconds in prop::collection::vec(5f64..60.0, setups * setups),
            uses in prop::collection::vec(prop::collection::vec(0u32..3, 2), setups),
            pin in prop::option::of((0..songs, 0..setups)),
        ) -> Choices {
            let mut cost = cost;
            if let Some((song, setup)) = pin {
                for (s, cost) in cost[song].iter_mut().enumerate() {
                    if s != setup { *cost = f64::INFINITY; }
                }
            }
            let change_s = (0..setups).map(|a| (0..setups).map(|b| if a == b { 0.0 } else { seconds[a.min(b) * setups + a.max(b)] }).collect()).collect();
            Choices { cost, start, change_s, uses }
        }
    }

    prop_compose! {
        fn tableaus()(songs in 1usize..4, drums in 1usize..4)(
            drums in prop::collection::vec(choices(songs, if songs * drums > 6 { 2 } else { 3 }), drums),
            gaps_s in prop::collection::vec(prop_oneof![Just(f64::INFINITY), 0f64..90.0], songs),
            owned in prop::collection::vec(0u32..5, 2),
            per_second in prop_oneof![Just(0.0), 0f64..0.2],
        ) -> Tableau {
            Tableau { drums, gaps_s, owned, per_second }
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(300))]
        #[test]
        fn best_and_second_best_are_those_of_brute_force(tableau in tableaus()) {
            let ways = brute_force(&tableau);
            let solution = tableau.solve().unwrap();
            prop_assert!(solution.proved);
            prop_assert!((solution.cost - ways[0].0).abs() < 1e-6, "{} where {} is possible", solution.cost, ways[0].0);
            prop_assert!((tableau.cost(&solution.way) - solution.cost).abs() < 1e-6);
            match (solution.second, ways.get(1)) {
                (Some((way, cost)), Some((expected, _))) => {
                    prop_assert!((cost - expected).abs() < 1e-6, "second {cost} where {expected} is possible");
                    prop_assert!(way != solution.way);
                }
                (found, expected) => prop_assert_eq!(found.is_some(), expected.is_some()),
            }
        }
    }

    /// Evenings too large for brute force.
    fn long_evenings() -> impl Strategy<Value = Tableau> {
        let drums = prop::collection::vec(choices(10, 5), 3);
        let gaps = prop::collection::vec(prop_oneof![Just(f64::INFINITY), 0f64..90.0], 10);
        (drums, gaps, prop::collection::vec(1u32..5, 2), 0f64..0.2).prop_map(|(drums, gaps_s, owned, per_second)| Tableau {
            drums,
            gaps_s,
            owned,
            per_second,
        })
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(60))]
        #[test]
        fn no_way_at_hand_beats_the_one_that_is_given(tableau in long_evenings(), picks in prop::collection::vec(0usize..5, 30)) {
            let solution = tableau.solve().unwrap();
            prop_assert!(solution.bound <= solution.cost + 1e-6);
            prop_assert!((tableau.cost(&solution.way) - solution.cost).abs() < 1e-6);
            // A way picked at random, made as good as changing one drum after the other makes it.
            let mut way: Way = picks.chunks(3).map(<[usize]>::to_vec).collect();
            let improved = tableau.improve(&mut way);
            prop_assert!((improved - tableau.cost(&way)).abs() < 1e-6 || improved.is_infinite());
            prop_assert!(improved >= solution.bound - 1e-6, "{improved} is under the bound {}", solution.bound);
            if solution.proved {
                prop_assert!(improved >= solution.cost - 1e-6, "{improved} where {} was called the best", solution.cost);
                if let Some((_, second)) = solution.second {
                    prop_assert!(second >= solution.cost - 1e-9);
                }
            }
        }

        #[test]
        fn more_time_and_more_devices_never_cost_more(tableau in tableaus(), more_s in 0f64..30.0, device in 0usize..2) {
            let cost = tableau.solve().unwrap().cost;
            let mut roomier = tableau.clone();
            roomier.gaps_s.iter_mut().for_each(|gap| *gap += more_s);
            prop_assert!(roomier.solve().unwrap().cost <= cost + 1e-6);
            let mut richer = tableau.clone();
            richer.owned[device] += 1;
            prop_assert!(richer.solve().unwrap().cost <= cost + 1e-6);
        }

        /// Drums that share neither time nor devices are chosen each by itself.
        #[test]
        fn free_drums_are_solved_one_by_one(mut tableau in tableaus()) {
            tableau.gaps_s.iter_mut().for_each(|gap| *gap = f64::INFINITY);
            tableau.owned = vec![100, 100];
            let alone = |drum: &Choices| Tableau { drums: vec![drum.clone()], ..tableau.clone() }.solve().unwrap().cost;
            let sum: f64 = tableau.drums.iter().map(alone).sum();
            prop_assert!((tableau.solve().unwrap().cost - sum).abs() < 1e-6);
        }
    }

    #[test]
    fn one_way_only_has_no_second() {
        let only = Choices { cost: vec![vec![1.5]; 3], start: vec![0.5], change_s: vec![vec![0.0]], uses: vec![vec![0]] };
        let solution = Tableau { drums: vec![only], gaps_s: vec![10.0; 3], owned: vec![0], per_second: 0.1 }.solve().unwrap();
        assert_eq!((solution.cost, solution.second, solution.proved), (5.0, None, true));
    }

    #[test]
    fn nothing_to_choose_is_no_answer() {
        let empty = Tableau { drums: Vec::new(), gaps_s: Vec::new(), owned: Vec::new(), per_second: 0.1 };
        assert!(empty.solve().is_none());
    }
}
