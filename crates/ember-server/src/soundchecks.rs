//! Soundchecks and sessions that were handed in. The newest few stay in temporary files as long as the program runs, so that their channels can be named and
//! looked at without sending them again; nothing of them is kept.

use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};
use tempfile::NamedTempFile;

/// So many stay; an older one goes when another comes.
const MOST: usize = 2;

/// One that was handed in.
pub struct Soundcheck {
    /// Its number.
    pub id: u64,
    /// What its file was called; none of the simulated one.
    pub name: Option<String>,
    /// What its channels are as far as it says so itself, in their order.
    pub names: Option<Vec<String>>,
    /// Its sound.
    pub file: NamedTempFile,
}

/// Those that are there.
#[derive(Default)]
pub struct Soundchecks(Mutex<(u64, VecDeque<Arc<Soundcheck>>)>);

impl Soundchecks {
    /// Takes one in.
    pub fn add(&self, name: Option<String>, names: Option<Vec<String>>, file: NamedTempFile) -> Arc<Soundcheck> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.0 += 1;
        let soundcheck = Arc::new(Soundcheck { id: kept.0, name, names, file });
        kept.1.push_back(soundcheck.clone());
        if kept.1.len() > MOST {
            kept.1.pop_front();
        }
        soundcheck
    }

    /// The one with that number, if it is there still.
    pub fn find(&self, id: u64) -> Option<Arc<Soundcheck>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).1.iter().find(|soundcheck| soundcheck.id == id).cloned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_newest_stay_and_older_files_go() {
        let soundchecks = Soundchecks::default();
        let files: Vec<_> = (0..3).map(|_| NamedTempFile::new().unwrap()).collect();
        let paths: Vec<_> = files.iter().map(|file| file.path().to_path_buf()).collect();
        let ids: Vec<u64> = files.into_iter().map(|file| soundchecks.add(None, None, file).id).collect();
        assert!(soundchecks.find(ids[0]).is_none() && soundchecks.find(ids[2]).is_some());
        assert!(!paths[0].exists() && paths[1].exists());
    }
}
