//! What holes in the other head, a mesh or no head at all would do to a measured drum.

use super::chain::{Chain, Known, SAME_MOTION, State, most_alike};
use super::coupled::{AxialMode, Closed, Inner, axial, axial_modes, body_of};
use super::laid::Laid;
use super::levels::{Levels, STICK};
use super::rebound::Rebound;
use crate::blow::Blow;
use crate::damping::{Expectation, Open, Placement, Predictor, QUIETEST_DB, Strengths};
use crate::drum::{Drum, DrumModel, Front};
use crate::numeric::{LogNormal, NINETY_SDS, Range};
use crate::tone::Tone;
use crate::tone::nearest;
use crate::tone::{DecayProfile, HeardBy, Partial};
use crate::units::{cents, decay_rate, decibels, t60};
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// Doubt of what openings take: standard deviation of its natural logarithm. Models and practice differ by several times, so that it is as wide as
/// that; one trial narrows it (docs/METHOD.md).
pub(super) const OPENING_LN_SD: f64 = 1.0;
/// Pitch of a front head against the batter where it is off now and its own is not known (common practice, no published source).
const USUAL_FRONT: f64 = 1.12;
/// Doubt of a pitch that was tuned by ear or tap: standard deviation of its logarithm (from experience, no source).
const TUNED_LN_SD: f64 = 0.02;
/// Steps by which the other head is looked at tuned otherwise, in semitones, and as a phrase.
pub const RETUNINGS: [(i32, Text); 4] =
    [(-5, text!("a fourth lower")), (-2, text!("a whole tone lower")), (2, text!("a whole tone higher")), (5, text!("a fourth higher"))];
/// Rounds in which pitch and losses are fitted by turns, steps of each, and how near the pitch must come (its logarithm).
const ROUNDS: usize = 3;
const STEPS: usize = 24;
const NEAR: f64 = 2e-5;
/// What the model is off by besides in pitch: standard deviation of its logarithm, from its comparison with the simulated kick (docs/METHOD.md).
const PITCH_LN_SD: f64 = 0.01;
/// How near in pitch a measured partial lies to a motion that it is, as a part: one that is known to move air as a whole, and one that fits no
/// mode of a head.
const NEAR_AS_LABELLED: f64 = 0.06;
const NEAR_UNLABELLED: f64 = 0.03;
/// Steps in which the body is followed while the other head is tuned.
const TUNING_STEPS: usize = 4;

/// What one way of closing the drum would do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FrontOutlook {
    /// How the other end is closed.
    pub front: Front,
    /// What it should do.
    pub expected: Expectation,
    /// How loud it becomes.
    pub levels: Levels,
    /// Whether the body is no tone any more: a thump as long as the body is said to be.
    pub thump: bool,
    /// Where the body's pitch lies, nine times in ten, Hz; null where none is heard, and where it was measured.
    pub body_hz: Option<Range>,
}

/// Predicts other ways of closing a measured drum.
pub struct FrontPredictor<'a> {
    drum: &'a Drum,
    open: Open<'a>,
    /// The measured partials as the tones that they are.
    measured: Vec<Partial>,
    inner: Inner,
    /// The measured body, and the model of the drum as it is with the same motion in it.
    body: Partial,
    now: State,
    /// Measured partials that an opening leaves alone: those of the batter head that move no air as a whole.
    others: Vec<Partial>,
    /// What the model makes of the drum as it is.
    bare: Vec<Partial>,
    /// What openings take against what they are thought to: the logarithm's mean and standard deviation.
    opening: LogNormal,
    /// What is laid in besides.
    laid: Option<Laid>,
    /// The body followed through all ways of closing the drum, where openings take least, what they are thought to, and most.
    chains: OnceLock<[Followed; 3]>,
}

/// Inner figures and the factor on what openings take, with the body followed from there; none where it was lost.
type Followed = (Inner, f64, Option<Chain>);

