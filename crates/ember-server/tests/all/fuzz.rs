//! Random inputs for every way into the program: nothing they hold may bring it down or keep it busy. `scripts/test` does this for a minute,
//! `scripts/fuzz 3600` for as long as one likes. A failure names its target and seed; `EMBER_FUZZ_SEED` tries that one again.

use crate::common::state;
use ember_app::Neighbours;
use ember_app::sound::{ReadProgress, kept_sound, measure_file, read_kept};
use ember_core::decay::{Listener, StrikeAnalyzer, StrikeMeasurement, Warning};
use ember_core::signal::{CapturedStrike, Ending, Limits, StrikeFinder};
use ember_core::target::{NoteTrainer, NoteValue, WrittenNote};
use ember_core::tone::HeardBy;
use ember_core::tuning::{BassListener, Expected, FaintTaps, RoundTap, TapReader, TapSound, hear_round};
use ember_server::api::router;
use ember_server::listening::{Asked, Session, Work};
use ember_store::Source;
use rand::rngs::StdRng;
use rand::seq::IndexedRandom;
use rand::{Rng, RngCore, SeedableRng};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;
use std::time::{Duration, Instant};

const RATES: [f64; 11] = [8_000.0, 8_003.0, 11_025.0, 12_000.0, 16_000.0, 22_050.0, 32_000.0, 44_100.0, 48_000.0, 96_000.0, 192_000.0];
/// Ways in, among which the time is shared.
const TARGETS: u64 = 9;
/// Seconds for all of them together where nothing else is asked for.
const SECONDS: u64 = 9;
/// A single input that takes longer than this hangs for all that a player knows; how long others took is only told.
const HANGS: Duration = Duration::from_secs(120);

fn asked(name: &str) -> Option<u64> {
    std::env::var(name).ok()?.parse().ok()
}

/// Tries `case` with one seed after the other until its share of the time is over.
fn for_a_while(target: &str, case: impl Fn(&mut StdRng)) {
    let time = Duration::from_millis(1000 * asked("EMBER_FUZZ_SECONDS").unwrap_or(SECONDS) / TARGETS);
    let only = asked("EMBER_FUZZ_SEED");
    let began = Instant::now();
    let (mut tried, mut slowest) = (0u64, (Duration::ZERO, 0));
    // Seeds go on from run to run, so that a long one does not begin with what a short one has tried.
    let first = only.unwrap_or_else(|| asked("EMBER_FUZZ_FROM").unwrap_or(0));
    while began.elapsed() < time && (only.is_none() || tried == 0) {
        let seed = first + tried;
        let at = Instant::now();
        let done = catch_unwind(AssertUnwindSafe(|| case(&mut StdRng::seed_from_u64(seed))));
        assert!(done.is_ok(), "{target}: seed {seed} failed");
        slowest = slowest.max((at.elapsed(), seed));
        assert!(slowest.0 < HANGS, "{target}: seed {} hangs", slowest.1);
        tried += 1;
    }
    eprintln!("{target}: {tried} inputs, the slowest (seed {}) {:.2} s", slowest.1, slowest.0.as_secs_f64());
}

/// Sound of every kind there is and is not: quiet, noise, strikes, squares, steps, spikes, and what no sound can be.
fn sound(rng: &mut StdRng, rate: f64) -> Vec<f32> {
    let mut all = Vec::new();
    for _ in 0..rng.random_range(0..6) {
        let count = (rate * rng.random_range(0.0..0.4f64).powi(2) * 3.0) as usize + rng.random_range(0..4);
        let size = 10f32.powf(rng.random_range(-7.0..1.0));
        let hz = 10f64.powf(rng.random_range(0.5..4.5));
        let decay = 10f64.powf(rng.random_range(-1.0..3.0));
        let kind = rng.random_range(0..9);
        let mut wild = StdRng::seed_from_u64(rng.next_u64());
        all.extend((0..count).map(|n| {
            let t = n as f64 / rate;
            let wave = (2.0 * std::f64::consts::PI * hz * t).sin();
            match kind {
                0 => 0.0,
                1 => size * wild.random_range(-1.0..1.0),
                2 | 3 => (f64::from(size) * wave * (-decay * t).exp()) as f32 + 1e-5 * wild.random_range(-1.0..1.0f32),
                4 => size * wave.signum() as f32,
                5 => size,
                6 => {
                    if wild.random_ratio(1, 500) {
                        size * 10.0
                    } else {
                        0.0
                    }
                }
                7 => f32::MIN_POSITIVE * wild.random_range(-1.0..1.0f32),
                _ => (wave * 40.0).clamp(-1.0, 1.0) as f32 * (-decay * t).exp() as f32,
            }
        }));
    }
    all
}

fn rate(rng: &mut StdRng) -> f64 {
    *RATES.choose(rng).expect("rates")
}

fn heard_by(rng: &mut StdRng) -> HeardBy {
    if rng.random_bool(0.8) { HeardBy::Partials } else { HeardBy::Octaves }
}

