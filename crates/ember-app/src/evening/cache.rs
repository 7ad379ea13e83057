//! Setups kept from one question to the next: only what changed is screened again.

use super::question::{EveningQuestion, KnownDrum};
use ember_core::Patience;
use ember_core::damping::DeviceKind;
use ember_core::plan::{Screened, Setup, Sound, choose};
use ember_core::target::Wanted;
use ember_core::tone::Partial;
use ember_store::KeptTake;
use ember_words::Said;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// Setups worked out before, by drum.
#[derive(Default)]
pub struct SetupCache {
    kept: Mutex<HashMap<i64, Kept>>,
}

struct Kept {
    screened_for: String,
    screened: Arc<Screened>,
    chosen_for: String,
    chosen: Arc<Vec<Setup>>,
}

/// Why there is no setup of a drum to choose from.
#[derive(Debug, thiserror::Error, Said)]
pub enum NoSetups {
    /// It was not struck with nothing on it.
    #[said("{name}: not measured open yet. Hit it on the bench.")]
    NotMeasured {
        /// Its name.
        name: String,
    },
    /// None of its tones is clearly its body.
    #[said("{name}: no clear body was found in its strikes. Measure it again, closer to the head.")]
    NoBody {
        /// Its name.
        name: String,
    },
    /// What it depends on has no key.
    #[said("{}", .0.to_string())]
    NoKey(#[from] serde_json::Error),
}

impl SetupCache {
    /// The setups of `drum` to choose from.
    pub fn setups(
        &self,
        question: &EveningQuestion,
        drum: &KnownDrum,
        wishes: &[Wanted],
        patience: Patience,
    ) -> Result<Arc<Vec<Setup>>, NoSetups> {
        let name = || drum.drum.drum.name.clone();
        let Some(open) = &drum.open else { return Err(NoSetups::NotMeasured { name: name() }) };
        let strengths = question.learned.on(&drum.drum.drum);
        let known = DeviceKind::ALL.map(|kind| strengths.of(kind)).to_vec();
        let screened_for = as_key(&(&drum.drum.drum, &open.partials, &question.shelf, question.limits, known, strengths.own_tones()))?;
        let mut known = vec![(Vec::new(), sound(open))];
        known.extend(drum.found.iter().map(|(placements, take)| (placements.clone(), sound(take))));
        let named = drum.named.iter().map(|(_, placements)| placements.clone());
        let must: Vec<_> = question.settled_placements(drum).into_iter().chain(named).collect();
        let partials: Vec<&[Partial]> = known.iter().map(|(_, sound)| sound.partials.as_slice()).collect();
        let chosen_for = as_key(&(&partials, &must, wishes, drum.found.as_ref().map(|(placements, _)| placements)))?;
        let before = self.locked(|kept| {
            kept.get(&drum.drum.id)
                .filter(|kept| kept.screened_for == screened_for)
                .map(|kept| (kept.screened.clone(), (kept.chosen_for == chosen_for).then(|| kept.chosen.clone())))
        });
        let screened = match before {
            Some((_, Some(chosen))) => return Ok(chosen),
            Some((screened, None)) => screened,
            None => {
                let screened = Screened::new(&drum.drum.drum, &open.partials, &question.shelf, &question.limits, &strengths);
                Arc::new(screened.ok_or_else(|| NoSetups::NoBody { name: name() })?)
            }
        };
        let chosen = Arc::new(choose(&screened, &known, &must, wishes, patience));
        // What was cut short would be taken for the best later on.
        if patience.is_over() {
            return Ok(chosen);
        }
        let kept = Kept { screened_for, screened, chosen_for, chosen: chosen.clone() };
        self.locked(|all| all.insert(drum.drum.id, kept));
        Ok(chosen)
    }

    fn locked<T>(&self, work: impl FnOnce(&mut HashMap<i64, Kept>) -> T) -> T {
        work(&mut self.kept.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// What something depends on, to tell whether it changed. What has no key is an error: with an empty one, other drums' plans would pass for its own.
fn as_key(of: &impl serde::Serialize) -> serde_json::Result<String> {
    serde_json::to_string(of)
}

fn sound(take: &KeptTake) -> Sound {
    Sound { partials: take.partials.clone(), profile: take.summary.profile.clone() }
}
