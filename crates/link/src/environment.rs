//! What is known of the radio environment of a house: the cells that may serve it, and how far computation is put right by everything that
//! was measured there.
//!
//! Received power is linear in decibels, so its posterior is that of a multivariate normal distribution
//! ([`super::gaussian`]). Its prior error has parts that places and cells share: one of all masts (what is assumed of power),
//! one of a mast, one of a cell, one of the neighbourhood (shadowing), the walls of the house, the antenna. A reading
//! behind a wall therefore speaks mostly of the wall, and carriers heard at one spot share it. Interference and the share
//! of the possible that is measured are put right the same way.

use super::antenna::{Aim, AimAntenna};
use super::cells::{Facts, LinkCell, Observation, Source, carriers_of, cells, mode_of};
pub use super::field::USUAL_SHARE;
use super::field::{
    HouseKernel, PowerKernel, PowerPoint, Quantity, ShareKernel, SharePoint, Spreads, known_by,
};
use super::gaussian::{Kernel, Look, Measurement, Mixture, Normal, Posterior, Z_90, below};
use super::given::Given;
use super::landscape::{AntennaLocation, Arrival, Landscape, USUAL_LOAD, WhatIf, same_channel};
use super::moments::Moments;
use super::over_time::{DayCourse, Fading, OverTime};
use super::route::PathLoss;
use super::rural::{height_term_db, path_loss_db};
use super::sums::possible_at;
use super::walls::{building_shares, wall_losses_db};
use open_beacon_domain::geo::GeoPoint;
use open_beacon_domain::model::{BandChoice, Carrier, ConnectionMode, Mast, MastId, SiteSettings};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// A cell as it arrives at an isotropic antenna at a place, walls counted.
#[derive(Clone, Debug)]
pub struct Arriving {
    /// Place in the environment's cells.
    pub cell: usize,
    /// One resource element, dBm, before measurements and after.
    pub computed_dbm: f64,
    /// Received power, dBm.
    pub power_dbm: Normal,
    /// Third central moment of it, dB³.
    pub(super) power_third: f64,
    /// Loss through the wall, dB, before measurements.
    pub wall_db: Normal,
    /// The same by the kind of house that the measurements make likely.
    pub learned_wall_db: f64,
    /// Where it comes from, if its mast is known.
    pub from: Option<Aim>,
    /// Loss on the way.
    pub loss: Option<PathLoss>,
    /// Share of its time that the cell is busy.
    pub load: f64,
    pub(super) point: PowerPoint,
    /// What is known of it by each kind of house; none where no spread was asked for.
    pub(super) looks: Arc<[Look]>,
}

/// One measurement beside what was computed for it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Residual {
    /// The spot.
    pub spot: String,
    /// The mast.
    pub mast_id: MastId,
    /// The cell.
    pub cell: usize,
    /// Measured, dBm.
    pub measured_dbm: f64,
    /// Expected, dBm.
    pub predicted_dbm: f64,
}

/// What is known of the radio environment of a house; see the module.
#[derive(Debug)]
pub struct Environment<'a> {
    /// Ground, masts and what stands between.
    pub landscape: Landscape<'a>,
    /// Settings of the site.
    pub settings: &'a SiteSettings,
    /// Cells, one an entry.
    pub cells: Vec<LinkCell>,
    /// How carriers are bundled.
    pub mode: ConnectionMode,
    /// Where the house is.
    pub house: Option<GeoPoint>,
    /// What is left unexplained.
    pub residuals: Vec<Residual>,
    /// No receiver here reads cleaner than this, dB.
    pub(super) cleanest_sinr_db: f64,
    /// Powers and interference, put right by all that was measured.
    pub(super) known: Mixture<HouseKernel>,
    pub(super) down_share: Posterior<ShareKernel>,
    pub(super) up_share: Posterior<ShareKernel>,
    /// Which carriers the network gave.
    pub(super) given: Vec<Given>,
    pub(super) fading: Fading,
    pub(super) day: DayCourse,
}

