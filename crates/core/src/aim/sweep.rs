//! Points of a sweep. A gateway may hop to another cell while the antenna turns: points of different cells are of
//! different curves and are kept apart.

use crate::model::Carrier;
pub use crate::model::CellKey;
use crate::stats::median;
use serde::{Deserialize, Serialize};

/// One carrier at one bearing (or tilt): the medians of its independent samples there.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SweepPoint {
    /// Azimuth from true north or tilt above the horizon, degrees.
    pub angle_deg: f64,
    /// Reference signal received power, dBm.
    pub rsrp_dbm: f64,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Option<f64>,
    /// Independent samples behind it, 1 or more.
    pub samples: u32,
}

/// All points of one cell, in the order they were taken.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CellSweep {
    /// The cell.
    pub cell: CellKey,
    /// Channel bandwidth, MHz.
    pub bandwidth_mhz: Option<f64>,
    /// Points, in order.
    pub points: Vec<SweepPoint>,
    /// Place of the stop that each point was read at; a bearing may be visited twice.
    pub stops: Vec<usize>,
    /// Bearings at which something was read, and nothing of this cell: another one answered there.
    pub unanswered_deg: Vec<f64>,
}

/// What was read at one bearing.
#[derive(Clone, Debug, PartialEq)]
pub struct Stop<'a> {
    /// Angle that was set, degrees.
    pub angle_deg: f64,
    /// Carriers of each independent sample.
    pub samples: Vec<&'a [Carrier]>,
}

/// One cell's readings at one bearing.
struct Answered {
    cell: CellKey,
    bandwidth_mhz: Option<f64>,
    rsrp: Vec<f64>,
    sinr: Vec<f64>,
}

/// A cell that answered at the beginning stays the wanted one as long as no other has this many times its points.
const TAKEN_OVER: usize = 2;

/// Sorts what was read by cell: the cell that is aimed at first, then those with more points, among equals the widest. It is the one that
/// was `chosen`, else one that answered when the sweep began, before the antenna was turned: where the gateway hops, another may answer at
/// more bearings.
pub fn by_cell(stops: &[Stop], chosen: Option<CellKey>) -> Vec<CellSweep> {
    let mut found: Vec<CellSweep> = Vec::new();
    for (place, stop) in stops.iter().enumerate() {
        let mut here: Vec<Answered> = Vec::new();
        for carrier in stop.samples.iter().copied().flatten() {
            let Some(rsrp_dbm) = carrier.rsrp_dbm else { continue };
            let key = CellKey::of(carrier);
            let at = here.iter().position(|one| one.cell == key).unwrap_or_else(|| {
                let bandwidth_mhz = carrier.bandwidth_mhz;
                here.push(Answered { cell: key, bandwidth_mhz, rsrp: Vec::new(), sinr: Vec::new() });
                here.len() - 1
            });
            here[at].rsrp.push(rsrp_dbm);
            here[at].sinr.extend(carrier.sinr_db);
        }
        for Answered { cell, bandwidth_mhz, rsrp, sinr } in here {
            let point = SweepPoint {
                angle_deg: stop.angle_deg,
                rsrp_dbm: median(&rsrp).unwrap_or(rsrp[0]),
                sinr_db: median(&sinr),
                samples: rsrp.len() as u32,
            };
            match found.iter_mut().find(|one| one.cell == cell) {
                Some(one) => {
                    one.points.push(point);
                    one.stops.push(place);
                }
                None => {
                    found.push(CellSweep {
                        cell,
                        bandwidth_mhz,
                        points: vec![point],
                        stops: vec![place],
                        unanswered_deg: Vec::new(),
                    });
                }
            }
        }
    }
    let width = |one: &CellSweep| one.bandwidth_mhz.unwrap_or(0.0);
    found.sort_by(|a, b| b.points.len().cmp(&a.points.len()).then(width(b).total_cmp(&width(a))));
    let first = stops.iter().position(|stop| stop.samples.iter().any(|sample| !sample.is_empty()));
    let most = found.first().map_or(0, |one| one.points.len());
    let began = |one: &CellSweep| first.is_some_and(|first| one.stops.contains(&first));
    let chosen = chosen.and_then(|cell| found.iter().position(|one| one.cell == cell));
    let wanted = || found.iter().position(|one| began(one) && TAKEN_OVER * one.points.len() >= most);
    if let Some(wanted) = chosen.or_else(wanted) {
        found[..=wanted].rotate_right(1);
    }
    for one in &mut found {
        let unanswered = stops.iter().enumerate().filter(|(place, stop)| {
            !one.stops.contains(place) && stop.samples.iter().any(|sample| !sample.is_empty())
        });
        one.unanswered_deg = unanswered.map(|(_, stop)| stop.angle_deg).collect();
    }
    found
}

/// Part of the bearings at which another cell answered, from which on it is asked which one is meant (common practice, no source).
const UNCLEAR: f64 = 0.25;

/// Whether it is unclear which cell is aimed at: another one answered in place of the first at a quarter of the bearings, and at two or
/// more. The cells it may be, the first one first; empty where it is clear.
pub fn unclear(cells: &[CellSweep]) -> Vec<&CellSweep> {
    let Some(main) = cells.first() else { return Vec::new() };
    let missed = main.unanswered_deg.len();
    if missed < 2 || (missed as f64) < UNCLEAR * (missed + main.points.len()) as f64 {
        return Vec::new();
    }
    // Carriers that come with the first cell do not answer in its place.
    let instead = |one: &&CellSweep| one.stops.iter().any(|stop| !main.stops.contains(stop));
    std::iter::once(main).chain(cells[1..].iter().filter(instead)).collect()
}
