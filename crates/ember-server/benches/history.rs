//! How long views take with a long history against a short one, in one run: `cargo bench -p ember-server`. Server time only, as a request
//! through the whole router. With "EMBER_HISTORY=300000" there are so many strikes.

use axum::Router;
use axum::body::Body;
use axum::http::Request;
use ember_server::api::router;
use ember_server::command::make_demo;
use ember_server::state::AppState;
use http_body_util::BodyExt;
use rusqlite::Connection;
use std::path::Path;
use std::time::{Duration, Instant};
use tower::ServiceExt;

/// Strikes of a take, and of how many takes one was made with something on the drum.
const STRIKES_A_TAKE: usize = 15;
const TREATED: usize = 5;
/// Each is asked so often; the middle counts.
const TIMES: usize = 7;

/// Puts a history before what the demonstration has: takes, strikes and treatments like those that are there, of earlier days.
fn lengthen(path: &Path, strikes: usize) {
    let mut connection = Connection::open(path).unwrap();
    connection.pragma_update(None, "foreign_keys", false).unwrap();
    let transaction = connection.transaction().unwrap();
    let takes: Vec<(i64, i64, i64)> = {
        let mut statement = transaction
            .prepare("SELECT drum_id, min(id), max(coalesce(treatment_id, 0)) FROM take WHERE strikes_used > 0 GROUP BY drum_id")
            .unwrap();
        statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?))).unwrap().map(Result::unwrap).collect()
    };
    for number in 0..strikes / STRIKES_A_TAKE {
        let (drum, take, treatment) = takes[number % takes.len()];
        let seq = -(2 * (strikes / STRIKES_A_TAKE - number) as i64);
        let on: Option<i64> = (number % TREATED == 0 && treatment > 0).then(|| {
            transaction
                .execute(
                    "INSERT INTO treatment (drum_id, open_take_id, done_at, off_at, plan, seq, of_front, layout)
                     SELECT drum_id, open_take_id, done_at - 1000000, done_at, plan, ?2, of_front, layout FROM treatment WHERE id = ?1",
                    (treatment, seq),
                )
                .unwrap();
            transaction.last_insert_rowid()
        });
        transaction
            .execute(
                "INSERT INTO take (drum_id, treatment_id, source, begun_at, summary, partials, seq, strikes_used, sound_bytes)
                 SELECT ?1, ?2, source, begun_at - 1000000, summary, partials, ?3, strikes_used, 700 FROM take WHERE id = ?4",
                (drum, on, seq + 1, take),
            )
            .unwrap();
        let made = transaction.last_insert_rowid();
        transaction
            .execute(
                &format!(
                    "WITH RECURSIVE place(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM place WHERE n < {STRIKES_A_TAKE})
                     INSERT INTO strike (take_id, position, measurement, sound, onset_index)
                     SELECT ?1, n, (SELECT measurement FROM strike WHERE take_id = ?2 LIMIT 1), zeroblob(700), 0 FROM place"
                ),
                (made, take),
            )
            .unwrap();
    }
    transaction.commit().unwrap();
}

async fn asked(app: &Router, path: &str) -> (Duration, usize) {
    let request = Request::builder().uri(format!("/api/v1{path}")).header("host", "127.0.0.1:1").body(Body::empty()).unwrap();
    let began = Instant::now();
    let response = app.clone().oneshot(request).await.unwrap();
    let status = response.status();
    let bytes = response.into_body().collect().await.unwrap().to_bytes();
    assert!(status.is_success() || status == 409, "{path}: {status} {}", String::from_utf8_lossy(&bytes));
    (began.elapsed(), bytes.len())
}

/// Milliseconds for the first and the middle of some more, and the size of the answer.
async fn timed(app: &Router, path: &str) -> (f64, f64, usize) {
    let (first, size) = asked(app, path).await;
    let mut more = Vec::new();
    for _ in 0..TIMES {
        more.push(asked(app, path).await.0);
    }
    more.sort();
    (1e3 * first.as_secs_f64(), 1e3 * more[TIMES / 2].as_secs_f64(), size)
}

fn main() {
    // What cargo hands to benchmarks ("--bench") is of no matter here.
    let strikes = std::env::var("EMBER_HISTORY").ok().and_then(|count| count.parse().ok()).unwrap_or(30_000);
    let folder = tempfile::tempdir().unwrap();
    let (short, long) = (folder.path().join("short.sqlite"), folder.path().join("long.sqlite"));
    make_demo(&short, |_, _| {}).unwrap();
    // What the file's log holds is put into it before it is copied.
    Connection::open(&short).unwrap().query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(())).unwrap();
    std::fs::copy(&short, &long).unwrap();
    lengthen(&long, strikes);
    let runtime = tokio::runtime::Runtime::new().unwrap();
    runtime.block_on(async {
        let mut apps = Vec::new();
        for path in [&short, &long] {
            let began = Instant::now();
            let state = AppState::open(path, false).unwrap();
            println!("{}: opened in {:.0} ms", path.file_name().unwrap().display(), 1e3 * began.elapsed().as_secs_f64());
            apps.push(router(state));
        }
        let views = [
            "/kit",
            "/data",
            "/storage",
            "/shelf",
            "/learned",
            "/songs?limit=50",
            "/set-lists",
            "/kit/pitches?intervals=fourths&bass=",
            "/drums/2/bench",
            "/drums/3/bench",
            "/drums/3/takes",
            "/drums/3/treatments",
            "/drums/3/tuning?side=batter",
            "/drums/3/head?side=batter",
            "/drums/2/plans",
            "/drums/3/next-step",
            "/drums/3/audition",
            "/drums/4/front",
            "/drums/4/blows",
            "/set-lists/1/evening",
        ];
        println!("{:<42} {:>9} {:>9} | {:>9} {:>9} {:>6} {:>9}", "view, ms", "first", "then", "first", "then", "x", "bytes");
        for view in views {
            let (first, then, _) = timed(&apps[0], view).await;
            let (long_first, long_then, size) = timed(&apps[1], view).await;
            println!("{view:<42} {first:>9.1} {then:>9.1} | {long_first:>9.1} {long_then:>9.1} {:>6.2} {size:>9}", long_then / then);
        }
    });
}
