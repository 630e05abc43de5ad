//! What a kit does at a site, band by band, with its margin: [`crate::link::predict`] seen from the kit.

use super::need::{Need, need};
use super::scenario::Scenario;
use crate::capacity::Estimate;
use crate::hardware::budget::{Budget, budget};
use crate::hardware::resolve::Resolved;
use crate::link::antenna::{Aim, AimAntenna};
use crate::link::by_hour::DayRates;
use crate::link::cells::Origin;
use crate::link::doubts::RangeCause;
use crate::link::landscape::AntennaLocation;
use crate::link::margin::Margin;
use crate::link::predict::{CarrierPrediction, LinkPrediction, LinkSetup, predict};
use crate::link::why::Why;
use crate::metrics::{Limit, limits};
use crate::model::BandName;
use serde::{Deserialize, Serialize};

/// One band with a kit.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandOutlook {
    /// Operating band.
    pub band: BandName,
    /// Channel bandwidth, MHz.
    pub bandwidth_mhz: Option<f64>,
    /// What it was made from.
    pub origin: Origin,
    /// Gains and losses one after the other.
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
    /// Reference signal received power, dBm.
    pub rsrp_dbm: Estimate,
    /// Change of signal power, dB.
    pub rsrp_change_db: Estimate,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Estimate,
    /// Change of signal to interference and noise, dB.
    pub sinr_change_db: f64,
    /// Interference and noise together, change against the reading, dB.
    pub disturbance_change_db: f64,
    /// How much less of the interferers the antenna hears than of the mast, dB.
    pub rejection_db: f64,
    /// What limits it.
    pub limit: Limit,
    /// Spatial layers that leads, gateway and mast allow.
    pub layers: u8,
    /// Whether it is in what is expected together: of carriers that were never given beside one another some are.
    pub counts: bool,
    /// Download, Mbit/s.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// Whether the gateway’s power limits the upload.
    pub up_power_limited: bool,
}

/// What a second pair of leads adds.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SecondPair {
    /// With it, Mbit/s.
    pub with_mbps: f64,
    /// Without it, Mbit/s.
    pub without_mbps: f64,
}

/// A kit at a site.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Outlook {
    /// By band.
    pub bands: Vec<BandOutlook>,
    /// What the carriers could move together, the cell ours alone, Mbit/s.
    pub possible_down_mbps: Option<Estimate>,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Option<Estimate>,
    /// What is to be expected: possible, times the share that was measured today, under the wire's cap.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// Lowest of LAN port, cable and injector, Mbit/s of payload.
    /// Where it is taken to point, degrees from true north; `None` where the mast's place is not known.
    pub bearing_deg: Option<f64>,
    /// What the wire to the router carries, Mbit/s.
    pub lan_cap_mbps: f64,
    /// Whether the wire to the router limits it.
    pub lan_caps: bool,
    /// What makes the download's range as wide as it is, the most first.
    pub doubts: Vec<RangeCause>,
    /// What the household needs.
    pub need: Need,
    /// `None` where the need is not met even now, or nothing is known.
    pub margin: Option<Margin>,
    /// What to expect at the slowest and at the fastest hour of a day.
    pub day: Option<DayRates>,
    /// Where the figures come from.
    pub why: Option<Why>,
    /// What a second pair of antennas would add.
    pub second_pair: Option<SecondPair>,
}

/// What a kit does here, at a place.
pub fn outlook(kit: &Resolved, scenario: &Scenario, location: AntennaLocation) -> Outlook {
    let settings = scenario.settings();
    let setup = LinkSetup::new(location, AimAntenna::Kit(kit));
    // Parts without a gateway receive nothing yet.
    let found = kit.gateway.and_then(|_| predict(scenario.env, &setup));
    let need = need(&settings.kit.uses);
    let margin = found.as_ref().and_then(|one| one.margin(scenario.env, need.down_mbps, need.up_mbps));
    Outlook {
        bands: band_outlooks(kit, scenario, found.as_ref()),
        possible_down_mbps: found.as_ref().and_then(|one| one.possible_down_mbps),
        possible_up_mbps: found.as_ref().and_then(|one| one.possible_up_mbps),
        down_mbps: found.as_ref().and_then(|one| one.down_mbps),
        up_mbps: found.as_ref().and_then(|one| one.up_mbps),
        bearing_deg: found.as_ref().and_then(|one| one.aim).map(|aim| aim.azimuth_deg),
        lan_cap_mbps: found.as_ref().map_or(0.0, |one| one.lan_cap_mbps),
        lan_caps: found.as_ref().is_some_and(|one| one.lan_caps),
        doubts: found.as_ref().map_or_else(Vec::new, |one| one.doubts(scenario.env)),
        margin,
        day: found.as_ref().and_then(|one| one.over_a_day(scenario.env)),
        why: found.as_ref().and_then(|one| one.why(scenario.env)),
        need,
        second_pair: second_pair(scenario, &setup, found.as_ref()),
    }
}

