//! What a kit does at a site: signal, clean signal, what limits, rates and margin, each as a range.

use super::air::heard_with;
use super::budget::{Budget, below_db, budget};
use super::need::{Need, need};
use super::ports::branches_on;
use super::resolve::Resolved;
use super::scene::{Origin, Scene, SceneCarrier, is_used, open_change_db};
use crate::antenna::pattern::rejection_db;
use crate::capacity::Ranged;
use crate::capacity::possible::{CarrierRates, Possible, carrier_rates, carries_uplink, together};
use crate::capacity::shannon::LEAST_SINR_DB;
use crate::geo::turn_deg;
use crate::metrics::{Limit, NOISE_FIGURE_DB, careful_sinr_db, limits};
use crate::model::{
    AntennaSpec, BandName, Carrier, CarrierRole, ConnectionMode, GatewaySpec, LinkAssumptions, Mount,
    Technology,
};
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};

/// One band with a kit.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandOutlook {
    pub band: BandName,
    pub bandwidth_mhz: Option<f64>,
    pub origin: Origin,
    pub budget: Budget,
    /// Feed loss at the uplink's frequency, dB: it lowers what is radiated dB for dB.
    pub uplink_feed_loss_db: f64,
    /// `None`: the kit does not carry this band.
    pub radio: Option<BandRadio>,
}

/// What is heard on a band with a kit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandRadio {
    pub rsrp_dbm: Ranged,
    pub rsrp_change_db: Ranged,
    pub sinr_db: Ranged,
    pub sinr_change_db: f64,
    /// Interference and noise together, change against the reading, dB.
    pub disturbance_change_db: f64,
    /// How much less of the interferers the antenna hears than of the mast, dB.
    pub rejection_db: f64,
    pub limit: Limit,
    /// How far the signal may fall before this band is lost, dB: SINR above the least that carries data.
    pub margin_db: Ranged,
    /// Spatial layers that leads, gateway and mast allow.
    pub layers: u8,
    pub down_mbps: Option<Ranged>,
    pub up_mbps: Option<Ranged>,
    pub up_power_limited: bool,
}

/// What a second pair of leads adds.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SecondPair {
    pub with_mbps: f64,
    pub without_mbps: f64,
}

/// How far the signal may fall before the need is missed.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Margin {
    /// Likely, dB.
    pub margin_db: f64,
    /// With luck against it and for it, dB; 0 where the need is missed then.
    pub low_db: f64,
    pub high_db: f64,
    /// Share of time that the need is met, for fading of 6 dB spread (TR 38.901 table 7.4.1-1 has 4 to 8).
    pub availability: f64,
}

/// A kit at a site.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Outlook {
    pub bands: Vec<BandOutlook>,
    /// What the carriers could move together, the cell ours alone, Mbit/s.
    pub possible_down_mbps: Option<Ranged>,
    pub possible_up_mbps: Option<Ranged>,
    /// What is to be expected: possible, times the share that was measured today, under the wire's cap.
    pub down_mbps: Option<Ranged>,
    pub up_mbps: Option<Ranged>,
    /// Lowest of LAN port, cable and injector, Mbit/s of payload.
    pub lan_cap_mbps: f64,
    pub lan_caps: bool,
    pub need: Need,
    /// `None` where the need is not met even now, or nothing is known.
    pub margin: Option<Margin>,
    pub second_pair: Option<SecondPair>,
}

/// Layers a mast offers: two below 1 GHz, four above (common practice, no source).
pub(super) fn mast_layers(frequency_mhz: f64) -> u8 {
    if frequency_mhz < 1000.0 { 2 } else { 4 }
}

/// What more receive branches than two gather, dB: half of 10 lg (branches/2), because branches of one antenna hear
/// nearly the same (common practice, no source); the whole is lost with one.
pub(super) fn gathered_db(branches: u8) -> f64 {
    let whole = 10.0 * (f64::from(branches.max(1)) / 2.0).log10();
    if branches > 2 { whole / 2.0 } else { whole }
}

