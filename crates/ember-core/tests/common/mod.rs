//! What several tests of the core need: strikes on the simulated drum, measured.

use ember_core::bench_drum::{BenchDrum, SAMPLE_RATE};
use ember_core::decay::{HeardBy, Listener, Partial, StrikeMeasurement, TakeSummary, combine_partials, mark_ghosts, summarize};
use ember_core::drum::DrumKind;
use ember_core::plan::Sounding;
use ember_core::target::{Music, Situation, Wanted, built_in_preset};

/// A take as it would be kept.
#[allow(dead_code, reason = "not every test reads every part")]
pub struct Measured {
    pub strikes: Vec<StrikeMeasurement>,
    pub partials: Vec<Partial>,
    pub summary: TakeSummary,
}

/// What `genre` at `bpm` leaves room for on the usual drum of `kind`, nowhere in particular.
#[allow(dead_code, reason = "not every test asks")]
pub fn wanted(genre: &str, bpm: f64, kind: DrumKind) -> Wanted {
    let preset = built_in_preset(genre).expect("a built-in genre");
    Wanted::new(&Situation { preset, music: &Music::new(genre, bpm), venue: None }, &BenchDrum::usual(kind), None)
}

/// `strikes` hits.
#[allow(dead_code, reason = "not every test plays")]
pub fn played(drum: &BenchDrum, strikes: usize) -> Vec<f32> {
    drum.play(strikes, 7)
}

/// Sound (48 kHz) through the one way that all sound takes.
#[allow(dead_code, reason = "not every test measures drums")]
pub fn measured(sound: &[f32]) -> Measured {
    measured_by(sound, HeardBy::Partials)
}

/// The same by what is to be measured.
pub fn measured_by(sound: &[f32], heard_by: HeardBy) -> Measured {
    let mut listener = Listener::hearing(f64::from(SAMPLE_RATE), heard_by);
    let mut heard = listener.push(sound);
    heard.extend(listener.finish());
    let mut strikes: Vec<StrikeMeasurement> = heard.into_iter().map(|strike| strike.measurement).collect();
    mark_ghosts(&mut strikes);
    Measured { partials: combine_partials(&strikes), summary: summarize(&strikes), strikes }
}

#[allow(dead_code, reason = "not every test asks")]
impl Measured {
    pub fn sounding(&self) -> Sounding<'_> {
        Sounding { partials: &self.partials, profile: &self.summary.profile }
    }
}
