//! What devices do to a drum's partials: the damped modes of (I + mu P) q'' + (2 D + R F P F) q' + Omega^2 q = 0, in the
//! drum's own modes (unit modal mass), with D and Omega as measured, P the overlap of modes under the device, and F the
//! growth of its resistance with frequency.

use super::catalogue::DeviceKind;
use super::catalogue::device_info;
use super::first_order::FirstOrder;
use super::grip::{Grip, QUIETEST_DB, Tension};
use super::outline::Patch;
use super::placement::Placement;
use super::prior::{Prior, REFERENCE_HZ};
use super::strengths::{Strengths, laying_ln_sd};
use crate::drum::{Drum, DrumModel, HeadSide, ModeShape, mixed_rate};
use crate::numeric::{NINETY_SDS, damped_modes};
use crate::tone::Partial;
use crate::tuning::EIGHTH_TENSION;
use crate::units::{amplitude, t60};
use nalgebra::{DMatrix, DVector};
use num_complex::Complex64;
use std::f64::consts::PI;
use std::sync::Arc;

/// What only rests on the lower head lets go of it and lies on it again: on the mean it holds as much as this part of what holds on (from
/// experience, no published source).
const RESTING_HOLD: f64 = 0.55;

/// What stays unknown of how strongly a thing acts in its place on a drum whose motion is not known: standard deviation of the logarithm of the
/// resistance (a point of a head moves with up to several times its mean square).
const UNKNOWN_PLACE_LN_SD: f64 = 0.7;

/// A motion that has less than this of a mode is not that mode.
const LEAST_SHARE: f64 = 1e-4;
/// How much higher than before a tone may lie that no rod raises: what resists strongly in one place holds the head still there, and what is left of
/// it sounds higher.
const NO_HIGHER: f64 = 1.05;
/// What part in a motion a mode counts for that was not heard, against one that was.
const UNHEARD_COUNTS: f64 = 0.4;

/// What a slack rod still pulls, as the hoop over it does, as a part of an even one's (from experience, no published source).
const SLACK_PULL: f64 = 0.05;

/// How strong devices are taken to be: the resistance's logarithm, in standard deviations from its prior.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Strength(pub f64);

impl Strength {
    /// As it is thought to be.
    pub const EXPECTED: Self = Self(0.0);
    /// Nine times in ten it lies between these.
    pub const LOW: Self = Self(-NINETY_SDS);
    /// The upper of the bounds.
    pub const HIGH: Self = Self(NINETY_SDS);
}

/// Part of its mean tension that a head keeps where the lug nearest the player is slack and its neighbours are three turns down: they hold next
/// to nothing, whatever the others held stays.
fn slack_tension(lugs: u8) -> f64 {
    1.0 - (1.0 - SLACK_PULL) * 3.0 / f64::from(lugs.max(3))
}

/// Predicts partials of one drum in the state in which it was measured, with devices added.
pub struct Predictor {
    /// The drum.
    pub drum: Drum,
    /// What is known of its modes.
    pub model: DrumModel,
    /// What the model makes of the drum with nothing added.
    pub(super) bare: Vec<Partial>,
    /// How high the modes lie against [`REFERENCE_HZ`] (logarithm) and its square, each weighed by power at the strike.
    loud_at: [f64; 2],
}

impl Predictor {
    /// From the combined partials of a take on the open drum; `None` where no body was found.
    pub fn new(drum: &Drum, partials: &[Partial]) -> Option<Self> {
        let mut predictor =
            DrumModel::fit(drum, partials).map(|model| Self { drum: drum.clone(), model, bare: Vec::new(), loud_at: [0.0; 2] })?;
        predictor.loud_at = predictor.where_loud();
        predictor.bare = predictor.solve(&[], Strength::EXPECTED);
        Some(predictor)
    }

    /// What the model makes of the drum with nothing added: what a prediction is held against.
    pub fn bare(&self) -> &[Partial] {
        &self.bare
    }

