//! What a sweep has come to, as it is shown.

use crate::site_record::SiteRecord;
use crate::sweeping::StopState;
use chrono::{DateTime, Utc};
use open_beacon_core::aim::advice::{AimFit, Ask, MastSeen, aim_fit, ask};
use open_beacon_core::aim::fit::{AngleInterval, Nominal};
use open_beacon_core::aim::next::{RESTART_SETTLES_S, SweepPlan};
use open_beacon_core::aim::ports::{PortVerdict, ask_ports, port_verdict};
use open_beacon_core::aim::sweep::{CellKey, CellSweep, Stop, SweepPoint, by_cell, unclear};
use open_beacon_core::geo::geodesic::way;
use open_beacon_core::geo::magnetic::declination;
use open_beacon_core::geo::turn_deg;
use open_beacon_core::model::{
    AimCriterion, Position, PositionId, RunId, Sweep, SweepAxis, SweepPhoto, SweepStop, SweepStopId,
};
use open_beacon_core::words;
use serde::Serialize;
use std::collections::HashMap;
use utoipa::ToSchema;

/// One stop as it is shown.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StopLine {
    pub id: SweepStopId,
    pub angle_deg: f64,
    pub taken_at: DateTime<Utc>,
    pub samples: usize,
    /// Of the cell that is fitted; none where another answered.
    pub rsrp_dbm: Option<f64>,
    pub sinr_db: Option<f64>,
    /// So far from the curve that it hardly counts.
    pub outlier: bool,
    pub left_out: bool,
}

/// A sweep with what it has come to.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SweepView {
    pub sweep: Sweep,
    pub position: String,
    pub criterion: AimCriterion,
    pub stops: Vec<StopLine>,
    pub fit: Option<AimFit>,
    pub photos: Vec<SweepPhoto>,
    /// The other carriers that were read at the same bearings, the widest first.
    pub others: Vec<CarrierFit>,
    /// What came of trying two port maps by turns.
    pub ports: Option<PortVerdict>,
    /// What map A and map B are, where the kit in use tells; empty where nothing is plugged over.
    pub port_maps: Vec<String>,
    pub plan: SweepPlan,
    pub ask: Ask,
    /// How far to turn from the last point, degrees, right or up positive; none before the first point and for port maps.
    pub turn_deg: Option<f64>,
    /// The turn to each stop of the plan from the one before it, degrees.
    pub planned_turns_deg: Vec<f64>,
    /// How long a restarted gateway is let settle after it answers again, s.
    pub restart_settles_s: f64,
    pub title: String,
    pub detail: String,
    pub next: String,
    /// "2 left out: another cell answered".
    pub left_out: Option<String>,
    /// Cells that may be meant, the one aimed at first, where that is unclear or was chosen; else empty.
    pub which_cell: Vec<CellAnswered>,
    /// What is being measured, or the last that was.
    pub measuring: Option<StopState>,
    /// Masts as they lie from the position.
    pub masts: Vec<SweepMast>,
    /// To be taken from a true bearing for the compass, degrees; none without coordinates.
    pub declination_deg: Option<f64>,
}

/// A cell that answered at bearings of a sweep.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CellAnswered {
    pub cell: CellKey,
    /// "B3 cell 211".
    pub words: String,
    /// Bearings at which it answered.
    pub bearings: usize,
}

/// Where another carrier is strongest and cleanest.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CarrierFit {
    pub cell: CellKey,
    pub strongest: AngleInterval,
    pub cleanest: Option<AngleInterval>,
    /// "n78 (PCI 611): strongest at 144° T ± 5°, cleanest at 141° T ± 7°."
    pub words: String,
}

/// Further carriers that are fitted at most.
const MOST_OTHERS: usize = 3;

/// A mast round the antenna.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SweepMast {
    pub name: String,
    pub bearing_deg: f64,
    pub distance_m: f64,
}

pub(crate) fn name_of(positions: &[Position], id: PositionId) -> String {
    positions.iter().find(|one| one.id == id).map_or_else(String::new, |one| one.name.clone())
}