impl<'a> FrontPredictor<'a> {
    /// From the measured drum as it is now. `None` where no body was found.
    pub fn new(drum: &'a Drum, partials: &'a [Partial], profile: &'a DecayProfile) -> Option<Self> {
        let model = DrumModel::fit(drum, partials)?;
        let body = model.partials[HeardBy::Partials.body(&model.partials)?].clone();
        let others = model.partials.iter().filter(|p| !p.tone.is_some_and(Tone::is_axial) && p.hz > body.hz);
        let others = others.cloned().collect();
        let (loss, loss_by_wave) = drum.usual_losses();
        let inner = Inner { batter_hz: model.batter_hz, front_hz: USUAL_FRONT * model.batter_hz, loss, loss_by_wave };
        let front = drum.front();
        let closed = Closed::new(drum, &front);
        let inner = fitted(&closed, drum, inner, 1.0, body.hz, decay_rate(body.t60_s?))?;
        let mut predictor = Self {
            drum,
            open: Open { partials, profile },
            measured: model.partials,
            inner,
            body,
            now: State::of(drum, &inner, 1.0)?,
            others,
            bare: Vec::new(),
            opening: LogNormal { ln: 0.0, sd: OPENING_LN_SD },
            laid: None,
            chains: OnceLock::new(),
        };
        predictor.bare = predictor.partials(&predictor.now);
        Some(predictor)
    }

    /// The same with what openings take as learned: mean and standard deviation of its logarithm. `None` where the measured body cannot be
    /// so.
    pub fn with_opening(mut self, opening: LogNormal) -> Option<Self> {
        self.opening = opening;
        self.inner = self.inner_at(opening.ln)?;
        self.now = State::of(self.drum, &self.inner, opening.median())?;
        self.bare = self.partials(&self.now);
        self.chains = OnceLock::new();
        Some(self)
    }

    /// The same with `placements` laid in besides, as strong as `strengths` says: outlooks are then of both together. `None` where nothing
    /// can be said of them.
    pub fn with_laid(self, placements: &[Placement], strengths: &Strengths) -> Option<Self> {
        if placements.is_empty() {
            return Some(self);
        }
        let predictor = Predictor::new(self.drum, self.open.partials)?;
        let grips: Vec<_> = placements.iter().map(|placement| predictor.grip_known(placement, strengths)).collect();
        let alone = predictor.expect(&self.open, placements, &grips.iter().collect::<Vec<_>>());
        self.with_laid_as(placements, None, strengths, alone)
    }

    /// The same with a beater besides that is left in the head after `held`, where it is known already what is expected of both `alone`, with
    /// nothing else changed.
    pub fn with_laid_as(mut self, placements: &[Placement], held: Option<Blow>, strengths: &Strengths, alone: Expectation) -> Option<Self> {
        let decay = |laid: &Laid| {
            let modes = Known { laid: Some(laid), ..self.known() }.modes(&self.now.front);
            most_alike(&modes, self.now.body()).map(|(body, _)| modes[body].decay)
        };
        let laid = Laid::new(self.drum, alone, placements, held, strengths, axial());
        let (bare, wanted) = (self.now.body().decay, decay_rate(laid.alone.profile.body_t60_s?));
        let laid = laid.agreed(bare, wanted, decay);
        let axial = |p: &&Partial| p.tone.is_some_and(Tone::is_axial);
        self.others = laid.alone.partials.iter().filter(|p| !axial(p) && p.hz > self.body.hz).cloned().collect();
        self.laid = Some(laid);
        self.chains = OnceLock::new();
        Some(self)
    }

