//! A drum as a set of modes: two membranes with the air in and around them, brought into agreement with what was measured.

use super::Drum;
use super::fit::{Fitted, Fitter, Losses};
use super::head_motions::{HeadMotion, HeadsInAir};
use super::membrane::{Member, MembraneMode, modes_up_to};
use super::spread::{Spread, spread_out};
use crate::tone::Partial;
use crate::tone::Tone;
use crate::units::decay_rate;
use nalgebra::DMatrix;
use std::collections::VecDeque;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::{Mutex, PoisonError};

/// Level of a mode that was not heard, dB below the loudest.
const UNHEARD_DB: f64 = -60.0;
/// So many drums are kept in mind.
const MOST_KNOWN: usize = 24;
/// How far at least what was not heard lies from what was (logarithm).
const APART_LN: f64 = 0.03;

/// Which head.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum HeadSide {
    /// The head that is struck.
    Batter,
    /// The lower head, or the front head of a kick.
    Lower,
}

/// One mode of the whole drum, normalised to a modal mass of 1 kg per m2 of head.
#[derive(Debug, Clone)]
pub struct ModeShape {
    /// Which tone it is.
    pub tone: Tone,
    /// Pitch, Hz.
    pub hz: f64,
    /// Amplitude decay rate as measured, 1/s; where it was not, what films lose and the air takes.
    pub decay: f64,
    /// Level at the strike against the loudest partial, dB.
    pub level_db: f64,
    /// Whether it is one of the measured partials.
    pub heard: bool,
    /// (index into the membrane modes, share), of the batter and of the lower head.
    pub(super) batter: Vec<(usize, f64)>,
    pub(super) lower: Vec<(usize, f64)>,
}

/// The drum as a vibrating thing in the state in which it was measured.
#[derive(Debug, Clone)]
pub struct DrumModel {
    /// Its modes, low to high.
    pub modes: Vec<ModeShape>,
    /// Radius of the heads, m.
    pub radius: f64,
    /// Pitch of the batter head's own lowest mode as its overtones have it, Hz.
    pub batter_hz: f64,
    /// The same of the lower head's; none without one.
    pub lower_hz: Option<f64>,
    /// The measured partials, each with the tone that it is on this drum.
    pub partials: Vec<Partial>,
    /// Which tone the body is; none where no body was found.
    pub body: Option<Tone>,
    /// How far its modes carry air of their own, 0 to 1.
    pub air: f64,
    pub(super) membrane: Vec<MembraneMode>,
    /// Where nothing is known of modes' shapes: how motion is spread.
    pub(super) spread: Option<Spread>,
    /// Mass of the batter's film, kg/m2, and angular frequencies of its modes without air, 1/s.
    pub(super) film_mass: f64,
    pub(super) film_omegas: Vec<f64>,
}

impl DrumModel {
    /// The model of `drum` that agrees with `partials` as measured on it. `None` without a body to start from.
    pub fn fit(drum: &Drum, partials: &[Partial]) -> Option<Self> {
        if let Some(spread) = Spread::of(drum) {
            return spread_out(drum, spread, partials);
        }
        known(drum, partials, || {
            let fitter = Fitter::new(drum, partials)?;
            let fitted = fitter.best()?;
            Some(Self::of(drum, partials, &fitter, &fitted))
        })
    }

    fn of(drum: &Drum, partials: &[Partial], fitter: &Fitter, fitted: &Fitted) -> Self {
        let named = named(partials, fitted);
        let membrane = modes_up_to(super::air_load::HIGHEST_ZERO);
        let most = membrane.iter().map(|mode| mode.m).max().unwrap_or(0);
        let heads = HeadsInAir::new(drum, fitter.body_hz(), most, fitted.air);
        let times = fitter.losses(fitted);
        // What no stick brings out and nobody heard is still needed to describe what a device does to the others.
        let motions = (0..=most).flat_map(|m| heads.motions(m, fitted.tensions));
        let mut modes: Vec<ModeShape> = motions.flat_map(|motion| shapes_of(&motion, &membrane, &named, fitter, times)).collect();
        keep_apart(&mut modes);
        let film_omega = |mode: &MembraneMode| 2.0 * std::f64::consts::PI * fitted.tensions.batter_hz * mode.zero / membrane[0].zero;
        let body = drum.heard_by().body(&named).and_then(|body| named[body].tone);
        Self {
            modes,
            radius: drum.radius(),
            batter_hz: heads.in_air(fitted.tensions.batter_hz, false),
            lower_hz: drum.lower_film().map(|_| heads.in_air(fitted.tensions.lower_hz, true)),
            body,
            air: fitted.air,
            film_mass: drum.batter.areal_mass(),
            film_omegas: membrane.iter().map(film_omega).collect(),
            partials: named,
            membrane,
            spread: None,
        }
    }

