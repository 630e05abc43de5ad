//! Masts, obstacles and landmarks as they are entered: what cannot be, and what is probably a slip.

use crate::bands::band_place;
use crate::check::{Checker, FieldProblem};
use crate::geo::GeoPoint;
use crate::geo::geodesic::way;
use crate::model::{Landmark, Mast, Obstacle, Technology};
use serde::{Deserialize, Serialize};

/// A slip that can be corrected by one press.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "slip", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum EntryMistake {
    /// At 0° N, 0° E: an empty field read as a number.
    NullIsland,
    /// Latitude and longitude stand in each other's place.
    Swapped { corrected: GeoPoint },
    /// A sign is missing or too many.
    WrongHemisphere { corrected: GeoPoint },
    /// A height that fits feet better.
    Feet { height_m: f64, corrected_m: f64 },
    /// Too far to be heard.
    FarAway { distance_m: f64 },
}

/// Farther than this no cell is heard: the longest cell range of LTE preamble format 3 (TS 36.211 table 5.7.1-1, 100 km).
const REACH_M: f64 = 100_000.0;
/// Nearer than this a corrected place is believed, m.
const BELIEVED_M: f64 = 60_000.0;
/// Masts taller than this are rare, m; in feet most are.
const TALL_M: f64 = 110.0;

/// Slips of a mast's place and height, the house known.
pub fn slips(place: GeoPoint, height_m: Option<f64>, house: Option<GeoPoint>) -> Vec<EntryMistake> {
    let mut found = Vec::new();
    let GeoPoint { latitude_deg, longitude_deg } = place;
    if latitude_deg.abs() < 1e-6 && longitude_deg.abs() < 1e-6 {
        found.push(EntryMistake::NullIsland);
    } else if let Some(house) = house {
        found.extend(misplaced(place, house));
    }
    if let Some(height_m) = height_m.filter(|height_m| *height_m > TALL_M) {
        found.push(EntryMistake::Feet { height_m, corrected_m: height_m * 0.3048 });
    }
    found
}

fn misplaced(place: GeoPoint, house: GeoPoint) -> Option<EntryMistake> {
    let distance_m = if place.check().is_ok() { way(house, place).distance_m } else { f64::INFINITY };
    if distance_m <= REACH_M {
        return None;
    }
    let near = |latitude_deg: f64, longitude_deg: f64| {
        let corrected = GeoPoint { latitude_deg, longitude_deg }.check().ok()?;
        (way(house, corrected).distance_m <= BELIEVED_M).then_some(corrected)
    };
    let GeoPoint { latitude_deg: lat, longitude_deg: lon } = place;
    if let Some(corrected) = near(lon, lat) {
        return Some(EntryMistake::Swapped { corrected });
    }
    let signs = [near(-lat, lon), near(lat, -lon), near(-lat, -lon)];
    if let Some(corrected) = signs.into_iter().flatten().next() {
        return Some(EntryMistake::WrongHemisphere { corrected });
    }
    Some(EntryMistake::FarAway { distance_m })
}

/// Problems of a mast's fields.
pub fn check_mast(mast: &Mast) -> Vec<FieldProblem> {
    let mut checker = Checker::default()
        .name("/name", &mast.name, "Ridge mast")
        .text("/notes", &mast.notes)
        .text("/operator", &mast.operator)
        .place("/place", Some(mast.place))
        .range("/height_m", mast.height_m, 1.0, 350.0, "m above ground");
    if mast.place.latitude_deg == 0.0 && mast.place.longitude_deg == 0.0 {
        checker.refuse("/place", "0, 0 lies in the sea off Africa; it is what an empty field becomes. Enter the mast's own latitude and longitude.");
    }
    if mast.cells.len() > 200 {
        checker.refuse("/cells", "At most 200 cells.");
    }
    for (index, cell) in mast.cells.iter().enumerate() {
        let at = |field: &str| format!("/cells/{index}/{field}");
        let highest = if cell.technology == Technology::Lte { 503.0 } else { 1007.0 };
        checker = checker
            .range(&at("pci"), cell.pci.map(f64::from), 0.0, highest, "for this technology")
            .range(&at("bearing_deg"), cell.bearing_deg, 0.0, 359.999, "degrees from true north")
            .range(&at("bandwidth_mhz"), cell.bandwidth_mhz, 1.4, 100.0, "MHz")
            .range(&at("power_dbm"), cell.power_dbm, 0.0, 60.0, "dBm")
            .range(&at("load"), cell.load, 0.0, 1.0, "of the cell");
        match cell.band_name() {
            Some(name) if band_place(name.technology, name.band).is_none() => {
                checker.refuse(&at("band"), format!("There is no band {} of this technology.", name.band));
            }
            None => {
                checker.refuse(&at("band"), "A band or a channel number is needed, for instance 3 or 1300.")
            }
            Some(_) => {}
        }
    }
    checker.done()
}

/// Problems of an obstacle's fields.
pub fn check_obstacle(obstacle: &Obstacle) -> Vec<FieldProblem> {
    let mut checker = Checker::default()
        .name("/name", &obstacle.name, "Spruce belt")
        .range("/height_m", Some(obstacle.height_m), 0.0, 120.0, "m above ground")
        .range("/width_m", obstacle.width_m, 0.5, 500.0, "m");
    let fewest = if obstacle.width_m.is_some() { 2 } else { 3 };
    if !(fewest..=200).contains(&obstacle.outline.len()) {
        checker.refuse(
            "/outline",
            if fewest == 2 {
                "A line has two points or more, 200 at the most."
            } else {
                "An outline has three corners or more, 200 at the most."
            },
        );
    }
    for (index, point) in obstacle.outline.iter().enumerate() {
        checker = checker.place(&format!("/outline/{index}"), Some(*point));
    }
    checker.done()
}

/// Problems of a landmark's fields.
pub fn check_landmark(landmark: &Landmark) -> Vec<FieldProblem> {
    Checker::default().name("/name", &landmark.name, "Silo").place("/place", Some(landmark.place)).done()
}

/// Nearer than this two masts of one name or none are probably one, m (common practice, no source).
const SAME_MAST_M: f64 = 60.0;

/// Pairs of masts that are probably one: near each other, of operators that are alike or not known. Places in the list.
pub fn probable_duplicates(masts: &[Mast]) -> Vec<(usize, usize)> {
    let mut found = Vec::new();
    for (first, one) in masts.iter().enumerate() {
        for (second, other) in masts.iter().enumerate().skip(first + 1) {
            let alike =
                one.operator == other.operator || one.operator.is_empty() || other.operator.is_empty();
            if alike && way(one.place, other.place).distance_m <= SAME_MAST_M {
                found.push((first, second));
            }
        }
    }
    found
}

/// One mast of two: name, place and what is known of `keep`, filled up from `other`; cells of both, each once.
pub fn merged(mut keep: Mast, other: &Mast) -> Mast {
    for cell in &other.cells {
        if !keep.cells.contains(cell) {
            keep.cells.push(cell.clone());
        }
    }
    keep.height_m = keep.height_m.or(other.height_m);
    if keep.operator.is_empty() {
        keep.operator.clone_from(&other.operator);
    }
    keep
}
