//! Where something turns, by halving.

/// The point between `low` and `high` below which `is_below` holds and above which it does not, to a `halvings`-th power of two of their
/// distance.
pub fn bisect(mut low: f64, mut high: f64, halvings: usize, is_below: impl Fn(f64) -> bool) -> f64 {
    for _ in 0..halvings {
        let middle = 0.5 * (low + high);
        if is_below(middle) {
            low = middle;
        } else {
            high = middle;
        }
    }
    0.5 * (low + high)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_square_root_is_found() {
        assert!((bisect(1.0, 2.0, 50, |x| x * x < 2.0) - 2f64.sqrt()).abs() < 1e-14);
        assert!((bisect(1.0, 2.0, 3, |x| x * x < 2.0) - 2f64.sqrt()).abs() < 0.0626);
    }
}
