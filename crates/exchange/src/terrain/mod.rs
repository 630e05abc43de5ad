//! Terrain files: SRTM `.hgt`, ESRI ASCII grid, GeoTIFF. Bytes in, a grid out; what cannot be one is named, with what
//! would work.

mod ascii;
mod geotiff;
mod hgt;

use open_beacon_core::geo::GeoPoint;
use open_beacon_core::terrain::{Frame, Grid};

/// A tile that was read.
#[derive(Clone, Debug)]
pub struct ReadTile {
    pub format: &'static str,
    pub grid: Grid,
    /// Said beside it, for instance that the zone was taken from the house.
    pub notes: Vec<String>,
}

/// Most nodes taken.
const MOST_NODES: usize = 200_000_000;
/// Heights above this are no metres, m: Everest and a little.
const HIGHEST_M: f64 = 8900.0;

/// Reads a tile, its kind told by its first bytes and, for `.hgt`, its name. `house`: for files in metres that do not
/// say their UTM zone.
///
/// # Errors
/// What is wrong, in words, with what would work.
pub fn read_tile(file_name: &str, bytes: &[u8], house: Option<GeoPoint>) -> Result<ReadTile, String> {
    let name = file_name.rsplit(['/', '\\']).next().unwrap_or(file_name);
    let tile = if bytes.starts_with(b"PK") {
        return Err(format!(
            "{name} is a zip, not a tile.{} Unpack it and give the file inside.",
            inside_zip(bytes)
        ));
    } else if bytes.starts_with(&[0x1f, 0x8b]) {
        return Err(format!("{name} is packed with gzip. Unpack it and give the file inside."));
    } else if bytes.starts_with(b"II") || bytes.starts_with(b"MM") {
        geotiff::read(bytes)?
    } else if name.to_ascii_lowercase().ends_with(".hgt") {
        hgt::read(name, bytes)?
    } else if looks_like_text(bytes) {
        ascii::read(bytes, house)?
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

fn looks_like_text(bytes: &[u8]) -> bool {
    let head = &bytes[..bytes.len().min(400)];
    !head.is_empty() && head.iter().all(|byte| byte.is_ascii_graphic() || byte.is_ascii_whitespace())
}

fn inside_zip(bytes: &[u8]) -> String {
    let names = zip::ZipArchive::new(std::io::Cursor::new(bytes))
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
