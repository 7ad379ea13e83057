//! Seating a head, step by step, for someone with both hands on the drum (common practice, no published source).

use super::pattern::{FEWEST_LUGS, crosswise};
use crate::drum::{Drum, DrumKind, HeadSide, Hoops, Role};
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// Why a head is handled.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum SeatingTask {
    /// Another head is put on.
    NewHead,
    /// The same head comes off, for something inside, and goes on again.
    OffAndOn,
    /// The head stays on; its rods are slackened and it is seated again.
    Reseat,
}

/// One step of a guide for both hands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GuideStep {
    /// What to do, short enough to read from two metres away.
    pub title: Words,
    /// How it is done.
    pub detail: Words,
    /// Lugs in the order in which they are gone through, from 0; empty where the step is not about lugs.
    pub lugs: Vec<usize>,
    /// What can hurt, and how to avoid it.
    pub caution: Option<Words>,
    /// Time after which the step moves on by itself where that is wished, s.
    pub seconds: u32,
}

impl GuideStep {
    pub(super) fn new(title: impl Into<Words>, detail: impl Into<Words>, lugs: Vec<usize>, seconds: u32) -> Self {
        Self { title: title.into(), detail: detail.into(), lugs, caution: None, seconds }
    }

    pub(super) fn with_caution(self, caution: Text) -> Self {
        Self { caution: Some(caution.into()), ..self }
    }
}

/// The steps of `task` on the head of `drum` on `side`.
pub fn seating_steps(drum: &Drum, side: HeadSide, task: SeatingTask) -> Vec<GuideStep> {
    let guide = Guide { drum, side, lugs: usize::from(drum.lugs) };
    let mut steps = guide.off(task);
    steps.push(guide.plain(
        text!("Centre head and hoop"),
        text!("The same gap between hoop and shell all round. On a small kick the head needs a collar made for kicks to sit centred."),
        25,
    ));
    steps.extend(if guide.single_bolt() { guide.one_bolt() } else { guide.crosswise() });
    steps
}

struct Guide<'a> {
    drum: &'a Drum,
    side: HeadSide,
    lugs: usize,
}