/// What the kit's antenna rejects of the interferers: at their bearings where they are known with the mast's, else all
/// round. 0 for stock antennas.
pub fn site_rejection_db(kit: &Resolved, scene: &Scene) -> f64 {
    kit.looks().map_or(0.0, |antenna| antenna_rejection_db(antenna, scene))
}

/// The same for an antenna.
pub fn antenna_rejection_db(antenna: &AntennaSpec, scene: &Scene) -> f64 {
    let bearings = &scene.settings.kit.interferer_bearings_deg;
    let off: Vec<f64> = match &scene.settings.known_mast {
        Some(mast) => bearings.iter().map(|bearing| turn_deg(mast.bearing_deg, *bearing)).collect(),
        None => Vec::new(),
    };
    rejection_db(|angle| below_db(antenna, angle), &off)
}

/// A carrier that the kit carries, ready to be moved.
struct Carried<'a> {
    at: usize,
    one: &'a SceneCarrier,
    change_db: Ranged,
    noisier_db: f64,
    branches: u8,
    link: LinkAssumptions,
}

impl Carried<'_> {
    fn carrier(&self, change_db: f64, rejection_db: f64) -> Carrier {
        heard_with(&self.one.carrier, change_db, rejection_db, self.noisier_db)
    }

    /// Rates of the carrier as data sees it: with what the branches gather.
    fn rates(&self, heard: &Carrier) -> CarrierRates {
        let mut data = heard.clone();
        data.sinr_db = careful_sinr_db(heard).map(|sinr_db| sinr_db + gathered_db(self.branches));
        carrier_rates(&data, &self.link)
    }
}

/// How many carriers of `scene` the kit carries, and how. `leads`: at the most.
fn carried<'a>(
    kit: &Resolved,
    scene: &'a Scene,
    budgets: &[Budget],
    placed: Option<Mount>,
    height_m: Option<f64>,
    leads: u8,
) -> Vec<Carried<'a>> {
    let Some((_, gateway)) = kit.gateway.filter(|_| !kit.is_deaf()) else { return Vec::new() };
    let mount = kit.mount_kind(placed);
    let mode = mode_with(kit, scene.mode);
    scene
        .carriers
        .iter()
        .enumerate()
        .filter(|(_, one)| is_used(one.band.technology, mode))
        .filter_map(|(at, one)| {
            let net_gain_dbi = budgets[at].net_gain_dbi?;
            let has = gateway.layers_on(one.band);
            // An outdoor unit's or a stock antenna's elements are what the gateway has layers for.
            let branches =
                if kit.antenna.is_some() { branches_on(kit, one.band).min(leads) } else { has.min(leads) };
            let layers = has.min(branches).min(mast_layers(one.frequency_mhz));
            if layers == 0 {
                return None;
            }
            // The gateway's own antennas stay where the carrier was heard, unless a place is chosen for them.
            let stays = kit.looks().is_none() && placed.is_none();
            let moved = if stays {
                Ranged::exactly(0.0)
            } else {
                open_change_db(one, mount, height_m.unwrap_or(scene.settings.kit.height_m), &scene.settings)
            };
            Some(Carried {
                at,
                one,
                change_db: moved.map(|db| db + net_gain_dbi - one.heard_gain_dbi),
                noisier_db: gateway.noise_figure_db - NOISE_FIGURE_DB,
                branches,
                link: LinkAssumptions {
                    layers,
                    transmit_power_dbm: gateway.transmit_power_dbm,
                    ..scene.settings.link.clone()
                },
            })
        })
        .collect()
}

/// How the gateway would be connected: without NSA or SA it falls back to what it can.
fn mode_with(kit: &Resolved, mode: ConnectionMode) -> ConnectionMode {
    kit.gateway.map_or(mode, |(_, gateway)| mode_of(gateway, mode))
}

