//! Speed tests without the web application: one from the command line, and the end that tests run against.

use anyhow::{Context, bail};
use open_beacon_core::model::{
    Completion, RunId, Source, SpeedTest, SpeedTestId, SpeedTestSettings, without_token,
};
use open_beacon_core::words::{self, Style};
use open_beacon_speedtest::{Limits, Outcome, Plan, limited, measure, without_delay};
use std::net::SocketAddr;
use std::path::PathBuf;
use tokio_util::sync::CancellationToken;

/// `open-beacon speedtest`.
#[derive(clap::Args)]
pub(crate) struct SpeedTestArguments {
    /// Where to download from; the address of an `open-beacon speed-server` alone is enough.
    address: String,
    /// Where to upload to; without it upload is not measured.
    #[arg(long)]
    upload: Option<String>,
    /// A short answer, for latency; without it the headers of the download are asked for.
    #[arg(long)]
    latency: Option<String>,
    /// Parallel connections, 1 to 16.
    #[arg(long, default_value_t = 4, value_parser = clap::value_parser!(u8).range(1..=16))]
    connections: u8,
    /// Measured in each direction after warm-up, seconds.
    #[arg(long, default_value_t = 10.0)]
    seconds: f64,
    /// Left out at the start of each direction, seconds.
    #[arg(long, default_value_t = 2.0)]
    warm_up: f64,
    /// End a direction once it has moved so much, MB.
    #[arg(long, value_parser = positive)]
    most_mb: Option<f64>,
    /// End a direction once its rate is known to within so many per cent.
    #[arg(long, value_parser = positive)]
    precise_to: Option<f64>,
    /// An address of some kilobytes, to load a page of twenty parts from.
    #[arg(long)]
    page_part: Option<String>,
    /// Print everything as JSON.
    #[arg(long)]
    json: bool,
}

/// `open-beacon speed-server`.
#[derive(clap::Args)]
pub(crate) struct SpeedServerArguments {
    /// Where to listen. Beyond this computer a token is needed.
    #[arg(long, default_value = "127.0.0.1:7430")]
    listen: SocketAddr,
    /// File that holds the token; tests then end in ?token=…
    #[arg(long)]
    token_file: Option<PathBuf>,
    /// Let anybody test, with no token.
    #[arg(long, conflicts_with = "token_file")]
    open: bool,
    /// Longest transfer, MB.
    #[arg(long, default_value_t = 4000)]
    transfer_mb: u64,
    /// Most requests at a time.
    #[arg(long, default_value_t = 24)]
    at_once: usize,
    /// Most data of 24 hours, GB.
    #[arg(long, default_value_t = 100)]
    day_gb: u64,
}

/// Addresses of a test; of an address that is a server's alone, those of the program's own serving end.
fn settings(arguments: SpeedTestArguments) -> anyhow::Result<SpeedTestSettings> {
    let address = arguments.address;
    let (_, rest) = address.split_once("://").context("The address begins with http:// or https://.")?;
    let (server, query) = address.split_once('?').unwrap_or((&address, ""));
    let bare = rest.split('?').next().unwrap_or_default().trim_end_matches('/');
    let mut settings = SpeedTestSettings {
        download_url: address.clone(),
        connections: arguments.connections,
        warm_up_s: arguments.warm_up,
        phase_s: arguments.seconds,
        upload_url: arguments.upload,
        latency_url: arguments.latency,
        most_mb: arguments.most_mb,
        precise_to: arguments.precise_to.map(|percent| percent / 100.0),
        page_part_url: arguments.page_part,
    };
    if bare.contains('/') {
        return Ok(settings);
    }
    let at = |path: &str| {
        let query = if query.is_empty() { String::new() } else { format!("?{query}") };
        format!("{}/{path}{query}", server.trim_end_matches('/'))
    };
    settings.download_url = at("down");
    settings.upload_url.get_or_insert_with(|| at("up"));
    settings.latency_url.get_or_insert_with(|| at("ping"));
    settings.page_part_url.get_or_insert_with(|| {
        let down = at("down");
        format!("{down}{}bytes=20000", if down.contains('?') { '&' } else { '?' })
    });
    Ok(settings)
}

