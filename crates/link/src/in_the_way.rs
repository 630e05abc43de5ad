//! What trees, buildings and undrawn clutter on a path take.

use super::walls::wall_loss_db;
use open_beacon_domain::geo::geodesic::STANDARD_K_FACTOR;
use open_beacon_domain::model::{Mount, Obstacle, ObstacleKind, SiteSettings, SurfaceKind};
use open_beacon_domain::propagation::p833::{inside_woodland_db, specific_attenuation_db_m};
use open_beacon_domain::propagation::p2108::{clutter_height_m, height_gain_loss_db};
use open_beacon_domain::terrain::crossing::Crossing;
use serde::{Deserialize, Serialize};

/// A route's profile with the edges of obstacles put in.
#[derive(Clone, Debug)]
pub struct Cut {
    /// Distances along the line, m.
    pub distances_m: Vec<f64>,
    /// Heights of the ground, m above sea level.
    pub ground_m: Vec<f64>,
    /// Place in the list of crossings that holds this point, the tallest.
    pub under: Vec<Option<usize>>,
    /// Points without a height.
    pub voids: usize,
    /// Whether it is bare ground or has trees and houses on it.
    pub surface: SurfaceKind,
}

/// One end of a route.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ends {
    /// Antennas above ground at the first (the house) and the last (the mast), m.
    pub first_above_m: f64,
    /// Height of the last edge above the line, m.
    pub last_above_m: f64,
    /// The first end is inside the house: its own walls are reckoned elsewhere.
    pub indoors: bool,
}

/// What else a loss depends on.
#[derive(Clone, Copy, Debug)]
pub struct Around<'a> {
    /// Buildings and trees.
    pub obstacles: &'a [Obstacle],
    /// Settings of the site.
    pub settings: &'a SiteSettings,
    /// Trees taken as this much taller, m.
    pub taller_trees_m: f64,
    /// Trees that are drawn bare taken as in leaf.
    pub in_leaf: bool,
}

impl Around<'_> {
    pub(super) fn k(&self) -> f64 {
        self.settings.survey.earth_factor.unwrap_or(STANDARD_K_FACTOR)
    }

    /// Height of an obstacle, m.
    pub(super) fn height_m(&self, crossing: &Crossing) -> f64 {
        let obstacle = &self.obstacles[crossing.obstacle];
        obstacle.height_m + if obstacle.kind.is_trees() { self.taller_trees_m } else { 0.0 }
    }

    pub(super) fn kind(&self, crossing: &Crossing) -> ObstacleKind {
        match self.obstacles[crossing.obstacle].kind {
            ObstacleKind::TreesBare if self.in_leaf => ObstacleKind::TreesInLeaf,
            kind => kind,
        }
    }
}

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

/// Ground at a distance, straight between the cut's points, m.
pub(super) fn ground_at(cut: &Cut, at_m: f64) -> f64 {
    let upper =
        cut.distances_m.partition_point(|distance| *distance < at_m).clamp(1, cut.distances_m.len() - 1);
    let (d1, d2) = (cut.distances_m[upper - 1], cut.distances_m[upper]);
    let (h1, h2) = (cut.ground_m[upper - 1], cut.ground_m[upper]);
    h1 + (h2 - h1) * ((at_m - d1) / (d2 - d1)).clamp(0.0, 1.0)
}
