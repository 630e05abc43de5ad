//! Cells of all masts as an antenna at a place hears them: the wanted one's signal, the others on its channel through
//! the antenna's pattern, and the receiver's own noise.

use super::antenna::{Aim, AimAntenna};
use super::route::{Around, Ends, PathLoss, Route};
use crate::antenna::pattern::Pattern;
use crate::bands::{band_place, carrier_blocks, carrier_frequency_mhz, usual_widths};
use crate::capacity::Ranged;
use crate::capacity::uplink::UplinkAssumptions;
use crate::geo::geodesic::{ORDINARY_K, elevation_angle_deg};
use crate::geo::{GeoPoint, turn_deg};
use crate::judge::entry_loss_db;
use crate::metrics::{db_to_linear, limits, linear_to_db};
use crate::model::{Carrier, CarrierRole, Mast, MastCell, Mount, Obstacle, SiteSettings};
use crate::propagation::p2040::{sheet_loss_db, usual_m};
use crate::terrain::Ground;
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
const USUAL_LOAD: f64 = 0.5;
/// Share of an idle cell's elements that are sent all the same: reference signals and control (common practice).
const IDLE_SHARE: f64 = 0.12;

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
    let tdd = band_place(cell.technology, carrier.band?)?.duplex == crate::bands::Duplex::Tdd;
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

/// Where an antenna stands.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stand {
    pub place: GeoPoint,
    /// m above ground.
    pub height_m: f64,
    pub mount: Mount,
}

/// One cell as it arrives at an isotropic antenna at a place, walls counted.
#[derive(Clone, Debug)]
pub struct Arrival {
    /// Places in the lists of masts and of that mast's cells.
    pub mast: usize,
    pub cell: usize,
    pub carrier: Carrier,
    pub frequency_mhz: f64,
    pub bearing_deg: f64,
    /// Degrees above the horizon as the antenna sees it; over flat ground where no terrain is.
    pub elevation_deg: f64,
    /// What walls take, dB; it is in the power.
    pub wall_db: f64,
    /// One resource element, dBm, from an unlucky to a lucky case; calibration is in it.
    pub power_dbm: Ranged,
    pub load: f64,
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
    pub masts: &'a [Mast],
    pub obstacles: &'a [Obstacle],
    pub ground: &'a Ground,
    pub settings: &'a SiteSettings,
    /// What was measured less what was predicted, by mast; see [`super::calibrate`].
    pub shifts: Vec<Shift>,
    routes: Mutex<HashMap<RouteKey, std::sync::Arc<Route>>>,
}

type RouteKey = ([u64; 2], usize);

/// How a mast's predictions are put right.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shift {
    pub shift_db: f64,
    /// Either way, what is left of the doubt, dB; `None` where nothing was measured.
    pub spread_db: Option<f64>,
}

impl Shift {
    /// Nothing measured.
    pub const NONE: Self = Self { shift_db: 0.0, spread_db: None };
}