/// No receiver reads cleaner than this: transmitter and receiver add their own error, dB (common practice, no source).
/// Where one did, that is the bound.
const CLEANEST_SINR_DB: f64 = 30.0;
/// One reading scatters by this, dB; medians of many by no less than a third of it (common practice, no source).
pub(super) const READING_SPREAD_DB: f64 = 3.0;
/// A gateway stays with its cell until another of the channel is this much stronger, dB (common practice: 3 dB, event A3 of
/// TS 36.331 clause 5.5.4.4).
const STRONGER_UNTAKEN_DB: f64 = 3.0;
/// How often interference is made linear again about what became likely.
const LINEARISED: usize = 2;
/// Scatter of a measured share, as a natural logarithm (common practice, no source).
pub(super) const SHARE_NOISE: f64 = 0.1;

impl<'a> Environment<'a> {
    /// Puts what is computed and what was measured together.
    pub fn new(facts: Facts<'a>) -> Self {
        let landscape = Landscape::new(facts.masts, facts.obstacles, facts.ground, facts.settings);
        let (cells, heard) = cells(&facts);
        let cleanest = facts.observations.iter().flat_map(|one| &one.carriers).filter_map(|one| one.sinr_db);
        let mut made = Self {
            landscape,
            settings: facts.settings,
            cells,
            mode: mode_of(facts.mode, facts.observations.iter().flat_map(|one| &one.carriers)),
            house: facts.house,
            residuals: Vec::new(),
            cleanest_sinr_db: cleanest.fold(CLEANEST_SINR_DB, f64::max),
            known: known_by(facts.settings, &[]),
            down_share: Posterior::new(ShareKernel, Vec::new()),
            up_share: Posterior::new(ShareKernel, Vec::new()),
            given: Vec::new(),
            fading: Fading::of(&[]),
            day: DayCourse::of(&[]),
        };
        let before: Vec<Vec<Arriving>> = facts.observations.iter().map(|one| made.likely_at(one)).collect();
        let mut measured = Vec::new();
        for ((seen, own), arriving) in facts.observations.iter().zip(&heard).zip(&before) {
            for (carrier, cell) in carriers_of(seen, own) {
                measured.extend(made.power_measured(seen, carrier, cell, arriving, facts.masts));
            }
        }
        made.residuals = measured.iter().filter_map(|(_, residual)| residual.clone()).collect();
        let of_power = |one: Measurement<PowerPoint>| Measurement {
            point: Quantity::Power(one.point),
            residual: one.residual,
            noise: one.noise,
        };
        let readings = together(measured.into_iter().map(|(one, _)| one).collect());
        let mut readings: Vec<Measurement<Quantity>> = readings.into_iter().map(of_power).collect();
        made.known = known_by(facts.settings, &readings);
        let not_heard: Vec<Measurement<Quantity>> =
            made.not_heard(&facts, &heard).into_iter().map(of_power).collect();
        not_heard.iter().for_each(|one| made.known.push(one));
        readings.extend(not_heard);
        let after: Vec<Vec<Arriving>> = facts.observations.iter().map(|one| made.likely_at(one)).collect();
        made.given = made.given(&facts.observations, &heard, &after);
        let clear = made.learn_unlisted(&facts.observations, &heard, &after);
        for _ in 0..LINEARISED {
            let interfering = made.interference_measured(&facts.observations, &heard, &clear);
            let are_linear = interfering.iter().all(|one| matches!(one.point, Quantity::Interference(_)));
            let all: Vec<Measurement<Quantity>> = readings.iter().cloned().chain(interfering).collect();
            made.known = known_by(facts.settings, &all);
            if are_linear {
                break;
            }
        }
        let bound_db = made.cleanest_sinr_db;
        let share = |measured: fn(&Observation) -> Option<f64>, possible: fn((f64, f64)) -> f64| {
            let of = |seen: &Observation| {
                let possible =
                    possible(possible_at(&seen.carriers, seen.mode, &seen.antenna, facts.settings, bound_db));
                let measured = measured(seen).filter(|mbps| *mbps > 0.0 && possible > 0.0)?;
                let point = share_point(&seen.location, &seen.antenna, seen.aim, &seen.lock);
                let residual = (measured / possible / USUAL_SHARE).ln();
                Some(Measurement { point, residual, noise: SHARE_NOISE })
            };
            Posterior::new(ShareKernel, facts.observations.iter().filter_map(of).collect())
        };
        made.down_share = share(|seen| seen.download_mbps, |(down, _)| down);
        made.up_share = share(|seen| seen.upload_mbps, |(_, up)| up);
        made
    }

