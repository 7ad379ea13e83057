//! A drum as a set of modes: two membranes joined by the spring of the air between them, brought into agreement with what
//! was measured.
//!
//! Only modes that move air as a whole (m = 0) feel that spring; in them both heads take part, and what lies on the lower
//! head acts on them. All others live in the batter head alone.

use super::Drum;
use super::air::air_spring;
use super::membrane::{MembraneMode, modes_up_to};
use super::spread::{Spread, spread_out};
use crate::bisect::bisect;
use crate::decay::Partial;
use crate::units::{decay_rate, t60};
use nalgebra::DMatrix;
use std::f64::consts::PI;

/// Highest zero of the modes kept: with pairs about 40 modes, up to five times the body's pitch.
const HIGHEST_ZERO: f64 = 12.3;
/// Lower-head modes that take part in the air's motion.
const LOWER_MODES: usize = 4;
/// How far (relative) a partial may lie from where the air between the heads puts a mode.
const AXIAL_TOLERANCE: f64 = 0.035;
/// Areal resistance of air moving between the heads, what each vent adds to it, and of sound radiated by a head, N s/m3 (from
/// experience, no source).
const AIR_LOSS: f64 = 5.0;
const VENT_LOSS: f64 = 8.0;
const RADIATION_LOSS: f64 = 5.0;
/// Level of a mode that was not heard, dB below the loudest.
const UNHEARD_DB: f64 = -60.0;

/// Which head.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum HeadSide {
    Batter,
    /// The lower head, or the front head of a kick.
    Lower,
}

/// One mode of the whole drum, normalised to a modal mass of 1 kg per m2 of head.
#[derive(Debug, Clone)]
pub struct ModeShape {
    pub label: String,
    pub hz: f64,
    /// Amplitude decay rate as measured, 1/s.
    pub decay: f64,
    /// Level at the strike against the loudest partial, dB.
    pub level_db: f64,
    /// (index into the batter's membrane modes, share)
    pub(super) batter: Vec<(usize, f64)>,
    pub(super) lower: Vec<(usize, f64)>,
}

/// The drum as a vibrating thing in the state in which it was measured.
#[derive(Debug, Clone)]
pub struct DrumModel {
    pub modes: Vec<ModeShape>,
    /// Radius of the heads, m.
    pub radius: f64,
    /// Pitch of the batter head's own lowest mode, Hz.
    pub batter_hz: f64,
    /// The measured partials, with the labels that this drum gives them.
    pub partials: Vec<Partial>,
    pub(super) membrane: Vec<MembraneMode>,
    /// Where nothing is known of modes' shapes: how motion is spread.
    pub(super) spread: Option<Spread>,
}

impl DrumModel {
    /// The model of `drum` that agrees with `partials` as measured on it. `None` without a body to start from.
    pub fn fit(drum: &Drum, partials: &[Partial]) -> Option<Self> {
        if let Some(spread) = Spread::of(drum) {
            return spread_out(drum, spread, partials);
        }
        let body = partials.iter().find(|p| p.mode.as_deref() == Some("(0,1)"))?;
        let membrane = modes_up_to(HIGHEST_ZERO);
        let batter_hz = batter_pitch(partials, &membrane).unwrap_or(1.15 * body.hz);
        let modes = coupled_modes(drum, &membrane, batter_hz, body.hz);
        let mut model = Self { modes, radius: drum.radius(), batter_hz, partials: partials.to_vec(), membrane, spread: None };
        model.label_axial_modes();
        model.agree();
        Some(model)
    }

    /// Measured partials that fit no mode; what happens to them is read off their neighbours.
    pub fn strangers(&self) -> impl Iterator<Item = &Partial> {
        self.partials.iter().filter(|p| p.mode.is_none() && p.t60_s.is_some())
    }

