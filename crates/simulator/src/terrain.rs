//! The valley's ground, by a seed: a river valley with a ridge to the north, a hill under the wanted mast and a knoll
//! half-way to it. Written as an ESRI ASCII grid.

use crate::channel::hashed;
use crate::world::{HOUSE_LATITUDE_DEG, HOUSE_LONGITUDE_DEG};
use std::fmt::Write;

/// Metres in a degree of latitude, as the whole valley is laid out with.
pub const DEGREE_M: f64 = 111_320.0;

/// Smooth noise of unit size over the plane, its hills `size_m` apart.
fn noise(seed: u64, east_m: f64, north_m: f64, size_m: f64) -> f64 {
    let (x, y) = (east_m / size_m, north_m / size_m);
    let (column, row) = (x.floor(), y.floor());
    let ease = |t: f64| t * t * (3.0 - 2.0 * t);
    let (u, v) = (ease(x - column), ease(y - row));
    let at =
        |dx: f64, dy: f64| 2.0 * hashed(seed, (column + dx) as i64 as u64, (row + dy) as i64 as u64) - 1.0;
    let low = at(0.0, 0.0) * (1.0 - u) + at(1.0, 0.0) * u;
    let high = at(0.0, 1.0) * (1.0 - u) + at(1.0, 1.0) * u;
    low * (1.0 - v) + high * v
}

fn hill(east_m: f64, north_m: f64, (at_east, at_north): (f64, f64), width_m: f64, height_m: f64) -> f64 {
    let away = (east_m - at_east).hypot(north_m - at_north) / width_m;
    height_m * (-away * away).exp()
}

/// Ground at a place, metres east and north of the house, m above sea level.
pub fn ground_m(seed: u64, east_m: f64, north_m: f64) -> f64 {
    // The river runs from the north-east to the south-west, past the house a little to the west.
    let across = (east_m + 250.0) * 0.94 - north_m * 0.34;
    let sides = 260.0 * (1.0 - (-(across / 2600.0).powi(2)).exp());
    let ridge = 190.0 * (-((north_m - 3300.0 - 0.25 * east_m) / 800.0).powi(2)).exp();
    let mast_hill = hill(east_m, north_m, (2829.0, -3754.0), 900.0, 150.0);
    let knoll = hill(east_m, north_m, (760.0, -1000.0), 170.0, 17.0);
    // Round the croft the ground is tilled and even.
    let wild = 1.0 - hill(east_m, north_m, (0.0, 0.0), 500.0, 0.9);
    let rough = 22.0 * noise(seed, east_m, north_m, 1100.0) + 7.0 * noise(seed ^ 9, east_m, north_m, 330.0);
    418.0 + sides + ridge + mast_hill + knoll + wild * rough - 0.006 * east_m
}

/// Place on the earth of a point of the plane: latitude and longitude, degrees.
pub fn place(east_m: f64, north_m: f64) -> (f64, f64) {
    (
        HOUSE_LATITUDE_DEG + north_m / DEGREE_M,
        HOUSE_LONGITUDE_DEG + east_m / (DEGREE_M * HOUSE_LATITUDE_DEG.to_radians().cos()),
    )
}

/// Rows and columns, steps, and the south-west node of the grid.
pub const ROWS: usize = 420;
pub const COLUMNS: usize = 260;
pub const STEP_LATITUDE_DEG: f64 = 0.0005;
pub const STEP_LONGITUDE_DEG: f64 = 0.001;
pub const SOUTH_DEG: f64 = 61.3;
pub const WEST_DEG: f64 = 8.08;

/// The grid's text, with the lowest and highest height in it.
pub fn ascii_grid(seed: u64) -> (String, f64, f64) {
    let mut text = format!(
        "ncols {COLUMNS}\nnrows {ROWS}\nxllcenter {WEST_DEG}\nyllcenter {SOUTH_DEG}\ndx {STEP_LONGITUDE_DEG}\ndy {STEP_LATITUDE_DEG}\nNODATA_value -9999\n"
    );
    let (mut lowest, mut highest) = (f64::INFINITY, f64::NEG_INFINITY);
    let east_scale = DEGREE_M * HOUSE_LATITUDE_DEG.to_radians().cos();
    for row in (0..ROWS).rev() {
        let north_m = (SOUTH_DEG + STEP_LATITUDE_DEG * row as f64 - HOUSE_LATITUDE_DEG) * DEGREE_M;
        for column in 0..COLUMNS {
            let east_m = (WEST_DEG + STEP_LONGITUDE_DEG * column as f64 - HOUSE_LONGITUDE_DEG) * east_scale;
            let height = (ground_m(seed, east_m, north_m) * 10.0).round() / 10.0;
            (lowest, highest) = (lowest.min(height), highest.max(height));
            let _ = write!(text, "{}{height}", if column == 0 { "" } else { " " });
        }
        text.push('\n');
    }
    (text, lowest, highest)
}