    /// How a device in its place takes hold of the modes.
    pub fn grip(&self, placement: &Placement) -> Grip {
        let info = device_info(placement.device);
        let hold = |side: HeadSide| if info.loose && side == HeadSide::Lower { RESTING_HOLD } else { 1.0 };
        let grip = self.grip_of(&placement.patches(&self.drum), &placement.prior(), hold, placement.air_loss(&self.drum));
        let (times, is_learned) = match placement.device {
            DeviceKind::SlackLugs => (slack_tension(self.drum.lugs), false),
            DeviceKind::RodsTurned => (1.0 + EIGHTH_TENSION * f64::from(placement.eighths()), true),
            _ => return grip,
        };
        Grip { tension: Some(Tension { stiffer: self.model.batter_tension() * (times - 1.0), is_learned }), ..grip }
    }

    /// How whatever presses on `patches` as `prior` says takes hold of the modes.
    pub(crate) fn pressed(&self, patches: &[Patch], prior: &Prior) -> Grip {
        self.grip_of(patches, prior, |_| 1.0, 0.0)
    }

    fn grip_of(&self, patches: &[Patch], prior: &Prior, hold: impl Fn(HeadSide) -> f64, air_loss: f64) -> Grip {
        let size = self.model.modes.len();
        let (mut overlap, mut held) = (DMatrix::zeros(size, size), DMatrix::zeros(size, size));
        for patch in patches {
            let hold = hold(patch.side);
            let points = patch.outline.points();
            if let Some(squares) = self.model.held(&points) {
                let squares = DMatrix::from_diagonal(&DVector::from_vec(squares)) * patch.contact;
                if self.model.moves_pitch() {
                    overlap += &squares;
                }
                held += squares;
                continue;
            }
            for (r, angle, share) in points {
                let shapes = DVector::from_vec(self.model.shapes_at(patch.side, r, angle));
                overlap.ger(patch.contact * share, &shapes, &shapes, 1.0);
                held.ger(hold * patch.contact * share, &shapes, &shapes, 1.0);
            }
        }
        // A part of what the spring holds is lost with each swing, however fast that is: as a resistance it falls with pitch.
        let slower = |mode: &ModeShape| (self.drum.usual_batter_hz() / mode.hz).sqrt();
        let squeezes: Vec<f64> = self.model.squeezes().iter().zip(&self.model.modes).map(|(by, mode)| by * slower(mode)).collect();
        let squeezes = DVector::from_vec(squeezes);
        held.ger(air_loss / prior.resistance, &squeezes, &squeezes, 1.0);
        let growth: Vec<f64> = self.model.modes.iter().map(|mode| (mode.hz / REFERENCE_HZ).powf(0.5 * prior.exponent)).collect();
        Grip {
            loss: DMatrix::from_fn(size, size, |r, c| prior.resistance * growth[r] * held[(r, c)] * growth[c]),
            mass: prior.mass * overlap,
            ln_sd: prior.resistance_ln_sd,
            tension: None,
            own: Arc::default(),
        }
    }

    /// The same at the strength, mass and exponent that were learned.
    pub fn grip_known(&self, placement: &Placement, strengths: &Strengths) -> Grip {
        self.known(&self.grip(placement), placement, strengths)
    }

    /// The `grip` of `placement` at the strength, mass and exponent that were learned.
    pub(super) fn known(&self, grip: &Grip, placement: &Placement, strengths: &Strengths) -> Grip {
        let (device, family) = (placement.device, placement.head_family(&self.drum));
        let variance = strengths.variance_where(device, family, self.loud_at).max(0.0) + laying_ln_sd(device).powi(2);
        let (mean, sd) = (strengths.ln(device, family).0, variance.sqrt());
        // Tests teach how strong a thing is, but not where a drum moves that nobody knows.
        let sd = if self.model.is_unknown() { sd.hypot(UNKNOWN_PLACE_LN_SD) } else { sd };
        let steep = self.as_steep(grip.as_strong((mean, sd)), strengths.steeper(placement.device).0);
        let heavy = steep.as_heavy(strengths.mass_ln(placement.device).0.exp());
        if strengths.own.is_empty() { heavy } else { heavy.on_own(&strengths.own, |mode| strengths.own.ln(self.model.modes[mode].tone).0) }
    }

    /// `grip` with an exponent larger by `more`.
    pub(super) fn as_steep(&self, grip: Grip, more: f64) -> Grip {
        if more == 0.0 { grip } else { grip.as_steep(more, |mode| self.model.modes[mode].hz) }
    }

