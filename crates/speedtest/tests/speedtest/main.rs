//! The measuring client against the serving end, over real TCP, held to known rates.
//!
//! Time is tokio's own and stands still while anything can still run, so that a busy machine changes no figure. What is
//! on its way between two sockets cannot be seen to be under way: see [`steady_clock`].

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

use futures::future::BoxFuture;
use open_beacon_speedtest::*;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;
use tokio::sync::Mutex;
use tokio::time::Instant;
use tokio_util::sync::CancellationToken;

/// A line of fixed rates and a fixed round trip, which can be cut.
struct Line {
    mbps: f64,
    delay: Duration,
    cut_up: bool,
    /// Breaks everything off after this many bytes down.
    cut_down_after: usize,
    passed: AtomicUsize,
    free_at: [Mutex<Instant>; 2],
}

fn line(mbps: f64) -> Line {
    let free = || Mutex::new(Instant::now());
    Line {
        mbps,
        delay: Duration::from_millis(60),
        cut_up: false,
        cut_down_after: usize::MAX,
        passed: AtomicUsize::new(0),
        free_at: [free(), free()],
    }
}

impl Shape for Line {
    fn admit(&self, direction: Direction, bytes: usize) -> BoxFuture<'_, bool> {
        Box::pin(async move {
            if direction == Direction::Up && self.cut_up {
                return false;
            }
            if direction == Direction::Down
                && self.passed.fetch_add(bytes, Ordering::Relaxed) > self.cut_down_after
            {
                return false;
            }
            let slot = {
                let mut free_at = self.free_at[usize::from(direction == Direction::Up)].lock().await;
                *free_at = (*free_at).max(Instant::now())
                    + Duration::from_secs_f64(bytes as f64 * 8.0 / (self.mbps * 1e6));
                *free_at
            };
            tokio::time::sleep_until(slot).await;
            true
        })
    }

    fn delay(&self) -> BoxFuture<'_, ()> {
        Box::pin(tokio::time::sleep(self.delay))
    }
}

/// Lets the paused time go on by two milliseconds at a time only, and keeps the machine busy for a third of a real one before each
/// step: bytes that the system has not yet handed from one socket to the other would otherwise let it leap to the next timer.
fn steady_clock() {
    tokio::spawn(async {
        loop {
            let began = std::time::Instant::now();
            // While anything can run, the time stands; each turn looks at the sockets. To sleep here would cost a machine that
            // idles many times as long.
            while began.elapsed() < Duration::from_micros(300) {
                tokio::task::yield_now().await;
            }
            tokio::time::sleep(Duration::from_millis(2)).await;
        }
    });
}

async fn plan(line: Line) -> Plan {
    steady_clock();
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let base = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, router(Arc::new(line))).await });
    Plan {
        download_url: format!("{base}/down"),
        upload_url: Some(format!("{base}/up")),
        latency_url: format!("{base}/ping"),
        probe_with_head: false,
        connections: 4,
        warm_up: Duration::from_millis(700),
        phase: Duration::from_millis(1500),
    }
}

async fn outcome(plan: &Plan) -> Outcome {
    measure(plan, &CancellationToken::new(), |_| {}).await
}

fn within(value: Option<f64>, wanted: f64, share: f64) -> bool {
    value.is_some_and(|value| (value / wanted - 1.0).abs() < share)
}

#[tokio::test(start_paused = true)]
async fn known_rates_are_found() {
    for mbps in [8.0, 60.0] {
        let found = outcome(&plan(line(mbps)).await).await;
        let figures = &found.figures;
        assert_eq!(found.problem, None);
        assert!(within(figures.download_mbps, mbps, 0.05), "down {:?} against {mbps}", figures.download_mbps);
        // Requests still under way when the phase ends are spread evenly over their time: up to a tenth too much
        // on a slow line and in a phase this short.
        assert!(within(figures.upload_mbps, mbps, 0.1), "up {:?} against {mbps}", figures.upload_mbps);
        assert!(within(figures.idle_latency_ms, 60.0, 0.1), "{:?}", figures.idle_latency_ms);
        assert!(figures.download_latency_ms.is_some() && figures.upload_latency_ms.is_some());
        assert_eq!(figures.probe_loss, Some(0.0));
        assert!(figures.bytes_down > 1_000_000 && figures.bytes_up > 1_000_000);
    }
}

#[tokio::test(start_paused = true)]
async fn progress_is_told_in_order() {
    let steps = std::sync::Mutex::new(Vec::new());
    measure(&plan(line(20.0)).await, &CancellationToken::new(), |progress| {
        steps.lock().unwrap().push(progress)
    })
    .await;
    let steps = steps.into_inner().unwrap();
    let mut order: Vec<Step> = steps.iter().map(|progress| progress.step).collect();
    order.dedup();
    assert_eq!(order, [Step::IdleLatency, Step::Download, Step::Upload]);
    assert!(steps.len() > 20 && steps.iter().all(|progress| (0.0..=1.0).contains(&progress.share)));
}

