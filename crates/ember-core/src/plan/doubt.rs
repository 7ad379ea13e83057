//! Whether a take with something on the drum can be what it says it is: pads are forgotten or laid elsewhere, and drums are mixed up. Learning from
//! such a take would spoil what is known about the devices.

use crate::damping::{Expectation, tone_ln_sd};
use crate::tone::Partial;
use crate::tone::Tone;
use ember_words::{Text, text};
use serde::{Deserialize, Serialize};

/// How far decay times and pitches of one drum differ from take to take: standard deviations of their logarithms (from experience, no published
/// source).
const AGAIN_LN_SD: f64 = 0.08;
const PITCH_LN_SD: f64 = 0.008;
/// How strong a device is, unknown before it was tried: standard deviation of the logarithm of what it takes; and, as a part of it, of how far it
/// moves a tone.
const STRENGTH_LN_SD: f64 = 0.5;
const MOVED_SD: f64 = 0.5;
/// How near in pitch a partial lies to a tone that it may be (logarithm).
const NEAR_LN: f64 = 0.025;
/// Tones further below the loudest than this say nothing, dB; nor do those that last no longer than this, s, where they are not found.
const LOUD_DB: f64 = -24.0;
const LEAST_T60_S: f64 = 0.15;
/// The most that one tone can speak against something (squared standard deviations): it is not there.
const NOT_THERE: f64 = 9.0;
/// So much likelier must the open drum be than the treated one (twice the logarithm of the odds, some 90 to 1), and so near must each tone come to
/// the open drum's on the mean.
const LIKELIER: f64 = 9.0;
const LIKE_OPEN: f64 = 2.0;
/// A take whose tones are off by so much on the mean, at least so many of them, is not what was expected; where not even the body is there, less
/// will do.
const FAR_OFF: f64 = 6.0;
const FAR_OFF_WITHOUT_BODY: f64 = 3.5;
const FEWEST_TONES: usize = 3;

/// What speaks against counting a take.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Doubt {
    /// It sounds like the open drum.
    NothingOn,
    /// Its tones are not this drum's.
    OtherDrum,
    /// It is this drum, but nothing like what was expected.
    FarOff,
}

impl Doubt {
    /// As it is asked on the page.
    pub fn sentence(self) -> Text {
        match self {
            Self::NothingOn => text!("This sounds like your drum with nothing on it."),
            Self::OtherDrum => text!("This does not sound like this drum."),
            Self::FarOff => text!("This is far from what was expected. Is everything where the picture shows it?"),
        }
    }
}

/// What speaks against `found` as the drum with a treatment on of which `expected` is expected. `None` where it may well be. `open` are the open
/// drum's partials by the names that tones have on this drum, as in `expected`.
pub fn doubted(open: &[Partial], expected: &Expectation, found: &[Partial]) -> Option<Doubt> {
    let tones: Vec<&Partial> =
        open.iter().filter(|p| p.level_db > LOUD_DB && p.tone.and_then(Tone::mode).is_some() && p.t60_s.is_some()).collect();
    let heard: Vec<&Partial> = found.iter().filter(|p| p.t60_s.is_some()).collect();
    if heard.is_empty() || tones.is_empty() {
        return None;
    }
    let mean = |all: &[f64]| all.iter().sum::<f64>() / all.len() as f64;
    let bare: Vec<f64> = tones.iter().map(|was| off(was, was, &heard)).collect();
    let treated: Vec<f64> = tones.iter().filter_map(|was| off_as_expected(was, &expected.partials, &heard)).collect();
    let likelier = treated.iter().sum::<f64>() - mean(&bare) * treated.len() as f64;
    if mean(&bare) < LIKE_OPEN && likelier > LIKELIER {
        return Some(Doubt::NothingOn);
    }
    let is_body =
        |p: &&&Partial| expected.partials.iter().any(|should| should.tone == p.tone && Some(should.hz) == expected.profile.body_hz);
    let body = tones.iter().find(is_body).or_else(|| tones.iter().find(|p| p.tone.is_some_and(Tone::is_lowest)));
    let without_body = body.is_some_and(|body| off_as_expected(body, &expected.partials, &heard).is_some_and(|off| off >= NOT_THERE));
    let far = if without_body { FAR_OFF_WITHOUT_BODY } else { FAR_OFF };
    let doubt = if without_body { Doubt::OtherDrum } else { Doubt::FarOff };
    (treated.len() >= FEWEST_TONES && mean(&treated) > far).then_some(doubt)
}

/// How far the nearest of `heard` is off the tone `was`, should it be as `should`, in squared standard deviations.
fn off(was: &Partial, should: &Partial, heard: &[&Partial]) -> f64 {
    let measured = |p: &Partial| p.t60_sd_s.zip(p.t60_s).map_or(0.0, |(sd, t60)| sd / t60);
    let (moved, kept) = ((should.hz / was.hz).ln(), should.t60_s.zip(was.t60_s).map_or(1.0, |(is, was)| (is / was).min(1.0)));
    // What a device takes from a tone is as doubtful as its strength.
    let model = if std::ptr::eq(was, should) { 0.0 } else { tone_ln_sd(should.tone).hypot(STRENGTH_LN_SD * (1.0 - kept)) };
    let one = |is: &&Partial| {
        let pitch = (is.hz / should.hz).ln();
        let sd = AGAIN_LN_SD.hypot(measured(is)).hypot(measured(was)).hypot(model);
        let decay = is.t60_s.zip(should.t60_s).map_or(0.0, |(is, should)| (is / should).ln() / sd);
        (pitch.abs() < NEAR_LN + moved.abs()).then(|| (pitch / PITCH_LN_SD.hypot(MOVED_SD * moved)).powi(2) + decay * decay)
    };
    heard.iter().filter_map(one).fold(NOT_THERE, f64::min)
}

/// The same where it should be as one of the partials `expected` of that tone. `None` where nothing was expected of it, or so little that it need
/// not be found.
fn off_as_expected(was: &Partial, expected: &[Partial], heard: &[&Partial]) -> Option<f64> {
    let same = || expected.iter().filter(|p| p.tone == was.tone);
    let least = same().map(|should| off(was, should, heard)).min_by(f64::total_cmp)?;
    let short = same().all(|should| should.t60_s.is_none_or(|t60_s| t60_s < LEAST_T60_S));
    (least < NOT_THERE || !short).then_some(least)
}
