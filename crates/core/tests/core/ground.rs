//! Heights of the ground, tracks over it, and coordinates as people write them.

use super::survey::{HOUSE, at, ground_by};
use open_beacon_core::geo::coordinates::{read_degrees, read_point, sexagesimal, utm_text};
use open_beacon_core::geo::geodesic::{point_along, way};
use open_beacon_core::model::*;
use open_beacon_core::terrain::{Frame, Grid, Ground, Heights, ProfileError, Track};
use std::sync::Arc;

#[test]
fn a_bilinear_height_is_exact_on_a_plane_and_voids_are_bridged() {
    // A plane is its own bilinear surface (closed form).
    let plane = |x: f64, y: f64| 100.0 + 3.0 * x - 2.0 * y;
    let heights: Vec<f32> = (0..5)
        .flat_map(|row| (0..5).map(move |column| plane(f64::from(column), -f64::from(row)) as f32))
        .collect();
    let grid =
        Grid::new(Frame::Geographic, (0.0, 0.0), (1.0, 1.0), (5, 5), Heights::Real(heights.clone())).unwrap();
    assert!((grid.height_m(1.3, -2.6).unwrap() - plane(1.3, -2.6)).abs() < 1e-5);
    // Half a step beyond the outer nodes belongs to a tile of whole pixels; farther is outside.
    assert_eq!(grid.height_m(-0.4, 0.0), grid.height_m(0.0, 0.0));
    assert_eq!(grid.height_m(-0.6, 0.0), None);
    let mut holed = heights;
    holed[6] = f32::NAN;
    let grid = Grid::new(Frame::Geographic, (0.0, 0.0), (1.0, 1.0), (5, 5), Heights::Real(holed)).unwrap();
    assert_eq!(grid.extremes().unwrap().voids, 1);
    assert_eq!(grid.height_m(1.0, -1.0), None, "in the void itself nothing is known");
    assert!(grid.height_m(1.4, -1.4).is_some(), "beside it three nodes are");
    let empty =
        Grid::new(Frame::Geographic, (0.0, 0.0), (1.0, 1.0), (2, 2), Heights::Whole(vec![Heights::VOID; 4]));
    assert!(empty.unwrap().extremes().is_err());
    assert!(
        Grid::new(Frame::Geographic, (0.0, 0.0), (1.0, 1.0), (3, 2), Heights::Whole(vec![0; 5])).is_err()
    );
}

#[test]
fn a_profile_says_where_terrain_ends_and_crosses_the_date_line() {
    let ground = ground_by(|_, _| 400.0);
    let far = Track::new(HOUSE, point_along(HOUSE, 90.0, 40_000.0));
    let Err(ProfileError::NotCovered { from_m }) = ground.profile(&far) else { panic!("it is covered") };
    // Half of 601 columns of 1/1800 degree at this latitude: 8.88 km (and half a step).
    assert!((from_m - 8_890.0).abs() < 60.0, "{from_m}");
    assert_eq!(Ground::default().profile(&far), Err(ProfileError::NoTerrain));
    // A tile across the date line, given from 179° on, found from either side.
    let heights = Heights::Whole((0..21 * 21).map(|node| (node % 21) as i16).collect());
    let tile = Grid::new(Frame::Geographic, (179.0, 1.0), (0.1, 0.1), (21, 21), heights).unwrap();
    let ground = Ground::new(vec![(Arc::new(tile), SurfaceKind::Ground)]);
    for (from, to) in [(at(0.5, 179.5), at(0.5, -179.5)), (at(0.5, -179.5), at(0.5, 179.5))] {
        let profile = ground.profile(&Track::new(from, to)).unwrap();
        let middle = profile.heights_m[profile.heights_m.len() / 2];
        assert!((middle - 10.0).abs() < 0.1, "{middle}");
    }
}

/// geographiclib by way of [`point_along`]: the interpolated track against exact points.
#[test]
fn a_track_keeps_to_the_geodesic_within_centimetres() {
    for (from, bearing, length_m) in
        [(HOUSE, 37.0, 20_000.0), (at(70.0, 25.0), 88.0, 60_000.0), (at(-33.0, 18.0), 200.0, 9_000.0)]
    {
        let track = Track::new(from, point_along(from, bearing, length_m));
        let worst = (1..40)
            .map(|step| length_m * f64::from(step) / 40.0)
            .map(|metres| way(track.at(metres), point_along(from, bearing, metres)).distance_m)
            .fold(0.0, f64::max);
        assert!(worst < 0.05, "{worst} m off");
    }
}

#[test]
fn coordinates_are_read_as_people_write_them() {
    for text in [
        "61.4213, 8.2087",
        "61,4213; 8,2087",
        "61°25'16.68\"N 8°12'31.32\"E",
        "N 61.4213, E 8.2087",
        "61.4213 8.2087",
    ] {
        let point = read_point(text).unwrap_or_else(|error| panic!("{text}: {error}"));
        assert!(
            (point.latitude_deg - 61.4213).abs() < 1e-6 && (point.longitude_deg - 8.2087).abs() < 1e-6,
            "{text}"
        );
    }
    for text in ["", "sixty, eight", "91, 8", "61 70 00 N, 8", "61.4213"] {
        assert!(read_point(text).is_err(), "{text}");
    }
    assert_eq!(sexagesimal(at(-61.4213, -8.2087)), ("61°25′16.7″S".into(), "8°12′31.3″W".into()));
    assert!(read_degrees("181").is_err());
}

/// pyproj 3 (tests/vectors/make_survey.py): zones in use, both halves, forced neighbouring zones.
#[test]
fn utm_matches_the_reference_library() {
    let (mut worst, mut compared) = (0.0f64, 0);
    let table = include_str!("../../../../tests/vectors/utm.csv");
    for row in csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(table.as_bytes()).records() {
        let row: Vec<f64> = row.unwrap().iter().map(|cell| cell.parse().unwrap()).collect();
        let (x, y) = Frame::Utm(row[2] as u8, row[3] > 0.5).project(at(row[0], row[1]));
        worst = worst.max((x - row[4]).hypot(y - row[5]));
        compared += 1;
    }
    assert!(compared == 180 && worst < 0.02, "{compared} compared, {worst} m off");
    assert_eq!(utm_text(at(61.4213, 8.2087)).unwrap().split(' ').next(), Some("32V"));
}

/// proplib-p2108 (tests/vectors/make_survey.py).
#[test]
fn height_gain_matches_the_reference_library() {
    use open_beacon_core::propagation::p2108::height_gain_loss_db;
    let (mut worst, mut compared) = (0.0f64, 0);
    let table = include_str!("../../../../tests/vectors/p2108.csv");
    for row in csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(table.as_bytes()).records() {
        let row: Vec<f64> = row.unwrap().iter().map(|cell| cell.parse().unwrap()).collect();
        let kinds = [Clutter::Water, Clutter::Open, Clutter::Suburban, Clutter::Woodland, Clutter::DenseTown];
        let found = height_gain_loss_db(kinds[row[0] as usize - 1], row[1], row[2], row[4], row[3]).unwrap();
        worst = worst.max((found - row[5]).abs());
        compared += 1;
    }
    assert!(compared >= 100 && worst < 0.01, "{compared} compared, {worst} dB off");
    assert!(height_gain_loss_db(Clutter::Open, 3500.0, 3.0, 10.0, 27.0).is_err(), "to 3 GHz");
}
