//! Coordinates as people write them: decimal degrees, degrees with minutes and seconds, the UTM grid and
//! the military grid reference (MGRS).

use super::GeoPoint;

/// Why a text is no coordinate.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum CoordinateError {
    /// It is no coordinate in any known form.
    #[error("Write it like 61.4213, 61°25′17″N or N 61 25 17.")]
    Form,
    /// Minutes or seconds of sixty or more.
    #[error("Minutes and seconds run from 0 to under 60.")]
    Sixty,
    /// Beyond the poles or the date line.
    #[error("Latitude runs from −90 to 90, longitude from −180 to 180 degrees.")]
    Range,
}

/// Reads one coordinate, degrees, north and east positive: decimal (comma or point), or degrees, minutes and seconds,
/// with a letter N, S, E, W (or O, Ö for east where written so) before or behind, or a sign.
///
/// # Errors
/// [`CoordinateError`].
///
/// ```
/// use open_beacon_domain::geo::coordinates::read_degrees;
/// // Worked by hand: 61 + 25/60 + 16.7/3600 = 61.421306.
/// assert!((read_degrees("61°25'16.7\"N").unwrap() - 61.421306).abs() < 1e-6);
/// assert_eq!(read_degrees("8,2087 W").unwrap(), -8.2087);
/// assert!(read_degrees("61 75 00 N").is_err());
/// ```
pub fn read_degrees(text: &str) -> Result<f64, CoordinateError> {
    let mut negative = false;
    let mut numbers = String::with_capacity(text.len());
    for letter in text.trim().chars() {
        match letter.to_ascii_uppercase() {
            'S' | 'W' | '-' | '−' => negative = !negative,
            'N' | 'E' | 'O' | 'Ö' | 'ö' | '+' => {}
            '0'..='9' | '.' => numbers.push(letter),
            ',' => numbers.push('.'),
            '°' | '\'' | '"' | '′' | '″' | '’' | '”' | ' ' | '\u{a0}' | '\u{202f}' | 'º' | ':' => {
                numbers.push(' ')
            }
            _ => return Err(CoordinateError::Form),
        }
    }
    let parts: Vec<f64> = numbers
        .split_whitespace()
        .map(|part| part.parse::<f64>().map_err(|_| CoordinateError::Form))
        .collect::<Result<_, _>>()?;
    let (whole, minutes, seconds) = match parts[..] {
        [whole] => (whole, 0.0, 0.0),
        [whole, minutes] => (whole, minutes, 0.0),
        [whole, minutes, seconds] => (whole, minutes, seconds),
        _ => return Err(CoordinateError::Form),
    };
    if minutes >= 60.0 || seconds >= 60.0 {
        return Err(CoordinateError::Sixty);
    }
    let degrees = whole + minutes / 60.0 + seconds / 3600.0;
    if degrees > 180.0 {
        return Err(CoordinateError::Range);
    }
    Ok(if negative { -degrees } else { degrees })
}

/// Reads a pair, latitude first: "61.4213, 8.2087", "61°25′17″N 8°12′31″E", "61,4213; 8,2087".
///
/// # Errors
/// [`CoordinateError`].
pub fn read_point(text: &str) -> Result<GeoPoint, CoordinateError> {
    let text = text.trim();
    let halves = text
        .split_once(';')
        .or_else(|| text.split_once(", "))
        .or_else(|| text.split_once(',').filter(|(_, rest)| !rest.contains(',') && text.contains('.')))
        .or_else(|| {
            let (at, letter) = text
                .char_indices()
                .find(|(_, letter)| "NSns".contains(*letter) && !text.starts_with(*letter))?;
            Some(text.split_at(at + letter.len_utf8()))
        })
        .or_else(|| text.split_once(char::is_whitespace).filter(|(_, rest)| !rest.trim().contains(' ')));
    let (latitude, longitude) = halves.ok_or(CoordinateError::Form)?;
    GeoPoint { latitude_deg: read_degrees(latitude)?, longitude_deg: read_degrees(longitude)? }
        .check()
        .map_err(|_| CoordinateError::Range)
}

/// Degrees, minutes and seconds to a tenth: "61°25′16.7″N".
pub fn sexagesimal(point: GeoPoint) -> (String, String) {
    let one = |degrees: f64, letters: [char; 2]| {
        let tenths = (degrees.abs() * 36_000.0).round() as u64;
        let (whole, rest) = (tenths / 36_000, tenths % 36_000);
        let letter = letters[usize::from(degrees < 0.0)];
        format!("{whole}°{:02}′{:02}.{}″{letter}", rest / 600, rest % 600 / 10, rest % 10)
    };
    (one(point.latitude_deg, ['N', 'S']), one(point.longitude_deg, ['E', 'W']))
}

/// The UTM grid: "32V 457756 6809906" (zone and band, easting, northing, whole metres); `None` beyond its 80° S to 84° N.
pub fn utm_text(point: GeoPoint) -> Option<String> {
    let zone = utm::lat_lon_to_zone_number(point.latitude_deg, point.longitude_deg);
    let letter = utm::lat_to_zone_letter(point.latitude_deg)?;
    let (northing, easting, _) = utm::to_utm_wgs84(point.latitude_deg, point.longitude_deg, zone);
    Some(format!("{zone}{letter} {easting:.0} {northing:.0}"))
}

/// Letters of the grid's columns and rows: none looks like a digit.
const GRID_LETTERS: &[u8; 24] = b"ABCDEFGHJKLMNPQRSTUVWXYZ";

/// The military grid reference to a metre, "32VMP 57756 09906": zone and band, square of 100 km, easting and northing
/// within it, cut off, not rounded; `None` beyond 80° S to 84° N. NGA.STND.0037 clause 3.
///
/// ```
/// use open_beacon_domain::geo::{GeoPoint, coordinates::mgrs_text};
/// // From the reference library (tests/vectors/mgrs.csv).
/// assert_eq!(mgrs_text(GeoPoint { latitude_deg: 0.0, longitude_deg: 0.0 }).unwrap(), "31NAA 66021 00000");
/// assert!(mgrs_text(GeoPoint { latitude_deg: 85.0, longitude_deg: 0.0 }).is_none());
/// ```
pub fn mgrs_text(point: GeoPoint) -> Option<String> {
    let zone = utm::lat_lon_to_zone_number(point.latitude_deg, point.longitude_deg);
    let letter = utm::lat_to_zone_letter(point.latitude_deg)?;
    let (northing, easting, _) = utm::to_utm_wgs84(point.latitude_deg, point.longitude_deg, zone);
    let (east, north) = (easting.floor() as usize, northing.floor() as usize);
    // Columns begin anew every third zone, rows every second and after 2000 km; letters of rows end with V.
    let column = GRID_LETTERS[(usize::from(zone) - 1) % 3 * 8 + east / 100_000 - 1] as char;
    let first = if zone.is_multiple_of(2) { 5 } else { 0 };
    let row = GRID_LETTERS[(north / 100_000 + first) % 20] as char;
    Some(format!("{zone}{letter}{column}{row} {:05} {:05}", east % 100_000, north % 100_000))
}
