//! Plans that were carried out: what is on a drum, and what was on it before.

use crate::snapshot::DrumSnapshot;
use crate::views::TreatmentView;
use ember_core::plan::validate_layout;
use ember_core::target::{Assessment, assess};
use ember_store::{KeptTreatment, Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// Treatments among which they are looked for: those with names, and the newest.
const MOST_LOOKED_AT: usize = 120;
/// Layouts from before that are listed.
const MOST_BEFORE: usize = 40;

/// What was on the drum before, once.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct UsedBefore {
    /// How often this very layout was on the drum.
    pub times: usize,
    /// What was put on.
    pub treatment: TreatmentView,
    /// How the drum sounded with it, held against what is wanted now; as expected where it was not measured.
    pub assessment: Assessment,
    /// Whether it was measured.
    pub measured: bool,
}

/// Every layout that was on the drum before: those with names first, then the newest.
pub fn used_before(store: &Store, drum_id: i64) -> Result<Vec<UsedBefore>, StoreError> {
    let DrumSnapshot { drum, wanted, .. } = DrumSnapshot::read(store, drum_id)?;
    let all = store.treatments(drum_id, MOST_LOOKED_AT)?;
    let fits = |kept: &KeptTreatment| validate_layout(&drum.drum, &kept.plan.placements).is_ok();
    let mut before: Vec<UsedBefore> = Vec::new();
    for kept in all.into_iter().filter(|kept| fits(kept)) {
        if let Some(same) = before.iter_mut().find(|same| same.treatment.plan.plan.placements == kept.plan.placements) {
            // The newest one stands for all, but a name stays.
            same.treatment.name = same.treatment.name.take().or(kept.name);
            continue;
        }
        let found = store.newest_take(drum_id, Some(kept.id))?;
        let treatment = TreatmentView::new(kept, &drum.drum, &wanted);
        let attack = Some(treatment.plan.plan.expected.attack_lost_db);
        let heard = found.as_ref().map(|take| assess(&take.partials, &take.summary.profile, &wanted, attack));
        before.push(UsedBefore {
            times: 1,
            measured: heard.is_some(),
            assessment: heard.unwrap_or_else(|| treatment.plan.plan.assessment.clone()),
            treatment,
        });
    }
    before.sort_by_key(|used| used.treatment.name.is_none());
    before.truncate(MOST_BEFORE);
    for used in &mut before {
        used.times = store.times_used(drum_id, used.treatment.id)?;
    }
    Ok(before)
}

/// `kept` as it stands against what is wanted now.
pub fn treatment_view(store: &Store, kept: KeptTreatment) -> Result<TreatmentView, StoreError> {
    let DrumSnapshot { drum, wanted, .. } = DrumSnapshot::read(store, kept.drum_id)?;
    Ok(TreatmentView::new(kept, &drum.drum, &wanted))
}
