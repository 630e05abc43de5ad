//! Whole kits out of a gateway, an antenna and a feed line: what joins them, what holds them.

use super::WhyNot;
use crate::feedline::joint::{Connector, Mating, mates};
use crate::hardware::budget::{joint_loss_db, part_loss_db};
use crate::hardware::catalogue::Catalogue;
use crate::hardware::resolve::{Link, Resolved};
use crate::kit::effort::effort;
use crate::kit::mounting::{holds, hole_needed_mm};
use crate::kit::scenario::Scenario;
use crate::model::{
    AntennaSpec, ArrestorSpec, ChainPart, GatewayPlace, KitSpec, MountSpec, Part, PartKind, PartSpec, Passage,
};
use std::cell::RefCell;
use std::collections::HashMap;

/// Parts between two ends, in order.
type Coupling<'a> = Option<Vec<(&'a Part, bool)>>;

/// Finds what goes between.
#[derive(Debug)]
pub struct Composer<'a> {
    /// Parts to choose from.
    pub catalogue: &'a Catalogue,
    /// The house that kits are judged at.
    pub scenario: &'a Scenario<'a>,
    /// Gateways that may be chosen.
    pub gateways: Vec<&'a Part>,
    /// Antennas that may be chosen.
    pub antennas: Vec<&'a Part>,
    /// Feed lines that may be chosen.
    pub lines: Vec<&'a Part>,
    mounts: Vec<(&'a Part, &'a MountSpec)>,
    couplers: Vec<&'a Part>,
    couplings: RefCell<HashMap<(Connector, Connector, bool), Coupling<'a>>>,
}

/// The end reached, the price so far, the parts so far.
type FeedRoute<'a> = (Connector, f64, Vec<(&'a Part, bool)>);

/// Most parts between two ends.
const MOST_BETWEEN: usize = 3;
/// Drills that people have, mm.
const DRILLS_MM: [f64; 5] = [16.0, 25.0, 40.0, 60.0, 80.0];

