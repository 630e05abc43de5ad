//! The number in the hand: smoothed so that it settles in about three seconds, with its trend and the best so far.

use super::sweep::CellKey;
use crate::model::{Carrier, Reading};
use serde::{Deserialize, Serialize};

/// Where a number is going.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Trend {
    /// It rises.
    Rising,
    /// It stays.
    Steady,
    /// It falls.
    Falling,
}

/// A smoothed quantity.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LiveFigure {
    /// dBm or dB.
    pub value: f64,
    /// The best there was or is.
    pub best: f64,
    /// Whether it rises or falls.
    pub trend: Trend,
}

/// The widest carrier as the hand should see it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Live {
    /// The cell.
    pub cell: CellKey,
    /// Signal power.
    pub rsrp: Option<LiveFigure>,
    /// Signal to interference and noise.
    pub sinr: Option<LiveFigure>,
    /// A change of the antenna shows in full after this, s.
    pub settles_s: f64,
    /// Another cell has answered since the last reading: the best begins anew.
    pub cell_changed: bool,
}

/// Time constant, s: 95 % of a step shows after three of them.
const TIME_CONSTANT_S: f64 = 1.0;
/// That of the slower one it is held against for the trend, s.
const SLOW_S: f64 = 4.0;
/// A difference of the two above this is a trend, dB (common practice, no source).
const TREND_DB: f64 = 0.4;

#[derive(Clone, Copy, Debug)]
struct Smoothed {
    fast: f64,
    slow: f64,
    best: f64,
}

impl Smoothed {
    fn take(before: Option<Self>, value: f64, passed_s: f64) -> Self {
        let Some(before) = before else { return Self { fast: value, slow: value, best: value } };
        let toward = |from: f64, constant_s: f64| value + (from - value) * (-passed_s / constant_s).exp();
        let (fast, slow) = (toward(before.fast, TIME_CONSTANT_S), toward(before.slow, SLOW_S));
        Self { fast, slow, best: before.best.max(fast) }
    }

    fn figure(self) -> LiveFigure {
        let off = self.fast - self.slow;
        let trend = match off {
            off if off > TREND_DB => Trend::Rising,
            off if off < -TREND_DB => Trend::Falling,
            _ => Trend::Steady,
        };
        LiveFigure { value: self.fast, best: self.best, trend }
    }
}

/// Smooths readings as they come.
#[derive(Clone, Debug, Default)]
pub struct LiveLearner {
    cell: Option<CellKey>,
    rsrp: Option<Smoothed>,
    sinr: Option<Smoothed>,
    at_s: f64,
}

impl LiveLearner {
    /// Takes a reading at a time, s, on any clock that only rises; `None` where no carrier has a signal.
    pub fn take(&mut self, reading: &Reading, at_s: f64) -> Option<Live> {
        let width = |one: &&Carrier| one.bandwidth_mhz.unwrap_or(0.0);
        let heard = reading.carriers.iter().filter(|one| one.rsrp_dbm.is_some());
        // The first of the widest: pages keep their order.
        let widest = heard.rev().max_by(|a, b| width(a).total_cmp(&width(b)))?;
        let cell = CellKey::of(widest);
        let cell_changed = self.cell.is_some_and(|before| before != cell);
        if self.cell != Some(cell) {
            *self = Self { cell: Some(cell), ..Self::default() };
        }
        let passed_s = (at_s - self.at_s).max(0.0);
        self.at_s = at_s;
        let next = |before: Option<Smoothed>, value: Option<f64>| {
            value.map(|value| Smoothed::take(before, value, passed_s)).or(before)
        };
        self.rsrp = next(self.rsrp, widest.rsrp_dbm);
        self.sinr = next(self.sinr, widest.sinr_db);
        Some(Live {
            cell,
            rsrp: self.rsrp.map(Smoothed::figure),
            sinr: self.sinr.map(Smoothed::figure),
            settles_s: 3.0 * TIME_CONSTANT_S,
            cell_changed,
        })
    }
}
