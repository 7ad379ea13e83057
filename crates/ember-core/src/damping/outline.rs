//! Outlines of devices on a head, to scale.

use crate::drum::HeadSide;
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// The part of a head that a device touches. Radii are fractions of the head's; angles are degrees from the player's side (on a
/// kick: from the floor), anticlockwise seen from above (on a kick: from the player).
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "shape", rename_all = "snake_case")]
pub enum Outline {
    /// A round pad of `size` (its radius) around a point.
    /// A round patch.
    Disc {
        /// Radius, in parts of the head's, or of where its middle lies.
        radius: f64,
        /// Degrees from the player, anticlockwise.
        angle_deg: f64,
        /// Its own radius, in parts of the head's.
        size: f64,
    },
    /// A rectangle: `width` along the radius, `length` across it.
    /// A strip.
    Strip {
        /// Radius, in parts of the head's, or of where its middle lies.
        radius: f64,
        /// Degrees from the player, anticlockwise.
        angle_deg: f64,
        /// Length, in the unit of the whole.
        length: f64,
        /// Width, in the unit of the whole.
        width: f64,
    },
    /// Everything between two circles about the centre.
    /// A ring.
    Ring {
        /// Inner radius, in parts of the head's.
        inner: f64,
        /// Outer radius, in parts of the head's.
        outer: f64,
    },
    /// The part of a ring that spans `span_deg` about `angle_deg`.
    /// A part of a ring.
    Arc {
        /// Inner radius, in parts of the head's.
        inner: f64,
        /// Outer radius, in parts of the head's.
        outer: f64,
        /// Degrees from the player, anticlockwise.
        angle_deg: f64,
        /// How far round it reaches, degrees.
        span_deg: f64,
    },
    /// Everything beyond a straight line, `depth` (0 to 2) measured from the rim at `angle_deg` towards the opposite side.
    /// What a straight line cuts off.
    Segment {
        /// Degrees from the player, anticlockwise.
        angle_deg: f64,
        /// How far it reaches inwards.
        depth: f64,
    },
}

/// A device's contact with one head.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Patch {
    /// Which head.
    pub side: HeadSide,
    /// Its outline.
    pub outline: Outline,
    /// How firmly it lies on, 0 to 1: scales resistance and mass.
    pub contact: f64,
}

/// Points round a ring: more than twice the nodal diameters of any mode that is looked at, so that sums over pairs are exact.
const SPOKES: usize = 20;
/// Nodes and weights of Gauss's rule with five and eight points (Abramowitz & Stegun, 25.4.29).
const GAUSS_5: &[(f64, f64)] = &[
    (-0.906_179_845_938_664, 0.236_926_885_056_189),
    (-0.538_469_310_105_683, 0.478_628_670_499_366),
    (0.0, 0.568_888_888_888_889),
    (0.538_469_310_105_683, 0.478_628_670_499_366),
    (0.906_179_845_938_664, 0.236_926_885_056_189),
];
const GAUSS_8: &[(f64, f64)] = &[
    (-0.960_289_856_497_536, 0.101_228_536_290_376),
    (-0.796_666_477_413_627, 0.222_381_034_453_374),
    (-0.525_532_409_916_329, 0.313_706_645_877_887),
    (-0.183_434_642_495_650, 0.362_683_783_378_362),
    (0.183_434_642_495_650, 0.362_683_783_378_362),
    (0.525_532_409_916_329, 0.313_706_645_877_887),
    (0.796_666_477_413_627, 0.222_381_034_453_374),
    (0.960_289_856_497_536, 0.101_228_536_290_376),
];

impl Outline {
    /// Points (radius, angle in radians, share of the head's area) that stand for the outline in sums over it.
    pub fn points(&self) -> Vec<(f64, f64, f64)> {
        match *self {
            Self::Disc { radius, angle_deg, size } => {
                let rings = (3.0 + 12.0 * size).round() as u32;
                let mut points = Vec::with_capacity(8 * rings as usize);
                for ring in 0..rings {
                    // Midpoints of rings of equal area.
                    let r = size * ((f64::from(ring) + 0.5) / f64::from(rings)).sqrt();
                    for spoke in 0..8 {
                        let turn = 2.0 * PI * (f64::from(spoke) + 0.5 * f64::from(ring % 2)) / 8.0;
                        points.push((radius + r * turn.cos(), r * turn.sin(), size * size / f64::from(8 * rings)));
                    }
                }
                turned(points, angle_deg)
            }
            Self::Strip { radius, angle_deg, length, width } => {
                let (along, across) = (4, (8.0 * length).ceil().max(6.0) as usize);
                let share = length * width / PI / (along * across) as f64;
                let mut points = Vec::with_capacity(along * across);
                for i in 0..along {
                    for k in 0..across {
                        let x = radius + width * ((i as f64 + 0.5) / along as f64 - 0.5);
                        let y = length * ((k as f64 + 0.5) / across as f64 - 0.5);
                        points.push((x, y, share));
                    }
                }
                turned(points, angle_deg)
            }
            Self::Ring { inner, outer } => {
                let area = outer * outer - inner * inner;
                let around = (0..SPOKES).map(|k| 2.0 * PI * k as f64 / SPOKES as f64);
                let nodes = if outer - inner < 0.3 { GAUSS_5 } else { GAUSS_8 };
                // Gauss's rule over the square of the radius, in which areas are even.
                let along = nodes.iter().map(|(node, weight)| ((inner * inner + area * 0.5 * (1.0 + node)).sqrt(), 0.5 * weight * area));
                along.flat_map(|(r, share)| around.clone().map(move |angle| (r, angle, share / SPOKES as f64))).collect()
            }
            Self::Arc { inner, outer, angle_deg, span_deg } => {
                let (rings, spokes) = (5, (span_deg / 10.0).ceil().max(4.0) as usize);
                let share = (outer * outer - inner * inner) * span_deg / 360.0 / (rings * spokes) as f64;
                (0..rings * spokes)
                    .map(|k| {
                        let part = ((k / spokes) as f64 + 0.5) / rings as f64;
                        let turn = ((k % spokes) as f64 + 0.5) / spokes as f64 - 0.5;
                        let r = (inner * inner + part * (outer * outer - inner * inner)).sqrt();
                        (r, (angle_deg + turn * span_deg).to_radians(), share)
                    })
                    .collect()
            }
            Self::Segment { angle_deg, depth } => {
                let (slices, parts) = ((24.0 * depth).ceil().max(8.0) as usize, 28);
                let mut points = Vec::with_capacity(slices * parts);
                for i in 0..slices {
                    let x = 1.0 - depth * (i as f64 + 0.5) / slices as f64;
                    let half = (1.0 - x * x).max(0.0).sqrt();
                    let share = depth / slices as f64 * 2.0 * half / parts as f64 / PI;
                    for k in 0..parts {
                        points.push((x, half * (2.0 * (k as f64 + 0.5) / parts as f64 - 1.0), share));
                    }
                }
                turned(points, angle_deg)
            }
        }
    }

