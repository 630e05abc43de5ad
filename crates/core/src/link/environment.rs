//! What is known of the air at a house: the cells that may serve it, and how far computation is put right by everything that
//! was measured there.
//!
//! Received power is linear in decibels, so its posterior is that of a multivariate normal distribution
//! ([`super::gaussian`]). Its prior error has parts that places and cells share: one of all masts (what is assumed of power),
//! one of a mast, one of a cell, one of the neighbourhood (shadowing), the walls of the house, the antenna. A reading
//! behind a wall therefore speaks mostly of the wall, and carriers heard at one spot share it. Interference and the share
//! of the possible that is measured are put right the same way.

use super::antenna::{Aim, AimAntenna};
use super::field::{
    InterferenceKernel, InterferencePoint, PowerKernel, PowerPoint, ShareKernel, SharePoint, Spreads,
};
use super::gaussian::{Kernel, Measurement, Normal, Posterior, below};
use super::landscape::{
    AntennaLocation, Arrival, IDLE_SHARE, Landscape, WhatIf, carrier_of, frequency_mhz, same_channel,
};
use super::matching::{Fit, matches};
use super::predict::possible_at;
use super::route::PathLoss;
use super::rural::{height_term_db, path_loss_db};
use super::walls::wall_loss_db;
use crate::bands::{band_place, carrier_frequency_mhz};
use crate::capacity::uplink::UplinkAssumptions;
use crate::geo::GeoPoint;
use crate::metrics::{db_to_linear, interference_dbm, limits, linear_to_db};
use crate::model::{
    BandChoice, BandName, Carrier, CarrierRole, ConnectionMode, Mast, MastId, Mount, Obstacle, SiteSettings,
    Technology,
};
use crate::terrain::Ground;
use serde::{Deserialize, Serialize};

/// Everything heard with one antenna at one place, summed up.
#[derive(Clone, Debug)]
pub struct Observation<'a> {
    /// What its spot is called.
    pub spot: String,
    pub location: AntennaLocation,
    pub antenna: AimAntenna<'a>,
    /// Where the antenna points; `None` where it is not known, or hears all round.
    pub aim: Option<Aim>,
    /// Medians.
    pub carriers: Vec<Carrier>,
    pub mode: ConnectionMode,
    pub lock: BandChoice,
    /// Independent readings behind the medians.
    pub samples: usize,
    /// Geometric means over sittings, Mbit/s.
    pub download_mbps: Option<f64>,
    pub upload_mbps: Option<f64>,
}

/// What an environment is made from.
#[derive(Debug)]
pub struct Facts<'a> {
    pub masts: &'a [Mast],
    pub obstacles: &'a [Obstacle],
    pub ground: &'a Ground,
    pub settings: &'a SiteSettings,
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
    pub band: BandName,
    pub frequency_mhz: f64,
    /// Middle of its uplink, MHz; the downlink's where the band has none.
    pub uplink_mhz: f64,
    pub origin: Origin,
    /// The mast that has it, a place in the list of masts; where only readings are known, the one that serves.
    pub mast: Option<usize>,
    /// A receiver's own noise in one resource element at the assumed noise figure, dBm; what was read less where it was less.
    pub noise_dbm: f64,
    source: Source,
    /// Interference from cells that no list has, at an isotropic antenna in the open at a sill's height, one resource
    /// element, dBm.
    unlisted_dbm: f64,
}

#[derive(Clone, Copy, Debug)]
enum Source {
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

/// A cell as it arrives at an isotropic antenna at a place, walls counted.
#[derive(Clone, Debug)]
pub struct Arriving {
    /// Place in the environment's cells.
    pub cell: usize,
    /// One resource element, dBm, before measurements and after.
    pub computed_dbm: f64,
    pub power_dbm: Normal,
    pub wall_db: Normal,
    /// Where it comes from, if its mast is known.
    pub from: Option<Aim>,
    pub loss: Option<PathLoss>,
    pub load: f64,
    pub(super) point: PowerPoint,
}

/// One measurement beside what was computed for it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Residual {
    pub spot: String,
    pub mast_id: MastId,
    pub cell: usize,
    pub measured_dbm: f64,
    pub predicted_dbm: f64,
}

/// What is known of the air at a house; see the module.
#[derive(Debug)]
pub struct Environment<'a> {
    pub landscape: Landscape<'a>,
    pub settings: &'a SiteSettings,
    pub cells: Vec<LinkCell>,
    pub mode: ConnectionMode,
    pub house: Option<GeoPoint>,
    pub residuals: Vec<Residual>,
    /// No receiver here reads cleaner than this, dB.
    pub(super) cleanest_sinr_db: f64,
    power: Posterior<PowerKernel>,
    pub(super) interference: Posterior<InterferenceKernel>,
    pub(super) down_share: Posterior<ShareKernel>,
    pub(super) up_share: Posterior<ShareKernel>,
}

