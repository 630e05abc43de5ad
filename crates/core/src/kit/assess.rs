//! One kit at one site: chain, findings, outlook and effort together.

use super::check::{Wanted, check};
use super::effort::{Effort, PartLine, effort, parts_list};
use super::finding::{At, Found, KitFinding, Severity};
use super::mounting::Placing;
use super::ports::port_maps;
use super::predict::{BandOutlook, BandRadio, Outlook, outlook};
use super::scenario::Scenario;
use crate::geo::GeoPoint;
use crate::hardware::budget::LossOf;
use crate::hardware::chain::{Chain, chain};
use crate::hardware::resolve::Resolved;
use crate::link::landscape::AntennaLocation;
use crate::metrics::Limit;
use crate::model::{AntennaKind, KitSpec, Mount, PortLink, PositionId};
use serde::{Deserialize, Serialize};

/// Everything said of a kit.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Assessment {
    /// From antenna to gateway, piece by piece.
    pub chain: Chain,
    /// What it would do here.
    pub outlook: Outlook,
    /// The gravest first.
    pub found: Vec<Found>,
    /// What is said on top.
    pub title: KitFinding,
    /// Price, time and holes.
    pub effort: Effort,
    /// Parts, one an entry.
    pub parts: Vec<PartLine>,
    /// The plan first, then others worth a test.
    pub port_maps: Vec<PortMap>,
    /// How it is held.
    pub mount: Mount,
    /// Whether the antenna stands in the open.
    pub in_open: bool,
}

/// Leads to ports.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortMap {
    /// Which antenna port goes to which of the gateway.
    pub links: Vec<PortLink>,
}

/// Where a kit is to go, as far as it is known.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Place {
    /// Of the position chosen for it.
    pub position: Option<PositionId>,
    /// Where.
    pub place: Option<GeoPoint>,
    /// What it stands on.
    pub mount: Option<Mount>,
    /// Height above ground, m.
    pub height_m: Option<f64>,
}

/// Where a kit's antenna is: at its position, else where kits go here; a gateway's own antennas stay where it stands today.
/// The kit's own height goes first.
pub fn location_of(kit: &Resolved, scenario: &Scenario, place: Place) -> AntennaLocation {
    if place.position.is_none() && place.mount.is_none() && kit.antenna_spec().is_none() {
        return scenario.stock_location();
    }
    let height_m = kit.kit.height_above_ground_m.or(place.height_m).unwrap_or(scenario.reference.height_m);
    let mount = kit.mount_kind(place.mount);
    if place.position.is_none() && mount.is_indoors() == scenario.reference.mount.is_indoors() {
        return AntennaLocation { height_m, ..scenario.reference };
    }
    AntennaLocation {
        place: place.place.or(scenario.reference.place),
        height_m,
        mount,
        position: place.position,
    }
}

/// Judges a kit at a place.
pub fn assess(kit: &Resolved, scenario: &Scenario, place: Place) -> Assessment {
    let outlook = outlook(kit, scenario, location_of(kit, scenario, place));
    let wanted = wanted(scenario, place.mount);
    let mut found = check(kit, &wanted);
    here(kit, scenario, &outlook, &mut found);
    found.sort_by_key(|one| one.severity);
    Assessment {
        chain: chain(kit, wanted.placing.in_open(kit)),
        title: title(&outlook),
        found,
        effort: effort(kit),
        parts: parts_list(kit),
        port_maps: port_maps(kit).into_iter().map(|links| PortMap { links }).collect(),
        mount: kit.mount_kind(place.mount),
        in_open: wanted.placing.in_open(kit),
        outlook,
    }
}

/// What the site asks of a kit.
pub fn wanted(scenario: &Scenario, mount: Option<Mount>) -> Wanted {
    let bands: Vec<_> = scenario.listed().map(|one| (one.band, one.frequency_mhz)).collect();
    Wanted {
        mode: Some(scenario.env.mode),
        placing: Placing {
            mount,
            wind_m_s: scenario.settings().kit.wind_m_s,
            tenant: scenario.settings().kit.tenant,
            bands: bands.clone(),
        },
        bands,
    }
}

/// True where nothing in the findings keeps the kit from working.
pub fn works(found: &[Found]) -> bool {
    found.iter().all(|one| one.severity != Severity::Wrong)
}

fn title(outlook: &Outlook) -> KitFinding {
    let Some(down_mbps) = outlook.down_mbps else { return KitFinding::NothingToPredict };
    match outlook.margin {
        Some(margin) => {
            KitFinding::Reaches { down_mbps, up_mbps: outlook.up_mbps, margin_db: Some(margin.margin_db) }
        }
        None => KitFinding::MissesNeed {
            down_mbps,
            need_down_mbps: outlook.need.down_mbps,
            up_mbps: outlook.up_mbps,
            need_up_mbps: outlook.need.up_mbps,
        },
    }
}