    /// Whether the point (radius, angle in radians) lies inside.
    pub fn contains(&self, r: f64, angle: f64) -> bool {
        let local = |angle_deg: f64| {
            let turn = angle - angle_deg.to_radians();
            (r * turn.cos(), r * turn.sin())
        };
        match *self {
            Self::Disc { radius, angle_deg, size } => {
                let (x, y) = local(angle_deg);
                (x - radius).powi(2) + y * y <= size * size
            }
            Self::Strip { radius, angle_deg, length, width } => {
                let (x, y) = local(angle_deg);
                (x - radius).abs() <= width / 2.0 && y.abs() <= length / 2.0
            }
            Self::Ring { inner, outer } => (inner..=outer).contains(&r),
            Self::Arc { inner, outer, angle_deg, span_deg } => {
                let off = (angle.to_degrees() - angle_deg + 180.0).rem_euclid(360.0) - 180.0;
                (inner..=outer).contains(&r) && off.abs() <= span_deg / 2.0
            }
            Self::Segment { angle_deg, depth } => local(angle_deg).0 >= 1.0 - depth,
        }
    }
}

/// Cartesian points about the player's axis, turned by `angle_deg`, as polar ones; what hangs over the rim is left out.
fn turned(points: Vec<(f64, f64, f64)>, angle_deg: f64) -> Vec<(f64, f64, f64)> {
    points.into_iter().map(|(x, y, share)| (x.hypot(y), y.atan2(x) + angle_deg.to_radians(), share)).filter(|p| p.0 <= 1.0).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn any_outline() -> impl Strategy<Value = Outline> {
        prop_oneof![
            (0.2f64..0.85, 0f64..360.0, 0.05f64..0.15).prop_map(|(radius, angle_deg, size)| Outline::Disc { radius, angle_deg, size }),
            (0.3f64..0.8, 0f64..360.0, 0.2f64..0.7, 0.05f64..0.2).prop_map(|(radius, angle_deg, length, width)| Outline::Strip {
                radius,
                angle_deg,
                length,
                width
            }),
            (0.5f64..0.8, 0.05f64..0.2).prop_map(|(inner, width)| Outline::Ring { inner, outer: inner + width }),
            (0.5f64..0.8, 0.05f64..0.2, 0f64..360.0, 30f64..300.0).prop_map(|(inner, width, angle_deg, span_deg)| Outline::Arc {
                inner,
                outer: inner + width,
                angle_deg,
                span_deg
            }),
            (0f64..360.0, 0.2f64..2.0).prop_map(|(angle_deg, depth)| Outline::Segment { angle_deg, depth }),
        ]
    }

    proptest! {
        #[test]
        fn points_lie_inside_and_share_out_the_whole_area(outline in any_outline()) {
            let points = outline.points();
            prop_assert!(points.iter().all(|p| outline.contains(p.0 * (1.0 - 1e-9), p.1)));
            // The area by counting a fine grid is the independent answer.
            let n = 300;
            let inside = (0..n * n).filter(|k| {
                let (x, y) = (f64::from(k % n) / 150.0 - 1.0 + 1.0 / 300.0, f64::from(k / n) / 150.0 - 1.0 + 1.0 / 300.0);
                x.hypot(y) <= 1.0 && outline.contains(x.hypot(y), y.atan2(x))
            }).count();
            let counted = inside as f64 / (PI / 4.0 * f64::from(n * n));
            let shared: f64 = points.iter().map(|p| p.2).sum();
            prop_assert!((shared - counted).abs() < 0.02 * counted + 0.002, "{shared} against {counted}");
        }
    }
}
