//! Points of files that receivers and maps write.

use open_beacon_core::geo::GeoPoint;
use open_beacon_exchange::points::{MOST_POINTS, read_points};
use proptest::prelude::*;

fn near(place: GeoPoint, latitude_deg: f64, longitude_deg: f64) -> bool {
    (place.latitude_deg - latitude_deg).abs() < 1e-9 && (place.longitude_deg - longitude_deg).abs() < 1e-9
}

/// By the schema of GPX 1.1 (topografix, gpx.xsd): `lat` and `lon` are attributes, `name`, `cmt` and `desc` children.
#[test]
fn waypoints_are_points_and_a_track_is_none() {
    let text = r#"<?xml version="1.0"?>
        <gpx version="1.1" creator="any" xmlns="http://www.topografix.com/GPX/1/1">
          <wpt lat="61.4001" lon="8.2001"><ele>412.3</ele><name>Gable &amp; bracket</name><desc>old dish</desc><cmt>6 m up</cmt></wpt>
          <rte><rtept lat="61.4002" lon="8.2"><name>Barn</name></rtept></rte>
          <trk><trkseg><trkpt lat="61.5" lon="8.3"/><trkpt lat="61.6" lon="8.4"/></trkseg></trk>
          <wpt lat="95" lon="8.2"><name>nowhere</name></wpt>
          <wpt lat="61.4" lon="8.2"/>
        </gpx>"#;
    let points = read_points("house.gpx", text).unwrap();
    let names: Vec<&str> = points.iter().map(|point| point.name.as_str()).collect();
    assert_eq!(names, ["Gable & bracket", "Barn", ""]);
    assert!(near(points[0].place, 61.4001, 8.2001), "{:?}", points[0]);
    assert_eq!(points[0].notes, "old dish; 6 m up");
}

#[test]
fn placemarks_features_and_rows_are_points() {
    let kml = "<kml><Document><Placemark><name>Barn</name><description>pole</description><Point><coordinates>8.2,61.4,0</coordinates></Point></Placemark></Document></kml>";
    let json = r#"{"type":"Feature","properties":{"name":"Barn","notes":"pole"},"geometry":{"type":"Point","coordinates":[8.2,61.4]}}"#;
    let csv = "name;latitude;longitude;notes\nBarn;61.4;8.2;pole\n";
    for (name, text) in [("a.kml", kml), ("a.geojson", json), ("a.csv", csv)] {
        let points = read_points(name, text).unwrap();
        assert_eq!(
            (points.len(), points[0].name.as_str(), points[0].notes.as_str()),
            (1, "Barn", "pole"),
            "{name}"
        );
        assert!(near(points[0].place, 61.4, 8.2), "{name}: {:?}", points[0]);
    }
}

#[test]
fn what_has_no_points_says_what_would() {
    let many: String = (0..=MOST_POINTS).map(|_| "<wpt lat=\"61\" lon=\"8\"/>").collect();
    for (text, says) in [
        ("<gpx></gpx>".to_owned(), "no points"),
        ("<gpx><wpt lat=\"61\"></gpx>".to_owned(), "damaged"),
        (format!("<gpx>{many}</gpx>"), "more than 500"),
        ("name,height\nBarn,6\n".to_owned(), "latitude and longitude"),
        (String::new(), "empty"),
    ] {
        let reason = read_points("house.gpx", &text).unwrap_err();
        assert!(reason.contains(says), "{reason}");
    }
}

proptest! {
    /// Whatever a file holds, a point that is read lies on earth.
    #[test]
    fn points_lie_on_earth(text in "(<gpx>|</gpx>|<wpt lat=\"|\" lon=\"|\"/>|[0-9.-]{1,8}|<name>|</name>|[a-z ]{1,5}|,|;|\n){0,40}") {
        for point in read_points("any", &text).unwrap_or_default() {
            prop_assert!(point.place.check().is_ok());
        }
    }
}
