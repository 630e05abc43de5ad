//! Laws of the survey's parts: leaves, sheets, clutter, crossings, shading, walls, what moves a prediction.

use crate::survey::at;
use crate::survey::{ground_by, radio};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::{point_along, way};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::fresnel::{Blocker, FREE_SHARE, Line, clearance};
use open_beacon_core::link::gaussian::{Kernel, Measurement, Posterior};
use open_beacon_core::link::landscape::{carrier_of, element_eirp_dbm, frequency_mhz};
use open_beacon_core::link::route::{Around, Ends, PathSource, Route};
use open_beacon_core::link::rural::near_ground_db;
use open_beacon_core::link::walls::wall_loss_db;
use open_beacon_core::model::*;
use open_beacon_core::propagation::p833::{
    inside_woodland_db, most_db, side_by_side_db, specific_attenuation_db_m,
};
use open_beacon_core::propagation::p2040::{sheet_loss_db, usual_m};
use open_beacon_core::propagation::p2108::{clutter_height_m, height_gain_loss_db};
use open_beacon_core::survey::rank::{Access, cable_m};
use open_beacon_core::survey::raster::{Asked, RasterQuantity, row};
use open_beacon_core::terrain::Track;
use open_beacon_core::terrain::crossing::crossings;
use open_beacon_core::terrain::shade::{contour_interval_m, row_latitudes_deg, shade};
use open_beacon_core::words;
use proptest::prelude::*;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

fn thing(kind: ObstacleKind, outline: Vec<GeoPoint>, width_m: Option<f64>, height_m: f64) -> Obstacle {
    Obstacle {
        id: ObstacleId(Uuid::from_u128(1)),
        site_id: SiteId(Uuid::nil()),
        name: "It".into(),
        kind,
        outline,
        width_m,
        height_m,
        archived_at: None,
    }
}

/// A square of `half_m` round a point.
fn square(middle: GeoPoint, half_m: f64) -> Vec<GeoPoint> {
    [45.0, 135.0, 225.0, 315.0]
        .map(|turn| point_along(middle, turn, half_m * std::f64::consts::SQRT_2))
        .to_vec()
}

fn lte(band: u16, channel: Option<u32>) -> MastCell {
    MastCell {
        technology: Technology::Lte,
        band: Some(band),
        channel,
        bandwidth_mhz: None,
        pci: None,
        node: None,
        local_cell: None,
        bearing_deg: None,
        power_dbm: None,
        load: None,
    }
}

fn mast_of(cells: Vec<MastCell>, bearing_deg: f64, away_m: f64) -> Mast {
    Mast {
        id: MastId(Uuid::from_u128(3)),
        site_id: SiteId(Uuid::nil()),
        name: "A".into(),
        operator: String::new(),
        place: point_along(HOUSE, bearing_deg, away_m),
        height_m: Some(40.0),
        cells,
        notes: String::new(),
        archived_at: None,
    }
}

#[test]
fn a_worked_clearance() {
    // Worked by hand: 4 km at 1.8 GHz, a top of 20 m in the middle, both antennas at 30 m. First Fresnel zone:
    // sqrt(0.16655 · 2000 · 2000 / 4000) = 12.90 m; bulge of k = 4/3: 2000²/(2 · 8 494 667) = 0.235 m.
    let distances_m = [0.0, 2000.0, 4000.0];
    let (tops_m, whose) = ([0.0, 20.0, 0.0], [Blocker::Ground; 3]);
    let line = Line {
        distances_m: &distances_m,
        tops_m: &tops_m,
        whose: &whose,
        first_m: 30.0,
        last_m: 30.0,
        frequency_mhz: 1800.0,
        k: 4.0 / 3.0,
    };
    let found = clearance(&line).unwrap();
    assert!((found.fresnel_m - 12.904).abs() < 0.01, "{found:?}");
    assert!((found.fresnel_share - (10.0 - 0.2354) / 12.904).abs() < 1e-3);
    assert!(found.in_sight && found.raise_m <= 0.0 && found.fresnel_share > FREE_SHARE);
    // From 10 m: the line is at 20 m in the middle, 0.235 m below the bulged top; 0.6 of the zone asks for 7.742 m more
    // there, twice that at the end.
    let low = clearance(&Line { first_m: 10.0, ..line }).unwrap();
    assert!(!low.in_sight && (low.raise_m - 2.0 * (7.742 + 0.2354)).abs() < 0.02, "{low:?}");
    assert!(
        clearance(&Line { distances_m: &[0.0, 10.0], tops_m: &[0.0, 0.0], whose: &whose[..2], ..line })
            .is_none()
    );
}

