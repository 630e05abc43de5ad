//! Leads of a kit as they are plugged together: parts, and the joints between them.

use super::resolve::Resolved;
use open_beacon_domain::feedline::joint::{Connector, Mating, mates};
use open_beacon_domain::model::PartId;
use serde::{Deserialize, Serialize};

/// Two ends that meet.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Joint {
    /// Place in the chain, 0 at the antenna.
    pub place: usize,
    /// The end that comes from the antenna's side.
    pub from: Connector,
    /// The end on the gateway's side.
    pub to: Connector,
    /// Whether its two sides fit.
    pub mating: Mating,
    /// Whether it may be outdoors.
    pub outdoors: bool,
}

/// What stands in every lead.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChainItem {
    /// The part.
    pub part_id: PartId,
    /// Name.
    pub name: String,
    /// Length, m.
    pub length_m: Option<f64>,
}

/// Parts and joints from antenna to gateway, alike in every lead. One joint more than parts.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Chain {
    /// Number of feed lines.
    pub leads: u8,
    /// Pieces, from the antenna on.
    pub items: Vec<ChainItem>,
    /// Joints, from the antenna on.
    pub joints: Vec<Joint>,
}

/// The chain of a kit; without joints where there is no external antenna, or the gateway has no ports. `in_open`:
/// the antenna stands in the open.
pub fn chain(kit: &Resolved, in_open: bool) -> Chain {
    let items = kit
        .chain
        .iter()
        .map(|link| ChainItem {
            part_id: link.part.id,
            name: link.part.name.clone(),
            length_m: link.placed.length_m,
        })
        .collect();
    let mut ends: Vec<Connector> = Vec::new();
    if let Some(end) = kit.antenna_end() {
        ends.push(end);
        for link in &kit.chain {
            if let Some((first, second)) = link.ends() {
                ends.extend([first, second]);
            }
        }
        let ports = kit.gateway.map(|(_, gateway)| gateway.ports.as_slice()).unwrap_or_default();
        let first = kit.lead_ports().into_iter().flatten().next().and_then(|at| ports.get(at));
        ends.extend(first.or(ports.first()).map(|port| port.connector));
    }
    let joints = ends
        .chunks_exact(2)
        .enumerate()
        .map(|(place, pair)| {
            // The joint at the antenna is where the antenna is; the others are where the kit says.
            let outdoors = match kit.chain.get(place) {
                Some(link) => in_open && (place == 0 || link.placed.outdoors),
                None => in_open && kit.chain.is_empty(),
            };
            Joint { place, from: pair[0], to: pair[1], mating: mates(pair[0], pair[1]), outdoors }
        })
        .collect();
    Chain { leads: kit.leads(), items, joints }
}
