//! Heads first, names second: which tensions of both heads explain what was measured best, and which motion each partial then is.
//!
//! For every tension of the batter that could be, the lower head's is the one that puts the body where it was heard; of all these pairs that
//! one is taken whose motions explain most, by pitch, by how long each should last (what moves air as a whole radiates: short and loud is the
//! heads against each other) and by how loud a stick makes it. Every partial is then one motion, and no motion is two partials but a pair.

use super::Drum;
use super::head_motions::{HeadMotion, HeadsInAir, Tensions};
use crate::numeric::bessel_j;
use crate::numeric::bisect;
use crate::tone::{HeardBy, Partial};
use crate::units::{decay_rate, decibels, median};

/// Motions of so many nodal diameters are looked for among the partials.
const MOST_DIAMETERS: usize = 6;
/// How far modes carry air of their own: all of it is the physics of a drum that stands free. Walls, holes, what stands about it and heads that are
/// stiff or worn bring their pitches nearer to where a mass that is the same for all would put them; what that counts for.
const AIR: [f64; 3] = [1.0, 0.5, 0.0];
const ALIKE_COSTS: f64 = 0.3;
/// The batter's own lowest pitch against the body, and steps between (logarithm): with one head, and with two.
const BATTER_TO_BODY: [f64; 2] = [0.62, 1.5];
const ONE_HEAD_TO_BODY: [f64; 2] = [0.5, 1.6];
const STEP: f64 = 0.02;
/// So many of the best are looked at more closely.
const REFINED: usize = 2;
/// A lower head's pitch against the batter's.
const LOWER_TO_BATTER: [f64; 2] = [0.2, 5.0];
/// How far a motion's pitch may be off (standard deviation of its logarithm) for uneven heads, film that is stiff, and air that is not quite as
/// thought: with nodal diameters, and moving air as a whole (from the simulated drum in air).
const PITCH_LN_SD: f64 = 0.009;
const AXIAL_LN_SD: f64 = 0.016;
/// Standard deviations of what the model expects of a motion's decay rate (logarithm) and of its level, dB. Both are rough.
const DECAY_LN_SD: f64 = 0.7;
const LEVEL_SD_DB: f64 = 11.0;
/// The most that a decay, or a level, that is quite otherwise than thought speaks against a name.
const MOST_DECAY: f64 = 9.0;
const MOST_LEVEL: f64 = 14.0;
/// A partial is not a motion whose pitch is more than `FARTHEST` standard deviations away, nor one for which pitch, decay and level together are
/// more than `MOST_OFF` away (sum of squared deviations).
const FARTHEST: f64 = 3.2;
const MOST_OFF: f64 = 22.0;
/// What a partial of this level, and a weaker one, counts for.
const FAINTEST_DB: f64 = -50.0;
/// A motion that should be no further below the loudest, dB, and last this long, s, ought to have been heard.
const OUGHT_DB: f64 = -14.0;
const OUGHT_T60_S: f64 = 0.2;
const UNHEARD_COSTS: f64 = 0.35;
/// Usual pitch of a lower head against the batter's, by how it is tuned: how far off it is thought to be (logarithm), and what that counts for.
const USUAL_LOWER_LN_SD: f64 = 0.3;
const UNUSUAL_COSTS: f64 = 0.12;
/// Members of a pair lie no further apart than this (logarithm): heads are never quite even.
const PAIR_LN: f64 = 0.045;
/// How much more or less than usual films are taken to lose, and motions to radiate, where that is read off what was measured.
const FILM_TIMES: std::ops::Range<f64> = 0.3..3.0;
const RADIATED_TIMES: std::ops::Range<f64> = 0.05..2.0;
/// Where a stick or beater lands, and its contact time, s: roughly, for what it brings out.
const STRUCK_AT: f64 = 0.27;
const STICK_S: f64 = 0.0025;
const BEATER_S: f64 = 0.006;

/// What a drum loses against what such drums usually do: in its films, and to the air.
#[derive(Debug, Clone, Copy)]
pub(super) struct Losses {
    pub film: f64,
    pub radiated: f64,
}

impl Losses {
    const USUAL: Self = Self { film: 1.0, radiated: 1.0 };
}

/// Heads that explain what was measured.
#[derive(Debug, Clone)]
pub(super) struct Fitted {
    pub tensions: Tensions,
    /// How far each mode carries air of its own, 0 to 1.
    pub air: f64,
    /// What it explains, for comparing.
    pub score: f64,
    /// Every motion, low to high at each number of diameters.
    pub motions: Vec<HeadMotion>,
    /// Of each partial the motion that it is.
    pub of_partial: Vec<Option<usize>>,
}

/// A motion as it should be heard.
struct Expected {
    ln_hz: f64,
    ln_decay: f64,
    level_db: f64,
    /// Partials that it can be: a pair may show both members.
    room: usize,
    ln_sd: f64,
}

/// Finds the heads of a drum in its partials.
pub(super) struct Fitter<'a> {
    /// The heads for each of [`AIR`].
    heads: Vec<(f64, HeadsInAir<'a>)>,
    drum: &'a Drum,
    partials: &'a [Partial],
    body_hz: f64,
    losses: (f64, f64),
}

