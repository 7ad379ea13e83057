//! Samples in, measured strikes out: the one way that a live microphone, a file and the simulated drum all take.

use super::strike::{StrikeAnalyzer, StrikeMeasurement};
use crate::signal::{CapturedStrike, StrikeFinder};
use crate::tone::HeardBy;

/// A strike with its sound.
#[derive(Debug, Clone)]
pub struct HeardStrike {
    /// Its sound.
    pub captured: CapturedStrike,
    /// What was measured of it.
    pub measurement: StrikeMeasurement,
}

/// Finds strikes as samples come and measures each as soon as it has ended.
pub struct Listener {
    finder: StrikeFinder,
    analyzer: StrikeAnalyzer,
}

impl Listener {
    /// For drums, in mono sound of `rate` samples a second.
    pub fn new(rate: f64) -> Self {
        Self::hearing(rate, HeardBy::Partials)
    }

    /// For what is heard by its tones or by octaves.
    pub fn hearing(rate: f64, heard_by: HeardBy) -> Self {
        Self { finder: StrikeFinder::new(rate, heard_by.limits()), analyzer: StrikeAnalyzer::hearing(rate, heard_by) }
    }

    /// Takes samples (full scale 1) and returns the strikes that ended within them.
    pub fn push(&mut self, samples: &[f32]) -> Vec<HeardStrike> {
        let ended = self.finder.push(samples);
        ended.into_iter().map(|captured| self.measured(captured)).collect()
    }

    /// Ends the sound; a strike still ringing is measured as far as it was heard.
    pub fn finish(self) -> Option<HeardStrike> {
        let Self { finder, analyzer } = self;
        finder.finish().map(|captured| HeardStrike { measurement: analyzer.measure(&captured), captured })
    }

    /// Level of the last 5 ms, dBFS.
    pub fn level_db(&self) -> f64 {
        self.finder.level_db()
    }

    /// Whether a strike is ringing now.
    pub fn is_ringing(&self) -> bool {
        self.finder.is_ringing()
    }

    fn measured(&self, captured: CapturedStrike) -> HeardStrike {
        HeardStrike { measurement: self.analyzer.measure(&captured), captured }
    }
}
