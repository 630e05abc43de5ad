//! Servers of others, with their habits: a figure stays true, or a reason is told.

use super::{line, outcome, plan, within};
use axum::Router;
use axum::body::{Body, Bytes};
use axum::http::StatusCode;
use axum::response::Redirect;
use axum::routing::{get, post};
use futures::StreamExt;
use open_beacon_speedtest::{Direction, Plan, Shape, router};
use std::sync::Arc;
use std::time::Duration;

const MBPS: f64 = 40.0;

/// Serves these routes, where the rest is this program's own end behind a line of 40 Mbit/s.
async fn serve(routes: impl FnOnce(Arc<super::Line>) -> Router) -> Plan {
    let own = plan(line(MBPS)).await;
    let shaped = Arc::new(line(MBPS));
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let base = format!("http://{}", listener.local_addr().unwrap());
    let all = routes(shaped.clone()).merge(router(shaped));
    tokio::spawn(async move { axum::serve(listener, all).await });
    Plan {
        download_url: format!("{base}/down"),
        upload_url: Some(format!("{base}/up")),
        latency_url: format!("{base}/ping"),
        ..own
    }
}

/// A file of 5 MB comes to its end again and again.
#[tokio::test(start_paused = true)]
async fn a_file_that_ends_is_asked_for_again() {
    let plan = serve(|_| Router::new()).await;
    let phase = Duration::from_secs(4);
    let plan = Plan {
        download_url: format!("{}?bytes=5000000", plan.download_url),
        upload_url: None,
        phase,
        ..plan
    };
    let found = outcome(&plan).await;
    assert_eq!(found.problem, None);
    assert!(within(found.figures.download_mbps, MBPS, 0.06), "{:?}", found.figures.download_mbps);
}

/// Bodies beyond 100 kB are told 413 (RFC 9110, 15.5.14): the client sends smaller ones, and the figure is the line's.
#[tokio::test(start_paused = true)]
async fn an_upload_that_is_too_large_is_made_smaller() {
    let take = |shape: Arc<super::Line>| {
        let sink = move |body: Body| async move {
            let mut body = body.into_data_stream();
            shape.delay().await;
            let mut bytes = 0;
            while let Some(Ok(part)) = body.next().await {
                let part: Bytes = part;
                bytes += part.len();
                if bytes > 100_000 {
                    return StatusCode::PAYLOAD_TOO_LARGE;
                }
                shape.admit(Direction::Up, part.len()).await;
            }
            StatusCode::NO_CONTENT
        };
        Router::new().route("/small", post(sink).layer(axum::extract::DefaultBodyLimit::disable()))
    };
    let plan = serve(take).await;
    let upload_url = plan.upload_url.as_ref().map(|url| url.replace("/up", "/small"));
    let found = outcome(&Plan { upload_url, connections: 8, ..plan }).await;
    assert_eq!(found.problem, None);
    // Each body waits for a round trip of 60 ms: eight connections of 64 kB reach the line all the same.
    assert!(within(found.figures.upload_mbps, MBPS, 0.15), "{:?}", found.figures.upload_mbps);
}

/// One that takes no upload at all is told as such, and the download stays.
#[tokio::test(start_paused = true)]
async fn an_upload_that_is_never_taken_has_a_reason() {
    let refuse = |_| {
        let never = || async {
            tokio::time::sleep(Duration::from_millis(20)).await;
            StatusCode::PAYLOAD_TOO_LARGE
        };
        Router::new().route("/never", post(never))
    };
    let plan = serve(refuse).await;
    let upload_url = plan.upload_url.as_ref().map(|url| url.replace("/up", "/never"));
    let found = outcome(&Plan { upload_url, ..plan }).await;
    assert!(found.problem.unwrap().contains("upload broke off"));
    assert_eq!(found.figures.upload_mbps, None);
    assert!(within(found.figures.download_mbps, MBPS, 0.06), "{:?}", found.figures.download_mbps);
}

/// A redirect within the host is followed; one to another place is told, and not followed.
#[tokio::test(start_paused = true)]
async fn redirects_stay_on_the_host() {
    let lead = |_| {
        Router::new()
            .route("/here", get(|| async { Redirect::temporary("/down") }))
            .route("/away", get(|| async { Redirect::temporary("http://192.0.2.1/down") }))
    };
    let plan = serve(lead).await;
    let at = |path: &str| plan.download_url.replace("/down", path);
    let here = outcome(&Plan { download_url: at("/here"), upload_url: None, ..plan.clone() }).await;
    assert_eq!(here.problem, None);
    assert!(within(here.figures.download_mbps, MBPS, 0.06), "{:?}", here.figures.download_mbps);
    let away = outcome(&Plan { download_url: at("/away"), upload_url: None, ..plan.clone() }).await;
    assert!(away.problem.as_ref().is_some_and(|why| why.contains("192.0.2.1")), "{:?}", away.problem);
    assert_eq!(away.figures.download_mbps, None);
}

/// One that answers with an error page moves no bytes that count.
#[tokio::test(start_paused = true)]
async fn an_error_page_is_no_download() {
    let busy = |_| {
        let page = || async {
            tokio::time::sleep(Duration::from_millis(20)).await;
            (StatusCode::TOO_MANY_REQUESTS, "x".repeat(100_000))
        };
        Router::new().route("/busy", get(page))
    };
    let plan = serve(busy).await;
    let download_url = plan.download_url.replace("/down", "/busy");
    let found = outcome(&Plan { download_url, upload_url: None, ..plan }).await;
    assert!(found.problem.unwrap().contains("429"));
    assert_eq!((found.figures.download_mbps, found.figures.bytes_down), (None, 0));
}