fn positive(text: &str) -> Result<f64, String> {
    let value = text.parse::<f64>().ok().filter(|value| value.is_finite() && *value > 0.0);
    value.ok_or_else(|| "Enter a number above 0, 50 for instance.".into())
}

/// Runs one test and prints it.
pub(crate) async fn test(arguments: SpeedTestArguments) -> anyhow::Result<()> {
    let json = arguments.json;
    let settings = settings(arguments)?;
    let stop = CancellationToken::new();
    let cancel = stop.clone();
    tokio::spawn(async move {
        if tokio::signal::ctrl_c().await.is_ok() {
            cancel.cancel();
        }
    });
    let outcome = measure(&Plan::from(&settings), &stop, |_| {}).await;
    let problem = outcome.problem.clone();
    if json {
        println!("{}", serde_json::to_string_pretty(&told(&outcome))?);
    } else {
        print(&settings.download_url, outcome);
    }
    problem.map_or(Ok(()), |problem| bail!("The test is not whole. {problem}"))
}

fn told(outcome: &Outcome) -> serde_json::Value {
    serde_json::json!({
        "figures": outcome.figures, "surroundings": outcome.surroundings, "course": outcome.course,
        "problem": outcome.problem,
    })
}

fn print(server: &str, outcome: Outcome) {
    let figures = &outcome.figures;
    let lines = [
        ("Download", figures.download_mbps.map(words::rate)),
        ("Upload", figures.upload_mbps.map(words::rate)),
        ("Idle latency", figures.idle_latency_ms.map(words::milliseconds)),
        ("Latency while downloading", figures.download_latency_ms.map(words::milliseconds)),
        ("Latency while uploading", figures.upload_latency_ms.map(words::milliseconds)),
        ("Probes lost", figures.probe_loss.map(words::share)),
    ];
    for (name, value) in lines {
        println!("{name:26} {}", value.unwrap_or_else(|| "not measured".into()));
    }
    let course = outcome.course.iter().flat_map(words::measuring::course);
    let test = SpeedTest {
        id: SpeedTestId(uuid::Uuid::nil()),
        run_id: RunId(uuid::Uuid::nil()),
        sitting_id: None,
        started_at: chrono::Utc::now(),
        source: Source::Live,
        completion: Completion::Complete,
        reason: None,
        server: without_token(server),
        surroundings: outcome.surroundings.clone(),
        figures: outcome.figures.clone(),
    };
    let tests = [test];
    let doubts = open_beacon_core::judge::tests_doubted(&tests);
    let doubts = doubts.into_iter().map(|doubt| words::said(doubt, Style::default()).text);
    let about = words::fairness::tested_over(&tests).into_iter().chain(words::fairness::page_load(&tests));
    for sentence in about.chain(course).chain(doubts) {
        println!("{sentence}");
    }
}

/// Serves tests until it is stopped.
pub(crate) async fn serve(arguments: SpeedServerArguments) -> anyhow::Result<()> {
    let token = arguments.token_file.map(|file| {
        let text = std::fs::read_to_string(&file).with_context(|| format!("reading {}", file.display()))?;
        let token = text.trim().to_owned();
        let plain = token.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-_.~".contains(&byte));
        if token.len() < 16 || !plain {
            bail!("The token needs 16 letters, digits, or - _ . ~ at least; nothing else can stand in an address.");
        }
        Ok(token)
    });
    let token = token.transpose()?;
    if token.is_none() && !arguments.open && !arguments.listen.ip().is_loopback() {
        bail!("Others can reach {}: give a --token-file, or --open to let anybody test.", arguments.listen);
    }
    let limits = Limits {
        token,
        transfer_bytes: arguments.transfer_mb * 1_000_000,
        at_once: arguments.at_once.max(1),
        day_bytes: arguments.day_gb * 1_000_000_000,
    };
    let listener = tokio::net::TcpListener::bind(arguments.listen)
        .await
        .with_context(|| format!("listening on {}", arguments.listen))?;
    println!("Speed tests can be run against http://{}", listener.local_addr()?);
    tokio::select! {
        ended = axum::serve(without_delay(listener), limited(&limits)).into_future() => ended?,
        _ = tokio::signal::ctrl_c() => {}
    }
    Ok(())
}
