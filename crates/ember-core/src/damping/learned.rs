//! What before-and-after measurements teach about how strong the user's own devices are.
//!
//! The logarithms of each device's resistance and mass against their priors are Gaussian, and so are what is added to the exponent with which
//! the resistance grows with frequency, and what a family of heads adds to the resistance. A test moves it by one update of an extended Kalman
//! filter, iterated (B. M. Bell & F. W. Cathey, IEEE Trans. Automatic Control 38, 1993: the same as Gauss-Newton): the decay
//! times and pitches found are held against those that the full solve expects, partial by partial. What one drum's tones lose more or less than the
//! model says, whatever lies on it, is learned beside the devices, and each laying on differs a little. A decay time that is far off counts for less
//! (Huber's weights), so that one bad take does not spoil what others taught. Tests are taken in order of time, and each is
//! predicted before it is learned from: so the score is an honest one.

use super::catalogue::DeviceKind;
use super::expected::{Expectation, Open, longest_of};
use super::grip::Grip;
use super::model_error::MODEL_LN_SD;
use super::own_tones::{OwnDrum, OwnTones, from_test_to_test, is_learned};
use super::placement::Placement;
use super::predict::{Predictor, Strength};
use super::strengths::{
    DeviceStrength, EXPONENTS, FURTHEST_EXPONENT, KINDS, MASSES, ON_HEADS, SIZE, Strengths, index, laying_ln_sd, on_heads,
};
use crate::drum::{Drum, DrumKind};
use crate::numeric::{NINETY_SDS, Range};
use crate::tone::Tone;
use crate::tone::nearest;
use crate::tone::{DecayProfile, Partial};
use crate::units::median;
use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// Partials quieter than this against the loudest teach nothing, dB.
const QUIETEST_DB: f64 = -26.0;
/// A partial found this near (logarithm of the ratio) may be the one that was expected.
const SAME: f64 = 0.05;
/// What the model is off by in the ring and in other overtones (logarithm of a decay time): more than in the body, whose shape hardly
/// changes. Many overtones err alike, so that each counts for less.
const RING_LN_SD: f64 = 1.5 * MODEL_LN_SD;
const OVERTONE_LN_SD: f64 = 3.0 * MODEL_LN_SD;
/// What is off in the pitch of the body and of other partials (logarithm): heads creep, and no two strikes are alike.
const BODY_PITCH_LN_SD: f64 = 0.005;
const AXIAL_PITCH_LN_SD: f64 = 0.03;
const PITCH_LN_SD: f64 = 0.012;
/// Errors beyond this many standard deviations count for less.
const HUBER: f64 = 1.5;
/// Step for slopes, and rounds of Gauss-Newton.
const STEP: f64 = 0.1;
/// No tone goes further than this in such a step: pitch in units of [`SAME`], and the logarithm of its time.
const A_STEP_AWAY: f64 = 0.4;
const ROUNDS: usize = 3;
/// No tone of one drum loses more or less to devices than the model says by more than this (logarithm).
const FURTHEST_OWN: f64 = 0.7;
/// Bounds that hold four times in five against those that hold nine times in ten: the quotient of two percentiles of the normal distribution.
const FOUR_IN_FIVE: f64 = 1.2816 / NINETY_SDS;

/// A drum before and after devices were put on it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct DeviceTrial {
    /// The drum.
    pub drum: Drum,
    /// Combined partials and profile of the open drum.
    pub open: Vec<Partial>,
    /// The open drum's figures.
    pub open_profile: DecayProfile,
    /// What lies where.
    pub placements: Vec<Placement>,
    /// Combined partials with the devices on.
    pub found: Vec<Partial>,
}

/// Body or ring of a test, in s.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TestedTime {
    /// Pitch of the partial, Hz.
    pub hz: f64,
    /// T60 as it was found, s.
    pub found_s: f64,
    /// Expected from priors alone, and with what earlier tests had taught.
    pub usual_s: f64,
    /// T60 as it was expected, s.
    pub expected_s: f64,
    /// Whether it lay where it should nine times in ten, with what earlier tests had taught.
    pub within: bool,
    /// The same within the narrower bounds that hold four times in five.
    pub within_four_in_five: bool,
}

/// One test with what was expected of it before it was learned from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tested {
    /// The body.
    pub body: Option<TestedTime>,
    /// The ring.
    pub ring: Option<TestedTime>,
    /// What the devices in it were taken to be afterwards.
    pub after: Vec<DeviceStrength>,
}

