//! Who is listening: one window at a time, for two would hear the same strikes twice.

use std::sync::{Mutex, PoisonError};
use tokio::sync::watch;

/// Why a session has to end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stop {
    /// It may go on.
    No,
    /// Another window listens instead.
    TakenOver,
    /// The server stops.
    Shutdown,
}

/// Hands out the right to listen.
#[derive(Default)]
pub struct Ears {
    current: Mutex<Option<(u64, watch::Sender<Stop>)>>,
    closed: Mutex<bool>,
}

/// The right to listen; given back when dropped.
pub struct Hold<'a> {
    ears: &'a Ears,
    number: u64,
    /// Turns when the session has to end.
    pub stop: watch::Receiver<Stop>,
}

impl Ears {
    /// The right to listen, or none while another window has it. `take_over` ends the other one.
    pub fn take(&self, take_over: bool) -> Option<Hold<'_>> {
        let mut current = lock(&self.current);
        if *lock(&self.closed) {
            return None;
        }
        if let Some((_, other)) = current.as_ref() {
            if !take_over {
                return None;
            }
            // A closed channel means that the other session has just ended by itself.
            let _ = other.send(Stop::TakenOver);
        }
        let number = current.as_ref().map_or(1, |(number, _)| number + 1);
        let (sender, stop) = watch::channel(Stop::No);
        *current = Some((number, sender));
        Some(Hold { ears: self, number, stop })
    }

    /// Ends whoever listens, and lets nobody listen from now on.
    pub fn close(&self) {
        *lock(&self.closed) = true;
        if let Some((_, sender)) = lock(&self.current).as_ref() {
            let _ = sender.send(Stop::Shutdown);
        }
    }
}

impl Drop for Hold<'_> {
    fn drop(&mut self) {
        let mut current = lock(&self.ears.current);
        if current.as_ref().is_some_and(|(number, _)| *number == self.number) {
            *current = None;
        }
    }
}

fn lock<T>(mutex: &Mutex<T>) -> std::sync::MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_listens_until_it_ends_or_is_taken_over() {
        let ears = Ears::default();
        let first = ears.take(false).unwrap();
        assert!(ears.take(false).is_none());
        let second = ears.take(true).unwrap();
        assert_eq!(*first.stop.borrow(), Stop::TakenOver);
        drop(first);
        assert!(ears.take(false).is_none(), "the first one's end must not free the second one's hold");
        drop(second);
        assert!(ears.take(false).is_some());
        ears.close();
        assert!(ears.take(true).is_none());
    }
}
