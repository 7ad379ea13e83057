//! Which hits of a session are measured, from where to where, and what they say of each drum.

use super::ears::{BANDS, Event};
use super::given::Given;
use crate::decay::{StrikeAnalyzer, StrikeMeasurement, Warning, summarize};
use crate::numeric::LogNormal;
use crate::signal::{CapturedStrike, Ending};
use crate::tone::{DecayProfile, Partial};
use crate::units::{decibels, median};
use std::f64::consts::{PI, SQRT_2};

/// Most hits of each drum that are measured: those that ring the longest by themselves.
pub const MOST_MEASURED: usize = 24;
/// A hit softer than this against the drum's usual is not measured, dB.
const MEASURED_FROM_DB: f64 = -12.0;
/// What another drum sends into the microphone ends a window unless it stays under the hit by this in each band below the stick's, dB.
const BLEED_UNDER_DB: f64 = 22.0;
/// A window is no longer than this, s.
const LONGEST_S: f64 = 4.0;
/// Shorter ones tell nothing, s.
const SHORTEST_S: f64 = 0.08;
/// A window that begins with another drum's hit too is worth so much less.
const WITH_OTHERS: f64 = 0.2;
/// Where the second longest window is this long, s, or shorter, what is shorter than this part of it is left out.
const LONG_S: f64 = 0.6;
const LONG_ENOUGH: f64 = 0.6;
/// Sound before the hit that is kept, s.
const LEAD_S: f64 = 0.12;

/// A piece of one microphone's sound in which one drum is heard by itself.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Window {
    /// Which drum.
    pub drum: usize,
    /// The hit, s.
    pub at_s: f64,
    /// Where the piece begins and ends, s.
    pub from_s: f64,
    /// The end.
    pub to_s: f64,
    /// How it ends.
    pub ending: Ending,
}

/// The windows worth measuring of each of `drums` (channels of their microphones), from the hits `given` among `events`.
pub fn windows(events: &[Event], given: &Given, drums: &[usize], length_s: f64) -> Vec<Window> {
    let mut all = Vec::new();
    let mut drums_in = vec![0usize; events.len()];
    given.hits.iter().for_each(|hit| drums_in[hit.event] += 1);
    for (drum, own) in drums.iter().enumerate() {
        let mut of_drum: Vec<(Window, f64)> = Vec::new();
        for hit in given.hits.iter().filter(|hit| hit.drum == drum && hit.level_db >= MEASURED_FROM_DB) {
            let with_others = drums_in[hit.event] > 1;
            let gained = &events[hit.event].gained[*own];
            let ends = events[hit.event + 1..]
                .iter()
                .take_while(|event| event.at_s < hit.at_s + LONGEST_S)
                .find(|event| disturbs(event, *own, gained));
            let (to_s, ending) = match ends {
                Some(event) => (event.at_s - 0.003, Ending::NextStrike),
                None if hit.at_s + LONGEST_S < length_s => (hit.at_s + LONGEST_S, Ending::Limit),
                None => (length_s, Ending::Interrupted),
            };
            let free_s = to_s - hit.at_s;
            if free_s >= SHORTEST_S {
                let window = Window { drum, at_s: hit.at_s, from_s: (hit.at_s - LEAD_S).max(0.0), to_s, ending };
                // One that began alone is worth far more: in the others another drum's tones may pass for its own.
                of_drum.push((window, if with_others { WITH_OTHERS * free_s } else { free_s }));
            }
        }
        of_drum.sort_by(|a, b| b.1.total_cmp(&a.1));
        let enough = of_drum.get(FEWEST - 1).map_or(0.0, |(_, worth)| worth.min(LONG_S) * LONG_ENOUGH);
        of_drum.retain(|(_, worth)| *worth >= enough);
        all.extend(of_drum.into_iter().take(MOST_MEASURED).map(|(window, _)| window));
    }
    all
}

