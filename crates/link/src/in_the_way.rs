//! What trees, buildings and undrawn clutter on a path take.

use super::route::{Around, Cut, Ends, ground_at};
use super::walls::wall_loss_db;
use open_beacon_domain::model::{Mount, ObstacleKind, SurfaceKind};
use open_beacon_domain::propagation::p833::{inside_woodland_db, specific_attenuation_db_m};
use open_beacon_domain::propagation::p2108::{clutter_height_m, height_gain_loss_db};
use open_beacon_domain::terrain::crossing::Crossing;
use serde::{Deserialize, Serialize};

/// One stretch through trees or a building.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Through {
    /// Where the line passes it.
    pub crossing: Crossing,
    /// Taken by leaves or walls on the way through, dB.
    pub inside_db: f64,
    /// Because only the part of the wave below the top goes through, dB: little where the line is deep inside, much
    /// where it passes above.
    pub below_db: f64,
    /// Length of the way through it, m: in trees that the antenna stands in, until the line leaves over their tops.
    #[serde(default)]
    pub canopy_m: f64,
}

/// A crossing at the antenna shorter than this is the wall it hangs on, m.
const OWN_WALL_M: f64 = 2.0;

pub(super) fn all_m(crossing: &Crossing) -> f64 {
    crossing.to_m - crossing.from_m
}

/// Way below the tops of what the first end stands in, m: a line that rises leaves a canopy over its tops, not at its edge.
pub(super) fn under_tops_m(
    crossing: &Crossing,
    line_at: &dyn Fn(f64) -> f64,
    cut: &Cut,
    around: &Around,
) -> f64 {
    let above_m = |at_m: f64| line_at(at_m) - ground_at(cut, at_m) - around.height_m(crossing);
    if !around.kind(crossing).is_trees() || above_m(crossing.to_m) <= 0.0 {
        return all_m(crossing);
    }
    let (mut under, mut over) = (crossing.from_m, crossing.to_m);
    while over - under > 0.1 {
        let middle = f64::midpoint(under, over);
        if above_m(middle) > 0.0 { over = middle } else { under = middle }
    }
    over - crossing.from_m
}

/// Whether a crossing is reckoned: trees not where the heights are of tree tops already; the house not round an
/// antenna inside it, nor the bit of wall that an antenna hangs on.
pub(super) fn counts(crossing: &Crossing, ends: Ends, surface: SurfaceKind, around: &Around) -> bool {
    match around.kind(crossing) {
        ObstacleKind::TreesInLeaf | ObstacleKind::TreesBare => surface == SurfaceKind::Ground,
        ObstacleKind::Building | ObstacleKind::House => {
            let at_antenna = crossing.from_m < OWN_WALL_M;
            let above = ends.first_above_m >= around.height_m(crossing);
            !(at_antenna && (ends.indoors || above || crossing.to_m < OWN_WALL_M))
        }
    }
}

/// Drawn things within this distance are what stands round the house, m: its clutter is in them.
const ROUND_M: f64 = 150.0;

/// What undrawn clutter round the house takes, dB: P.2108 clause 3.1, to 3 GHz (above, as at 3 GHz). Not where trees or
/// buildings are drawn on the first stretch, and not inside the house.
pub(super) fn clutter_db(through: &[Through], ends: Ends, frequency_mhz: f64, around: &Around) -> f64 {
    let Some(clutter) = around.settings.survey.clutter.filter(|_| !ends.indoors) else { return 0.0 };
    if through.iter().any(|one| one.crossing.from_m < ROUND_M) {
        return 0.0;
    }
    let top_m = clutter_height_m(clutter);
    height_gain_loss_db(clutter, frequency_mhz.min(3000.0), ends.first_above_m.max(0.5), top_m, STREET_M)
        .unwrap_or(0.0)
}

/// Width between clutter, m: the default of P.2108 clause 3.1.
const STREET_M: f64 = 27.0;

/// What the way through takes, dB.
pub(super) fn inside_db(
    kind: ObstacleKind,
    depth_m: f64,
    stands_in: bool,
    frequency_mhz: f64,
    around: &Around,
) -> f64 {
    match kind {
        ObstacleKind::TreesInLeaf | ObstacleKind::TreesBare => {
            let in_leaf = kind == ObstacleKind::TreesInLeaf;
            if stands_in {
                inside_woodland_db(frequency_mhz, depth_m, in_leaf)
            } else {
                depth_m * specific_attenuation_db_m(frequency_mhz, in_leaf)
            }
        }
        // In at one wall and out at the other.
        ObstacleKind::Building | ObstacleKind::House => {
            2.0 * wall_loss_db(Mount::Indoor, around.settings, frequency_mhz).mean
        }
    }
}
