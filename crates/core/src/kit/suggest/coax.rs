//! Antennas on coaxial cable: every gateway with every antenna, line and number of leads.

use super::WhyNot;
use super::compose::Composer;
use super::rates::{Levels, Rates, Receiver};
use super::weigh::{Made, Pair, Weighing, Weight, gateway_spec};
use crate::feedline::joint::Connector;
use crate::hardware::ports::carries;
use crate::link::receiver::ETHERNET_PAYLOAD;
use crate::model::{AntennaSpec, BandName, GatewaySpec, Part, PartSpec};
use std::collections::HashMap;

/// A lead between one kind of antenna end and one kind of port.
struct Lead {
    line: Option<usize>,
    /// Of each band, dB.
    loss_db: Vec<f64>,
    price_per_lead: f64,
    line_price: f64,
    twin: bool,
}

impl Lead {
    fn price(&self, leads: u8) -> f64 {
        let pieces = if self.twin { leads.div_ceil(2) } else { leads };
        self.price_per_lead * f64::from(leads) + self.line_price * f64::from(pieces)
    }
}

/// What decides which leads there are: antenna's end, port, in the open, number, and whether the antenna's own leads
/// reach.
type LeadKey = (Connector, Connector, bool, u8, bool);

impl<'c> Weighing<'_, 'c> {
    /// Leads between an antenna's end and a port, without those that are beaten in price and loss on every band.
    fn leads(&self, spec: &AntennaSpec, port: Connector, in_open: bool, leads: u8) -> Vec<Lead> {
        let mut found: Vec<Lead> = Vec::new();
        let lines = self.composer.lines.iter().enumerate().map(|(at, part)| (Some(at), Some(*part)));
        for (at, line) in std::iter::once((None, None)).chain(lines) {
            if let Some(lead) = self.lead(spec, at, line, port, in_open) {
                found.push(lead);
            }
        }
        let beaten = |one: &Lead| {
            found.iter().any(|other| {
                let no_worse = other.price(leads) <= one.price(leads)
                    && other.loss_db.iter().zip(&one.loss_db).all(|(a, b)| a <= b);
                let better = other.price(leads) < one.price(leads)
                    || other.loss_db.iter().zip(&one.loss_db).any(|(a, b)| a < b);
                no_worse && better
            })
        };
        let kept: Vec<bool> = found.iter().map(|one| !beaten(one)).collect();
        let mut keep = kept.iter();
        found.retain(|_| keep.next().copied().unwrap_or(true));
        found
    }

    fn lead(
        &self,
        spec: &AntennaSpec,
        at: Option<usize>,
        line: Option<&'c Part>,
        port: Connector,
        in_open: bool,
    ) -> Option<Lead> {
        let length_m = self.scenario().settings().kit.cable_m;
        let (line_price, twin) = match line.map(|part| (part, &part.spec)) {
            Some((part, PartSpec::FeedLine(spec))) => {
                if in_open && !spec.outdoors {
                    return None;
                }
                (part.price.unwrap_or(0.0) + spec.price_per_m * length_m, spec.twin)
            }
            _ => {
                if spec.tail_m < length_m {
                    return None;
                }
                (0.0, false)
            }
        };
        let chain = self.composer.lead(spec.connector, line, port, in_open)?;
        let loss_db = self
            .table
            .bands
            .iter()
            .map(|band| self.composer.lead_loss_db(spec.connector, &chain, port, band.cell.frequency_mhz))
            .collect();
        let price_per_lead = chain
            .iter()
            .filter(|placed| placed.length_m.is_none())
            .filter_map(|placed| self.composer.catalogue.part(placed.part_id)?.price)
            .sum();
        Some(Lead { line: at, loss_db, price_per_lead, line_price, twin })
    }

    pub(super) fn coax(&mut self) {
        let composer = self.composer;
        let gateways: Vec<(usize, &GatewaySpec, Connector)> = composer
            .gateways
            .iter()
            .enumerate()
            .filter_map(|(at, part)| {
                let spec = gateway_spec(part)?;
                Some((at, spec, spec.ports.first()?.connector))
            })
            .collect();
        let mut ports: Vec<Connector> = Vec::new();
        for (.., port) in &gateways {
            if !ports.contains(port) {
                ports.push(*port);
            }
        }
        let receivers: Vec<[Receiver; 3]> = gateways
            .iter()
            .map(|(_, spec, _)| {
                [1, 2, 4].map(|leads| {
                    self.table.receiver(spec, |at| branches(spec, self.table.bands[at].cell.band, leads))
                })
            })
            .collect();
        let mut cache: HashMap<LeadKey, Vec<Lead>> = HashMap::new();
        for (antenna, part) in composer.antennas.iter().enumerate() {
            let PartSpec::Antenna(spec) = &part.spec else { continue };
            let count = Composer::count(spec);
            let mount = composer.mount_for(spec, count);
            let elements = spec.elements.saturating_mul(count);
            let Some((mount_part, held)) = mount else {
                for (gateway, ..) in &gateways {
                    let fault = Some(WhyNot::NothingHolds);
                    self.pairs.push(Pair {
                        gateway: *gateway,
                        antenna: Some(antenna),
                        cheapest: None,
                        best: None,
                        fault,
                    });
                }
                continue;
            };
            let in_open = !held.mount.is_indoors();
            let reached = self.reached(part.id, spec, held.mount);
            let held_price = part.price.unwrap_or(0.0) * f64::from(count) + mount_part.price.unwrap_or(0.0);
            for port in &ports {
                let own: Vec<usize> = (0..gateways.len()).filter(|at| gateways[*at].2 == *port).collect();
                let mut pairs: Vec<Pair> = own
                    .iter()
                    .map(|at| Pair {
                        gateway: gateways[*at].0,
                        antenna: Some(antenna),
                        cheapest: None,
                        best: None,
                        fault: Some(WhyNot::NoWayToConnect),
                    })
                    .collect();
                for (which, leads) in [1u8, 2, 4].into_iter().enumerate() {
                    // Whether the antenna's own leads reach decides if it can do without a line.
                    let reaches = spec.tail_m >= self.scenario().settings().kit.cable_m;
                    let key = (spec.connector, *port, in_open, leads, reaches);
                    let lines = cache.entry(key).or_insert_with(|| self.leads(spec, *port, in_open, leads));
                    for lead in lines {
                        let levels: Vec<Option<Levels>> = reached
                            .levels
                            .iter()
                            .zip(&lead.loss_db)
                            .map(|(levels, loss)| levels.map(|levels| levels.after(*loss)))
                            .collect();
                        let mut rates = Rates::default();
                        let made = Made::Coax { line: lead.line, leads };
                        let price = held_price + lead.price(leads);
                        for (place, at) in own.iter().enumerate() {
                            let (gateway, box_, _) = &gateways[*at];
                            let most = elements.min(box_.ports.len() as u8);
                            if leads > most || (leads == 1 && most > 1) {
                                continue;
                            }
                            let receiver = &receivers[*at][which];
                            let (down, up) = rates.of(&self.table, receiver, &levels, reached.shares);
                            self.count += 1;
                            let cap = box_.lan_mbps * ETHERNET_PAYLOAD;
                            let pair = &mut pairs[place];
                            if down <= 0.0 {
                                pair.fault = Some(WhyNot::NoBand);
                                continue;
                            }
                            let one = Weight {
                                gateway: *gateway,
                                antenna: Some(antenna),
                                made,
                                price: price + composer.gateways[*gateway].price.unwrap_or(0.0),
                                down_mbps: down.min(cap),
                                up_mbps: up.min(cap),
                            };
                            self.keep(pair, one);
                        }
                    }
                }
                self.pairs.extend(pairs);
            }
        }
    }
}

/// Ports that carry a band among the first `leads`.
fn branches(gateway: &GatewaySpec, band: BandName, leads: u8) -> u8 {
    gateway.ports.iter().take(usize::from(leads)).filter(|port| carries(port, band)).count() as u8
}
