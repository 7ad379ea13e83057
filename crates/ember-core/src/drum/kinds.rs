//! What is known of each kind of drum: one row a kind.

use super::head::Head;
use super::kit::{Drum, DrumKind, Hoops, Role, Shell, Struck, WireTension, Wires};
use ember_words::{Text, Words, text};

/// What is known of a kind of drum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct KindInfo {
    /// Which kind it is.
    pub kind: DrumKind,
    /// The word for it in a sentence.
    pub word: Text,
    /// The part of a kit that it plays.
    pub role: Role,
    /// What it is, and how it is played.
    pub nature: Nature,
    /// The word for its second head.
    pub lower_head_word: Text,
    /// What such a drum usually is.
    pub usual: Usual,
    /// Where the batter head usually has its own lowest pitch, the lower head's motion left out, Hz times inches of diameter (common practice, no
    /// published source).
    pub hertz_inches: f64,
    /// The same of its body as it is usually tuned; none where nothing can be tuned (from experience, no published source).
    pub body_hertz_inches: Option<f64>,
    /// Losses that its heads usually have: amplitude decay rate of slow motion, 1/s, and what each squared wave number adds, m2/s (from
    /// experience, no source).
    pub losses: (f64, f64),
}

/// What a kind of drum is, and how it is played.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Nature {
    /// Heads on a shell, struck with sticks, brushes or hands from above.
    Laid,
    /// The same, upright, struck by a pedal.
    Pedalled,
    /// Heads on a shell that stands as toms do, struck by a pedal from below.
    PedalledFromBelow,
    /// The same upright, struck by hand with a beater: its note is ended by hand or knee.
    Carried,
    /// A plate of metal.
    Metal,
    /// Anything else.
    Unknown,
}

/// Sizes and heads that a kind of drum usually has.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Usual {
    diameter_in: f64,
    depth_in: f64,
    lugs: u8,
    batter: Film,
    lower: Option<Film>,
    vents: u8,
    strands: u8,
}

/// A head by its film: thickness of all plies together, mil, how many plies, and whether it is coated.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Film(f64, u8, bool);

const THIN: Film = Film(3.0, 1, false);
const SINGLE: Film = Film(10.0, 1, false);
const COATED: Film = Film(10.0, 1, true);
const MARCHING: Film = Film(12.0, 1, false);
const DOUBLE: Film = Film(14.0, 2, false);

impl Film {
    fn head(self) -> Head {
        let Self(mil, plies, coated) = self;
        let head = if plies > 1 { Head::double(mil) } else { Head::plain(mil) };
        Head { coated, ..head }
    }
}

const fn usual(diameter_in: f64, depth_in: f64, lugs: u8, batter: Film, lower: Option<Film>) -> Usual {
    Usual { diameter_in, depth_in, lugs, batter, lower, vents: 1, strands: 0 }
}

/// A kind of cymbal that is usually so large, in.
const fn metal(kind: DrumKind, word: Text, diameter_in: f64) -> KindInfo {
    KindInfo {
        kind,
        word,
        role: Role::Cymbal,
        nature: Nature::Metal,
        lower_head_word: text!("lower head"),
        usual: usual(diameter_in, 2.0, 1, SINGLE, None),
        // It has no head: the octave in which its undertone lies.
        hertz_inches: 3200.0,
        body_hertz_inches: None,
        losses: (5.0, 0.005),
    }
}

