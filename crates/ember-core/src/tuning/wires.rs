//! Snare wires, loose to tight, by how long they buzz on.

use crate::drum::{Drum, WireTension};
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// Buzz lengths between tight and medium, and between medium and loose wires, s (from experience, no source).
const SNAPPY_UNDER_S: f64 = 0.10;
const FAT_OVER_S: f64 = 0.22;

/// How wires should answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum WireWish {
    /// Short: tight wires, thin and snappy.
    Snappy,
    /// Neither short nor long.
    Medium,
    /// Long: loose wires.
    Fat,
}

/// How the wires buzz, and what to turn.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WireAdvice {
    /// Time for the buzz to fall 20 dB, s.
    pub buzz_s: f64,
    /// Scatter between strikes, s; null where only one was heard.
    pub scatter_s: Option<f64>,
    /// What that is.
    pub heard: WireWish,
    /// What to do for each wish: snappy, medium, fat.
    pub steps: Vec<WireStep>,
    /// What the wires stand at by their owner's word and do not sound like; null where both agree.
    pub contradiction: Option<Words>,
}

/// What to do for one wish.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WireStep {
    /// What is wanted.
    pub wish: WireWish,
    /// Buzz length that it comes to, s, from and to; null where it is open.
    pub from_s: Option<f64>,
    /// Buzz that is wanted, s; null where any will do.
    pub to_s: Option<f64>,
    /// The same as a sentence.
    pub sentence: Words,
    /// Whether it is so already.
    pub met: bool,
}

/// Reads the wires of `drum` from how long they buzzed, and how much that differed from strike to strike, s. `None` on a drum without wires.
pub fn wire_advice(drum: &Drum, buzz_s: f64, scatter_s: Option<f64>) -> Option<WireAdvice> {
    let wires = drum.wires?;
    let heard = match buzz_s {
        s if s < SNAPPY_UNDER_S => WireWish::Snappy,
        s if s > FAT_OVER_S => WireWish::Fat,
        _ => WireWish::Medium,
    };
    let step = |wish: WireWish, from_s: Option<f64>, to_s: Option<f64>| {
        // Steps of the knob, more where it is two kinds away.
        let away = wish as i32 - heard as i32;
        let sentence = match (away, wish) {
            (0, _) => words!("They answer so already."),
            (by, WireWish::Fat) => words!("{} looser on the throw's knob, then listen again.", turn(by)),
            (by, _) if by < 0 => words!(
                "{} tighter on the throw's knob, then listen again. Stop when soft notes no longer answer: that is choked.",
                turn(by)
            ),
            (by, _) => words!("{} looser on the throw's knob, then listen again.", turn(by)),
        };
        WireStep { wish, from_s, to_s, sentence, met: away == 0 }
    };
    let said = match wires.tension {
        WireTension::Tight => WireWish::Snappy,
        WireTension::Medium => WireWish::Medium,
        WireTension::Loose => WireWish::Fat,
    };
    let contradiction = (said != heard).then(|| {
        let word = |wish: WireWish| match wish {
            WireWish::Snappy => text!("tight"),
            WireWish::Medium => text!("medium"),
            WireWish::Fat => text!("loose"),
        };
        words!("The drum's data say {} wires; they sound {}.", word(said), word(heard))
    });
    Some(WireAdvice {
        buzz_s,
        scatter_s,
        heard,
        steps: vec![
            step(WireWish::Snappy, None, Some(SNAPPY_UNDER_S)),
            step(WireWish::Medium, Some(SNAPPY_UNDER_S), Some(FAT_OVER_S)),
            step(WireWish::Fat, Some(FAT_OVER_S), None),
        ],
        contradiction,
    })
}

fn turn(kinds: i32) -> Text {
    if kinds.abs() > 1 { text!("One turn") } else { text!("Half a turn") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    /// Common practice, no published source: loose wires are fat and long, tight ones thin and snappy.
    #[test]
    fn long_buzz_is_turned_tighter_and_short_buzz_looser() {
        let snare = BenchDrum::usual(DrumKind::Snare);
        let long = wire_advice(&snare, 0.4, None).unwrap();
        assert!(long.heard == WireWish::Fat && long.steps[2].met && long.steps[0].sentence.contains("One turn tighter"), "{long:?}");
        assert!(long.contradiction.is_some());
        let short = wire_advice(&snare, 0.05, None).unwrap();
        assert!(short.heard == WireWish::Snappy && short.steps[2].sentence.contains("looser"), "{short:?}");
        assert!(wire_advice(&snare, 0.15, None).unwrap().contradiction.is_none());
        assert!(wire_advice(&BenchDrum::usual(DrumKind::Tom), 0.2, None).is_none());
    }
}
