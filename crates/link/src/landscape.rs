//! Cells of all masts as they are computed to arrive at a place, over ground, trees and buildings.

use super::antenna::Aim;
use super::field::SpotKey;
use super::route::{Around, Ends, PathLoss, Route};
use open_beacon_domain::antenna::pattern::Pattern;
use open_beacon_domain::bands::{band_place, carrier_blocks, carrier_frequency_mhz, usual_widths};
use open_beacon_domain::capacity::uplink::UplinkAssumptions;
use open_beacon_domain::geo::geodesic::{STANDARD_K_FACTOR, elevation_angle_deg};
use open_beacon_domain::geo::{GeoPoint, turn_deg};
use open_beacon_domain::model::{
    Carrier, CarrierRole, Mast, MastCell, Mount, Obstacle, PositionId, SiteSettings,
};
use open_beacon_domain::terrain::Ground;
use std::collections::HashMap;
use std::sync::Mutex;

/// A mast's sector antenna: TR 36.814 table A.2.1.1-2, 70° wide, 25 dB front to back.
const SECTOR: Pattern = Pattern {
    gain_dbi: 17.0,
    beamwidth_azimuth_deg: 70.0,
    beamwidth_elevation_deg: 10.0,
    front_to_back_db: 25.0,
};

/// Load of a cell that says none (common practice, no source).
pub(super) const USUAL_LOAD: f64 = 0.5;
/// Share of an idle cell's elements that are sent all the same: reference signals and control (common practice).
pub(super) const IDLE_SHARE: f64 = 0.12;

/// A cell as a carrier without readings; `None` where its band is not known.
pub fn carrier_of(cell: &MastCell) -> Option<Carrier> {
    let name = cell.band_name()?;
    let mut carrier = Carrier::empty(cell.technology, CarrierRole::Unknown);
    carrier.band = Some(name.band);
    carrier.channel = cell.channel;
    carrier.bandwidth_mhz =
        cell.bandwidth_mhz.or_else(|| Some(usual_widths(name.technology, name.band)?.likely_mhz));
    carrier.pci = cell.pci;
    Some(carrier)
}

/// Middle of a cell's carrier, MHz: by its channel, else the middle of its band.
pub fn frequency_mhz(cell: &MastCell) -> Option<f64> {
    let carrier = carrier_of(cell)?;
    carrier_frequency_mhz(&carrier).or_else(|| {
        let span = band_place(cell.technology, carrier.band?)?.downlink?;
        Some(f64::midpoint(span.low_mhz, span.high_mhz))
    })
}

/// Power of one resource element towards a bearing (seen from the mast), dBm EIRP: what the cell says of its power,
/// spread over 12 N elements, else the usual reference power; the sector's pattern where its bearing is known.
pub fn element_eirp_dbm(cell: &MastCell, towards_deg: f64) -> Option<f64> {
    let carrier = carrier_of(cell)?;
    let tdd = band_place(cell.technology, carrier.band?)?.duplex == open_beacon_domain::bands::Duplex::Tdd;
    let spread = carrier_blocks(&carrier).map(|(blocks, _)| 10.0 * (12.0 * f64::from(blocks)).log10());
    let conducted_dbm = match (cell.power_dbm, spread) {
        (Some(whole), Some(spread)) => whole - spread,
        _ => UplinkAssumptions::usual(cell.technology, tdd).reference_power_dbm.likely,
    };
    let gain_dbi = match cell.bearing_deg {
        Some(bearing_deg) => SECTOR.gain_dbi(turn_deg(bearing_deg, towards_deg), 0.0),
        None => SECTOR.gain_dbi,
    };
    Some(conducted_dbm + gain_dbi)
}

/// Where an antenna is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct AntennaLocation {
    /// `None` where nothing has coordinates.
    pub place: Option<GeoPoint>,
    /// m above ground.
    pub height_m: f64,
    /// What it stands on.
    pub mount: Mount,
    /// The position of the record, where it is one.
    pub position: Option<PositionId>,
}

impl AntennaLocation {
    /// By what the same place is known again.
    pub(super) fn spot(&self) -> SpotKey {
        SpotKey { position: self.position, height_m: self.height_m, mount: self.mount }
    }
}

/// One cell of a mast as it arrives at a place in the open, computed.
#[derive(Clone, Debug)]
pub struct Arrival {
    /// Places in the lists of masts and of that mast's cells.
    pub mast: usize,
    /// The cell.
    pub cell: usize,
    /// The carrier.
    pub carrier: Carrier,
    /// Frequency, MHz.
    pub frequency_mhz: f64,
    /// Bearing from true north, degrees.
    pub bearing_deg: f64,
    /// Degrees above the horizon as the antenna sees it; over flat ground where no terrain is.
    pub elevation_deg: f64,
    /// One resource element towards the place, dBm EIRP; loss takes it from there.
    pub eirp_dbm: f64,
    /// Share of its time that the cell is busy.
    pub load: f64,
    /// Loss on the way.
    pub loss: PathLoss,
}

impl Arrival {
    /// Where it comes from.
    pub fn from(&self) -> Aim {
        Aim { azimuth_deg: self.bearing_deg, elevation_deg: self.elevation_deg }
    }
}

