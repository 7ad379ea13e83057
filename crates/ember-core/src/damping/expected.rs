//! The expected sound of a drum with devices on it, with its doubt.

use super::grip::Grip;
use super::model_error::MODEL_LN_SD;
use super::own_tones::OwnTones;
use super::placement::Placement;
use super::predict::{Predictor, Strength};
use crate::numeric::{NINETY_SDS, Range, bisect};
use crate::tone::Tone;
use crate::tone::nearest;
use crate::tone::{DecayProfile, HeardBy, Partial, ring_over};
use crate::units::{LN_1000, amplitude, cents, decay_rate, t60};
use ember_words::{Words, words};
use serde::{Deserialize, Serialize};

/// A partial of the model and a measured one are the same tone if the logarithms of their pitches differ by less than this.
const AS_MEASURED: f64 = 0.01;
/// Another overtone is said to ring on where it has this much more energy late than the ring; the ring is gone where it lasts less than this
/// part of what it did.
const CLEARLY_MORE: f64 = 1.5;
const GONE: f64 = 0.4;
/// Nothing is heard any more below this, dB against the loudest.
const FAINTEST_DB: f64 = -45.0;

/// A level against the one that was measured, dB, with bounds that hold nine times in ten.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LevelChange {
    /// By how much, dB.
    pub db: f64,
    /// Lower bound, nine times in ten.
    pub low: f64,
    /// Upper bound, nine times in ten.
    pub high: f64,
}

impl LevelChange {
    /// `db` with bounds that reach to all `ends`.
    pub(crate) fn of(db: f64, ends: impl IntoIterator<Item = f64>) -> Self {
        let (low, high) = ends.into_iter().fold((db, db), |(low, high), end| (low.min(end), high.max(end)));
        Self { db, low, high }
    }
}

/// Decay time of a pair's members where the head's own unevenness and not the device decides how they lie, and each takes half of what the device
/// takes, s.
fn evenly(partials: &[Partial], tone: Option<Tone>) -> Option<f64> {
    let pair = tone?.mode().filter(|mode| mode.is_pair())?;
    let rates: Vec<f64> = partials.iter().filter(|p| p.tone == Some(pair.into())).filter_map(|p| p.t60_s.map(decay_rate)).collect();
    (rates.len() > 1).then(|| t60(rates.iter().sum::<f64>() / rates.len() as f64))
}

/// What a treatment should do.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Expectation {
    /// The partials, low to high.
    pub partials: Vec<Partial>,
    /// The few figures that it comes down to.
    pub profile: DecayProfile,
    /// Bounds of the body's T60, s.
    pub body_t60_s: Option<Range>,
    /// Bounds of the ring's T60, s.
    pub ring_t60_s: Option<Range>,
    /// Bounds of the share of overtones.
    pub ring_share: Option<Range>,
    /// Attack given up, dB.
    pub attack_lost_db: f64,
    /// Click of a beater gained, dB. It makes up for no attack that is lost: a patch clicks, and cloth beside it takes the stick all the same.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub click_gained_db: f64,
    /// How far the body's pitch falls, cents (negative is down).
    pub pitch_cents: f64,
    /// The overtone that rings most then, where it is another one than the open drum's ring, of which all of the above speaks.
    #[serde(default)]
    pub rings_on: Option<RingsOn>,
}

/// Another overtone that rings most once the open drum's ring is damped.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RingsOn {
    /// Pitch, Hz.
    pub hz: f64,
    /// Time to fall 60 dB, s, and what it was before; null where it was not heard then.
    pub t60_s: f64,
    /// T60 before, s; null where it was not heard then.
    pub before_s: Option<f64>,
    /// The same as a sentence.
    pub sentence: Words,
}

/// The open drum that predictions start from.
pub struct Open<'a> {
    /// The partials, low to high.
    pub partials: &'a [Partial],
    /// The few figures that it comes down to.
    pub profile: &'a DecayProfile,
}

