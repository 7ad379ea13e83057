//! What was found, as the tones that were promised: one tone keeps its name, whatever else rings longer by then.

use crate::damping::{Expectation, longest_of, paired_by};
use crate::tone::{DecayProfile, Partial};

/// A partial of an expectation is the one its profile speaks of where their pitches are the same (logarithm).
const THE_SAME: f64 = 1e-6;
/// How far a tone may be off what was promised of it, for telling which it is (standard deviations): the logarithm of its pitch, that of its decay
/// time, which is what a promise is about and so says little, and its level, dB (from experience, no published source).
const PITCH_LN_SD: f64 = 0.015;
const DECAY_LN_SD: f64 = 1.0;
const LEVEL_SD_DB: f64 = 12.0;

/// A drum as it was measured.
#[derive(Clone, Copy)]
pub struct Sounding<'a> {
    /// The partials, low to high.
    pub partials: &'a [Partial],
    /// The few figures that it comes down to.
    pub profile: &'a DecayProfile,
}

/// `found` with the tones of what was `expected`: its partials by their names, and a profile whose body and ring are the promised ones. What was
/// not found of them is null there; without a promise of a tone the profile is as it was.
pub fn followed(found: Sounding, expected: &Expectation) -> (Vec<Partial>, DecayProfile) {
    let unlike = |should: &Partial, is: &Partial| {
        let decay = is.t60_s.zip(should.t60_s).map_or(0.0, |(a, b)| (a / b).ln() / DECAY_LN_SD);
        ((is.hz / should.hz).ln() / PITCH_LN_SD).powi(2) + decay.powi(2) + ((is.level_db - should.level_db) / LEVEL_SD_DB).powi(2)
    };
    let pairs = paired_by(&expected.partials, found.partials, f64::NEG_INFINITY, unlike);
    let of_found = |is: &Partial| pairs.iter().find(|(_, other)| std::ptr::eq(*other, is)).map(|(should, _)| *should);
    let partials: Vec<Partial> =
        found.partials.iter().map(|is| Partial { tone: of_found(is).and_then(|should| should.tone), ..is.clone() }).collect();
    // None: no such tone was promised. Some(None): it was not found.
    let promised = |hz: Option<f64>| -> Option<Option<&Partial>> {
        let should = expected.partials.iter().find(|p| hz.is_some_and(|hz| (p.hz / hz).ln().abs() < THE_SAME))?;
        let by_pair = || pairs.iter().find(|(other, _)| std::ptr::eq(*other, should)).map(|(_, is)| *is);
        // Of a pair the member that was promised; where that is not there, the one that is left.
        Some(by_pair().or_else(|| longest_of(&partials, should.tone)))
    };
    let mut profile = found.profile.clone();
    if let Some(ring) = promised(expected.profile.ring_hz) {
        (profile.ring_hz, profile.ring_t60_s) = (ring.map(|p| p.hz), ring.and_then(|p| p.t60_s));
    }
    if let Some(Some(body)) = promised(expected.profile.body_hz) {
        (profile.body_hz, profile.body_t60_s) = (Some(body.hz), body.t60_s);
    }
    (partials, profile)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tone::Mode;

    #[test]
    fn a_tone_keeps_its_name_when_another_one_rings_longer() {
        let partial = |hz: f64, t60_s: f64, level_db: f64| Partial {
            hz,
            t60_s: Some(t60_s),
            t60_sd_s: None,
            t60_scatter_s: None,
            level_db,
            tone: None,
        };
        let named = |hz, t60_s, level_db, mode: Mode| Partial { tone: Some(mode.into()), ..partial(hz, t60_s, level_db) };
        let promised = vec![
            named(120.0, 0.6, 0.0, Mode::together(0, 1)),
            named(222.0, 0.2, -3.0, Mode::alone(1, 1)),
            named(300.0, 0.5, -8.0, Mode::alone(2, 1)),
        ];
        let profile = DecayProfile { ring_hz: Some(222.0), ring_t60_s: Some(0.2), body_hz: Some(120.0), ..DecayProfile::default() };
        let expected = Expectation { partials: promised, profile, ..Expectation::default() };
        let heard = [partial(119.0, 0.55, 0.0), partial(221.0, 0.25, -4.0), partial(299.0, 0.52, -8.0)];
        let own = DecayProfile::of_partials(&heard);
        assert_eq!(own.ring_hz, Some(299.0), "by itself another tone would be the ring");
        let (partials, profile) = followed(Sounding { partials: &heard, profile: &own }, &expected);
        assert_eq!((profile.ring_hz, profile.ring_t60_s, profile.body_t60_s), (Some(221.0), Some(0.25), Some(0.55)));
        assert_eq!(partials[1].tone, Some(Mode::alone(1, 1).into()));
        // Of a pair the louder member is damped and the quiet one, which is no evidence of how strong a device is, rings on: that is the ring.
        let pair = [named(155.0, 0.33, -16.0, Mode::alone(1, 1)), named(159.0, 1.58, -16.0, Mode::alone(1, 1))];
        let promised = [vec![named(103.0, 0.8, 0.0, Mode::together(0, 1))], pair.to_vec()].concat();
        let profile = DecayProfile { ring_hz: Some(159.0), ring_t60_s: Some(1.58), body_hz: Some(103.0), ..DecayProfile::default() };
        let split = Expectation { partials: promised, profile, ..Expectation::default() };
        let heard = [partial(102.0, 0.78, 0.0), partial(154.0, 0.26, -10.0), partial(160.0, 1.43, -29.0)];
        let (_, profile) = followed(Sounding { partials: &heard, profile: &DecayProfile::of_partials(&heard) }, &split);
        assert_eq!((profile.ring_hz, profile.ring_t60_s), (Some(160.0), Some(1.43)));
        // A ring that is gone is not another one.
        let (_, profile) = followed(Sounding { partials: &heard[..1], profile: &own }, &expected);
        assert_eq!((profile.ring_hz, profile.ring_t60_s), (None, None));
    }
}