/// How good predictions were.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Score {
    /// Decay times that were predicted and then found; of them, so many lay within their bounds.
    pub times: usize,
    /// Figures that lay in their bounds.
    pub within: usize,
    /// Within the bounds that should hold four times in five.
    pub within_four_in_five: usize,
    /// Median error from priors alone, and with what earlier tests had taught (0.1: ten per cent).
    pub usual_error: Option<f64>,
    /// Median error with what was learned; none where nothing was.
    pub learned_error: Option<f64>,
}

/// What all tests came to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Learned {
    /// On drums and cymbals of which it is known how they move.
    pub strengths: Strengths,
    /// On each other drum, by its name: what one taught says nothing about the next.
    others: Vec<(String, Strengths)>,
    /// What is known of the tones of each drum on which something was tested.
    drums: Vec<OwnDrum>,
    /// One for each trial; none where the open drum's body is not known.
    pub tests: Vec<Option<Tested>>,
    /// How good predictions were.
    pub score: Score,
}

impl Learned {
    /// From `trials` in order of time.
    pub fn from_trials(trials: &[DeviceTrial]) -> Self {
        let nothing = Score { times: 0, within: 0, within_four_in_five: 0, usual_error: None, learned_error: None };
        Self { strengths: Strengths::default(), others: Vec::new(), drums: Vec::new(), tests: Vec::new(), score: nothing }.and(trials)
    }

    /// With `trials` that came after all others.
    pub fn and(&self, trials: &[DeviceTrial]) -> Self {
        let (mut strengths, mut others, mut tests) = (self.strengths.clone(), self.others.clone(), self.tests.clone());
        let mut drums = self.drums.clone();
        for trial in trials {
            let drum = &trial.drum;
            if drum.kind == DrumKind::Other && others.iter().all(|(name, _)| *name != drum.name) {
                others.push((drum.name.clone(), Strengths::unlearned(drum.kind)));
            }
            let of_drum = others.iter_mut().find(|(name, _)| drum.kind == DrumKind::Other && *name == drum.name);
            let strengths = of_drum.map_or(&mut strengths, |(_, own)| own);
            let at = drums.iter().position(|own| own.is(drum)).unwrap_or_else(|| {
                drums.push(OwnDrum { drum: drum.clone(), tones: OwnTones::default() });
                drums.len() - 1
            });
            strengths.own = Arc::new(drums[at].tones.clone());
            tests.push(strengths.learn(trial));
            drums[at].tones = std::mem::take(Arc::make_mut(&mut strengths.own));
        }
        let times: Vec<TestedTime> = tests.iter().flatten().flat_map(|test| [test.body, test.ring]).flatten().collect();
        let error = |pick: fn(&TestedTime) -> f64| {
            median(&times.iter().map(|time| (time.found_s / pick(time)).ln().abs().exp_m1()).collect::<Vec<_>>())
        };
        let score = Score {
            times: times.len(),
            within: times.iter().filter(|time| time.within).count(),
            within_four_in_five: times.iter().filter(|time| time.within_four_in_five).count(),
            usual_error: error(|time| time.usual_s),
            learned_error: error(|time| time.expected_s),
        };
        Self { strengths, others, drums, tests, score }
    }

    /// How strong devices are taken to be on `drum`.
    pub fn on(&self, drum: &Drum) -> Strengths {
        let own = self.others.iter().find(|(name, _)| *name == drum.name).map(|(_, own)| own.clone());
        let strengths =
            if drum.kind == DrumKind::Other { own.unwrap_or_else(|| Strengths::unlearned(drum.kind)) } else { self.strengths.clone() };
        let tones = self.drums.iter().find(|own| own.is(drum)).map(|own| own.tones.clone()).unwrap_or_default();
        Strengths { own: Arc::new(tones), ..strengths }
    }
}

