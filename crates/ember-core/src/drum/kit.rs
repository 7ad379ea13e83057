//! Drums as the user describes them.

use super::head::Head;
use super::invalid::{DrumFigure, InvalidDrum};
use super::own_wish::OwnWish;
use super::port::{self, Port};
use crate::tone::HeardBy;
use crate::units::metres;
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// Fewest rods with which enough of a head stays held when some are let slack (common practice, no published source).
pub const FEWEST_RODS: usize = 6;

/// What a drum is played as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum DrumKind {
    /// A snare drum.
    Snare,
    /// A tom.
    Tom,
    /// A floor tom.
    FloorTom,
    /// A bass drum that a pedal strikes.
    Kick,
    /// A floor tom that a pedal strikes.
    SecondKick,
    /// A tom with one head.
    ConcertTom,
    /// A large bass drum on a stand, for low, long notes.
    ConcertBass,
    /// A bass drum that is carried.
    MarchingBass,
    /// A drum struck with the hand, its head on a frame or a deep shell.
    HandDrum,
    /// A small cymbal for short accents.
    Splash,
    /// A cymbal for accents, struck at its edge.
    Crash,
    /// A cymbal that carries the time, struck on its bow and its bell.
    Ride,
    /// A cymbal with its edge turned up: short and harsh.
    China,
    /// Any other cymbal on its stand.
    Cymbal,
    /// Two cymbals on a pedal.
    HiHat,
    /// Anything else that is struck: known by what was measured on it alone.
    Other,
}

/// The part of a kit that a kind of drum plays, for which genres say what they want.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Role {
    /// The snare.
    Snare,
    /// A tom.
    Tom,
    /// The floor tom.
    FloorTom,
    /// The kick.
    Kick,
    /// A cymbal.
    Cymbal,
    /// The hi-hat.
    HiHat,
}

impl DrumKind {
    /// All kinds.
    pub const ALL: [Self; 16] = [
        Self::Snare,
        Self::Tom,
        Self::FloorTom,
        Self::Kick,
        Self::SecondKick,
        Self::ConcertTom,
        Self::ConcertBass,
        Self::MarchingBass,
        Self::HandDrum,
        Self::Splash,
        Self::Crash,
        Self::Ride,
        Self::China,
        Self::Cymbal,
        Self::HiHat,
        Self::Other,
    ];
    /// Those of an ordinary kit.
    pub const OF_A_KIT: [Self; 4] = [Self::Snare, Self::Tom, Self::FloorTom, Self::Kick];
}

/// Where a cymbal is struck, or how far a hi-hat is open: the same metal sounds otherwise each time, and is measured each time by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Struck {
    /// On the bow, between bell and edge.
    Bow,
    /// At the edge.
    Edge,
    /// On the bell.
    Bell,
    /// A hi-hat that is open.
    Open,
    /// A hi-hat whose cymbals just touch.
    HalfOpen,
    /// A hi-hat that a foot holds shut.
    Closed,
}

impl Struck {
    /// All of them.
    pub const ALL: [Self; 6] = [Self::Bow, Self::Edge, Self::Bell, Self::Open, Self::HalfOpen, Self::Closed];

    /// As it is said of a sound.
    pub fn words(self) -> Text {
        match self {
            Self::Bow => text!("on the bow"),
            Self::Edge => text!("at the edge"),
            Self::Bell => text!("on the bell"),
            Self::Open => text!("open"),
            Self::HalfOpen => text!("half open"),
            Self::Closed => text!("closed"),
        }
    }

    /// The code used in JSON and SQL.
    pub fn code(self) -> &'static str {
        match self {
            Self::Bow => "bow",
            Self::Edge => "edge",
            Self::Bell => "bell",
            Self::Open => "open",
            Self::HalfOpen => "half_open",
            Self::Closed => "closed",
        }
    }
}

/// What already lies in a drum and stays there: all that is measured is measured with it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Inside {
    /// A pillow.
    Pillow,
    /// A folded blanket or a towel.
    Blanket,
    /// Foam.
    Foam,
    /// A loose ring.
    Ring,
    /// Cotton balls or the like.
    Cotton,
    /// Something else.
    Something,
}

impl Inside {
    /// All of them.
    pub const ALL: [Self; 6] = [Self::Pillow, Self::Blanket, Self::Foam, Self::Ring, Self::Cotton, Self::Something];

