//! Bessel functions of the first kind and their zeros, which are the modes of a round membrane.

use super::bisect::bisect;
use std::sync::{LazyLock, OnceLock};

/// What is kept in a table: all orders and arguments that heads of drums ask for.
const ORDERS: usize = 12;
const LARGEST: usize = 16;
/// Steps of the table to one.
const FINE: usize = 128;

/// J of integer `order` at `x >= 0`, to about 1e-11: for the modes of a head from a table with cubics through values and slopes (J' = (J of
/// the order below - J of the one above) / 2, Abramowitz & Stegun 9.1.27), since points under devices and holes ask for it thousands of
/// times; else as [`computed`].
pub fn bessel_j(order: usize, x: f64) -> f64 {
    static TABLE: LazyLock<Vec<[f64; 2]>> = LazyLock::new(|| {
        let slope =
            |order: usize, x: f64| if order == 0 { -computed(1, x) } else { 0.5 * (computed(order - 1, x) - computed(order + 1, x)) };
        let points = (0..=ORDERS).flat_map(|order| (0..=LARGEST * FINE).map(move |i| (order, i as f64 / FINE as f64)));
        points.map(|(order, x)| [computed(order, x), slope(order, x) / FINE as f64]).collect()
    });
    let place = x * FINE as f64;
    if order > ORDERS || place >= (LARGEST * FINE) as f64 {
        return computed(order, x);
    }
    let below = place as usize;
    let at = order * (LARGEST * FINE + 1) + below;
    let ([from, leaves], [to, arrives]) = (TABLE[at], TABLE[at + 1]);
    let t = place - below as f64;
    let (rest, rise) = (1.0 - t, to - from);
    // Hermite's cubic.
    from * rest + to * t + t * rest * ((leaves - rise) * rest - (arrives - rise) * t)
}

/// The same without the table, by the general library.
fn computed(order: usize, x: f64) -> f64 {
    libm::jn(order as i32, x)
}

/// Zeros that are kept once they were found: up to this many of each of so many orders. Every head asks for the same ones.
const ZEROS: usize = 16;
const ORDERS_OF_ZEROS: usize = 48;

/// The `n`-th positive zero of J of `order` (n from 1).
pub fn bessel_zero(order: usize, n: usize) -> f64 {
    static FOUND: [[OnceLock<f64>; ZEROS]; ORDERS_OF_ZEROS] = [const { [const { OnceLock::new() }; ZEROS] }; ORDERS_OF_ZEROS];
    match FOUND.get(order).and_then(|zeros| zeros.get(n.wrapping_sub(1))) {
        Some(zero) => *zero.get_or_init(|| found_zero(order, n)),
        None => found_zero(order, n),
    }
}

/// The same by stepping to a sign change and bisecting.
fn found_zero(order: usize, n: usize) -> f64 {
    // The first zero lies above the order; zeros are more than 2 apart (Abramowitz & Stegun 9.5).
    let mut low = if order == 0 { 0.5 } else { order as f64 + 0.8 };
    let mut found = 0;
    loop {
        let high = low + 0.5;
        if computed(order, low) * computed(order, high) <= 0.0 {
            found += 1;
            if found == n {
                let sign = computed(order, low).signum();
                return bisect(low, high, 60, |x| computed(order, x).signum() == sign);
            }
        }
        low = high;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Abramowitz & Stegun, Handbook of Mathematical Functions (1964), table 9.5: zeros j(m,n).
    const TABLE_9_5: [(usize, [f64; 4]); 6] = [
        (0, [2.40482_55577, 5.52007_81103, 8.65372_79129, 11.79153_44391]),
        (1, [3.83171, 7.01559, 10.17347, 13.32369]),
        (2, [5.13562, 8.41724, 11.61984, 14.79595]),
        (3, [6.38016, 9.76102, 13.01520, 16.22347]),
        (4, [7.58834, 11.06471, 14.37254, 17.61597]),
        (8, [12.22509, 16.03777, 19.55454, 22.94517]),
    ];

    #[test]
    fn zeros_agree_with_the_published_table() {
        for (order, zeros) in TABLE_9_5 {
            for (i, zero) in zeros.iter().enumerate() {
                assert!((bessel_zero(order, i + 1) - zero).abs() < 6e-6, "j({order},{})", i + 1);
            }
        }
    }

    proptest! {
        #[test]
        fn the_table_is_what_is_computed(order in 0usize..14, x in 0.0f64..18.0) {
            prop_assert!((bessel_j(order, x) - computed(order, x)).abs() < 1e-11, "J{order}({x})");
        }
    }

    #[test]
    fn values_agree_with_the_published_table() {
        // Abramowitz & Stegun table 9.1 and 9.2.
        for (order, x, value) in [(0, 1.0, 0.76519_76866), (0, 10.0, -0.24593_57645), (1, 2.0, 0.57672_48078), (2, 5.0, 0.04656_51163)] {
            assert!((bessel_j(order, x) - value).abs() < 1e-9, "J{order}({x})");
        }
    }
}