    /// Gives the modes in which both heads move the air their labels: where they lie depends on the drum's depth and heads, so
    /// ratios alone cannot find them.
    fn label_axial_modes(&mut self) {
        for mode in self.modes.iter().filter(|mode| !mode.lower.is_empty() && mode.label != "(0,1)") {
            self.partials.iter_mut().filter(|p| p.mode.as_deref() == Some(mode.label.as_str())).for_each(|p| p.mode = None);
            let off = |p: &Partial| (p.hz / mode.hz - 1.0).abs();
            // A second partial under a pair's label is the likelier stranger the nearer it comes to this mode.
            let free = |p: &Partial| p.mode.as_deref() != Some("(0,1)") && off(p) < AXIAL_TOLERANCE;
            if let Some(nearest) = self.partials.iter_mut().filter(|p| free(p)).min_by(|a, b| off(a).total_cmp(&off(b)))
                && (nearest.mode.is_none() || off(nearest) < 0.4 * AXIAL_TOLERANCE)
            {
                nearest.mode = Some(mode.label.clone());
            }
        }
    }

    /// Displacement of mode `index` at a point of a head: radius 0 to 1, angle in radians from the player's side.
    pub fn shapes_at(&self, side: HeadSide, r: f64, angle: f64) -> Vec<f64> {
        let membrane: Vec<f64> = self.membrane.iter().map(|mode| mode.shape(r, angle)).collect();
        let sum = |parts: &[(usize, f64)]| parts.iter().map(|(i, share)| share * membrane[*i]).sum();
        self.modes.iter().map(|mode| if side == HeadSide::Batter { sum(&mode.batter) } else { sum(&mode.lower) }).collect()
    }

    /// The batter head's tension in the spring that drives each mode back, and between two modes: against the modes' whole springs (for two modes
    /// the root of their product). What is left of a mode's own is the lower head's and the air's between them.
    pub fn batter_tension(&self) -> DMatrix<f64> {
        // Shares are for a modal mass of 1, so that those of a mode that the batter has to itself tell the head's mass.
        let alone = self.modes.iter().find(|mode| mode.lower.is_empty()).and_then(|mode| mode.batter.first());
        let mass = alone.map_or(0.0, |(_, share)| share.powi(-2));
        let size = self.modes.len();
        let mut tension = DMatrix::identity(size, size);
        let axial: Vec<usize> = (0..size).filter(|k| !self.modes[*k].lower.is_empty()).collect();
        for (a, b) in axial.iter().flat_map(|a| axial.iter().map(|b| (*a, *b))) {
            let (one, other) = (&self.modes[a], &self.modes[b]);
            let own_hz = |index: usize| self.batter_hz * self.membrane[index].zero / self.membrane[0].zero;
            let of = |((index, share), (_, others)): (&(usize, f64), &(usize, f64))| share * others * own_hz(*index).powi(2);
            tension[(a, b)] = mass * one.batter.iter().zip(&other.batter).map(of).sum::<f64>() / (one.hz * other.hz);
        }
        tension
    }

    /// Whether mass on it lowers what is measured of it: the octaves in which a cymbal is heard stay where they are.
    pub fn moves_pitch(&self) -> bool {
        !matches!(self.spread, Some(Spread::Plate(_)))
    }

    /// How far each mode squeezes the air between the heads, per its displacement: the difference of the heads' means.
    pub fn squeezes(&self) -> Vec<f64> {
        let mean = |parts: &[(usize, f64)]| -> f64 { parts.iter().map(|(i, share)| share * self.membrane[*i].volume()).sum() };
        self.modes.iter().map(|mode| if mode.lower.is_empty() { 0.0 } else { mean(&mode.batter) - mean(&mode.lower) }).collect()
    }

    fn agree(&mut self) {
        let partials = &self.partials;
        // Decay between measured partials: straight in log rate over pitch, flat outside.
        let mut known: Vec<(f64, f64)> = partials.iter().filter_map(|p| p.t60_s.map(|t| (p.hz, decay_rate(t).ln()))).collect();
        known.sort_by(|a, b| a.0.total_cmp(&b.0));
        for mode in &mut self.modes {
            let same: Vec<&Partial> = partials.iter().filter(|p| p.mode.as_deref() == Some(mode.label.as_str())).collect();
            if let Some(loudest) = same.iter().max_by(|a, b| a.level_db.total_cmp(&b.level_db)) {
                mode.hz = loudest.hz;
                mode.decay = loudest.t60_s.map_or_else(|| interpolate(&known, loudest.hz).exp(), decay_rate);
                mode.level_db = loudest.level_db;
            } else {
                mode.decay = interpolate(&known, mode.hz).exp();
                mode.level_db = UNHEARD_DB;
            }
        }
    }
}

