//! What all treatments that were measured afterwards teach about the devices on the shelf. Nothing learned is kept: it is worked out from
//! the takes, and again only when they have changed, so that a take that is removed or a strike that is left out is unlearned too.

use ember_core::damping::{DeviceTrial, Learned};
use ember_store::MeasuredTreatment;
use std::sync::{Arc, Mutex, PoisonError};

/// The newest tests that are learned from: heads and devices age, and each costs some milliseconds.
const MOST_TESTS: usize = 60;

/// The last answer, with what it was worked out from.
#[derive(Default)]
pub struct Learning {
    kept: Mutex<Option<(Vec<DeviceTrial>, Arc<Learned>)>>,
}

impl Learning {
    /// What `trials` teach, in order of time.
    pub fn of(&self, trials: &[DeviceTrial]) -> Arc<Learned> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((from, learned)) = &*kept
            && from == trials
        {
            return learned.clone();
        }
        let learned = Arc::new(Learned::from_trials(trials));
        *kept = Some((trials.to_vec(), learned.clone()));
        learned
    }
}

/// The newest of `measured` that are tests: placements of an older file may no longer fit their drum.
pub fn tests(mut measured: Vec<MeasuredTreatment>) -> Vec<MeasuredTreatment> {
    measured.retain(|test| test.treatment.plan.placements.iter().all(|placement| placement.validate(&test.drum.drum).is_ok()));
    measured.split_off(measured.len().saturating_sub(MOST_TESTS))
}

/// `tests` as the core takes them.
pub fn trials(tests: &[MeasuredTreatment]) -> Vec<DeviceTrial> {
    let trial = |test: &MeasuredTreatment| DeviceTrial {
        drum: test.drum.drum.clone(),
        open: test.open.partials.clone(),
        open_profile: test.open.summary.profile.clone(),
        placements: test.treatment.plan.placements.clone(),
        found: test.found.partials.clone(),
    };
    tests.iter().map(trial).collect()
}
