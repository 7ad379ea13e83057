//! Lugs round a hoop and the crosswise order in which they are tapped and turned.

pub use crate::drum::FEWEST_LUGS;

/// Crosswise order of `lugs` lugs (numbers from 0, clockwise from the first): each next one lies as near to across from the
/// last as one not yet taken can, and of two like ones the one further from what was taken before it. So opposite lugs follow
/// one another, and what is done to the head stays in balance (common practice, no published source).
pub fn crosswise(lugs: usize) -> Vec<usize> {
    let mut order: Vec<usize> = Vec::with_capacity(lugs);
    let mut left: Vec<usize> = (0..lugs).collect();
    let apart = |a: usize, b: usize| {
        let steps = a.abs_diff(b);
        steps.min(lugs - steps)
    };
    while !left.is_empty() {
        let next = match (order.last(), order.len() % 2) {
            (None, _) => 0,
            // The second of a pair: across from the first.
            (Some(&last), 1) => best(&left, |lug| apart(lug, last) * lugs + alone(lug, &order[..order.len() - 1], lugs)),
            // A new pair: far from everything taken, so that a quarter turn follows a half.
            _ => best(&left, |lug| alone(lug, &order, lugs)),
        };
        order.push(next);
        left.retain(|lug| *lug != next);
    }
    order
}

/// Distance of `lug` to the nearest of `taken`, in lugs.
fn alone(lug: usize, taken: &[usize], lugs: usize) -> usize {
    let distance = |other: &usize| {
        let steps = lug.abs_diff(*other);
        steps.min(lugs - steps)
    };
    taken.iter().map(distance).min().unwrap_or(lugs)
}

/// The first of those with the most.
fn best(lugs: &[usize], worth: impl Fn(usize) -> usize) -> usize {
    lugs.iter().copied().rev().max_by_key(|lug| worth(*lug)).unwrap_or(0)
}

/// The lug across from `lug`, or the nearest to it (the next one clockwise) where the count is odd.
pub fn across(lug: usize, lugs: usize) -> usize {
    (lug + lugs.div_ceil(2)) % lugs
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Common practice, no published source: crosswise, opposite lugs after one another; with an odd count the nearest to across.
    #[test]
    fn crosswise_orders_are_the_usual_ones() {
        let counted = |lugs| crosswise(lugs).iter().map(|lug| lug + 1).collect::<Vec<_>>();
        assert_eq!(counted(4), [1, 3, 2, 4]);
        assert_eq!(counted(6), [1, 4, 2, 5, 3, 6]);
        assert_eq!(counted(8), [1, 5, 3, 7, 2, 6, 4, 8]);
        assert_eq!(counted(1), [1]);
    }

    #[test]
    fn every_lug_comes_once_and_pairs_lie_across() {
        for lugs in 1..=16 {
            let order = crosswise(lugs);
            let mut sorted = order.clone();
            sorted.sort_unstable();
            assert_eq!(sorted, (0..lugs).collect::<Vec<_>>());
            for pair in order.chunks_exact(2) {
                let steps = pair[0].abs_diff(pair[1]);
                assert!(steps.min(lugs - steps) + 1 >= lugs / 2, "{lugs} lugs: {order:?}");
            }
        }
        assert_eq!(across(1, 8), 5);
        assert_eq!(across(0, 5), 3);
    }
}