    /// Learns from what was measured again and again.
    pub fn watched(mut self, spots: &[OverTime]) -> Self {
        self.fading = Fading::of(spots);
        self.day = DayCourse::of(spots);
        self
    }

    /// All cells as they arrive at a place.
    pub fn arriving(
        &self,
        location: &AntennaLocation,
        heard_with: &AimAntenna,
        what_if: WhatIf,
    ) -> Vec<Arriving> {
        let known = self.landscape.arrivals(location, what_if);
        let of = |cell| self.arriving_cell(cell, location, &known, Some(heard_with));
        (0..self.cells.len()).filter_map(of).collect()
    }

    /// All cells as they are likeliest to arrive where something was heard; no spreads, which take long beside many readings.
    pub(super) fn likely_at(&self, seen: &Observation) -> Vec<Arriving> {
        let known = self.landscape.arrivals(&seen.location, WhatIf::default());
        let of = |cell| {
            let mut one = self.arriving_cell(cell, &seen.location, &known, None)?;
            (one.point.antenna, one.point.antenna_db) = (seen.antenna.key(), seen.antenna.gain_spread_db());
            one.power_dbm.mean = one.computed_dbm + self.known.shift(&Quantity::from(&one.point));
            Some(one)
        };
        (0..self.cells.len()).filter_map(of).collect()
    }

    /// One cell as it arrives at a place; `known`: what the landscape says of it there. `heard_with`: the antenna whose gain's
    /// doubt counts; a map asks with none, and gets no spread.
    pub fn arriving_cell(
        &self,
        cell: usize,
        location: &AntennaLocation,
        known: &[Arrival],
        heard_with: Option<&AimAntenna>,
    ) -> Option<Arriving> {
        let own = &self.cells[cell];
        let walls_db = wall_losses_db(location.mount, self.settings, own.frequency_mhz);
        let wall_db = Normal::of_mixture(building_shares(self.settings).into_iter().zip(walls_db));
        let arrival = match own.source {
            Source::Mast { mast, cell } => {
                Some(known.iter().find(|one| one.mast == mast && one.cell == cell)?)
            }
            _ => None,
        };
        let height_db = height_term_db(location.height_m, own.frequency_mhz);
        let over_ground = arrival.map(|one| &one.loss).filter(|loss| !loss.is_rural());
        let (in_open_dbm, spreads) = match own.source {
            Source::Mast { mast, cell } => {
                let arrival = arrival?;
                let loss = &arrival.loss;
                let mut spreads = Spreads::of_path(loss.spread_db(), loss.in_the_way_db());
                if self.landscape.masts[mast].cells[cell].bearing_deg.is_none() {
                    spreads = spreads.of_unknown_sector();
                }
                (arrival.eirp_dbm - loss.total_db.likely - loss.near_ground_db, spreads)
            }
            Source::Heard { level_dbm } => (level_dbm + height_db, Spreads::of_reading()),
            Source::Distance { distance_m, eirp_dbm } => {
                let kit = &self.settings.kit;
                let (loss, _) = path_loss_db(kit, distance_m, location.height_m, own.frequency_mhz);
                let spread_db = (loss.high - loss.low) / (2.0 * Z_90);
                (eirp_dbm - loss.likely, Spreads::of_path(spread_db, 0.0))
            }
        };
        let computed_dbm = in_open_dbm - wall_db.mean;
        let point = PowerPoint {
            cell,
            mast: own.mast,
            place: location.place,
            spot: location.spot(),
            height_m: location.height_m,
            walls_db,
            taken_wall_db: wall_db.mean,
            height_term_db: over_ground.map_or(height_db, |loss| -loss.near_ground_db),
            spreads,
            antenna: heard_with.map_or(0, AimAntenna::key),
            antenna_db: heard_with.map_or(0.0, AimAntenna::gain_spread_db),
        };
        let asked = Quantity::from(&point);
        let looks = heard_with.map_or_else(Vec::new, |_| self.known.looks(&asked));
        let put_right = if heard_with.is_some() {
            let each: Vec<_> = self.known.each_of(&looks).collect();
            Moments::of_mixture(each.iter().map(|(weight, one)| (*weight, Moments::from(*one))))
        } else {
            Moments::exactly(self.known.shift(&asked))
        };
        let power_dbm =
            Normal { mean: computed_dbm + put_right.mean, spread: put_right.variance.max(0.0).sqrt() };
        Some(Arriving {
            cell,
            computed_dbm,
            power_dbm,
            power_third: put_right.third,
            wall_db,
            learned_wall_db: self
                .known
                .kernels()
                .map(|(share, one)| share * walls_db[one.building].mean)
                .sum(),
            from: arrival.map(Arrival::from),
            loss: arrival.map(|one| one.loss.clone()),
            load: arrival.map_or(USUAL_LOAD, |one| one.load),
            point,
            looks: looks.into(),
        })
    }

