//! A site as a map for other programs: where the antenna could stand and what was measured there, which way each setup points, masts,
//! landmarks, and what stands in the way. GeoJSON (RFC 7946) and KML 2.2 (OGC 12-007r2); archived things are left out.

use crate::marks::{Mark, document};
use geojson::{Feature, FeatureCollection, Geometry, GeometryValue, JsonObject};
use kml::types::{Coord, Geometry as KmlGeometry, LineString, LinearRing, Point, Polygon};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::point_along;
use open_beacon_core::judge::{SetupEvidence, figure_row};
use open_beacon_core::model::{Position, Run, RunContext, RunId, Setup, SetupId, SiteBundle, SpeedFigure};
use open_beacon_core::words::setup_label;
use serde_json::Value;
use std::collections::{BTreeMap, HashSet};

/// A line that says which way a setup points is so long, m.
const POINTER_M: f64 = 1000.0;

/// What is drawn of a thing.
#[derive(Clone, Debug)]
enum Shape {
    Point(GeoPoint),
    Line(Vec<GeoPoint>),
    /// Corners, the first not repeated.
    Area(Vec<GeoPoint>),
}

/// A thing on the map.
#[derive(Clone, Debug)]
struct Thing {
    kind: &'static str,
    name: String,
    shape: Shape,
    more: BTreeMap<&'static str, Value>,
}