/// Pitch of the batter head's own lowest mode, from its overtones that the enclosed air leaves alone.
fn batter_pitch(partials: &[Partial], membrane: &[MembraneMode]) -> Option<f64> {
    let scales: Vec<f64> = membrane
        .iter()
        .filter(|mode| mode.m > 0 && mode.zero < 8.0)
        .flat_map(|mode| partials.iter().filter(|p| p.mode.as_deref() == Some(mode.label().as_str())).map(|p| p.hz / mode.zero))
        .collect();
    crate::units::median(&scales).map(|scale| scale * membrane[0].zero)
}

fn coupled_modes(drum: &Drum, membrane: &[MembraneMode], batter_hz: f64, body_hz: f64) -> Vec<ModeShape> {
    let batter_mass = drum.areal_mass(drum.batter);
    let unit = |mode: &MembraneMode, index: usize| ModeShape {
        label: mode.label(),
        hz: mode.zero / membrane[0].zero * batter_hz,
        decay: 0.0,
        level_db: UNHEARD_DB,
        batter: vec![(index, 1.0 / batter_mass.sqrt())],
        lower: Vec::new(),
    };
    let mut modes: Vec<ModeShape> = membrane.iter().enumerate().filter(|(_, mode)| mode.m > 0).map(|(i, mode)| unit(mode, i)).collect();
    let Some(lower_head) = drum.lower_film() else {
        modes.extend(membrane.iter().enumerate().filter(|(_, mode)| mode.m == 0).map(|(i, mode)| unit(mode, i)));
        return modes;
    };
    let air = AxialAir { drum, membrane, batter_hz, batter_mass, lower_mass: drum.areal_mass(lower_head) };
    // The lower head's own pitch is whatever makes the body sound where it was heard.
    let lower_hz = bisect(0.25 * batter_hz, 4.0 * batter_hz, 40, |lower_hz| air.solve(lower_hz)[0].0 < body_hz);
    let mut taken: Vec<String> = Vec::new();
    for (hz, batter, lower) in air.solve(lower_hz) {
        let label = axial_label(&batter, &lower, &taken);
        taken.push(label.clone());
        modes.push(ModeShape { label, hz, decay: 0.0, level_db: UNHEARD_DB, batter, lower });
    }
    modes
}

/// The lowest motion of both heads together, which is a drum's body.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PairBody {
    pub hz: f64,
    /// Time to fall 60 dB, s, with the losses that such drums usually have. How it changes with the heads' pitches can be trusted
    /// further than itself.
    pub t60_s: f64,
}

/// Body of `drum` from the lowest pitch that each head would have alone, Hz. `None` without a lower head.
///
/// Its decay rate is that of the heads' own losses, each weighed by how much of the motion's energy it has; of air that is
/// squeezed between heads moving against each other and leaks out; and of sound radiated by each head.
pub fn body_of_pair(drum: &Drum, batter_hz: f64, lower_hz: f64) -> Option<PairBody> {
    let membrane = modes_up_to(HIGHEST_ZERO);
    let lower_mass = drum.areal_mass(drum.lower_film()?);
    let air = AxialAir { drum, membrane: &membrane, batter_hz, batter_mass: drum.areal_mass(drum.batter), lower_mass };
    let (hz, batter, lower) = air.solve(lower_hz).into_iter().next()?;
    let (loss, loss_by_wave) = drum.usual_losses();
    let own = |shares: &[(usize, f64)], mass: f64| -> f64 {
        let of =
            |(index, share): &(usize, f64)| share * share * mass * (loss + loss_by_wave * (membrane[*index].zero / drum.radius()).powi(2));
        shares.iter().map(of).sum()
    };
    let mean = |shares: &[(usize, f64)]| -> f64 { shares.iter().map(|(index, share)| share * membrane[*index].volume()).sum() };
    let (up, down) = (mean(&batter), mean(&lower));
    let air_loss = AIR_LOSS + VENT_LOSS * f64::from(drum.vents);
    let decay = own(&batter, air.batter_mass)
        + own(&lower, air.lower_mass)
        + 0.5 * air_loss * (up - down).powi(2)
        + 0.5 * RADIATION_LOSS * (up * up + down * down);
    Some(PairBody { hz, t60_s: t60(decay) })
}