impl Strengths {
    /// Predicts `trial`, then learns from it, about devices and about the drum's own tones. `None` where the open drum's body is not known.
    pub fn learn(&mut self, trial: &DeviceTrial) -> Option<Tested> {
        let predictor = Predictor::new(&trial.drum, &trial.open)?;
        let grips: Vec<Grip> = trial.placements.iter().map(|placement| predictor.grip(placement)).collect();
        let expect = |strengths: &Self| {
            let known = |(grip, placement): (&Grip, &Placement)| predictor.known(grip, placement, strengths);
            let grips: Vec<Grip> = grips.iter().zip(&trial.placements).map(known).collect();
            let open = Open { partials: &trial.open, profile: &trial.open_profile };
            predictor.expect(&open, &trial.placements, &grips.iter().collect::<Vec<_>>())
        };
        let (usual, expected) = (expect(&Self::unlearned(trial.drum.kind)), expect(self));
        let test = Test::new(trial, &predictor, &grips, &expected.profile);
        if let Some((mean, covariance)) = test.posterior(self) {
            self.take_over(&test, &mean, &covariance);
        }
        let after = test.kinds.iter().map(|kind| self.of(DeviceKind::ALL[*kind])).collect();
        let body = time_tested(&trial.found, &usual, &expected, expected.profile.body_hz, |e| e.body_t60_s);
        let ring = time_tested(&trial.found, &usual, &expected, expected.profile.ring_hz, |e| e.ring_t60_s);
        Some(Tested { body, ring, after })
    }

    /// What `test` taught. How far devices and the drum's tones were learned in place of one another is forgotten between tests.
    fn take_over(&mut self, test: &Test, mean: &DVector<f64>, covariance: &DMatrix<f64>) {
        self.mean = mean.rows(0, SIZE).into_owned();
        self.covariance = covariance.view((0, 0), (SIZE, SIZE)).into_owned();
        let mut own = (*self.own).clone();
        for (at, tone) in test.tones.iter().enumerate() {
            own.set(*tone, (mean[SIZE + at], covariance[(SIZE + at, SIZE + at)]));
        }
        self.own = Arc::new(own);
        test.kinds.iter().for_each(|kind| self.tests[*kind] += 1);
        test.of_heads.iter().for_each(|of| self.tests_on[(of - ON_HEADS) / KINDS][of % KINDS] += 1);
    }
}

/// One test with what it can teach: a state of the numbers of all devices ([`Strengths`]) and, from [`SIZE`] on, what each of the drum's
/// tones loses to them (the logarithm, against the model).
struct Test<'a> {
    trial: &'a DeviceTrial,
    predictor: &'a Predictor,
    grips: &'a [Grip],
    profile: &'a DecayProfile,
    /// Kinds of devices in it, and what heads of this family add to them, by their places among the numbers.
    kinds: Vec<usize>,
    of_heads: Vec<usize>,
    tones: Vec<Tone>,
}

impl<'a> Test<'a> {
    fn new(trial: &'a DeviceTrial, predictor: &'a Predictor, grips: &'a [Grip], profile: &'a DecayProfile) -> Self {
        let each = |numbers: &mut dyn Iterator<Item = usize>| {
            let mut numbers: Vec<usize> = numbers.collect();
            numbers.sort_unstable();
            numbers.dedup();
            numbers
        };
        let of_head = |placement: &Placement| Some((index(placement.device), placement.head_family(&trial.drum)?));
        let kinds = each(&mut trial.placements.iter().map(|placement| index(placement.device)));
        let of_heads = each(&mut trial.placements.iter().filter_map(of_head).map(|(kind, family)| on_heads(kind, family)));
        let mut tones: Vec<Tone> =
            predictor.bare().iter().filter(|p| p.level_db > QUIETEST_DB).filter_map(|p| p.tone).filter(|tone| is_learned(*tone)).collect();
        tones.sort_unstable();
        tones.dedup();
        Self { trial, predictor, grips, profile, kinds, of_heads, tones }
    }

    /// Partials that the state `mean` expects.
    fn solve(&self, mean: &DVector<f64>) -> Vec<Partial> {
        let own = |mode: usize| {
            let tone = self.predictor.model.modes[mode].tone;
            self.tones.iter().position(|own| *own == tone).map_or(0.0, |at| mean[SIZE + at])
        };
        let at = |(grip, placement): (&Grip, &Placement)| {
            let kind = index(placement.device);
            let of_family = placement.head_family(&self.trial.drum).map_or(0.0, |family| mean[on_heads(kind, family)]);
            let steep = self.predictor.as_steep(grip.as_strong((mean[kind] + of_family, 0.0)), mean[EXPONENTS + kind]);
            steep.as_heavy(mean[MASSES + kind].exp()).on_own(&Arc::default(), own)
        };
        let grips: Vec<Grip> = self.grips.iter().zip(&self.trial.placements).map(at).collect();
        self.predictor.solve(&grips.iter().collect::<Vec<_>>(), Strength::EXPECTED)
    }

