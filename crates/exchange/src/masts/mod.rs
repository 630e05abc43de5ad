//! Masts in and out: CSV with any columns, GeoJSON, KML. Every file becomes a table; its columns are mapped, the mapping
//! shown and remembered; rows with the same name and place are cells of one mast.

mod cells;
mod columns;
mod table;
mod write;

pub use columns::guess_columns;
pub(crate) use columns::guess_fields;
pub(crate) use table::csv;
pub use table::{MastTable, read_mast_table};
pub use write::{masts_to_csv, masts_to_geojson, masts_to_kml};

use crate::RowProblem;
use cells::{RowCells, cells_of};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::read_degrees;
use open_beacon_core::model::{Mast, MastCell, MastColumn, MastField, MastId, SiteId};
use uuid::Uuid;

/// Masts that were read, with the rows that could not be.
#[derive(Clone, Debug, Default)]
pub struct ReadMasts {
    pub masts: Vec<Mast>,
    pub problems: Vec<RowProblem>,
    /// Rows of technologies before LTE, left out.
    pub older: usize,
}

/// Reads the masts of a table by its mapped columns. Identifiers follow from site, name and place, so that the same
/// file read twice brings nothing new.
pub fn masts_of(table: &MastTable, columns: &[MastColumn], site: SiteId) -> ReadMasts {
    let mut found = ReadMasts::default();
    for (index, cells) in table.rows.iter().enumerate() {
        let row = Row { headings: &table.headings, cells, columns };
        // The first row stands below the heading.
        let line = index as u64 + 2;
        match one(&row, site) {
            Ok(Some((mast, of_row))) => {
                add(&mut found.masts, mast, of_row.cells);
                if let Some(reason) = of_row.left_out {
                    found.problems.push(RowProblem::new(&table.kind, Some(line), reason));
                }
            }
            Ok(None) => found.older += 1,
            Err(reason) => found.problems.push(RowProblem::new(&table.kind, Some(line), reason)),
        }
    }
    found
}

fn add(masts: &mut Vec<Mast>, mast: Mast, cells: Vec<MastCell>) {
    let at = masts.iter().position(|one| one.id == mast.id).unwrap_or_else(|| {
        masts.push(mast);
        masts.len() - 1
    });
    for cell in cells {
        if !masts[at].cells.contains(&cell) {
            masts[at].cells.push(cell);
        }
    }
}

struct Row<'a> {
    headings: &'a [String],
    cells: &'a [String],
    columns: &'a [MastColumn],
}

impl Row<'_> {
    fn text(&self, field: MastField) -> Option<&str> {
        let column = self.columns.iter().find(|column| column.field == field)?;
        let at = self.headings.iter().position(|heading| *heading == column.heading)?;
        self.cells.get(at).map(|cell| cell.trim()).filter(|cell| !cell.is_empty())
    }

    fn number(&self, field: MastField, what: &str) -> Result<Option<f64>, String> {
        let Some(text) = self.text(field) else { return Ok(None) };
        let plain = text.replace('−', "-").replace(',', ".");
        let end = plain
            .find(|letter: char| !(letter.is_ascii_digit() || matches!(letter, '.' | '-' | '+')))
            .unwrap_or(plain.len());
        plain[..end].parse().map(Some).map_err(|_| format!("{what} “{text}” is no number"))
    }

    fn whole(&self, field: MastField, what: &str, most: f64) -> Result<Option<u64>, String> {
        match self.number(field, what)? {
            Some(value) if value.fract() == 0.0 && (0.0..=most).contains(&value) => Ok(Some(value as u64)),
            Some(value) => Err(format!("{what} {value} is not a whole number up to {most}")),
            None => Ok(None),
        }
    }
}

/// A mast and its cells; `None` for technologies before LTE.
fn one(row: &Row, site: SiteId) -> Result<Option<(Mast, RowCells)>, String> {
    let degrees = |field, what: &str, example: &str| {
        let text = row.text(field).ok_or_else(|| format!("{what} is missing"))?;
        read_degrees(text).map_err(|error| format!("{what} “{text}”: {error} For instance {example}."))
    };
    let place = GeoPoint {
        latitude_deg: degrees(MastField::Latitude, "latitude", "61.4213")?,
        longitude_deg: degrees(MastField::Longitude, "longitude", "8.2087")?,
    }
    .check()
    .map_err(|error| error.to_string())?;
    if place.latitude_deg == 0.0 && place.longitude_deg == 0.0 {
        return Err("0, 0 lies in the sea off Africa; it is what an empty field becomes".into());
    }
    let name = row.text(MastField::Name).map_or_else(
        || format!("Mast {:.4}, {:.4}", place.latitude_deg, place.longitude_deg),
        |name| name.chars().take(120).collect(),
    );
    let metres = row.number(MastField::HeightM, "height")?;
    let feet = row.number(MastField::HeightFt, "height")?.map(|feet| feet * 0.3048);
    let key = format!("{site}|{name}|{:.5}|{:.5}", place.latitude_deg, place.longitude_deg);
    let Some(cells) = cells_of(row)? else { return Ok(None) };
    let mast = Mast {
        id: MastId(Uuid::new_v5(&site.0, key.as_bytes())),
        site_id: site,
        name,
        operator: row.text(MastField::Operator).unwrap_or_default().chars().take(120).collect(),
        place,
        height_m: metres.or(feet),
        cells: Vec::new(),
        notes: row.text(MastField::Notes).unwrap_or_default().chars().take(4000).collect(),
        archived_at: None,
    };
    Ok(Some((mast, cells)))
}
