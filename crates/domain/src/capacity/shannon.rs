//! Attenuated Shannon bounds: throughput = α log2(1 + SINR), nothing below a least SINR, no more than a cap.
//!
//! LTE: 3GPP TR 36.942 clause A.2 (α 0.6 down and 0.4 up, caps 4.4 and 2.0 bit/s/Hz, from −10 dB). NR: TR 38.803
//! clause 5.2.7 (the same α, SINR counted up to 30 dB).

use crate::metrics::db_to_linear;
use crate::model::Technology;

/// Way of the bits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    /// From the mast.
    Down,
    /// To the mast.
    Up,
}

/// Below this SINR nothing is carried, dB.
pub const LEAST_SINR_DB: f64 = -10.0;

/// Spectral efficiency of one layer, bit/s/Hz. `sinr_db`: of that layer.
///
/// ```
/// use open_beacon_domain::capacity::shannon::{Direction, efficiency_bps_hz};
/// use open_beacon_domain::model::Technology::Lte;
/// // TR 36.942 A.2: 0.6 log2(1 + 10) = 2.08 at 10 dB; 4.4 at the best.
/// assert!((efficiency_bps_hz(Lte, Direction::Down, 10.0) - 2.0757).abs() < 1e-4);
/// assert_eq!(efficiency_bps_hz(Lte, Direction::Down, 40.0), 4.4);
/// ```
pub fn efficiency_bps_hz(technology: Technology, direction: Direction, sinr_db: f64) -> f64 {
    if sinr_db < LEAST_SINR_DB {
        return 0.0;
    }
    let alpha = match direction {
        Direction::Down => 0.6,
        Direction::Up => 0.4,
    };
    let of = |sinr_db: f64| alpha * (1.0 + db_to_linear(sinr_db)).log2();
    match (technology, direction) {
        (Technology::Lte, Direction::Down) => of(sinr_db).min(4.4),
        (Technology::Lte, Direction::Up) => of(sinr_db).min(2.0),
        (Technology::Nr, _) => of(sinr_db.min(30.0)),
    }
}

/// Spectral efficiency of several layers that share the power evenly, bit/s/Hz.
pub fn layered_bps_hz(technology: Technology, direction: Direction, sinr_db: f64, layers: u8) -> f64 {
    let layers = f64::from(layers.max(1));
    layers * efficiency_bps_hz(technology, direction, sinr_db - 10.0 * layers.log10())
}
