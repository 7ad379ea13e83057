//! How hard the next strike is asked for: set by the session, followed by the simulated player.

use ember_core::decay::Dynamic;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

/// The dynamic asked for now, or none at all.
#[derive(Clone)]
pub struct Asked(Option<Arc<AtomicUsize>>);

impl Asked {
    /// `dynamics`: whether they are asked for, from the softest on.
    pub fn new(dynamics: bool) -> Self {
        Self(dynamics.then(|| Arc::new(AtomicUsize::new(0))))
    }

    /// How hard the next one is asked for; none where that is not asked.
    pub fn now(&self) -> Option<Dynamic> {
        self.0.as_ref().map(|index| Dynamic::ALL[index.load(Ordering::Relaxed)])
    }

    /// Asks for strikes as hard as `dynamic`.
    pub fn set(&self, dynamic: Dynamic) {
        if let (Some(index), Some(place)) = (&self.0, Dynamic::ALL.iter().position(|other| *other == dynamic)) {
            index.store(place, Ordering::Relaxed);
        }
    }
}
