//! A short look at a speed-test address: does it answer, how long is its body, how fast is it, does it take uploads.

use crate::measure::measure;
use crate::plan::Plan;
use futures::StreamExt;
use open_beacon_core::judge::AddressProbe;
use std::time::Duration;
use tokio::time::Instant;
use tokio_util::sync::CancellationToken;

/// Each direction is measured this long after warm-up.
const PHASE: Duration = Duration::from_secs(2);
const WARM_UP: Duration = Duration::from_millis(700);
/// A body that goes on this long is long enough whatever the rate.
const LONG_BODY: Duration = Duration::from_secs(3);

/// Looks at an address for about eight seconds. What went wrong stands in the answer.
pub async fn probe_address(
    download_url: &str,
    upload_url: Option<&str>,
    connections: u8,
    cancel: &CancellationToken,
) -> AddressProbe {
    let mut found = AddressProbe { url: download_url.to_owned(), ..AddressProbe::default() };
    match body_length(download_url).await {
        Ok(length) => found.body_bytes = length,
        Err(problem) => {
            found.problem = Some(problem);
            return found;
        }
    }
    let plan = Plan {
        download_url: download_url.to_owned(),
        upload_url: upload_url.map(ToOwned::to_owned),
        latency_url: download_url.to_owned(),
        probe_with_head: true,
        connections,
        warm_up: WARM_UP,
        phase: PHASE,
        most_mb: None,
        precise_to: None,
        page_part_url: None,
    };
    let outcome = measure(&plan, cancel, |_| {}).await;
    found.download_mbps = outcome.figures.download_mbps;
    found.upload_mbps = outcome.figures.upload_mbps;
    found.latency_ms = outcome.figures.idle_latency_ms;
    found.upload_asked = upload_url.is_some();
    found.problem = outcome.problem;
    found
}

/// Bytes of the body where it ends soon; `None` where it goes on.
async fn body_length(url: &str) -> Result<Option<u64>, String> {
    let client = open_beacon_outbound::client(open_beacon_outbound::Redirects::SameHost)
        .connect_timeout(Duration::from_secs(5))
        .read_timeout(Duration::from_secs(5))
        .build()
        .map_err(|error| error.to_string())?;
    let answer = open_beacon_outbound::send(client.get(url))
        .await
        .map_err(|error| crate::transfer::not_sent(&error))?;
    if !answer.status().is_success() {
        return Err(format!("it answers “{}”", answer.status()));
    }
    let began = Instant::now();
    let mut bytes = 0;
    let mut body = answer.bytes_stream();
    while let Some(part) = body.next().await {
        bytes += part.map_err(|error| crate::transfer::plainly(&error))?.len() as u64;
        if began.elapsed() > LONG_BODY {
            return Ok(None);
        }
    }
    Ok(Some(bytes))
}