/// Whether what a microphone gains in `event` is too much for what is left of a hit that gained `hit` to be followed any longer.
fn disturbs(event: &Event, own: usize, hit: &[f64; BANDS]) -> bool {
    let under = 10f64.powf(-BLEED_UNDER_DB / 10.0);
    let body = hit[0].max(hit[1]);
    (0..BANDS - 1).any(|band| event.gained[own][band] > under * hit[band].max(0.1 * body))
}

/// A tone that was louder than this before the hit, against what it is after, is another drum’s, dB: a tone that only rings on was some 4 dB louder, the
/// drum’s own of a hit before some 4 dB softer.
const RANG_BEFORE_DB: f64 = 0.0;
/// What the analyzer is given before the hit, s.
const BEFORE_S: f64 = 0.05;

impl Window {
    /// Measures the `samples` of this window at the analyzer's `rate`. Tones that rang before the hit are left out: they are another drum's. None where the
    /// sound ended before the hit.
    pub fn measured(&self, samples: &[f32], rate: f64, analyzer: &StrikeAnalyzer) -> Option<StrikeMeasurement> {
        let onset = ((self.at_s - self.from_s) * rate) as usize;
        let (before, _) = samples.split_at_checked(onset)?;
        let from = onset.saturating_sub((BEFORE_S * rate) as usize);
        let (samples, onset_index) = (samples[from..].to_vec(), onset - from);
        let strike = CapturedStrike { sample_rate: rate, onset_s: self.at_s, samples, onset_index, ending: self.ending };
        let mut measured = analyzer.measure(&strike);
        if let Some(loudest_dbfs) = measured.partial_dbfs {
            measured.partials.retain(|partial| level_dbfs(before, partial.hz, rate) < loudest_dbfs + partial.level_db + RANG_BEFORE_DB);
            let profile = DecayProfile::about(&measured.partials, measured.heard_by.body(&measured.partials));
            measured.profile = DecayProfile {
                body_hz: profile.body_hz,
                body_t60_s: profile.body_t60_s,
                ring_hz: profile.ring_hz,
                ring_t60_s: profile.ring_t60_s,
                ..measured.profile
            };
        }
        Some(measured)
    }
}

/// Level of the tone at `hz` in `samples`, dBFS (RMS), by one line of the Fourier transform under a Hann window (Harris, Proc. IEEE 66, 1978).
fn level_dbfs(samples: &[f32], hz: f64, rate: f64) -> f64 {
    let length = samples.len();
    let step = 2.0 * PI * hz / rate;
    let (mut re, mut im) = (0.0, 0.0);
    for (n, sample) in samples.iter().enumerate() {
        let x = f64::from(*sample) * (0.5 - 0.5 * (2.0 * PI * (n as f64 + 0.5) / length as f64).cos());
        re += x * (step * n as f64).cos();
        im -= x * (step * n as f64).sin();
    }
    // The window halves an amplitude, and the sum of a sine is half its amplitude for each sample.
    decibels(re.hypot(im) * 4.0 / length.max(1) as f64 / SQRT_2)
}

/// How long the second longest of a drum's `windows` is, s: two that agree are needed.
pub fn followed_s<'a>(windows: impl Iterator<Item = &'a Window>) -> f64 {
    let mut lengths: Vec<f64> = windows.map(|window| window.to_s - window.at_s).collect();
    lengths.sort_by(|a, b| b.total_cmp(a));
    lengths.get(FEWEST - 1).copied().unwrap_or(0.0)
}

/// What a session says of one drum.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct DrumHeard {
    /// Hits that were measured and tell something.
    pub measured: usize,
    /// Its body's pitch, Hz.
    pub body_hz: Option<f64>,
    /// How long its body lasts, s to fall by 60 dB.
    pub body_t60_s: Option<LogNormal>,
    /// Its ring's pitch, Hz.
    pub ring_hz: Option<f64>,
    /// How long its ring lasts.
    pub ring_t60_s: Option<LogNormal>,
}

