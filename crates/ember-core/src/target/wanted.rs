//! Wanted lengths for one drum tonight, and how far a sound is from them.

use super::genre::{Genre, NoteValue, genre};
use crate::decay::{DecayProfile, Partial, body_and_ring};
use crate::drum::DrumKind;
use crate::units::note_seconds;
use serde::{Deserialize, Serialize};

/// A step in decay time that is just noticed, about 5 % (from memory of the psychoacoustic literature).
const STEP_LN: f64 = 0.048_790_164_169_432;
/// A step in ring share that counts as much (from experience, no published source).
const SHARE_STEP: f64 = 0.06;
/// Up to this many steps off, all is well.
const FITS_WITHIN: f64 = 1.0;

/// What is played.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tonight {
    /// Code of the genre.
    pub genre: String,
    /// Quarter notes a minute.
    pub bpm: f64,
}

impl Tonight {
    /// The genre, or a sentence about what is wrong.
    pub fn validate(&self) -> Result<&'static Genre, String> {
        if !self.bpm.is_finite() || !(30.0..=300.0).contains(&self.bpm) {
            return Err("The tempo must be between 30 and 300 BPM.".into());
        }
        genre(&self.genre).ok_or_else(|| format!("There is no genre \"{}\".", self.genre))
    }
}

/// What the music leaves room for on one drum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wanted {
    /// A partial is gone when it is this far below the strike's loudest, dB.
    pub covered_db: f64,
    /// The ring is heard for at most this long, s.
    pub ring_length_most_s: f64,
    /// The body is heard for at least this long, s.
    pub body_length_least_s: f64,
    /// The body is heard for at most this long, s.
    pub body_length_most_s: f64,
    pub ring_share_most: f64,
    /// How the figures come about, a sentence each.
    pub because: Vec<String>,
}

impl Wanted {
    /// Note-value arithmetic for a drum of `kind`.
    pub fn new(tonight: &Tonight, kind: DrumKind) -> Result<Self, String> {
        let genre = tonight.validate()?;
        let room = genre.room(kind);
        let length = |value: NoteValue| note_seconds(value.quarters(), tonight.bpm);
        let ms = |value: NoteValue| format!("{:.0} ms", 1000.0 * length(value));
        Ok(Self {
            covered_db: genre.covered_db,
            ring_length_most_s: length(room.ring_gone),
            body_length_least_s: length(room.body_least),
            body_length_most_s: length(room.body_most),
            ring_share_most: room.ring_share_most,
            because: vec![
                format!("Ring gone within {} at {} BPM: {}.", room.ring_gone.words(), tonight.bpm, ms(room.ring_gone)),
                format!(
                    "Body between {} and {}: {} to {}.",
                    room.body_least.words(),
                    room.body_most.words(),
                    ms(room.body_least),
                    ms(room.body_most)
                ),
                format!("Overtones at most {:.0} % of what sounds on.", 100.0 * room.ring_share_most),
                format!("In {} the band covers a drum {:.0} dB below its strike.", genre.name.to_lowercase(), genre.covered_db),
                genre.reason.to_string(),
            ],
        })
    }
}

/// How long `partial` is heard before it is `covered_db` below the loudest at the strike, s: (level + covered) / 60 x T60.
pub fn audible_length(partial: &Partial, covered_db: f64) -> Option<f64> {
    partial.t60_s.map(|t60| ((partial.level_db + covered_db) / 60.0 * t60).max(0.0))
}

/// Which figure is off.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Aspect {
    BodyLong,
    BodyShort,
    RingLong,
    RingShare,
}

/// One figure that misses what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Verdict {
    pub aspect: Aspect,
    /// How far off, in steps that are just noticed.
    pub steps: f64,
    pub sentence: String,
}

/// A sound held against what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Assessment {
    /// How long the body is heard, s.
    pub body_length_s: Option<f64>,
    /// How long the overtone that is heard longest is heard, s.
    pub ring_length_s: Option<f64>,
    /// Its pitch, Hz.
    pub ring_length_hz: Option<f64>,
    pub ring_share: Option<f64>,
    /// All steps off together; 0 is perfect.
    pub misfit: f64,
    pub fits: bool,
    /// What is off, worst first.
    pub off: Vec<Verdict>,
}

