//! What covers a drum, by octave band.

use super::loudness::{THIRDS, excitation_db, just_audible_db};
use super::{Heard, Loudness, Octaves};
use crate::signal::OctaveFilter;
use crate::units::{median, sum_levels};
use ember_words::{Said, Text, text};
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

/// Pieces by which a piece stands out of the usual level, s ("fast" time weighting has the same constant, IEC 61672-1).
const PIECE_S: f64 = 0.125;
/// Blocks of which the level is taken, and what lies between their beginnings, s (ITU-R BS.1770-5, annex 1).
const BLOCK_S: f64 = 0.4;
const STEPS_A_BLOCK: usize = 4;
/// Blocks this loud and less are no programme, LUFS, and of the others those count that lie at most so far under their mean, LU (the same).
const ABSOLUTE_GATE_LUFS: f64 = -70.0;
const RELATIVE_GATE_LU: f64 = 10.0;
/// Shorter recordings say little about a band, s.
const LEAST_S: f64 = 2.0;
const SILENT_DBFS: f64 = -120.0;
/// Drums play in a band where one piece in this many stands so far out of the usual level in the lowest octave, and so far in the highest, dB: strings
/// and voices swell by less (from experience, no published source).
const ONE_IN: usize = 12;
const KICK_STANDS_OUT_DB: f64 = 14.0;
const SNARE_STANDS_OUT_DB: f64 = 9.0;

/// What a recording is of.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Recorded {
    /// The band, playing.
    #[default]
    Band,
    /// The empty room: hum and fans.
    EmptyRoom,
}

