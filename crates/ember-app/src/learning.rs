//! What all treatments that were measured afterwards teach about the devices on the shelf. It is worked out from the takes, and again only
//! when they have changed, so that a take that is removed or a strike that is left out is unlearned too. What came out is kept with the key of
//! what it came from: the next start begins with it, and each new test carries it forward.

use ember_core::damping::MODEL;
use ember_core::damping::{DeviceTrial, Learned, Made, Placement};
use ember_core::decay::METHOD;
use ember_core::drum::HeadSide;
use ember_core::kick::{FrontTrial, opening_strength};
use ember_core::numeric::LogNormal;
use ember_core::plan::ShelfItem;
use ember_store::{MeasuredTreatment, Store, StoreError};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::{Arc, Mutex, PoisonError};

/// Trials of openings that are learned from, the newest first: each costs a few ms whenever the page is opened.
const MOST_FRONT_TRIALS: usize = 6;
/// Treatments of the other end among which they are looked for.
const LOOKED_BACK: usize = 12;

/// Tests as the store gives them.
pub type Measured = Arc<Vec<MeasuredTreatment>>;

/// Tests and shelf as they were seen last, and what they teach.
type Seen = (Measured, Vec<ShelfItem>, Arc<Learned>);

/// The last answer, with what it was worked out from.
#[derive(Default)]
pub struct Learning {
    kept: Mutex<Option<(Vec<DeviceTrial>, Arc<Learned>)>>,
    /// The same by what the store gave, which is quicker to compare.
    seen: Mutex<Option<Seen>>,
    /// What was kept from before the program started, under the key of its trials.
    recalled: Mutex<Option<(String, Arc<Learned>)>>,
    /// What was worked out since it was last kept.
    unkept: Mutex<Option<(String, Arc<Learned>)>>,
}

impl Learning {
    /// With what the store has kept; what cannot be read of it is worked out again.
    pub fn recalling(store: &Store) -> Self {
        let recalled =
            store.learned().ok().flatten().and_then(|(key, content)| Some((key, Arc::new(serde_json::from_str(&content).ok()?))));
        Self { recalled: Mutex::new(recalled), ..Self::default() }
    }

    /// What those of `measured` teach that are tests with what is on the `shelf`. As long as nothing was written, `measured` is the very same,
    /// and nothing of it is looked at.
    pub fn of_tests(&self, measured: &Measured, shelf: &[ShelfItem]) -> Arc<Learned> {
        if let Some((from, with, learned)) = &*locked(&self.seen)
            && Arc::ptr_eq(from, measured)
            && with == shelf
        {
            return learned.clone();
        }
        let learned = self.of(&trials(&tests(measured, shelf)));
        *locked(&self.seen) = Some((measured.clone(), shelf.to_vec(), learned.clone()));
        learned
    }

    /// What `trials` teach, in order of time.
    pub fn of(&self, trials: &[DeviceTrial]) -> Arc<Learned> {
        let mut kept = locked(&self.kept);
        if let Some((from, learned)) = &*kept
            && from == trials
        {
            return learned.clone();
        }
        let key = key_of(trials);
        let recalled = locked(&self.recalled).take().filter(|(from, _)| *from == key).map(|(_, learned)| learned);
        let is_new = recalled.is_none();
        let learned = match (&*kept, recalled) {
            (_, Some(recalled)) => recalled,
            // As a rule one test has come in.
            (Some((from, learned)), None) if trials.starts_with(from) => Arc::new(learned.and(&trials[from.len()..])),
            _ => Arc::new(Learned::from_trials(trials)),
        };
        *kept = Some((trials.to_vec(), learned.clone()));
        if is_new && !trials.is_empty() {
            *locked(&self.unkept) = Some((key, learned.clone()));
        }
        learned
    }

    /// What is to be kept, as a key and a text; none where all is.
    pub fn to_keep(&self) -> Option<(String, String)> {
        let (key, learned) = locked(&self.unkept).take()?;
        serde_json::to_string(&*learned).ok().map(|content| (key, content))
    }
}

