//! Which way a test would go, and whether the line is in use before one that nobody asked for just now.

use crate::plan::Plan;
use crate::probe::Prober;
use crate::system::System;
use open_beacon_core::model::{InterfaceKind, NetworkInterface};
use std::net::IpAddr;
use std::time::Duration;

/// How long counters are watched.
const WATCHED: Duration = Duration::from_secs(3);

/// How long a name may take to be resolved.
const RESOLVED: Duration = Duration::from_secs(2);

/// The interface that what is sent to a test address leaves this computer by. None where the system does not tell, or the name is not
/// resolved. Nothing is sent to the address.
pub async fn interface_to(url: &str) -> Option<NetworkInterface> {
    let host = reqwest::Url::parse(url).ok()?.host_str()?.to_owned();
    let number = host.trim_start_matches('[').trim_end_matches(']').parse::<IpAddr>();
    let address = match number {
        Ok(address) => address,
        Err(_) => {
            let found = tokio::time::timeout(RESOLVED, open_beacon_outbound::look_up(&host)).await;
            found.ok()?.ok()?.first()?.ip()
        }
    };
    let name = open_beacon_outbound::interface_towards(address)?;
    Some(System::here().interface(&name))
}

/// What this computer moves both ways together on the interface that leads to the test address, Mbit/s. None where the system does
/// not tell, or where the address is this computer's own. What other devices of the house move is not seen.
pub async fn line_in_use_mbps(plan: &Plan) -> Option<f64> {
    let prober = Prober::new(plan).ok()?;
    let _ = prober.connect().await;
    let system = System::here();
    let interface = prober.peer().and_then(open_beacon_outbound::interface_towards)?;
    if system.interface(&interface).kind == InterfaceKind::Loopback {
        return None;
    }
    let before = system.look(Some(&interface));
    tokio::time::sleep(WATCHED).await;
    let (down, up) = before.rates_until(&system.look(Some(&interface)))?;
    Some(down + up)
}
