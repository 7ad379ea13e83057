//! Every treatment on the grid, screened to first order once; what is wanted may change afterwards.

use super::candidates::{Limits, ShelfItem, singles, together};
use super::weight::{attack, effort};
use crate::damping::{Expectation, Grip, Open, Placement, Predictor, Strengths};
use crate::decay::{DecayProfile, Partial};
use crate::drum::Drum;
use crate::target::{Tails, Wanted};
use rayon::prelude::*;

/// One treatment on the grid.
pub struct Candidate {
    pub placements: Vec<Placement>,
    grips: Vec<usize>,
    tails: Tails,
    /// What it takes away and the effort it makes, in steps.
    toll: f64,
}

/// All of them, for one drum as it was measured and one shelf.
pub struct Screened {
    predictor: Predictor,
    strengths: Strengths,
    /// Of every single device in every place, so that none is worked out twice.
    grips: Vec<Grip>,
    pub candidates: Vec<Candidate>,
}

impl Screened {
    /// `partials` of the open drum; `strengths` of the devices as they were learned. `None` where its body is not known.
    pub fn new(drum: &Drum, partials: &[Partial], shelf: &[ShelfItem], limits: &Limits, strengths: &Strengths) -> Option<Self> {
        let predictor = Predictor::new(drum, partials)?;
        let singles = singles(drum, shelf, limits);
        let mut treatments: Vec<Vec<Placement>> = singles.iter().map(|placement| vec![*placement]).collect();
        for (i, a) in singles.iter().enumerate() {
            for b in &singles[i..] {
                treatments.extend(together(a, b, drum, shelf).into_iter().map(|pair| pair.to_vec()));
            }
        }
        let mut placements: Vec<Placement> = Vec::new();
        let indices: Vec<Vec<usize>> = treatments
            .iter()
            .map(|treatment| {
                let place = |placement: &Placement| {
                    placements.iter().position(|other| other == placement).unwrap_or_else(|| {
                        placements.push(*placement);
                        placements.len() - 1
                    })
                };
                treatment.iter().map(place).collect()
            })
            .collect();
        let grips: Vec<Grip> = placements.par_iter().map(|placement| predictor.grip_known(placement, strengths)).collect();
        let candidates = treatments
            .into_par_iter()
            .zip(indices)
            .map(|(treatment, indices)| {
                let partials = predictor.screen(&indices.iter().map(|i| &grips[*i]).collect::<Vec<_>>());
                let attack = attack(&treatment);
                Candidate {
                    tails: Tails::new(&partials, DecayProfile::of_partials(&partials).ring_share, Some(attack)),
                    toll: effort(&treatment) + attack,
                    placements: treatment,
                    grips: indices,
                }
            })
            .collect();
        Some(Self { predictor, strengths: strengths.clone(), grips, candidates })
    }

    /// Steps off, taken away and spent, to first order.
    pub fn cost(&self, candidate: &Candidate, wanted: &Wanted) -> f64 {
        candidate.tails.misfit(wanted) + candidate.toll
    }

    /// The full solve of one candidate.
    pub fn expect(&self, open: &Open, candidate: &Candidate) -> Expectation {
        self.predictor.expect(open, &candidate.placements, &candidate.grips.iter().map(|i| &self.grips[*i]).collect::<Vec<_>>())
    }

    /// The full solve of any treatment, on the grid or not.
    pub fn expect_placed(&self, open: &Open, placements: &[Placement]) -> Expectation {
        let grips: Vec<Grip> = placements.iter().map(|placement| self.predictor.grip_known(placement, &self.strengths)).collect();
        self.predictor.expect(open, placements, &grips.iter().collect::<Vec<_>>())
    }
}
