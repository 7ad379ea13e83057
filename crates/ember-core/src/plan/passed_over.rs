//! Why a device on the shelf is in none of the plans.

use super::ShelfItem;
use super::best::Among;
use super::offer::Plan;
use super::solved::{Question, solved};
use super::weight::{attack, effort};
use crate::damping::{DeviceKind, Placement, device_info};
use crate::target::assess;
use crate::units::say_duration;
use ember_words::{Text, Words, text, words};
use serde::Serialize;

/// A device that was looked at and not chosen.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PassedOver {
    /// Which device it is.
    pub device: DeviceKind,
    /// What it is called.
    pub name: Words,
    /// Why, as a sentence.
    pub sentence: Words,
    /// The best treatment that has it; empty where it may not or cannot be used.
    pub placements: Vec<Placement>,
}

/// Treatments with the device that are solved in full to find its best.
const TRIED: usize = 2;

/// Every device that is owned and made for the drum, but in none of `plans`. `None` where the open drum's body is not known.
pub fn passed_over(question: &Question, plans: &[Plan]) -> Option<Vec<PassedOver>> {
    let screened = question.screened(question.shelf)?;
    let now = assess(question.partials, question.profile, &question.wanted, None);
    let used = |device: DeviceKind| plans.iter().any(|plan| plan.placements.iter().any(|placement| placement.device == device));
    let asked = question.shelf.iter().filter(|item| item.count > 0 && !used(item.device));
    let asked = asked.filter(|item| device_info(item.device).kinds.contains(&question.drum.kind));
    let say = |item: &ShelfItem| {
        let device = item.device;
        let none = |sentence: Text| PassedOver { device, name: item.name(), sentence: sentence.into(), placements: Vec::new() };
        if let Some(sentence) = question.limits.rule_out(device) {
            return none(sentence);
        }
        if device == DeviceKind::RodsTurned {
            return none(text!(
                "By itself it moves the note and shortens nothing. It goes with what lowers the note by more than is left alone."
            ));
        }
        let with_it = |placements: &[&Placement]| placements.iter().any(|placement| placement.device == device);
        let best = screened.best(&question.wanted, TRIED, &Among { most: 2, allow: &with_it, turned: true, patience: question.patience });
        let solved = solved(question, &screened, best.into_iter().map(|ranked| ranked.placements).collect());
        let Some(best) = solved.into_iter().next() else { return none(text!("It does not fit this drum.")) };
        let sentence = match () {
            () if now.fits => words!("Nothing is needed."),
            () if best.assessment.misfit >= now.misfit => further_away(&best),
            () => against(&best, plans.first()),
        };
        PassedOver { device, name: item.name(), sentence, placements: best.placements }
    };
    Some(asked.map(say).collect())
}

fn further_away(plan: &Plan) -> Words {
    let worst = plan.assessment.off.first().map(|off| off.sentence.clone().within()).unwrap_or_default();
    words!("At its best it takes the drum further away: {worst}.")
}

/// What speaks most against `plan` beside the `chosen` one.
fn against(plan: &Plan, chosen: Option<&Plan>) -> Words {
    let Some(chosen) = chosen else { return words!("It helps, but not enough.") };
    let left = plan.assessment.off.first().map(|off| off.sentence.clone().within()).unwrap_or_default();
    if chosen.assessment.fits && !plan.assessment.fits {
        return words!("It does not get all the way there. At its best: {left}.");
    }
    let of = |pick: &dyn Fn(&Plan) -> f64| pick(plan) - pick(chosen);
    let lost = plan.expected.attack_lost_db;
    let reasons = [
        (of(&|plan| plan.assessment.misfit), words!("more is left off: {left}")),
        (
            of(&|plan| attack(&plan.placements)),
            words!("it takes {lost:.1} dB of the attack, against {:.1}", chosen.expected.attack_lost_db),
        ),
        (
            of(&|plan| effort(&plan.placements)),
            words!("it is more to do: about {}, against {}", say_duration(plan.seconds), say_duration(chosen.seconds)),
        ),
        (of(&|plan| plan.expected.pitch_cents.abs() / 50.0), words!("it moves the pitch by {:.0} cents", plan.expected.pitch_cents)),
        (of(&|plan| 0.25 * (plan.worst_misfit - plan.assessment.misfit)), words!("it is less sure to turn out as expected")),
    ];
    let (weight, reason) = reasons.into_iter().max_by(|a, b| a.0.total_cmp(&b.0)).unwrap_or_default();
    let begin = if plan.assessment.fits { text!("It would get there too, but") } else { text!("At its best") };
    if weight < 0.2 { words!("{begin} it is not better in anything.") } else { words!("{begin} {reason}.") }
}
