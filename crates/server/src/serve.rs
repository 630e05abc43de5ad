//! Listening, and stopping cleanly.

use crate::application::unguarded;
use crate::lan;
use crate::patience::{patient, with_body_timeout};
use crate::room::{MOST_LOCAL, Room};
use anyhow::Context;
use axum::Router;
use axum::middleware::from_fn_with_state;
use open_beacon_api::{AppState, Guard, guard};
use open_beacon_store::Store;
use std::path::Path;
use tokio::net::TcpListener;

/// How long open connections may take to end.
const PATIENCE_AT_THE_END: std::time::Duration = std::time::Duration::from_secs(3);

pub(crate) async fn serve(data: &Path, port: u16, open: Option<lan::Wanted>) -> anyhow::Result<()> {
    let store = Store::open(data).with_context(|| format!("opening {}", data.display()))?;
    if open_beacon_store::is_open_to_others(data) {
        tracing::warn!(
            "other users of this computer can open {0}; close it with: chmod 700 {0}",
            data.display()
        );
    }
    let state = AppState::new(store)?;
    let listener = listen(port).await?;
    let address = listener.local_addr()?;
    open_beacon_outbound::listens_on(address.port());
    let app = application(state.clone(), Guard::loopback(address.port()));
    open_beacon_api::locking::restore_all(&state).await.map_err(|problem| anyhow::anyhow!(problem.detail))?;
    open_beacon_api::rehearse::resume(&state).await.map_err(|problem| anyhow::anyhow!(problem.detail))?;
    tokio::spawn(open_beacon_api::repeats::watch(state.clone()));
    println!("Open Beacon is ready at http://{address}/");
    if let Some(wanted) = open {
        lan::open(data, wanted, &state).await.context("opening to the local network")?;
    }
    let stopping = state.stopping.clone();
    tokio::spawn(async move {
        asked_to_stop().await;
        tracing::info!("stopping");
        // What is running is written first; then open event streams are let go, which would hold the server.
        state.jobs.stop_all().await;
        state.rounds.stop_all().await;
        state.stopping.cancel();
    });
    let patience = async {
        stopping.cancelled().await;
        tokio::time::sleep(PATIENCE_AT_THE_END).await;
    };
    let handle = axum_server::Handle::new();
    let (closing, ending) = (handle.clone(), stopping.clone());
    tokio::spawn(async move {
        ending.cancelled().await;
        closing.graceful_shutdown(Some(PATIENCE_AT_THE_END));
    });
    let server = patient(
        axum_server::from_tcp(listener.into_std()?)?.acceptor(Room::new(MOST_LOCAL, true)).handle(handle),
    )
    .serve(app.into_make_service());
    tokio::select! {
        ended = server => ended?,
        () = patience => tracing::warn!("some connections did not end in time"),
    }
    Ok(())
}

fn application(state: AppState, who: Guard) -> Router {
    with_body_timeout(unguarded(state)).layer(from_fn_with_state(who, guard::guard))
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
