//! Weighing many kits quickly: what does not depend on the gateway is worked out before it.

use super::compose::Composer;
use super::rates::{Reached, Table};
use super::{Candidate, WhyNot};
use crate::kit::need::Need;
use crate::kit::scenario::Scenario;
use crate::link::antenna::AimAntenna;
use crate::link::landscape::AntennaLocation;
use crate::link::receiver::ETHERNET_PAYLOAD;
use crate::model::{AntennaSpec, GatewaySpec, KitSpec, Mount, Part, PartId, PartSpec, PortSwitch};
use std::cmp::Ordering;

/// What makes a kit: places in the composer's lists.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Made {
    /// Leads, and the line between; `None` for the antenna's own leads.
    Coax {
        line: Option<usize>,
        leads: u8,
    },
    /// One of the ways to feed an outdoor unit.
    Unit {
        way: usize,
    },
    Alone,
}

/// One kit's price and likely rates.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Weight {
    /// The gateway.
    pub gateway: usize,
    /// The antenna.
    pub antenna: Option<usize>,
    /// How it was made.
    pub made: Made,
    /// Price.
    pub price: f64,
    /// Download, Mbit/s.
    pub down_mbps: f64,
    /// Upload, Mbit/s.
    pub up_mbps: f64,
}

impl Weight {
    /// True where it meets the need.
    pub fn meets(&self, need: &Need) -> bool {
        self.down_mbps >= need.down_mbps && self.up_mbps >= need.up_mbps
    }

    /// What it is short of, 0 for nothing to 2 for everything.
    pub fn shortage(&self, need: &Need) -> f64 {
        let short = |has: f64, needs: f64| if needs > 0.0 { (1.0 - has / needs).max(0.0) } else { 0.0 };
        short(self.down_mbps, need.down_mbps) + short(self.up_mbps, need.up_mbps)
    }

    /// True where both are the same kit.
    pub fn is_kit(&self, other: &Self) -> bool {
        self.key() == other.key()
    }

    fn key(&self) -> (usize, Option<usize>, Made) {
        (self.gateway, self.antenna, self.made)
    }
}

/// Cheaper first; then faster.
pub fn by_price(a: &Weight, b: &Weight) -> Ordering {
    a.price
        .total_cmp(&b.price)
        .then(b.down_mbps.total_cmp(&a.down_mbps))
        .then(b.up_mbps.total_cmp(&a.up_mbps))
        .then(a.key().cmp(&b.key()))
}

/// Faster first; then cheaper.
pub fn by_speed(a: &Weight, b: &Weight) -> Ordering {
    b.down_mbps
        .total_cmp(&a.down_mbps)
        .then(b.up_mbps.total_cmp(&a.up_mbps))
        .then(a.price.total_cmp(&b.price))
        .then(a.key().cmp(&b.key()))
}

/// A gateway with an antenna (or without), by its nearest kits.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pair {
    /// The gateway.
    pub gateway: usize,
    /// The antenna.
    pub antenna: Option<usize>,
    /// The cheapest that meets the need, else the one least short of it.
    pub cheapest: Option<Weight>,
    /// The fastest under the limit, else the cheapest.
    pub best: Option<Weight>,
    /// Why there is none.
    pub fault: Option<WhyNot>,
}

/// Work in hand.
pub(super) struct Weighing<'a, 'c> {
    pub(super) composer: &'a Composer<'c>,
    pub(super) table: Table<'a>,
    need: &'a Need,
    price_limit: Option<f64>,
    pub(super) pairs: Vec<Pair>,
    pub(super) count: usize,
}

impl<'a, 'c> Weighing<'a, 'c> {
    pub(super) fn new(composer: &'a Composer<'c>, need: &'a Need, price_limit: Option<f64>) -> Self {
        let table = Table::new(composer.scenario);
        Self { composer, table, need, price_limit, pairs: Vec::new(), count: 0 }
    }

    pub(super) fn scenario(&self) -> &'a Scenario<'c> {
        self.composer.scenario
    }

    pub(super) fn keep(&self, pair: &mut Pair, one: Weight) {
        let need = self.need;
        let nearer = |a: &Weight, b: &Weight| match (a.meets(need), b.meets(need)) {
            (true, false) => true,
            (false, true) => false,
            (true, true) => by_price(a, b) == Ordering::Less,
            (false, false) => {
                let order = a.shortage(need).total_cmp(&b.shortage(need));
                order.then(by_price(a, b)) == Ordering::Less
            }
        };
        if pair.cheapest.as_ref().is_none_or(|there| nearer(&one, there)) {
            pair.cheapest = Some(one);
        }
        let within = |weight: &Weight| self.price_limit.is_none_or(|limit| weight.price <= limit);
        let better = |there: &Weight| match (within(&one), within(there)) {
            (true, false) => true,
            (false, true) => false,
            (true, true) => by_speed(&one, there) == Ordering::Less,
            (false, false) => by_price(&one, there) == Ordering::Less,
        };
        if pair.best.as_ref().is_none_or(better) {
            pair.best = Some(one);
        }
    }

