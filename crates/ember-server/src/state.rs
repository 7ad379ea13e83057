//! What all requests share.

use crate::computing::{Computing, blocking};
use crate::ears::Ears;
use crate::problem::Problem;
use crate::readings::Readings;
use crate::soundchecks::Soundchecks;
use ember_app::Refusal;
use ember_app::evening::SetupCache;
use ember_app::learning::Learning;
use ember_core::Patience;
use ember_store::{LEAST_FREE_BYTES, Store, StoreError};
use ember_words::{Words, text, words};
use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{SystemTime, UNIX_EPOCH};
use tempfile::NamedTempFile;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use tokio_util::task::TaskTracker;

/// Why the data cannot be opened.
#[derive(Debug, thiserror::Error)]
pub enum CannotOpen {
    /// Something is wrong with it.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// There is no place for it.
    #[error("The folder {} cannot be made: {error}.", .path.display())]
    Folder {
        /// Where it should be.
        path: PathBuf,
        /// What the system says.
        error: std::io::Error,
    },
}

/// Files that are taken in and measured at once.
const MOST_UPLOADS: usize = 3;

/// What housekeeping found.
#[derive(Default)]
pub struct Health {
    /// Whether the last copy failed.
    pub copy_failed: AtomicBool,
    /// Whether damage was found.
    pub damaged: AtomicBool,
}

/// Shared state; cheap to clone.
#[derive(Clone)]
pub struct AppState {
    store: Arc<Mutex<Store>>,
    /// Who listens.
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
    /// Where the data is; none in memory.
    pub path: Option<PathBuf>,
    /// What housekeeping found.
    pub health: Arc<Health>,
    /// Soundchecks and sessions that were handed in.
    pub soundchecks: Arc<Soundchecks>,
    uploads: Arc<Semaphore>,
}

impl AppState {
    /// Opens the data file at `path`, making its folder if needed; `read_only` changes nothing in it.
    pub fn open(path: &Path, read_only: bool) -> Result<Self, CannotOpen> {
        if let Some(folder) = path.parent().filter(|_| !read_only) {
            std::fs::create_dir_all(folder).map_err(|error| CannotOpen::Folder { path: folder.into(), error })?;
        }
        let store = if read_only { Store::open_read_only(path) } else { Store::open(path) }?;
        let state = Self { path: Some(path.to_path_buf()), ..Self::of(store) };
        if let Some(folder) = state.uploads_folder().filter(|folder| folder.exists()) {
            // What a killed program was reading is of no use any more.
            let _ = std::fs::remove_dir_all(folder);
        }
        Ok(state)
    }

    /// Where files lie while they are read: beside the data, not on a small disk for what is temporary.
    fn uploads_folder(&self) -> Option<PathBuf> {
        let mut name = self.path.as_ref()?.as_os_str().to_owned();
        name.push(".uploads");
        Some(name.into())
    }

    /// A file for an upload, removed when it is dropped.
    pub fn upload_file(&self) -> std::io::Result<NamedTempFile> {
        match self.uploads_folder() {
            Some(folder) => {
                std::fs::create_dir_all(&folder)?;
                NamedTempFile::new_in(folder)
            }
            None => NamedTempFile::new(),
        }
    }

    /// A place among the files that are measured at once.
    pub fn upload_place(&self) -> Result<OwnedSemaphorePermit, Problem> {
        self.uploads.clone().try_acquire_owned().map_err(|_| {
            let detail = text!("Several files are being measured already. Wait until one of them is done.");
            Problem::new(axum::http::StatusCode::SERVICE_UNAVAILABLE, detail)
        })
    }

    /// Why nothing new should be begun, a sentence; none where there is room on the disk.
    pub fn short_of_room(&self, store: &Store) -> Option<Words> {
        let free = store.disk_free_bytes().filter(|free| *free < LEAST_FREE_BYTES)?;
        let free = free / 1_000_000;
        Some(words!("Only {free} MB are left on the disk with the data. Make room on it, or let old sound go under Storage."))
    }

    /// Refuses to begin something whose outcome may not be kept.
    pub async fn ready_to_keep(&self) -> Result<(), Problem> {
        let state = self.clone();
        let refused =
            self.store(move |store| if store.is_read_only() { Err(StoreError::ReadOnly) } else { Ok(state.short_of_room(store)) }).await?;
        refused.map_or(Ok(()), |detail| Err(Problem::new(axum::http::StatusCode::INSUFFICIENT_STORAGE, detail)))
    }

    /// Around an open store.
    pub fn of(store: Store) -> Self {
        Self {
            ears: Arc::default(),
            readings: Arc::default(),
            setups: Arc::default(),
            computing: Arc::default(),
            learning: Arc::new(Learning::recalling(&store)),
            sessions: TaskTracker::new(),
            demo: false,
            path: None,
            health: Arc::default(),
            soundchecks: Arc::default(),
            uploads: Arc::new(Semaphore::new(MOST_UPLOADS)),
            store: Arc::new(Mutex::new(store)),
        }
    }

    /// Works with the store on the calling thread, which must be one that may block.
    pub fn with_store<T>(&self, work: impl FnOnce(&mut Store) -> T) -> T {
        // A panic elsewhere leaves the connection itself sound: its transaction was rolled back.
        work(&mut self.store.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Works with the store away from the threads that answer requests.
    pub async fn store<T: Send + 'static, E: Into<Problem> + Send + 'static>(
        &self,
        work: impl FnOnce(&mut Store) -> Result<T, E> + Send + 'static,
    ) -> Result<T, Problem> {
        let state = self.clone();
        blocking(move || state.with_store(work)).await?.map_err(E::into)
    }

    /// Reads something in one go, then works an answer out from it, with what tests taught, for no longer than somebody waits.
    pub async fn answer<S: Send + 'static, T: Send + 'static>(
        &self,
        read: impl FnOnce(&Store) -> Result<S, StoreError> + Send + 'static,
        work: impl FnOnce(&S, &Learning, Patience) -> Result<T, Refusal> + Send + 'static,
    ) -> Result<T, Problem> {
        let snapshot = self.store(|store| read(store)).await?;
        let learning = self.learning.clone();
        self.compute(move |patience| work(&snapshot, &learning, patience)).await?.map_err(Problem::from)
    }

    /// Works something out that could take long; see [`Computing::run`].
    pub async fn compute<T: Send + 'static>(&self, work: impl FnOnce(Patience) -> T + Send + 'static) -> Result<T, Problem> {
        let answer = self.computing.run(work).await;
        if let Some((key, content)) = self.learning.to_keep() {
            let state = self.clone();
            // Nobody waits for it: what cannot be kept is learned again after the next start.
            tokio::spawn(async move { state.store(move |store| store.keep_learned(&key, &content)).await });
        }
        answer
    }
}

/// Milliseconds since 1970, UTC.
pub fn now_ms() -> i64 {
    SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |since| since.as_millis() as i64)
}
