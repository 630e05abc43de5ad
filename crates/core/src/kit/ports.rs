//! Which lead goes to which port: bands, pairs, what stays open, and other ways worth a test.

use super::finding::{At, Found, KitFinding};
use super::wanted::Wanted;
use crate::hardware::ports::branches_on;
use crate::hardware::resolve::Resolved;
use crate::model::{BandName, GatewayPort, GatewaySpec, Polarisation, PortDirection, PortLink, PortSwitch};
use std::collections::BTreeSet;

pub(super) fn ports(kit: &Resolved, wanted: &Wanted, found: &mut Vec<Found>) {
    bands(kit, wanted, found);
    let (Some((_, gateway)), Some((_, antenna))) = (kit.gateway, kit.antenna) else { return };
    if gateway.ports.is_empty() {
        return;
    }
    named(kit, gateway, found);
    let reached: Vec<Option<usize>> = kit.lead_ports();
    pairs(&reached, gateway, antenna.polarisation, found);
    let leads = kit.leads();
    let elements = kit.elements();
    if leads == 1 {
        found.push(Found::costs(At::Kit, KitFinding::OneBranch));
    }
    if kit.kit.antenna_count == 2 && antenna.elements == 1 {
        let apart_deg = kit.kit.crossed_deg.unwrap_or(0.0);
        if (apart_deg - 90.0).abs() > 10.0 {
            found.push(Found::costs(At::Antenna, KitFinding::NotCrossed { apart_deg }));
        }
    } else if elements > 1 && antenna.polarisation == Polarisation::Vertical {
        found.push(Found::costs(At::Antenna, KitFinding::AllUpright));
    }
    if elements > leads {
        found.push(Found::mind(At::Antenna, KitFinding::LeadsOpen { count: elements - leads }));
    }
    let taken: BTreeSet<usize> = reached.iter().flatten().copied().collect();
    let free: Vec<&GatewayPort> = gateway
        .ports
        .iter()
        .enumerate()
        .filter(|(at, _)| !taken.contains(at))
        .map(|(_, port)| port)
        .collect();
    if !free.is_empty() {
        let ports = free.iter().map(|port| port.name.clone()).collect();
        found.push(Found::mind(At::Gateway, KitFinding::PortsOpen { ports }));
    }
    let transmits = |port: &&GatewayPort| port.direction == PortDirection::Both;
    if !taken.iter().filter_map(|at| gateway.ports.get(*at)).any(|port| transmits(&port)) {
        let ports = gateway.ports.iter().filter(transmits).map(|port| port.name.clone()).collect();
        found.push(Found::wrong(At::Gateway, KitFinding::TransmitLeftOut { ports }));
    }
    match gateway.switch {
        PortSwitch::Manual => found.push(Found::mind(At::Gateway, KitFinding::SwitchBySetting)),
        PortSwitch::Permanent => found.push(Found::mind(At::Gateway, KitFinding::SwitchedForGood)),
        PortSwitch::None | PortSwitch::Automatic => {}
    }
    if gateway.opened {
        found.push(Found::costs(At::Gateway, KitFinding::CaseOpened));
    }
}

fn bands(kit: &Resolved, wanted: &Wanted, found: &mut Vec<Found>) {
    let missed = |has: &dyn Fn(BandName, f64) -> bool| -> Vec<BandName> {
        wanted.bands.iter().filter(|(band, mhz)| !has(*band, *mhz)).map(|(band, _)| *band).collect()
    };
    let gateway = kit.gateway.map(|(_, gateway)| gateway);
    let lacking = missed(&|band, _| gateway.is_none_or(|gateway| gateway.layers_on(band) > 0));
    // One band of several missing costs; all of them missing is no connection at all.
    let graded = |at: At, finding: KitFinding, count: usize| {
        if count == wanted.bands.len() { Found::wrong(at, finding) } else { Found::costs(at, finding) }
    };
    if !lacking.is_empty() {
        let count = lacking.len();
        found.push(graded(At::Gateway, KitFinding::BandMissedByGateway { bands: lacking.clone() }, count));
    }
    if let Some(antenna) = kit.antenna_spec() {
        let deaf = missed(&|_, mhz| crate::hardware::gain::gain_at_dbi(antenna, mhz).is_some());
        if let (false, Some(first), Some(last)) = (deaf.is_empty(), antenna.gain.first(), antenna.gain.last())
        {
            let count = deaf.len();
            let finding = KitFinding::BandMissedByAntenna {
                bands: deaf,
                low_mhz: first.frequency_mhz,
                high_mhz: last.frequency_mhz,
            };
            found.push(graded(At::Antenna, finding, count));
        }
    }
    if kit.antenna.is_some() && gateway.is_some_and(|gateway| !gateway.ports.is_empty()) {
        let off = missed(&|band, _| lacking.contains(&band) || branches_on(kit, band) > 0);
        if !off.is_empty() {
            let count = off.len();
            found.push(graded(At::Gateway, KitFinding::BandNotOnPorts { bands: off }, count));
        }
    }
}