impl<'a> Fitter<'a> {
    /// `None` without a body to start from.
    pub fn new(drum: &'a Drum, partials: &'a [Partial]) -> Option<Self> {
        let body_hz = partials[HeardBy::Partials.body(partials)?].hz;
        let heads = AIR.map(|air| (air, HeadsInAir::new(drum, body_hz, MOST_DIAMETERS, air))).into();
        Some(Self { heads, drum, partials, body_hz, losses: drum.usual_losses() })
    }

    /// The heads that explain the partials best.
    pub fn best(&self) -> Option<Fitted> {
        let [low, high] = if self.drum.lower_film().is_some() { BATTER_TO_BODY } else { ONE_HEAD_TO_BODY };
        let steps = ((high / low).ln() / STEP) as usize;
        let at = |heads: &HeadsInAir, step: usize| heads.without_air(self.body_hz * low * (step as f64 * STEP).exp(), false);
        let of = |heads: &(f64, HeadsInAir)| (0..=steps).filter_map(|step| self.with_batter(heads, at(&heads.1, step))).collect::<Vec<_>>();
        // One after the other: who asks may hold a lock that a thread waiting for others would meet again in what it does meanwhile.
        let mut all: Vec<Fitted> = self.heads.iter().flat_map(of).collect();
        all.sort_by(|a, b| b.score.total_cmp(&a.score));
        all.truncate(REFINED);
        all.into_iter().map(|fitted| self.refined(fitted)).max_by(|a, b| a.score.total_cmp(&b.score))
    }

    /// The lower head tuned so that the body lies where it was heard.
    fn with_batter(&self, heads: &(f64, HeadsInAir), batter_hz: f64) -> Option<Fitted> {
        if !heads.1.has_lower() {
            return Some(self.judged(heads, Tensions { batter_hz, lower_hz: batter_hz }));
        }
        let too_low = |lower_hz: f64| heads.1.begins_under(0, Tensions { batter_hz, lower_hz }, self.body_hz);
        let [low, high] = LOWER_TO_BATTER.map(|times| times * batter_hz);
        if !too_low(low) || too_low(high) {
            return None;
        }
        let lower_hz = bisect(low, high, 20, too_low);
        Some(self.judged(heads, Tensions { batter_hz, lower_hz }))
    }

    /// Improves `best` by a pattern search: both tensions are moved by smaller and smaller steps, and a step is kept if it explains more.
    fn refined(&self, mut best: Fitted) -> Fitted {
        let Some(heads) = self.heads.iter().find(|heads| heads.0 == best.air) else { return best };
        let mut step = 0.5 * STEP;
        for _ in 0..4 {
            for (batter, lower) in [(1.0, 0.0), (-1.0, 0.0), (0.0, 2.0), (0.0, -2.0)] {
                let moved = Tensions {
                    batter_hz: best.tensions.batter_hz * f64::exp(batter * step),
                    lower_hz: best.tensions.lower_hz * f64::exp(lower * step),
                };
                let other = self.judged(heads, moved);
                if other.score > best.score {
                    best = other;
                }
            }
            step *= 0.6;
        }
        best
    }

    fn judged(&self, (air, heads): &(f64, HeadsInAir), tensions: Tensions) -> Fitted {
        let motions: Vec<HeadMotion> = (0..=heads.most_diameters()).flat_map(|m| heads.motions(m, tensions)).collect();
        let expected = self.expected(&motions);
        let (of_partial, explained) = self.assigned(&expected);
        let mut score = explained - ALIKE_COSTS * (1.0 - air).powi(2);
        for (k, one) in expected.iter().enumerate() {
            let ought = one.level_db > OUGHT_DB && crate::units::t60(one.ln_decay.exp()) > OUGHT_T60_S;
            if ought && !of_partial.contains(&Some(k)) {
                score -= UNHEARD_COSTS;
            }
        }
        if heads.has_lower() {
            let unusual = (tensions.lower_hz / tensions.batter_hz / heads.usual_lower()).ln() / USUAL_LOWER_LN_SD;
            score -= UNUSUAL_COSTS * unusual * unusual;
        }
        Fitted { tensions, air: *air, score, motions, of_partial }
    }

