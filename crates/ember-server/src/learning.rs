//! What all treatments that were measured afterwards teach about the devices on the shelf. Nothing learned is kept: it is worked out from
//! the takes, and again only when they have changed, so that a take that is removed or a strike that is left out is unlearned too.

use ember_core::damping::{DeviceTrial, Learned, Made, Placement};
use ember_core::drum::HeadSide;
use ember_core::kick::FrontTrial;
use ember_core::plan::ShelfItem;
use ember_store::{MeasuredTreatment, Store, StoreError};
use std::sync::{Arc, Mutex, PoisonError};

/// Trials of openings that are learned from, the newest first: each costs a few ms whenever the page is opened.
const MOST_FRONT_TRIALS: usize = 6;
/// Treatments of the other end among which they are looked for.
const LOOKED_BACK: usize = 40;

/// The last answer, with what it was worked out from.
#[derive(Default)]
pub struct Learning {
    kept: Mutex<Option<(Vec<DeviceTrial>, Arc<Learned>)>>,
}

impl Learning {
    /// What `trials` teach, in order of time.
    pub fn of(&self, trials: &[DeviceTrial]) -> Arc<Learned> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        let learned = match &*kept {
            Some((from, learned)) if from == trials => return learned.clone(),
            // As a rule one test has come in.
            Some((from, learned)) if trials.starts_with(from) => Arc::new(learned.and(&trials[from.len()..])),
            _ => Arc::new(Learned::from_trials(trials)),
        };
        *kept = Some((trials.to_vec(), learned.clone()));
        learned
    }
}

/// Those of `measured` that are tests: placements of an older file may no longer fit their drum, and what is learned of a thing of the
/// user's own counts as long as it is what it was.
pub fn tests(mut measured: Vec<MeasuredTreatment>, shelf: &[ShelfItem]) -> Vec<MeasuredTreatment> {
    let measures = |made: Made| (made.length_m, made.width_m, made.mass_kg);
    let same = |placement: &Placement| {
        let now = shelf.iter().find(|item| item.device == placement.device).and_then(|item| item.made);
        placement.made.is_none_or(|made| now.is_some_and(|now| measures(now) == measures(made)))
    };
    measured.retain(|test| test.treatment.plan.placements.iter().all(|it| it.validate(&test.drum.drum).is_ok() && same(it)));
    measured
}

/// `placements` with things of the user's own as they stand on the shelf, where it is not said what they are: what was on a drum once
/// stays what it was, whatever has its place now.
pub fn as_on_shelf(mut placements: Vec<Placement>, shelf: &[ShelfItem]) -> Vec<Placement> {
    for placement in placements.iter_mut().filter(|placement| placement.device.is_own()) {
        let on_shelf = || shelf.iter().find(|item| item.device == placement.device).and_then(|item| item.made);
        placement.made = placement.made.or_else(on_shelf);
    }
    placements
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

/// The newest measured treatments in which the drum's other end was closed otherwise for a while and nothing else was on, newest first: what
/// they teach about openings. A drum whose other head was changed since began otherwise, and a simulated drum teaches nothing about a real one.
pub fn front_trials(store: &Store) -> Result<Vec<FrontTrial>, StoreError> {
    let mut trials = Vec::new();
    for test in store
        .front_tests(LOOKED_BACK)?
        .iter()
        .rev()
        .filter(|test| test.treatment.plan.placements.is_empty() && test.open.source == test.found.source)
    {
        let Some(front) = &test.treatment.plan.front else { continue };
        let changes = store.head_changes(test.drum.id)?;
        if changes.iter().any(|change| change.side == HeadSide::Lower && change.seq > test.treatment.seq) {
            continue;
        }
        trials.push(FrontTrial {
            drum: test.drum.drum.clone(),
            before: test.open.partials.clone(),
            before_profile: test.open.summary.profile.clone(),
            front: front.clone(),
            after: test.found.partials.clone(),
        });
        if trials.len() == MOST_FRONT_TRIALS {
            break;
        }
    }
    Ok(trials)
}
