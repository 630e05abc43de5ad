//! Long courses, thinned for a drawing without losing an extreme.

/// Places of the points to draw of a course in order of time: of each of `columns` equal spans of time the first, the last, the least
/// and the greatest (M4: Jugel, Jerzak, Hackenbroich and Markl, "M4: A Visualization-Oriented Time Series Data Aggregation", VLDB
/// 2014). All of them where there are no more than four a column. `points`: time in any unit, ascending, and value.
pub fn thinned(points: &[(i64, f64)], columns: usize) -> Vec<usize> {
    let columns = columns.max(1);
    let (Some(first), Some(last)) = (points.first(), points.last()) else { return Vec::new() };
    if points.len() <= 4 * columns {
        return (0..points.len()).collect();
    }
    let span = (last.0 - first.0).max(1) as f64;
    let column = |at: i64| ((((at - first.0) as f64 / span) * columns as f64) as usize).min(columns - 1);
    let mut kept = Vec::new();
    let mut from = 0;
    while from < points.len() {
        let here = column(points[from].0);
        let length = points[from..].iter().take_while(|point| column(point.0) == here).count();
        let of = from..from + length;
        let by_value = |a: &usize, b: &usize| points[*a].1.total_cmp(&points[*b].1);
        let extremes = [of.clone().min_by(by_value), of.clone().max_by(by_value)];
        kept.extend([from, from + length - 1].into_iter().chain(extremes.into_iter().flatten()));
        from += length;
    }
    kept.sort_unstable();
    kept.dedup();
    kept
}