    /// The drum with its inner figures and nothing laid in, where openings take what they are thought to.
    fn known(&self) -> Known<'_> {
        Known { drum: self.drum, inner: self.inner, opening: self.opening.median(), laid: None }
    }

    /// The inner figures with which the drum, closed as it is, sounds as it was measured where openings take exp(`ln`) of what they are
    /// thought to: an open drum was measured with what its opening takes.
    fn inner_at(&self, ln: f64) -> Option<Inner> {
        let front = self.drum.front();
        if front == Front::Whole {
            return Some(self.inner);
        }
        fitted(&Closed::new(self.drum, &front), self.drum, self.inner, ln.exp(), self.body.hz, decay_rate(self.body.t60_s?))
    }

    /// The body followed through all ways of closing the drum where openings take exp(`ln`) of what they are thought to.
    fn followed_at(&self, ln: f64) -> Followed {
        let (inner, opening) = (self.inner_at(ln).unwrap_or(self.inner), ln.exp());
        let known = Known { inner, opening, laid: self.laid.as_ref(), ..self.known() };
        // As it is in the very same model with nothing laid in: what is laid in may make another motion the most like a body.
        let bare = State::of(self.drum, &inner, opening);
        (inner, opening, bare.and_then(|bare| Chain::new(&known, bare.body())))
    }

    fn chains(&self) -> &[Followed; 3] {
        self.chains.get_or_init(|| [-NINETY_SDS, 0.0, NINETY_SDS].map(|sds| self.followed_at(self.opening.ln + sds * self.opening.sd)))
    }

    /// The drum closed as `front` says, as `followed` has it.
    fn state(&self, (inner, opening, chain): &Followed, front: &Front) -> Option<State> {
        chain.as_ref()?.at(&Known { inner: *inner, opening: *opening, laid: self.laid.as_ref(), ..self.known() }, front)
    }

    /// Pitch (Hz) and decay time (s) of the body behind `front`, where openings take exp(`ln`) of what they are thought to.
    pub(super) fn body(&self, front: &Front, ln: f64) -> Option<(f64, f64)> {
        let followed = self.followed_at(ln);
        let (now, then) = (self.state(&followed, &self.drum.front())?, self.state(&followed, front)?);
        let body = self.as_body(&now, &then);
        Some((body.hz, body.t60_s?))
    }

    /// What the model makes of the drum as it is: what an outlook is held against.
    pub fn bare(&self) -> &[Partial] {
        &self.bare
    }

    /// What the drum would be with its other end closed as `front` says.
    pub fn outlook(&self, front: &Front) -> FrontOutlook {
        let [least, middle, most] = self.chains();
        let state = self.state(middle, front).unwrap_or_else(|| self.now.clone());
        let end = |followed: &Followed| self.state(followed, front).unwrap_or_else(|| state.clone());
        let outlook = self.outlook_of(front, &state, [end(least), end(most)]);
        if *front == self.drum.front() && self.laid.is_none() { self.as_measured(outlook) } else { outlook }
    }

    /// `outlook` on the drum as it is: what was measured, with its own doubt, and no model's.
    fn as_measured(&self, outlook: FrontOutlook) -> FrontOutlook {
        let range = |hz: Option<f64>| {
            let partial = nearest(&self.measured, hz?)?;
            let wide = NINETY_SDS * partial.t60_sd_s? / partial.t60_s?;
            Some(Range { low: partial.t60_s? * (-wide).exp(), high: partial.t60_s? * wide.exp() })
        };
        let profile = self.open.profile;
        let expected = Expectation {
            partials: self.measured.clone(),
            profile: profile.clone(),
            body_t60_s: range(profile.body_hz),
            ring_t60_s: range(profile.ring_hz),
            ..Expectation::default()
        };
        FrontOutlook { expected, body_hz: None, ..outlook }
    }

    /// What a beater does behind `front` that a foot leaves in the head after `blow`.
    pub fn rebound(&self, front: &Front, blow: Blow) -> Rebound {
        let laid = self.laid.as_ref().map(Laid::without_beater);
        Rebound::of(&Closed::new(self.drum, front).with(laid.as_ref()), &self.inner, self.opening.median(), blow)
    }

    /// What the drum would be, closed as it is now, with its other head tuned so that it alone sounds `ratio` times as high. `None` where
    /// there is no film to tune.
    pub fn retuned(&self, ratio: f64) -> Option<FrontOutlook> {
        self.drum.lower_film()?;
        let now = self.state(&self.chains()[1], &self.drum.front())?;
        let at = |ratio: f64| self.tuned(&now, ratio).unwrap_or_else(|| now.clone());
        // How far a head comes by turning and tapping is not met exactly.
        let ends = [-1.0, 1.0].map(|sign| at(ratio * (sign * NINETY_SDS * TUNED_LN_SD).exp()));
        Some(self.outlook_of(&now.front, &at(ratio), ends))
    }

    /// The drum as it is `now` with its other head `ratio` times as high, its body followed there.
    fn tuned(&self, now: &State, ratio: f64) -> Option<State> {
        let mut state = now.clone();
        for step in 1..=TUNING_STEPS {
            let by = ratio.powf(step as f64 / TUNING_STEPS as f64);
            let inner = Inner { front_hz: by * self.inner.front_hz, ..self.inner };
            let modes = Known { inner, laid: self.laid.as_ref(), ..self.known() }.modes(&now.front);
            let (body, _) = most_alike(&modes, state.body())?;
            (state.modes, state.body) = (modes, body);
        }
        Some(state)
    }

    /// Of the drum in `state`, and in those at either end of what is not known.
    fn outlook_of(&self, front: &Front, state: &State, ends: [State; 2]) -> FrontOutlook {
        let partials = self.partials(state);
        let profile = self.profile(&partials);
        let expected = Expectation {
            body_t60_s: None,
            ring_t60_s: None,
            ring_share: None,
            attack_lost_db: 0.0,
            click_gained_db: 0.0,
            pitch_cents: self.open.profile.body_hz.zip(profile.body_hz).map_or(0.0, |(from, to)| cents(from, to)),
            rings_on: self.open.rings_on(&self.bare, &partials),
            partials,
            profile,
        };
        let same = *front == self.drum.front() && self.laid.is_none();
        let levels = Levels::of(self.drum, front, same, &self.now.modes, &state.modes, &ends.each_ref().map(|end| &end.modes[..]));
        let ends = ends.map(|state| self.partials(&state));
        let mut expected = expected.between(&self.open, &self.bare, &ends);
        if let Some(Laid { alone, .. }) = &self.laid {
            (expected.attack_lost_db, expected.click_gained_db) = (alone.attack_lost_db, alone.click_gained_db);
            expected = expected.doubted_also_as(alone);
        }
        let body = |partials: &[Partial]| partials.iter().find(|p| p.tone == self.body.tone).map(|p| p.hz);
        let pitches = ends.iter().filter_map(|partials| body(partials));
        let body_hz = expected.profile.body_hz.map(|hz| {
            let wide = (NINETY_SDS * PITCH_LN_SD).exp();
            let (low, high) = pitches.fold((hz, hz), |(low, high), end| (low.min(end), high.max(end)));
            Range { low: low / wide, high: high * wide }
        });
        FrontOutlook { front: front.clone(), thump: !state.body().is_tone(), expected, levels, body_hz }
    }

    /// The drum's partials in `state`: pitch, length and level of each as measured, changed as the model's change. A motion that was not heard
    /// on the drum as it is does not become one of its tones.
    fn partials(&self, state: &State) -> Vec<Partial> {
        let blow = Blow::usual(self.drum.kind).unwrap_or(STICK);
        // What the beater's contact does not bring out is not heard, however readily the head would move so.
        let heard = |mode: &AxialMode| mode.player * blow.power_at(mode.hz, 1.0).sqrt();
        let overtone = |mode: &AxialMode| {
            let (partial, before) = self.measured_as(mode)?;
            let partial = Partial {
                hz: mode.hz * partial.hz / before.hz,
                t60_s: Some(t60(mode.decay * partial.t60_s.map_or(1.0, |time| decay_rate(time) / before.decay))),
                t60_sd_s: None,
                t60_scatter_s: None,
                level_db: partial.level_db + decibels(heard(mode) / heard(before)),
                tone: partial.tone,
            };
            (partial.level_db >= QUIETEST_DB).then_some(partial)
        };
        let body = Partial {
            level_db: self.body.level_db + decibels(heard(state.body()) / heard(self.now.body())),
            ..self.as_body(&self.now, state)
        };
        let overtones = state.modes.iter().enumerate().filter(|(at, mode)| *at != state.body && mode.is_tone());
        let mut partials: Vec<Partial> =
            overtones.filter_map(|(_, mode)| overtone(mode)).chain(self.others.iter().cloned()).chain([body]).collect();
        partials.sort_by(|a, b| a.hz.total_cmp(&b.hz));
        partials
    }

    /// The measured body as it becomes from `now` to `then`.
    fn as_body(&self, now: &State, then: &State) -> Partial {
        let (now, then) = (now.body(), then.body());
        let t60_s = self.body.t60_s.map(|time| t60(decay_rate(time) * then.decay / now.decay));
        Partial { hz: self.body.hz * then.hz / now.hz, t60_s, t60_sd_s: None, ..self.body }
    }

    /// The measured overtone that is the same motion as `mode`, and that motion in the model of the drum as it is.
    fn measured_as(&self, mode: &AxialMode) -> Option<(&Partial, &AxialMode)> {
        let now = &self.now;
        let (at, likeness) = most_alike(&now.modes, mode)?;
        if likeness < SAME_MOTION || at == now.body {
            return None;
        }
        let before = &now.modes[at];
        let off = |p: &Partial| (p.hz / before.hz - 1.0).abs();
        // What was measured and fits no mode of one head alone may be a motion of both with the air.
        let near = |p: &&Partial| match p.tone {
            Some(Tone::Mode(mode)) => mode.is_axial() && off(p) < NEAR_AS_LABELLED,
            _ => off(p) < NEAR_UNLABELLED,
        };
        let above = self.measured.iter().filter(|p| p.hz > self.body.hz);
        let partial = above.filter(near).min_by(|a, b| off(a).total_cmp(&off(b)))?;
        Some((partial, before))
    }

    fn profile(&self, partials: &[Partial]) -> DecayProfile {
        let lost_db = self.laid.as_ref().map_or(0.0, |laid| laid.alone.stroke_lost_db());
        self.open.profile_of(&self.bare, partials, lost_db)
    }
}

