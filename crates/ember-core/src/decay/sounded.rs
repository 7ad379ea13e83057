//! How long one note sounded, from the hit until it is gone to the ear, whether it was damped or left alone.

use super::envelope::{Envelope, mean_square};
use crate::signal::{CapturedStrike, Ending};
use serde::{Deserialize, Serialize};

/// A note is over once it lies this far below its own level, dB (common practice, no published source).
pub(crate) const OVER_DB: f64 = 30.0;
/// Its own level is the highest in this time after the hit, s: the stroke's noise is over, the note has hardly fallen.
pub(crate) const LEVEL_FROM_S: f64 = 0.05;
const LEVEL_TO_S: f64 = 0.2;
/// The noise must lie this far below the level at which the note is over, dB.
const CLEAR_DB: f64 = 6.0;
/// A damped note falls its last so many dB in less than this part of the time that the others took; one that rings out evenly takes a
/// quarter of it, and longer where it bends.
const LAST_DB: f64 = 6.0;
const LAST_PART: f64 = 0.2;

/// How a note came to its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum NoteEnding {
    /// Something stopped it: a hand, fingertips, a knee.
    Damped,
    /// It was left alone.
    RangOut,
    /// The next stroke came first.
    CutShort,
}

/// How long a note sounded.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SoundedNote {
    /// Time of the hit since listening began, s.
    pub at_s: f64,
    /// From the hit until it lies 30 dB below its own level, s; where it was cut short or never ended, as far as it was followed.
    pub sounded_s: f64,
    /// How it ended.
    pub ending: NoteEnding,
    /// Time in which it fell the last 6 of those 30 dB, s; null where that was not heard.
    pub damping_s: Option<f64>,
}

/// How long the note of `strike` sounded; none where it is too soft against the noise to tell.
pub fn sounded(strike: &CapturedStrike) -> Option<SoundedNote> {
    let rate = strike.sample_rate;
    let sound = &strike.samples[strike.onset_index..];
    let envelope = Envelope::new(sound, rate);
    let db: Vec<f64> = envelope.energy.iter().map(|energy| 10.0 * energy.max(1e-20).log10()).collect();
    let step = |seconds: f64| (seconds / envelope.step_s) as usize;
    let own = db.get(step(LEVEL_FROM_S)..step(LEVEL_TO_S).min(db.len()))?.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    // The last window reaches beyond the end of what is kept.
    let last_at = |below_db: f64| db[..db.len().saturating_sub(4)].iter().rposition(|level| *level >= own - below_db);
    let seconds = |index: usize| (index as f64 + 2.0) * envelope.step_s;
    let end = last_at(OVER_DB)?;
    let at_s = strike.onset_s;
    // Whatever sounds to the very end of what was kept was not over.
    if end + 8 >= db.len() {
        let ending = match strike.ending {
            Ending::NextStrike => NoteEnding::CutShort,
            Ending::Limit => NoteEnding::RangOut,
            // Nobody knows how it would have gone on.
            Ending::Decayed | Ending::Interrupted => return None,
        };
        return Some(SoundedNote { at_s, sounded_s: sound.len() as f64 / rate, ending, damping_s: None });
    }
    let before = &strike.samples[..strike.onset_index.saturating_sub((0.004 * rate) as usize)];
    let tail = &sound[sound.len() - sound.len().min((0.05 * rate) as usize)..];
    let noise = if strike.ending == Ending::Decayed { mean_square(tail) } else { mean_square(before).min(mean_square(tail)) };
    if own - OVER_DB < 10.0 * noise.max(1e-20).log10() + CLEAR_DB {
        return None;
    }
    let before_last = last_at(OVER_DB - LAST_DB).map_or(0.0, seconds);
    let damping_s = seconds(end) - before_last;
    let ending = if damping_s < LAST_PART * (before_last - LEVEL_FROM_S) { NoteEnding::Damped } else { NoteEnding::RangOut };
    Some(SoundedNote { at_s, sounded_s: seconds(end), ending, damping_s: Some(damping_s) })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const RATE: f64 = 48_000.0;

    /// A tone of 60 dB in `t60` s, damped from `damped_s` on by 20 dB in `within_s`; noise 70 dB down.
    fn note(hz: f64, t60: f64, damped_s: f64, within_s: f64, length_s: f64, ending: Ending) -> CapturedStrike {
        let lead = 2400;
        let sample = |n: usize| {
            let noise = 1.5e-4 * (((n * 7919) % 2003) as f64 / 1001.0 - 1.0);
            let t = (n as f64 - lead as f64) / RATE;
            let fallen = 6.908 * t / t60 + 2.303 * (t - damped_s).max(0.0) / within_s;
            let tone = if t < 0.0 { 0.0 } else { 0.5 * (-fallen).exp() * (2.0 * std::f64::consts::PI * hz * t).sin() };
            (tone + noise) as f32
        };
        let samples = (0..lead + (length_s * RATE) as usize).map(sample).collect();
        CapturedStrike { sample_rate: RATE, onset_s: 1.0, samples, onset_index: lead, ending }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(40))]
        /// A hand that comes down ends the note within its own time; left alone, it is over after half of its T60 (30 of 60 dB).
        #[test]
        fn notes_end_where_they_are_damped_or_after_half_of_their_decay(
            hz in 35f64..120.0, t60 in 0.8f64..8.0, part in 0.2f64..0.75, within_s in 0.03f64..0.1,
        ) {
            // Its own level is that of 50 ms after the hit.
            let rings_s = LEVEL_FROM_S + t60 / 2.0;
            let damped_s = (part * rings_s).max(0.25);
            prop_assume!(damped_s + 3.0 * within_s < 0.85 * rings_s);
            let length_s = 1.2 * t60;
            let damped = sounded(&note(hz, t60, damped_s, within_s, length_s, Ending::Decayed)).unwrap();
            prop_assert!(damped.ending == NoteEnding::Damped, "{damped:?}");
            // It has lost some of its 30 dB before the hand comes.
            let left_db = 30.0 - 60.0 * (damped_s - LEVEL_FROM_S) / t60;
            let wanted = damped_s + left_db / (20.0 / within_s + 60.0 / t60);
            prop_assert!((damped.sounded_s - wanted).abs() < 0.02, "{damped:?} for {wanted}");
            let free = sounded(&note(hz, t60, 1e9, within_s, length_s, Ending::Decayed)).unwrap();
            prop_assert!(free.ending == NoteEnding::RangOut, "{free:?}");
            prop_assert!((free.sounded_s / rings_s - 1.0).abs() < 0.06, "{free:?} for {rings_s}");
        }
    }

    #[test]
    fn a_note_under_the_next_stroke_is_cut_short_and_a_faint_one_is_not_guessed_at() {
        let cut = sounded(&note(50.0, 6.0, 1e9, 0.1, 0.8, Ending::NextStrike)).unwrap();
        assert!(cut.ending == NoteEnding::CutShort && (cut.sounded_s - 0.8).abs() < 0.01, "{cut:?}");
        assert_eq!(sounded(&note(50.0, 6.0, 1e9, 0.1, 0.8, Ending::Interrupted)), None, "who stops listening has not damped it");
        let mut faint = note(50.0, 6.0, 0.5, 0.1, 3.0, Ending::Decayed);
        faint.samples.iter_mut().enumerate().for_each(|(n, x)| *x += 0.06 * (((n * 6151) % 2003) as f32 / 1001.0 - 1.0));
        assert_eq!(sounded(&faint), None);
        faint.samples.truncate(faint.onset_index + 300);
        assert_eq!(sounded(&faint), None, "too short to hold a note");
    }
}
