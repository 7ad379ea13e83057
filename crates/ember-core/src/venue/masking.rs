//! What covers a drum, by octave band.

use super::{Heard, Loudness, Octaves};
use crate::signal::{OctaveFilter, octave_edges_hz};
use crate::units::sum_levels;
use serde::{Deserialize, Serialize};

/// Level by octave band, dB against full scale (RMS), of a recording made with the same microphone and gain as the strikes.
/// `None`: the recording's sample rate does not carry the band.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandLevels {
    /// Level in each octave, dBFS; none where nothing was heard.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Option<f64>>))]
    pub level_dbfs: Octaves<Option<f64>>,
    /// How long was listened, s.
    pub seconds: f64,
    /// Whether drums seem to play in it: they would cover themselves. Older files say no.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(required = true))]
    pub drums_play: bool,
}

/// Pieces of which the middle level is taken, s ("fast" time weighting has the same constant, IEC 61672-1).
const PIECE_S: f64 = 0.125;
/// Shorter recordings say little about a band, s.
const LEAST_S: f64 = 2.0;
const SILENT_DBFS: f64 = -120.0;
/// Drums play in a band where one piece in this many stands so far out of the usual level in the lowest octave, and so far in the highest, dB: strings
/// and voices swell by less (from experience, no published source).
const ONE_IN: usize = 12;
const KICK_STANDS_OUT_DB: f64 = 14.0;
const SNARE_STANDS_OUT_DB: f64 = 9.0;

/// Levels that `samples` (full scale 1) exceed half of the time: a tail must be heard through what is there usually, not
/// through the loudest moment.
pub fn band_levels(samples: &[f32], rate: f64) -> Result<BandLevels, String> {
    let seconds = samples.len() as f64 / rate;
    if seconds < LEAST_S {
        return Err(format!("Only {seconds:.1} s were heard. Let it listen for ten seconds while the band plays."));
    }
    let levels: Octaves<Option<[f64; 2]>> = std::array::from_fn(|index| usual_and_loud(index, samples, rate));
    let level_dbfs = levels.map(|levels| levels.map(|[usual, _]| usual));
    let stands_out = |index: usize, by_db: f64| levels[index].is_some_and(|[usual, loud]| loud - usual > by_db);
    if level_dbfs.iter().flatten().all(|level| *level <= SILENT_DBFS + 10.0) {
        return Err("There was silence only. Is the right input chosen?".into());
    }
    Ok(BandLevels { level_dbfs, seconds, drums_play: stands_out(0, KICK_STANDS_OUT_DB) && stands_out(6, SNARE_STANDS_OUT_DB) })
}

/// Levels in one octave that half of the pieces exceed, and one in [`ONE_IN`] of them, dBFS; none where the rate does not carry the octave.
fn usual_and_loud(index: usize, samples: &[f32], rate: f64) -> Option<[f64; 2]> {
    let band = OctaveFilter::new(index, rate)?.backwards(samples);
    let mean_square = |piece: &[f32]| piece.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / piece.len() as f64;
    let mut pieces: Vec<f64> = band.chunks_exact((rate * PIECE_S) as usize).map(mean_square).collect();
    pieces.sort_by(f64::total_cmp);
    let level = |at: usize| (10.0 * pieces[at].max(1e-20).log10()).max(SILENT_DBFS);
    Some([level(pieces.len() / 2), level(pieces.len() - 1 - pieces.len() / ONE_IN)])
}

/// What covers a drum: by octave, the level that a partial must exceed to be heard, dB against the loudest partial of a
/// medium strike.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Masking {
    /// Level below which nothing is heard, by octave, dB.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<f64>))]
    pub threshold_db: Octaves<f64>,
    /// Measured in this place; else from a loudness class.
    pub measured: bool,
}

impl Masking {
    /// Of a loudness class.
    pub fn of_class(loudness: Loudness, heard: Heard) -> Self {
        Self { threshold_db: loudness.threshold_db().map(|level| level - heard.info().nearer_db), measured: false }
    }

    /// Of what was measured, for a drum whose loudest partial reached `strike_dbfs`. Band and empty room add as energies. The
    /// band as heard through the strikes' own microphone says all, so nothing is added for the way of hearing.
    pub fn of_levels(levels: &[BandLevels], strike_dbfs: f64) -> Option<Self> {
        let mut level_dbfs = [0.0; 7];
        for (index, level) in level_dbfs.iter_mut().enumerate() {
            let known: Vec<f64> = levels.iter().filter_map(|each| each.level_dbfs[index]).collect();
            if known.is_empty() {
                return None;
            }
            *level = sum_levels(known);
        }
        let covered = spread_upwards(&level_dbfs);
        let threshold_db = std::array::from_fn(|index| covered[index] + tone_in_noise_db(index) - strike_dbfs);
        Some(Self { threshold_db, measured: true })
    }

    /// With what `other` covers besides: energies add.
    pub fn with(&self, other: &Self) -> Self {
        let both = |index: usize| sum_levels([self.threshold_db[index], other.threshold_db[index]]);
        Self { threshold_db: std::array::from_fn(both), measured: self.measured }
    }
}

