//! Takes that are not what they say they are, on the simulated drum: a pad forgotten, another drum hit; and takes that are right although the device
//! is not as strong as is assumed.

use crate::common::{Measured, measured, random_treatment};
use ember_core::bench_drum::BenchDrum;
use ember_core::damping::{Expectation, Open, Placement, Predictor};
use ember_core::drum::DrumKind;
use ember_core::plan::{Doubt, doubted};
use ember_core::tone::{DecayProfile, Partial};
use rand::{SeedableRng, rngs::StdRng};
use rayon::prelude::*;

const KINDS: [DrumKind; 3] = [DrumKind::Tom, DrumKind::FloorTom, DrumKind::Snare];
const TREATMENTS: usize = 12;

/// A treatment of one of [`KINDS`] with what is expected of it.
struct Case {
    kind: usize,
    placements: Vec<Placement>,
    /// The open drum's partials by their names, and its profile.
    open: Vec<Partial>,
    profile: DecayProfile,
    expected: Expectation,
}

impl Case {
    /// What speaks against `found`.
    fn against(&self, found: &Measured) -> Option<Doubt> {
        doubted(&self.open, &self.expected, &found.partials)
    }

    /// Whether body and ring should be clearly shorter: a take without it is then to be noticed.
    fn does_much(&self) -> bool {
        let kept = |pick: fn(&DecayProfile) -> Option<f64>| {
            pick(&self.expected.profile).zip(pick(&self.profile)).map_or(1.0, |(is, was)| is / was)
        };
        kept(|p| p.ring_t60_s) < 0.6 && kept(|p| p.body_t60_s) < 0.8
    }
}

fn play(kind: DrumKind, placements: &[Placement], seed: u64) -> Measured {
    measured(&BenchDrum::new(&BenchDrum::usual(kind), placements).unwrap().play(3, seed))
}

fn case(index: usize, open: &[Measured]) -> Case {
    let kind = index % KINDS.len();
    let (drum, open) = (BenchDrum::usual(KINDS[kind]), &open[kind]);
    let mut rng = StdRng::seed_from_u64(500 + index as u64);
    let placements = random_treatment(&mut rng, &drum, |kind| !kind.is_tuning(), |_| 1 + index % 2, 0.5..0.9);
    let predictor = Predictor::new(&drum, &open.partials).unwrap();
    let grips: Vec<_> = placements.iter().map(|placement| predictor.grip(placement)).collect();
    let given = Open { partials: &open.partials, profile: &open.summary.profile };
    let expected = predictor.expect(&given, &placements, &grips.iter().collect::<Vec<_>>());
    Case { kind, placements, open: predictor.model.partials, profile: open.summary.profile.clone(), expected }
}

#[test]
fn a_forgotten_pad_and_another_drum_are_noticed_and_right_takes_are_not_doubted() {
    let played = |seed: u64| KINDS.par_iter().map(|kind| play(*kind, &[], seed)).collect::<Vec<_>>();
    let (open, again) = (played(7), played(19));
    let cases: Vec<Case> = (0..TREATMENTS).map(|index| case(index, &open)).collect();
    // The simulated drum's devices are as strong as its hidden truth says, and not as is assumed.
    let right: Vec<_> = cases.par_iter().map(|case| case.against(&play(KINDS[case.kind], &case.placements, 7))).collect();
    let forgotten: Vec<_> = cases.iter().filter(|case| case.does_much()).map(|case| case.against(&again[case.kind])).collect();
    let other: Vec<_> = cases.iter().map(|case| case.against(&again[(case.kind + 1) % KINDS.len()])).collect();
    println!("right {right:?}\nforgotten {forgotten:?}\nother drum {other:?}");
    assert!(right.iter().all(Option::is_none), "{right:?}");
    assert!(forgotten.len() >= 5 && forgotten.iter().all(|said| *said == Some(Doubt::NothingOn)), "{forgotten:?}");
    // Drums of one kit share pitches here and there.
    let noticed = other.iter().flatten().count();
    assert!(10 * noticed >= 9 * other.len() && !other.contains(&Some(Doubt::NothingOn)), "{other:?}");
}