    /// Spread of a cell's power where it arrives before anything was measured, dB.
    pub fn prior_spread_db(&self, one: &Arriving) -> f64 {
        let of = |building| {
            let kernel = PowerKernel { building };
            let spread = kernel.covariance(&one.point, &one.point).sqrt();
            Normal { mean: kernel.offset(&one.point), spread }
        };
        Normal::of_mixture(building_shares(self.settings).into_iter().zip([of(0), of(1)])).spread
    }

    /// Whether any signal was read at this house.
    pub fn has_readings(&self) -> bool {
        self.known.is_informed()
    }

    /// Whether any download was measured at this house.
    pub fn has_measured_share(&self) -> bool {
        self.down_share.is_informed()
    }

    /// No receiver here reads cleaner than this, dB.
    pub fn cleanest_sinr_db(&self) -> f64 {
        self.cleanest_sinr_db
    }

    /// Likely power of a cell behind an antenna, one resource element, dBm.
    pub fn rsrp_dbm(
        &self,
        cell: usize,
        arriving: &[Arriving],
        antenna: &AimAntenna,
        aim: Option<Aim>,
    ) -> Option<f64> {
        let own = arriving.iter().find(|one| one.cell == cell)?;
        let net_gain_dbi = antenna.net_gain_dbi(self.cells[cell].frequency_mhz, self.settings)?;
        let taken_db = antenna.polarisation_loss_db() + towards_db(antenna, aim, own.from);
        Some(own.power_dbm.mean + net_gain_dbi - taken_db)
    }

    /// Places in the lists of masts and cells, where the cell is a mast's.
    pub fn of_mast(&self, cell: usize) -> Option<(usize, usize)> {
        match self.cells[cell].source {
            Source::Mast { mast, cell } => Some((mast, cell)),
            _ => None,
        }
    }

    /// Where an observation's antenna looked: where it says, else at the cell.
    pub(super) fn aim_of(
        &self,
        seen: &Observation,
        cell: usize,
        arriving: &[Arriving],
    ) -> Option<Option<Aim>> {
        let from = arriving.iter().find(|one| one.cell == cell)?.from;
        Some(seen.aim.or(from.map(|from| seen.antenna.aimed_at(from))))
    }

    /// A reading of a cell's power as a measurement, with what it is beside if the cell is a mast's.
    fn power_measured(
        &self,
        seen: &Observation,
        carrier: &Carrier,
        cell: usize,
        arriving: &[Arriving],
        masts: &[Mast],
    ) -> Option<(Measurement<PowerPoint>, Option<Residual>)> {
        let measured_dbm = carrier.rsrp_dbm?;
        let there = arriving.iter().find(|one| one.cell == cell)?;
        let aim = self.aim_of(seen, cell, arriving)?;
        let own = &self.cells[cell];
        let gain_dbi = seen.antenna.net_gain_dbi(own.frequency_mhz, self.settings)?
            - seen.antenna.polarisation_loss_db()
            - towards_db(&seen.antenna, aim, there.from);
        let predicted_dbm = there.computed_dbm + gain_dbi;
        let off_beam_db = towards_db(&seen.antenna, aim, there.from);
        let samples = (seen.samples.max(1) as f64).sqrt().min(3.0);
        // What an antenna hears by its flanks no catalogue knows well: half of what it takes is doubted.
        let noise = (READING_SPREAD_DB / samples).hypot(0.5 * off_beam_db);
        let residual = self.of_mast(cell).map(|(mast, place)| Residual {
            spot: seen.spot.clone(),
            mast_id: masts[mast].id,
            cell: place,
            measured_dbm,
            predicted_dbm,
        });
        let one = Measurement { point: there.point.clone(), residual: measured_dbm - predicted_dbm, noise };
        Some((one, residual))
    }

