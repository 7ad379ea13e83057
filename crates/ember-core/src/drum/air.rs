//! The air in a drum: its spring, and the plugs of air that move in holes and open ends.

use super::Port;
use crate::physics::{AIR_DENSITY, SPEED_OF_SOUND};
use std::f64::consts::PI;

/// Stiffness of the air in a closed drum against heads that move by their mean, per area of head: rho c^2 / depth, N/m3 (Fletcher &
/// Rossing, *The Physics of Musical Instruments*, 18.1). `depth` in m.
pub fn air_spring(depth: f64) -> f64 {
    AIR_DENSITY * SPEED_OF_SOUND.powi(2) / depth
}

/// Length of the air that moves with a hole of `radius` in a thin head of `head_radius`, m: outside as in an endless wall, 8 r / (3 pi)
/// (Rayleigh, *The Theory of Sound*, 307 and appendix A); inside less, for the shell is near (Kergomard & Garcia, Journal of Sound and
/// Vibration 114, 1987: 0.82 r (1 - 1.35 x + 0.31 x^3), x = r / R).
pub fn port_length(radius: f64, head_radius: f64) -> f64 {
    let x = (radius / head_radius).min(1.0);
    radius * (8.0 / (3.0 * PI) + 0.82 * (1.0 - 1.35 * x + 0.31 * x.powi(3)))
}

/// Length of the air that moves in a shell `depth` m deep with an open end: the end correction of a pipe without a flange is 0.6133 of
/// its radius (Levine & Schwinger, Physical Review 73, 1948).
pub fn open_length(depth: f64, radius: f64) -> f64 {
    depth + 0.6133 * radius
}

/// Mass of the air in `ports` of a head of `radius` m, per area of that head and for motion of the mean flow through all of it, kg/m2.
/// Several holes side by side share the flow.
pub fn flow_mass(ports: &[Port], radius: f64) -> f64 {
    let area = PI * radius * radius;
    let eases: f64 = ports.iter().map(|port| port.area() / (AIR_DENSITY * port_length((port.area() / PI).sqrt(), radius))).sum();
    area / eases
}

/// Pitch at which a plug of air of `area` m2 and `length` m moves on the air of `volume` m3, Hz: c / (2 pi) sqrt(area / (volume length))
/// (Helmholtz's resonator; Kinsler et al., *Fundamentals of Acoustics*, 10.8).
pub fn helmholtz_hz(area: f64, length: f64, volume: f64) -> f64 {
    SPEED_OF_SOUND / (2.0 * PI) * (area / (volume * length)).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// From memory of handbook examples (volume 1 l, neck 1 cm2 and 5 cm long with its corrections): about 77 Hz at 343 m/s, since
    /// sqrt(1e-4 / (1e-3 * 0.05)) = 1.414 1/m.
    #[test]
    fn a_bottle_sounds_where_the_handbook_puts_it() {
        let hz = helmholtz_hz(1e-4, 0.05, 1e-3);
        assert!((hz - 77.25).abs() < 0.1, "{hz}");
    }

    /// A small hole in a wide wall moves the air of both sides' corrections, 16 r / (3 pi); theory's 0.82 r inside is 3 % less.
    #[test]
    fn a_small_hole_has_both_end_corrections_and_a_wide_one_hardly_the_inner() {
        let small = port_length(0.01, 1.0) / 0.01;
        assert!((small - 16.0 / (3.0 * PI)).abs() < 0.05, "{small}");
        let wide = port_length(0.279, 0.279) / 0.279;
        assert!((wide - 8.0 / (3.0 * PI)).abs() < 0.04, "{wide}");
    }

    /// Closed cavity: pressure rises by gamma p dV / V, and rho c^2 = gamma p (Kinsler et al., 5.6): 1.4 times 101325 Pa.
    #[test]
    fn the_spring_is_that_of_air_pressed_without_losing_heat() {
        let spring = air_spring(0.4);
        assert!((spring * 0.4 / (1.4 * 101_325.0) - 1.0).abs() < 0.01, "{}", spring * 0.4);
    }

    #[test]
    fn several_holes_carry_more_air_than_one_and_less_than_their_area_in_one() {
        let hole = |diameter_in: f64| Port { diameter_in, radius: 0.5, angle_deg: 0.0 };
        let (one, two, wide) =
            (flow_mass(&[hole(4.0)], 0.28), flow_mass(&[hole(4.0); 2], 0.28), flow_mass(&[hole(4.0 * 2f64.sqrt())], 0.28));
        assert!((one / two - 2.0).abs() < 1e-9 && two < wide, "{one} {two} {wide}");
    }
}