    /// Partials to first order. Good enough to sort candidates.
    pub fn screen(&self, grips: &[&Grip]) -> Vec<Partial> {
        let model = FirstOrder::new(&self.model);
        let mut touch = model.untouched();
        grips.iter().for_each(|grip| touch.add(&model.touch(grip), 0.0, &model));
        model.partials(&touch)
    }

    /// Partials by the full complex eigenproblem, all modes coupled.
    pub fn solve(&self, grips: &[&Grip], strength: Strength) -> Vec<Partial> {
        if self.model.is_spread() {
            return self.solve_each(grips, strength);
        }
        let modes = &self.model.modes;
        let size = modes.len();
        let mut mass = DMatrix::<f64>::identity(size, size);
        let mut loss = DMatrix::<f64>::zeros(size, size);
        let mut stiffness = DMatrix::<f64>::zeros(size, size);
        for (i, mode) in modes.iter().enumerate() {
            loss[(i, i)] = 2.0 * mode.decay;
            // The measured pitch is the damped one; the spring belongs to the undamped.
            stiffness[(i, i)] = (2.0 * PI * mode.hz).powi(2) + mode.decay.powi(2);
        }
        let springs: Vec<f64> = stiffness.diagonal().iter().map(|spring| spring.sqrt()).collect();
        for grip in grips {
            mass += &grip.mass;
            loss += &grip.loss * (strength.0 * grip.ln_sd).exp();
            if let Some(tension) = &grip.tension {
                stiffness += tension.stiffer.map_with_location(|r, c, part| part * springs[r] * springs[c]);
            }
        }
        let Some(roots) = damped_modes(&mass, &loss, &stiffness) else { return self.screen(grips) };
        // Mass and losses let a tone fall; only tighter rods raise it.
        let tighter = grips.iter().any(|grip| grip.tension.as_ref().is_some_and(|tension| tension.stiffer.trace() > 0.0));
        let highest = if tighter { f64::INFINITY } else { NO_HIGHER };
        let mut shifts = Vec::with_capacity(size);
        let mut partials = Vec::with_capacity(size);
        for ((root, shape), main) in roots.iter().zip(came_from(&roots, modes, highest)) {
            let Some(main) = main else { continue };
            let share: f64 = shape.iter().map(|x| x.norm_sqr()).sum();
            let energy: f64 = shape.iter().zip(modes).map(|(x, mode)| x.norm_sqr() / share * self.struck_power(mode)).sum();
            let (hz, decay) = (root.im / (2.0 * PI), -root.re);
            if hz > 1.0 && decay > 0.0 {
                shifts.push((modes[main].hz, decay - modes[main].decay, hz / modes[main].hz));
                // What was never heard is no tone of this drum, whatever lies on it.
                let level_db = 10.0 * energy.max(1e-12).log10();
                if modes[main].heard && level_db >= QUIETEST_DB {
                    partials.push(Partial {
                        hz,
                        t60_s: Some(t60(decay)),
                        t60_sd_s: None,
                        t60_scatter_s: None,
                        level_db,
                        tone: Some(modes[main].tone),
                    });
                }
            }
        }
        self.finish(partials, shifts)
    }

    /// Partials where each mode moves by itself: those of one label together are one.
    fn solve_each(&self, grips: &[&Grip], strength: Strength) -> Vec<Partial> {
        let mut at = 0;
        let alike = self.model.modes.chunk_by(|a, b| a.tone == b.tone).map(|modes| {
            let (loss, mass) = (at..at + modes.len())
                .map(|i| {
                    let of = |grip: &&Grip| (grip.loss[(i, i)] * (strength.0 * grip.ln_sd).exp(), grip.mass[(i, i)]);
                    grips.iter().map(of).fold((0.0, 0.0), |sum, one| (sum.0 + one.0, sum.1 + one.1))
                })
                .collect::<(Vec<f64>, Vec<f64>)>();
            at += modes.len();
            let (mode, heavier) = (&modes[0], 1.0 + mass[0]);
            let rates: Vec<f64> = loss.iter().map(|loss| (mode.decay + 0.5 * loss) / heavier).collect();
            let t60_s = Some(t60(mixed_rate(&rates)));
            let hz = mode.hz / heavier.sqrt();
            Partial { hz, t60_s, t60_sd_s: None, t60_scatter_s: None, level_db: mode.level_db, tone: Some(mode.tone) }
        });
        alike.filter(|partial| partial.level_db >= QUIETEST_DB).collect()
    }