/// One row for each kind, in the order of [`DrumKind::ALL`]. Sizes and heads: common practice, no published source.
const ROWS: [KindInfo; 16] = [
    KindInfo {
        kind: DrumKind::Snare,
        word: text!("snare"),
        role: Role::Snare,
        nature: Nature::Laid,
        lower_head_word: text!("lower head"),
        usual: Usual { strands: 20, ..usual(14.0, 5.5, 10, COATED, Some(THIN)) },
        hertz_inches: 2600.0,
        body_hertz_inches: Some(2900.0),
        losses: (8.0, 0.004),
    },
    KindInfo {
        kind: DrumKind::Tom,
        word: text!("tom"),
        role: Role::Tom,
        nature: Nature::Laid,
        lower_head_word: text!("lower head"),
        usual: usual(12.0, 8.0, 6, SINGLE, Some(SINGLE)),
        hertz_inches: 1620.0,
        body_hertz_inches: Some(1450.0),
        losses: (3.3, 0.0035),
    },
    KindInfo {
        kind: DrumKind::FloorTom,
        word: text!("floor tom"),
        role: Role::FloorTom,
        nature: Nature::Laid,
        lower_head_word: text!("lower head"),
        usual: usual(16.0, 16.0, 8, DOUBLE, Some(SINGLE)),
        hertz_inches: 1480.0,
        body_hertz_inches: Some(1450.0),
        losses: (3.3, 0.0035),
    },
    KindInfo {
        kind: DrumKind::Kick,
        word: text!("kick"),
        role: Role::Kick,
        nature: Nature::Pedalled,
        lower_head_word: text!("front head"),
        usual: usual(22.0, 16.0, 8, DOUBLE, Some(SINGLE)),
        hertz_inches: 1250.0,
        body_hertz_inches: Some(1200.0),
        losses: (5.0, 0.010),
    },
    KindInfo {
        kind: DrumKind::SecondKick,
        word: text!("floor tom as a kick"),
        role: Role::Kick,
        nature: Nature::PedalledFromBelow,
        lower_head_word: text!("lower head"),
        usual: usual(16.0, 16.0, 8, SINGLE, Some(SINGLE)),
        // Low, below what a floor tom has.
        hertz_inches: 1340.0,
        body_hertz_inches: Some(1300.0),
        losses: (3.3, 0.0035),
    },
    KindInfo {
        kind: DrumKind::ConcertTom,
        word: text!("concert tom"),
        role: Role::Tom,
        nature: Nature::Laid,
        lower_head_word: text!("lower head"),
        usual: usual(13.0, 10.0, 6, SINGLE, None),
        // Tuned higher than with a lower head.
        hertz_inches: 1900.0,
        body_hertz_inches: Some(1700.0),
        losses: (3.3, 0.0035),
    },
    KindInfo {
        kind: DrumKind::ConcertBass,
        word: text!("concert bass drum"),
        role: Role::Kick,
        nature: Nature::Carried,
        lower_head_word: text!("other head"),
        usual: usual(36.0, 18.0, 12, SINGLE, Some(SINGLE)),
        hertz_inches: 1300.0,
        body_hertz_inches: Some(1300.0),
        losses: (2.0, 0.008),
    },
    KindInfo {
        kind: DrumKind::MarchingBass,
        word: text!("marching bass drum"),
        role: Role::Kick,
        nature: Nature::Carried,
        lower_head_word: text!("other head"),
        usual: usual(24.0, 14.0, 10, MARCHING, Some(MARCHING)),
        hertz_inches: 1750.0,
        body_hertz_inches: Some(1700.0),
        losses: (5.0, 0.010),
    },
    KindInfo {
        kind: DrumKind::HandDrum,
        word: text!("hand drum"),
        role: Role::Tom,
        nature: Nature::Laid,
        lower_head_word: text!("lower head"),
        usual: Usual { vents: 0, ..usual(14.0, 3.0, 8, SINGLE, None) },
        hertz_inches: 1700.0,
        body_hertz_inches: Some(1300.0),
        losses: (5.0, 0.005),
    },
    metal(DrumKind::Splash, text!("splash"), 10.0),
    metal(DrumKind::Crash, text!("crash"), 16.0),
    metal(DrumKind::Ride, text!("ride"), 20.0),
    metal(DrumKind::China, text!("china cymbal"), 18.0),
    metal(DrumKind::Cymbal, text!("cymbal"), 16.0),
    KindInfo { role: Role::HiHat, ..metal(DrumKind::HiHat, text!("hi-hat"), 14.0) },
    KindInfo {
        kind: DrumKind::Other,
        word: text!("other drum"),
        role: Role::Tom,
        nature: Nature::Unknown,
        lower_head_word: text!("lower head"),
        usual: usual(12.0, 4.0, 1, SINGLE, None),
        hertz_inches: 1700.0,
        body_hertz_inches: None,
        losses: (5.0, 0.005),
    },
];

/// Kicks smaller than usual sit higher than their size alone makes them, and larger ones lower (common practice, no published source: 18 and 16 in are
/// played small and high): what is said to be usual goes as this power of the diameter, where other drums' pitch goes as its inverse. The simulated drum and the
/// priors are not tuned by it.
const KICK_PITCH_POWER: f64 = -1.6;