fn named(kit: &Resolved, gateway: &GatewaySpec, found: &mut Vec<Found>) {
    let mut seen = BTreeSet::new();
    for link in &kit.kit.ports {
        if !gateway.ports.iter().any(|port| port.name == link.port) {
            let finding = KitFinding::PortUnknown { lead: link.lead, port: link.port.clone() };
            found.push(Found::wrong(At::Gateway, finding));
        } else if !seen.insert(&link.port) {
            found.push(Found::wrong(At::Gateway, KitFinding::PortTwice { port: link.port.clone() }));
        }
    }
}

/// Leads 1 and 2 are one crossed pair, 3 and 4 the next; each pair belongs on one pair of ports.
fn pairs(
    reached: &[Option<usize>],
    gateway: &GatewaySpec,
    polarisation: Polarisation,
    found: &mut Vec<Found>,
) {
    if polarisation == Polarisation::Vertical {
        return;
    }
    for (index, pair) in reached.chunks(2).enumerate() {
        let of = |at: &Option<usize>| at.and_then(|at| gateway.ports.get(at)).map(|port| port.pair);
        if let [first, second] = pair
            && let (Some(a), Some(b)) = (of(first), of(second))
            && a != b
        {
            let lead = 2 * index as u8 + 1;
            found.push(Found::costs(At::Gateway, KitFinding::PairSplit { leads: [lead, lead + 1] }));
        }
    }
}

/// The kit's port map written out, and other maps worth a test: leads of each pair swapped with the next pair, and
/// the first pair turned round. The first is the plan.
pub fn port_maps(kit: &Resolved) -> Vec<Vec<PortLink>> {
    let Some((_, gateway)) = kit.gateway else { return Vec::new() };
    let plan: Vec<PortLink> = kit
        .lead_ports()
        .into_iter()
        .enumerate()
        .filter_map(|(index, at)| {
            Some(PortLink { lead: index as u8 + 1, port: gateway.ports.get(at?)?.name.clone() })
        })
        .collect();
    let mut maps = vec![plan.clone()];
    let with_order = |order: &[usize]| -> Vec<PortLink> {
        plan.iter()
            .zip(order)
            .filter_map(|(link, from)| {
                Some(PortLink { lead: link.lead, port: plan.get(*from)?.port.clone() })
            })
            .collect()
    };
    match plan.len() {
        2 => {
            maps.push(with_order(&[1, 0]));
            // The other pair of ports, where the gateway has one: some bands and the transmitter may sit there.
            let pair_of =
                |name: &str| gateway.ports.iter().find(|port| port.name == name).map(|port| port.pair);
            let own = pair_of(&plan[0].port);
            let others: Vec<&GatewayPort> =
                gateway.ports.iter().filter(|port| Some(port.pair) != own).take(2).collect();
            if let [a, b] = others[..] {
                let link = |lead, port: &GatewayPort| PortLink { lead, port: port.name.clone() };
                maps.push(vec![link(1, a), link(2, b)]);
            }
        }
        4 => {
            maps.push(with_order(&[2, 3, 0, 1]));
            maps.push(with_order(&[1, 0, 3, 2]));
        }
        _ => {}
    }
    maps
}
