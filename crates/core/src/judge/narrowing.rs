//! What would narrow most what is foretold of an antenna outside: one more reading, with what it takes.

use crate::link::antenna::AimAntenna;
use crate::link::cells::SILL_M;
use crate::link::environment::Environment;
use crate::link::gaussian::Z_90;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::model::Mount;
use serde::{Deserialize, Serialize};

/// Where one more reading may be taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum OneMoreReading {
    /// In another room.
    Indoors,
    /// Outside against the wall, by hand.
    OutsideByHand,
    /// Where the antenna would be.
    AtTheAntenna,
}

/// What one more reading is expected to do.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Narrowing {
    /// Where it is taken.
    pub reading: OneMoreReading,
    /// Half the width of the signal's range from 10 to 90 % today, dB.
    pub now_db: f64,
    /// The same after it, on average, dB.
    pub after_db: f64,
    /// How long it takes, minutes (common practice, no source).
    pub minutes: u32,
    /// Times that somebody goes up.
    pub climbs: u32,
}

/// A reading is worth naming where it takes this much off half the range, dB, and this share of it.
const WORTH_NAMING_DB: f64 = 1.5;
/// See [`WORTH_NAMING_DB`].
const WORTH_NAMING: f64 = 0.1;

/// Readings that would narrow the signal of the strongest cell at a place outside, the one that brings the most for its time first.
pub fn narrowings(env: &Environment, outside: AntennaLocation) -> Vec<Narrowing> {
    let arriving = |location| env.arriving(&location, &AimAntenna::Stock, WhatIf::default());
    let at_antenna = arriving(outside);
    let strongest = at_antenna.iter().max_by(|a, b| a.power_dbm.mean.total_cmp(&b.power_dbm.mean));
    let Some(there) = strongest else { return Vec::new() };
    let elsewhere = |mount| AntennaLocation { mount, height_m: SILL_M, position: None, ..outside };
    let readings = [
        (OneMoreReading::Indoors, elsewhere(Mount::Indoor), 5, 0),
        (OneMoreReading::OutsideByHand, elsewhere(Mount::Wall), 5, 0),
        (OneMoreReading::AtTheAntenna, outside, 20, 1),
    ];
    let now_db = Z_90 * there.power_dbm.spread;
    let mut found: Vec<Narrowing> = readings
        .into_iter()
        .filter_map(|(reading, location, minutes, climbs)| {
            let here = arriving(location);
            let read_at = here.iter().find(|one| one.cell == there.cell)?;
            let after_db = Z_90 * env.spread_after_db(there, read_at);
            Some(Narrowing { reading, now_db, after_db, minutes, climbs })
        })
        .filter(|one| one.now_db - one.after_db > WORTH_NAMING_DB.max(WORTH_NAMING * one.now_db))
        .collect();
    let worth = |one: &Narrowing| (one.now_db - one.after_db) / f64::from(one.minutes);
    found.sort_by(|a, b| worth(b).total_cmp(&worth(a)));
    found
}
