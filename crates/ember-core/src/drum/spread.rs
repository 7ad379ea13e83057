//! What has no head whose modes are known: a cymbal, looked at by octaves, or anything else that is struck, looked at by its own partials.
//! Each moves by itself, and what lies on it takes from it by how much moves there on the mean.

use super::plate::Plate;
use super::{Drum, DrumModel, ModeShape};
use crate::numeric::bisect;
use crate::tone::Tone;
use crate::tone::{HeardBy, Partial};
use crate::units::{decay_rate, metres};
use num_complex::Complex64;
use std::f64::consts::{FRAC_PI_2, PI};
use std::sync::LazyLock;

/// Moving mass per area of what is not known, kg/m2: about that of a film head with its air. The first test with a device corrects it, by way
/// of how strong the device seems.
const UNKNOWN_AREAL_MASS: f64 = 0.5;

/// How motion is spread over a thing without known modes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Spread {
    Plate(Plate),
    /// Evenly, with so many kg/m2.
    Even(f64),
}

impl Spread {
    /// Of `drum`; none where its heads' modes are known.
    pub fn of(drum: &Drum) -> Option<Self> {
        match () {
            () if drum.kind.is_metal() => Some(Self::Plate(Plate::of(drum))),
            () if drum.kind.has_heads() => None,
            () => {
                let area = PI * (metres(drum.diameter_in) / 2.0).powi(2);
                Some(Self::Even(drum.weight_g.map_or(UNKNOWN_AREAL_MASS, |weight_g| 1e-3 * weight_g / area)))
            }
        }
    }

    /// Modes that stand for what is heard at one place, an octave or a tone.
    fn kinds(&self) -> usize {
        match self {
            Self::Plate(_) => RAYS * 4,
            Self::Even(_) => 1,
        }
    }

    /// Squared displacement of the modes that sound at `hz`, summed over `points` (part of the radius, angle, share of the area), for a modal
    /// mass of 1 kg per m2, m2/kg.
    fn held(&self, hz: f64, points: &[(f64, f64, f64)]) -> Vec<f64> {
        match self {
            Self::Plate(plate) => held_of_plate(plate, hz, points),
            Self::Even(areal_mass) => vec![points.iter().map(|(_, _, share)| share).sum::<f64>() / areal_mass],
        }
    }
}

/// A cymbal is round, so that its waves keep their sense of turning: those that run along the edge never come near the middle. A wave that
/// turns with `l` (0: through the middle, 1: along the edge) reaches as far in as the radius `l` and is, on the mean, 1 / (2 sqrt(r^2 - l^2)
/// sqrt(1 - l^2)) of all its motion at each radius beyond; of all modes sqrt(1 - l^2) 4 / pi turn so (the ray limit of the modes of a disc:
/// Weyl's count by nodal diameters). Groups of as many modes each are taken, and in each those that have a device under an antinode or a node,
/// across and along the radius.
fn held_of_plate(plate: &Plate, hz: f64, points: &[(f64, f64, f64)]) -> Vec<f64> {
    let wave = plate.wave_number(hz) * plate.radius;
    let octave = plate.octave(hz);
    let gains: Vec<f64> = points.iter().map(|(r, _, _)| octave.gain(*r)).collect();
    let mut held = Vec::with_capacity(RAYS * 4);
    for ray in 0..RAYS {
        let (from, to, middle) = (TURNS[2 * ray], TURNS[2 * ray + 2], TURNS[2 * ray + 1]);
        let (mut sum, mut across, mut along) = (0.0, Complex64::ZERO, Complex64::ZERO);
        for ((r, angle, share), gain) in points.iter().zip(&gains) {
            let reached = |turn: f64| (turn / r.max(1e-6)).min(1.0).asin();
            let part = share * gain * RAYS as f64 * (reached(to) - reached(from)) / FRAC_PI_2;
            sum += part;
            // Each point stands for its share of the area, over which phases run on.
            let (cell, turning) = ((PI * share).sqrt(), (middle / r.max(1e-6)).min(1.0));
            across += part * blurred(wave * turning * cell) * Complex64::cis(2.0 * middle * wave * angle);
            // Near the edge all modes are in step; deeper in each is somewhere else.
            let out_of_step = 1.0 - (-(wave * (1.0 - r) / PI).powi(2)).exp();
            let inwards = wave * (r * r - middle * middle).max(0.0).sqrt();
            along += part * out_of_step * blurred(wave * (1.0 - turning * turning).sqrt() * cell) * Complex64::cis(2.0 * inwards);
        }
        let part = |of: Complex64| if sum > 0.0 { (of.norm() / sum).min(1.0) } else { 0.0 };
        let (across, along) = (part(across), part(along));
        for (a, b) in [(1.0, 1.0), (1.0, -1.0), (-1.0, 1.0), (-1.0, -1.0)] {
            held.push(sum * (1.0 + a * across) * (1.0 + b * along) / plate.areal_mass);
        }
    }
    held
}

/// What a phase that runs from -`half` to `half` leaves on the mean.
fn blurred(half: f64) -> f64 {
    match half {
        0.0 => 1.0,
        half if half < PI => half.sin() / half,
        _ => 0.0,
    }
}

/// Groups of modes by how they turn.
const RAYS: usize = 6;