/// All that a survey looks at.
#[derive(Debug)]
pub struct Landscape<'a> {
    /// Masts.
    pub masts: &'a [Mast],
    /// Buildings and trees.
    pub obstacles: &'a [Obstacle],
    /// Heights of the ground.
    pub ground: &'a Ground,
    /// Settings of the site.
    pub settings: &'a SiteSettings,
    routes: Mutex<HashMap<RouteKey, std::sync::Arc<Route>>>,
}

type RouteKey = ([u64; 2], usize);

impl<'a> Landscape<'a> {
    /// Nothing is computed before it is asked for.
    pub fn new(
        masts: &'a [Mast],
        obstacles: &'a [Obstacle],
        ground: &'a Ground,
        settings: &'a SiteSettings,
    ) -> Self {
        Self { masts, obstacles, ground, settings, routes: Mutex::new(HashMap::new()) }
    }

    /// Height of a mast's antennas, m above its ground.
    pub fn mast_height_m(&self, mast: &Mast) -> f64 {
        mast.height_m.unwrap_or(self.settings.kit.mast_height_m)
    }

    /// The route from a place to a mast; made once.
    pub fn route(&self, from: GeoPoint, mast: usize) -> std::sync::Arc<Route> {
        let key = ([from.latitude_deg.to_bits(), from.longitude_deg.to_bits()], mast);
        let mut known = self.routes.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        std::sync::Arc::clone(known.entry(key).or_insert_with(|| {
            std::sync::Arc::new(Route::new(from, self.masts[mast].place, self.ground, self.obstacles))
        }))
    }

    /// All cells of all masts in use as they arrive at a place; none where it has no coordinates.
    pub fn arrivals(&self, at: &AntennaLocation, what_if: WhatIf) -> Vec<Arrival> {
        let Some(place) = at.place else { return Vec::new() };
        self.arrivals_of(at, what_if, |_, _, _| true, |mast| self.route(place, mast))
    }

    /// Those cells that are `wanted` (by mast, place in it, and carrier), over routes that the caller makes or keeps.
    pub fn arrivals_of<R: std::ops::Deref<Target = Route>>(
        &self,
        at: &AntennaLocation,
        what_if: WhatIf,
        wanted: impl Fn(usize, usize, &Carrier) -> bool,
        route: impl Fn(usize) -> R,
    ) -> Vec<Arrival> {
        let WhatIf { taller_trees_m, in_leaf, .. } = what_if;
        let around = Around { obstacles: self.obstacles, settings: self.settings, taller_trees_m, in_leaf };
        let k = self.settings.survey.earth_factor.unwrap_or(STANDARD_K_FACTOR);
        let mut found = Vec::new();
        for (index, mast) in self.masts.iter().enumerate().filter(|(_, mast)| mast.archived_at.is_none()) {
            let cells: Vec<(usize, &MastCell, Carrier, f64)> = mast
                .cells
                .iter()
                .enumerate()
                .filter_map(|(place, cell)| {
                    let carrier = carrier_of(cell).filter(|carrier| wanted(index, place, carrier))?;
                    Some((place, cell, carrier, frequency_mhz(cell)?))
                })
                .collect();
            if cells.is_empty() {
                continue;
            }
            let route = route(index);
            let lower_m = if mast.height_m.is_none() { what_if.lower_masts_m } else { 0.0 };
            let last_above_m = (self.mast_height_m(mast) - lower_m).max(LEAST_MAST_M);
            let ends = Ends { first_above_m: at.height_m, last_above_m, indoors: at.mount.is_indoors() };
            let (near_m, far_m) = route.ground_ends_m().unwrap_or((0.0, 0.0));
            let elevation_deg = elevation_angle_deg(
                near_m + at.height_m,
                far_m + last_above_m,
                route.way().distance_m.max(1.0),
                k,
            );
            let mut losses: HashMap<u64, PathLoss> = HashMap::new();
            for (place, cell, carrier, mhz) in cells {
                let Some(eirp_dbm) = element_eirp_dbm(cell, route.way().back_bearing_deg) else { continue };
                let loss =
                    losses.entry(mhz.to_bits()).or_insert_with(|| route.loss(ends, mhz, &around)).clone();
                let load = if what_if.all_busy { 1.0 } else { cell.load.unwrap_or(USUAL_LOAD) };
                found.push(Arrival {
                    mast: index,
                    cell: place,
                    carrier,
                    frequency_mhz: mhz,
                    bearing_deg: route.way().bearing_deg,
                    elevation_deg,
                    eirp_dbm,
                    load: load.clamp(0.0, 1.0),
                    loss,
                });
            }
        }
        found
    }
}

/// No mast is lower, m.
const LEAST_MAST_M: f64 = 5.0;

/// What is taken otherwise than it is known, to see what hangs on it; nothing by default.
#[derive(Clone, Copy, Debug, PartialEq, Default)]
pub struct WhatIf {
    /// Trees taller by this, m.
    pub taller_trees_m: f64,
    /// Trees that are drawn bare in leaf.
    pub in_leaf: bool,
    /// Every cell fully loaded.
    pub all_busy: bool,
    /// Masts whose height is not known lower by this, m.
    pub lower_masts_m: f64,
}

/// Whether two carriers share spectrum: by channel where both are known, else by band.
pub fn same_channel(a: &Carrier, b: &Carrier) -> bool {
    match (a.channel, b.channel) {
        (Some(x), Some(y)) => a.technology == b.technology && x == y,
        _ => a.technology == b.technology && a.band == b.band,
    }
}
