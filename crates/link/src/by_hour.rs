//! What is expected of a setup at an hour of the day.

use super::environment::Environment;
use super::gaussian::Z_90;
use super::predict::LinkPrediction;
use open_beacon_domain::capacity::Estimate;
use serde::{Deserialize, Serialize};

/// What is expected at one hour of the day.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HourRate {
    /// Begins at this hour of the day at the house, 0 to 23.
    pub hour: u8,
    /// Download, Mbit/s.
    pub down_mbps: Estimate,
}

/// The slowest and the fastest hour of a day.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DayRates {
    /// The slowest.
    pub slowest: HourRate,
    /// The fastest.
    pub fastest: HourRate,
    /// Tests that the course of the day was learned from.
    pub tests: usize,
    /// Hours of the day that they lie in.
    pub hours: usize,
}

impl LinkPrediction<'_> {
    /// Expected download at an hour of the day, 0 to 23: what is expected of the setup at any hour the house was measured at, moved by how
    /// busy the cells are then, doubts of both added as logarithms. `None` where no download is expected.
    pub fn at_hour(&self, env: &Environment, hour: usize) -> Option<Estimate> {
        let usual = self.down_mbps.filter(|range| range.likely > 0.0)?;
        let then = env.day.ln[hour % 24];
        let far = |end: f64| {
            let own = (end.max(1e-6) / usual.likely).ln();
            own.hypot(Z_90 * then.spread)
        };
        let likely = usual.likely * then.mean.exp();
        let made =
            Estimate { low: likely * (-far(usual.low)).exp(), likely, high: likely * far(usual.high).exp() };
        Some(made.map(|mbps| mbps.min(self.lan_cap_mbps)))
    }

    /// The slowest and the fastest hour.
    pub fn over_a_day(&self, env: &Environment) -> Option<DayRates> {
        let by = |a: &usize, b: &usize| env.day.ln[*a].mean.total_cmp(&env.day.ln[*b].mean);
        let of = |hour: usize| Some(HourRate { hour: hour as u8, down_mbps: self.at_hour(env, hour)? });
        Some(DayRates {
            slowest: of((0..24).min_by(by)?)?,
            fastest: of((0..24).max_by(by)?)?,
            tests: env.day.tests,
            hours: env.day.hours,
        })
    }
}
