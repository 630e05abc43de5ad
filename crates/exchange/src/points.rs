//! Points that somebody took with a receiver or set on a map: GPX 1.1 waypoints, KML placemarks, GeoJSON points, or a table.

use crate::masts::{guess_columns, read_mast_table};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::read_degrees;
use open_beacon_core::limits::{check_markup, composed};
use open_beacon_core::model::MastField;
use roxmltree::Node;
use serde::{Deserialize, Serialize};

/// Most points of a file: positions of one house.
pub const MOST_POINTS: usize = 500;

/// A point of a file.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FoundPoint {
    pub name: String,
    pub place: GeoPoint,
    pub notes: String,
}

/// Reads the points of a file, its kind told by its content.
///
/// # Errors
/// What is wrong, in words, with what would work.
pub fn read_points(file_name: &str, text: &str) -> Result<Vec<FoundPoint>, String> {
    let text = composed(text.trim_start_matches('\u{feff}')).into_owned();
    let is_gpx = text.trim_start().starts_with('<') && text.contains("<gpx");
    let points = if is_gpx { waypoints(&text)? } else { of_table(file_name, &text)? };
    if points.is_empty() {
        return Err(format!(
            "{file_name} has no points with a place. A position is a waypoint or a placemark."
        ));
    }
    if points.len() > MOST_POINTS {
        return Err(format!(
            "{file_name} has more than {MOST_POINTS} points. Export those at your house only."
        ));
    }
    Ok(points)
}

/// GPX 1.1: `wpt` and `rtept`. A track is a way somebody went, and none of its points a place.
fn waypoints(text: &str) -> Result<Vec<FoundPoint>, String> {
    check_markup(text, false).map_err(|limit| format!("This GPX is not read: {limit}."))?;
    let parsed = roxmltree::Document::parse(text.trim_start())
        .map_err(|error| format!("This GPX is damaged: {error}."))?;
    let is_point = |node: &Node<'_, '_>| matches!(node.tag_name().name(), "wpt" | "rtept");
    Ok(parsed.descendants().filter(is_point).filter_map(waypoint).collect())
}

fn waypoint(node: Node<'_, '_>) -> Option<FoundPoint> {
    let degrees = |name: &str| node.attribute(name)?.trim().parse::<f64>().ok();
    let place = GeoPoint { latitude_deg: degrees("lat")?, longitude_deg: degrees("lon")? };
    place.check().ok()?;
    let text = |name: &str| {
        let child = node.children().find(|child| child.tag_name().name() == name);
        child
            .and_then(|child| child.text())
            .map(|text| text.trim().to_owned())
            .filter(|text| !text.is_empty())
    };
    let notes: Vec<String> = ["desc", "cmt"].into_iter().filter_map(text).collect();
    Some(FoundPoint { name: text("name").unwrap_or_default(), place, notes: notes.join("; ") })
}

fn of_table(file_name: &str, text: &str) -> Result<Vec<FoundPoint>, String> {
    let table = read_mast_table(file_name, text.as_bytes())?;
    let columns = guess_columns(&table.headings, &[]);
    let at = |field: MastField| columns.iter().position(|column| column.field == field);
    let (Some(latitude), Some(longitude)) = (at(MastField::Latitude), at(MastField::Longitude)) else {
        return Err(format!("{file_name} has no columns for latitude and longitude."));
    };
    let (name, notes) = (at(MastField::Name), at(MastField::Notes));
    let point = |row: &Vec<String>| {
        let cell = |at: Option<usize>| at.and_then(|at| row.get(at)).cloned().unwrap_or_default();
        let degrees = |at: usize| read_degrees(row.get(at)?).ok();
        let place = GeoPoint { latitude_deg: degrees(latitude)?, longitude_deg: degrees(longitude)? };
        place.check().ok()?;
        Some(FoundPoint { name: cell(name), place, notes: cell(notes) })
    };
    Ok(table.rows.iter().filter_map(point).collect())
}
