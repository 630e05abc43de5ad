//! GeoTIFF (OGC 19-008r4): single-band elevation, geographic or UTM, strips or tiles, plain, LZW or deflated.

use super::ReadTile;
use open_beacon_core::limits::TerrainLimit;
use open_beacon_core::terrain::{Frame, Grid, Heights};
use std::collections::HashMap;
use std::io::{BufReader, Read, Seek};
use tiff::decoder::{Decoder, DecodingResult, Limits};
use tiff::tags::Tag;

const PIXEL_SCALE: u16 = 33_550;
const TIE_POINT: u16 = 33_922;
const TRANSFORMATION: u16 = 34_264;
const GEO_KEYS: u16 = 34_735;
const NO_DATA: u16 = 42_113;

/// GTModelTypeGeoKey, GTRasterTypeGeoKey, ProjectedCRSGeoKey, VerticalUnitsGeoKey.
const MODEL_TYPE: u16 = 1024;
const RASTER_TYPE: u16 = 1025;
const PROJECTED: u16 = 3072;
const VERTICAL_UNITS: u16 = 4099;

pub(super) fn read(source: impl Read + Seek, limit: &TerrainLimit) -> Result<ReadTile, String> {
    let mut limits = Limits::default();
    limits.decoding_buffer_size = limit.decoded_bytes;
    let broken = |error: tiff::TiffError| match error {
        tiff::TiffError::IoError(_) => {
            "The GeoTIFF is cut short: its end is missing. Fetch it again.".to_owned()
        }
        tiff::TiffError::LimitsExceeded => {
            "The GeoTIFF holds more than is read at once; cut out the part you need.".to_owned()
        }
        other => format!("The GeoTIFF cannot be read: {other}."),
    };
    let mut file = Decoder::new(BufReader::new(source)).map_err(broken)?.with_limits(limits);
    let (columns, rows) = file.dimensions().map_err(broken)?;
    let (columns, rows) = (columns as usize, rows as usize);
    if columns * rows > limit.nodes {
        return Err(format!("{columns} by {rows} heights are too many; cut out the part you need."));
    }
    let keys = geo_keys(&mut file)?;
    let (west, north, step_x, step_y) = corner(&mut file)?;
    let frame = frame(&keys)?;
    // Heights of whole pixels hold in their middles.
    let half = if keys.get(&RASTER_TYPE) == Some(&2) { 0.0 } else { 0.5 };
    let unit = match keys.get(&VERTICAL_UNITS) {
        None | Some(9001) => 1.0,
        Some(9002) => 0.3048,
        Some(9003) => 1200.0 / 3937.0,
        Some(other) => {
            return Err(format!("Its vertical unit (code {other}) is not known; metres or feet are."));
        }
    };
    let void = file
        .get_tag_ascii_string(Tag::Unknown(NO_DATA))
        .ok()
        .and_then(|text| text.trim_end_matches('\0').trim().parse::<f64>().ok());
    let heights = heights(file.read_image().map_err(broken)?, void, unit)?;
    if heights_len(&heights) != columns * rows {
        return Err("It has more than one band; an elevation model has one.".into());
    }
    let grid = Grid::new(
        frame,
        (west + half * step_x, north - half * step_y),
        (step_x, step_y),
        (columns, rows),
        heights,
    )
    .map_err(|error| error.to_string())?;
    let notes =
        if unit == 1.0 { Vec::new() } else { vec!["Its heights are feet; they were converted.".into()] };
    Ok(ReadTile { format: "GeoTIFF", grid, notes })
}

fn geo_keys(file: &mut Decoder<impl Read + Seek>) -> Result<HashMap<u16, u16>, String> {
    let all = file.get_tag_u16_vec(Tag::Unknown(GEO_KEYS)).map_err(|_| {
        "This TIFF says nothing of where it lies: it is a picture, not a GeoTIFF. Export it again as GeoTIFF.".to_owned()
    })?;
    // Entries of four: key, where the value is (0: here), count, value.
    Ok(all.chunks_exact(4).skip(1).filter(|entry| entry[1] == 0).map(|entry| (entry[0], entry[3])).collect())
}