impl Predictor {
    /// Expected partials and profile of the drum with `placements` on it (their grips beside them).
    pub fn expect(&self, open: &Open, placements: &[Placement], grips: &[&Grip]) -> Expectation {
        self.with_doubt(self.expect_without_doubt(open, placements, grips), open, grips)
    }

    /// The same without bounds: a third of the work.
    pub fn expect_without_doubt(&self, open: &Open, placements: &[Placement], grips: &[&Grip]) -> Expectation {
        let partials = self.solve(grips, Strength::EXPECTED);
        let attack_lost_db: f64 = placements.iter().map(Placement::attack_db).sum();
        let click_gained_db: f64 = placements.iter().map(Placement::click_db).sum();
        let profile = open.profile_of(&self.bare, &partials, attack_lost_db - click_gained_db);
        let rings_on = open.rings_on(&self.bare, &partials);
        Expectation {
            rings_on,
            body_t60_s: None,
            ring_t60_s: None,
            ring_share: None,
            attack_lost_db,
            click_gained_db,
            pitch_cents: open.profile.body_hz.zip(profile.body_hz).map_or(0.0, |(from, to)| cents(from, to)),
            partials,
            profile,
        }
    }

    /// `expected` with its bounds.
    pub fn with_doubt(&self, expected: Expectation, open: &Open, grips: &[&Grip]) -> Expectation {
        let own = grips.first().map(|grip| grip.own.clone()).unwrap_or_default();
        expected.between_on(&own, open, &self.bare, &[Strength::LOW, Strength::HIGH].map(|strength| self.solve(grips, strength)))
    }
}

impl Expectation {
    /// What the stroke loses in all, dB: attack given up, less the click gained.
    pub fn stroke_lost_db(&self) -> f64 {
        self.attack_lost_db - self.click_gained_db
    }

    /// The same with its bounds: `ends` are the partials where what is done takes least and most within its doubt.
    pub(crate) fn between(self, open: &Open, bare: &[Partial], ends: &[Vec<Partial>; 2]) -> Self {
        self.between_on(&OwnTones::default(), open, bare, ends)
    }

    /// The same on a drum of which its `own` tones are known.
    fn between_on(self, own: &OwnTones, open: &Open, bare: &[Partial], ends: &[Vec<Partial>; 2]) -> Self {
        let profile = &self.profile;
        let followed = open.followed(bare);
        let doubt = |hz: Option<f64>| {
            let partial = hz.and_then(|hz| nearest(open.partials, hz));
            partial.and_then(|p| Some(NINETY_SDS * p.t60_sd_s? / p.t60_s?)).unwrap_or(0.1)
        };
        let time_range = |tone: Option<Tone>, hz: Option<f64>, middle: Option<f64>, doubt: f64| {
            let (hz, middle) = (hz?, middle?);
            // The same tone is followed: another one may be the ring at an end.
            let of_ends = ends.iter().filter_map(|partials| longest_of(partials, tone).or_else(|| nearest(partials, hz))?.t60_s);
            let (low, high) =
                of_ends.chain(evenly(&self.partials, tone)).fold((middle, middle), |(low, high), value| (low.min(value), high.max(value)));
            // Device, measurement and model are independent: their logarithms' doubts add as squares.
            let laid = longest_of(bare, tone).and_then(|bare| Some(1.0 - middle / bare.t60_s?)).unwrap_or(0.0).clamp(0.0, 1.0);
            let model = NINETY_SDS * own.model_ln_sd(tone, laid);
            let widen = |end: f64| ((end / middle).ln().powi(2) + doubt * doubt + model * model).sqrt();
            Some(Range { low: middle * (-widen(low)).exp(), high: middle * widen(high).exp() })
        };
        Self {
            body_t60_s: time_range(followed.body, profile.body_hz, profile.body_t60_s, doubt(open.profile.body_hz)),
            ring_t60_s: time_range(followed.ring, profile.ring_hz, profile.ring_t60_s, doubt(open.profile.ring_hz)),
            ring_share: share_range(&self.partials, ends, followed.body),
            ..self
        }
    }
}

