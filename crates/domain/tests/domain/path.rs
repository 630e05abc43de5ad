//! Geodesy, declination and diffraction against reference libraries; laws that any path obeys.

use chrono::NaiveDate;
use open_beacon_domain::geo::geodesic::{STANDARD_K_FACTOR, elevation_angle_deg, point_along, way};
use open_beacon_domain::geo::magnetic::{MagneticError, declination, magnetic_bearing_deg};
use open_beacon_domain::geo::{GeoPoint, turn_deg};
use open_beacon_domain::propagation::p525::{earth_bulge_m, free_space_loss_db, fresnel_radius_m};
use open_beacon_domain::propagation::p526::{
    Terrain, TerrainError, WavePolarisation, delta_bullington, knife_edge_db,
};
use proptest::prelude::*;

fn rows(file: &str) -> Vec<csv::StringRecord> {
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(file.as_bytes());
    reader.records().map(Result::unwrap).collect()
}

fn numbers(row: &csv::StringRecord) -> Vec<f64> {
    row.iter().filter_map(|cell| cell.parse().ok()).collect()
}

pub fn at(latitude_deg: f64, longitude_deg: f64) -> GeoPoint {
    GeoPoint { latitude_deg, longitude_deg }
}

/// geographiclib 2.1 (tests/vectors/make_geodesy.py): a world grid with poles and date line.
#[test]
fn distance_and_bearings_match_the_reference_library() {
    let (mut farthest, mut widest, mut compared) = (0.0f64, 0.0f64, 0);
    for row in rows(include_str!("../../../../tests/vectors/geodesic.csv")) {
        let [latitude, longitude, far_latitude, far_longitude, distance, bearing, back] = numbers(&row)[..]
        else {
            panic!("{row:?}")
        };
        let here = way(at(latitude, longitude), at(far_latitude, far_longitude));
        farthest = farthest.max((here.distance_m - distance).abs());
        if distance > 1.0 {
            widest = widest.max(turn_deg(here.bearing_deg, bearing).abs());
            widest = widest.max(turn_deg(here.back_bearing_deg, back).abs());
        }
        compared += 1;
    }
    assert_eq!(compared, 308);
    assert!(farthest < 1e-6 && widest < 1e-9, "{farthest} m, {widest}°");
}

/// pygeomag 1.1.0 (tests/vectors/make_geodesy.py); the crate computes in single precision and rounds the day.
#[test]
fn declination_matches_the_reference_library() {
    let mut worst = 0.0f64;
    let table = rows(include_str!("../../../../tests/vectors/declination.csv"));
    for row in &table {
        let [latitude, longitude, year, expected] = numbers(row)[..] else { panic!("{row:?}") };
        let day = NaiveDate::from_ymd_opt(year as i32, 1, 1).unwrap();
        let found = declination(at(latitude, longitude), 100.0, day).unwrap();
        worst = worst.max(turn_deg(found.declination_deg, expected).abs());
        assert!(found.uncertainty_deg > 0.1);
    }
    assert!(table.len() == 147 && worst < 0.01, "{} compared, largest deviation {worst}°", table.len());
}

#[test]
fn a_date_or_place_without_a_model_is_refused() {
    let day = |year| NaiveDate::from_ymd_opt(year, 6, 1).unwrap();
    assert_eq!(declination(at(60.0, 8.0), 0.0, day(2031)), Err(MagneticError::Date));
    assert_eq!(declination(at(60.0, 8.0), 0.0, day(2012)), Err(MagneticError::Date));
    assert_eq!(declination(at(95.0, 8.0), 0.0, day(2026)), Err(MagneticError::Place));
    assert_eq!(magnetic_bearing_deg(2.0, 5.0), 357.0);
}

/// pycraf 2.1.0 (tests/vectors/make_propagation.py): 240 invented profiles, both swings.
#[test]
fn diffraction_matches_the_reference_library() {
    let (mut worst, mut compared, mut obstructed) = (0.0f64, 0, 0);
    for row in rows(include_str!("../../../../tests/vectors/diffraction.csv")) {
        let heights_m: Vec<f64> = row[4].split(' ').map(|cell| cell.parse().unwrap()).collect();
        let number = |column: usize| row[column].parse::<f64>().unwrap();
        let distances_m: Vec<f64> = (0..heights_m.len()).map(|step| step as f64 * number(3)).collect();
        let path = Terrain {
            distances_m: &distances_m,
            heights_m: &heights_m,
            first_above_m: number(1),
            last_above_m: number(2),
        };
        // The library's median earth: 157 / (157 − 39.25), which is 4/3.
        for (swing, column) in [(WavePolarisation::Horizontal, 5), (WavePolarisation::Vertical, 6)] {
            let here = delta_bullington(&path, number(0), 157.0 / (157.0 - 39.25), swing).unwrap();
            worst = worst.max((here.loss_db - number(column)).abs());
            obstructed += usize::from(here.loss_db > 6.0);
            compared += 1;
        }
    }
    assert!(compared == 480 && obstructed > 100, "{compared} compared, {obstructed} of them obstructed");
    assert!(worst < 1e-3, "largest deviation {worst} dB");
}

