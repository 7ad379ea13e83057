//! How the other drums of the kit sound, and the drum itself.

use ember_core::decay::{Remark, StrikeMeasurement, Voice, is_octave, other_drum, rings_along};
use ember_store::{KeptTake, Store, StoreError};

/// What is known about a drum and the others around it. Where nothing is, every strike is believed.
#[derive(Debug, Clone, Default)]
pub struct Neighbours {
    own: Option<KeptTake>,
    /// By name.
    others: Vec<(String, KeptTake)>,
}

impl Neighbours {
    /// Reads how the drum and the others of the kit sound.
    pub fn of(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let on = store.treatment_on(drum_id)?.map(|treatment| treatment.id);
        // What is put on a drum changes lengths, hardly pitches: its open take still tells it from the others.
        let own = match store.newest_take(drum_id, on)? {
            Some(take) => Some(take),
            None => store.newest_take(drum_id, None)?,
        };
        // Octaves are the same on every cymbal: they tell nothing apart.
        if store.drum(drum_id)?.drum.kind.is_metal() {
            return Ok(Self { own, others: Vec::new() });
        }
        let mut others = store.takes_of_others(drum_id)?;
        others.retain(|(_, take)| !take.partials.iter().any(is_octave));
        Ok(Self { own, others })
    }

    /// The same without what `take` itself says of its drum: what was known before it.
    pub fn before(mut self, store: &Store, take: &KeptTake) -> Result<Self, StoreError> {
        if self.own.as_ref().is_some_and(|own| own.id == take.id) {
            self.own = store.takes(take.drum_id, Some(take.id), 1)?.0.into_iter().next();
        }
        Ok(self)
    }

    fn others(&self) -> Vec<Voice<'_>> {
        self.others.iter().map(|(_, take)| voice(take)).collect()
    }

    /// Number and name of the drum that a strike was surely on instead.
    pub fn struck_instead(&self, strike: &StrikeMeasurement) -> Option<(i64, &str)> {
        let (name, take) = &self.others[other_drum(strike.voice(), self.own.as_ref().map(voice), &self.others())?];
        Some((take.drum_id, name))
    }

    /// Notes on `measurement` that another drum rings along, if one does.
    pub fn note(&self, measurement: &mut StrikeMeasurement) {
        let own = self.own.as_ref().map_or(&[][..], |take| &take.partials);
        if rings_along(&measurement.partials, own, &self.others().iter().map(|other| other.partials).collect::<Vec<_>>()) {
            measurement.remarks.push(Remark::SecondDrum);
        }
    }
}

fn voice(take: &KeptTake) -> Voice<'_> {
    Voice { partials: &take.partials, spectrum_db: &take.summary.spectrum_db }
}