    /// The code used in JSON and SQL.
    pub fn code(self) -> &'static str {
        match self {
            Self::Pillow => "pillow",
            Self::Blanket => "blanket",
            Self::Foam => "foam",
            Self::Ring => "ring",
            Self::Cotton => "cotton",
            Self::Something => "something",
        }
    }

    /// What it is, in a sentence.
    pub fn words(self) -> Text {
        match self {
            Self::Pillow => text!("a pillow"),
            Self::Blanket => text!("a blanket"),
            Self::Foam => text!("foam"),
            Self::Ring => text!("a loose ring"),
            Self::Cotton => text!("cotton balls"),
            Self::Something => text!("something"),
        }
    }
}

/// What the shell is made of. Kept for its owner; no figure rests on it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Shell {
    /// Wood.
    #[default]
    Wood,
    /// Metal.
    Metal,
    /// Plastic.
    Plastic,
}

/// What the hoops are. They decide how seating is done, and how sharp a rim shot is; no figure rests on them.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Hoops {
    /// Pressed metal.
    #[default]
    PressedMetal,
    /// Cast metal.
    CastMetal,
    /// Wood.
    Wood,
}

/// How tight snare wires are.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WireTension {
    /// Loose.
    Loose,
    /// Neither loose nor tight.
    #[default]
    Medium,
    /// Tight.
    Tight,
}

/// Snare wires that lie on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wires {
    /// How many wires there are.
    pub strands: u8,
    /// How tight they are.
    pub tension: WireTension,
}

/// One drum: what its owner knows about it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Drum {
    /// What it is called.
    #[serde(deserialize_with = "crate::plain_text::name")]
    pub name: String,
    /// Which kind it is.
    pub kind: DrumKind,
    /// Diameter, in.
    pub diameter_in: f64,
    /// Depth, in.
    pub depth_in: f64,
    /// How many lugs it has.
    pub lugs: u8,
    /// The head that is struck.
    pub batter: Head,
    /// The lower head, or the front head of a kick; none where it is off.
    pub lower: Option<Head>,
    /// What the shell is made of.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub shell: Shell,
    /// What the hoops are.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub hoops: Hoops,
    /// Holes in the lower or front head.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub ports: Vec<Port>,
    /// Whether the lower or front head is a mesh that lets all air through.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub lower_mesh: bool,
    /// Air vents in the shell.
    #[serde(default = "one_vent")]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub vents: u8,
    /// Snare wires; none where there are none or they are off.
    #[serde(default)]
    pub wires: Option<Wires>,
    /// What it weighs, g, of a cymbal (of a hi-hat: the upper one) or of what moves of another drum; none where it was not weighed.
    #[serde(default)]
    pub weight_g: Option<f64>,
    /// What there is too much of, of a cymbal or hi-hat; none where it is left alone, as most are.
    #[serde(default)]
    pub too_much: Option<TooMuch>,
    /// Whether it only plays along, a pad or a cowbell perhaps: it is neither measured nor muffled.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub plays_along: bool,
    /// What its player wants of it, whatever is played; null where the genre decides alone.
    #[serde(default)]
    pub own_wish: Option<OwnWish>,
    /// Where a cymbal is struck, or how far a hi-hat is open; null as it is usual for its kind.
    #[serde(default)]
    pub struck: Option<Struck>,
    /// What already lies in it and stays there; null where it is empty.
    #[serde(default)]
    pub inside: Option<Inside>,
    /// Whether a second, shallow shell stands before its front head.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub second_shell: bool,
}

/// What a player may hear too much of in a cymbal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum TooMuch {
    /// It sounds on too long.
    Wash,
    /// What lies high in it sounds on too long.
    Brightness,
    /// It is too loud.
    Loudness,
}

fn one_vent() -> u8 {
    1
}