fn band_outlooks(kit: &Resolved, scenario: &Scenario, found: Option<&LinkPrediction>) -> Vec<BandOutlook> {
    let settings = scenario.settings();
    let temperature_c = settings.kit.cable_temperature_c;
    let stock_gain_dbi = settings.outdoor.stock_gain_dbi;
    // What the kit receives, and of the bands that the site has besides those that it does not.
    let received: Vec<&CarrierPrediction> = found.iter().flat_map(|one| &one.carriers).collect();
    let has = |band: BandName| received.iter().any(|one| scenario.env.cells[one.cell].band == band);
    let lacks = scenario.cells.iter().filter(|cell| !has(scenario.env.cells[**cell].band));
    let mut listed: Vec<(usize, Option<&CarrierPrediction>)> =
        received.iter().map(|one| (one.cell, Some(*one))).chain(lacks.map(|cell| (*cell, None))).collect();
    let width = |cell: usize| scenario.env.cells[cell].carrier.bandwidth_mhz.unwrap_or(0.0);
    listed.sort_by(|a, b| width(b.0).total_cmp(&width(a.0)));
    listed
        .into_iter()
        .map(|(cell, one)| {
            let own = &scenario.env.cells[cell];
            BandOutlook {
                band: own.band,
                bandwidth_mhz: own.carrier.bandwidth_mhz,
                origin: own.origin.clone(),
                uplink_feed_loss_db: budget(kit, own.uplink_mhz, temperature_c, 0.0).feed_loss_db,
                budget: budget(kit, own.frequency_mhz, temperature_c, stock_gain_dbi),
                radio: one.map(|one| radio(kit, scenario, found.and_then(|found| found.aim), one)),
            }
        })
        .collect()
}

fn radio(kit: &Resolved, scenario: &Scenario, aim: Option<Aim>, one: &CarrierPrediction) -> BandRadio {
    let (rsrp_dbm, sinr_db) = (one.rsrp_dbm(), one.sinr_db());
    let (carrier, rates) = &one.likely;
    // Against today; a cell that is not received today is against itself.
    let before = scenario.received_today(one.cell).copied().unwrap_or(one.received);
    let cleanest_sinr_db = scenario.env.cleanest_sinr_db();
    let (rsrp_before_dbm, sinr_before_db) =
        (before.rsrp_moments().at(0.0), before.sinr_moments().at(0.0).min(cleanest_sinr_db));
    let disturbance_change_db = (rsrp_dbm.likely - sinr_db.likely) - (rsrp_before_dbm - sinr_before_db);
    BandRadio {
        rsrp_dbm,
        rsrp_change_db: rsrp_dbm.map(|dbm| dbm - rsrp_before_dbm),
        sinr_db,
        sinr_change_db: sinr_db.likely - sinr_before_db,
        disturbance_change_db,
        rejection_db: AimAntenna::Kit(kit).rejection_db(&scenario.env.interferers_off_deg(aim)),
        limit: limits(carrier).limit,
        layers: one.branches.layers,
        counts: one.counts,
        down_mbps: rates.down_mbps,
        up_mbps: rates.up_mbps,
        up_power_limited: rates.up_power_limited,
    }
}

/// Four leads against two, where the kit could have four.
fn second_pair(scenario: &Scenario, setup: &LinkSetup, four: Option<&LinkPrediction>) -> Option<SecondPair> {
    let four = four.filter(|one| one.carriers.iter().any(|one| one.branches.count >= 4))?;
    let two = predict(scenario.env, &LinkSetup { leads: 2, ..setup.clone() });
    let without_mbps = two.map_or(0.0, |two| two.faded_mbps(1, 0.0).0);
    Some(SecondPair { with_mbps: four.faded_mbps(1, 0.0).0, without_mbps })
}
