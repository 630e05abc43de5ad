//! A masts file as a table, whatever its kind.

use crate::cells::from_text;
use geojson::{GeoJson, GeometryValue};
use open_beacon_core::limits::{MOST_MAST_ROWS, MOST_MAST_VALUES, check_markup, composed};
use roxmltree::Node;
use std::collections::BTreeMap;

/// Headings and rows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MastTable {
    /// "CSV", "GeoJSON" or "KML".
    pub kind: String,
    pub headings: Vec<String>,
    pub rows: Vec<Vec<String>>,
}

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
    if table.rows.len() > MOST_MAST_ROWS {
        return Err(format!(
            "{file_name} has more than the {MOST_MAST_ROWS} rows that are taken. Cut out the part round your house."
        ));
    }
    Ok(table)
}

/// A table parted by commas, semicolons or tabs, whichever its first line has most of.
pub(crate) fn csv(text: &str) -> Result<MastTable, String> {
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
        .take(MOST_MAST_ROWS + 1)
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
    if values > MOST_MAST_VALUES {
        return Err(format!(
            "This GeoJSON holds more than {MOST_MAST_VALUES} values. Cut out the part round your house."
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

/// KML 2.2 (OGC 07-147r2): each placemark with a point, its name, description and extended data.
fn kml(text: &str) -> Result<MastTable, String> {
    check_markup(text, false).map_err(|limit| format!("This KML is not read: {limit}."))?;
    let parsed = roxmltree::Document::parse(text.trim_start())
        .map_err(|error| format!("This KML is damaged: {error}."))?;
    let marks = parsed.descendants().filter(|node| node.tag_name().name() == "Placemark");
    let rows: Vec<BTreeMap<String, String>> = marks.filter_map(placemark).collect();
    if rows.is_empty() {
        return Err("This KML has no placemarks with a point; a mast is a point.".into());
    }
    Ok(tabled("KML", rows))
}

fn placemark<'a>(mark: Node<'a, 'a>) -> Option<BTreeMap<String, String>> {
    let point = child(mark, "Point")?;
    // "longitude,latitude[,altitude]"; of several the first.
    let first = child(point, "coordinates")?.text()?.split_whitespace().next()?.to_owned();
    let mut numbers = first.split(',').map_while(|number| number.trim().parse::<f64>().ok());
    let (longitude, latitude) = (numbers.next()?, numbers.next()?);
    let mut row = BTreeMap::new();
    row.insert("latitude".to_owned(), latitude.to_string());
    row.insert("longitude".to_owned(), longitude.to_string());
    for (column, element) in [("name", "name"), ("notes", "description")] {
        if let Some(text) = child(mark, element).and_then(|node| node.text()) {
            row.insert(column.to_owned(), text.to_owned());
        }
    }
    // `ExtendedData` with `Data name="…"` and `SimpleData name="…"`.
    for data in mark.descendants().filter(|node| matches!(node.tag_name().name(), "Data" | "SimpleData")) {
        let own = data.text().filter(|text| !text.trim().is_empty());
        let value = own.or_else(|| child(data, "value")?.text());
        if let (Some(name), Some(value)) = (data.attribute("name"), value) {
            row.insert(name.to_owned(), value.trim().to_owned());
        }
    }
    Some(row)
}

fn child<'a>(of: Node<'a, 'a>, name: &str) -> Option<Node<'a, 'a>> {
    of.children().find(|node| node.tag_name().name() == name)
}
