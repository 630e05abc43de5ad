//! Masts in and out: CSV with any columns, GeoJSON, KML. Every file becomes a table; its columns are mapped, the mapping
//! shown and remembered; rows with the same name and place are cells of one mast.

mod columns;
mod table;
mod write;

pub use columns::guess_columns;
pub use table::{MastTable, read_mast_table};
pub use write::{masts_to_csv, masts_to_geojson, masts_to_kml};

use crate::RowProblem;
use open_beacon_core::bands::{CellIdentity, NodeBits, bands_of_channel};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::read_degrees;
use open_beacon_core::model::{Mast, MastCell, MastColumn, MastField, MastId, SiteId, Technology};
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
            Ok(Some((mast, cell))) => add(&mut found.masts, mast, cell),
            Ok(None) => found.older += 1,
            Err(reason) => found.problems.push(RowProblem::new(&table.kind, Some(line), reason)),
        }
    }
    found
}

fn add(masts: &mut Vec<Mast>, mast: Mast, cell: Option<MastCell>) {
    let at = masts.iter().position(|one| one.id == mast.id).unwrap_or_else(|| {
        masts.push(mast);
        masts.len() - 1
    });
    if let Some(cell) = cell.filter(|cell| !masts[at].cells.contains(cell)) {
        masts[at].cells.push(cell);
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

/// A mast and its cell, if the row has one; `None` for technologies before LTE.
fn one(row: &Row, site: SiteId) -> Result<Option<(Mast, Option<MastCell>)>, String> {
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
    let Some(cell) = cell(row)? else { return Ok(None) };
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
    Ok(Some((mast, cell)))
}

/// `None` for technologies before LTE; `Some(None)` for a row without a cell.
fn cell(row: &Row) -> Result<Option<Option<MastCell>>, String> {
    let named = row.text(MastField::Technology).map(str::to_ascii_uppercase);
    let technology = match named.as_deref() {
        None => None,
        Some(text) if text.contains("NR") || text.contains("5G") => Some(Technology::Nr),
        Some(text) if text.contains("LTE") || text.contains("4G") || text.contains("E-UTRA") => {
            Some(Technology::Lte)
        }
        Some(text)
            if ["GSM", "UMTS", "WCDMA", "CDMA", "2G", "3G", "UTRA"].iter().any(|old| text.contains(old)) =>
        {
            return Ok(None);
        }
        Some(text) => return Err(format!("technology “{text}” is not known; LTE or NR is")),
    };
    let band_text = row.text(MastField::Band);
    let by_band = band_text.and_then(|text| match text.chars().next() {
        Some('n' | 'N') => Some(Technology::Nr),
        Some('b' | 'B') => Some(Technology::Lte),
        _ => None,
    });
    let band = match band_text {
        Some(text) => {
            let digits = text.trim_start_matches(|letter: char| !letter.is_ascii_digit());
            let end = digits.find(|letter: char| !letter.is_ascii_digit()).unwrap_or(digits.len());
            Some(
                digits[..end]
                    .parse::<u16>()
                    .map_err(|_| format!("band “{text}” is none; write 3, B3 or n78"))?,
            )
        }
        None => None,
    };
    let channel = row.whole(MastField::Channel, "channel", 3_279_165.0)?.map(|value| value as u32);
    let identity = row.whole(MastField::CellIdentity, "cell identity", 68_719_476_735.0)?;
    // LTE channel numbers end at 70645; NR's of these bands begin above 120000.
    let by_channel = channel.map(|channel| if channel > 80_000 { Technology::Nr } else { Technology::Lte });
    let Some(technology) = technology.or(by_band).or(by_channel) else { return Ok(Some(None)) };
    if band.is_none() && channel.is_none() {
        return Ok(Some(None));
    }
    // A channel number in one band only says the band.
    let band = band.or_else(|| match bands_of_channel(technology, channel?)[..] {
        [only] => Some(only),
        _ => None,
    });
    let split =
        identity.and_then(|whole| CellIdentity::split(technology, whole, NodeBits::usual(technology)).ok());
    let bearing = row.number(MastField::BearingDeg, "bearing")?.map(|deg| deg.rem_euclid(360.0));
    Ok(Some(Some(MastCell {
        technology,
        band,
        channel,
        bandwidth_mhz: row.number(MastField::BandwidthMhz, "bandwidth")?,
        pci: row.whole(MastField::Pci, "PCI", 1007.0)?.map(|value| value as u16),
        node: row.whole(MastField::Node, "base station", 4_294_967_295.0)?.or(split.map(|split| split.node)),
        local_cell: row
            .whole(MastField::LocalCell, "local cell", 268_435_455.0)?
            .or(split.map(|split| split.local)),
        bearing_deg: bearing,
        power_dbm: row.number(MastField::PowerDbm, "power")?,
        load: None,
    })))
}
