//! Loss between two points: free space and what ground, trees and buildings add, or the rural model where no terrain
//! is. The two are never stacked: the model holds clutter already.

use super::fresnel::{Blocker, Clearance, Line, clearance};
use super::gaussian::Z_90;
pub use super::in_the_way::{Around, Cut, Ends, Through};
use super::in_the_way::{all_m, clutter_db, counts, ground_at, inside_db, under_tops_m};
use super::rural::{near_ground_db, path_loss_db};
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::geo::GeoPoint;
use open_beacon_domain::geo::geodesic::Geodesic;
use open_beacon_domain::model::{Obstacle, ObstacleKind, SurfaceKind};
use open_beacon_domain::propagation::p525::{earth_bulge_m, free_space_loss_db, fresnel_radius_m};
use open_beacon_domain::propagation::p526::{Terrain, WavePolarisation, delta_bullington, knife_edge_db};
use open_beacon_domain::propagation::p833::side_by_side_db;
use open_beacon_domain::terrain::crossing::{Crossing, crossings};
use open_beacon_domain::terrain::{Ground, Profile, ProfileError, Track};
use serde::{Deserialize, Serialize};

/// What a loss was computed by.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "by", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum PathSource {
    /// Over the ground as it is.
    Terrain { surface: SurfaceKind, voids: usize },
    /// No terrain is there, but trees or buildings are drawn: over flat ground between the two ends.
    FlatGround { lack: Lack },
    /// Rural model of TR 38.901, inside its range.
    Model { lack: Lack },
    /// Farther than the model: free space and a wide excess.
    BeyondModel { lack: Lack },
}

/// Why the ground was not used.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "lack", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Lack {
    NoTerrain,
    /// The terrain ends this far from the house, m.
    Ends {
        at_m: f64,
    },
    Voids,
}

/// What a path loses.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PathLoss {
    /// Where it comes from.
    pub source: PathSource,
    /// Loss in free space, dB.
    pub free_space_db: f64,
    /// Over the bare ground, beyond free space, dB; 0 by the model.
    pub ground_db: f64,
    /// What trees and buildings add to that, dB.
    pub obstacles_db: f64,
    /// All of it, dB, from a lucky to an unlucky case.
    pub total_db: Estimate,
    /// What ground and clutter near the antenna take below 10 m, dB, on top of it and beyond what is drawn in the way, where
    /// nothing is said of the surroundings; 0 by the model, which holds it.
    #[serde(default)]
    pub near_ground_db: f64,
    /// How much more trees in the way take in leaf than bare, dB.
    #[serde(default)]
    pub leaves_db: f64,
    /// Room about the line.
    pub clearance: Option<Clearance>,
    /// What it passes through.
    pub through: Vec<Through>,
}

impl PathLoss {
    /// True where it is by the rural model and not over ground.
    pub fn is_rural(&self) -> bool {
        matches!(self.source, PathSource::Model { .. } | PathSource::BeyondModel { .. })
    }

    /// Standard deviation of its error before anything was measured, dB, what is in the way apart: over ground that of the
    /// prediction; by the rural model its range, from line of sight to beyond the obstructed loss, taken for 10 to 90 %.
    pub fn spread_db(&self) -> f64 {
        if self.is_rural() {
            0.5 * (self.total_db.high - self.total_db.low) / Z_90
        } else {
            TERRAIN_SPREAD_DB
        }
    }

    /// Standard deviation of what hills, trees and buildings in the way are computed to take, dB: half of the obstacles'
    /// share is doubted either way (10 to 90 %), and two fifths of the ground's (common practice, no source).
    pub fn in_the_way_db(&self) -> f64 {
        if self.is_rural() {
            return 0.0;
        }
        OBSTACLE_DOUBT * self.obstacles_db.max(0.0) / Z_90 + GROUND_DOUBT * self.ground_db.max(0.0)
    }
}

