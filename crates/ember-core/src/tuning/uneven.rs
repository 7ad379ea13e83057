//! Deliberately uneven: rods let down on purpose for a dry sound or a falling note, and the exact way back (common practice, no
//! published source).

use super::pattern::crosswise;
use super::seating::GuideStep;
use super::turns::Turn;
use crate::drum::{Drum, FEWEST_RODS};
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// How far the neighbours of the slack rod come down, eighths: three turns.
const NEIGHBOURS: i32 = 24;
/// How far two and two come down, eighths: a quarter turn is "slightly" (from experience, no source).
const SLIGHTLY: i32 = 2;
/// Turns after which a rod of usual tension is slack, eighths: what is noted unless its player counted another number.
pub const USUALLY_SLACK_AFTER: i32 = 32;

/// A way to let a head be uneven.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum UnevenRecipe {
    /// The lug nearest the player fully slack, its neighbours three turns down.
    ThreeDown,
    /// Two lugs nearest the player and two across slightly down.
    TwoAndTwo,
}

impl UnevenRecipe {
    /// All recipes.
    pub const ALL: [Self; 2] = [Self::ThreeDown, Self::TwoAndTwo];

    /// What to call it, and what it does.
    pub fn words(self) -> (Text, Text) {
        match self {
            Self::ThreeDown => (text!("Three lugs down"), text!("Dry and fat, no ring, and nothing lies on the head.")),
            Self::TwoAndTwo => (text!("Two and two slightly down"), text!("A wider note that falls.")),
        }
    }

    /// Eighths of a turn on each of `lugs` rods in hoop order, the slack rod's as counted by its player (`slack_eighths`, over 0).
    /// `None` where too few rods would be left to hold the head.
    pub fn eighths(self, lugs: usize, slack_eighths: i32) -> Option<Vec<i32>> {
        if lugs < FEWEST_RODS {
            return None;
        }
        let mut eighths = vec![0; lugs];
        match self {
            Self::ThreeDown => {
                eighths[0] = -slack_eighths;
                (eighths[1], eighths[lugs - 1]) = (-NEIGHBOURS, -NEIGHBOURS);
            }
            Self::TwoAndTwo => {
                for lug in [0, 1, lugs / 2, lugs / 2 + 1] {
                    eighths[lug] = -SLIGHTLY;
                }
            }
        }
        Some(eighths)
    }
}

/// Turns of `eighths` in the order in which to make them: crosswise.
pub fn in_order(eighths: &[i32]) -> Vec<Turn> {
    crosswise(eighths.len()).into_iter().filter(|lug| eighths[*lug] != 0).map(|lug| Turn { lug, eighths: eighths[lug] }).collect()
}

/// "3 turns", "half a turn", "1 3/8 turns".
pub fn turns_in_words(eighths: i32) -> Words {
    let (whole, rest) = (eighths.abs() / 8, eighths.abs() % 8);
    let part = ["", "1/8", "1/4", "3/8", "1/2", "5/8", "3/4", "7/8"][rest as usize];
    match (whole, rest) {
        (0, 4) => words!("half a turn"),
        (0, 2) => words!("a quarter turn"),
        (0, _) => words!("{part} of a turn"),
        (1, 0) => words!("1 turn"),
        (_, 0) => words!("{whole} turns"),
        _ => words!("{whole} {part} turns"),
    }
}

/// The steps of letting a head of `drum` down. `None` where it has too few rods.
pub fn uneven_steps(drum: &Drum, recipe: UnevenRecipe) -> Option<Vec<GuideStep>> {
    let lugs = usize::from(drum.lugs);
    let last = lugs.checked_sub(1).filter(|_| lugs >= FEWEST_RODS)?;
    let first = GuideStep::new(
        text!("Hear it first as it is"),
        text!("Tap a round and measure the open drum before, so that both are known to come back to, and to compare with."),
        Vec::new(),
        20,
    );
    let steps = match recipe {
        UnevenRecipe::ThreeDown => vec![
            first,
            GuideStep::new(
                text!("Lug 1 down until it is slack"),
                text!("The rod nearest you. Count the turns until the key turns freely, and remember the number: it is the way back."),
                vec![0],
                40,
            ),
            GuideStep::new(text!("Three turns down on both its neighbours"), text!("Counted from the same mark on the key."), vec![1, last], 40),
            GuideStep::new(
                text!("Check the other rods"),
                text!("They creep when their neighbours let go. Take up by the fingers whatever turns by itself, and look again after the first song."),
                crosswise(lugs).into_iter().filter(|lug| ![0, 1, last].contains(lug)).collect(),
                60,
            )
            .with_caution(text!("A slack rod can work itself out and fall under a pedal: put a turn of tape round it.")),
        ],
        UnevenRecipe::TwoAndTwo => vec![
            first,
            GuideStep::new(
                text!("A quarter turn down: two nearest you, two across"),
                text!("Crosswise: one near, the one across from it, and again."),
                vec![0, lugs / 2, 1, lugs / 2 + 1],
                40,
            ),
            GuideStep::new(
                text!("Strike it and listen to it fall"),
                text!("More makes it wider. An eighth at a time on the same four, alike on all of them."),
                Vec::new(),
                30,
            ),
        ],
    };
    Some(steps)
}

