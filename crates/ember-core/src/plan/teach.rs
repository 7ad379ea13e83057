//! Which treatment teaches most about a device: the one whose outcome the doubt of the device's strength moves furthest.

use super::candidates::ShelfItem;
use super::solved::Question;
use crate::damping::{Expectation, Placement};
use crate::numeric::Range;
use rayon::prelude::*;

/// Tests after which a device is known well enough.
pub const TESTS_TO_LEARN: usize = 3;
/// Distances from the middle nearer than this are the same place.
const SAME_PLACE: f64 = 0.04;

/// Where to lay `item` for the next test: not where it was `tested` already. `None` where it does not fit the drum, every place was tried,
/// or the open drum's body is not known.
pub fn teaching(question: &Question, item: ShelfItem, tested: &[Placement]) -> Option<Placement> {
    let item = ShelfItem { count: item.count.max(1), ..item };
    let screened = question.screened(&[item])?;
    let open = question.open();
    let is_new = |placement: &Placement| {
        let same = |other: &Placement| {
            other.device == placement.device && other.amount == placement.amount && (other.radius - placement.radius).abs() < SAME_PLACE
        };
        !tested.iter().any(same)
    };
    let told = |placement: Placement| {
        let expected = screened.expect(&open, &[placement]);
        (tells(&expected), placement)
    };
    let ways: Vec<Placement> = screened.singles.iter().map(|single| single.placement).filter(is_new).collect();
    ways.into_par_iter().map(told).max_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, placement)| placement)
}

/// How far the bounds of body and ring lie apart: logarithms of their ratios, the ring's for half, since it is measured less surely.
fn tells(expected: &Expectation) -> f64 {
    let apart = |range: Option<Range>| range.map_or(0.0, |range| (range.high / range.low).ln());
    apart(expected.body_t60_s) + 0.5 * apart(expected.ring_t60_s)
}