/// A tone no further under a strike's loudest may be its body, dB.
const LOUD_DB: f64 = -12.0;
/// A length known to within this part of itself (standard deviation) is said.
const KNOWN: f64 = 0.1;
/// No single hit tells a length better than this part of it.
const SUREST: f64 = 0.02;
/// A normal variable's standard deviation against its median deviation from the median (any table of the normal distribution).
const NORMAL_BY_MEDIAN: f64 = 1.4826;
/// Hits that tell a length: fewer are chance.
const FEWEST: usize = 2;
/// A tone of a hit is the drum's within this part of its pitch.
const SAME_TONE: f64 = 0.03;

/// A length is believed up to so many times the window that it was followed in: it has then fallen by 15 dB.
const FOLLOWED: f64 = 4.0;

/// What the strikes of one drum say together, of which two or more were followed for `seen_s` ([`followed_s`]). A strike that the next one cut off still tells of the
/// tones that it let be followed. Where the length of the body stays open nothing is said: its pitch may then be an upper tone's, or another drum's.
pub fn heard(strikes: &[StrikeMeasurement], seen_s: f64) -> DrumHeard {
    // Those that rang out by themselves are believed before those that did not.
    let rang_out = strikes.iter().filter(|strike| strike.warnings.is_empty()).cloned();
    let cut_off = |strike: &&StrikeMeasurement| {
        strike.warnings.iter().all(|warning| matches!(warning, Warning::CutOff | Warning::TooNoisy | Warning::NoBody))
    };
    let mut used: Vec<StrikeMeasurement> = rang_out.collect();
    if used.len() < FEWEST {
        used = strikes.iter().filter(cut_off).map(|strike| StrikeMeasurement { warnings: Vec::new(), ..strike.clone() }).collect();
    }
    let summary = summarize(&used);
    let profile = settled(&used, &summary.profile);
    let length = |hz: Option<f64>| {
        let hz = hz?;
        let found: Vec<&Partial> = used.iter().filter_map(|strike| nearest(strike, hz)).collect();
        together(&found).filter(|known| known.median() < seen_s * FOLLOWED)
    };
    let Some(body_t60_s) = length(profile.body_hz) else { return DrumHeard { measured: used.len(), ..DrumHeard::default() } };
    DrumHeard {
        measured: used.len(),
        body_hz: profile.body_hz,
        body_t60_s: Some(body_t60_s),
        ring_hz: profile.ring_hz,
        ring_t60_s: length(profile.ring_hz),
    }
}

/// `profile`, unless a tone below its body is as loud in most of the `used` strikes: that one is the body, and how long it lasts was not to be followed. One
/// strike alone may speak of another drum.
fn settled(used: &[StrikeMeasurement], profile: &DecayProfile) -> DecayProfile {
    let Some(body_hz) = profile.body_hz.filter(|_| used.len() >= FEWEST) else { return DecayProfile::default() };
    let lowest = |strike: &StrikeMeasurement| strike.partials.iter().find(|partial| partial.level_db > LOUD_DB).map(|partial| partial.hz);
    let below = used.iter().filter_map(lowest).filter(|hz| *hz < body_hz * (1.0 - SAME_TONE)).count();
    if 2 * below >= used.len() { DecayProfile::default() } else { profile.clone() }
}

fn nearest(strike: &StrikeMeasurement, hz: f64) -> Option<&Partial> {
    let near = strike.partials.iter().filter(|partial| (partial.hz / hz - 1.0).abs() < SAME_TONE && partial.t60_s.is_some());
    near.max_by(|a, b| a.late_energy().total_cmp(&b.late_energy()))
}

/// One length out of several, each weighed by how sure it is; none where they leave it open.
fn together(found: &[&Partial]) -> Option<LogNormal> {
    let lengths: Vec<LogNormal> = found.iter().filter_map(|partial| length(partial)).collect();
    if lengths.len() < FEWEST {
        return None;
    }
    let weight: f64 = lengths.iter().map(|length| length.sd.powi(-2)).sum();
    let ln = lengths.iter().map(|length| length.ln * length.sd.powi(-2)).sum::<f64>() / weight;
    // What they claim, and how far they lie apart: whichever is more.
    let apart: Vec<f64> = lengths.iter().map(|length| (length.ln - ln).abs()).collect();
    let scatter = NORMAL_BY_MEDIAN * median(&apart)? / (lengths.len() as f64).sqrt();
    let sd = weight.powf(-0.5).max(scatter);
    (sd < KNOWN).then_some(LogNormal { ln, sd })
}

