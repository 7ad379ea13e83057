//! Reads sound files of any length piece by piece, as one channel of samples.

use super::cut_aiff::Mended;
use super::opus::Opus;
use ember_core::signal::{MAX_SAMPLE_RATE, MIN_SAMPLE_RATE};
use ember_core::units::{amplitude, decibels};
use ember_words::Said;
use std::fs::File;
use std::io::Cursor;
use std::path::Path;
use std::sync::LazyLock;
use std::sync::atomic::{AtomicBool, AtomicU32, AtomicUsize, Ordering};
use symphonia::core::codecs::audio::well_known::*;
use symphonia::core::codecs::audio::{AudioCodecId, AudioDecoder, AudioDecoderOptions};
use symphonia::core::codecs::registry::CodecRegistry;
use symphonia::core::errors::Error;
use symphonia::core::formats::probe::Hint;
use symphonia::core::formats::{FormatOptions, FormatReader, TrackType};
use symphonia::core::io::{MediaSource, MediaSourceStream};
use symphonia::core::meta::MetadataOptions;

/// What a sound file holds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SoundFacts {
    /// Samples a second.
    pub sample_rate: u32,
    /// Channels that it has.
    pub channels: usize,
    /// The channel that was read, from 0: the loudest.
    pub channel: usize,
    /// How long it is, s.
    pub duration_s: f64,
    /// By how much it was turned down, since it went beyond full scale, dB; 0 where it did not.
    pub turned_down_db: f64,
}

/// Why a file cannot be read. The sentences are for the person who chose it.
#[derive(Debug, thiserror::Error, Said)]
pub enum ReadError {
    /// The file could not be opened.
    #[said("The file cannot be opened: {0}.")]
    Open(std::io::Error),
    /// There is nothing in it.
    #[said("The file is empty.")]
    Empty,
    #[said(
        "This is not a sound file that can be read. WAV, FLAC, AIFF, MP3, Vorbis or Opus in Ogg or WebM, and AAC or ALAC in M4A, MP4, MOV or CAF can."
    )]
    /// It is no sound file, or one of a kind that is not known.
    NotSound,
    /// It is a sound file without any sound.
    #[said("The file holds no sound.")]
    NoSamples,
    /// Its samples come too slowly or too fast.
    #[said("Its sample rate of {0} Hz is outside of {MIN_SAMPLE_RATE} to {MAX_SAMPLE_RATE} Hz.")]
    Rate(u32),
    /// Some of its samples are no numbers.
    #[said("At {at_s:.2} s it holds samples that are not numbers. Export it again from where it came.")]
    NotNumbers {
        /// Where, s.
        at_s: f64,
    },
    /// Its samples are beyond what sound can be.
    #[said("It holds a sample {beyond_db:.0} dB beyond full scale, which is no sound. Export it again from where it came.")]
    NoSound {
        /// By how much, dB.
        beyond_db: f64,
    },
    /// It holds more sound than can be kept.
    #[said("It holds more sound than can be measured at once. Cut out the part with the strikes, in one or two channels.")]
    TooMuch,
    /// It is longer than is taken.
    #[said("It lasts longer than {} minutes. Cut out the part with the strikes.", .most_s / 60.0)]
    TooLong {
        /// The longest that is taken, s.
        most_s: f64,
    },
    /// Nobody waits for it any more.
    #[said("Reading it was called off.")]
    CalledOff,
}

/// How far reading has come; looked at from elsewhere, which may also call it off.
#[derive(Debug, Default)]
pub struct ReadProgress {
    permille: AtomicU32,
    strikes: AtomicUsize,
    called_off: AtomicBool,
}

impl ReadProgress {
    /// Part that has been read, 0 to 1; stays 0 where a file does not say how long it is.
    pub fn share(&self) -> f64 {
        f64::from(self.permille.load(Ordering::Relaxed)) / 1000.0
    }

    /// Strikes found so far.
    pub fn strikes(&self) -> usize {
        self.strikes.load(Ordering::Relaxed)
    }

    /// Notes how many strikes were found so far.
    pub fn found(&self, strikes: usize) {
        self.strikes.store(strikes, Ordering::Relaxed);
    }

    /// Ends reading at the next piece.
    pub fn call_off(&self) {
        self.called_off.store(true, Ordering::Relaxed);
    }

    /// Notes what part has been read; an error where it was called off.
    pub(crate) fn at(&self, share: f64) -> Result<(), ReadError> {
        self.permille.store((1000.0 * share.clamp(0.0, 1.0)) as u32, Ordering::Relaxed);
        if self.called_off.load(Ordering::Relaxed) { Err(ReadError::CalledOff) } else { Ok(()) }
    }
}

