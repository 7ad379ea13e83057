//! How far off a wish a treatment is to first order, and how far at least whatever way its devices are turned.

use crate::damping::{FirstOrder, Touch};
use crate::decay::{RING_ABOVE_BODY, RING_FROM_S, RING_TO_S};
use crate::target::{Heard, Steps, Wanted};
use crate::units::{LN_1000, amplitude};
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
    power: f64,
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
            let reach = |louder_db: f64| {
                let above = start.level_db + louder_db - at_hz(&wanted.threshold_db, start.hz);
                (above / 60.0 * LN_1000).max(0.0)
            };
            Part {
                role: match () {
                    () if start.is_body => Role::Body,
                    () if start.hz >= RING_ABOVE_BODY * body_hz => Role::Overtone,
                    () => Role::Beside,
                },
                reach: reach(wanted.hardest_db),
                reach_softest: reach(wanted.softest_db),
                power: amplitude(start.level_db).powi(2),
            }
        };
        let mut bodies = starts.iter().filter(|start| start.is_body);
        let body_is_one = bodies.next().is_some_and(|body| body.tone.is_axial()) && bodies.next().is_none();
        Self { parts: starts.iter().map(part).collect(), body_is_one, model, wanted }
    }

    /// Steps off.
    pub fn misfit(&self, touch: &Touch, attack_lost_db: f64) -> f64 {
        let mut tally = Tally::default();
        let mut parts = self.parts.iter();
        self.model.sketch(touch, |sketch| parts.next().into_iter().for_each(|part| tally.count(part, sketch.decay)));
        tally.heard(Some(attack_lost_db), true).steps(self.wanted).into_iter().sum::<Steps>().get()
    }

    /// Steps off at least, however the devices in `touch` are turned about the drum's axis; not more than `enough` is looked for.
    pub fn least_misfit(&self, touch: &Touch, attack_lost_db: f64, enough: f64) -> f64 {
        let mut tally = Tally::default();
        let mut parts = self.parts.iter();
        self.model.most(touch, |decay| parts.next().into_iter().for_each(|part| tally.lengths(part, decay)));
        let steps = |tally: &Tally, share| tally.heard(Some(attack_lost_db), share).steps(self.wanted).into_iter().sum::<Steps>().get();
        if !self.body_is_one {
            // Turned otherwise it may last longer than that: then it is not known to be too short.
            tally.softest_s = None;
        }
        let lengths = steps(&tally, false);
        if lengths > enough {
            return lengths;
        }
        let mut parts = self.parts.iter();
        self.model.most(touch, |decay| parts.next().into_iter().for_each(|part| tally.energies(part, decay)));
        steps(&tally, true)
    }
}

#[derive(Default)]
struct Tally {
    body_s: Option<f64>,
    softest_s: Option<f64>,
    ring_s: Option<f64>,
    body: f64,
    over: f64,
}

impl Tally {
    fn count(&mut self, part: &Part, decay: f64) {
        self.lengths(part, decay);
        self.energies(part, decay);
    }

    fn lengths(&mut self, part: &Part, decay: f64) {
        match part.role {
            Role::Body => {
                self.body_s = Some(part.reach / decay);
                self.softest_s = Some(part.reach_softest / decay);
            }
            Role::Overtone => self.ring_s = Some(self.ring_s.unwrap_or(0.0).max(part.reach / decay)),
            Role::Beside => (),
        }
    }

    fn energies(&mut self, part: &Part, decay: f64) {
        let rate = 2.0 * decay;
        let energy = part.power * ((-rate * RING_FROM_S).exp() - (-rate * RING_TO_S).exp()) / rate;
        match part.role {
            Role::Body => self.body += energy,
            Role::Overtone => self.over += energy,
            Role::Beside => (),
        }
    }

    fn heard(&self, attack_lost_db: Option<f64>, with_share: bool) -> Heard {
        let all = self.body + self.over;
        Heard {
            body_s: self.body_s,
            body_softest_s: self.softest_s,
            ring_s: self.ring_s,
            ring_share: (with_share && all > 0.0).then(|| self.over / all),
            attack_lost_db,
        }
    }
}
