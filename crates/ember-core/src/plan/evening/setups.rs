//! The setups that an evening chooses from: for each drum the few that serve its songs best, out of the whole grid.

use super::change::is_much_like;
use crate::Patience;
use crate::damping::{Open, Placement};
use crate::plan::best::Among;
use crate::plan::judge::Judge;
use crate::plan::screened::Screened;
use crate::plan::weight::{Prospect, effort};
use crate::target::{Steps, Tails, Wanted};
use crate::tone::{DecayProfile, Partial};
use rayon::prelude::*;

/// Most setups for one drum.
pub const MOST_SETUPS: usize = 30;
/// Treatments that each song puts forward.
const FORWARD: usize = 10;
/// Most devices that are put on or taken off between two songs.
const MOST_BETWEEN_SONGS: usize = 2;

/// A drum as it sounds in one state.
#[derive(Debug, Clone, PartialEq)]
pub struct Sound {
    /// The partials, low to high.
    pub partials: Vec<Partial>,
    /// The few figures that it comes down to.
    pub profile: DecayProfile,
}

/// One way to leave a drum.
pub struct Setup {
    /// Empty: open.
    pub placements: Vec<Placement>,
    /// As measured or as expected.
    pub sound: Sound,
    /// Whether it was measured like this.
    pub measured: bool,
    /// Attack that it gives up, dB.
    pub attack_lost_db: f64,
    pub(super) prospect: Prospect,
}

impl Setup {
    fn measured(placements: Vec<Placement>, sound: Sound) -> Self {
        let attack_lost_db = crate::plan::weight::attack(&placements);
        let tails = Tails::new(&sound.partials, &sound.profile, (!placements.is_empty()).then_some(attack_lost_db));
        Self { prospect: Prospect::certain(tails), measured: true, attack_lost_db, placements, sound }
    }

    fn expected(placements: Vec<Placement>, open: &Sound, screened: &Screened) -> Self {
        let expected = screened.expect(&Open { partials: &open.partials, profile: &open.profile }, &placements);
        Self {
            prospect: Prospect::new(&expected),
            measured: false,
            attack_lost_db: expected.attack_lost_db,
            placements,
            sound: Sound { partials: expected.partials, profile: expected.profile },
        }
    }

    /// Geometric mean of the decay times of body and ring, s: looks are ordered by it.
    pub(super) fn length(&self) -> Option<f64> {
        let body = self.sound.profile.body_t60_s?;
        Some((body * self.sound.profile.ring_t60_s.unwrap_or(body)).sqrt())
    }

    /// Steps off, some of the doubt, and what it takes away.
    pub fn cost(&self, wanted: &Wanted) -> Steps {
        Steps::new(self.prospect.cost(&self.placements, wanted))
    }
}

/// Chooses setups for the songs' `wishes`: the `known` ones (the open drum first; placements and how they sounded), those of
/// `must`, and of the grid those that lower the sum of all songs' costs most, one after the other; then parts of them, which are
/// quick to reach. No two of them differ by less than a hand's width in the place of something, but where that was measured, named or pinned.
pub fn choose(
    screened: &Screened,
    known: &[(Vec<Placement>, Sound)],
    must: &[Vec<Placement>],
    wishes: &[Wanted],
    patience: Patience,
) -> Vec<Setup> {
    let Some((_, open)) = known.first() else { return Vec::new() };
    let radius = screened.predictor.drum.radius();
    let mut chosen: Vec<Vec<Placement>> = Vec::new();
    let mut setups: Vec<Setup> = Vec::new();
    for (placements, sound) in known {
        if !chosen.contains(placements) {
            chosen.push(placements.clone());
            setups.push(Setup::measured(placements.clone(), sound.clone()));
        }
    }
    let measured = setups.len();
    for placements in must {
        if !chosen.contains(placements) {
            chosen.push(placements.clone());
        }
    }
    let mut least: Vec<f64> = wishes
        .iter()
        .map(|wanted| setups.iter().map(|s| s.cost(wanted).get() + effort(&s.placements)).fold(f64::INFINITY, f64::min))
        .collect();
    let mut forward: Vec<Vec<Placement>> = Vec::new();
    for placements in wishes.iter().flat_map(|wanted| put_forward(screened, wanted, patience)) {
        if !forward.iter().any(|other| is_much_like(other, &placements, radius)) {
            forward.push(placements);
        }
    }
    let judges: Vec<Judge> = wishes.iter().map(|wanted| Judge::new(&screened.model, wanted)).collect();
    let costs = |placements: &Vec<Placement>| {
        let sketched = screened.sketched(placements);
        judges.iter().map(|judge| sketched.cost(judge)).collect::<Vec<f64>>()
    };
    let costs: Vec<Vec<f64>> = forward.par_iter().map(costs).collect();
    while chosen.len() < MOST_SETUPS {
        let gain = |costs: &Vec<f64>| costs.iter().zip(&least).map(|(cost, least)| (least - cost).max(0.0)).sum::<f64>();
        let best = (0..forward.len()).map(|i| (gain(&costs[i]), i)).max_by(|a, b| a.0.total_cmp(&b.0));
        let Some((_, best)) = best.filter(|(gain, _)| *gain > 1e-6) else { break };
        for (least, cost) in least.iter_mut().zip(&costs[best]) {
            *least = least.min(*cost);
        }
        if !chosen.iter().any(|other| is_much_like(other, &forward[best], radius)) {
            chosen.push(forward[best].clone());
        }
    }
    for part in parts(&chosen) {
        let is_there = |setup: &Vec<Placement>| is_like(setup, &part) || is_much_like(setup, &[part], radius);
        if chosen.len() < MOST_SETUPS && !chosen.iter().any(is_there) {
            chosen.push(vec![part]);
        }
    }
    let expected: Vec<Setup> =
        chosen.into_par_iter().skip(measured).map(|placements| Setup::expected(placements, open, screened)).collect();
    setups.extend(expected);
    setups
}

/// The treatments that serve one song best, and the best single devices: between songs there is no time for more than two.
fn put_forward(screened: &Screened, wanted: &Wanted, patience: Patience) -> Vec<Vec<Placement>> {
    let best = |keep: usize, most: usize| screened.best(wanted, keep, &Among { most, allow: &|_| true, turned: false, patience });
    best(FORWARD / 2, 1).into_iter().chain(best(FORWARD, MOST_BETWEEN_SONGS)).map(|ranked| ranked.placements).collect()
}

/// Every device of the setups that have several.
fn parts(setups: &[Vec<Placement>]) -> Vec<Placement> {
    setups.iter().filter(|setup| setup.len() > 1).flatten().copied().collect()
}

/// Whether `setup` is `part` alone. Wherever it lies on its circle, one pad alone is the same.
fn is_like(setup: &[Placement], part: &Placement) -> bool {
    matches!(setup, [other] if other == part || part.has_angle() && Placement { angle_deg: part.angle_deg, ..*other } == *part)
}
