//! Whether the line is in use before a test that nobody asked for just now.

use crate::plan::Plan;
use crate::probe::Prober;
use crate::system::System;
use open_beacon_core::model::InterfaceKind;
use std::time::Duration;

/// How long counters are watched.
const WATCHED: Duration = Duration::from_secs(3);

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
