//! What one more measurement would tell, before it is taken.

use super::antenna::AimAntenna;
use super::doubts::OF_POWER;
use super::environment::{Arriving, Environment, READING_SPREAD_DB, SHARE_NOISE, share_point};
use super::landscape::{AntennaLocation, WhatIf};
use super::predict::{LinkPrediction, LinkSetup};
use super::sums::{Variances, unlearned};

/// Noise of a careful reading's median, dB: nine samples (`Environment::new` weighs readings so).
const CAREFUL_READING_DB: f64 = READING_SPREAD_DB / 3.0;

/// What is in doubt of a setup today, and what is expected to be left after one more measurement.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Left {
    /// Spread of the strongest carrier's power, dB; a speed test does not tell it.
    pub power_db: Option<NowAndAfter>,
    /// Spread of the natural logarithm of the expected download.
    pub ln_down: NowAndAfter,
}

/// A spread today and after.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct NowAndAfter {
    /// Today.
    pub now: f64,
    /// After it, on average.
    pub after: f64,
}

impl Environment<'_> {
    /// Spread that is expected to be left of a cell's power at one place after its power was read once more at another, dB.
    pub fn spread_after_db(&self, there: &Arriving, read_at: &Arriving) -> f64 {
        self.known.spread_after(&(&there.point).into(), &(&read_at.point).into(), CAREFUL_READING_DB)
    }
}

impl LinkPrediction<'_> {
    /// After a careful reading of the gateway's own antennas at a place. What it tells of interference is left out. `None` where the
    /// strongest carrier does not reach there, or nothing is carried.
    pub fn after_reading(&self, env: &Environment, read_at: &AntennaLocation) -> Option<Left> {
        let strongest =
            self.counted().max_by(|a, b| a.received.rsrp_dbm.mean.total_cmp(&b.received.rsrp_dbm.mean))?;
        let here = env.arriving(read_at, &AimAntenna::Stock, WhatIf::default());
        let same = here.iter().find(|one| one.cell == strongest.cell)?;
        let now = strongest.arriving.power_dbm.spread;
        let after = env.spread_after_db(&strongest.arriving, same).min(now);
        let of_power: f64 =
            self.doubts(env).iter().filter(|one| OF_POWER.contains(&one.unknown)).map(|one| one.share).sum();
        let variance = self.variances?.all();
        let left = if now > 0.0 { (after / now).powi(2) } else { 1.0 };
        let ln_down = spreads(variance, variance * (1.0 - of_power * (1.0 - left)));
        Some(Left { power_db: Some(NowAndAfter { now, after }), ln_down })
    }

    /// After a speed test with a setup, this one or another. `None` where nothing is carried.
    pub fn after_test(&self, env: &Environment, own: &LinkSetup, with: &LinkSetup) -> Option<Left> {
        let point = |of: &LinkSetup, aim| share_point(&of.location, &of.antenna, of.aim.or(aim), &of.lock);
        let there = point(own, self.aim);
        let share = env.down_share.at(&there);
        let after = env.down_share.spread_after(&there, &point(with, None), SHARE_NOISE).min(share.spread);
        let of = self.variances?;
        let known =
            unlearned(super::gaussian::Normal { spread: after, ..share }) / unlearned(share).max(1e-9);
        let left = Variances { share: after * after, carrying: of.carrying * known.powi(2), ..of };
        Some(Left { power_db: None, ln_down: spreads(of.all(), left.all()) })
    }
}

fn spreads(now: f64, after: f64) -> NowAndAfter {
    NowAndAfter { now: now.max(0.0).sqrt(), after: after.max(0.0).sqrt() }
}
