//! Connections: so many at once, none of which may dawdle, and an end within seconds. What answers on them is the router's matter.

use axum::Router;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::service::TowerToHyperService;
use std::sync::Arc;
use std::time::Duration;
use tokio::io::AsyncWriteExt;
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::Semaphore;
use tokio_util::sync::CancellationToken;
use tokio_util::task::TaskTracker;

/// Connections at once: a browser opens some six for each window.
const MOST_CONNECTIONS: usize = 128;
/// A request's head must have come within this time; an idle connection is closed after it too.
const HEAD_WITHIN: Duration = Duration::from_secs(20);
/// What answers under way get when the program is asked to stop.
const PATIENCE: Duration = Duration::from_secs(2);
/// After a failure to accept (too many open files, for one), so long nothing is tried.
const PAUSE: Duration = Duration::from_millis(100);
const BUSY: &[u8] = b"HTTP/1.1 503 Service Unavailable\r\nContent-Type: application/problem+json\r\nConnection: close\r\nRetry-After: 5\r\n\r\n\
    {\"type\":\"about:blank\",\"title\":\"Service Unavailable\",\"status\":503,\"detail\":\"Too many windows and programs talk to Soft Ember at once. Close some.\"}";

/// Answers on `listener` with `app` until `stop` comes to an end, then lets what is under way finish.
pub async fn serve(listener: TcpListener, app: Router, stop: impl Future<Output = ()>) {
    let places = Arc::new(Semaphore::new(MOST_CONNECTIONS));
    let (stopping, open) = (CancellationToken::new(), TaskTracker::new());
    let mut builder = http1::Builder::new();
    builder.timer(TokioTimer::new()).header_read_timeout(HEAD_WITHIN);
    tokio::pin!(stop);
    loop {
        let accepted = tokio::select! {
            () = &mut stop => break,
            accepted = listener.accept() => accepted,
        };
        let stream = match accepted {
            Ok((stream, _)) => stream,
            Err(error) => {
                tracing::warn!("a connection could not be accepted: {error}");
                tokio::time::sleep(PAUSE).await;
                continue;
            }
        };
        let Ok(place) = places.clone().try_acquire_owned() else {
            tokio::spawn(refuse(stream));
            continue;
        };
        let connection = builder.serve_connection(TokioIo::new(stream), TowerToHyperService::new(app.clone())).with_upgrades();
        let stopping = stopping.clone();
        open.spawn(async move {
            let _place = place;
            tokio::pin!(connection);
            let broke_off = tokio::select! {
                done = connection.as_mut() => done.is_err(),
                () = stopping.cancelled() => {
                    connection.as_mut().graceful_shutdown();
                    connection.await.is_err()
                }
            };
            if broke_off {
                tracing::debug!("a connection broke off");
            }
        });
    }
    drop(listener);
    stopping.cancel();
    open.close();
    if tokio::time::timeout(PATIENCE, open.wait()).await.is_err() {
        tracing::warn!("some answers were not waited for");
    }
}

async fn refuse(mut stream: TcpStream) {
    // Who does not listen is not told.
    let _ = tokio::time::timeout(Duration::from_secs(1), stream.write_all(BUSY)).await;
}
