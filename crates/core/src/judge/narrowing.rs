//! What would narrow most what is foretold of a setup: one more measurement, with what it takes.

use crate::link::cells::SILL_M;
use crate::link::environment::Environment;
use crate::link::gaussian::Z_90;
use crate::link::landscape::AntennaLocation;
use crate::link::narrowing::Left;
use crate::link::predict::{LinkPrediction, LinkSetup};
use crate::model::Mount;

/// What may be measured once more.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OneMoreReading {
    /// In another room.
    Indoors,
    /// Outside against the wall, by hand.
    OutsideByHand,
    /// Where the antenna would be.
    AtTheAntenna,
    /// Speed tests with what stands there now.
    TestsNow,
    /// Speed tests with the setup itself, which stands there now.
    TestsWithIt,
}

/// What one more measurement is expected to do.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Narrowing {
    /// Which.
    pub reading: OneMoreReading,
    /// Half the width of the strongest signal's range from 10 to 90 %, dB, today and, on average, after it; `None` for speed tests.
    pub signal_db: Option<(f64, f64)>,
    /// Share by which the expected download's range becomes narrower, on average, 0 to 1: of the logarithm.
    pub download: f64,
    /// How long it takes, minutes (common practice, no source).
    pub minutes: u32,
    /// Times that somebody goes up.
    pub climbs: u32,
}

/// A reading is worth naming where it takes this much off half the signal's range, dB, and this share of it.
const WORTH_NAMING_DB: f64 = 1.5;
/// A measurement is worth naming where it takes this share off a range.
const WORTH_NAMING: f64 = 0.1;
/// Reached from the ground, m.
const IN_REACH_M: f64 = 2.5;

impl Narrowing {
    fn new(reading: OneMoreReading, left: Left, minutes: u32, climbs: u32) -> Self {
        let signal_db = left.power_db.map(|of| (Z_90 * of.now, Z_90 * of.after));
        let download = if left.ln_down.now > 0.0 { 1.0 - left.ln_down.after / left.ln_down.now } else { 0.0 };
        Self { reading, signal_db, download, minutes, climbs }
    }

    fn is_worth_naming(&self) -> bool {
        let signal =
            self.signal_db.is_some_and(|(now, after)| now - after > WORTH_NAMING_DB.max(WORTH_NAMING * now));
        signal || self.download > WORTH_NAMING
    }

    /// What it brings for a minute.
    fn worth(&self) -> f64 {
        let signal = self.signal_db.map_or(0.0, |(now, after)| 1.0 - after / now);
        // The download is what counts; where the signal is not what makes its range wide the signal still goes before nothing.
        (self.download + 0.1 * signal) / f64::from(self.minutes)
    }
}

/// Measurements that would narrow what is foretold of a setup, the one that brings the most for its time first. `stands`: what stands
/// there now.
pub fn narrowings(
    env: &Environment,
    setup: &LinkSetup,
    found: &LinkPrediction,
    stands: Option<&LinkSetup>,
) -> Vec<Narrowing> {
    let there = setup.location;
    let elsewhere = |mount| AntennaLocation { mount, height_m: SILL_M, position: None, ..there };
    let climbs = u32::from(!there.mount.is_indoors() && there.height_m > IN_REACH_M);
    let readings = [
        (OneMoreReading::Indoors, elsewhere(Mount::Indoor), 0),
        (OneMoreReading::OutsideByHand, elsewhere(Mount::Wall), 0),
        (OneMoreReading::AtTheAntenna, there, climbs),
    ];
    let reading = |(reading, location, climbs)| {
        let left = found.after_reading(env, &location)?;
        Some(Narrowing::new(reading, left, 5 + 15 * climbs, climbs))
    };
    let test = stands.and_then(|stands| {
        let is_it = stands.location == setup.location
            && stands.antenna.key() == setup.antenna.key()
            && (stands.aim, &stands.lock) == (setup.aim, &setup.lock);
        let reading = if is_it { OneMoreReading::TestsWithIt } else { OneMoreReading::TestsNow };
        Some(Narrowing::new(reading, found.after_test(env, setup, stands)?, 5, 0))
    });
    let mut all: Vec<Narrowing> = readings.into_iter().filter_map(reading).chain(test).collect();
    all.retain(Narrowing::is_worth_naming);
    all.sort_by(|a, b| b.worth().total_cmp(&a.worth()));
    all
}
