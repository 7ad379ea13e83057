//! The other drums of the kit by their partials, and the drum's own.

use ember_core::decay::{Partial, Remark, StrikeMeasurement, is_octave, other_drum, rings_along};
use ember_store::{Store, StoreError};

/// What is known about a drum and the others around it. Where nothing is, every strike is believed.
#[derive(Debug, Clone, Default)]
pub struct Neighbours {
    own: Vec<Partial>,
    others: Vec<(String, Vec<Partial>)>,
}

impl Neighbours {
    pub fn of(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        let on = store.treatment_on(drum_id)?.map(|treatment| treatment.id);
        // What is put on a drum changes lengths, hardly pitches: its open take still tells it from the others.
        let own = match store.newest_take(drum_id, on)? {
            Some(take) => Some(take),
            None => store.newest_take(drum_id, None)?,
        };
        let own = own.map(|take| take.partials).unwrap_or_default();
        // Octaves are the same on every cymbal: they tell nothing apart.
        if store.drum(drum_id)?.drum.kind.is_metal() {
            return Ok(Self { own, others: Vec::new() });
        }
        let mut others = store.partials_of_others(drum_id)?;
        others.retain(|(_, partials)| !partials.iter().any(is_octave));
        Ok(Self { own, others })
    }

    fn others(&self) -> Vec<&[Partial]> {
        self.others.iter().map(|(_, partials)| partials.as_slice()).collect()
    }

    /// Name of the drum that a strike was surely on instead.
    pub fn struck_instead(&self, partials: &[Partial]) -> Option<&str> {
        other_drum(partials, &self.own, &self.others()).map(|index| self.others[index].0.as_str())
    }

    /// Notes on `measurement` that another drum rings along, if one does.
    pub fn note(&self, measurement: &mut StrikeMeasurement) {
        if rings_along(&measurement.partials, &self.own, &self.others()) {
            measurement.remarks.push(Remark::SecondDrum);
        }
    }
}