/// Spread of a prediction over terrain where nothing was measured, dB either way: a mast's common error of 8 dB and each
/// path's own of 6 dB together (common practice, no source).
pub const TERRAIN_SPREAD_DB: f64 = 10.0;
/// Half of what trees and buildings add is doubted either way (common practice, no source).
const OBSTACLE_DOUBT: f64 = 0.5;
/// Two fifths of what the bare ground adds are doubted (common practice, no source).
const GROUND_DOUBT: f64 = 0.4;

/// A path between two points, its heights still open.
#[derive(Clone, Debug)]
pub struct Route {
    /// The line over ground.
    pub track: Track,
    /// Distances, bare ground and, above it, obstacles' tops, where there is terrain; flat ground where there is none but
    /// something is drawn.
    cut: Result<Cut, Lack>,
    /// Why the ground is taken as flat, where it is.
    flat: Option<Lack>,
    crossings: Vec<Crossing>,
}

impl Route {
    /// The route between two points.
    pub fn new(from: GeoPoint, to: GeoPoint, ground: &Ground, obstacles: &[Obstacle]) -> Self {
        let track = Track::new(from, to);
        let crossings = crossings(&track, obstacles);
        let lack = match ground.profile(&track) {
            Ok(profile) => {
                let cut = Ok(cut(profile, &crossings, obstacles));
                return Self { track, cut, flat: None, crossings };
            }
            Err(ProfileError::NotCovered { from_m }) => Lack::Ends { at_m: from_m },
            Err(ProfileError::OnlyVoids) => Lack::Voids,
            Err(ProfileError::NoTerrain | ProfileError::TooNear) => Lack::NoTerrain,
        };
        // What is drawn at a site counts on all its paths by one rule, so that positions stay comparable: the rural model
        // holds an average clutter already, and the two are never stacked.
        if obstacles.iter().all(|one| one.archived_at.is_some()) || track.way.distance_m > FLAT_MOST_M {
            return Self { track, cut: Err(lack), flat: None, crossings };
        }
        let cut = Ok(cut(flat_profile(track.way.distance_m), &crossings, obstacles));
        Self { track, cut, flat: Some(lack), crossings }
    }

    /// Length and bearings.
    pub fn way(&self) -> Geodesic {
        self.track.way
    }

    /// The ground with what stands on it, where there is terrain.
    pub fn cut(&self) -> Option<&Cut> {
        self.cut.as_ref().ok()
    }

    /// Where it crosses obstacles.
    pub fn crossings(&self) -> &[Crossing] {
        &self.crossings
    }

    /// Ground at both ends, m above sea level; none where it is only taken as flat.
    pub fn ground_ends_m(&self) -> Option<(f64, f64)> {
        if self.flat.is_some() {
            return None;
        }
        let ground = &self.cut()?.ground_m;
        Some((*ground.first()?, *ground.last()?))
    }

    /// Loss between antennas at the two ends. `frequency_mhz`: 30 MHz to 50 GHz.
    pub fn loss(&self, ends: Ends, frequency_mhz: f64, around: &Around) -> PathLoss {
        let length_m = self.way().distance_m.max(1.0);
        let free_space_db = free_space_loss_db(length_m, frequency_mhz);
        match &self.cut {
            Ok(cut) => {
                let over = self.over(cut, ends, frequency_mhz, free_space_db, around);
                match self.flat {
                    None => over,
                    Some(lack) => {
                        let model = by_model(lack, length_m, ends, frequency_mhz, free_space_db, around);
                        on_flat_ground(over, &model, lack)
                    }
                }
            }
            Err(lack) => by_model(*lack, length_m, ends, frequency_mhz, free_space_db, around),
        }
    }