    pub(super) fn alone(&mut self) {
        for gateway in 0..self.composer.gateways.len() {
            let Some(spec) = gateway_spec(self.composer.gateways[gateway]) else { continue };
            if spec.outdoor.is_some() {
                continue;
            }
            if spec.switch == PortSwitch::Permanent {
                self.push_pair(gateway, None, 0.0, &[], Some(WhyNot::NeedsAntenna));
                continue;
            }
            let receiver = self.table.receiver(spec, |at| spec.layers_on(self.table.bands[at].cell.band));
            // It stays where the gateway stands today.
            let reached = self.table.reached(&AimAntenna::Stock, self.scenario().stock_location());
            let rates = self.table.plain(&receiver, &reached);
            let price = self.composer.gateways[gateway].price.unwrap_or(0.0);
            self.push_pair(gateway, None, spec.lan_mbps, &[(Made::Alone, price, rates)], None);
        }
    }

    pub(super) fn units(&mut self) {
        for gateway in 0..self.composer.gateways.len() {
            let part = self.composer.gateways[gateway];
            let Some(spec) = gateway_spec(part) else { continue };
            let Some(unit) = &spec.outdoor else { continue };
            match self.composer.units(part) {
                Err(why) => self.push_pair(gateway, None, 0.0, &[], Some(why)),
                Ok(kits) => {
                    let receiver =
                        self.table.receiver(spec, |at| spec.layers_on(self.table.bands[at].cell.band).min(4));
                    let mount = self.composer.mount_for(unit, 1).map_or(Mount::Wall, |(_, spec)| spec.mount);
                    let reached = self.reached(part.id, unit, mount);
                    let (down, up) = self.table.plain(&receiver, &reached);
                    for (way, kit) in kits.iter().enumerate() {
                        let lan = self.wire_mbps(kit).min(spec.lan_mbps);
                        let price = self.composer.price(kit);
                        self.push_pair(gateway, None, lan, &[(Made::Unit { way }, price, (down, up))], None);
                    }
                }
            }
        }
    }

    fn wire_mbps(&self, kit: &KitSpec) -> f64 {
        let of = |id| self.composer.catalogue.part(id).map(|part| &part.spec);
        let cable = match kit.ethernet.and_then(of) {
            Some(PartSpec::Ethernet(cable)) => cable.lan_mbps,
            _ => f64::INFINITY,
        };
        match kit.injector.and_then(of) {
            Some(PartSpec::Injector(injector)) => cable.min(injector.lan_mbps),
            _ => cable,
        }
    }

    /// What an antenna brings at its own connectors, feed line apart.
    pub(super) fn reached(&self, id: PartId, antenna: &AntennaSpec, mount: Mount) -> Reached {
        let scenario = self.scenario();
        let location = if mount.is_indoors() {
            AntennaLocation { mount, position: None, ..scenario.reference }
        } else {
            scenario.reference
        };
        self.table.reached(&AimAntenna::Part(id, antenna), location)
    }

    pub(super) fn push_pair(
        &mut self,
        gateway: usize,
        antenna: Option<usize>,
        lan_mbps: f64,
        made: &[(Made, f64, (f64, f64))],
        fault: Option<WhyNot>,
    ) {
        let cap = lan_mbps * ETHERNET_PAYLOAD;
        let at = self.pairs.iter().rposition(|pair| pair.gateway == gateway && pair.antenna == antenna);
        let mut pair =
            at.map_or(Pair { gateway, antenna, cheapest: None, best: None, fault }, |at| self.pairs[at]);
        for (made, price, (down, up)) in made {
            self.count += 1;
            let (down_mbps, up_mbps) = (down.min(cap), up.min(cap));
            if down_mbps <= 0.0 {
                pair.fault = Some(WhyNot::NoBand);
                continue;
            }
            self.keep(&mut pair, Weight { gateway, antenna, made: *made, price: *price, down_mbps, up_mbps });
        }
        match at {
            Some(at) => self.pairs[at] = pair,
            None => self.pairs.push(pair),
        }
    }
}

pub(super) fn gateway_spec(part: &Part) -> Option<&GatewaySpec> {
    match &part.spec {
        PartSpec::Gateway(spec) => Some(spec),
        _ => None,
    }
}

/// The kit of a weight, put together.
pub fn candidate(composer: &Composer, one: &Weight, need: &Need) -> Candidate {
    let gateway = composer.gateways[one.gateway];
    let antenna = one.antenna.map(|at| composer.antennas[at]);
    let kit = match (one.made, antenna) {
        (Made::Coax { line, leads }, Some(antenna)) => {
            composer.coax(gateway, antenna, line.map(|at| composer.lines[at]), leads).unwrap_or_default()
        }
        (Made::Unit { way }, _) => {
            composer.units(gateway).ok().and_then(|kits| kits.into_iter().nth(way)).unwrap_or_default()
        }
        _ => crate::kit::assess::gateway_alone(gateway.id),
    };
    Candidate {
        kit,
        gateway: gateway.id,
        antenna: antenna.map(|part| part.id),
        price: one.price,
        down_mbps: one.down_mbps,
        up_mbps: one.up_mbps,
        meets_need: one.meets(need),
        chance_of_need: None,
        chance_of_best: None,
    }
}