impl<'a> Composer<'a> {
    /// Only parts with a price are weighed.
    pub fn new(catalogue: &'a Catalogue, scenario: &'a Scenario<'a>) -> Self {
        let priced = |kind| -> Vec<&'a Part> {
            catalogue.of_kind(kind).into_iter().filter(|part| part.price.is_some()).collect()
        };
        let covers = |part: &&'a Part| match &part.spec {
            PartSpec::Arrestor(ArrestorSpec::Coax { lowest_mhz, highest_mhz, .. }) => {
                scenario.listed().all(|one| (*lowest_mhz..=*highest_mhz).contains(&one.frequency_mhz))
            }
            PartSpec::Arrestor(ArrestorSpec::Ethernet { .. }) => false,
            _ => true,
        };
        let couplers = [PartKind::Adapter, PartKind::Jumper, PartKind::Arrestor]
            .into_iter()
            .flat_map(priced)
            .filter(covers)
            .collect();
        let mounts = priced(PartKind::Mount)
            .into_iter()
            .filter_map(|part| match &part.spec {
                PartSpec::Mount(spec) => Some((part, spec)),
                _ => None,
            })
            .collect();
        Self {
            catalogue,
            scenario,
            gateways: priced(PartKind::Gateway),
            antennas: priced(PartKind::Antenna),
            lines: priced(PartKind::FeedLine),
            mounts,
            couplers,
            couplings: RefCell::default(),
        }
    }

    /// The cheapest mount that holds an antenna: in the open where one does, else inside; no holes for a tenant.
    pub fn mount_for(&self, looks: &AntennaSpec, count: u8) -> Option<(&'a Part, &'a MountSpec)> {
        let kit = &self.scenario.settings().kit;
        let fit = |mount: &&(&'a Part, &'a MountSpec)| {
            holds(looks, count, mount.1, kit.wind_m_s) && (!kit.tenant || mount.1.holes == 0)
        };
        let open = |mount: &&(&'a Part, &'a MountSpec)| !mount.1.mount.is_indoors();
        let mut fitting = self.mounts.iter().filter(fit);
        self.mounts.iter().filter(fit).find(open).or_else(|| fitting.next()).copied()
    }

    /// How many of an antenna make a pair.
    pub fn count(antenna: &AntennaSpec) -> u8 {
        if antenna.elements == 1 { 2 } else { 1 }
    }

    /// The cheapest parts that join two ends, an arrestor among them where it is wanted and there is one.
    pub fn coupling(&self, from: Connector, to: Connector, arrestor: bool) -> Coupling<'a> {
        let is_arrestor = |part: &Part| part.spec.kind() == PartKind::Arrestor;
        let arrestor = arrestor && self.couplers.iter().any(|part| is_arrestor(part));
        let key = (from, to, arrestor);
        if let Some(known) = self.couplings.borrow().get(&key) {
            return known.clone();
        }
        let mut best: Option<(f64, Vec<(&'a Part, bool)>)> = None;
        let mut open: Vec<FeedRoute<'a>> = vec![(from, 0.0, Vec::new())];
        while let Some((end, price, parts)) = open.pop() {
            if best.as_ref().is_some_and(|(least, _)| price >= *least) {
                continue;
            }
            let has = parts.iter().any(|(part, _)| is_arrestor(part));
            if mates(end, to) == Mating::Mates && (has || !arrestor) {
                best = Some((price, parts));
                continue;
            }
            if parts.len() == MOST_BETWEEN {
                continue;
            }
            for part in &self.couplers {
                if is_arrestor(part) && (has || !arrestor) {
                    continue;
                }
                for turned in [false, true] {
                    let Some((near, far)) = ends(part, turned) else { continue };
                    if mates(end, near) == Mating::Mates {
                        let mut longer = parts.clone();
                        longer.push((*part, turned));
                        open.push((far, price + part.price.unwrap_or(0.0), longer));
                    }
                }
            }
        }
        let found = best.map(|(_, parts)| parts);
        self.couplings.borrow_mut().insert(key, found.clone());
        found
    }

    /// Parts of a lead from an antenna's end to a port, with `line` between or the antenna's own leads alone. The
    /// cheaper way round of a line is taken.
    pub fn lead(
        &self,
        antenna_end: Connector,
        line: Option<&'a Part>,
        port: Connector,
        in_open: bool,
    ) -> Option<Vec<ChainPart>> {
        let placed = |(part, turned): (&'a Part, bool)| ChainPart {
            part_id: part.id,
            length_m: None,
            turned,
            outdoors: false,
        };
        let Some(line) = line else {
            return Some(self.coupling(antenna_end, port, in_open)?.into_iter().map(placed).collect());
        };
        let price = |parts: &[(&Part, bool)]| parts.iter().filter_map(|(part, _)| part.price).sum::<f64>();
        let ways = [false, true].into_iter().filter_map(|turned| {
            let (near, far) = ends(line, turned)?;
            let before = self.coupling(antenna_end, near, false)?;
            let after = self.coupling(far, port, in_open)?;
            Some((price(&before) + price(&after), before, turned, after))
        });
        let (_, before, turned, after) = ways.min_by(|a, b| a.0.total_cmp(&b.0))?;
        let length_m = Some(self.scenario.settings().kit.cable_m);
        let middle = ChainPart { part_id: line.id, length_m, turned, outdoors: false };
        Some(
            before
                .into_iter()
                .map(placed)
                .chain(std::iter::once(middle))
                .chain(after.into_iter().map(placed))
                .collect(),
        )
    }

    /// An indoor gateway with an antenna on coaxial cable.
    ///
    /// # Errors
    /// Why these parts do not make a kit.
    pub fn coax(
        &self,
        gateway: &Part,
        antenna: &Part,
        line: Option<&'a Part>,
        leads: u8,
    ) -> Result<KitSpec, WhyNot> {
        let (PartSpec::Gateway(box_), PartSpec::Antenna(spec)) = (&gateway.spec, &antenna.spec) else {
            return Err(WhyNot::NoWayToConnect);
        };
        let count = Self::count(spec);
        let (mount, held) = self.mount_for(spec, count).ok_or(WhyNot::NothingHolds)?;
        let in_open = !held.mount.is_indoors();
        if in_open && line.is_some_and(|line| !is_for_outdoors(line)) {
            return Err(WhyNot::CannotStand);
        }
        if line.is_none() && spec.tail_m < self.scenario.settings().kit.cable_m {
            return Err(WhyNot::NoWayToConnect);
        }
        let port = box_.ports.first().ok_or(WhyNot::NoWayToConnect)?.connector;
        let chain = self.lead(spec.connector, line, port, in_open).ok_or(WhyNot::NoWayToConnect)?;
        let kit = KitSpec {
            gateway: Some(gateway.id),
            antenna: Some(antenna.id),
            antenna_count: count,
            crossed_deg: (count == 2).then_some(90.0),
            leads,
            chain,
            mount: Some(mount.id),
            height_above_ground_m: Some(self.scenario.reference.height_m),
            gateway_place: GatewayPlace::Room,
            ..KitSpec::default()
        };
        Ok(self.with_way_in(kit, in_open))
    }

    /// Outdoor units with each cable and injector that feeds them.
    pub fn units(&self, gateway: &Part) -> Result<Vec<KitSpec>, WhyNot> {
        let PartSpec::Gateway(box_) = &gateway.spec else { return Err(WhyNot::NoWayToConnect) };
        let Some(unit) = &box_.outdoor else { return Err(WhyNot::NoWayToConnect) };
        let (mount, held) = self.mount_for(unit, 1).ok_or(WhyNot::NothingHolds)?;
        let of = |kind| self.catalogue.of_kind(kind).into_iter().filter(|part| part.price.is_some());
        let arrestor = of(PartKind::Arrestor)
            .find(|part| matches!(part.spec, PartSpec::Arrestor(ArrestorSpec::Ethernet { .. })));
        let mut kits = Vec::new();
        for cable in of(PartKind::Ethernet) {
            for injector in of(PartKind::Injector) {
                let kit = KitSpec {
                    gateway: Some(gateway.id),
                    ethernet: Some(cable.id),
                    ethernet_m: Some(self.scenario.settings().kit.cable_m),
                    injector: Some(injector.id),
                    ethernet_arrestor: arrestor.map(|part| part.id),
                    mount: Some(mount.id),
                    height_above_ground_m: Some(self.scenario.reference.height_m),
                    gateway_place: GatewayPlace::Room,
                    ..KitSpec::default()
                };
                let kit = self.with_way_in(kit, !held.mount.is_indoors());
                let resolved = Resolved::new(&kit, self.catalogue);
                let wanted = crate::kit::assess::wanted(self.scenario, None);
                if crate::kit::assess::works(&crate::kit::check::check(&resolved, &wanted)) {
                    kits.push(kit);
                }
            }
        }
        if kits.is_empty() { Err(WhyNot::NoPower) } else { Ok(kits) }
    }

    /// A hole that is large enough, unless nothing may be drilled.
    fn with_way_in(&self, mut kit: KitSpec, in_open: bool) -> KitSpec {
        if in_open && !self.scenario.settings().kit.tenant {
            let needs_mm = hole_needed_mm(&Resolved::new(&kit, self.catalogue));
            let drill = DRILLS_MM.into_iter().find(|drill| *drill >= needs_mm).unwrap_or(needs_mm.ceil());
            kit.passage = Passage::Hole { diameter_mm: drill };
        }
        kit
    }

    /// Loss of a lead's parts and joints at a frequency, dB, the antenna's own leads not counted.
    pub fn lead_loss_db(
        &self,
        antenna_end: Connector,
        chain: &[ChainPart],
        port: Connector,
        frequency_mhz: f64,
    ) -> f64 {
        let mut end = antenna_end;
        let mut loss_db = 0.0;
        for placed in chain {
            let Some(part) = self.catalogue.part(placed.part_id) else { continue };
            let Some((near, far)) = ends(part, placed.turned) else { continue };
            loss_db += joint_loss_db(end, near, frequency_mhz);
            let temperature_c = self.scenario.settings().kit.cable_temperature_c;
            loss_db += part_loss_db(&part.spec, placed.length_m, frequency_mhz, temperature_c);
            end = far;
        }
        loss_db + joint_loss_db(end, port, frequency_mhz)
    }

    /// Price of a kit.
    pub fn price(&self, kit: &KitSpec) -> f64 {
        effort(&Resolved::new(kit, self.catalogue)).price
    }
}

fn ends(part: &Part, turned: bool) -> Option<(Connector, Connector)> {
    let placed = ChainPart { part_id: part.id, length_m: None, turned, outdoors: false };
    Link { placed: &placed, part }.ends()
}

fn is_for_outdoors(line: &Part) -> bool {
    matches!(&line.spec, PartSpec::FeedLine(spec) if spec.outdoors)
}
