//! What a gateway makes of the carriers it receives: layers, branches, carriers at once, the wire to the house.

use super::antenna::AimAntenna;
use crate::hardware::ports::branches_on;
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::capacity::possible::{
    AchievableRate, CarrierRates, carrier_rates, carries_uplink, together,
};
use open_beacon_domain::metrics::{NOISE_FIGURE_DB, careful_sinr_db};
use open_beacon_domain::model::{
    BandName, Carrier, CarrierRole, ConnectionMode, GatewaySpec, LinkAssumptions, SiteSettings, Technology,
};

/// Carriers at once where the gateway is not known (common practice, no source).
const USUAL_CARRIERS: usize = 4;
/// Payload of an Ethernet rate: 1460 of 1538 bytes of a full frame (IEEE 802.3, IPv4 and TCP without options).
pub const ETHERNET_PAYLOAD: f64 = 1460.0 / 1538.0;

/// Layers a mast offers: two below 1 GHz, four above (common practice, no source).
pub fn mast_layers(frequency_mhz: f64) -> u8 {
    if frequency_mhz < 1000.0 { 2 } else { 4 }
}

/// What more receive branches than two gather, dB: half of 10 lg (branches/2), because branches of one antenna hear
/// nearly the same (common practice, no source); the whole is lost with one.
pub fn gathered_db(branches: u8) -> f64 {
    let whole = 10.0 * (f64::from(branches.max(1)) / 2.0).log10();
    if branches > 2 { whole / 2.0 } else { whole }
}

/// True where a technology is part of the connection.
pub fn is_used(technology: Technology, mode: ConnectionMode) -> bool {
    match mode {
        ConnectionMode::Lte => technology == Technology::Lte,
        ConnectionMode::Sa => technology == Technology::Nr,
        _ => true,
    }
}

/// How a gateway would be connected: without NSA or SA it falls back to what it can.
pub fn mode_of(gateway: &GatewaySpec, mode: ConnectionMode) -> ConnectionMode {
    match mode {
        ConnectionMode::Nsa if !gateway.non_standalone => ConnectionMode::Lte,
        ConnectionMode::Sa if !gateway.standalone => ConnectionMode::Lte,
        _ => mode,
    }
}

/// How a band reaches a gateway.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Branches {
    /// Receive branches; 0 for a band it does not carry.
    pub count: u8,
    /// Spatial layers that leads, gateway and mast allow.
    pub layers: u8,
}

/// A gateway as a receiver.
#[derive(Clone, Copy, Debug)]
pub struct Receiver<'a> {
    antenna: AimAntenna<'a>,
    settings: &'a SiteSettings,
    /// How it is connected here.
    pub mode: ConnectionMode,
    /// Leads used at the most.
    leads: u8,
}

impl<'a> Receiver<'a> {
    /// Of a kit's gateway, or as the site's assumptions have it. `mode`: how the house is connected when nothing is locked.
    pub fn new(antenna: AimAntenna<'a>, settings: &'a SiteSettings, mode: ConnectionMode, leads: u8) -> Self {
        let mut made = Self { antenna, settings, mode, leads };
        made.mode = made.gateway().map_or(mode, |gateway| mode_of(gateway, mode));
        made
    }

