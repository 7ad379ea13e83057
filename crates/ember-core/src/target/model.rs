//! A wish taken from a sound that is liked: measured like any other strike, then turned round into what would be asked for.

use super::assess::assess;
use super::preset::{BodyLeast, Length, Wish};
use super::wanted::Wanted;
use crate::decay::{StrikeMeasurement, Warning, combine_partials, mark_ghosts, summarize};
use crate::units::cents;
use ember_words::Said;

/// Room that is left about the model's own lengths, so that the model itself fits.
const ROOM: f64 = 0.25;
/// Shorter lengths cannot be asked for, s.
const LEAST_S: f64 = 0.02;
const MOST_S: f64 = 10.0;
/// Strikes whose bodies differ by more are not of one sound.
const APART_CENTS: f64 = 150.0;
const APART_TIMES: f64 = 1.6;

/// Why a sound is no model for a wish.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum NoModel {
    /// There is no strike in it.
    #[said("No strike was found. Give it one drum by itself, with a little quiet before it.")]
    NoStrike,
    /// Other things sound along.
    #[said(
        "This is mixed music, or several drums at once: what belongs to which cannot be told apart. Find a place where the drum is heard \
         alone, cut that out, and give it that."
    )]
    Mixed,
    /// Its strikes have a fault.
    #[said("No strike in it can be measured. {}", .0.advice())]
    Faulty(Warning),
    /// They are of more than one drum.
    #[said("The strikes are not of one drum: their bodies lie between {low_hz:.0} and {high_hz:.0} Hz. Cut out the strikes of one drum.")]
    SeveralDrums {
        /// The lowest body, Hz.
        low_hz: f64,
        /// The highest, Hz.
        high_hz: f64,
    },
    /// They do not sound alike.
    #[said("The strikes ring differently: their bodies last between {low_s:.2} and {high_s:.2} s. Cut out those that sound as wanted.")]
    Unlike {
        /// The shortest body, s.
        low_s: f64,
        /// The longest, s.
        high_s: f64,
    },
    /// None of their tones is clearly the body.
    #[said("No clear body was found in it, so there is nothing to aim at.")]
    NoBody,
}

/// The wish that the strikes of a model sound grant, heard under the band of `wanted`; what a sound does not tell is taken from
/// `like`.
pub fn wish_from_sound(strikes: &[StrikeMeasurement], wanted: &Wanted, like: &Wish) -> Result<Wish, NoModel> {
    let mut strikes = strikes.to_vec();
    mark_ghosts(&mut strikes);
    let usable: Vec<&StrikeMeasurement> = strikes.iter().filter(|strike| strike.warnings.is_empty()).collect();
    if usable.is_empty() || 3 * usable.len() < strikes.len() {
        let count = |warning| strikes.iter().filter(|strike| strike.warnings.contains(&warning)).count();
        let mixed = count(Warning::NotAStrike) + count(Warning::CutOff) + count(Warning::TooNoisy);
        return Err(match strikes.iter().flat_map(|strike| &strike.warnings).next() {
            None => NoModel::NoStrike,
            Some(_) if 2 * mixed >= strikes.len() => NoModel::Mixed,
            Some(worst) => NoModel::Faulty(*worst),
        });
    }
    let bodies: Vec<(f64, f64)> = usable.iter().filter_map(|s| s.profile.body_hz.zip(s.profile.body_t60_s)).collect();
    let spread = |values: &dyn Fn(&(f64, f64)) -> f64| {
        let (low, high) = bodies.iter().map(values).fold((f64::INFINITY, 0.0f64), |(low, high), v| (low.min(v), high.max(v)));
        (low, high)
    };
    let (low_hz, high_hz) = spread(&|b| b.0);
    if bodies.len() > 1 && cents(low_hz, high_hz) > APART_CENTS {
        return Err(NoModel::SeveralDrums { low_hz, high_hz });
    }
    let (low_s, high_s) = spread(&|b| b.1);
    if bodies.len() > 1 && high_s > APART_TIMES * low_s {
        return Err(NoModel::Unlike { low_s, high_s });
    }
    // A wish holds for every dynamic: how hard tonight's song is played is no part of the model.
    let medium = Wanted { hardest_db: 0.0, softest_db: 0.0, hardest_times: 1.0, softest_times: 1.0, ..wanted.clone() };
    let found = assess(&combine_partials(&strikes), &summarize(&strikes).profile, &medium, None);
    let Some(body) = found.body_length_s else {
        return Err(NoModel::NoBody);
    };
    let seconds = |length: f64| Length::Seconds((length.clamp(LEAST_S, MOST_S) * 1000.0).round() / 1000.0);
    let times = |ratio: f64| (ratio.clamp(0.1, 20.0) * 100.0).round() / 100.0;
    Ok(Wish {
        ring_gone: seconds((1.0 + ROOM) * found.ring_length_s.unwrap_or(0.0)),
        // The model itself is as long as is wanted in any song.
        floor_s: LEAST_S,
        ceiling_s: None,
        body_least: BodyLeast::Length(seconds((1.0 - ROOM) * body)),
        body_most: seconds(((1.0 + ROOM) * body).max((1.0 - ROOM) * body + LEAST_S)),
        ring_over_body_most: found.ring_length_s.map(|ring| times((1.0 + ROOM) * ring / body.max(LEAST_S))).or(like.ring_over_body_most),
        usual: None,
        ..*like
    })
}