/// Level of a loud band in one octave, dB SPL: how far it covers what lies higher depends on it, and a microphone's own gain is not known.
const LOUD_DB: f64 = 85.0;

/// What noise with these levels by octave covers: itself, and what lies above it in pitch, the less the further up (slope 24 + 230 / f - L / 5 dB a
/// Bark, f in Hz; Terhardt, Hearing Research 1, 1979; critical-band rates after Zwicker & Terhardt, J. Acoust. Soc. Am. 68, 1980). Downwards noise
/// covers next to nothing an octave away.
fn spread_upwards(level_db: &Octaves<f64>) -> Octaves<f64> {
    let bark = |hz: f64| 13.0 * (0.76 * hz / 1000.0).atan() + 3.5 * (hz / 7500.0).powi(2).atan();
    std::array::from_fn(|index| {
        let from = |lower: usize| {
            let (_, edge_hz) = octave_edges_hz(lower);
            let (low, high) = octave_edges_hz(index);
            let slope = 24.0 + 230.0 / edge_hz - 0.2 * LOUD_DB;
            let up = if lower == index { 0.0 } else { bark((low * high).sqrt()) - bark(edge_hz) };
            level_db[lower] - slope * up
        };
        (0..=index).map(from).fold(f64::NEG_INFINITY, f64::max)
    })
}

