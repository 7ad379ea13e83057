//! What is known of a positive figure, and the bounds in which it lies nine times in ten.

use serde::{Deserialize, Serialize};

/// Standard deviations about the mean between which a normal variable lies nine times in ten (its 95th percentile; any table of the normal
/// distribution).
pub const NINETY_SDS: f64 = 1.645;

/// Bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Range {
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
}

impl Range {
    /// About the `median` of a figure whose logarithm has the standard deviation `ln_sd`.
    pub fn around(median: f64, ln_sd: f64) -> Self {
        let factor = (NINETY_SDS * ln_sd).exp();
        Self { low: median / factor, high: median * factor }
    }
}

/// A positive figure whose natural logarithm is normal.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct LogNormal {
    /// Mean of the logarithm.
    pub ln: f64,
    /// Standard deviation of the logarithm.
    pub sd: f64,
}

impl LogNormal {
    /// The figure that it exceeds as often as not.
    pub fn median(self) -> f64 {
        self.ln.exp()
    }

    /// The figure that lies so many standard deviations of the logarithm above the median.
    pub fn at(self, sds: f64) -> f64 {
        (self.ln + sds * self.sd).exp()
    }

    /// Between which it lies nine times in ten.
    pub fn range(self) -> Range {
        Range { low: self.at(-NINETY_SDS), high: self.at(NINETY_SDS) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The figure of a table: 90 % of a normal distribution lie within 1.6449 standard deviations. Summed here over the density.
    #[test]
    fn nine_in_ten_lie_in_the_range() {
        let known = LogNormal { ln: 0.3, sd: 0.2 };
        let Range { low, high } = known.range();
        let density = |z: f64| (-0.5 * z * z).exp() / (2.0 * std::f64::consts::PI).sqrt();
        let [from, to] = [low, high].map(|end| (end.ln() - known.ln) / known.sd);
        let step = (to - from) / 10_000.0;
        let inside: f64 = (0..10_000).map(|i| density(from + (f64::from(i) + 0.5) * step) * step).sum();
        assert!((inside - 0.9).abs() < 1e-4, "{inside}");
        assert!((known.median() - 0.3f64.exp()).abs() < 1e-12);
    }
}
