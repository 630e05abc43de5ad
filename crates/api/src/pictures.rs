//! Pictures made of figures: the plan's hills, and maps of predicted signal.

use open_beacon_core::metrics::{Class, class_of_value};
use open_beacon_core::model::{GeoSpan, Metric};
use open_beacon_core::survey::raster::RasterQuantity;
use open_beacon_core::terrain::Ground;
use open_beacon_core::terrain::shade::shade;
use std::sync::Arc;

/// A finished map.
#[derive(Clone, Debug)]
pub struct RasterPicture {
    pub png: Arc<Vec<u8>>,
    /// dBm or dB.
    pub lowest: f64,
    pub highest: f64,
}

/// Hill shading with contour lines; see-through where no terrain is.
pub(crate) fn hills(ground: &Ground, span: &GeoSpan, (width, height): (usize, usize), dark: bool) -> Vec<u8> {
    let shade = shade(ground, span, width, height);
    let (low, high) = if dark { ([14, 20, 25], [78, 92, 101]) } else { ([150, 138, 112], [252, 248, 238]) };
    let line = if dark { [110, 124, 132] } else { [158, 142, 112] };
    let mut pixels = Vec::with_capacity(width * height * 4);
    for index in 0..width * height {
        if !shade.known[index] {
            pixels.extend([0, 0, 0, 0]);
            continue;
        }
        let light = f64::from(shade.light[index]) / 255.0;
        let weight = [0.0, 0.45, 0.85][usize::from(shade.contour[index])];
        for channel in 0..3 {
            let ground = low[channel] as f64 + (high[channel] - low[channel]) as f64 * light;
            pixels.push((ground + (line[channel] as f64 - ground) * weight) as u8);
        }
        pixels.push(255);
    }
    png(width, height, &pixels)
}

/// The classes' colours of the light theme, half see-through.
fn colour(metric: Metric, value: f64) -> [u8; 4] {
    let [r, g, b] = match class_of_value(metric, value) {
        Some(Class::Ample) => [0x14, 0x58, 0x5E],
        Some(Class::Solid) => [0x2F, 0x7F, 0x74],
        Some(Class::Usable) => [0x8F, 0x7A, 0x1E],
        Some(Class::Thin) => [0xB9, 0x60, 0x2F],
        _ => [0x8C, 0x2F, 0x39],
    };
    [r, g, b, 150]
}

/// A map of predicted signal in the colours of its classes.
pub(crate) fn signal(rows: &[Vec<f64>], columns: usize, quantity: RasterQuantity) -> RasterPicture {
    let metric = match quantity {
        RasterQuantity::Signal => Metric::Rsrp,
        RasterQuantity::CleanSignal => Metric::Sinr,
    };
    let all = || rows.iter().flatten().copied();
    let pixels: Vec<u8> = all().flat_map(|value| colour(metric, value)).collect();
    RasterPicture {
        png: Arc::new(png(columns, rows.len(), &pixels)),
        lowest: all().fold(f64::INFINITY, f64::min),
        highest: all().fold(f64::NEG_INFINITY, f64::max),
    }
}

/// RGBA pixels as PNG.
fn png(width: usize, height: usize, pixels: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width as u32, height as u32);
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    let written = encoder.write_header().and_then(|mut writer| writer.write_image_data(pixels));
    written.unwrap_or_else(|error| unreachable!("writing to memory: {error}"));
    out
}
