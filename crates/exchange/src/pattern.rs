//! A measured antenna pattern as CSV: two columns, angle in degrees and gain in dB.

use crate::RowProblem;
use open_beacon_core::model::PatternPoint;

/// Fewest points that make a pattern.
const FEWEST: usize = 8;
/// Most points taken.
const MOST: usize = 1441;

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
    if problems.is_empty() && !(FEWEST..=MOST).contains(&rows.len()) {
        let reason = format!("{} points; from {FEWEST} to {MOST} are needed", rows.len());
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
    Ok(points)
}

#[cfg(test)]
mod tests {
    use super::read_pattern;

    fn lines(of: impl Fn(i32) -> String) -> String {
        (0..12).map(|step| of(step * 30)).collect::<Vec<_>>().join("\n")
    }

    #[test]
    fn patterns_in_several_spellings_read_alike() {
        let plain = lines(|angle| format!("{angle},{}", -(angle.min(360 - angle)) / 10));
        let german = format!(
            "Winkel;Gewinn\n{}",
            lines(|angle| format!("{angle};{},0", 9 - angle.min(360 - angle) / 10))
        );
        let (plain, german) =
            (read_pattern(&plain).unwrap_or_default(), read_pattern(&german).unwrap_or_default());
        assert_eq!(plain, german);
        assert_eq!((plain[0].off_deg, plain[11].off_deg), (-150.0, 180.0));
        assert_eq!(plain[11].below_db, 18.0);
    }

    #[test]
    fn what_cannot_be_read_is_told_by_its_line() {
        let broken = lines(|angle| if angle == 60 { "60,oops".into() } else { format!("{angle},0") });
        let problems = read_pattern(&broken).unwrap_err();
        assert_eq!(problems.iter().map(|one| one.line).collect::<Vec<_>>(), [Some(3)]);
        assert!(read_pattern("0,0\n90,-3").is_err());
        assert!(read_pattern("").is_err());
    }
}
