//! Where the user's aerial picture lies: turned, scaled and moved so that two known points come to stand where they are.

use crate::check::{Checker, FieldProblem};
use crate::geo::GeoPoint;
use crate::geo::geodesic::{point_along, way};
use crate::model::{Backdrop, GeoSpan, GroundControlPoint};
use serde::{Deserialize, Serialize};

/// A picture as it lies on the plan.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ImageGeoreference {
    /// The smallest span that holds it.
    pub span: GeoSpan,
    /// Metres to a pixel.
    pub metres_per_px: f64,
    /// Its upward edge points there, degrees from true north.
    pub turned_deg: f64,
    /// From its pixels to shares of the span (x from the west, y from the north):
    /// share_x = a x + c y + e, share_y = b x + d y + f.
    pub a: f64,
    /// Second coefficient.
    pub b: f64,
    /// Third coefficient.
    pub c: f64,
    /// Fourth coefficient.
    pub d: f64,
    /// Fifth coefficient.
    pub e: f64,
    /// Sixth coefficient.
    pub f: f64,
}

/// Known points nearer to each other than this turn the picture by chance, pixels.
const LEAST_APART_PX: f64 = 20.0;
/// Nearer than this on the ground they are hardly known better than that, m.
const LEAST_APART_M: f64 = 5.0;
/// Coarsest picture that is one of a house and its land, m a pixel (common practice, no source).
const COARSEST_M: f64 = 50.0;

/// What is wrong with a backdrop's two points.
pub fn check_control_points(
    points: &[GroundControlPoint],
    (width_px, height_px): (u32, u32),
) -> Vec<FieldProblem> {
    let mut checker = Checker::default();
    if points.is_empty() {
        return Vec::new();
    }
    let [first, second] = points else {
        return checker
            .problem("/control_points", "Give two known points: the house and a bend of the road, say.")
            .done();
    };
    for (index, point) in points.iter().enumerate() {
        let at = |field: &str| format!("/control_points/{index}/{field}");
        checker = checker.range(&at("x_px"), Some(point.x_px), 0.0, f64::from(width_px), "pixels").range(
            &at("y_px"),
            Some(point.y_px),
            0.0,
            f64::from(height_px),
            "pixels",
        );
        if let Err(error) = point.place.check() {
            checker = checker.problem(&at("place"), &error.to_string());
        }
    }
    let found = checker.done();
    if !found.is_empty() {
        return found;
    }
    let apart_px = (second.x_px - first.x_px).hypot(second.y_px - first.y_px);
    let apart_m = way(first.place, second.place).distance_m;
    let reason = if apart_px < LEAST_APART_PX {
        "The two points are nearly the same on the picture; take two far apart, best corner to corner."
    } else if apart_m < LEAST_APART_M {
        "The two points are nearly the same on the ground; take two far apart, best corner to corner."
    } else if apart_m / apart_px > COARSEST_M {
        "Between these coordinates lie kilometres for a few pixels: are latitude and longitude swapped, or a digit wrong?"
    } else {
        return Vec::new();
    };
    Checker::default().problem("/control_points", reason).done()
}

/// Where a picture lies; `None` before it has two sound points.
pub fn georeference(backdrop: &Backdrop) -> Option<ImageGeoreference> {
    let size = (backdrop.width_px, backdrop.height_px);
    let [first, second] = backdrop.control_points[..] else { return None };
    if !check_control_points(&backdrop.control_points, size).is_empty() {
        return None;
    }
    let ground = way(first.place, second.place);
    let (dx, dy) = (second.x_px - first.x_px, second.y_px - first.y_px);
    let metres_per_px = ground.distance_m / dx.hypot(dy);
    // On the picture y runs down: a bearing on it is atan2(right, up).
    let turned_deg = (ground.bearing_deg - dx.atan2(-dy).to_degrees()).rem_euclid(360.0);
    let place = |x_px: f64, y_px: f64| -> GeoPoint {
        let (dx, dy) = (x_px - first.x_px, y_px - first.y_px);
        point_along(first.place, dx.atan2(-dy).to_degrees() + turned_deg, dx.hypot(dy) * metres_per_px)
    };
    let (width, height) = (f64::from(size.0), f64::from(size.1));
    let corners = [place(0.0, 0.0), place(width, 0.0), place(width, height), place(0.0, height)];
    let fold = |of: fn(&GeoPoint) -> f64, with: fn(f64, f64) -> f64, start: f64| {
        corners.iter().map(of).fold(start, with)
    };
    let span = GeoSpan {
        south_deg: fold(|at| at.latitude_deg, f64::min, f64::INFINITY),
        north_deg: fold(|at| at.latitude_deg, f64::max, f64::NEG_INFINITY),
        west_deg: fold(|at| at.longitude_deg, f64::min, f64::INFINITY),
        east_deg: fold(|at| at.longitude_deg, f64::max, f64::NEG_INFINITY),
    };
    let share = |point: GeoPoint| {
        (
            (point.longitude_deg - span.west_deg) / (span.east_deg - span.west_deg),
            (span.north_deg - point.latitude_deg) / (span.north_deg - span.south_deg),
        )
    };
    let (origin, right, down) = (share(corners[0]), share(corners[1]), share(corners[3]));
    Some(ImageGeoreference {
        span,
        metres_per_px,
        turned_deg,
        a: (right.0 - origin.0) / width,
        b: (right.1 - origin.1) / width,
        c: (down.0 - origin.0) / height,
        d: (down.1 - origin.1) / height,
        e: origin.0,
        f: origin.1,
    })
}
