//! Prints how the roof stands against its targets: the number on the phone after the gateway answered, and memory over
//! eight hours of polling at 2 Hz. Run by `cargo xtask bench`; nothing fails here.

use axum::Router;
use axum::routing::get;
use open_beacon_api::AppState;
use open_beacon_core::model::{GatewayRecipe, GatewaySecrets, GatewaySettings};
use open_beacon_gateway::{Driver, LoginAttempts, Watcher};
use open_beacon_store::Store;
use serde_json::json;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// Looks in eight hours at 2 Hz.
const LOOKS: u64 = 8 * 3600 * 2;
const EVENTS: usize = 60;

type Answered = Arc<Mutex<Vec<(i64, Instant)>>>;

async fn serve(router: Router) -> anyhow::Result<String> {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await?;
    let address = format!("http://{}", listener.local_addr()?);
    tokio::spawn(axum::serve(listener, router).into_future());
    Ok(address)
}

/// A gateway that shows another number each time it is asked, and notes when it answered with which.
fn counting(answered: Answered) -> Router {
    let count = Arc::new(AtomicU64::new(0));
    Router::new().route(
        "/status.json",
        get(move || async move {
            let shown = -(60 + (count.fetch_add(1, Ordering::Relaxed) % 70) as i64);
            if let Ok(mut answered) = answered.lock() {
                answered.push((shown, Instant::now()));
                // Only the last is looked for.
                let extra = answered.len().saturating_sub(8);
                answered.drain(..extra);
            }
            json!({"radio": {"carriers": [{"technology": "lte", "rsrp": shown, "sinr": 10}]}}).to_string()
        }),
    )
}

fn settings(status_url: String) -> GatewaySettings {
    GatewaySettings {
        status_url,
        poll_interval_ms: 500,
        certificate_sha256: None,
        recipe: GatewayRecipe::default(),
    }
}

/// From the gateway's answer to the event in the hands of a client of the event stream, ms.
async fn latencies() -> anyhow::Result<Vec<f64>> {
    let answered = Answered::default();
    let gateway = serve(counting(answered.clone())).await?;
    let directory = tempfile::tempdir()?;
    let app = serve(open_beacon_api::router(AppState::new(Store::open(directory.path())?)?)).await?;
    let client = reqwest::Client::builder().no_proxy().build()?;
    let id = "0198f000-0000-7000-8000-000000000001";
    let site = json!({"id": id, "name": "Bench", "time_zone": "UTC"});
    client.post(format!("{app}/api/sites")).json(&site).send().await?.error_for_status()?;
    let gateway = settings(format!("{gateway}/status.json"));
    let body = json!({ "sections": {"gateway": {"seen": 0, "value": gateway}} });
    client.patch(format!("{app}/api/sites/{id}/settings")).json(&body).send().await?.error_for_status()?;
    let mut stream = client.get(format!("{app}/api/sites/{id}/events")).send().await?;
    let (mut heard, mut found) = (String::new(), Vec::new());
    while found.len() < EVENTS {
        let Some(chunk) = stream.chunk().await? else { break };
        let at = Instant::now();
        heard.push_str(&String::from_utf8_lossy(&chunk));
        while let Some(end) = heard.find("\n\n") {
            let event: String = heard.drain(..end + 2).collect();
            let shown =
                event.split("\"rsrp_dbm\":").nth(1).and_then(|rest| rest.split(['.', ',', '}']).next());
            let Some(shown) = shown.and_then(|text| text.parse::<i64>().ok()) else { continue };
            let when =
                answered.lock().ok().and_then(|all| all.iter().rev().find(|(one, _)| *one == shown).copied());
            found.extend(when.map(|(_, when)| at.duration_since(when).as_secs_f64() * 1e3));
        }
    }
    found.sort_by(f64::total_cmp);
    Ok(found)
}

/// Memory in use, MB (Linux only).
fn resident_mb() -> Option<f64> {
    let pages: f64 = std::fs::read_to_string("/proc/self/statm").ok()?.split(' ').nth(1)?.parse().ok()?;
    Some(pages * 4096.0 / 1e6)
}

async fn polling() -> anyhow::Result<()> {
    let gateway = serve(counting(Answered::default())).await?;
    let settings = settings(format!("{gateway}/status.json"));
    let mut watcher = Watcher::new(
        Driver::new(&settings, GatewaySecrets::default(), LoginAttempts::default())
            .map_err(|error| anyhow::anyhow!(error.to_string()))?,
    );
    let mut early = None;
    for look in 0..LOOKS {
        watcher.look().await;
        if look == LOOKS / 10 {
            early = resident_mb();
        }
    }
    if let (Some(early), Some(late)) = (early, resident_mb()) {
        println!("eight hours at 2 Hz, {LOOKS} looks: {early:.1} MB after a tenth, {late:.1} MB at the end");
    }
    Ok(())
}

fn main() -> anyhow::Result<()> {
    let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build()?;
    runtime.block_on(async {
        let found = tokio::time::timeout(Duration::from_secs(120), latencies()).await??;
        let at = |share: f64| found[((found.len() - 1) as f64 * share) as usize];
        println!(
            "number on the phone after the gateway answered: median {:.1} ms, slowest of {} {:.1} ms, target 200",
            at(0.5),
            found.len(),
            at(1.0)
        );
        polling().await
    })
}
