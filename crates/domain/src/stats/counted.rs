//! Values with how often each occurred: what medians and spreads need of a long list.

use super::Summary;
use serde::{Deserialize, Serialize};

/// Values, each with how often it occurred, by rising value. Measured values come in steps, so there are few of them however
/// long the list.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(from = "Kept", into = "Kept")]
pub struct Counted(Vec<(f64, u32)>);

/// [`Counted`] as it is kept: in hundredths where that is exact, which takes half the room.
#[derive(Serialize, Deserialize)]
enum Kept {
    Hundredths(Vec<(i32, u32)>),
    Exact(Vec<(f64, u32)>),
}

impl From<Counted> for Kept {
    fn from(Counted(pairs): Counted) -> Self {
        let hundredths = |value: f64| Some((value * 100.0).round()).filter(|whole| whole / 100.0 == value);
        let in_range = |whole: f64| (whole.abs() < 1e9).then_some(whole as i32);
        let whole = pairs.iter().map(|(value, times)| Some((hundredths(*value).and_then(in_range)?, *times)));
        match whole.collect() {
            Some(whole) => Self::Hundredths(whole),
            None => Self::Exact(pairs),
        }
    }
}

impl From<Kept> for Counted {
    fn from(kept: Kept) -> Self {
        match kept {
            Kept::Hundredths(whole) => {
                Self(whole.into_iter().map(|(value, times)| (f64::from(value) / 100.0, times)).collect())
            }
            Kept::Exact(pairs) => Self(pairs),
        }
    }
}

impl Counted {
    /// Counts values, in any order; those that are not finite are left out.
    pub fn of(values: impl IntoIterator<Item = f64>) -> Self {
        Self::from_pairs(values.into_iter().map(|value| (value, 1)).collect())
    }

    /// All of several lists.
    pub fn merged<'a>(lists: impl IntoIterator<Item = &'a Counted>) -> Self {
        Self::from_pairs(lists.into_iter().flat_map(|list| list.0.iter().copied()).collect())
    }

    fn from_pairs(mut pairs: Vec<(f64, u32)>) -> Self {
        pairs.retain(|(value, _)| value.is_finite());
        pairs.sort_unstable_by(|a, b| a.0.total_cmp(&b.0));
        pairs.dedup_by(|next, kept| {
            let same = next.0 == kept.0;
            kept.1 += if same { next.1 } else { 0 };
            same
        });
        Self(pairs)
    }

    /// Number of values.
    pub fn n(&self) -> usize {
        self.0.iter().map(|(_, times)| *times as usize).sum()
    }

    /// True for an empty list.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The value at a place of the sorted list, from 0 to `n - 1`.
    fn at(&self, place: usize) -> f64 {
        let mut before = 0;
        let found = self.0.iter().find(|(_, times)| {
            before += *times as usize;
            place < before
        });
        found.map_or(f64::NAN, |(value, _)| *value)
    }

    /// The `p`-quantile, 0..=1, by linear interpolation between order statistics (Hyndman and Fan's type 7).
    /// `None` for an empty list.
    pub fn quantile(&self, p: f64) -> Option<f64> {
        if self.is_empty() {
            return None;
        }
        let at = p.clamp(0.0, 1.0) * (self.n() - 1) as f64;
        let (below, above) = (self.at(at.floor() as usize), self.at(at.ceil() as usize));
        Some(below + (at - at.floor()) * (above - below))
    }

    /// Median, median absolute deviation, extremes; `None` for an empty list.
    pub fn summary(&self) -> Option<Summary> {
        let centre = self.quantile(0.5)?;
        let deviations = self.0.iter().map(|(value, times)| ((value - centre).abs(), *times)).collect();
        Some(Summary {
            n: self.n(),
            median: centre,
            mad: Self::from_pairs(deviations).quantile(0.5)?,
            min: self.0.first()?.0,
            max: self.0.last()?.0,
        })
    }
}
