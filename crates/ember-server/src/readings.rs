//! Files that are being measured, under the words that their windows gave them.

use ember_app::sound::ReadProgress;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

/// A window's word is cut off after this many characters.
const LONGEST_WORD: usize = 64;

#[derive(Default)]
pub struct Readings(Mutex<HashMap<String, Arc<ReadProgress>>>);

/// A reading that is watched as long as this lives, and called off with it.
pub struct Watched {
    readings: Arc<Readings>,
    word: Option<String>,
    pub progress: Arc<ReadProgress>,
}

impl Readings {
    pub fn watch(self: &Arc<Self>, word: Option<String>) -> Watched {
        let word: Option<String> = word.map(|word| word.chars().take(LONGEST_WORD).collect());
        let progress = Arc::<ReadProgress>::default();
        if let Some(word) = &word {
            self.all().insert(word.clone(), progress.clone());
        }
        Watched { readings: self.clone(), word, progress }
    }

    pub fn find(&self, word: &str) -> Option<Arc<ReadProgress>> {
        self.all().get(word).cloned()
    }

    fn all(&self) -> std::sync::MutexGuard<'_, HashMap<String, Arc<ReadProgress>>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

impl Drop for Watched {
    fn drop(&mut self) {
        self.progress.call_off();
        if let Some(word) = &self.word {
            self.readings.all().remove(word);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_reading_is_found_while_it_lasts_and_called_off_with_its_window() {
        let readings = Arc::<Readings>::default();
        let watched = readings.watch(Some("a".into()));
        let progress = watched.progress.clone();
        progress.found(3);
        assert_eq!(readings.find("a").map(|found| found.strikes()), Some(3));
        assert!(readings.find("b").is_none());
        drop(watched);
        assert!(readings.find("a").is_none());
        let nothing = ember_app::sound::read_watched(std::path::Path::new("nowhere"), "", 1.0, &progress, |_, _| {});
        assert!(nothing.is_err());
    }
}