impl<'a> Landscape<'a> {
    /// A landscape nothing was measured in yet.
    pub fn new(
        masts: &'a [Mast],
        obstacles: &'a [Obstacle],
        ground: &'a Ground,
        settings: &'a SiteSettings,
    ) -> Self {
        let shifts = vec![Shift::NONE; masts.len()];
        Self { masts, obstacles, ground, settings, shifts, routes: Mutex::new(HashMap::new()) }
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

    /// All cells of all masts in use as they arrive at a stand.
    pub fn arrivals(&self, stand: &Stand, what_if: WhatIf) -> Vec<Arrival> {
        self.arrivals_of(stand, what_if, |_, _, _| true, |mast| self.route(stand.place, mast))
    }

    /// Those cells that are `wanted` (by mast, place in it, and carrier), over routes that the caller makes or keeps.
    pub fn arrivals_of<R: std::ops::Deref<Target = Route>>(
        &self,
        stand: &Stand,
        what_if: WhatIf,
        wanted: impl Fn(usize, usize, &Carrier) -> bool,
        route: impl Fn(usize) -> R,
    ) -> Vec<Arrival> {
        let taller_trees_m = what_if.taller_trees_m;
        let around = Around { obstacles: self.obstacles, settings: self.settings, taller_trees_m };
        let k = self.settings.survey.earth_factor.unwrap_or(ORDINARY_K);
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
            let ends =
                Ends { first_above_m: stand.height_m, last_above_m, indoors: stand.mount.is_indoors() };
            let (near_m, far_m) = route.ground_ends_m().unwrap_or((0.0, 0.0));
            let elevation_deg = elevation_angle_deg(
                near_m + stand.height_m,
                far_m + last_above_m,
                route.way().distance_m.max(1.0),
                k,
            );
            let mut losses: HashMap<u64, PathLoss> = HashMap::new();
            for (place, cell, carrier, mhz) in cells {
                let Some(eirp_dbm) = element_eirp_dbm(cell, route.way().back_bearing_deg) else { continue };
                let loss =
                    losses.entry(mhz.to_bits()).or_insert_with(|| route.loss(ends, mhz, &around)).clone();
                let wall = wall_db(stand.mount, self.settings, mhz);
                let load = if what_if.all_busy { 1.0 } else { cell.load.unwrap_or(USUAL_LOAD) };
                found.push(Arrival {
                    mast: index,
                    cell: place,
                    carrier,
                    frequency_mhz: mhz,
                    bearing_deg: route.way().bearing_deg,
                    elevation_deg,
                    wall_db: wall.likely,
                    power_dbm: arriving(eirp_dbm, &loss, wall, self.shifts[index]),
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
    /// Every cell fully loaded.
    pub all_busy: bool,
    /// Masts whose height is not known lower by this, m.
    pub lower_masts_m: f64,
}

/// How far a sheet's loss is doubted either way: its thickness and wetness are not known, dB (common practice, no source).
const SHEET_DOUBT_DB: f64 = 4.0;

/// What walls or roof take of an antenna inside, dB: one sheet of the material that is said (P.2040), else the statistics
/// over buildings (P.2109).
pub fn wall_db(mount: Mount, settings: &SiteSettings, frequency_mhz: f64) -> Ranged {
    let said = match mount {
        Mount::Attic => settings.survey.roof,
        Mount::Indoor => settings.survey.wall,
        _ => None,
    };
    match said {
        Some(material) => {
            let likely = sheet_loss_db(material, frequency_mhz, usual_m(material));
            Ranged { low: (likely - SHEET_DOUBT_DB).max(0.0), likely, high: likely + SHEET_DOUBT_DB }
        }
        None => entry_loss_db(mount, &settings.outdoor, frequency_mhz),
    }
}

fn arriving(eirp_dbm: f64, loss: &PathLoss, wall_db: Ranged, shift: Shift) -> Ranged {
    let likely = eirp_dbm - loss.total_db.likely - wall_db.likely + shift.shift_db;
    let (mut up, mut down) =
        (loss.total_db.likely - loss.total_db.low, loss.total_db.high - loss.total_db.likely);
    if let Some(spread_db) = shift.spread_db {
        (up, down) = (up.min(spread_db), down.min(spread_db));
    }
    Ranged {
        low: likely - down - (wall_db.high - wall_db.likely),
        likely,
        high: likely + up + (wall_db.likely - wall_db.low),
    }
}

/// A wanted cell behind an antenna that points somewhere.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Behind {
    /// Of the antenna behind its feed line, in the middle of its beam, dBi.
    pub net_gain_dbi: f64,
    /// What pattern and polarisation take of that towards the wanted cell, dB.
    pub pattern_db: f64,
    pub polarisation_db: f64,
    pub rsrp_dbm: Ranged,
    pub sinr_db: Ranged,
    /// Others on the channel, one resource element, dBm; `None` where there are none.
    pub interference_dbm: Option<f64>,
    pub noise_dbm: f64,
}

/// No receiver reads cleaner than this, dB (common practice, no source).
const CLEANEST_SINR_DB: f64 = 30.0;

/// Signal and clean signal of one arrival behind an antenna that looks at `aim`; `None` where the antenna is not made
/// for its frequency.
pub fn behind(
    antenna: &AimAntenna,
    aim: Aim,
    wanted: usize,
    all: &[Arrival],
    settings: &SiteSettings,
) -> Option<Behind> {
    let own = &all[wanted];
    let gain_dbi = antenna.net_gain_dbi(own.frequency_mhz, settings)?;
    let polarisation_db = antenna.polarisation_loss_db();
    let towards = |one: &Arrival| gain_dbi - polarisation_db - antenna.off_aim_db(aim, one.from());
    let rsrp_dbm = own.power_dbm.map(|dbm| dbm + towards(own));
    let others: f64 = all
        .iter()
        .enumerate()
        .filter(|(index, other)| *index != wanted && same_channel(&other.carrier, &own.carrier))
        .map(|(_, other)| {
            let share = IDLE_SHARE + (1.0 - IDLE_SHARE) * other.load;
            db_to_linear(other.power_dbm.likely + towards(other)) * share
        })
        .sum();
    let noise_dbm = limits(&own.carrier).noise_dbm;
    let disturbance_dbm = linear_to_db(db_to_linear(noise_dbm) + others);
    Some(Behind {
        net_gain_dbi: gain_dbi,
        pattern_db: antenna.off_aim_db(aim, own.from()),
        polarisation_db,
        rsrp_dbm,
        sinr_db: rsrp_dbm.map(|dbm| (dbm - disturbance_dbm).min(CLEANEST_SINR_DB)),
        interference_dbm: (others > 0.0).then(|| linear_to_db(others)),
        noise_dbm,
    })
}

/// Whether two carriers share spectrum: by channel where both are known, else by band.
pub fn same_channel(a: &Carrier, b: &Carrier) -> bool {
    match (a.channel, b.channel) {
        (Some(x), Some(y)) => a.technology == b.technology && x == y,
        _ => a.technology == b.technology && a.band == b.band,
    }
}