impl DrumKind {
    /// What is known of it.
    pub const fn info(self) -> &'static KindInfo {
        &ROWS[self as usize]
    }

    /// Pitch at `diameter_in` of what lies at `hertz_inches` in such a drum of usual size, Hz.
    pub(crate) fn pitch_at(self, hertz_inches: f64, diameter_in: f64) -> f64 {
        let usual_in = self.info().usual.diameter_in;
        let power = if self == Self::Kick { KICK_PITCH_POWER } else { -1.0 };
        hertz_inches / usual_in * (diameter_in / usual_in).powf(power)
    }

    /// The word for it in a sentence.
    pub fn word(self) -> Text {
        self.info().word
    }

    /// The same with a capital letter, as it heads a list.
    pub fn name(self) -> Words {
        self.word().capital()
    }

    /// The part of a kit that it plays.
    pub fn role(self) -> Role {
        self.info().role
    }

    /// Whether a pedal strikes it.
    pub fn has_pedal(self) -> bool {
        matches!(self.info().nature, Nature::Pedalled | Nature::PedalledFromBelow)
    }

    /// Whether it is a plate of metal instead of a head on a shell.
    pub fn is_metal(self) -> bool {
        self.info().nature == Nature::Metal
    }

    /// The ways to strike it that sound like different things, the usual one first; none for what is not metal.
    pub fn ways_to_strike(self) -> &'static [Struck] {
        match self {
            Self::HiHat => &[Struck::Open, Struck::HalfOpen, Struck::Closed],
            Self::Ride => &[Struck::Bow, Struck::Bell, Struck::Edge],
            Self::Splash | Self::Crash | Self::China | Self::Cymbal => &[Struck::Edge, Struck::Bow, Struck::Bell],
            _ => &[],
        }
    }

    /// Whether it has heads with rods, of which this program knows how they move: only such drums are tuned here.
    pub fn has_heads(self) -> bool {
        !matches!(self.info().nature, Nature::Metal | Nature::Unknown)
    }

    /// Whether it stands or hangs with its head upright, the floor below.
    pub fn is_upright(self) -> bool {
        matches!(self.info().nature, Nature::Pedalled | Nature::Carried)
    }

    /// Whether its note is ended by hand or knee, as long as it is written.
    pub fn is_damped_by_hand(self) -> bool {
        self.info().nature == Nature::Carried
    }

    /// The word for its second head.
    pub fn lower_head_word(self) -> Text {
        self.info().lower_head_word
    }
}

impl Drum {
    /// What a drum of `kind` usually is.
    pub fn usual(kind: DrumKind) -> Self {
        let Usual { diameter_in, depth_in, lugs, batter, lower, vents, strands } = kind.info().usual;
        Self {
            name: kind.name().to_string(),
            kind,
            diameter_in,
            depth_in,
            lugs,
            batter: batter.head(),
            lower: lower.map(Film::head),
            shell: Shell::Wood,
            hoops: Hoops::PressedMetal,
            ports: Vec::new(),
            lower_mesh: false,
            vents,
            wires: (strands > 0).then_some(Wires { strands, tension: WireTension::Medium }),
            weight_g: None,
            too_much: None,
            plays_along: false,
            own_wish: None,
            struck: None,
            inside: None,
            second_shell: false,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_has_its_row_and_a_usual_drum_that_can_be() {
        for (kind, row) in DrumKind::ALL.into_iter().zip(&ROWS) {
            assert_eq!((row.kind, kind.info().kind), (kind, kind), "a row is found by its place");
            assert_eq!(Drum::usual(kind).validate(), Ok(()), "{kind:?}");
        }
    }

    /// "18 and 16 in are jazz and small rooms and sit higher" (common practice, no published source).
    #[test]
    fn small_kicks_sit_higher_than_their_size_alone_makes_them() {
        let hz = |kind: DrumKind, diameter_in: f64| kind.pitch_at(kind.info().hertz_inches, diameter_in);
        assert!((hz(DrumKind::Kick, 22.0) - 1250.0 / 22.0).abs() < 1e-9);
        assert!((72.0..90.0).contains(&hz(DrumKind::Kick, 18.0)) && hz(DrumKind::Kick, 24.0) < 1250.0 / 24.0);
        assert!((hz(DrumKind::Tom, 10.0) - 162.0).abs() < 1e-9, "toms as their size has it");
    }
}
