//! Independent samples from a watched gateway, with a trickle of traffic so that idle carriers do not vanish.

use crate::link::LinkLease;
use crate::measurer::ASLEEP;
use open_beacon_core::model::{Activity, SiteSettings};
use open_beacon_gateway::{LinkStatus, Look};
use open_beacon_speedtest::{Plan, trickle};
use std::time::Duration;
use tokio::sync::broadcast::error::RecvError;
use tokio_util::sync::CancellationToken;

/// Longest wait for the trickle's first answer.
const TRICKLE_BEGINS: Duration = Duration::from_secs(3);
/// Longest wait for an independent sample, at least.
const PATIENCE: Duration = Duration::from_secs(20);
/// Longest wait, in refresh periods of the gateway.
const PATIENCE_PERIODS: f64 = 8.0;

/// Begins a trickle that ends with `quiet`, where the site has an address to trickle from.
pub(crate) async fn begin_trickle(settings: &SiteSettings, quiet: CancellationToken) -> Activity {
    let Some(target) = &settings.speed_test else { return Activity::Idle };
    let how = Plan::from(target);
    let (begun, begins) = tokio::sync::oneshot::channel();
    tokio::spawn(async move { trickle(&how.latency_url, how.probe_with_head, quiet, begun).await });
    // Samples count once the line is not idle any more; one that does not answer must not hold them up.
    let _ = tokio::time::timeout(TRICKLE_BEGINS, begins).await;
    Activity::Trickle
}

/// The next reading that is a new measurement, or why none comes.
pub(crate) async fn next_counting(cancel: &CancellationToken, lease: &mut LinkLease) -> Result<Look, String> {
    let period_s = lease.state.borrow().refresh_period_s.unwrap_or(0.0);
    let patience = PATIENCE.max(Duration::from_secs_f64(period_s * PATIENCE_PERIODS));
    let counting = async {
        loop {
            match lease.looks.recv().await {
                Ok(look) if look.novelty.counts() => return Ok(look),
                Ok(_) | Err(RecvError::Lagged(_)) => {}
                Err(RecvError::Closed) => return Err("The gateway is no longer watched.".to_owned()),
            }
        }
    };
    tokio::select! {
        () = cancel.cancelled() => Err("It was cancelled.".into()),
        waited = tokio::time::timeout(patience, counting) => {
            waited.unwrap_or_else(|_| Err(why_nothing_came(&lease.state.borrow().status, patience)))
        }
    }
}

fn why_nothing_came(status: &LinkStatus, patience: Duration) -> String {
    match status {
        LinkStatus::Asleep => ASLEEP.into(),
        LinkStatus::NotSet => "No gateway address is set.".into(),
        LinkStatus::Unreachable { problem, .. } => format!("The gateway does not answer: {problem}."),
        LinkStatus::Nonsense { problem, .. } => format!("The gateway answered something else: {problem}."),
        LinkStatus::LoginFailed { problem, .. } => {
            format!("The gateway does not let this program in: {problem}.")
        }
        LinkStatus::Untrusted { .. } => {
            "The gateway shows a certificate that nobody vouches for; look at it under Settings.".into()
        }
        _ => format!("The gateway's page did not change for {} seconds.", patience.as_secs()),
    }
}
