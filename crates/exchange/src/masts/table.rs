//! A masts file as a table, whatever its kind.

use crate::cells::from_text;
use geojson::{GeoJson, GeometryValue};
use kml::{Kml, KmlReader};
use open_beacon_core::limits::{check_markup, composed};
use std::collections::BTreeMap;
use std::io::Cursor;

/// Headings and rows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MastTable {
    /// "CSV", "GeoJSON" or "KML".
    pub kind: String,
    pub headings: Vec<String>,
    pub rows: Vec<Vec<String>>,
}

/// Most rows taken.
const MOST_ROWS: usize = 50_000;

/// Most values of a GeoJSON file: twenty a row.
const MOST_VALUES: usize = 20 * MOST_ROWS;

/// Reads a file, its kind told by its content.
///
/// # Errors
/// What is wrong, in words, with what would work.
pub fn read_mast_table(file_name: &str, bytes: &[u8]) -> Result<MastTable, String> {
    if bytes.starts_with(b"PK") {
        return Err("This is a zip (or KMZ). Unpack it and give the file inside.".into());
    }
    let text = std::str::from_utf8(bytes)
        .map(|text| composed(text.trim_start_matches('\u{feff}')).into_owned())
        // Older registers are written in Latin-1.
        .unwrap_or_else(|_| bytes.iter().map(|byte| char::from(*byte)).collect());
    let table = match text.trim_start().chars().next() {
        Some('{') => geojson(&text)?,
        Some('<') => kml(&text)?,
        Some(_) => csv(&text)?,
        None => return Err(format!("{file_name} is empty.")),
    };
    if table.rows.is_empty() {
        return Err(format!("{file_name} has no rows below its heading."));
    }
    if table.rows.len() > MOST_ROWS {
        return Err(format!(
            "{file_name} has more than the {MOST_ROWS} rows that are taken. Cut out the part round your house."
        ));
    }
    Ok(table)
}

fn csv(text: &str) -> Result<MastTable, String> {
    let first = text.lines().next().unwrap_or_default();
    let count = |mark: char| first.matches(mark).count();
    let part = [';', '\t', ','].into_iter().max_by_key(|mark| count(*mark)).unwrap_or(',');
    if count(part) == 0 {
        return Err("The first line has one column only; a table has its headings parted by commas, semicolons or tabs.".into());
    }
    let mut reader =
        csv::ReaderBuilder::new().delimiter(part as u8).flexible(true).from_reader(text.as_bytes());
    let words = |record: &csv::StringRecord| {
        record.iter().map(|cell| from_text(cell.trim()).to_owned()).collect::<Vec<_>>()
    };
    let headings = words(reader.headers().map_err(|error| error.to_string())?);
    let rows = reader
        .records()
        // One more than allowed tells a file that fits from one that does not.
        .take(MOST_ROWS + 1)
        .map(|record| record.map(|record| words(&record)).map_err(|error| error.to_string()))
        .collect::<Result<Vec<_>, _>>()?;
    Ok(MastTable { kind: "CSV".into(), headings, rows })
}

/// Rows of names to values, as a table of all names.
fn tabled(kind: &str, rows: Vec<BTreeMap<String, String>>) -> MastTable {
    let mut headings: Vec<String> = Vec::new();
    for name in rows.iter().flat_map(BTreeMap::keys) {
        if !headings.contains(name) {
            headings.push(name.clone());
        }
    }
    let rows = rows
        .into_iter()
        .map(|row| headings.iter().map(|name| row.get(name).cloned().unwrap_or_default()).collect())
        .collect();
    MastTable { kind: kind.into(), headings, rows }
}

fn geojson(text: &str) -> Result<MastTable, String> {
    let values = text.bytes().filter(|byte| matches!(byte, b',' | b'[' | b'{')).count();
    if values > MOST_VALUES {
        return Err(format!(
            "This GeoJSON holds more than {MOST_VALUES} values. Cut out the part round your house."
        ));
    }
    let parsed: GeoJson = text.parse().map_err(|error| format!("This is no GeoJSON: {error}."))?;
    let features = match parsed {
        GeoJson::FeatureCollection(all) => all.features,
        GeoJson::Feature(one) => vec![one],
        GeoJson::Geometry(_) => {
            return Err("This GeoJSON is a bare shape; masts are features with properties.".into());
        }
    };
    let mut rows = Vec::new();
    for feature in features {
        let Some(GeometryValue::Point { coordinates }) = feature.geometry.map(|shape| shape.value) else {
            continue;
        };
        let [longitude, latitude, ..] = coordinates.as_slice() else { continue };
        let mut row: BTreeMap<String, String> = feature
            .properties
            .unwrap_or_default()
            .into_iter()
            .filter(|(_, value)| !value.is_null())
            .map(|(name, value)| (name, value.as_str().map_or_else(|| value.to_string(), str::to_owned)))
            .collect();
        row.insert("latitude".into(), latitude.to_string());
        row.insert("longitude".into(), longitude.to_string());
        rows.push(row);
    }
    if rows.is_empty() {
        return Err("This GeoJSON has no points; a mast is a point.".into());
    }
    Ok(tabled("GeoJSON", rows))
}

fn kml(text: &str) -> Result<MastTable, String> {
    check_markup(text, false).map_err(|limit| format!("This KML is not read: {limit}."))?;
    // The reader below waits for ends that a damaged file never has: whether every element ends is known first.
    roxmltree::Document::parse(text.trim_start())
        .map_err(|error| format!("This KML is damaged: {error}."))?;
    let mut reader = KmlReader::<_, f64>::from_reader(Cursor::new(text.as_bytes()));
    let parsed = reader.read().map_err(|error| format!("This is no KML: {error}."))?;
    let mut rows = Vec::new();
    placemarks(&parsed, &mut rows);
    if rows.is_empty() {
        return Err("This KML has no placemarks with a point; a mast is a point.".into());
    }
    Ok(tabled("KML", rows))
}

fn placemarks(kml: &Kml, rows: &mut Vec<BTreeMap<String, String>>) {
    match kml {
        Kml::KmlDocument(document) => document.elements.iter().for_each(|one| placemarks(one, rows)),
        Kml::Document { elements, .. } => elements.iter().for_each(|one| placemarks(one, rows)),
        Kml::Folder(folder) => folder.elements.iter().for_each(|one| placemarks(one, rows)),
        Kml::Placemark(mark) => {
            let Some(kml::types::Geometry::Point(point)) = &mark.geometry else { return };
            let mut row = BTreeMap::new();
            row.insert("latitude".to_owned(), point.coord.y.to_string());
            row.insert("longitude".to_owned(), point.coord.x.to_string());
            if let Some(name) = &mark.name {
                row.insert("name".to_owned(), name.clone());
            }
            if let Some(notes) = &mark.description {
                row.insert("notes".to_owned(), notes.clone());
            }
            for child in &mark.children {
                data(child, &mut row);
            }
            rows.push(row);
        }
        _ => {}
    }
}

/// `ExtendedData` with `Data name="…"` and `SimpleData name="…"`.
fn data(element: &kml::types::Element, row: &mut BTreeMap<String, String>) {
    if let Some(name) =
        element.attrs.get("name").filter(|_| matches!(element.name.as_str(), "Data" | "SimpleData"))
    {
        let value = element
            .content
            .clone()
            .filter(|text| !text.trim().is_empty())
            .or_else(|| element.children.iter().find(|child| child.name == "value")?.content.clone());
        if let Some(value) = value {
            row.insert(name.clone(), value.trim().to_owned());
        }
    }
    element.children.iter().for_each(|child| data(child, row));
}