/// Level of a just audible tone in noise against the noise in its octave, dB. Only the noise in the tone's critical band counts
/// (width after Zwicker & Terhardt, J. Acoust. Soc. Am. 68, 1980), and a tone is heard 4 dB below that (Zwicker & Fastl,
/// Psychoacoustics, ch. 4: 2 dB below at low, 6 dB at high frequencies).
fn tone_in_noise_db(index: usize) -> f64 {
    let (low, high) = octave_edges_hz(index);
    let khz = (low * high).sqrt() / 1000.0;
    let critical = 25.0 + 75.0 * (1.0 + 1.4 * khz * khz).powf(0.69);
    10.0 * (critical / (high - low)).min(1.0).log10() - 4.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::amplitude;
    use proptest::prelude::*;
    use rand::{Rng, SeedableRng, rngs::StdRng};

    fn noise(rate: f64, seconds: f64, dbfs: f64) -> Vec<f32> {
        let mut rng = StdRng::seed_from_u64(3);
        let peak = amplitude(dbfs) * 3f64.sqrt();
        (0..(rate * seconds) as usize).map(|_| rng.random_range(-peak..peak) as f32).collect()
    }

    /// White noise of level L has L + 10 log (bandwidth / half the rate) in each octave.
    #[test]
    fn octaves_of_white_noise_have_the_level_of_their_width() {
        let rate = 48_000.0;
        let found = band_levels(&noise(rate, 10.0, -20.0), rate).unwrap();
        for (index, level) in found.level_dbfs.iter().enumerate() {
            let (low, high) = octave_edges_hz(index);
            let expected = -20.0 + 10.0 * ((high - low) / (rate / 2.0)).log10();
            // The middle of short pieces lies a little under the mean: the narrower the band, the more.
            let under = [2.0, 1.0, 0.6, 0.4, 0.3, 0.2, 0.2][index];
            assert!((-under..0.25 + 0.2 * under).contains(&(level.unwrap() - expected)), "octave {index}: {level:?}, {expected} expected");
        }
    }

    #[test]
    fn short_and_silent_recordings_are_refused_in_words() {
        assert!(band_levels(&noise(48_000.0, 1.0, -20.0), 48_000.0).unwrap_err().contains("ten seconds"));
        assert!(band_levels(&vec![0.0; 480_000], 48_000.0).unwrap_err().contains("silence"));
        let slow = band_levels(&noise(8_000.0, 4.0, -20.0), 8_000.0).unwrap();
        assert_eq!(slow.level_dbfs.iter().filter(|level| level.is_none()).count(), 1, "8 kHz carries 2 kHz but not 4 kHz");
        assert!(Masking::of_levels(&[slow], -10.0).is_none());
    }

    #[test]
    fn critical_bands_matter_where_they_are_narrower_than_an_octave() {
        assert!((tone_in_noise_db(0) + 4.0).abs() < 1e-9, "63 Hz: the octave is narrower");
        // 1 kHz: a critical band of 162 Hz in an octave of 706 Hz.
        assert!((tone_in_noise_db(4) + 4.0 + 6.39).abs() < 0.1, "{}", tone_in_noise_db(4));
    }

    /// Where a tone raises the specific loudness of its critical band by as much as 1 dB more noise does (ISO 532-1), as a general-purpose library of
    /// psychoacoustics works it out: `scripts/loudness-reference.py`.
    #[test]
    fn a_tone_comes_out_of_noise_where_a_loudness_standard_has_it() {
        let reference_db = [-3.8, -6.1, -8.8, -9.0, -10.9, -10.9, -10.8];
        for (index, reference) in reference_db.into_iter().enumerate() {
            let ours = tone_in_noise_db(index);
            assert!((ours - reference).abs() < 3.0, "octave {index}: {ours:.1} dB against {reference} dB");
        }
    }

    /// A bass alone covers its own octave and little two octaves up; even noise covers no more than itself.
    #[test]
    fn low_sound_covers_what_lies_above_it() {
        let bass = spread_upwards(&[-20.0, -90.0, -90.0, -90.0, -90.0, -90.0, -90.0]);
        assert!(bass[0] == -20.0 && bass.windows(2).all(|pair| pair[1] < pair[0] || pair[1] == -90.0), "{bass:?}");
        assert!((-30.0..-21.0).contains(&bass[1]) && bass[3] < -50.0, "half of it lies in the critical band at 125 Hz: {bass:?}");
        assert_eq!(spread_upwards(&[-30.0; 7]), [-30.0; 7]);
    }

    /// A band alone, and with a kit: only that one is told to cover itself.
    #[test]
    fn drums_in_the_recording_of_a_band_are_noticed() {
        use crate::bench_drum::BenchDrum;
        use crate::drum::DrumKind;
        use crate::venue::SimulatedVenue;
        let rate = f64::from(SimulatedVenue::SAMPLE_RATE);
        let mut band = SimulatedVenue { t60_s: [None; 7], loudness: Loudness::Loud }.band(3);
        assert!(!band_levels(&band, rate).unwrap().drums_play);
        let played = |kind: DrumKind| BenchDrum::new(&BenchDrum::usual(kind), &[]).unwrap().play(1, 3);
        let (kick, snare) = (played(DrumKind::Kick), played(DrumKind::Snare));
        let loudest = band.iter().fold(0f32, |most, x| most.max(x.abs()));
        for (beat, start) in (0..band.len()).step_by((0.5 * rate) as usize).enumerate() {
            let drum = if beat % 2 == 0 { &kick } else { &snare };
            let first = drum.iter().position(|x| x.abs() > 0.05).unwrap_or(0);
            let up = 8.0 * loudest / drum.iter().fold(0f32, |most, x| most.max(x.abs()));
            band[start..].iter_mut().zip(&drum[first..]).for_each(|(all, hit)| *all += up * hit);
        }
        let found = [0, 6].map(|index| usual_and_loud(index, &band, rate));
        assert!(band_levels(&band, rate).unwrap().drums_play, "{found:?}");
    }

    #[test]
    fn more_gain_on_everything_changes_nothing() {
        let levels = |up: f64| BandLevels { level_dbfs: [Some(-50.0 + up); 7], seconds: 10.0, drums_play: false };
        let (a, b) = (Masking::of_levels(&[levels(0.0)], -12.0).unwrap(), Masking::of_levels(&[levels(6.0)], -6.0).unwrap());
        assert!(a.threshold_db.iter().zip(b.threshold_db).all(|(a, b)| (a - b).abs() < 1e-9));
    }

    proptest! {
        #[test]
        fn a_louder_band_or_a_softer_drum_never_covers_less(
            levels in prop::array::uniform7(-80f64..-20.0), up in 0f64..20.0, strike in -40f64..0.0, index in 0usize..7,
        ) {
            let of = |levels: [f64; 7], strike| Masking::of_levels(&[BandLevels { level_dbfs: levels.map(Some), seconds: 10.0, drums_play: false }], strike).unwrap();
            let before = of(levels, strike);
            let mut louder = levels;
            louder[index] += up;
            prop_assert!(of(louder, strike).threshold_db[index] >= before.threshold_db[index]);
            prop_assert!(of(levels, strike - up).threshold_db.iter().zip(before.threshold_db).all(|(softer, before)| *softer >= before));
            // A second sound that is the same raises everything by 3 dB, one far below it by next to nothing.
            let twice = before.with(&before);
            prop_assert!(twice.threshold_db.iter().zip(before.threshold_db).all(|(twice, once)| (twice - once - 3.0103).abs() < 1e-3));
            let faint = Masking { threshold_db: before.threshold_db.map(|level| level - 40.0), measured: true };
            prop_assert!(before.with(&faint).threshold_db.iter().zip(before.threshold_db).all(|(both, once)| (both - once).abs() < 0.001));
        }
    }

    #[test]
    fn a_simulated_band_covers_about_what_its_class_says() {
        use crate::venue::{SimulatedVenue, loudness_infos};
        for info in loudness_infos() {
            let band = SimulatedVenue { t60_s: [None; 7], loudness: info.loudness }.band(3);
            let levels = band_levels(&band, f64::from(SimulatedVenue::SAMPLE_RATE)).unwrap();
            let found = Masking::of_levels(&[levels], -24.0).unwrap();
            let class = Masking::of_class(info.loudness, Heard::BareEar);
            let off = |index: usize| (found.threshold_db[index] - class.threshold_db[index]).abs();
            assert!((1..7).all(|index| off(index) < 8.0), "{}: {:?} for {:?}", info.name, found.threshold_db, class.threshold_db);
        }
    }
}
