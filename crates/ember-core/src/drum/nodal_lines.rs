//! Where a head stands still while a partial rings: a device there does nothing to it.

use crate::numeric::bessel_zero;
use crate::tone::Partial;
use crate::tone::{Mode, Motion};
use serde::Serialize;

/// Lines on the batter head at which one mode does not move.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NodalLines {
    /// Pitch, Hz.
    pub hz: f64,
    /// The mode.
    pub mode: Mode,
    /// Degrees from the player's side at which lines run straight across.
    pub diameters_deg: Vec<f64>,
    /// Radii of circles as fractions of the head's; the rim is not among them.
    pub circles: Vec<f64>,
}

/// Lines of `partial`; none where its mode is not known. Of a pair the member is drawn that rings on beside a device at `device_deg`:
/// one of its lines runs under the device. The other member's lines lie halfway between. Without such a device nobody knows which way
/// lines across lie, and only circles are given.
pub fn nodal_lines(partial: &Partial, device_deg: Option<f64>) -> Option<NodalLines> {
    let mode = partial.tone?.mode().filter(|mode| mode.motion != Motion::Opposed)?;
    let (m, n) = (usize::from(mode.diameters), usize::from(mode.circles));
    // J is zero on circles at the ratios of its zeros, and cos or sin on m diameters.
    let circles: Vec<f64> = (1..n).map(|k| bessel_zero(m, k) / bessel_zero(m, n)).collect();
    let across = |device_deg: f64| (0..m).map(move |k| (device_deg + 180.0 * k as f64 / m as f64).rem_euclid(180.0));
    let diameters_deg: Vec<f64> = device_deg.into_iter().flat_map(across).collect();
    (!circles.is_empty() || !diameters_deg.is_empty()).then_some(NodalLines { hz: partial.hz, mode, diameters_deg, circles })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::Tone;

    fn beside(mode: &str, device_deg: Option<f64>) -> Option<NodalLines> {
        nodal_lines(
            &Partial { hz: 200.0, t60_s: None, t60_sd_s: None, t60_scatter_s: None, level_db: 0.0, tone: Tone::read(mode) },
            device_deg,
        )
    }

    fn lines(mode: &str) -> Option<NodalLines> {
        beside(mode, Some(210.0))
    }

    /// Zeros of Bessel functions as tabulated (Abramowitz & Stegun, table 9.5): 2.40483, 5.52008; 3.83171, 7.01559.
    #[test]
    fn circles_lie_at_ratios_of_tabulated_zeros() {
        let (round, crossed) = (lines("(0,2)").unwrap(), lines("(1,2)").unwrap());
        assert!((round.circles[0] - 2.40483 / 5.52008).abs() < 1e-5 && round.diameters_deg.is_empty());
        assert!((crossed.circles[0] - 3.83171 / 7.01559).abs() < 1e-5 && crossed.diameters_deg == [30.0]);
        assert_eq!(lines("(2,1)").unwrap().diameters_deg, [30.0, 120.0]);
    }

    #[test]
    fn unknown_modes_have_no_lines() {
        assert!(beside("(2,1)", None).is_none() && beside("(1,2)", None).unwrap().diameters_deg.is_empty(), "which way is not known");
        assert!(lines("(0,1) opposed").is_none() && lines("").is_none());
    }
}
