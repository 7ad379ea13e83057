//! What all requests share.

use crate::computing::Computing;
use crate::evening::SetupCache;
use crate::learning::Learning;
use crate::listening::Ears;
use crate::problem::Problem;
use crate::readings::Readings;
use ember_core::Patience;
use ember_store::{Store, StoreError};
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{SystemTime, UNIX_EPOCH};
use tokio_util::task::TaskTracker;

/// Shared state; cheap to clone.
#[derive(Clone)]
pub struct AppState {
    store: Arc<Mutex<Store>>,
    pub ears: Arc<Ears>,
    /// Files that are being measured.
    pub readings: Arc<Readings>,
    /// Setups worked out for evenings.
    pub setups: Arc<SetupCache>,
    /// Where plans are worked out.
    pub computing: Arc<Computing>,
    /// What tests taught about the devices.
    pub learning: Arc<Learning>,
    /// Listening sessions under way, so that the server waits for them when it stops.
    pub sessions: TaskTracker,
    /// Whether the data was made as a demonstration.
    pub demo: bool,
}

impl AppState {
    /// Opens the data file at `path`, making its folder if needed.
    pub fn open(path: &Path) -> Result<Self, String> {
        if let Some(folder) = path.parent() {
            std::fs::create_dir_all(folder).map_err(|error| format!("The folder {} cannot be made: {error}.", folder.display()))?;
        }
        Store::open(path).map(Self::of).map_err(|error| format!("{}: {error}", path.display()))
    }

    /// Around an open store.
    pub fn of(store: Store) -> Self {
        Self {
            store: Arc::new(Mutex::new(store)),
            ears: Arc::default(),
            readings: Arc::default(),
            setups: Arc::default(),
            computing: Arc::default(),
            learning: Arc::default(),
            sessions: TaskTracker::new(),
            demo: false,
        }
    }

    /// Works with the store on the calling thread, which must be one that may block.
    pub fn with_store<T>(&self, work: impl FnOnce(&mut Store) -> T) -> T {
        // A panic elsewhere leaves the connection itself sound: its transaction was rolled back.
        work(&mut self.store.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Works with the store away from the threads that answer requests.
    pub async fn store<T: Send + 'static>(
        &self,
        work: impl FnOnce(&mut Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, Problem> {
        let state = self.clone();
        blocking(move || state.with_store(work)).await?.map_err(Problem::from)
    }

    /// Works something out that could take long; see [`Computing::run`].
    pub async fn compute<T: Send + 'static>(&self, work: impl FnOnce(Patience) -> T + Send + 'static) -> Result<T, Problem> {
        self.computing.run(work).await
    }
}

/// Runs `work` on a thread that may block or compute.
pub async fn blocking<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
    tokio::task::spawn_blocking(work).await.map_err(|error| {
        tracing::error!("a computation failed: {error}");
        Problem::internal()
    })
}

/// Milliseconds since 1970, UTC.
pub fn now_ms() -> i64 {
    SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |since| since.as_millis() as i64)
}
