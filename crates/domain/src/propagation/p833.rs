//! ITU-R P.833-9: attenuation in vegetation.
//!
//! Clause 2: one end inside woodland, A = Am (1 − exp(−d γ / Am)). Figure 1 gives γ; clause 2.1 gives Am = A1 f^α for
//! three woods. The values here are from memory of the Recommendation, not read from it.

use std::f64::consts::LN_10;

/// Specific attenuation γ in woodland in leaf, dB/m, by frequency in MHz: points read off figure 1 (vertical), from
/// memory; straight between them in the logarithms of both.
const GAMMA: [(f64, f64); 7] = [
    (30.0, 0.02),
    (100.0, 0.05),
    (300.0, 0.11),
    (1000.0, 0.20),
    (2000.0, 0.30),
    (3000.0, 0.40),
    (10_000.0, 1.0),
];

/// What bare trees attenuate of trees in leaf: P.833 says some 20 % more with leaves around 1 GHz (from memory).
const BARE_SHARE: f64 = 1.0 / 1.2;

/// Specific attenuation in woodland, dB/m. 30 MHz to 10 GHz, held at the ends.
///
/// ```
/// use open_beacon_domain::propagation::p833::specific_attenuation_db_m;
/// assert!((specific_attenuation_db_m(1000.0, true) - 0.20).abs() < 1e-9);
/// ```
pub fn specific_attenuation_db_m(frequency_mhz: f64, in_leaf: bool) -> f64 {
    let mhz = frequency_mhz.clamp(GAMMA[0].0, GAMMA[GAMMA.len() - 1].0);
    let upper = GAMMA.iter().position(|(at, _)| *at >= mhz).unwrap_or(GAMMA.len() - 1).max(1);
    let ((f1, g1), (f2, g2)) = (GAMMA[upper - 1], GAMMA[upper]);
    let share = (mhz / f1).ln() / (f2 / f1).ln();
    let gamma = (g1.ln() + (g2 / g1).ln() * share).exp();
    if in_leaf { gamma } else { gamma * BARE_SHARE }
}

/// Most that woodland takes of a terminal inside it, dB: Am = 1.15 f^0.43, f in MHz, for mixed wood of 15 m in leaf
/// (900 to 2200 MHz; used beyond with the same law).
pub fn most_db(frequency_mhz: f64) -> f64 {
    1.15 * frequency_mhz.powf(0.43)
}

/// Loss with one end inside woodland, dB. `depth_m`: length of the way inside it, 0 or more.
///
/// ```
/// use open_beacon_domain::propagation::p833::inside_woodland_db;
/// // Closed form at 2 GHz, 20 m: Am = 1.15 · 2000^0.43 = 30.2 dB, 30.2 (1 − e^(−20 · 0.3 / 30.2)) = 5.4 dB.
/// assert!((inside_woodland_db(2000.0, 20.0, true) - 5.44).abs() < 0.02);
/// ```
pub fn inside_woodland_db(frequency_mhz: f64, depth_m: f64, in_leaf: bool) -> f64 {
    let most = most_db(frequency_mhz);
    most * (1.0 - (-depth_m * specific_attenuation_db_m(frequency_mhz, in_leaf) / most).exp())
}

/// Two ways side by side, their powers added, dB of loss.
///
/// ```
/// // Two equal ways: 3.01 dB less than one.
/// assert!((open_beacon_domain::propagation::p833::side_by_side_db(20.0, 20.0) - 16.99).abs() < 0.01);
/// ```
pub fn side_by_side_db(first_db: f64, second_db: f64) -> f64 {
    let power = |db: f64| (-db * LN_10 / 10.0).exp();
    -10.0 * (power(first_db) + power(second_db)).log10()
}
