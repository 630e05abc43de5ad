//! What a reading's signal-to-noise implies of the interference there.

use open_beacon_domain::metrics::{interference_dbm, limits};
use open_beacon_domain::model::Carrier;

/// What a signal-to-noise reading says of interference is off by this, dB; where noise hides it, by much more (common
/// practice, no source).
const INTERFERENCE_READING_DB: f64 = 2.0;
const HIDDEN_INTERFERENCE_DB: f64 = 6.0;
/// Interference that noise hides is taken to lie this far below it, dB.
const HIDDEN_BELOW_NOISE_DB: f64 = 9.0;

/// Interference that a reading implies.
pub(super) struct Implied {
    pub dbm: f64,
    pub spread_db: f64,
    /// Even a reading that is off by its spread would leave more than noise.
    pub is_clear: bool,
}

/// Interference that a reading implies. Where noise hides it, it is known to lie below the noise only: `None` where what was computed
/// for it does.
pub(super) fn interference_heard(carrier: &Carrier, noise_dbm: f64, computed_dbm: f64) -> Option<Implied> {
    let hidden_below_dbm = noise_dbm - HIDDEN_BELOW_NOISE_DB;
    let disturbance_dbm = limits(carrier).disturbance_dbm?;
    let off_by = |off_db: f64| {
        interference_dbm(disturbance_dbm + off_db, noise_dbm).filter(|dbm| *dbm > hidden_below_dbm)
    };
    let hidden = Implied { dbm: hidden_below_dbm, spread_db: HIDDEN_INTERFERENCE_DB, is_clear: false };
    let Some(dbm) = off_by(0.0) else { return (computed_dbm > hidden_below_dbm).then_some(hidden) };
    let clearly = off_by(-1.5 * INTERFERENCE_READING_DB).is_some();
    let spread = off_by(-INTERFERENCE_READING_DB).zip(off_by(INTERFERENCE_READING_DB));
    Some(match spread.filter(|_| clearly) {
        Some((low, high)) => Implied { dbm, spread_db: (high - low) / 2.0, is_clear: true },
        None => Implied { dbm, ..hidden },
    })
}
