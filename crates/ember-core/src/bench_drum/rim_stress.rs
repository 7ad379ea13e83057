//! The stress in a film whose rods pull unevenly: that of a disc pulled outwards along its rim without shear (Michell's solution of
//! the plane elastic problem; Timoshenko & Goodier, Theory of Elasticity, art. 43).

use std::f64::consts::PI;

/// How much the hoop's stiffness smooths what single rods pull.
const HOOP_STIFFNESS: f64 = 0.01;
/// Highest harmonic round the hoop that reaches the film.
const HARMONICS: std::ops::RangeInclusive<usize> = 2..=10;

/// In-plane stress of a disc, in units of its mean, from what its rods pull.
pub(super) struct RimStress {
    mean: f64,
    /// (harmonic n, amplitude, phase)
    harmonics: Vec<(usize, f64, f64)>,
}

impl RimStress {
    pub(super) fn new(pull: &[f64]) -> Self {
        let count = pull.len() as f64;
        let mean = pull.iter().sum::<f64>() / count;
        let harmonics = HARMONICS.map(|n| {
            let angle = |lug: usize| n as f64 * 2.0 * PI * lug as f64 / count;
            let cos = pull.iter().enumerate().map(|(lug, p)| (p - mean) * angle(lug).cos()).sum::<f64>() * 2.0 / count;
            let sin = pull.iter().enumerate().map(|(lug, p)| (p - mean) * angle(lug).sin()).sum::<f64>() * 2.0 / count;
            let reach = 1.0 / (1.0 + HOOP_STIFFNESS * ((n * n - 1) as f64).powi(2));
            (n, reach * cos.hypot(sin), sin.atan2(cos))
        });
        Self { mean, harmonics: harmonics.collect() }
    }

    /// (along x, along y, shear) at a point of the unit disc.
    pub(super) fn at(&self, x: f64, y: f64) -> [f64; 3] {
        let (r, angle) = (x.hypot(y).min(1.0), y.atan2(x));
        let (mut radial, mut around, mut shear) = (self.mean, self.mean, 0.0);
        for &(n, amplitude, phase) in &self.harmonics {
            let k = n as f64;
            let (a, b) = (-amplitude / (2.0 * (k - 1.0)), amplitude / (2.0 * (k + 1.0)));
            let (inner, outer) = (a * r.powi(n as i32 - 2), b * r.powi(n as i32));
            let turn = k * angle - phase;
            radial += (k * (1.0 - k) * inner + (k + 1.0) * (2.0 - k) * outer) * turn.cos();
            around += (k * (k - 1.0) * inner + (k + 2.0) * (k + 1.0) * outer) * turn.cos();
            shear += (k * (k - 1.0) * inner + k * (k + 1.0) * outer) * turn.sin();
        }
        let (c, s) = (angle.cos(), angle.sin());
        [
            radial * c * c + around * s * s - 2.0 * shear * s * c,
            radial * s * s + around * c * c + 2.0 * shear * s * c,
            (radial - around) * s * c + shear * (c * c - s * s),
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn stress_is_in_balance_and_pulls_the_rim_as_the_rods_do() {
        let stress = RimStress::new(&[1.0, 1.3, 0.9, 1.0, 0.8, 1.2, 1.0, 1.1]);
        let step = 1e-5;
        for (x, y) in [(0.3, 0.1), (-0.5, 0.4), (0.1, -0.8)] {
            let slope = |along: (f64, f64), which: usize| {
                let (more, less) = (stress.at(x + along.0 * step, y + along.1 * step), stress.at(x - along.0 * step, y - along.1 * step));
                (more[which] - less[which]) / (2.0 * step)
            };
            assert!((slope((1.0, 0.0), 0) + slope((0.0, 1.0), 2)).abs() < 1e-6);
            assert!((slope((1.0, 0.0), 2) + slope((0.0, 1.0), 1)).abs() < 1e-6);
        }
    }
}