fn length(partial: &Partial) -> Option<LogNormal> {
    let (t60_s, sd_s) = (partial.t60_s?, partial.t60_sd_s?);
    Some(LogNormal { ln: t60_s.ln(), sd: (sd_s / t60_s).max(SUREST) })
}

#[cfg(test)]
mod tests {
    use super::super::given::{give, tests::made_up};
    use super::*;
    use proptest::prelude::*;
    use rand::{SeedableRng, rngs::StdRng};

    proptest! {
        /// A window lies within the session, begins with a hit of its drum and holds no other one of it; there are no more than are wanted.
        #[test]
        fn windows_hold_one_hit_of_their_drum(seed in any::<u64>(), drums in 2usize..6, times in 14usize..30) {
            let moments = times * drums;
            let made_up = made_up(drums, moments, &mut StdRng::seed_from_u64(seed));
            let length_s = 0.4 * moments as f64;
            let given = give(&made_up.events, &made_up.drums, None);
            let windows = windows(&made_up.events, &given, &made_up.drums, length_s);
            for window in &windows {
                prop_assert!(0.0 <= window.from_s && window.from_s <= window.at_s && window.to_s <= length_s, "{:?}", window);
                prop_assert!(window.to_s - window.at_s >= SHORTEST_S && window.to_s - window.at_s <= LONGEST_S + 1e-9, "{:?}", window);
                let hit_at = |at_s: f64| made_up.played[(at_s / 0.4).round() as usize].iter().any(|hit| hit.0 == window.drum);
                prop_assert!(hit_at(window.at_s), "{:?}", window);
                let later = made_up.events.iter().filter(|event| event.at_s > window.at_s + 0.1 && event.at_s < window.to_s);
                prop_assert!(later.map(|event| event.at_s).all(|at_s| !hit_at(at_s)), "{:?}", window);
            }
            for drum in 0..drums {
                prop_assert!(windows.iter().filter(|window| window.drum == drum).count() <= MOST_MEASURED);
            }
        }

        /// A sine of amplitude a has a level of 20 lg(a / sqrt 2) dBFS wherever it lies between the lines (Harris, Proc. IEEE 66, 1978), and what lies four
        /// lines off does not add to it: a Hann window's side lobes there are 40 dB down.
        #[test]
        fn a_tones_level_is_that_of_its_sine(
            level in -60f64..0.0, hz in 100f64..4000.0, phase in 0.0..2.0 * PI, apart in 4.5f64..20.0, length in 2400usize..12_000,
        ) {
            let rate = 48_000.0;
            let beside_hz = hz + apart * rate / length as f64;
            let sine = |hz: f64, n: usize| (2.0 * PI * hz * n as f64 / rate + phase).sin();
            let amplitude = 10f64.powf(level / 20.0);
            let samples: Vec<f32> = (0..length).map(|n| (amplitude * (sine(hz, n) + sine(beside_hz, n))) as f32).collect();
            let found = level_dbfs(&samples, hz, rate);
            prop_assert!((found - (level - 3.0103)).abs() < 0.2, "{found} for {level}");
        }
    }

    #[test]
    fn silence_has_no_level_and_a_hit_behind_the_end_no_measurement() {
        assert!(level_dbfs(&[], 200.0, 48_000.0) < -300.0 && level_dbfs(&[0.0; 480], 200.0, 48_000.0) < -300.0);
        let window = Window { drum: 0, at_s: 1.0, from_s: 0.9, to_s: 2.0, ending: Ending::Limit };
        let analyzer = StrikeAnalyzer::new(48_000.0);
        assert!(window.measured(&[0.0; 1000], 48_000.0, &analyzer).is_none());
    }
}