/// Reads `path` (named `name`, whose ending helps to tell its format), handing pieces of its loudest channel to `piece` in
/// order. The loudest, because mixing channels can cancel: microphones above and below a head see opposite motion.
///
/// `most_s`: longest duration taken, s. A file that breaks off in the middle is read as far as it goes.
pub fn read(path: &Path, name: &str, most_s: f64, piece: impl FnMut(u32, &[f32])) -> Result<SoundFacts, ReadError> {
    read_watched(path, name, most_s, &ReadProgress::default(), piece)
}

/// Part of the work that the first of two passes is: it only decodes.
const FIRST_PASS: f64 = 0.3;
/// More samples than this in all channels together are not read: two hours in two channels at 96 kHz.
const MOST_SAMPLES: u64 = 2 * 7_200 * 96_000;
/// Sound that does not move for this long is the end of it, s: recorders left running, and files made to keep a reader busy.
const STILL_S: f64 = 600.0;
/// A sample this far beyond full scale is no sound, dB.
const FURTHEST_DB: f64 = 100.0;

/// What the first pass over a file finds.
struct FirstPass {
    energies: Vec<f64>,
    peaks: Vec<f32>,
    frames: u64,
    rate: u32,
    /// The last sample, and for how many frames it has been the same in all channels.
    last: f32,
    still: u64,
}

impl FirstPass {
    fn new(rate: u32, channels: usize) -> Self {
        Self { energies: vec![0.0; channels], peaks: vec![0.0; channels], frames: 0, rate, last: 0.0, still: 0 }
    }

    /// Takes the next piece; whether reading may end here, since nothing has moved for so long.
    fn take(&mut self, samples: &[f32], most_s: f64) -> Result<bool, ReadError> {
        let channels = self.energies.len();
        if let Some(bad) = samples.iter().position(|x| !x.is_finite()) {
            let frame = self.frames as f64 + bad as f64 / channels as f64;
            return Err(ReadError::NotNumbers { at_s: frame / f64::from(self.rate) });
        }
        for frame in samples.chunks_exact(channels) {
            for ((energy, peak), x) in self.energies.iter_mut().zip(&mut self.peaks).zip(frame) {
                *energy += f64::from(*x) * f64::from(*x);
                *peak = peak.max(x.abs());
            }
            let moves = frame.iter().any(|x| *x != self.last);
            (self.last, self.still) = (frame[0], if moves { 0 } else { self.still + 1 });
        }
        self.frames += (samples.len() / channels) as u64;
        if self.frames as f64 / f64::from(self.rate) > most_s {
            return Err(ReadError::TooLong { most_s });
        }
        if self.frames * channels as u64 > MOST_SAMPLES {
            return Err(ReadError::TooMuch);
        }
        Ok(self.still as f64 > STILL_S * f64::from(self.rate))
    }

    fn loudest_channel(&self) -> usize {
        self.energies.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |(index, _)| index)
    }

    /// By how much the loudest sample of `channel` goes beyond full scale, dB; 0 where it does not.
    fn beyond_db(&self, channel: usize) -> Result<f64, ReadError> {
        let beyond_db = decibels(f64::from(self.peaks[channel]).max(1.0));
        if beyond_db > FURTHEST_DB { Err(ReadError::NoSound { beyond_db }) } else { Ok(beyond_db) }
    }
}

/// The same, telling `progress` how far it has come.
pub fn read_watched(
    path: &Path,
    name: &str,
    most_s: f64,
    progress: &ReadProgress,
    mut piece: impl FnMut(u32, &[f32]),
) -> Result<SoundFacts, ReadError> {
    let mut first = Opened::new(path, name)?;
    if first.declared_s().is_some_and(|declared| declared > most_s) {
        return Err(ReadError::TooLong { most_s });
    }
    let all_frames = first.frames;
    let share = |frames: u64| all_frames.map_or(0.0, |all| frames as f64 / all.max(1) as f64);
    let may_exceed = first.may_exceed;
    let mut pass: Option<FirstPass> = None;
    let mut single = true;
    // One channel of whole numbers needs one pass; several need a first one to find the loudest, others to find how loud they are.
    while let Some((rate, channels, samples)) = first.next()? {
        let so_far = pass.get_or_insert_with(|| FirstPass::new(rate, channels));
        // A file that changes its mind in the middle is read as far as it is of one kind.
        if (so_far.rate, so_far.energies.len()) != (rate, channels) {
            break;
        }
        single = channels == 1 && !may_exceed;
        let is_still = so_far.take(samples, most_s)?;
        progress.at(if single { share(so_far.frames) } else { FIRST_PASS * share(so_far.frames) })?;
        if single {
            piece(rate, samples);
        }
        if is_still {
            break;
        }
    }
    let Some(pass) = pass.filter(|pass| pass.frames > 0) else { return Err(ReadError::NoSamples) };
    let channel = pass.loudest_channel();
    let turned_down_db = pass.beyond_db(channel)?;
    if !single {
        let mut again = Opened::new(path, name)?;
        let (mut read_again, mut buffered) = (0, Vec::new());
        let factor = amplitude(-turned_down_db) as f32;
        while let Some((rate, channels, samples)) = again.next()? {
            if channels != pass.energies.len() || read_again >= pass.frames {
                break;
            }
            read_again += (samples.len() / channels) as u64;
            progress.at(FIRST_PASS + (1.0 - FIRST_PASS) * read_again as f64 / pass.frames as f64)?;
            buffered.clear();
            buffered.extend(samples.chunks_exact(channels).map(|frame| (frame[channel] * factor).clamp(-1.0, 1.0)));
            piece(rate, &buffered);
        }
    }
    Ok(SoundFacts {
        sample_rate: pass.rate,
        channels: pass.energies.len(),
        channel,
        duration_s: pass.frames as f64 / f64::from(pass.rate),
        turned_down_db,
    })
}