#[test]
fn sheets_of_the_house_are_in_the_order_every_installer_knows() {
    let loss = |material| sheet_loss_db(material, 1800.0, usual_m(material));
    assert!(
        loss(Material::Plasterboard) < loss(Material::Brick)
            && loss(Material::Brick) < loss(Material::Concrete)
    );
    assert!(
        loss(Material::CoatedGlass) > loss(Material::Glass) + 20.0
            && loss(Material::Metal) > loss(Material::Foil)
    );
    // Thick concrete: the loss inside, 8.686 · α d, α = ω ε'' /(2 c sqrt ε') (closed form for low loss), dominates.
    let (ghz, metres) = (1.8, 0.6);
    let conductivity = 0.0462 * f64::powf(ghz, 0.7822);
    let inside_db = 8.686 * 60.0 * std::f64::consts::PI * conductivity / 5.24f64.sqrt() * metres;
    let found = sheet_loss_db(Material::Concrete, 1800.0, metres);
    assert!(
        (found - inside_db).abs() < 3.5,
        "{found} against {inside_db} and what is turned back at two faces"
    );
}

#[test]
fn a_said_roof_takes_the_place_of_the_statistics() {
    let mut settings = SiteSettings::default();
    let statistics = wall_loss_db(Mount::Attic, &settings, 1800.0);
    settings.survey.roof = Some(Material::Metal);
    let metal = wall_loss_db(Mount::Attic, &settings, 1800.0);
    assert!(metal.mean > statistics.mean + 10.0 && metal.spread > 0.0);
    assert_eq!(wall_loss_db(Mount::Gable, &settings, 1800.0).mean, 0.0);
    assert_ne!(wall_loss_db(Mount::Window, &settings, 1800.0), metal, "a roof says nothing of a window");
}

#[test]
fn undrawn_clutter_counts_once_and_never_on_the_model() {
    let ground = ground_by(|_, _| 400.0);
    let far = point_along(HOUSE, 143.0, 4000.0);
    let wood = [thing(ObstacleKind::TreesInLeaf, square(point_along(HOUSE, 143.0, 90.0), 25.0), None, 14.0)];
    let loss = |obstacles: &[Obstacle], clutter: Option<Clutter>, terrain: bool| {
        let mut settings = SiteSettings::default();
        settings.survey.clutter = clutter;
        let around = Around { obstacles, settings: &settings, taller_trees_m: 0.0, in_leaf: false };
        let none = open_beacon_core::terrain::Ground::default();
        let route = Route::new(HOUSE, far, if terrain { &ground } else { &none }, obstacles);
        let ends = Ends { first_above_m: 5.0, last_above_m: 35.0, indoors: false };
        route.loss(ends, 1800.0, &around).total_db.likely
    };
    let expected =
        height_gain_loss_db(Clutter::Woodland, 1800.0, 5.0, clutter_height_m(Clutter::Woodland), 27.0)
            .unwrap();
    let added = loss(&[], Some(Clutter::Woodland), true) - loss(&[], None, true);
    assert!((added - expected).abs() < 1e-9 && expected > 5.0);
    assert_eq!(loss(&wood, Some(Clutter::Woodland), true), loss(&wood, None, true), "the wood is drawn");
    assert_eq!(loss(&[], Some(Clutter::Woodland), false), loss(&[], None, false), "the model holds clutter");
}

#[test]
fn the_house_hides_what_is_behind_it_from_its_own_wall_only_below_the_roof() {
    let ground = ground_by(|_, _| 400.0);
    let settings = SiteSettings::default();
    let house = [thing(ObstacleKind::House, square(HOUSE, 5.0), None, 7.0)];
    let wall = point_along(HOUSE, 180.0, 5.3);
    let loss = |bearing_deg: f64, height_m: f64, indoors: bool| {
        let route = Route::new(wall, point_along(HOUSE, bearing_deg, 5000.0), &ground, &house);
        let around = Around { obstacles: &house, settings: &settings, taller_trees_m: 0.0, in_leaf: false };
        route
            .loss(Ends { first_above_m: height_m, last_above_m: 40.0, indoors }, 1800.0, &around)
            .obstacles_db
    };
    assert!(loss(0.0, 4.0, false) > 10.0, "behind the house: {}", loss(0.0, 4.0, false));
    assert_eq!(loss(180.0, 4.0, false), 0.0, "in front of it");
    assert!(loss(0.0, 9.0, false) < 3.0, "above the roof: {}", loss(0.0, 9.0, false));
    assert_eq!(loss(0.0, 4.0, true), 0.0, "inside, its walls are reckoned as entry loss");
}

