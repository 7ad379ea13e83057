//! The decay profile: the few figures that say how a drum sounds in a state. The names are used everywhere.

use super::partials::Partial;
use crate::units::{amplitude, decay_rate};
use serde::{Deserialize, Serialize};

/// What a strike, a take or a prediction comes down to. `None`: the sound does not tell.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DecayProfile {
    /// Pitch of the body (fundamental), Hz.
    pub body_hz: Option<f64>,
    /// Time the body takes to fall 60 dB, s.
    pub body_t60_s: Option<f64>,
    /// Pitch of the ring: the overtone with most energy 80 to 400 ms after the strike, Hz.
    pub ring_hz: Option<f64>,
    /// Time the ring takes to fall 60 dB, s.
    pub ring_t60_s: Option<f64>,
    /// Energy of all overtones 80 to 400 ms after the strike against that of all partials, 0 to 1.
    pub ring_share: Option<f64>,
    /// Time for the whole sound to fall 20 dB from its loudest, s.
    pub fall_20_s: Option<f64>,
    /// Time for the whole sound to fall 40 dB from its loudest, s.
    pub fall_40_s: Option<f64>,
    /// Energy of the first 10 ms against that of 10 to 200 ms, dB.
    pub attack_index_db: Option<f64>,
    /// How far the body's pitch falls from about 50 ms after the strike until it has settled, cents.
    pub glide_cents: Option<f64>,
    /// Energy above 2 kHz (wires, loose hardware) 50 to 400 ms after the strike against all energy then, 0 to 1.
    pub buzz_share: Option<f64>,
    /// Time for the sound above 2 kHz to fall 20 dB, from 20 ms after the strike, s: how long the wires buzz on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub buzz_s: Option<f64>,
}

/// Start and end of the stretch in which the ring is judged, s after the strike.
pub const RING_FROM_S: f64 = 0.08;
pub const RING_TO_S: f64 = 0.40;
/// A body is the lowest partial not quieter than this against the loudest, and without less energy than this against the one that has
/// most, dB: the thump of a hit may pass for a short, quiet tone far below the drum.
const BODY_WITHIN_DB: f64 = -26.0;
/// The ring begins this far above the body (ratio): nearer ones are the body's own split pair.
pub const RING_ABOVE_BODY: f64 = 1.15;

impl Partial {
    /// Energy (squared amplitude of the loudest partial times s) between two times after the strike.
    pub fn energy_between(&self, from: f64, to: f64) -> f64 {
        let Some(t60) = self.t60_s else { return 0.0 };
        let rate = 2.0 * decay_rate(t60);
        amplitude(self.level_db).powi(2) * ((-rate * from).exp() - (-rate * to).exp()) / rate
    }
}

/// Indices of body and ring among `partials` (low to high).
pub fn body_and_ring(partials: &[Partial]) -> (Option<usize>, Option<usize>) {
    let known = |i: &usize| partials[*i].t60_s.is_some();
    let energy = |i: usize| partials[i].energy_between(0.0, f64::INFINITY);
    let least = amplitude(BODY_WITHIN_DB).powi(2) * (0..partials.len()).map(energy).fold(0.0, f64::max);
    let body = (0..partials.len()).filter(known).find(|&i| partials[i].level_db >= BODY_WITHIN_DB && energy(i) >= least);
    let Some(body) = body else { return (None, None) };
    // A split pair is one body: its louder member stands for it.
    let top = RING_ABOVE_BODY * partials[body].hz;
    let late = |i: &usize| partials[*i].energy_between(RING_FROM_S, RING_TO_S);
    let by_late = |a: &usize, b: &usize| late(a).total_cmp(&late(b));
    let body = (body..partials.len()).filter(known).take_while(|i| partials[*i].hz < top).max_by(by_late).unwrap_or(body);
    let ring = (body + 1..partials.len()).filter(known).filter(|&i| partials[i].hz >= top).max_by(by_late);
    (Some(body), ring)
}

impl DecayProfile {
    /// The part of a profile that partials alone decide.
    pub fn of_partials(partials: &[Partial]) -> Self {
        let (body, ring) = body_and_ring(partials);
        let Some(body) = body.map(|i| &partials[i]) else { return Self::default() };
        let late = |p: &Partial| p.energy_between(RING_FROM_S, RING_TO_S);
        let all: f64 = partials.iter().map(late).sum();
        let over: f64 = partials.iter().filter(|p| p.hz >= RING_ABOVE_BODY * body.hz).map(late).sum();
        Self {
            body_hz: Some(body.hz),
            body_t60_s: body.t60_s,
            ring_hz: ring.map(|i| partials[i].hz),
            ring_t60_s: ring.and_then(|i| partials[i].t60_s),
            ring_share: (all > 0.0).then(|| over / all),
            ..Self::default()
        }
    }

    /// Name and value of every figure, in a fixed order.
    pub fn figures(&self) -> [(&'static str, Option<f64>); 11] {
        [
            ("body_hz", self.body_hz),
            ("body_t60_s", self.body_t60_s),
            ("ring_hz", self.ring_hz),
            ("ring_t60_s", self.ring_t60_s),
            ("ring_share", self.ring_share),
            ("fall_20_s", self.fall_20_s),
            ("fall_40_s", self.fall_40_s),
            ("attack_index_db", self.attack_index_db),
            ("glide_cents", self.glide_cents),
            ("buzz_share", self.buzz_share),
            ("buzz_s", self.buzz_s),
        ]
    }

    /// A profile whose every figure comes from `make`, called with the figure as a way to read it off another profile.
    pub fn from_figures(make: impl Fn(fn(&DecayProfile) -> Option<f64>) -> Option<f64>) -> Self {
        Self {
            body_hz: make(|p| p.body_hz),
            body_t60_s: make(|p| p.body_t60_s),
            ring_hz: make(|p| p.ring_hz),
            ring_t60_s: make(|p| p.ring_t60_s),
            ring_share: make(|p| p.ring_share),
            fall_20_s: make(|p| p.fall_20_s),
            fall_40_s: make(|p| p.fall_40_s),
            attack_index_db: make(|p| p.attack_index_db),
            glide_cents: make(|p| p.glide_cents),
            buzz_share: make(|p| p.buzz_share),
            buzz_s: make(|p| p.buzz_s),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn partial(hz: f64, t60_s: f64, level_db: f64) -> Partial {
        Partial { hz, t60_s: Some(t60_s), t60_sd_s: None, level_db, tone: None }
    }

    #[test]
    fn a_short_thump_below_the_drum_is_not_its_body() {
        let heard = |first: Partial| [first, partial(233.0, 0.42, 0.0), partial(318.0, 0.6, -12.0)];
        let body = |partials: &[Partial]| body_and_ring(partials).0;
        assert_eq!(body(&heard(partial(46.0, 0.077, -22.0))), Some(1));
        // A body that is muffled short is loud, and one that a hit at the edge leaves quiet is long.
        assert_eq!(body(&heard(partial(140.0, 0.077, -3.0))), Some(0));
        assert_eq!(body(&heard(partial(140.0, 0.6, -22.0))), Some(0));
    }
}