    /// Mean and covariance of the state after the test, by Gauss-Newton from what was known before. `None` where there is nothing to learn.
    fn posterior(&self, known: &Strengths) -> Option<(DVector<f64>, DMatrix<f64>)> {
        let (before, prior) = self.before(known);
        let (mut mean, mut covariance) = (before.clone(), prior.clone());
        for _ in 0..ROUNDS {
            let here = self.solve(&mean);
            let Evidence { jacobian, residual, noise } = self.evidence(&mean, &here)?;
            // The prior pulls from where the test found the devices; what was moved already is taken back out of the residual.
            let inverse = (&jacobian * &prior * jacobian.transpose() + noise).try_inverse()?;
            let gain = &prior * jacobian.transpose() * inverse;
            mean = &before + &gain * (residual - &jacobian * (&before - &mean));
            mean.iter_mut().enumerate().for_each(|(i, x)| *x = x.clamp(-furthest(known, i), furthest(known, i)));
            covariance = &prior - &gain * (&jacobian * &prior);
        }
        Some((mean, (&covariance + covariance.transpose()) * 0.5))
    }

    /// Mean and covariance of the state before the test.
    fn before(&self, known: &Strengths) -> (DVector<f64>, DMatrix<f64>) {
        let size = SIZE + self.tones.len();
        let (mut mean, mut covariance) = (DVector::zeros(size), DMatrix::zeros(size, size));
        mean.rows_mut(0, SIZE).copy_from(&known.mean);
        covariance.view_mut((0, 0), (SIZE, SIZE)).copy_from(&known.covariance);
        for (at, tone) in self.tones.iter().enumerate() {
            (mean[SIZE + at], covariance[(SIZE + at, SIZE + at)]) = known.own.ln(*tone);
        }
        (mean, covariance)
    }

    /// What was found against `here`, the partials that the state `mean` expects. `None` where no partial is recognised.
    fn evidence(&self, mean: &DVector<f64>, here: &[Partial]) -> Option<Evidence> {
        let pairs = paired(here, &self.trial.found);
        if pairs.is_empty() {
            return None;
        }
        let numbers = self.kinds.iter().flat_map(|kind| [*kind, MASSES + kind, EXPONENTS + kind]).chain(self.of_heads.iter().copied());
        let stepped = |of: usize| {
            let mut stepped = mean.clone();
            stepped[of] += STEP;
            (of, self.solve(&stepped))
        };
        let slopes: Vec<(usize, Vec<Partial>)> = numbers.map(stepped).collect();
        let mut evidence = Evidence::new(2 * pairs.len(), mean.len());
        for (row, (should, is)) in pairs.iter().enumerate() {
            let (Some(should_s), Some(is_s)) = (should.t60_s, is.t60_s) else { continue };
            let pitch_row = pairs.len() + row;
            for (of, stepped) in &slopes {
                let moved = like(stepped, should);
                let moved_s = moved.and_then(|partial| partial.t60_s).unwrap_or(should_s);
                evidence.jacobian[(row, *of)] = (moved_s / should_s).ln() / STEP;
                evidence.jacobian[(pitch_row, *of)] = moved.map_or(0.0, |moved| (moved.hz / should.hz).ln() / STEP);
            }
            let laid = self.laid(should.tone, should_s);
            if let Some(at) = self.tones.iter().position(|own| Some(*own) == should.tone) {
                evidence.jacobian[(row, SIZE + at)] = -laid;
            }
            let measured = is.t60_sd_s.map_or(0.1, |sd| sd / is_s);
            evidence.add(row, (is_s / should_s).ln(), (self.time_variance(should, laid) + measured * measured).sqrt());
            evidence.add(pitch_row, (is.hz / should.hz).ln(), self.pitch_ln_sd(should));
        }
        self.kinds.iter().for_each(|kind| evidence.differs_by(*kind, laying_ln_sd(DeviceKind::ALL[*kind])));
        Some(evidence)
    }

    /// The part of the losses of `tone` that the devices make, where it lasts `t60_s` with them: 0 to 1.
    fn laid(&self, tone: Option<Tone>, t60_s: f64) -> f64 {
        let bare = tone.and_then(|tone| longest_of(self.predictor.bare(), Some(tone))?.t60_s);
        bare.map_or(0.0, |bare| (1.0 - t60_s / bare).clamp(0.0, 1.0))
    }

    fn is_at(&self, should: &Partial, hz: Option<f64>) -> bool {
        hz.is_some_and(|hz| (hz / should.hz).ln().abs() < 0.02)
    }

