//! What would bring a drum to the wish where the shelf does not.

use super::best::Among;
use super::candidates::{MOST_DEVICES, ShelfItem};
use super::offer::{Missing, Offer, WouldDo};
use super::offers::offered;
use super::solved::{Question, solved};
use crate::damping::{DeviceKind, Placement, Price, device_info};
use crate::target::Assessment;

/// As many of each device as a treatment could use.
const ENOUGH: u32 = MOST_DEVICES as u32;
/// What it costs in steps to get hold of a thing (from experience, no published source).
fn trouble(price: Price) -> f64 {
    match price {
        Price::Nothing => 0.0,
        Price::Household => 0.3,
        Price::Little => 0.8,
        Price::Bought => 2.0,
    }
}

/// The treatment that fits and takes least, what has to be got hold of counted in. `None` where no device known gets there.
pub(super) fn would_do(question: &Question, now: &Assessment) -> Option<WouldDo> {
    let owned = |device: DeviceKind| question.shelf.iter().filter(|item| item.device == device).map(|item| item.count).sum::<u32>();
    let made = |device: DeviceKind| question.shelf.iter().find(|item| item.device == device).and_then(|item| item.made);
    // Of things of the player's own there are as many as there are, and who lets no lugs slack will not for this.
    let may_get = |device: DeviceKind| !question.limits.nothing_bought || device_info(device).price == Price::Household;
    let count = |device: DeviceKind| {
        if device.is_own() || device.is_tuning() || !may_get(device) { owned(device) } else { owned(device).max(ENOUGH) }
    };
    let shelf = DeviceKind::ALL.map(|device| ShelfItem { device, count: count(device), made: made(device) });
    let screened = question.screened(&shelf)?;
    let mut treatments: Vec<Vec<Placement>> = Vec::new();
    let most = question.limits.most_things();
    for (keep, most) in [(12, most), (8, 1)] {
        let best = screened.best(&question.wanted, keep, &Among { most, allow: &|_| true, turned: true, patience: question.patience });
        treatments.extend(
            best.into_iter().map(|ranked| ranked.placements).filter(|placements| !treatments.contains(placements)).collect::<Vec<_>>(),
        );
    }
    let missing = |placements: &[Placement]| -> Vec<Missing> {
        let needed = |device| placements.iter().filter(|placement| placement.device == device).count() as u32;
        DeviceKind::ALL
            .into_iter()
            .map(|device| Missing { device, count: needed(device).saturating_sub(owned(device)) })
            .filter(|missing| missing.count > 0)
            .collect()
    };
    let priced =
        |missing: &[Missing]| -> f64 { missing.iter().map(|it| f64::from(it.count) * trouble(device_info(it.device).price)).sum() };
    solved(question, &screened, treatments)
        .into_iter()
        .filter(|plan| plan.assessment.fits)
        .map(|plan| (missing(&plan.placements), plan))
        .filter(|(missing, _)| !missing.is_empty())
        .min_by(|a, b| (a.1.cost + priced(&a.0)).total_cmp(&(b.1.cost + priced(&b.0))))
        .map(|(missing, plan)| WouldDo { plan: offered(Offer::WouldDo, &plan, now), missing })
}