fn thing<const N: usize>(
    kind: &'static str,
    name: &str,
    shape: Shape,
    more: [(&'static str, Value); N],
) -> Thing {
    let told = more.into_iter().filter(|(_, value)| !value.is_null() && value != "");
    Thing { kind, name: name.to_owned(), shape, more: told.collect() }
}

fn things(bundle: &SiteBundle) -> Vec<Thing> {
    let mut all = Vec::new();
    let house = bundle.site.place;
    all.extend(house.map(|place| thing("house", &bundle.site.name, Shape::Point(place), [])));
    for place in bundle.positions.iter().filter(|place| place.archived_at.is_none()) {
        let Some(at) = place.place.or(house) else { continue };
        all.push(thing(
            "position",
            &place.name,
            Shape::Point(at),
            [
                ("height_above_ground_m", place.height_above_ground_m.into()),
                ("notes", place.notes.clone().into()),
            ],
        ));
        let here = bundle.setups.iter().filter(|setup| setup.position_id == place.id);
        all.extend(
            here.filter(|setup| setup.archived_at.is_none()).map(|setup| of_setup(bundle, place, setup, at)),
        );
    }
    for mast in bundle.masts.iter().filter(|mast| mast.archived_at.is_none()) {
        let bands: HashSet<String> = mast
            .cells
            .iter()
            .filter_map(|cell| cell.band_name())
            .map(|band| open_beacon_core::bands::band_name(band.technology, band.band))
            .collect();
        let mut bands: Vec<String> = bands.into_iter().collect();
        bands.sort();
        all.push(thing(
            "mast",
            &mast.name,
            Shape::Point(mast.place),
            [
                ("operator", mast.operator.clone().into()),
                ("height_m", mast.height_m.into()),
                ("bands", bands.join(" ").into()),
                ("notes", mast.notes.clone().into()),
            ],
        ));
    }
    for mark in bundle.landmarks.iter().filter(|mark| mark.archived_at.is_none()) {
        all.push(thing("landmark", &mark.name, Shape::Point(mark.place), []));
    }
    for one in bundle.obstacles.iter().filter(|one| one.archived_at.is_none()) {
        let (shape, height) = (one.outline.clone(), one.height_m.into());
        let shape = if one.width_m.is_some() { Shape::Line(shape) } else { Shape::Area(shape) };
        all.push(thing(
            "obstacle",
            &one.name,
            shape,
            [("height_m", height), ("width_m", one.width_m.into())],
        ));
    }
    all
}

/// A setup: a line the way it points, with the figures that every page shows of it.
fn of_setup(bundle: &SiteBundle, place: &Position, setup: &Setup, at: GeoPoint) -> Thing {
    let evidence = evidence(bundle, setup.id);
    let mean = |figure| -> Value { figure_row(&evidence, figure).geometric_mean.map(tenth).into() };
    let shape = setup
        .spec
        .azimuth_deg
        .map_or(Shape::Point(at), |azimuth| Shape::Line(vec![at, point_along(at, azimuth, POINTER_M)]));
    thing(
        "setup",
        &setup_label(place, &setup.spec),
        shape,
        [
            ("azimuth_deg", setup.spec.azimuth_deg.into()),
            ("tilt_deg", setup.spec.tilt_deg.into()),
            ("tests", figure_row(&evidence, SpeedFigure::Download).values.len().into()),
            ("download_mbps", mean(SpeedFigure::Download)),
            ("upload_mbps", mean(SpeedFigure::Upload)),
            ("idle_latency_ms", mean(SpeedFigure::IdleLatency)),
        ],
    )
}

fn tenth(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

/// Tests of a setup as its pages count them: of runs in use, on the network in use.
pub(crate) fn evidence(bundle: &SiteBundle, setup_id: SetupId) -> SetupEvidence {
    let runs: Vec<Run> = bundle
        .runs
        .iter()
        .filter(|run| {
            run.setup_id == setup_id
                && run.archived_at.is_none()
                && !matches!(run.context, RunContext::SweepPoint { .. })
        })
        .cloned()
        .collect();
    let own: HashSet<RunId> = runs.iter().map(|run| run.id).collect();
    let tests = bundle.speed_tests.iter().filter(|test| own.contains(&test.run_id)).cloned().collect();
    let all = SetupEvidence { setup_id, label: String::new(), runs, radio: Vec::new(), tests };
    all.of_network(&bundle.settings.network)
}

/// The map as GeoJSON. `kind` says what a feature is: house, position, setup, mast, landmark or obstacle.
pub fn site_to_geojson(bundle: &SiteBundle) -> Vec<u8> {
    let pair = |place: &GeoPoint| vec![place.longitude_deg, place.latitude_deg];
    let features = things(bundle).into_iter().map(|thing| {
        let geometry = match &thing.shape {
            Shape::Point(place) => GeometryValue::new_point(pair(place)),
            Shape::Line(places) => GeometryValue::new_line_string(places.iter().map(pair)),
            Shape::Area(places) => GeometryValue::new_polygon([ring(places).iter().map(pair)]),
        };
        let own = [("kind", thing.kind.into()), ("name", thing.name.into())];
        let properties: JsonObject =
            own.into_iter().chain(thing.more).map(|(name, value)| (name.to_owned(), value)).collect();
        Feature {
            geometry: Some(Geometry::new(geometry)),
            properties: Some(properties),
            ..Feature::default()
        }
    });
    FeatureCollection { bbox: None, features: features.collect(), foreign_members: None }
        .to_string()
        .into_bytes()
}

/// A closed ring against the clock (RFC 7946, 3.1.6).
fn ring(places: &[GeoPoint]) -> Vec<GeoPoint> {
    let mut ring = places.to_vec();
    ring.extend(places.first().copied());
    let turn: f64 = ring
        .windows(2)
        .map(|two| {
            (two[1].longitude_deg - two[0].longitude_deg) * (two[1].latitude_deg + two[0].latitude_deg)
        })
        .sum();
    if turn > 0.0 {
        ring.reverse();
    }
    ring
}

/// The map as KML.
pub fn site_to_kml(bundle: &SiteBundle) -> Vec<u8> {
    let coord = |place: &GeoPoint| Coord::new(place.longitude_deg, place.latitude_deg, None);
    document(things(bundle).into_iter().map(|thing| {
        let geometry = match &thing.shape {
            Shape::Point(place) => KmlGeometry::Point(Point::from(coord(place))),
            Shape::Line(places) => {
                KmlGeometry::LineString(LineString::from(places.iter().map(coord).collect::<Vec<_>>()))
            }
            Shape::Area(places) => {
                let outer = LinearRing::from(ring(places).iter().map(coord).collect::<Vec<_>>());
                KmlGeometry::Polygon(Polygon::new(outer, Vec::new()))
            }
        };
        let more = thing.more.into_iter().chain([("kind", thing.kind.into())]);
        let told = more.map(|(name, value)| {
            let text = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
            (name.to_owned(), text)
        });
        Mark { geometry, told: told.collect(), name: thing.name }
    }))
}
