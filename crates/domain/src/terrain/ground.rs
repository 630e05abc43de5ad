//! Tiles together, and profiles along the geodesic between two points.

use super::grid::{Curve, Frame, Grid, on};
use crate::geo::GeoPoint;
use crate::geo::geodesic::{Geodesic, point_along, way};
use crate::model::SurfaceKind;
use std::sync::Arc;

/// All terrain of a site.
#[derive(Clone, Debug, Default)]
pub struct Ground {
    /// The finest first: it wins where tiles overlap.
    tiles: Vec<(Arc<Grid>, SurfaceKind)>,
}

/// The ground between two points.
#[derive(Clone, Debug, PartialEq)]
pub struct Profile {
    /// m from the first point, rising from 0 by even steps.
    pub distances_m: Vec<f64>,
    /// m above sea level.
    pub heights_m: Vec<f64>,
    /// Points whose height was bridged from their neighbours.
    pub voids: usize,
    /// Whether any of it is of a surface model.
    pub surface: SurfaceKind,
}

/// Why there is no profile.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum ProfileError {
    #[error("The two points are less than a metre apart.")]
    TooNear,
    #[error("No terrain is there.")]
    NoTerrain,
    #[error("The terrain does not cover the path from {from_m:.0}\u{202f}m on.")]
    NotCovered { from_m: f64 },
    #[error("The terrain has no heights on this path, only voids.")]
    OnlyVoids,
}

/// The line on the ground between two points: its length and bearings, and any point on it. Points between are
/// interpolated through exact ones (Lagrange, second order, every 5 km), off by some millimetres.
#[derive(Clone, Debug)]
pub struct Track {
    /// Distance and bearing.
    pub way: Geodesic,
    /// Start, middle and end of each piece: longitude (running on over the date line) and latitude, degrees.
    points: Vec<(f64, f64)>,
}

/// Longest piece between its ends, m.
const PIECE_M: f64 = 10_000.0;
/// Most points of a profile.
const MOST_POINTS: f64 = 6000.0;

impl Track {
    /// The track between two points.
    pub fn new(from: GeoPoint, to: GeoPoint) -> Self {
        let way = way(from, to);
        let pieces = (way.distance_m / PIECE_M).ceil().max(1.0) as usize;
        let mut points: Vec<(f64, f64)> = Vec::with_capacity(2 * pieces + 1);
        let pair = |point: GeoPoint| (point.longitude_deg, point.latitude_deg);
        points.push(pair(from));
        for index in 1..2 * pieces {
            let distance_m = way.distance_m * index as f64 / (2 * pieces) as f64;
            points.push(pair(point_along(from, way.bearing_deg, distance_m)));
        }
        points.push(pair(to));
        for index in 1..points.len() {
            let turns = ((points[index].0 - points[index - 1].0) / 360.0).round();
            points[index].0 -= 360.0 * turns;
        }
        Self { way, points }
    }

    /// The point at a distance from the start, m; its longitude may run beyond 180.
    pub fn at(&self, distance_m: f64) -> GeoPoint {
        let share = if self.way.distance_m > 0.0 { distance_m / self.way.distance_m } else { 0.0 };
        let (longitude_deg, latitude_deg) = on_curve(&self.points, share);
        GeoPoint { latitude_deg, longitude_deg }
    }
}

/// A point on the curve through three points a piece; `share` of the whole, 0..=1.
#[inline]
fn on_curve(points: &[(f64, f64)], share: f64) -> (f64, f64) {
    let pieces = (points.len() - 1) / 2;
    let along = share * pieces as f64;
    let piece = (along as usize).min(pieces - 1);
    let t = along - piece as f64;
    let [a, b, c] = [points[2 * piece], points[2 * piece + 1], points[2 * piece + 2]];
    let (wa, wb, wc) = ((2.0 * t - 1.0) * (t - 1.0), 4.0 * t * (1.0 - t), t * (2.0 * t - 1.0));
    (wa * a.0 + wb * b.0 + wc * c.0, wa * a.1 + wb * b.1 + wc * c.1)
}

impl Ground {
    /// Ground of these tiles.
    pub fn new(mut tiles: Vec<(Arc<Grid>, SurfaceKind)>) -> Self {
        tiles.sort_by(|a, b| a.0.step_m().1.total_cmp(&b.0.step_m().1));
        Self { tiles }
    }

    /// True without any tile.
    pub fn is_empty(&self) -> bool {
        self.tiles.is_empty()
    }

