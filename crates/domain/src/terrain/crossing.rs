//! Where a path crosses trees and buildings drawn on the plan.

use super::ground::Track;
use crate::geo::GeoPoint;
use crate::model::Obstacle;
use serde::{Deserialize, Serialize};

/// One stretch of a path under or inside an obstacle.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Crossing {
    /// Place of the obstacle in the list.
    pub obstacle: usize,
    /// m from the path's first end.
    pub from_m: f64,
    /// Where it ends, m.
    pub to_m: f64,
}

/// Chord of the path taken as straight, m.
const CHORD_M: f64 = 250.0;
/// Stretches nearer than this are one, m.
const SEAM_M: f64 = 0.5;

/// A flat frame round an obstacle, m east and north: exact to a thousandth over an obstacle's size.
struct Flat {
    origin: GeoPoint,
    east_m: f64,
    north_m: f64,
}

impl Flat {
    fn new(origin: GeoPoint) -> Self {
        let latitude = origin.latitude_deg.to_radians();
        // Series of the WGS 84 degree's length.
        let north_m = 111_132.954 - 559.822 * (2.0 * latitude).cos() + 1.175 * (4.0 * latitude).cos();
        let east_m = 111_412.84 * latitude.cos() - 93.5 * (3.0 * latitude).cos();
        Self { origin, east_m, north_m }
    }

    fn place(&self, point: GeoPoint) -> (f64, f64) {
        let turn = point.longitude_deg - self.origin.longitude_deg;
        let turn = turn - 360.0 * (turn / 360.0).round();
        (turn * self.east_m, (point.latitude_deg - self.origin.latitude_deg) * self.north_m)
    }
}

/// Where the track crosses each obstacle, in order of distance. Archived ones are left out.
pub fn crossings(track: &Track, obstacles: &[Obstacle]) -> Vec<Crossing> {
    let mut found: Vec<Crossing> = Vec::new();
    for (index, obstacle) in obstacles.iter().enumerate() {
        let Some(first) = obstacle.outline.first().filter(|_| obstacle.archived_at.is_none()) else {
            continue;
        };
        let flat = Flat::new(*first);
        let corners: Vec<(f64, f64)> = obstacle.outline.iter().map(|point| flat.place(*point)).collect();
        let shapes = match obstacle.width_m {
            None => vec![corners.clone()],
            Some(width_m) => corners.windows(2).map(|pair| strip(pair[0], pair[1], width_m / 2.0)).collect(),
        };
        let reach_m = obstacle.width_m.unwrap_or(0.0);
        let mut stretches = stretches(track, &flat, &corners, reach_m, &shapes);
        stretches.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut merged: Vec<(f64, f64)> = Vec::new();
        for (from_m, to_m) in stretches {
            match merged.last_mut() {
                Some(last) if from_m <= last.1 + SEAM_M => last.1 = last.1.max(to_m),
                _ => merged.push((from_m, to_m)),
            }
        }
        found.extend(
            merged.into_iter().filter(|(from_m, to_m)| to_m > from_m).map(|(from_m, to_m)| Crossing {
                obstacle: index,
                from_m,
                to_m,
            }),
        );
    }
    found.sort_by(|a, b| a.from_m.total_cmp(&b.from_m));
    found
}

