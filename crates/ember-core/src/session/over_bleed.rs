//! How far a drum's hits stand above what the rest of the kit sends into its own microphone.

use super::ears::Event;
use super::given::{GHOST_NOTE_DB, Given};
use crate::microphones::OverBleed;
use crate::units::decibels;

/// So few hits or moments tell nothing.
const FEWEST: usize = 4;
/// Nine strokes in ten are louder than the softest one that counts; 19 moments in 20 send less than the loudest.
const SOFTEST: f64 = 0.1;
const LOUDEST: f64 = 0.95;
/// What lies so near to a hit of the drum itself does not tell what others send, s.
const BESIDE_S: f64 = 0.1;

/// Where the hits on `drum` and what the rest of the kit sends lie in the microphone of channel `own`, which stands at it. None where too few of either were
/// heard.
pub fn over_bleed(events: &[Event], given: &Given, drum: usize, own: usize) -> Option<OverBleed> {
    let power = |event: usize| -> f64 { events[event].gained[own].iter().sum() };
    let mine: Vec<(usize, f64)> = given.hits.iter().filter(|hit| hit.drum == drum).map(|hit| (hit.event, hit.level_db)).collect();
    let strokes = mine.iter().filter(|hit| hit.1 >= GHOST_NOTE_DB);
    // What a full stroke gains, told by the hits themselves: each is so much softer than it as its level says.
    let full = strokes.map(|(event, level_db)| power(*event) * 10f64.powf(-level_db / 10.0));
    let full = quantile(full.collect(), 0.5)?;
    // So near to a hit of its own the microphone gains what that one still grows by.
    let beside_a_hit = |event: &usize| mine.iter().any(|(hit, _)| (events[*event].at_s - events[*hit].at_s).abs() < BESIDE_S);
    let others = (0..events.len()).filter(|event| !beside_a_hit(event)).map(power);
    let bleed = quantile(others.collect(), LOUDEST)?;
    Some(OverBleed { stroke_db: softest(&mine, false)?, ghost_db: softest(&mine, true), bleed_db: 0.5 * decibels(bleed / full) })
}

/// Level of the softest of `hits` (moment, level in dB) that are ghost notes, or that are none.
fn softest(hits: &[(usize, f64)], ghosts: bool) -> Option<f64> {
    let levels = hits.iter().map(|hit| hit.1).filter(|level_db| (*level_db < GHOST_NOTE_DB) == ghosts);
    quantile(levels.collect(), SOFTEST)
}

fn quantile(mut values: Vec<f64>, at: f64) -> Option<f64> {
    if values.len() < FEWEST {
        return None;
    }
    values.sort_by(f64::total_cmp);
    Some(values[((values.len() - 1) as f64 * at).round() as usize])
}

#[cfg(test)]
mod tests {
    use super::super::given::{give, tests::made_up};
    use super::*;
    use proptest::prelude::*;
    use rand::{SeedableRng, rngs::StdRng};

    proptest! {
        /// The made-up kit is struck up to 6 dB softer than its loudest, and sends 14 to 30 dB less into the others' microphones.
        #[test]
        fn bleed_lies_as_far_under_the_hits_as_it_was_sent(seed in any::<u64>(), drums in 2usize..6) {
            let made_up = made_up(drums, 20 * drums, &mut StdRng::seed_from_u64(seed));
            let given = give(&made_up.events, &made_up.drums, None);
            for drum in 0..drums {
                let over = over_bleed(&made_up.events, &given, drum, drum).expect("hits and others enough");
                prop_assert!((-9.0..0.5).contains(&over.stroke_db) && over.ghost_db.is_none(), "{over:?}");
                // Two drums at once send up to 3 dB more.
                prop_assert!((-37.0..-10.0).contains(&over.bleed_db), "{over:?}");
            }
        }
    }

    #[test]
    fn a_drum_that_is_hardly_hit_tells_nothing() {
        let made_up = made_up(3, 30, &mut StdRng::seed_from_u64(1));
        let mut given = give(&made_up.events, &made_up.drums, None);
        given.hits.retain(|hit| hit.drum != 1 || hit.event < 3);
        let of = |drum: usize| over_bleed(&made_up.events, &given, drum, drum);
        assert!(of(0).is_some() && of(1).is_none());
    }
}