/// Why levels cannot be told.
#[derive(Debug, Clone, PartialEq, thiserror::Error, Said)]
pub enum NoLevels {
    /// It was listened to for too short.
    #[said("Only {seconds:.1} s were heard. Let it listen for ten seconds{}.", .recorded.meanwhile())]
    TooShort {
        /// For how long, s.
        seconds: f64,
        /// What was listened to.
        recorded: Recorded,
    },
    /// There was no sound in it.
    #[said("There was silence only. Is the right input chosen?")]
    Silence,
    /// The meter takes no such sound.
    #[said("Its loudness cannot be told: {}.", .0.to_string())]
    Meter(#[from] ebur128::Error),
}

impl Recorded {
    /// What goes on while it is recorded, to stand behind a sentence.
    fn meanwhile(self) -> Text {
        match self {
            Self::Band => text!(" while the band plays"),
            Self::EmptyRoom => text!(""),
        }
    }
}

/// Levels by octave of `samples` (full scale 1). Of a band the blocks count that are programme after ITU-R BS.1770: pauses between songs make no band
/// quieter. Where drums play in it, which would cover themselves, the level that half of those blocks exceed stands for their mean; and so it does of an empty
/// room, in which somebody may have coughed.
pub fn band_levels(samples: &[f32], rate: f64, recorded: Recorded) -> Result<BandLevels, NoLevels> {
    let seconds = samples.len() as f64 / rate;
    if seconds < LEAST_S {
        return Err(NoLevels::TooShort { seconds, recorded });
    }
    let bands: Octaves<Option<Vec<f32>>> = std::array::from_fn(|index| Some(OctaveFilter::new(index, rate)?.backwards(samples)));
    let stands_out = |index: usize, by_db: f64| bands[index].as_ref().is_some_and(|band| stands_out_db(band, rate) > by_db);
    let drums_play = recorded == Recorded::Band && stands_out(0, KICK_STANDS_OUT_DB) && stands_out(6, SNARE_STANDS_OUT_DB);
    let loudness = block_loudness(samples, rate)?;
    let (blocks, middle) = match recorded {
        Recorded::Band => (programme(&loudness), drums_play),
        Recorded::EmptyRoom => ((0..loudness.len()).collect(), true),
    };
    let level_dbfs = bands.map(|band| band.map(|band| level_of(&band, rate, &blocks, middle)));
    if level_dbfs.iter().flatten().all(|level| *level <= SILENT_DBFS + 10.0) {
        return Err(NoLevels::Silence);
    }
    Ok(BandLevels { level_dbfs, seconds, drums_play })
}

/// Loudness of each block of `samples`, LUFS (ITU-R BS.1770, one channel); minus infinity of digital silence.
fn block_loudness(samples: &[f32], rate: f64) -> Result<Vec<f64>, ebur128::Error> {
    let mut meter = ebur128::EbuR128::new(1, rate.round() as u32, ebur128::Mode::M)?;
    let mut loudness = Vec::new();
    for (step, piece) in samples.chunks_exact(step_len(rate)).enumerate() {
        meter.add_frames_f32(piece)?;
        if step + 1 >= STEPS_A_BLOCK {
            loudness.push(meter.loudness_momentary()?);
        }
    }
    Ok(loudness)
}

/// Which blocks count as programme. A microphone may be turned so far down that most lie under the absolute gate: then only the relative one holds.
fn programme(lufs: &[f64]) -> Vec<usize> {
    let above = |gate: f64, of: &[usize]| of.iter().copied().filter(|block| lufs[*block] > gate).collect::<Vec<usize>>();
    let all: Vec<usize> = (0..lufs.len()).collect();
    let loud = above(ABSOLUTE_GATE_LUFS, &all);
    let some = if 2 * loud.len() > all.len() { loud } else { all };
    let mean = sum_levels(some.iter().map(|block| lufs[*block])) - 10.0 * (some.len().max(1) as f64).log10();
    above(mean - RELATIVE_GATE_LU, &some)
}

fn step_len(rate: f64) -> usize {
    (rate * BLOCK_S / STEPS_A_BLOCK as f64).round() as usize
}

fn mean_square(piece: &[f32]) -> f64 {
    piece.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() / piece.len() as f64
}

fn level_db(power: f64) -> f64 {
    (10.0 * power.max(1e-20).log10()).max(SILENT_DBFS)
}

/// Level of `band` over `blocks`, dBFS: their mean, or what half of them exceed.
fn level_of(band: &[f32], rate: f64, blocks: &[usize], middle: bool) -> f64 {
    let steps: Vec<f64> = band.chunks_exact(step_len(rate)).map(mean_square).collect();
    let powers: Vec<f64> = blocks.iter().map(|block| steps[*block..][..STEPS_A_BLOCK].iter().sum::<f64>() / STEPS_A_BLOCK as f64).collect();
    let mean = powers.iter().sum::<f64>() / powers.len().max(1) as f64;
    level_db(if middle { median(&powers).unwrap_or(mean) } else { mean })
}

/// How far one piece of `band` in [`ONE_IN`] stands out of the usual level, dB.
fn stands_out_db(band: &[f32], rate: f64) -> f64 {
    let mut pieces: Vec<f64> = band.chunks_exact((rate * PIECE_S) as usize).map(mean_square).collect();
    pieces.sort_by(f64::total_cmp);
    level_db(pieces[pieces.len() - 1 - pieces.len() / ONE_IN]) - level_db(pieces[pieces.len() / 2])
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

    /// Of levels by octave that were measured, dBFS, for a drum whose loudest partial reached `strike_dbfs`: what covers it adds as energies. The band as
    /// heard through the strikes' own microphone says all, so nothing is added for the way of hearing. None where an octave was measured of nothing.
    pub fn of_levels(levels: &[Octaves<Option<f64>>], strike_dbfs: f64) -> Option<Self> {
        let mut level_dbfs = [0.0; 7];
        for (index, level) in level_dbfs.iter_mut().enumerate() {
            let known: Vec<f64> = levels.iter().filter_map(|each| each[index]).collect();
            if known.is_empty() {
                return None;
            }
            *level = sum_levels(known);
        }
        let to_spl_db = STRIKE_DB - strike_dbfs;
        let excitation = excitation_db(&thirds_of(&level_dbfs.map(|level| level + to_spl_db)));
        let threshold_db = std::array::from_fn(|index| just_audible_db(middle_third(index), &excitation) - STRIKE_DB);
        Some(Self { threshold_db, measured: true })
    }

    /// With what `other` covers besides: energies add.
    pub fn with(&self, other: &Self) -> Self {
        let both = |index: usize| sum_levels([self.threshold_db[index], other.threshold_db[index]]);
        Self { threshold_db: std::array::from_fn(both), measured: self.measured }
    }
}

/// Level of a medium strike's loudest partial at its hit, dB SPL: a microphone's own gain is not known, and how far sound spreads in the ear depends on its
/// level (from experience; with it the loudness classes have the levels that they are said to have).
const STRIKE_DB: f64 = 105.0;
/// Louder third octaves are beyond the standard, dB SPL.
const LOUDEST_DB: f64 = 120.0;

/// The third octave in the middle of an octave, of those from 25 Hz on.
fn middle_third(octave: usize) -> usize {
    3 * octave + 4
}

/// Third octaves of sound that lies evenly in each octave, dB SPL; silence below and above.
fn thirds_of(octaves_db: &Octaves<f64>) -> [f64; THIRDS] {
    let mut thirds = [SILENT_DBFS; THIRDS];
    for (octave, level) in octaves_db.iter().enumerate() {
        thirds[middle_third(octave) - 1..=middle_third(octave) + 1].fill((level - 10.0 * 3f64.log10()).min(LOUDEST_DB));
    }
    thirds
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::signal::octave_edges_hz;
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
        let found = band_levels(&noise(rate, 10.0, -20.0), rate, Recorded::Band).unwrap();
        for (index, level) in found.level_dbfs.iter().enumerate() {
            let (low, high) = octave_edges_hz(index);
            let expected = -20.0 + 10.0 * ((high - low) / (rate / 2.0)).log10();
            let scatter = [1.0, 0.6, 0.4, 0.4, 0.3, 0.3, 0.3][index];
            assert!((level.unwrap() - expected).abs() < scatter, "octave {index}: {level:?}, {expected} expected");
        }
    }

