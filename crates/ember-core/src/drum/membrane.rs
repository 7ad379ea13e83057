//! Modes of a round membrane fixed at its rim.

use crate::numeric::{bessel_j, bessel_zero};
use std::f64::consts::PI;

/// Which of the two like-pitched modes of a pair: lobes on the axis, or nodes on it. The axis points at the player.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Member {
    /// The one that goes as the cosine of the angle.
    Cos,
    /// The one that goes as the sine of the angle.
    Sin,
}

/// One mode of the ideal membrane, normalised so that its square averages to 1 over the unit disc.
#[derive(Debug, Clone, PartialEq)]
pub struct MembraneMode {
    /// Nodal diameters.
    pub m: usize,
    /// Nodal circles, the rim among them.
    pub n: usize,
    /// Which member of its pair it is.
    pub member: Member,
    /// The zero j(m,n): pitch and shape.
    pub zero: f64,
    scale: f64,
}

impl MembraneMode {
    /// The mode with `m` nodal diameters and `n` nodal circles, the rim counted.
    pub fn new(m: usize, n: usize, member: Member) -> Self {
        let zero = bessel_zero(m, n);
        // The disc average of J(zero r)^2 is J(m+1)(zero)^2; cos^2 and sin^2 halve it.
        let average = bessel_j(m + 1, zero).powi(2) * if m == 0 { 1.0 } else { 0.5 };
        Self { m, n, member, zero, scale: 1.0 / average.sqrt() }
    }

    /// Displacement at radius `r` (0 to 1 of the head) and `angle` (radians from the player's side).
    pub fn shape(&self, r: f64, angle: f64) -> f64 {
        self.radial(r) * self.angular(angle)
    }

    /// The part of [`shape`](Self::shape) that the radius decides.
    pub fn radial(&self, r: f64) -> f64 {
        self.scale * bessel_j(self.m, self.zero * r)
    }

    /// The part of [`shape`](Self::shape) that the angle decides.
    pub fn angular(&self, angle: f64) -> f64 {
        match self.member {
            Member::Cos => (self.m as f64 * angle).cos(),
            Member::Sin => (self.m as f64 * angle).sin(),
        }
    }

    /// Disc average of the displacement: how much air the mode moves.
    pub fn volume(&self) -> f64 {
        if self.m == 0 { self.scale * 2.0 * bessel_j(1, self.zero) / self.zero } else { 0.0 }
    }

    /// Label as used on partials.
    pub fn label(&self) -> String {
        format!("({},{})", self.m, self.n)
    }

    /// Pitch (Hz) on a head of `radius` m at wave speed `speed` m/s: j c / (2 pi a).
    pub fn hertz(&self, radius: f64, speed: f64) -> f64 {
        self.zero * speed / (2.0 * PI * radius)
    }
}

/// All modes with zeros up to `highest`, low to high, cosine before sine.
pub fn modes_up_to(highest: f64) -> Vec<MembraneMode> {
    let mut modes = Vec::new();
    for m in 0..highest as usize + 1 {
        for n in 1.. {
            if bessel_zero(m, n) > highest {
                break;
            }
            modes.push(MembraneMode::new(m, n, Member::Cos));
            if m > 0 {
                modes.push(MembraneMode::new(m, n, Member::Sin));
            }
        }
    }
    modes.sort_by(|a, b| a.zero.total_cmp(&b.zero).then((a.member == Member::Sin).cmp(&(b.member == Member::Sin))));
    modes
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn modes_are_orthonormal_over_the_disc() {
        let modes = modes_up_to(8.0);
        let average = |f: &dyn Fn(f64, f64) -> f64| {
            let (rings, spokes) = (200, 64);
            let mut sum = 0.0;
            for i in 0..rings {
                let r = (i as f64 + 0.5) / rings as f64;
                for k in 0..spokes {
                    sum += f(r, 2.0 * PI * k as f64 / spokes as f64) * 2.0 * r;
                }
            }
            sum / (rings * spokes) as f64
        };
        for a in &modes {
            for b in &modes {
                let wanted = if a == b { 1.0 } else { 0.0 };
                let found = average(&|r, angle| a.shape(r, angle) * b.shape(r, angle));
                assert!((found - wanted).abs() < 2e-3, "{} {} {found}", a.label(), b.label());
            }
            assert!((average(&|r, angle| a.shape(r, angle)) - a.volume()).abs() < 1e-3);
        }
    }

    #[test]
    fn pitches_stand_in_the_published_ratios() {
        // Ratios of an ideal membrane's modes to its lowest, e.g. Fletcher & Rossing, The Physics of Musical Instruments, ch. 3.
        let labels: Vec<(String, f64)> =
            modes_up_to(9.0).iter().filter(|m| m.member == Member::Cos).map(|m| (m.label(), m.zero / 2.404_825_557_7)).collect();
        for (label, ratio) in
            [("(0,1)", 1.0), ("(1,1)", 1.593), ("(2,1)", 2.136), ("(0,2)", 2.295), ("(3,1)", 2.653), ("(1,2)", 2.917), ("(4,1)", 3.155)]
        {
            let found = labels.iter().find(|(name, _)| name == label).unwrap().1;
            assert!((found - ratio).abs() < 0.001, "{label}: {found}");
        }
    }
}
