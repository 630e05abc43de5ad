//! A measured antenna pattern as CSV: two columns, angle in degrees and gain in dB.

use crate::RowProblem;
use open_beacon_core::limits::MOST_PATTERN_POINTS;
use open_beacon_core::model::PatternPoint;

/// Two gains at one angle are one, dB: a circle that was measured to its end.
const SAME_DB: f64 = 0.5;
/// Fewest points that make a pattern.
const FEWEST: usize = 8;

/// Reads a pattern. A heading line is passed over; commas, semicolons and tabs part the columns; gains may be absolute
/// or relative, the highest becomes the middle's. Angles −180..=360.
///
/// # Errors
/// Every line that cannot be taken, with what would do.
pub fn read_pattern(text: &str) -> Result<Vec<PatternPoint>, Vec<RowProblem>> {
    let mut problems = Vec::new();
    let mut rows: Vec<(f64, f64)> = Vec::new();
    let number = |cell: &str| cell.trim().replace('−', "-").replace(',', ".").parse::<f64>().ok();
    for (index, line) in text.trim_start_matches('\u{feff}').lines().enumerate() {
        if line.trim().is_empty() || line.starts_with('#') {
            continue;
        }
        // A comma parts columns only where nothing else does: it may be a decimal sign.
        let part = [';', '\t', ','].into_iter().find(|part| line.contains(*part)).unwrap_or(' ');
        let mut cells = line.split(part).filter(|cell| !cell.trim().is_empty());
        let pair = (cells.next().and_then(number), cells.next().and_then(number));
        match pair {
            (Some(angle), Some(gain)) if (-180.0..=360.0).contains(&angle) && gain.abs() <= 100.0 => {
                rows.push((angle, gain));
            }
            (None, _) if rows.is_empty() && index == 0 => {}
            _ => problems.push(RowProblem::new(
                "pattern",
                Some(index as u64 + 1),
                "an angle from −180 to 360 and a gain in dB are needed, for instance 30,-2.4",
            )),
        }
    }
    if problems.is_empty() && !(FEWEST..=MOST_PATTERN_POINTS).contains(&rows.len()) {
        let reason = format!("{} points; from {FEWEST} to {MOST_PATTERN_POINTS} are needed", rows.len());
        problems.push(RowProblem::new("pattern", None, reason));
    }
    if !problems.is_empty() {
        return Err(problems);
    }
    let top = rows.iter().map(|(_, gain)| *gain).fold(f64::NEG_INFINITY, f64::max);
    let turned = |angle: f64| if angle > 180.0 { angle - 360.0 } else { angle };
    let mut points: Vec<PatternPoint> = rows
        .into_iter()
        .map(|(angle, gain)| PatternPoint { off_deg: turned(angle), below_db: top - gain })
        .collect();
    points.sort_by(|a, b| a.off_deg.total_cmp(&b.off_deg));
    let twice = points
        .windows(2)
        .find(|two| two[0].off_deg == two[1].off_deg && (two[0].below_db - two[1].below_db).abs() > SAME_DB);
    if let Some(two) = twice {
        let reason = format!("{}° stands there twice, with different gains", two[0].off_deg);
        return Err(vec![RowProblem::new("pattern", None, reason)]);
    }
    // A full circle may name its beginning again at its end.
    points.dedup_by_key(|point| point.off_deg);
    Ok(points)
}