/// No receiver reads cleaner than this: transmitter and receiver add their own error, dB (common practice, no source).
/// Where one did, that is the bound.
const CLEANEST_SINR_DB: f64 = 30.0;
/// Gain of a mast's sector antenna, dBi (common practice, no source).
const MAST_GAIN_DBI: f64 = 17.0;
/// Interference over noise of what no list has, in the open, dB (common practice, no source): where no mast of the channel is
/// listed, and where some are.
const UNLISTED_OVER_NOISE_DB: f64 = 3.0;
const UNLISTED_BESIDE_LISTED_DB: f64 = -3.0;
/// Height of a spot that says none: on a sill of the ground floor, m.
pub const SILL_M: f64 = 1.5;
/// One reading scatters by this, dB; medians of many by no less than a third of it (common practice, no source).
const READING_SPREAD_DB: f64 = 3.0;
/// What a signal-to-noise reading says of interference is off by this, dB; where noise hides it, by much more (common
/// practice, no source).
const INTERFERENCE_READING_DB: f64 = 2.0;
const HIDDEN_INTERFERENCE_DB: f64 = 6.0;
/// Interference that noise hides is taken to lie this far below it, dB.
const HIDDEN_BELOW_NOISE_DB: f64 = 9.0;
/// A gateway stays with its cell until another of the channel is this much stronger, dB (common practice: 3 dB, event A3 of
/// TS 36.331 clause 5.5.4.4).
const STRONGER_UNTAKEN_DB: f64 = 3.0;
/// Of what could be carried, this much is measured where nothing is known (common practice, no source), and its spread as a
/// natural logarithm is the kernel's.
pub const USUAL_SHARE: f64 = 0.5;
/// Scatter of a measured share, as a natural logarithm (common practice, no source).
const SHARE_NOISE: f64 = 0.1;

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
            power: Posterior::new(PowerKernel, Vec::new()),
            interference: Posterior::new(InterferenceKernel, Vec::new()),
            down_share: Posterior::new(ShareKernel, Vec::new()),
            up_share: Posterior::new(ShareKernel, Vec::new()),
        };
        let before: Vec<Vec<Arriving>> = facts.observations.iter().map(|one| made.heard_by(one)).collect();
        let mut measured = Vec::new();
        for ((seen, own), arriving) in facts.observations.iter().zip(&heard).zip(&before) {
            for (carrier, cell) in carriers_of(seen, own) {
                measured.extend(made.power_measured(seen, carrier, cell, arriving, facts.masts));
            }
        }
        made.residuals = measured.iter().filter_map(|(_, residual)| residual.clone()).collect();
        let mut readings: Vec<_> = measured.into_iter().map(|(one, _)| one).collect();
        made.power = Posterior::new(PowerKernel, readings.clone());
        let unheard = made.not_heard(&facts, &heard);
        if !unheard.is_empty() {
            readings.extend(unheard);
            made.power = Posterior::new(PowerKernel, readings);
        }
        let after: Vec<Vec<Arriving>> = facts.observations.iter().map(|one| made.heard_by(one)).collect();
        made.learn_unlisted(&facts.observations, &heard, &after);
        let mut interfering = Vec::new();
        for ((seen, own), arriving) in facts.observations.iter().zip(&heard).zip(&after) {
            for (carrier, cell) in carriers_of(seen, own) {
                let Some(aim) = made.aim_of(seen, cell, arriving) else { continue };
                let Some(computed_dbm) = made.interference_dbm(cell, arriving, &seen.antenna, aim) else {
                    continue;
                };
                let Some((heard_dbm, noise)) =
                    interference_heard(carrier, made.cells[cell].noise_dbm, computed_dbm)
                else {
                    continue;
                };
                let point = made.interference_point(cell, &seen.location, &seen.antenna, aim);
                interfering.push(Measurement { point, residual: heard_dbm - computed_dbm, noise });
            }
        }
        made.interference = Posterior::new(InterferenceKernel, interfering);
        let share = |measured: fn(&Observation) -> Option<f64>, possible: fn((f64, f64)) -> f64| {
            let of = |seen: &Observation| {
                let possible =
                    possible(possible_at(&seen.carriers, seen.mode, &seen.antenna, facts.settings));
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
        let wall_db = wall_loss_db(location.mount, self.settings, own.frequency_mhz);
        let arrival = match own.source {
            Source::Mast { mast, cell } => {
                Some(known.iter().find(|one| one.mast == mast && one.cell == cell)?)
            }
            _ => None,
        };
        let height_db = height_term_db(location.height_m);
        let (in_open_dbm, spreads) = match own.source {
            Source::Mast { .. } => {
                let arrival = arrival?;
                let loss = arrival.loss.total_db;
                let spreads = Spreads::of_path(
                    arrival.loss.spread_db(),
                    arrival.loss.in_the_way_db(),
                    arrival.loss.is_rural(),
                );
                (arrival.eirp_dbm - loss.likely, spreads)
            }
            Source::Heard { level_dbm } => (level_dbm + height_db, Spreads::of_reading()),
            Source::Distance { distance_m, eirp_dbm } => {
                let kit = &self.settings.kit;
                let (loss, _) = path_loss_db(kit, distance_m, location.height_m, own.frequency_mhz)?;
                let spread_db = (loss.high - loss.low) / (2.0 * Z_90);
                (eirp_dbm - loss.likely, Spreads::of_path(spread_db, 0.0, true))
            }
        };
        let computed_dbm = in_open_dbm - wall_db.mean;
        let point = PowerPoint {
            cell,
            mast: own.mast,
            place: location.place,
            spot: location.spot(),
            height_m: location.height_m,
            wall_db: wall_db.spread,
            height_term_db: height_db,
            spreads,
            antenna: heard_with.map_or(0, AimAntenna::key),
            antenna_db: heard_with.map_or(0.0, AimAntenna::gain_spread_db),
        };
        let put_right = if heard_with.is_some() {
            self.power.at(&point)
        } else {
            Normal { mean: self.power.shift(&point), spread: 0.0 }
        };
        let power_dbm = Normal { mean: computed_dbm + put_right.mean, ..put_right };
        Some(Arriving {
            cell,
            computed_dbm,
            power_dbm,
            wall_db,
            from: arrival.map(Arrival::from),
            loss: arrival.map(|one| one.loss.clone()),
            load: arrival.map_or(0.5, |one| one.load),
            point,
        })
    }

    /// Spread of a cell's power where it arrives before anything was measured, dB.
    pub fn prior_spread_db(&self, one: &Arriving) -> f64 {
        PowerKernel.covariance(&one.point, &one.point).sqrt()
    }

    /// No receiver here reads cleaner than this, dB.
    pub fn cleanest_sinr_db(&self) -> f64 {
        self.cleanest_sinr_db
    }

    fn heard_by(&self, seen: &Observation) -> Vec<Arriving> {
        self.arriving(&seen.location, &seen.antenna, WhatIf::default())
    }

    /// Places in the lists of masts and cells, where the cell is a mast's.
    pub fn of_mast(&self, cell: usize) -> Option<(usize, usize)> {
        match self.cells[cell].source {
            Source::Mast { mast, cell } => Some((mast, cell)),
            _ => None,
        }
    }

    /// Where an observation's antenna looked: where it says, else at the cell.
    fn aim_of(&self, seen: &Observation, cell: usize, arriving: &[Arriving]) -> Option<Option<Aim>> {
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
        for (seen, own) in facts.observations.iter().zip(heard) {
            let arriving = self.heard_by(seen);
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
                let here = Normal { mean: here_dbm, ..there.power_dbm };
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

    /// Where no mast of a channel is listed, what was heard of its interference is the level that the prior starts from.
    fn learn_unlisted(
        &mut self,
        observations: &[Observation],
        heard: &[Vec<Option<usize>>],
        arriving: &[Vec<Arriving>],
    ) {
        let mut levels: Vec<Vec<f64>> = vec![Vec::new(); self.cells.len()];
        for ((seen, own), arriving) in observations.iter().zip(heard).zip(arriving) {
            for (carrier, cell) in carriers_of(seen, own) {
                let Some(aim) = self.aim_of(seen, cell, arriving) else { continue };
                if self.listed_beside(cell, arriving) {
                    continue;
                }
                let noise_dbm = self.cells[cell].noise_dbm;
                let computed_dbm = self.interference_dbm(cell, arriving, &seen.antenna, aim);
                let heard = computed_dbm.and_then(|computed| {
                    Some(interference_heard(carrier, noise_dbm, computed)?.0 - computed)
                });
                levels[cell].extend(heard);
            }
        }
        for (cell, offs) in self.cells.iter_mut().zip(levels) {
            if !offs.is_empty() {
                cell.unlisted_dbm += offs.iter().sum::<f64>() / offs.len() as f64;
            }
        }
    }

    fn listed_beside(&self, cell: usize, arriving: &[Arriving]) -> bool {
        arriving.iter().any(|other| {
            other.cell != cell
                && self.of_mast(other.cell).is_some()
                && same_channel(&self.cells[other.cell].carrier, &self.cells[cell].carrier)
        })
    }

    /// Interference on a cell's channel behind an antenna, one resource element, dBm: listed cells through the pattern, and what
    /// no list has from all round or from the bearings that are said; before it is put right. `None` where the antenna is
    /// not made for the frequency.
    pub(super) fn interference_dbm(
        &self,
        cell: usize,
        arriving: &[Arriving],
        antenna: &AimAntenna,
        aim: Option<Aim>,
    ) -> Option<f64> {
        let own = &self.cells[cell];
        let gain_dbi =
            antenna.net_gain_dbi(own.frequency_mhz, self.settings)? - antenna.polarisation_loss_db();
        let listed: f64 = arriving
            .iter()
            .filter(|other| {
                other.cell != cell
                    && self.of_mast(other.cell).is_some()
                    && same_channel(&self.cells[other.cell].carrier, &own.carrier)
            })
            .map(|other| {
                let share = IDLE_SHARE + (1.0 - IDLE_SHARE) * other.load;
                db_to_linear(other.power_dbm.mean + gain_dbi - towards_db(antenna, aim, other.from)) * share
            })
            .sum();
        let here = arriving.iter().find(|one| one.cell == cell)?;
        let rejection_db = antenna.rejection_db(&self.interferers_off_deg(aim));
        // What height brings of the signal it brings of interference too.
        let raised_db = here.point.height_term_db - height_term_db(SILL_M);
        let unlisted =
            db_to_linear(own.unlisted_dbm + raised_db - here.wall_db.mean + gain_dbi - rejection_db);
        Some(linear_to_db(listed + unlisted))
    }

    /// How far off the beam interferers stand that are said by their bearings, degrees.
    pub fn interferers_off_deg(&self, aim: Option<Aim>) -> Vec<f64> {
        let towards =
            aim.map(|aim| aim.azimuth_deg).or(self.settings.known_mast.as_ref().map(|mast| mast.bearing_deg));
        let bearings = &self.settings.kit.interferer_bearings_deg;
        towards.map_or_else(Vec::new, |from| {
            bearings.iter().map(|bearing| crate::geo::turn_deg(from, *bearing)).collect()
        })
    }

    pub(super) fn interference_point(
        &self,
        cell: usize,
        location: &AntennaLocation,
        antenna: &AimAntenna,
        aim: Option<Aim>,
    ) -> InterferencePoint {
        InterferencePoint {
            cell,
            spot: location.spot(),
            antenna: antenna.key(),
            azimuth_deg: aim.filter(|_| antenna.is_pointed()).map(|aim| aim.azimuth_deg),
        }
    }
}

/// Quantile of the standard normal distribution at 90 %: ranges run from 10 to 90 %.
pub const Z_90: f64 = 1.281_551_6;

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

/// Interference that a reading implies, dBm, and its spread, dB. Where noise hides it, it is known to lie below the noise only:
/// `None` where what was computed for it does.
fn interference_heard(carrier: &Carrier, noise_dbm: f64, computed_dbm: f64) -> Option<(f64, f64)> {
    let hidden_below_dbm = noise_dbm - HIDDEN_BELOW_NOISE_DB;
    match interference_dbm(limits(carrier).disturbance_dbm?, noise_dbm) {
        Some(dbm) if dbm > hidden_below_dbm => Some((dbm, INTERFERENCE_READING_DB)),
        _ => (computed_dbm > hidden_below_dbm).then_some((hidden_below_dbm, HIDDEN_INTERFERENCE_DB)),
    }
}

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
    let middle = |span: crate::bands::FrequencySpan| f64::midpoint(span.low_mhz, span.high_mhz);
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
    })
}

/// The cells of a house, and for each observation which cell each of its carriers is.
fn cells(facts: &Facts) -> (Vec<LinkCell>, Vec<Vec<Option<usize>>>) {
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
        }
    }
    (found, heard)
}

/// An observation's carriers that are a cell of the environment, with that cell.
fn carriers_of<'a>(
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
    Some(carrier.rsrp_dbm? - gain_dbi + wall_db - height_term_db(seen.location.height_m))
}

/// Carriers that are said to be on offer and are not known otherwise, from the known mast's distance.
fn expected(facts: &Facts, known: &[LinkCell], serving: Option<usize>) -> Vec<LinkCell> {
    let Some(distance_m) = facts.settings.known_mast.as_ref().and_then(|mast| mast.distance_m) else {
        return Vec::new();
    };
    let made = |one: &crate::model::ExpectedCarrier| {
        let band = one.band;
        if known.iter().any(|cell| cell.band == band) {
            return None;
        }
        let (down_mhz, up_mhz) = band_middles_mhz(band)?;
        let (_, beyond_model) = path_loss_db(&facts.settings.kit, distance_m, SILL_M, down_mhz)?;
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