    fn over(
        &self,
        cut: &Cut,
        ends: Ends,
        frequency_mhz: f64,
        free_space_db: f64,
        around: &Around,
    ) -> PathLoss {
        let last = cut.distances_m.len() - 1;
        let (first_m, last_m) =
            (cut.ground_m[0] + ends.first_above_m, cut.ground_m[last] + ends.last_above_m);
        let diffraction_db = |heights_m: &[f64]| {
            let terrain = Terrain {
                distances_m: &cut.distances_m,
                heights_m,
                first_above_m: ends.first_above_m.max(0.1),
                last_above_m: ends.last_above_m.max(0.1),
            };
            delta_bullington(&terrain, frequency_mhz, around.k(), WavePolarisation::Vertical)
                .map_or(0.0, |found| found.loss_db)
        };
        let ground_db = diffraction_db(&cut.ground_m);
        let counted: Vec<bool> =
            self.crossings.iter().map(|crossing| counts(crossing, ends, cut.surface, around)).collect();
        let mut tops_m = cut.ground_m.clone();
        let mut whose = vec![Blocker::Ground; tops_m.len()];
        for at in 1..last {
            if let Some(index) = cut.under[at].filter(|index| counted[*index]) {
                tops_m[at] += around.height_m(&self.crossings[index]);
                whose[at] = Blocker::Obstacle { index: self.crossings[index].obstacle };
            }
        }
        let line_at = |at_m: f64| first_m + (last_m - first_m) * at_m / cut.distances_m[last];
        // How far a crossing's top stands into the line, as Fresnel parameter ν; the way below the top is open to −ν.
        let nu_of = |crossing: &Crossing| {
            let length_m = cut.distances_m[last];
            let at_m = f64::midpoint(crossing.from_m, crossing.to_m).clamp(1.0, length_m - 1.0);
            let bulge_m = earth_bulge_m(length_m, at_m, around.k());
            let above_m = ground_at(cut, at_m) + around.height_m(crossing) + bulge_m - line_at(at_m);
            std::f64::consts::SQRT_2 * above_m / fresnel_radius_m(length_m, at_m, frequency_mhz)
        };
        let stands_in =
            |crossing: &Crossing| crossing.from_m < 0.5 && ends.first_above_m < around.height_m(crossing);
        let through: Vec<Through> = self
            .crossings
            .iter()
            .zip(&counted)
            .filter(|(_, counted)| **counted)
            .map(|(crossing, _)| {
                let stands_in = stands_in(crossing);
                let below_db = if stands_in { 0.0 } else { knife_edge_db(-nu_of(crossing)) };
                let canopy_m =
                    if stands_in { under_tops_m(crossing, &line_at, cut, around) } else { all_m(crossing) };
                let inside_db = inside_db(around.kind(crossing), canopy_m, stands_in, frequency_mhz, around);
                Through { crossing: *crossing, inside_db, below_db, canopy_m }
            })
            .collect();
        let over_db = if through.is_empty() { 0.0 } else { diffraction_db(&tops_m) };
        let past_db = |below_db: f64| (side_by_side_db(over_db, ground_db + below_db) - ground_db).max(0.0);
        let obstacles_db = if through.is_empty() {
            0.0
        } else {
            past_db(through.iter().map(|one| one.inside_db + one.below_db).sum())
        };
        let is_tree = |one: &Through| around.kind(&one.crossing).is_trees();
        let leaves_db = if through.iter().any(is_tree) {
            let as_if = |trees: ObstacleKind| -> f64 {
                let inside_db = |one: &Through| {
                    if !is_tree(one) {
                        return one.inside_db;
                    }
                    inside_db(trees, one.canopy_m, stands_in(&one.crossing), frequency_mhz, around)
                };
                past_db(through.iter().map(|one| inside_db(one) + one.below_db).sum())
            };
            as_if(ObstacleKind::TreesInLeaf) - as_if(ObstacleKind::TreesBare)
        } else {
            0.0
        };
        let clearance = clearance(&Line {
            distances_m: &cut.distances_m,
            tops_m: &tops_m,
            whose: &whose,
            first_m,
            last_m,
            frequency_mhz,
            k: around.k(),
        });
        let clutter_db = clutter_db(&through, ends, frequency_mhz, around);
        let obstacles_db = obstacles_db + clutter_db;
        // What is drawn in the way is the same clutter, as far as it goes; what is said of it is believed.
        let near_ground_db = match around.settings.survey.clutter {
            Some(_) => 0.0,
            None => (near_ground_db(ends.first_above_m, frequency_mhz) - obstacles_db).max(0.0),
        };
        let likely = free_space_db + ground_db + obstacles_db;
        let doubt = OBSTACLE_DOUBT * obstacles_db;
        PathLoss {
            source: PathSource::Terrain { surface: cut.surface, voids: cut.voids },
            free_space_db,
            ground_db,
            obstacles_db,
            near_ground_db,
            total_db: Estimate {
                low: likely - TERRAIN_SPREAD_DB - doubt,
                likely,
                high: likely + TERRAIN_SPREAD_DB + doubt,
            },
            leaves_db,
            clearance,
            through,
        }
    }
}

