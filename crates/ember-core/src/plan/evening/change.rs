//! From one treatment to another: what comes off, what goes on, how long that takes.

use crate::damping::{Placement, device_info};
use crate::plan::weight::seconds_on;
use serde::{Deserialize, Serialize};

/// Taking something off takes this part of putting it on (from experience, no published source).
const OFF_PART: f64 = 0.5;

/// What is done to one drum between two songs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Change {
    pub take_off: Vec<Placement>,
    pub put_on: Vec<Placement>,
    pub seconds: f64,
}

impl Change {
    /// What has to be done from `before` to `after`; what is the same in both stays where it is.
    pub fn between(before: &[Placement], after: &[Placement]) -> Self {
        let take_off = without(before, after);
        let put_on = without(after, before);
        let seconds = OFF_PART * seconds_on(&take_off) + seconds_on(&put_on);
        Self { take_off, put_on, seconds }
    }

    pub fn is_none(&self) -> bool {
        self.take_off.is_empty() && self.put_on.is_empty()
    }
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

/// How many of each kind of device `placements` need, in the catalogue's order.
pub fn devices(placements: &[Placement]) -> Vec<u32> {
    crate::damping::DeviceKind::ALL.map(|kind| placements.iter().filter(|p| device_info(p.device).kind == kind).count() as u32).to_vec()
}

#[cfg(test)]
mod tests {
    use super::*;

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
        assert_eq!((moved.take_off.len(), moved.put_on.len(), moved.seconds), (1, 1, 15.0));
        assert_eq!(devices(&two)[0], 2);
    }
}