    /// Its tiles, the finest first.
    pub fn tiles(&self) -> impl Iterator<Item = &Grid> {
        self.tiles.iter().map(|(grid, _)| grid.as_ref())
    }

    /// Height of the ground at a point, m above sea level; `None` where no tile has one.
    pub fn height_m(&self, at: GeoPoint) -> Option<f64> {
        self.tiles.iter().find_map(|(grid, _)| {
            let (x, y) = grid.frame.project(at);
            grid.height_m(x + turns_to(grid, at.longitude_deg), y)
        })
    }

    /// The ground along a track, by the steps of the finest tile at its start.
    ///
    /// # Errors
    /// [`ProfileError`].
    pub fn profile(&self, track: &Track) -> Result<Profile, ProfileError> {
        let length_m = track.way.distance_m;
        if length_m < 1.0 {
            return Err(ProfileError::TooNear);
        }
        let Some(finest) = self.tiles.first() else { return Err(ProfileError::NoTerrain) };
        let step_m = finest.0.step_m().1.max(1.0);
        let steps = (length_m / step_m).ceil().clamp(4.0, MOST_POINTS) as usize;
        let seen: Vec<Seen> =
            self.tiles.iter().filter_map(|(grid, kind)| Seen::new(grid, *kind, track)).collect();
        let pieces = (track.points.len() - 1) / 2;
        let mut distances_m = vec![0.0; steps + 1];
        let mut heights_m = vec![f64::NAN; steps + 1];
        let (per_step_m, per_step) = (length_m / steps as f64, pieces as f64 / steps as f64);
        for (index, distance) in distances_m.iter_mut().enumerate() {
            *distance = f64::from(index as i32) * per_step_m;
        }
        let mut surface = SurfaceKind::Ground;
        let mut uncovered = None;
        for piece in 0..pieces {
            // The steps of this piece; the last has the end as well.
            let from = (piece as f64 / per_step).ceil() as usize;
            let to =
                if piece + 1 == pieces { steps + 1 } else { ((piece + 1) as f64 / per_step).ceil() as usize };
            for start in (from..to).step_by(STRETCH) {
                let end = (start + STRETCH).min(to);
                let first = start as f64 - piece as f64 / per_step;
                let heights = &mut heights_m[start..end];
                let found = stretch(&seen, piece, (first, per_step), heights);
                if found.surface {
                    surface = SurfaceKind::Surface;
                }
                if let Some(at) = found.uncovered.filter(|_| uncovered.is_none()) {
                    uncovered = Some(distances_m[start + at]);
                }
            }
        }
        // Sums of steps must end where the path ends.
        distances_m[steps] = length_m;
        let mut profile = Profile { distances_m, heights_m, voids: 0, surface };
        if let Some(from_m) = uncovered {
            return Err(ProfileError::NotCovered { from_m });
        }
        profile.voids = bridge(&mut profile.heights_m).ok_or(ProfileError::OnlyVoids)?;
        Ok(profile)
    }
}

/// Points looked at together.
const STRETCH: usize = 64;

/// What was met on a stretch.
struct Met {
    /// Some of it is of a surface model.
    surface: bool,
    /// The first point no tile covers.
    uncovered: Option<usize>,
}

/// Heights of a stretch of a piece: at once where one tile holds all of it, else point by point.
fn stretch(seen: &[Seen], piece: usize, (first, step): (f64, f64), heights_m: &mut [f64]) -> Met {
    let last = first + (heights_m.len() - 1) as f64;
    let whole = seen.iter().find(|one| one.touches(piece, (first * step, last * step)));
    if let Some(one) = whole.filter(|one| one.holds(piece, (first * step, last * step))) {
        one.grid.along(&one.curves[piece], (first, step), heights_m);
        if heights_m.iter().all(|height| !height.is_nan()) {
            return Met { surface: one.kind == SurfaceKind::Surface, uncovered: None };
        }
    }
    let mut met = Met { surface: false, uncovered: None };
    for (index, height) in heights_m.iter_mut().enumerate() {
        let t = (first + index as f64) * step;
        let mut covered = false;
        *height = f64::NAN;
        for one in seen {
            let [column, row] = &one.curves[piece];
            let Some(cell) = one.grid.within((on(column, t), on(row, t))) else { continue };
            covered = true;
            *height = one.grid.between(cell);
            if !height.is_nan() {
                met.surface |= one.kind == SurfaceKind::Surface;
                break;
            }
        }
        if !covered && met.uncovered.is_none() {
            met.uncovered = Some(index);
        }
    }
    met
}