/// A text that changes with `trials` and with the program's version, whose learning may be another.
fn key_of(trials: &[DeviceTrial]) -> String {
    let mut hasher = DefaultHasher::new();
    (env!("CARGO_PKG_VERSION"), METHOD, MODEL, format!("{trials:?}")).hash(&mut hasher);
    format!("{:016x}", hasher.finish())
}

fn locked<T>(mutex: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Those of `measured` that are tests: placements of an older file may no longer fit their drum, and what is learned of a thing of the
/// user's own counts as long as it is what it was.
pub fn tests<'a>(measured: &'a [MeasuredTreatment], shelf: &[ShelfItem]) -> Vec<&'a MeasuredTreatment> {
    let measures = |made: Made| (made.length_m, made.width_m, made.mass_kg);
    let same = |placement: &Placement| {
        let now = shelf.iter().find(|item| item.device == placement.device).and_then(|item| item.made);
        placement.made.is_none_or(|made| now.is_some_and(|now| measures(now) == measures(made)))
    };
    let counts = |test: &&MeasuredTreatment| {
        test.treatment.plan.placements.iter().all(|placement| placement.validate(&test.drum.drum).is_ok() && same(placement))
    };
    measured.iter().filter(counts).collect()
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
pub fn trials(tests: &[&MeasuredTreatment]) -> Vec<DeviceTrial> {
    let trial = |test: &&MeasuredTreatment| DeviceTrial {
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

/// What `trials` teach about openings ([`opening_strength`]). The last answer is remembered, since every page of the other end asks for it
/// and a full set of trials takes tens of milliseconds.
pub fn opening(trials: &[FrontTrial]) -> LogNormal {
    type Taught = (Vec<FrontTrial>, LogNormal);
    static LAST: Mutex<Option<Taught>> = Mutex::new(None);
    if let Some((from, opening)) = &*locked(&LAST)
        && from == trials
    {
        return *opening;
    }
    let opening = opening_strength(trials);
    *locked(&LAST) = Some((trials.to_vec(), opening));
    opening
}

#[cfg(test)]
mod tests_of_keeping {
    use super::*;
    use ember_core::bench_drum::BenchDrum;
    use ember_core::drum::DrumKind;
    use ember_core::tone::Tone;
    use ember_core::tone::{DecayProfile, Partial};

    fn trial(found_s: f64) -> DeviceTrial {
        let partial = |hz: f64, t60: f64, mode: &str| Partial {
            hz,
            t60_s: Some(t60),
            t60_sd_s: Some(0.01 * t60),
            t60_scatter_s: None,
            level_db: 0.0,
            tone: Tone::read(mode),
        };
        let open = vec![partial(140.0, 0.9, "(0,1)"), partial(222.0, 0.8, "(1,1)")];
        DeviceTrial {
            drum: BenchDrum::usual(DrumKind::Tom),
            open_profile: DecayProfile::of_partials(&open),
            open,
            placements: vec![Placement::parse("gel_pad:1:0.85:90").unwrap()],
            found: vec![partial(139.0, 0.8 * found_s, "(0,1)"), partial(221.0, found_s, "(1,1)")],
        }
    }

    #[test]
    fn what_was_learned_is_there_after_a_start_and_carried_on_from() {
        let mut store = Store::in_memory().unwrap();
        let (first, second) = (trial(0.5), trial(0.4));
        let before = Learning::default();
        let learned = before.of(std::slice::from_ref(&first));
        let (key, content) = before.to_keep().unwrap();
        assert!(before.to_keep().is_none(), "once");
        store.keep_learned(&key, &content).unwrap();
        let after = Learning::recalling(&store);
        assert!(*after.of(std::slice::from_ref(&first)) == *learned, "to the last digit");
        assert!(after.to_keep().is_none(), "nothing was worked out");
        let both = [first, second];
        assert!(*after.of(&both) == *Learning::default().of(&both));
        // Of other trials it says nothing.
        assert!(*Learning::recalling(&store).of(&both[1..]) == *Learning::default().of(&both[1..]));
        store.keep_learned(&key, "{}").unwrap();
        assert!(*Learning::recalling(&store).of(&both) == *Learning::default().of(&both), "what cannot be read is worked out again");
    }
}
