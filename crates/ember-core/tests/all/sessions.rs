//! Sessions with one channel a microphone, played by the simulated kit, whose hits are known: each is found, given to the right drum, and what is said of a
//! drum is what its own strikes say.

use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::decay::{Listener, StrikeAnalyzer, summarize};
use ember_core::drum::Drum;
use ember_core::session::{
    DrumHeard, Given, GivenHit, PlayedHit, SessionAsked, SessionEars, SimulatedSession, followed_s, give, heard, simulated_session, windows,
};
use ember_core::tone::DecayProfile;
use ember_core::units::median;
use rand::{Rng, SeedableRng, rngs::StdRng};
use rayon::prelude::*;

/// Channels that stand nearest to one drum each, in the order of the drums.
const NEAREST: [usize; 6] = [0, 2, 4, 5, 6, 7];
/// A hit is found where one is given to its drum within this, s.
const WITHIN_S: f64 = 0.012;

struct Heard {
    given: Given,
    drums: Vec<DrumHeard>,
}

fn listen(session: &SimulatedSession) -> Heard {
    let rate = f64::from(SAMPLE_RATE);
    let mut ears = SessionEars::new(rate, session.channels.iter().map(|(microphone, _)| microphone.is_close()).collect());
    let length = session.channels[0].1.len();
    for from in (0..length).step_by(48_000) {
        let pieces: Vec<&[f32]> = session.channels.iter().map(|(_, samples)| &samples[from..(from + 48_000).min(length)]).collect();
        ears.push(&pieces);
    }
    let events = ears.finish();
    let given = give(&events, &NEAREST, Some(8));
    let windows = windows(&events, &given, &NEAREST, length as f64 / rate);
    let analyzer = StrikeAnalyzer::new(rate);
    let measured: Vec<_> = windows
        .par_iter()
        .map(|window| {
            let at = |s: f64| ((s * rate) as usize).min(length);
            let samples = session.channels[NEAREST[window.drum]].1[at(window.from_s)..at(window.to_s)].to_vec();
            window.measured(&samples, rate, &analyzer)
        })
        .collect();
    let drums = (0..NEAREST.len())
        .map(|drum| {
            let strikes: Vec<_> =
                windows.iter().zip(&measured).filter(|(window, _)| window.drum == drum).filter_map(|(_, strike)| strike.clone()).collect();
            heard(&strikes, followed_s(windows.iter().filter(|window| window.drum == drum)))
        })
        .collect();
    Heard { given, drums }
}

/// What the drum says by itself, struck one hit at a time.
fn alone(drum: &Drum) -> DecayProfile {
    let sound = BenchDrum::new(drum, &[]).unwrap().play(4, 99);
    let mut listener = Listener::new(f64::from(SAMPLE_RATE));
    let mut strikes: Vec<_> = listener.push(&sound).into_iter().map(|strike| strike.measurement).collect();
    strikes.extend(listener.finish().map(|strike| strike.measurement));
    summarize(&strikes).profile
}

/// Hits found of those played, ghost notes apart, and hits given that were never played.
#[derive(Default)]
struct Count {
    strokes: [usize; 2],
    ghosts: [usize; 2],
    never_played: usize,
}

impl Count {
    fn add(&mut self, session: &SimulatedSession, given: &Given) {
        let same = |played: &PlayedHit, given: &GivenHit| given.drum == played.drum && (given.at_s - played.at_s).abs() < WITHIN_S;
        for played in &session.hits {
            let count = if played.strength < 0.4 { &mut self.ghosts } else { &mut self.strokes };
            count[0] += usize::from(given.hits.iter().any(|hit| same(played, hit)));
            count[1] += 1;
        }
        self.never_played += given.hits.iter().filter(|hit| !session.hits.iter().any(|played| same(played, hit))).count();
    }
}

/// Six sessions of sixteen bars at 100 to 180 BPM: hits found and given, and every length that is said against the drum by itself (no published source).
#[test]
fn hits_go_to_the_drum_that_was_hit_and_lengths_that_are_said_are_its_own() {
    let mut count = Count::default();
    let (mut lengths, mut pitches) = (Vec::new(), Vec::new());
    let asked = [(1, 100.0), (2, 120.0), (3, 140.0), (4, 180.0), (5, 160.0), (6, 110.0)];
    let mut by_itself: Vec<DecayProfile> = Vec::new();
    for (seed, bpm) in asked {
        let session = simulated_session(SessionAsked { seed, bpm, alone: 0, bars: 16 });
        let found = listen(&session);
        if by_itself.is_empty() {
            by_itself = session.drums.par_iter().map(alone).collect();
        }
        assert!(found.given.told.iter().all(|told| *told));
        count.add(&session, &found.given);
        for (drum, alone) in found.drums.iter().zip(&by_itself) {
            let off = |found: f64, alone: Option<f64>| (found / alone.unwrap() - 1.0).abs();
            println!("{seed}: {drum:?} by itself {:?} Hz {:?} s", alone.body_hz, alone.body_t60_s);
            pitches.extend(drum.body_hz.map(|hz| off(hz, alone.body_hz)));
            lengths.extend(drum.body_t60_s.map(|length| off(length.median(), alone.body_t60_s)));
        }
    }
    let Count { strokes, ghosts, never_played } = count;
    println!("strokes {strokes:?}, ghost notes {ghosts:?}, never played {never_played}");
    let wrong_pitch = pitches.iter().filter(|off| **off > 0.03).count();
    println!("pitches said {}, of them wrong {wrong_pitch}; lengths said {}: {lengths:.3?}", pitches.len(), lengths.len());
    assert!(strokes[0] as f64 >= 0.97 * strokes[1] as f64, "{strokes:?}");
    assert!(ghosts[0] as f64 >= 0.70 * ghosts[1] as f64, "{ghosts:?}");
    assert!(never_played * 20 <= strokes[1] + ghosts[1], "{never_played}");
    assert!(median(&lengths).unwrap() < 0.05 && lengths.len() >= 2 * asked.len(), "{lengths:?}");
    assert_eq!(wrong_pitch, 0, "{pitches:?}");
}

/// Silence, noise and a kit without microphones of its own say nothing, and nothing fails.
#[test]
fn what_is_no_session_gives_no_hits() {
    let mut rng = StdRng::seed_from_u64(5);
    let noise: Vec<f32> = (0..96_000).map(|_| rng.random_range(-0.01..0.01)).collect();
    for (channels, drums) in [
        (vec![vec![0.0; 96_000]; 3], vec![0, 1]),
        (vec![noise.clone(), noise], vec![0, 1]),
        (vec![vec![0.1; 10]], vec![0]),
        (vec![], vec![]),
    ] {
        let mut ears = SessionEars::new(48_000.0, vec![true; channels.len()]);
        let pieces: Vec<&[f32]> = channels.iter().map(Vec::as_slice).collect();
        ears.push(&pieces);
        let events = ears.finish();
        let given = give(&events, &drums, None);
        assert!(given.hits.is_empty(), "{given:?}");
        assert!(windows(&events, &given, &drums, 2.0).is_empty());
    }
    assert_eq!(heard(&[], 0.0), DrumHeard::default());
}
