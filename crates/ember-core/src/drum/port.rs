//! Holes in a drum's other head, and what closes that end at all.

use super::invalid::InvalidHole;
use super::{Drum, Head};
use crate::units::metres;
use ember_words::{Said, Text, Words, words};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// Most holes a head can have.
pub const MOST_PORTS: usize = 6;
/// Largest hole, as a part of the head's diameter.
const LARGEST: f64 = 0.85;
/// Smallest hole, in.
pub(super) const SMALLEST_IN: f64 = 0.5;
/// Film that must stay between a hole and the hoop, in.
pub(super) const LEAST_RIM_IN: f64 = 0.5;

/// A round hole.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Port {
    /// Diameter of the hole, in.
    pub diameter_in: f64,
    /// Distance of its middle from the head's, as a part of the head's radius.
    pub radius: f64,
    /// Degrees from the floor, anticlockwise for who looks at the head from outside.
    pub angle_deg: f64,
}

impl Port {
    /// Its area, m2.
    pub fn area(self) -> f64 {
        PI * (metres(self.diameter_in) / 2.0).powi(2)
    }

    /// Its middle, from the head's, in: to the right, and up, for who looks at the head from outside.
    pub fn middle_in(self, head_diameter_in: f64) -> (f64, f64) {
        let (angle, r) = (self.angle_deg.to_radians(), self.radius * head_diameter_in / 2.0);
        (r * angle.sin(), -r * angle.cos())
    }

    /// Film between it and the hoop at the nearest place, in; negative where it runs off the head.
    pub fn rim_in(self, head_diameter_in: f64) -> f64 {
        (1.0 - self.radius) * head_diameter_in / 2.0 - self.diameter_in / 2.0
    }
}

/// Checks that `ports` can be in the head of a drum `head_in` wide; `which` head it is.
pub(super) fn validate(ports: &[Port], head_in: f64, which: Text) -> Result<(), InvalidHole> {
    if ports.len() > MOST_PORTS {
        return Err(InvalidHole::TooMany { which });
    }
    for (i, port) in ports.iter().enumerate() {
        let (diameter_in, largest_in) = (port.diameter_in, LARGEST * head_in);
        if !diameter_in.is_finite() || diameter_in < SMALLEST_IN {
            return Err(InvalidHole::TooSmall);
        }
        if diameter_in > largest_in {
            return Err(InvalidHole::TooLarge { diameter_in, head_in, largest_in });
        }
        if !(0.0..=1.0).contains(&port.radius) || !port.angle_deg.is_finite() {
            return Err(InvalidHole::OffTheHead);
        }
        let rim_in = port.rim_in(head_in);
        if rim_in < LEAST_RIM_IN {
            return Err(InvalidHole::AtTheHoop { diameter_in, rim_in });
        }
        let (x, y) = port.middle_in(head_in);
        for other in &ports[..i] {
            let (ox, oy) = other.middle_in(head_in);
            if (x - ox).hypot(y - oy) < (diameter_in + other.diameter_in) / 2.0 + LEAST_RIM_IN {
                return Err(InvalidHole::TooNear);
            }
        }
    }
    Ok(())
}

/// A text says nothing that closes a drum's other end.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error, Said)]
#[said("\"{0}\" is no front: say whole, mesh, off, or ports:5@0.6@60.")]
pub struct UnknownFront(pub String);

/// What closes a drum's other end: the front head of a kick, the lower head of a tom.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "state", rename_all = "snake_case")]
pub enum Front {
    /// A head without holes.
    Whole,
    /// A head with holes, at least one.
    /// With holes.
    Ported {
        /// The holes.
        ports: Vec<Port>,
    },
    /// A mesh head: it holds hoop and lugs and lets all air through.
    Mesh,
    /// No head.
    Off,
}

impl Front {
    /// One hole as it is usually cut: off centre, low, to the right.
    pub fn usual_port(diameter_in: f64, head_diameter_in: f64) -> Self {
        Self::Ported { ports: vec![usual_place(diameter_in, head_diameter_in)] }
    }

    /// Reads "whole", "mesh", "off", or "ports" followed by holes as `:diameter in@radius@degrees`, for example "ports:5@0.6@60".
    pub fn parse(text: &str) -> Result<Self, UnknownFront> {
        match text {
            "whole" => return Ok(Self::Whole),
            "mesh" => return Ok(Self::Mesh),
            "off" => return Ok(Self::Off),
            _ => {}
        }
        let unknown = || UnknownFront(text.to_string());
        let holes = text.strip_prefix("ports:").ok_or_else(unknown)?;
        let port = |hole: &str| {
            let numbers: Vec<f64> = hole.split('@').map(|number| number.parse().ok()).collect::<Option<_>>()?;
            let [diameter_in, radius, angle_deg] = numbers.try_into().ok()?;
            Some(Port { diameter_in, radius, angle_deg })
        };
        let ports = holes.split(':').take(MOST_PORTS + 1).map(port).collect::<Option<Vec<Port>>>().ok_or_else(unknown)?;
        Ok(Self::Ported { ports })
    }

    /// Whether all air passes.
    pub fn is_open(&self) -> bool {
        matches!(self, Self::Mesh | Self::Off)
    }

    /// Its holes; none where it has none.
    pub fn ports(&self) -> &[Port] {
        if let Self::Ported { ports } = self { ports } else { &[] }
    }