/// Puts the edges of crossings into a profile.
fn cut(profile: Profile, crossings: &[Crossing], obstacles: &[Obstacle]) -> Cut {
    let Profile { distances_m, heights_m, voids, surface } = profile;
    let mut found =
        Cut { under: vec![None; distances_m.len()], distances_m, ground_m: heights_m, voids, surface };
    if crossings.is_empty() {
        return found;
    }
    let length_m = found.distances_m[found.distances_m.len() - 1];
    let mut edges: Vec<f64> = crossings.iter().flat_map(|one| [one.from_m, one.to_m]).collect();
    edges.sort_by(f64::total_cmp);
    for edge in edges.into_iter().filter(|edge| *edge > 0.01 && *edge < length_m - 0.01) {
        let at = found.distances_m.partition_point(|distance| *distance < edge);
        let near = |index: usize| (found.distances_m[index] - edge).abs() < 0.01;
        if near(at) || near(at - 1) {
            continue;
        }
        let ground_m = ground_at(&found, edge);
        found.distances_m.insert(at, edge);
        found.ground_m.insert(at, ground_m);
    }
    let tallest = |at_m: f64| {
        (0..crossings.len())
            .filter(|index| crossings[*index].from_m - 0.01 <= at_m && at_m <= crossings[*index].to_m + 0.01)
            .max_by(|a, b| {
                let height = |index: usize| obstacles[crossings[index].obstacle].height_m;
                height(*a).total_cmp(&height(*b))
            })
    };
    found.under = found.distances_m.iter().map(|at_m| tallest(*at_m)).collect();
    found
}

/// Points of a flat profile, so that no stretch is longer than this, m.
const FLAT_STEP_M: f64 = 50.0;
/// Farther than this no ground is taken as flat, m: hills decide there (common practice, no source).
const FLAT_MOST_M: f64 = 20_000.0;

/// Flat ground at height 0 from end to end.
fn flat_profile(length_m: f64) -> Profile {
    let steps = (length_m / FLAT_STEP_M).ceil().max(2.0) as usize;
    let distances_m: Vec<f64> = (0..=steps).map(|at| length_m * at as f64 / steps as f64).collect();
    Profile { heights_m: vec![0.0; distances_m.len()], distances_m, voids: 0, surface: SurfaceKind::Ground }
}

/// A path over flat ground, with the hills that may be there in its range: up to what the rural model takes.
fn on_flat_ground(over: PathLoss, model: &PathLoss, lack: Lack) -> PathLoss {
    let high = over.total_db.high.max(model.total_db.likely + over.obstacles_db);
    PathLoss { source: PathSource::FlatGround { lack }, total_db: Estimate { high, ..over.total_db }, ..over }
}

fn by_model(
    lack: Lack,
    length_m: f64,
    ends: Ends,
    frequency_mhz: f64,
    free_space_db: f64,
    around: &Around,
) -> PathLoss {
    let mut kit = around.settings.kit.clone();
    kit.mast_height_m = ends.last_above_m;
    let (total_db, beyond) = path_loss_db(&kit, length_m, ends.first_above_m, frequency_mhz);
    PathLoss {
        source: if beyond { PathSource::BeyondModel { lack } } else { PathSource::Model { lack } },
        free_space_db,
        ground_db: 0.0,
        obstacles_db: 0.0,
        near_ground_db: 0.0,
        leaves_db: 0.0,
        total_db,
        clearance: None,
        through: Vec::new(),
    }
}
