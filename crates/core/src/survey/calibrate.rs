//! Measured against computed: by how much measurements at the house move and narrow what is foretold of each mast.

use crate::link::antenna::AimAntenna;
use crate::link::environment::Environment;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::model::{MastId, Mount};
use serde::{Deserialize, Serialize};

/// How a mast's predictions were put right.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MastShift {
    /// The mast.
    pub mast_id: MastId,
    /// Measurements it rests on.
    pub count: usize,
    /// Added to what is computed for its cells outside at the house, dB; the middle of them.
    pub shift_db: f64,
    /// Spread of a prediction there before and after, dB either way.
    pub before_db: f64,
    /// Shift of what it is expected to send, by everything measured, dB.
    pub after_db: f64,
}

/// Height that shifts are told for, m.
const TOLD_AT_M: f64 = 5.0;

/// Shifts of the masts that something was heard of, outside at the house.
pub fn shifts(env: &Environment) -> Vec<MastShift> {
    let at = AntennaLocation { place: env.house, height_m: TOLD_AT_M, mount: Mount::Wall, position: None };
    let arriving = env.arriving(&at, &AimAntenna::Stock, WhatIf::default());
    let told = |index: usize| {
        let mast = &env.landscape.masts[index];
        let count = env.residuals.iter().filter(|one| one.mast_id == mast.id).count();
        let own: Vec<_> =
            arriving.iter().filter(|one| env.of_mast(one.cell).is_some_and(|(at, _)| at == index)).collect();
        let of = |value: &dyn Fn(&crate::link::environment::Arriving) -> f64| {
            crate::stats::median(&own.iter().map(|one| value(one)).collect::<Vec<_>>())
        };
        (count > 0).then_some(())?;
        Some(MastShift {
            mast_id: mast.id,
            count,
            shift_db: of(&|one| one.power_dbm.mean - one.computed_dbm)?,
            before_db: of(&|one| env.prior_spread_db(one))?,
            after_db: of(&|one| one.power_dbm.spread)?,
        })
    };
    (0..env.landscape.masts.len()).filter_map(told).collect()
}
