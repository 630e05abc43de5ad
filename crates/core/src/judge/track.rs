//! What was foretold of a setup before anything was measured on it, beside what was then measured, and how often the ranges held.

use super::SpotView;
use crate::capacity::Estimate;
use crate::link::environment::Environment;
use crate::link::predict::LinkPrediction;
pub use crate::model::TrackedQuantity;
use crate::model::{BandName, Carrier, PredictedFigure};
use serde::{Deserialize, Serialize};
use statrs::distribution::{Binomial, DiscreteCDF};

/// All of them, in the order in which they are told.
const QUANTITIES: [TrackedQuantity; 4] =
    [TrackedQuantity::Rsrp, TrackedQuantity::Sinr, TrackedQuantity::Download, TrackedQuantity::Upload];

/// One figure that was foretold, and what was measured.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tracked {
    /// What it is.
    pub quantity: TrackedQuantity,
    /// Of this carrier; none for rates, which are of all together.
    pub band: Option<BandName>,
    /// From 10 to 90 %: dBm, dB or Mbit/s.
    pub foretold: Estimate,
    /// Median of what was heard, or geometric mean over sittings, in the same unit.
    pub measured: f64,
    /// Whether the range held it.
    pub held: bool,
}

impl Tracked {
    fn new(quantity: TrackedQuantity, band: Option<BandName>, foretold: Estimate, measured: f64) -> Self {
        let held = (foretold.low..=foretold.high).contains(&measured);
        Self { quantity, band, foretold, measured, held }
    }

    /// Measured against foretold: dB, or the natural logarithm of a ratio of rates.
    fn off(&self) -> f64 {
        if self.quantity.is_rate() {
            (self.measured.max(LEAST_MBPS) / self.foretold.likely.max(LEAST_MBPS)).ln()
        } else {
            self.measured - self.foretold.likely
        }
    }
}

/// Rates below are told apart no more, Mbit/s.
const LEAST_MBPS: f64 = 0.1;

/// The figures of a prediction that can be held against measurements.
pub fn figures(env: &Environment, foretold: &LinkPrediction) -> Vec<PredictedFigure> {
    let of_carriers = foretold.carriers.iter().flat_map(|one| {
        let (cell, band) = (&env.cells[one.cell], Some(env.cells[one.cell].band));
        let of = |quantity, range| PredictedFigure { quantity, band, channel: cell.carrier.channel, range };
        [of(TrackedQuantity::Rsrp, one.rsrp_dbm()), of(TrackedQuantity::Sinr, one.sinr_db())]
    });
    let rates =
        [(TrackedQuantity::Download, foretold.down_mbps), (TrackedQuantity::Upload, foretold.up_mbps)];
    let of_rates = rates.into_iter().filter_map(|(quantity, range)| {
        Some(PredictedFigure { quantity, band: None, channel: None, range: range? })
    });
    of_carriers.chain(of_rates).collect()
}

/// Whether what was heard is a carrier by its band and, where both say it, its channel.
pub(super) fn is_of(heard: &Carrier, band: BandName, channel: Option<u32>) -> bool {
    (heard.technology, heard.band) == (band.technology, Some(band.band))
        && channel.zip(heard.channel).is_none_or(|(a, b)| a == b)
}

/// Sets what was foretold beside what was measured, as far as there are both. Carriers are the same by technology, band and, where
/// both say it, channel.
pub fn tracked(foretold: &[PredictedFigure], spot: &SpotView) -> Vec<Tracked> {
    let mut found = Vec::new();
    for heard in spot.carriers.iter().map(|one| &one.carrier) {
        let band = heard.band.map(|band| BandName { technology: heard.technology, band });
        let same = |one: &&PredictedFigure| one.band.is_some_and(|band| is_of(heard, band, one.channel));
        for quantity in [TrackedQuantity::Rsrp, TrackedQuantity::Sinr] {
            let measured = if quantity == TrackedQuantity::Rsrp { heard.rsrp_dbm } else { heard.sinr_db };
            let own = foretold.iter().filter(same).find(|one| one.quantity == quantity);
            let both = own.zip(measured);
            found.extend(both.map(|(one, value)| Tracked::new(quantity, band, one.range, value)));
        }
    }
    let rates = [(TrackedQuantity::Download, &spot.download), (TrackedQuantity::Upload, &spot.upload)];
    for (quantity, measured) in rates {
        let own = foretold.iter().find(|one| one.quantity == quantity);
        let both = own.zip(SpotView::typical(measured));
        found.extend(both.map(|(one, mbps)| Tracked::new(quantity, None, one.range, mbps)));
    }
    found
}

/// How the ranges of one quantity have held.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TrackRecord {
    /// Of what.
    pub quantity: TrackedQuantity,
    /// Setups that it was foretold and measured on.
    pub setups: usize,
    /// Ranges foretold.
    pub ranges: usize,
    /// Those that held what was measured.
    pub held: usize,
    /// Measured against foretold on average, every setup counting once: dB, or the natural logarithm of a ratio of rates.
    pub mean_off: f64,
    /// What that says of the ranges.
    pub verdict: TrackVerdict,
}

/// Whether ranges from 10 to 90 % hold as often as they should.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TrackVerdict {
    /// Too few setups to tell.
    TooFew,
    /// Nothing speaks against it.
    AsPromised,
    /// They hold too seldom.
    TooNarrow,
    /// They hold too often.
    TooWide,
}

/// Setups from which on ranges are judged.
const FEWEST: usize = 5;
/// Share of truths that a range from 10 to 90 % holds.
const PROMISED: f64 = 0.8;
/// Chance of calling ranges wrong, to either side, that are as promised.
const WRONGLY: f64 = 0.05;

/// Track records of what was foretold, one list a setup. Ranges of one setup hang together: each setup counts as one trial that held by
/// its share.
pub fn track_records(setups: &[Vec<Tracked>]) -> Vec<TrackRecord> {
    let of = |quantity: TrackedQuantity| {
        let own: Vec<Vec<&Tracked>> = setups
            .iter()
            .map(|one| one.iter().filter(|one| one.quantity == quantity).collect::<Vec<_>>())
            .filter(|one| !one.is_empty())
            .collect();
        if own.is_empty() {
            return None;
        }
        let mean = |one: &Vec<&Tracked>, of: fn(&Tracked) -> f64| {
            one.iter().map(|tracked| of(tracked)).sum::<f64>() / one.len() as f64
        };
        let holding = |one: &Tracked| f64::from(u8::from(one.held));
        let held_setups: f64 = own.iter().map(|one| mean(one, holding)).sum();
        Some(TrackRecord {
            quantity,
            setups: own.len(),
            ranges: own.iter().map(Vec::len).sum(),
            held: own.iter().flatten().filter(|one| one.held).count(),
            mean_off: own.iter().map(|one| mean(one, Tracked::off)).sum::<f64>() / own.len() as f64,
            verdict: verdict(own.len(), held_setups),
        })
    };
    QUANTITIES.into_iter().filter_map(of).collect()
}

/// A one-sided binomial test to either side.
fn verdict(setups: usize, held: f64) -> TrackVerdict {
    let Ok(promised) = Binomial::new(PROMISED, setups as u64) else { return TrackVerdict::TooFew };
    let (at_most, at_least) = (held.ceil() as u64, held.floor() as u64);
    if setups < FEWEST {
        TrackVerdict::TooFew
    } else if promised.cdf(at_most) < WRONGLY {
        TrackVerdict::TooNarrow
    } else if at_least > 0 && promised.sf(at_least - 1) < WRONGLY {
        TrackVerdict::TooWide
    } else {
        TrackVerdict::AsPromised
    }
}