    #[test]
    fn short_and_silent_recordings_are_refused_in_words() {
        assert!(band_levels(&noise(48_000.0, 1.0, -20.0), 48_000.0, Recorded::Band).unwrap_err().to_string().contains("ten seconds"));
        assert!(band_levels(&vec![0.0; 480_000], 48_000.0, Recorded::Band).unwrap_err().to_string().contains("silence"));
        let slow = band_levels(&noise(8_000.0, 4.0, -20.0), 8_000.0, Recorded::Band).unwrap();
        assert_eq!(slow.level_dbfs.iter().filter(|level| level.is_none()).count(), 1, "8 kHz carries 2 kHz but not 4 kHz");
        assert!(Masking::of_levels(&[slow.level_dbfs], -10.0).is_none());
    }

    /// Noise by octave, dBFS, below a strike of -12 dBFS; what a tone in the middle of each must reach.
    fn just_audible(octaves_dbfs: Octaves<f64>) -> Octaves<f64> {
        Masking::of_levels(&[octaves_dbfs.map(Some)], -12.0).unwrap().threshold_db.map(|level| level - 12.0)
    }

    /// Where a tone raises the specific loudness of its critical band by as much as 1 dB more noise does (ISO 532-1), as a general-purpose library of
    /// psychoacoustics works it out: `scripts/loudness-reference.py`. In its own octave, and where the noise lies an octave below: there the library's filters let
    /// some of the noise through.
    #[test]
    fn a_tone_comes_out_of_noise_where_a_loudness_standard_has_it() {
        let own_db = [-3.8, -6.1, -8.8, -9.0, -10.9, -10.9, -10.8];
        for (index, reference) in own_db.into_iter().enumerate() {
            let mut noise = [-140.0; 7];
            noise[index] = -47.0;
            let ours = just_audible(noise)[index] + 47.0;
            println!("octave {index}: {ours:.1} dB against {reference} dB");
            assert!((ours - reference).abs() < 2.5, "octave {index}: {ours:.1} dB against {reference} dB");
        }
    }

    /// A bass alone covers its own octave most, and the less the higher a tone lies.
    #[test]
    fn low_sound_covers_what_lies_above_it() {
        let bass = just_audible([-20.0, -120.0, -120.0, -120.0, -120.0, -120.0, -120.0]);
        println!("{bass:?}");
        assert!(bass.windows(2).all(|pair| pair[1] < pair[0]), "{bass:?}");
        assert!((-45.0..-28.0).contains(&bass[1]) && bass[3] < -60.0, "{bass:?}");
        let even = just_audible([-30.0; 7]);
        assert!(even.iter().all(|level| (-42.0..-33.0).contains(level)), "even noise covers little more than itself: {even:?}");
    }

