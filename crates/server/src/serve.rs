//! Listening, and stopping cleanly.

use crate::assets;
use anyhow::Context;
use axum::Router;
use axum::extract::DefaultBodyLimit;
use axum::middleware::from_fn_with_state;
use axum::routing::get;
use open_beacon_api::{AppState, Guard, guard};
use open_beacon_store::Store;
use std::path::Path;
use tokio::net::TcpListener;
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, NotForContentType, Predicate};

/// Largest request where a route does not say otherwise.
const LARGEST_BODY: usize = 2 << 20;

pub(crate) async fn serve(data: &Path, port: u16) -> anyhow::Result<()> {
    let store = Store::open(data).with_context(|| format!("opening {}", data.display()))?;
    let state = AppState::new(store)?;
    let listener = listen(port).await?;
    let address = listener.local_addr()?;
    let app = application(state.clone(), Guard::loopback(address.port()));
    println!("Open Beacon is ready at http://{address}/");
    axum::serve(listener, app)
        .with_graceful_shutdown(async move {
            asked_to_stop().await;
            tracing::info!("stopping");
            // Open event streams would hold the server; what runs is written first, then they are let go.
            state.jobs.stop_all().await;
            tokio::spawn(async {
                tokio::time::sleep(std::time::Duration::from_secs(1)).await;
                std::process::exit(0);
            });
        })
        .await?;
    Ok(())
}

fn application(state: AppState, who: Guard) -> Router {
    let compressed = CompressionLayer::new()
        .compress_when(DefaultPredicate::new().and(NotForContentType::new("text/event-stream")));
    open_beacon_api::router(state)
        .fallback(get(assets::serve))
        .layer(DefaultBodyLimit::max(LARGEST_BODY))
        .layer(compressed)
        .layer(from_fn_with_state(who, guard::guard))
}

async fn listen(port: u16) -> anyhow::Result<TcpListener> {
    match TcpListener::bind(("127.0.0.1", port)).await {
        Ok(listener) => Ok(listener),
        Err(error) if error.kind() == std::io::ErrorKind::AddrInUse => {
            println!("Port {port} is in use; taking another.");
            TcpListener::bind(("127.0.0.1", 0)).await.context("no free port")
        }
        Err(error) => Err(error).with_context(|| format!("listening on port {port}")),
    }
}

async fn asked_to_stop() {
    let interrupted = tokio::signal::ctrl_c();
    #[cfg(unix)]
    {
        match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
            Ok(mut terminated) => tokio::select! {
                _ = interrupted => {}
                _ = terminated.recv() => {}
            },
            Err(_) => {
                let _ = interrupted.await;
            }
        }
    }
    #[cfg(not(unix))]
    {
        let _ = interrupted.await;
    }
}
