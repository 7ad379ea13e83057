//! What tests of one drum teach about that drum itself: how much more or less each of its tones loses to whatever lies on the head than the
//! model says. How a pair lies along the circle, an uneven head or a tone with the wrong name make that differ from drum to drum, and it stays
//! the same from one device to the next.

use super::model_error::tone_ln_sd;
use crate::drum::Drum;
use crate::tone::Tone;
use serde::{Deserialize, Serialize};

/// What a drum's body and its pairs lose to devices differs from the model by this part of the model's error (as a variance) in the same way in
/// all tests; motions that move air as a whole show nothing of the kind. From the comparison with the simulated drum in air (docs/METHOD.md).
const OF_THE_DRUM: f64 = 0.75;

/// One tone: the logarithm of what it loses to devices against what the model says, and its variance.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct OwnTone {
    tone: Tone,
    ln: f64,
    variance: f64,
}

/// What is known of the tones of one drum.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct OwnTones(Vec<OwnTone>);

impl OwnTones {
    pub(super) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The logarithm of what `tone` loses to devices against what the model says, and its variance.
    pub(super) fn ln(&self, tone: Tone) -> (f64, f64) {
        let own = self.0.iter().find(|own| own.tone == tone);
        own.map_or((0.0, unlearned(tone)), |own| (own.ln, own.variance))
    }

    pub(super) fn set(&mut self, tone: Tone, (ln, variance): (f64, f64)) {
        self.0.retain(|own| own.tone != tone);
        self.0.push(OwnTone { tone, ln, variance });
    }

    /// What the model is off by in the decay time of `tone`, where devices make the part `laid` (0 to 1) of its losses: standard deviation of
    /// the logarithm.
    pub(super) fn model_ln_sd(&self, tone: Option<Tone>, laid: f64) -> f64 {
        let of_drum = tone.map_or(0.0, |tone| self.ln(tone).1);
        (from_test_to_test(tone, laid) + laid * laid * of_drum).sqrt()
    }
}

/// Whether tests tell how much more or less of `tone` is lost on this drum.
pub(super) fn is_learned(tone: Tone) -> bool {
    tone.mode().is_some_and(|mode| mode.is_lowest() || mode.is_pair())
}

/// Prior variance of the logarithm of what `tone` loses to devices against the model.
fn unlearned(tone: Tone) -> f64 {
    if is_learned(tone) { OF_THE_DRUM * tone_ln_sd(Some(tone)).powi(2) } else { 0.0 }
}

/// The part of the variance of the model's error (logarithm of the decay time of `tone`) that is drawn anew in each test, not once for the drum.
pub(super) fn from_test_to_test(tone: Option<Tone>, laid: f64) -> f64 {
    tone_ln_sd(tone).powi(2) - tone.map_or(0.0, |tone| laid * laid * unlearned(tone))
}

/// A drum as it was tested. With another head it is another drum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(super) struct OwnDrum {
    pub drum: Drum,
    pub tones: OwnTones,
}

impl OwnDrum {
    /// Whether it is `drum`: a player's opinion of its sound makes no difference.
    pub fn is(&self, drum: &Drum) -> bool {
        self.drum == Drum { too_much: self.drum.too_much, ..drum.clone() }
    }
}
