//! The walk over all setups of one song, in the order of what they cost to the end of the evening.

use super::priced::Priced;
use super::{PER_DEVICE_MISSING, PER_SECOND_OVER};

/// The walk over all setups of one song.
pub(super) struct Walk<'a> {
    song: usize,
    before: Option<&'a [usize]>,
    /// Sorted by what they cost from here to the end: (to the end, of which this song, setup).
    order: Vec<&'a [Branch]>,
    /// Least that the drums from here on cost to the end.
    least_from: Vec<f64>,
    pub nodes: usize,
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

impl<'a> Walk<'a> {
    pub(super) fn new(priced: &Priced, song: usize, before: Option<&'a [usize]>, order: Vec<&'a [Branch]>, most_nodes: usize) -> Self {
        let mut least_from = vec![0.0; order.len() + 1];
        for d in (0..order.len()).rev() {
            least_from[d] = least_from[d + 1] + order[d].first().map_or(f64::INFINITY, |first| first.0);
        }
        let load = Load { used: vec![0; priced.scarce.len()], ..Load::default() };
        Self { song, before, order, least_from, nodes: 0, most_nodes, load }
    }

    /// Calls `found(room, setups, cost to the end, cost of this song)` for all setups whose cost to the end is within `room`.
    pub(super) fn go(
        &mut self,
        priced: &Priced,
        setups: &mut Vec<usize>,
        to_end: f64,
        here: f64,
        room: &mut f64,
        found: &mut impl FnMut(&mut f64, &[usize], f64, f64),
    ) {
        let d = setups.len();
        if d == self.order.len() {
            let slack = self.over(priced) + self.unused(priced);
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
            self.add(priced, d, *setup);
            if to_end + next_to_end + self.least_from[d + 1] + self.over(priced) <= *room {
                setups.push(*setup);
                self.go(priced, setups, to_end + next_to_end, here + next_here, room, found);
                setups.pop();
            }
            self.remove(priced, d, *setup);
            (self.load.seconds, self.load.counted_s) = (seconds, counted_s);
        }
    }

    fn add(&mut self, priced: &Priced, d: usize, setup: usize) {
        let drum = &priced.tableau.drums[d];
        if let Some(before) = self.before {
            let seconds = drum.change_s[before[d]][setup];
            self.load.seconds += seconds;
            self.load.counted_s += priced.tableau.alone_over(self.song, seconds);
        }
        for (used, device) in self.load.used.iter_mut().zip(priced.scarce) {
            *used += drum.uses[setup][*device];
        }
    }

    fn remove(&mut self, priced: &Priced, d: usize, setup: usize) {
        for (used, device) in self.load.used.iter_mut().zip(priced.scarce) {
            *used -= priced.tableau.drums[d].uses[setup][*device];
        }
    }

    /// What is over the limits and not in the bounds: no drum still to come can make up for it. Never negative.
    fn over(&self, priced: &Priced) -> f64 {
        let (tableau, prices) = (priced.tableau, &priced.prices);
        let late_s = if self.before.is_some() { tableau.alone_over(self.song, self.load.seconds) - self.load.counted_s } else { 0.0 };
        let missing = self
            .load
            .used
            .iter()
            .zip(priced.scarce)
            .zip(&prices.device[self.song])
            .map(|((used, device), price)| (PER_DEVICE_MISSING - price) * f64::from(used.saturating_sub(tableau.owned[*device])));
        (PER_SECOND_OVER - prices.second[self.song]) * late_s + missing.sum::<f64>()
    }

    /// What was priced and is left over once every drum is chosen: the true cost does not have it.
    fn unused(&self, priced: &Priced) -> f64 {
        let (tableau, prices) = (priced.tableau, &priced.prices);
        let price = prices.second[self.song];
        let seconds = if price > 0.0 { price * (tableau.gaps_s[self.song] - self.load.seconds).max(0.0) } else { 0.0 };
        let devices = self.load.used.iter().zip(priced.scarce).zip(&prices.device[self.song]);
        seconds + devices.map(|((used, device), price)| price * f64::from(tableau.owned[*device].saturating_sub(*used))).sum::<f64>()
    }
}

/// A setup for one drum: what it costs from this song to the end of the evening, what of that is this song's, and which it is.
pub(super) type Branch = (f64, f64, usize);