    /// Variance of the logarithm of a decay time that is drawn anew in each test. Overtones err so much more from test to test than by the
    /// drum that nothing is taken off for it.
    fn time_variance(&self, should: &Partial, laid: f64) -> f64 {
        match () {
            () if self.is_at(should, self.profile.body_hz) => from_test_to_test(should.tone, laid).min(MODEL_LN_SD.powi(2)),
            () if self.is_at(should, self.profile.ring_hz) => RING_LN_SD.powi(2),
            () => OVERTONE_LN_SD.powi(2),
        }
    }

    fn pitch_ln_sd(&self, should: &Partial) -> f64 {
        match should.tone {
            _ if self.is_at(should, self.profile.body_hz) => BODY_PITCH_LN_SD,
            Some(tone) if tone.is_axial() => AXIAL_PITCH_LN_SD,
            _ => PITCH_LN_SD,
        }
    }
}

/// How far the number at place `i` of the state may go.
fn furthest(known: &Strengths, i: usize) -> f64 {
    match i {
        MASSES..EXPONENTS => known.furthest_mass,
        EXPONENTS..ON_HEADS => FURTHEST_EXPONENT,
        SIZE.. => FURTHEST_OWN,
        _ => known.furthest,
    }
}

/// What a test says: a row for each decay time, then one for each pitch, as logarithms of found against expected.
struct Evidence {
    jacobian: DMatrix<f64>,
    residual: DVector<f64>,
    /// Covariance of what neither devices nor the drum's own tones explain.
    noise: DMatrix<f64>,
}

impl Evidence {
    fn new(rows: usize, size: usize) -> Self {
        Self { jacobian: DMatrix::zeros(rows, size), residual: DVector::zeros(rows), noise: DMatrix::identity(rows, rows) }
    }

    /// Of `row`: how far it is off, and the standard deviation that it should have.
    fn add(&mut self, row: usize, off: f64, sd: f64) {
        self.residual[row] = off;
        self.noise[(row, row)] = sd * sd * (off.abs() / (HUBER * sd)).max(1.0);
    }

    /// Parameter `of` varies from test to test with standard deviation `sd`. This random effect is common to all rows, so that it adds a
    /// matrix of rank one to the noise.
    fn differs_by(&mut self, of: usize, sd: f64) {
        let slope = self.jacobian.column(of).into_owned() * sd;
        self.noise += &slope * slope.transpose();
    }
}

/// Expected partials with those found that they are, as evidence of how strong a device is: near in pitch, and of two that are, the one that decays
/// more alike. Of a split pair one member may have gone before it was found.
fn paired<'a>(expected: &'a [Partial], found: &'a [Partial]) -> Vec<(&'a Partial, &'a Partial)> {
    let unlike = |should: &Partial, is: &Partial| {
        let times = is.t60_s.zip(should.t60_s).map_or(0.0, |(a, b)| (a / b).ln().abs());
        (is.hz / should.hz).ln().abs() / SAME + times
    };
    paired_by(expected, found, QUIETEST_DB, unlike)
}

/// Expected partials with those found that they are, no two with one: the most alike first, none that lies further off in pitch than mass may move it,
/// and none at or under `quietest_db` against the loudest.
pub(crate) fn paired_by<'a>(
    expected: &'a [Partial],
    found: &'a [Partial],
    quietest_db: f64,
    unlike: impl Fn(&Partial, &Partial) -> f64,
) -> Vec<(&'a Partial, &'a Partial)> {
    let loud = |partials: &'a [Partial]| partials.iter().filter(|p| p.level_db > quietest_db && p.t60_s.is_some());
    let mut all: Vec<(f64, &Partial, &Partial)> = Vec::new();
    for is in loud(found) {
        for should in loud(expected) {
            if (is.hz / should.hz).ln().abs() < SAME {
                all.push((unlike(should, is), should, is));
            }
        }
    }
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut pairs: Vec<(&Partial, &Partial)> = Vec::new();
    for (_, should, is) in all {
        if pairs.iter().all(|(other, taken)| !std::ptr::eq(*other, should) && !std::ptr::eq(*taken, is)) {
            pairs.push((should, is));
        }
    }
    pairs
}

/// `partial` in a solve next to the one that it is from; none where only its pair's other member is left there.
fn like<'a>(partials: &'a [Partial], partial: &Partial) -> Option<&'a Partial> {
    let unlike = |other: &Partial| {
        let times = other.t60_s.zip(partial.t60_s).map_or(1.0, |(a, b)| (a / b).ln().abs());
        (other.hz / partial.hz).ln().abs() / SAME + times
    };
    let same = partials.iter().filter(|other| other.tone == partial.tone && unlike(other) < A_STEP_AWAY);
    same.min_by(|a, b| unlike(a).total_cmp(&unlike(b)))
}