/// Bounds and middles of the groups, 0 to 1: as many modes lie between each two of them.
static TURNS: LazyLock<Vec<f64>> = LazyLock::new(|| {
    let below = |turn: f64| (turn.asin() + turn * (1.0 - turn * turn).sqrt()) / FRAC_PI_2;
    let at = |share: f64| bisect(0.0, 1.0, 50, |turn| below(turn) < share);
    (0..=2 * RAYS).map(|i| at(i as f64 / (2 * RAYS) as f64)).collect()
});

/// The one amplitude decay rate, 1/s, that T20 would find in modes of the same strength that decay at `rates`: from 5 to 25 dB below the
/// start of their backward-integrated energy.
pub fn mixed_rate(rates: &[f64]) -> f64 {
    if let [rate] = rates {
        return *rate;
    }
    let left = |t: f64| rates.iter().map(|rate| (-2.0 * rate * t).exp() / rate).sum::<f64>();
    let slowest = rates.iter().copied().fold(f64::INFINITY, f64::min);
    let time = |db: f64| {
        let wanted = left(0.0) * 10f64.powf(-db / 10.0);
        // No later than the slowest would take for all of it and its own part.
        let latest = (db / 10.0 * 10f64.ln() + (rates.len() as f64).ln()) / (2.0 * slowest);
        bisect(0.0, latest, 40, |t| left(t) > wanted)
    };
    10f64.ln() / (time(25.0) - time(5.0))
}

/// The model of `drum`, which has no known modes: each of `partials` is one by itself. `None` where the decay of none is known.
pub(super) fn spread_out(drum: &Drum, spread: Spread, partials: &[Partial]) -> Option<DrumModel> {
    let partials: Vec<Partial> = partials
        .iter()
        .filter(|partial| partial.t60_s.is_some())
        .enumerate()
        // Labels keep them apart; an octave has its own.
        .map(|(i, partial)| Partial {
            tone: partial.tone.filter(|_| drum.kind.is_metal()).or(Some(Tone::Number(i as u16 + 1))),
            ..partial.clone()
        })
        .collect();
    let modes: Vec<ModeShape> = partials
        .iter()
        .flat_map(|partial| std::iter::repeat_n(partial, spread.kinds()))
        .map(|partial| ModeShape {
            tone: partial.tone.unwrap_or(Tone::Number(0)),
            hz: partial.hz,
            decay: partial.t60_s.map_or(0.0, decay_rate),
            level_db: partial.level_db,
            heard: true,
            batter: Vec::new(),
            lower: Vec::new(),
        })
        .collect();
    let batter_hz = partials.first()?.hz;
    let body = HeardBy::Partials.body(&partials).and_then(|body| partials[body].tone);
    Some(DrumModel {
        modes,
        radius: drum.radius(),
        batter_hz,
        lower_hz: None,
        partials,
        body,
        membrane: Vec::new(),
        spread: Some(spread),
        air: 0.0,
        film_mass: 0.0,
        film_omegas: Vec::new(),
    })
}

impl DrumModel {
    /// Squared displacement of every mode, summed over `points`, where that is all that is known of their shapes.
    pub fn held(&self, points: &[(f64, f64, f64)]) -> Option<Vec<f64>> {
        let spread = self.spread.as_ref()?;
        Some(self.modes.iter().step_by(spread.kinds()).flat_map(|mode| spread.held(mode.hz, points)).collect())
    }

    /// Whether nothing is known of where it moves.
    pub fn is_unknown(&self) -> bool {
        matches!(self.spread, Some(Spread::Even(_)))
    }

    /// Whether each mode moves by itself, several of one label making up what is heard at its pitch.
    pub fn is_spread(&self) -> bool {
        self.spread.is_some()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use proptest::prelude::*;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(40))]
        /// What lies evenly on all of a cymbal takes evenly from all its modes: viscous damping, closed form, loss over mass per area.
        #[test]
        fn what_covers_all_of_it_takes_from_all_modes_alike(hz in 500f64..8000.0) {
            let drum = BenchDrum::usual(DrumKind::Cymbal);
            // Anywhere, by chance: along no line with which modes could be in step.
            let mut rng = StdRng::seed_from_u64(3);
            let mut anywhere = || (rng.random::<f64>().sqrt(), rng.random_range(0.0..2.0 * PI), 1.0 / 20_000.0);
            let points: Vec<(f64, f64, f64)> = (0..20_000).map(|_| anywhere()).collect();
            let held = Spread::of(&drum).unwrap().held(hz, &points);
            let even = 1.0 / Plate::of(&drum).areal_mass;
            let mean = held.iter().sum::<f64>() / held.len() as f64;
            prop_assert!((mean / even - 1.0).abs() < 0.05, "{mean} {even}");
            prop_assert!(held.iter().all(|one| (one / even - 1.0).abs() < 0.6), "{held:?} {even}");
        }

        /// The slowest of many is heard last: a mixture decays no faster than its mean and no slower than its slowest; alike ones as one.
        #[test]
        fn a_mixture_decays_between_its_slowest_and_its_mean(rates in prop::collection::vec(0.3f64..30.0, 1..30)) {
            let mixed = mixed_rate(&rates);
            let slowest = rates.iter().copied().fold(f64::INFINITY, f64::min);
            prop_assert!(mixed > 0.999 * slowest && mixed < 1.001 * rates.iter().sum::<f64>() / rates.len() as f64);
            prop_assert!((mixed_rate(&[rates[0]; 5]) / rates[0] - 1.0).abs() < 1e-6);
        }
    }
}
