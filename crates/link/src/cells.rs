//! The cells that may serve a house: those of its masts, those that were heard, and those that are said to be on offer; and which
//! of them each carrier of each observation is.

use super::antenna::{Aim, AimAntenna};
use super::landscape::{AntennaLocation, carrier_of, frequency_mhz, same_channel};
use super::matching::{Fit, matches};
use super::rural::{height_term_db, path_loss_db};
use super::walls::wall_loss_db;
use open_beacon_domain::bands::{band_place, carrier_frequency_mhz};
use open_beacon_domain::capacity::uplink::UplinkAssumptions;
use open_beacon_domain::geo::GeoPoint;
use open_beacon_domain::metrics::limits;
use open_beacon_domain::model::{
    BandChoice, BandName, Carrier, CarrierRole, ConnectionMode, Mast, Mount, Obstacle, SiteSettings,
    Technology,
};
use open_beacon_domain::terrain::Ground;
use serde::{Deserialize, Serialize};

/// Everything heard with one antenna at one place, summed up.
#[derive(Clone, Debug)]
pub struct Observation<'a> {
    /// What its spot is called.
    pub spot: String,
    /// Where the antenna is.
    pub location: AntennaLocation,
    /// The antenna.
    pub antenna: AimAntenna<'a>,
    /// Where the antenna points; `None` where it is not known, or hears all round.
    pub aim: Option<Aim>,
    /// At a point of a sweep: it tells of cells whose masts are known, for only then is it known how far off the beam they lie.
    pub turned: bool,
    /// Medians.
    pub carriers: Vec<Carrier>,
    /// How carriers are bundled.
    pub mode: ConnectionMode,
    /// Bands that the gateway is held to.
    pub lock: BandChoice,
    /// Independent readings behind the medians.
    pub samples: usize,
    /// Geometric means over sittings, Mbit/s.
    pub download_mbps: Option<f64>,
    /// Upload, Mbit/s.
    pub upload_mbps: Option<f64>,
}

/// What an environment is made from.
#[derive(Debug)]
pub struct Facts<'a> {
    /// Masts.
    pub masts: &'a [Mast],
    /// Buildings and trees.
    pub obstacles: &'a [Obstacle],
    /// Heights of the ground.
    pub ground: &'a Ground,
    /// Settings of the site.
    pub settings: &'a SiteSettings,
    /// Where the house is.
    pub house: Option<GeoPoint>,
    /// Of the network in use.
    pub observations: Vec<Observation<'a>>,
    /// How the gateway is connected when nothing is locked.
    pub mode: ConnectionMode,
}

/// What a cell's figures start from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "from", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Origin {
    /// Heard at a spot.
    Heard { spot: String, mount: Mount, height_m: Option<f64> },
    /// Computed from a mast's place, not heard yet.
    Mast { mast: String },
    /// By the rural model from the mast's distance.
    Path { distance_m: f64, beyond_model: bool },
}

/// A cell that may serve the house.
#[derive(Clone, Debug)]
pub struct LinkCell {
    /// Technology, band, channel, width, PCI and role; no levels.
    pub carrier: Carrier,
    /// Operating band.
    pub band: BandName,
    /// Frequency, MHz.
    pub frequency_mhz: f64,
    /// Middle of its uplink, MHz; the downlink's where the band has none.
    pub uplink_mhz: f64,
    /// What it was made from.
    pub origin: Origin,
    /// The mast that has it, a place in the list of masts; where only readings are known, the one that serves.
    pub mast: Option<usize>,
    /// A receiver's own noise in one resource element at the assumed noise figure, dBm; what was read less where it was less.
    pub noise_dbm: f64,
    pub(super) source: Source,
    /// Interference from cells that no list has, at an isotropic antenna in the open at a sill's height, one resource
    /// element, dBm.
    pub(super) unlisted_dbm: f64,
    /// The same is no farther than this below the cell's own signal there, dB, where the cell is known by its mast and no other is listed.
    pub(super) unlisted_below_db: Option<f64>,
    /// What is doubted of the signal moves that interference as well.
    pub(super) unlisted_moves_with_signal: bool,
}

