//! What is expected of a setup of the record, beside what was measured with it: the same figures and reasons on every page.

use super::narrowing::{Narrowing, narrowings};
use super::spot::SpotView;
use super::track::is_of;
use crate::capacity::Estimate;
use crate::link::by_hour::DayRates;
use crate::link::doubts::RangeCause;
use crate::link::environment::Environment;
use crate::link::margin::Margin;
use crate::link::predict::{CarrierPrediction, LinkSetup, predict};
use crate::link::why::Why;
use crate::model::BandName;
use serde::{Deserialize, Serialize};

/// One carrier of a setup.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierOutlook {
    /// Operating band.
    pub band: BandName,
    /// Channel number, where it is known.
    pub channel: Option<u32>,
    /// Signal power (RSRP), dBm.
    pub rsrp_dbm: Estimate,
    /// Median of what was read with this setup, dBm.
    pub measured_rsrp_dbm: Option<f64>,
    /// Signal-to-noise (SINR), dB.
    pub sinr_db: Estimate,
    /// Median of what was read with this setup, dB.
    pub measured_sinr_db: Option<f64>,
    /// Whether it is in what is expected together: of carriers that were never given beside one another some are.
    pub counts: bool,
}

/// A setup of the record.
#[derive(Clone, Debug, PartialEq)]
pub struct SetupOutlook {
    /// Those that it receives, the ones that bring the most first.
    pub carriers: Vec<CarrierOutlook>,
    /// Expected, Mbit/s.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// Typical of the speed tests with it, Mbit/s.
    pub measured_down_mbps: Option<f64>,
    /// Upload, Mbit/s.
    pub measured_up_mbps: Option<f64>,
    /// `None` where the need is missed even in the likely case.
    pub margin: Option<Margin>,
    /// What to expect at the slowest and at the fastest hour.
    pub day: Option<DayRates>,
    /// What makes the download's range as wide as it is, the most first.
    pub doubts: Vec<RangeCause>,
    /// What would narrow it, the best for its time first.
    pub narrowings: Vec<Narrowing>,
    /// Where the figures come from.
    pub why: Option<Why>,
}

/// What is expected of a setup; `None` where nothing is known of what it would receive. `measured`: what was heard and measured with it by
/// the gateway; `need`: what the household needs, Mbit/s down and up; `stands`: what stands there now.
pub fn setup_outlook(
    env: &Environment,
    setup: &LinkSetup,
    (need_down_mbps, need_up_mbps): (f64, f64),
    measured: Option<&SpotView>,
    stands: Option<&LinkSetup>,
) -> Option<SetupOutlook> {
    let found = predict(env, setup)?;
    let mut carriers: Vec<&CarrierPrediction> = found.carriers.iter().collect();
    carriers.sort_by(|a, b| b.likely_down_mbps().total_cmp(&a.likely_down_mbps()));
    let carrier = |one: &CarrierPrediction| {
        let cell = &env.cells[one.cell];
        let (band, channel) = (cell.band, cell.carrier.channel);
        let heard = measured.and_then(|spot| {
            spot.carriers.iter().map(|one| &one.carrier).find(|heard| is_of(heard, band, channel))
        });
        CarrierOutlook {
            band,
            channel,
            rsrp_dbm: one.rsrp_dbm(),
            measured_rsrp_dbm: heard.and_then(|heard| heard.rsrp_dbm),
            sinr_db: one.sinr_db(),
            measured_sinr_db: heard.and_then(|heard| heard.sinr_db),
            counts: one.counts,
        }
    };
    Some(SetupOutlook {
        carriers: carriers.into_iter().map(carrier).collect(),
        down_mbps: found.down_mbps,
        up_mbps: found.up_mbps,
        measured_down_mbps: measured.and_then(|spot| SpotView::typical(&spot.download)),
        measured_up_mbps: measured.and_then(|spot| SpotView::typical(&spot.upload)),
        margin: found.margin(env, need_down_mbps, need_up_mbps),
        day: found.over_a_day(env),
        doubts: found.doubts(env),
        narrowings: narrowings(env, setup, &found, stands),
        why: found.why(env),
    })
}
