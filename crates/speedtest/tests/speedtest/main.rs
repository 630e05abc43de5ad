//! The measuring client against the serving end, over real TCP, held to known rates.
//!
//! Time is tokio's own and stands still while anything can still run, so that a busy machine changes no figure. What is
//! on its way between two sockets cannot be seen to be under way: see [`steady_clock`].

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod ends;
mod limits;
mod misbehaving;
mod page;

use futures::future::BoxFuture;
use open_beacon_core::model::InterfaceKind;
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
    /// Slower from so many bytes down on, Mbit/s.
    slow_after: Option<(usize, f64)>,
    /// Time until it is as fast as it gets, from its first byte on.
    comes_up: Duration,
    passed: AtomicUsize,
    begun: Mutex<Option<Instant>>,
    free_at: [Mutex<Instant>; 2],
}

fn line(mbps: f64) -> Line {
    let free = || Mutex::new(Instant::now());
    Line {
        mbps,
        delay: Duration::from_millis(60),
        cut_up: false,
        cut_down_after: usize::MAX,
        slow_after: None,
        comes_up: Duration::ZERO,
        begun: Mutex::new(None),
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
            let down = if direction == Direction::Down { bytes } else { 0 };
            let passed = self.passed.fetch_add(down, Ordering::Relaxed);
            if direction == Direction::Down && passed > self.cut_down_after {
                return false;
            }
            let mbps = match self.slow_after {
                Some((from, mbps)) if direction == Direction::Down && passed > from => mbps,
                _ => self.mbps * self.share_of_speed().await,
            };
            let slot = {
                let mut free_at = self.free_at[usize::from(direction == Direction::Up)].lock().await;
                *free_at = (*free_at).max(Instant::now())
                    + Duration::from_secs_f64(bytes as f64 * 8.0 / (mbps * 1e6));
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

impl Line {
    async fn share_of_speed(&self) -> f64 {
        if self.comes_up.is_zero() {
            return 1.0;
        }
        let begun = *self.begun.lock().await.get_or_insert_with(Instant::now);
        let share = begun.elapsed().as_secs_f64() / self.comes_up.as_secs_f64();
        share.clamp(0.05, 1.0)
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
    tokio::spawn(async move { axum::serve(without_delay(listener), router(Arc::new(line))).await });
    Plan {
        download_url: format!("{base}/down"),
        upload_url: Some(format!("{base}/up")),
        latency_url: format!("{base}/ping"),
        probe_with_head: false,
        connections: 4,
        warm_up: Duration::from_millis(700),
        phase: Duration::from_millis(1500),
        most_mb: None,
        precise_to: None,
        page_part_url: None,
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

/// What happened 100 ms by 100 ms is kept with how round trips scattered.
#[tokio::test(start_paused = true)]
async fn the_course_of_a_test_is_kept() {
    let course = outcome(&plan(line(60.0)).await).await.course.unwrap();
    assert_eq!((course.step_ms, course.warm_up_ms, course.down_from), (100, 700, 7));
    assert!((20..=22).contains(&course.down_mbps.len()) && (20..=22).contains(&course.up_mbps.len()));
    let counted = &course.down_mbps[7..];
    let mean = counted.iter().sum::<f64>() / counted.len() as f64;
    assert!((mean / 60.0 - 1.0).abs() < 0.08, "{mean}");
    let idle = course.idle.unwrap();
    assert_eq!(idle.probes, 10);
    assert!(idle.median_ms <= idle.p95_ms && (idle.median_ms / 60.0 - 1.0).abs() < 0.1, "{idle:?}");
    assert!(idle.jitter_ms < 10.0, "every round trip of this line is as long: {idle:?}");
    assert!(course.while_down.is_some() && course.while_up.is_some());
}

/// Fast for 6 MB, then 8 Mbit/s: the figure is what goes on, and what was fast is in the course.
#[tokio::test(start_paused = true)]
async fn a_burst_is_not_taken_for_the_line() {
    let burst = Line { slow_after: Some((6_000_000, 8.0)), ..line(60.0) };
    let plan = Plan { phase: Duration::from_secs(5), upload_url: None, ..plan(burst).await };
    let found = outcome(&plan).await;
    assert!(within(found.figures.download_mbps, 8.0, 0.08), "{:?}", found.figures.download_mbps);
    let course = found.course.unwrap();
    let said = open_beacon_core::words::measuring::course(&course);
    assert!(said[0].starts_with("The download was fast for "), "{said:?}");
    let slow = open_beacon_core::stats::slowed_down(&course.down_mbps, 0.1).unwrap();
    assert!(within(Some(slow.fast_mbps), 60.0, 0.15) && within(Some(slow.slow_mbps), 8.0, 0.1), "{slow:?}");
    assert!(within(Some(slow.fast_mb), 6.0, 0.2), "{slow:?}");
}

/// Three seconds of coming up to speed are not the line either, whatever warm-up is set.
#[tokio::test(start_paused = true)]
async fn coming_up_to_speed_is_left_out() {
    let slow_start = Line { comes_up: Duration::from_secs(3), ..line(40.0) };
    let plan = Plan { phase: Duration::from_secs(8), upload_url: None, ..plan(slow_start).await };
    let found = outcome(&plan).await;
    let course = found.course.unwrap();
    assert!(within(found.figures.download_mbps, 40.0, 0.05), "{:?}", found.figures.download_mbps);
    assert!((24..=36).contains(&course.down_from), "from step {}", course.down_from);
    let said = open_beacon_core::words::measuring::course(&course);
    assert!(said[0].starts_with("The download came up to speed after "), "{said:?}");
}

/// What a test went over is kept with it; this program's own serving end sends what cannot be compressed.
#[tokio::test(start_paused = true)]
async fn what_it_went_over_is_told() {
    let found = outcome(&plan(line(60.0)).await).await.surroundings.unwrap();
    assert_eq!(found.server_address.as_deref(), Some("127.0.0.1"));
    assert_eq!((found.content_encoding, found.via), (None, None));
    assert!(found.packed_share.unwrap() > 0.98, "{:?}", found.packed_share);
    assert_eq!((found.other_down_mbps, found.other_up_mbps), (None, None), "it left no computer");
    if cfg!(target_os = "linux") {
        assert_eq!(found.interface.unwrap().kind, InterfaceKind::Loopback);
        assert!((0.0..=1.0).contains(&found.busiest_core.unwrap()));
    }
}

/// A server that sends zeros, codes them although plain data was asked for, and stands behind a proxy with a cache.
#[tokio::test(start_paused = true)]
async fn a_body_that_tests_nothing_is_seen() {
    use axum::http::HeaderMap;
    let asked = Arc::new(std::sync::Mutex::new(None));
    let seen = asked.clone();
    let down = move |headers: HeaderMap| async move {
        let accepts = headers.get("accept-encoding").and_then(|value| value.to_str().ok().map(str::to_owned));
        *seen.lock().unwrap() = accepts;
        // Without a pause nothing would ever be idle, and the paused clock would stand.
        tokio::time::sleep(Duration::from_millis(40)).await;
        ([("content-encoding", "gzip"), ("age", "12"), ("via", "1.1 attic-proxy")], vec![0_u8; 256 << 10])
    };
    let plan = plan(line(60.0)).await;
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let download_url = format!("http://{}/big", listener.local_addr().unwrap());
    let other = axum::Router::new().route("/big", axum::routing::get(down));
    tokio::spawn(async move { axum::serve(listener, other).await });
    let found = outcome(&Plan { download_url, upload_url: None, ..plan }).await.surroundings.unwrap();
    assert_eq!(asked.lock().unwrap().as_deref(), Some("identity"));
    assert_eq!(found.content_encoding.as_deref(), Some("gzip"));
    assert_eq!(found.via.as_deref(), Some("1.1 attic-proxy"));
    assert!(found.packed_share.unwrap() < 0.05, "{:?}", found.packed_share);
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
        most_mb: None,
        precise_to: None,
        page_part_url: None,
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
