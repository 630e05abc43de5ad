//! What one more reading would tell, before it is taken.

use super::environment::{Arriving, Environment, READING_SPREAD_DB};

/// Noise of a careful reading's median, dB: nine samples (`Environment::new` weighs readings so).
const CAREFUL_READING_DB: f64 = READING_SPREAD_DB / 3.0;

impl Environment<'_> {
    /// Spread that is expected to be left of a cell's power at one place after its power was read once more at another, dB.
    pub fn spread_after_db(&self, there: &Arriving, read_at: &Arriving) -> f64 {
        self.power.spread_after(&there.point, &read_at.point, CAREFUL_READING_DB)
    }
}
