//! What is known of one drum at one moment, read in one go: nothing that is worked out from it mixes two states of the data.

use crate::Refusal;
use crate::learning::{Learning, Measured, as_on_shelf};
use ember_core::Patience;
use ember_core::damping::{Placement, Strengths};
use ember_core::drum::Drum;
use ember_core::plan::{Question, ShelfItem, validate_layout};
use ember_core::target::{Liking, OpenSound, Wanted};
use ember_store::{KeptDrum, KeptTake, KeptTreatment, Scene, Store, StoreError};

/// One drum as it is: what is wanted of it, what is on it, and how it sounds.
#[derive(Debug, Clone)]
pub struct DrumSnapshot {
    /// What is known about the drum.
    pub drum: KeptDrum,
    /// What decides a wish.
    pub scene: Scene,
    /// What is wanted of it tonight.
    pub wanted: Wanted,
    /// What is on the drum; none where it is open.
    pub on: Option<KeptTreatment>,
    /// The take of the open drum that everything starts from: the one its treatment started from, or the newest.
    pub open: Option<KeptTake>,
    /// The newest take with the treatment on that counts.
    pub found: Option<KeptTake>,
    /// Whether rods were turned after the drum was last heard as it is now.
    pub turned_since: bool,
}

impl DrumSnapshot {
    /// Reads the drum in tonight's scene.
    pub fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        Self::of(store, store.drum(drum_id)?, &store.scene()?)
    }

    /// Reads the rest of `drum` in `scene`.
    pub fn of(store: &Store, drum: KeptDrum, scene: &Scene) -> Result<Self, StoreError> {
        let on = store.treatment_on(drum.id)?;
        let open = match &on {
            Some(on) => Some(store.take(on.open_take_id)?),
            None => store.newest_take(drum.id, None)?,
        };
        let found = match &on {
            Some(on) => store.newest_take(drum.id, Some(on.id))?,
            None => None,
        };
        let sound = open.as_ref().map(|take| OpenSound::new(&take.partials, &take.summary));
        let liking = Liking::of(&store.opinions(drum.drum.kind.role(), &scene.tonight.music.genre)?);
        let wanted = scene.wanted(&drum.drum, sound.as_ref()).as_liked(liking, sound.as_ref());
        let as_it_is = if on.is_some() { found.as_ref() } else { open.as_ref() };
        let turned = store.last_turned(drum.id)?;
        let turned_since = as_it_is.is_some_and(|take| take.seq < turned);
        Ok(Self { wanted, on, open, found, turned_since, drum, scene: scene.clone() })
    }

    /// What is known about the drum.
    pub fn drum(&self) -> &Drum {
        &self.drum.drum
    }

    /// The take of the open drum, without which nothing can be foretold.
    pub fn measured_open(&self) -> Result<&KeptTake, Refusal> {
        self.open.as_ref().ok_or(Refusal::NotMeasured)
    }

    /// The newest take of the drum as it is now, with what is on it.
    pub fn as_it_is(&self) -> Option<&KeptTake> {
        if self.on.is_some() { self.found.as_ref() } else { self.open.as_ref() }
    }
}

/// The take of the open drum that everything starts from: the one its treatment started from, or the newest.
pub fn open_take(store: &Store, drum_id: i64) -> Result<Option<KeptTake>, StoreError> {
    match store.treatment_on(drum_id)? {
        Some(on) => store.take(on.open_take_id).map(Some),
        None => store.newest_take(drum_id, None),
    }
}

/// One drum with all that a plan for it needs.
#[derive(Debug, Clone)]
pub struct PlanSnapshot {
    /// The drum as it is.
    pub now: DrumSnapshot,
    /// What is owned.
    pub shelf: Vec<ShelfItem>,
    /// Treatments that were measured afterwards, on all drums.
    pub measured: Measured,
}

impl PlanSnapshot {
    /// Reads the drum in tonight's scene with what a plan needs.
    pub fn read(store: &Store, drum_id: i64) -> Result<Self, StoreError> {
        Ok(Self { now: DrumSnapshot::read(store, drum_id)?, shelf: store.shelf()?, measured: store.device_tests()? })
    }

    /// What is known about the drum.
    pub fn drum(&self) -> &Drum {
        self.now.drum()
    }

    /// How strong devices are on this drum, as far as tests tell.
    pub fn strengths(&self, learning: &Learning) -> Strengths {
        learning.of_tests(&self.measured, &self.shelf).on(self.drum())
    }

    /// What `work` makes of the open drum with tonight's wish.
    pub fn asked<T>(&self, learning: &Learning, patience: Patience, work: impl FnOnce(&Question) -> Option<T>) -> Result<T, Refusal> {
        let open = self.now.measured_open()?;
        let question = Question {
            drum: self.drum(),
            partials: &open.partials,
            profile: &open.summary.profile,
            wanted: self.now.wanted.clone(),
            shelf: &self.shelf,
            limits: self.now.scene.limits,
            strengths: &self.strengths(learning),
            patience,
        };
        work(&question).ok_or(Refusal::NoBody)
    }

    /// `placements` as things on the shelf are, where each of them fits `drum`; there may be none.
    pub fn fitting(&self, placements: &[Placement], drum: &Drum) -> Result<Vec<Placement>, Refusal> {
        let placements = as_on_shelf(placements.to_vec(), &self.shelf);
        placements.iter().try_for_each(|placement| placement.validate(drum))?;
        Ok(placements)
    }

    /// `placements` as things on the shelf are, where they make a treatment: some, and not in each other's place.
    pub fn laid(&self, placements: Vec<Placement>) -> Result<Vec<Placement>, Refusal> {
        let placements = as_on_shelf(placements, &self.shelf);
        validate_layout(self.drum(), &placements)?;
        Ok(placements)
    }
}