/// `sound` in pieces of any size.
fn pieces<'a>(rng: &mut StdRng, sound: &'a [f32]) -> Vec<&'a [f32]> {
    let size = rng.random_range(1..5000);
    sound.chunks(size).collect()
}

#[test]
fn whatever_is_listened_to_is_measured_or_left() {
    for_a_while("listener", |rng| {
        let rate = rate(rng);
        let mut listener = Listener::hearing(rate, heard_by(rng));
        let sound = sound(rng, rate);
        for piece in pieces(rng, &sound) {
            listener.push(piece).iter().for_each(|heard| assert!(!heard.measurement.warnings.contains(&Warning::Unmeasured)));
        }
        listener.finish();
    });
}

#[test]
fn whatever_a_strike_is_said_to_be_it_is_measured() {
    for_a_while("analyzer", |rng| {
        let rate = rate(rng);
        let samples = sound(rng, rate);
        let onset_index = rng.random_range(0..=samples.len());
        let ending = *[Ending::Decayed, Ending::NextStrike, Ending::Limit, Ending::Interrupted].choose(rng).expect("endings");
        let strike = CapturedStrike { sample_rate: rate, onset_s: 0.0, samples, onset_index, ending };
        let measured = StrikeAnalyzer::hearing(rate, heard_by(rng)).measure(&strike);
        assert!(!measured.warnings.contains(&Warning::Unmeasured), "it failed inside");
        let text = serde_json::to_string(&measured).expect("it can be kept");
        assert_eq!(serde_json::from_str::<StrikeMeasurement>(&text).ok(), Some(measured), "and read back");
    });
}

#[test]
fn whatever_is_tapped_has_a_pitch_or_a_fault() {
    for_a_while("taps", |rng| {
        let rate = rate(rng);
        let reader = TapReader::new(rate);
        let mut finder = StrikeFinder::new(rate, Limits { longest_s: 0.8, quiet_s: 0.1 });
        let mut faint = FaintTaps::default();
        let sound = sound(rng, rate);
        let mut taps: Vec<TapSound> = Vec::new();
        for piece in pieces(rng, &sound) {
            taps.extend(finder.push(piece).iter().map(|captured| reader.read(captured)));
            faint.push(finder.level_db(), finder.is_ringing(), piece.len() as f64 / rate);
        }
        taps.extend(finder.finish().map(|captured| reader.read(&captured)));
        let lugs = rng.random_range(1..13);
        let round: Vec<RoundTap> = taps.iter().map(|sound| RoundTap { lug: rng.random_range(0..lugs), sound }).collect();
        let expected = Expected { hz: rng.random_range(40.0..600.0), ln_sd: rng.random_range(0.01..0.5) };
        hear_round(&round, lugs, expected);
    });
}

#[test]
fn whatever_the_bass_plays_is_a_note_or_none() {
    for_a_while("bass", |rng| {
        let rate = if rng.random_bool(0.5) { rate(rng) } else { f64::from(rng.random_range(8_000..192_000u32)) };
        let mut listener = BassListener::new(rate);
        let sound = sound(rng, rate);
        for piece in pieces(rng, &sound) {
            listener.push(piece).iter().for_each(|heard| assert!(heard.hz > 0.0));
        }
    });
}

#[test]
fn whatever_is_played_is_held_against_what_is_written() {
    for_a_while("notes", |rng| {
        let rate = rate(rng);
        let written = WrittenNote { value: NoteValue::Quarter, bpm: rng.random_range(30.0..300.0) };
        let mut trainer = NoteTrainer::new(rate, written);
        let sound = sound(rng, rate);
        for piece in pieces(rng, &sound) {
            trainer.push(piece);
        }
        trainer.finish();
    });
}

/// Bytes of a real file of some kind, with some of them changed, cut off or doubled.
fn spoilt_file(rng: &mut StdRng) -> (String, Vec<u8>) {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/formats");
    let names = ["aiff-16.aiff", "flac-16.flac", "mp3.mp3", "vorbis.ogg", "wav-8.wav", "wav-16.wav", "wav-float.wav", "stereo.flac"];
    let name = *names.choose(rng).expect("files");
    let mut bytes = std::fs::read(folder.join(name)).expect("a file");
    if rng.random_bool(0.4) {
        bytes.truncate(rng.random_range(0..bytes.len()));
    }
    for _ in 0..rng.random_range(0..30) {
        if bytes.is_empty() {
            break;
        }
        // Headers are where most can go wrong.
        let at = if rng.random_bool(0.6) { rng.random_range(0..bytes.len().min(200)) } else { rng.random_range(0..bytes.len()) };
        match rng.random_range(0..3) {
            0 => bytes[at] = rng.random(),
            1 => bytes[at] ^= 1 << rng.random_range(0..8),
            _ => {
                let piece: Vec<u8> = bytes[at..(at + rng.random_range(1..64)).min(bytes.len())].to_vec();
                bytes.splice(at..at, piece);
            }
        }
    }
    (name.into(), bytes)
}