/// The same for a gateway.
pub(super) fn mode_of(gateway: &GatewaySpec, mode: ConnectionMode) -> ConnectionMode {
    match mode {
        ConnectionMode::Nsa if !gateway.non_standalone => ConnectionMode::Lte,
        ConnectionMode::Sa if !gateway.standalone => ConnectionMode::Lte,
        _ => mode,
    }
}

/// Carriers together, no more than the gateway aggregates, the best first.
fn aggregate(kit: &Resolved, mode: ConnectionMode, heard: &[(Carrier, CarrierRates)]) -> Possible {
    let most = kit.gateway.map_or(0, |(_, gateway)| usize::from(gateway.aggregated_carriers.max(1)));
    let mut best: Vec<&(Carrier, CarrierRates)> = heard.iter().collect();
    let down = |one: &(Carrier, CarrierRates)| one.1.down_mbps.map_or(0.0, |range| range.likely);
    best.sort_by(|a, b| down(b).total_cmp(&down(a)));
    best.truncate(most);
    let mut carriers: Vec<Carrier> = best.iter().map(|(carrier, _)| carrier.clone()).collect();
    for technology in [Technology::Lte, Technology::Nr] {
        let holds = |carrier: &Carrier| carrier.technology == technology && carries_uplink(carrier, mode);
        if carriers.iter().any(holds) {
            continue;
        }
        // The cell that bore the uplink is out of reach: the network takes the best of the others.
        let up = |at: usize| best[at].1.up_mbps.map_or(0.0, |range| range.likely);
        let next = (0..carriers.len())
            .filter(|at| carriers[*at].technology == technology)
            .max_by(|a, b| up(*a).total_cmp(&up(*b)));
        if let Some(at) = next {
            carriers[at].role = CarrierRole::Primary;
        }
    }
    together(&carriers, best.iter().map(|(_, rates)| *rates).collect(), mode)
}

/// An unlucky, a likely and a lucky case: which end of each change, and what share of the rejection. An unlucky
/// direction rejects half, a lucky one half as much again.
const CASES: [Case; 3] =
    [Case { of: |range| range.low, share: 0.5 }, LIKELY, Case { of: |range| range.high, share: 1.5 }];

const LIKELY: Case = Case { of: |range| range.likely, share: 1.0 };

#[derive(Clone, Copy)]
struct Case {
    of: fn(Ranged) -> f64,
    share: f64,
}

/// Rates in one case with the wanted signal fallen by `fade_db`, Mbit/s down and up.
fn rates_in(
    kit: &Resolved,
    scene: &Scene,
    carried: &[Carried],
    rejection: f64,
    case: Case,
    fade_db: f64,
) -> (f64, f64) {
    let heard: Vec<(Carrier, CarrierRates)> = carried
        .iter()
        .map(|one| {
            let mut heard = one.carrier((case.of)(one.change_db), case.share * rejection);
            heard.rsrp_dbm = heard.rsrp_dbm.map(|rsrp| rsrp - fade_db);
            heard.sinr_db = heard.sinr_db.map(|sinr| sinr - fade_db);
            let rates = one.rates(&heard);
            (heard, rates)
        })
        .collect();
    let sum = aggregate(kit, mode_with(kit, scene.mode), &heard);
    (sum.down_mbps.map_or(0.0, |range| range.likely), sum.up_mbps.map_or(0.0, |range| range.likely))
}

/// Deepest fade searched, dB.
const DEEPEST_FADE_DB: f64 = 60.0;
/// Spread of slow fading, dB: between line of sight's 4 to 6 and the obstructed 8 of TR 38.901 table 7.4.1-1.
const FADING_SPREAD_DB: f64 = 6.0;
/// Payload of an Ethernet rate: 1460 of 1538 bytes of a full frame (IEEE 802.3, IPv4 and TCP without options).
pub(super) const ETHERNET_PAYLOAD: f64 = 1460.0 / 1538.0;