/// A tile as a track crosses it: its columns and rows along each piece of the track.
struct Seen<'a> {
    grid: &'a Grid,
    kind: SurfaceKind,
    curves: Vec<Curve>,
}

impl<'a> Seen<'a> {
    /// `None` where the track keeps away from the tile.
    fn new(grid: &'a Grid, kind: SurfaceKind, track: &Track) -> Option<Self> {
        let turn = turns_to(grid, track.points[0].0);
        let cells: Vec<(f64, f64)> = track
            .points
            .iter()
            .map(|(longitude_deg, latitude_deg)| {
                let point = GeoPoint { latitude_deg: *latitude_deg, longitude_deg: *longitude_deg };
                let (x, y) = grid.frame.project(point);
                grid.place(x + turn, y)
            })
            .collect();
        let (columns, rows) = grid.size();
        let misses = |of: fn(&(f64, f64)) -> f64, count: usize| {
            let all = || cells.iter().map(of);
            let (low, high) = (all().fold(f64::INFINITY, f64::min), all().fold(f64::NEG_INFINITY, f64::max));
            // Between its points a curve may bulge a little.
            let bulge = 2.0 + 0.1 * (high - low);
            high + bulge < 0.0 || low - bulge > count as f64
        };
        if misses(|cell| cell.0, columns) || misses(|cell| cell.1, rows) {
            return None;
        }
        let through = |a: f64, b: f64, c: f64| [a, 4.0 * b - 3.0 * a - c, 2.0 * (a - 2.0 * b + c)];
        let curves = cells
            .windows(3)
            .step_by(2)
            .map(|three| {
                let [a, b, c] = [three[0], three[1], three[2]];
                [through(a.0, b.0, c.0), through(a.1, b.1, c.1)]
            })
            .collect();
        Some(Self { grid, kind, curves })
    }

    /// Lowest and highest column and row, no narrower than they are, between two places on a piece.
    fn bounds(&self, piece: usize, (from, to): (f64, f64)) -> [(f64, f64); 2] {
        // No quadratic leaves its chord by more than a quarter of its bend times the square of the length.
        self.curves[piece].map(|curve| {
            let (a, b) = (on(&curve, from), on(&curve, to));
            let bulge = 0.25 * curve[2].abs() * (to - from) * (to - from);
            (a.min(b) - bulge, a.max(b) + bulge)
        })
    }

    /// Whether a stretch of a piece keeps inside the tile's outer nodes.
    fn holds(&self, piece: usize, span: (f64, f64)) -> bool {
        let (columns, rows) = self.grid.size();
        let [column, row] = self.bounds(piece, span);
        column.0 >= 0.0 && row.0 >= 0.0 && column.1 <= (columns - 1) as f64 && row.1 <= (rows - 1) as f64
    }

    /// Whether any of it may be in the tile, its half step around counted.
    fn touches(&self, piece: usize, span: (f64, f64)) -> bool {
        let (columns, rows) = self.grid.size();
        let [column, row] = self.bounds(piece, span);
        column.1 >= -1.0 && row.1 >= -1.0 && column.0 <= columns as f64 && row.0 <= rows as f64
    }
}

/// What brings a longitude near the tile's own, degrees: whole turns.
fn turns_to(grid: &Grid, longitude_deg: f64) -> f64 {
    match grid.frame {
        Frame::Utm(..) => 0.0,
        Frame::Geographic => {
            let middle = f64::midpoint(grid.west, grid.far_corner().0);
            360.0 * ((middle - longitude_deg) / 360.0).round()
        }
    }
}

/// Fills voids straight between their neighbours, at the ends with the nearest; says how many, `None` where all are.
fn bridge(heights_m: &mut [f64]) -> Option<usize> {
    if heights_m.iter().all(|height| !height.is_nan()) {
        return Some(0);
    }
    let known: Vec<usize> = (0..heights_m.len()).filter(|at| !heights_m[*at].is_nan()).collect();
    let voids = heights_m.len() - known.len();
    if voids == 0 {
        return Some(0);
    }
    let (first, last) = (*known.first()?, *known.last()?);
    let (head, tail) = (heights_m[first], heights_m[last]);
    heights_m[..first].fill(head);
    heights_m[last + 1..].fill(tail);
    for pair in known.windows(2) {
        let (low, high) = (heights_m[pair[0]], heights_m[pair[1]]);
        let gap = pair[1] - pair[0];
        for (step, height) in heights_m[pair[0]..pair[1]].iter_mut().enumerate().skip(1) {
            *height = low + (high - low) * step as f64 / gap as f64;
        }
    }
    Some(voids)
}