impl Expectation {
    /// The same, with what is not known of `other` besides: two things that are done to one drum are each as doubtful as alone, and their
    /// logarithms' doubts add as squares.
    pub(crate) fn doubted_also_as(self, other: &Self) -> Self {
        let widened = |own: Option<Range>, middle: Option<f64>, others: Option<Range>, others_middle: Option<f64>| {
            let (own, middle) = (own?, middle?);
            let (Some(others), Some(others_middle)) = (others, others_middle) else { return Some(own) };
            let by = |own: f64, others: f64| (own / middle).ln().hypot((others / others_middle).ln());
            Some(Range { low: middle * (-by(own.low, others.low)).exp(), high: middle * by(own.high, others.high).exp() })
        };
        let (profile, others) = (&self.profile, &other.profile);
        Self {
            body_t60_s: widened(self.body_t60_s, profile.body_t60_s, other.body_t60_s, others.body_t60_s),
            ring_t60_s: widened(self.ring_t60_s, profile.ring_t60_s, other.ring_t60_s, others.ring_t60_s),
            ..self
        }
    }
}

impl Open<'_> {
    /// The profile of predicted partials; what partials do not decide is taken from the open drum and changed as partials change from
    /// `bare`, what the model makes of it.
    pub(crate) fn profile_of(&self, bare: &[Partial], partials: &[Partial], attack_lost_db: f64) -> DecayProfile {
        let followed = self.followed(bare);
        let made = about(partials, followed.body);
        let (body, ring) = (longest_of(partials, followed.body), longest_of(partials, followed.ring));
        let ratio = |db: f64| fall(partials, db) / fall(bare, db);
        let late = |partials: &[Partial]| partials.iter().map(|p| p.energy_between(0.01, 0.2)).sum::<f64>();
        let shortened = 10.0 * (late(bare) / late(partials).max(1e-12)).max(1e-12).log10();
        DecayProfile {
            fall_20_s: self.profile.fall_20_s.map(|t| t * ratio(20.0)),
            fall_40_s: self.profile.fall_40_s.map(|t| t * ratio(40.0)),
            attack_index_db: self.profile.attack_index_db.map(|db| db - attack_lost_db + shortened),
            body_hz: body.map(|p| p.hz).or(made.body_hz),
            body_t60_s: body.map_or(made.body_t60_s, |p| p.t60_s),
            // A ring that is gone is not another tone.
            ring_hz: if followed.ring.is_some() { ring.map(|p| p.hz) } else { made.ring_hz },
            ring_t60_s: if followed.ring.is_some() { ring.and_then(|p| p.t60_s) } else { made.ring_t60_s },
            ..made
        }
    }

    /// Which tones of the model the open drum's body and ring are: whatever is done to it, these are body and ring.
    fn followed(&self, bare: &[Partial]) -> Followed {
        let tone = |hz: Option<f64>| {
            let hz = hz?;
            let off = |p: &Partial| (p.hz / hz).ln().abs();
            bare.iter().filter(|p| off(p) < AS_MEASURED).min_by(|a, b| off(a).total_cmp(&off(b)))?.tone
        };
        Followed { body: tone(self.profile.body_hz), ring: tone(self.profile.ring_hz) }
    }

    /// The overtone that rings longest among `partials`, if it is another tone than the open drum's ring.
    pub fn rings_on(&self, bare: &[Partial], partials: &[Partial]) -> Option<RingsOn> {
        let followed = self.followed(bare);
        let own = longest_of(partials, followed.ring);
        let ring = &partials[ring_over(partials, body_among(partials, followed.body)?)?];
        if followed.ring.is_none() || ring.tone == followed.ring || ring.tone == followed.body {
            return None;
        }
        if own.is_some_and(|own| ring.late_energy() < CLEARLY_MORE * own.late_energy()) {
            return None;
        }
        let (t60_s, before_s) = (ring.t60_s?, longest_of(bare, ring.tone).and_then(|p| p.t60_s));
        let was_hz = self.profile.ring_hz?;
        let gone = own.and_then(|own| own.t60_s).zip(self.profile.ring_t60_s).is_none_or(|(now, was)| now < GONE * was);
        let first = if gone { words!("The {was_hz:.0} Hz ring is gone; what rings on is") } else { words!("What rings on most then is") };
        let before = before_s.map(|before| words!(", before {before:.2} s")).unwrap_or_default();
        let sentence = words!("{first} {:.0} Hz, {t60_s:.2} s{before}.", ring.hz);
        Some(RingsOn { hz: ring.hz, t60_s, before_s, sentence })
    }
}