/// All of it, photographs apart.
pub(crate) fn view(
    data: &SiteRecord,
    sweep: Sweep,
    stops: &[SweepStop],
    downloads: &HashMap<RunId, f64>,
    measuring: Option<StopState>,
    period_s: f64,
) -> SweepView {
    let nominal = Nominal { beamwidth_deg: sweep.beamwidth_deg, front_to_back_db: sweep.front_to_back_db };
    let in_use: Vec<&SweepStop> = stops.iter().filter(|stop| stop.archived_at.is_none()).collect();
    let read: Vec<Stop> = in_use
        .iter()
        .map(|stop| Stop {
            angle_deg: stop.angle_deg,
            samples: stop.samples.iter().map(|reading| reading.carriers.as_slice()).collect(),
        })
        .collect();
    let cells = by_cell(&read, sweep.cell);
    let place = data.positions.iter().find(|one| one.id == sweep.position_id).and_then(|one| one.place);
    let place = place.or(data.house);
    let masts: Vec<SweepMast> = place.map_or_else(Vec::new, |place| {
        let seen = |mast: &open_beacon_core::model::Mast| {
            let way = way(place, mast.place);
            SweepMast { name: mast.name.clone(), bearing_deg: way.bearing_deg, distance_m: way.distance_m }
        };
        data.masts.iter().map(seen).collect()
    });
    let seen: Vec<MastSeen> = match sweep.axis {
        SweepAxis::Tilt | SweepAxis::Ports => Vec::new(),
        SweepAxis::Azimuth => data
            .masts
            .iter()
            .zip(&masts)
            .map(|(mast, seen)| MastSeen {
                id: mast.id,
                name: mast.name.clone(),
                bearing_deg: seen.bearing_deg,
            })
            .collect(),
    };
    let main = cells.first();
    let turned = main.filter(|_| sweep.axis != SweepAxis::Ports);
    let tested = |stop: &&SweepStop| stop.run_id.and_then(|run| downloads.get(&run).copied());
    let tested: Vec<Option<f64>> = in_use.iter().map(tested).collect();
    let ports =
        main.filter(|_| sweep.axis == SweepAxis::Ports).and_then(|cell| port_verdict(cell, &read, &tested));
    let fit = turned.and_then(|main| aim_fit(main, sweep.axis, nominal, data.settings.aim_criterion, &seen));
    let further = cells.iter().skip(1).filter(|_| turned.is_some()).take(MOST_OTHERS);
    let mut others: Vec<(f64, CarrierFit)> = further
        .filter_map(|one| {
            let found = aim_fit(one, sweep.axis, nominal, data.settings.aim_criterion, &[])?;
            let words = words::aim::carrier(&one.cell, &found);
            let fit =
                CarrierFit { cell: one.cell, strongest: found.strongest, cleanest: found.cleanest, words };
            Some((one.bandwidth_mhz.unwrap_or(0.0), fit))
        })
        .collect();
    others.sort_by(|a, b| b.0.total_cmp(&a.0));
    let others = others.into_iter().map(|(_, fit)| fit).collect();
    let measured: Vec<f64> = in_use.iter().map(|stop| stop.angle_deg).collect();
    let (plan, ask) = match sweep.axis {
        SweepAxis::Ports => ask_ports(measured.len(), period_s, ports.as_ref()),
        _ => ask(sweep.axis, nominal, sweep.expected_deg, period_s, &measured, fit.as_ref()),
    };
    let untried = if sweep.axis == SweepAxis::Ports {
        (
            "Plug, measure, change over: A, B, B, A.",
            "The two are tested alternately, so that a drift of the channel affects both alike. The antenna stays where it points.",
        )
    } else {
        (
            "Turn, hold still, measure; the screen says where next.",
            "Three points make a first fit. Go past the mast on both sides: the flanks tell where the middle is.",
        )
    };
    let maps = data.port_maps_at(sweep.position_id).filter(|_| sweep.axis == SweepAxis::Ports);
    SweepView {
        port_maps: maps.into_iter().flatten().map(|map| words::aim::port_map(&map)).collect(),
        position: name_of(&data.positions, sweep.position_id),
        criterion: data.settings.aim_criterion,
        stops: stops
            .iter()
            .map(|stop| {
                let place = in_use.iter().position(|one| one.id == stop.id);
                let at =
                    place.zip(main).and_then(|(place, main)| main.stops.iter().position(|one| *one == place));
                line(stop, at.zip(main).map(|(at, main)| main.points[at]), at, fit.as_ref())
            })
            .collect(),
        title: match (&fit, &ports) {
            (Some(fit), _) if sweep.set_deg.is_some() => words::aim::ended(fit),
            (Some(fit), _) => words::aim::title(fit),
            (None, Some(ports)) => ports.words.clone(),
            (None, None) => untried.0.into(),
        },
        detail: fit.as_ref().map_or_else(|| untried.1.into(), words::aim::detail),
        next: words::aim::next(sweep.axis, &ask),
        left_out: words::aim::left_out(&cells),
        which_cell: which_cell(&cells, &sweep),
        declination_deg: place
            .and_then(|place| Some(declination(place, 0.0, Utc::now().date_naive()).ok()?.declination_deg)),
        fit,
        photos: Vec::new(),
        others,
        ports,
        turn_deg: stops
            .last()
            .filter(|_| sweep.axis != SweepAxis::Ports)
            .map(|last| turn_deg(last.angle_deg, ask.angle_deg())),
        planned_turns_deg: plan.turns_deg(),
        restart_settles_s: RESTART_SETTLES_S,
        plan,
        ask,
        measuring,
        masts,
        sweep,
    }
}

/// Cells that may be meant: where it is unclear, and those there were where somebody chose.
fn which_cell(cells: &[CellSweep], sweep: &Sweep) -> Vec<CellAnswered> {
    let answered = |one: &CellSweep| CellAnswered {
        cell: one.cell,
        words: words::aim::cell(&one.cell),
        bearings: one.points.len(),
    };
    match sweep.cell {
        Some(_) => cells.iter().take(1 + MOST_OTHERS).map(answered).collect(),
        None => unclear(cells).into_iter().take(1 + MOST_OTHERS).map(answered).collect(),
    }
}

/// `point` and `at`: what the fitted cell answered there, and its place among the fitted points.
fn line(stop: &SweepStop, point: Option<SweepPoint>, at: Option<usize>, fit: Option<&AimFit>) -> StopLine {
    StopLine {
        id: stop.id,
        angle_deg: stop.angle_deg,
        taken_at: stop.taken_at,
        samples: stop.samples.len(),
        rsrp_dbm: point.map(|point| point.rsrp_dbm),
        sinr_db: point.and_then(|point| point.sinr_db),
        outlier: at.zip(fit).is_some_and(|(at, fit)| fit.outliers.contains(&at)),
        left_out: stop.archived_at.is_some(),
    }
}
