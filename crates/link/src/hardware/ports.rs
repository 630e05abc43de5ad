//! Which bands reach which port of the gateway.

use super::resolve::Resolved;
use open_beacon_domain::model::{BandName, GatewayPort};
use std::collections::BTreeSet;

/// True where a port carries a band.
pub fn carries(port: &GatewayPort, band: BandName) -> bool {
    port.bands.is_empty() || port.bands.contains(&band)
}

/// Receive branches that reach the gateway on a band through the leads' ports.
pub fn branches_on(kit: &Resolved, band: BandName) -> u8 {
    let Some((_, gateway)) = kit.gateway else { return 0 };
    let reached: BTreeSet<usize> = kit.lead_ports().into_iter().flatten().collect();
    reached.iter().filter_map(|at| gateway.ports.get(*at)).filter(|port| carries(port, band)).count() as u8
}
