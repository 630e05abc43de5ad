//! What was foretold of a setup before anything was measured on it, beside what was then measured, and how often the ranges held.

use super::SpotView;
use crate::capacity::Estimate;
use crate::link::environment::Environment;
use crate::link::predict::LinkPrediction;
use crate::model::{BandName, Carrier};
use serde::{Deserialize, Serialize};
use statrs::distribution::{Binomial, DiscreteCDF};

/// What is foretold and measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TrackedQuantity {
    /// Reference signal received power, dBm.
    Rsrp,
    /// Signal to interference and noise ratio, dB.
    Sinr,
    /// Download, Mbit/s.
    Download,
    /// Upload, Mbit/s.
    Upload,
}

impl TrackedQuantity {
    /// All of them, in the order in which they are told.
    pub const ALL: [Self; 4] = [Self::Rsrp, Self::Sinr, Self::Download, Self::Upload];

    /// Whether errors are ratios and not differences in dB.
    pub fn is_rate(self) -> bool {
        matches!(self, Self::Download | Self::Upload)
    }
}

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

/// Sets what was foretold beside what was measured, as far as there are both. Carriers are the same by technology, band and, where
/// both say it, channel.
pub fn tracked(env: &Environment, foretold: &LinkPrediction, spot: &SpotView) -> Vec<Tracked> {
    let same = |a: &Carrier, b: &Carrier| {
        let channels = a.channel.zip(b.channel).is_none_or(|(a, b)| a == b);
        (a.technology, a.band) == (b.technology, b.band) && channels
    };
    let mut found = Vec::new();
    for heard in spot.carriers.iter().map(|one| &one.carrier) {
        let own = foretold.carriers.iter().find(|one| same(&env.cells[one.cell].carrier, heard));
        let Some(own) = own else { continue };
        let band = Some(env.cells[own.cell].band);
        let rsrp = heard.rsrp_dbm.map(|dbm| Tracked::new(TrackedQuantity::Rsrp, band, own.rsrp_dbm(), dbm));
        let sinr = heard.sinr_db.map(|db| Tracked::new(TrackedQuantity::Sinr, band, own.sinr_db(), db));
        found.extend(rsrp.into_iter().chain(sinr));
    }
    let rates = [
        (TrackedQuantity::Download, foretold.down_mbps, SpotView::typical(&spot.download)),
        (TrackedQuantity::Upload, foretold.up_mbps, SpotView::typical(&spot.upload)),
    ];
    for (quantity, foretold, measured) in rates {
        found.extend(foretold.zip(measured).map(|(range, mbps)| Tracked::new(quantity, None, range, mbps)));
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
    TrackedQuantity::ALL.into_iter().filter_map(of).collect()
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