#[test]
fn profiles_that_are_none_are_refused() {
    let path = |distances_m: &'static [f64], heights_m: &'static [f64]| {
        let terrain = Terrain { distances_m, heights_m, first_above_m: 5.0, last_above_m: 30.0 };
        delta_bullington(&terrain, 1800.0, STANDARD_K_FACTOR, WavePolarisation::Vertical)
    };
    for broken in [
        path(&[0.0, 100.0], &[1.0, 2.0]),
        path(&[0.0, 100.0, 90.0], &[1.0, 2.0, 3.0]),
        path(&[0.0, 100.0, 200.0], &[1.0, 2.0]),
        path(&[10.0, 100.0, 200.0], &[1.0, 2.0, 3.0]),
    ] {
        assert_eq!(broken, Err(TerrainError::Profile));
    }
    let flat = Terrain {
        distances_m: &[0.0, 500.0, 1000.0],
        heights_m: &[0.0; 3],
        first_above_m: 5.0,
        last_above_m: 9.0,
    };
    assert_eq!(
        delta_bullington(&flat, 1.0, STANDARD_K_FACTOR, WavePolarisation::Vertical),
        Err(TerrainError::Frequency)
    );
}

/// Fact of common practice, no source: a mast 370 m away behind a hill can be worse than one in view at 1.5 km. By
/// distance alone the near one has 20 lg (1500/370) = 12.2 dB; a hill 40 m above the line costs more.
#[test]
fn a_hill_can_cost_more_than_distance_gives() {
    let advantage = free_space_loss_db(1500.0, 1800.0) - free_space_loss_db(370.0, 1800.0);
    assert!((advantage - 12.16).abs() < 0.01);
    let distances_m: Vec<f64> = (0..=37).map(|step| f64::from(step) * 10.0).collect();
    let hill = |metres: f64| 40.0 * (-((metres - 180.0) / 60.0).powi(2)).exp();
    let heights_m: Vec<f64> = distances_m.iter().map(|metres| hill(*metres)).collect();
    let near =
        Terrain { distances_m: &distances_m, heights_m: &heights_m, first_above_m: 6.0, last_above_m: 25.0 };
    let lost =
        delta_bullington(&near, 1800.0, STANDARD_K_FACTOR, WavePolarisation::Vertical).unwrap().loss_db;
    assert!(lost > advantage + 5.0, "{lost}");
}

/// P.526-15 figure 9 and its equation: 6 dB grazing, 0 with six tenths of the zone clear, 20 dB about ν = 2.4.
#[test]
fn knife_edges_of_the_handbook() {
    assert!((knife_edge_db(0.0) - 6.03).abs() < 0.01);
    assert!(knife_edge_db(-0.6 * 2f64.sqrt()).abs() < 1e-9);
    assert!((knife_edge_db(2.4) - 20.54).abs() < 0.1, "{}", knife_edge_db(2.4));
}

fn any_path() -> impl Strategy<Value = (Vec<f64>, f64, f64)> {
    (proptest::collection::vec(0.0..180.0f64, 5..60), 1.5..15.0f64, 10.0..60.0f64)
}

proptest! {
    /// The way there and back is the same loss; more height over an edge never costs.
    #[test]
    fn paths_are_reciprocal((heights_m, first, last) in any_path(), mhz in 600.0..5000.0f64) {
        let distances_m: Vec<f64> = (0..heights_m.len()).map(|step| step as f64 * 90.0).collect();
        let turned: Vec<f64> = heights_m.iter().rev().copied().collect();
        let loss = |heights_m: &[f64], first_above_m: f64, last_above_m: f64| {
            let terrain = Terrain { distances_m: &distances_m, heights_m, first_above_m, last_above_m };
            delta_bullington(&terrain, mhz, STANDARD_K_FACTOR, WavePolarisation::Vertical).unwrap().loss_db
        };
        prop_assert!((loss(&heights_m, first, last) - loss(&turned, last, first)).abs() < 1e-6);
    }

    #[test]
    fn height_over_a_single_edge_never_costs(edge in 20.0..150.0f64, low in 1.5..20.0f64, more in 0.5..30.0f64) {
        let mut heights_m = vec![0.0; 41];
        heights_m[20] = edge;
        let distances_m: Vec<f64> = (0..41).map(|step| f64::from(step) * 100.0).collect();
        let loss = |first_above_m: f64| {
            let terrain = Terrain { distances_m: &distances_m, heights_m: &heights_m, first_above_m, last_above_m: 30.0 };
            delta_bullington(&terrain, 1800.0, STANDARD_K_FACTOR, WavePolarisation::Vertical).unwrap().bullington_db
        };
        prop_assert!(loss(low + more) <= loss(low) + 1e-9);
    }

    #[test]
    fn going_along_a_bearing_and_looking_back_agrees(latitude in -80.0..80.0f64, longitude in -179.0..179.0f64, bearing in 0.0..360.0f64, metres in 50.0..60_000.0f64) {
        let from = at(latitude, longitude);
        let there = way(from, point_along(from, bearing, metres));
        prop_assert!((there.distance_m - metres).abs() < 1e-5);
        prop_assert!(turn_deg(there.bearing_deg, bearing).abs() < 1e-6);
    }

    /// Seen from both ends the angles add up to the bend of the earth between them.
    #[test]
    fn elevation_angles_differ_by_the_bend_of_the_earth(low in 0.0..500.0f64, high in 0.0..2000.0f64, metres in 500.0..50_000.0f64) {
        let up = elevation_angle_deg(low, high, metres, STANDARD_K_FACTOR).to_radians().tan();
        let down = elevation_angle_deg(high, low, metres, STANDARD_K_FACTOR).to_radians().tan();
        prop_assert!((up + down + metres / (STANDARD_K_FACTOR * 6_371_000.0)).abs() < 1e-9);
        prop_assert!(earth_bulge_m(metres, metres / 2.0, STANDARD_K_FACTOR) >= earth_bulge_m(metres, metres / 3.0, STANDARD_K_FACTOR));
        prop_assert!(fresnel_radius_m(metres, metres / 2.0, 1800.0) >= fresnel_radius_m(metres, metres / 3.0, 1800.0));
    }
}
