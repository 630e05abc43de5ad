//! Where a figure comes from: the sum of gains and losses of the carrier that brings the most, with what each rests on and how much of the
//! range it causes.

use super::doubts::NotKnown;
use super::environment::Environment;
use super::predict::{CarrierPrediction, LinkPrediction};
use open_beacon_domain::model::BandName;
use serde::{Deserialize, Serialize};

/// A term of the sum.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum WhyTerm {
    /// One resource element as it leaves the mast towards the house, dBm EIRP.
    Sent,
    /// As it was heard at the house, reckoned to the open at this height, dBm.
    Heard,
    /// Loss in free space.
    FreeSpace,
    /// Loss by the ground.
    Ground,
    /// Trees and buildings.
    Obstacles,
    /// What the rural model takes beyond free space.
    RuralModel,
    /// Ground and clutter near the antenna.
    NearGround,
    /// Walls or roof.
    Walls,
    /// What the readings at this house put right.
    Readings,
    /// The antenna behind its feed line, dBi.
    Gain,
    /// Pointing elsewhere.
    OffBeam,
    /// Polarisation.
    Polarisation,
}

/// What a term rests on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Basis {
    /// Measured at this house.
    Measured,
    /// Computed from what is known of the place.
    Computed,
    /// By the parts' data.
    DataSheet,
    /// Assumed.
    Assumed,
}

/// A line of the sum.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WhyLine {
    /// Which.
    pub term: WhyTerm,
    /// What it adds, dB; of the first line, dBm.
    pub adds_db: f64,
    /// What it rests on.
    pub basis: Basis,
    /// What it leaves unknown.
    pub unknown: Option<NotKnown>,
    /// Share of the variance of the expected download's logarithm that this unknown causes, 0 to 1; on the first line that it concerns.
    pub causes: Option<f64>,
}

/// Where a prediction comes from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Why {
    /// The carrier that brings the most.
    pub band: BandName,
    /// Lines that add up to `rsrp_dbm`.
    pub lines: Vec<WhyLine>,
    /// Likely power, dBm.
    pub rsrp_dbm: f64,
    /// Interference and noise on the same width, dBm, with the share of the range that interference causes.
    pub disturbance_dbm: f64,
    /// See `disturbance_dbm`.
    pub interference_causes: f64,
    /// Signal-to-noise, dB.
    pub sinr_db: f64,
    /// Layers.
    pub layers: u8,
    /// What all carriers could carry on empty cells, likely, Mbit/s, and how much of the range that causes.
    pub possible_down_mbps: f64,
    /// See `possible_down_mbps`.
    pub carrying_causes: f64,
    /// Carriers taken together.
    pub carriers: usize,
    /// Share of it that is expected, and whether that was measured at this house.
    pub share: f64,
    /// See `share`.
    pub share_is_measured: bool,
    /// Share of the range that it causes.
    pub share_causes: f64,
    /// What the wire carries, Mbit/s, where it limits.
    pub wire_mbps: Option<f64>,
    /// Expected download, Mbit/s.
    pub down_mbps: f64,
}

/// Terms smaller than this are left out, dB.
const LEAST_DB: f64 = 1e-6;

impl LinkPrediction<'_> {
    /// Where this prediction comes from; `None` where nothing is received.
    pub fn why(&self, env: &Environment) -> Option<Why> {
        let most = self.counted().max_by(|a, b| a.likely_down_mbps().total_cmp(&b.likely_down_mbps()))?;
        let doubts = self.doubts(env);
        let caused =
            |unknown: NotKnown| doubts.iter().find(|one| one.unknown == unknown).map_or(0.0, |one| one.share);
        let possible_down_mbps = self.possible_down_mbps.map_or(0.0, |range| range.likely);
        let down_mbps = self.down_mbps.map_or(0.0, |range| range.likely);
        let (rsrp_dbm, sinr_db) = (most.rsrp_dbm().likely, most.sinr_db().likely);
        Some(Why {
            band: env.cells[most.cell].band,
            lines: self.lines(env, most, &caused),
            rsrp_dbm,
            disturbance_dbm: rsrp_dbm - sinr_db,
            interference_causes: caused(NotKnown::Interference),
            sinr_db,
            layers: most.likely.1.layers,
            possible_down_mbps,
            carrying_causes: caused(NotKnown::Carrying),
            carriers: self.counted().count().min(self.aggregated()),
            share: if possible_down_mbps > 0.0 { down_mbps / possible_down_mbps } else { 0.0 },
            share_is_measured: env.has_measured_share(),
            share_causes: caused(NotKnown::Share),
            wire_mbps: self.lan_caps.then_some(self.lan_cap_mbps),
            down_mbps,
        })
    }

    fn lines(
        &self,
        env: &Environment,
        most: &CarrierPrediction,
        caused: &dyn Fn(NotKnown) -> f64,
    ) -> Vec<WhyLine> {
        let (arriving, received) = (&most.arriving, &most.received);
        let wall_db = arriving.wall_db.mean;
        let line = |term, adds_db, basis, unknown| WhyLine { term, adds_db, basis, unknown, causes: None };
        let (path, place) = (Some(NotKnown::Path), Some(NotKnown::Place));
        let mut lines = Vec::new();
        match &arriving.loss {
            Some(loss) => {
                let lost_db = loss.total_db.likely + loss.near_ground_db;
                let sent_dbm = arriving.computed_dbm + wall_db + lost_db;
                lines.push(line(WhyTerm::Sent, sent_dbm, Basis::Assumed, path));
                lines.push(line(WhyTerm::FreeSpace, -loss.free_space_db, Basis::Computed, None));
                lines.push(line(WhyTerm::Ground, -loss.ground_db, Basis::Computed, path));
                lines.push(line(WhyTerm::Obstacles, -loss.obstacles_db, Basis::Computed, path));
                let rest_db = loss.total_db.likely - loss.free_space_db - loss.ground_db - loss.obstacles_db;
                lines.push(line(WhyTerm::RuralModel, -rest_db, Basis::Assumed, path));
                let near = Some(NotKnown::Height);
                lines.push(line(WhyTerm::NearGround, -loss.near_ground_db, Basis::Assumed, near));
            }
            None => {
                let heard_dbm = arriving.computed_dbm + wall_db;
                lines.push(line(WhyTerm::Heard, heard_dbm, Basis::Measured, path));
            }
        }
        let walls = Some(NotKnown::Walls);
        lines.push(line(WhyTerm::Walls, -wall_db, Basis::Assumed, walls));
        let put_right_db =
            most.rsrp_dbm().likely - received.rsrp_dbm.mean + arriving.power_dbm.mean - arriving.computed_dbm;
        let basis = if env.has_readings() { Basis::Measured } else { Basis::Assumed };
        lines.push(line(WhyTerm::Readings, put_right_db, basis, place));
        let antenna = Some(NotKnown::Antenna);
        lines.push(line(WhyTerm::Gain, received.net_gain_dbi, Basis::DataSheet, antenna));
        lines.push(line(WhyTerm::OffBeam, -received.pattern_db, Basis::DataSheet, antenna));
        lines.push(line(WhyTerm::Polarisation, -received.polarisation_db, Basis::Assumed, antenna));
        lines.retain(|one| one.adds_db.abs() > LEAST_DB);
        for at in 0..lines.len() {
            let own = lines[at].unknown;
            let first = own.is_some() && lines[..at].iter().all(|before| before.unknown != own);
            lines[at].causes = own.filter(|_| first).map(caused).filter(|share| *share > 0.0);
        }
        lines
    }
}