    /// A gateway takes the strongest cell of a channel: one that it did not take there is no stronger, or only a little. Of each
    /// mast that nothing was heard of, the cell and spot that say the most.
    fn not_heard(&self, facts: &Facts, heard: &[Vec<Option<usize>>]) -> Vec<Measurement<PowerPoint>> {
        let known: Vec<usize> =
            heard.iter().flatten().flatten().filter_map(|cell| self.cells[*cell].mast).collect();
        let mut found: Vec<Option<(f64, Measurement<PowerPoint>)>> = vec![None; facts.masts.len()];
        if self.cells.iter().filter_map(|cell| cell.mast).all(|mast| known.contains(&mast)) {
            return Vec::new();
        }
        for (seen, own) in facts.observations.iter().zip(heard) {
            let arriving = self.likely_at(seen);
            for there in &arriving {
                let Some((mast, _)) = self.of_mast(there.cell).filter(|(mast, _)| !known.contains(mast))
                else {
                    continue;
                };
                let channel = &self.cells[there.cell].carrier;
                let taken = carriers_of(seen, own)
                    .filter(|(carrier, _)| carrier.channel.is_some() && same_channel(carrier, channel))
                    .filter_map(|(carrier, _)| carrier.rsrp_dbm)
                    .reduce(f64::max);
                let Some(taken_dbm) = taken else { continue };
                let aim = seen.aim.or(there.from.map(|from| seen.antenna.aimed_at(from)));
                let Some(here_dbm) = self.rsrp_dbm(there.cell, &arriving, &seen.antenna, aim) else {
                    continue;
                };
                let here =
                    Normal { mean: here_dbm, spread: self.known.at(&Quantity::from(&there.point)).spread };
                let bound_dbm = taken_dbm + STRONGER_UNTAKEN_DB;
                let Some((off, noise)) = below(here, bound_dbm) else { continue };
                let says = (here.mean - bound_dbm) / here.spread;
                if found[mast].as_ref().is_none_or(|(most, _)| says > *most) {
                    let residual = there.power_dbm.mean + off - there.computed_dbm;
                    found[mast] = Some((says, Measurement { point: there.point.clone(), residual, noise }));
                }
            }
        }
        found.into_iter().flatten().map(|(_, one)| one).collect()
    }
}

/// Readings of one cell on one antenna at one spot as one, by their precisions: the posterior is the same, and a sweep of many points is one
/// reading of what it has in common.
fn together(readings: Vec<Measurement<PowerPoint>>) -> Vec<Measurement<PowerPoint>> {
    let mut found: Vec<Measurement<PowerPoint>> = Vec::new();
    for one in readings {
        let Some(there) = found.iter_mut().find(|there| there.point == one.point) else {
            found.push(one);
            continue;
        };
        let [own, other] = [there.noise, one.noise].map(|noise| noise.powi(-2));
        there.residual = (own * there.residual + other * one.residual) / (own + other);
        there.noise = (own + other).powf(-0.5);
    }
    found
}

/// How far below its middle an antenna hears a cell, dB; nothing where either direction is not known.
pub(super) fn towards_db(antenna: &AimAntenna, aim: Option<Aim>, from: Option<Aim>) -> f64 {
    match (aim, from) {
        (Some(aim), Some(from)) => antenna.off_aim_db(aim, from),
        _ => 0.0,
    }
}

/// Where a share of the possible was measured, or is asked for.
pub(super) fn share_point(
    location: &AntennaLocation,
    antenna: &AimAntenna,
    aim: Option<Aim>,
    lock: &BandChoice,
) -> SharePoint {
    SharePoint {
        spot: location.spot(),
        antenna: antenna.key(),
        azimuth_deg: aim.filter(|_| antenna.is_pointed()).map(|aim| aim.azimuth_deg),
        lock: lock.clone(),
    }
}
