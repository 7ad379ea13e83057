//! The air in the simulated drum: between the heads, in holes of the front head, and in an open shell.
//!
//! Stepped in time beside the heads; the plug of air in a hole loses part of its motion evenly, and part as the square of how fast it
//! moves past the edge, as jets do.

use crate::drum::{Drum, Front, Port, air_spring, flow_mass, open_length};
use crate::physics::AIR_DENSITY;
use std::f64::consts::PI;

/// What air loses moving between the heads, and out through each vent, N s/m3.
const SHELL_LOSS: f64 = 4.0;
const VENT_LOSS: f64 = 10.0;

/// What openings take, N s/m3.
#[derive(Debug, Clone, Copy)]
pub struct OpeningLoss {
    /// Of the film round a hole, on its own motion.
    pub film: f64,
    /// Of the air in a hole, on its motion past the film, per area of the hole.
    pub edge: f64,
    /// The same as a part of the pressure of a jet, rho v^2 / 2.
    pub jet: f64,
    /// Of all that leaves, per area of the head.
    pub outflow: f64,
}

impl OpeningLoss {
    /// What the predictor's priors say.
    pub const KNOWN: Self = Self { film: 60.0, edge: 10.0, jet: 0.0, outflow: 80.0 };
    /// What it is here.
    pub const HIDDEN: Self = Self { film: 72.0, edge: 8.0, jet: 1.6, outflow: 70.0 };
}

/// How far round a hole the film flaps, as a part of the hole's radius.
const FLAPS_TO: f64 = 1.6;

/// Air in the drum.
pub struct Cavity {
    spring: f64,
    /// Against being squeezed, N s/m3.
    loss: f64,
    plug: Option<Plug>,
}

/// Air that moves in and out.
struct Plug {
    /// Part of the head's area that it moves through.
    area: f64,
    /// Mass per area of the head, for its mean flow, kg/m2.
    mass: f64,
    losses: OpeningLoss,
    /// Whether there is film round it.
    in_head: bool,
    /// Mean flow through the head's area, as a displacement, m, and its speed, m/s.
    flow: f64,
    speed: f64,
}

impl Cavity {
    /// `fill`: what lies inside takes from air that is squeezed, N s/m3.
    pub fn new(drum: &Drum, losses: OpeningLoss, fill: f64) -> Self {
        let a = drum.radius();
        let front = drum.front();
        let plug = |area: f64, mass: f64, in_head| Some(Plug { area, mass, losses, in_head, flow: 0.0, speed: 0.0 });
        let plug = match &front {
            Front::Whole => None,
            Front::Ported { ports } => plug(ports.iter().map(|port| port.area()).sum::<f64>() / (PI * a * a), flow_mass(ports, a), true),
            Front::Mesh | Front::Off => plug(1.0, AIR_DENSITY * open_length(drum.depth(), a), false),
        };
        Self { spring: air_spring(drum.depth()), loss: SHELL_LOSS + VENT_LOSS * f64::from(drum.vents) + fill, plug }
    }

    /// Pressure on batter (outwards) and front head, Pa, after `dt`, from the heads' mean displacements and speeds. `film` is the part of
    /// the front head that has film.
    pub fn pressure(&mut self, batter: (f64, f64), front: (f64, f64), film: f64, dt: f64) -> (f64, f64) {
        let (flow, speed) = self.plug.as_ref().map_or((0.0, 0.0), |plug| (plug.flow, plug.speed));
        let squeezed = self.spring * (batter.0 - front.0 - flow) + self.loss * (batter.1 - front.1 - speed);
        let mut on_front = squeezed;
        if let Some(plug) = &mut self.plug {
            let OpeningLoss { edge, jet, outflow, .. } = plug.losses;
            let past = if plug.in_head { plug.speed / plug.area - front.1 / film } else { 0.0 };
            let drag = edge * past + 0.5 * AIR_DENSITY * jet * past.abs() * past;
            plug.speed += dt / plug.mass * (squeezed - drag - outflow * plug.speed);
            plug.flow += dt * plug.speed;
            // What holds the air back pulls the film along.
            on_front += drag * plug.area / film;
        }
        (squeezed, on_front)
    }
}

