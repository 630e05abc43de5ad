//! Measured against predicted: what was heard at spots of the house shifts and narrows the predictions of that mast.
//!
//! Normal prior and likelihood: a mast's predictions are off by a common amount (spread [`PRIOR_DB`]), each measurement
//! by its own besides (spread [`EACH_DB`]); both spreads are common practice, no source.

use super::antenna::{Aim, AimAntenna};
use super::hear::{Landscape, Shift, Stand, WhatIf, behind};
use super::matching::{Fit, matches};
use super::route::TERRAIN_SPREAD_DB;
use crate::geo::turn_deg;
use crate::judge::SpotView;
use crate::model::{Carrier, Instrument, MastId, Position};
use serde::{Deserialize, Serialize};

/// Spread of a mast's common error before anything was measured, dB.
pub const PRIOR_DB: f64 = 8.0;
/// Spread of one measurement round it, dB.
pub const EACH_DB: f64 = 6.0;

/// One measurement beside its prediction.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Residual {
    pub spot: String,
    pub mast_id: MastId,
    pub cell: usize,
    pub measured_dbm: f64,
    pub predicted_dbm: f64,
}

/// How a mast's predictions were put right.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MastShift {
    pub mast_id: MastId,
    /// Measurements it rests on.
    pub count: usize,
    /// Added to every prediction of the mast, dB.
    pub shift_db: f64,
    /// Spread of a prediction before and after, dB either way.
    pub before_db: f64,
    pub after_db: f64,
}

/// Shift and its spread from residuals (measured − predicted), dB.
///
/// ```
/// use open_beacon_core::survey::calibrate::posterior;
/// // Closed form, three residuals of 6 dB: precision 1/64 + 3/36, mean (18/36) / that = 5.05 dB, spread 3.18 dB.
/// let (shift, spread) = posterior(&[6.0, 6.0, 6.0]);
/// assert!((shift - 5.053).abs() < 1e-3 && (spread - 3.179).abs() < 1e-3);
/// assert_eq!(posterior(&[]).0, 0.0);
/// ```
pub fn posterior(residuals_db: &[f64]) -> (f64, f64) {
    let each = EACH_DB * EACH_DB;
    let precision = 1.0 / (PRIOR_DB * PRIOR_DB) + residuals_db.len() as f64 / each;
    (residuals_db.iter().sum::<f64>() / each / precision, precision.sqrt().recip())
}

/// What was heard at a spot, and by which antenna.
#[derive(Clone, Debug, PartialEq)]
pub struct HeardAt {
    pub spot: SpotView,
    /// True bearing that an outdoor antenna was aimed at, degrees; `None` for the gateway's own.
    pub aim_deg: Option<f64>,
}

/// An antenna aimed farther than this past the mast hears it by a flank that no catalogue knows, degrees (common
/// practice, no source).
const AIMED_DEG: f64 = 30.0;

/// Holds what was heard against the prediction, and puts the landscape right. `antenna`: the one that outdoor runs are
/// taken to have had.
pub fn calibrate(
    landscape: &mut Landscape,
    heard: &[HeardAt],
    antenna: &AimAntenna,
    positions: &[Position],
    house: Option<crate::geo::GeoPoint>,
) -> (Vec<Residual>, Vec<MastShift>) {
    let mut residuals = Vec::new();
    for HeardAt { spot, aim_deg } in heard.iter().filter(|one| one.spot.instrument == Instrument::Gateway) {
        let Some(position) = positions.iter().find(|one| one.id == spot.position_id) else { continue };
        let Some(place) = position.place.or(house) else { continue };
        let stand =
            Stand { place, height_m: position.height_above_ground_m.unwrap_or(1.5), mount: position.mount };
        let carriers: Vec<Carrier> = spot.carriers.iter().map(|one| one.carrier.clone()).collect();
        let arrivals = landscape.arrivals(&stand, WhatIf::default());
        for found in matches(&carriers, landscape.masts, house).iter().filter(|one| one.fit == Fit::Confirmed)
        {
            let index = arrivals
                .iter()
                .position(|one| landscape.masts[one.mast].id == found.mast_id && one.cell == found.cell);
            let (Some(index), Some(measured_dbm)) = (index, carriers[found.carrier].rsrp_dbm) else {
                continue;
            };
            let bearing_deg = arrivals[index].bearing_deg;
            if aim_deg.is_some_and(|aim_deg| turn_deg(aim_deg, bearing_deg).abs() > AIMED_DEG) {
                continue;
            }
            let by = if aim_deg.is_some() { antenna } else { &AimAntenna::Stock };
            let at_it = by.aimed_at(arrivals[index].from());
            let aim = Aim { azimuth_deg: aim_deg.unwrap_or(bearing_deg), ..at_it };
            let Some(predicted) = behind(by, aim, index, &arrivals, landscape.settings) else {
                continue;
            };
            residuals.push(Residual {
                spot: spot.name.clone(),
                mast_id: found.mast_id,
                cell: found.cell,
                measured_dbm,
                predicted_dbm: predicted.rsrp_dbm.likely,
            });
        }
    }
    let mut shifts: Vec<MastShift> = Vec::new();
    for (index, mast) in landscape.masts.iter().enumerate() {
        let own: Vec<f64> = residuals
            .iter()
            .filter(|one| one.mast_id == mast.id)
            .map(|one| one.measured_dbm - one.predicted_dbm)
            .collect();
        if own.is_empty() {
            continue;
        }
        let (shift_db, spread_db) = posterior(&own);
        let after_db = spread_db.hypot(EACH_DB);
        landscape.shifts[index] = Shift { shift_db, spread_db: Some(after_db) };
        shifts.push(MastShift {
            mast_id: mast.id,
            count: own.len(),
            shift_db,
            before_db: TERRAIN_SPREAD_DB,
            after_db,
        });
    }
    // What is common to all masts (house, gateway, what is assumed of power) is half of the prior's variance: of k masts'
    // mean shift k/(k+1) is taken for the others, whose doubt stays.
    let measured = shifts.len() as f64;
    if measured > 0.0 {
        let common_db = shifts.iter().map(|one| one.shift_db).sum::<f64>() / (measured + 1.0);
        for (index, mast) in landscape.masts.iter().enumerate() {
            if shifts.iter().all(|one| one.mast_id != mast.id) {
                landscape.shifts[index] = Shift { shift_db: common_db, spread_db: None };
            }
        }
    }
    (residuals, shifts)
}