#[test]
fn whatever_is_in_a_sound_file_it_is_read_or_refused() {
    for_a_while("files", |rng| {
        let (name, bytes) = spoilt_file(rng);
        let file = tempfile::NamedTempFile::new().unwrap();
        std::fs::write(file.path(), bytes).unwrap();
        let _ = measure_file(file.path(), &name, heard_by(rng), 60.0, 20, &ReadProgress::default(), |heard| {
            let kept = kept_sound(&heard.captured.samples, heard.captured.sample_rate as u32).unwrap();
            assert!(kept.len() <= 3 * heard.captured.samples.len() + 68);
        });
    });
}

/// `x` with 24 bits, cut at the same height on both sides.
fn cut(x: f32) -> f32 {
    (x * 8_388_608.0).round().clamp(-8_388_607.0, 8_388_607.0) / 8_388_608.0
}

#[test]
fn whatever_sounds_is_kept_without_loss_and_no_larger_than_it_is() {
    for_a_while("kept sound", |rng| {
        let rate = rate(rng);
        let sound = sound(rng, rate);
        let kept = kept_sound(&sound, rate as u32).unwrap();
        assert!(kept.len() <= 3 * sound.len() + 68, "{} bytes of {} samples", kept.len(), sound.len());
        if !sound.is_empty() {
            let (_, back) = read_kept(kept).unwrap();
            assert!(back.len() == sound.len() && back.iter().zip(&sound).all(|(back, x)| *back == cut(*x)));
        }
    });
}

/// What random inputs found once: sound whose FLAC stream is right, but which the decoder read otherwise. It is kept plain.
#[test]
fn sound_that_did_not_come_back_once_does_now() {
    let rng = &mut StdRng::seed_from_u64(1_795_886_186_000_394);
    let rate = rate(rng);
    let sound = sound(rng, rate);
    let (here, back) = read_kept(kept_sound(&sound, rate as u32).unwrap()).unwrap();
    assert_eq!((here, back.len()), (rate as u32, sound.len()));
    assert!(back.iter().zip(&sound).all(|(back, x)| *back == cut(*x)));
}

#[test]
fn whatever_a_list_of_songs_holds_it_is_read_or_refused() {
    let app = router(state());
    let runtime = tokio::runtime::Runtime::new().unwrap();
    let words = [
        "title", "genre", "bpm", ",", ";", "\t", "\"", "\n", "\r\n", "rock", "118", "{", "}", "[", "]", ":", "\u{feff}", "é", "-1e999",
        "null", "4/4", "\u{202e}", "\0",
    ];
    for_a_while("song lists", |rng| {
        let mut bytes: Vec<u8> = Vec::new();
        for _ in 0..rng.random_range(0..80) {
            match rng.random_range(0..8) {
                0 => bytes.push(rng.random()),
                _ => bytes.extend(words.choose(rng).expect("words").bytes()),
            }
        }
        let answer = runtime.block_on(crate::common::send(
            &app,
            "POST",
            "/api/v1/songs/import/preview",
            bytes.into(),
            &[("content-type", "text/plain")],
        ));
        assert!(answer.status == 200 || answer.status == 422, "{}", answer.status);
    });
}

/// What a window may send: frames in and out of order, with gaps, with samples that are none.
#[test]
fn whatever_a_window_sends_the_session_ends_with_a_word() {
    for_a_while("session", |rng| {
        let state = state();
        let rate = rate(rng);
        let (events, mut told) = tokio::sync::mpsc::unbounded_channel();
        let session = Session {
            state: state.clone(),
            drum_id: crate::common::TOM,
            source: Source::Microphone,
            heard_by: heard_by(rng),
            rate: rate as u32,
            wanted: rng.random_range(1..4),
            asked: Asked::new(rng.random_bool(0.3)),
            neighbours: Neighbours::default(),
            events,
        };
        let (work, to_do) = tokio::sync::mpsc::channel(64);
        let listening = std::thread::spawn(move || session.run(to_do));
        let sound = sound(rng, rate);
        let mut start = 0u64;
        for piece in pieces(rng, &sound).into_iter().take(400) {
            let mut samples = piece.to_vec();
            if rng.random_ratio(1, 200) {
                let at = rng.random_range(0..samples.len());
                samples[at] = *[f32::NAN, f32::INFINITY, 1e30, -1e30].choose(rng).expect("samples");
            }
            if rng.random_ratio(1, 100) {
                start = start.wrapping_add(rng.random_range(0..4 * rate as u64));
            }
            let count = samples.len() as u64;
            let next = match rng.random_range(0..200) {
                0 => Work::Next,
                1 => Work::Back,
                _ => Work::Samples { start, samples },
            };
            start = start.saturating_add(count);
            if work.blocking_send(next).is_err() {
                break;
            }
        }
        drop(work);
        listening.join().expect("it does not fail");
        let mut last = None;
        while let Ok(event) = told.try_recv() {
            last = Some(event);
        }
        assert!(last.is_some(), "nothing was told");
    });
}
