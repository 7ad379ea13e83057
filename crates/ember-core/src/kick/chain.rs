//! The body of a drum, followed from the drum as it is to any other way of closing it: through all that lie between, so that it stays one tone and
//! is never mistaken for another that comes near it.
//!
//! The more is open, the shorter it lasts (common practice, no published source: DOMAIN's ports). Where the modes alone would let it last
//! longer again, with a film that is nearly all hole, the shortest so far counts.

use super::coupled::{AxialMode, Closed, Inner, alike, axial_modes, body_of};
use super::laid::Laid;
use super::ways::fronts;
use crate::drum::{Drum, Front, Port};

/// How like a motion before and one after must be to be the same (modal assurance criterion).
pub(super) const SAME_MOTION: f64 = 0.6;
/// How often the way between two openings is halved to follow the body over it.
const HALVINGS: usize = 5;

/// The drum closed in one way.
#[derive(Debug, Clone)]
pub(super) struct State {
    pub front: Front,
    /// Part of the front that is open.
    open: f64,
    pub modes: Vec<AxialMode>,
    /// Which of them is the body, whose decay is none less than with less open.
    pub body: usize,
}

impl State {
    /// `drum` as it is, with nothing laid in. `None` where nothing would be heard as its body.
    pub fn of(drum: &Drum, inner: &Inner, opening: f64) -> Option<Self> {
        let front = drum.front();
        let modes = axial_modes(&Closed::new(drum, &front), inner, opening);
        Some(Self { open: part(&front, drum), body: body_of(&modes)?, front, modes })
    }

    pub fn body(&self) -> &AxialMode {
        &self.modes[self.body]
    }
}

/// A drum whose inner figures are known, with what is laid in.
#[derive(Debug, Clone, Copy)]
pub(super) struct Known<'a> {
    pub drum: &'a Drum,
    pub inner: Inner,
    /// What openings take against what they are thought to.
    pub opening: f64,
    pub laid: Option<&'a Laid>,
}

impl Known<'_> {
    pub fn modes(&self, front: &Front) -> Vec<AxialMode> {
        axial_modes(&Closed::new(self.drum, front).with(self.laid), &self.inner, self.opening)
    }
}

/// The usual ways of closing a drum, in the order of how much is open, with the body in each.
#[derive(Debug, Clone)]
pub(super) struct Chain(Vec<State>);

impl Chain {
    /// From the drum as it is outwards; `body` is the body's motion in it with nothing laid in. `None` where it is lost.
    pub fn new(known: &Known, body: &AxialMode) -> Option<Self> {
        let drum = known.drum;
        let own = drum.front();
        let modes = known.modes(&own);
        let at = most_alike(&modes, body)?.0;
        let mut ways = fronts(drum);
        ways.retain(|front| *front != own);
        ways.sort_by(|a, b| part(a, drum).total_cmp(&part(b, drum)));
        let here = State { open: part(&own, drum), front: own, modes, body: at };
        let (less, more): (Vec<Front>, Vec<Front>) = ways.into_iter().partition(|front| part(front, drum) < here.open);
        let mut states = vec![here.clone()];
        for front in more {
            let before = states.last().unwrap_or(&here);
            states.push(bounded(follow(known, before, &front, HALVINGS)?, Some(before), None));
        }
        for front in less.into_iter().rev() {
            let after = states.first().unwrap_or(&here);
            states.insert(0, bounded(follow(known, after, &front, HALVINGS)?, None, Some(after)));
        }
        Some(Self(states))
    }

    /// The drum closed as `front` says.
    pub fn at(&self, known: &Known, front: &Front) -> Option<State> {
        if let Some(state) = self.0.iter().find(|state| state.front == *front) {
            return Some(state.clone());
        }
        let open = part(front, known.drum);
        let behind = self.0.partition_point(|state| state.open <= open);
        let (before, after) = (self.0.get(behind.wrapping_sub(1)), self.0.get(behind));
        let state = follow(known, before.or(after)?, front, HALVINGS)?;
        Some(bounded(state, before, after))
    }
}

/// Part of the front that is open; a mesh lets all air through.
fn part(front: &Front, drum: &Drum) -> f64 {
    front.open_part(drum.diameter_in)
}

/// `state` with a body that lasts no longer than with less open, `before`, and no less long than with more, `after`.
fn bounded(mut state: State, before: Option<&State>, after: Option<&State>) -> State {
    let (least, most) = (before.map_or(0.0, |state| state.body().decay), after.map_or(f64::INFINITY, |state| state.body().decay));
    let decay = &mut state.modes[state.body].decay;
    *decay = decay.min(most).max(least);
    state
}

/// The motion of `modes` that is most like `body`, and how like.
pub(super) fn most_alike(modes: &[AxialMode], body: &AxialMode) -> Option<(usize, f64)> {
    let likeness = modes.iter().map(|mode| alike(body, mode)).enumerate();
    likeness.max_by(|a, b| a.1.total_cmp(&b.1))
}

/// Closed as `to` says, with the body of `from` followed there, over what lies between where it changes much.
fn follow(known: &Known, from: &State, to: &Front, halvings: usize) -> Option<State> {
    let modes = known.modes(to);
    let (body, likeness) = most_alike(&modes, from.body())?;
    if likeness < SAME_MOTION
        && halvings > 0
        && let Some(middle) = between(&from.front, to, known.drum)
    {
        let middle = follow(known, from, &middle, halvings - 1)?;
        return follow(known, &middle, to, halvings - 1);
    }
    Some(State { open: part(to, known.drum), front: to.clone(), modes, body })
}

/// A way of closing the drum halfway between `a` and `b`; none where nothing lies there.
fn between(a: &Front, b: &Front, drum: &Drum) -> Option<Front> {
    let whole_head = |angle_deg: f64| Port { diameter_in: drum.diameter_in, radius: 0.0, angle_deg };
    let ends = |front: &Front, other: &Front| -> Vec<Port> {
        match front {
            Front::Ported { ports } => ports.clone(),
            Front::Whole => other.ports().iter().map(|port| Port { diameter_in: 0.0, ..*port }).collect(),
            Front::Mesh | Front::Off => other.ports().iter().take(1).map(|port| whole_head(port.angle_deg)).collect(),
        }
    };
    let (a, b) = (ends(a, b), ends(b, a));
    let half = |(a, b): (&Port, &Port)| Port {
        diameter_in: 0.5 * (a.diameter_in + b.diameter_in),
        radius: 0.5 * (a.radius + b.radius),
        angle_deg: 0.5 * (a.angle_deg + b.angle_deg),
    };
    (!a.is_empty() && a.len() == b.len()).then(|| Front::Ported { ports: a.iter().zip(&b).map(half).collect() })
}
