//! What hangs on things that are not known well: the same ranking with each of them taken otherwise.

use super::rank::{Choice, Question, choices};
use crate::link::environment::Environment;
use crate::link::landscape::WhatIf;
use crate::model::ObstacleKind;
use serde::{Deserialize, Serialize};

/// What may be otherwise than it was taken.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "if", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Doubt {
    /// Trees taller than drawn.
    TreesTaller { by_m: f64 },
    /// Trees that are drawn bare in leaf.
    InLeaf,
    /// Every cell fully loaded, as in the evening.
    AllBusy,
    /// Masts whose height is not known lower than taken.
    MastsLower { by_m: f64 },
}

/// What comes of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "then", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Outcome {
    /// The best stays the best; what it loses of signal and of clean signal on its widest band, dB.
    Stays { signal_db: f64, clean_db: f64 },
    /// Another goes first.
    Other { position: String, height_m: f64, mast: String },
}

/// A doubt and what comes of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sensitivity {
    /// What is doubted.
    pub doubt: Doubt,
    /// What came of it.
    pub outcome: Outcome,
}

/// How much taller trees are tried, and lower masts, m.
const TALLER_M: f64 = 3.0;
const LOWER_M: f64 = 10.0;

/// Tries each doubt that the landscape has.
pub(super) fn sensitivity(env: &Environment, asked: &Question, best: Option<&Choice>) -> Vec<Sensitivity> {
    let Some(best) = best else { return Vec::new() };
    let landscape = &env.landscape;
    let trees = landscape.obstacles.iter().any(|one| one.kind.is_trees() && one.archived_at.is_none());
    let in_use = || landscape.masts.iter().filter(|mast| mast.archived_at.is_none());
    let bare = landscape
        .obstacles
        .iter()
        .any(|one| one.kind == ObstacleKind::TreesBare && one.archived_at.is_none());
    let others = in_use().map(|mast| mast.cells.len()).sum::<usize>() > 1;
    let unsaid = in_use().any(|mast| mast.height_m.is_none());
    let mut found = Vec::new();
    let mut tried = |applies: bool, doubt: Doubt, what_if: WhatIf| {
        if applies {
            found.push(Sensitivity { doubt, outcome: outcome(best, &choices(env, asked, what_if, false)) });
        }
    };
    let as_known = WhatIf::default();
    tried(trees, Doubt::TreesTaller { by_m: TALLER_M }, WhatIf { taller_trees_m: TALLER_M, ..as_known });
    tried(bare, Doubt::InLeaf, WhatIf { in_leaf: true, ..as_known });
    tried(others, Doubt::AllBusy, WhatIf { all_busy: true, ..as_known });
    tried(unsaid, Doubt::MastsLower { by_m: LOWER_M }, WhatIf { lower_masts_m: LOWER_M, ..as_known });
    found
}

fn outcome(best: &Choice, then: &[Choice]) -> Outcome {
    match then.first() {
        Some(first) if first.position_id != best.position_id || first.mast_id != best.mast_id => {
            Outcome::Other {
                position: first.position.clone(),
                height_m: first.height_m,
                mast: first.mast.clone(),
            }
        }
        _ => {
            let same = then.iter().find(|one| {
                one.position_id == best.position_id
                    && one.mast_id == best.mast_id
                    && one.raised_m == best.raised_m
            });
            let less = |of: fn(&Choice) -> Option<f64>| match (of(best), same.and_then(of)) {
                (Some(before), Some(after)) => (before - after).max(0.0),
                _ => 0.0,
            };
            Outcome::Stays {
                signal_db: less(|one| Some(one.bands.first()?.rsrp_dbm.likely)),
                clean_db: less(|one| Some(one.bands.first()?.sinr_db.likely)),
            }
        }
    }
}