/// The tones that are body and ring.
#[derive(Debug, Clone, Copy)]
struct Followed {
    body: Option<Tone>,
    ring: Option<Tone>,
}

/// Of the partials that are `tone`, a pair's two members, the one that is heard longest.
pub(crate) fn longest_of(partials: &[Partial], tone: Option<Tone>) -> Option<&Partial> {
    let tone = tone?;
    // A member that is too faint from the start is still longer than one that was never measured.
    let heard_s = |p: &Partial| p.t60_s.unwrap_or(0.0) * (p.level_db - FAINTEST_DB).max(1.0) / 60.0;
    partials.iter().filter(|p| p.tone == Some(tone) && p.t60_s.is_some()).max_by(|a, b| heard_s(a).total_cmp(&heard_s(b)))
}

/// Index of the body among `partials`: the tone `body`, where it is one of them.
fn body_among(partials: &[Partial], body: Option<Tone>) -> Option<usize> {
    let same = longest_of(partials, body).and_then(|same| partials.iter().position(|p| std::ptr::eq(p, same)));
    same.or_else(|| HeardBy::Partials.body(partials))
}

fn about(partials: &[Partial], body: Option<Tone>) -> DecayProfile {
    DecayProfile::about(partials, body_among(partials, body))
}

/// Bounds of the ring share: devices at the ends of their doubt, and overtones that last longer or shorter than the model says.
/// Added as squares of the logarithm of overtones against body, in which both act evenly.
fn share_range(partials: &[Partial], ends: &[Vec<Partial>], body: Option<Tone>) -> Option<Range> {
    let log_odds = |share: f64| {
        let inside = share.clamp(0.001, 0.999);
        (inside / (1.0 - inside)).ln()
    };
    let profile = about(partials, body);
    let (middle, body_hz) = (log_odds(profile.ring_share?), profile.body_hz?);
    let stretched = |by: f64| {
        let overtones = |p: &Partial| if p.hz > body_hz { p.t60_s.map(|t| t * by.exp()) } else { p.t60_s };
        let partials: Vec<Partial> = partials.iter().map(|p| Partial { t60_s: overtones(p), ..p.clone() }).collect();
        about(&partials, body).ring_share.map_or(0.0, |share| log_odds(share) - middle)
    };
    let model = NINETY_SDS * MODEL_LN_SD;
    let bound = |sign: f64| {
        let shares = ends.iter().filter_map(|end| about(end, body).ring_share);
        let device = shares.map(|share| sign * (log_odds(share) - middle)).fold(0.0, f64::max);
        let odds = (middle + sign * device.hypot(stretched(sign * model))).exp();
        odds / (1.0 + odds)
    };
    Some(Range { low: bound(-1.0), high: bound(1.0) })
}

/// Time in which the power of `partials` together falls by `db`, by bisection.
fn fall(partials: &[Partial], db: f64) -> f64 {
    let power = |t: f64| -> f64 {
        partials.iter().filter_map(|p| Some(amplitude(p.level_db).powi(2) * (-2.0 * LN_1000 * t / p.t60_s?).exp())).sum()
    };
    let wanted = power(0.0) * 10f64.powf(-db / 10.0);
    bisect(0.0, 20.0, 50, |t| power(t) > wanted)
}
