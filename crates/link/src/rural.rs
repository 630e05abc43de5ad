//! Path loss where the ground is not known: two published models of rural paths, and their term in height.

use super::gaussian::{Normal, Z_90};
use open_beacon_domain::capacity::Estimate;
use open_beacon_domain::model::KitSettings;
use open_beacon_domain::propagation::p525::free_space_loss_db;
use open_beacon_domain::propagation::tr38901::{Rural, continued};

/// Height at which the table's losses were measured, m.
const HAND_M: f64 = 1.5;

/// Where the rural model of TR 38.901 ends without line of sight, m, and where both end.
const OBSTRUCTED_ENDS_M: f64 = 5000.0;
const TABLE_ENDS_M: f64 = 10_000.0;
/// Spread that a decade of distance past the table adds, and one of height, dB (common practice, no source).
const PAST_DISTANCE_DB: f64 = 20.0;
const PAST_HEIGHT_DB: f64 = 20.0;

/// One way in which a path may be, with how likely it is.
pub type Way = (f64, Normal);

/// Antennas lower than this are doubted no more than one here: a logarithm knows no height of 0.
const LOWEST_M: f64 = 0.1;

/// Path loss in the open at a height, dB: each way in which the path may be with its share. Two published models of rural paths are far
/// apart, and each has half: the rural model of TR 38.901 (tables 7.4.1-1 and 7.4.2-1), with and without line of sight by its own
/// probability, and Okumura and Hata's in quasi-open country (ITU-R P.529-3 annex 1), its spread by ITU-R P.1546-6 annex 5 section 12. None
/// is below free space. `height_m`: any; see [`height_term_db`].
pub fn ways(mast_height_m: f64, distance_m: f64, height_m: f64, frequency_mhz: f64) -> [Way; 3] {
    let distance_m = distance_m.max(10.0);
    let mhz = frequency_mhz.max(500.0);
    let scene = Rural {
        mast_height_m: mast_height_m.clamp(10.0, 150.0),
        terminal_height_m: HAND_M,
        ..Rural::default()
    };
    let by_table = continued(&scene, distance_m, mhz);
    let clear_db = by_table.line_of_sight_db;
    let obstructed_db = by_table.obstructed_db.unwrap_or(clear_db);
    let chance = by_table.line_of_sight_probability;
    // All are worked out at a hand's height; the antenna's own height brings what the models say of it together.
    let higher_db = height_term_db(height_m, mhz) - height_term_db(HAND_M, mhz);
    let free_db = free_space_loss_db(distance_m.hypot(mast_height_m - height_m), mhz);
    // What lies past the tables is doubted: by distance, and by heights that they do not have.
    let past = |value: f64, (low, high): (f64, f64)| (value / value.clamp(low, high)).log10().abs();
    let past_db = PAST_DISTANCE_DB * past(distance_m, (0.0, OBSTRUCTED_ENDS_M))
        + PAST_HEIGHT_DB * (past(mast_height_m, (10.0, 150.0)) + past(height_m.max(LOWEST_M), (1.0, 10.0)));
    let way = |mean: f64, spread: f64| Normal {
        mean: (mean - higher_db).max(free_db),
        spread: spread.hypot(past_db),
    };
    let quasi_open = hata_quasi_open_db(mast_height_m.clamp(10.0, 200.0), distance_m, mhz);
    [
        (chance / 2.0, way(clear_db, by_table.line_of_sight_spread_db)),
        ((1.0 - chance) / 2.0, way(obstructed_db, by_table.obstructed_spread_db)),
        (0.5, way(quasi_open, 0.5 + 1.3 * mhz.log10())),
    ]
}

/// Path loss in the open at a height, dB, as a range, and whether it lies beyond the models: [`ways`] as one.
pub fn path_loss_db(
    kit: &KitSettings,
    distance_m: f64,
    height_m: f64,
    frequency_mhz: f64,
) -> (Estimate, bool) {
    let Normal { mean, spread } =
        Normal::of_mixture(ways(kit.mast_height_m, distance_m, height_m, frequency_mhz));
    let beyond = distance_m > TABLE_ENDS_M || !(10.0..=150.0).contains(&kit.mast_height_m);
    (Estimate { low: mean - Z_90 * spread, likely: mean, high: mean + Z_90 * spread }, beyond)
}

/// Okumura and Hata in quasi-open country at a hand's height, dB (ITU-R P.529-3 annex 1; the formula is for 150 to 1500 MHz, masts of
/// 30 to 200 m and 1 to 20 km, and is carried on past them).
fn hata_quasi_open_db(mast_height_m: f64, distance_m: f64, frequency_mhz: f64) -> f64 {
    let (lg, mast) = (frequency_mhz.log10(), mast_height_m.log10());
    let term = (1.1 * lg - 0.7) * HAND_M - (1.56 * lg - 0.8);
    let urban =
        69.55 + 26.16 * lg - 13.82 * mast - term + (44.9 - 6.55 * mast) * (distance_m / 1000.0).log10();
    urban - 4.78 * lg * lg + 18.33 * lg - 35.94
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
