//! Straight lines through points by least squares (simple linear regression, any textbook of statistics).

/// The line that has the least sum of squared distances, along y, from a set of points.
#[derive(Debug, Clone, Copy)]
pub struct Regression {
    pub slope: f64,
    mean_x: f64,
    mean_y: f64,
    /// Coefficient of determination, 0 to 1: 1 where all points lie on the line.
    pub r_squared: f64,
    /// Root of the mean squared distance of the points from the line, in the unit of y.
    pub scatter: f64,
}

impl Regression {
    /// Through `points` (x, y). None where there are not two different x.
    pub fn through(points: impl Iterator<Item = (f64, f64)> + Clone) -> Option<Self> {
        let (n, x, y) = points.clone().fold((0.0, 0.0, 0.0), |(n, x, y), point| (n + 1.0, x + point.0, y + point.1));
        let (mean_x, mean_y) = (x / n, y / n);
        let (xx, xy, yy) = points.fold((0.0, 0.0, 0.0), |(xx, xy, yy), (x, y)| {
            let (dx, dy) = (x - mean_x, y - mean_y);
            (xx + dx * dx, xy + dx * dy, yy + dy * dy)
        });
        let r_squared = if yy > 0.0 { (xy * xy / (xx * yy)).min(1.0) } else { 1.0 };
        (xx > 0.0).then(|| Self { slope: xy / xx, mean_x, mean_y, r_squared, scatter: (yy * (1.0 - r_squared) / n).sqrt() })
    }

    /// Through `values` at x = 0, 1, 2, ...
    pub fn evenly(values: &[f64]) -> Option<Self> {
        Self::through(values.iter().enumerate().map(|(x, y)| (x as f64, *y)))
    }

    /// The line's y at `x`.
    pub fn at(&self, x: f64) -> f64 {
        self.mean_y + self.slope * (x - self.mean_x)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Worked example: (0, 1), (1, 3), (2, 4), (3, 4) have slope 1 and intercept 1.5; residuals -0.5, 0.5, 0.5, -0.5; r squared 5 / 6.
    #[test]
    fn a_worked_example_comes_out() {
        let line = Regression::evenly(&[1.0, 3.0, 4.0, 4.0]).unwrap();
        assert!((line.slope - 1.0).abs() < 1e-12 && (line.at(0.0) - 1.5).abs() < 1e-12, "{line:?}");
        assert!((line.scatter - 0.5).abs() < 1e-12 && (line.r_squared - 5.0 / 6.0).abs() < 1e-12, "{line:?}");
        assert!(Regression::evenly(&[1.0]).is_none() && Regression::evenly(&[]).is_none());
    }
}
