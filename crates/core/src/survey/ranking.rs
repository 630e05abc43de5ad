//! The order with its best and runner-up, the reason, and how firm it is.

use super::rank::{Access, Choice, Question, choices};
use super::sensitivity::{Sensitivity, sensitivity};
use crate::link::environment::Environment;
use crate::link::fresnel::Blocker;
use crate::link::landscape::WhatIf;
use crate::link::predict::ALIKE;
use serde::{Deserialize, Serialize};

/// Why one choice is put before another.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Reason {
    /// The other's line is blocked there, this one's is free.
    OtherBlocked { blocker: Blocker, at_m: f64, ratio: f64 },
    /// More signal.
    Stronger { by_db: f64, ratio: f64 },
    /// Less interference.
    Cleaner { by_db: f64, ratio: f64 },
    /// About the same speed, easier to reach or shorter to wire.
    Easier { access: Access, other: Access, cable_m: f64, other_cable_m: f64 },
    /// About the same at its likeliest, but the other may bring far less.
    Surer { low_mbps: f64, other_low_mbps: f64 },
    /// About the same down, more up.
    FasterUp { ratio: f64 },
    /// More or wider carriers.
    MoreCarriers { ratio: f64 },
}

/// All choices with the best and the runner-up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ranking {
    /// The best first.
    pub choices: Vec<Choice>,
    /// Place in `choices`: the best at another position or mast.
    pub runner_up: Option<usize>,
    /// Why.
    pub reason: Option<Reason>,
    /// What would change if an assumption were wrong.
    pub sensitivity: Vec<Sensitivity>,
}

/// Ranks every position, height and mast.
pub fn rank(env: &Environment, asked: &Question) -> Ranking {
    let choices = choices(env, asked, WhatIf::default(), true);
    let runner_up = choices.first().and_then(|best| {
        let elsewhere = |one: &Choice| one.position_id != best.position_id;
        let other_mast = |one: &Choice| one.mast_id != best.mast_id;
        choices.iter().position(elsewhere).or_else(|| choices.iter().position(other_mast))
    });
    let reason = runner_up.map(|at| reason(&choices[0], &choices[at]));
    let sensitivity = sensitivity(env, asked, choices.first());
    Ranking { choices, runner_up, reason, sensitivity }
}

/// Why `best` goes before `other`.
fn reason(best: &Choice, other: &Choice) -> Reason {
    let ratio = best.down_mbps.likely / other.down_mbps.likely.max(0.1);
    let (low_mbps, other_low_mbps) = (best.down_mbps.low, other.down_mbps.low);
    if ratio < 1.0 / (1.0 - ALIKE) && other_low_mbps < low_mbps * (1.0 - ALIKE) {
        return Reason::Surer { low_mbps, other_low_mbps };
    }
    let up_ratio = best.up_mbps.likely / other.up_mbps.likely.max(0.01);
    if ratio < 1.0 / (1.0 - ALIKE) && up_ratio > 1.0 / (1.0 - ALIKE) {
        return Reason::FasterUp { ratio: up_ratio };
    }
    if ratio < 1.0 / (1.0 - ALIKE) {
        return Reason::Easier {
            access: best.access,
            other: other.access,
            cable_m: best.cable_m,
            other_cable_m: other.cable_m,
        };
    }
    let free = best.clearance.is_none_or(|one| one.in_sight);
    if let Some(blocked) = other.clearance.filter(|one| free && !one.in_sight) {
        return Reason::OtherBlocked { blocker: blocked.blocker, at_m: blocked.distance_m, ratio };
    }
    let shared = best.bands.iter().find_map(|band| {
        let same = other.bands.iter().find(|theirs| theirs.band == band.band)?;
        Some((band, same))
    });
    match shared {
        Some((own, theirs)) => {
            let signal_db = own.rsrp_dbm.likely - theirs.rsrp_dbm.likely;
            let clean_db = own.sinr_db.likely - theirs.sinr_db.likely;
            if clean_db > signal_db + 1.0 {
                Reason::Cleaner { by_db: clean_db, ratio }
            } else if signal_db > 1.0 {
                Reason::Stronger { by_db: signal_db, ratio }
            } else {
                Reason::MoreCarriers { ratio }
            }
        }
        None => Reason::MoreCarriers { ratio },
    }
}
