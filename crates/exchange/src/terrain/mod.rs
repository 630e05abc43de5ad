//! Terrain files: SRTM `.hgt`, ESRI ASCII grid, GeoTIFF. Bytes in, a grid out; what cannot be one is named, with what
//! would work.

mod ascii;
mod geotiff;
mod hgt;

use crate::unzipped::not_too_many;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::limits::{NEW_TERRAIN, STORED_TERRAIN, TerrainLimit};
use open_beacon_core::terrain::{Frame, Grid};
use std::io::{Cursor, Read, Seek};

/// A tile that was read.
#[derive(Clone, Debug)]
pub struct ReadTile {
    pub format: &'static str,
    pub grid: Grid,
    /// Said beside it, for instance that the zone was taken from the house.
    pub notes: Vec<String>,
}

/// Heights above this are no metres, m: Everest and a little.
const HIGHEST_M: f64 = 8900.0;

/// Reads a tile that is here already, its kind told by its first bytes and, for `.hgt`, its name. `house`: for files in metres that
/// do not say their UTM zone.
///
/// # Errors
/// What is wrong, in words, with what would work.
pub fn read_tile(file_name: &str, bytes: &[u8], house: Option<GeoPoint>) -> Result<ReadTile, String> {
    read(file_name, Cursor::new(bytes), house, &STORED_TERRAIN)
}

/// [`read_tile`] of a file that is new: what fits into the memory beside the rest is taken.
///
/// # Errors
/// What is wrong, in words, with what would work.
pub fn read_new_tile(
    file_name: &str,
    source: impl Read + Seek,
    house: Option<GeoPoint>,
) -> Result<ReadTile, String> {
    read(file_name, source, house, &NEW_TERRAIN)
}

fn read(
    file_name: &str,
    mut source: impl Read + Seek,
    house: Option<GeoPoint>,
    limit: &TerrainLimit,
) -> Result<ReadTile, String> {
    let name = file_name.rsplit(['/', '\\']).next().unwrap_or(file_name);
    let unread = |error: std::io::Error| format!("{name} cannot be read: {error}.");
    let mut head = Vec::new();
    source.by_ref().take(400).read_to_end(&mut head).map_err(unread)?;
    source.rewind().map_err(unread)?;
    let held = |source: &mut dyn Read| {
        let mut bytes = Vec::new();
        source.take(limit.held_bytes + 1).read_to_end(&mut bytes).map_err(unread)?;
        if bytes.len() as u64 > limit.held_bytes {
            let most_mib = limit.held_bytes >> 20;
            return Err(format!(
                "{name} is longer than {most_mib} MiB. Cut out the part around the house, or export it as GeoTIFF."
            ));
        }
        Ok(bytes)
    };
    let tile = if head.starts_with(b"PK") {
        return Err(format!(
            "{name} is a zip, not a tile.{} Unpack it and give the file inside.",
            inside_zip(source)
        ));
    } else if head.starts_with(&[0x1f, 0x8b]) {
        return Err(format!("{name} is packed with gzip. Unpack it and give the file inside."));
    } else if head.starts_with(b"II") || head.starts_with(b"MM") {
        geotiff::read(source, limit)?
    } else if name.to_ascii_lowercase().ends_with(".hgt") {
        hgt::read(name, &held(&mut source)?)?
    } else if looks_like_text(&head) {
        ascii::read(&held(&mut source)?, house, limit.nodes)?
    } else {
        return Err(format!(
            "{name} is none of the kinds read here: SRTM .hgt (named like N61E008.hgt), ESRI ASCII grid (.asc), GeoTIFF (.tif)."
        ));
    };
    let found = tile.grid.extremes().map_err(|error| error.to_string())?;
    if found.highest_m > HIGHEST_M {
        return Err(format!(
            "{name} has heights up to {:.0}: that is no height in metres. If they are feet, convert the file to metres first, for instance by multiplying with 0.3048.",
            found.highest_m
        ));
    }
    Ok(tile)
}

fn looks_like_text(head: &[u8]) -> bool {
    !head.is_empty() && head.iter().all(|byte| byte.is_ascii_graphic() || byte.is_ascii_whitespace())
}

fn inside_zip(mut source: impl Read + Seek) -> String {
    if not_too_many(&mut source).is_err() {
        return String::new();
    }
    let names = zip::ZipArchive::new(source)
        .map(|archive| {
            archive
                .file_names()
                .filter_map(Result::ok)
                .take(3)
                .map(|name| name.into_owned())
                .collect::<Vec<_>>()
        })
        .unwrap_or_default();
    if names.is_empty() { String::new() } else { format!(" It holds {}.", names.join(", ")) }
}

/// The UTM zone of a point.
fn zone_of(point: GeoPoint) -> Frame {
    let zone = (((point.longitude_deg + 180.0) / 6.0).floor() as i32).rem_euclid(60) + 1;
    Frame::Utm(zone as u8, point.latitude_deg >= 0.0)
}
