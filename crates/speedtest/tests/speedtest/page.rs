//! How long a page of twenty small parts takes.

use super::{line, outcome, plan, within};
use axum::Router;
use axum::http::StatusCode;
use axum::routing::get;
use open_beacon_core::model::PageLoad;
use open_beacon_speedtest::Plan;
use std::sync::Arc;
use std::sync::atomic::{AtomicU32, Ordering};

fn with_page(plan: Plan, page_part_url: String) -> Plan {
    Plan { page_part_url: Some(page_part_url), upload_url: None, ..plan }
}

/// One answer after 60 ms, then four in turn on each of six connections: 300 ms, and the time that 420 kB take.
#[tokio::test(start_paused = true)]
async fn a_page_takes_its_round_trips() {
    let plan = plan(line(60.0)).await;
    let part = format!("{}?bytes=20000", plan.download_url);
    let page = outcome(&with_page(plan, part)).await.surroundings.unwrap().page.unwrap();
    assert_eq!((page.parts_came, page.name_ms), (PageLoad::PARTS, None), "{page:?}");
    assert!(within(page.all_ms, 356.0, 0.2), "{page:?}");
    assert!(within(Some(page.first_byte_ms), 60.0, 0.2), "{page:?}");
    assert!(page.connect_ms < 20.0, "{page:?}");
}

/// A name takes a moment to resolve, and its time is part of the whole.
#[tokio::test(start_paused = true)]
async fn a_name_is_resolved_once() {
    let plan = plan(line(60.0)).await;
    let part = format!("{}?bytes=20000", plan.download_url).replace("127.0.0.1", "localhost");
    let page = outcome(&with_page(plan, part)).await.surroundings.unwrap().page.unwrap();
    assert!(page.name_ms.is_some_and(|ms| ms <= page.first_byte_ms), "{page:?}");
    assert_eq!(page.parts_came, PageLoad::PARTS);
}

/// A server that refuses each fourth request: what did not come is told, and no time of the whole.
#[tokio::test(start_paused = true)]
async fn missing_parts_are_told() {
    let asked = Arc::new(AtomicU32::new(0));
    let answer = move || async move {
        match asked.fetch_add(1, Ordering::Relaxed) % 4 {
            3 => (StatusCode::SERVICE_UNAVAILABLE, String::new()),
            _ => (StatusCode::OK, "x".repeat(2000)),
        }
    };
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let part = format!("http://{}/part", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, Router::new().route("/part", get(answer))).await });
    let page = outcome(&with_page(plan(line(60.0)).await, part)).await.surroundings.unwrap().page.unwrap();
    assert_eq!((page.parts_came, page.all_ms), (15, None), "{page:?}");
}

/// Without an address for it, and where nothing answers, there is no page; the rest of the test is whole.
#[tokio::test(start_paused = true)]
async fn no_page_is_no_reason_to_stop() {
    let plan = plan(line(60.0)).await;
    let found = outcome(&with_page(plan.clone(), "http://127.0.0.1:9/part".into())).await;
    assert_eq!((found.problem, found.surroundings.unwrap().page), (None, None));
    let without = outcome(&Plan { upload_url: None, ..plan }).await;
    assert_eq!(without.surroundings.unwrap().page, None);
}
