//! ESRI ASCII grid: a heading of names and numbers, then heights row by row from the north. `xllcorner` names the corner
//! of the first cell (pixel is area), `xllcenter` its middle.

use super::{ReadTile, zone_of};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::terrain::{Frame, Grid, Heights};
use std::collections::HashMap;

pub(super) fn read(bytes: &[u8], house: Option<GeoPoint>, most_nodes: usize) -> Result<ReadTile, String> {
    let text = std::str::from_utf8(bytes).map_err(|_| "The grid is not plain text.".to_owned())?;
    let mut heading: HashMap<String, f64> = HashMap::new();
    let mut rest = text;
    loop {
        let line = rest.trim_start();
        let word_end = line.find(char::is_whitespace).unwrap_or(line.len());
        let word = &line[..word_end];
        if !word.starts_with(|letter: char| letter.is_ascii_alphabetic()) || word.eq_ignore_ascii_case("nan")
        {
            rest = line;
            break;
        }
        let after = line[word_end..].trim_start();
        let value_end = after.find(char::is_whitespace).unwrap_or(after.len());
        let value = number(&after[..value_end])
            .ok_or_else(|| format!("The heading's {word} has no number behind it."))?;
        heading.insert(word.to_ascii_lowercase(), value);
        rest = &after[value_end..];
    }
    let get = |name: &str| {
        heading.get(name).copied().ok_or_else(|| {
            format!("The heading lacks {name}; an ESRI ASCII grid begins with ncols, nrows, xllcorner, yllcorner and cellsize.")
        })
    };
    let (columns, rows) = (get("ncols")?, get("nrows")?);
    let whole = |value: f64| value.fract() == 0.0 && (2.0..=1e5).contains(&value);
    if !whole(columns) || !whole(rows) {
        return Err(format!("ncols {columns} and nrows {rows} are no size of a grid."));
    }
    if columns * rows > most_nodes as f64 {
        return Err(format!("{columns} by {rows} heights are too many; cut out the part you need."));
    }
    let (columns, rows) = (columns as usize, rows as usize);
    let step_x = heading.get("cellsize").or(heading.get("dx")).copied();
    let step_x = step_x.map_or_else(|| get("cellsize"), Ok)?;
    let step_y = heading.get("cellsize").or(heading.get("dy")).copied().unwrap_or(step_x);
    let middle = |corner: &str, centre: &str, step: f64| match heading.get(centre) {
        Some(value) => Ok(*value),
        None => get(corner).map(|value| value + step / 2.0),
    };
    let west = middle("xllcorner", "xllcenter", step_x)?;
    let south = middle("yllcorner", "yllcenter", step_y)?;
    let void = heading.get("nodata_value").copied().unwrap_or(-9999.0);
    let mut heights: Vec<f32> = Vec::with_capacity(columns * rows);
    for word in rest.split_ascii_whitespace() {
        let value = number(word).ok_or_else(|| format!("“{word}” among the heights is no number."))?;
        heights.push(if value == void || value.is_nan() { f32::NAN } else { value as f32 });
        if heights.len() > columns * rows {
            break;
        }
    }
    if heights.len() != columns * rows {
        return Err(format!(
            "The heading says {} heights, the file has {}{}.",
            columns * rows,
            if heights.len() > columns * rows { "more" } else { "fewer" },
            if heights.len() < columns * rows {
                format!(" ({}): it looks cut short, fetch it again", heights.len())
            } else {
                String::new()
            }
        ));
    }
    let north = south + step_y * (rows - 1) as f64;
    let degrees = west.abs() <= 360.0 && south.abs() <= 90.0 && north <= 90.0 && step_x < 1.0;
    let mut notes = Vec::new();
    let frame = if degrees {
        Frame::Geographic
    } else {
        let house = house.ok_or(
            "The grid is in metres and does not say its UTM zone. Give the site a position first: the zone is taken from there.",
        )?;
        let frame = zone_of(house);
        if let Frame::Utm(zone, _) = frame {
            notes.push(format!("In metres, without a zone: taken as UTM zone {zone}, where the house is."));
        }
        frame
    };
    let grid = Grid::new(frame, (west, north), (step_x, step_y), (columns, rows), Heights::Real(heights))
        .map_err(|error| error.to_string())?;
    Ok(ReadTile { format: "ESRI ASCII grid", grid, notes })
}

fn number(text: &str) -> Option<f64> {
    // Some programs write a decimal comma.
    text.parse().ok().or_else(|| text.replace(',', ".").parse().ok())
}
