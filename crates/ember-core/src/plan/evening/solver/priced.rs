//! What the drums share, at a price: seconds between songs, and devices of which there are too few.

use super::{PER_SECOND_OVER, Tableau};

/// What a second before each song, and a device in each song, is priced at.
#[derive(Debug, Clone)]
pub(super) struct Prices {
    pub second: Vec<f64>,
    pub device: Vec<Vec<f64>>,
}

impl Prices {
    /// What seconds of changing one drum before `song` cost: priced, and what that drum alone is over the gap. That part no other
    /// drum can make up for, so it needs no price.
    pub fn arcs(&self, tableau: &Tableau, song: usize) -> impl Fn(f64) -> f64 {
        let (price, gap) = (self.second[song], tableau.gaps_s[song]);
        let (rate, over_rate) = (tableau.per_second + price, PER_SECOND_OVER - price);
        move |seconds| {
            let over = seconds - gap;
            rate * seconds + over_rate * if over > 0.0 { over } else { 0.0 }
        }
    }
}

/// An evening with prices for what its drums share.
#[derive(Debug, Clone)]
pub(super) struct Priced<'a> {
    pub tableau: &'a Tableau,
    /// Devices of which there are too few for all drums.
    pub scarce: &'a [usize],
    pub prices: Prices,
}
