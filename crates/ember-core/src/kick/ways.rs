//! The ways in which a drum's other end can be closed, and what else each means for the player.

use crate::drum::{Drum, Front, Port, usual_place};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// Holes that are looked at, in, as long as they take at most this part of the head's diameter.
const HOLES_IN: [f64; 8] = [2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0];
const WIDEST: f64 = 0.56;
/// A hole in the middle that leaves little more than a rim, as a part of the diameter (common practice, no published source: 10 in in
/// a 12 in head).
const LARGE_CENTRE: f64 = 0.83;

/// Every way that is usual for `drum`, the most closed first.
pub fn fronts(drum: &Drum) -> Vec<Front> {
    let head = drum.diameter_in;
    let fits = |hole: &f64| *hole <= WIDEST * head;
    let mut all = vec![Front::Whole];
    all.extend(HOLES_IN.into_iter().filter(fits).map(|hole| Front::usual_port(hole, head)));
    let small = usual_place(3.0, head);
    let two = Front::Ported { ports: vec![small, Port { angle_deg: 360.0 - small.angle_deg, ..small }] };
    all.extend(Some(two).filter(|two| small.radius > 0.3 && drum.with_front(two).validate().is_ok()));
    let centre = Port { diameter_in: (2.0 * LARGE_CENTRE * head).round() / 2.0, radius: 0.0, angle_deg: 0.0 };
    all.extend([Front::Ported { ports: vec![centre] }, Front::Mesh, Front::Off]);
    // What it has now stands among them, if it is none of the usual.
    let now = drum.front();
    if !all.contains(&now) {
        all.insert(1, now);
    }
    all
}

/// Which microphones get through the other end (common practice, no published source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum MicrophoneAccess {
    /// None.
    None,
    /// A small one, by its cable.
    Small,
    /// An ordinary one on a boom.
    Fits,
    /// Any, anywhere.
    Free,
}

/// How the batter head answers a beater (common practice, no published source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum BeaterFeel {
    /// The air pushes back: a beater that is left in the head bounces.
    PushesBack,
    /// Some air leaves.
    Between,
    /// The air leaves: one clean hit, also with the beater left in the head.
    OneCleanHit,
}

/// Part of the head's area from which on air leaves instead of pushing back.
const VENTED: f64 = 0.045;

impl Front {
    /// Part of the head that is open.
    pub fn open_part(&self, head_diameter_in: f64) -> f64 {
        if self.is_open() { 1.0 } else { self.ports().iter().map(|port| (port.diameter_in / head_diameter_in).powi(2)).sum() }
    }

    /// Whether a microphone gets in.
    pub fn microphone_access(&self) -> MicrophoneAccess {
        let widest = self.ports().iter().map(|port| port.diameter_in).fold(0.0, f64::max);
        match self {
            Self::Off => MicrophoneAccess::Free,
            Self::Whole | Self::Mesh => MicrophoneAccess::None,
            Self::Ported { .. } if widest >= 4.0 => MicrophoneAccess::Fits,
            Self::Ported { .. } if widest >= 2.5 => MicrophoneAccess::Small,
            Self::Ported { .. } => MicrophoneAccess::None,
        }
    }

    /// What to mind besides where the drum is closed so (common practice, no published source; CP 6).
    pub fn remark(&self) -> Option<Text> {
        let off = text!(
            "Without the head, lug inserts and loose hardware may rattle, and the bearing edge lies bare: a mesh head, or one with a \
                   large hole in the middle, avoids both."
        );
        (*self == Self::Off).then_some(off)
    }

    /// How a beater feels on a head of this diameter, in.
    pub fn beater_feel(&self, head_diameter_in: f64) -> BeaterFeel {
        match self.open_part(head_diameter_in) {
            part if part >= VENTED => BeaterFeel::OneCleanHit,
            part if part > 0.0 => BeaterFeel::Between,
            _ => BeaterFeel::PushesBack,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    #[test]
    fn every_way_can_be_and_says_itself_apart() {
        for (kind, diameter_in) in
            [(DrumKind::Kick, 16.0), (DrumKind::Kick, 22.0), (DrumKind::Kick, 26.0), (DrumKind::Tom, 12.0), (DrumKind::Tom, 8.0)]
        {
            let drum = Drum { diameter_in, ..BenchDrum::usual(kind) };
            let all = fronts(&drum);
            let mut words: Vec<_> = all.iter().map(|front| front.words(text!("front head"))).collect();
            words.dedup();
            assert_eq!(words.len(), all.len());
            for front in &all {
                drum.with_front(front).validate().unwrap_or_else(|error| panic!("{} in: {error}", diameter_in));
            }
        }
        // CP 6: 10 in in a 12 in head.
        let tom = fronts(&BenchDrum::usual(DrumKind::Tom));
        assert!(tom.iter().any(|front| front.ports().iter().any(|port| port.diameter_in == 10.0 && port.radius == 0.0)));
    }

    /// Common practice, no published source (DOMAIN's ports): 4 in on a 16 in kick, 5 in on a 22 in let a microphone in and the air out.
    #[test]
    fn usual_holes_let_a_microphone_in_and_the_air_out() {
        for (hole, head) in [(4.0, 16.0), (5.0, 22.0)] {
            let front = Front::usual_port(hole, head);
            assert_eq!((front.microphone_access(), front.beater_feel(head)), (MicrophoneAccess::Fits, BeaterFeel::OneCleanHit));
        }
        assert_eq!(Front::Whole.beater_feel(22.0), BeaterFeel::PushesBack);
        assert!(Front::Off.remark().is_some_and(|remark| remark.contains("rattle") && remark.contains("mesh")));
        assert!(Front::Mesh.remark().is_none() && Front::Whole.remark().is_none());
        assert_eq!(Front::usual_port(3.0, 22.0).beater_feel(22.0), BeaterFeel::Between);
    }
}
