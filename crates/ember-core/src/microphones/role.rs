//! What a microphone is there for, and which of them hear the same drum.

use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// Where a microphone stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Microphone {
    /// Inside the kick, near the beater.
    KickIn,
    /// Before the kick's front head.
    KickOut,
    /// At the snare's batter head.
    SnareTop,
    /// At the snare's wires.
    SnareBottom,
    /// At a tom.
    Tom,
    /// At a floor tom.
    FloorTom,
    /// At the hi-hat.
    HiHat,
    /// At the ride.
    Ride,
    /// Above the kit, on the left as the audience sees it.
    OverheadLeft,
    /// The same on the right.
    OverheadRight,
    /// Away from the kit.
    Room,
    /// Something else, such as a talkback.
    Other,
}

impl Microphone {
    /// All of them.
    pub const ALL: [Self; 12] = [
        Self::KickIn,
        Self::KickOut,
        Self::SnareTop,
        Self::SnareBottom,
        Self::Tom,
        Self::FloorTom,
        Self::HiHat,
        Self::Ride,
        Self::OverheadLeft,
        Self::OverheadRight,
        Self::Room,
        Self::Other,
    ];

    /// What it is called.
    pub fn name(self) -> Text {
        match self {
            Self::KickIn => text!("kick in"),
            Self::KickOut => text!("kick out"),
            Self::SnareTop => text!("snare top"),
            Self::SnareBottom => text!("snare bottom"),
            Self::Tom => text!("tom mic"),
            Self::FloorTom => text!("floor tom mic"),
            Self::HiHat => text!("hi-hat mic"),
            Self::Ride => text!("ride mic"),
            Self::OverheadLeft => text!("overhead left"),
            Self::OverheadRight => text!("overhead right"),
            Self::Room => text!("room mic"),
            Self::Other => text!("something else"),
        }
    }

    /// The microphone that a channel's name means ("Kick In", "SN bot", "OH L"); none where nobody knows.
    pub fn read(name: &str) -> Option<Self> {
        let name = name.to_lowercase();
        let words: Vec<&str> = name.split(|letter: char| !letter.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
        let has = |all: &[&str]| words.iter().any(|word| all.iter().any(|each| word.trim_end_matches(char::is_numeric) == *each));
        let overhead = has(&["overhead", "overheads", "oh", "ovh"]);
        match () {
            () if overhead && has(&["r", "right", "rechts"]) => Some(Self::OverheadRight),
            () if overhead || has(&["ohl"]) => Some(Self::OverheadLeft),
            () if has(&["ohr"]) => Some(Self::OverheadRight),
            () if has(&["kick", "bd", "kik", "bassdrum"]) && has(&["out", "front", "outside", "sub"]) => Some(Self::KickOut),
            () if has(&["kick", "bd", "kik", "bassdrum"]) => Some(Self::KickIn),
            () if has(&["snare", "sn", "sd"]) && has(&["bottom", "bot", "btm", "under", "wires", "lower"]) => Some(Self::SnareBottom),
            () if has(&["snare", "sn", "sd"]) => Some(Self::SnareTop),
            () if has(&["floor", "ft", "standtom"]) => Some(Self::FloorTom),
            () if has(&["tom", "t", "rack"]) => Some(Self::Tom),
            () if has(&["hat", "hh", "hihat", "hats"]) => Some(Self::HiHat),
            () if has(&["ride"]) => Some(Self::Ride),
            () if has(&["room", "amb", "ambience", "raum"]) => Some(Self::Room),
            () => None,
        }
    }

    /// What stands on the other side of the same drum.
    pub fn other_side(self) -> Option<Self> {
        match self {
            Self::KickIn => Some(Self::KickOut),
            Self::KickOut => Some(Self::KickIn),
            Self::SnareTop => Some(Self::SnareBottom),
            Self::SnareBottom => Some(Self::SnareTop),
            _ => None,
        }
    }

    /// Whether it stands at one drum, so that this drum is loudest in it.
    pub fn is_close(self) -> bool {
        matches!(self, Self::KickIn | Self::KickOut | Self::SnareTop | Self::SnareBottom | Self::Tom | Self::FloorTom)
    }
}

/// Two channels, by their numbers, that hear the same drum: hits are looked for in the first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PairOfRoles {
    /// The one that stands nearer.
    pub first: usize,
    /// The other one.
    pub second: usize,
}

