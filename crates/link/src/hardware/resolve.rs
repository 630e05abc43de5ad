//! A kit with its parts looked up.

use super::catalogue::Catalogue;
use open_beacon_domain::feedline::joint::Connector;
use open_beacon_domain::model::{
    AntennaSpec, ArrestorSpec, ChainPart, EthernetSpec, GatewaySpec, InjectorSpec, KitSpec, Mount, MountSpec,
    Part, PartId, PartSpec, PortSwitch,
};

/// A part of the chain with what stands in the kit and in the catalogue.
#[derive(Clone, Copy, Debug)]
pub struct Link<'a> {
    /// Its place in the kit.
    pub placed: &'a ChainPart,
    /// The part.
    pub part: &'a Part,
}

impl Link<'_> {
    /// Its two ends, the one towards the antenna first; `None` for a part that has no place in a lead.
    pub fn ends(&self) -> Option<(Connector, Connector)> {
        let (antenna_end, gateway_end) = match &self.part.spec {
            PartSpec::FeedLine(spec) => (spec.antenna_end, spec.gateway_end),
            PartSpec::Jumper(spec) => (spec.antenna_end, spec.gateway_end),
            PartSpec::Adapter(spec) => (spec.antenna_end, spec.gateway_end),
            PartSpec::Arrestor(ArrestorSpec::Coax { antenna_end, gateway_end, .. }) => {
                (*antenna_end, *gateway_end)
            }
            _ => return None,
        };
        Some(if self.placed.turned { (gateway_end, antenna_end) } else { (antenna_end, gateway_end) })
    }
}

/// Everything a kit names, found in a catalogue.
#[derive(Clone, Debug)]
pub struct Resolved<'a> {
    /// The kit.
    pub kit: &'a KitSpec,
    /// The gateway.
    pub gateway: Option<(&'a Part, &'a GatewaySpec)>,
    /// The external antenna; `None` for the gateway's own.
    pub antenna: Option<(&'a Part, &'a AntennaSpec)>,
    /// From antenna to gateway, piece by piece.
    pub chain: Vec<Link<'a>>,
    /// Ethernet cable.
    pub ethernet: Option<(&'a Part, &'a EthernetSpec)>,
    /// What powers it over Ethernet.
    pub injector: Option<(&'a Part, &'a InjectorSpec)>,
    /// Surge arrestor of the Ethernet cable.
    pub ethernet_arrestor: Option<&'a Part>,
    /// What it stands on.
    pub mount: Option<(&'a Part, &'a MountSpec)>,
    /// Named by the kit, and in the catalogue no more or of another kind.
    pub missing: Vec<PartId>,
}

macro_rules! find {
    ($found:ident, $missing:ident, $catalogue:ident, $id:expr, $kind:ident) => {
        $id.and_then(|id: PartId| match $catalogue.part(id) {
            Some(part) => match &part.spec {
                PartSpec::$kind(spec) => Some((part, spec)),
                _ => {
                    $missing.push(id);
                    None
                }
            },
            None => {
                $missing.push(id);
                None
            }
        })
    };
}

impl<'a> Resolved<'a> {
    /// Looks a kit's parts up.
    pub fn new(kit: &'a KitSpec, catalogue: &'a Catalogue) -> Self {
        let mut missing = Vec::new();
        let gateway = find!(found, missing, catalogue, kit.gateway, Gateway);
        let antenna = find!(found, missing, catalogue, kit.antenna, Antenna);
        let ethernet = find!(found, missing, catalogue, kit.ethernet, Ethernet);
        let injector = find!(found, missing, catalogue, kit.injector, Injector);
        let mount = find!(found, missing, catalogue, kit.mount, Mount);
        let ethernet_arrestor = find!(found, missing, catalogue, kit.ethernet_arrestor, Arrestor);
        let mut chain = Vec::new();
        for placed in &kit.chain {
            match catalogue.part(placed.part_id) {
                Some(part) if (Link { placed, part }).ends().is_some() => chain.push(Link { placed, part }),
                _ => missing.push(placed.part_id),
            }
        }
        Self {
            kit,
            gateway,
            antenna,
            chain,
            ethernet,
            injector,
            ethernet_arrestor: ethernet_arrestor.map(|(part, _)| part),
            mount,
            missing,
        }
    }

    /// The outdoor unit's own antenna, where the kit has one and no other antenna.
    pub fn unit(&self) -> Option<&'a AntennaSpec> {
        self.gateway.and_then(|(_, gateway)| gateway.outdoor.as_ref()).filter(|_| self.antenna.is_none())
    }

    /// True where the gateway's own antennas were cut off for good and no other is chosen: it hears nothing.
    pub fn is_deaf(&self) -> bool {
        self.antenna.is_none()
            && self.gateway.is_some_and(|(_, gateway)| gateway.switch == PortSwitch::Permanent)
    }

    /// The antenna that looks at the mast: external, or the outdoor unit's; `None` for an indoor gateway's own.
    pub fn antenna_spec(&self) -> Option<&'a AntennaSpec> {
        self.antenna.map(|(_, spec)| spec).or_else(|| self.unit())
    }

    /// How it is held: by the position where one is chosen (`placed`), else by the mount part, else on the wall.
    pub fn mount_kind(&self, placed: Option<Mount>) -> Mount {
        let usual = if self.antenna_spec().is_some() { Mount::Wall } else { Mount::Indoor };
        placed.or(self.mount.map(|(_, spec)| spec.mount)).unwrap_or(usual)
    }

    /// Elements of all antennas together.
    pub fn elements(&self) -> u8 {
        self.antenna.map_or(0, |(_, spec)| spec.elements.saturating_mul(self.kit.antenna_count.max(1)))
    }

    /// Leads brought down: what the kit says, never more than there are elements or ports.
    pub fn leads(&self) -> u8 {
        let ports = self.gateway.map_or(0, |(_, gateway)| gateway.ports.len() as u8);
        let most = self.elements().min(ports);
        if self.kit.leads == 0 { most } else { self.kit.leads.min(most) }
    }

    /// Names of the ports in the order of the leads: the kit's map, or the first ports.
    pub fn lead_ports(&self) -> Vec<Option<usize>> {
        let Some((_, gateway)) = self.gateway else { return Vec::new() };
        (1..=self.leads())
            .map(|lead| match self.kit.ports.iter().find(|link| link.lead == lead) {
                Some(link) => gateway.ports.iter().position(|port| port.name == link.port),
                None if self.kit.ports.is_empty() => Some(usize::from(lead - 1)),
                None => None,
            })
            .collect()
    }

    /// The connector that each lead of the antenna ends in.
    pub fn antenna_end(&self) -> Option<Connector> {
        self.antenna.map(|(_, spec)| spec.connector)
    }
}
