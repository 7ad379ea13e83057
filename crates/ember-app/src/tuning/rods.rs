//! Rods of the simulated drum: what they pull follows from what was turned here.

use ember_core::bench_drum::{BenchDrum, rods_pull};
use ember_core::damping::InvalidPlacement;
use ember_core::drum::HeadSide;
use ember_store::{KeptDrum, KeptTreatment, Store, StoreError, turned_in_all};

/// A simulated head's rods: of which chance they are, and what each was turned since it was put on, eighths.
pub struct SimulatedRods {
    /// Which chance it is made of.
    pub seed: u64,
    /// What each rod was turned since the head was put on, eighths.
    pub eighths: Vec<i32>,
}

/// Reads what the rods of a head were turned: by advice, by hand, and on purpose.
pub fn simulated_rods(store: &Store, drum: &KeptDrum, side: HeadSide) -> Result<SimulatedRods, StoreError> {
    let lugs = usize::from(drum.drum.lugs);
    let mut eighths = turned_in_all(&store.rounds(drum.id, side)?, lugs);
    if let Some(uneven) = store.newest_uneven(drum.id, side)?.filter(|uneven| uneven.ended_at.is_none()) {
        eighths.iter_mut().zip(&uneven.eighths).for_each(|(sum, down)| *sum += down);
    }
    // Each head that was put on is uneven in its own way, and stays so.
    let heads = store.head_changes(drum.id)?.iter().filter(|change| change.side == side).count() as u64;
    Ok(SimulatedRods { seed: 2 * drum.id.unsigned_abs() + u64::from(side == HeadSide::Lower) + 1000 * heads, eighths })
}

/// The stand-in for a drum of the kit as it is tuned and with what `on` says is on it.
pub fn simulated_drum(
    store: &Store,
    drum: &KeptDrum,
    on: Option<&KeptTreatment>,
) -> Result<Result<BenchDrum, InvalidPlacement>, StoreError> {
    let pull = |side| simulated_rods(store, drum, side).map(|rods| rods_pull(rods.seed, &rods.eighths));
    let (batter, lower) = (pull(HeadSide::Batter)?, pull(HeadSide::Lower)?);
    let placements = on.map(|on| on.plan.placements.as_slice()).unwrap_or_default();
    let front = on.and_then(|on| on.plan.front.as_ref());
    let as_it_is = front.map_or_else(|| drum.drum.clone(), |front| drum.drum.with_front(front));
    Ok(BenchDrum::new(&as_it_is, placements).map(|simulated| simulated.with_rods(&batter, &lower)))
}