/// Left and right overhead, and the channel that tells the snare's hits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Overheads {
    /// The snare's microphone.
    pub snare: usize,
    /// The left one.
    pub left: usize,
    /// The right one.
    pub right: usize,
}

/// Pairs among the `channels` that are worth a look: two at one drum, and each close one with each overhead.
pub fn pairs(channels: &[Microphone]) -> Vec<PairOfRoles> {
    let mut found = Vec::new();
    for (first, one) in channels.iter().enumerate() {
        for (second, other) in channels.iter().enumerate() {
            let at_one_drum =
                matches!((one, other), (Microphone::KickIn, Microphone::KickOut) | (Microphone::SnareTop, Microphone::SnareBottom));
            let from_above = one.is_close()
                && !matches!(one, Microphone::KickOut | Microphone::SnareBottom)
                && matches!(other, Microphone::OverheadLeft | Microphone::OverheadRight);
            if at_one_drum || from_above {
                found.push(PairOfRoles { first, second });
            }
        }
    }
    found.sort_by_key(|pair| (!matches!(channels[pair.second], Microphone::KickOut | Microphone::SnareBottom), pair.first, pair.second));
    found
}

/// Of the `channels` those that stand nearest to one drum each: a kick's inner microphone before its outer one, a snare's upper before its lower one.
pub fn nearest(channels: &[Microphone]) -> Vec<usize> {
    let has = |role: Microphone| channels.contains(&role);
    let is_nearest = |role: &Microphone| match role {
        Microphone::KickOut => !has(Microphone::KickIn),
        Microphone::SnareBottom => !has(Microphone::SnareTop),
        role => role.is_close(),
    };
    (0..channels.len()).filter(|channel| is_nearest(&channels[*channel])).collect()
}

/// Of the `channels` one that hears the whole kit from above, or from the room where there is none; none where neither is.
pub fn above(channels: &[Microphone]) -> Option<usize> {
    let at = |role: Microphone| channels.iter().position(|channel| *channel == role);
    at(Microphone::OverheadLeft).or_else(|| at(Microphone::OverheadRight)).or_else(|| at(Microphone::Room))
}

/// Both overheads and the snare's microphone among the `channels`; none where one of them is missing.
pub fn overheads(channels: &[Microphone]) -> Option<Overheads> {
    let at = |role: Microphone| channels.iter().position(|other| *other == role);
    Some(Overheads { snare: at(Microphone::SnareTop)?, left: at(Microphone::OverheadLeft)?, right: at(Microphone::OverheadRight)? })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_channels_are_understood() {
        use Microphone::{FloorTom, HiHat, KickIn, KickOut, OverheadLeft, OverheadRight, Room, SnareBottom, SnareTop, Tom};
        let named = [
            ("Kick In", KickIn),
            ("BD out", KickOut),
            ("snare-top", SnareTop),
            ("SN bot", SnareBottom),
            ("Tom 1", Tom),
            ("tom2", Tom),
            ("Floor Tom", FloorTom),
            ("HH", HiHat),
            ("OH L", OverheadLeft),
            ("Overhead right", OverheadRight),
            ("room 60s", Room),
        ];
        for (name, role) in named {
            assert_eq!(Microphone::read(name), Some(role), "{name}");
        }
        assert!(Microphone::read("vox").is_none() && Microphone::read("").is_none());
        for role in Microphone::ALL.into_iter().filter(|role| *role != Microphone::Other) {
            assert_eq!(Microphone::read(role.name().english()), Some(role), "its own name means it");
        }
    }

    #[test]
    fn pairs_are_those_that_hear_one_drum() {
        use Microphone::{KickIn, KickOut, OverheadLeft, OverheadRight, SnareBottom, SnareTop, Tom};
        let channels = [KickIn, KickOut, SnareTop, SnareBottom, Tom, OverheadLeft, OverheadRight];
        let found: Vec<(usize, usize)> = pairs(&channels).into_iter().map(|pair| (pair.first, pair.second)).collect();
        assert_eq!(found, [(0, 1), (2, 3), (0, 5), (0, 6), (2, 5), (2, 6), (4, 5), (4, 6)]);
        assert_eq!(overheads(&channels), Some(Overheads { snare: 2, left: 5, right: 6 }));
        assert_eq!(overheads(&channels[..5]), None);
    }
}