/// All channels of a file, as they are.
#[derive(Debug, Clone, PartialEq)]
pub struct AllChannels {
    /// Samples a second.
    pub sample_rate: u32,
    /// The samples of each channel, in the file's order; all of one length.
    pub channels: Vec<Vec<f32>>,
    /// Whether the file goes on after what was read.
    pub cut_short: bool,
}

/// Reads every channel of a file, at most `most_samples` in all of them together: what comes after is left out.
pub fn read_channels(path: &Path, name: &str, most_samples: usize) -> Result<AllChannels, ReadError> {
    let mut all: Option<AllChannels> = None;
    let unwatched = |_| Ok(());
    read_pieces(path, name, unwatched, |rate, pieces| {
        let all = all.get_or_insert_with(|| AllChannels { sample_rate: rate, channels: vec![Vec::new(); pieces.len()], cut_short: false });
        let room = (most_samples / pieces.len()).saturating_sub(all.channels[0].len());
        for (channel, piece) in all.channels.iter_mut().zip(pieces) {
            channel.extend(piece.iter().take(room));
        }
        all.cut_short = room < pieces[0].len();
        !all.cut_short
    })?;
    all.ok_or(ReadError::NoSamples)
}

/// Hands all channels of a file to `piece`, a piece of each at a time, at a sample rate; it says whether to go on. `at` is told what part has been read and
/// may call it off. A file that breaks off in the middle, or
/// goes on in another form, is read as far as it goes.
pub fn read_pieces(
    path: &Path,
    name: &str,
    at: impl Fn(f64) -> Result<(), ReadError>,
    mut piece: impl FnMut(u32, &[Vec<f32>]) -> bool,
) -> Result<(), ReadError> {
    let mut opened = Opened::new(path, name)?;
    let all_frames = opened.frames;
    let mut form = None;
    let (mut pieces, mut read): (Vec<Vec<f32>>, u64) = (Vec::new(), 0);
    while let Some((rate, count, samples)) = opened.next()? {
        if *form.get_or_insert((rate, count)) != (rate, count) {
            break;
        }
        if let Some(bad) = samples.iter().position(|x| !x.is_finite()) {
            return Err(ReadError::NotNumbers { at_s: (read as f64 + (bad / count) as f64) / f64::from(rate) });
        }
        pieces.resize_with(count, Vec::new);
        for (channel, piece) in pieces.iter_mut().enumerate() {
            piece.clear();
            piece.extend(samples.iter().skip(channel).step_by(count));
        }
        read += (samples.len() / count) as u64;
        at(all_frames.map_or(0.0, |all| read as f64 / all.max(1) as f64))?;
        if !piece(rate, &pieces) {
            break;
        }
    }
    if read == 0 { Err(ReadError::NoSamples) } else { Ok(()) }
}

/// Whether the file at `path` can be read and was coded with loss.
pub fn is_coded_with_loss(path: &Path, name: &str) -> bool {
    Opened::new(path, name).is_ok_and(|opened| opened.coded)
}

/// Sound as it is kept in the store (one channel): its sample rate and samples.
pub fn read_kept(sound: Vec<u8>) -> Result<(u32, Vec<f32>), ReadError> {
    let mut opened = Opened::of(Box::new(Cursor::new(sound)), "")?;
    let (mut rate, mut all) = (0, Vec::new());
    while let Some((here, _, samples)) = opened.next()? {
        rate = here;
        all.extend_from_slice(samples);
    }
    if all.is_empty() { Err(ReadError::NoSamples) } else { Ok((rate, all)) }
}