impl Guide<'_> {
    /// Until nothing holds the head any more.
    fn off(&self, task: SeatingTask) -> Vec<GuideStep> {
        match task {
            SeatingTask::NewHead => {
                let mut steps = self.slacken(text!("Slacken every rod a whole turn, crosswise, then take them out"));
                steps.push(self.plain(
                    text!("Wipe the edge, look at it"),
                    text!("Run a fingertip round the bearing edge: no dirt, no dent, no splinter. Lay the new head on."),
                    40,
                ));
                steps
            }
            SeatingTask::OffAndOn => {
                let mut steps = vec![self.plain(
                    text!("Mark the head at lug 1"),
                    text!("A pencil mark on the hoop and on the head's rim: it goes back the way it sat, and its dents find their places again."),
                    20,
                )];
                steps.extend(self.slacken(text!("Half a turn down on each rod, crosswise, round after round, until all are loose")));
                steps.push(self.plain(text!("Do what is to be done inside"), text!("Lay the head back with its mark at lug 1."), 60));
                steps
            }
            SeatingTask::Reseat => self.slacken(text!("Half a turn down on each rod, crosswise, until all are finger-tight")),
        }
    }

    /// Up with one bolt, which pulls the whole hoop at once.
    fn one_bolt(&self) -> Vec<GuideStep> {
        vec![
            self.plain(text!("Finger-tight"), text!("Turn the one bolt until it bites. It pulls the whole hoop at once."), 15),
            self.plain(
                text!("Press all round"),
                text!("Flat hand on the centre, then on opposite sides. Turn half a turn, and press again until no wrinkle is left."),
                40,
            ),
            self.plain(
                text!("Half a turn at a time"),
                text!("Half a turn is a clear step of pitch. It cannot reach a high tension: stop where it gets hard."),
                30,
            ),
        ]
    }

    /// Up with rods all round.
    fn crosswise(&self) -> Vec<GuideStep> {
        let mut steps = Vec::new();
        if self.drum.hoops == Hoops::Wood {
            let detail = text!("Each claw square on the wooden hoop, none on its joint, so that no rod pulls aslant.");
            steps.push(self.plain(text!("Claws straight"), detail, 20));
        }
        steps.push(self.round(
            text!("Finger-tight, crosswise"),
            text!("Two rods at once, one in each hand, opposite ones. Turn with the fingers only, until each just touches its washer."),
            60,
        ));
        steps.push(self.round(
            text!("Press opposite sides"),
            text!(
                "Flat hands over opposite lugs, press down gently, go round. Where something gives, take the rod up by the fingers again."
            ),
            30,
        ));
        let with = if self.drum.kind.role() == Role::Kick { text!("With the key or the T-handles") } else { text!("With the key") };
        steps.push(self.round(
            text!("A quarter turn each, crosswise"),
            words!("{with}, the same on each rod. Then again, an eighth at a time, until the last wrinkle is gone. No rod is turned twice in a row."),
            90,
        ));
        if self.drum.kind == DrumKind::Snare && self.side == HeadSide::Lower {
            steps.push(self.plain(text!("Keep the wires off"), text!("Hang them or throw them off until the head is tuned."), 10));
        }
        steps.push(self.last());
        steps
    }

    /// With the other head held still, if there is one.
    fn last(&self) -> GuideStep {
        let other = match self.side {
            HeadSide::Batter if self.drum.lower.is_none() => None,
            HeadSide::Batter => Some(self.drum.kind.lower_head_word()),
            HeadSide::Lower => Some(text!("batter head")),
        };
        match other {
            Some(other) => self.plain(
                words!("Mute the {other}"),
                text!("Set the drum on a cushion or lay a hand on the other head. Now tap a round, and let it say what to turn."),
                10,
            ),
            None => self.plain(text!("Tap a round"), text!("One tap at each lug, and let it say what to turn."), 10),
        }
    }

    fn single_bolt(&self) -> bool {
        self.lugs < FEWEST_LUGS
    }

    fn plain(&self, title: impl Into<Words>, detail: impl Into<Words>, seconds: u32) -> GuideStep {
        GuideStep::new(title, detail, Vec::new(), seconds)
    }

    fn round(&self, title: impl Into<Words>, detail: impl Into<Words>, seconds: u32) -> GuideStep {
        GuideStep::new(title, detail, crosswise(self.lugs), seconds)
    }

    fn slacken(&self, detail: Text) -> Vec<GuideStep> {
        let mut step = if self.single_bolt() {
            self.plain(text!("Open the bolt"), text!("Half a turn at a time until the hoop is loose."), 20)
        } else {
            self.round(
                text!("Slacken, crosswise and little by little"),
                words!("{detail}. One side slack and the other tight bends the hoop."),
                90,
            )
        };
        let (big, kick) = (self.drum.diameter_in >= 18.0, self.drum.kind.role() == Role::Kick);
        step.caution = if kick || big {
            Some(words!("A big drum is heavy: roll it or lift it with two people, and let nothing fall under the pedal."))
        } else if self.side == HeadSide::Lower {
            Some(words!("Lay the drum on something soft, batter head down, so that its edge and the floor stay whole."))
        } else {
            None
        };
        vec![step]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;

    #[test]
    fn a_head_that_is_not_there_is_not_muted() {
        let says = |drum: &Drum| {
            let steps = seating_steps(drum, HeadSide::Batter, SeatingTask::NewHead);
            steps.iter().any(|step| step.title.starts_with("Mute"))
        };
        let drum = BenchDrum::usual(DrumKind::Tom);
        assert!(says(&drum) && !says(&Drum { lower: None, ..drum }));
    }

    #[test]
    fn every_lug_count_has_a_guide_in_its_crosswise_order() {
        for lugs in [1, 4, 5, 6, 8, 10, 12] {
            for task in [SeatingTask::NewHead, SeatingTask::OffAndOn, SeatingTask::Reseat] {
                let drum = Drum { lugs, ..BenchDrum::usual(DrumKind::Tom) };
                let steps = seating_steps(&drum, HeadSide::Batter, task);
                let rounds: Vec<&GuideStep> = steps.iter().filter(|step| !step.lugs.is_empty()).collect();
                assert_eq!(rounds.is_empty(), lugs == 1, "a single bolt has no order");
                assert!(rounds.iter().all(|step| step.lugs == crosswise(lugs.into())));
                assert!(steps.iter().all(|step| step.title.to_string().len() < 50 && step.detail.ends_with(".") && step.seconds > 0));
            }
        }
    }
}
