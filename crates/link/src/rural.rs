//! Path loss where neither terrain nor mast is known: the rural model of TR 38.901, and its term in height.

use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::model::KitSettings;
use open_beacon_domain::propagation::tr38901::{Rural, rural_loss};

/// Height at which the table's losses were measured, m.
const HAND_M: f64 = 1.5;

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
    // The table's own term in height is put into the middle of the two; it was measured at a hand's height.
    let higher_db = height_term_db(height_m, mhz) - of_tr38901_db(height_m);
    let at_hand_db = height_term_db(HAND_M, mhz) - of_tr38901_db(HAND_M);
    let farther_db = farther_db - (higher_db - at_hand_db);
    let clear = within.line_of_sight_db + farther_db;
    Some(match within.obstructed_db {
        Some(obstructed) => {
            let obstructed = obstructed + farther_db;
            let likely = f64::midpoint(clear, obstructed);
            (Estimate { low: clear, likely, high: obstructed + within.obstructed_spread_db }, false)
        }
        None => (Estimate { low: clear, likely: clear + 12.0, high: clear + 30.0 }, true),
    })
}

/// What the antenna's height brings in the open where only statistics are known, dB, against 0 m of the models' own scale: differences
/// count. Two published models of rural paths are far apart, and the middle of them is taken: the obstructed rural loss of TR 38.901
/// (table 7.4.1-1), 6.8 dB from 1.5 to 7 m at 1.8 GHz, and Okumura and Hata's term in the mobile's height (ITU-R P.529-3 annex 1),
/// 15.9 dB. Both are for 1 to 10 m; nothing is promised above.
///
/// ```
/// use open_beacon_link::rural::height_term_db;
/// // By hand at 1 GHz, from 1.5 to 10 m: 3.2 (lg 117.5)² − 3.2 (lg 17.625)² = 8.743, and (1.1 · 3 − 0.7) · 8.5 = 22.1.
/// assert!((height_term_db(10.0, 1000.0) - height_term_db(1.5, 1000.0) - 15.42).abs() < 0.01);
/// ```
pub fn height_term_db(height_m: f64, frequency_mhz: f64) -> f64 {
    0.5 * (of_tr38901_db(height_m) + of_hata_db(height_m, frequency_mhz))
}

fn of_tr38901_db(height_m: f64) -> f64 {
    3.2 * (11.75 * height_m.clamp(1.0, 10.0)).log10().powi(2)
}

fn of_hata_db(height_m: f64, frequency_mhz: f64) -> f64 {
    (1.1 * frequency_mhz.log10() - 0.7) * height_m.clamp(1.0, 10.0)
}

/// Height from which a path over ground is taken as computed, m: where both models of the height's term end.
const CLEAR_M: f64 = 10.0;

/// What ground and clutter near an antenna take of a path computed over bare ground, dB; nothing from 10 m up. Diffraction over ground
/// knows nothing of the wave that the ground throws back, nor of what grows and stands on it: the same term is lacking that the rural
/// model has, with the same doubt.
///
/// ```
/// use open_beacon_link::rural::near_ground_db;
/// // At 1 GHz and 1.5 m, see `height_term_db`.
/// assert!((near_ground_db(1.5, 1000.0) - 15.42).abs() < 0.01);
/// assert_eq!(near_ground_db(12.0, 1000.0), 0.0);
/// ```
pub fn near_ground_db(height_m: f64, frequency_mhz: f64) -> f64 {
    height_term_db(CLEAR_M, frequency_mhz) - height_term_db(height_m, frequency_mhz)
}
