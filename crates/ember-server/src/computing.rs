//! Computations that could take long: few at once, on processors of their own, and no longer than somebody waits for the answer. Measuring
//! and keeping strikes never waits behind them.

use crate::problem::Problem;
use axum::http::StatusCode;
use ember_core::Patience;
use ember_words::text;
use rayon::{ThreadPool, ThreadPoolBuilder};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};
use tokio::sync::Semaphore;

/// Computations at once; others wait for their turn.
const AT_ONCE: usize = 4;
/// After this a search gives the best it has found.
const SEARCHED_FOR: Duration = Duration::from_secs(15);
/// After this nobody is kept waiting any longer, neither for a turn nor for an answer.
const WAITED_FOR: Duration = Duration::from_secs(60);

/// Where computations are made.
pub struct Computing {
    /// `None` where the system gives no threads: then they are made on the shared ones.
    pool: Option<ThreadPool>,
    places: Arc<Semaphore>,
    /// Turns when the server stops: nothing is waited for any more.
    closed: Arc<AtomicBool>,
}

impl Default for Computing {
    fn default() -> Self {
        let pool = ThreadPoolBuilder::new().thread_name(|number| format!("planning {number}")).build();
        if let Err(error) = &pool {
            tracing::warn!("no threads for planning alone: {error}");
        }
        Self { pool: pool.ok(), places: Arc::new(Semaphore::new(AT_ONCE)), closed: Arc::default() }
    }
}

/// Says that the answer is no longer waited for as soon as it is dropped: with the request, when its connection is gone.
struct Waiting(Arc<AtomicBool>);

impl Drop for Waiting {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

impl Computing {
    /// What `work` answers. It is handed how long it may go on, and should give the best it has found when that is over.
    pub async fn run<T: Send + 'static>(self: &Arc<Self>, work: impl FnOnce(Patience) -> T + Send + 'static) -> Result<T, Problem> {
        let answer = async {
            let place = self.places.clone().acquire_owned().await.map_err(|_| Problem::internal())?;
            let gone = Arc::new(AtomicBool::new(false));
            let _waiting = Waiting(gone.clone());
            let (computing, until) = (self.clone(), Instant::now() + SEARCHED_FOR);
            let work = move || {
                // Given back when the work is done, and not when the asker has gone: so there are never more at once.
                let _place = place;
                let over = || gone.load(Ordering::Relaxed) || computing.closed.load(Ordering::Relaxed) || Instant::now() > until;
                let work = || work(Patience::until(&over));
                match &computing.pool {
                    Some(pool) => pool.install(work),
                    None => work(),
                }
            };
            blocking(work).await
        };
        tokio::time::timeout(WAITED_FOR, answer).await.unwrap_or_else(|_| {
            let detail =
                text!("Soft Ember is still busy working something else out. Try again in a minute; nothing that was kept is lost.");
            Err(Problem::new(StatusCode::SERVICE_UNAVAILABLE, detail))
        })
    }

    /// Ends every computation as soon as it looks up.
    pub fn close(&self) {
        self.closed.store(true, Ordering::Relaxed);
    }
}

/// Runs `work` on a thread that may block or compute.
pub async fn blocking<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
    tokio::task::spawn_blocking(work).await.map_err(|error| {
        tracing::error!("a computation failed: {error}");
        Problem::internal()
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn wait(patience: &Patience, most: Duration) -> Duration {
        let began = Instant::now();
        while !patience.is_over() && began.elapsed() < most {
            std::thread::sleep(Duration::from_millis(1));
        }
        began.elapsed()
    }

    #[tokio::test(flavor = "multi_thread")]
    async fn a_computation_ends_when_its_asker_has_gone_and_makes_room_for_the_next() {
        let computing = Arc::new(Computing::default());
        let (tell_began, began) = std::sync::mpsc::channel();
        let (tell_ended, ended) = std::sync::mpsc::channel();
        for _ in 0..AT_ONCE {
            let (computing, tell_began, tell_ended) = (computing.clone(), tell_began.clone(), tell_ended.clone());
            let asked = tokio::spawn(async move {
                let work = move |patience: Patience| {
                    tell_began.send(()).unwrap();
                    tell_ended.send(wait(&patience, Duration::from_secs(10))).unwrap();
                };
                computing.run(work).await
            });
            began.recv().unwrap();
            asked.abort();
        }
        assert_eq!(computing.run(|_| 7).await.unwrap(), 7, "the next one gets its turn");
        for _ in 0..AT_ONCE {
            assert!(ended.recv().unwrap() < Duration::from_secs(10));
        }
        computing.close();
        assert!(computing.run(|patience| patience.is_over()).await.unwrap());
    }

    #[tokio::test(flavor = "multi_thread")]
    async fn a_failed_computation_is_told_and_stops_no_other() {
        let computing = Arc::new(Computing::default());
        for _ in 0..2 * AT_ONCE {
            assert!(computing.run(|_| -> () { panic!("as if a rule were broken") }).await.is_err());
        }
        assert_eq!(computing.run(|_| 7).await.unwrap(), 7);
    }
}