impl Drum {
    /// Checks every figure against what drums can have.
    pub fn validate(&self) -> Result<(), InvalidDrum> {
        let within = |figure: DrumFigure, value: f64, low: f64, high: f64| {
            let is_within = value.is_finite() && (low..=high).contains(&value);
            if is_within { Ok(()) } else { Err(InvalidDrum::OutOfRange { figure, low, high }) }
        };
        if self.name.trim().is_empty() || self.name.chars().count() > 60 {
            return Err(InvalidDrum::Name);
        }
        within(DrumFigure::Diameter, self.diameter_in, 6.0, 42.0)?;
        if let Some(weight_g) = self.weight_g {
            within(DrumFigure::Weight, weight_g, 10.0, 10_000.0)?;
        }
        if let Some(wish) = self.own_wish {
            wish.validate()?;
        }
        let kind = self.kind;
        if let Some(struck) = self.struck.filter(|struck| !kind.ways_to_strike().contains(struck)) {
            return Err(InvalidDrum::NotStruckSo { kind, struck });
        }
        if !kind.has_heads() {
            return Ok(());
        }
        if self.second_shell && !kind.is_upright() {
            return Err(InvalidDrum::SecondShell);
        }
        within(DrumFigure::Depth, self.depth_in, 2.0, 40.0)?;
        within(DrumFigure::Lugs, f64::from(self.lugs), 1.0, 16.0)?;
        within(DrumFigure::Vents, f64::from(self.vents), 0.0, 20.0)?;
        if let Some(wires) = self.wires {
            within(DrumFigure::Strands, f64::from(wires.strands), 1.0, 60.0)?;
        }
        self.batter.validate(text!("batter head"))?;
        if let Some(lower) = self.lower {
            lower.validate(kind.lower_head_word())?;
        }
        match (self.lower, self.ports.as_slice()) {
            (_, []) => Ok(()),
            (None, _) => Err(InvalidDrum::HoleWithoutHead { kind }),
            (Some(_), _) if self.lower_mesh => Err(InvalidDrum::HoleInMesh { kind }),
            (Some(_), ports) => Ok(port::validate(ports, self.diameter_in, kind.lower_head_word())?),
        }
    }

    /// Radius of the heads, m.
    pub fn radius(&self) -> f64 {
        metres(self.diameter_in) / 2.0
    }

    /// Room between the heads, l.
    pub fn litres(&self) -> f64 {
        1000.0 * PI * self.radius().powi(2) * self.depth()
    }

    /// Distance between the heads, m.
    pub fn depth(&self) -> f64 {
        metres(self.depth_in)
    }

    /// How it is struck, where it is struck otherwise than is usual for its kind: takes are kept apart by it.
    pub fn struck_otherwise(&self) -> Option<Struck> {
        self.struck.filter(|struck| self.kind.ways_to_strike().first() != Some(struck))
    }

    /// How it is struck; none of what is not metal.
    pub fn how_struck(&self) -> Option<Struck> {
        self.struck.or(self.kind.ways_to_strike().first().copied())
    }

    /// What is measured of a strike on it. A kick without its front head is still heard by its lowest tone, which the beater makes.
    pub fn heard_by(&self) -> HeardBy {
        let one_head = self.kind.has_heads() && self.kind.role() != Role::Kick && self.lower_film().is_none();
        match (self.kind.is_metal(), one_head) {
            (true, _) => HeardBy::Octaves,
            (false, true) => HeardBy::OneHead,
            (false, false) => HeardBy::Partials,
        }
    }

    /// Where the batter head of such a drum usually has its own lowest pitch, the lower head's motion left out, Hz (common
    /// practice, no published source).
    pub fn usual_batter_hz(&self) -> f64 {
        self.kind.info().hertz_inches / self.diameter_in
    }

    /// What a body at `hz` says against being such a drum's; none where it may well be (from experience: an octave and a little about the usual pitch,
    /// which the lower head's motion and tuning leave room for).
    pub fn far_from_usual(&self, hz: f64) -> Option<Words> {
        let usual = self.kind.pitch_at(self.kind.info().hertz_inches, self.diameter_in);
        let near = (0.45..2.3).contains(&(hz / usual)) || self.kind.is_metal();
        (!near).then(|| {
            let name = self.kind.word();
            words!(
                "A {name} of {} in usually sounds near {usual:.0} Hz; a body at {hz:.0} Hz is far off. Is it another drum?",
                self.diameter_in
            )
        })
    }

    /// Losses that heads of such a drum usually have: amplitude decay rate of slow motion, 1/s, and what each squared wave number
    /// adds, m2/s (from experience, no source).
    pub fn usual_losses(&self) -> (f64, f64) {
        self.kind.info().losses
    }

    /// Moving mass per area of `head`, kg/m2: the head itself and the air it carries along. The air is that of a piston of the
    /// head's size, 8 rho a / (3 pi) a side (Fletcher & Rossing, The Physics of Musical Instruments, 8.3), of which the
    /// lowest modes, averaged, move about 0.6.
    pub fn areal_mass(&self, head: Head) -> f64 {
        let piston = 8.0 * crate::physics::AIR_DENSITY * self.radius() / (3.0 * PI);
        head.areal_mass() + 0.6 * piston
    }
}