/// The way back from `eighths`: the same turns the other way, crosswise.
pub fn steps_back(eighths: &[i32]) -> Vec<GuideStep> {
    let slackest = eighths.iter().copied().min().unwrap_or(0);
    let mut steps: Vec<GuideStep> = Vec::new();
    // Deep ones come up half of the way first, so that the hoop is not pulled askew.
    let halfway = slackest < -8;
    if halfway {
        let halves: Vec<i32> = eighths.iter().map(|e| -e / 2).collect();
        steps.extend(in_order(&halves).into_iter().map(|turn| {
            GuideStep::new(
                words!("Lug {}: {} tighter", turn.lug + 1, turns_in_words(turn.eighths)),
                text!("Half of the way."),
                vec![turn.lug],
                20,
            )
        }));
    }
    let rest: Vec<i32> = eighths.iter().map(|e| if halfway { -e - (-e / 2) } else { -e }).collect();
    steps.extend(in_order(&rest).into_iter().map(|turn| {
        let (title, detail) = (words!("Lug {}: {} tighter", turn.lug + 1, turns_in_words(turn.eighths)), text!("To where it was."));
        GuideStep::new(title, detail, vec![turn.lug], 20)
    }));
    steps.push(GuideStep::new(
        text!("Tap a round"),
        text!("The lugs should read what they read before. The page lays both beside one another."),
        Vec::new(),
        10,
    ));
    steps
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use proptest::prelude::*;

    /// CP 4: three lugs nearest the player, the middle one fully slack, its neighbours down about three turns.
    #[test]
    fn three_down_is_as_the_trade_does_it() {
        let eighths = UnevenRecipe::ThreeDown.eighths(8, 30).unwrap();
        assert_eq!(eighths, [-30, -24, 0, 0, 0, 0, 0, -24]);
        for lugs in [1, 4, 5] {
            assert!(UnevenRecipe::ThreeDown.eighths(lugs, 30).is_none(), "too little would hold the head");
            assert!(uneven_steps(&Drum { lugs: lugs as u8, ..BenchDrum::usual(DrumKind::Tom) }, UnevenRecipe::TwoAndTwo).is_none());
        }
        let steps = uneven_steps(&BenchDrum::usual(DrumKind::Snare), UnevenRecipe::ThreeDown).unwrap();
        assert!(steps.iter().any(|step| step.title.contains("slack") && step.lugs == [0]));
        assert!(steps.iter().any(|step| step.caution.is_some() && step.lugs.len() == 7), "the others are re-checked");
    }

    #[test]
    fn turns_are_said_in_a_drummers_words() {
        let said: Vec<Words> = [1, 2, 4, 8, 11, 24].into_iter().map(turns_in_words).collect();
        assert_eq!(said, ["1/8 of a turn", "a quarter turn", "half a turn", "1 turn", "1 3/8 turns", "3 turns"]);
    }

    proptest! {
        #[test]
        fn the_way_back_undoes_every_turn(lugs in 6usize..=12, slack in 8i32..70) {
            for recipe in UnevenRecipe::ALL {
                let eighths = recipe.eighths(lugs, slack).unwrap();
                let steps = steps_back(&eighths);
                let mut up: Vec<Words> = steps.iter().filter(|s| !s.lugs.is_empty()).map(|s| s.title.clone()).collect();
                let rods = eighths.iter().filter(|e| **e != 0).count();
                prop_assert_eq!(up.len(), if eighths.iter().any(|e| *e < -8) { 2 * rods } else { rods });
                up.retain(|title| title.contains("looser"));
                prop_assert!(up.is_empty());
            }
        }
    }
}
