//! Where a strike lies in a recording.

/// The part of a recording in which a strike lies.
#[derive(Debug, Clone, Copy)]
pub struct Span {
    /// Time of the hit, s.
    pub onset_s: f64,
    /// Time after the hit before which nothing is fitted, s.
    pub settle_s: f64,
    /// Time from the hit to the end, s.
    pub length_s: f64,
    /// Rate at which the sound's energy decays at first, 1/s.
    pub energy_rate: f64,
    /// Time after the hit until which the sound was cut off at a ceiling, s; 0 where it was not.
    pub clipped_s: f64,
}
