//! The serving end on a rented host: who may use it, and how much.

use open_beacon_speedtest::{Limits, limited};
use reqwest::{Client, StatusCode};

fn limits() -> Limits {
    Limits {
        token: Some("known-to-us-0123456789".into()),
        transfer_bytes: 1_000_000,
        at_once: 2,
        day_bytes: 3_000_000,
    }
}

async fn serve(limits: Limits) -> String {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let base = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, limited(&limits)).await });
    base
}

#[tokio::test]
async fn who_does_not_know_the_token_is_not_let_in() {
    let base = serve(limits()).await;
    let client = Client::new();
    let status = async |path: &str, bearer: Option<&str>| {
        let request = client.get(format!("{base}{path}"));
        bearer
            .map_or(request.try_clone().unwrap(), |token| request.bearer_auth(token))
            .send()
            .await
            .unwrap()
            .status()
    };
    for (path, bearer) in [
        ("/ping", None),
        ("/ping?token=", None),
        ("/ping?token=known-to-us-012345678", None),
        ("/ping?token=known-to-us-01234567890", None),
        ("/down?bytes=10", Some("another-0123456789")),
        // A wrong bearer is not helped by a right query.
        ("/ping?token=known-to-us-0123456789", Some("x")),
    ] {
        assert_eq!(status(path, bearer).await, StatusCode::UNAUTHORIZED, "{path} {bearer:?}");
    }
    assert_eq!(status("/ping?token=known-to-us-0123456789", None).await, StatusCode::OK);
    assert_eq!(status("/down?bytes=10&token=known-to-us-0123456789", None).await, StatusCode::OK);
    assert_eq!(status("/ping", Some("known-to-us-0123456789")).await, StatusCode::OK);
    let open = serve(Limits { token: None, ..limits() }).await;
    assert_eq!(client.get(format!("{open}/ping")).send().await.unwrap().status(), StatusCode::OK);
}

#[tokio::test]
async fn no_transfer_is_longer_than_allowed() {
    let base = serve(Limits { token: None, ..limits() }).await;
    let client = Client::new();
    let body = client.get(format!("{base}/down")).send().await.unwrap().bytes().await.unwrap();
    assert_eq!(body.len(), 1_000_000);
    let put = async |bytes: usize| client.post(format!("{base}/up")).body(vec![1; bytes]).send().await;
    assert_eq!(put(400_000).await.unwrap().status(), StatusCode::NO_CONTENT);
    // The connection may be closed before the refusal is read.
    assert!(put(1_200_000).await.map_or(true, |answer| answer.status() == StatusCode::PAYLOAD_TOO_LARGE));
}

#[tokio::test]
async fn the_data_of_a_day_come_to_an_end() {
    let base = serve(Limits { token: None, ..limits() }).await;
    let client = Client::new();
    let down = async || client.get(format!("{base}/down")).send().await?.bytes().await;
    for _ in 0..3 {
        assert_eq!(down().await.unwrap().len(), 1_000_000);
    }
    assert!(down().await.is_err(), "it broke off");
    let refused = client.post(format!("{base}/up")).body("x").send().await.unwrap();
    assert_eq!(refused.status(), StatusCode::SERVICE_UNAVAILABLE);
}

#[tokio::test]
async fn who_comes_while_too_many_test_is_told_to_come_later() {
    let base = serve(Limits { token: None, transfer_bytes: u64::MAX, day_bytes: u64::MAX, ..limits() }).await;
    let client = Client::new();
    // Bodies that are not read to their end keep their places.
    let one = client.get(format!("{base}/down")).send().await.unwrap();
    let two = client.get(format!("{base}/down")).send().await.unwrap();
    let third = client.get(format!("{base}/ping")).send().await.unwrap();
    assert_eq!(third.status(), StatusCode::SERVICE_UNAVAILABLE);
    assert_eq!(third.headers()["retry-after"], "10");
    drop((one, two));
    let mut tries = 0;
    while client.get(format!("{base}/ping")).send().await.unwrap().status() != StatusCode::OK {
        tries += 1;
        assert!(tries < 500, "places are never free again");
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
}
