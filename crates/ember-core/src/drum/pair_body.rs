//! Body of two heads at given pitches, as tuning them to an interval asks: axial modes of both on the air between them.

use super::Drum;
use super::air::air_spring;
use super::membrane::{MembraneMode, modes_up_to};
use crate::units::t60;
use nalgebra::DMatrix;
use std::f64::consts::PI;

/// Highest zero of the modes kept.
const HIGHEST_ZERO: f64 = 12.3;
/// Lower-head modes that take part in the air's motion.
const LOWER_MODES: usize = 4;
/// Areal resistance of air moving between the heads, what each vent adds to it, and of sound radiated by a head, N s/m3 (from
/// experience, no source).
const AIR_LOSS: f64 = 5.0;
const VENT_LOSS: f64 = 8.0;
const RADIATION_LOSS: f64 = 5.0;

/// The lowest motion of both heads together, which is a drum's body.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PairBody {
    /// Pitch, Hz.
    pub hz: f64,
    /// Time to fall 60 dB, s, with the losses that such drums usually have. How it changes with the heads' pitches can be trusted
    /// further than itself.
    pub t60_s: f64,
}

/// Body of `drum` from the lowest pitch that each head would have alone, Hz. `None` without a lower head.
///
/// Its decay rate is that of the heads' own losses, each weighed by how much of the motion's energy it has; of air that is
/// squeezed between heads moving against each other and leaks out; and of sound radiated by each head.
pub fn body_of_pair(drum: &Drum, batter_hz: f64, lower_hz: f64) -> Option<PairBody> {
    let membrane = modes_up_to(HIGHEST_ZERO);
    let lower_mass = drum.areal_mass(drum.lower_film()?);
    let air = AxialAir { drum, membrane: &membrane, batter_hz, batter_mass: drum.areal_mass(drum.batter), lower_mass };
    let (hz, batter, lower) = air.solve(lower_hz).into_iter().next()?;
    let (loss, loss_by_wave) = drum.usual_losses();
    let own = |shares: &[(usize, f64)], mass: f64| -> f64 {
        let of =
            |(index, share): &(usize, f64)| share * share * mass * (loss + loss_by_wave * (membrane[*index].zero / drum.radius()).powi(2));
        shares.iter().map(of).sum()
    };
    let mean = |shares: &[(usize, f64)]| -> f64 { shares.iter().map(|(index, share)| share * membrane[*index].volume()).sum() };
    let (up, down) = (mean(&batter), mean(&lower));
    let air_loss = AIR_LOSS + VENT_LOSS * f64::from(drum.vents);
    let decay = own(&batter, air.batter_mass)
        + own(&lower, air.lower_mass)
        + 0.5 * air_loss * (up - down).powi(2)
        + 0.5 * RADIATION_LOSS * (up * up + down * down);
    Some(PairBody { hz, t60_s: t60(decay) })
}

struct AxialAir<'a> {
    drum: &'a Drum,
    membrane: &'a [MembraneMode],
    batter_hz: f64,
    batter_mass: f64,
    lower_mass: f64,
}

impl AxialAir<'_> {
    /// (Hz, shares of batter modes, shares of lower-head modes), low to high, for a lower head that alone would sound at
    /// `lower_hz`. Air spring per area of head: rho c^2 / depth on the difference of the heads' mean displacements.
    #[allow(clippy::type_complexity)]
    fn solve(&self, lower_hz: f64) -> Vec<(f64, Vec<(usize, f64)>, Vec<(usize, f64)>)> {
        let axial: Vec<usize> = (0..self.membrane.len()).filter(|i| self.membrane[*i].m == 0).collect();
        let lower: Vec<usize> = axial.iter().copied().take(LOWER_MODES).collect();
        let spring = air_spring(self.drum.depth());
        let entry = |row: usize| {
            let (index, own_hz, mass, sign) = if row < axial.len() {
                (axial[row], self.batter_hz, self.batter_mass, 1.0)
            } else {
                (lower[row - axial.len()], lower_hz, self.lower_mass, -1.0)
            };
            let mode = &self.membrane[index];
            let omega = 2.0 * PI * own_hz * mode.zero / self.membrane[0].zero;
            (omega * omega, sign * mode.volume() / mass.sqrt())
        };
        let size = axial.len() + lower.len();
        let rows: Vec<(f64, f64)> = (0..size).map(entry).collect();
        let matrix = DMatrix::from_fn(size, size, |r, c| spring * rows[r].1 * rows[c].1 + if r == c { rows[r].0 } else { 0.0 });
        let eigen = matrix.symmetric_eigen();
        let mut order: Vec<usize> = (0..size).collect();
        order.sort_by(|a, b| eigen.eigenvalues[*a].total_cmp(&eigen.eigenvalues[*b]));
        order
            .into_iter()
            .map(|k| {
                let vector = eigen.eigenvectors.column(k);
                let batter = axial.iter().enumerate().map(|(row, index)| (*index, vector[row] / self.batter_mass.sqrt())).collect();
                let lower =
                    lower.iter().enumerate().map(|(row, index)| (*index, vector[axial.len() + row] / self.lower_mass.sqrt())).collect();
                (eigen.eigenvalues[k].max(0.0).sqrt() / (2.0 * PI), batter, lower)
            })
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    /// Axial pitches of a drum of `depth_in` whose heads alone would sound at 130 and `lower_hz` Hz.
    fn axial(depth_in: f64, lower_hz: f64) -> Vec<f64> {
        let drum = Drum { depth_in, ..BenchDrum::usual(DrumKind::Tom) };
        let membrane = modes_up_to(HIGHEST_ZERO);
        let (batter_mass, lower_mass) = (drum.areal_mass(drum.batter), drum.areal_mass(drum.lower.unwrap()));
        let air = AxialAir { drum: &drum, membrane: &membrane, batter_hz: 130.0, batter_mass, lower_mass };
        air.solve(lower_hz).iter().map(|mode| mode.0).collect()
    }

    #[test]
    fn air_holds_the_heads_together_and_pushes_them_apart_the_more_the_shallower_the_drum() {
        // The lowest mode moves both heads as one; with equal heads the air takes no part in it.
        let equal = axial(8.0, 130.0);
        assert!((equal[0] - 130.0).abs() < 0.5, "{equal:?}");
        assert!(equal[1] > 1.2 * equal[0], "against each other they squeeze the air: {equal:?}");
        let (shallow, deep, endless) = (axial(4.0, 130.0), axial(16.0, 130.0), axial(1e6, 150.0));
        assert!(shallow[1] > equal[1] && equal[1] > deep[1]);
        // Without a spring between them each head keeps its own pitch.
        assert!((endless[0] - 130.0).abs() < 0.1 && (endless[1] - 150.0).abs() < 0.1, "{endless:?}");
    }
}