#[test]
fn what_a_register_does_not_say_is_taken_as_usual() {
    let bare = lte(3, Some(1300));
    assert_eq!(carrier_of(&bare).unwrap().bandwidth_mhz, Some(20.0));
    assert_eq!(
        carrier_of(&lte(20, None)).unwrap().bandwidth_mhz,
        Some(10.0),
        "below 1 GHz carriers are narrow"
    );
    // EARFCN 1300 in band 3: 1805 + 0.1 (1300 − 1200) = 1815 MHz (TS 36.101 clause 5.7.3).
    assert!((frequency_mhz(&bare).unwrap() - 1815.0).abs() < 1e-9);
    assert!((frequency_mhz(&lte(3, None)).unwrap() - 1842.5).abs() < 1e-9, "the band's middle");
    // 46 dBm over 100 blocks of 12 elements: 46 − 30.79 = 15.21 dBm, and 17 dBi.
    let loud = MastCell { power_dbm: Some(46.0), ..bare.clone() };
    assert!((element_eirp_dbm(&loud, 0.0).unwrap() - 32.208).abs() < 0.001);
    // A sector 70° wide looking away: 25 dB less.
    let turned = MastCell { bearing_deg: Some(180.0), ..loud };
    assert!((element_eirp_dbm(&turned, 0.0).unwrap() - 7.208).abs() < 0.001);
    let unknown = MastCell { band: Some(999), channel: None, ..bare };
    assert!(element_eirp_dbm(&unknown, 0.0).is_none());
}

#[test]
fn a_raster_agrees_with_the_path_it_is_made_of() {
    let ground = ground_by(|east, _| 400.0 + east / 200.0);
    let settings = SiteSettings::default();
    let masts = [mast_of(vec![lte(3, Some(1300)), lte(999, None)], 30.0, 3000.0)];
    let env = radio(&masts, &[], &ground, &settings);
    let span = GeoSpan { south_deg: 61.41, west_deg: 8.18, north_deg: 61.43, east_deg: 8.22 };
    let (antenna, quantity) = (AimAntenna::Stock, RasterQuantity::Signal);
    let asked = Asked { span, columns: 5, rows: 3, height_m: 6.0, mast: 0, cell: 0, antenna, quantity };
    let found = row(&env, &asked, 1).unwrap();
    let from = at(row_latitudes_deg(&span, 3)[1], 8.20);
    let around = Around { obstacles: &[], settings: &settings, taller_trees_m: 0.0, in_leaf: false };
    let route = Route::new(from, masts[0].place, &ground, &[]);
    let loss = route.loss(Ends { first_above_m: 6.0, last_above_m: 40.0, indoors: false }, 1815.0, &around);
    assert!((loss.near_ground_db - near_ground_db(6.0, 1815.0)).abs() < 1e-9, "{loss:?}");
    let expected = 15.0 + 17.0 + settings.outdoor.stock_gain_dbi - loss.total_db.likely - loss.near_ground_db;
    assert!((found[2] - expected).abs() < 1e-6, "{} against {expected}", found[2]);
    assert!(matches!(loss.source, PathSource::Terrain { .. }));
    assert!(row(&env, &Asked { cell: 1, ..asked }, 1).is_none(), "a band that is none");
    assert!(row(&env, &Asked { cell: 9, ..asked }, 1).is_none());
}

#[test]
fn the_plan_is_lit_from_the_north_west_and_its_contours_follow_the_heights() {
    // A ridge running from south-west to north-east: its north-western side is lit, the other in shade.
    let ground = ground_by(|east, north| 400.0 + 150.0 * (-((east - north) / 900.0).powi(2)).exp());
    let span = GeoSpan { south_deg: 61.40, west_deg: 8.16, north_deg: 61.44, east_deg: 8.24 };
    let found = shade(&ground, &span, 90, 90);
    let at = |column: usize, row: usize| f64::from(found.light[row * 90 + column]);
    let (lit, dark) = (at(36, 36), at(54, 54));
    assert!(lit > dark + 30.0, "{lit} {dark}");
    assert!(found.known.iter().all(|known| *known));
    assert!(found.contour.contains(&1));
    let flat = shade(&ground_by(|_, _| 400.3), &span, 20, 20);
    assert!(flat.contour.iter().all(|line| *line == 0), "level ground has no contour");
    let outside = GeoSpan { south_deg: 50.0, west_deg: 8.0, north_deg: 50.1, east_deg: 8.1 };
    assert!(shade(&ground, &outside, 16, 16).known.iter().all(|known| !known));
    for (relief, expected) in [(5.0, 1.0), (100.0, 10.0), (300.0, 50.0), (1200.0, 100.0)] {
        assert_eq!(contour_interval_m(relief), expected, "{relief}");
    }
}

