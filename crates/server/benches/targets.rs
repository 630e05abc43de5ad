//! Prints how the program stands against its targets. Run by `cargo xtask bench`; nothing fails here.

use open_beacon_core::model::{RunId, SampleId, SiteBundle, SpeedTestId};
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::StandIn;
use open_beacon_store::Store;
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use uuid::Uuid;

const PROGRAM: &str = env!("CARGO_BIN_EXE_open-beacon");

struct Running(Child, String);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn start(data: &Path) -> anyhow::Result<Running> {
    let mut child =
        Command::new(PROGRAM).arg("--data").arg(data).args(["--port", "0"]).stdout(Stdio::piped()).spawn()?;
    let mut line = String::new();
    if let Some(out) = child.stdout.take() {
        BufReader::new(out).read_line(&mut line)?;
    }
    let address = line.split_whitespace().last().unwrap_or_default().trim_end_matches('/').to_owned();
    Ok(Running(child, address))
}

fn row(what: &str, measured: f64, target: f64, unit: &str) {
    println!("{what:<52} {measured:>9.1} {unit:<6} target {target:>7.0}   {:>5.2} of it", measured / target);
}

fn median(mut values: Vec<f64>) -> f64 {
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

/// The demo site with its runs told again and again until there are about 100,000 samples.
fn large(status_url: &str) -> SiteBundle {
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    let mut bundle = demo_site(
        7,
        &Addresses { status_url: status_url.into(), speed_url: at("speed"), control_url: at("control") },
    );
    bundle.settings.stand_in_url = None;
    let demo = bundle.clone();
    let mut copy = 0_u128;
    while bundle.samples.len() < 100_000 {
        copy += 1;
        let again = |id: Uuid| Uuid::from_u128(id.as_u128().wrapping_add(copy << 64));
        let later = chrono::Duration::minutes(7 * copy as i64);
        bundle.runs.extend(demo.runs.iter().cloned().map(|mut run| {
            run.id = RunId(again(run.id.0));
            run.started_at += later;
            run
        }));
        bundle.samples.extend(demo.samples.iter().cloned().map(|mut sample| {
            sample.id = SampleId(again(sample.id.0));
            sample.run_id = RunId(again(sample.run_id.0));
            sample.taken_at += later;
            sample
        }));
        // Every other test: about 14,000 of them.
        bundle.speed_tests.extend(demo.speed_tests.iter().step_by(2).cloned().map(|mut test| {
            test.id = SpeedTestId(again(test.id.0));
            test.run_id = RunId(again(test.run_id.0));
            test.started_at += later;
            // Given by its time when it is brought in.
            test.sitting_id = None;
            test
        }));
    }
    bundle
}

#[cfg(target_os = "linux")]
fn resident_mb(pid: u32) -> Option<f64> {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status")).ok()?;
    let line = status.lines().find(|line| line.starts_with("VmRSS:"))?;
    line.split_whitespace().nth(1)?.parse::<f64>().ok().map(|kb| kb / 1024.0)
}

#[cfg(not(target_os = "linux"))]
fn resident_mb(_: u32) -> Option<f64> {
    None
}

async fn timed(client: &reqwest::Client, url: &str) -> anyhow::Result<f64> {
    let began = Instant::now();
    client.get(url).send().await?.error_for_status()?.bytes().await?;
    Ok(began.elapsed().as_secs_f64() * 1e3)
}

/// The 95th of a hundred answers, ms.
async fn nearly_all(client: &reqwest::Client, url: &str) -> anyhow::Result<f64> {
    let mut times = Vec::new();
    for _ in 0..20 {
        times.push(timed(client, url).await?);
    }
    times.sort_by(f64::total_cmp);
    Ok(times[18])
}

/// Pages of the record, its filters, and its exports.
async fn record(client: &reqwest::Client, running: &Running, site: &str) -> anyhow::Result<()> {
    let at = |path: &str| format!("{}/api/sites/{site}/{path}", running.1);
    row("time line, first page, 95th percentile", nearly_all(client, &at("timeline")).await?, 50.0, "ms");
    for filter in ["kind=event", "band=n78", "part=evening", "source=typed", "doubtful=true"] {
        let took = nearly_all(client, &at(&format!("timeline?{filter}"))).await?;
        row(&format!("time line, {filter}"), took, 150.0, "ms");
    }
    row("a figure over time", nearly_all(client, &at("over-time")).await?, 150.0, "ms");
    for export in ["export.zip", "parquet.zip", "report.html"] {
        row(export, timed(client, &at(export)).await?, 3000.0, "ms");
    }
    Ok(())
}

/// A site's export into a fresh program, a table of results, and what memory is held after it.
async fn imports(client: &reqwest::Client, running: &Running, site: &str) -> anyhow::Result<()> {
    let zip = client.get(format!("{}/api/sites/{site}/export.zip", running.1)).send().await?.bytes().await?;
    let empty = tempfile::tempdir()?;
    let fresh = start(empty.path())?;
    let began = Instant::now();
    let sent =
        client.post(format!("{}/api/import", fresh.1)).header("content-type", "application/zip").body(zip);
    sent.send().await?.error_for_status()?.bytes().await?;
    row("import of the zip", began.elapsed().as_secs_f64() * 1e3, 2000.0, "ms");
    tokio::time::sleep(Duration::from_secs(3)).await;
    if let Some(megabytes) = resident_mb(fresh.0.id()) {
        row("memory after it", megabytes, 80.0, "MB");
    }
    let view: serde_json::Value = serde_json::from_slice(
        &client.get(format!("{}/api/sites/{site}", running.1)).send().await?.bytes().await?,
    )?;
    let chosen = view["positions"][0]["setups"][0]["setup"]["id"].clone();
    let mut text = "time,band,rsrp,sinr,download,upload\n".to_owned();
    let begin = chrono::Utc::now() - chrono::Duration::days(300);
    for n in 0..20_000 {
        let at = (begin + chrono::Duration::minutes(20 * n)).to_rfc3339();
        text.push_str(&format!("{at},n78,-{},12,{}.5,{}.5\n", 80 + n % 20, 40 + n % 60, 5 + n % 9));
    }
    let body = serde_json::json!({"file_name": "bench.csv", "text": text, "chosen": chosen});
    let began = Instant::now();
    let url = format!("{}/api/sites/{site}/result-tables/import", running.1);
    let sent = client.post(url).header("content-type", "application/json").body(body.to_string());
    sent.send().await?.error_for_status()?.bytes().await?;
    // 100,000 rows in two seconds.
    row("a table of 20,000 rows, each a run", began.elapsed().as_secs_f64() * 1e3, 400.0, "ms");
    Ok(())
}

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await?;
    let status_url = format!("http://{}/status.json", listener.local_addr()?);
    let stand_in = StandIn::new(7, Duration::from_secs(2));
    tokio::spawn(async move { axum::serve(listener, gateway_router(stand_in)).await });

    let data = tempfile::tempdir()?;
    let bundle = large(&status_url);
    let (site, setup) = (bundle.site.id, bundle.setups[3].id);
    Store::open(data.path())?.import_bundle(&bundle)?;
    println!("a site with {} samples and {} speed tests", bundle.samples.len(), bundle.speed_tests.len());

    let client = reqwest::Client::new();
    let mut starts = Vec::new();
    for _ in 0..5 {
        let began = Instant::now();
        let running = start(data.path())?;
        timed(&client, &format!("{}/api/sites", running.1)).await?;
        starts.push(began.elapsed().as_secs_f64() * 1e3);
    }
    row("start to first answered request", median(starts), 100.0, "ms");

    let small = tempfile::tempdir()?;
    let idle = start(small.path())?;
    tokio::time::sleep(Duration::from_secs(2)).await;
    if let Some(megabytes) = resident_mb(idle.0.id()) {
        row("idle memory", megabytes, 40.0, "MB");
    }
    row("program", std::fs::metadata(PROGRAM)?.len() as f64 / 1e6, 30.0, "MB");

    let running = start(data.path())?;
    for (what, path) in [
        ("log of a setup", format!("/api/setups/{setup}/log")),
        ("the site's tree", format!("/api/sites/{site}")),
        ("the bands", format!("/api/sites/{site}/bands")),
    ] {
        let mut times = Vec::new();
        for _ in 0..9 {
            times.push(timed(&client, &format!("{}{path}", running.1)).await?);
        }
        row(what, median(times), 100.0, "ms");
    }
    // The first answer is worked out, the others are kept as long as nothing is written.
    for (what, path) in [
        ("comparison", format!("/api/sites/{site}/compare")),
        ("survey", format!("/api/sites/{site}/survey")),
    ] {
        let url = format!("{}{path}", running.1);
        row(&format!("{what}, worked out"), timed(&client, &url).await?, 150.0, "ms");
        let mut times = Vec::new();
        for _ in 0..9 {
            times.push(timed(&client, &url).await?);
        }
        row(&format!("{what}, nothing changed"), median(times), 150.0, "ms");
        let bytes = client.get(&url).send().await?.error_for_status()?.bytes().await?.len();
        row(&format!("{what}, size"), bytes as f64 / 1e3, 300.0, "kB");
    }
    record(&client, &running, &site.to_string()).await?;
    imports(&client, &running, &site.to_string()).await?;
    let mut stream = client.get(format!("{}/api/sites/{site}/events", running.1)).send().await?;
    let mut delays = Vec::new();
    while delays.len() < 5 {
        let Some(chunk) = stream.chunk().await? else { break };
        let text = String::from_utf8_lossy(&chunk).into_owned();
        // The moment the gateway's answer was taken stands in the event.
        let heard =
            text.split("\"heard_at\":\"").nth(1).and_then(|rest| rest.split('"').next()).map(str::to_owned);
        if let Some(Ok(at)) = heard.map(|at| at.parse::<chrono::DateTime<chrono::Utc>>()) {
            delays.push((chrono::Utc::now() - at).num_microseconds().unwrap_or_default() as f64 / 1e3);
        }
    }
    // A repeat carries the time of the reading it repeats; the shortest is a fresh one.
    row(
        "gateway's answer to the event at the page",
        delays.into_iter().fold(f64::INFINITY, f64::min),
        200.0,
        "ms",
    );
    Ok(())
}