    /// How each of `motions` should be heard.
    fn expected(&self, motions: &[HeadMotion]) -> Vec<Expected> {
        let drum = self.drum;
        let contact_s = if drum.kind.role() == super::Role::Kick { BEATER_S } else { STICK_S };
        let mut all: Vec<Expected> = motions
            .iter()
            .map(|motion| {
                let m = usize::from(motion.mode.diameters);
                let zeros = super::air_load::zeros(m);
                let at = |r: f64| -> f64 {
                    let parts = motion.batter.iter().zip(zeros);
                    parts.map(|(part, zero)| part * bessel_j(m, zero * r) / bessel_j(m + 1, *zero).abs()).sum::<f64>().abs()
                };
                // What moves air as a whole is heard by that, the rest by what moves near a microphone over the edge, the less the more parts it has.
                let heard = if m == 0 { motion.moved().0.abs() + 0.2 * at(0.7) } else { 0.7 * at(0.75) / (m as f64 + 1.0) };
                let pushed = (std::f64::consts::PI * motion.hz * contact_s).cos() / (1.0 - (2.0 * motion.hz * contact_s).powi(2));
                let ln_decay = self.derived_decay(motion, Losses::USUAL).ln();
                Expected {
                    ln_hz: motion.hz.ln(),
                    ln_decay,
                    level_db: decibels((motion.hz * at(STRUCK_AT) * heard * pushed.abs().max(0.03)).max(1e-12)),
                    room: if m == 0 { 1 } else { 2 },
                    ln_sd: if m == 0 { AXIAL_LN_SD } else { PITCH_LN_SD },
                }
            })
            .collect();
        let loudest = all.iter().map(|one| one.level_db).fold(f64::NEG_INFINITY, f64::max);
        all.iter_mut().for_each(|one| one.level_db -= loudest);
        all
    }

    /// Amplitude decay rate of `motion`, 1/s, where films lose and motions radiate so many times what is usual.
    pub fn derived_decay(&self, motion: &HeadMotion, times: Losses) -> f64 {
        let (loss, by_wave) = self.losses;
        let m = usize::from(motion.mode.diameters);
        let circles = usize::from(motion.mode.circles).clamp(1, super::air_load::zeros(m).len());
        let zero = super::air_load::zeros(m)[circles - 1];
        times.film * (loss + by_wave * (zero / self.drum.radius()).powi(2)) + times.radiated * motion.radiated(self.drum)
    }

    /// What this drum loses against what is usual: films by the middle of the motions that move no air as a whole; then what the others lose
    /// besides, the body aside, which radiates next to nothing.
    pub fn losses(&self, fitted: &Fitted) -> Losses {
        let usual = |part: Losses, motion: &HeadMotion| self.derived_decay(motion, part);
        let (film, radiated) = (Losses { film: 1.0, radiated: 0.0 }, Losses { film: 0.0, radiated: 1.0 });
        let measured = |axial: bool| {
            let of = move |(partial, motion): (&Partial, &Option<usize>)| {
                let motion = &fitted.motions[(*motion)?];
                (motion.mode.is_axial() == axial && !motion.mode.is_lowest()).then_some((motion, decay_rate(partial.t60_s?)))
            };
            self.partials.iter().zip(&fitted.of_partial).filter_map(of)
        };
        let times: Vec<f64> = measured(false).map(|(motion, decay)| decay / usual(film, motion)).collect();
        let of_film = median(&times).map_or(1.0, |times| times.clamp(FILM_TIMES.start, FILM_TIMES.end));
        let besides = |(motion, decay): (&HeadMotion, f64)| (decay - of_film * usual(film, motion)) / usual(radiated, motion);
        let of_air = median(&measured(true).map(besides).collect::<Vec<_>>());
        Losses { film: of_film, radiated: of_air.map_or(1.0, |times| times.clamp(RADIATED_TIMES.start, RADIATED_TIMES.end)) }
    }

    /// Of each partial its motion, the likeliest first, and what all of that explains.
    fn assigned(&self, expected: &[Expected]) -> (Vec<Option<usize>>, f64) {
        let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
        for (i, partial) in self.partials.iter().enumerate() {
            let (ln_hz, ln_decay) = (partial.hz.ln(), partial.t60_s.map(|t60_s| decay_rate(t60_s).ln()));
            for (k, one) in expected.iter().enumerate() {
                let off = |value: f64, sd: f64| (value / sd).powi(2);
                let pitch = off(ln_hz - one.ln_hz, one.ln_sd);
                if pitch > FARTHEST * FARTHEST {
                    continue;
                }
                let decay = ln_decay.map_or(0.5, |ln_decay| off(ln_decay - one.ln_decay, DECAY_LN_SD).min(MOST_DECAY));
                let level = off(partial.level_db - one.level_db, LEVEL_SD_DB).min(MOST_LEVEL);
                let all = pitch + decay + level;
                if all < MOST_OFF {
                    pairs.push((all, i, k));
                }
            }
        }
        pairs.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut of_partial: Vec<Option<usize>> = vec![None; self.partials.len()];
        let mut explained = 0.0;
        for (off, i, k) in pairs {
            if of_partial[i].is_some() {
                continue;
            }
            let members: Vec<f64> = (0..self.partials.len()).filter(|j| of_partial[*j] == Some(k)).map(|j| self.partials[j].hz).collect();
            let apart = members.iter().any(|hz| (hz / self.partials[i].hz).ln().abs() > PAIR_LN);
            if members.len() >= expected[k].room || apart {
                continue;
            }
            of_partial[i] = Some(k);
            let weight = ((self.partials[i].level_db - FAINTEST_DB) / -FAINTEST_DB).clamp(0.1, 1.0);
            explained += weight * (1.0 - off / MOST_OFF);
        }
        (of_partial, explained)
    }

    pub fn body_hz(&self) -> f64 {
        self.body_hz
    }
}