#[derive(Clone, Copy, Debug)]
pub(super) enum Source {
    Mast {
        mast: usize,
        cell: usize,
    },
    /// Level at an isotropic antenna in the open, less the height's term, dBm.
    Heard {
        level_dbm: f64,
    },
    Distance {
        distance_m: f64,
        eirp_dbm: f64,
    },
}

/// Gain of a mast's sector antenna, dBi (common practice, no source).
const MAST_GAIN_DBI: f64 = 17.0;
/// Interference over noise of what no list has, in the open, dB (common practice, no source): where no mast of the channel is
/// listed, and where some are.
const UNLISTED_OVER_NOISE_DB: f64 = 3.0;
const UNLISTED_BESIDE_LISTED_DB: f64 = -3.0;
/// Where a cell is known by its mast and no other of its channel is listed: how far below its signal the others of its network lie, dB.
/// Users of a loaded network with cells of 1.7 km have a median of 5 dB between wanted and unwanted power (3GPP case 3, from memory), and
/// the others are busy for half of their time.
const UNLISTED_BELOW_SIGNAL_DB: f64 = 8.0;
/// Height of a spot that says none: on a sill of the ground floor, m.
pub const SILL_M: f64 = 1.5;
/// A gateway that shows NR carriers beside LTE uses them, whatever it calls its mode.
pub(super) fn mode_of<'c>(
    mode: ConnectionMode,
    mut heard: impl Iterator<Item = &'c Carrier>,
) -> ConnectionMode {
    match mode {
        ConnectionMode::Lte if heard.any(|one| one.technology == Technology::Nr) => ConnectionMode::Nsa,
        mode => mode,
    }
}

/// Middles of a band's downlink and uplink, MHz; the downlink's twice where it has no uplink of its own.
pub fn band_middles_mhz(band: BandName) -> Option<(f64, f64)> {
    let place = band_place(band.technology, band.band)?;
    let middle = |span: open_beacon_domain::bands::FrequencySpan| f64::midpoint(span.low_mhz, span.high_mhz);
    let down = middle(place.downlink?);
    Some((down, place.uplink.map_or(down, middle)))
}

fn cell_of(carrier: Carrier, frequency_mhz: Option<f64>, source: Source, origin: Origin) -> Option<LinkCell> {
    let band = BandName { technology: carrier.technology, band: carrier.band? };
    let (middle_mhz, uplink_mhz) = band_middles_mhz(band)?;
    let frequency_mhz = frequency_mhz.or_else(|| carrier_frequency_mhz(&carrier)).unwrap_or(middle_mhz);
    let mast = match source {
        Source::Mast { mast, .. } => Some(mast),
        _ => None,
    };
    let noise_dbm = limits(&carrier).noise_dbm;
    let unlisted_dbm = noise_dbm + UNLISTED_OVER_NOISE_DB;
    let mut bare = carrier;
    (bare.rsrp_dbm, bare.rsrq_db, bare.sinr_db, bare.rssi_dbm, bare.rank) = (None, None, None, None, None);
    bare.flags.clear();
    let is_heard = matches!(source, Source::Heard { .. });
    Some(LinkCell {
        carrier: bare,
        band,
        frequency_mhz,
        uplink_mhz: frequency_mhz + uplink_mhz - middle_mhz,
        origin,
        mast,
        noise_dbm,
        source,
        unlisted_dbm,
        unlisted_below_db: (!is_heard).then_some(UNLISTED_BELOW_SIGNAL_DB),
        unlisted_moves_with_signal: !is_heard,
    })
}