/// A feed that takes more of the gain than this is said, as a share (common practice, no source).
const FEED_EATS: f64 = 0.4;
/// Feed loss from which the uplink's share is worth a word, dB (common practice, no source).
const UPLINK_PAYS_DB: f64 = 3.0;
/// A second pair that adds less than this share is idle (common practice, no source).
const PAIR_PAYS: f64 = 0.1;

/// What the kit does at this site, as findings.
fn here(kit: &Resolved, scenario: &Scenario, outlook: &Outlook, found: &mut Vec<Found>) {
    let carried: Vec<(&BandOutlook, BandRadio)> =
        outlook.bands.iter().filter_map(|band| Some((band, band.radio?))).collect();
    if outlook.lan_caps {
        let radio_mbps = outlook.possible_down_mbps.map_or(0.0, |range| range.likely);
        let finding = KitFinding::LanCaps { lan_mbps: outlook.lan_cap_mbps, radio_mbps };
        found.push(Found::costs(At::Gateway, finding));
    }
    let eaten = carried
        .iter()
        .filter_map(|(band, _)| Some((*band, band.budget.antenna_gain_dbi?)))
        .filter(|(band, gain)| *gain > 0.0 && band.budget.feed_loss_db > FEED_EATS * gain)
        .max_by(|(a, _), (b, _)| a.budget.feed_loss_db.total_cmp(&b.budget.feed_loss_db));
    if let Some((band, gain_dbi)) = eaten {
        let feed_loss_db = band.budget.feed_loss_db;
        let finding = KitFinding::FeedEatsGain { band: band.band, feed_loss_db, gain_dbi };
        found.push(Found::costs(costliest(band), finding));
    }
    let uplink_loss = carried.iter().map(|(band, _)| band.uplink_feed_loss_db).fold(0.0, f64::max);
    if uplink_loss >= UPLINK_PAYS_DB {
        found.push(Found::costs(At::Kit, KitFinding::UplinkPays { loss_db: uplink_loss }));
    }
    let eirp = carried.iter().filter_map(|(band, _)| band.budget.eirp_dbm).reduce(f64::max);
    if let (Some(eirp_dbm), Some(_)) = (eirp, kit.antenna_spec()) {
        found.push(match scenario.settings().kit.permitted_eirp_dbm {
            Some(permitted_dbm) if eirp_dbm > permitted_dbm => {
                Found::costs(At::Antenna, KitFinding::RadiatesTooMuch { eirp_dbm, permitted_dbm })
            }
            _ => Found::mind(At::Antenna, KitFinding::Radiates { eirp_dbm }),
        });
    }
    if let Some(finding) = school(kit, &carried) {
        let costs = matches!(finding, KitFinding::NoiseRises { .. });
        found.push(if costs {
            Found::costs(At::Antenna, finding)
        } else {
            Found::mind(At::Antenna, finding)
        });
    }
    if let Some(pair) = outlook.second_pair {
        let (with_mbps, without_mbps) = (pair.with_mbps, pair.without_mbps);
        found.push(if with_mbps > without_mbps * (1.0 + PAIR_PAYS) {
            Found::mind(At::Kit, KitFinding::SecondPairPays { with_mbps, without_mbps })
        } else {
            Found::costs(At::Kit, KitFinding::SecondPairIdle { with_mbps, without_mbps })
        });
    }
}

/// The part of the chain that takes most.
fn costliest(band: &BandOutlook) -> At {
    let most = band.budget.steps.iter().max_by(|a, b| a.loss_db.total_cmp(&b.loss_db));
    match most.map(|step| step.what) {
        Some(LossOf::Part { place }) => At::Part { place },
        Some(LossOf::Joint { place }) => At::Joint { place },
        _ => At::Antenna,
    }
}

/// Which school fits: on the widest carrier, does direction keep interferers out, or does the antenna lift noise and
/// signal alike?
fn school(kit: &Resolved, carried: &[(&BandOutlook, BandRadio)]) -> Option<KitFinding> {
    let antenna = kit.antenna_spec()?;
    let (band, radio) = carried.first()?;
    let signal_db = radio.rsrp_change_db.likely;
    let omni = antenna.antenna_kind == AntennaKind::Omni;
    if omni && signal_db > 3.0 && radio.disturbance_change_db > 0.6 * signal_db {
        return Some(KitFinding::NoiseRises {
            band: band.band,
            signal_db,
            disturbance_db: radio.disturbance_change_db,
        });
    }
    let heard = matches!(radio.limit, Limit::Interference | Limit::Both) || radio.disturbance_change_db > 1.0;
    (!omni && heard && radio.rejection_db > 3.0)
        .then_some(KitFinding::DirectionHelps { band: band.band, rejection_db: radio.rejection_db })
}

/// A kit of nothing but a gateway on its own antennas: what others are compared with.
pub fn gateway_alone(gateway: crate::model::PartId) -> KitSpec {
    KitSpec { gateway: Some(gateway), ..KitSpec::default() }
}