#[tokio::test(start_paused = true)]
async fn a_refused_upload_keeps_the_download() {
    let found = outcome(&plan(Line { cut_up: true, ..line(20.0) }).await).await;
    assert!(within(found.figures.download_mbps, 20.0, 0.05));
    assert_eq!(found.figures.upload_mbps, None);
    assert!(found.problem.unwrap().contains("upload"));
}

#[tokio::test(start_paused = true)]
async fn a_line_that_dies_half_way_is_said() {
    // 20 Mbit/s for 1.6 s is 4 MB: inside the measured part of the download.
    let found = outcome(&plan(Line { cut_down_after: 4_000_000, ..line(20.0) }).await).await;
    assert!(found.problem.unwrap().contains("download"));
    assert!(found.figures.idle_latency_ms.is_some(), "what was measured is kept");
    assert!(found.figures.bytes_down >= 3_000_000);
    assert_eq!(found.figures.upload_mbps, None);
}

#[tokio::test(start_paused = true)]
async fn cancelling_stops_soon_and_keeps_what_was_measured() {
    let cancel = CancellationToken::new();
    let later = cancel.clone();
    tokio::spawn(async move {
        tokio::time::sleep(Duration::from_millis(1800)).await;
        later.cancel();
    });
    let began = Instant::now();
    let found = measure(&plan(line(20.0)).await, &cancel, |_| {}).await;
    assert!(began.elapsed() < Duration::from_secs(4));
    assert_eq!(found.problem.as_deref(), Some("It was cancelled."));
    assert!(found.figures.idle_latency_ms.is_some() && found.figures.upload_mbps.is_none());
}

#[tokio::test]
async fn an_address_that_does_not_answer_is_said_at_once() {
    let nowhere = |path: &str| format!("http://127.0.0.1:9/{path}");
    let plan = Plan {
        download_url: nowhere("down"),
        upload_url: None,
        latency_url: nowhere("ping"),
        probe_with_head: false,
        connections: 2,
        warm_up: Duration::ZERO,
        phase: Duration::from_secs(1),
    };
    let found = outcome(&plan).await;
    assert!(found.problem.unwrap().contains("does not answer"));
    assert_eq!(found.figures.probe_loss, Some(1.0));
}

#[tokio::test(start_paused = true)]
async fn without_an_upload_address_the_rest_is_whole() {
    let mut plan = plan(line(20.0)).await;
    plan.upload_url = None;
    let found = outcome(&plan).await;
    assert_eq!((found.problem, found.figures.upload_mbps), (None, None));
}

/// The serving end's own body goes on for long; a small file ends at once and its length is told.
#[tokio::test(start_paused = true)]
async fn an_address_is_looked_at_before_it_is_relied_on() {
    let good = plan(line(40.0)).await;
    let cancel = CancellationToken::new();
    let found = probe_address(&good.download_url, good.upload_url.as_deref(), 2, &cancel).await;
    assert_eq!((found.body_bytes, found.problem), (None, None));
    assert!(within(found.download_mbps, 40.0, 0.05), "{:?}", found.download_mbps);
    assert!(found.upload_asked && found.upload_mbps.is_some() && found.latency_ms.is_some());

    let small = format!("{}/file", serve_small_file().await);
    let found = probe_address(&small, None, 2, &cancel).await;
    assert_eq!(found.body_bytes, Some(100_000));
    assert!(!found.upload_asked);
    let missing = probe_address(&small.replace("/file", "/none"), None, 2, &cancel).await;
    assert!(missing.problem.unwrap().contains("404"));
}

#[tokio::test(start_paused = true)]
async fn an_address_that_takes_no_uploads_is_told_apart() {
    let plan = plan(Line { cut_up: true, ..line(40.0) }).await;
    let found =
        probe_address(&plan.download_url, plan.upload_url.as_deref(), 2, &CancellationToken::new()).await;
    assert!(found.upload_asked && found.upload_mbps.is_none() && found.download_mbps.is_some());
    assert!(found.problem.unwrap().contains("upload"));
}

async fn serve_small_file() -> String {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let base = format!("http://{}", listener.local_addr().unwrap());
    // Without a wait nothing would ever let the paused time go on.
    let file = axum::routing::get(|| async {
        tokio::time::sleep(Duration::from_millis(20)).await;
        vec![7_u8; 100_000]
    });
    tokio::spawn(async move { axum::serve(listener, axum::Router::new().route("/file", file)).await });
    base
}