/// Names a motion of both heads after the circle count that most of its energy has. The lower of two such motions has the
/// membrane's own name; in the upper one the heads move against each other.
fn axial_label(batter: &[(usize, f64)], lower: &[(usize, f64)], taken: &[String]) -> String {
    let energy = |n: usize| [batter, lower].iter().filter_map(|shares| shares.get(n)).map(|(_, share)| share * share).sum::<f64>();
    let mut circles: Vec<usize> = (0..batter.len()).collect();
    circles.sort_by(|a, b| energy(*b).total_cmp(&energy(*a)));
    let names = circles.iter().flat_map(|n| [format!("(0,{})", n + 1), format!("(0,{}) opposed", n + 1)]);
    names.into_iter().find(|name| !taken.contains(name)).unwrap_or_default()
}

struct AxialAir<'a> {
    drum: &'a Drum,
    membrane: &'a [MembraneMode],
    batter_hz: f64,
    batter_mass: f64,
    lower_mass: f64,
}

impl AxialAir<'_> {
    /// (Hz, shares of batter modes, shares of lower-head modes), low to high, for a lower head that alone would sound at
    /// `lower_hz`. Air spring per area of head: rho c^2 / depth on the difference of the heads' mean displacements.
    #[allow(clippy::type_complexity)]
    fn solve(&self, lower_hz: f64) -> Vec<(f64, Vec<(usize, f64)>, Vec<(usize, f64)>)> {
        let axial: Vec<usize> = (0..self.membrane.len()).filter(|i| self.membrane[*i].m == 0).collect();
        let lower: Vec<usize> = axial.iter().copied().take(LOWER_MODES).collect();
        let spring = air_spring(self.drum.depth());
        let entry = |row: usize| {
            let (index, own_hz, mass, sign) = if row < axial.len() {
                (axial[row], self.batter_hz, self.batter_mass, 1.0)
            } else {
                (lower[row - axial.len()], lower_hz, self.lower_mass, -1.0)
            };
            let mode = &self.membrane[index];
            let omega = 2.0 * PI * own_hz * mode.zero / self.membrane[0].zero;
            (omega * omega, sign * mode.volume() / mass.sqrt())
        };
        let size = axial.len() + lower.len();
        let rows: Vec<(f64, f64)> = (0..size).map(entry).collect();
        let matrix = DMatrix::from_fn(size, size, |r, c| spring * rows[r].1 * rows[c].1 + if r == c { rows[r].0 } else { 0.0 });
        let eigen = matrix.symmetric_eigen();
        let mut order: Vec<usize> = (0..size).collect();
        order.sort_by(|a, b| eigen.eigenvalues[*a].total_cmp(&eigen.eigenvalues[*b]));
        order
            .into_iter()
            .map(|k| {
                let vector = eigen.eigenvectors.column(k);
                let batter = axial.iter().enumerate().map(|(row, index)| (*index, vector[row] / self.batter_mass.sqrt())).collect();
                let lower =
                    lower.iter().enumerate().map(|(row, index)| (*index, vector[axial.len() + row] / self.lower_mass.sqrt())).collect();
                (eigen.eigenvalues[k].max(0.0).sqrt() / (2.0 * PI), batter, lower)
            })
            .collect()
    }
}

