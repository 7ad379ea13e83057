//! Heads: what they are made of, and what that does to pitch and decay.

use super::invalid::InvalidHead;
use crate::physics::FILM_DENSITY;
use ember_words::{Joined, Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// Thickness unit of drum heads, m.
pub const MIL: f64 = 25.4e-6;
/// Mass of a coat of paint, and of the oil between two plies, kg/m2 (from experience, no source).
const COAT_MASS: f64 = 0.03;
const OIL_MASS: f64 = 0.06;
/// A dot: its radius in parts of the head's, and its mass, kg/m2: film of 10 mil.
const DOT_RADIUS: f64 = 0.3;
/// Mass of a built-in dot, kg/m2.
pub const DOT_MASS: f64 = 10.0 * MIL * FILM_DENSITY;
/// A patch where a beater lands: its radius, m, and its mass, kg/m2: film of 10 mil.
const PATCH_RADIUS: f64 = 0.03;
/// Mass of a patch, kg/m2.
const PATCH_MASS: f64 = 10.0 * MIL * FILM_DENSITY;
/// Inner edge of a ring built in at the rim, in parts of the head's radius.
pub const EDGE_RING_FROM: f64 = 0.86;

/// One head.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Head {
    /// Film thickness of all plies together, thousandths of an inch.
    pub film_mil: f64,
    /// 1 or 2.
    #[serde(default = "one")]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub plies: u8,
    /// Whether it has a coat of paint.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub coated: bool,
    /// A ring built in at the edge.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub edge_ring: bool,
    /// A dot in the middle.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub dot: bool,
    /// Oil between its plies.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub oil: bool,
    /// Put on inside out: its smooth side is the one that is played, whatever coat it has.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub inside_out: bool,
    /// A patch of film in the middle, where beater or stick lands.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub patch: bool,
    /// How long it has been played, h.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub played_h: f64,
}

fn one() -> u8 {
    1
}

/// What a head can have that changes how it decays.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HeadTrait {
    /// It has a second ply.
    SecondPly,
    /// It is coated.
    Coating,
    /// A ring is built in at its edge.
    EdgeRing,
    /// A dot is built in in its middle.
    Dot,
    /// There is oil between its plies.
    Oil,
    /// Counted in hundreds of hours of playing.
    Wear,
}

impl HeadTrait {
    /// All traits.
    pub const ALL: [Self; 6] = [Self::SecondPly, Self::Coating, Self::EdgeRing, Self::Dot, Self::Oil, Self::Wear];
}

/// Heads that take up a device alike.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum HeadFamily {
    /// One ply.
    SinglePly,
    /// Two plies.
    DoublePly,
    /// With an edge ring, a dot or oil built in.
    BuiltIn,
}

impl HeadFamily {
    /// All families.
    pub const ALL: [Self; 3] = [Self::SinglePly, Self::DoublePly, Self::BuiltIn];

    /// Of `head`.
    pub fn of(head: &Head) -> Self {
        match head {
            Head { edge_ring: true, .. } | Head { dot: true, .. } | Head { oil: true, .. } => Self::BuiltIn,
            Head { plies: 0..=1, .. } => Self::SinglePly,
            _ => Self::DoublePly,
        }
    }
}

impl Head {
    /// A new clear head of one ply.
    pub const fn plain(film_mil: f64) -> Self {
        Self { film_mil, plies: 1, coated: false, edge_ring: false, dot: false, oil: false, inside_out: false, patch: false, played_h: 0.0 }
    }

    /// A new clear head of two plies, `film_mil` both together.
    pub const fn double(film_mil: f64) -> Self {
        Self { plies: 2, ..Self::plain(film_mil) }
    }

    /// How much of each trait it has, in the order of [`HeadTrait::ALL`].
    pub fn traits(self) -> [f64; 6] {
        let has = |it: bool| f64::from(u8::from(it));
        [has(self.plies > 1), has(self.coated), has(self.edge_ring), has(self.dot), has(self.oil), self.played_h / 100.0]
    }

    /// Mass per area that every mode moves, kg/m2, without air: film, coat and oil. A dot and a ring built in lie where only some
    /// modes move.
    pub fn areal_mass(self) -> f64 {
        let coat = if self.coated { COAT_MASS } else { 0.0 };
        let oil = if self.oil { OIL_MASS } else { 0.0 };
        self.film_mil * MIL * FILM_DENSITY + coat + oil
    }

    /// What lies on its middle: mass, kg/m2, out to a part of the radius `a`, m.
    pub(crate) fn in_the_middle(self, a: f64) -> impl Iterator<Item = (f64, f64)> {
        let dot = self.dot.then_some((DOT_MASS, DOT_RADIUS));
        let patch = self.patch.then_some((PATCH_MASS, PATCH_RADIUS / a));
        dot.into_iter().chain(patch)
    }

    /// What it is, in words: "double ply, 14 mil, coated, dot".
    pub fn words(self) -> Words {
        let make = words!("{} ply, {} mil, {}", if self.plies > 1 { text!("double") } else { text!("single") }, self.film_mil, {
            if self.coated { text!("coated") } else { text!("clear") }
        });
        let traits = [
            (self.edge_ring, text!("edge ring")),
            (self.dot, text!("dot")),
            (self.oil, text!("oil")),
            (self.patch, text!("patch in the middle")),
            (self.inside_out, text!("inside out")),
        ];
        let traits = traits.into_iter().filter(|(has, _)| *has).map(|(_, word)| word.words());
        Words::list(Joined::Comma, std::iter::once(make).chain(traits))
    }

    /// Checks every figure of it; `which` head it is.
    pub(super) fn validate(self, which: Text) -> Result<(), InvalidHead> {
        let within = |value: f64, low: f64, high: f64| value.is_finite() && (low..=high).contains(&value);
        if !within(self.film_mil, 2.0, 40.0) {
            Err(InvalidHead::Film { which })
        } else if !(1..=2).contains(&self.plies) {
            Err(InvalidHead::Plies { which })
        } else if self.oil && self.plies < 2 {
            Err(InvalidHead::Oil { which })
        } else if !within(self.played_h, 0.0, 20_000.0) {
            Err(InvalidHead::Played { which })
        } else {
            Ok(())
        }
    }
}