    /// Twenty seconds of noise of which the half is a pause 40 dB down: the pause does not count. A microphone turned down by 60 dB hears the same.
    #[test]
    fn pauses_make_no_band_quieter() {
        let rate = 48_000.0;
        let mut with_pause = noise(rate, 20.0, -20.0);
        let whole = band_levels(&with_pause, rate, Recorded::Band).unwrap();
        let half = with_pause.len() / 2;
        with_pause[half..].iter_mut().for_each(|x| *x *= 0.01);
        let levels = |sound: &[f32]| band_levels(sound, rate, Recorded::Band).unwrap().level_dbfs.map(Option::unwrap);
        let off = |a: [f64; 7], b: [f64; 7], by: f64| a.iter().zip(b).all(|(a, b)| (a - b - by).abs() < 0.5);
        assert!(off(levels(&with_pause), whole.level_dbfs.map(Option::unwrap), 0.0));
        let quiet: Vec<f32> = with_pause.iter().map(|x| 0.001 * x).collect();
        assert!(off(levels(&with_pause), levels(&quiet), 60.0));
        // Of an empty room in which somebody coughs, what is there half of the time counts.
        let mut cough = noise(rate, 20.0, -60.0);
        cough[480_000..528_000].iter_mut().for_each(|x| *x *= 100.0);
        let room = band_levels(&cough, rate, Recorded::EmptyRoom).unwrap().level_dbfs.map(Option::unwrap);
        assert!(off(room, levels(&noise(rate, 20.0, -60.0)), 0.0), "{room:?}");
    }

    /// A band alone, and with a kit: only that one is told to cover itself.
    #[test]
    fn drums_in_the_recording_of_a_band_are_noticed() {
        use crate::bench_drum::BenchDrum;
        use crate::drum::DrumKind;
        use crate::venue::SimulatedVenue;
        let rate = f64::from(SimulatedVenue::SAMPLE_RATE);
        let mut band = SimulatedVenue { t60_s: [None; 7], loudness: Loudness::Loud }.band(3);
        assert!(!band_levels(&band, rate, Recorded::Band).unwrap().drums_play);
        let played = |kind: DrumKind| BenchDrum::new(&BenchDrum::usual(kind), &[]).unwrap().play(1, 3);
        let (kick, snare) = (played(DrumKind::Kick), played(DrumKind::Snare));
        let loudest = band.iter().fold(0f32, |most, x| most.max(x.abs()));
        for (beat, start) in (0..band.len()).step_by((0.5 * rate) as usize).enumerate() {
            let drum = if beat % 2 == 0 { &kick } else { &snare };
            let first = drum.iter().position(|x| x.abs() > 0.05).unwrap_or(0);
            let up = 8.0 * loudest / drum.iter().fold(0f32, |most, x| most.max(x.abs()));
            band[start..].iter_mut().zip(&drum[first..]).for_each(|(all, hit)| *all += up * hit);
        }
        assert!(band_levels(&band, rate, Recorded::Band).unwrap().drums_play);
    }

    #[test]
    fn more_gain_on_everything_changes_nothing() {
        let levels = |up: f64| [Some(-50.0 + up); 7];
        let (a, b) = (Masking::of_levels(&[levels(0.0)], -12.0).unwrap(), Masking::of_levels(&[levels(6.0)], -6.0).unwrap());
        assert!(a.threshold_db.iter().zip(b.threshold_db).all(|(a, b)| (a - b).abs() < 1e-9));
    }

    proptest! {
        #[test]
        fn a_louder_band_or_a_softer_drum_never_covers_less(
            levels in prop::array::uniform7(-80f64..-20.0), up in 0f64..20.0, strike in -40f64..0.0, index in 0usize..7,
        ) {
            let of = |levels: [f64; 7], strike| Masking::of_levels(&[levels.map(Some)], strike).unwrap();
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
            let levels = band_levels(&band, f64::from(SimulatedVenue::SAMPLE_RATE), Recorded::Band).unwrap();
            let found = Masking::of_levels(&[levels.level_dbfs], -24.0).unwrap();
            let class = Masking::of_class(info.loudness, Heard::BareEar);
            let off = |index: usize| (found.threshold_db[index] - class.threshold_db[index]).abs();
            assert!((1..7).all(|index| off(index) < 8.0), "{}: {:?} for {:?}", info.name, found.threshold_db, class.threshold_db);
        }
    }
}
