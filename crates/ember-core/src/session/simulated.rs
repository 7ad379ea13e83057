//! A session that stands in for an interface with many inputs: six drums and a hi-hat of the simulated kit, played in bars, as ten microphones hear them.
//! It knows nothing of what finds the hits again: sound travels straight and once off a wall, and is weaker and later with each metre.

use crate::bench_drum::{BenchDrum, SAMPLE_RATE};
use crate::drum::{Drum, DrumKind};
use crate::microphones::Microphone;
use crate::physics::SPEED_OF_SOUND;
use crate::units::amplitude;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;
use std::sync::OnceLock;

/// What is to be played.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SessionAsked {
    /// Decides the hands, the noise and the inputs' gains.
    pub seed: u64,
    /// Quarter notes a minute.
    pub bpm: f64,
    /// Hits on each drum by itself before the bars begin.
    pub alone: usize,
    /// Bars of four quarters.
    pub bars: usize,
}

impl SessionAsked {
    /// When the bars begin, s.
    fn begins_s(self) -> f64 {
        LEAD_S + ALONE_S * (HI_HAT * self.alone) as f64
    }
}

/// A hit as it was played.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlayedHit {
    /// Which drum, by its place in [`SimulatedSession::drums`].
    pub drum: usize,
    /// When, s.
    pub at_s: f64,
    /// How hard, against a full stroke.
    pub strength: f64,
}

/// What was played, and what each microphone heard of it.
#[derive(Debug, Clone)]
pub struct SimulatedSession {
    /// The drums, without the hi-hat, which plays along.
    pub drums: Vec<Drum>,
    /// Every hit on one of them, in the order of time.
    pub hits: Vec<PlayedHit>,
    /// The microphones and the samples of each at [`SAMPLE_RATE`].
    pub channels: Vec<(Microphone, Vec<f32>)>,
}

/// Where something stands: to the drummer's right, away from the drummer, above the floor, m.
type Place = [f64; 3];

/// A piece of the kit.
struct Piece {
    kind: DrumKind,
    diameter_in: f64,
    at: Place,
}

const HI_HAT: usize = 6;
const PIECES: [Piece; 7] = [
    Piece { kind: DrumKind::Kick, diameter_in: 22.0, at: [0.1, 0.5, 0.3] },
    Piece { kind: DrumKind::Snare, diameter_in: 14.0, at: [-0.25, 0.0, 0.65] },
    Piece { kind: DrumKind::Tom, diameter_in: 10.0, at: [-0.1, 0.5, 0.85] },
    Piece { kind: DrumKind::Tom, diameter_in: 12.0, at: [0.28, 0.5, 0.82] },
    Piece { kind: DrumKind::FloorTom, diameter_in: 14.0, at: [0.55, 0.1, 0.65] },
    Piece { kind: DrumKind::FloorTom, diameter_in: 16.0, at: [0.75, -0.25, 0.62] },
    Piece { kind: DrumKind::HiHat, diameter_in: 14.0, at: [-0.65, 0.25, 0.95] },
];

/// A microphone: where it is, which piece it stands at (none above the kit), and whether it sees that piece's other side.
struct Stand {
    microphone: Microphone,
    at: Place,
    piece: Option<usize>,
    from_behind: bool,
}

const fn close(microphone: Microphone, at: Place, piece: usize) -> Stand {
    Stand { microphone, at, piece: Some(piece), from_behind: false }
}

const fn above(microphone: Microphone, at: Place) -> Stand {
    Stand { microphone, at, piece: None, from_behind: false }
}

const STANDS: [Stand; 10] = [
    close(Microphone::KickIn, [0.1, 0.6, 0.3], 0),
    close(Microphone::KickOut, [0.1, 1.05, 0.3], 0),
    close(Microphone::SnareTop, [-0.25, 0.08, 0.72], 1),
    Stand { microphone: Microphone::SnareBottom, at: [-0.25, 0.05, 0.48], piece: Some(1), from_behind: true },
    close(Microphone::Tom, [-0.1, 0.58, 0.92], 2),
    close(Microphone::Tom, [0.28, 0.58, 0.89], 3),
    close(Microphone::FloorTom, [0.58, 0.18, 0.72], 4),
    close(Microphone::FloorTom, [0.8, -0.17, 0.69], 5),
    above(Microphone::OverheadLeft, [-0.5, 0.3, 1.8]),
    above(Microphone::OverheadRight, [0.6, 0.3, 1.8]),
];

