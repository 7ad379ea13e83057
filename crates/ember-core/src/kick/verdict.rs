//! Whether to cut a hole: the one thing in this trade that cannot be undone.

use super::ways::MicrophoneAccess;
use crate::drum::{Drum, DrumKind, Front};
use ember_words::{Text, Words, text, words};
use serde::{Deserialize, Serialize};

/// How the beater is played.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Beater {
    /// It comes off the head after the hit.
    #[default]
    OffTheHead,
    /// It stays in the head.
    Buried,
}

/// Whether what a hole would do was tried in a way that can be undone.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Trial {
    /// Not yet.
    #[default]
    NotYet,
    /// The drum was measured with its front head off, or with a spare head with a hole.
    Measured,
    /// The player would rather not.
    Declined,
}

/// What it comes to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum CutVerdict {
    /// There is a hole, or no head.
    Open,
    /// The drum is as wanted.
    NoNeed,
    /// Something that can be undone gets there.
    Undoable,
    /// Nothing was tried yet.
    NotYet,
    /// A hole gets there.
    WouldHelp,
    /// No hole gets there.
    WouldNotHelp,
    /// It is somebody else's drum.
    NotYours,
}

/// The answer to "Should I cut?".
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CutAdvice {
    /// What it comes to.
    pub verdict: CutVerdict,
    /// The answer, short enough to read from two metres away.
    pub title: Words,
    /// Why, and what else weighs in, most important first.
    pub reasons: Vec<Words>,
    /// The hole that is meant, where one is.
    pub hole: Option<Front>,
}

/// What the answer depends on.
pub struct CutQuestion<'a> {
    /// The drum.
    pub drum: &'a Drum,
    /// Whether the openings were tried.
    pub trial: Trial,
    /// What strikes it.
    pub beater: Beater,
    /// Whether a microphone has to get in.
    pub microphone: bool,
    /// Whether the drum as it is fits the wish.
    pub fits: bool,
    /// What can be undone and fits the wish, as a phrase; none where nothing does.
    pub undoable: Option<&'a Words>,
    /// Whether it is somebody else's drum.
    pub borrowed: bool,
    /// What is laid in besides, as a phrase.
    pub besides: Option<&'a Words>,
    /// Every hole with how far it leaves the drum from the wish, in steps, and whether it fits.
    pub holes: &'a [(Front, f64, bool)],
}

/// Largest drum that is small: its front is kept whole where it can be (common practice, no published source).
const SMALL_IN: f64 = 18.0;

/// Answers whether to cut.
pub fn should_i_cut(question: &CutQuestion) -> CutAdvice {
    let drum = question.drum;
    let which = drum.kind.lower_head_word();
    let kick = drum.kind == DrumKind::Kick;
    let small = kick && drum.diameter_in <= SMALL_IN;
    let mut reasons = Vec::new();
    let lets_in = |front: &Front| !question.microphone || front.microphone_access() == MicrophoneAccess::Fits;
    let reachable: Vec<&(Front, f64, bool)> = question.holes.iter().filter(|(front, ..)| lets_in(front)).collect();
    // The smallest that fits; where a microphone only has to get in, the one that changes least for the worse.
    let fitting = reachable.iter().find(|(.., fits)| *fits);
    let nearest = reachable.iter().min_by(|a, b| a.1.total_cmp(&b.1));
    let (verdict, title, hole) = if drum.front() != Front::Whole {
        reasons.push(words!("As it is: {}. A whole spare {which} brings back what it had; nothing else does.", drum.front().words(which)));
        (CutVerdict::Open, words!("It is open already"), None)
    } else if question.borrowed {
        reasons.push(words!("It is not yours: it goes back as it was. What helps here is laid on or in."));
        (CutVerdict::NotYours, words!("Do not cut a borrowed drum"), None)
    } else if question.fits && !question.microphone {
        reasons.push(words!("The drum is as wanted as it is."));
        (CutVerdict::NoNeed, words!("Do not cut: nothing asks for it"), None)
    } else if let (Some(words), false) = (question.undoable, question.microphone) {
        reasons.push(words!("{} gets there, and can be undone.", words.clone().capital()));
        (CutVerdict::Undoable, words!("Do not cut: this can be had without"), None)
    } else if question.trial == Trial::NotYet {
        reasons.push(words!(
            "Take the {which} off and strike a few times first: no hole does more than that, and it can be put back. Or cut a spare head and \
             keep this one."
        ));
        (CutVerdict::NotYet, words!("Do not cut yet"), None)
    } else if let Some((front, ..)) = fitting {
        let with = question.besides.map_or_else(|| front.words(which), |besides| words!("{} and {besides} in it", front.words(which)));
        reasons.push(words!("With {with} the drum comes to the wish. Cut it into a spare head, and keep this one whole."));
        (CutVerdict::WouldHelp, words!("{} would do it", size_words(front).capital()), Some(front.clone()))
    } else if let (Some((front, ..)), true) = (nearest, question.microphone) {
        reasons.push(words!("With {} a microphone gets in, and it leaves the drum nearest to the wish.", front.words(which)));
        (CutVerdict::WouldHelp, words!("{} for the microphone", size_words(front).capital()), Some(front.clone()))
    } else {
        reasons.push(words!("No hole brings it to the wish: that takes fill, tuning or other heads."));
        (CutVerdict::WouldNotHelp, words!("Do not cut: it would not get there"), None)
    };
    if small && matches!(verdict, CutVerdict::NotYet | CutVerdict::WouldHelp) {
        reasons.push(words!("A drum of {} in is small: keep the {which} whole if a microphone can get in another way.", drum.diameter_in));
    }
    reasons.extend(of_a_solid_front(question));
    CutAdvice { verdict, title, reasons, hole }
}

