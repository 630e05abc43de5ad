//! What one more reading would tell, before it is taken.

use super::environment::{Arriving, Environment, READING_SPREAD_DB};
use super::field::power_of;
use super::gaussian::Measurement;

/// Noise of a careful reading's median, dB: nine samples (`Environment::new` weighs readings so).
const CAREFUL_READING_DB: f64 = READING_SPREAD_DB / 3.0;

impl Environment<'_> {
    /// Spread that is expected to be left of a cell's power at one place after its power was read once more at another, dB. For each kind of house
    /// that is possible the reading is taken as that kind foretells it; what is left is weighed by how likely the kinds are. Where only one
    /// kind is possible the answer does not depend on what will be read.
    pub fn spread_after_db(&self, there: &Arriving, read_at: &Arriving) -> f64 {
        let after = |residual: f64| {
            let mut readings = self.readings.clone();
            readings.push(Measurement { point: read_at.point.clone(), residual, noise: CAREFUL_READING_DB });
            power_of(self.settings, &readings).at(&there.point).spread
        };
        self.power.each_at(&read_at.point).map(|(share, foretold)| share * after(foretold.mean)).sum()
    }
}