/// A drum is no point: from nearer than this it grows no louder, m.
const EXTENT_M: f64 = 0.08;
/// A close microphone turns its deaf side to the rest of the kit, dB.
const DEAF_SIDE_DB: f64 = -7.0;
/// The wall behind: how much longer the way off it is, m, and what it sends back, dB.
const WALL_M: f64 = 4.0;
const WALL_DB: f64 = -8.0;
/// Loudest sample of a full stroke at its own microphone, against full scale.
const PEAK: f64 = 0.4;
/// The hi-hat against that.
const HI_HAT_DB: f64 = -8.0;
/// Noise of each input, against full scale.
const NOISE: f64 = 1e-4;
/// Inputs' gains differ by up to this either way, dB.
const GAINS_DB: f64 = 6.0;
/// Full strokes and ghost notes of each drum that differ from one another.
const STROKES: usize = 3;
/// Strengths of a full stroke and of a ghost note as they are simulated.
const FULL: f64 = 0.8;
const GHOST: f64 = 0.12;
/// Standard deviations of a human hand in time, s, and level, dB (from experience).
const HAND_S: f64 = 0.005;
const HAND_DB: f64 = 1.5;
/// A drum that is hit by itself rings for so long, s.
const ALONE_S: f64 = 1.6;
/// Silence before and after, s.
const LEAD_S: f64 = 0.6;
const TAIL_S: f64 = 2.5;

/// The kit, each drum of its kind's usual make in its own size.
fn drums() -> Vec<Drum> {
    let drum = |piece: &Piece| Drum { diameter_in: piece.diameter_in, ..BenchDrum::usual(piece.kind) };
    PIECES.iter().map(drum).collect()
}

/// Plays what is `asked` for. The same asks always give the same session.
pub fn simulated_session(asked: SessionAsked) -> SimulatedSession {
    let mut rng = StdRng::seed_from_u64(asked.seed);
    let played = played(asked, &mut rng);
    let drums = drums();
    let strokes = strokes(&drums);
    let gains_db: Vec<f64> = STANDS.iter().map(|_| rng.random_range(-GAINS_DB..GAINS_DB)).collect();
    let length = ((asked.begins_s() + TAIL_S + asked.bars as f64 * 240.0 / asked.bpm) * f64::from(SAMPLE_RATE)) as usize;
    let heard = |(index, stand): (usize, &Stand)| {
        let mut sum: Vec<f32> = noise(length, asked.seed.wrapping_add(1 + index as u64));
        for hit in &played {
            add(&mut sum, &strokes[hit.drum], hit, stand);
        }
        let gain = amplitude(gains_db[index]) as f32;
        (stand.microphone, sum.iter().map(|x| (x * gain).clamp(-1.0, 1.0)).collect())
    };
    let channels = STANDS.par_iter().enumerate().map(heard).collect();
    let hits = played.into_iter().filter(|hit| hit.drum != HI_HAT).collect();
    SimulatedSession { drums: drums.into_iter().take(HI_HAT).collect(), hits, channels }
}

/// Who plays what: a backbeat with ghost notes, a hi-hat in eighths, a fill round the toms at the end of every fourth bar, after hits on each
/// drum by itself where they are asked for.
fn played(asked: SessionAsked, rng: &mut StdRng) -> Vec<PlayedHit> {
    let sixteenth_s = 15.0 / asked.bpm;
    let mut hits: Vec<PlayedHit> =
        (0..HI_HAT * asked.alone).map(|n| PlayedHit { drum: n / asked.alone, at_s: LEAD_S + ALONE_S * n as f64, strength: FULL }).collect();
    let begins_s = asked.begins_s();
    for bar in 0..asked.bars {
        let is_fill = bar % 4 == 3;
        for step in 0..16 {
            let at_s = begins_s + (16 * bar + step) as f64 * sixteenth_s;
            let mut hit = |drum: usize, strength: f64| hits.push(PlayedHit { drum, at_s, strength });
            if is_fill && step >= 8 {
                // Two sixteenths on each drum from small to large; the kick keeps the quarters.
                hit([1, 2, 2, 3, 3, 4, 5, 5][step - 8], FULL);
                if step % 4 == 0 {
                    hit(0, FULL);
                }
                continue;
            }
            if step % 2 == 0 {
                hit(HI_HAT, if step % 4 == 0 { FULL } else { 0.5 * FULL });
            }
            match step {
                0 | 8 => hit(0, FULL),
                4 | 12 => hit(1, FULL),
                _ if rng.random_bool(0.12) => hit(0, 0.8 * FULL),
                _ if rng.random_bool(0.18) => hit(1, GHOST),
                _ => {}
            }
        }
    }
    for hit in &mut hits {
        let by = |rng: &mut StdRng| (0..4).map(|_| rng.random_range(-1.0..1.0f64)).sum::<f64>() * 0.866;
        hit.at_s += HAND_S * by(rng);
        hit.strength *= amplitude(HAND_DB * by(rng));
    }
    hits.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    hits
}