    /// What it is, as a phrase about `which` head: "a 5 in hole in the front head".
    pub fn words(&self, which: Text) -> Words {
        match self {
            Self::Whole => words!("{which} whole"),
            Self::Ported { ports } => match ports.as_slice() {
                [one] if one.radius == 0.0 => words!("a {} in hole in the middle of the {which}", one.diameter_in),
                [one] => words!("a {} in hole in the {which}", one.diameter_in),
                several => words!("{} holes of {} in in the {which}", several.len(), several[0].diameter_in),
            },
            Self::Mesh => words!("a mesh head for the {which}"),
            Self::Off => words!("{which} off"),
        }
    }
}

/// Film that hoop, collar and a reinforcing ring take between a hole and the hoop, in: 25 mm of collar, 20 of ring.
const USUAL_RIM_IN: f64 = 1.8;

/// Where a hole of `diameter_in` is usually cut: at four o'clock, as far out as hoop, collar and reinforcing ring leave room
/// (common practice, no published source).
pub fn usual_place(diameter_in: f64, head_diameter_in: f64) -> Port {
    let radius = (1.0 - (diameter_in / 2.0 + USUAL_RIM_IN) / (head_diameter_in / 2.0)).clamp(0.0, 0.62);
    Port { diameter_in, radius, angle_deg: 60.0 }
}

impl Drum {
    /// What closes its other end.
    pub fn front(&self) -> Front {
        match self.lower {
            None => Front::Off,
            Some(_) if self.lower_mesh => Front::Mesh,
            Some(_) if self.ports.is_empty() => Front::Whole,
            Some(_) => Front::Ported { ports: self.ports.clone() },
        }
    }

    /// The same drum with its other end closed as `front` says. Where it had no head there, a clear one of 10 mil is taken.
    pub fn with_front(&self, front: &Front) -> Self {
        let head = self.lower.unwrap_or(Head::plain(10.0));
        Self {
            lower: (*front != Front::Off).then_some(head),
            lower_mesh: *front == Front::Mesh,
            ports: front.ports().to_vec(),
            ..self.clone()
        }
    }

    /// The other head, where there is one that sounds: not a mesh.
    pub fn lower_film(&self) -> Option<Head> {
        self.lower.filter(|_| !self.lower_mesh)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ember_words::text;

    fn port(diameter_in: f64, radius: f64, angle_deg: f64) -> Port {
        Port { diameter_in, radius, angle_deg }
    }

    #[test]
    fn holes_that_cannot_be_are_refused_in_words() {
        let said = |ports: &[Port]| validate(ports, 22.0, text!("front head")).map_or_else(|error| error.to_string(), |()| String::new());
        assert!(said(&[port(30.0, 0.0, 0.0)]).contains("too large"));
        assert!(said(&[port(5.0, 0.9, 0.0)]).contains("nothing between"), "{}", said(&[port(5.0, 0.9, 0.0)]));
        assert!(said(&[port(4.0, 0.78, 0.0)]).contains("0.4 inches between"), "{}", said(&[port(4.0, 0.78, 0.0)]));
        assert!(said(&[port(4.0, 0.5, 0.0), port(4.0, 0.5, 10.0)]).contains("each other"));
        assert!(said(&[port(f64::NAN, 0.5, 0.0)]).contains("at least"));
        assert!(said(&[port(2.0, 0.6, 0.0); 7]).contains("at most 6"));
        assert_eq!(said(&[port(5.0, 0.5, 60.0), port(3.0, 0.6, 300.0)]), "");
    }

    #[test]
    fn the_usual_place_fits_every_kick() {
        for head in [14.0, 16.0, 18.0, 20.0, 22.0, 24.0, 26.0] {
            for hole in [2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0] {
                let place = usual_place(hole, head);
                assert_eq!(validate(&[place], head, text!("front head")), Ok(()), "{hole} in {head}");
            }
        }
        // At four o'clock: to the right and below the middle.
        let (x, y) = usual_place(5.0, 22.0).middle_in(22.0);
        assert!(x > 0.0 && y < 0.0);
    }

    #[test]
    fn fronts_are_read_from_words() {
        assert_eq!(Front::parse("off"), Ok(Front::Off));
        let two = Front::parse("ports:5@0.6@60:2.5@0.5@300").unwrap();
        assert_eq!(two.ports(), [port(5.0, 0.6, 60.0), port(2.5, 0.5, 300.0)]);
        for wrong in ["", "ajar", "ports:", "ports:5@0.6", "ports:a@b@c"] {
            assert!(Front::parse(wrong).unwrap_err().to_string().contains("is no front"), "{wrong}");
        }
    }

    #[test]
    fn a_front_that_is_changed_and_changed_back_is_the_same() {
        let kick = crate::bench_drum::BenchDrum::usual(crate::drum::DrumKind::Kick);
        for front in [Front::Off, Front::Mesh, Front::usual_port(5.0, 22.0), Front::Whole] {
            assert_eq!(kick.with_front(&front).front(), front);
        }
        let round = kick.with_front(&Front::Off).with_front(&Front::Whole);
        assert_eq!(round.front(), Front::Whole);
        assert!(kick.with_front(&Front::Mesh).lower_film().is_none());
    }
}