/// What a kit does here. `placed`: mount of the position where one is chosen; `height_m` its height.
pub fn outlook(kit: &Resolved, scene: &Scene, placed: Option<Mount>, height_m: Option<f64>) -> Outlook {
    let settings = &scene.settings;
    let temperature_c = settings.kit.cable_temperature_c;
    let stock = settings.outdoor.stock_gain_dbi;
    let budgets: Vec<Budget> =
        scene.carriers.iter().map(|one| budget(kit, one.frequency_mhz, temperature_c, stock)).collect();
    let all = carried(kit, scene, &budgets, placed, height_m, 4);
    let rejection = site_rejection_db(kit, scene);
    let moved: Vec<[(Carrier, CarrierRates); 3]> = all
        .iter()
        .map(|one| {
            CASES.map(|case| {
                let heard = one.carrier((case.of)(one.change_db), case.share * rejection);
                let rates = one.rates(&heard);
                (heard, rates)
            })
        })
        .collect();
    let mode = mode_with(kit, scene.mode);
    let case = |index: usize| {
        let heard: Vec<(Carrier, CarrierRates)> = moved.iter().map(|three| three[index].clone()).collect();
        aggregate(kit, mode, &heard)
    };
    let (low, likely, high) = (case(0), case(1), case(2));
    // Doubts of place and of what a carrier carries are not added up: each case brings its own likely figure.
    let range = |of: fn(&Possible) -> Option<Ranged>| -> Option<Ranged> {
        Some(Ranged { low: of(&low)?.likely, likely: of(&likely)?.likely, high: of(&high)?.likely })
    };
    let possible_down_mbps = range(|sum| sum.down_mbps);
    let possible_up_mbps = range(|sum| sum.up_mbps);
    let wire = kit.unit().map_or(f64::INFINITY, |_| {
        let cable = kit.ethernet.map_or(f64::INFINITY, |(_, cable)| cable.lan_mbps);
        let injector = kit.injector.map_or(f64::INFINITY, |(_, injector)| injector.lan_mbps);
        cable.min(injector)
    });
    let lan_cap_mbps = kit.gateway.map_or(0.0, |(_, gateway)| gateway.lan_mbps.min(wire)) * ETHERNET_PAYLOAD;
    let down_share = measured_share(scene.measured_down_mbps, scene.base_down_mbps);
    let up_share = measured_share(scene.measured_up_mbps, scene.base_up_mbps);
    let expected = |possible: Option<Ranged>, share: f64| {
        possible.map(|range| range.map(|mbps| (mbps * share).min(lan_cap_mbps)))
    };
    let need = need(&settings.kit.uses);
    let met = |case: Case, fade_db: f64| {
        let (down, up) = rates_in(kit, scene, &all, rejection, case, fade_db);
        (down * down_share).min(lan_cap_mbps) >= need.down_mbps && up * up_share >= need.up_mbps
    };
    Outlook {
        bands: band_outlooks(kit, scene, budgets, &all, &moved, rejection),
        possible_down_mbps,
        possible_up_mbps,
        down_mbps: expected(possible_down_mbps, down_share),
        up_mbps: expected(possible_up_mbps, up_share),
        lan_cap_mbps,
        lan_caps: possible_down_mbps.is_some_and(|range| range.likely * down_share > lan_cap_mbps),
        margin: margin(&met),
        need,
        second_pair: second_pair(kit, scene, &all, rejection, (placed, height_m)),
    }
}

/// What of the possible was measured today, 1 at the most and where nothing was measured.
pub(super) fn measured_share(measured_mbps: Option<f64>, possible_mbps: Option<f64>) -> f64 {
    match (measured_mbps, possible_mbps) {
        (Some(measured), Some(possible)) if possible > 0.0 => (measured / possible).min(1.0),
        _ => 1.0,
    }
}