/// Resistance of the film at (r, angle) of a front head with holes, N s/m3.
pub fn flapping(drum: &Drum, losses: OpeningLoss, r: f64, angle: f64) -> f64 {
    let near = |times: f64| drum.ports.iter().any(|port| reaches(port, drum, times, r, angle));
    if near(FLAPS_TO) { losses.film } else { 0.0 }
}

/// Whether (r, angle) lies in a hole.
pub fn is_hole(drum: &Drum, r: f64, angle: f64) -> bool {
    drum.ports.iter().any(|port| reaches(port, drum, 1.0, r, angle))
}

fn reaches(port: &Port, drum: &Drum, times: f64, r: f64, angle: f64) -> bool {
    let at = port.angle_deg.to_radians();
    let (x, y) = (r * angle.cos() - port.radius * at.cos(), r * angle.sin() - port.radius * at.sin());
    x.hypot(y) < times * port.diameter_in / drum.diameter_in
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{DrumKind, helmholtz_hz, port_length};
    use crate::units::metres;

    const LOSSLESS: OpeningLoss = OpeningLoss { film: 0.0, edge: 0.0, jet: 0.0, outflow: 0.0 };

    /// Between heads that stand still the plug swings at Helmholtz's pitch: counted by its zero crossings, stepped as in a strike.
    #[test]
    fn the_plug_swings_at_helmholtzs_pitch() {
        let drum = Drum { vents: 0, ..BenchDrum::usual(DrumKind::Kick) }.with_front(&Front::usual_port(6.0, 22.0));
        let mut cavity = Cavity { loss: 0.0, ..Cavity::new(&drum, LOSSLESS, 0.0) };
        if let Some(plug) = &mut cavity.plug {
            plug.flow = 1e-4;
        }
        let (dt, mut crossings, mut last) = (1.0 / 16_000.0, Vec::new(), 1e-4);
        for n in 0..16_000 {
            cavity.pressure((0.0, 0.0), (0.0, 0.0), 1.0, dt);
            let flow = cavity.plug.as_ref().map_or(0.0, |plug| plug.flow);
            if last > 0.0 && flow <= 0.0 {
                crossings.push(n);
            }
            last = flow;
        }
        let hz = (crossings.len() - 1) as f64 / ((crossings[crossings.len() - 1] - crossings[0]) as f64 * dt);
        let r = metres(6.0) / 2.0;
        let wanted = helmholtz_hz(PI * r * r, port_length(r, drum.radius()), PI * drum.radius().powi(2) * drum.depth());
        assert!((hz / wanted - 1.0).abs() < 0.01, "{hz} Hz for {wanted}");
    }

    #[test]
    fn losses_bring_the_plug_to_rest_and_jets_more_the_faster_it_is() {
        let drum = BenchDrum::usual(DrumKind::Kick).with_front(&Front::usual_port(6.0, 22.0));
        let left_of = |losses: OpeningLoss, start: f64| {
            let mut cavity = Cavity::new(&drum, losses, 0.0);
            if let Some(plug) = &mut cavity.plug {
                plug.speed = start;
            }
            let mut most = 0.0f64;
            for n in 0..1600 {
                cavity.pressure((0.0, 0.0), (0.0, 0.0), 1.0, 1.0 / 16_000.0);
                if n > 1200 {
                    most = most.max(cavity.plug.as_ref().map_or(0.0, |plug| plug.speed.abs()));
                }
            }
            most / start
        };
        assert!(left_of(OpeningLoss::KNOWN, 0.1) < 0.3 * left_of(LOSSLESS, 0.1));
        let jet = OpeningLoss { jet: 1.6, ..LOSSLESS };
        assert!(left_of(jet, 1.0) < 0.8 * left_of(jet, 0.01), "{} {}", left_of(jet, 1.0), left_of(jet, 0.01));
    }

    #[test]
    fn film_is_missing_in_a_hole_and_flaps_round_it() {
        let drum = BenchDrum::usual(DrumKind::Kick)
            .with_front(&Front::Ported { ports: vec![Port { diameter_in: 6.0, radius: 0.5, angle_deg: 90.0 }] });
        let at = |r: f64| (is_hole(&drum, r, PI / 2.0), flapping(&drum, OpeningLoss::KNOWN, r, PI / 2.0) > 0.0);
        assert_eq!([0.5, 0.9, 0.05].map(at), [(true, true), (false, true), (false, false)]);
        assert!(!is_hole(&drum, 0.5, 0.0));
    }
}
