//! What lies in or on a drum while its other end is closed otherwise, as the motions that move air as a whole meet it.

use crate::blow::{Blow, HELD, held_at};
use crate::damping::{Expectation, Patch, Placement, Prior, REFERENCE_HZ, Strengths};
use crate::drum::{Drum, HeadSide, MembraneMode};
use nalgebra::{DMatrix, DVector};

/// Rounds in which it is brought into agreement, how far that may go, and how little it must take for there to be something to agree on.
const ROUNDS: usize = 4;
const MOST_TIMES: f64 = 8.0;
const LEAST: f64 = 0.02;

/// What is laid in: where it presses on which head, and what it takes from the air between them.
#[derive(Debug, Clone)]
pub(super) struct Laid {
    presses: Vec<Press>,
    /// The beater that stays in the head, where one does.
    beater: Option<Press>,
    /// How much stronger it acts than motions that move air as a whole would say by themselves: what presses on one side lets a head move on
    /// the other, in modes that are not among them.
    times: f64,
    /// Areal resistance to air that is squeezed, N s/m3.
    pub air: f64,
    /// What is expected of the drum with it as the drum is now.
    pub alone: Expectation,
}

/// One piece on one head: resistance (N s/m3 at [`REFERENCE_HZ`]), how it grows with frequency, mass (kg/m2), and how far each pair of
/// modes overlaps under it.
#[derive(Debug, Clone)]
struct Press {
    side: HeadSide,
    resistance: f64,
    exponent: f64,
    mass: f64,
    overlap: DMatrix<f64>,
}

impl Press {
    /// `patch` of a head whose axial membrane modes are `modes`, pressing on it as `prior` says.
    fn new(patch: &Patch, prior: &Prior, modes: &[MembraneMode]) -> Self {
        let mut overlap = DMatrix::zeros(modes.len(), modes.len());
        for (r, _, share) in patch.outline.points() {
            let shapes = DVector::from_fn(modes.len(), |k, _| modes[k].radial(r));
            overlap.ger(patch.contact * share, &shapes, &shapes, 1.0);
        }
        Self { side: patch.side, resistance: prior.resistance, exponent: prior.exponent, mass: prior.mass, overlap }
    }
}

impl Laid {
    /// `placements` on `drum`, whose axial membrane modes are `modes`, and a beater that is left in its head after `held`; `alone` is what is expected
    /// of them where nothing else changes.
    pub fn new(
        drum: &Drum,
        alone: Expectation,
        placements: &[Placement],
        held: Option<Blow>,
        strengths: &Strengths,
        modes: &[MembraneMode],
    ) -> Self {
        let strong = |placement: &Placement| strengths.ln(placement.device, placement.head_family(drum)).0.exp();
        let press = |placement: &Placement| {
            let prior = placement.prior();
            let (resistance, mass) = (prior.resistance * strong(placement), prior.mass * strengths.mass_ln(placement.device).0.exp());
            let prior = Prior { resistance, mass, exponent: prior.exponent + strengths.steeper(placement.device).0, ..prior };
            placement.patches(drum).into_iter().map(|patch| Press::new(&patch, &prior, modes)).collect::<Vec<_>>()
        };
        let beater = held.map(|blow| Press::new(&held_at(drum, blow), &HELD, modes));
        Self {
            presses: placements.iter().flat_map(press).collect(),
            beater,
            times: 1.0,
            air: placements.iter().map(|placement| strong(placement) * placement.air_loss(drum)).sum(),
            alone,
        }
    }

    /// The same without the beater: for what the head does to a beater that comes.
    pub fn without_beater(&self) -> Self {
        Self { beater: None, ..self.clone() }
    }

    /// The same, so strong that the body decays at `wanted` where nothing else changes (1/s); `bare` is its decay with nothing laid in, and
    /// `decay` what the motions give.
    pub fn agreed(mut self, bare: f64, wanted: f64, decay: impl Fn(&Self) -> Option<f64>) -> Self {
        for _ in 0..ROUNDS {
            let Some(now) = decay(&self).filter(|now| *now > (1.0 + LEAST) * bare) else { break };
            self.times = (self.times * (wanted - bare) / (now - bare)).clamp(1.0 / MOST_TIMES, MOST_TIMES);
        }
        self
    }

    /// Loss (1/s) and mass that it adds to a head of `areal_mass` (kg/m2) whose modes alone sound at `hz`, in coordinates of unit mass.
    pub fn on(&self, side: HeadSide, areal_mass: f64, hz: &[f64]) -> (DMatrix<f64>, DMatrix<f64>) {
        let size = hz.len();
        let mut sum = (DMatrix::zeros(size, size), DMatrix::zeros(size, size));
        for press in self.presses.iter().chain(&self.beater).filter(|press| press.side == side) {
            let growth = DMatrix::from_diagonal(&DVector::from_fn(size, |k, _| (hz[k] / REFERENCE_HZ).powf(0.5 * press.exponent)));
            sum.0 += self.times * press.resistance / areal_mass * (&growth * &press.overlap * &growth);
            sum.1 += press.mass / areal_mass * &press.overlap;
        }
        sum
    }
}
