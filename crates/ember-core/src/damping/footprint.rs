//! What an amount of a device covers of a head, before it is laid anywhere.

use super::outline::{Outline, Patch};
use crate::drum::HeadSide;
use crate::units::metres;

/// Lengths in metres, unless said otherwise.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Footprint {
    /// A round piece of `radius`, laid anywhere on the batter head.
    /// A round pad of this radius, m.
    Pad {
        /// Radius, in parts of the head's, or of where its middle lies.
        radius: f64,
    },
    /// `width` along the head's radius, `length` across it, laid anywhere on the batter head.
    /// A strip, m.
    Strip {
        /// Length, in the unit of the whole.
        length: f64,
        /// Width, in the unit of the whole.
        width: f64,
    },
    /// Hanging over the hoop, so far onto the batter head.
    /// A strip over the hoop, m.
    OverHoop {
        /// Length, in the unit of the whole.
        length: f64,
        /// How far it reaches onto the head.
        overlap: f64,
    },
    /// A ring all round the head, from the hoop inwards.
    EdgeRing {
        /// Width, in the unit of the whole.
        width: f64,
    },
    /// All of the head but a hole in its middle.
    Overlay {
        /// Radius of the hole, in parts of the head's.
        hole: f64,
        /// How far out it reaches, in parts of what lies inside the hoop.
        to: f64,
    },
    /// The batter head from one side, up to `depth` (0 to 2: parts of its radius).
    /// A part of the head from its edge inwards, so deep, in parts of its diameter.
    Cover {
        /// How far it reaches inwards.
        depth: f64,
    },
    /// A round piece in the middle of the batter head.
    /// A round patch in the middle of this radius, m.
    Centre {
        /// Radius, in parts of the head's, or of where its middle lies.
        radius: f64,
    },
    /// A ring an inch wide, loose on the lower head, its outside an inch from the hoop; so many degrees of it.
    /// A ring at the edge over so many degrees.
    LooseRing {
        /// How far round it reaches, degrees.
        span_deg: f64,
    },
    /// Round pieces of `radius` spread evenly over the lower head.
    /// So many balls of this radius, m.
    Balls {
        /// How many.
        count: usize,
        /// Radius, in parts of the head's, or of where its middle lies.
        radius: f64,
    },
    /// Nothing of it: what is done to the rods only.
    Nothing,
    /// Along the hoop of the batter head at the lug nearest the player and its neighbours, from the hoop inwards.
    /// The edge at the lugs, so deep.
    AtTheLugs {
        /// How far it reaches inwards.
        depth: f64,
    },
    /// Right across `heads`, its middle line `off_centre` (a part of the radius) from the middle.
    /// A strip across the heads, m.
    Across {
        /// Width, in the unit of the whole.
        width: f64,
        /// How far its middle line lies off the head's middle.
        off_centre: f64,
        /// Which heads it crosses.
        heads: &'static [HeadSide],
    },
    /// Resting on the floor of a kick: depths (parts of the radius) to which it touches batter and front head.
    /// What fills a kick: parts of the heads that it touches.
    Fill {
        /// Part of the batter head that it touches.
        batter: f64,
        /// Part of the front head that it touches.
        front: f64,
    },
    /// Round the inside of the shell, against both heads, from the hoop inwards.
    /// A tube all round inside, so wide, m.
    Tube {
        /// Width, in the unit of the whole.
        width: f64,
    },
}

/// Between a ring on the head's edge and the hoop, as a part of the radius.
const EDGE: f64 = 0.985;
/// Where balls that lie loose inside come to rest, as a part of the radius: they roll, so this is a middle.
const BALLS_AT: f64 = 0.6;

impl Footprint {
    /// Whether it can lie nearer to the middle or to the hoop.
    pub fn has_radius(self) -> bool {
        matches!(self, Self::Pad { .. } | Self::Strip { .. })
    }

    /// Whether it can be turned about the drum's axis to a different effect.
    pub fn has_angle(self) -> bool {
        match self {
            Self::Pad { .. } | Self::Strip { .. } | Self::OverHoop { .. } | Self::Across { .. } => true,
            Self::Cover { depth } => depth < 2.0,
            Self::LooseRing { span_deg } => span_deg < 360.0,
            Self::Nothing
            | Self::AtTheLugs { .. }
            | Self::EdgeRing { .. }
            | Self::Overlay { .. }
            | Self::Centre { .. }
            | Self::Balls { .. }
            | Self::Fill { .. }
            | Self::Tube { .. } => false,
        }
    }

    /// Where it touches which head of radius `a` (m) with so many `lugs`, `contact` times as firmly as usual.
    pub fn patches(self, (a, lugs): (f64, u8), radius: f64, angle_deg: f64, contact: f64) -> Vec<Patch> {
        let patch = |side, outline| Patch { side, outline, contact };
        let (batter, lower) = (|outline| vec![patch(HeadSide::Batter, outline)], |outline| vec![patch(HeadSide::Lower, outline)]);
        match self {
            Self::Pad { radius: size } => batter(Outline::Disc { radius, angle_deg, size: size / a }),
            Self::Strip { length, width } => batter(Outline::Strip { radius, angle_deg, length: length / a, width: width / a }),
            Self::OverHoop { length, overlap } => {
                let width = overlap / a;
                batter(Outline::Strip { radius: 0.98 - width / 2.0, angle_deg, length: length / a, width })
            }
            Self::Nothing => Vec::new(),
            Self::EdgeRing { width } => batter(Outline::Ring { inner: EDGE - width / a, outer: EDGE }),
            Self::AtTheLugs { depth } => {
                // Three lugs reach from halfway to the next one on either side.
                let span_deg = 3.0 * 360.0 / f64::from(lugs.max(3));
                batter(Outline::Arc { inner: 1.0 - depth, outer: 1.0, angle_deg: 0.0, span_deg })
            }
            Self::Overlay { hole, to } => batter(Outline::Ring { inner: hole, outer: EDGE * to }),
            Self::Cover { depth } => batter(Outline::Segment { angle_deg, depth }),
            Self::Centre { radius } => batter(Outline::Disc { radius: 0.0, angle_deg: 0.0, size: radius / a }),
            Self::LooseRing { span_deg } => {
                let outer = 1.0 - metres(1.0) / a;
                let inner = outer - metres(1.0) / a;
                lower(if span_deg < 360.0 { Outline::Arc { inner, outer, angle_deg, span_deg } } else { Outline::Ring { inner, outer } })
            }
            Self::Balls { count, radius: size } => {
                let turn = 360.0 / count as f64;
                let ball = |i: usize| Outline::Disc { radius: BALLS_AT, angle_deg: turn * i as f64, size: size / a };
                (0..count).map(|i| patch(HeadSide::Lower, ball(i))).collect()
            }
            Self::Across { width, off_centre, heads } => {
                let length = 2.0 * (1.0 - off_centre * off_centre).sqrt();
                let strip = Outline::Strip { radius: off_centre, angle_deg, length, width: width / a };
                heads.iter().map(|side| patch(*side, strip)).collect()
            }
            Self::Fill { batter, front } => [(HeadSide::Batter, batter), (HeadSide::Lower, front)]
                .into_iter()
                .filter(|(_, depth)| *depth > 0.0)
                .map(|(side, depth)| patch(side, Outline::Segment { angle_deg: 0.0, depth }))
                .collect(),
            Self::Tube { width } => {
                [HeadSide::Batter, HeadSide::Lower].map(|side| patch(side, Outline::Ring { inner: EDGE - width / a, outer: EDGE })).to_vec()
            }
        }
    }
}