#[test]
fn words_of_distance_and_reach() {
    use open_beacon_core::model::Units::{Imperial, Metric};
    for (metres, units, expected) in [
        (368.0, Metric, "370\u{202f}m"),
        (4706.0, Metric, "4.7\u{202f}km"),
        (23_400.0, Metric, "23\u{202f}km"),
        (100.0, Imperial, "330\u{202f}ft"),
        (4706.0, Imperial, "2.9\u{202f}mi"),
    ] {
        assert_eq!(words::survey::distance(metres, units), expected);
    }
    assert_eq!(Access::of(Mount::Pole, 2.0), Access::Ground);
    assert_eq!(Access::of(Mount::Chimney, 2.0), Access::Roof);
    assert!(words::survey::cautions(Access::Roof).iter().any(|one| one.contains("harness")));
    assert!(words::survey::cautions(Access::Ladder).iter().any(|one| one.contains("four up to one out")));
    assert_eq!(cable_m(0.0, 1.0), 1.0);
}

/// One common error of 8 dB.
struct Common;

impl Kernel for Common {
    type Point = ();

    fn covariance(&self, _: &(), _: &()) -> f64 {
        64.0
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Deeper woods and higher frequencies take more, never more than the most; bare trees less than leafy ones.
    #[test]
    fn woods_take_more_the_deeper(mhz in 400.0..4000.0f64, depth in 0.0..500.0f64, more in 0.1..100.0f64) {
        let loss = |depth| inside_woodland_db(mhz, depth, true);
        prop_assert!(loss(depth + more) >= loss(depth) && loss(depth) <= most_db(mhz));
        prop_assert!(inside_woodland_db(mhz, depth, false) <= loss(depth));
        prop_assert!(specific_attenuation_db_m(mhz + more, true) >= specific_attenuation_db_m(mhz, true));
        prop_assert!(loss(depth) <= depth * specific_attenuation_db_m(mhz, true) + 1e-9);
    }

    /// Two ways together lose less than either, and at most 3 dB less than the better.
    #[test]
    fn two_ways_are_better_than_one(a in 0.0..80.0f64, b in 0.0..80.0f64) {
        let both = side_by_side_db(a, b);
        prop_assert!(both <= a.min(b) && both >= a.min(b) - 3.0104);
        prop_assert!((both - side_by_side_db(b, a)).abs() < 1e-9);
    }

    /// Measurements draw the shift towards their mean, never past it, and more of them narrow it.
    #[test]
    fn measurements_pull_and_narrow(residuals in prop::collection::vec(-30.0..30.0f64, 1..12)) {
        let mean = residuals.iter().sum::<f64>() / residuals.len() as f64;
        let posterior = |residuals: &[f64]| {
            let of = |residual: &f64| Measurement { point: (), residual: *residual, noise: 6.0 };
            Posterior::new(Common, residuals.iter().map(of).collect()).at(&())
        };
        let found = posterior(&residuals);
        prop_assert!(found.mean.abs() <= mean.abs() + 1e-9 && found.mean * mean >= -1e-9);
        prop_assert!(found.spread < 6.0);
        let mut more = residuals.clone();
        more.push(mean);
        prop_assert!(posterior(&more).spread < found.spread);
    }

    /// A square anywhere on the way is crossed over its own width, wherever on earth.
    #[test]
    fn a_square_on_the_way_is_crossed(
        latitude in -70.0..70.0f64, longitude in -179.9..179.9f64, bearing in 0.0..360.0f64,
        away in 100.0..9000.0f64, half in 5.0..80.0f64,
    ) {
        let from = at(latitude, longitude);
        let track = Track::new(from, point_along(from, bearing, 10_000.0));
        let middle = point_along(from, bearing, away);
        let found = crossings(&track, &[thing(ObstacleKind::Building, square(middle, half), None, 5.0)]);
        prop_assert_eq!(found.len(), 1);
        let width = found[0].to_m - found[0].from_m;
        let from_start = away - half * std::f64::consts::SQRT_2 <= 0.0;
        prop_assert!(from_start || (width >= 2.0 * half * 0.99 && width <= 2.0 * half * 1.43), "{} {}", width, half);
        prop_assert!(found[0].from_m <= away && found[0].to_m >= away);
        let gone = way(track.at(found[0].from_m), middle).distance_m;
        prop_assert!(from_start || gone <= half * 1.43, "{}", gone);
    }
}