    fn gateway(&self) -> Option<&'a GatewaySpec> {
        match self.antenna {
            AimAntenna::Kit(kit) => kit.gateway.map(|(_, gateway)| gateway),
            _ => None,
        }
    }

    /// Noise figure, dB.
    pub fn noise_figure_db(&self) -> f64 {
        self.gateway().map_or(NOISE_FIGURE_DB, |gateway| gateway.noise_figure_db)
    }

    /// Carriers at once.
    pub fn aggregated(&self) -> usize {
        self.gateway().map_or(USUAL_CARRIERS, |gateway| usize::from(gateway.aggregated_carriers.max(1)))
    }

    /// How a band reaches it.
    pub fn branches(&self, band: BandName, frequency_mhz: f64) -> Branches {
        let none = Branches { count: 0, layers: 0 };
        if !is_used(band.technology, self.mode) {
            return none;
        }
        let assumed = self.settings.link.layers.min(self.leads);
        let (has, count) = match self.antenna {
            AimAntenna::Kit(kit) if kit.is_deaf() => return none,
            AimAntenna::Kit(kit) => match kit.gateway {
                Some((_, gateway)) => {
                    let has = gateway.layers_on(band);
                    // An outdoor unit's or a stock antenna's elements are what the gateway has layers for.
                    let reached = if kit.antenna.is_some() { branches_on(kit, band) } else { has };
                    (has, reached.min(self.leads))
                }
                None => (assumed, assumed.max(2)),
            },
            _ => (assumed, assumed.max(2)),
        };
        Branches { count, layers: has.min(count).min(mast_layers(frequency_mhz)) }
    }

    /// Assumptions for a band that reaches it so.
    pub fn link(&self, branches: Branches) -> LinkAssumptions {
        let power = self.gateway().map(|gateway| gateway.transmit_power_dbm);
        LinkAssumptions {
            layers: branches.layers,
            transmit_power_dbm: power.unwrap_or(self.settings.link.transmit_power_dbm),
            ..self.settings.link.clone()
        }
    }

    /// Rates of a carrier as data sees it: with what the branches gather.
    pub fn rates(&self, received: &Carrier, branches: Branches) -> CarrierRates {
        let mut data = received.clone();
        data.sinr_db = careful_sinr_db(received).map(|sinr_db| sinr_db + gathered_db(branches.count));
        // One rule for what was read and for what is foretold: layers by clean signal, not by a rank of the moment.
        (data.rsrq_db, data.rank) = (None, None);
        carrier_rates(&data, &self.link(branches))
    }

    /// Lowest of LAN port, cable and injector, Mbit/s of payload; infinite where no gateway is known.
    pub fn lan_cap_mbps(&self) -> f64 {
        let AimAntenna::Kit(kit) = self.antenna else { return f64::INFINITY };
        let Some((_, gateway)) = kit.gateway else { return f64::INFINITY };
        let wire = kit.unit().map_or(f64::INFINITY, |_| {
            let cable = kit.ethernet.map_or(f64::INFINITY, |(_, cable)| cable.lan_mbps);
            let injector = kit.injector.map_or(f64::INFINITY, |(_, injector)| injector.lan_mbps);
            cable.min(injector)
        });
        gateway.lan_mbps.min(wire) * ETHERNET_PAYLOAD
    }

    /// Carriers together, no more than the gateway takes at once, the best first.
    pub fn together(&self, received: &[(Carrier, CarrierRates)]) -> AchievableRate {
        let offers: Vec<Offer> = received.iter().map(|one| Offer::likely(one, self.mode)).collect();
        let taken = taken(&offers, self.aggregated());
        let carriers: Vec<Carrier> = taken
            .down
            .iter()
            .map(|at| {
                let mut carrier = received[*at].0.clone();
                if taken.up.contains(at) {
                    carrier.role = CarrierRole::Primary;
                }
                carrier
            })
            .collect();
        together(&carriers, taken.down.iter().map(|at| received[*at].1).collect(), self.mode)
    }
}

/// One carrier among those that a gateway may take.
#[derive(Clone, Copy, Debug)]
pub(super) struct Offer {
    pub technology: Technology,
    /// It bears the uplink where it is taken.
    pub carries_uplink: bool,
    pub down_mbps: f64,
    pub up_mbps: f64,
}

impl Offer {
    /// By its likely rates.
    pub fn likely((carrier, rates): &(Carrier, CarrierRates), mode: ConnectionMode) -> Self {
        let likely = |range: Option<Estimate>| range.map_or(0.0, |range| range.likely);
        Self {
            technology: carrier.technology,
            carries_uplink: carries_uplink(carrier, mode),
            down_mbps: likely(rates.down_mbps),
            up_mbps: likely(rates.up_mbps),
        }
    }
}

/// Places of the carriers that are taken together: all for the downlink, the best first, and those that bear the uplink.
pub(super) struct Taken {
    pub down: Vec<usize>,
    pub up: Vec<usize>,
}

/// The best by download, no more than the gateway takes at once. Of each technology one bears the uplink; where the one that bore it is out of
/// reach, the network takes the best of the others.
pub(super) fn taken(offers: &[Offer], at_once: usize) -> Taken {
    let mut down: Vec<usize> = (0..offers.len()).collect();
    down.sort_by(|a, b| offers[*b].down_mbps.total_cmp(&offers[*a].down_mbps));
    down.truncate(at_once);
    let bearing = |technology: Technology| {
        let own = || down.iter().copied().filter(|at| offers[*at].technology == technology);
        let best = |a: &usize, b: &usize| offers[*a].up_mbps.total_cmp(&offers[*b].up_mbps);
        own().filter(|at| offers[*at].carries_uplink).max_by(best).or_else(|| own().max_by(best))
    };
    let up = [Technology::Lte, Technology::Nr].into_iter().filter_map(bearing).collect();
    Taken { down, up }
}

/// Sums of what is taken, Mbit/s down and up; where both technologies send, each has half of the power, and `shared_mbps` says what a
/// carrier's upload is then.
pub(super) fn sum_of(offers: &[Offer], at_once: usize, shared_mbps: impl Fn(usize) -> f64) -> [f64; 2] {
    let taken = taken(offers, at_once);
    let down = taken.down.iter().map(|at| offers[*at].down_mbps).sum();
    let up = match taken.up.as_slice() {
        [alone] => offers[*alone].up_mbps,
        both => both.iter().map(|at| shared_mbps(*at)).sum(),
    };
    [down, up]
}
