//! A site as a map, read by parsers that did not write it.

use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::way;
use open_beacon_core::model::*;
use open_beacon_exchange::{site_to_geojson, site_to_kml};
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use serde_json::Value;

fn bundle() -> SiteBundle {
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    demo_site(7, &Addresses { status_url: at("a"), speed_url: at("b"), control_url: at("c") })
}

fn features(bundle: &SiteBundle) -> Vec<Value> {
    let told: Value = serde_json::from_slice(&site_to_geojson(bundle)).unwrap();
    assert_eq!(told["type"], "FeatureCollection");
    told["features"].as_array().unwrap().clone()
}

fn of_kind<'a>(features: &'a [Value], kind: &str) -> Vec<&'a Value> {
    features.iter().filter(|one| one["properties"]["kind"] == kind).collect()
}

/// Longitude comes first (RFC 7946, 3.1.1).
fn point(pair: &Value) -> GeoPoint {
    GeoPoint { longitude_deg: pair[0].as_f64().unwrap(), latitude_deg: pair[1].as_f64().unwrap() }
}

#[test]
fn everything_in_use_is_on_the_map() {
    let mut bundle = bundle();
    let features = features(&bundle);
    let count = |kind: &str| of_kind(&features, kind).len();
    assert_eq!(count("house"), 1);
    assert_eq!(count("position"), bundle.positions.len());
    assert_eq!(count("setup"), bundle.setups.len());
    assert_eq!(count("mast"), bundle.masts.len());
    assert_eq!((count("landmark"), count("obstacle")), (bundle.landmarks.len(), bundle.obstacles.len()));
    let gone = bundle.positions[0].id;
    bundle.positions[0].archived_at = Some(bundle.site.created_at);
    let own = bundle.setups.iter().filter(|setup| setup.position_id == gone).count();
    assert_eq!(self::features(&bundle).len(), features.len() - 1 - own);
}

/// A setup's line leads its way, and its figures are those of its pages: of one sitting the geometric mean of its tests.
#[test]
fn setups_point_their_way_with_their_figures() {
    let bundle = bundle();
    let all = features(&bundle);
    let mut pointing = 0;
    for setup in of_kind(&all, "setup") {
        let Some(azimuth) = setup["properties"]["azimuth_deg"].as_f64() else { continue };
        let line = &setup["geometry"]["coordinates"];
        let found = way(point(&line[0]), point(&line[1]));
        let off = (found.bearing_deg - azimuth + 540.0).rem_euclid(360.0) - 180.0;
        assert!(off.abs() < 0.01 && (found.distance_m - 1000.0).abs() < 0.1, "{setup}");
        pointing += 1;
    }
    assert!(pointing > 5);
    let landing = bundle.positions.iter().find(|place| place.name == "Upstairs landing").unwrap();
    let setup = bundle.setups.iter().find(|setup| setup.position_id == landing.id).unwrap();
    let runs: Vec<RunId> =
        bundle.runs.iter().filter(|run| run.setup_id == setup.id).map(|run| run.id).collect();
    let rates: Vec<f64> = bundle
        .speed_tests
        .iter()
        .filter(|test| runs.contains(&test.run_id))
        .filter_map(|test| test.figures.download_mbps)
        .collect();
    let mean = (rates.iter().map(|rate| rate.ln()).sum::<f64>() / rates.len() as f64).exp();
    let drawn = of_kind(&all, "setup")
        .into_iter()
        .find(|one| one["properties"]["name"] == "Upstairs landing")
        .unwrap();
    assert_eq!(drawn["properties"]["tests"], rates.len());
    assert!((drawn["properties"]["download_mbps"].as_f64().unwrap() - mean).abs() < 0.06, "{drawn} {mean}");
}

/// Outlines are closed, and against the clock however they were drawn (RFC 7946, 3.1.6).
#[test]
fn outlines_are_closed_rings_against_the_clock() {
    let mut bundle = bundle();
    let corner = |north: f64, east: f64| GeoPoint { latitude_deg: 61.0 + north, longitude_deg: 8.0 + east };
    let clockwise = vec![corner(0.0, 0.0), corner(0.001, 0.0), corner(0.001, 0.002), corner(0.0, 0.002)];
    let against = clockwise.iter().rev().copied().collect();
    bundle.obstacles = [clockwise, against]
        .into_iter()
        .enumerate()
        .map(|(n, outline)| Obstacle {
            id: ObstacleId(uuid::Uuid::from_u128(n as u128)),
            site_id: bundle.site.id,
            name: format!("Barn {n}"),
            kind: ObstacleKind::Building,
            outline,
            width_m: None,
            height_m: 7.0,
            archived_at: None,
        })
        .collect();
    for one in of_kind(&features(&bundle), "obstacle") {
        let ring: Vec<GeoPoint> =
            one["geometry"]["coordinates"][0].as_array().unwrap().iter().map(point).collect();
        assert_eq!((ring.len(), ring[0]), (5, ring[4]));
        // Twice the area by the shoelace formula, positive against the clock.
        let area: f64 = ring
            .windows(2)
            .map(|two| {
                two[0].longitude_deg * two[1].latitude_deg - two[1].longitude_deg * two[0].latitude_deg
            })
            .sum();
        assert!(area > 0.0, "{one}");
    }
}

#[test]
fn the_kml_holds_the_same_and_what_is_awkward_in_it() {
    let mut bundle = bundle();
    bundle.positions[0].name = "Shed <\"A\" & 'B'> — ætt".into();
    let kml = String::from_utf8(site_to_kml(&bundle)).unwrap();
    let read = roxmltree::Document::parse(&kml).unwrap();
    assert_eq!(read.root_element().tag_name().namespace(), Some("http://www.opengis.net/kml/2.2"));
    let marks: Vec<_> = read
        .descendants()
        .filter(|node| node.has_tag_name("Placemark") || node.tag_name().name() == "Placemark")
        .collect();
    let features = features(&bundle);
    assert_eq!(marks.len(), features.len());
    for (mark, feature) in marks.iter().zip(&features) {
        let text = |name: &str| {
            let found = mark.descendants().find(|node| node.tag_name().name() == name);
            found.and_then(|node| node.text()).unwrap_or_default().trim().to_owned()
        };
        assert_eq!(text("name"), feature["properties"]["name"].as_str().unwrap());
        let first = text("coordinates");
        let first: Vec<f64> =
            first.split_whitespace().next().unwrap().split(',').map(|part| part.parse().unwrap()).collect();
        assert!(
            (5.0..12.0).contains(&first[0]) && (55.0..65.0).contains(&first[1]),
            "{first:?} of {feature}"
        );
    }
}