/// The cells of a house, and for each observation which cell each of its carriers is.
pub(super) fn cells(facts: &Facts) -> (Vec<LinkCell>, Vec<Vec<Option<usize>>>) {
    let ours = |mast: &Mast| {
        mast.archived_at.is_none()
            && (mast.operator.is_empty()
                || facts.settings.network.is_empty()
                || mast.operator == facts.settings.network)
    };
    let mut found: Vec<LinkCell> = Vec::new();
    for (mast, one) in facts.masts.iter().enumerate().filter(|(_, one)| ours(one)) {
        for (cell, listed) in one.cells.iter().enumerate() {
            let origin = Origin::Mast { mast: one.name.clone() };
            let made = carrier_of(listed).and_then(|carrier| {
                cell_of(carrier, frequency_mhz(listed), Source::Mast { mast, cell }, origin)
            });
            found.extend(made);
        }
    }
    let of_masts = found.len();
    let mut heard: Vec<Vec<Option<usize>>> = Vec::new();
    let mut levels: Vec<Vec<f64>> = vec![Vec::new(); of_masts];
    let mut matched: Vec<usize> = vec![0; facts.masts.len()];
    for seen in &facts.observations {
        let candidates = matches(&seen.carriers, facts.masts, facts.house);
        let mut own = Vec::new();
        for (at, carrier) in seen.carriers.iter().enumerate() {
            let listed = candidates
                .iter()
                .filter(|one| one.carrier == at && one.fit == Fit::Confirmed)
                .find_map(|one| {
                    found[..of_masts].iter().position(|cell| match cell.source {
                        Source::Mast { mast, cell } => {
                            facts.masts[mast].id == one.mast_id && cell == one.cell
                        }
                        _ => false,
                    })
                });
            let cell = listed.or_else(|| {
                found[of_masts..]
                    .iter()
                    .position(|cell| same_cell(&cell.carrier, carrier))
                    .map(|at| of_masts + at)
            });
            let cell = match cell {
                Some(cell) if !seen.turned || cell < of_masts => cell,
                _ if seen.turned => {
                    own.push(None);
                    continue;
                }
                Some(cell) => cell,
                None => {
                    let source = Source::Heard { level_dbm: 0.0 };
                    let origin = heard_at(seen);
                    let Some(made) = cell_of(carrier.clone(), None, source, origin) else {
                        // A carrier without its band is in no sum.
                        own.push(None);
                        continue;
                    };
                    found.push(made);
                    levels.push(Vec::new());
                    found.len() - 1
                }
            };
            take_identity(&mut found[cell], carrier, seen);
            if let Some(mast) = found[cell].mast {
                matched[mast] += 1;
            }
            if let Some(level_dbm) = open_level_dbm(&found[cell], carrier, seen, facts.settings) {
                levels[cell].push(level_dbm);
            }
            own.push(Some(cell));
        }
        heard.push(own);
    }
    let serving = (0..matched.len()).filter(|mast| matched[*mast] > 0).max_by_key(|mast| matched[*mast]);
    for (cell, levels) in found.iter_mut().zip(&levels) {
        if let Source::Heard { level_dbm } = &mut cell.source {
            cell.mast = serving;
            *level_dbm = levels.iter().sum::<f64>() / levels.len().max(1) as f64;
        }
    }
    found.extend(expected(facts, &found, serving));
    let carriers: Vec<Carrier> = found.iter().map(|one| one.carrier.clone()).collect();
    for at in 0..found.len() {
        let beside = (0..of_masts).any(|other| other != at && same_channel(&carriers[other], &carriers[at]));
        if beside {
            found[at].unlisted_dbm += UNLISTED_BESIDE_LISTED_DB - UNLISTED_OVER_NOISE_DB;
            found[at].unlisted_below_db = None;
            found[at].unlisted_moves_with_signal = false;
        }
    }
    (found, heard)
}

/// An observation's carriers that are a cell of the environment, with that cell.
pub(super) fn carriers_of<'a>(
    seen: &'a Observation,
    cells: &'a [Option<usize>],
) -> impl Iterator<Item = (&'a Carrier, usize)> {
    seen.carriers.iter().zip(cells).filter_map(|(carrier, cell)| Some((carrier, (*cell)?)))
}