/// Outer corner or node in the north-west, and steps.
fn corner(file: &mut Decoder<impl Read + Seek>) -> Result<(f64, f64, f64, f64), String> {
    let lacking =
        "The GeoTIFF has no place and scale (ModelTiepoint and ModelPixelScale). Export it again north up.";
    let scale = file.get_tag_f64_vec(Tag::Unknown(PIXEL_SCALE));
    let tie = file.get_tag_f64_vec(Tag::Unknown(TIE_POINT));
    if let (Ok(scale), Ok(tie)) = (scale, tie) {
        if scale.len() < 2 || tie.len() < 6 {
            return Err(lacking.into());
        }
        return Ok((tie[3] - tie[0] * scale[0], tie[4] + tie[1] * scale[1], scale[0], scale[1]));
    }
    match file.get_tag_f64_vec(Tag::Unknown(TRANSFORMATION)) {
        Ok(matrix) if matrix.len() == 16 && matrix[1] == 0.0 && matrix[4] == 0.0 => {
            Ok((matrix[3], matrix[7], matrix[0], -matrix[5]))
        }
        Ok(_) => Err("The GeoTIFF is turned. Export it again north up.".into()),
        Err(_) => Err(lacking.into()),
    }
}

fn frame(keys: &HashMap<u16, u16>) -> Result<Frame, String> {
    match (keys.get(&MODEL_TYPE), keys.get(&PROJECTED)) {
        (Some(2), _) => Ok(Frame::Geographic),
        (Some(1), Some(code)) => match code {
            32_601..=32_660 => Ok(Frame::Utm((code - 32_600) as u8, true)),
            32_701..=32_760 => Ok(Frame::Utm((code - 32_700) as u8, false)),
            // ETRS89: within a metre of WGS 84.
            25_828..=25_838 => Ok(Frame::Utm((code - 25_800) as u8, true)),
            // NAD83: within two metres.
            26_901..=26_923 => Ok(Frame::Utm((code - 26_900) as u8, true)),
            other => Err(format!(
                "Its map projection (EPSG:{other}) is not read here. Export it in latitude and longitude (EPSG:4326) or UTM."
            )),
        },
        _ => Err("It does not say whether it is in degrees or metres. Export it in latitude and longitude (EPSG:4326) or UTM.".into()),
    }
}

fn heights_len(heights: &Heights) -> usize {
    match heights {
        Heights::Whole(all) => all.len(),
        Heights::Real(all) => all.len(),
    }
}

fn heights(found: DecodingResult, void: Option<f64>, unit: f64) -> Result<Heights, String> {
    let real = |value: f64| {
        let gone = value.is_nan() || void == Some(value) || value < -12_000.0 || value.abs() > 1e6;
        if gone { f32::NAN } else { (value * unit) as f32 }
    };
    Ok(match found {
        DecodingResult::I16(mut all) if unit == 1.0 => {
            if let Some(void) = void.filter(|void| *void != f64::from(Heights::VOID)) {
                for height in all.iter_mut().filter(|height| f64::from(**height) == void) {
                    *height = Heights::VOID;
                }
            }
            Heights::Whole(all)
        }
        DecodingResult::I16(all) => Heights::Real(
            all.into_iter()
                .map(|value| if value == Heights::VOID { f32::NAN } else { real(f64::from(value)) })
                .collect(),
        ),
        DecodingResult::U16(all) => {
            Heights::Real(all.into_iter().map(|value| real(f64::from(value))).collect())
        }
        DecodingResult::I32(all) => {
            Heights::Real(all.into_iter().map(|value| real(f64::from(value))).collect())
        }
        DecodingResult::U8(all) => {
            Heights::Real(all.into_iter().map(|value| real(f64::from(value))).collect())
        }
        DecodingResult::F32(all) => {
            Heights::Real(all.into_iter().map(|value| real(f64::from(value))).collect())
        }
        DecodingResult::F64(all) => Heights::Real(all.into_iter().map(real).collect()),
        _ => {
            return Err("Only heights stored as 16-bit whole or 32-bit real metres can be read.".into());
        }
    })
}
