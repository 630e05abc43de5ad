//! SRTM `.hgt`: big-endian 16-bit metres, rows from the north, nodes on the degree's edges (pixel is point), −32768 for
//! voids. Not square where columns are thinned towards the poles.

use super::ReadTile;
use open_beacon_core::terrain::{Frame, Grid, Heights};

/// Latitude and longitude of the south-west corner by a name like `N61E008.hgt`.
fn corner(name: &str) -> Option<(f64, f64)> {
    let stem = name.get(..name.len() - 4)?.to_ascii_uppercase();
    let stem = stem.split(['.', '_']).next()?;
    let at = stem.find(['E', 'W'])?;
    let (latitude, longitude) = stem.split_at(at);
    let number = |text: &str, letters: [char; 2]| {
        let sign = match text.chars().next()? {
            letter if letter == letters[0] => 1.0,
            letter if letter == letters[1] => -1.0,
            _ => return None,
        };
        text[1..].parse::<u16>().ok().map(|degrees| sign * f64::from(degrees))
    };
    let found = (number(latitude, ['N', 'S'])?, number(longitude, ['E', 'W'])?);
    ((-90.0..90.0).contains(&found.0) && (-180.0..180.0).contains(&found.1)).then_some(found)
}

/// Rows and columns by the number of heights.
fn size(count: usize) -> Option<(usize, usize)> {
    for rows in [3601, 1201] {
        for thinned in [1, 2, 3, 4, 6, 8, 10] {
            let columns = (rows - 1) / thinned + 1;
            if rows * columns == count {
                return Some((rows, columns));
            }
        }
    }
    None
}

pub(super) fn read(name: &str, bytes: &[u8]) -> Result<ReadTile, String> {
    let (south, west) = corner(name).ok_or_else(|| {
        format!(
            "{name}: the name must say the south-west corner, like N61E008.hgt; the file itself does not."
        )
    })?;
    let (rows, columns) =
        size(bytes.len() / 2).filter(|_| bytes.len().is_multiple_of(2)).ok_or_else(|| {
            let whole = 3601 * 3601 * 2;
            let short = if bytes.len() < whole { " It looks cut short: fetch it again." } else { "" };
            format!(
                "{name} has {} bytes; a tile of one arc second has {whole}, of three {}.{short}",
                bytes.len(),
                1201 * 1201 * 2
            )
        })?;
    let heights: Vec<i16> = bytes.as_chunks::<2>().0.iter().map(|pair| i16::from_be_bytes(*pair)).collect();
    let grid = Grid::new(
        Frame::Geographic,
        (west, south + 1.0),
        (1.0 / (columns - 1) as f64, 1.0 / (rows - 1) as f64),
        (columns, rows),
        Heights::Whole(heights),
    )
    .map_err(|error| error.to_string())?;
    Ok(ReadTile { format: "SRTM .hgt", grid, notes: Vec::new() })
}
