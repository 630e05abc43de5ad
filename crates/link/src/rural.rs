//! Path loss where neither terrain nor mast is known: the rural model of TR 38.901, and its term in height.

use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::model::KitSettings;
use open_beacon_domain::propagation::tr38901::{Rural, rural_loss};

/// Path loss in the open at a height, dB, as a range, and whether it lies beyond the model. Within 5 km from line of
/// sight to one spread beyond the obstructed loss of TR 38.901; farther, line of sight and up to 30 dB of excess.
pub fn path_loss_db(
    kit: &KitSettings,
    distance_m: f64,
    height_m: f64,
    frequency_mhz: f64,
) -> Option<(Estimate, bool)> {
    let scene = Rural {
        mast_height_m: kit.mast_height_m.clamp(10.0, 150.0),
        terminal_height_m: height_m.clamp(1.0, 10.0),
        ..Rural::default()
    };
    let mhz = frequency_mhz.max(500.0);
    let within = rural_loss(&scene, distance_m.clamp(10.0, 10_000.0), mhz).ok()?;
    let beyond = distance_m > 10_000.0;
    // Beyond the table: free space's 20 dB a decade on top.
    let farther_db = if beyond { 20.0 * (distance_m / 10_000.0).log10() } else { 0.0 };
    let clear = within.line_of_sight_db + farther_db;
    Some(match within.obstructed_db {
        Some(obstructed) => {
            let likely = f64::midpoint(clear, obstructed);
            (Estimate { low: clear, likely, high: obstructed + within.obstructed_spread_db }, false)
        }
        None => (Estimate { low: clear, likely: clear + 12.0, high: clear + 30.0 }, true),
    })
}

/// The obstructed rural loss's own term in the antenna's height, dB: TR 38.901 table 7.4.1-1, for 1 to 10 m; nothing is
/// promised above.
///
/// ```
/// use open_beacon_link::rural::height_term_db;
/// // By hand: 3.2 (lg 11.75 · 10)² − 3.2 (lg 11.75 · 1.5)² = 13.712 − 4.969.
/// assert!((height_term_db(10.0) - height_term_db(1.5) - 8.743).abs() < 1e-3);
/// ```
pub fn height_term_db(height_m: f64) -> f64 {
    3.2 * (11.75 * height_m.clamp(1.0, 10.0)).log10().powi(2)
}