/// The inner figures with which the model's body sounds at `hz` and decays at `decay`, by turns; `opening` scales what openings take.
fn fitted(closed: &Closed, drum: &Drum, start: Inner, opening: f64, hz: f64, decay: f64) -> Option<Inner> {
    let body = |inner: &Inner| {
        let modes = axial_modes(closed, inner, opening);
        body_of(&modes).map(|at| (modes[at].hz, modes[at].decay))
    };
    let mut inner = start;
    for _ in 0..ROUNDS {
        // What is fitted to the pitch: the front head's, where there is one; else the batter's.
        let with = |own_hz: f64| {
            if drum.lower_film().is_some() { Inner { front_hz: own_hz, ..inner } } else { Inner { batter_hz: own_hz, ..inner } }
        };
        // False position in the Illinois form (Dowell & Jarratt, BIT 11, 1971), over logarithms; where no body is heard it lies too low.
        let off = |ln: f64| body(&with(ln.exp())).map_or(-1.0, |(found, _)| (found / hz).ln());
        let (mut low, mut high) = ((0.25 * start.batter_hz).ln(), (4.0 * start.batter_hz).ln());
        let (mut off_low, mut off_high) = (off(low), off(high));
        let mut middle = high;
        for _ in 0..STEPS {
            if off_low >= 0.0 || off_high <= 0.0 {
                // The body lies beyond what the head can do: the nearest end stands for it.
                middle = if off_low >= 0.0 { low } else { high };
                break;
            }
            middle = (low * off_high - high * off_low) / (off_high - off_low);
            let here = off(middle);
            if here.abs() < NEAR {
                break;
            } else if here < 0.0 {
                (low, off_low, off_high) = (middle, here, 0.5 * off_high);
            } else {
                (high, off_high, off_low) = (middle, here, 0.5 * off_low);
            }
        }
        inner = with(middle.exp());
        let (_, found) = body(&inner)?;
        // Losses other than the heads' own stay; a body that lasts longer than they allow keeps a tenth of the heads' usual ones.
        let own = inner.loss + (decay - found);
        inner.loss = own.max(0.1 * start.loss);
    }
    Some(inner)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{DrumKind, Port};
    use crate::kick::fronts;
    use proptest::prelude::*;

    fn partial(hz: f64, t60_s: f64, mode: &str) -> Partial {
        Partial {
            hz,
            t60_s: Some(t60_s),
            t60_sd_s: Some(0.02 * t60_s),
            t60_scatter_s: None,
            level_db: if mode == "(0,1)" { 0.0 } else { -12.0 },
            tone: Tone::read(mode),
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        /// Whatever kick was measured: its body comes out as it was measured where nothing changes, every outlook is finite with its
        /// middle inside its bounds, and of usual holes stronger ones never lengthen the body.
        #[test]
        fn outlooks_hold_together(diameter_in in 16.0f64..26.0, depth_in in 10.0f64..20.0, low in 0.85f64..1.1, t60_s in 0.3f64..1.6, part in 0.1f64..0.3) {
            let drum = Drum { diameter_in, depth_in, ..BenchDrum::usual(DrumKind::Kick) };
            let batter = drum.usual_batter_hz();
            let partials = vec![partial(low * batter, t60_s, "(0,1)"), partial(1.593 * batter, 0.8 * t60_s, "(1,1)"), partial(2.136 * batter, 0.7 * t60_s, "(2,1)")];
            let profile = DecayProfile::of_partials(&partials);
            let predictor = FrontPredictor::new(&drum, &partials, &profile).unwrap();
            let same = predictor.outlook(&Front::Whole).expected;
            prop_assert!((same.profile.body_hz.unwrap() / (low * batter) - 1.0).abs() < 1e-3);
            prop_assert!((same.profile.body_t60_s.unwrap() / t60_s - 1.0).abs() < 1e-3);
            for front in fronts(&drum) {
                let FrontOutlook { expected, levels, .. } = predictor.outlook(&front);
                let (body, range) = (expected.profile.body_t60_s.unwrap(), expected.body_t60_s.unwrap());
                prop_assert!(body.is_finite() && range.low < body && body < range.high, "{front:?}: {body} in {range:?}");
                prop_assert!(levels.click.db >= -1e-9);
                for level in [Some(levels.player), levels.front, Some(levels.inside), Some(levels.click)].into_iter().flatten() {
                    prop_assert!(level.low <= level.db && level.db <= level.high && level.db.is_finite(), "{front:?}: {level:?}");
                }
            }
            let mut ways = fronts(&drum);
            ways.sort_by(|a, b| a.open_part(diameter_in).total_cmp(&b.open_part(diameter_in)));
            let lasting: Vec<f64> = ways.iter().map(|front| predictor.outlook(front).expected.profile.body_t60_s.unwrap()).collect();
            prop_assert!(lasting.is_sorted_by(|a, b| *a >= *b), "more open, and longer: {lasting:?}");
            let any = Front::Ported { ports: vec![Port { diameter_in: 2.2 * part * diameter_in, radius: 0.2, angle_deg: 30.0 }] };
            let (less, more) = (ways.iter().rfind(|way| way.open_part(diameter_in) <= any.open_part(diameter_in)), &Front::Off);
            let body = |front: &Front| predictor.outlook(front).expected.profile.body_t60_s.unwrap();
            prop_assert!(less.is_none_or(|less| body(less) >= body(&any)) && body(&any) >= body(more));
            let port = Front::usual_port(part * diameter_in, diameter_in);
            let bodies: Vec<f64> = [-0.4, -0.2, 0.0, 0.2, 0.4].iter().filter_map(|ln| Some(predictor.body(&port, *ln)?.1)).collect();
            prop_assert!(bodies.len() == 5 && bodies.is_sorted_by(|a, b| *a >= 0.98 * b), "{bodies:?}");
        }
    }

    /// A drum with a hole was measured with what the hole takes: whatever that is thought to be, as it is it sounds as it was measured, with
    /// no more doubt than its own; and a whole head in its place gains more the more the hole is thought to take.
    #[test]
    fn a_drum_that_is_open_sounds_as_measured_whatever_openings_take() {
        let drum = BenchDrum::usual(DrumKind::Kick).with_front(&Front::usual_port(5.0, 22.0));
        let partials = vec![partial(62.0, 0.5, "(0,1)"), partial(93.0, 0.7, "(1,1)"), partial(125.0, 0.6, "(2,1)")];
        let profile = DecayProfile::of_partials(&partials);
        let outlook = |ln: f64, front: &Front| {
            FrontPredictor::new(&drum, &partials, &profile)
                .unwrap()
                .with_opening(LogNormal { ln, sd: 0.3 })
                .unwrap()
                .outlook(front)
                .expected
        };
        let body = |expected: &Expectation| expected.profile.body_t60_s.unwrap();
        for ln in [-0.4, 0.0, 0.4] {
            let same = outlook(ln, &drum.front());
            let range = same.body_t60_s.unwrap();
            assert!((body(&same) / 0.5 - 1.0).abs() < 1e-3 && range.high / range.low < 1.6, "{ln}: {} in {range:?}", body(&same));
        }
        let [weak, strong] = [-0.4, 0.4].map(|ln| body(&outlook(ln, &Front::Whole)));
        assert!(weak > 0.5 && strong > weak, "{weak} {strong}");
    }

    #[test]
    fn without_a_body_there_is_no_outlook() {
        let drum = BenchDrum::usual(DrumKind::Kick);
        assert!(FrontPredictor::new(&drum, &[], &DecayProfile::default()).is_none());
    }
}
