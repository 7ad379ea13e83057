//! A partial followed along its own frequency: how fast it falls at first, and later.
//!
//! A head that is struck hard loses more at first than it does when it has calmed down: a decay that bends with level has no one
//! time. So a partial that stands alone is brought down to 0 Hz, and lines are drawn through its level.

use crate::numeric::Regression;
use crate::tone::Partial;
use crate::units::{LN_1000, decibels};
use num_complex::Complex64;

/// The first fall of a partial, and the one after it, dB under its level when it is first seen.
const EARLY_DB: f64 = 14.0;
const LATE_DB: f64 = 36.0;
/// A level nearer to the noise than this is bent by it, dB.
const CLEAR_DB: f64 = 9.0;
/// Fewer points make no line.
const LEAST_POINTS: usize = 6;
/// Another partial disturbs unless it is so much weaker, dB.
const ALONE_DB: f64 = 26.0;
/// A weaker one than this against the loudest is drowned by what filters leave of others once it has fallen, dB.
const WEAKEST_DB: f64 = -16.0;
/// Filters that let one partial through, from the quickest on: what they pass and what they stop, Hz on either side.
pub(super) const AROUND_HZ: [(f64, f64); 3] = [(25.0, 95.0), (14.0, 60.0), (8.0, 32.0)];

/// Times to fall 60 dB at the pace of the first and of the later fall, s.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Paces {
    pub early_t60_s: Option<f64>,
    pub late_t60_s: Option<f64>,
}

/// Which of [`AROUND_HZ`] shows the partial at `index` by itself; none where another one lies too near or drowns it.
pub(super) fn filter_around(partials: &[Partial], index: usize) -> Option<usize> {
    let own = &partials[index];
    if own.level_db < WEAKEST_DB {
        return None;
    }
    let disturbing = partials.iter().enumerate().filter(|(i, other)| *i != index && other.level_db > own.level_db - ALONE_DB);
    // Its own mirror image lies at the other side of 0 Hz.
    let nearest = disturbing.map(|(_, other)| (other.hz - own.hz).abs()).fold(2.0 * own.hz, f64::min);
    AROUND_HZ.iter().position(|(_, stop)| *stop <= nearest)
}

/// Paces of `tone`, a partial at 0 Hz from where filters have settled, `rate` samples a second.
pub(super) fn paces(tone: &[Complex64], rate: f64) -> Paces {
    let power: Vec<f64> = tone.iter().map(|z| z.norm_sqr()).collect();
    let tail = &power[power.len() - power.len() / 8..];
    let noise = tail.iter().sum::<f64>() / tail.len().max(1) as f64;
    let level: Vec<f64> = power.iter().map(|p| decibels((p - noise).max(1e-30).sqrt())).collect();
    let Some(first) = level.first().copied() else { return Paces { early_t60_s: None, late_t60_s: None } };
    let floor = decibels(noise.max(1e-30).sqrt()) + CLEAR_DB;
    let until = |db: f64| level.iter().position(|l| *l < first - db);
    let line = |from: Option<usize>, to: Option<usize>, ends_at: f64| {
        let (from, to) = (from?, to?);
        // A line that the noise cuts short is none.
        if ends_at < floor || to < from + LEAST_POINTS {
            return None;
        }
        let slope = Regression::evenly(&level[from..to])?.slope * rate;
        (slope < 0.0).then(|| -60.0 / slope)
    };
    Paces {
        early_t60_s: line(Some(0), until(EARLY_DB), first - EARLY_DB),
        late_t60_s: line(until(EARLY_DB), until(LATE_DB), first - LATE_DB)
            .or_else(|| line(until(EARLY_DB), until(0.7 * LATE_DB), first - 0.7 * LATE_DB)),
    }
}

/// Decay times a drum can have, s.
pub(super) const PLAUSIBLE_S: std::ops::Range<f64> = 0.03..LN_1000 / 0.4;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Energy that falls by 2 a E + 2 b E^2 has a closed form; its pace goes from that of a + b at first to that of a.
        #[test]
        fn a_decay_that_bends_with_level_has_two_paces(late in 0.3f64..1.5, more in 1.2f64..3.0, turn in 0f64..6.0) {
            let rate = 800.0;
            let a = LN_1000 / late;
            let b = (more - 1.0) * a;
            let energy = |t: f64| a * (-2.0 * a * t).exp() / (a + b * (1.0 - (-2.0 * a * t).exp()));
            let tone: Vec<Complex64> =
                (0..(1.5 * late * rate) as usize).map(|n| Complex64::from_polar(energy(n as f64 / rate).sqrt(), turn * n as f64 / rate)).collect();
            let found = paces(&tone, rate);
            // What the law itself falls by between the same levels.
            let when = |db: f64| (0..200_000).map(|n| f64::from(n) * 2e-5).find(|t| energy(*t) < 10f64.powf(-db / 10.0)).unwrap();
            let early = 60.0 * when(EARLY_DB) / EARLY_DB;
            let (early_found, late_found) = (found.early_t60_s.unwrap(), found.late_t60_s.unwrap());
            prop_assert!((early_found / early - 1.0).abs() < 0.12, "{early_found} for {early}");
            prop_assert!((late_found / late - 1.0).abs() < 0.05, "{late_found} for {late}");
            prop_assert!(early_found < late_found);
        }

        #[test]
        fn a_straight_decay_has_one_pace(t60 in 0.1f64..2.0) {
            let rate = 800.0;
            let tone: Vec<Complex64> =
                (0..(1.4 * t60 * rate) as usize).map(|n| Complex64::from((-LN_1000 / t60 * n as f64 / rate).exp())).collect();
            let found = paces(&tone, rate);
            prop_assert!((found.early_t60_s.unwrap() / t60 - 1.0).abs() < 0.01);
            prop_assert!((found.late_t60_s.unwrap() / t60 - 1.0).abs() < 0.01);
        }
    }

    #[test]
    fn in_noise_alone_there_is_no_pace() {
        let tone = vec![Complex64::new(0.1, 0.0); 300];
        assert_eq!(paces(&tone, 800.0), Paces { early_t60_s: None, late_t60_s: None });
        assert_eq!(paces(&[], 800.0), Paces { early_t60_s: None, late_t60_s: None });
    }
}