/// Straight lines through `points` (sorted), flat outside; a middling drum's decay where nothing is known.
fn interpolate(points: &[(f64, f64)], x: f64) -> f64 {
    let (Some(first), Some(last)) = (points.first(), points.last()) else { return decay_rate(0.6).ln() };
    if x <= first.0 {
        return first.1;
    }
    match points.windows(2).find(|pair| x <= pair[1].0) {
        Some(pair) if pair[1].0 > pair[0].0 => pair[0].1 + (pair[1].1 - pair[0].1) * (x - pair[0].0) / (pair[1].0 - pair[0].0),
        Some(pair) => pair[1].1,
        None => last.1,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;

    fn partial(hz: f64, mode: &str) -> Partial {
        Partial { hz, t60_s: Some(0.8), t60_sd_s: None, level_db: 0.0, mode: Some(mode.into()) }
    }

    /// Axial pitches of a drum of `depth_in` whose heads alone would sound at 130 and `lower_hz` Hz.
    fn axial(depth_in: f64, lower_hz: f64) -> Vec<f64> {
        let drum = Drum { depth_in, ..BenchDrum::usual(DrumKind::Tom) };
        let membrane = modes_up_to(HIGHEST_ZERO);
        let (batter_mass, lower_mass) = (drum.areal_mass(drum.batter), drum.areal_mass(drum.lower.unwrap()));
        let air = AxialAir { drum: &drum, membrane: &membrane, batter_hz: 130.0, batter_mass, lower_mass };
        air.solve(lower_hz).iter().map(|mode| mode.0).collect()
    }

    #[test]
    fn air_holds_the_heads_together_and_pushes_them_apart_the_more_the_shallower_the_drum() {
        // The lowest mode moves both heads as one; with equal heads the air takes no part in it.
        let equal = axial(8.0, 130.0);
        assert!((equal[0] - 130.0).abs() < 0.5, "{equal:?}");
        assert!(equal[1] > 1.2 * equal[0], "against each other they squeeze the air: {equal:?}");
        let (shallow, deep, endless) = (axial(4.0, 130.0), axial(16.0, 130.0), axial(1e6, 150.0));
        assert!(shallow[1] > equal[1] && equal[1] > deep[1]);
        // Without a spring between them each head keeps its own pitch.
        assert!((endless[0] - 130.0).abs() < 0.1 && (endless[1] - 150.0).abs() < 0.1, "{endless:?}");
    }

    #[test]
    fn the_model_puts_body_and_overtones_where_they_were_heard() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let partials = [partial(140.0, "(0,1)"), partial(214.0, "(1,1)"), partial(287.0, "(2,1)")];
        let model = DrumModel::fit(&drum, &partials).unwrap();
        for heard in &partials {
            let of_label: Vec<f64> = model.modes.iter().filter(|m| Some(&m.label) == heard.mode.as_ref()).map(|m| m.hz).collect();
            assert!(!of_label.is_empty() && of_label.iter().all(|hz| (hz - heard.hz).abs() < 1e-6), "{heard:?}: {of_label:?}");
            assert_eq!(of_label.len(), if heard.mode.as_deref() == Some("(0,1)") { 1 } else { 2 }, "pairs have two members");
        }
        assert!(DrumModel::fit(&drum, &partials[1..]).is_none(), "without a body there is nothing to start from");
    }

    #[test]
    fn a_drum_without_a_lower_head_has_its_batters_modes_only() {
        let drum = Drum { lower: None, ..BenchDrum::usual(DrumKind::Tom) };
        let model = DrumModel::fit(&drum, &[partial(140.0, "(0,1)"), partial(223.0, "(1,1)")]).unwrap();
        assert!(model.modes.iter().all(|mode| mode.lower.is_empty() && !mode.label.contains("opposed")));
        assert!(model.shapes_at(HeadSide::Lower, 0.3, 0.0).iter().all(|shape| *shape == 0.0));
    }

    #[test]
    fn what_was_not_heard_decays_as_its_neighbours_do() {
        assert_eq!(interpolate(&[(100.0, 1.0), (200.0, 3.0)], 150.0), 2.0);
        assert_eq!(interpolate(&[(100.0, 1.0), (200.0, 3.0)], 50.0), 1.0);
        assert_eq!(interpolate(&[(100.0, 1.0), (200.0, 3.0)], 900.0), 3.0);
    }
}