/// Of each piece its full strokes, then its ghost notes, at the level of a full stroke. Simulated once.
fn strokes(drums: &[Drum]) -> &'static [Vec<Vec<f32>>] {
    static STROKES: OnceLock<Vec<Vec<Vec<f32>>>> = OnceLock::new();
    STROKES.get_or_init(|| simulated_strokes(drums))
}

fn simulated_strokes(drums: &[Drum]) -> Vec<Vec<Vec<f32>>> {
    let of_piece = |(piece, drum): (usize, &Drum)| -> Vec<Vec<f32>> {
        let Ok(drum) = BenchDrum::new(drum, &[]) else { return Vec::new() };
        let strength = |n: usize| if n < STROKES { FULL } else { GHOST };
        // Only snares are played softly here.
        let kinds = if piece == 1 { 2 * STROKES } else { STROKES };
        let all: Vec<(f64, Vec<f32>)> =
            (0..kinds).into_par_iter().map(|n| (strength(n), drum.strike_as(31 * piece as u64, n, strength(n)))).collect();
        let peak = all[0].1.iter().fold(f32::MIN_POSITIVE, |most, x| most.max(x.abs()));
        let level = if piece == HI_HAT { amplitude(HI_HAT_DB) } else { 1.0 };
        // All at the strength of a full stroke, to be scaled by each hit's own.
        all.into_iter()
            .map(|(strength, sound)| sound.iter().map(|x| (PEAK * level / strength * f64::from(x / peak) * FULL) as f32).collect())
            .collect()
    };
    drums.par_iter().enumerate().map(of_piece).collect()
}

fn noise(length: usize, seed: u64) -> Vec<f32> {
    let mut rng = StdRng::seed_from_u64(seed);
    (0..length).map(|_| (NOISE * rng.random_range(-1.7..1.7)) as f32).collect()
}

fn distance(a: Place, b: Place) -> f64 {
    a.iter().zip(b).map(|(a, b)| (a - b).powi(2)).sum::<f64>().sqrt()
}

/// Adds a hit to what a microphone hears: straight, and once off the wall.
fn add(sum: &mut [f32], strokes: &[Vec<f32>], hit: &PlayedHit, stand: &Stand) {
    let rate = f64::from(SAMPLE_RATE);
    let ghosts = strokes.len() > STROKES && hit.strength < 0.4;
    // Which stroke, follows from when.
    let sound = &strokes[(hit.at_s * 1e4) as usize % STROKES + if ghosts { STROKES } else { 0 }];
    let path_m = distance(PIECES[hit.drum].at, stand.at);
    let own = stand.piece == Some(hit.drum);
    let deaf_db = if own || stand.piece.is_none() { 0.0 } else { DEAF_SIDE_DB };
    let sign = if own && stand.from_behind { -1.0 } else { 1.0 };
    let near = 0.12 + EXTENT_M;
    for (path_m, gain_db, sign) in [(path_m, deaf_db, sign), (path_m + WALL_M, WALL_DB, 1.0)] {
        let gain = sign * hit.strength * amplitude(gain_db) * near / (EXTENT_M + path_m);
        let place = (hit.at_s + path_m / SPEED_OF_SOUND) * rate;
        let (whole, part) = (place.floor(), place.fract());
        for n in 0..sound.len() {
            let Some(out) = sum.get_mut(whole as usize + n) else { break };
            // Between two samples a line is straight enough for a stand-in.
            let before = if n == 0 { 0.0 } else { f64::from(sound[n - 1]) };
            *out += (gain * (before * part + f64::from(sound[n]) * (1.0 - part))) as f32;
        }
    }
}