/// How far the signal may fall in each case; `None` where the need is not met in the likely one.
fn margin(met: &dyn Fn(Case, f64) -> bool) -> Option<Margin> {
    let [low_db, margin_db, high_db] = CASES.map(|case| deepest_fade_db(&|fade_db| met(case, fade_db)));
    let margin_db = margin_db?;
    let availability = Normal::new(0.0, FADING_SPREAD_DB).map_or(0.5, |spread| spread.cdf(margin_db));
    Some(Margin {
        margin_db,
        low_db: low_db.unwrap_or(0.0),
        high_db: high_db.unwrap_or(margin_db),
        availability,
    })
}

/// The deepest fade at which `met` still holds, to a tenth of a decibel.
fn deepest_fade_db(met: &dyn Fn(f64) -> bool) -> Option<f64> {
    if !met(0.0) {
        return None;
    }
    let (mut held, mut lost) = (0.0, DEEPEST_FADE_DB);
    while lost - held > 0.1 {
        let middle = f64::midpoint(held, lost);
        if met(middle) { held = middle } else { lost = middle }
    }
    Some(held)
}

fn band_outlooks(
    kit: &Resolved,
    scene: &Scene,
    budgets: Vec<Budget>,
    all: &[Carried],
    moved: &[[(Carrier, CarrierRates); 3]],
    rejection_db: f64,
) -> Vec<BandOutlook> {
    let temperature_c = scene.settings.kit.cable_temperature_c;
    let radio = |at: usize| -> Option<BandRadio> {
        let index = all.iter().position(|one| one.at == at)?;
        let [low, likely, high] = &moved[index];
        let ranged = |of: fn(&Carrier) -> Option<f64>| {
            Some(Ranged { low: of(&low.0)?, likely: of(&likely.0)?, high: of(&high.0)? })
        };
        let rsrp_dbm = ranged(|carrier| carrier.rsrp_dbm)?;
        let before = &all[index].one.carrier;
        let sinr_db = ranged(|carrier| carrier.sinr_db).unwrap_or(Ranged::exactly(0.0));
        let disturbance = |carrier: &Carrier| limits(carrier).disturbance_dbm.unwrap_or(0.0);
        Some(BandRadio {
            rsrp_dbm,
            rsrp_change_db: all[index].change_db,
            sinr_db,
            sinr_change_db: sinr_db.likely - before.sinr_db.unwrap_or(sinr_db.likely),
            disturbance_change_db: disturbance(&likely.0) - disturbance(before),
            rejection_db,
            limit: limits(&likely.0).limit,
            margin_db: sinr_db.map(|db| (db - LEAST_SINR_DB).max(0.0)),
            layers: all[index].link.layers,
            down_mbps: likely.1.down_mbps,
            up_mbps: likely.1.up_mbps,
            up_power_limited: likely.1.up_power_limited,
        })
    };
    scene
        .carriers
        .iter()
        .zip(budgets)
        .enumerate()
        .map(|(at, (one, own))| BandOutlook {
            band: one.band,
            bandwidth_mhz: one.carrier.bandwidth_mhz,
            origin: one.origin.clone(),
            uplink_feed_loss_db: budget(kit, one.uplink_mhz, temperature_c, 0.0).feed_loss_db,
            budget: own,
            radio: radio(at),
        })
        .collect()
}

/// Four leads against two, where the kit could have four.
fn second_pair(
    kit: &Resolved,
    scene: &Scene,
    all: &[Carried],
    rejection: f64,
    (placed, height_m): (Option<Mount>, Option<f64>),
) -> Option<SecondPair> {
    if all.iter().all(|one| one.branches < 4) {
        return None;
    }
    let budgets: Vec<Budget> = scene
        .carriers
        .iter()
        .map(|one| {
            let settings = &scene.settings;
            budget(kit, one.frequency_mhz, settings.kit.cable_temperature_c, settings.outdoor.stock_gain_dbi)
        })
        .collect();
    let two = carried(kit, scene, &budgets, placed, height_m, 2);
    let (with_mbps, _) = rates_in(kit, scene, all, rejection, LIKELY, 0.0);
    let (without_mbps, _) = rates_in(kit, scene, &two, rejection, LIKELY, 0.0);
    Some(SecondPair { with_mbps, without_mbps })
}
