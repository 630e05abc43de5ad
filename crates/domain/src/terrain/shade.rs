//! Hill shading and contour lines of a piece of ground, as brightness values to draw a plan on.

use super::ground::Ground;
use crate::geo::GeoPoint;
use crate::model::GeoSpan;

/// A shaded picture of the ground.
#[derive(Clone, Debug, PartialEq)]
pub struct Shade {
    /// Number of columns.
    pub width: usize,
    /// Number of rows.
    pub height: usize,
    /// 0 (dark) ..=255 (lit), row by row from the north-west; 0 in `known` where there is no height.
    pub light: Vec<u8>,
    /// Where there is a value.
    pub known: Vec<bool>,
    /// 0 no line, 1 a contour, 2 each fifth.
    pub contour: Vec<u8>,
    /// Between contours, m.
    pub interval_m: f64,
}

/// Mercator's northing of a latitude, in radians of longitude.
fn mercator(latitude_deg: f64) -> f64 {
    (std::f64::consts::FRAC_PI_4 + latitude_deg.to_radians() / 2.0).tan().ln()
}

fn latitude_deg(northing: f64) -> f64 {
    (2.0 * northing.exp().atan() - std::f64::consts::FRAC_PI_2).to_degrees()
}

/// Latitude of each row's middle, degrees: even steps of Mercator's northing, as map pictures are stretched.
pub fn row_latitudes_deg(span: &GeoSpan, rows: usize) -> Vec<f64> {
    let (south, north) = (mercator(span.south_deg), mercator(span.north_deg));
    (0..rows).map(|row| latitude_deg(north - (north - south) * (row as f64 + 0.5) / rows as f64)).collect()
}

/// A step between contours that gives about a dozen lines over `relief_m`, m: 1, 2 or 5 times a power of ten.
pub fn contour_interval_m(relief_m: f64) -> f64 {
    let rough = (relief_m / 12.0).max(1.0);
    let power = 10f64.powf(rough.log10().floor());
    let steps = [1.0, 2.0, 5.0, 10.0];
    steps.into_iter().map(|step| step * power).find(|step| *step >= rough).unwrap_or(rough)
}

/// Shades a span from the north-west (sun at 315°, 45° high: the cartographers' custom). Span within ±85° of latitude;
/// `width` and `height` in pixels, 2 or more.
pub fn shade(ground: &Ground, span: &GeoSpan, width: usize, height: usize) -> Shade {
    let latitudes = row_latitudes_deg(span, height);
    let longitude = |column: usize| {
        span.west_deg + (span.east_deg - span.west_deg) * (column as f64 + 0.5) / width as f64
    };
    let heights: Vec<f64> = latitudes
        .iter()
        .flat_map(|latitude_deg| {
            (0..width).map(|column| {
                let at = GeoPoint { latitude_deg: *latitude_deg, longitude_deg: longitude(column) };
                ground.height_m(at).unwrap_or(f64::NAN)
            })
        })
        .collect();
    let known: Vec<bool> = heights.iter().map(|height| !height.is_nan()).collect();
    let of_known = || heights.iter().copied().filter(|height| !height.is_nan());
    let relief_m =
        (of_known().fold(f64::NEG_INFINITY, f64::max) - of_known().fold(f64::INFINITY, f64::min)).max(0.0);
    let interval_m = contour_interval_m(relief_m);
    let middle = f64::midpoint(span.south_deg, span.north_deg).to_radians();
    let east_m = (span.east_deg - span.west_deg) * 111_320.0 * middle.cos() / width as f64;
    let north_m = (span.north_deg - span.south_deg) * 111_320.0 / height as f64;
    // Low relief is drawn steeper, so that it can be seen at all.
    let steeper = (300.0 / relief_m.max(30.0)).clamp(1.0, 6.0);
    let at = |row: usize, column: usize| heights[row * width + column];
    let mut light = vec![0u8; width * height];
    let mut contour = vec![0u8; width * height];
    for row in 0..height {
        for column in 0..width {
            let index = row * width + column;
            if !known[index] {
                continue;
            }
            let here = at(row, column);
            let near = |row: usize, column: usize| {
                let value = at(row.min(height - 1), column.min(width - 1));
                if value.is_nan() { here } else { value }
            };
            let slope_x =
                (near(row, column + 1) - near(row, column.saturating_sub(1))) / (2.0 * east_m) * steeper;
            let slope_y =
                (near(row.saturating_sub(1), column) - near(row + 1, column)) / (2.0 * north_m) * steeper;
            // Sun from the north-west: towards −x and +y.
            let lit = (1.0 + (slope_x - slope_y) / std::f64::consts::SQRT_2)
                / (1.0 + slope_x * slope_x + slope_y * slope_y).sqrt()
                * std::f64::consts::FRAC_1_SQRT_2;
            light[index] = (lit.clamp(0.0, 1.0) * 255.0) as u8;
            let step = |value: f64| (value / interval_m).floor();
            let (a, b, c) = (step(here), step(near(row, column + 1)), step(near(row + 1, column)));
            if a != b || a != c {
                let line = a.max(b).max(c);
                contour[index] = if line.rem_euclid(5.0) == 0.0 { 2 } else { 1 };
            }
        }
    }
    Shade { width, height, light, known, contour, interval_m }
}