/// Holds `partials` and the `profile` made of them against `wanted`.
pub fn assess(partials: &[Partial], profile: &DecayProfile, wanted: &Wanted) -> Assessment {
    let (body, _) = body_and_ring(partials);
    let body_length = body.and_then(|i| audible_length(&partials[i], wanted.covered_db));
    let overtone_from = body.map_or(f64::INFINITY, |i| 1.15 * partials[i].hz);
    let ring = partials
        .iter()
        .filter(|p| p.hz >= overtone_from)
        .filter_map(|p| audible_length(p, wanted.covered_db).map(|length| (p.hz, length)))
        .max_by(|a, b| a.1.total_cmp(&b.1));
    let mut off = Vec::new();
    let mut note = |aspect, steps: f64, sentence: String| {
        if steps > 0.0 {
            off.push(Verdict { aspect, steps, sentence });
        }
    };
    if let Some((hz, length)) = ring {
        let excess = length - wanted.ring_length_most_s;
        note(Aspect::RingLong, steps_over(length, wanted.ring_length_most_s), format!("Rings {} too long at {hz:.0} Hz.", seconds(excess)));
    }
    if let Some(length) = body {
        let (least, most) = (wanted.body_length_least_s, wanted.body_length_most_s);
        let length = audible_length(&partials[length], wanted.covered_db).unwrap_or(0.0);
        note(Aspect::BodyLong, steps_over(length, most), format!("Body lasts {} too long.", seconds(length - most)));
        note(Aspect::BodyShort, steps_over(least, length), format!("Body is {} too short.", seconds(least - length)));
    }
    if let Some(share) = profile.ring_share {
        let excess = share - wanted.ring_share_most;
        note(
            Aspect::RingShare,
            excess.max(0.0) / SHARE_STEP,
            format!("{:.0} % of what sounds on is overtones; {:.0} % is the most wanted.", 100.0 * share, 100.0 * wanted.ring_share_most),
        );
    }
    off.sort_by(|a, b| b.steps.total_cmp(&a.steps));
    let misfit = off.iter().fold(0.0, |sum, verdict| sum + verdict.steps);
    Assessment {
        body_length_s: body_length,
        ring_length_s: ring.map(|r| r.1),
        ring_length_hz: ring.map(|r| r.0),
        ring_share: profile.ring_share,
        misfit,
        fits: body.is_some() && misfit <= FITS_WITHIN,
        off,
    }
}

/// Just noticed steps by which `value` exceeds `limit`; 0 below it.
fn steps_over(value: f64, limit: f64) -> f64 {
    ((value / limit).max(1e-6).ln() / STEP_LN).max(0.0)
}