    /// Power of a mode at the strike against the loudest partial: where on the head the stick lands is not known, so a pair
    /// shares its power evenly.
    fn struck_power(&self, mode: &ModeShape) -> f64 {
        let members = self.model.modes.iter().filter(|other| other.tone == mode.tone).count();
        amplitude(mode.level_db).powi(2) / members as f64
    }

    fn where_loud(&self) -> [f64; 2] {
        let power: Vec<f64> = self.model.modes.iter().map(|mode| self.struck_power(mode)).collect();
        let all = power.iter().sum::<f64>().max(f64::MIN_POSITIVE);
        let up = |mode: &ModeShape| (mode.hz / REFERENCE_HZ).ln();
        [1, 2].map(|of| self.model.modes.iter().zip(&power).map(|(mode, power)| power * up(mode).powi(of)).sum::<f64>() / all)
    }

    /// Adds the partials that fit no mode, changed as their neighbours in pitch are, and puts all in order.
    fn finish(&self, mut partials: Vec<Partial>, mut shifts: Vec<(f64, f64, f64)>) -> Vec<Partial> {
        shifts.sort_by(|a, b| a.0.total_cmp(&b.0));
        for stranger in self.model.strangers() {
            let near: Vec<&(f64, f64, f64)> = {
                let at = shifts.partition_point(|shift| shift.0 < stranger.hz);
                shifts[at.saturating_sub(2)..(at + 2).min(shifts.len())].iter().collect()
            };
            if near.is_empty() {
                continue;
            }
            let mean = |pick: fn(&(f64, f64, f64)) -> f64| near.iter().map(|shift| pick(shift)).sum::<f64>() / near.len() as f64;
            let own = stranger.t60_s.map_or(0.0, crate::units::decay_rate);
            partials.push(Partial {
                hz: stranger.hz * mean(|s| s.2),
                t60_s: Some(t60(own + mean(|s| s.1).max(0.0))),
                t60_sd_s: None,
                t60_scatter_s: None,
                level_db: stranger.level_db,
                tone: stranger.tone,
            });
        }
        partials.sort_by(|a, b| a.hz.total_cmp(&b.hz));
        partials
    }
}

/// Of each of `roots` the mode of the bare drum that it is, with devices on: one of the tone that has most of its motion, each mode once. Without
/// that, two motions could pass for one tone while another tone is lost. Both members of a pair count together, since how they lie is only a way
/// of writing them. What was heard goes before what was not, and none is taken for a motion at more than `highest` times its pitch.
fn came_from(roots: &[(Complex64, DVector<Complex64>)], modes: &[ModeShape], highest: f64) -> Vec<Option<usize>> {
    let tones: Vec<std::ops::Range<usize>> = {
        let mut at = 0;
        let length = |modes: &[ModeShape]| {
            at += modes.len();
            at - modes.len()..at
        };
        modes.chunk_by(|a, b| a.tone == b.tone).map(length).collect()
    };
    let counts = |tone: &std::ops::Range<usize>| if modes[tone.start].heard { 1.0 } else { UNHEARD_COUNTS };
    let mut shares: Vec<(f64, usize, usize)> = Vec::with_capacity(roots.len() * 8);
    for (at, (root, shape)) in roots.iter().enumerate() {
        let all: f64 = shape.iter().map(|x| x.norm_sqr()).sum();
        let possible = tones.iter().enumerate().filter(|(_, tone)| root.im < 2.0 * PI * modes[tone.start].hz * highest);
        let share = |tone: &std::ops::Range<usize>| counts(tone) * tone.clone().map(|mode| shape[mode].norm_sqr()).sum::<f64>() / all;
        shares.extend(possible.map(|(index, tone)| (share(tone), at, index)).filter(|(share, ..)| *share > LEAST_SHARE));
    }
    shares.sort_by(|a, b| b.0.total_cmp(&a.0));
    let (mut of_root, mut taken) = (vec![None; roots.len()], vec![0; tones.len()]);
    for (_, root, tone) in shares {
        if of_root[root].is_none() && taken[tone] < tones[tone].len() {
            of_root[root] = Some(tones[tone].start + taken[tone]);
            taken[tone] += 1;
        }
    }
    of_root
}