fn heard_at(seen: &Observation) -> Origin {
    Origin::Heard {
        spot: seen.spot.clone(),
        mount: seen.location.mount,
        height_m: Some(seen.location.height_m),
    }
}

fn same_cell(a: &Carrier, b: &Carrier) -> bool {
    (a.technology, a.band, a.channel) == (b.technology, b.band, b.channel)
}

/// What a reading says of a cell beside its level: width, role, and where it was heard; a reading outside goes first.
fn take_identity(cell: &mut LinkCell, carrier: &Carrier, seen: &Observation) {
    let outside = |origin: &Origin| matches!(origin, Origin::Heard { mount, .. } if !mount.is_indoors());
    if !matches!(cell.origin, Origin::Heard { .. })
        || (!outside(&cell.origin) && !seen.location.mount.is_indoors())
    {
        cell.origin = heard_at(seen);
    }
    // A receiver quieter than assumed: all of the disturbance is its noise.
    if let Some(disturbance_dbm) = limits(carrier).disturbance_dbm {
        cell.noise_dbm = cell.noise_dbm.min(disturbance_dbm);
    }
    if carrier.bandwidth_mhz.is_some() {
        cell.carrier.bandwidth_mhz = carrier.bandwidth_mhz;
    }
    if cell.carrier.role == CarrierRole::Unknown || carrier.role == CarrierRole::Primary {
        cell.carrier.role = carrier.role;
    }
}

/// A reading's level at an isotropic antenna in the open, less its height's term, dBm.
fn open_level_dbm(
    cell: &LinkCell,
    carrier: &Carrier,
    seen: &Observation,
    settings: &SiteSettings,
) -> Option<f64> {
    let wall_db = wall_loss_db(seen.location.mount, settings, cell.frequency_mhz).mean;
    let gain_dbi =
        seen.antenna.net_gain_dbi(cell.frequency_mhz, settings)? - seen.antenna.polarisation_loss_db();
    Some(carrier.rsrp_dbm? - gain_dbi + wall_db - height_term_db(seen.location.height_m, cell.frequency_mhz))
}

/// Carriers that are said to be on offer and are not known otherwise, from the known mast's distance.
fn expected(facts: &Facts, known: &[LinkCell], serving: Option<usize>) -> Vec<LinkCell> {
    let Some(distance_m) = facts.settings.known_mast.as_ref().and_then(|mast| mast.distance_m) else {
        return Vec::new();
    };
    let made = |one: &open_beacon_domain::model::ExpectedCarrier| {
        let band = one.band;
        // Another mast's cell of that band is not what the known one is said to have.
        let heard = |cell: &LinkCell| matches!(cell.origin, Origin::Heard { .. });
        if known.iter().any(|cell| cell.band == band && (heard(cell) || cell.mast == serving)) {
            return None;
        }
        let (down_mhz, up_mhz) = band_middles_mhz(band)?;
        let (_, beyond_model) = path_loss_db(&facts.settings.kit, distance_m, SILL_M, down_mhz);
        let tdd = (down_mhz - up_mhz).abs() < 1.0;
        let reference = UplinkAssumptions::usual(band.technology, tdd).reference_power_dbm.likely;
        let mut carrier = Carrier::empty(band.technology, CarrierRole::Unknown);
        carrier.band = Some(band.band);
        carrier.bandwidth_mhz = Some(one.bandwidth_mhz);
        let source = Source::Distance { distance_m, eirp_dbm: reference + MAST_GAIN_DBI };
        let mut cell = cell_of(carrier, Some(down_mhz), source, Origin::Path { distance_m, beyond_model })?;
        cell.mast = serving;
        Some(cell)
    };
    facts.settings.kit.expected.iter().filter_map(made).collect()
}