fn seconds(value: f64) -> String {
    if value < 0.1 { format!("{:.0} ms", 1000.0 * value) } else { format!("{value:.2} s") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn an_eighth_at_96_bpm_is_explained() {
        let wanted = Wanted::new(&Tonight { genre: "cumbia".into(), bpm: 96.0 }, DrumKind::Snare).unwrap();
        assert!((wanted.ring_length_most_s - 0.3125).abs() < 1e-12);
        assert_eq!(wanted.because[0], "Ring gone within an eighth at 96 BPM: 312 ms.");
    }

    #[test]
    fn a_louder_band_shortens_what_is_heard() {
        let partial = Partial { hz: 300.0, t60_s: Some(1.2), t60_sd_s: None, level_db: -10.0, mode: None };
        // (-10 + 40) / 60 x 1.2 s, and nothing once the band is louder than the partial.
        assert!((audible_length(&partial, 40.0).unwrap() - 0.6).abs() < 1e-12);
        assert_eq!(audible_length(&partial, 8.0), Some(0.0));
    }

    #[test]
    fn a_ring_twice_too_long_is_named_with_its_pitch_and_size() {
        let partial = |hz, t60, level_db| Partial { hz, t60_s: Some(t60), t60_sd_s: None, level_db, mode: None };
        let partials = [partial(120.0, 0.6, 0.0), partial(338.0, 1.2, -4.0)];
        let wanted = Wanted {
            covered_db: 34.0,
            ring_length_most_s: 0.3,
            body_length_least_s: 0.1,
            body_length_most_s: 0.5,
            ring_share_most: 0.95,
            because: vec![],
        };
        let found = assess(&partials, &DecayProfile::of_partials(&partials), &wanted);
        assert_eq!(found.off.len(), 1);
        assert_eq!(found.off[0].sentence, "Rings 0.30 s too long at 338 Hz.");
        assert!((found.off[0].steps - 2f64.ln() / 1.05f64.ln()).abs() < 0.1 && !found.fits);
    }

    #[test]
    fn tempi_and_genres_that_cannot_be_are_refused_in_words() {
        for (genre, bpm) in [("surf", 10.0), ("surf", f64::NAN), ("polka of the moon", 120.0)] {
            assert!(Tonight { genre: genre.into(), bpm }.validate().is_err());
        }
    }

    fn tom(body_t60: f64, ring_t60: f64, ring_db: f64) -> Vec<Partial> {
        let partial = |hz, t60, level_db| Partial { hz, t60_s: Some(t60), t60_sd_s: None, level_db, mode: None };
        vec![partial(120.0, body_t60, 0.0), partial(190.0, ring_t60, ring_db)]
    }

    fn misfit(partials: &[Partial], wanted: &Wanted) -> f64 {
        assess(partials, &DecayProfile::of_partials(partials), wanted).misfit
    }

    proptest! {
        #[test]
        fn twice_the_tempo_leaves_half_the_time(bpm in 30f64..150.0, which in 0usize..8) {
            let wanted = |bpm| Wanted::new(&Tonight { genre: crate::target::GENRES[which].code.into(), bpm }, DrumKind::Tom).unwrap();
            let (slow, fast) = (wanted(bpm), wanted(2.0 * bpm));
            for (slow, fast) in [
                (slow.ring_length_most_s, fast.ring_length_most_s),
                (slow.body_length_least_s, fast.body_length_least_s),
                (slow.body_length_most_s, fast.body_length_most_s),
            ] {
                prop_assert!((slow - 2.0 * fast).abs() < 1e-9);
            }
        }

        #[test]
        fn a_longer_or_louder_ring_is_never_nearer_to_the_wish(t60 in 0.2f64..2.0, more in 1.0f64..2.0, db in -20f64..0.0, up in 0f64..6.0) {
            let wanted = Wanted::new(&Tonight { genre: "rock".into(), bpm: 120.0 }, DrumKind::Tom).unwrap();
            let before = misfit(&tom(0.5, t60, db), &wanted);
            prop_assert!(misfit(&tom(0.5, more * t60, db), &wanted) >= before - 1e-9);
            prop_assert!(misfit(&tom(0.5, t60, (db + up).min(0.0)), &wanted) >= before - 1e-9);
        }

        #[test]
        fn misfit_is_the_sum_of_what_is_said_to_be_off(body in 0.05f64..3.0, ring in 0.05f64..3.0, db in -20f64..0.0) {
            let wanted = Wanted::new(&Tonight { genre: "funk".into(), bpm: 102.0 }, DrumKind::Snare).unwrap();
            let partials = tom(body, ring, db);
            let found = assess(&partials, &DecayProfile::of_partials(&partials), &wanted);
            prop_assert!((found.misfit - found.off.iter().map(|v| v.steps).sum::<f64>()).abs() < 1e-9);
            prop_assert!(found.off.windows(2).all(|pair| pair[0].steps >= pair[1].steps), "worst first");
            prop_assert_eq!(found.fits, found.misfit <= FITS_WITHIN);
            prop_assert!(found.off.iter().all(|verdict| verdict.sentence.ends_with('.')));
        }
    }

    #[test]
    fn a_drum_without_a_body_is_never_called_fitting() {
        let wanted = Wanted::new(&Tonight { genre: "rock".into(), bpm: 120.0 }, DrumKind::Tom).unwrap();
        assert!(!assess(&[], &DecayProfile::default(), &wanted).fits);
    }
}
