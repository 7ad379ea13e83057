//! Reads sound files of any length piece by piece, as one channel of samples.

use ember_core::signal::{MAX_SAMPLE_RATE, MIN_SAMPLE_RATE};
use std::fs::File;
use std::io::Cursor;
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicU32, AtomicUsize, Ordering};
use symphonia::core::codecs::audio::{AudioDecoder, AudioDecoderOptions};
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
    pub channels: usize,
    /// The channel that was read, from 0: the loudest.
    pub channel: usize,
    pub duration_s: f64,
}

/// Why a file cannot be read. The sentences are for the person who chose it.
#[derive(Debug, thiserror::Error)]
pub enum ReadError {
    #[error("The file cannot be opened: {0}.")]
    Open(std::io::Error),
    #[error("The file is empty.")]
    Empty,
    #[error("This is not a sound file that can be read. WAV, FLAC, AIFF, Ogg Vorbis and MP3 can.")]
    NotSound,
    #[error("The file holds no sound.")]
    NoSamples,
    #[error("Its sample rate of {0} Hz is outside of {MIN_SAMPLE_RATE} to {MAX_SAMPLE_RATE} Hz.")]
    Rate(u32),
    #[error("At {at_s:.2} s it holds samples that are not numbers. Export it again from where it came.")]
    NotNumbers { at_s: f64 },
    #[error("It lasts longer than {} minutes. Cut out the part with the strikes.", .most_s / 60.0)]
    TooLong { most_s: f64 },
    #[error("Reading it was called off.")]
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

    pub fn found(&self, strikes: usize) {
        self.strikes.store(strikes, Ordering::Relaxed);
    }

    /// Ends reading at the next piece.
    pub fn call_off(&self) {
        self.called_off.store(true, Ordering::Relaxed);
    }

    fn at(&self, share: f64) -> Result<(), ReadError> {
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

/// The same, telling `progress` how far it has come.
pub fn read_watched(
    path: &Path,
    name: &str,
    most_s: f64,
    progress: &ReadProgress,
    mut piece: impl FnMut(u32, &[f32]),
) -> Result<SoundFacts, ReadError> {
    let mut first = Opened::new(path, name)?;
    let all_frames = first.frames;
    let share = |frames: u64| all_frames.map_or(0.0, |all| frames as f64 / all.max(1) as f64);
    let mut energies: Vec<f64> = Vec::new();
    let mut buffered: Vec<f32> = Vec::new();
    let mut single = true;
    let mut frames = 0u64;
    let mut rate = 0;
    // One channel needs one pass; several need a first one to find the loudest.
    while let Some((here, channels, samples)) = first.next()? {
        rate = here;
        if energies.is_empty() {
            energies = vec![0.0; channels];
            single = channels == 1;
        }
        frames += (samples.len() / channels) as u64;
        progress.at(if single { share(frames) } else { FIRST_PASS * share(frames) })?;
        if frames as f64 / f64::from(rate) > most_s {
            return Err(ReadError::TooLong { most_s });
        }
        if let Some(bad) = samples.iter().position(|x| !x.is_finite()) {
            let frame = frames as f64 - (samples.len() - bad) as f64 / channels as f64;
            return Err(ReadError::NotNumbers { at_s: frame / f64::from(rate) });
        }
        if single {
            piece(rate, samples);
        } else {
            for frame in samples.chunks_exact(channels) {
                energies.iter_mut().zip(frame).for_each(|(energy, x)| *energy += f64::from(*x) * f64::from(*x));
            }
        }
    }
    if frames == 0 {
        return Err(ReadError::NoSamples);
    }
    let channel = energies.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1)).map_or(0, |(index, _)| index);
    if !single {
        let mut again = Opened::new(path, name)?;
        let mut read_again = 0;
        while let Some((_, channels, samples)) = again.next()? {
            read_again += (samples.len() / channels) as u64;
            progress.at(FIRST_PASS + (1.0 - FIRST_PASS) * read_again as f64 / frames as f64)?;
            buffered.clear();
            buffered.extend(samples.chunks_exact(channels).filter_map(|frame| frame.get(channel)));
            piece(rate, &buffered);
        }
    }
    Ok(SoundFacts { sample_rate: rate, channels: energies.len(), channel, duration_s: frames as f64 / f64::from(rate) })
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

struct Opened {
    format: Box<dyn FormatReader>,
    decoder: Box<dyn AudioDecoder>,
    track: u32,
    /// Samples a channel, where the file says so.
    frames: Option<u64>,
    samples: Vec<f32>,
}

impl Opened {
    fn new(path: &Path, name: &str) -> Result<Self, ReadError> {
        let file = File::open(path).map_err(ReadError::Open)?;
        if file.metadata().map_err(ReadError::Open)?.len() == 0 {
            return Err(ReadError::Empty);
        }
        Self::of(Box::new(file), name)
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
        let decoder = symphonia::default::get_codecs()
            .make_audio_decoder(parameters, &AudioDecoderOptions::default())
            .map_err(|_| ReadError::NotSound)?;
        let (track, frames) = (track.id, track.num_frames);
        Ok(Self { format, decoder, track, frames, samples: Vec::new() })
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