fn stretches(
    track: &Track,
    flat: &Flat,
    corners: &[(f64, f64)],
    reach_m: f64,
    shapes: &[Vec<(f64, f64)>],
) -> Vec<(f64, f64)> {
    let length_m = track.way.distance_m;
    let low = |of: fn(&(f64, f64)) -> f64| corners.iter().map(of).fold(f64::INFINITY, f64::min) - reach_m;
    let high =
        |of: fn(&(f64, f64)) -> f64| corners.iter().map(of).fold(f64::NEG_INFINITY, f64::max) + reach_m;
    let (west, south, east, north) = (low(|p| p.0), low(|p| p.1), high(|p| p.0), high(|p| p.1));
    let misses = |a: (f64, f64), b: (f64, f64)| {
        a.0.max(b.0) < west || a.0.min(b.0) > east || a.1.max(b.1) < south || a.1.min(b.1) > north
    };
    // A curved path bulges from its chord by some hundred metres at most.
    let bulge = 0.01 * length_m;
    let (start, end) = (flat.place(track.at(0.0)), flat.place(track.at(length_m)));
    if start.0.max(end.0) < west - bulge
        || start.0.min(end.0) > east + bulge
        || start.1.max(end.1) < south - bulge
        || start.1.min(end.1) > north + bulge
    {
        return Vec::new();
    }
    let chords = (length_m / CHORD_M).ceil().max(1.0) as usize;
    let mut found = Vec::new();
    let mut before = start;
    for index in 1..=chords {
        let at_m = |index: usize| length_m * index as f64 / chords as f64;
        let after = flat.place(track.at(at_m(index)));
        if !misses(before, after) {
            for shape in shapes {
                for (from, to) in inside(before, after, shape) {
                    let (low, high) = (at_m(index - 1), at_m(index));
                    found.push((low + (high - low) * from, low + (high - low) * to));
                }
            }
        }
        before = after;
    }
    found
}

/// A piece of a belt: its middle line widened by `half_m` to all sides.
fn strip(a: (f64, f64), b: (f64, f64), half_m: f64) -> Vec<(f64, f64)> {
    let length = (b.0 - a.0).hypot(b.1 - a.1).max(1e-9);
    let (ux, uy) = ((b.0 - a.0) / length * half_m, (b.1 - a.1) / length * half_m);
    let (a, b) = ((a.0 - ux, a.1 - uy), (b.0 + ux, b.1 + uy));
    vec![(a.0 - uy, a.1 + ux), (b.0 - uy, b.1 + ux), (b.0 + uy, b.1 - ux), (a.0 + uy, a.1 - ux)]
}

/// Shares of the way from `a` to `b` that lie inside a closed outline.
fn inside(a: (f64, f64), b: (f64, f64), outline: &[(f64, f64)]) -> Vec<(f64, f64)> {
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    let mut cuts = vec![0.0, 1.0];
    for index in 0..outline.len() {
        let (p, q) = (outline[index], outline[(index + 1) % outline.len()]);
        let (ex, ey) = (q.0 - p.0, q.1 - p.1);
        let cross = dx * ey - dy * ex;
        if cross.abs() < 1e-12 {
            continue;
        }
        let t = ((p.0 - a.0) * ey - (p.1 - a.1) * ex) / cross;
        let s = ((p.0 - a.0) * dy - (p.1 - a.1) * dx) / cross;
        if (0.0..=1.0).contains(&t) && (0.0..=1.0).contains(&s) {
            cuts.push(t);
        }
    }
    cuts.sort_by(f64::total_cmp);
    cuts.windows(2)
        .filter(|pair| pair[1] > pair[0])
        .filter(|pair| {
            let middle = f64::midpoint(pair[0], pair[1]);
            holds(outline, (a.0 + dx * middle, a.1 + dy * middle))
        })
        .map(|pair| (pair[0], pair[1]))
        .collect()
}

/// Whether a closed outline holds a point: even-odd rule.
fn holds(outline: &[(f64, f64)], (x, y): (f64, f64)) -> bool {
    let mut within = false;
    for index in 0..outline.len() {
        let (p, q) = (outline[index], outline[(index + 1) % outline.len()]);
        if (p.1 > y) != (q.1 > y) && x < p.0 + (q.0 - p.0) * (y - p.1) / (q.1 - p.1) {
            within = !within;
        }
    }
    within
}

/// Whether an obstacle's outline holds a point; never for lines.
pub fn stands_in(obstacle: &Obstacle, point: GeoPoint) -> bool {
    let Some(first) = obstacle.outline.first().filter(|_| obstacle.width_m.is_none()) else { return false };
    let flat = Flat::new(*first);
    let corners: Vec<(f64, f64)> = obstacle.outline.iter().map(|corner| flat.place(*corner)).collect();
    holds(&corners, flat.place(point))
}
