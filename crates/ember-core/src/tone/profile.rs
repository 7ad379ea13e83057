//! The decay profile: the few figures that say how a drum sounds in a state. The names are used everywhere.

use super::heard_by::{HeardBy, RING_ABOVE_BODY, ring_over};
use super::partial::Partial;
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

impl DecayProfile {
    /// The part of a profile that partials alone decide, of a drum with two heads.
    pub fn of_partials(partials: &[Partial]) -> Self {
        Self::about(partials, HeardBy::Partials.body(partials))
    }

    /// The same where the partial at index `body` is the body.
    pub fn about(partials: &[Partial], body: Option<usize>) -> Self {
        let Some(at) = body else { return Self::default() };
        let (body, ring) = (&partials[at], ring_over(partials, at).map(|ring| &partials[ring]));
        let all: f64 = partials.iter().map(Partial::late_energy).sum();
        let over: f64 = partials.iter().filter(|p| p.hz >= RING_ABOVE_BODY * body.hz).map(Partial::late_energy).sum();
        Self {
            body_hz: Some(body.hz),
            body_t60_s: body.t60_s,
            ring_hz: ring.map(|ring| ring.hz),
            ring_t60_s: ring.and_then(|ring| ring.t60_s),
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