fn time_tested(
    found: &[Partial],
    usual: &Expectation,
    expected: &Expectation,
    hz: Option<f64>,
    range: fn(&Expectation) -> Option<Range>,
) -> Option<TestedTime> {
    let hz = hz?;
    let found_s = nearest(found, hz)?.t60_s?;
    let of = |expectation: &Expectation| nearest(&expectation.partials, hz)?.t60_s;
    let (usual_s, expected_s, range) = (of(usual)?, of(expected)?, range(expected)?);
    let bound = if found_s > expected_s { range.high } else { range.low };
    let narrower = FOUR_IN_FIVE * (bound / expected_s).ln().abs();
    Some(TestedTime {
        hz,
        found_s,
        usual_s,
        expected_s,
        within: (range.low..=range.high).contains(&found_s),
        within_four_in_five: (found_s / expected_s).ln().abs() <= narrower,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench_drum::BenchDrum;
    use crate::drum::{Head, HeadFamily};
    use crate::tone::Tone;
    use proptest::prelude::*;

    fn open() -> Vec<Partial> {
        let partial = |hz: f64, t60: f64, level_db: f64, mode: &str| Partial {
            hz,
            t60_s: Some(t60),
            t60_sd_s: Some(0.01 * t60),
            t60_scatter_s: None,
            level_db,
            tone: Tone::read(mode),
        };
        vec![partial(140.0, 0.9, 0.0, "(0,1)"), partial(222.0, 0.8, -3.0, "(1,1)"), partial(298.0, 0.6, -8.0, "(2,1)")]
    }

    /// A drum on which devices are `times` as strong as usual, by the model itself.
    fn trial(spec: &str, times: f64) -> DeviceTrial {
        heavy_trial(spec, times, 1.0)
    }

    fn heavy_trial(spec: &str, times: f64, mass_times: f64) -> DeviceTrial {
        steep_trial(spec, (times, mass_times, 0.0), 1.0)
    }

    /// On a drum tuned higher by a factor of `up`, resistance and mass against the usual ones, and what is added to the exponent.
    fn steep_trial(spec: &str, (times, mass_times, more): (f64, f64, f64), up: f64) -> DeviceTrial {
        let mut open = open();
        open.iter_mut().for_each(|partial| partial.hz *= up);
        let drum = BenchDrum::usual(DrumKind::Tom);
        let placements = vec![Placement::parse(spec).unwrap()];
        let predictor = Predictor::new(&drum, &open).unwrap();
        let grip = predictor.as_steep(predictor.grip(&placements[0]).as_strong((times.ln(), 0.0)), more).as_heavy(mass_times);
        let mut found = predictor.solve(&[&grip], Strength::EXPECTED);
        found.iter_mut().for_each(|partial| partial.t60_sd_s = partial.t60_s.map(|t60| 0.01 * t60));
        DeviceTrial { open_profile: DecayProfile::of_partials(&open), drum, open, placements, found }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(12))]
        #[test]
        fn tests_bring_the_strength_nearer_and_leave_less_doubt(times in 0.5f64..2.0) {
            let (mut strengths, family) = (Strengths::default(), Some(HeadFamily::of(&BenchDrum::usual(DrumKind::Tom).batter)));
            let mut sd = strengths.ln(DeviceKind::GelPad, family).1;
            for spec in ["gel_pad:0:0.85:180", "gel_pad:0:0.65:90", "gel_pad:0:0.75:200"] {
                strengths.learn(&trial(spec, times)).unwrap();
                let (_, now) = strengths.ln(DeviceKind::GelPad, family);
                prop_assert!(now < sd);
                sd = now;
            }
            let (mean, sd) = strengths.ln(DeviceKind::GelPad, family);
            prop_assert!((mean - times.ln()).abs() < 0.5 * times.ln().abs() + 0.02, "{mean} for {}", times.ln());
            prop_assert!((mean - times.ln()).abs() < 2.5 * sd);
            prop_assert_eq!(strengths.of(DeviceKind::Tape), Strengths::default().of(DeviceKind::Tape));
        }
    }

    /// What was learned on heads of one ply counts for most of what is expected on two, with more doubt; what heads of two plies then teach counts
    /// there for more than on those of one.
    #[test]
    fn each_family_of_heads_is_learned_beside_what_all_have_in_common() {
        let double = Drum { batter: Head { plies: 2, ..BenchDrum::usual(DrumKind::Tom).batter }, ..BenchDrum::usual(DrumKind::Tom) };
        let single = Drum { batter: Head { plies: 1, ..double.batter }, ..double.clone() };
        let on = |drum: &Drum, times: f64| -> Vec<DeviceTrial> {
            let specs = ["gel_pad:0:0.85:180", "gel_pad:0:0.65:90", "gel_pad:0:0.75:200"];
            specs.map(|spec| DeviceTrial { drum: drum.clone(), ..trial(spec, times) }).into()
        };
        let known =
            |trials: &[DeviceTrial], family: HeadFamily| Learned::from_trials(trials).strengths.ln(DeviceKind::GelPad, Some(family));
        let first = on(&single, 1.6);
        let ((on_one, sd_one), (on_two, sd_two)) = (known(&first, HeadFamily::SinglePly), known(&first, HeadFamily::DoublePly));
        assert!((on_one - 1.6f64.ln()).abs() < 0.1 && on_two > 0.5 * on_one && on_two < on_one && sd_two > sd_one, "{on_one} {on_two}");
        let both = [first, on(&double, 1.2)].concat();
        let ((on_one, _), (on_two, _)) = (known(&both, HeadFamily::SinglePly), known(&both, HeadFamily::DoublePly));
        assert!((on_two - 1.2f64.ln()).abs() < 0.1 && on_one - on_two > 0.15, "{on_one} {on_two}");
        let shown = Learned::from_trials(&both).strengths.of(DeviceKind::GelPad);
        let tests: Vec<(HeadFamily, usize)> = shown.on_heads.iter().map(|on| (on.family, on.tests)).collect();
        assert_eq!(tests, [(HeadFamily::SinglePly, 3), (HeadFamily::DoublePly, 3)]);
        assert!(shown.times > shown.on_heads[1].times && shown.times < shown.on_heads[0].times, "{shown:?}");
    }

    /// Pitches tell how heavy a device is; what it holds is still learned beside it.
    #[test]
    fn how_heavy_a_device_is_is_learned_from_pitches() {
        for (times, mass_times) in [(1.0, 1.5), (1.4, 0.7)] {
            let specs = ["gel_pad:0:0.5:180", "gel_pad:0:0.65:90", "gel_pad:0:0.6:200"];
            let trials = specs.map(|spec| heavy_trial(spec, times, mass_times));
            let known = Learned::from_trials(&trials).strengths.of(DeviceKind::GelPad);
            assert!((known.mass_times / mass_times).ln().abs() < 0.12, "{known:?} for {mass_times}");
            assert!((known.on_heads[0].times / times).ln().abs() < 0.15, "{known:?} for {times}");
            assert!(known.mass_low < mass_times && mass_times < known.mass_high);
        }
    }

    /// High and low drums tell how what it holds grows with frequency.
    #[test]
    fn how_steeply_a_device_grows_is_learned_from_high_and_low_drums() {
        for (times, more) in [(1.0, 0.25), (1.3, -0.2)] {
            let specs = ["gel_pad:0:0.65:180", "gel_pad:0:0.7:90", "gel_pad:0:0.75:200"];
            let pitches = [0.5, 2.0, 0.6];
            let trials: Vec<DeviceTrial> = specs.iter().zip(pitches).map(|(spec, up)| steep_trial(spec, (times, 1.0, more), up)).collect();
            let learned = Learned::from_trials(&trials).strengths;
            let ((steeper, sd), untested) = (learned.steeper(DeviceKind::GelPad), learned.steeper(DeviceKind::ControlRing));
            assert!(
                steeper / more > 0.4 && (steeper - more).abs() < NINETY_SDS * sd && sd < 0.8 * untested.1,
                "{steeper} ± {sd} for {more}"
            );
            assert_eq!(untested.0, 0.0);
        }
    }

    /// On one tom the body loses a third more to whatever lies there. Twelve tests tell of it; another tom is expected as before, and devices are
    /// hardly taken for stronger.
    #[test]
    fn what_one_drum_does_otherwise_is_learned_of_that_drum() {
        let own = 1.3f64.ln();
        let one = |spec: &str| {
            let trial = trial(spec, 1.0);
            let predictor = Predictor::new(&trial.drum, &trial.open).unwrap();
            let body = |mode: usize| if predictor.model.modes[mode].tone.is_lowest() { own } else { 0.0 };
            let grip = predictor.grip(&trial.placements[0]).on_own(&Arc::default(), body);
            let mut found = predictor.solve(&[&grip], Strength::EXPECTED);
            found.iter_mut().for_each(|partial| partial.t60_sd_s = partial.t60_s.map(|t60| 0.01 * t60));
            DeviceTrial { found, ..trial }
        };
        let specs = ["gel_pad:0:0.6:180", "tape:1:0.5:90", "hanging_pad:0:0.8:180", "control_ring:1", "gel_pad:0:0.5:90", "tape:1:0.4:200"];
        let learned = Learned::from_trials(&[specs, specs].concat().into_iter().map(one).collect::<Vec<_>>());
        let next = one("thin_cloth:0");
        let body = |strengths: &Strengths| {
            let predictor = Predictor::new(&next.drum, &next.open).unwrap();
            let grip = predictor.grip_known(&next.placements[0], strengths);
            let open = Open { partials: &next.open, profile: &next.open_profile };
            let expected = predictor.expect(&open, &next.placements, &[&grip]);
            expected.profile.body_t60_s.unwrap()
        };
        let found = nearest(&next.found, 140.0).and_then(|partial| partial.t60_s).unwrap();
        let (before, after) = (body(&Strengths::default()), body(&learned.on(&next.drum)));
        assert!((after / found).ln().abs() < 0.7 * (before / found).ln().abs(), "{found} found, {before} and then {after} expected");
        let predictor = Predictor::new(&next.drum, &next.open).unwrap();
        let tone = predictor.bare().iter().find_map(|partial| partial.tone.filter(|tone| tone.is_lowest()));
        let model_ln_sd = |learned: &Learned| learned.on(&next.drum).own.model_ln_sd(tone, 0.8);
        let (before, after) = (model_ln_sd(&Learned::from_trials(&[])), model_ln_sd(&learned));
        assert!(after < before, "the model itself is surer on this drum: {before} and then {after}");
        let other = Drum { name: "Other tom".into(), ..next.drum.clone() };
        assert!(learned.on(&other).own.is_empty());
        for device in [DeviceKind::GelPad, DeviceKind::Tape, DeviceKind::HangingPad] {
            let times = learned.strengths.of(device).times;
            assert!((0.8..1.25).contains(&times), "{device:?}: {times}");
        }
    }

    /// A pad acts a little otherwise each time it is laid on: however often it was tested, that much doubt stays.
    #[test]
    fn each_laying_on_stays_in_doubt() {
        let trials = vec![trial("gel_pad:0:0.75:180", 1.0); 12];
        let learned = Learned::from_trials(&trials);
        let drum = &trials[0].drum;
        let grip = Predictor::new(drum, &trials[0].open).unwrap().grip_known(&trials[0].placements[0], &learned.on(drum));
        let of_device = learned.strengths.ln(DeviceKind::GelPad, Some(HeadFamily::of(&drum.batter))).1;
        assert!(of_device < laying_ln_sd(DeviceKind::GelPad) && grip.ln_sd > laying_ln_sd(DeviceKind::GelPad), "{of_device}");
    }

    #[test]
    fn one_bad_take_does_not_spoil_what_others_taught() {
        let good: Vec<DeviceTrial> = ["gel_pad:0:0.85:180", "gel_pad:0:0.65:90", "gel_pad:0:0.75:200"].map(|spec| trial(spec, 1.5)).into();
        let mut bad = trial("gel_pad:0:0.8:150", 1.5);
        bad.found.iter_mut().for_each(|partial| partial.t60_s = Some(2.5));
        let clean = Learned::from_trials(&good).strengths.of(DeviceKind::GelPad).times;
        let spoilt = Learned::from_trials(&[good, vec![bad]].concat()).strengths.of(DeviceKind::GelPad).times;
        assert!((spoilt / clean).ln().abs() < 0.25, "{spoilt} after {clean}");
    }

    #[test]
    fn a_take_in_which_nothing_is_recognised_is_no_test() {
        let nothing = DeviceTrial { found: Vec::new(), ..trial("gel_pad:0:0.8:150", 1.5) };
        assert_eq!(Learned::from_trials(&[nothing]).strengths, Strengths::default());
    }

    #[test]
    fn without_tests_there_is_no_score() {
        let learned = Learned::from_trials(&[]);
        assert_eq!((learned.score.times, learned.score.usual_error), (0, None));
        assert_eq!(learned.strengths, Strengths::default());
    }
}