/// Sample rate, channel count and interleaved samples.
type Piece<'a> = (u32, usize, &'a [f32]);

/// What can be decoded.
static CODECS: LazyLock<CodecRegistry> = LazyLock::new(|| {
    let mut codecs = CodecRegistry::new();
    symphonia::default::register_enabled_codecs(&mut codecs);
    codecs.register_audio_decoder::<Opus>();
    codecs
});

/// Codecs that leave out what they have no bits for.
const WITH_LOSS: [AudioCodecId; 4] = [CODEC_ID_MP3, CODEC_ID_AAC, CODEC_ID_VORBIS, CODEC_ID_OPUS];

/// Codecs whose samples are whole numbers, of which full scale is the largest.
const WHOLE_NUMBERS: [AudioCodecId; 10] = [
    CODEC_ID_FLAC,
    CODEC_ID_ALAC,
    CODEC_ID_PCM_S16LE,
    CODEC_ID_PCM_S16BE,
    CODEC_ID_PCM_S24LE,
    CODEC_ID_PCM_S24BE,
    CODEC_ID_PCM_S32LE,
    CODEC_ID_PCM_S32BE,
    CODEC_ID_PCM_U8,
    CODEC_ID_PCM_S8,
];

struct Opened {
    format: Box<dyn FormatReader>,
    decoder: Box<dyn AudioDecoder>,
    track: u32,
    /// Samples a channel, where the file says so.
    frames: Option<u64>,
    /// Samples a second, where the file says so.
    rate: Option<u32>,
    /// Whether samples may lie beyond full scale.
    may_exceed: bool,
    /// Whether it was coded with loss.
    coded: bool,
    samples: Vec<f32>,
}

impl Opened {
    fn new(path: &Path, name: &str) -> Result<Self, ReadError> {
        let file = File::open(path).map_err(ReadError::Open)?;
        if file.metadata().map_err(ReadError::Open)?.len() == 0 {
            return Err(ReadError::Empty);
        }
        Self::of(Box::new(Mended::new(file).map_err(ReadError::Open)?), name)
    }

    fn of(source: Box<dyn MediaSource>, name: &str) -> Result<Self, ReadError> {
        let mut hint = Hint::new();
        if let Some(ending) = Path::new(name).extension().and_then(|ending| ending.to_str()) {
            hint.with_extension(ending);
        }
        let stream = MediaSourceStream::new(source, Default::default());
        let format = symphonia::default::get_probe()
            .probe(&hint, stream, FormatOptions::default(), MetadataOptions::default())
            .map_err(|_| ReadError::NotSound)?;
        let track = format.default_track(TrackType::Audio).ok_or(ReadError::NotSound)?;
        let parameters = track.codec_params.as_ref().and_then(|parameters| parameters.audio()).ok_or(ReadError::NotSound)?;
        let decoder = CODECS.make_audio_decoder(parameters, &AudioDecoderOptions::default()).map_err(|_| ReadError::NotSound)?;
        let (rate, may_exceed) = (parameters.sample_rate, !WHOLE_NUMBERS.contains(&parameters.codec));
        let coded = WITH_LOSS.contains(&parameters.codec);
        let (track, frames) = (track.id, track.num_frames);
        Ok(Self { format, decoder, track, frames, rate, may_exceed, coded, samples: Vec::new() })
    }

    /// How long the file says that it lasts, s.
    fn declared_s(&self) -> Option<f64> {
        let rate = self.rate.filter(|rate| *rate > 0)?;
        self.frames.map(|frames| frames as f64 / f64::from(rate))
    }

    fn next(&mut self) -> Result<Option<Piece<'_>>, ReadError> {
        loop {
            let packet = match self.format.next_packet() {
                Ok(Some(packet)) => packet,
                // A file that breaks off ends in an error: what came before it counts.
                Ok(None) | Err(_) => return Ok(None),
            };
            if packet.track_id != self.track {
                continue;
            }
            let decoded = match self.decoder.decode(&packet) {
                Ok(decoded) => decoded,
                Err(Error::IoError(_) | Error::DecodeError(_)) => continue,
                Err(_) => return Ok(None),
            };
            let (rate, channels) = (decoded.spec().rate(), decoded.spec().channels().count());
            if !(MIN_SAMPLE_RATE..=MAX_SAMPLE_RATE).contains(&rate) {
                return Err(ReadError::Rate(rate));
            }
            if decoded.frames() == 0 || channels == 0 {
                continue;
            }
            decoded.copy_to_vec_interleaved(&mut self.samples);
            return Ok(Some((rate, channels, &self.samples)));
        }
    }
}
