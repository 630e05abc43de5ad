//! Placemarks with what is told of them, as a KML 2.2 document (OGC 12-007r2).

use kml::types::{Element, Geometry, Placemark};
use kml::{Kml, KmlDocument, KmlVersion, KmlWriter};
use std::collections::HashMap;

/// A placemark: its name, where it is, and names with values.
pub(crate) struct Mark {
    pub(crate) name: String,
    pub(crate) geometry: Geometry,
    pub(crate) told: Vec<(String, String)>,
}

fn element(name: &str) -> Element {
    Element { name: name.into(), ..Element::default() }
}

/// A whole document.
pub(crate) fn document(marks: impl Iterator<Item = Mark>) -> Vec<u8> {
    let marks = marks.map(|mark| {
        let data = mark.told.into_iter().map(|(name, value)| Element {
            attrs: HashMap::from([("name".to_owned(), name)]),
            children: vec![Element { content: Some(value), ..element("value") }],
            ..element("Data")
        });
        Kml::Placemark(Placemark {
            name: Some(mark.name),
            geometry: Some(mark.geometry),
            children: vec![Element { children: data.collect(), ..element("ExtendedData") }],
            ..Placemark::default()
        })
    });
    let document = Kml::Document { attrs: HashMap::new(), elements: marks.collect() };
    let whole = Kml::KmlDocument(KmlDocument {
        version: KmlVersion::V22,
        attrs: HashMap::from([("xmlns".to_owned(), "http://www.opengis.net/kml/2.2".to_owned())]),
        elements: vec![document],
    });
    let mut out = Vec::new();
    KmlWriter::from_writer(&mut out).write(&whole).expect("writing to memory does not fail");
    out
}
