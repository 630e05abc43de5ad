//! Round trips over a connection of their own.

use crate::plan::Plan;
use open_beacon_core::model::LatencySpread;
use open_beacon_core::stats::{median, quantile};
use std::net::IpAddr;
use std::sync::OnceLock;
use std::time::Duration;
use tokio::time::Instant;
use tokio_util::sync::CancellationToken;

const PROBE_TIMEOUT: Duration = Duration::from_secs(2);
const PROBE_GAP: Duration = Duration::from_millis(100);

/// What probes brought.
#[derive(Clone, Debug, Default)]
pub(crate) struct Probed {
    pub(crate) round_trips_ms: Vec<f64>,
    sent: usize,
    pub(crate) problem: Option<String>,
}

impl Probed {
    pub(crate) fn add(&mut self, other: Probed) {
        self.round_trips_ms.extend(other.round_trips_ms);
        self.sent += other.sent;
    }

    /// How round trips scattered; none where fewer than two came back.
    pub(crate) fn spread(&self) -> Option<LatencySpread> {
        let all = &self.round_trips_ms;
        let steps: Vec<f64> = all.windows(2).map(|two| (two[1] - two[0]).abs()).collect();
        Some(LatencySpread {
            probes: all.len() as u32,
            median_ms: median(all)?,
            p95_ms: quantile(all, 0.95)?,
            jitter_ms: (!steps.is_empty()).then(|| steps.iter().sum::<f64>() / steps.len() as f64)?,
        })
    }

    /// Share of probes without an answer; `None` where none was sent.
    pub(crate) fn loss(&self) -> Option<f64> {
        (self.sent > 0).then(|| 1.0 - self.round_trips_ms.len() as f64 / self.sent as f64)
    }
}

/// Sends probes one after another on one kept connection, so that a round trip is not a connection set-up.
pub(crate) struct Prober {
    client: reqwest::Client,
    url: String,
    with_head: bool,
    /// Whom the first answer came from.
    peer: OnceLock<IpAddr>,
}

impl Prober {
    pub(crate) fn new(plan: &Plan) -> Result<Self, String> {
        let client = open_beacon_outbound::client(open_beacon_outbound::Redirects::SameHost)
            .timeout(PROBE_TIMEOUT)
            .pool_max_idle_per_host(1)
            .tcp_nodelay(true)
            .build()
            .map_err(|error| error.to_string())?;
        Ok(Self {
            client,
            url: plan.latency_url.clone(),
            with_head: plan.probe_with_head,
            peer: OnceLock::new(),
        })
    }

    /// Sets up the connection; answers why that did not go.
    pub(crate) async fn connect(&self) -> Option<String> {
        self.once().await.err()
    }

    /// The server's address, once it has answered.
    pub(crate) fn peer(&self) -> Option<IpAddr> {
        self.peer.get().copied()
    }

    /// A fixed number of probes.
    pub(crate) async fn times(&self, probes: u32, cancel: &CancellationToken, told: impl Fn(f64)) -> Probed {
        let mut probed = Probed::default();
        for done in 0..probes {
            if cancel.is_cancelled() || (done >= 3 && probed.round_trips_ms.is_empty()) {
                break;
            }
            self.count(&mut probed).await;
            told(f64::from(done + 1) / f64::from(probes));
            tokio::time::sleep(PROBE_GAP / 2).await;
        }
        probed
    }

    /// Probes from `from` to `until` after now, while something else loads the line.
    pub(crate) async fn during(&self, from: Duration, until: Duration, cancel: &CancellationToken) -> Probed {
        let began = Instant::now();
        let mut probed = Probed::default();
        while began.elapsed() < until && !cancel.is_cancelled() {
            if began.elapsed() >= from {
                self.count(&mut probed).await;
            }
            tokio::time::sleep(PROBE_GAP).await;
        }
        probed
    }

    async fn count(&self, probed: &mut Probed) {
        probed.sent += 1;
        match self.once().await {
            Ok(round_trip) => probed.round_trips_ms.push(round_trip.as_secs_f64() * 1e3),
            Err(problem) => probed.problem = Some(problem),
        }
    }

    async fn once(&self) -> Result<Duration, String> {
        let request = if self.with_head { self.client.head(&self.url) } else { self.client.get(&self.url) };
        let began = Instant::now();
        let response =
            open_beacon_outbound::send(request).await.map_err(|error| crate::transfer::not_sent(&error))?;
        let round_trip = began.elapsed();
        if let Some(address) = response.remote_addr() {
            let _ = self.peer.set(address.ip().to_canonical());
        }
        if !response.status().is_success() {
            return Err(format!("it answered with status {}", response.status().as_u16()));
        }
        // The short body is read to its end, so that the connection can be used again.
        response.bytes().await.map_err(|error| crate::transfer::plainly(&error))?;
        Ok(round_trip)
    }
}