/// What else weighs in while the head is whole.
fn of_a_solid_front(question: &CutQuestion) -> Vec<Words> {
    let (drum, mut reasons) = (question.drum, Vec::new());
    if drum.front() != Front::Whole {
        return reasons;
    }
    reasons.extend(drum.kind.has_pedal().then_some(question.beater).map(|beater| match beater {
        Beater::Buried => {
            words!(
                "A beater that stays in the head bounces on a solid front; with a hole it makes one clean hit. Letting it come off the \
                           head does the same and costs nothing."
            )
        }
        Beater::OffTheHead => words!("A beater that comes off the head suits a solid front."),
    }));
    if question.microphone {
        reasons.push(
            words!("A microphone may also stand inside for good, its cable through the air vent, or outside, close to the middle of the front head."),
        );
    }
    if question.trial == Trial::Declined {
        reasons.push(words!("The trial was left out: what is expected of a hole here was not checked on this drum."));
    }
    reasons
}

fn size_words(front: &Front) -> Words {
    match front.ports() {
        [one] => words!("a {} in hole", one.diameter_in),
        several => words!("{} holes of {} in", several.len(), several.first().map_or(0.0, |port| port.diameter_in)),
    }
}

/// How a hole is cut, and undone, step by step, with the caution that belongs to each (common practice, no published source).
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CutStep {
    /// What to do.
    pub step: Words,
    /// What to mind, where something can hurt; null for nothing.
    pub caution: Option<Words>,
}

/// What a hole is cut with.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Cutter {
    /// A craft knife.
    #[default]
    Knife,
    /// A rotary cutter with a pivot.
    Rotary,
}