    /// Measured partials that fit no mode; what happens to them is read off their neighbours.
    pub fn strangers(&self) -> impl Iterator<Item = &Partial> {
        self.partials.iter().filter(|p| matches!(p.tone, Some(Tone::Number(_))) && p.t60_s.is_some())
    }

    /// Displacement of every mode at a point of a head: radius 0 to 1, angle in radians from the player's side.
    pub fn shapes_at(&self, side: HeadSide, r: f64, angle: f64) -> Vec<f64> {
        let membrane: Vec<f64> = self.membrane.iter().map(|mode| mode.shape(r, angle)).collect();
        let sum = |parts: &[(usize, f64)]| parts.iter().map(|(i, share)| share * membrane[*i]).sum();
        self.modes.iter().map(|mode| if side == HeadSide::Batter { sum(&mode.batter) } else { sum(&mode.lower) }).collect()
    }

    /// The batter head's tension in the spring that drives each mode back, and between two modes: against the modes' whole springs (for two modes
    /// the root of their product). What is left of a mode's own is the lower head's and the air's between them.
    pub fn batter_tension(&self) -> DMatrix<f64> {
        let omega = |mode: &ModeShape| 2.0 * std::f64::consts::PI * mode.hz;
        let spring = |a: &ModeShape, b: &ModeShape| -> f64 {
            let shared =
                a.batter.iter().flat_map(|(i, one)| b.batter.iter().filter(move |(k, _)| i == k).map(move |(_, other)| (*i, one * other)));
            shared.map(|(i, product)| self.film_mass * product * self.film_omegas[i].powi(2)).sum()
        };
        let modes = &self.modes;
        DMatrix::from_fn(modes.len(), modes.len(), |a, b| spring(&modes[a], &modes[b]) / (omega(&modes[a]) * omega(&modes[b])))
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
}

/// What was made of `drum` and `partials` before, or what `make` makes of them now. One drum is asked about many times over: for its bench, its
/// plans, an evening, and by each test that was made on it.
fn known(drum: &Drum, partials: &[Partial], make: impl FnOnce() -> Option<DrumModel>) -> Option<DrumModel> {
    static MADE: Mutex<VecDeque<(u64, Option<DrumModel>)>> = Mutex::new(VecDeque::new());
    let mut hasher = DefaultHasher::new();
    format!("{drum:?} {partials:?}").hash(&mut hasher);
    let key = hasher.finish();
    let lock = || MADE.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some((_, model)) = lock().iter().find(|(other, _)| *other == key) {
        return model.clone();
    }
    let model = make();
    let mut made = lock();
    made.truncate(MOST_KNOWN - 1);
    made.push_front((key, model.clone()));
    model
}

/// `partials` with the tones that `fitted` makes of them; what is none of its motions is a number.
fn named(partials: &[Partial], fitted: &Fitted) -> Vec<Partial> {
    let mut strangers = 0;
    let name = |(partial, motion): (&Partial, &Option<usize>)| {
        let tone = match motion {
            Some(motion) => fitted.motions[*motion].mode.into(),
            None => {
                strangers += 1;
                Tone::Number(strangers)
            }
        };
        Partial { tone: Some(tone), ..partial.clone() }
    };
    partials.iter().zip(&fitted.of_partial).map(name).collect()
}

/// Moves what was not heard off what was: it does not lie there, or it would have been heard with it, and a device would mix the two.
fn keep_apart(modes: &mut [ModeShape]) {
    let mut heard: Vec<f64> = modes.iter().filter(|mode| mode.heard).map(|mode| mode.hz).collect();
    heard.sort_by(f64::total_cmp);
    for mode in modes.iter_mut().filter(|mode| !mode.heard) {
        let nearest = heard.iter().copied().min_by(|a, b| (a - mode.hz).abs().total_cmp(&(b - mode.hz).abs()));
        let Some(nearest) = nearest.filter(|heard| (mode.hz / heard).ln().abs() < APART_LN) else { continue };
        mode.hz = nearest * if mode.hz < nearest { (-APART_LN).exp() } else { APART_LN.exp() };
    }
}

/// `motion` as one mode, or as the two of a pair, as it was measured where it was.
fn shapes_of(motion: &HeadMotion, membrane: &[MembraneMode], named: &[Partial], fitter: &Fitter, times: Losses) -> Vec<ModeShape> {
    let tone = Tone::Mode(motion.mode);
    let same = named.iter().filter(|partial| partial.tone == Some(tone));
    // Of a pair the member that rings: the louder one may be gone long before.
    let measured = same.max_by(|a, b| a.late_energy().total_cmp(&b.late_energy()));
    let m = usize::from(motion.mode.diameters);
    let members: &[Member] = if m == 0 { &[Member::Cos] } else { &[Member::Cos, Member::Sin] };
    let shape = |member: &Member| {
        let index = |n: usize| membrane.iter().position(|mode| mode.m == m && mode.n == n + 1 && mode.member == *member);
        let shares = |parts: &[f64]| parts.iter().enumerate().filter_map(|(n, share)| Some((index(n)?, *share))).collect::<Vec<_>>();
        ModeShape {
            tone,
            hz: measured.map_or(motion.hz, |partial| partial.hz),
            decay: measured.and_then(|partial| partial.t60_s).map_or_else(|| fitter.derived_decay(motion, times), decay_rate),
            level_db: measured.map_or(UNHEARD_DB, |partial| partial.level_db),
            heard: measured.is_some(),
            batter: shares(&motion.batter),
            lower: shares(&motion.lower),
        }
    };
    members.iter().map(shape).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::DrumKind;
    use crate::tone::Mode;

    fn partial(hz: f64, tone: Mode) -> Partial {
        Partial { hz, t60_s: Some(0.8), t60_sd_s: None, t60_scatter_s: None, level_db: 0.0, tone: Some(tone.into()) }
    }

    #[test]
    fn the_model_puts_body_and_overtones_where_they_were_heard() {
        let drum = BenchDrum::usual(DrumKind::Tom);
        let partials = [partial(140.0, Mode::together(0, 1)), partial(214.0, Mode::alone(1, 1)), partial(301.0, Mode::alone(2, 1))];
        let model = DrumModel::fit(&drum, &partials).unwrap();
        for heard in &partials {
            let of_tone: Vec<f64> = model.modes.iter().filter(|m| Some(m.tone) == heard.tone).map(|m| m.hz).collect();
            assert!(!of_tone.is_empty() && of_tone.iter().all(|hz| (hz - heard.hz).abs() < 1e-6), "{heard:?}: {of_tone:?}");
            let pair = heard.tone.and_then(Tone::mode).is_some_and(Mode::is_pair);
            assert_eq!(of_tone.len(), if pair { 2 } else { 1 }, "pairs have two members");
        }
        assert!(DrumModel::fit(&drum, &[]).is_none(), "without a body there is nothing to start from");
    }

    /// What drives a motion back is its films' tension and the air's spring: the air holds a part of it, never more than all.
    #[test]
    fn the_air_holds_no_more_than_a_motions_whole_spring() {
        for kind in DrumKind::OF_A_KIT {
            let drum = BenchDrum::usual(kind);
            let low = drum.usual_batter_hz();
            let heard = [(1.0, Mode::together(0, 1)), (1.6, Mode::alone(1, 1)), (2.1, Mode::opposed(0, 1)), (2.15, Mode::alone(2, 1))];
            let partials: Vec<Partial> = heard.iter().map(|(times, mode)| partial(low * times, *mode)).collect();
            let model = DrumModel::fit(&drum, &partials).unwrap();
            for (mode, squeezes) in model.modes.iter().zip(model.squeezes()).filter(|(mode, _)| !mode.heard) {
                let part = crate::drum::air_spring(drum.depth()) * squeezes.powi(2) / (2.0 * std::f64::consts::PI * mode.hz).powi(2);
                assert!(part < 1.0, "{kind:?} {:?} at {:.0} Hz: {part}", mode.tone, mode.hz);
            }
        }
    }

    #[test]
    fn a_drum_without_a_lower_head_has_its_batters_modes_only() {
        let drum = Drum { lower: None, ..BenchDrum::usual(DrumKind::Tom) };
        let model = DrumModel::fit(&drum, &[partial(140.0, Mode::alone(0, 1)), partial(223.0, Mode::alone(1, 1))]).unwrap();
        let alone = |mode: &ModeShape| mode.tone.mode().is_some_and(|mode| mode.motion == crate::tone::Motion::Alone);
        assert!(model.modes.iter().all(|mode| mode.lower.is_empty() && alone(mode)));
        assert!(model.shapes_at(HeadSide::Lower, 0.3, 0.0).iter().all(|shape| *shape == 0.0));
    }
}
