//! From one treatment to another: what comes off, what goes on, what moves to another place, how long that takes.

use crate::damping::{DeviceKind, Placement};
use crate::plan::weight::seconds_to_change;
use serde::{Deserialize, Serialize};

/// What is done to one drum between two songs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Change {
    /// What comes off.
    pub take_off: Vec<Placement>,
    /// What is put on.
    pub put_on: Vec<Placement>,
    /// What only goes to another place.
    pub moved: Vec<Move>,
    /// Time that it takes, s.
    pub seconds: f64,
}

/// A device that goes to another place on the same drum.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Move {
    /// Where it lies.
    pub from: Placement,
    /// Where it goes.
    pub to: Placement,
}

impl Change {
    /// What has to be done from `before` to `after`; what is the same in both stays where it is.
    pub fn between(before: &[Placement], after: &[Placement]) -> Self {
        let mut take_off = without(before, after);
        let mut put_on = without(after, before);
        // What moves comes off and goes on again.
        let seconds = seconds_to_change(&take_off, &put_on);
        let mut moved = Vec::new();
        take_off.retain(|from| {
            let to = put_on.iter().position(|to| moves(from, to));
            moved.extend(to.map(|to| Move { from: *from, to: put_on.remove(to) }));
            to.is_none()
        });
        Self { take_off, put_on, moved, seconds }
    }

    /// Whether nothing is done.
    pub fn is_none(&self) -> bool {
        self.take_off.is_empty() && self.put_on.is_empty() && self.moved.is_empty()
    }
}

/// Whether one thing goes from `from` to `to`: what is done to the rods goes nowhere.
fn moves(from: &Placement, to: &Placement) -> bool {
    !from.device.is_tuning() && from.is_same_thing(to)
}

/// A hand's width, m: nobody moves anything by less between two songs.
const HAND_M: f64 = 0.09;

/// Whether on a head of this `radius` (m) `a` is what `b` is, with nothing further from its place than a hand's width.
pub fn is_much_like(a: &[Placement], b: &[Placement], radius: f64) -> bool {
    let mut left = b.to_vec();
    let is_near = |one: &Placement, other: &Placement| one.is_same_thing(other) && one.apart_m(other, radius) < HAND_M;
    let all = a.iter().all(|one| left.iter().position(|other| is_near(one, other)).map(|at| left.remove(at)).is_some());
    all && left.is_empty()
}

/// `all` without one of each of `some`.
fn without(all: &[Placement], some: &[Placement]) -> Vec<Placement> {
    let mut left = all.to_vec();
    for placement in some {
        if let Some(at) = left.iter().position(|other| other == placement) {
            left.remove(at);
        }
    }
    left
}

/// How many of each kind of device `placements` need, in the catalogue's order; none of what is done to the rods, which every drum has.
pub fn devices(placements: &[Placement]) -> Vec<u32> {
    let needed = |kind: DeviceKind| if kind.is_tuning() { 0 } else { placements.iter().filter(|p| p.device == kind).count() as u32 };
    DeviceKind::ALL.map(needed).to_vec()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn placed(specs: &[&str]) -> Vec<Placement> {
        specs.iter().map(|spec| Placement::parse(spec).unwrap()).collect()
    }

    #[test]
    fn only_what_differs_is_touched() {
        let (pad, two) = (placed(&["gel_pad:0:0.85:135"]), placed(&["gel_pad:0:0.85:135", "gel_pad:0:0.85:225"]));
        let more = Change::between(&pad, &two);
        assert_eq!((more.take_off.len(), more.put_on.len(), more.seconds), (0, 1, 10.0));
        assert_eq!(Change::between(&two, &pad).seconds, 5.0);
        assert!(Change::between(&two, &two).is_none());
        // Another place is off and on again.
        let moved = Change::between(&pad, &placed(&["gel_pad:0:0.5:135"]));
        assert_eq!((moved.take_off.len(), moved.put_on.len(), moved.moved.len(), moved.seconds), (0, 0, 1, 15.0));
        assert_eq!((moved.moved[0].from, moved.moved[0].to.radius), (pad[0], 0.5));
        assert_eq!(devices(&two)[0], 2);
        assert_eq!(devices(&placed(&["slack_lugs", "tape", "rods_turned:1"])).iter().sum::<u32>(), 1, "nobody runs out of rods");
    }

    proptest! {
        #[test]
        fn there_and_back_touches_the_same_things_and_no_detour_is_quicker(
            a in some_placements(), b in some_placements(), c in some_placements(),
        ) {
            let (there, back) = (Change::between(&a, &b), Change::between(&b, &a));
            prop_assert_eq!((there.take_off.len(), there.put_on.len()), (back.put_on.len(), back.take_off.len()));
            prop_assert_eq!(there.moved.len(), back.moved.len());
            prop_assert_eq!(there.is_none(), there.seconds == 0.0);
            let detour = Change::between(&a, &c).seconds + Change::between(&c, &b).seconds;
            prop_assert!(there.seconds <= detour + 1e-9);
        }
    }

    #[test]
    fn a_place_within_a_hand_is_the_same_place() {
        let like = |a: &[&str], b: &[&str]| is_much_like(&placed(a), &placed(b), 0.178);
        assert!(like(&["gel_pad:0:0.85:135"], &["gel_pad:0:0.85:155"]) && like(&["gel_pad:0:0.85:135"], &["gel_pad:0:0.6:135"]));
        assert!(!like(&["gel_pad:0:0.85:135"], &["gel_pad:0:0.85:225"]) && !like(&["gel_pad:0:0.85:135"], &["tape:0:0.85:135"]));
        assert!(!like(&["gel_pad:0:0.85:135"], &["gel_pad:0:0.85:135", "gel_pad:0:0.85:225"]));
        assert!(like(&["control_ring:0"], &["control_ring:0"]) && !like(&["control_ring:0"], &["control_ring:1"]));
    }

    /// Up to three devices out of few, so that some of them are the same.
    fn some_placements() -> impl Strategy<Value = Vec<Placement>> {
        let one =
            prop::sample::select(vec!["gel_pad:0:0.85:135", "gel_pad:0:0.85:225", "tape:0:0.9:180", "tape:1:0.9:180", "control_ring:1"]);
        prop::collection::vec(one.prop_map(|spec| Placement::parse(spec).unwrap()), 0..4)
    }
}