/// Steps for cutting a hole with `cutter` into the head of `drum`.
pub fn cutting_steps(drum: &Drum, cutter: Cutter) -> Vec<CutStep> {
    let which = drum.kind.lower_head_word();
    let step = |step: Words, caution: Option<Text>| CutStep { step, caution: caution.map(Text::words) };
    let mut steps = vec![
        step(drum.taken_off(which), Some(text!("Never cut a head on the drum."))),
        step(words!("Print the template and measure its check lines. If they are not 100 mm and 4 in long, print again at 100 %."), None),
        step(words!("Lay the head on a hard, flat base, inside up. Tape the template where the figures say, its arrow to the top."), None),
        step(
            words!(
                "Stick the reinforcing ring round the line now, or after cutting: it stops the film from tearing. Press the two halves together until they snap."
            ),
            None,
        ),
    ];
    match cutter {
        Cutter::Knife => steps.push(step(
            words!("Cut along the line with a fresh blade, lightly, several times round, turning the head and not the hand. Hold the blade slanted, so that the edge looks inwards."),
            Some(text!("Away from the body and the holding hand; cut-proof gloves, hard base. Work rules and instructions of the knife come first.")),
        )),
        Cutter::Rotary => steps.push(step(
            words!("Set the cutter's radius by the template. Press its pivot down in the middle, keep it down, and cut in one go."),
            Some(text!("Gloves, eyes clear of the blade, hard base. The cutter's own instructions come first.")),
        )),
    }
    steps.push(step(
        words!("Feel the edge: no nick. A nick tears; round it off before the head goes on."),
        Some(text!("A fresh edge of film is sharp.")),
    ));
    steps.push(step(drum.put_on(words!("the head")), Some(drum.stop_words())));
    steps.push(step(words!("To go back: put on a whole spare {which}. A patch over the hole rattles."), None));
    steps
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    fn answer(trial: Trial, fits: bool, undoable: Option<&Words>, microphone: bool, diameter_in: f64) -> CutAdvice {
        let drum = Drum { diameter_in, ..BenchDrum::usual(DrumKind::Kick) };
        let hole = |size: f64, off: f64| (Front::usual_port(size, diameter_in), off, off < 0.5);
        let holes = [hole(3.0, 4.0), hole(4.0, 0.2), hole(5.0, 0.1)];
        should_i_cut(&CutQuestion {
            drum: &drum,
            trial,
            beater: Beater::Buried,
            microphone,
            fits,
            undoable,
            besides: None,
            holes: &holes,
            borrowed: false,
        })
    }

    /// Nothing irreversible until a reversible trial has shown that it is wanted (common practice, no published source).
    #[test]
    fn nothing_is_cut_before_something_that_can_be_undone_was_tried() {
        for (fits, microphone) in [(false, false), (false, true), (true, true)] {
            let answer = answer(Trial::NotYet, fits, None, microphone, 22.0);
            assert_eq!(answer.verdict, CutVerdict::NotYet, "{answer:?}");
            assert!(answer.hole.is_none() && answer.title.contains("not cut yet"));
        }
        assert_eq!(answer(Trial::Measured, true, None, false, 22.0).verdict, CutVerdict::NoNeed);
        assert_eq!(answer(Trial::Measured, false, Some(&words!("a pillow")), false, 22.0).verdict, CutVerdict::Undoable);
        let told = answer(Trial::Measured, false, None, false, 22.0);
        assert_eq!((told.verdict, told.title.to_string().as_str()), (CutVerdict::WouldHelp, "A 4 in hole would do it"));
        assert!(answer(Trial::Declined, false, None, false, 22.0).reasons.iter().any(|reason| reason.contains("not checked")));
    }

    /// Small drum: keep the front whole if a microphone can get in another way; a buried beater bounces on a solid front (common practice,
    /// no published source).
    #[test]
    fn small_drums_microphones_and_beaters_weigh_in() {
        let said = |advice: &CutAdvice, words: &str| advice.reasons.iter().any(|reason| reason.contains(words));
        let small = answer(Trial::Measured, false, None, true, 16.0);
        assert!(
            said(&small, "keep the front head whole") && said(&small, "air vent") && said(&small, "bounces on a solid front"),
            "{small:?}"
        );
        assert!(!said(&answer(Trial::Measured, false, None, true, 22.0), "small"));
        // A 3 in hole lets no ordinary microphone in.
        assert_eq!(small.hole, Some(Front::usual_port(4.0, 16.0)));
    }

    #[test]
    fn toms_have_no_beater() {
        let tom = BenchDrum::usual(DrumKind::Tom);
        let question = CutQuestion {
            drum: &tom,
            trial: Trial::NotYet,
            beater: Beater::Buried,
            microphone: false,
            fits: false,
            undoable: None,
            besides: None,
            borrowed: true,
            holes: &[],
        };
        assert_eq!(should_i_cut(&question).verdict, CutVerdict::NotYours, "nobody cuts a house kit");
        assert!(should_i_cut(&question).reasons.iter().all(|reason| !reason.contains("beater") && !reason.contains("small")));
    }

    #[test]
    fn what_can_hurt_has_its_caution() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        for cutter in [Cutter::Knife, Cutter::Rotary] {
            let steps = cutting_steps(&drum, cutter);
            let cautions: Vec<&Words> = steps.iter().filter_map(|step| step.caution.as_ref()).collect();
            assert!(cautions.iter().any(|caution| caution.contains("loves")), "{cautions:?}");
            assert!(cautions.iter().any(|caution| caution.contains("key gets hard")));
        }
    }
}
