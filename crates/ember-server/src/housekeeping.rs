//! What is done by itself while the program runs: a copy a day, old sound let go where the user wants that, freed room given back, large
//! files checked, what was learned kept.

use crate::computing::blocking;
use crate::state::{AppState, now_ms};
use ember_store::{Store, StoreError};
use std::path::Path;
use std::sync::atomic::Ordering;
use std::time::Duration;

/// How soon after the start, and how often from then on.
const AT_FIRST: Duration = Duration::from_secs(20);
const EVERY: Duration = Duration::from_secs(3600);
/// Between two pieces of freed room that are given back: a listening window goes first.
const BETWEEN: Duration = Duration::from_millis(50);

/// Goes on until the program ends.
pub async fn keep_house(state: AppState, path: std::path::PathBuf) {
    tokio::time::sleep(AT_FIRST).await;
    let mut hours = 0u64;
    loop {
        let (here, at, check) = (state.clone(), path.clone(), hours.is_multiple_of(24));
        // What failed is tried again in an hour, and told on the storage page.
        let _ = blocking(move || once(&here, &at, check)).await;
        while state.store(Store::give_back).await.unwrap_or(false) {
            tokio::time::sleep(BETWEEN).await;
        }
        tokio::time::sleep(EVERY).await;
        hours += 1;
    }
}

/// One round; with `check` the whole file is looked through.
pub fn once(state: &AppState, path: &Path, check: bool) {
    let copied = Store::copy_daily(path);
    state.health.copy_failed.store(copied.is_err(), Ordering::Relaxed);
    if let Err(error) = copied {
        tracing::warn!("no copy of the data could be made: {error}");
    }
    let thinned = state.with_store(|store| -> Result<(), StoreError> {
        match store.thinning()? {
            Some(rule) if rule.daily => store.thin(rule, now_ms()).map(|_| ()),
            _ => Ok(()),
        }
    });
    if let Err(error) = thinned {
        tracing::warn!("old sound could not be let go: {error}");
    }
    if check {
        match Store::check_file(path) {
            Ok(sound) => state.health.damaged.store(!sound, Ordering::Relaxed),
            Err(error) => tracing::warn!("the data could not be checked: {error}"),
        }
    }
}
