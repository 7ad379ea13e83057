//! How far off a wish a treatment is to first order, and how far at least whatever way its devices are turned.

use crate::damping::{FirstOrder, Touch};
use crate::target::{Heard, Steps, Wanted};
use crate::tone::RING_ABOVE_BODY;
use crate::units::LN_1000;
use crate::venue::at_hz;

/// What a partial is to a wish.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Role {
    Body,
    Overtone,
    /// As low as the body, but not it.
    Beside,
}

/// One partial against one wish: heard for `reach` over its decay rate.
#[derive(Debug, Clone, Copy)]
struct Part {
    role: Role,
    reach: f64,
    reach_softest: f64,
}

/// One drum's partials against one wish. Where a partial is covered is looked up at the pitch that it has on the open drum.
pub struct Judge<'a> {
    model: &'a FirstOrder,
    wanted: &'a Wanted,
    parts: Vec<Part>,
    /// Whether the bound on the body's decay is its decay: it is one mode without a partner.
    body_is_one: bool,
}

impl<'a> Judge<'a> {
    pub fn new(model: &'a FirstOrder, wanted: &'a Wanted) -> Self {
        let starts = model.starts();
        let body_hz = starts.iter().find(|start| start.is_body).map_or(0.0, |start| start.hz);
        let part = |start: &crate::damping::Start| {
            let reach = |louder_db: f64, times: f64| {
                let above = start.level_db + louder_db - at_hz(&wanted.threshold_db, start.hz);
                (above / 60.0 * LN_1000 * times).max(0.0)
            };
            Part {
                role: match () {
                    () if start.is_body => Role::Body,
                    () if start.hz >= wanted.ring_above_body * body_hz => Role::Overtone,
                    () if start.hz >= RING_ABOVE_BODY * body_hz => Role::Body,
                    () => Role::Beside,
                },
                reach: reach(wanted.hardest_db, wanted.hardest_times),
                reach_softest: reach(wanted.softest_db, wanted.softest_times),
            }
        };
        let parts: Vec<Part> = starts.iter().map(part).collect();
        let mut bodies = starts.iter().zip(&parts).filter(|(_, part)| part.role == Role::Body);
        let body_is_one = bodies.next().is_some_and(|(body, _)| body.tone.is_axial()) && bodies.next().is_none();
        Self { parts, body_is_one, model, wanted }
    }

    /// Steps off.
    pub fn misfit(&self, touch: &Touch, attack_lost_db: f64) -> f64 {
        let mut tally = Tally::default();
        let mut parts = self.parts.iter();
        self.model.sketch(touch, |sketch| parts.next().into_iter().for_each(|part| tally.count(part, sketch.decay)));
        tally.steps(self.wanted, attack_lost_db, true)
    }

    /// Steps off at least, however the devices in `touch` are turned about the drum's axis.
    pub fn least_misfit(&self, touch: &Touch, attack_lost_db: f64) -> f64 {
        let mut tally = Tally::default();
        let mut parts = self.parts.iter();
        self.model.most(touch, |decay| parts.next().into_iter().for_each(|part| tally.count(part, decay)));
        tally.steps(self.wanted, attack_lost_db, self.body_is_one)
    }
}

/// What is heard of a sound, longest first.
#[derive(Default)]
struct Tally {
    body_s: Option<f64>,
    softest_s: Option<f64>,
    ring_s: Option<f64>,
}

impl Tally {
    fn count(&mut self, part: &Part, decay: f64) {
        let longest = |length: &mut Option<f64>, reach: f64| *length = Some(length.unwrap_or(0.0).max(reach / decay));
        match part.role {
            Role::Body => {
                longest(&mut self.body_s, part.reach);
                longest(&mut self.softest_s, part.reach_softest);
            }
            Role::Overtone => longest(&mut self.ring_s, part.reach),
            Role::Beside => (),
        }
    }

    /// Steps off. Where the body may last longer than was counted, it is not known to be too short, nor the ring to be too long beside it.
    fn steps(&self, wanted: &Wanted, attack_lost_db: f64, body_is_known: bool) -> f64 {
        let heard = Heard {
            body_s: self.body_s,
            body_softest_s: self.softest_s.filter(|_| body_is_known),
            beside_ring_s: self.body_s.filter(|_| body_is_known),
            ring_s: self.ring_s,
            attack_lost_db: Some(attack_lost_db),
        };
        heard.steps(wanted).into_iter().sum::<Steps>().get()
    }
}
