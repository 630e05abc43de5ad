//! Masts out, one row, feature or placemark a cell, with headings that are read back without mapping.

use crate::cells::as_text;
use crate::marks::{Mark, document};
use geojson::{Feature, FeatureCollection, Geometry, GeometryValue, JsonObject};
use kml::types::{Coord, Geometry as KmlGeometry, Point};
use open_beacon_core::model::{Mast, MastCell, Technology};

const HEADINGS: [&str; 15] = [
    "name",
    "operator",
    "latitude",
    "longitude",
    "height_m",
    "technology",
    "band",
    "channel",
    "bandwidth_mhz",
    "pci",
    "node",
    "local_cell",
    "bearing_deg",
    "power_dbm",
    "notes",
];

fn row(mast: &Mast, cell: Option<&MastCell>) -> Vec<String> {
    let text = |value: Option<String>| value.unwrap_or_default();
    let of = |read: fn(&MastCell) -> Option<String>| text(cell.and_then(read));
    vec![
        mast.name.clone(),
        mast.operator.clone(),
        mast.place.latitude_deg.to_string(),
        mast.place.longitude_deg.to_string(),
        text(mast.height_m.map(|value| value.to_string())),
        of(|cell| Some(if cell.technology == Technology::Lte { "LTE" } else { "NR" }.into())),
        of(|cell| cell.band.map(|value| value.to_string())),
        of(|cell| cell.channel.map(|value| value.to_string())),
        of(|cell| cell.bandwidth_mhz.map(|value| value.to_string())),
        of(|cell| cell.pci.map(|value| value.to_string())),
        of(|cell| cell.node.map(|value| value.to_string())),
        of(|cell| cell.local_cell.map(|value| value.to_string())),
        of(|cell| cell.bearing_deg.map(|value| value.to_string())),
        of(|cell| cell.power_dbm.map(|value| value.to_string())),
        mast.notes.clone(),
    ]
}

fn rows(masts: &[Mast]) -> impl Iterator<Item = (&Mast, Vec<String>)> {
    masts.iter().filter(|mast| mast.archived_at.is_none()).flat_map(|mast| {
        let cells: Vec<Option<&MastCell>> =
            if mast.cells.is_empty() { vec![None] } else { mast.cells.iter().map(Some).collect() };
        cells.into_iter().map(move |cell| (mast, row(mast, cell)))
    })
}

const IN_MEMORY: &str = "writing to memory does not fail";

/// Masts as CSV (RFC 4180).
pub fn masts_to_csv(masts: &[Mast]) -> Vec<u8> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(HEADINGS).expect(IN_MEMORY);
    for (_, mut row) in rows(masts) {
        for text in ["name", "operator", "notes"] {
            let at = HEADINGS.iter().position(|heading| *heading == text).unwrap_or_default();
            row[at] = as_text(&row[at]);
        }
        writer.write_record(row).expect(IN_MEMORY);
    }
    writer.into_inner().expect(IN_MEMORY)
}

/// Masts as GeoJSON (RFC 7946).
pub fn masts_to_geojson(masts: &[Mast]) -> Vec<u8> {
    let features = rows(masts).map(|(mast, row)| {
        let properties: JsonObject = HEADINGS
            .iter()
            .zip(row)
            .filter(|(heading, value)| !matches!(**heading, "latitude" | "longitude") && !value.is_empty())
            .map(|(heading, value)| ((*heading).to_owned(), value.into()))
            .collect();
        let coordinates = vec![mast.place.longitude_deg, mast.place.latitude_deg];
        Feature {
            geometry: Some(Geometry::new(GeometryValue::new_point(coordinates))),
            properties: Some(properties),
            ..Feature::default()
        }
    });
    FeatureCollection { bbox: None, features: features.collect(), foreign_members: None }
        .to_string()
        .into_bytes()
}

/// Masts as KML 2.2.
pub fn masts_to_kml(masts: &[Mast]) -> Vec<u8> {
    document(rows(masts).map(|(mast, row)| {
        let told = HEADINGS.iter().zip(row).filter(|(heading, value)| {
            !matches!(**heading, "name" | "latitude" | "longitude") && !value.is_empty()
        });
        let place = Coord::new(mast.place.longitude_deg, mast.place.latitude_deg, None);
        Mark {
            name: mast.name.clone(),
            geometry: KmlGeometry::Point(Point::from(place)),
            told: told.map(|(heading, value)| ((*heading).to_owned(), value)).collect(),
        }
    }))
}
